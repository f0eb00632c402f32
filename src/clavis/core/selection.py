"""Choosing: every candidate of a wheel, the hard rules that refuse, the schools that rank (model, section 6).

A candidate is rotor × caliper × lever × pad; adapter and bolts follow from the chain. RULES is the table of
what is impossible, in the order in which a refusal is counted; SCHOOLS the table of objectives.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from clavis.core.bolts import choose_bolt
from clavis.core.chain import solve_chain
from clavis.core.descent import BrakeLoad, heat_steps
from clavis.core.fit import bolt_stacks
from clavis.core.forces import PAD_OVER_TRACK_MM, Feel, WheelForces
from clavis.core.friction import COMPOUNDS, state_ratio
from clavis.core.heat import Node, node_row, peaks_of
from clavis.core.job import Job, Pick, School, Wheel
from clavis.core.judging import Demand, drag_force_n, fixed_of, judge
from clavis.core.mounts import End, MountTelling, native_size_mm, tell_mount
from clavis.core.parts import Caliper, Catalogue, Compound, Fluid, HubInterface, Lever, Pad, Rotor
from clavis.core.setups import WheelSetup, setup_of
from clavis.core.situation import Situation
from clavis.core.verdicts import Margin, Verdict, deciding_margin, worst


@dataclass(frozen=True)
class WheelContext:
    """What the rules need of the wheel besides the parts."""

    end: End
    wheel: Wheel
    telling: MountTelling
    native_mm: float | None
    catalogue: Catalogue


def wheel_context(job: Job, end: End, catalogue: Catalogue) -> WheelContext:
    wheel = job.wheel(end)
    telling = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end)
    native = native_size_mm(telling.kind, end, wheel.native_rotor_mm) if telling.kind else None
    return WheelContext(end, wheel, telling, native, catalogue)


@dataclass(frozen=True)
class Rule:
    """A hard rule over one or two kinds of part. ``check`` gives the reason for a refusal, or None."""

    key: str
    title: str
    over: tuple[str, ...]
    check: Callable[..., str | None]


def _hub(c: WheelContext, rotor: Rotor) -> str | None:
    if c.wheel.hub is HubInterface.SIX_BOLT and rotor.interface is HubInterface.SPLINED:
        return "a splined rotor does not go on a six-bolt hub"
    return None


def _not_below_native(c: WheelContext, rotor: Rotor) -> str | None:
    if c.native_mm is not None and rotor.diameter_mm < c.native_mm - 0.25:
        return f"below the native size {c.native_mm:g}"
    return None


def _not_above_limit(c: WheelContext, rotor: Rotor) -> str | None:
    most = c.wheel.max_rotor_mm
    if most is not None and rotor.diameter_mm > most + 0.25:
        return f"above {most:g} mm, the largest that the {'fork' if c.end is End.FRONT else 'frame'} allows"
    return None


def _chain(c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    if c.telling.kind is None:
        return None
    answer = solve_chain(
        c.telling.kind, c.wheel.native_rotor_mm, c.end, caliper.mount, rotor.diameter_mm, c.catalogue.adapters.values()
    )
    return None if answer.possible or answer.unknown else answer.reason


def _bolts(c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    if c.telling.kind is None:
        return None
    answer = solve_chain(
        c.telling.kind, c.wheel.native_rotor_mm, c.end, caliper.mount, rotor.diameter_mm, c.catalogue.adapters.values()
    )
    if not answer.possible:
        return None
    for stack in bolt_stacks(c.telling.kind, c.wheel, caliper, answer.adapter):
        choice = choose_bolt(stack, c.catalogue.bolts.values())
        if choice.bolt is None and not stack.unmeasured:
            return f"{choice.lacks} ({stack.place})"
    return None


def _slot(_c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    if rotor.thickness_mm > caliper.slot_mm + 1e-9:
        return f"rotor of {rotor.thickness_mm:g} mm in a slot for {caliper.slot_mm:g}"
    return None


def _rivets(_c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    if rotor.rivet_out_mm > caliper.rivet_room_mm:
        return "the rivets would meet the caliper"
    return None


def _line(_c: WheelContext, caliper: Caliper, lever: Lever) -> str | None:
    if caliper.fluid is not lever.fluid:
        return f"{lever.fluid.value} lever on a {caliper.fluid.value} caliper".replace("none", "cable")
    if caliper.fluid is Fluid.NONE and caliper.pull is not lever.pull:
        return "short and long cable pull do not go together"
    return None


def _fitting(_c: WheelContext, caliper: Caliper, lever: Lever) -> str | None:
    if caliper.fluid is not Fluid.NONE and caliper.fitting != lever.fitting:
        return f"hose fittings differ: {lever.fitting} and {caliper.fitting}"
    return None


def _shape(_c: WheelContext, caliper: Caliper, pad: Pad) -> str | None:
    return None if pad.shape == caliper.pad_shape else f"pad shape {pad.shape} in a caliper for {caliper.pad_shape}"


def _resin_only(_c: WheelContext, rotor: Rotor, pad: Pad) -> str | None:
    if rotor.resin_only and pad.compound is not Compound.RESIN:
        return "the rotor is marked for resin pads only"
    return None


def _track(_c: WheelContext, rotor: Rotor, pad: Pad) -> str | None:
    if pad.height_mm > rotor.track_mm + PAD_OVER_TRACK_MM:
        return f"pad {pad.height_mm:g} mm high on a track of {rotor.track_mm:g}: it would ride the arms"
    return None


RULES: tuple[Rule, ...] = (
    Rule("hub", "Rotor to hub", ("rotor",), _hub),
    Rule("native", "Not below the native size", ("rotor",), _not_below_native),
    Rule("limit", "Not above the limit of fork or frame", ("rotor",), _not_above_limit),
    Rule("chain", "One adapter, never two", ("rotor", "caliper"), _chain),
    Rule("bolts", "Bolts of a stock length", ("rotor", "caliper"), _bolts),
    Rule("slot", "Rotor in the caliper's slot", ("rotor", "caliper"), _slot),
    Rule("rivets", "Rivets clear the caliper", ("rotor", "caliper"), _rivets),
    Rule("line", "Lever and caliper: fluid or cable", ("caliper", "lever"), _line),
    Rule("fitting", "Hose fittings", ("caliper", "lever"), _fitting),
    Rule("shape", "Pad shape", ("caliper", "pad"), _shape),
    Rule("resin", "Resin-only rotors", ("rotor", "pad"), _resin_only),
    Rule("track", "Pad height on the track", ("rotor", "pad"), _track),
)
AXES = ("rotor", "caliper", "lever", "pad")


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


def sieve(context: WheelContext) -> Sieve:
    """Drop the impossible; each combination is counted under the first rule that it fails."""
    cat = context.catalogue
    parts: dict[str, list[Any]] = {
        "rotor": [p for p in cat.rotors.values() if not p.retired],
        "caliper": [p for p in cat.calipers.values() if not p.retired],
        "lever": [p for p in cat.levers.values() if not p.retired],
        "pad": [p for p in cat.pads.values() if not p.retired],
    }
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


def refusals_of(
    context: WheelContext, rotor: Rotor, caliper: Caliper, lever: Lever, pad: Pad
) -> tuple[tuple[Rule, str], ...]:
    """Every rule that one combination fails, with its reason."""
    chosen = {"rotor": rotor, "caliper": caliper, "lever": lever, "pad": pad}
    found = ((rule, rule.check(context, *(chosen[a] for a in rule.over))) for rule in RULES)
    return tuple((rule, reason) for rule, reason in found if reason is not None)


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
    """A school's objective: what it asks for in words, and the key it sorts by (least first)."""

    school: School
    title: str
    words: str
    key: Callable[["Candidate", float | None], tuple[float, ...]]


_RANK = {Verdict.HOLDS: 0.0, Verdict.TIGHT: 1.0, Verdict.UNKNOWN: 1.5, Verdict.FAILS: 3.0}


def _feel_penalty(c: Candidate) -> float:
    return 1.0 if c.forces.feel is Feel.GRABBY else 0.0


def _quiet_score(c: Candidate) -> float:
    row = COMPOUNDS[c.pad.compound]
    return row.noise_score + row.wet_score + row.cold_score - (0.5 if c.rotor.construction.value == "floating" else 0.0)


def _gain_per_money(c: Candidate, fitted: float | None) -> float:
    gain = c.smallest - (fitted if fitted is not None else 0.0)
    return gain / max(c.price, 1.0) if c.price > 0 else 0.0


SCHOOLS: tuple[SchoolRow, ...] = (
    SchoolRow(
        School.LEAN,
        "Lean",
        "least mass of those that hold every margin",
        lambda c, _f: (_RANK[c.verdict], c.mass_g, -c.smallest),
    ),
    SchoolRow(
        School.COOL,
        "Cool",
        "greatest smallest margin",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, -round(c.smallest, 3), c.mass_g),
    ),
    SchoolRow(
        School.LIGHT_HAND,
        "Light hand",
        "least finger force at target that is not grabby",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, _feel_penalty(c), c.forces.finger_target_n),
    ),
    SchoolRow(
        School.THRIFT,
        "Thrift",
        "greatest gain of the worst margin per money",
        lambda c, f: (_RANK[c.verdict], -_gain_per_money(c, f), c.price),
    ),
    SchoolRow(
        School.QUIET,
        "Quiet",
        "least noise, best wet manners and cold bite",
        lambda c, _f: (1.0 if c.verdict is Verdict.FAILS else 0.0, _quiet_score(c), -round(c.smallest, 3)),
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

    def ranked(self, school: School, most: int = 5) -> list[Candidate]:
        row = next(s for s in SCHOOLS if s.school is school)
        return sorted(self.candidates, key=lambda c: row.key(c, self.fitted_smallest))[:most]


def _smallest(margins: Sequence[Margin]) -> float:
    known = [m.relative for m in margins if m.relative is not None and m.key != "rotor_limit"]
    return min(known, default=0.0)


def choose(job: Job, end: End, situation: Situation, demand: Demand, load: BrakeLoad, catalogue: Catalogue) -> Choice:
    """Every feasible candidate of a wheel over the ride: one integration for the heat-distinct ones together."""
    context = wheel_context(job, end, catalogue)
    sifted = sieve(context)
    steps = heat_steps(load, situation.sharing, end)
    drag = drag_force_n(steps)
    p, bike, wheel = situation.parameters, situation.bike, job.wheel(end)
    wet = situation.wet
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
            stack.append(
                node_row(rotor, setup.thickness_mm, pad, setup.material_mm, caliper, end, bike.wheel_radius_m, wet, p)
            )
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
            _smallest(judged.margins),
            price,
            mass,
        )
        candidates.append(candidate)
        if isinstance(fitted, WheelSetup) and candidate.ids == Pick(
            rotor_id=fitted.rotor.id, caliper_id=fitted.caliper.id, lever_id=fitted.lever.id, pad_id=fitted.pad.id
        ):
            fitted_smallest = candidate.smallest
    return Choice(end, sifted, tuple(candidates), len(stack), fitted_smallest)


def neighbours(job: Job, end: End, kind: str, current_id: str | None, catalogue: Catalogue) -> list[Any]:
    """Parts of one kind in the order in which a key steps through them: rotors by diameter, thickness, mass."""
    table: Mapping[str, Any] = getattr(catalogue, f"{kind}s")
    orders: dict[str, Callable[[Any], tuple[Any, ...]]] = {
        "rotor": lambda r: (r.diameter_mm, r.thickness_mm, r.mass_g, r.id),
        "caliper": lambda c: (c.piston_area_mm2, c.mass_g, c.id),
        "lever": lambda v: (v.ratio, v.id),
        "pad": lambda d: (d.shape, list(Compound).index(d.compound), d.id),
    }
    return sorted((p for p in table.values() if not p.retired or p.id == current_id), key=orders[kind])
