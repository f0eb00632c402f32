"""The tables of the complaint guide: causes, what speaks for each complaint, and the checks that tell causes apart.

Points are doublings of the odds: +1 makes a cause twice as likely, −1 half as likely; what was looked at and is not so
takes 9, which nothing else makes up for. They are judged by us from trade practice, meant to be read and disputed;
``guide`` only adds them up. Source notes: docs/complaints.md.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.setups import PAD_PLAN_MM
from clavis.core.inspection.findings import LIP_MM, RUNOUT_TREAT_MM, UNEVEN_MM, VARIATION_TREAT_MM, WheelView
from clavis.core.job.document import Complaint, Job, Reply, Skill
from clavis.core.job.wheel import LeverFeel, LineState, PistonState, RingColour, RingFace, Seen
from clavis.core.parts.models import Compound, Construction, Fluid, FluidGrade
from clavis.core.physics.bike import GRIP, tyre_grip
from clavis.core.physics.forces import Feel
from clavis.core.physics.friction import COMPOUNDS, PadState
from clavis.core.physics.heat import DOT_AGES_Y, Node
from clavis.core.verdicts import Verdict


class Remedy(IntEnum):
    """What a cure costs, cheapest first. From ADAPTER on it is a part."""

    FREE = 0
    SERVICE = 1
    ADAPTER = 2
    PADS = 3
    ROTOR = 4
    LEVER = 5
    CALIPER = 6

    @property
    def is_part(self) -> bool:
        return self >= Remedy.ADAPTER


REMEDY_WORDS: Mapping[Remedy, str] = {
    Remedy.FREE: "costs nothing",
    Remedy.SERVICE: "service",
    Remedy.ADAPTER: "adapter",
    Remedy.PADS: "pads",
    Remedy.ROTOR: "rotor",
    Remedy.LEVER: "lever",
    Remedy.CALIPER: "caliper or hose",
}


class Cause(StrEnum):
    """What may lie behind a complaint."""

    LONG_DRAGS = "long_drags"
    DABS = "dabs"
    REAR_ALONE = "rear_alone"
    REACH = "reach"
    TYRE = "tyre"
    UNBEDDED = "unbedded"
    DIRT = "dirt"
    OFF_CENTRE = "off_centre"
    LOOSE = "loose"
    FLEX = "flex"
    GRIT = "grit"
    GLAZED = "glazed"
    AIR = "air"
    FLUID = "fluid"
    PISTONS = "pistons"
    CABLE = "cable"
    BENT = "bent"
    FILM = "film"
    WRONG_SIZE = "wrong_size"
    OIL = "oil"
    WORN_PADS = "worn_pads"
    COMPOUND = "compound"
    WORN_RING = "worn_ring"
    WARPS = "warps"
    HEAT = "heat"
    FORCE = "force"
    TOO_STRONG = "too_strong"
    MISMATCH = "mismatch"
    LEAK = "leak"


@dataclass(frozen=True)
class CauseRow:
    """A cause: its name, what its cure costs, the cure, and the station where it is done or measured."""

    cause: Cause
    name: str
    remedy: Remedy
    cure: str
    station: str
    due_by: tuple[str, ...] = ()
    """findings of Measure that make the part due whatever the cause of the complaint"""


C, P = Cause, Complaint
# fmt: off
CAUSES: tuple[CauseRow, ...] = (
    CauseRow(C.LONG_DRAGS, "long rides on the brake", Remedy.FREE, "brake later, harder and shorter, and let go between: compare drag and pulse on this ride", "ride"),
    CauseRow(C.DABS, "many short dabs", Remedy.FREE, "brake once, firmly, and let go", "ride"),
    CauseRow(C.REAR_ALONE, "braked on the rear wheel alone", Remedy.FREE, "both brakes, the front one first: most of the stop is there", "ride"),
    CauseRow(C.REACH, "reach, angle or the finger's place", Remedy.FREE, "blade in line with the forearm, reach set, one finger in the blade's hook", "measure?place=lever"),
    CauseRow(C.TYRE, "tyre: tread, pressure or ground", Remedy.FREE, "pressure and tread for this ground first: the brake cannot give more than the tyre holds", "intake"),
    CauseRow(C.UNBEDDED, "pads not bedded in", Remedy.FREE, "bed in by the plan of the order, each wheel on its own", "build"),
    CauseRow(C.DIRT, "dirty or wet-filmed rotor", Remedy.FREE, "isopropyl alcohol and a clean cloth; no spray near the brake", "measure?place=rotor"),
    CauseRow(C.OFF_CENTRE, "caliper off centre", Remedy.FREE, "loosen, hold the lever, tighten in turns, check by eye", "measure?place=caliper"),
    CauseRow(C.LOOSE, "something loose", Remedy.FREE, "rotor, caliper, adapter, headset and axle to their torque before the next ride", "build"),
    CauseRow(C.FLEX, "flex and a small gap", Remedy.FREE, "centre the caliper, reset the pistons, check axle and spokes", "measure?place=caliper"),
    CauseRow(C.GRIT, "wet grit", Remedy.FREE, "half to a quarter of the life is its price; wash, and read the pads more often", "keep"),
    CauseRow(C.GLAZED, "glazed pads", Remedy.SERVICE, "sand lightly, bed in again", "measure?place=pads"),
    CauseRow(C.AIR, "air in the line", Remedy.SERVICE, "bleed from the caliper upward until no bubbles come", "measure?place=lever"),
    CauseRow(C.FLUID, "old fluid or water in it", Remedy.SERVICE, "fresh fluid of the right family, full bleed", "measure?place=lever"),
    CauseRow(C.PISTONS, "lazy or uneven pistons", Remedy.SERVICE, "clean and work the lazy one with the others held back", "measure?place=caliper"),
    CauseRow(C.CABLE, "cable, housing or fixed pad", Remedy.SERVICE, "take up the cable without lifting the arm, set the fixed pad; new cable and housing where stiff", "measure?place=caliper"),
    CauseRow(C.BENT, "bent rotor", Remedy.SERVICE, "true it; replace it where it does not stay", "measure?place=rotor"),
    CauseRow(C.FILM, "uneven film of pad on the ring", Remedy.SERVICE, "clean the ring, sand the pads lightly, bed in again without holding still while hot", "build"),
    CauseRow(C.WRONG_SIZE, "caliper at another rotor's size", Remedy.ADAPTER, "the adapter for this rotor", "fit", ("pad_edge",)),
    CauseRow(C.OIL, "oil on pads or rotor", Remedy.PADS, "new pads, cleaned rotor, and the leak found; oiled pads do not come back", "measure?place=pads", ("oil", "ring_oil")),
    CauseRow(C.WORN_PADS, "pads worn", Remedy.PADS, "new pads, bedded in", "measure?place=pads", ("pads_thin", "metal")),
    CauseRow(C.COMPOUND, "compound does not suit", Remedy.PADS, "another compound: see what each does on this ride", "choose", ("resin_only",)),
    CauseRow(C.WORN_RING, "rotor worn or uneven in thickness", Remedy.ROTOR, "new rotor", "measure?place=rotor", ("ring_minimum", "variation_high", "cracks")),
    CauseRow(C.WARPS, "one-piece ring that moves when hot", Remedy.ROTOR, "a floating ring, or less heat", "choose"),
    CauseRow(C.HEAT, "undersized for the heat", Remedy.ROTOR, "larger or thicker ring, then four pistons: see what holds on this ride", "choose"),
    CauseRow(C.FORCE, "undersized for the force", Remedy.ROTOR, "larger rotor or another lever ratio: see the reserve", "choose"),
    CauseRow(C.TOO_STRONG, "too strong for rider and tyre", Remedy.ROTOR, "a smaller rotor or a compound with less bite", "choose"),
    CauseRow(C.MISMATCH, "lever and caliper do not match", Remedy.LEVER, "the lever that belongs to this caliper", "choose", ("wrong_lever", "wrong_pull")),
    CauseRow(C.LEAK, "leak at seal or hose", Remedy.CALIPER, "replace what leaks, and pads that were wetted; bleed", "measure?place=caliper", ("leak",)),
)

# What each complaint makes of the causes before anything is known: 0 is even odds, −1 half of that. Others: not asked.
COMPLAINTS: Mapping[Complaint, Mapping[Cause, int]] = {
    P.WEAK: {C.GLAZED: 0, C.UNBEDDED: 0, C.CABLE: 0, C.OIL: -1, C.AIR: -1, C.DIRT: -1, C.WORN_PADS: -1, C.COMPOUND: -1, C.PISTONS: -1, C.REACH: -1, C.REAR_ALONE: -1, C.FORCE: -1, C.OFF_CENTRE: -2, C.WORN_RING: -2, C.TYRE: -2, C.MISMATCH: -2},
    P.FADES: {C.HEAT: 0, C.LONG_DRAGS: 0, C.FLUID: -1, C.GLAZED: -1, C.COMPOUND: -1, C.AIR: -1, C.REAR_ALONE: -1, C.UNBEDDED: -2, C.WORN_PADS: -2, C.WORN_RING: -2},
    P.LONG_LEVER: {C.AIR: 0, C.WORN_PADS: 0, C.CABLE: 0, C.PISTONS: -1, C.FLUID: -1, C.HEAT: -1, C.REACH: -2, C.OFF_CENTRE: -2, C.BENT: -2, C.MISMATCH: -2, C.LEAK: -2},
    P.TO_THE_BAR: {C.AIR: 0, C.FLUID: 0, C.CABLE: 0, C.LEAK: -1, C.HEAT: -1, C.WORN_PADS: -1, C.LONG_DRAGS: -2, C.MISMATCH: -2},
    P.ARM_PUMP: {C.REACH: 0, C.LONG_DRAGS: 0, C.DABS: -1, C.FORCE: -1, C.GLAZED: -1, C.REAR_ALONE: -2, C.AIR: -2, C.COMPOUND: -2, C.MISMATCH: -2},
    P.GRABS: {C.TYRE: 0, C.TOO_STRONG: -1, C.REAR_ALONE: -1, C.REACH: -1, C.LOOSE: -2, C.COMPOUND: -2, C.MISMATCH: -2},
    P.WET_NOISE: {C.DIRT: 0, C.COMPOUND: 0, C.GLAZED: -1, C.OIL: -1, C.UNBEDDED: -2},
    P.HOWLS: {C.OIL: 0, C.GLAZED: 0, C.DIRT: 0, C.LOOSE: -1, C.OFF_CENTRE: -1, C.COMPOUND: -1, C.UNBEDDED: -1, C.WRONG_SIZE: -2, C.WORN_RING: -2},
    P.PULSES: {C.WORN_RING: 0, C.FILM: 0, C.BENT: -1, C.LOOSE: -1, C.WARPS: -2},
    P.DRAGS: {C.OFF_CENTRE: 0, C.PISTONS: 0, C.BENT: -1, C.CABLE: -1, C.LOOSE: -2, C.FLUID: -2, C.WARPS: -2, C.WRONG_SIZE: -2},
    P.RUBS: {C.FLEX: 0, C.OFF_CENTRE: 0, C.LOOSE: -1, C.BENT: -1, C.PISTONS: -2, C.WARPS: -2},
    P.WEARS_PADS: {C.GRIT: 0, C.LONG_DRAGS: -1, C.COMPOUND: -1, C.PISTONS: -1, C.OFF_CENTRE: -1, C.REAR_ALONE: -1, C.HEAT: -1, C.WORN_RING: -2},
    P.DISCOLOURED: {C.LONG_DRAGS: 0, C.HEAT: 0, C.PISTONS: -1, C.REAR_ALONE: -1, C.OFF_CENTRE: -2, C.COMPOUND: -2},
    P.BENT: {C.BENT: 0, C.WARPS: -1, C.LOOSE: -2, C.HEAT: -2},
    P.CONVERSION: {},
}
# fmt: on


@dataclass(frozen=True)
class Known:
    """What Intake and Measure say of the wheels that the complaint is about. ``results`` are the fitted setup's."""

    job: Job
    views: tuple[WheelView, ...]
    results: tuple[WheelResult, ...]
    findings: frozenset[str]


Fact = Callable[[Known], Reply | None]


def _yes(value: bool | None) -> Reply | None:
    return None if value is None else Reply.YES if value else Reply.NO


def _any(of_wheel: Callable[[WheelView], bool | None]) -> Fact:
    """Yes where one wheel says yes, no where every wheel says no, otherwise not known."""

    def fact(k: Known) -> Reply | None:
        said = [of_wheel(v) for v in k.views]
        return Reply.YES if True in said else Reply.NO if said and all(s is False for s in said) else None

    return fact


def _result(of_wheel: Callable[[WheelResult], bool | None]) -> Fact:
    def fact(k: Known) -> Reply | None:
        said = [of_wheel(w) for w in k.results]
        whole = len(k.results) == len(k.views)
        return Reply.YES if True in said else Reply.NO if said and whole and all(s is False for s in said) else None

    return fact


def _in(field: str, yes: set[StrEnum], no: set[StrEnum]) -> Fact:
    return _any(lambda v: True if getattr(v.wheel, field) in yes else False if getattr(v.wheel, field) in no else None)


def _oil(v: WheelView) -> bool | None:
    w = v.wheel
    if w.pad_state is PadState.OILED or w.rotor_face is RingFace.OILED:
        return True
    return None if PadState.NOT_CHECKED is w.pad_state or w.rotor_face is RingFace.NOT_CHECKED else False


def _uneven_ring(v: WheelView) -> bool | None:
    variation, thinnest = v.wheel.rotor_variation_mm, v.wheel.rotor_thinnest_mm
    if variation is None or thinnest is None or v.minimum_mm is None:
        return None
    return variation > VARIATION_TREAT_MM + 1e-9 or thinnest < v.minimum_mm


def _bent(v: WheelView) -> bool | None:
    return None if v.wheel.rotor_runout_mm is None else v.wheel.rotor_runout_mm > RUNOUT_TREAT_MM + 1e-9


def _thin_pads(v: WheelView) -> bool | None:
    return None if v.wheel.pad_material_mm is None else v.wheel.pad_material_mm < PAD_PLAN_MM


def _uneven_pads(v: WheelView) -> bool | None:
    inner, outer = v.wheel.pad_inner_mm, v.wheel.pad_outer_mm
    return None if inner is None or outer is None else abs(inner - outer) > UNEVEN_MM + 1e-9


def _old_fluid(v: WheelView) -> bool | None:
    w = v.wheel
    if w.water_seen:
        return True
    dot = w.fluid_grade in (FluidGrade.DOT4, FluidGrade.DOT51)
    return w.fluid_age_y >= DOT_AGES_Y if dot and w.fluid_age_y is not None else None


def _position(v: WheelView) -> bool | None:
    placed = v.rotor is not None and v.native.size_mm is not None and (v.adapter is not None or v.wheel.no_adapter)
    lip = v.wheel.rotor_lip_mm
    if lip is not None and lip > LIP_MM + 1e-9:
        return True
    return None if not placed else False


def _margins(*keys: str) -> Callable[[WheelResult], bool | None]:
    """Whether a margin of the fitted setup fails on this ride: no only where all of them hold."""

    def fails(w: WheelResult) -> bool | None:
        found = [m.verdict for m in w.margins if m.key in keys]
        if Verdict.FAILS in found:
            return True
        return False if found and all(v is Verdict.HOLDS for v in found) else None

    return fails


def _wrong_size(k: Known) -> Reply | None:
    return Reply.YES if "pad_edge" in k.findings else _any(_position)(k)


def _mismatch(k: Known) -> Reply | None:
    if k.findings & {"wrong_lever", "wrong_pull", "wrong_fluid"}:
        return Reply.YES
    return Reply.NO if all(v.lever and v.caliper for v in k.views) else None


_HOT = {RingColour.STRAW, RingColour.BROWN, RingColour.PURPLE, RingColour.BLUE}
_NOISE = frozenset({P.WET_NOISE, P.HOWLS})
_HEATED = frozenset({P.FADES, P.LONG_LEVER, P.TO_THE_BAR, P.DISCOLOURED, P.WEARS_PADS, P.BENT})
_ROUND = frozenset({P.PULSES, P.DRAGS, P.RUBS, P.BENT, P.HOWLS})


@dataclass(frozen=True)
class CheckRow:
    """One check: a question asked in the guide, or a fact read from the other stations (``field`` says where).

    ``points`` gives, per cause, what *yes* and what *no* add. ``about`` limits it to some complaints.
    """

    key: str
    words: str
    how: str
    points: Mapping[Cause, tuple[int, int]]
    about: frozenset[Complaint] = frozenset()
    fact: Fact | None = None
    place: str = ""

    @property
    def asked(self) -> bool:
        return self.fact is None


# fmt: off
CHECKS: tuple[CheckRow, ...] = (
    # asked of the rider, or tried on the stand
    CheckRow("hot_only", "only after minutes of braking, gone when cold", "ask; or ride one long slope and wait ten minutes", {C.HEAT: (3, -4), C.FLUID: (3, -3), C.COMPOUND: (1, -2), C.LONG_DRAGS: (2, -2), C.WARPS: (2, -2), C.AIR: (-1, 1), C.UNBEDDED: (-3, 1), C.OIL: (-2, 1), C.FORCE: (-2, 1), C.WORN_PADS: (-1, 0), C.CABLE: (-2, 1), C.REACH: (-1, 0), C.GLAZED: (0, 1), C.DIRT: (-2, 0)}),
    CheckRow("new_parts", "began with new pads or a new rotor", "ask when it began", {C.UNBEDDED: (3, -4), C.COMPOUND: (2, -1), C.WRONG_SIZE: (2, -3), C.OFF_CENTRE: (1, 0), C.OIL: (1, 0), C.FILM: (1, 0), C.WORN_PADS: (-5, 0), C.WORN_RING: (-1, 0), C.TOO_STRONG: (2, -1)}),
    CheckRow("bedded", "pads and rotor were bedded in together, with repeated stops", "ask who did it and how many stops", {C.UNBEDDED: (-5, 2), C.FILM: (-1, 1)}),
    CheckRow("opened", "began after a bleed, a shortened hose, or the bike lying upside down", "ask", {C.AIR: (3, -1), C.LEAK: (2, -1), C.OIL: (1, 0)}, frozenset({P.WEAK, P.FADES, P.LONG_LEVER, P.TO_THE_BAR, P.HOWLS})),
    CheckRow("fresh_fluid", "the line had fresh fluid and a full bleed within two years", "ask, or look at the colour of what comes out", {C.FLUID: (-5, 1), C.AIR: (-1, 0)}, _HEATED | {P.DRAGS, P.WEAK}),
    CheckRow("wiped", "gone, or much less, after the rotor was cleaned", "clean it with isopropyl alcohol and ride", {C.DIRT: (4, -5), C.OIL: (-1, 1), C.FILM: (1, -1), C.GLAZED: (-2, 0)}, _NOISE | {P.WEAK}),
    CheckRow("wet_only", "only in the wet", "ask", {C.COMPOUND: (2, -1), C.DIRT: (1, 0), C.OIL: (-2, 1), C.LOOSE: (-2, 0), C.GLAZED: (-1, 0)}, _NOISE | {P.WEAK}),
    CheckRow("skids", "the wheel skids before the brake is hard to pull", "brake hard on the ground that is ridden", {C.TYRE: (3, -4), C.TOO_STRONG: (2, -4), C.FORCE: (-5, 2), C.GLAZED: (-2, 1), C.OIL: (-3, 1)}, frozenset({P.WEAK, P.GRABS, P.ARM_PUMP})),
    CheckRow("tyre_right", "tread and pressure suit this ground", "look at the tyre, read the pressure", {C.TYRE: (-4, 2)}, frozenset({P.WEAK, P.GRABS})),
    CheckRow("holds_on", "the brake is held through whole slopes", "ask, or ride behind", {C.LONG_DRAGS: (3, -5)}, frozenset({P.FADES, P.TO_THE_BAR, P.ARM_PUMP, P.DISCOLOURED, P.WEARS_PADS})),
    CheckRow("dabbing", "the lever is touched many times instead of once", "ride behind", {C.DABS: (3, -5)}, frozenset({P.ARM_PUMP})),
    CheckRow("rear_mostly", "the rear brake does most of the work", "ask; compare front and rear pads", {C.REAR_ALONE: (3, -5)}),
    CheckRow("hook", "one finger sits in the blade's hook with the wrist straight", "look at the rider on the bike", {C.REACH: (-5, 3)}, frozenset({P.WEAK, P.ARM_PUMP, P.GRABS, P.LONG_LEVER})),
    CheckRow("moves", "something moves by hand: rotor, caliper, headset, axle", "rock the bike with the brake on, turn each bolt with the wrench", {C.LOOSE: (5, -5), C.FLEX: (-1, 0)}, _ROUND | {P.GRABS}),
    CheckRow("each_turn", "comes once in every turn of the wheel", "spin it on the stand", {C.BENT: (2, -4), C.WORN_RING: (2, -3), C.FILM: (2, -3), C.OFF_CENTRE: (-3, 1), C.PISTONS: (-2, 1), C.FLEX: (-3, 1)}, _ROUND),
    CheckRow("out_of_saddle", "only out of the saddle or leaning over", "ask; sprint once", {C.FLEX: (3, -4), C.BENT: (-3, 1), C.OFF_CENTRE: (-1, 1), C.PISTONS: (-2, 1)}, frozenset({P.RUBS, P.DRAGS})),
    CheckRow("gritty", "much of the riding is in wet grit or mud", "ask; look at the bike", {C.GRIT: (3, -5)}, frozenset({P.WEARS_PADS})),
    CheckRow("held_hot", "stood still with the brake held while it was hot", "ask; look for the pad's outline on the ring", {C.FILM: (3, -2)}, frozenset({P.PULSES})),
    # read from Intake and Measure
    CheckRow("spongy", "lever spongy, or firm only after pumping", "pull it five times", {C.AIR: (4, -4), C.FORCE: (-1, 0)}, fact=_in("lever_feel", {LeverFeel.SPONGY, LeverFeel.PUMPS_UP}, {LeverFeel.FIRM, LeverFeel.LONG}), place="lever"),
    CheckRow("late", "lever late, then firm", "pull it slowly", {C.WORN_PADS: (2, -1), C.PISTONS: (1, 0), C.CABLE: (2, -2), C.MISMATCH: (1, -1), C.OFF_CENTRE: (1, 0), C.REACH: (1, 0)}, fact=_in("lever_feel", {LeverFeel.LONG}, {LeverFeel.FIRM}), place="lever"),
    CheckRow("oil_seen", "oil on pads or rotor", "look at both faces; a white cloth shows it", {C.OIL: (6, -9)}, fact=_any(_oil), place="pads"),
    CheckRow("glaze_seen", "pads shiny", "take one pad out and look", {C.GLAZED: (4, -9)}, fact=_in("pad_state", {PadState.GLAZED}, {PadState.GOOD, PadState.NEW, PadState.METAL}), place="pads"),
    CheckRow("pads_thin", "pads below the planning figure", "measure both pads", {C.WORN_PADS: (3, -9), C.PISTONS: (0, 0)}, fact=_any(_thin_pads), place="pads"),
    CheckRow("pads_uneven", "one pad of a pair much thinner", "measure both pads", {C.PISTONS: (2, -1), C.OFF_CENTRE: (2, -1)}, fact=_any(_uneven_pads), place="pads"),
    CheckRow("ring_uneven", "rotor under its minimum, or uneven in thickness", "six points with the micrometer", {C.WORN_RING: (4, -9)}, fact=_any(_uneven_ring), place="rotor"),
    CheckRow("ring_bent", "rotor runs out by more than 0.2 mm", "a gauge or a zip tie at the fork, spin", {C.BENT: (4, -9), C.WARPS: (1, -1)}, fact=_any(_bent), place="rotor"),
    CheckRow("ring_coloured", "rotor coloured by heat", "compare with the chart", {C.HEAT: (2, -1), C.LONG_DRAGS: (1, -1), C.GLAZED: (1, 0), C.FLUID: (1, 0)}, fact=_in("rotor_colour", set(_HOT), {RingColour.BRIGHT}), place="rotor"),
    CheckRow("ring_dirty", "dirt or road film on the rotor", "wipe it with a white cloth", {C.DIRT: (3, -4)}, fact=_in("rotor_face", {RingFace.DIRTY}, {RingFace.CLEAN}), place="rotor"),
    CheckRow("lags", "a piston lags or sticks", "pull the lever slowly with the wheel out and a spacer in", {C.PISTONS: (5, -9)}, fact=_in("pistons", {PistonState.LAZY, PistonState.STUCK}, {PistonState.EVEN}), place="caliper"),
    CheckRow("to_one_side", "the rotor does not run mid-slot", "look through the slot against white paper", {C.OFF_CENTRE: (5, -9)}, fact=_in("caliper_centred", {Seen.NO}, {Seen.YES}), place="caliper"),
    CheckRow("leaks", "fluid outside the line", "press the lever, look at seals, hose ends and pads", {C.LEAK: (6, -9), C.AIR: (1, 0), C.OIL: (1, 0)}, fact=_in("line_state", {LineState.LEAKING}, {LineState.GOOD, LineState.WORN}), place="caliper"),
    CheckRow("stiff", "housing stiff or hose kinked", "turn the bar lock to lock while pulling", {C.CABLE: (3, -2)}, fact=_in("line_state", {LineState.WORN}, {LineState.GOOD}), place="caliper"),
    CheckRow("stale", "fluid two years old, or water seen in it", "ask the age; look at a drop", {C.FLUID: (3, -5)}, _HEATED | {P.DRAGS, P.WEAK}, _any(_old_fluid), "lever"),
    CheckRow("hydraulic", "the brake is hydraulic", "look at it", {C.CABLE: (-20, 0), C.AIR: (0, -20), C.FLUID: (0, -20), C.LEAK: (0, -20)}, fact=_any(lambda v: None if v.caliper is None else v.caliper.fluid is not Fluid.NONE), place="caliper"),
    CheckRow("other_size", "the caliper stands at another rotor's size, or the ring has a lip", "rotor, adapter and native size; a fingernail over the edge", {C.WRONG_SIZE: (5, -9), C.OFF_CENTRE: (0, 0)}, fact=_wrong_size, place="mount"),
    CheckRow("strangers", "lever and caliper are not made for each other", "names on both", {C.MISMATCH: (5, -9)}, fact=_mismatch, place="lever"),
    CheckRow("hub_knocks", "play in the hub", "rock the wheel", {C.LOOSE: (3, -1)}, _ROUND, _in("hub_play", {Seen.YES}, {Seen.NO}), "hub"),
    CheckRow("one_piece", "the rotor is of one piece", "look at it", {C.WARPS: (1, -5)}, fact=_any(lambda v: None if v.rotor is None else v.rotor.construction is Construction.ONE_PIECE), place="rotor"),
    # read from Intake
    CheckRow("beginner", "the rider is a beginner", "skill, on Intake: left as practised it says nothing", {C.LONG_DRAGS: (1, -1), C.REAR_ALONE: (1, -1), C.DABS: (1, -1)}, fact=lambda k: {Skill.NOVICE: Reply.YES, Skill.EXPERT: Reply.NO}.get(k.job.rider.skill), place="intake"),
    CheckRow("rear_heavy", "more than 55 % of the braking is at the rear", "share at the front, on Intake", {C.REAR_ALONE: (2, -2)}, fact=lambda k: _yes(None if k.job.rider.front_share_pct is None else k.job.rider.front_share_pct < 45), place="intake"),
    CheckRow("wrong_tread", "the tread does not suit the ground that was entered", "tread and surface, on Intake", {C.TYRE: (2, -1)}, fact=lambda k: _yes(tyre_grip(k.job.conditions.surface, k.job.bike.tread) < GRIP[k.job.conditions.surface]), place="intake"),
    # computed for the bike as it is fitted
    CheckRow("model_heat", "by the model this ride is too hot for what is fitted", "rider, bike, ride and parts entered", {C.HEAT: (4, -5), C.FLUID: (1, 0), C.GLAZED: (1, 0)}, fact=_result(_margins("fade", "ring", "boil", "sandwich")), place="choose"),
    CheckRow("model_fade", "by the model the ring passes the pads' fade temperature", "rider, bike, ride and parts entered", {C.COMPOUND: (2, -2)}, frozenset({P.FADES, P.DISCOLOURED, P.WEARS_PADS}), _result(lambda w: bool(w.heat.peak_c[Node.RING] > COMPOUNDS[w.setup.pad.compound].fade_c)), "choose"),
    CheckRow("model_force", "by the model the hand cannot give the target stop", "rider, bike, ride and parts entered", {C.FORCE: (4, -5)}, fact=_result(_margins("reserve")), place="choose"),
    CheckRow("model_grabs", "by the model the wheel locks at a light pull", "rider, bike, ride and parts entered", {C.TOO_STRONG: (3, -5)}, fact=_result(lambda w: w.forces.feel is Feel.GRABBY), place="choose"),
    CheckRow("loud", "the compound is one that howls or bites late in the wet", "read it on the pad's plate", {C.COMPOUND: (2, -3)}, _NOISE, _any(lambda v: None if v.pad is None else v.pad.compound in (Compound.SINTERED, Compound.SEMI_METALLIC)), "pads"),
)
# fmt: on
CAUSE_ROWS: Mapping[Cause, CauseRow] = {row.cause: row for row in CAUSES}
