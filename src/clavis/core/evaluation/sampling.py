"""How sure: all doubtful values sampled at once, bands and chances (docs/model.md, section 8).

Latin hypercube, seeded by the job; one integration for all samples of a wheel. The ride itself (speed plan,
energy to brake) is not sampled: its doubt is the rider's, and a recorded track has none.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from math import log, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.margins import Demand, Judged, Peaks, demand_of, drag_force_n, fixed_of, judge, wheel_ride
from clavis.core.evaluation.open_points import Matter, verdict_of
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Job
from clavis.core.parameters import DOUBTS, Doubt, ModelParameters, Spread
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import BrakeLoad, heat_steps
from clavis.core.physics.heat import Node, peaks_of, rotor_courses
from clavis.core.verdicts import Verdict, worst

Array = NDArray[np.float64]

SAMPLES = 128
NINETY_PERCENT_Z = 1.6448536269514722
"""standard normal quantile at 95 %: the half-width of a 90 % interval"""
BAND = (10.0, 50.0, 90.0)


def hypercube(samples: int, columns: int, seed: int) -> Array:
    """Latin hypercube on the unit cube, shape (samples, columns): each column hits every stratum once."""
    rng = np.random.default_rng(seed)
    strata = np.argsort(rng.random((columns, samples)), axis=1).T
    return np.asarray((strata + rng.random((samples, columns))) / samples, dtype=np.float64)


def draw(doubt: Doubt, value: float, unit: Array) -> Array:
    """Values of one doubtful quantity for uniform draws in (0, 1).

    Lognormal about ``value`` as its median, so that 90 % lie within a factor of 1 + half-width; or normal about
    it, cut at the bounds by drawing inside them.
    """
    from scipy.special import ndtr, ndtri

    if doubt.spread is Spread.LOGNORMAL:
        sigma = log(1 + doubt.half_width) / NINETY_PERCENT_Z
        return np.asarray(value * np.exp(sigma * ndtri(unit)), dtype=np.float64)
    sigma = doubt.half_width / NINETY_PERCENT_Z
    low, high = (ndtr((edge - value) / sigma) for edge in (doubt.low, doubt.high))
    return np.asarray(value + sigma * ndtri(low + unit * (high - low)), dtype=np.float64)


@dataclass(frozen=True)
class Draws:
    """All draws of one evaluation: multipliers and parameter values by the key of their doubt, each (samples,)."""

    by_key: Mapping[str, Array]
    samples: int

    def parameters(self, base: ModelParameters, k: int) -> ModelParameters:
        """The job's parameters with sample ``k`` in place."""
        names = ModelParameters.model_fields.keys() & self.by_key.keys()
        return base.model_copy(update={name: float(self.by_key[name][k]) for name in names})


def draws_of(parameters: ModelParameters, seed: int, samples: int = SAMPLES) -> Draws:
    cube = hypercube(samples, len(DOUBTS), seed)
    values = {d.key: draw(d, getattr(parameters, d.key, 1.0), cube[:, k]) for k, d in enumerate(DOUBTS)}
    return Draws(values, samples)


@dataclass(frozen=True)
class Band:
    """10, 50 and 90 % of one figure."""

    low: float
    middle: float
    high: float


@dataclass(frozen=True)
class Certainty:
    """What the samples say of one wheel: bands by figure, the chance of each verdict per margin and of the whole.

    A margin that is unknown stays unknown; its chances are those of the samples, all of them unknown.
    """

    samples: int
    bands: Mapping[str, Band]
    margin_chances: Mapping[str, Mapping[Verdict, float]]
    chances: Mapping[Verdict, float]

    @property
    def holds_of_ten(self) -> int:
        """In how many of ten the wheel holds, rounded down so that ten of ten means always."""
        return int(self.chances[Verdict.HOLDS] * 10 + 1e-9)

    @property
    def no_fail_of_ten(self) -> int:
        return int((1 - self.chances[Verdict.FAILS]) * 10 + 1e-9)


def _band(values: list[float] | Array) -> Band:
    low, middle, high = np.percentile(np.asarray(values, dtype=np.float64), BAND)
    return Band(float(low), float(middle), float(high))


def sampled_rows(w: WheelResult, situation: Situation, draws: Draws) -> Array:
    """Node rows of all samples of one wheel, (samples, columns)."""
    base = row_of(w.setup, situation)
    p, by = situation.parameters, draws.by_key
    rows = np.tile(base, (draws.samples, 1))
    rows[:, heat_kernel.CONVECTION] = by["convection_ratio"]
    rows[:, heat_kernel.AIRFLOW] = by["airflow_front_ratio" if w.end is End.FRONT else "airflow_rear_ratio"]
    rows[:, heat_kernel.E_ROTOR] = by["rotor_emissivity_ratio"]
    rows[:, heat_kernel.G_RC] = base[heat_kernel.G_RC] / p.rotor_to_carrier_ratio * by["rotor_to_carrier_ratio"]
    friction = by[f"friction_{w.end.value}"]
    for column in (
        heat_kernel.MU_COLD,
        heat_kernel.MU_RISE,
        heat_kernel.MU_FALL,
        heat_kernel.MU_SLOPE,
        heat_kernel.MU_FLOOR,
    ):
        rows[:, column] = base[column] * friction
    return rows


@dataclass(frozen=True)
class Sample:
    """One draw's bike, rider and ground, and what they ask; the same for every setup that is held against it."""

    situation: Situation
    demand: Demand


def nothing() -> None:
    """What long work calls between its steps where nobody waits."""


PAUSE_EVERY = 16
"""draws between two pauses"""


def samples_of(
    job: Job, situation: Situation, load: BrakeLoad, draws: Draws, pause: Callable[[], None] = nothing
) -> tuple[Sample, ...]:
    """All draws as situations with their demand, once for any number of setups over one ride. ``pause`` is called
    between steps."""
    scatter = situation.hand.scatter_n / situation.parameters.finger_scatter_n
    out = []
    for k in range(draws.samples):
        if k % PAUSE_EVERY == 0:
            pause()
        parameters = draws.parameters(situation.parameters, k)
        other = replace(
            situation,
            parameters=parameters,
            hand=replace(situation.hand, scatter_n=parameters.finger_scatter_n * scatter),
            grip=situation.grip * float(draws.by_key["grip"][k]),
        )
        out.append(Sample(other, demand_of(job, other, load)))
    return tuple(out)


def certainty(
    w: WheelResult,
    situation: Situation,
    load: BrakeLoad,
    draws: Draws,
    samples: tuple[Sample, ...],
    pause: Callable[[], None] = nothing,
) -> Certainty:
    """Bands and chances of one wheel over its ride, by the ``samples`` of these ``draws``. What is open about the wheel
    whatever the ride is open in every draw. ``pause`` is called between steps."""
    steps = heat_steps(load, situation.sharing, w.end)
    table = peaks_of(sampled_rows(w, situation, draws), steps, situation.weather.ambient_c)
    drag, fixed = drag_force_n(situation, load, w.end), fixed_of(w.setup, situation)
    standing = verdict_of(p for p in w.points if p.matter is not Matter.RIDE)
    figures: dict[str, list[float]] = {}
    by_margin: dict[str, list[Verdict]] = {}
    whole: list[Verdict] = []
    for k, sample in enumerate(samples):
        if k % PAUSE_EVERY == 0:
            pause()
        fluid = None if w.heat.fluid_peak_c is None else float(table.fluid_peak_c[k])
        peaks = Peaks(float(table.peak_c[k, Node.ROTOR]), fluid, float(table.least_mu_per_n[k]))
        friction = float(draws.by_key[f"friction_{w.end.value}"][k])
        ride = wheel_ride(situation.bike, sample.demand, w.end, drag, load)
        judged = judge(w.setup, sample.situation, ride, fixed, peaks, friction)
        for name, value in _sampled(judged, peaks).items():
            figures.setdefault(name, []).append(value)
        for m in judged.margins:
            by_margin.setdefault(m.key, []).append(m.verdict)
        whole.append(worst([standing, *(m.verdict for m in judged.margins)]))
    return Certainty(
        draws.samples,
        {name: _band(values) for name, values in figures.items()},
        {key: _shares(verdicts) for key, verdicts in by_margin.items()},
        _shares(whole),
    )


def _sampled(judged: Judged, peaks: Peaks) -> dict[str, float]:
    """The figures whose bands are shown, by name."""
    forces = judged.forces
    figures = {
        "rotor_peak_c": peaks.rotor_c,
        "finger_target_n": forces.finger_target_n,
        "finger_lock_n": forces.finger_lock_n,
        "usable_n": forces.usable_n,
        "lever_travel_mm": forces.travel.total_mm,
    }
    if forces.reserve is not None:
        figures["reserve_ratio"] = forces.reserve
    return figures if peaks.fluid_c is None else figures | {"fluid_peak_c": peaks.fluid_c}


def rotor_band(w: WheelResult, situation: Situation, draws: Draws, at_m: Array) -> tuple[Array, Array]:
    """10 and 90 % of the rotor's temperature, °C, at these distances along the wheel's ride."""
    courses = rotor_courses(sampled_rows(w, situation, draws), w.steps, situation.weather.ambient_c)
    low, high = np.percentile(courses, (BAND[0], BAND[-1]), axis=0)
    return np.interp(at_m, w.steps.distance_m, low), np.interp(at_m, w.steps.distance_m, high)


def _shares(verdicts: list[Verdict]) -> dict[Verdict, float]:
    return {v: verdicts.count(v) / len(verdicts) for v in Verdict}


def standard_error(chance: float, samples: int) -> float:
    """How far a chance itself may be off, from the number of samples: √(p (1 − p)/n) (binomial, textbook)."""
    return sqrt(chance * (1 - chance) / samples)
