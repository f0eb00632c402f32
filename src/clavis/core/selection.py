"""Choosing: every candidate of a wheel and the schools that rank them (model, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. What is impossible is in
``rules``; SCHOOLS is the table of objectives.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from clavis.core.descent import BrakeLoad, heat_steps
from clavis.core.forces import Feel, WheelForces
from clavis.core.friction import COMPOUNDS, state_ratio
from clavis.core.heat import Node, peaks_of
from clavis.core.job import Axis, Job, Pick, School
from clavis.core.judging import Demand, drag_force_n, fixed_of, judge
from clavis.core.mounts import End
from clavis.core.parts import Caliper, Catalogue, Compound, Fluid, Lever, Pad, Rotor
from clavis.core.rules import AXES, RULES, Rule, WheelContext, wheel_context
from clavis.core.setups import WheelSetup, row_of, setup_of
from clavis.core.situation import Situation
from clavis.core.verdicts import RANK, Margin, Verdict, deciding_margin, worst


@dataclass(frozen=True)
class Refusal:
    """How many combinations one rule refuses first, with examples of why."""

    rule: Rule
    count: int
    reasons: tuple[tuple[str, int], ...]


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
        reasons: dict[str, int] = {}
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
                reasons[text] = reasons.get(text, 0) + int(per[index])
        ranked = tuple(sorted(reasons.items(), key=lambda item: -item[1]))
        refusals.append(Refusal(rule, int(hit.sum()), ranked))
        alive &= ~fails.reshape(shape)
    return Sieve(parts, total, tuple(refusals), np.argwhere(alive))


@dataclass(frozen=True)
class Candidate:
    """One feasible combination with its figures. ``smallest`` is its least relative margin; ``price`` counts
    only parts that are not on the bike already."""

    rotor: Rotor
    caliper: Caliper
    lever: Lever
    pad: Pad
    forces: WheelForces
    ring_c: float
    fluid_c: float | None
    margins: tuple[Margin, ...]
    verdict: Verdict
    smallest: float
    price: float
    mass_g: float

    @property
    def deciding(self) -> Margin:
        """The margin that sets the verdict: among the worst, the smallest."""
        return deciding_margin(self.margins)

    @property
    def ids(self) -> Pick:
        return Pick(rotor_id=self.rotor.id, caliper_id=self.caliper.id, lever_id=self.lever.id, pad_id=self.pad.id)


@dataclass(frozen=True)
class SchoolRow:
    """A school's objective: what it asks for in words, the key it sorts by (least first), and what it measures: a
    figure, its unit, and what more of the winner's side of it is called."""

    school: School
    title: str
    words: str
    key: Callable[["Candidate", float | None], tuple[float, ...]]
    measure: Callable[["Candidate", float | None], float]
    unit: str
    better: str


def _feel_penalty(c: Candidate) -> float:
    return 1.0 if c.forces.feel is Feel.GRABBY else 0.0


def quiet_score(pad: Pad, rotor: Rotor) -> float:
    """Noise, wet manners and cold bite of a pad (least is best); a floating rotor is quieter."""
    row = COMPOUNDS[pad.compound]
    return row.noise_score + row.wet_score + row.cold_score - (0.5 if rotor.construction.value == "floating" else 0.0)


def gain_per_money(smallest: float, price: float, fitted: float | None) -> float:
    """Change of the least relative margin per unit of money; nothing for what costs nothing."""
    return (smallest - (fitted or 0.0)) / max(price, 1.0) if price > 0 else 0.0


SCHOOLS: tuple[SchoolRow, ...] = (
    SchoolRow(
        School.LEAN,
        "Lean",
        "least mass of those that hold every margin",
        lambda c, _f: (RANK[c.verdict], c.mass_g, -c.smallest),
        lambda c, _f: c.mass_g,
        "g",
        "lighter",
    ),
    SchoolRow(
        School.COOL,
        "Cool",
        "greatest smallest margin",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, -round(c.smallest, 3), c.mass_g),
        lambda c, _f: 100 * c.smallest,
        "pct",
        "more margin",
    ),
    SchoolRow(
        School.LIGHT_HAND,
        "Light hand",
        "least finger force at target that is not grabby",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, _feel_penalty(c), c.forces.finger_target_n),
        lambda c, _f: c.forces.finger_target_n,
        "n",
        "less at the finger",
    ),
    SchoolRow(
        School.THRIFT,
        "Thrift",
        "greatest gain of the worst margin per money",
        lambda c, f: (RANK[c.verdict], -gain_per_money(c.smallest, c.price, f), c.price),
        lambda c, f: 10_000 * gain_per_money(c.smallest, c.price, f),
        "pct",
        "more margin per 100 of money",
    ),
    SchoolRow(
        School.QUIET,
        "Quiet",
        "least noise, best wet manners and cold bite",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, quiet_score(c.pad, c.rotor), -round(c.smallest, 3)),
        lambda c, _f: quiet_score(c.pad, c.rotor),
        "ratio",
        "better in noise, wet and cold",
    ),
)


@dataclass(frozen=True)
class Choice:
    """The candidates of one wheel, sieved and evaluated."""

    end: End
    sieve: Sieve
    candidates: tuple[Candidate, ...]
    heat_distinct: int
    fitted_smallest: float | None

    def ranked(self, school: School, most: int = 5, *, apart: bool = False) -> list[Candidate]:
        """The first of a school's order; ``apart`` leaves out what differs from a better one in the lever alone."""
        row = next(s for s in SCHOOLS if s.school is school)
        ordered = sorted(self.candidates, key=lambda c: row.key(c, self.fitted_smallest))
        if not apart:
            return ordered[:most]
        seen: dict[tuple[str, str, str], Candidate] = {}
        for candidate in ordered:
            seen.setdefault((candidate.rotor.id, candidate.caliper.id, candidate.pad.id), candidate)
            if len(seen) == most:
                break
        return list(seen.values())


@dataclass(frozen=True)
class Reason:
    """Why a school's pick stands first: how many of its limits hold, the least of them, and by how much it beats the
    next by the school's own measure; ``unlike`` where the next loses for its verdict instead."""

    holding: int
    limits: int
    least: Margin
    next: Candidate | None
    by: float
    unit: str
    better: str
    unlike: bool


def reason_of(row: SchoolRow, best: Candidate, runner_up: Candidate | None, fitted: float | None) -> Reason:
    known = [m for m in best.margins if m.relative is not None]
    least = min(known, key=lambda m: m.relative or 0.0, default=best.margins[0])
    holding = sum(m.verdict is Verdict.HOLDS for m in best.margins)
    by = abs(row.measure(best, fitted) - row.measure(runner_up, fitted)) if runner_up else 0.0
    unlike = runner_up is not None and row.key(best, fitted)[0] != row.key(runner_up, fitted)[0]
    return Reason(holding, len(best.margins), least, runner_up, by, row.unit, row.better, unlike)


def least_margin(margins: Sequence[Margin]) -> float:
    """The least relative margin of those that are known; the rotor limit, met or not, is none of them."""
    known = [m.relative for m in margins if m.relative is not None and m.key != "rotor_limit"]
    return min(known, default=0.0)


def choose(job: Job, end: End, situation: Situation, demand: Demand, load: BrakeLoad, catalogue: Catalogue) -> Choice:
    """Every feasible candidate of a wheel over the ride: one integration for the heat-distinct ones together."""
    context = wheel_context(job, end, catalogue)
    sifted = sieve(context, job.keeps.of(end))
    steps = heat_steps(load, situation.sharing, end)
    drag = drag_force_n(steps)
    wheel = job.wheel(end)
    setups: list[WheelSetup] = []
    rows: dict[tuple[Any, ...], int] = {}
    stack: list[Any] = []
    which: list[int] = []
    for index in sifted.left:
        rotor, caliper, lever, pad = (sifted.parts[a][i] for a, i in zip(AXES, index, strict=True))
        pick = Pick(rotor_id=rotor.id, caliper_id=caliper.id, lever_id=lever.id, pad_id=pad.id)
        setup = setup_of(job, end, pick, catalogue)
        if not isinstance(setup, WheelSetup) or state_ratio(setup.pad_state) is None:
            continue
        key = (
            rotor.id,
            setup.thickness_mm,
            pad.compound,
            pad.area_mm2,
            pad.finned,
            setup.material_mm,
            caliper.four_pistons,
            caliper.fluid is Fluid.NONE,
            caliper.phenolic,
        )
        if key not in rows:
            rows[key] = len(stack)
            stack.append(row_of(setup, end, situation))
        setups.append(setup)
        which.append(rows[key])
    fitted = setup_of(job, end, None, catalogue)
    if not stack:
        return Choice(end, sifted, (), 0, None)
    table = peaks_of(np.array(stack), steps, situation.weather.ambient_c)
    candidates = []
    fitted_smallest = None
    for setup, at in zip(setups, which, strict=True):
        ring_c = float(table.peak_c[at, Node.RING])
        fluid = None if setup.caliper.fluid is Fluid.NONE else float(table.fluid_peak_c[at])
        least = float(table.least_mu_per_n[at])
        judged = judge(job, situation, demand, load, end, setup, fixed_of(setup, situation), drag, ring_c, fluid, least)
        price = sum(
            part.price
            for part, on_bike in (
                (setup.rotor, wheel.rotor_id),
                (setup.caliper, wheel.caliper_id),
                (setup.lever, wheel.lever_id),
                (setup.pad, wheel.pad_id),
            )
            if part.id != on_bike
        )
        mass = setup.rotor.mass_g + setup.caliper.mass_g + setup.lever.mass_g + setup.pad.mass_g
        candidate = Candidate(
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
            price,
            mass,
        )
        candidates.append(candidate)
        if isinstance(fitted, WheelSetup) and candidate.ids == Pick(
            rotor_id=fitted.rotor.id, caliper_id=fitted.caliper.id, lever_id=fitted.lever.id, pad_id=fitted.pad.id
        ):
            fitted_smallest = candidate.smallest
    return Choice(end, sifted, tuple(candidates), len(stack), fitted_smallest)


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
