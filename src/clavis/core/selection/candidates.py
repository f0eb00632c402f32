"""Choosing: every candidate of a wheel and the schools that rank them (model, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. What is impossible is in
``rules``, the schools that rank them in ``schools``.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.margins import Demand, drag_force_n, fixed_of, judge
from clavis.core.evaluation.rules import AXES, RULES, Rule, WheelContext, wheel_context
from clavis.core.evaluation.setups import WheelSetup, row_of, setup_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Axis, Job, Pick, School
from clavis.core.parts.models import AnyPart, Catalogue, Compound, Fluid
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.friction import state_ratio
from clavis.core.physics.heat import Node, PeakTable, peaks_of
from clavis.core.selection.schools import Candidate, least_margin, row_of_school
from clavis.core.verdicts import worst


@dataclass(frozen=True)
class RefusedFor:
    """One reason of a rule: how many combinations it refuses first, and the parts that do not go together."""

    words: str
    count: int
    parts: tuple[tuple[AnyPart, ...], ...]


@dataclass(frozen=True)
class Refusal:
    """How many combinations one rule refuses first, and why."""

    rule: Rule
    count: int
    reasons: tuple["RefusedFor", ...]


@dataclass(frozen=True)
class Sieve:
    """All combinations of the catalogue, refused or left. ``left`` are indices (n, 4) into the part lists."""

    parts: Mapping[str, Sequence[Any]]
    total: int
    refusals: tuple[Refusal, ...]
    left: np.ndarray[Any, np.dtype[np.int64]]


def sieve(context: WheelContext, keeps: Sequence[Axis] = ()) -> Sieve:
    """Drop the impossible; each combination is counted under the first rule that it fails. Of the axes in ``keeps``
    only the part that is on the wheel is looked at."""

    def offered(axis: Axis) -> list[Any]:
        table: Mapping[str, Any] = getattr(context.catalogue, f"{axis.value}s")
        there = getattr(context.wheel, f"{axis.value}_id")
        if axis in keeps and there in table:
            return [table[there]]
        return [p for p in table.values() if not p.retired]

    parts = {axis.value: offered(axis) for axis in Axis}
    alive = np.ones([len(parts[a]) for a in AXES], dtype=bool)
    total = alive.size
    refusals = []
    for rule in RULES:
        lists = [parts[a] for a in rule.over]
        reasons: dict[str, list[tuple[int, tuple[AnyPart, ...]]]] = {}
        fails = np.zeros([len(x) for x in lists], dtype=bool)
        texts: dict[tuple[int, ...], str] = {}
        for index in np.ndindex(*fails.shape):
            reason = rule.check(context, *(lists[k][i] for k, i in enumerate(index)))
            if reason is not None:
                fails[index] = True
                texts[index] = reason
        shape = [len(parts[a]) if a in rule.over else 1 for a in AXES]
        other = tuple(k for k, a in enumerate(AXES) if a not in rule.over)
        hit = alive & fails.reshape(shape)
        per = hit.sum(axis=other) if other else hit
        for index, text in texts.items():
            if per[index]:
                refused = tuple(lists[k][i] for k, i in enumerate(index))
                reasons.setdefault(text, []).append((int(per[index]), refused))
        found = [RefusedFor(text, sum(n for n, _ in hits), tuple(p for _, p in hits)) for text, hits in reasons.items()]
        ranked = tuple(sorted(found, key=lambda r: -r.count))
        refusals.append(Refusal(rule, int(hit.sum()), ranked))
        alive &= ~fails.reshape(shape)
    return Sieve(parts, total, tuple(refusals), np.argwhere(alive))


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
        ordered = sorted(self.candidates, key=lambda c: row.key(c.standing, self.fitted_smallest))
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
    """All that can be fitted on one wheel, before bike, rider and ride have their say: one setup for each combination,
    and which heat-distinct one it shares its temperatures with."""

    end: End
    sieve: Sieve
    setups: tuple[WheelSetup, ...]
    which: NDArray[np.int64]
    distinct: tuple[WheelSetup, ...]
    fitted: int | None
    """the combination that is on the wheel now"""
    on_bike: frozenset[str]

    def heat(self, situation: Situation, steps: HeatSteps) -> PeakTable:
        """Peaks of the heat-distinct setups, all in one integration."""
        rows = np.array([row_of(setup, self.end, situation) for setup in self.distinct])
        return peaks_of(rows, steps, situation.weather.ambient_c)


def price_of(setup: WheelSetup, on_bike: frozenset[str]) -> float:
    """Price of the parts that are not on the wheel yet."""
    parts = (setup.rotor, setup.caliper, setup.lever, setup.pad)
    return sum(part.price for part in parts if part.id not in on_bike)


def mass_of(setup: WheelSetup) -> float:
    return setup.rotor.mass_g + setup.caliper.mass_g + setup.lever.mass_g + setup.pad.mass_g


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


def prepare(job: Job, end: End, catalogue: Catalogue) -> Prepared:
    """Sieve the catalogue for one wheel and lay out what is left."""
    context = wheel_context(job, end, catalogue)
    sifted = sieve(context, job.keeps.of(end))
    wheel = job.wheel(end)
    on_bike = frozenset(
        part for part in (wheel.rotor_id, wheel.caliper_id, wheel.lever_id, wheel.pad_id) if part is not None
    )
    setups: list[WheelSetup] = []
    which: list[int] = []
    rows: dict[tuple[Any, ...], int] = {}
    distinct: list[WheelSetup] = []
    fitted = None
    for index in sifted.left:
        ids = {f"{a}_id": sifted.parts[a][i].id for a, i in zip(AXES, index, strict=True)}
        setup = setup_of(job, end, Pick(**ids), catalogue)
        if not isinstance(setup, WheelSetup) or state_ratio(setup.pad_state) is None:
            continue
        key = _heat_key(setup)
        if key not in rows:
            rows[key] = len(distinct)
            distinct.append(setup)
        if on_bike.issuperset(ids.values()):
            fitted = len(setups)
        setups.append(setup)
        which.append(rows[key])
    return Prepared(end, sifted, tuple(setups), np.array(which, dtype=np.int64), tuple(distinct), fitted, on_bike)


@dataclass(frozen=True)
class Scales:
    """One wheel's candidates held against one bike, rider and ride: any of them can be weighed by itself."""

    job: Job
    situation: Situation
    demand: Demand
    load: BrakeLoad
    prepared: Prepared
    peaks: PeakTable
    drag_n: float

    def weigh(self, k: int) -> Candidate:
        """Candidate ``k`` of the prepared ones, with forces, margins and verdict."""
        setup, at = self.prepared.setups[k], int(self.prepared.which[k])
        ring_c = float(self.peaks.peak_c[at, Node.RING])
        fluid = None if setup.caliper.fluid is Fluid.NONE else float(self.peaks.fluid_peak_c[at])
        judged = judge(
            self.job,
            self.situation,
            self.demand,
            self.load,
            self.prepared.end,
            setup,
            fixed_of(setup, self.situation),
            self.drag_n,
            ring_c,
            fluid,
            float(self.peaks.least_mu_per_n[at]),
        )
        return Candidate(
            setup.rotor,
            setup.caliper,
            setup.lever,
            setup.pad,
            judged.forces,
            ring_c,
            fluid,
            judged.margins,
            worst(m.verdict for m in judged.margins),
            least_margin(judged.margins),
            price_of(setup, self.prepared.on_bike),
            mass_of(setup),
        )


def scales_of(job: Job, prepared: Prepared, situation: Situation, demand: Demand, load: BrakeLoad) -> Scales:
    steps = heat_steps(load, situation.sharing, prepared.end)
    peaks = prepared.heat(situation, steps)
    return Scales(job, situation, demand, load, prepared, peaks, drag_force_n(steps))


REPORT_EVERY = 100


def choose(
    job: Job,
    end: End,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    catalogue: Catalogue,
    report: Callable[[int, int], None] = lambda _done, _total: None,
) -> Choice:
    """Every feasible candidate of a wheel over the ride: one integration for the heat-distinct ones together.
    ``report`` is told every so often how many of how many are weighed."""
    prepared = prepare(job, end, catalogue)
    if not prepared.setups:
        return Choice(end, prepared.sieve, (), 0, None)
    report(0, len(prepared.setups))
    scales = scales_of(job, prepared, situation, demand, load)
    candidates = []
    for k in range(len(prepared.setups)):
        if k % REPORT_EVERY == 0:
            report(k, len(prepared.setups))
        candidates.append(scales.weigh(k))
    fitted = None if prepared.fitted is None else candidates[prepared.fitted].smallest
    return Choice(end, prepared.sieve, tuple(candidates), len(prepared.distinct), fitted)


# While stepping, only parts come up that can meet what they bolt or connect to; a size beyond the limit of fork or
# frame does come up, and the sheet then says why it may not.
STEP_RULES: dict[str, tuple[str, ...]] = {
    "rotor": ("hub", "native"),
    "caliper": ("line", "fitting"),
    "lever": ("line", "fitting", "bar"),
    "pad": ("shape",),
}


def neighbours(job: Job, end: End, kind: str, current: WheelSetup | None, catalogue: Catalogue) -> list[Any]:
    """Parts of one kind in the order in which a key steps through them: rotors by diameter, thickness, mass. With
    the ``current`` setup known, only those that can meet the rest of it; the present part is always among them."""
    table: Mapping[str, Any] = getattr(catalogue, f"{kind}s")
    orders: dict[str, Callable[[Any], tuple[Any, ...]]] = {
        "rotor": lambda r: (r.diameter_mm, r.thickness_mm, r.mass_g, r.id),
        "caliper": lambda c: (c.piston_area_mm2, c.mass_g, c.id),
        "lever": lambda v: (v.ratio, v.id),
        "pad": lambda d: (d.shape, list(Compound).index(d.compound), d.id),
    }
    present = getattr(current, kind).id if current else None
    context = wheel_context(job, end, catalogue)
    rules = [r for r in RULES if r.key in STEP_RULES[kind] and (current is not None or r.over == (kind,))]

    def meets(part: Any) -> bool:
        chosen = {axis: getattr(current, axis, None) for axis in AXES} | {kind: part}
        return all(rule.check(context, *(chosen[axis] for axis in rule.over)) is None for rule in rules)

    parts = [p for p in table.values() if p.id == present or (not p.retired and meets(p))]
    return sorted(parts, key=orders[kind])
