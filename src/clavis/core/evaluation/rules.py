"""The hard rules: what is impossible, in the order in which a refusal is counted (model, section 6).

RULES is the table; a rule looks at one or two kinds of part and at the wheel, and says nothing or why not.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from clavis.core.fit.adapters import SAME_SIZE_MM, ChainAnswer, adapter_refusal, native_of, solve_chain
from clavis.core.fit.bolts import choose_bolt
from clavis.core.fit.clearances import (
    METAL_LEAST_MM,
    SPOKE_LEAST_MM,
    arc_verdict,
    edge_verdict,
    metal_room_mm,
    spoke_room_mm,
)
from clavis.core.fit.fit import bolt_stacks
from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM, Stand, seat_of, stand_on
from clavis.core.fit.plate_release import released_plate
from clavis.core.job.document import Axis, Job
from clavis.core.job.special_mount import SpecialMount
from clavis.core.job.wheel import Wheel
from clavis.core.parts.hoses_and_fluids import hose_between
from clavis.core.parts.models import (
    GRADES_OF,
    Adapter,
    AnyPart,
    Bar,
    Caliper,
    Catalogue,
    Compound,
    Fluid,
    FluidPart,
    Fork,
    Frame,
    Hose,
    HubInterface,
    Lever,
    Pad,
    Rotor,
)
from clavis.core.parts.mounts import LABELS, End, MountTelling, tell_mount
from clavis.core.physics.forces import PAD_OVER_TRACK_MM
from clavis.core.verdicts import Verdict


@dataclass(frozen=True)
class WheelContext:
    """What the rules need of the wheel besides the parts."""

    end: End
    wheel: Wheel
    telling: MountTelling
    native_mm: float | None
    catalogue: Catalogue
    special: SpecialMount | None = None
    """the special mount whose plate an engineer has released for this wheel"""
    bar: Bar | None = None
    """the handlebar, as entered or as the lever that is on it says"""
    memo: dict[tuple[object, ...], Any] = field(default_factory=dict, compare=False, repr=False)
    """answers that many combinations of one sieve share"""

    @property
    def largest_mm(self) -> float | None:
        """The lesser of what was entered and what fork or frame states; None where neither is known."""
        part = self.catalogue.carrying(self.end, self.wheel.carrying_id)
        known = (self.wheel.largest_rotor_mm, part.max_rotor_mm if part else None)
        return min((mm for mm in known if mm is not None), default=None)


def bar_of(job: Job, catalogue: Catalogue) -> Bar | None:
    """The bike's handlebar: as entered, or that of a lever that is on it; None where neither tells."""
    if job.bike.bar is not None:
        return job.bike.bar
    levers = (catalogue.levers.get(job.wheel(end).lever_id or "") for end in End)
    return next((lever.bar for lever in levers if lever is not None), None)


def wheel_context(job: Job, end: End, catalogue: Catalogue) -> WheelContext:
    wheel = job.wheel(end)
    telling = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end)
    native = native_of(wheel, end, catalogue).size_mm if telling.kind else None
    special = job.special.of(end)
    released = released_plate(special, end, list(catalogue.bolts.values())) is not None
    return WheelContext(end, wheel, telling, native, catalogue, special if released else None, bar_of(job, catalogue))


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
    most = c.largest_mm
    if most is not None and rotor.diameter_mm > most + 0.25:
        return f"above {most:g} mm, the largest that the {'fork' if c.end is End.FRONT else 'frame'} allows"
    return None


def _chain_of(c: WheelContext, rotor: Rotor, caliper: Caliper) -> ChainAnswer | None:
    """The mount chain of a rotor and a caliper; None while the mount is not told, or where a special plate that is
    released for this rotor stands in for it."""
    if c.telling.kind is None or (c.special is not None and c.special.stands_in(caliper, rotor)):
        return None
    key = ("chain", rotor.diameter_mm, caliper.mount)
    if key not in c.memo:
        c.memo[key] = solve_chain(
            c.telling.kind,
            c.native_mm,
            c.end,
            caliper.mount,
            rotor.diameter_mm,
            c.catalogue.adapters.values(),
            c.wheel.adapter_id,
        )
    found: ChainAnswer = c.memo[key]
    return found


def _chain(c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    answer = _chain_of(c, rotor, caliper)
    return None if answer is None or answer.possible or answer.unknown else answer.reason


def _bolts(c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    answer = _chain_of(c, rotor, caliper)
    if answer is None or not answer.possible:
        return None
    washers = (caliper.washers, caliper.washer_pair_mm)
    key = ("bolts", caliper.mount, caliper.tab_mm, washers, tuple(part.id for part in answer.parts))
    if key not in c.memo:
        c.memo[key] = _bolts_of(c, caliper, answer.parts)
    found: str | None = c.memo[key]
    return found


def _bolts_of(c: WheelContext, caliper: Caliper, parts: tuple[Adapter, ...]) -> str | None:
    if c.telling.kind is None:
        return None
    proud = seat_of(c.telling.kind, c.end, c.native_mm, c.wheel).proud_mm if c.native_mm is not None else 0.0
    for bolt in bolt_stacks(c.telling.kind, c.wheel, caliper, parts, proud):
        choice = choose_bolt(bolt.stack, c.catalogue.bolts.values())
        if choice.bolt is None and not bolt.stack.unmeasured:
            return f"{choice.lacks} ({bolt.stack.place})"
    return None


def _pads_stand(c: WheelContext, rotor: Rotor, caliper: Caliper) -> str | None:
    answer, mount, native = _chain_of(c, rotor, caliper), c.telling.kind, c.native_mm
    if answer is None or not answer.possible or mount is None or native is None:
        return None
    key = ("stand", rotor.diameter_mm, caliper.mount, caliper.four_pistons)
    if key not in c.memo:
        seat = seat_of(mount, c.end, native, c.wheel)
        c.memo[key] = stand_on(seat, mount, c.end, native, caliper.mount, answer, rotor.diameter_mm)
    stand: Stand = c.memo[key]
    error = stand.edge_error_mm(rotor.diameter_mm)
    if edge_verdict(error) is Verdict.FAILS:
        return f"pads {abs(error):.1f} mm {'over' if error > 0 else 'short of'} the rotor's edge"
    off = stand.arc_error_mm(PAD_HALF_LENGTH_MM[caliper.four_pistons])
    return f"pads turned off the track by {off:.1f} mm" if arc_verdict(off) is Verdict.FAILS else None


def _metal(c: WheelContext, rotor: Rotor) -> str | None:
    room = metal_room_mm(c.wheel, rotor)
    if room is None or room >= METAL_LEAST_MM - 1e-9:
        return None
    return f"{room:.1f} mm from the rotor's edge to the nearest metal"


def _spokes(c: WheelContext, caliper: Caliper) -> str | None:
    room = spoke_room_mm(c.wheel, c.catalogue.calipers.get(c.wheel.caliper_id or ""), caliper)
    return None if room is None or room >= SPOKE_LEAST_MM - 1e-9 else f"{room:.1f} mm from the caliper to the spokes"


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


def _fitting(c: WheelContext, caliper: Caliper, lever: Lever) -> str | None:
    """Ends alike need no look at the shelf; others need a hose that has both."""
    if caliper.fluid is not lever.fluid or caliper.fluid is Fluid.NONE or caliper.fitting == lever.fitting:
        return None
    answer = hose_between(lever, caliper, c.catalogue.hoses.values())
    return None if answer.hose else f"no hose joins {lever.fitting} at the lever and {caliper.fitting} at the caliper"


def _bar(c: WheelContext, lever: Lever) -> str | None:
    if c.bar is None or lever.bar is c.bar:
        return None
    return f"a lever for a {lever.bar.value} bar on a {c.bar.value} one"


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
    Rule("pads", "Pads on the track", ("rotor", "caliper"), _pads_stand),
    Rule("metal", "Rotor clears leg and stays", ("rotor",), _metal),
    Rule("spokes", "Caliper clears the spokes", ("caliper",), _spokes),
    Rule("slot", "Rotor in the caliper's slot", ("rotor", "caliper"), _slot),
    Rule("rivets", "Rivets clear the caliper", ("rotor", "caliper"), _rivets),
    Rule("line", "Lever and caliper: fluid or cable", ("caliper", "lever"), _line),
    Rule("fitting", "A hose for both fittings", ("caliper", "lever"), _fitting),
    Rule("bar", "Lever for this bar", ("lever",), _bar),
    Rule("shape", "Pad shape", ("caliper", "pad"), _shape),
    Rule("resin", "Resin-only rotors", ("rotor", "pad"), _resin_only),
    Rule("track", "Pad height on the track", ("rotor", "pad"), _track),
)
AXES = tuple(axis.value for axis in Axis)


def refusals_of(
    context: WheelContext, rotor: Rotor, caliper: Caliper, lever: Lever, pad: Pad
) -> tuple[tuple[Rule, str], ...]:
    """Every rule that one combination fails, with its reason."""
    chosen = {"rotor": rotor, "caliper": caliper, "lever": lever, "pad": pad}
    found = ((rule, rule.check(context, *(chosen[a] for a in rule.over))) for rule in RULES)
    return tuple((rule, reason) for rule, reason in found if reason is not None)


def _carrying_against(c: WheelContext, part: Fork | Frame) -> tuple[str, ...] | None:
    """A fork or frame beside what was measured on the wheel."""
    if isinstance(part, Fork) != (c.end is End.FRONT):
        return (f"a {part.kind} is not at the {c.end.value}",)
    if c.telling.kind is None:
        return None
    if part.mount is not c.telling.kind:
        return (f"its mount is {LABELS[part.mount]}, the one measured {LABELS[c.telling.kind]}",)
    if part.native_mm is not None and c.native_mm is not None and abs(part.native_mm - c.native_mm) > SAME_SIZE_MM:
        return (f"made for {part.native_mm:g}, the one on the bike for {c.native_mm:g}",)
    return ()


def _line_against(part: Hose | FluidPart, lever: object, caliper: object) -> tuple[str, ...] | None:
    """A hose or a bottle beside lever and caliper."""
    if not isinstance(caliper, Caliper) or not isinstance(lever, Lever):
        return None
    if isinstance(part, FluidPart):
        if part.grade not in GRADES_OF[caliper.fluid]:
            return (f"{part.family.value} in a {caliper.fluid.value} line".replace("none", "cable"),)
        if caliper.fluid is Fluid.MINERAL and part.maker != caliper.maker:
            return (f"mineral fluid of another maker than the caliper's, {caliper.maker}",)
        return ()
    if part.fluid is not caliper.fluid:
        return (f"a {part.fluid.value} hose in a {caliper.fluid.value} line".replace("none", "cable"),)
    ends = ((part.lever_fitting, lever.fitting, "lever"), (part.caliper_fitting, caliper.fitting, "caliper"))
    return tuple(f"{mine} does not go on {theirs} at the {where}" for mine, theirs, where in ends if mine != theirs)


def against_wheel(job: Job, end: End, part: AnyPart, catalogue: Catalogue) -> tuple[str, ...] | None:
    """Why a part does not go on a wheel beside what is proposed or fitted there: every hard rule that can be asked.
    Empty where none refuses, None where none can be asked (nothing measured, or a kind the rules do not judge)."""
    context = wheel_context(job, end, catalogue)
    beside: dict[str, object] = {}
    for axis in AXES:
        part_id = getattr(job.proposal.of(end), f"{axis}_id") or getattr(job.wheel(end), f"{axis}_id")
        if part_id is not None:
            beside[axis] = getattr(catalogue, f"{axis}s").get(part_id)
    if isinstance(part, Adapter):
        caliper, mount = beside.get("caliper"), context.telling.kind
        if not isinstance(caliper, Caliper) or mount is None or context.native_mm is None:
            return None
        refusal = adapter_refusal(part, mount, context.native_mm, end, caliper.mount)
        return () if refusal is None else (refusal,)
    if isinstance(part, Fork | Frame):
        return _carrying_against(context, part)
    if isinstance(part, Hose | FluidPart):
        return _line_against(part, beside.get("lever"), beside.get("caliper"))
    chosen = beside | {part.kind: part}
    asked = [r for r in RULES if part.kind in r.over and all(chosen.get(axis) is not None for axis in r.over)]
    if not asked:
        return None
    found = (rule.check(context, *(chosen[axis] for axis in rule.over)) for rule in asked)
    return tuple(reason for reason in found if reason is not None)
