"""Findings: what a measured state means, of four kinds, each with reason, source and consequence (the job, section 2).

FINDINGS is the table: a row looks at one wheel and says nothing, or why it speaks. An unsafe finding follows the job
until a named person answers for it with a reason; new evidence brings it back.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.setups import HOLLOW_MM, PAD_PLAN_MM, PAD_REPLACE_MM, minimum_thickness_mm
from clavis.core.fit.adapters import SAME_SIZE_MM, ChainAnswer, Native, judge_pitch, native_of, position_mm
from clavis.core.fit.clearances import PROUD_MOST_MM
from clavis.core.fit.mount_geometry import seat_of, stand_on
from clavis.core.job.document import Clearance, Job
from clavis.core.job.wheel import (
    RING_POINTS,
    Instrument,
    LeverFeel,
    LimitSource,
    LineState,
    PistonState,
    RingFace,
    Seen,
    Wheel,
)
from clavis.core.parts.models import (
    GRADES_OF,
    Adapter,
    Caliper,
    Carrying,
    Catalogue,
    Compound,
    Fluid,
    HubInterface,
    Lever,
    Pad,
    Rotor,
)
from clavis.core.parts.mounts import LABELS, PAD_EDGE_LIMIT_MM, CaliperMount, End, MountKind, MountTelling, tell_mount
from clavis.core.physics.friction import PadState
from clavis.core.physics.heat import DOT_AGES_Y, WITNESS_DOUBT_K, WITNESSES
from clavis.core.verdicts import Verdict


class FindingKind(StrEnum):
    """Keep, treat, replace, or stop: unsafe to ride. *Measure* asks for a better reading before any of them."""

    STOP = "stop"
    REPLACE = "replace"
    TREAT = "treat"
    MEASURE = "measure"
    KEEP = "keep"


class Place(StrEnum):
    """The places of the walk round the bike, in order."""

    MOUNT = "mount"
    HUB = "hub"
    ROTOR = "rotor"
    PADS = "pads"
    CALIPER = "caliper"
    LEVER = "lever"
    ROOM = "room"


@dataclass(frozen=True)
class WheelView:
    """One wheel as the rows see it: what was measured, and the catalogue lines of the parts that are on it."""

    end: End
    wheel: Wheel
    rotor: Rotor | None
    caliper: Caliper | None
    lever: Lever | None
    pad: Pad | None
    adapter: Adapter | None
    telling: MountTelling
    native: Native
    new_pads: bool
    """new pads are proposed for the ring that is on the wheel"""
    carrying: Carrying | None = None
    """the fork or frame, where the catalogue has it"""
    assisted: bool = False

    @property
    def minimum_mm(self) -> float | None:
        return minimum_thickness_mm(self.rotor) if self.rotor else None


def view_of(job: Job, end: End, catalogue: Catalogue) -> WheelView:
    wheel, pick = job.wheel(end), job.proposal.of(end)
    new_pads = pick.pad_id is not None and pick.pad_id != wheel.pad_id
    same_ring = pick.rotor_id is None or pick.rotor_id == wheel.rotor_id
    return WheelView(
        end,
        wheel,
        catalogue.rotors.get(wheel.rotor_id or ""),
        catalogue.calipers.get(wheel.caliper_id or ""),
        catalogue.levers.get(wheel.lever_id or ""),
        catalogue.pads.get(wheel.pad_id or ""),
        catalogue.adapters.get(wheel.adapter_id or ""),
        tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end),
        native_of(wheel, end, catalogue),
        new_pads and same_ring,
        catalogue.carrying(end, wheel.carrying_id),
        job.bike.assisted,
    )


Speaks = Callable[[WheelView], str | None]


@dataclass(frozen=True)
class FindingRow:
    """One row of the table: where it belongs, what follows, where that comes from, and when it speaks."""

    key: str
    place: Place
    kind: FindingKind
    about: str
    consequence: str
    source: str
    speaks: Speaks


@dataclass(frozen=True)
class Finding:
    """A row that speaks of one wheel. ``key`` is what a clearance is kept under."""

    end: End
    row: FindingRow
    reason: str

    @property
    def key(self) -> str:
        return f"{self.end.value}:{self.row.key}"

    @property
    def unsafe(self) -> bool:
        return self.row.kind is FindingKind.STOP


# Figures of the rows. Where the trade gives a range, both ends are rows of their own.
VARIATION_TREAT_MM, VARIATION_REPLACE_MM = 0.03, 0.05
RUNOUT_TREAT_MM, RUNOUT_REPLACE_MM = 0.2, 0.3
LIP_MM = 0.1
TAPER_MM = 0.5
UNEVEN_MM = 0.5
BITE_STOP_MM, BITE_TREAT_MM = 10.0, 20.0
GAUGE_READS_MM = 0.25
"""a bore or slot read with a caliper gauge agrees with the catalogue within this"""

_JOB = "trade practice"
_OURS = "judged by us"


def _under_minimum(v: WheelView) -> str | None:
    thinnest = v.wheel.rotor_thinnest_mm
    if v.minimum_mm is None or thinnest is None or thinnest >= v.minimum_mm:
        return None
    return f"thinnest {thinnest:.2f} mm, minimum {v.minimum_mm:.2f} mm"


def _vernier(v: WheelView) -> str | None:
    thinnest = v.wheel.rotor_thinnest_mm
    if v.wheel.rotor_instrument is not Instrument.VERNIER or thinnest is None or _under_minimum(v):
        return None
    return "flat jaws bridge the worn hollow and read too thick"


def _few_points(v: WheelView) -> str | None:
    n = len(v.wheel.rotor_points_mm)
    return f"{n} of {RING_POINTS} points" if 0 < n < RING_POINTS and not _under_minimum(v) else None


def _no_minimum(v: WheelView) -> str | None:
    if v.rotor is None or v.minimum_mm is not None:
        return None
    return f"nothing marked, and {v.rotor.thickness_mm:g} mm when new has no usual minimum"


def _thicker_than_new(v: WheelView) -> str | None:
    thinnest = v.wheel.rotor_thinnest_mm
    if v.rotor is None or thinnest is None or thinnest <= v.rotor.thickness_mm + 0.05:
        return None
    return f"reads {thinnest:.2f} mm, new is {v.rotor.thickness_mm:.2f}"


def _ring_good(v: WheelView) -> str | None:
    w, minimum = v.wheel, v.minimum_mm
    if w.rotor_thinnest_mm is None or w.rotor_instrument is Instrument.VERNIER or minimum is None:
        return None
    left = w.rotor_thinnest_mm - minimum
    enough = len(w.rotor_points_mm) >= RING_POINTS
    return f"{left:.2f} mm above its minimum of {minimum:.2f} mm" if left >= 0 and enough else None


def _between(low: float, high: float | None, get: Callable[[Wheel], float | None], words: str, digits: int) -> Speaks:
    """Speaks where a reading is above ``low`` and, where given, at most ``high``."""

    def speaks(v: WheelView) -> str | None:
        value = get(v.wheel)
        if value is None or value <= low + 1e-9 or (high is not None and value > high + 1e-9):
            return None
        return f"{words} {value:.{digits}f} mm"

    return speaks


def _is(field: str, value: object, words: str) -> Speaks:
    return lambda v: words if getattr(v.wheel, field) is value else None


def _pads_thin(v: WheelView) -> str | None:
    m = v.wheel.pad_material_mm
    return None if m is None or m >= PAD_REPLACE_MM else f"{m:.1f} mm of material left"


def _pads_soon(v: WheelView) -> str | None:
    m = v.wheel.pad_material_mm
    return f"{m:.1f} mm of material left" if m is not None and PAD_REPLACE_MM <= m < PAD_PLAN_MM else None


def _pads_good(v: WheelView) -> str | None:
    m = v.wheel.pad_material_mm
    good = v.wheel.pads_measured and v.wheel.pad_state is PadState.GOOD
    return f"{m:.1f} mm left, good face" if good and m is not None and m >= PAD_PLAN_MM else None


def _uneven(v: WheelView) -> str | None:
    inner, outer = v.wheel.pad_inner_mm, v.wheel.pad_outer_mm
    if inner is None or outer is None or abs(inner - outer) <= UNEVEN_MM + 1e-9:
        return None
    return f"inner {inner:.1f} mm, outer {outer:.1f} mm"


def _shape(v: WheelView) -> str | None:
    if v.pad is None or v.caliper is None or v.pad.shape == v.caliper.pad_shape:
        return None
    return f"shape {v.pad.shape} in a caliper for {v.caliper.pad_shape}"


def _resin_only(v: WheelView) -> str | None:
    if v.rotor is None or v.pad is None or not v.rotor.resin_only or v.pad.compound is Compound.RESIN:
        return None
    return "the rotor is marked for resin pads only"


def _hollow(v: WheelView) -> str | None:
    thinnest = v.wheel.rotor_thinnest_mm
    if not v.new_pads or v.rotor is None or thinnest is None or v.rotor.thickness_mm - thinnest < HOLLOW_MM:
        return None
    return f"ring worn by {v.rotor.thickness_mm - thinnest:.2f} mm: new flat pads touch only in part"


def _colour(v: WheelView) -> str | None:
    named = {name: limit for limit, name in WITNESSES}
    limit = named.get(v.wheel.rotor_colour.value)
    if limit is None:
        return None
    return f"{v.wheel.rotor_colour.value}: has probably been at {limit:.0f} °C (± {WITNESS_DOUBT_K:.0f})"


def _mount_conflict(v: WheelView) -> str | None:
    return v.telling.conflict or None


def _presence_conflict(v: WheelView) -> str | None:
    w = v.wheel
    if w.mount_there is not None and w.mount_there.value == "missing" and w.mount_spacing_mm is not None:
        return f"no disc mount, but a bolt spacing of {w.mount_spacing_mm:g} mm"
    if w.hub_there is not None and w.hub_there.value == "missing" and w.hub is not None:
        return "the hub takes no rotor, but an interface is entered"
    return None


def _mount_told(v: WheelView) -> str | None:
    return LABELS[v.telling.kind] if v.telling.kind else None


def _limit_unknown(v: WheelView) -> str | None:
    if v.wheel.largest_rotor_mm is not None or v.telling.kind is None:
        return None
    if v.wheel.limit_source is LimitSource.REFUSED:
        return "the maker allows nothing larger, but the native size is not known"
    return "not known: it blocks a clean verdict"


def _carrying_disagrees(v: WheelView) -> str | None:
    part = v.carrying
    if part is None:
        return None
    if v.telling.kind is not None and part.mount is not v.telling.kind:
        return f"{part.name} has {LABELS[part.mount]}, measured is {LABELS[v.telling.kind]}"
    pairs = (("native rotor", part.native_mm, v.wheel.native_rotor_mm), ("largest rotor", part.max_rotor_mm,
             v.wheel.max_rotor_mm), ("thread depth", part.hole_depth_mm, v.wheel.hole_depth_mm),
             ("tab", part.tab_mm, v.wheel.tab_mm))  # fmt: skip
    for what, stated, entered in pairs:
        if stated is not None and entered is not None and abs(stated - entered) > SAME_SIZE_MM:
            return f"{part.name}: {what} {stated:g} mm by its maker, {entered:g} entered"
    return None


def _not_for_assisted(v: WheelView) -> str | None:
    if v.carrying is None or not v.assisted or v.carrying.assisted:
        return None
    said = "does not release" if v.carrying.assisted is False else "does not say whether it releases"
    return f"its maker {said} {v.carrying.name} for assisted bikes"


def _limit_refused(v: WheelView) -> str | None:
    largest = v.wheel.largest_rotor_mm
    if v.wheel.limit_source is not LimitSource.REFUSED or largest is None:
        return None
    return f"the maker allows {largest:g} and nothing larger"


def _over_limit(v: WheelView) -> str | None:
    most = v.wheel.largest_rotor_mm
    if most is None or v.rotor is None or v.rotor.diameter_mm <= most + 0.25:
        return None
    return f"a {v.rotor.diameter_mm:g} where the maker allows {most:g}"


def _native_conflict(v: WheelView) -> str | None:
    return v.native.conflict or None


def _edge(v: WheelView) -> str | None:
    kind, native = v.telling.kind, v.native.size_mm
    if v.rotor is None or native is None or kind is None or (v.adapter is None and not v.wheel.no_adapter):
        return None
    if v.adapter is not None and position_mm(kind, native, v.adapter, v.rotor.diameter_mm, v.end) is None:
        return None
    caliper = v.caliper.mount if v.caliper else CaliperMount.POST
    now, seat = ChainAnswer(True, "as it is", adapter=v.adapter), seat_of(kind, v.end, native, v.wheel)
    stand = stand_on(seat, kind, v.end, native, caliper, now, v.rotor.diameter_mm)
    position, error = round(stand.position_mm, 1), stand.edge_error_mm(v.rotor.diameter_mm)
    if abs(error) <= PAD_EDGE_LIMIT_MM + 1e-9:
        return None
    where = f"a {v.rotor.diameter_mm:g} rotor on a {position:g} position"
    if error > 0:
        return f"{where}: the pad stands {error:.1f} mm over the rotor's edge, and a lip will ride it"
    return f"{where}: {-error:.1f} mm of rim unswept, and the rotor may meet the caliper's bridge"


def _holes_off(v: WheelView) -> str | None:
    kind, native = v.telling.kind, v.native.size_mm
    if kind is None or native is None:
        return None
    seat = seat_of(kind, v.end, native, v.wheel)
    if seat.conflict or abs(seat.proud_mm) <= PROUD_MOST_MM:
        return seat.conflict or None
    side = "outside" if seat.proud_mm > 0 else "inside"
    return f"they stand {abs(seat.proud_mm):.1f} mm {side} where a mount for {native:g} has them"


def _pitch(verdict: Verdict) -> Speaks:
    def speaks(v: WheelView) -> str | None:
        if v.telling.kind is not MountKind.FLAT_FRONT or v.adapter is None:
            return None
        found = judge_pitch(v.wheel.mount_spacing_mm, v.wheel.spacing_tool, v.adapter)
        return found.words if found.verdict is verdict else None

    return speaks


def _slot(v: WheelView) -> str | None:
    slot = v.wheel.slot_read_mm or (v.caliper.slot_mm if v.caliper else None)
    if v.rotor is None or slot is None or v.rotor.thickness_mm <= slot + 1e-9:
        return None
    return f"rotor of {v.rotor.thickness_mm:g} mm in a slot for {slot:g}"


def _not_the_line(v: WheelView) -> str | None:
    """The caliper named is not the one on the bike."""
    if v.caliper is None:
        return None
    bore, slot = v.wheel.bore_read_mm, v.wheel.slot_read_mm
    largest = max(v.caliper.bores_mm, default=None)
    if bore is not None and largest is None:
        return f"a piston of {bore:g} mm read on a cable caliper"
    if bore is not None and largest is not None and abs(bore - largest) > GAUGE_READS_MM:
        return f"largest piston reads {bore:g} mm, {v.caliper.name} has {largest:g}"
    if slot is not None and abs(slot - v.caliper.slot_mm) > GAUGE_READS_MM:
        return f"slot reads {slot:g} mm, {v.caliper.name} has {v.caliper.slot_mm:g}"
    return None


def _wrong_fluid(v: WheelView) -> str | None:
    grade = v.wheel.fluid_grade
    if grade is None or v.caliper is None or v.caliper.fluid is Fluid.NONE or grade in GRADES_OF[v.caliper.fluid]:
        return None
    return f"the seals are made for {'DOT' if v.caliper.fluid is Fluid.DOT else 'mineral'} fluid"


def _wrong_lever(v: WheelView) -> str | None:
    if v.caliper is None or v.lever is None or v.caliper.fluid is v.lever.fluid:
        return None
    names = {Fluid.NONE: "cable", Fluid.DOT: "DOT", Fluid.MINERAL: "mineral"}
    return f"{names[v.lever.fluid]} lever on a {names[v.caliper.fluid]} caliper"


def _wrong_pull(v: WheelView) -> str | None:
    if v.caliper is None or v.lever is None or v.caliper.pull is v.lever.pull or _wrong_lever(v):
        return None
    return f"{v.lever.pull} pull at the lever, {v.caliper.pull} at the caliper"


def _splined_on_six(v: WheelView) -> str | None:
    if v.wheel.hub is not HubInterface.SIX_BOLT or v.rotor is None or v.rotor.interface is not HubInterface.SPLINED:
        return None
    return "a splined rotor is entered on a six-bolt hub"


def _old_fluid(v: WheelView) -> str | None:
    dot = v.wheel.fluid_grade in GRADES_OF[Fluid.DOT]
    age = v.wheel.fluid_age_y
    return f"{age:g} years old: it has taken up water" if dot and age is not None and age >= DOT_AGES_Y else None


def _fluid_age_unknown(v: WheelView) -> str | None:
    return "age not known" if v.wheel.fluid_grade in GRADES_OF[Fluid.DOT] and v.wheel.fluid_age_y is None else None


def _bite(low: float, high: float) -> Speaks:
    def speaks(v: WheelView) -> str | None:
        bite = v.wheel.lever_bite_mm
        return f"bites {bite:g} mm from the bar" if bite is not None and low <= bite < high else None

    return speaks


def _bite_outside_reach(v: WheelView) -> str | None:
    bite, reach = v.wheel.lever_bite_mm, v.wheel.lever_reach_mm
    if bite is None or reach is None or bite <= reach:
        return None
    return f"bites at {bite:g} mm, but the blade stands at {reach:g} mm at rest"


_STOP, _REPLACE, _TREAT, _MEASURE, _KEEP = FindingKind
_M, _H, _R, _P, _C, _L, _A = Place

# fmt: off
FINDINGS: tuple[FindingRow, ...] = (
    # stop: unsafe to ride
    FindingRow("ring_minimum", _R, _STOP, "rotor under its minimum", "replace the rotor before riding",
               "marking on the rotor; 1.5 mm where nothing is marked and it started at 1.8", _under_minimum),
    FindingRow("cracks", _R, _STOP, "rotor cracked", "scrap it; no crack is small enough", _JOB,
               _is("rotor_cracks", Seen.YES, "a crack was seen")),
    FindingRow("ring_oil", _R, _STOP, "oil on the rotor", "clean the rotor with isopropyl alcohol, replace the pads "
               "that ran on it, find where the oil comes from", _JOB, _is("rotor_face", RingFace.OILED, "oil on the track")),
    FindingRow("oil", _P, _STOP, "pads oiled", "replace the pads, clean the rotor; burning or washing does not bring "
               "them back", _JOB, _is("pad_state", PadState.OILED, "oil on the friction face")),
    FindingRow("metal", _P, _STOP, "pads at metal", "replace pads and rotor", _JOB,
               _is("pad_state", PadState.METAL, "backing plate has met the rotor")),
    FindingRow("leak", _C, _STOP, "line leaks", "find the part that leaks and replace it, replace pads that were "
               "wetted, bleed", _JOB, _is("line_state", LineState.LEAKING, "fluid outside the line, or a cable fraying")),
    FindingRow("wrong_fluid", _L, _STOP, "wrong fluid in the line", "the seals swell and fail: every part that has met "
               "it is the maker's decision", "makers' instructions", _wrong_fluid),
    FindingRow("wrong_lever", _L, _STOP, "lever and caliper of two families", "put the pair together that belongs "
               "together", "makers' instructions", _wrong_lever),
    FindingRow("bite_at_bar", _L, _STOP, "lever all but at the bar", "nothing is left for a hard stop: find out why "
               "before riding", _OURS, _bite(0, BITE_STOP_MM)),
    FindingRow("over_limit", _R, _STOP, "rotor above the stated limit", "back to a size the maker of fork or frame "
               "allows: it was not made for this load", "maker of fork or frame", _over_limit),
    # replace
    FindingRow("pads_thin", _P, _REPLACE, "pads worn", f"replace by {PAD_REPLACE_MM:.1f} mm, or at the maker's figure",
               _JOB, _pads_thin),
    FindingRow("variation_high", _R, _REPLACE, "rotor uneven in thickness", "it pulses; truing does not help: replace",
               _JOB, _between(VARIATION_REPLACE_MM, None, lambda w: w.rotor_variation_mm, "varies by", 2)),
    FindingRow("runout_high", _R, _REPLACE, "rotor bent", "true it once; replace it where it does not stay", _JOB,
               _between(RUNOUT_REPLACE_MM, None, lambda w: w.rotor_runout_mm, "runs out by", 2)),
    FindingRow("pad_edge", _M, _REPLACE, "caliper stands at another size", "the adapter for this rotor, or the rotor "
               "for this adapter; nothing is filed", "(D position − D rotor)/2, ± 0.5 mm", _edge),
    FindingRow("pitch_off", _M, _REPLACE, "plate does not take this fork's pitch", "choose a plate that does; measure "
               "again before ordering", "hole and counterbore of the plate", _pitch(Verdict.FAILS)),
    FindingRow("pad_shape", _P, _REPLACE, "pads of another shape", "the caliper's own shape", "catalogue", _shape),
    FindingRow("resin_only", _P, _REPLACE, "compound not for this rotor", "resin pads, or a rotor for this compound",
               "marking on the rotor", _resin_only),
    FindingRow("slot", _C, _REPLACE, "rotor too thick for the slot", "a rotor that fits, or another caliper; nothing "
               "is filed", "caliper's slot", _slot),
    FindingRow("stuck", _C, _REPLACE, "piston stuck", "seal kit where the maker offers one, otherwise the caliper",
               _JOB, _is("pistons", PistonState.STUCK, "does not come back or does not move")),
    FindingRow("wrong_pull", _L, _REPLACE, "cable pull does not match", "lever and caliper of one pull: long or short",
               "catalogue", _wrong_pull),
    FindingRow("line_worn", _C, _REPLACE, "hose or housing worn", "new hose and bleed, or new cable and housing", _JOB,
               _is("line_state", LineState.WORN, "kinked, chafed, or stiff housing")),
    # treat
    FindingRow("pads_soon", _P, _TREAT, "pads wearing", "plan new pads", _JOB, _pads_soon),
    FindingRow("glazed", _P, _TREAT, "pads glazed", "sand lightly, bed in again", _JOB,
               _is("pad_state", PadState.GLAZED, "shiny face")),
    FindingRow("taper", _P, _TREAT, "pads tapered", "align the caliper; look for a lazy piston", _OURS,
               _between(TAPER_MM, None, lambda w: w.pad_taper_mm, "tapered by", 1)),
    FindingRow("uneven", _P, _TREAT, "pads worn unevenly", "a piston that lags, or a caliper off centre", _OURS, _uneven),
    FindingRow("lazy", _C, _TREAT, "piston lazy", "clean and work it with the other held back, until all move alike",
               _JOB, _is("pistons", PistonState.LAZY, "one moves later than the other")),
    FindingRow("off_centre", _C, _TREAT, "caliper off centre", "loosen, hold the lever, tighten in turns, check by eye",
               _JOB, _is("caliper_centred", Seen.NO, "the rotor does not run mid-slot")),
    FindingRow("variation", _R, _TREAT, "rotor slightly uneven in thickness", "felt by some: clean, bed in again, read "
               "again", _JOB, _between(VARIATION_TREAT_MM, VARIATION_REPLACE_MM, lambda w: w.rotor_variation_mm, "varies by", 2)),
    FindingRow("runout", _R, _TREAT, "rotor slightly bent", "true it", _JOB,
               _between(RUNOUT_TREAT_MM, RUNOUT_REPLACE_MM, lambda w: w.rotor_runout_mm, "runs out by", 2)),
    FindingRow("lip", _R, _TREAT, "lip at the rotor's edge", "the pad does not cover the whole track: check adapter "
               "size and pad height before new pads", _JOB, _between(LIP_MM, None, lambda w: w.rotor_lip_mm, "step of", 1)),
    FindingRow("grooves", _R, _TREAT, "grooves in the track", "a pad has been at metal: find it, read the thickness in "
               "the groove", _JOB, _is("rotor_grooves", Seen.YES, "felt with a fingernail")),
    FindingRow("dirt", _R, _TREAT, "rotor dirty", "isopropyl alcohol and a clean cloth; no spray", _JOB,
               _is("rotor_face", RingFace.DIRTY, "dirt or road film on the track")),
    FindingRow("colour", _R, _TREAT, "rotor coloured by heat", "a witness, not a verdict: look for glaze, read "
               "run-out, compare with the ride's own figure", "temper colours, ± 60 K", _colour),
    FindingRow("hollow", _R, _TREAT, "new pads on a hollow ring", "bedding starts lower and takes longer", _JOB, _hollow),
    FindingRow("hub_play", _H, _TREAT, "play in the hub", "adjust or replace the bearings before any reading of "
               "run-out counts", _JOB, _is("hub_play", Seen.YES, "the wheel knocks")),
    FindingRow("spongy", _L, _TREAT, "lever spongy", "bleed: there is air in the line", _JOB,
               _is("lever_feel", LeverFeel.SPONGY, "soft until the end")),
    FindingRow("long", _L, _TREAT, "lever long", "pads worn, pistons not reset, or air: measure the pads, then bleed",
               _JOB, _is("lever_feel", LeverFeel.LONG, "late, then firm")),
    FindingRow("pumps_up", _L, _TREAT, "lever firm after pumping", "gap at the pads or air in the line: reset the "
               "pistons, then bleed", _JOB, _is("lever_feel", LeverFeel.PUMPS_UP, "the second pull bites earlier")),
    FindingRow("bite_low", _L, _TREAT, "lever bites late", "reset the pistons, set reach and contact; bleed where it "
               "stays", _OURS, _bite(BITE_STOP_MM, BITE_TREAT_MM)),
    FindingRow("water", _L, _TREAT, "water in the line", "fresh fluid and a full bleed: water boils at 100 °C", _JOB,
               lambda v: "drops seen in the fluid" if v.wheel.water_seen else None),
    FindingRow("old_fluid", _L, _TREAT, "fluid old", "fresh fluid and a full bleed", _JOB, _old_fluid),
    # measure before anything rests on it
    FindingRow("mount", _M, _MEASURE, "mount evidence disagrees", "measure spacing and direction again", _JOB,
               _mount_conflict),
    FindingRow("presence", _M, _MEASURE, "entries disagree", "look again, and take one of the two back", _OURS,
               _presence_conflict),
    FindingRow("native", _M, _MEASURE, "native size disagrees", "read the size on rotor and adapter again", _JOB,
               _native_conflict),
    FindingRow("carrying", _M, _MEASURE, "fork or frame and its document disagree", "look again; where both are right it "
               "is not that part", "maker's document", _carrying_disagrees),
    FindingRow("assisted", _M, _MEASURE, "fork or frame on an assisted bike", "ask its maker before anything larger is "
               "fitted", "maker's document", _not_for_assisted),
    FindingRow("limit", _M, _MEASURE, "largest rotor", "ask the maker of fork or frame", _JOB, _limit_unknown),
    FindingRow("pitch_tape", _M, _MEASURE, "pitch of the fork", "read it again, to a tenth", "hole and counterbore of "
               "the plate", _pitch(Verdict.UNKNOWN)),
    FindingRow("holes", _A, _MEASURE, "holes of the mount and its native size disagree", "read both distances again; where "
               "they stand, the native size is another", "three distances make a triangle", _holes_off),
    FindingRow("hub_rotor", _H, _MEASURE, "hub and rotor disagree", "look again: it cannot be", _JOB, _splined_on_six),
    FindingRow("vernier", _R, _MEASURE, "rotor read with a vernier", "read it again with a micrometer: a vernier may "
               "condemn, never pass", _JOB, _vernier),
    FindingRow("few_points", _R, _MEASURE, "rotor read at too few points", "read all round: the thinnest counts", _JOB,
               _few_points),
    FindingRow("no_minimum", _R, _MEASURE, "minimum thickness not known", "ask the maker", _JOB, _no_minimum),
    FindingRow("thicker", _R, _MEASURE, "thicker than new", "check the part chosen, or the instrument's zero", _OURS,
               _thicker_than_new),
    FindingRow("other_caliper", _C, _MEASURE, "not the caliper that was named", "check the part chosen", _OURS,
               _not_the_line),
    FindingRow("bite_reach", _L, _MEASURE, "lever readings disagree", "measure both from the same place on the blade",
               _OURS, _bite_outside_reach),
    FindingRow("fluid_age", _L, _MEASURE, "age of the fluid", "ask, or bleed: fresh fluid settles it", _JOB,
               _fluid_age_unknown),
    # keep
    FindingRow("mount_told", _M, _KEEP, "mount", "told by spacing and direction", _JOB, _mount_told),
    FindingRow("limit_refused", _M, _KEEP, "no larger rotor", "the native size stays", "maker of fork or frame",
               _limit_refused),
    FindingRow("ring_good", _R, _KEEP, "rotor thickness", "keep", "micrometer, six or more points", _ring_good),
    FindingRow("pads_good", _P, _KEEP, "pads", "keep", _JOB, _pads_good),
)
# fmt: on
_ORDER = list(FindingKind)


def findings_of(job: Job, catalogue: Catalogue) -> tuple[Finding, ...]:
    """Every finding of both wheels, unsafe ones first."""
    views = [view_of(job, end, catalogue) for end in End]
    found = [Finding(v.end, row, reason) for row in FINDINGS for v in views if (reason := row.speaks(v))]
    return tuple(sorted(found, key=lambda f: _ORDER.index(f.row.kind)))


def clearance_of(job: Job, finding: Finding) -> Clearance | None:
    """Who answers for an unsafe finding; None where nobody does, or where the evidence has changed since."""
    kept = job.cleared.get(finding.key)
    return kept if kept is not None and kept.evidence == finding.reason else None


def open_stops(job: Job, findings: tuple[Finding, ...]) -> tuple[Finding, ...]:
    """Unsafe findings that nobody has answered for."""
    return tuple(f for f in findings if f.unsafe and clearance_of(job, f) is None)
