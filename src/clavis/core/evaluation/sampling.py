"""How sure: all doubtful values sampled at once, bands and chances (docs/model.md, section 8).

Latin hypercube, seeded by the job; one integration for all samples of a wheel. Every doubt that is noted is drawn, the
rider's and the ride's too. The arithmetic of forces and margins is that of ``margins.judge``: arrays of draws stand in
the place of numbers.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import hypot, log, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.margins import (
    Demand,
    Judged,
    Peaks,
    WheelRide,
    demand_of,
    drag_force_n,
    fixed_of,
    judge,
    linkage_of,
    pad_friction,
    wheel_ride,
)
from clavis.core.evaluation.open_points import Matter, verdict_of
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wear import wear_mm
from clavis.core.job.document import Grit, Job
from clavis.core.parameters import DOUBTS, NINETY_PERCENT_Z, NOMINAL, Doubt, ModelParameters, Spread
from clavis.core.parts.figures import FIGURES
from clavis.core.parts.models import Caliper, Lever, Pad
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.bike import one
from clavis.core.physics.descent import BrakeLoad, LoadDraws, drawn_energy_j, heat_steps
from clavis.core.physics.forces import LEAST_TARGET_MS2
from clavis.core.physics.heat import DrawnLoad, Node, drawn_load, node_courses, pad_area_mm2, peaks_of_drawn
from clavis.core.verdicts import Verdict

Array = NDArray[np.float64]

SAMPLES = 128
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
    """All draws of one evaluation: multipliers and parameter values by the key of their doubt, each (all,). The first
    ``samples`` are of everything; where ``own`` is set as many follow with rider, ride and ground as stated, so that
    only the brake is in doubt."""

    by_key: Mapping[str, Array]
    samples: int
    own: bool
    unnamed_z: Mapping[End, Array]
    """what doubts the figures of parts that have none of their own, as standard normal draws"""
    narrowed: frozenset[str] = frozenset()
    """keys of the doubts that a calibration made smaller"""

    @property
    def all(self) -> int:
        return self.samples * (2 if self.own else 1)

    def parameters(self, base: ModelParameters) -> ModelParameters:
        """The job's parameters with arrays of draws in the place of numbers."""
        names = ModelParameters.model_fields.keys() & self.by_key.keys()
        return base.model_copy(update={name: self.by_key[name] for name in names})

    def load(self, recorded: bool) -> LoadDraws:
        """What is drawn of the ride; a recording was ridden as fast as it says."""
        by = self.by_key
        return LoadDraws(by["mass"], by["drag_area"], np.ones(self.all) if recorded else by["speed"], by["front_share"])

    def friction_of(self, end: End, pad: Pad) -> Array:
        """What multiplies the friction of these pads: wider where their figures are not their own, unless what was read
        on the road has told it."""
        key = FRICTION_OF[end]
        found, usual = self.by_key[key], FIGURES[pad.figures].friction_ratio
        if usual is None or key in self.narrowed:
            return found
        return np.asarray(found ** (log(1 + usual) / log(1 + HALF_WIDTHS[key])), dtype=np.float64)

    def force_of(self, end: End, caliper: Caliper, lever: Lever) -> Array:
        """What multiplies the force that lever and caliper make of the finger's, and the lever's travel with it."""
        sigma = hypot(*(log(1 + FIGURES[p.figures].force_ratio) / NINETY_PERCENT_Z for p in (caliper, lever)))
        return np.asarray(np.exp(sigma * self.unnamed_z[end]), dtype=np.float64)


FRICTION_OF = {end: f"friction_{end.value}" for end in End}
HALF_WIDTHS = {doubt.key: doubt.half_width for doubt in DOUBTS}


def draws_of(
    parameters: ModelParameters,
    seed: int,
    samples: int = SAMPLES,
    *,
    own: bool = True,
    narrowed: Mapping[str, float] | None = None,
) -> Draws:
    """Every doubt drawn about the stated values; ``narrowed`` are half-widths of those that a calibration made
    smaller, by their keys."""
    known = narrowed or {}
    cube = hypercube(samples, len(DOUBTS), seed)
    values = {}
    for k, doubt in enumerate(DOUBTS):
        stated = getattr(parameters, doubt.key, NOMINAL.get(doubt.key, 1.0))
        half_width = min(known.get(doubt.key, doubt.half_width), doubt.half_width)
        drawn = draw(replace(doubt, half_width=half_width), stated, cube[:, k])
        again = np.full(samples, stated) if doubt.rider else drawn
        values[doubt.key] = np.concatenate([drawn, again]) if own else drawn
    unnamed = _normal(hypercube(samples, len(End), seed + 1))  # beside the others, which stay as they are without it
    twice = {end: np.concatenate([z, z]) if own else z for end, z in zip(End, unnamed.T, strict=True)}
    return Draws(values, samples, own, twice, frozenset(known))


def _normal(unit: Array) -> Array:
    from scipy.special import ndtri

    return np.asarray(ndtri(unit), dtype=np.float64)


@dataclass(frozen=True)
class Band:
    """10, 50 and 90 % of one figure."""

    low: float
    middle: float
    high: float


@dataclass(frozen=True)
class Certainty:
    """What the samples say of one wheel: bands by figure with the rider in doubt and the brake's own alone, the chance
    of each verdict per margin and of the whole.

    A margin that is unknown stays unknown; its chances are those of the samples, all of them unknown.
    """

    samples: int
    bands: Mapping[str, Band]
    own_bands: Mapping[str, Band]
    margin_chances: Mapping[str, Mapping[Verdict, float]]
    chances: Mapping[Verdict, float]

    @property
    def holds_of_ten(self) -> int:
        """In how many of ten the wheel holds, rounded down so that ten of ten means always."""
        return int(self.chances[Verdict.HOLDS] * 10 + 1e-9)

    @property
    def no_fail_of_ten(self) -> int:
        return int((1 - self.chances[Verdict.FAILS]) * 10 + 1e-9)


def _bands(names: Iterable[str], values: Array) -> dict[str, Band]:
    """Bands of several figures from their draws, (figures, draws)."""
    found = np.percentile(values, BAND, axis=1).T
    return {name: Band(*(float(x) for x in row)) for name, row in zip(names, found, strict=True)}


FRICTION_COLUMNS = (
    heat_kernel.MU_COLD, heat_kernel.MU_RISE, heat_kernel.MU_FALL, heat_kernel.MU_SLOPE, heat_kernel.MU_FLOOR,
)  # fmt: skip
VOID_COLUMNS = (
    heat_kernel.C_ROTOR, heat_kernel.A_ROTOR, heat_kernel.C_CARRIER, heat_kernel.A_CARRIER, heat_kernel.GAMMA,
)  # fmt: skip
VOID_BY = 0.3


def sampled_rows(w: WheelResult, situation: Situation, draws: Draws) -> Array:
    """Node rows of all samples of one wheel, (samples, columns). What goes with the holes in the track is as good as
    straight in their share."""
    base = row_of(w.setup, situation)
    p, by = situation.parameters, draws.by_key
    rows = np.tile(base, (draws.all, 1))
    void = by["rotor_void_ratio"]
    others = [p.model_copy(update={"rotor_void_ratio": p.rotor_void_ratio * (1 + k)}) for k in (-VOID_BY, VOID_BY)]
    low, high = (row_of(w.setup, replace(situation, parameters=other)) for other in others)
    columns = list(VOID_COLUMNS)
    if p.rotor_void_ratio > 0:  # without holes there is no doubt about them
        per_void = (high - low)[columns] / (2 * VOID_BY * p.rotor_void_ratio)
        rows[:, columns] += (void - p.rotor_void_ratio)[:, None] * per_void
    area = 2 * pad_area_mm2(w.setup.pad, w.setup.caliper) / 1e6
    behind = 1 / base[heat_kernel.G_RS_ON] - 1 / (p.pad_contact_w_m2k * area)
    rows[:, heat_kernel.G_RS_ON] = 1 / (1 / (by["pad_contact_w_m2k"] * area) + behind)
    rows[:, heat_kernel.STILL] = by["still_air_w_m2k"]
    rows[:, heat_kernel.G_KF] = by["caliper_fluid_w_k"]
    rows[:, heat_kernel.CONVECTION] = by["convection_ratio"]
    rows[:, heat_kernel.AIRFLOW] = by["airflow_front_ratio" if w.end is End.FRONT else "airflow_rear_ratio"]
    rows[:, heat_kernel.E_ROTOR] = by["rotor_emissivity_ratio"]
    rows[:, heat_kernel.G_RC] = base[heat_kernel.G_RC] / p.rotor_to_carrier_ratio * by["rotor_to_carrier_ratio"]
    friction = draws.friction_of(w.end, w.setup.pad)
    for column in FRICTION_COLUMNS:
        rows[:, column] = base[column] * friction
    return rows


class Drawn:
    """One ride drawn many times: bike, rider and ground with arrays of draws in the place of numbers, what they ask,
    and the load of each wheel; the same for every setup that is held against it."""

    def __init__(self, job: Job, situation: Situation, load: BrakeLoad, demand: Demand, draws: Draws) -> None:
        by, p = draws.by_key, situation.parameters
        ride = draws.load(load.recorded)
        bike = situation.bike
        hand = situation.hand
        self.stated, self.draws, self.load, self.job = situation, draws, load, job
        self.ride = ride
        self.situation = replace(
            situation,
            bike=replace(bike, mass_kg=one(bike.mass_kg * ride.mass), trailer_kg=one(bike.trailer_kg * ride.mass)),
            parameters=draws.parameters(p),
            hand=replace(
                hand,
                comfortable_n=one(hand.comfortable_n * by["finger_comfortable_n"] / p.finger_comfortable_n),
                greatest_n=one(hand.greatest_n * by["finger_greatest_n"] / p.finger_greatest_n),
                scatter_n=one(hand.scatter_n * by["finger_scatter_n"] / (p.finger_scatter_n or 1.0)),
            ),
            grip=one(situation.grip * by["grip"]),
            speed_ratio=one(ride.speed),
        )
        self.demand = replace(demand_of(job, self.situation, load), made_up_n=demand.made_up_n)
        self._loads: dict[End, tuple[DrawnLoad, WheelRide]] = {}

    def of(self, end: End) -> tuple[DrawnLoad, WheelRide]:
        """One wheel's load, and what is asked of it."""
        if end not in self._loads:
            stated = self.stated
            steps = heat_steps(self.load, stated.sharing, end)
            energy = drawn_energy_j(
                self.load, stated.bike, stated.weather, stated.sharing, end, self.ride, steps.time_s
            )
            drag = drag_force_n(stated, self.load, end)
            asked = wheel_ride(self.situation.bike, self.demand, end, drag, self.load)
            self._loads[end] = drawn_load(steps, energy, self.ride.speed), asked
        return self._loads[end]

    @property
    def runs_away(self) -> NDArray[np.bool_]:
        """Draws in which the ground takes no stop on some slope, whatever the brake."""
        limits = (self.demand.flat, self.demand.steep)
        p = self.situation.parameters
        cannot = [p.target_of_ground_ratio * np.asarray(at.decel_ms2) <= LEAST_TARGET_MS2 for at in limits]
        return np.broadcast_to(cannot[0] | cannot[1], self.draws.all)


def certainty(w: WheelResult, drawn: Drawn) -> Certainty:
    """Bands and chances of one wheel over its ride. What is open about the wheel whatever the ride is open in every
    draw."""
    draws, situation = drawn.draws, drawn.situation
    load, ride = drawn.of(w.end)
    rows = sampled_rows(w, drawn.stated, draws)
    table = peaks_of_drawn(rows, load, situation.weather.ambient_c)
    fluid_c = None if w.heat.fluid_peak_c is None else one(table.fluid_peak_c)
    peaks = Peaks(
        one(table.peak_c[:, Node.ROTOR]), one(table.peak_c[:, Node.CARRIER]), fluid_c, one(table.least_mu_per_n)
    )
    capacity, share = one(rows[:, heat_kernel.C_ROTOR]), one(rows[:, heat_kernel.GAMMA])
    stated = fixed_of(w.setup, drawn.stated, ride.ends_at_m)
    link = linkage_of(w.setup, situation).times(one(draws.force_of(w.end, w.setup.caliper, w.setup.lever)))
    fixed = replace(stated, link=link, capacity_j_k=capacity, rotor_share=share)
    friction = pad_friction(fixed, situation, ride, peaks, one(draws.friction_of(w.end, w.setup.pad)))
    judged = judge(fixed, situation, ride, peaks, friction)
    standing = verdict_of(p for p in w.points if p.matter is not Matter.RIDE)
    words = list(Verdict)
    grades = {m.key: m.grades(draws.all) for m in judged.margins}
    whole = np.maximum.reduce([np.full(draws.all, words.index(standing)), *grades.values()])
    whole = np.where(drawn.runs_away, words.index(Verdict.FAILS), whole)
    grit = drawn.job.ride.grit if drawn.job.ride else Grit.NONE
    braked_kj, hot_kj = one(load.energy_j / 1000), one(table.hot_kj)
    pad_mm, _ = wear_mm(w.setup, braked_kj, hot_kj, grit, situation.parameters)
    figures = _sampled(judged, peaks, pad_mm)
    if w.forces.reserve is None:  # as stated it carries next to nothing: a band of what it has in reserve tells nothing
        figures.pop("reserve_ratio", None)
    values = np.array([np.broadcast_to(value, draws.all) for value in figures.values()])
    first, own = slice(0, draws.samples), slice(draws.samples, None)
    return Certainty(
        draws.samples,
        _bands(figures, values[:, first]),
        _bands(figures, values[:, own]) if draws.own else {},
        {key: _shares(found[first]) for key, found in grades.items()},
        _shares(whole[first]),
    )


def _sampled(judged: Judged, peaks: Peaks, pad_mm: float) -> dict[str, float]:
    """The figures whose bands are shown, by name."""
    forces = judged.forces
    figures = {
        "rotor_peak_c": peaks.rotor_c,
        "finger_target_n": forces.finger_target_n,
        "finger_lock_n": forces.finger_lock_n,
        "usable_n": forces.usable_n,
        "lever_travel_mm": forces.travel.total_mm,
        "pad_wear_mm": pad_mm,
    }
    if forces.reserve is not None:
        figures["reserve_ratio"] = forces.reserve
    return figures if peaks.fluid_c is None else figures | {"fluid_peak_c": peaks.fluid_c}


def bands_along(
    w: WheelResult, situation: Situation, draws: Draws, at_m: Array, nodes: Sequence[Node]
) -> dict[Node, tuple[Array, Array]]:
    """10 and 90 % of some nodes' temperatures, °C, at these distances along the wheel's ride as stated: the brake's own
    doubt."""
    courses = node_courses(sampled_rows(w, situation, draws), w.steps, situation.weather.ambient_c)
    out = {}
    for node in nodes:
        low, high = np.percentile(courses[:, :, node], (BAND[0], BAND[-1]), axis=0)
        out[node] = np.interp(at_m, w.steps.distance_m, low), np.interp(at_m, w.steps.distance_m, high)
    return out


def _shares(grades: NDArray[np.int64]) -> dict[Verdict, float]:
    return {v: float(np.mean(grades == k)) for k, v in enumerate(Verdict)}


def standard_error(chance: float, samples: int) -> float:
    """How far a chance itself may be off, from the number of samples: √(p (1 − p)/n) (binomial, textbook)."""
    return sqrt(chance * (1 - chance) / samples)
