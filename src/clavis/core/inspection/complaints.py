"""The tables of the complaint guide: causes, what speaks for each complaint, and the checks that tell causes apart.

Points are doublings of the odds: +1 makes a cause twice as likely, −1 half as likely; what was looked at and is not so
takes 9, which nothing else makes up for. They are judged by us from trade practice, meant to be read and disputed;
``guide`` only adds them up. Source notes: docs/complaints.md.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from clavis.core.evaluation.condition_readings import RUNOUT_TREAT_MM
from clavis.core.evaluation.conditions import conditions_of
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.wheel_cases import WheelCase
from clavis.core.job.document import Complaint, Job, Reply, Skill
from clavis.core.job.places import Place, Task
from clavis.core.job.wheel import LeverFeel, LineState, PistonState, RotorColour, RotorFace, Seen
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import AGES_OVER_Y, Fluid
from clavis.core.parts.models import Construction
from clavis.core.physics.bike import GRIP, tyre_grip
from clavis.core.physics.forces import Feel
from clavis.core.physics.friction import PadState
from clavis.core.physics.heat import Node
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict


class RepairKind(IntEnum):
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
        return self >= RepairKind.ADAPTER


REMEDY_WORDS: Mapping[RepairKind, str] = {
    RepairKind.FREE: "costs nothing",
    RepairKind.SERVICE: "service",
    RepairKind.ADAPTER: "adapter",
    RepairKind.PADS: "pads",
    RepairKind.ROTOR: "rotor",
    RepairKind.LEVER: "lever",
    RepairKind.CALIPER: "caliper or hose",
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
    WORN_ROTOR = "worn_rotor"
    WARPS = "warps"
    HEAT = "heat"
    FORCE = "force"
    TOO_STRONG = "too_strong"
    MISMATCH = "mismatch"
    LEAK = "leak"


@dataclass(frozen=True)
class CauseRow:
    """A cause: its name, what its cure costs, the cure, and where it is done or measured."""

    cause: Cause
    name: str
    remedy: RepairKind
    cure: str
    where: Place | Task
    due_by: tuple[str, ...] = ()
    """findings that make the part due whatever the cause of the complaint"""


C, P = Cause, Complaint
# fmt: off
CAUSES: tuple[CauseRow, ...] = (
    CauseRow(C.LONG_DRAGS, "long rides on the brake", RepairKind.FREE, "brake later, harder and shorter, and let go between: compare drag and pulse on this ride", Task.RIDING),
    CauseRow(C.DABS, "many short dabs", RepairKind.FREE, "brake once, firmly, and let go", Task.RIDING),
    CauseRow(C.REAR_ALONE, "braked on the rear wheel alone", RepairKind.FREE, "both brakes, the front one first: most of the stop is there", Task.RIDING),
    CauseRow(C.REACH, "reach, angle or the finger's place", RepairKind.FREE, "blade in line with the forearm, reach set, one finger in the blade's hook", Place.LEVER),
    CauseRow(C.TYRE, "tyre: tread, pressure or ground", RepairKind.FREE, "pressure and tread for this ground first: the brake cannot give more than the tyre holds", Task.RIDER_AND_BIKE),
    CauseRow(C.UNBEDDED, "pads not bedded in", RepairKind.FREE, "bed in by the plan of the order, each wheel on its own", Task.WORK),
    CauseRow(C.DIRT, "dirty or wet-filmed rotor", RepairKind.FREE, "isopropyl alcohol and a clean cloth; no spray near the brake", Place.ROTOR),
    CauseRow(C.OFF_CENTRE, "caliper off centre", RepairKind.FREE, "loosen, hold the lever, tighten in turns, check by eye", Place.CALIPER),
    CauseRow(C.LOOSE, "something loose", RepairKind.FREE, "rotor, caliper, adapter, headset and axle to their torque before the next ride", Task.WORK),
    CauseRow(C.FLEX, "flex and a small gap", RepairKind.FREE, "centre the caliper, reset the pistons, check axle and spokes", Place.CALIPER),
    CauseRow(C.GRIT, "wet grit", RepairKind.FREE, "half to a quarter of the life is its price; wash, and read the pads more often", Task.LOGBOOK),
    CauseRow(C.GLAZED, "glazed pads", RepairKind.SERVICE, "sand lightly, bed in again", Place.PADS),
    CauseRow(C.AIR, "air in the line", RepairKind.SERVICE, "bleed from the caliper upward until no bubbles come", Place.LEVER),
    CauseRow(C.FLUID, "old fluid or water in it", RepairKind.SERVICE, "fresh fluid of the right family, full bleed", Place.LEVER),
    CauseRow(C.PISTONS, "lazy or uneven pistons", RepairKind.SERVICE, "clean and work the lazy one with the others held back", Place.CALIPER),
    CauseRow(C.CABLE, "cable, housing or fixed pad", RepairKind.SERVICE, "take up the cable without lifting the arm, set the fixed pad; new cable and housing where stiff", Place.CALIPER),
    CauseRow(C.BENT, "bent rotor", RepairKind.SERVICE, "true it; replace it if it does not stay true", Place.ROTOR),
    CauseRow(C.FILM, "uneven film of pad on the rotor", RepairKind.SERVICE, "clean the rotor, sand the pads lightly, bed in again without holding still while hot", Task.WORK),
    CauseRow(C.WRONG_SIZE, "caliper at another rotor's size", RepairKind.ADAPTER, "the adapter for this rotor", Task.FITTING, ("edge",)),
    CauseRow(C.OIL, "oil on pads or rotor", RepairKind.PADS, "new pads, cleaned rotor, and the leak found; oiled pads do not come back", Place.PADS, ("oil", "rotor_oil")),
    CauseRow(C.WORN_PADS, "pads worn", RepairKind.PADS, "new pads, bedded in", Place.PADS, ("pads_thin", "metal")),
    CauseRow(C.COMPOUND, "compound does not suit", RepairKind.PADS, "another compound: see what each does on this ride", Task.CHOICE, ("compound",)),
    CauseRow(C.WORN_ROTOR, "rotor worn or uneven in thickness", RepairKind.ROTOR, "new rotor", Place.ROTOR, ("rotor_minimum", "variation_high", "cracks")),
    CauseRow(C.WARPS, "one-piece rotor that moves when hot", RepairKind.ROTOR, "a floating rotor, or less heat", Task.CHOICE),
    CauseRow(C.HEAT, "undersized for the heat", RepairKind.ROTOR, "larger or thicker rotor, then four pistons: see what holds on this ride", Task.CHOICE),
    CauseRow(C.FORCE, "undersized for the force", RepairKind.ROTOR, "larger rotor or another lever ratio: see the reserve", Task.CHOICE),
    CauseRow(C.TOO_STRONG, "too strong for rider and tyre", RepairKind.ROTOR, "a smaller rotor or a compound with less bite", Task.CHOICE),
    CauseRow(C.MISMATCH, "lever and caliper do not match", RepairKind.LEVER, "the lever that belongs to this caliper", Task.CHOICE, ("line", "pull")),
    CauseRow(C.LEAK, "leak at seal or hose", RepairKind.CALIPER, "replace what leaks, and pads that were wetted; bleed", Place.CALIPER, ("leak",)),
)

# What each complaint makes of the causes before anything is known: 0 is even odds, −1 half of that. Others: not asked.
COMPLAINTS: Mapping[Complaint, Mapping[Cause, int]] = {
    P.WEAK: {C.GLAZED: 0, C.UNBEDDED: 0, C.CABLE: 0, C.OIL: -1, C.AIR: -1, C.DIRT: -1, C.WORN_PADS: -1, C.COMPOUND: -1, C.PISTONS: -1, C.REACH: -1, C.REAR_ALONE: -1, C.FORCE: -1, C.OFF_CENTRE: -2, C.WORN_ROTOR: -2, C.TYRE: -2, C.MISMATCH: -2},
    P.FADES: {C.HEAT: 0, C.LONG_DRAGS: 0, C.FLUID: -1, C.GLAZED: -1, C.COMPOUND: -1, C.AIR: -1, C.REAR_ALONE: -1, C.UNBEDDED: -2, C.WORN_PADS: -2, C.WORN_ROTOR: -2},
    P.LONG_LEVER: {C.AIR: 0, C.WORN_PADS: 0, C.CABLE: 0, C.PISTONS: -1, C.FLUID: -1, C.HEAT: -1, C.REACH: -2, C.OFF_CENTRE: -2, C.BENT: -2, C.MISMATCH: -2, C.LEAK: -2},
    P.TO_THE_BAR: {C.AIR: 0, C.FLUID: 0, C.CABLE: 0, C.LEAK: -1, C.HEAT: -1, C.WORN_PADS: -1, C.LONG_DRAGS: -2, C.MISMATCH: -2},
    P.ARM_PUMP: {C.REACH: 0, C.LONG_DRAGS: 0, C.DABS: -1, C.FORCE: -1, C.GLAZED: -1, C.REAR_ALONE: -2, C.AIR: -2, C.COMPOUND: -2, C.MISMATCH: -2},
    P.GRABS: {C.TYRE: 0, C.TOO_STRONG: -1, C.REAR_ALONE: -1, C.REACH: -1, C.LOOSE: -2, C.COMPOUND: -2, C.MISMATCH: -2},
    P.WET_NOISE: {C.DIRT: 0, C.COMPOUND: 0, C.GLAZED: -1, C.OIL: -1, C.UNBEDDED: -2},
    P.HOWLS: {C.OIL: 0, C.GLAZED: 0, C.DIRT: 0, C.LOOSE: -1, C.OFF_CENTRE: -1, C.COMPOUND: -1, C.UNBEDDED: -1, C.WRONG_SIZE: -2, C.WORN_ROTOR: -2},
    P.PULSES: {C.WORN_ROTOR: 0, C.FILM: 0, C.BENT: -1, C.LOOSE: -1, C.WARPS: -2},
    P.DRAGS: {C.OFF_CENTRE: 0, C.PISTONS: 0, C.BENT: -1, C.CABLE: -1, C.LOOSE: -2, C.FLUID: -2, C.WARPS: -2, C.WRONG_SIZE: -2},
    P.RUBS: {C.FLEX: 0, C.OFF_CENTRE: 0, C.LOOSE: -1, C.BENT: -1, C.PISTONS: -2, C.WARPS: -2},
    P.WEARS_PADS: {C.GRIT: 0, C.LONG_DRAGS: -1, C.COMPOUND: -1, C.PISTONS: -1, C.OFF_CENTRE: -1, C.REAR_ALONE: -1, C.HEAT: -1, C.WORN_ROTOR: -2},
    P.DISCOLOURED: {C.LONG_DRAGS: 0, C.HEAT: 0, C.PISTONS: -1, C.REAR_ALONE: -1, C.OFF_CENTRE: -2, C.COMPOUND: -2},
    P.BENT: {C.BENT: 0, C.WARPS: -1, C.LOOSE: -2, C.HEAT: -2},
    P.CONVERSION: {},
}
# fmt: on


@dataclass(frozen=True)
class Known:
    """What is entered and measured of the wheels that the complaint is about: as fitted, with their results where the
    ride can be computed."""

    job: Job
    cases: tuple[WheelCase, ...]
    results: tuple[WheelResult, ...]
    entered: bool = False
    """rider, bike, ride and parts are there: what the model cannot say now, it does not say for lack of them"""

    @property
    def findings(self) -> frozenset[str]:
        """What was found wrong on any of these wheels."""
        return frozenset().union(*(found_on(case) for case in self.cases))


def found_on(case: WheelCase) -> frozenset[str]:
    """The conditions that speak of a wheel, and the checks that fail on it, by their keys."""
    conditions = {c.row.key for c in conditions_of(case.wheel)}
    return frozenset(conditions | {c.key for c in case.checks if c.verdict is Verdict.FAILS})


Fact = Callable[[Known], Reply | None]


def _yes(value: bool | None) -> Reply | None:
    return None if value is None else Reply.YES if value else Reply.NO


def _any(of_wheel: Callable[[WheelCase], bool | None]) -> Fact:
    """Yes where one wheel says yes, no where every wheel says no, otherwise not known."""

    def fact(k: Known) -> Reply | None:
        said = [of_wheel(case) for case in k.cases]
        return Reply.YES if True in said else Reply.NO if said and all(s is False for s in said) else None

    return fact


def _result(of_wheel: Callable[[WheelResult], bool | None]) -> Fact:
    """What the model says. Where everything that it asks for is entered and it cannot say, nobody is asked."""

    def fact(k: Known) -> Reply | None:
        said = [of_wheel(w) for w in k.results]
        whole = len(k.results) == len(k.cases)
        if True in said:
            return Reply.YES
        if said and whole and all(s is False for s in said):
            return Reply.NO
        return Reply.NOT_KNOWN if k.entered else None

    return fact


def _in(field: str, yes: set[StrEnum], no: set[StrEnum]) -> Fact:
    def of_wheel(case: WheelCase) -> bool | None:
        value = getattr(case.wheel.measured, field)
        return True if value in yes else False if value in no else None

    return _any(of_wheel)


def _found(keys: Collection[str], looked: Callable[[WheelCase], bool]) -> Fact:
    """Yes where one of these findings is made; no where it was looked at and is not so."""
    return _any(lambda case: True if found_on(case) & set(keys) else False if looked(case) else None)


def _read(*fields: str) -> Callable[[WheelCase], bool]:
    return lambda case: all(getattr(case.wheel.measured, field) is not None for field in fields)


def _faces_seen(case: WheelCase) -> bool:
    m = case.wheel.measured
    return PadState.NOT_CHECKED is not m.pad_state and m.rotor_face is not RotorFace.NOT_CHECKED


def _thickness_read(case: WheelCase) -> bool:
    """Whether it is even is read from the readings; whether it is above its minimum, where nobody states one, is asked
    of its maker, not of the readings."""
    return case.wheel.measured.rotor_variation_mm is not None


def _age_known(case: WheelCase) -> bool:
    return case.wheel.measured.fluid_age_y is not None


def _placed(case: WheelCase) -> bool:
    return case.wheel.on_it.rotor is not None and case.wheel.native.mm is not None and case.wheel.adapter_known


def _pair_known(case: WheelCase) -> bool:
    return case.wheel.on_it.lever is not None and case.wheel.on_it.caliper is not None


def _margins(*keys: str) -> Callable[[WheelResult], bool | None]:
    """Whether a margin of the fitted setup fails on this ride; one that is tight does not. Not known where one that
    could fail is not."""

    def fails(w: WheelResult) -> bool | None:
        found = [m.verdict for m in w.margins if m.key in keys]
        if Verdict.FAILS in found:
            return True
        return None if Verdict.UNKNOWN in found else False

    return fails


FRONT_SHARE_PCT = 45.0
"""a rider who brakes less than this in front leans on the rear"""
_HOT = {RotorColour.STRAW, RotorColour.BROWN, RotorColour.PURPLE, RotorColour.BLUE}
_NOISE = frozenset({P.WET_NOISE, P.HOWLS})
_HEATED = frozenset({P.FADES, P.LONG_LEVER, P.TO_THE_BAR, P.DISCOLOURED, P.WEARS_PADS, P.BENT})
_ROUND = frozenset({P.PULSES, P.DRAGS, P.RUBS, P.BENT, P.HOWLS})


@dataclass(frozen=True)
class QuestionRow:
    """One question: asked of the rider or tried on the stand, or a fact that is known already (``place`` says where).

    ``points`` gives, per cause, what *yes* and what *no* add. ``about`` limits it to some complaints.
    """

    key: str
    words: Words
    how: str
    points: Mapping[Cause, tuple[int, int]]
    about: frozenset[Complaint] = frozenset()
    fact: Fact | None = None
    place: Place | Task | None = None

    @property
    def asked(self) -> bool:
        return self.fact is None


# fmt: off
QUESTIONS: tuple[QuestionRow, ...] = (
    # asked of the rider, or tried on the stand
    QuestionRow("hot_only", "only after minutes of braking, gone when cold", "ask; or ride one long slope and wait ten minutes", {C.HEAT: (3, -4), C.FLUID: (3, -3), C.COMPOUND: (1, -2), C.LONG_DRAGS: (2, -2), C.WARPS: (2, -2), C.AIR: (-1, 1), C.UNBEDDED: (-3, 1), C.OIL: (-2, 1), C.FORCE: (-2, 1), C.WORN_PADS: (-1, 0), C.CABLE: (-2, 1), C.REACH: (-1, 0), C.GLAZED: (0, 1), C.DIRT: (-2, 0)}),
    QuestionRow("new_parts", "began with new pads or a new rotor", "ask when it began", {C.UNBEDDED: (3, -4), C.COMPOUND: (2, -1), C.WRONG_SIZE: (2, -3), C.OFF_CENTRE: (1, 0), C.OIL: (1, 0), C.FILM: (1, 0), C.WORN_PADS: (-5, 0), C.WORN_ROTOR: (-1, 0), C.TOO_STRONG: (2, -1)}),
    QuestionRow("bedded", "pads and rotor were bedded in together, with repeated stops", "ask who did it and how many stops", {C.UNBEDDED: (-5, 2), C.FILM: (-1, 1)}),
    QuestionRow("opened", "began after a bleed, a shortened hose, or the bike lying upside down", "ask", {C.AIR: (3, -1), C.LEAK: (2, -1), C.OIL: (1, 0)}, frozenset({P.WEAK, P.FADES, P.LONG_LEVER, P.TO_THE_BAR, P.HOWLS})),
    QuestionRow("fresh_fluid", say("the line had fresh fluid and a full bleed within {age_y:g}", age_y=AGES_OVER_Y), "ask, or look at the colour of what comes out", {C.FLUID: (-5, 1), C.AIR: (-1, 0)}, _HEATED | {P.DRAGS, P.WEAK}),
    QuestionRow("wiped", "gone, or much less, after the rotor was cleaned", "clean it with isopropyl alcohol and ride", {C.DIRT: (4, -5), C.OIL: (-1, 1), C.FILM: (1, -1), C.GLAZED: (-2, 0)}, _NOISE | {P.WEAK}),
    QuestionRow("wet_only", "only in the wet", "ask", {C.COMPOUND: (2, -1), C.DIRT: (1, 0), C.OIL: (-2, 1), C.LOOSE: (-2, 0), C.GLAZED: (-1, 0)}, _NOISE | {P.WEAK}),
    QuestionRow("skids", "the wheel skids before the brake is hard to pull", "brake hard on the ground that is ridden", {C.TYRE: (3, -4), C.TOO_STRONG: (2, -4), C.FORCE: (-5, 2), C.GLAZED: (-2, 1), C.OIL: (-3, 1)}, frozenset({P.WEAK, P.GRABS, P.ARM_PUMP})),
    QuestionRow("tyre_right", "tread and pressure suit this ground", "look at the tyre, read the pressure", {C.TYRE: (-4, 2)}, frozenset({P.WEAK, P.GRABS})),
    QuestionRow("holds_on", "the brake is held through whole slopes", "ask, or ride behind", {C.LONG_DRAGS: (3, -5)}, frozenset({P.FADES, P.TO_THE_BAR, P.ARM_PUMP, P.DISCOLOURED, P.WEARS_PADS})),
    QuestionRow("dabbing", "the lever is touched many times instead of once", "ride behind", {C.DABS: (3, -5)}, frozenset({P.ARM_PUMP})),
    QuestionRow("rear_mostly", "the rear brake does most of the work", "ask; compare front and rear pads", {C.REAR_ALONE: (3, -5)}),
    QuestionRow("hook", "one finger sits in the blade's hook with the wrist straight", "look at the rider on the bike", {C.REACH: (-5, 3)}, frozenset({P.WEAK, P.ARM_PUMP, P.GRABS, P.LONG_LEVER})),
    QuestionRow("moves", "something moves by hand: rotor, caliper, headset, axle", "rock the bike with the brake on, turn each bolt with the wrench", {C.LOOSE: (5, -5), C.FLEX: (-1, 0)}, _ROUND | {P.GRABS}),
    QuestionRow("each_turn", "comes once in every turn of the wheel", "spin it on the stand", {C.BENT: (2, -4), C.WORN_ROTOR: (2, -3), C.FILM: (2, -3), C.OFF_CENTRE: (-3, 1), C.PISTONS: (-2, 1), C.FLEX: (-3, 1)}, _ROUND),
    QuestionRow("out_of_saddle", "only out of the saddle or leaning over", "ask; sprint once", {C.FLEX: (3, -4), C.BENT: (-3, 1), C.OFF_CENTRE: (-1, 1), C.PISTONS: (-2, 1)}, frozenset({P.RUBS, P.DRAGS})),
    QuestionRow("gritty", "much of the riding is in wet grit or mud", "ask; look at the bike", {C.GRIT: (3, -5)}, frozenset({P.WEARS_PADS})),
    QuestionRow("held_hot", "stood still with the brake held while it was hot", "ask; look for the pad's outline on the rotor", {C.FILM: (3, -2)}, frozenset({P.PULSES})),
    # read from Intake and Measure
    QuestionRow("spongy", "lever spongy, or firm only after pumping", "pull it five times", {C.AIR: (4, -4), C.FORCE: (-1, 0)}, fact=_in("lever_feel", {LeverFeel.SPONGY, LeverFeel.PUMPS_UP}, {LeverFeel.FIRM, LeverFeel.LONG}), place=Place.LEVER),
    QuestionRow("late", "lever late, then firm", "pull it slowly", {C.WORN_PADS: (2, -1), C.PISTONS: (1, 0), C.CABLE: (2, -2), C.MISMATCH: (1, -1), C.OFF_CENTRE: (1, 0), C.REACH: (1, 0)}, fact=_in("lever_feel", {LeverFeel.LONG}, {LeverFeel.FIRM, LeverFeel.SPONGY, LeverFeel.PUMPS_UP}), place=Place.LEVER),
    QuestionRow("oil_seen", "oil on pads or rotor", "look at both faces; a white cloth shows it", {C.OIL: (6, -9)}, fact=_found({"oil", "rotor_oil"}, _faces_seen), place=Place.PADS),
    QuestionRow("glaze_seen", "pads shiny", "take one pad out and look", {C.GLAZED: (4, -9)}, fact=_in("pad_state", {PadState.GLAZED}, {PadState.GOOD, PadState.NEW, PadState.METAL, PadState.OILED}), place=Place.PADS),
    QuestionRow("pads_thin", "pads below the planning figure", "measure both pads", {C.WORN_PADS: (3, -9), C.PISTONS: (0, 0)}, fact=_found({"pads_thin", "pads_soon"}, _read("pad_material_mm")), place=Place.PADS),
    QuestionRow("pads_uneven", "one pad of a pair much thinner", "measure both pads", {C.PISTONS: (2, -1), C.OFF_CENTRE: (2, -1)}, fact=_found({"uneven"}, _read("pad_inner_mm", "pad_outer_mm")), place=Place.PADS),
    QuestionRow("rotor_uneven", "rotor under its minimum, or uneven in thickness", "six points with the micrometer", {C.WORN_ROTOR: (4, -9)}, fact=_found({"rotor_minimum", "variation", "variation_high"}, _thickness_read), place=Place.ROTOR),
    QuestionRow("rotor_bent", say("rotor runs out by more than {runout_mm:.1}", runout_mm=RUNOUT_TREAT_MM), "a gauge or a zip tie at the fork, spin", {C.BENT: (4, -9), C.WARPS: (1, -1)}, fact=_found({"runout", "runout_high"}, _read("rotor_runout_mm")), place=Place.ROTOR),
    QuestionRow("rotor_coloured", "rotor coloured by heat", "compare with the chart", {C.HEAT: (2, -1), C.LONG_DRAGS: (1, -1), C.GLAZED: (1, 0), C.FLUID: (1, 0)}, fact=_in("rotor_colour", set(_HOT), {RotorColour.BRIGHT}), place=Place.ROTOR),
    QuestionRow("rotor_dirty", "dirt or road film on the rotor", "wipe it with a white cloth", {C.DIRT: (3, -4)}, fact=_in("rotor_face", {RotorFace.DIRTY}, {RotorFace.CLEAN, RotorFace.OILED}), place=Place.ROTOR),
    QuestionRow("lags", "a piston lags or sticks", "pull the lever slowly with the wheel out and a spacer in", {C.PISTONS: (5, -9)}, fact=_in("pistons", {PistonState.LAZY, PistonState.STUCK}, {PistonState.EVEN}), place=Place.CALIPER),
    QuestionRow("to_one_side", "the rotor does not run mid-slot", "look through the slot against white paper", {C.OFF_CENTRE: (5, -9)}, fact=_in("caliper_centred", {Seen.NO}, {Seen.YES}), place=Place.CALIPER),
    QuestionRow("leaks", "fluid outside the line", "press the lever, look at seals, hose ends and pads", {C.LEAK: (6, -9), C.AIR: (1, 0), C.OIL: (1, 0)}, fact=_in("line_state", {LineState.LEAKING}, {LineState.GOOD, LineState.WORN}), place=Place.CALIPER),
    QuestionRow("stiff", "housing stiff or hose kinked", "turn the bar lock to lock while pulling", {C.CABLE: (3, -2)}, fact=_in("line_state", {LineState.WORN}, {LineState.GOOD, LineState.LEAKING}), place=Place.CALIPER),
    QuestionRow("stale", say("fluid {age_y:g} old, or water seen in it", age_y=AGES_OVER_Y), "ask the age; look at a drop", {C.FLUID: (3, -5)}, _HEATED | {P.DRAGS, P.WEAK}, _found({"water", "old_fluid"}, _age_known), Place.LEVER),
    QuestionRow("hydraulic", "the brake is hydraulic", "look at it", {C.CABLE: (-20, 0), C.AIR: (0, -20), C.FLUID: (0, -20), C.LEAK: (0, -20)}, fact=_any(lambda c: None if c.brake.caliper is None else c.brake.caliper.fluid is not Fluid.NONE), place=Place.CALIPER),
    QuestionRow("other_size", "the caliper stands at another rotor's size, or the rotor has a lip", "rotor, adapter and native size; a fingernail over the edge", {C.WRONG_SIZE: (5, -9), C.OFF_CENTRE: (0, 0)}, fact=_found({"edge", "lip"}, _placed), place=Place.MOUNT),
    QuestionRow("strangers", "lever and caliper are not made for each other", "names on both", {C.MISMATCH: (5, -9)}, fact=_found({"line", "pull", "wrong_fluid"}, _pair_known), place=Place.LEVER),
    QuestionRow("hub_knocks", "play in the hub", "rock the wheel", {C.LOOSE: (3, -1)}, _ROUND, _in("hub_play", {Seen.YES}, {Seen.NO}), Place.HUB),
    QuestionRow("one_piece", "the rotor is of one piece", "look at it", {C.WARPS: (1, -5)}, fact=_any(lambda c: None if c.brake.rotor is None else c.brake.rotor.construction is Construction.ONE_PIECE), place=Place.ROTOR),
    # read from Intake
    QuestionRow("beginner", "the rider is a beginner", "skill, on Intake: left as practised it says nothing", {C.LONG_DRAGS: (1, -1), C.REAR_ALONE: (1, -1), C.DABS: (1, -1)}, fact=lambda k: {Skill.NOVICE: Reply.YES, Skill.EXPERT: Reply.NO}.get(k.job.rider.skill, Reply.NOT_KNOWN), place=Task.RIDER_AND_BIKE),
    QuestionRow("rear_heavy", say("more than {rear_pct:.0} of the braking is at the rear", rear_pct=100 - FRONT_SHARE_PCT), "share at the front, on Intake", {C.REAR_ALONE: (2, -2)}, fact=lambda k: _yes(None if k.job.rider.front_share_pct is None else k.job.rider.front_share_pct < FRONT_SHARE_PCT), place=Task.RIDER_AND_BIKE),
    QuestionRow("wrong_tread", "the tread does not suit the ground that was entered", "tread and surface, on Intake", {C.TYRE: (2, -1)}, fact=lambda k: _yes(tyre_grip(k.job.conditions.surface, k.job.bike.tread) < GRIP[k.job.conditions.surface]), place=Task.RIDER_AND_BIKE),
    # computed for the bike as it is fitted
    QuestionRow("model_heat", "by the model this ride is too hot for what is fitted", "rider, bike, ride and parts entered", {C.HEAT: (4, -5), C.FLUID: (1, 0), C.GLAZED: (1, 0)}, fact=_result(_margins("fade", "rotor", "boil", "sandwich")), place=Task.CHOICE),
    QuestionRow("model_fade", "by the model the rotor passes the pads' fade temperature", "rider, bike, ride and parts entered", {C.COMPOUND: (2, -2)}, frozenset({P.FADES, P.DISCOLOURED, P.WEARS_PADS}), _result(lambda w: bool(w.heat.peak_c[Node.ROTOR] > COMPOUNDS[w.setup.pad.compound].fade_c)), Task.CHOICE),
    QuestionRow("model_force", "by the model the hand cannot give the target stop", "rider, bike, ride and parts entered", {C.FORCE: (4, -5)}, fact=_result(_margins("reserve")), place=Task.CHOICE),
    QuestionRow("model_grabs", "by the model the wheel locks at a light pull", "rider, bike, ride and parts entered", {C.TOO_STRONG: (3, -5)}, fact=_result(lambda w: w.forces.feel is Feel.GRABBY), place=Task.CHOICE),
    QuestionRow("loud", "the compound is one that howls or bites late in the wet", "read it on the pad's plate", {C.COMPOUND: (2, -3)}, _NOISE, _any(lambda c: None if c.brake.pad is None else COMPOUNDS[c.brake.pad.compound].loud_when_wet), Place.PADS),
)
# fmt: on
CAUSE_ROWS: Mapping[Cause, CauseRow] = {row.cause: row for row in CAUSES}
