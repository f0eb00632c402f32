"""Choosing: every candidate of a wheel, weighed over the ride (docs/model.md, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. What is impossible falls through
``sieve``; the schools that rank what is left are in ``schools``.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.margins import (
    Demand,
    Fixed,
    Peaks,
    WheelRide,
    drag_force_n,
    fixed_of,
    judge,
    linkage_of,
    wheel_ride,
)
from clavis.core.evaluation.open_points import conditions_open, verdict_of
from clavis.core.evaluation.setups import WheelSetup, row_of, setup_with
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wheel_cases import points_of_checks
from clavis.core.fit.checks import CHECKS, CheckRow, results_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Job, School
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Axis, Brake
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.heat import Node, PeakTable, peaks_of
from clavis.core.selection.schools import Candidate, row_of_school
from clavis.core.selection.sieve import Sieve, sieve, verdict_at
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


class _Conditions:
    """The worst condition of what a brake keeps, worked out once for each way of keeping parts."""

    def __init__(self, mounting: Mounting) -> None:
        self.wheel = mounting.wheel
        self._worst: dict[frozenset[Axis], Verdict] = {}

    def worst(self, setup: WheelSetup) -> Verdict:
        if setup.changed not in self._worst:
            self._worst[setup.changed] = verdict_of(conditions_open(self.wheel, setup.brake))
        return self._worst[setup.changed]


def prepare(job: Job, mounting: Mounting) -> Prepared:
    """Sieve the catalogue for one wheel and lay out what is left."""
    wheel = mounting.wheel
    sifted = sieve(mounting, job.keeps.of(wheel.end))
    conditions = _Conditions(mounting)
    setups: list[WheelSetup] = []
    cases: list[FitCase] = []
    standing: list[Verdict] = []
    which: list[int] = []
    rows: dict[tuple[Any, ...], int] = {}
    distinct: list[WheelSetup] = []
    fitted = None
    for brake, checked in zip(sifted.brakes(), sifted.verdicts, strict=True):
        case = FitCase(mounting, brake, stays=brake == wheel.on_it)
        setup = setup_with(wheel, brake, mounting.bottle_for, bedded=job.proposal.bedded, new_hose=case.new_hose)
        if not setup.rideable:
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
        standing.append(worst([found, conditions.worst(setup)]))
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

    def weigh(self, k: int) -> Candidate:
        """Candidate ``k`` of the prepared ones, with forces, margins and verdict."""
        setup, at = self.prepared.setups[k], int(self.prepared.which[k])
        fluid = None if setup.caliper.fluid is Fluid.NONE else float(self.peaks.fluid_peak_c[at])
        peaks = Peaks(float(self.peaks.peak_c[at, Node.ROTOR]), fluid, float(self.peaks.least_mu_per_n[at]))
        shared = self.fixed[at]
        fixed = Fixed(linkage_of(setup, self.situation), shared.capacity_j_k, shared.rotor_share)
        judged = judge(setup, self.situation, self.ride, fixed, peaks)
        return Candidate(setup, self.prepared.cases[k], self.situation.hand, judged, peaks, self.prepared.standing[k])


def scales_of(prepared: Prepared, situation: Situation, demand: Demand, load: BrakeLoad) -> Scales:
    steps = heat_steps(load, situation.sharing, prepared.end)
    peaks = prepared.heat(situation, steps)
    ride = wheel_ride(situation.bike, demand, prepared.end, drag_force_n(steps), load)
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


# While stepping, only parts come up that can meet what they bolt or connect to; a size beyond the limit of fork or
# frame does come up, and the sheet then says why it may not.
STEP_CHECKS: Mapping[Axis, tuple[str, ...]] = {
    Axis.ROTOR: ("hub", "smallest"),
    Axis.CALIPER: ("line", "pull", "fitting"),
    Axis.LEVER: ("line", "pull", "fitting", "bar"),
    Axis.PAD: ("shape",),
}
_STEP_ORDER: Mapping[Axis, Callable[[Any], tuple[Any, ...]]] = {
    Axis.ROTOR: lambda r: (r.diameter_mm, r.thickness_mm, r.mass_g, r.id),
    Axis.CALIPER: lambda c: (c.piston_area_mm2, c.mass_g, c.id),
    Axis.LEVER: lambda v: (v.ratio, v.id),
    Axis.PAD: lambda d: (d.shape, list(COMPOUNDS).index(d.compound), d.id),
}


def neighbours(mounting: Mounting, axis: Axis, current: Brake) -> list[Any]:
    """Parts of one kind in the order in which a key steps through them: rotors by diameter, thickness, mass. Only those
    that can meet the rest of the ``current`` brake, as far as it is known; the present part is always among them."""
    rows: list[CheckRow] = [row for row in CHECKS if row.key in STEP_CHECKS[axis]]
    present = current.of(axis)

    def meets(part: Any) -> bool:
        case = FitCase(mounting, current.with_part(axis, part))
        said = (row.says(case) for row in rows)
        return not any(found is not None and found.verdict is Verdict.FAILS for found in said)

    table = mounting.catalogue.of_kind(axis.value).values()
    return sorted((p for p in table if p == present or (not p.retired and meets(p))), key=_STEP_ORDER[axis])
