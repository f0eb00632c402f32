"""What the readings of a wheel say of its parts, and the limits they are held against: when each row of ``conditions``
speaks, and in which words."""

from collections.abc import Callable

from clavis.core.job.renewal import Renewal
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.job.wheel import (
    ROTOR_POINTS,
    Instrument,
    LimitSource,
    Presence,
    Wheel,
)
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import AGES_OVER_Y, GRADES_OF, Fluid, gathers_water
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import SAME_SIZE_MM
from clavis.core.physics.friction import PadState
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES
from clavis.core.sentences import Words, say

NewParts = frozenset[Axis]
Speaks = Callable[[ResolvedWheel, NewParts], Words | None]
"""looks at a wheel as it stands, and at the kinds of part that shall come new"""

# Figures of the rows. Where the trade gives a range, both ends are rows of their own.
PAD_REPLACE_MM, PAD_PLAN_MM = 1.0, 1.5
PAD_GONE_MM = 0.2
"""what a gauge reads as this little is the backing plate, within its doubt"""
VARIATION_TREAT_MM, VARIATION_REPLACE_MM = 0.03, 0.05
RUNOUT_TREAT_MM, RUNOUT_REPLACE_MM = 0.2, 0.3
LIP_MM = 0.1
TAPER_MM = 0.5
UNEVEN_MM = 0.5
BITE_STOP_MM, BITE_TREAT_MM = 10.0, 20.0
HOLLOW_MM = 0.1
"""a rotor worn by this much is hollow: new flat pads touch only in part"""
GAUGE_READS_MM = 0.25
"""a bore or slot read with a caliper gauge agrees with the catalogue within this"""
THICKER_MM = 0.05
SLACK_MM = 1e-9


def under_minimum(w: ResolvedWheel, _new: NewParts) -> Words | None:
    thinnest, minimum = w.measured.rotor_thinnest_mm, w.minimum_mm
    if minimum is None or thinnest is None or thinnest >= minimum:
        return None
    return say("thinnest {thinnest_mm:.2}, minimum {minimum_mm:.2}", thinnest_mm=thinnest, minimum_mm=minimum)


def unread(w: ResolvedWheel, _new: NewParts) -> Words | None:
    there = w.on_it.rotor is not None and w.measured.came_new(Renewal.ROTOR) is None
    return "thickness not read" if there and w.measured.rotor_thinnest_mm is None else None


def vernier(w: ResolvedWheel, new: NewParts) -> Words | None:
    read = w.measured.rotor_thinnest_mm is not None
    if w.measured.rotor_instrument is not Instrument.VERNIER or not read or under_minimum(w, new):
        return None
    return "flat jaws bridge the worn hollow and read too thick"


def few_points(w: ResolvedWheel, new: NewParts) -> Words | None:
    n = len(w.measured.rotor_points_mm)
    if not 0 < n < ROTOR_POINTS or under_minimum(w, new):
        return None
    return say("read at {count} of {wanted:point|points}", count=n, wanted=ROTOR_POINTS)


def no_minimum(w: ResolvedWheel, _new: NewParts) -> Words | None:
    rotor = w.on_it.rotor
    if rotor is None or w.minimum_mm is not None:
        return None
    return say("nothing marked, and {new_mm:g} when new has no usual minimum", new_mm=rotor.thickness_mm)


def thicker_than_new(w: ResolvedWheel, _new: NewParts) -> Words | None:
    thinnest, rotor = w.measured.rotor_thinnest_mm, w.on_it.rotor
    if rotor is None or thinnest is None or thinnest <= rotor.thickness_mm + THICKER_MM:
        return None
    return say("reads {read_mm:.2}, new is {new_mm:.2}", read_mm=thinnest, new_mm=rotor.thickness_mm)


def rotor_good(w: ResolvedWheel, _new: NewParts) -> Words | None:
    m, minimum = w.measured, w.minimum_mm
    if m.rotor_thinnest_mm is None or m.rotor_instrument is Instrument.VERNIER or minimum is None:
        return None
    left = m.rotor_thinnest_mm - minimum
    if left < 0 or len(m.rotor_points_mm) < ROTOR_POINTS:
        return None
    return say("{left_mm:.2} above its minimum of {minimum_mm:.2}", left_mm=left, minimum_mm=minimum)


def between(low: float, high: float | None, get: Callable[[Wheel], float | None], words: str, digits: int) -> Speaks:
    """Speaks where a reading is above ``low`` and, where given, at most ``high``."""

    def speaks(w: ResolvedWheel, _new: NewParts) -> Words | None:
        value = get(w.measured)
        if value is None or value <= low + SLACK_MM or (high is not None and value > high + SLACK_MM):
            return None
        return say(f"{words} {{read_mm:.{digits}}}", read_mm=value)

    return speaks


def seen_as(field: str, value: object, words: str) -> Speaks:
    return lambda w, _b: words if getattr(w.measured, field) is value else None


def pads_thin(w: ResolvedWheel, _new: NewParts) -> Words | None:
    left = w.measured.pad_material_mm
    worn = left is not None and PAD_GONE_MM < left < PAD_REPLACE_MM
    return None if not worn else say("{left_mm:.1} of material left", left_mm=left)


def found_new(w: ResolvedWheel, _new: NewParts) -> Words | None:
    new = w.on_it.pad is not None and w.measured.pad_state is PadState.NEW
    return "not bedded in" if new and w.measured.came_new(Renewal.BED_IN) is None else None


def other_film(w: ResolvedWheel, _new: NewParts) -> Words | None:
    """Another compound ran on this rotor, and nobody has bedded in the one that is on it now."""
    film, pad = w.measured.film_compound, w.on_it.pad
    if film is None or pad is None or film == pad.compound or w.measured.came_new(Renewal.BED_IN) is not None:
        return None
    was, now = COMPOUNDS[film], COMPOUNDS[pad.compound]
    return say("{film} ran on it before, now {compound}", film=was.words, compound=now.words)


def pads_gone(w: ResolvedWheel, _new: NewParts) -> Words | None:
    left = w.measured.pad_material_mm
    if left is None or left > PAD_GONE_MM or w.measured.pad_state is PadState.METAL:
        return None
    return say("{left_mm:.1} of material left", left_mm=left)


def _at_metal(w: ResolvedWheel) -> bool:
    left = w.measured.pad_material_mm
    return w.measured.pad_state is PadState.METAL or (left is not None and left <= PAD_GONE_MM)


def met_metal(w: ResolvedWheel, _new: NewParts) -> Words | None:
    return "it has run on a pad without friction material" if w.on_it.rotor is not None and _at_metal(w) else None


def one_sided(w: ResolvedWheel, new: NewParts) -> Words | None:
    return uneven(w, new) if _at_metal(w) else None


def unseen(field: str, part: str, not_yet: object) -> Speaks:
    """Speaks where the part is on the wheel and nobody has looked; one that came new by an order was looked at then."""

    def speaks(w: ResolvedWheel, _new: NewParts) -> Words | None:
        there = getattr(w.on_it, part) is not None and w.measured.came_new(Renewal(part)) is None
        return "not yet checked" if there and getattr(w.measured, field) is not_yet else None

    return speaks


def named_alone(w: ResolvedWheel, _new: NewParts) -> Words | None:
    return say("{name}, not proved by measuring", name=w.mount.by_name) if w.mount.by_name else None


def pads_soon(w: ResolvedWheel, _new: NewParts) -> Words | None:
    left = w.measured.pad_material_mm
    soon = left is not None and PAD_REPLACE_MM <= left < PAD_PLAN_MM
    return say("{left_mm:.1} of material left", left_mm=left) if soon else None


def pads_good(w: ResolvedWheel, _new: NewParts) -> Words | None:
    left, m = w.measured.pad_material_mm, w.measured
    good = m.pads_measured and m.pad_state is PadState.GOOD and left is not None and left >= PAD_PLAN_MM
    return say("{left_mm:.1} left, good face", left_mm=left) if good else None


def pads_unread(w: ResolvedWheel, _new: NewParts) -> Words | None:
    if w.on_it.pad is None or w.measured.pads_measured:
        return None
    return "material not measured" if w.measured.pad_material_mm is None else "only one of the two pads measured"


def pads_unseen(w: ResolvedWheel, _new: NewParts) -> Words | None:
    unseen = w.on_it.pad is not None and w.measured.pad_state is PadState.NOT_CHECKED
    return "not checked for glaze, oil and metal" if unseen else None


def uneven(w: ResolvedWheel, _new: NewParts) -> Words | None:
    inner, outer = w.measured.pad_inner_mm, w.measured.pad_outer_mm
    if inner is None or outer is None or abs(inner - outer) <= UNEVEN_MM + SLACK_MM:
        return None
    return say("inner {inner_mm:.1}, outer {outer_mm:.1}", inner_mm=inner, outer_mm=outer)


def hollow(w: ResolvedWheel, new: NewParts) -> Words | None:
    rotor, thinnest = w.on_it.rotor, w.measured.rotor_thinnest_mm
    new_pads = Axis.PAD in new and Axis.ROTOR not in new
    if not new_pads or rotor is None or thinnest is None or rotor.thickness_mm - thinnest < HOLLOW_MM:
        return None
    words = "rotor worn by {worn_mm:.2}: new flat pads touch only in part"
    return say(words, worn_mm=rotor.thickness_mm - thinnest)


def colour(w: ResolvedWheel, _new: NewParts) -> Words | None:
    limit = {name: limit for limit, name in WITNESSES}.get(w.measured.rotor_colour.value)
    if limit is None:
        return None
    words = "{colour}: has probably been at {limit_c} (± {doubt_k})"
    return say(words, colour=w.measured.rotor_colour, limit_c=limit, doubt_k=WITNESS_DOUBT_K)


def presence_conflict(w: ResolvedWheel, _new: NewParts) -> Words | None:
    m = w.measured
    if m.mount_there is Presence.MISSING and m.mount_spacing_mm is not None:
        return say("no disc mount, but a bolt spacing of {spacing_mm:g}", spacing_mm=m.mount_spacing_mm)
    if m.hub_there is Presence.MISSING and m.hub is not None:
        return "the hub takes no rotor, but an interface is entered"
    return None


def mount_untold(w: ResolvedWheel, _new: NewParts) -> Words | None:
    return w.mount.lacks if w.on_it.caliper is not None and w.mount.lacks else None


def carrying_disagrees(w: ResolvedWheel, _new: NewParts) -> Words | None:
    part, kind, entered = w.carrying, w.mount.kind, w.entered
    if part is None:
        return None
    if kind is not None and part.mount is not kind:
        return say("{part} has {stated}, measured is {kind}", part=part.name, stated=part.mount, kind=kind)
    pairs = (
        ("native rotor", part.native_mm, entered.native_rotor_mm),
        ("largest rotor", part.max_rotor_mm, entered.max_rotor_mm),
        ("thread depth", part.hole_depth_mm, entered.hole_depth_mm),
        ("tab", part.tab_mm, entered.tab_mm),
    )
    for what, stated, given in pairs:
        if stated is not None and given is not None and abs(stated - given) > SAME_SIZE_MM:
            words = "{part}: {what} {stated_mm:g} by its maker, {given_mm:g} entered"
            return say(words, part=part.name, what=what, stated_mm=stated, given_mm=given)
    return None


def not_for_assisted(w: ResolvedWheel, _new: NewParts) -> Words | None:
    if w.carrying is None or not w.assisted or w.carrying.assisted:
        return None
    said = "does not release" if w.carrying.assisted is False else "does not say whether it releases"
    return say("its maker {said} {part} for assisted bikes", said=said, part=w.carrying.name)


def limit_refused(w: ResolvedWheel, _new: NewParts) -> Words | None:
    if w.entered.limit_source is not LimitSource.REFUSED or w.largest.mm is None:
        return None
    return say("the maker allows {most_mm:size} and nothing larger", most_mm=w.largest.mm)


def limit_below_native(w: ResolvedWheel, _new: NewParts) -> Words | None:
    most, native = w.largest.mm, w.native.mm
    if most is None or native is None or most > native - SAME_SIZE_MM:
        return None
    return say("{most_mm:size} allowed, the mount is made for {native_mm:size}", most_mm=most, native_mm=native)


def not_the_line(w: ResolvedWheel, _new: NewParts) -> Words | None:
    """The caliper named is not the one on the bike."""
    caliper, bore, slot = w.on_it.caliper, w.measured.bore_read_mm, w.measured.slot_read_mm
    if caliper is None:
        return None
    largest = max(caliper.bores_mm, default=None)
    if bore is not None and largest is None:
        return say("a piston of {bore_mm:g} read on a cable caliper", bore_mm=bore)
    if bore is not None and largest is not None and abs(bore - largest) > GAUGE_READS_MM:
        words = "largest piston reads {bore_mm:g}, {part} has {stated_mm:g}"
        return say(words, bore_mm=bore, part=caliper.name, stated_mm=largest)
    if slot is not None and abs(slot - caliper.slot_mm) > GAUGE_READS_MM:
        words = "slot reads {slot_mm:g}, {part} has {stated_mm:g}"
        return say(words, slot_mm=slot, part=caliper.name, stated_mm=caliper.slot_mm)
    return None


def wrong_fluid(w: ResolvedWheel, _new: NewParts) -> Words | None:
    grade, caliper = w.measured.fluid_grade, w.on_it.caliper
    if grade is None or caliper is None or caliper.fluid is Fluid.NONE or grade in GRADES_OF[caliper.fluid]:
        return None
    return say("the seals are made for {family} fluid", family=caliper.fluid)


def grade_in(w: ResolvedWheel) -> str | None:
    """The grade of what is in the line: as read, or where a caliper leaves no choice, its own."""
    caliper = w.on_it.caliper
    only = GRADES_OF[caliper.fluid] if caliper is not None else ()
    return w.measured.fluid_grade or (only[0] if len(only) == 1 else None)


def old_fluid(w: ResolvedWheel, _new: NewParts) -> Words | None:
    age = w.measured.fluid_age_y
    water = gathers_water(grade_in(w))
    if age is None or not water or age < AGES_OVER_Y:
        return None
    return say("{age_y:g} old: {water}", age_y=age, water=water)


def fluid_age_unknown(w: ResolvedWheel, _new: NewParts) -> Words | None:
    return "age not known" if grade_in(w) is not None and w.measured.fluid_age_y is None else None


def bites_between(low: float, high: float) -> Speaks:
    def speaks(w: ResolvedWheel, _new: NewParts) -> Words | None:
        bite = w.measured.lever_bite_mm
        near = bite is not None and low <= bite < high
        return say("bites {bite_mm:g} from the bar", bite_mm=bite) if near else None

    return speaks


def bite_outside_reach(w: ResolvedWheel, _new: NewParts) -> Words | None:
    bite, reach = w.measured.lever_bite_mm, w.measured.lever_reach_mm
    if bite is None or reach is None or bite <= reach:
        return None
    return say("bites at {bite_mm:g}, but the blade stands at {reach_mm:g} at rest", bite_mm=bite, reach_mm=reach)
