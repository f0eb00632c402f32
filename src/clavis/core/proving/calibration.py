"""Calibration: readings after rides move the job's model, within doubt and priors (docs/model.md, section 8).

Least squares on the logarithms of the multipliers of convection, rotor-to-carrier conductance and airflow, on the
front's share, and on where inside its range the emissivity of each set's surface lies; each held by its prior. A
reading some time after the stop is compared with the whole model standing still, never with one exponential: the rotor
first feeds its carrier.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import exp, log, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import QuantityError, ensure
from clavis.core.evaluation.setups import WheelSetup, row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.trials import Calibrated, Learnt
from clavis.core.parameters import NINETY_PERCENT_Z
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import BrakeLoad, heat_steps
from clavis.core.physics.heat import SOAK_S, standing_courses
from clavis.core.sentences import NOTHING, Words, joined, say

Array = NDArray[np.float64]

MOST_CHI_SQUARE_RATIO = 4.0
"""residuals this many times what the readings' own doubt explains: the readings contradict the model"""
MOST_PRIOR_SIGMAS = 3.0
"""an unknown farther from its prior than this is absurd"""
SHARE_PRIOR = 0.10
"""90 % half-width of the front's share before any reading"""
NINETY_FIVE_PERCENT_Z = 1.959963984540054
SHARE_BOUNDS = (0.02, 0.98)
STEP = 1e-3


@dataclass(frozen=True)
class HeatReading:
    """A rotor's temperature with the emissivity corrected, °C, some seconds after the stop. ``sigma_k`` is its own
    scatter, one standard deviation; ``band_k`` by how much it moves with one standard deviation of the emissivity,
    which is common to its set."""

    end: End
    after_stop_s: float
    rotor_c: float
    sigma_k: float
    band_k: float = 0.0

    def __post_init__(self) -> None:
        ensure("time since the stop", 0, SOAK_S, after_stop_s=self.after_stop_s)
        ensure("rotor temperature", -40, 1200, rotor_c=self.rotor_c)
        if not self.sigma_k > 0:
            raise QuantityError("doubt of a reading", say("{sigma_k:g}", sigma_k=self.sigma_k), "above zero")


@dataclass(frozen=True)
class HeatGroup:
    """The readings after one ride, with the ride and the setup that was ridden, both as the uncalibrated model has
    them."""

    situation: Situation
    load: BrakeLoad
    setups: Mapping[End, WheelSetup]
    readings: tuple[HeatReading, ...]

    def of(self, readings: Sequence[HeatReading]) -> "HeatGroup":
        """The same ride with other readings."""
        return HeatGroup(self.situation, self.load, self.setups, tuple(readings))

    @cached_property
    def rows(self) -> dict[End, Array]:
        return {end: row_of(setup, self.situation) for end, setup in self.setups.items()}


@dataclass(frozen=True)
class Unknown:
    """One thing that calibration moves: its field of a calibration, its words, and its prior 90 % half-width."""

    key: str
    words: str
    half_width: float


UNKNOWNS: tuple[Unknown, ...] = (
    Unknown("convection_ratio", "cooling by the air", 0.30),
    Unknown("rotor_to_carrier_ratio", "heat from rotor to carrier", 0.30),
    Unknown("airflow_ratio", "airflow at the brakes", 0.20),
    Unknown("front_share", "share at the front", SHARE_PRIOR),
)
_SHARE = len(UNKNOWNS) - 1


@dataclass(frozen=True)
class Estimate:
    """A multiplier (the share: its value) after calibration. Sigmas are of its logarithm, of the share in its own unit;
    ``low`` and ``high`` bound 95 %."""

    key: str
    words: str
    value: float
    prior_sigma: float
    posterior_sigma: float
    before: float

    @property
    def before_pct(self) -> float:
        return 100 * self.before

    @property
    def value_pct(self) -> float:
        return 100 * self.value

    @property
    def low_pct(self) -> float:
        return 100 * self.low

    @property
    def high_pct(self) -> float:
        return 100 * self.high

    @property
    def is_share(self) -> bool:
        return self.key == UNKNOWNS[_SHARE].key

    def _at(self, sigmas: float) -> float:
        if self.is_share:
            return self.value + sigmas * self.posterior_sigma
        return self.value * exp(sigmas * self.posterior_sigma)

    @property
    def low(self) -> float:
        return self._at(-NINETY_FIVE_PERCENT_Z)

    @property
    def high(self) -> float:
        return self._at(NINETY_FIVE_PERCENT_Z)

    @property
    def learnt_pct(self) -> float:
        """How much of its doubt the readings took away, %."""
        return 100 * (1 - min(self.posterior_sigma / self.prior_sigma, 1.0))


@dataclass(frozen=True)
class Calibration:
    """The outcome: estimates, the model's readings before and after, and whether it may be used. ``x`` and
    ``covariance`` are of the unknowns and of one emissivity for each group."""

    estimates: tuple[Estimate, ...]
    predicted_before_c: tuple[float, ...]
    predicted_after_c: tuple[float, ...]
    residual_k: tuple[float, ...]
    """reading less prediction, with the emissivity that was found"""
    chi_square_ratio: float
    refused: Words
    x: Array
    covariance: Array

    def estimate(self, key: str) -> Estimate:
        return next(e for e in self.estimates if e.key == key)

    def accepted(self, readings: Sequence[HeatReading], sets: tuple[str, ...], who: str, at: str) -> Calibrated:
        """What is kept of it, by a name. Raises QuantityError for one that was refused."""
        if self.refused:
            raise QuantityError("calibration", self.refused, "one that the readings bear out")
        seen = np.array([r.rotor_c for r in readings])
        before = float(np.sqrt(np.mean((np.array(self.predicted_before_c) - seen) ** 2)))
        after = float(np.sqrt(np.mean(np.array(self.residual_k) ** 2)))
        learnt = {e.key: Learnt(value=round(e.value, 4), sigma=round(e.posterior_sigma, 5)) for e in self.estimates}
        return Calibrated(
            who=who, at=at, readings=len(readings), sets=sets, missed_before_k=round(before, 1),
            missed_after_k=round(after, 1), **learnt,
        )  # fmt: skip


def _prior_sigmas(groups: int) -> Array:
    logs = [log(1 + u.half_width) / NINETY_PERCENT_Z for u in UNKNOWNS[:_SHARE]]
    return np.array([*logs, SHARE_PRIOR / NINETY_PERCENT_Z, *([1.0] * groups)])


def rotor_courses(group: HeatGroup, end: End, x: Array) -> tuple[Array, Array]:
    """Time since the stop s, and the rotor °C, (k, m), for k vectors of unknowns (k, ≥ 4): three logarithms and the
    change of the front's share."""
    rows = np.repeat(group.rows[end][None, :], len(x), axis=0)
    rows[:, heat_kernel.CONVECTION] *= np.exp(x[:, 0])
    rows[:, heat_kernel.G_RC] *= np.exp(x[:, 1])
    rows[:, heat_kernel.AIRFLOW] *= np.exp(x[:, 2])
    sharing = group.situation.sharing
    share = sharing.front_share if end is End.FRONT else 1 - sharing.front_share
    moved = np.clip(share + (x[:, _SHARE] if end is End.FRONT else -x[:, _SHARE]), *SHARE_BOUNDS)
    steps = heat_steps(group.load, sharing, end)
    return standing_courses(rows, steps, moved / max(share, SHARE_BOUNDS[0]), group.situation.weather.ambient_c)


class _Fit:
    """Predicts every reading of every group for several vectors of unknowns at once."""

    def __init__(self, groups: Sequence[HeatGroup]) -> None:
        self.groups = groups
        self.readings = [r for g in groups for r in g.readings]
        self.seen = np.array([r.rotor_c for r in self.readings])
        self.sigma = np.array([r.sigma_k for r in self.readings])
        self.priors = _prior_sigmas(len(groups))
        self.band = np.zeros((len(groups), len(self.readings)))
        first = 0
        for k, group in enumerate(groups):
            self.band[k, first : first + len(group.readings)] = [r.band_k for r in group.readings]
            first += len(group.readings)

    def predict(self, x: Array) -> Array:
        """(k, readings), °C."""
        return np.concatenate([self._of(group, x) for group in self.groups], axis=1)

    def _of(self, group: HeatGroup, x: Array) -> Array:
        out = np.empty((len(x), len(group.readings)))
        for end in {r.end for r in group.readings}:
            clock, rotor_c = rotor_courses(group, end, x)
            for k, r in enumerate(group.readings):
                if r.end is end:
                    out[:, k] = [np.interp(r.after_stop_s, clock, course) for course in rotor_c]
        return out

    def seen_at(self, x: Array) -> Array:
        """The readings, with the emissivities of these vectors, (k, readings)."""
        moved: Array = self.seen + x[:, len(UNKNOWNS) :] @ self.band
        return moved

    def residuals(self, x: Array) -> Array:
        """Of one vector: of the readings and of the priors, in standard deviations."""
        one: Array = self._residuals(x[None, :])[0]
        return one

    def _residuals(self, x: Array) -> Array:
        missed = (self.predict(x) - self.seen_at(x)) / self.sigma
        both: Array = np.concatenate([missed, x / self.priors], axis=1)
        return both

    def jacobian(self, x: Array) -> Array:
        """By differences, all columns in one integration."""
        step = np.diag(STEP * np.maximum(self.priors, 0.1))
        found = self._residuals(np.concatenate([x[None, :], x + step]))
        columns: Array = (found[1:] - found[0]) / np.diag(step)[:, None]
        return columns.T


def _absurd(x: Array, priors: Array) -> Iterator[str]:
    for unknown, value, prior in zip(UNKNOWNS, x, priors, strict=False):
        if abs(value) > MOST_PRIOR_SIGMAS * prior:
            yield unknown.words


def calibrate(groups: Sequence[HeatGroup]) -> Calibration:
    """Fit the unknowns to the readings of one or more rides.

    Raises QuantityError without readings, or for a wheel whose parts are not known. Absurd fits come back with
    ``refused``: residuals that the readings' own doubt cannot explain, or an unknown more than three prior standard
    deviations away.
    """
    from scipy.optimize import least_squares

    groups = [group for group in groups if group.readings]
    if not groups:
        raise QuantityError("readings", 0, "at least one")
    for group in groups:
        missing = {r.end for r in group.readings} - group.setups.keys()
        if missing:
            raise QuantityError("readings of a wheel", min(missing).value, "wheels whose parts are known")
    fit = _Fit(groups)
    start = np.zeros(len(fit.priors))
    found = least_squares(fit.residuals, start, jac=fit.jacobian, x_scale=fit.priors, xtol=1e-6, ftol=1e-6)
    covariance = np.linalg.inv(found.jac.T @ found.jac)
    before, after = fit.predict(np.array([start, found.x]))
    residual = fit.seen_at(found.x[None, :])[0] - after
    ratio = float(np.mean((residual / fit.sigma) ** 2))
    return Calibration(
        tuple(_estimates(groups[0].situation, found.x, fit.priors, covariance)),
        tuple(float(v) for v in before), tuple(float(v) for v in after), tuple(float(v) for v in residual), ratio,
        _refused(ratio, found.x, fit.priors), found.x, covariance,
    )  # fmt: skip


def _estimates(situation: Situation, x: Array, priors: Array, covariance: Array) -> Iterator[Estimate]:
    for k, unknown in enumerate(UNKNOWNS):
        before = situation.sharing.front_share if k == _SHARE else 1.0
        value = before + x[k] if k == _SHARE else exp(x[k])
        sigma = sqrt(float(covariance[k, k]))
        yield Estimate(unknown.key, unknown.words, float(value), float(priors[k]), sigma, before)


def _refused(ratio: float, x: Array, priors: Array) -> Words:
    if ratio > MOST_CHI_SQUARE_RATIO:
        return say("the readings contradict the model by more than their own doubt: check spot, time and emissivity")
    far = list(_absurd(x, priors))
    if far:
        return say("the fit would need an absurd {what}: check the readings", what=joined(far, ", ", " and "))
    return NOTHING


@dataclass(frozen=True)
class AtStop:
    """The rotor at the stop, worked back from timed readings, °C, with its 95 % interval."""

    rotor_c: float
    low_c: float
    high_c: float


def at_stop(found: Calibration, group: HeatGroup, end: End) -> AtStop:
    """The rotor's temperature at the stop by the whole model standing still, with what the readings leave open of every
    unknown together."""
    x = found.x
    step = np.diag(STEP * np.sqrt(np.diag(found.covariance)))[: len(UNKNOWNS)]
    _, rotor_c = rotor_courses(group, end, np.concatenate([x[None, :], x + step]))
    here = float(rotor_c[0, 0])
    slopes = (rotor_c[1:, 0] - here) / np.diag(step)
    reach = NINETY_FIVE_PERCENT_Z * sqrt(float(slopes @ found.covariance[: len(UNKNOWNS), : len(UNKNOWNS)] @ slopes))
    return AtStop(here, here - reach, here + reach)
