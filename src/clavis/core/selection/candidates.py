"""Choosing: every candidate of a wheel, weighed over the ride (docs/model.md, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. What is impossible falls through
``sieve``; the schools that rank what is left are in ``schools``.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial
from itertools import combinations
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.conditions import cures_of, helpful_renewals, needed_renewals
from clavis.core.evaluation.margins import (
    Demand,
    Fixed,
    Judged,
    Peaks,
    WheelRide,
    boiling_of,
    drag_force_n,
    fixed_of,
    judge,
    linkage_of,
    stacked,
    wheel_ride,
)
from clavis.core.evaluation.open_points import OpenPoint, conditions_open, verdict_of
from clavis.core.evaluation.parts_list import changes_of, price_of_brake
from clavis.core.evaluation.setups import WheelSetup, friction_state, row_of, setup_with
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wheel_cases import points_of_checks
from clavis.core.fit.checks import CHECKS, results_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Job, School, Wish
from clavis.core.job.renewal import NONE, Renewal, Renewals
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import AnyPart, Axis, Brake, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import one
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.forces import BrakeLine, Feel, feel_of
from clavis.core.physics.heat import BoilingPoint, Node, PeakTable, peaks_of
from clavis.core.selection.rotor_steps import beyond
from clavis.core.selection.schools import HEAT_MARGINS, Candidate, Standing, quiet_score, row_of_school, unwished
from clavis.core.selection.sieve import Sieve, sieve
from clavis.core.sentences import NOTHING, Words
from clavis.core.verdicts import Severity, Verdict, place_of, verdict_at, worst

LOOKED_INTO, MOST_LACKS = 40, 4
"""of candidates that cannot be told, how many are asked what is not known, and how many answers are shown"""


@dataclass(frozen=True)
class Lacking:
    """What is not known, and the first candidate that waits for it."""

    points: tuple[OpenPoint, ...]
    first: Candidate


@dataclass(frozen=True)
class Untold:
    """Candidates that cannot be told: how many, and what the first of them wait for."""

    count: int
    lacks: tuple[Lacking, ...]


@dataclass(frozen=True)
class Choice:
    """The candidates of one wheel, sieved and evaluated."""

    end: End
    sieve: Sieve
    candidates: tuple[Candidate, ...]
    heat_distinct: int

    def within(self, budget_price: float) -> "Choice":
        """The same with those candidates alone whose new parts this budget pays for."""
        return replace(self, candidates=tuple(c for c in self.candidates if c.price <= budget_price))

    def untold(self, school: School) -> "Untold | None":
        """The candidates of which something that decides is not known, apart from the others; None without any."""
        row = row_of_school(school)
        unknown = [c for c in self.candidates if c.verdict is Verdict.UNKNOWN]
        unknown.sort(key=lambda c: row.key(c.standing))
        lacks: dict[tuple[str, ...], Lacking] = {}
        for candidate in unknown[:LOOKED_INTO]:
            points = tuple(p for p in candidate.points if p.severity is Severity.UNKNOWN)
            lacks.setdefault(tuple(str(p.words) for p in points), Lacking(points, candidate))
        return Untold(len(unknown), tuple(lacks.values())[:MOST_LACKS]) if unknown else None

    def ranked(self, school: School, most: int = 5, *, apart: bool = False) -> list[Candidate]:
        """The first of a school's order; ``apart`` leaves out what differs from a better one in the lever alone."""
        row = row_of_school(school)

        def place(candidate: Candidate) -> tuple[float, ...]:
            return row.key(candidate.standing)

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
    mass_g: tuple[float, ...]
    price: tuple[float, ...]
    """of all that has to be bought"""
    quiet: tuple[float, ...]

    @property
    def end(self) -> End:
        return self.mounting.wheel.end

    def heat(self, situation: Situation, steps: HeatSteps) -> PeakTable:
        """Peaks of the heat-distinct setups, all in one integration."""
        rows = np.array([row_of(setup, situation) for setup in self.distinct])
        return peaks_of(rows, steps, situation.weather.ambient_c)


@dataclass(frozen=True)
class Stack:
    """Setups of one kind as one: their ``places`` among those laid out, and what fills the line of each."""

    places: NDArray[np.int64]
    fixed: Fixed
    lines: tuple[WheelSetup, ...]
    """one setup for each way the line is filled"""
    line_of: NDArray[np.int64]
    """by which of them each boils"""

    def boiling_at(self, ends_at_m: float) -> Fixed:
        """The same with the boiling points of a ride that ends at this height."""
        known = self.fixed.boiling.boiling_c is not None
        points = [boiling_of(setup, ends_at_m).boiling_c or 0.0 for setup in self.lines] if known else []
        at = one(np.array(points)[self.line_of]) if known else None
        return replace(self.fixed, boiling=replace(self.fixed.boiling, boiling_c=at))


def stacks_of(prepared: Prepared, situation: Situation) -> tuple[Stack, ...]:
    """All that is laid out, stacked by kind. It rests on the wheel and the parameters, not on rider or ride."""
    shared = [fixed_of(setup, situation, 0.0) for setup in prepared.distinct]
    lines: dict[tuple[object, ...], tuple[int, WheelSetup, BoilingPoint]] = {}
    kinds: dict[tuple[object, ...], list[tuple[int, Fixed, int]]] = {}
    for k, (setup, at) in enumerate(zip(prepared.setups, prepared.which, strict=True)):
        filled = setup.keeps_line, setup.filled_with.id if setup.filled_with else None, setup.caliper.fluid
        if filled not in lines:
            lines[filled] = len(lines), setup, boiling_of(setup, 0.0)
        line, _, boiling = lines[filled]
        fixed = replace(
            shared[at],
            state=friction_state(setup),
            link=linkage_of(setup, situation),
            line=BrakeLine(setup.air_mm3, setup.to_bar_mm),
            boiling=boiling,
        )
        kinds.setdefault(fixed.kind, []).append((k, fixed, line))
    by_line = tuple(setup for _, setup, _ in lines.values())
    return tuple(
        Stack(
            np.array([k for k, _, _ in members]),
            stacked([fixed for _, fixed, _ in members], situation.parameters),
            by_line,
            np.array([line for _, _, line in members]),
        )
        for members in kinds.values()
    )


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


FRESHER_K = 5.0
"""fresh fluid that boils no more than that above what is in the line is no help"""
MOST_HELPS = 3


def _helpful(mounting: Mounting) -> Renewals:
    """What helps a brake of which parts stay, though it may be ridden without: the same part new, fresh fluid, bedding
    in."""
    wheel = mounting.wheel
    found = set(helpful_renewals(wheel))
    if all(wheel.on_it.of(axis) is not None for axis in Axis):
        now, fresh = (
            boiling_of(setup_with(wheel, wheel.on_it, mounting.bottle_for, opens_line=opened), 0.0).boiling_c
            for opened in (False, True)
        )
        if fresh is not None and (now is None or fresh > now + FRESHER_K):
            found.add(Renewal.BLEED)
    return frozenset(sorted(found)[:MOST_HELPS])


def _ways(cures: Renewals, helpful: Renewals, brake: Brake, on_it: Brake) -> list[Renewals]:
    """What comes new or is done beside other models of part: all that must, and each way of what helps with it; nothing
    more comes first."""
    if not cures and not helpful:
        return [NONE]
    changed = brake.changed_from(on_it)
    must, may = needed_renewals(cures, changed), sorted(needed_renewals(helpful, changed))
    if brake.caliper is not None and brake.caliper.fluid is Fluid.NONE:
        may = [renewal for renewal in may if renewal is not Renewal.BLEED]
    return [must | frozenset(some) for n in range(len(may) + 1) for some in combinations(may, n)]


REPORT_EVERY = 100


def prepare(job: Job, mounting: Mounting, report: Callable[[int, int], None] = lambda _done, _total: None) -> Prepared:
    """Sieve the catalogue for one wheel and lay out what is left. ``report`` is told every so often how many of how
    many are."""
    wheel = mounting.wheel
    sifted = sieve(mounting, job.keeps.of(wheel.end))
    conditions, cures, helpful = _Conditions(), cures_of(wheel), _helpful(mounting)
    setups: list[WheelSetup] = []
    cases: list[FitCase] = []
    standing: list[Verdict] = []
    prices: list[float] = []
    which: list[int] = []
    rows: dict[tuple[Any, ...], int] = {}
    distinct: list[WheelSetup] = []
    brakes = sifted.brakes()
    for k, (brake, checked) in enumerate(zip(brakes, sifted.verdicts, strict=True)):
        if k % REPORT_EVERY == 0:
            report(k, len(brakes))
        opened = False
        for renew in _ways(cures, helpful, brake, wheel.on_it):
            if opened and Renewal.BLEED in renew - cures:
                continue  # it is filled anew in any case
            case = FitCase.of(mounting, brake, renew)
            opened = opened or (case.opens_line and Renewal.BLEED not in renew)
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
                found = verdict_of(points_of_checks(wheel.end, results_of(case)))
            setups.append(setup)
            cases.append(case)
            standing.append(worst([found, conditions.of(case).worst]))
            prices.append(price_of_brake(setup, case, changes_of(setup, case)))
            which.append(rows[key])
    places = np.array(which, dtype=np.int64)
    return Prepared(
        mounting,
        sifted,
        tuple(setups),
        tuple(cases),
        tuple(standing),
        places,
        tuple(distinct),
        mass_g=tuple(s.mass_g for s in setups),
        price=tuple(prices),
        quiet=tuple(quiet_score(s.pad) for s in setups),
    )


@dataclass(frozen=True)
class Scales:
    """One wheel's candidates held against one bike, rider and ride: all of them at once, and any of them by itself."""

    situation: Situation
    prepared: Prepared
    stacks: tuple[Stack, ...]
    peaks: PeakTable
    ride: WheelRide
    wants: tuple[Wish, ...] = ()
    """what the rider wishes besides"""

    def peaks_at(self, at: Any, fluid: bool) -> Peaks:
        """Peaks of the heat-distinct setup at this place, or of those at several."""
        of = self.peaks
        return Peaks(
            rotor_c=one(of.peak_c[at, Node.ROTOR]),
            carrier_c=one(of.peak_c[at, Node.CARRIER]),
            fluid_c=one(of.fluid_peak_c[at]) if fluid else None,
            least_mu_per_n=one(of.least_mu_per_n[at]),
        )

    def peaks_of(self, k: int) -> Peaks:
        fluid = self.prepared.setups[k].caliper.fluid is not Fluid.NONE
        return self.peaks_at(int(self.prepared.which[k]), fluid)

    def judged(self, k: int) -> Judged:
        """Setup ``k`` by itself, with forces, margins and all that they are told with."""
        fixed = fixed_of(self.prepared.setups[k], self.situation, self.ride.ends_at_m)
        return judge(fixed, self.situation, self.ride, self.peaks_of(k))

    @cached_property
    def graded(self) -> tuple[tuple[Stack, "Graded"], ...]:
        """Those of one kind in one go."""
        out = []
        for stack in self.stacks:
            fluid = self.prepared.setups[stack.places[0]].caliper.fluid is not Fluid.NONE
            peaks = self.peaks_at(self.prepared.which[stack.places], fluid)
            judged = judge(stack.boiling_at(self.ride.ends_at_m), self.situation, self.ride, peaks)
            out.append((stack, Graded.of(judged, len(stack.places))))
        return tuple(out)

    def standings(self) -> list[Standing]:
        """What the schools look at, of every setup."""
        prepared, hand = self.prepared, self.situation.hand
        on_it = prepared.mounting.wheel.on_it.caliper
        hydraulic = on_it is not None and on_it.fluid is not Fluid.NONE
        out: list[Any] = [None] * len(prepared.setups)
        for stack, found in self.graded:
            columns = (
                stack.places, found.place, found.smallest, found.coolest, found.finger_lock_n, found.finger_target_n
            )  # fmt: skip
            for k, place, smallest, coolest, lock_n, target_n in zip(*(c.tolist() for c in columns), strict=True):
                before = prepared.standing[k]
                out[k] = Standing(
                    verdict=worst([before, verdict_at(place)]),
                    smallest=min(smallest, -1.0) if before is Verdict.FAILS else smallest,
                    coolest=coolest,
                    mass_g=prepared.mass_g[k],
                    price=prepared.price[k],
                    grabby=feel_of(lock_n, hand) is Feel.GRABBY,
                    finger_target_n=target_n,
                    tiring_n=hand.tiring_n(target_n),
                    quiet=prepared.quiet[k],
                    unwished=unwished(prepared.setups[k], self.wants) if self.wants else 0.0,
                    steps_down=hydraulic and prepared.setups[k].caliper.fluid is Fluid.NONE,
                )
        return out

    def candidate(self, k: int, standing: Standing, fails: frozenset[str]) -> Candidate:
        of = self.prepared
        return Candidate(
            of.setups[k], of.cases[k], self.situation.hand, self.peaks_of(k), of.standing[k], standing, fails,
            partial(self.judged, k),
        )  # fmt: skip

    def candidates(self) -> list[Candidate]:
        """Every setup with its standing."""
        fails: list[frozenset[str]] = [frozenset()] * len(self.prepared.setups)
        for stack, found in self.graded:
            for k, failing in zip(stack.places.tolist(), zip(*found.fails.values(), strict=True), strict=True):
                fails[k] = frozenset(key for key, it_does in zip(found.fails, failing, strict=True) if it_does)
        return [self.candidate(k, s, f) for k, (s, f) in enumerate(zip(self.standings(), fails, strict=True))]


@dataclass(frozen=True)
class Graded:
    """What came of several setups that were judged as one, each (n,)."""

    place: NDArray[np.int64]
    """the worst verdict of their margins, by its place among the words"""
    smallest: NDArray[np.float64]
    """the least relative margin of those that are known"""
    coolest: NDArray[np.float64]
    """the least of those that heat is held against"""
    fails: Mapping[str, NDArray[np.bool_]]
    """by the key of each margin, whether it fails"""
    finger_target_n: NDArray[np.float64]
    finger_lock_n: NDArray[np.float64]

    @classmethod
    def of(cls, judged: Judged, n: int) -> "Graded":
        grades = {m.key: m.grades(n) for m in judged.margins}
        known = {m.key: np.broadcast_to(m.relative, n) for m in judged.margins if m.relative is not None}
        of_heat = [relative for key, relative in known.items() if key in HEAT_MARGINS]
        fails = place_of(Verdict.FAILS)
        return cls(
            np.maximum.reduce(list(grades.values())),
            np.minimum.reduce(list(known.values())),
            np.minimum.reduce(of_heat),
            {key: found == fails for key, found in grades.items()},
            np.broadcast_to(judged.forces.finger_target_n, n),
            np.broadcast_to(judged.forces.finger_lock_n, n),
        )


def scales_of(
    prepared: Prepared,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    wants: tuple[Wish, ...] = (),
    stacks: tuple[Stack, ...] | None = None,
) -> Scales:
    """``wants`` are the rider's wishes; ``stacks`` where they are made already."""
    steps = heat_steps(load, situation.sharing, prepared.end)
    peaks = prepared.heat(situation, steps)
    ride = wheel_ride(situation.bike, demand.alone, prepared.end, drag_force_n(situation, load, prepared.end), load)
    return Scales(situation, prepared, stacks or stacks_of(prepared, situation), peaks, ride, wants)


def choose(
    job: Job,
    mounting: Mounting,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    report: Callable[[int, int], None] = lambda _done, _total: None,
) -> Choice:
    """Every feasible candidate of a wheel over the ride. ``report`` is told every so often how many of how many are
    laid out."""
    return chosen(prepare(job, mounting, report), situation, demand, load, job.wishes.wants)


def chosen(
    prepared: Prepared,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    wants: tuple[Wish, ...],
    stacks: tuple[Stack, ...] | None = None,
    pause: Callable[[], None] = lambda: None,
) -> Choice:
    """What is laid out, over the ride: one integration for the heat-distinct ones together. ``stacks`` where they are
    made already; ``pause`` is called between the steps."""
    if not prepared.setups:
        return Choice(prepared.end, prepared.sieve, (), 0)
    pause()
    scales = scales_of(prepared, situation, demand, load, wants, stacks)
    pause()
    candidates = scales.candidates()
    return Choice(prepared.end, prepared.sieve, tuple(candidates), len(prepared.distinct))


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
    return sorted((p for p in table if p == present or p.offered), key=_STEP_ORDER[axis])


def _onward(order: list[Any], present: object, by: int) -> list[Any]:
    """What comes after a part on the way up or down: of rotors one size after the other, of others one part."""
    if isinstance(present, Rotor):
        return beyond(present, order, by)
    at = order.index(present) if present in order else (-1 if by > 0 else len(order))
    return order[at + 1 :] if by > 0 else order[: max(at, 0)][::-1]


def stepped(mounting: Mounting, axis: Axis, current: Brake, by: int) -> Stepped:
    """From the present part one up (``by`` 1) or down (−1) to the next that goes with the rest of the ``current``
    brake: of rotors the next size, in the make that is most like the present one. What does not go is skipped, and
    told."""
    present = current.of(axis)
    if by == 0:
        return Stepped(present, 0, ())
    why: dict[str, Words] = {}
    skipped = 0
    for part in _onward(in_step_order(mounting, axis, present), present, by):
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
            if p.offered and not refusal_of(mounting, _only(brake.with_part(other, p), axis, other, along), other)
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
