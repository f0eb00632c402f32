"""Choosing: every candidate of a wheel, weighed over the ride (docs/model.md, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. What is impossible falls through
``sieve``; the schools that rank what is left are in ``schools``.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.conditions import cures_of, needed_renewals
from clavis.core.evaluation.margins import (
    Demand,
    Fixed,
    Peaks,
    WheelRide,
    drag_force_n,
    fixed_of,
    judge,
    linkage_of,
    pad_friction,
    wheel_ride,
)
from clavis.core.evaluation.open_points import conditions_open, verdict_of
from clavis.core.evaluation.setups import WheelSetup, friction_state, row_of, setup_with
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wheel_cases import points_of_checks
from clavis.core.fit.checks import CHECKS, results_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Job, School
from clavis.core.job.renewal import NONE
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import AnyPart, Axis, Brake
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.forces import PadFriction
from clavis.core.physics.heat import Node, PeakTable, peaks_of
from clavis.core.selection.schools import Candidate, row_of_school
from clavis.core.selection.sieve import Sieve, sieve, verdict_at
from clavis.core.sentences import NOTHING, Words
from clavis.core.verdicts import Verdict, worst


@dataclass(frozen=True)
class Choice:
    """The candidates of one wheel, sieved and evaluated."""

    end: End
    sieve: Sieve
    candidates: tuple[Candidate, ...]
    heat_distinct: int
    fitted_smallest: float | None

    def within(self, budget_price: float) -> "Choice":
        """The same with those candidates alone whose new parts this budget pays for."""
        return replace(self, candidates=tuple(c for c in self.candidates if c.price <= budget_price))

    def ranked(self, school: School, most: int = 5, *, apart: bool = False) -> list[Candidate]:
        """The first of a school's order; ``apart`` leaves out what differs from a better one in the lever alone."""
        row = row_of_school(school)

        def place(candidate: Candidate) -> tuple[float, ...]:
            return row.key(candidate.standing, self.fitted_smallest)

        if most == 1:
            first = min(self.candidates, key=place, default=None)
            return [] if first is None else [first]
        ordered = sorted(self.candidates, key=place)
        if not apart:
            return ordered[:most]
        seen: dict[tuple[str, str, str], Candidate] = {}
        for candidate in ordered:
            seen.setdefault(candidate.heat_ids, candidate)
            if len(seen) == most:
                break
        return list(seen.values())


@dataclass(frozen=True)
class Prepared:
    """All that can be fitted on one wheel, before bike, rider and ride have their say: one setup for each combination
    with what is open about it, and which heat-distinct one it shares its temperatures with."""

    mounting: Mounting
    sieve: Sieve
    setups: tuple[WheelSetup, ...]
    cases: tuple[FitCase, ...]
    standing: tuple[Verdict, ...]
    """the worst that is open about each, whatever the ride"""
    which: NDArray[np.int64]
    distinct: tuple[WheelSetup, ...]
    fitted: int | None
    """the combination that is on the wheel now"""

    @property
    def end(self) -> End:
        return self.mounting.wheel.end

    def heat(self, situation: Situation, steps: HeatSteps) -> PeakTable:
        """Peaks of the heat-distinct setups, all in one integration."""
        rows = np.array([row_of(setup, situation) for setup in self.distinct])
        return peaks_of(rows, steps, situation.weather.ambient_c)


def _heat_key(setup: WheelSetup) -> tuple[Any, ...]:
    """What a setup's temperatures depend on."""
    caliper, pad = setup.caliper, setup.pad
    return (
        setup.rotor.id,
        setup.thickness_mm,
        pad.compound,
        pad.area_mm2,
        pad.finned,
        setup.material_mm,
        caliper.four_pistons,
        caliper.fluid is Fluid.NONE,
        caliper.phenolic,
    )


@dataclass(frozen=True)
class _Kept:
    """What the conditions of kept parts come to: the worst of them, and whether they leave no figures."""

    worst: Verdict
    void: bool


class _Conditions:
    """What the conditions of kept parts come to, worked out once for each way of keeping them."""

    def __init__(self) -> None:
        self._kept: dict[tuple[frozenset[Axis], bool, bool], _Kept] = {}

    def of(self, case: FitCase) -> _Kept:
        key = (case.new, case.new_hose, case.opens_line)
        if key not in self._kept:
            points = conditions_open(case)
            self._kept[key] = _Kept(verdict_of(points), any(p.voids for p in points))
        return self._kept[key]


def prepare(job: Job, mounting: Mounting) -> Prepared:
    """Sieve the catalogue for one wheel and lay out what is left."""
    wheel = mounting.wheel
    sifted = sieve(mounting, job.keeps.of(wheel.end))
    conditions, cures = _Conditions(), cures_of(wheel)
    setups: list[WheelSetup] = []
    cases: list[FitCase] = []
    standing: list[Verdict] = []
    which: list[int] = []
    rows: dict[tuple[Any, ...], int] = {}
    distinct: list[WheelSetup] = []
    fitted = None
    for brake, checked in zip(sifted.brakes(), sifted.verdicts, strict=True):
        renew = needed_renewals(cures, brake.changed_from(wheel.on_it)) if cures else NONE
        case = FitCase.of(mounting, brake, renew)
        setup = setup_with(
            wheel, brake, mounting.bottle_for, bedded=job.proposal.bedded, opens_line=case.opens_line, renew=renew
        )
        if not setup.rideable or conditions.of(case).void:
            continue
        key = _heat_key(setup)
        if key not in rows:
            rows[key] = len(distinct)
            distinct.append(setup)
        found = verdict_at(int(checked))
        if case.stays:  # judged as it stands, not as it would be put together
            fitted, found = len(setups), verdict_of(points_of_checks(wheel.end, results_of(case)))
        setups.append(setup)
        cases.append(case)
        standing.append(worst([found, conditions.of(case).worst]))
        which.append(rows[key])
    places = np.array(which, dtype=np.int64)
    return Prepared(mounting, sifted, tuple(setups), tuple(cases), tuple(standing), places, tuple(distinct), fitted)


@dataclass(frozen=True)
class Scales:
    """One wheel's candidates held against one bike, rider and ride: any of them can be weighed by itself."""

    situation: Situation
    prepared: Prepared
    peaks: PeakTable
    ride: WheelRide
    fixed: tuple[Fixed, ...]
    """of the heat-distinct setups: others differ in their linkage alone"""
    frictions: dict[tuple[int, float], PadFriction] = field(default_factory=dict)
    """of those that were weighed, by the place of their heat-distinct setup and the state of their pads"""

    def weigh(self, k: int) -> Candidate:
        """Candidate ``k`` of the prepared ones, with forces, margins and verdict."""
        setup, at = self.prepared.setups[k], int(self.prepared.which[k])
        fluid = None if setup.caliper.fluid is Fluid.NONE else float(self.peaks.fluid_peak_c[at])
        peaks = Peaks(float(self.peaks.peak_c[at, Node.ROTOR]), fluid, float(self.peaks.least_mu_per_n[at]))
        shared = self.fixed[at]
        fixed = Fixed(linkage_of(setup, self.situation), shared.capacity_j_k, shared.rotor_share)
        key = at, friction_state(setup)
        if key not in self.frictions:
            self.frictions[key] = pad_friction(setup, self.situation, self.ride, fixed, peaks)
        judged = judge(setup, self.situation, self.ride, fixed, peaks, self.frictions[key])
        return Candidate(setup, self.prepared.cases[k], self.situation.hand, judged, peaks, self.prepared.standing[k])


def scales_of(prepared: Prepared, situation: Situation, demand: Demand, load: BrakeLoad) -> Scales:
    steps = heat_steps(load, situation.sharing, prepared.end)
    peaks = prepared.heat(situation, steps)
    ride = wheel_ride(situation.bike, demand.alone, prepared.end, drag_force_n(situation, load, prepared.end), load)
    return Scales(situation, prepared, peaks, ride, tuple(fixed_of(s, situation) for s in prepared.distinct))


REPORT_EVERY = 100


def choose(
    job: Job,
    mounting: Mounting,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    report: Callable[[int, int], None] = lambda _done, _total: None,
) -> Choice:
    """Every feasible candidate of a wheel over the ride: one integration for the heat-distinct ones together.
    ``report`` is told every so often how many of how many are weighed."""
    prepared = prepare(job, mounting)
    if not prepared.setups:
        return Choice(prepared.end, prepared.sieve, (), 0, None)
    report(0, len(prepared.setups))
    scales = scales_of(prepared, situation, demand, load)
    candidates = []
    for k in range(len(prepared.setups)):
        if k % REPORT_EVERY == 0:
            report(k, len(prepared.setups))
        candidates.append(scales.weigh(k))
    fitted = None if prepared.fitted is None else candidates[prepared.fitted].smallest
    return Choice(prepared.end, prepared.sieve, tuple(candidates), len(prepared.distinct), fitted)


_STEP_ORDER: Mapping[Axis, Callable[[Any], tuple[Any, ...]]] = {
    Axis.ROTOR: lambda r: (r.diameter_mm, r.thickness_mm, r.mass_g, r.id),
    Axis.CALIPER: lambda c: (c.piston_area_mm2, c.mass_g, c.id),
    Axis.LEVER: lambda v: (v.ratio, v.id),
    Axis.PAD: lambda d: (d.shape, list(COMPOUNDS).index(d.compound), d.id),
}


def refusal_of(mounting: Mounting, brake: Brake, axis: Axis) -> Words:
    """Why one part of a brake does not go with the rest of it on this wheel; nothing where it does."""
    case = FitCase.of(mounting, brake)
    said = (row.says(case) for row in CHECKS if axis in row.sees)
    return next((found.words for found in said if found is not None and found.verdict is Verdict.FAILS), NOTHING)


@dataclass(frozen=True)
class Stepped:
    """One step through the parts of a kind: the next one that goes, None where there is none, and why those between
    were skipped."""

    part: AnyPart | None
    skipped: int
    why: tuple[Words, ...]


def in_step_order(mounting: Mounting, axis: Axis, present: object = None) -> list[Any]:
    """Parts of one kind in the order in which a key steps through them: rotors by diameter, thickness, mass."""
    table = mounting.catalogue.of_kind(axis.value).values()
    return sorted((p for p in table if p == present or not p.retired), key=_STEP_ORDER[axis])


def stepped(mounting: Mounting, axis: Axis, current: Brake, by: int) -> Stepped:
    """From the present part one up (``by`` 1) or down (−1) to the next that goes with the rest of the ``current``
    brake. What does not go is skipped, and told."""
    present = current.of(axis)
    order = in_step_order(mounting, axis, present)
    if by == 0:
        return Stepped(present, 0, ())
    at = order.index(present) if present in order else (-1 if by > 0 else len(order))
    why: dict[str, Words] = {}
    skipped = 0
    for part in order[at + 1 :] if by > 0 else reversed(order[: max(at, 0)]):
        refused = refusal_of(mounting, current.with_part(axis, part), axis)
        if not refused:
            return Stepped(part, skipped, tuple(why.values()))
        skipped += 1
        why.setdefault(str(refused), refused)
    return Stepped(None, skipped, tuple(why.values()))


# What a part brings along where it cannot go with those that are there: the other end of the line, and its own pads.
BRINGS: Mapping[Axis, tuple[Axis, ...]] = {
    Axis.CALIPER: (Axis.LEVER, Axis.PAD),
    Axis.LEVER: (Axis.CALIPER, Axis.PAD),
    Axis.ROTOR: (Axis.PAD,),
    Axis.PAD: (),
}


@dataclass(frozen=True)
class Brought:
    """A brake with one part changed, and what that part brought along; ``refused`` where no way was found."""

    brake: Brake
    along: tuple[Axis, ...]
    refused: Words = NOTHING


def brought(mounting: Mounting, current: Brake, axis: Axis, part: AnyPart) -> Brought:
    """The ``current`` brake with another part; what cannot go with it gives way to what is on the wheel, or to the
    cheapest that can."""
    on_it = mounting.wheel.on_it
    along: list[Axis] = []
    brake = current.with_part(axis, part)
    for other in BRINGS[axis]:
        if brake.of(other) is None or not refusal_of(mounting, brake, other):
            continue
        table = mounting.catalogue.of_kind(other.value).values()
        goes = (
            p for p in sorted(table, key=lambda p: (p != on_it.of(other), p.price, p.id))
            if not p.retired and not refusal_of(mounting, _only(brake.with_part(other, p), axis, other, along), other)
        )  # fmt: skip
        found = next(goes, None)
        if found is not None:
            brake = brake.with_part(other, found)
            along.append(other)
    refused = next((r for a in (axis, *along) if (r := refusal_of(mounting, brake, a))), NOTHING)
    return Brought(current if refused else brake, () if refused else tuple(along), refused)


def _only(brake: Brake, axis: Axis, other: Axis, along: Sequence[Axis]) -> Brake:
    """What a part that is brought along has to go with: what brought it, what came before it, and the rotor."""
    stays = {axis, other, *along, Axis.ROTOR}
    return Brake(**{a.value: brake.of(a) if a in stays else None for a in Axis})  # type: ignore[arg-type]
