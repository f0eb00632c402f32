"""Calibration: readings after a ride move the job's model, within doubt and priors (docs/model.md, section 8).

Least squares on the logarithms of the multipliers of convection, rotor-to-carrier conductance and airflow, and on the
front's share, each held by its prior. A reading some time after the stop is compared with the whole model standing
still, never with one exponential: the rotor first feeds its carrier.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import exp, log, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import QuantityError, ensure
from clavis.core.evaluation.sampling import NINETY_PERCENT_Z
from clavis.core.evaluation.setups import WheelSetup, row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.parameters import ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.heat import SOAK_S, standing_course
from clavis.core.sentences import say

Array = NDArray[np.float64]

MOST_CHI_SQUARE_RATIO = 4.0
"""residuals this many times what the readings' own doubt explains: the readings contradict the model"""
SHARE_PRIOR = 0.10
"""90 % half-width of the front's share before any reading"""


@dataclass(frozen=True)
class HeatReading:
    """A rotor's true temperature (emissivity already corrected), °C ± one standard deviation, some seconds after the
    stop."""

    end: End
    after_stop_s: float
    rotor_c: float
    sigma_k: float

    def __post_init__(self) -> None:
        ensure("time since the stop", 0, SOAK_S, after_stop_s=self.after_stop_s)
        ensure("rotor temperature", -40, 1200, rotor_c=self.rotor_c)
        if not self.sigma_k > 0:
            raise QuantityError("doubt of a reading", say("{sigma_k:g}", sigma_k=self.sigma_k), "above zero")


@dataclass(frozen=True)
class Unknown:
    """One thing that calibration moves: its name, what it multiplies, and its prior 90 % half-width."""

    key: str
    words: str
    half_width: float


UNKNOWNS: tuple[Unknown, ...] = (
    Unknown("convection_ratio", "convection", 0.30),
    Unknown("rotor_to_carrier_ratio", "rotor to carrier", 0.30),
    Unknown("airflow", "airflow", 0.20),
    Unknown("front_share", "share at the front", SHARE_PRIOR),
)


@dataclass(frozen=True)
class Estimate:
    """A multiplier (the share: its value) after calibration, with one standard deviation before and after."""

    key: str
    words: str
    value: float
    prior_sigma: float
    posterior_sigma: float


@dataclass(frozen=True)
class Calibration:
    """The outcome: estimates, the model's readings before and after, and whether it may be used."""

    estimates: tuple[Estimate, ...]
    predicted_before_c: tuple[float, ...]
    predicted_after_c: tuple[float, ...]
    chi_square_ratio: float
    refused: str

    def parameters(self, base: ModelParameters) -> ModelParameters:
        """The job's parameters with what was learnt; the share is the rider's, not a parameter."""
        by = {e.key: e.value for e in self.estimates}
        return base.model_copy(
            update={
                "convection_ratio": base.convection_ratio * by["convection_ratio"],
                "rotor_to_carrier_ratio": base.rotor_to_carrier_ratio * by["rotor_to_carrier_ratio"],
                "airflow_front_ratio": base.airflow_front_ratio * by["airflow"],
                "airflow_rear_ratio": base.airflow_rear_ratio * by["airflow"],
            }
        )


def _prior_sigmas() -> Array:
    logs = [log(1 + u.half_width) / NINETY_PERCENT_Z for u in UNKNOWNS[:-1]]
    return np.array([*logs, SHARE_PRIOR / NINETY_PERCENT_Z])


class _Model:
    """Predicts every reading for one vector of unknowns: three logarithms and the change of the front's share."""

    def __init__(
        self, situation: Situation, load: BrakeLoad, setups: Mapping[End, WheelSetup], readings: Sequence[HeatReading]
    ) -> None:
        self.situation, self.readings = situation, readings
        self.rows: dict[End, Array] = {}
        self.steps: dict[End, HeatSteps] = {}
        for end, setup in setups.items():
            self.rows[end] = row_of(setup, situation)
            self.steps[end] = heat_steps(load, situation.sharing, end)

    def predict(self, x: Array) -> Array:
        courses: dict[End, tuple[Array, Array]] = {}
        front = self.situation.sharing.front_share
        for end in {r.end for r in self.readings}:
            row = self.rows[end].copy()
            row[heat_kernel.CONVECTION] *= exp(x[0])
            row[heat_kernel.G_RC] *= exp(x[1])
            row[heat_kernel.AIRFLOW] *= exp(x[2])
            share = front if end is End.FRONT else 1 - front
            moved = share + (x[3] if end is End.FRONT else -x[3])
            steps = replace(self.steps[end], power_w=self.steps[end].power_w * max(moved, 0.01) / max(share, 0.01))
            courses[end] = standing_course(row, steps, self.situation.weather.ambient_c)
        return np.array([np.interp(r.after_stop_s, *courses[r.end]) for r in self.readings])


def calibrate(
    situation: Situation, load: BrakeLoad, setups: Mapping[End, WheelSetup], readings: Sequence[HeatReading]
) -> Calibration:
    """Fit the unknowns to the readings of one ride.

    Raises QuantityError without readings, or for a wheel whose parts are not known. Absurd fits come back with
    ``refused``: residuals that the readings' own doubt cannot explain, or an unknown more than three prior
    standard deviations away.
    """
    from scipy.optimize import least_squares

    if not readings:
        raise QuantityError("readings", 0, "at least one")
    missing = {r.end for r in readings} - setups.keys()
    if missing:
        raise QuantityError("readings of a wheel", min(missing).value, "wheels whose parts are known")
    model, priors = _Model(situation, load, setups, readings), _prior_sigmas()
    seen = np.array([r.rotor_c for r in readings])
    sigma = np.array([r.sigma_k for r in readings])

    def residuals(x: Array) -> Array:
        return np.concatenate([(model.predict(x) - seen) / sigma, x / priors])

    found = least_squares(residuals, np.zeros(len(UNKNOWNS)), x_scale=priors, diff_step=1e-3)
    covariance = np.linalg.inv(found.jac.T @ found.jac)
    after = model.predict(found.x)
    ratio = float((((after - seen) / sigma) ** 2).mean())
    estimates = []
    for k, unknown in enumerate(UNKNOWNS):
        is_share = unknown.key == "front_share"
        value = situation.sharing.front_share + found.x[k] if is_share else exp(found.x[k])
        estimates.append(
            Estimate(unknown.key, unknown.words, float(value), float(priors[k]), float(sqrt(covariance[k, k])))
        )
    far = [u.words for u, x, p in zip(UNKNOWNS, found.x, priors, strict=True) if abs(x) > 3 * p]
    refused = ""
    if ratio > MOST_CHI_SQUARE_RATIO:
        refused = "the readings contradict the model by more than their own doubt: check spot, time and emissivity"
    elif far:
        refused = f"the fit would need an absurd {' and '.join(far)}: check the readings"
    before = model.predict(np.zeros(len(UNKNOWNS)))
    return Calibration(
        tuple(estimates), tuple(float(v) for v in before), tuple(float(v) for v in after), ratio, refused
    )


def rotor_at_stop_c(
    situation: Situation, load: BrakeLoad, setups: Mapping[End, WheelSetup], readings: Sequence[HeatReading], end: End
) -> tuple[float, float]:
    """The rotor's temperature at the stop worked back from timed readings, °C, with one standard deviation from the
    posterior: by the whole model standing still."""
    found = calibrate(situation, load, setups, readings)
    model = _Model(situation, load, setups, [HeatReading(end, 0.0, 20.0, 1.0)])
    x = np.array(
        [log(e.value) for e in found.estimates[:-1]] + [found.estimates[-1].value - situation.sharing.front_share]
    )
    here = float(model.predict(x)[0])
    slopes = []
    for k, e in enumerate(found.estimates):
        step = np.zeros(len(x))
        step[k] = e.posterior_sigma
        slopes.append(float(model.predict(x + step)[0]) - here)
    # marginal spreads added as if independent: an upper bound where the unknowns trade off against each other
    return here, sqrt(sum(s**2 for s in slopes))
