"""Whether parts go together on a wheel, and what has to clear what: one table, asked of every brake that is or could be.

CHECKS is the table: a row sees some figures of some parts, and the wheel, and says nothing where it does not apply. What
fails does not go together: it is refused where it is chosen, marked where it is drawn, and shown on Measure where it is on
the bike already. A caliper that fouls is never filed down: the words say what to choose instead. Limits are judged by us
where no source is named.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM, passes_through
from clavis.core.fit.mounting import FitCase
from clavis.core.job.places import Place
from clavis.core.job.wheel import Wheel
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.figures import Figures
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.hoses_and_fluids import hose_between
from clavis.core.parts.links import Link
from clavis.core.parts.models import Axis, Caliper, HubInterface, Rotor
from clavis.core.parts.mounts import PAD_EDGE_LIMIT_MM, SAME_SIZE_MM, End
from clavis.core.physics.forces import PAD_OVER_TRACK_MM, pads_within_track
from clavis.core.sentences import Sentence, Value, Words, say
from clavis.core.verdicts import Verdict

EDGE_TIGHT_MM = 0.3
INNER_TIGHT_MM = 0.1
ARC_LIMIT_MM, ARC_TIGHT_MM = 0.5, 0.3
"""ends of the pads off the track's circle (docs/model.md, section 10)"""
METAL_HOLDS_MM, METAL_LEAST_MM = 2.0, 1.0
SPOKE_HOLDS_MM, SPOKE_LEAST_MM = 2.0, 1.0
RIVET_HOLDS_MM, RIVET_PASSES_MM = 0.5, 1.0
HOSE_SPARE_MM = 10.0
STAYS_MM = 0.5
"""a caliper that moves by less stays where it is"""
PROUD_TIGHT_MM, PROUD_MOST_MM = 0.3, 1.0
_SLACK_MM = 1e-9


@dataclass(frozen=True)
class Said:
    """What one check says: verdict, words, and the value in mm where there is one."""

    verdict: Verdict
    words: Words = ""
    value_mm: float | None = None


HOLDS = Said(Verdict.HOLDS)
ON_IT = "on it"
"""among the figures of a part that a check sees: whether it is the one that is on the wheel"""


@dataclass(frozen=True, kw_only=True)
class CheckRow:
    """One row of the table. ``sees`` names the parts, and of each the figures, that its answer depends on beside the
    wheel and its special plate; ``rule`` are its limits in words."""

    key: str
    label: str
    rule: Words
    link: Link
    sees: Mapping[Axis, tuple[str, ...]]
    says: Callable[[FitCase], Said | None]
    place: Place
    """where on Measure it belongs"""
    cure: Words = ""
    """what to do where it fails on the bike"""
    source: str = "judged by us"
    ask: str = ""
    """the field of the wheel that would tell where it is unknown"""
    at_trial: bool = False
    """what is unknown can be read once the parts are held in place"""
    unsafe: bool = False
    """where it fails, the bike is not ridden"""
    drawn: bool = False
    """has its place in the drawing and in the table of clearances"""


@dataclass(frozen=True)
class CheckResult:
    """One check of one brake."""

    row: CheckRow
    said: Said

    @property
    def key(self) -> str:
        return self.row.key

    @property
    def label(self) -> str:
        return self.row.label

    @property
    def verdict(self) -> Verdict:
        return self.said.verdict

    @property
    def words(self) -> Words:
        return self.said.words

    @property
    def value_mm(self) -> float | None:
        return self.said.value_mm

    @property
    def ask(self) -> str:
        """The field that would tell; empty where it is known."""
        return self.row.ask if self.verdict is Verdict.UNKNOWN else ""

    @property
    def at_trial(self) -> bool:
        return self.row.at_trial and self.verdict is Verdict.UNKNOWN


def _graded(room: float, least: float, holds: float) -> Verdict:
    if room < least - _SLACK_MM:
        return Verdict.FAILS
    return Verdict.HOLDS if room >= holds - _SLACK_MM else Verdict.TIGHT


def _within(error: float, tight: float, limit: float) -> Verdict:
    if abs(error) > limit + _SLACK_MM:
        return Verdict.FAILS
    return Verdict.TIGHT if abs(error) > tight + _SLACK_MM else Verdict.HOLDS


def _fails(words: Words, value_mm: float | None = None) -> Said:
    return Said(Verdict.FAILS, words, value_mm)


def _unknown(words: Words) -> Said:
    return Said(Verdict.UNKNOWN, words)


# Rotor and wheel.


def _hub(c: FitCase) -> Said | None:
    if c.rotor is None or c.wheel.measured.hub is None:
        return None
    if c.wheel.measured.hub is HubInterface.SIX_BOLT and c.rotor.interface is HubInterface.SPLINED:
        return _fails("a splined rotor does not go on a six-bolt hub")
    return HOLDS


def _smallest(c: FitCase) -> Said | None:
    if c.rotor is None or c.plate is not None:
        return None
    native = c.wheel.native.mm
    if native is None:
        return _unknown("native size not known: give it, or enter the present rotor and its adapter")
    room = c.rotor.diameter_mm - native
    if room < -SAME_SIZE_MM:
        words = "below the native size {native_mm:size}: a caliper cannot move inward"
        return _fails(say(words, native_mm=native), room)
    return Said(Verdict.HOLDS, say("the mount is made for {native_mm:size}", native_mm=native), room)


def _largest(c: FitCase) -> Said | None:
    if c.rotor is None:
        return None
    most = c.wheel.largest.mm
    if most is None:
        native = c.wheel.native
        if native.mm is not None and not native.conflict and c.rotor.diameter_mm <= native.mm + SAME_SIZE_MM:
            words = "not known beyond its native {native_mm:size}, for which the mount is made"
            return Said(Verdict.HOLDS, say(words, native_mm=native.mm), native.mm - c.rotor.diameter_mm)
        words = "not known: ask the maker of the {carries}"
        return _unknown(say(words, carries=c.wheel.carries))
    room = most - c.rotor.diameter_mm
    if room < -SAME_SIZE_MM:
        words = "above {most_mm:size}, the largest that the {carries} allows"
        return _fails(say(words, most_mm=most, carries=c.wheel.carries), room)
    return Said(Verdict.HOLDS, say("allowed is {most_mm:size}", most_mm=most), room)


def metal_room_mm(wheel: Wheel, rotor: Rotor) -> float | None:
    """From the rotor's edge to the nearest metal beside it, mm; None where it was not read."""
    return None if wheel.edge_radius_mm is None else wheel.edge_radius_mm - rotor.diameter_mm / 2


def _leg(c: FitCase) -> Said | None:
    if c.rotor is None:
        return None
    room = metal_room_mm(c.wheel.measured, c.rotor)
    if room is not None:
        verdict = _graded(room, METAL_LEAST_MM, METAL_HOLDS_MM)
        words = "{room_mm:.1} from the rotor's edge to the nearest metal"
        if verdict is Verdict.TIGHT:
            words += "; spin and look under load"
        elif room < 0:
            words = "the rotor would reach {over_mm:.1} into the nearest metal beside it: a smaller rotor"
        elif verdict is Verdict.FAILS:
            words = "only {room_mm:.1} from the rotor's edge to the nearest metal: a smaller rotor"
        return Said(verdict, say(words, room_mm=room, over_mm=-room), room)
    most, on_it = c.wheel.largest.mm, c.wheel.on_it.rotor
    if most is not None and c.rotor.diameter_mm <= most + SAME_SIZE_MM:
        words = "the {carries}'s maker allows this size; look once the wheel is in"
        return Said(Verdict.HOLDS, say(words, carries=c.wheel.carries))
    if on_it is not None and c.rotor.diameter_mm <= on_it.diameter_mm:
        return Said(Verdict.HOLDS, "no larger than the one on it")
    words = "measure from the axle to the nearest metal of {what} or mount beside the rotor"
    return _unknown(say(words, what="leg" if c.wheel.end is End.FRONT else "stay"))


# Rotor and caliper on the mount.


def _chain(c: FitCase) -> Said | None:
    if c.chain is None:
        return None
    if c.chain.possible:
        return Said(Verdict.HOLDS, c.chain.reason)
    if c.chain.unknown:  # that mount or native size are not known is said once, elsewhere
        known = c.wheel.mount.kind is not None and c.wheel.native.mm is not None
        return _unknown(c.chain.reason) if known else None
    if c.chain.look_for:
        return _fails(say("{reason}; look for: {part}", reason=c.chain.reason, part=c.chain.look_for))
    return _fails(c.chain.reason)


def _bolts(c: FitCase) -> Said | None:
    if c.chain is None or not c.chain.possible:
        return None
    if c.stays and c.plate is None:
        return _bolts_as_they_are(c)
    for bolt in c.bolts:
        if bolt.choice.lacks:
            words = say("bolt {place}: {why}", place=bolt.stack.place, why=bolt.choice.lacks)
            return _unknown(words) if bolt.stack.unmeasured else _fails(words)
    return HOLDS if c.bolts else None


def _bolts_as_they_are(c: FitCase) -> Said | None:
    """Bolts that stay: those whose length was read, by the sum; what no one read is no fault of theirs."""
    read = [(bolt, bolt.old) for bolt in c.bolts if bolt.old is not None]
    for bolt, old in read:
        if old.verdict is Verdict.FAILS:
            return _fails(say("bolt {place}: {why}", place=bolt.stack.place, why=old.words))
    return HOLDS if any(old.verdict is Verdict.HOLDS for _, old in read) else None


def _placed(c: FitCase) -> bool:
    """Whether the caliper stands where parts put it: a chain that is possible, or one that is on the bike."""
    return c.chain is not None and (c.chain.possible or (c.stays and c.wheel.adapter_known and not c.chain.unknown))


def _edge(c: FitCase) -> Said | None:
    if c.stand is None or c.rotor is None or not _placed(c):
        return None
    error = c.stand.edge_error_mm(c.rotor.diameter_mm)
    verdict = _within(error, EDGE_TIGHT_MM, PAD_EDGE_LIMIT_MM)
    told = {
        "off_mm": abs(error),
        "limit_mm": PAD_EDGE_LIMIT_MM,
        "rotor_mm": c.rotor.diameter_mm,
        "position_mm": round(c.stand.position_mm, 1),
    }
    if abs(error) < 0.05:
        return Said(verdict, say("flush; ± {limit_mm:g} is allowed", **told), error)
    side = "over the rotor's edge: it does not wear and a lip will ride the rotor"
    words = "a {rotor_mm:size} rotor on a {position_mm:size} position: the pads stand {off_mm:.1} {side}; "
    if error < 0:
        words = "a {rotor_mm:size} rotor on a {position_mm:size} position: {off_mm:.1} of rim unswept{side}; "
        side = ", and the rotor may meet the caliper's bridge" if verdict is Verdict.FAILS else ""
    return Said(verdict, say(words + "± {limit_mm:g} is allowed", side=side, **told), error)


WEDGE_FROM_MM = 0.05


def _is_wedge(c: FitCase) -> bool:
    """The caliper's own bolts run through a part of two heights."""
    parts = c.chain.parts if c.chain is not None else ()
    mount = c.wheel.mount.kind
    if not parts or mount is None or not passes_through(mount, parts[-1]):
        return False
    return abs(parts[-1].upper_mm - parts[-1].lower_mm) > WEDGE_FROM_MM


def _arc(c: FitCase) -> Said | None:
    if c.stand is None or c.caliper is None or not _placed(c):
        return None
    tried, seat = c.tried("arc"), c.on.seat
    if tried is not None:
        words = "as seen at the trial fit" if tried else "at the trial fit the pads did not follow the track"
        return Said(Verdict.HOLDS if tried else Verdict.FAILS, words)
    if seat is not None and not seat.measured and c.plate is None and _is_wedge(c):
        words = "a part of two heights turns the caliper; by how much, the holes' distances from the axle would tell"
        return None if c.stands_as_it_did else _unknown(words + ": look along the pads at the trial fit")
    error = c.stand.arc_error_mm(PAD_HALF_LENGTH_MM[c.caliper.four_pistons])
    words = "pads turned {tilt_deg:.1} out of the track's direction, {off_mm:.1} at their ends; {limit_mm:g} is allowed"
    told = say(words, tilt_deg=c.stand.tilt_deg, off_mm=error, limit_mm=ARC_LIMIT_MM)
    return Said(_within(error, ARC_TIGHT_MM, ARC_LIMIT_MM), told, error)


def _holes(c: FitCase) -> Said | None:
    seat = c.on.seat
    if seat is None or c.plate is not None or not (seat.measured or seat.conflict):
        return None
    if seat.conflict:
        return _unknown(seat.conflict)
    side = "outside" if seat.proud_mm > 0 else "inside"
    told: dict[str, Value] = {"off_mm": abs(seat.proud_mm), "side": side, "native_mm": c.wheel.native.mm}
    words = "faces {off_mm:.1} {side} where a mount for {native_mm:size} has them"
    if abs(seat.proud_mm) > PROUD_MOST_MM + _SLACK_MM:
        words += ": native size or reading is wrong, measure again"
        return Said(Verdict.UNKNOWN, say(words, **told), seat.proud_mm)
    return Said(_within(seat.proud_mm, PROUD_TIGHT_MM, PROUD_MOST_MM), say(words, **told), seat.proud_mm)


def _pitch(c: FitCase) -> Said | None:
    if c.chain is None or c.chain.adapter is None or c.caliper is None:
        return None
    pitch = c.on.pitch_of(c.caliper, c.chain.adapter)
    return None if pitch is None else Said(pitch.verdict, pitch.words, pitch.error_mm)


def _slot(c: FitCase) -> Said | None:
    if c.rotor is None or c.caliper is None:
        return None
    on_it, now, read = c.wheel.on_it.caliper, c.wheel.on_it.rotor, c.wheel.measured.slot_read_mm
    measured = read if on_it is not None and on_it.id == c.caliper.id else None
    slot = c.caliper.slot_mm if measured is None else measured
    if c.caliper.figures is Figures.STAND_IN and measured is None:
        if now is not None and c.rotor.thickness_mm <= now.thickness_mm:
            return Said(Verdict.HOLDS, "no thicker than the rotor that is in it")
        return _unknown("nobody knows which caliper it is: measure its slot")
    room = slot - c.rotor.thickness_mm
    words = say("rotor of {rotor_mm:g} in a slot for {slot_mm:g}", slot_mm=slot, rotor_mm=c.rotor.thickness_mm)
    return Said(Verdict.FAILS if room < -_SLACK_MM else Verdict.HOLDS, words, room)


def _rivets(c: FitCase) -> Said | None:
    if c.rotor is None or c.caliper is None or c.rotor.rivet_out_mm <= 0:
        return None
    tried = c.tried("rivets")
    if tried is not None:
        words = (
            "they pass free, as seen at the trial fit" if tried else "at the trial fit they met the caliper or the pads"
        )
        return Said(Verdict.HOLDS if tried else Verdict.FAILS, words)
    told: dict[str, Value] = {"rotor_mm": c.rotor.diameter_mm, "out_mm": c.rotor.rivet_out_mm}
    place = rivets_of(c)
    if place.under_pads_mm is not None and place.under_pads_mm < -_SLACK_MM:
        words = "rivets of the {rotor_mm:size} reach {in_mm:.1} under the pads: they would run on them"
        return _fails(say(words, in_mm=-place.under_pads_mm, **told), place.under_pads_mm)
    inside, beside = place.inside_mm, place.beside_mm
    if inside is not None and inside >= RIVET_PASSES_MM - _SLACK_MM:
        words = "rivets of the {rotor_mm:size} pass {inside_mm:.1} inside the caliper"
        return Said(Verdict.HOLDS, say(words, inside_mm=inside, **told), inside)
    if beside is not None and beside >= RIVET_HOLDS_MM - _SLACK_MM:
        words = "rivets of the {rotor_mm:size} stand out {out_mm:g}, room {room_mm:g}"
        return Said(Verdict.HOLDS, say(words, room_mm=c.caliper.rivet_room_mm, **told), beside)
    if inside is None or beside is None:
        words = "rivets of the {rotor_mm:size} stand out {out_mm:g}; where they pass the caliper is not stated: spin and look"
        return _unknown(say(words, **told))
    words = "rivets of the {rotor_mm:size} stand out {out_mm:g}, room {room_mm:g}; spin and look before riding"
    if beside >= -_SLACK_MM:
        return Said(Verdict.TIGHT, say(words, room_mm=c.caliper.rivet_room_mm, **told), beside)
    words = "rivets of the {rotor_mm:size} stand out {out_mm:g}, room {room_mm:g}: they would meet the caliper"
    return _fails(say(words, room_mm=c.caliper.rivet_room_mm, **told), beside)


@dataclass(frozen=True)
class RivetRoom:
    """Where the rivets of a rotor pass a caliper and its pads, mm; None where a figure of it is not stated."""

    inside_mm: float | None
    """from the rivets out to the lowest metal of the caliper: above zero they pass inside it"""
    beside_mm: float | None
    """from the rivets' faces to the caliper beside them"""
    under_pads_mm: float | None
    """from the rivets out to the pads' inner edge"""


def rivets_of(c: FitCase) -> RivetRoom:
    """The radial and the sideways place of the rivets, by this rotor, this caliper where it stands, and these pads."""
    rotor, caliper = c.rotor, c.caliper
    if rotor is None or caliper is None:
        return RivetRoom(None, None, None)
    beside = None if caliper.rivet_room_mm is None else caliper.rivet_room_mm - rotor.rivet_out_mm
    at, stand = rotor.rivet_radius_mm, c.stand if _placed(c) else None
    if at is None or stand is None:
        return RivetRoom(None, beside, None)
    edge = stand.position_mm / 2
    inside = None if caliper.body_in_mm is None else edge - caliper.body_in_mm - at
    return RivetRoom(inside, beside, None if c.pad is None else edge - c.pad.height_mm - at)


# Caliper, hose, lever.


def spoke_room_mm(wheel: Wheel, on_it: Caliper | None, new: Caliper) -> float | None:
    """From a caliper to the nearest spoke, mm: the gap as read, less what another caliper than the one that is on it
    stands out more. A gap read where none was on it is that of the new one. None where it cannot be told."""
    gap = wheel.spoke_gap_mm
    if gap is None or on_it is None or on_it.id == new.id:
        return gap
    if on_it.inboard_mm is None or new.inboard_mm is None:
        return None
    return gap + on_it.inboard_mm - new.inboard_mm


def _spokes(c: FitCase) -> Said | None:
    if c.caliper is None:
        return None
    gap, on_it = c.wheel.measured.spoke_gap_mm, c.wheel.on_it.caliper
    same = on_it is not None and on_it.id == c.caliper.id
    if gap is not None:
        room = spoke_room_mm(c.wheel.measured, on_it, c.caliper)
        if room is None:
            words = (
                "how far a caliper stands toward the spokes is not stated: hold it in place, turn the wheel once round"
            )
            return _unknown(words)
        verdict = _graded(room, SPOKE_LEAST_MM, SPOKE_HOLDS_MM)
        how = (
            "as measured"
            if on_it is None or same
            else say("{gap_mm:g} now, less what the new one stands out more", gap_mm=gap)
        )
        after = "; choose another caliper or wheel" if verdict is Verdict.FAILS else ""
        words = "{room_mm:.1} from the caliper to the spokes, {how}{after}"
        return Said(verdict, say(words, room_mm=room, how=how, after=after), room)
    now = c.on.stand_now
    outward = c.stand and now and c.stand.position_mm >= now.position_mm - 2 * STAYS_MM
    if (same and outward) or c.unchanged:
        return Said(Verdict.HOLDS, "the same caliper, no nearer to the spokes than now")
    return _unknown("hold it in place, turn the wheel once round and measure the smallest gap")


def _hose(c: FitCase) -> Said | None:
    if c.stand is None or c.caliper is None:
        return None
    what = "housing" if c.caliper.fluid is Fluid.NONE else "hose"
    moves, slack = c.moves_mm, c.wheel.measured.hose_slack_mm
    if c.hose_short:
        words = "slack {slack_mm:g}, the caliper moves {moves_mm:.0}: a longer {what}"
        return Said(Verdict.HOLDS, say(words, slack_mm=slack, moves_mm=moves, what=what))
    if c.new_hose:
        return Said(Verdict.HOLDS, say("a new {what}, cut to length with the bar turned fully", what=what))
    if c.unchanged or (moves is not None and moves <= STAYS_MM):
        return Said(Verdict.HOLDS, "the caliper stays where it is")
    if moves is None:  # where it stands now is not known: what is left is read in the new place
        if slack is None:
            return _unknown("hold the caliper in its new place, bar turned fully: measure what slack is left")
        told = say("{slack_mm:g} left, as read in the new place", slack_mm=slack)
        return Said(_graded(slack, 0.0, HOSE_SPARE_MM), told, slack)
    if slack is None:
        words = "the caliper moves {moves_mm:.0}: measure how far it can be drawn outward with the bar turned fully"
        return _unknown(say(words, moves_mm=moves))
    spare = slack - moves
    told = say("slack {slack_mm:g}, the caliper moves {moves_mm:.0}", slack_mm=slack, moves_mm=moves)
    return Said(_graded(spare, 0.0, HOSE_SPARE_MM), told, spare)


def _line(c: FitCase) -> Said | None:
    if c.caliper is None or c.lever is None:
        return None
    if c.caliper.fluid is not c.lever.fluid:
        words = "{lever:a} lever on {caliper:a} caliper"
        return _fails(say(words, lever=c.lever.fluid, caliper=c.caliper.fluid))
    return HOLDS


def _pull(c: FitCase) -> Said | None:
    if c.caliper is None or c.lever is None or not (c.caliper.fluid is c.lever.fluid is Fluid.NONE):
        return None
    if c.caliper.pull is c.lever.pull:
        return HOLDS
    words = "{lever} pull at the lever, {caliper} pull at the caliper: they do not go together"
    return _fails(say(words, lever=c.lever.pull, caliper=c.caliper.pull))


def _fitting(c: FitCase) -> Said | None:
    """Ends alike need no look at the shelf; others need a hose that has both. What is joined on the bike is joined."""
    if c.caliper is None or c.lever is None or c.line_stays:
        return None
    if c.caliper.fluid is not c.lever.fluid or c.caliper.fluid is Fluid.NONE:
        return None
    known = Figures.STAND_IN not in (c.lever.figures, c.caliper.figures)
    if known and (
        c.caliper.fitting == c.lever.fitting or hose_between(c.lever, c.caliper, c.on.catalogue.hoses.values()).hose
    ):
        return HOLDS
    if not known:
        return _unknown("nobody knows its make: look which ends its hose has")
    words = "no hose joins {lever} at the lever and {caliper} at the caliper"
    return _fails(say(words, lever=c.lever.fitting, caliper=c.caliper.fitting))


def _bar(c: FitCase) -> Said | None:
    if c.lever is None or c.wheel.bar is None:
        return None
    if c.lever.bar is c.wheel.bar:
        return HOLDS
    return _fails(say("a lever for {lever:a} bar on {bar:a} one", lever=c.lever.bar, bar=c.wheel.bar))


# Pads.


def _shape(c: FitCase) -> Said | None:
    if c.caliper is None or c.pad is None:
        return None
    if c.pad.shape == c.caliper.pad_shape:
        return HOLDS
    words = "pad shape {pad} in a caliper for {caliper}"
    return _fails(say(words, pad=c.pad.shape, caliper=c.caliper.pad_shape))


def _compound(c: FitCase) -> Said | None:
    if c.rotor is None or c.pad is None:
        return None
    if c.rotor.resin_only and not COMPOUNDS[c.pad.compound].on_any_rotor:
        return _fails("the rotor is marked for resin pads only")
    return HOLDS


def _inner(c: FitCase) -> Said | None:
    if c.rotor is None or c.pad is None:
        return None
    room = c.rotor.track_mm - c.pad.height_mm
    if c.stand is not None and _placed(c):
        room += c.stand.edge_error_mm(c.rotor.diameter_mm)
    words = "pad {pad_mm:g} high on a track of {track_mm:g}"
    told = {"pad_mm": c.pad.height_mm, "track_mm": c.rotor.track_mm}
    if room < -PAD_OVER_TRACK_MM - _SLACK_MM or not pads_within_track(c.rotor, c.pad):
        words += ": it would ride the arms; a lower pad, or a rotor with a higher track"
        return _fails(say(words, **told), room)
    if room < -INNER_TIGHT_MM:
        return Said(Verdict.TIGHT, say(words + ": just over its inner edge", **told), room)
    return Said(Verdict.HOLDS, say(words, **told), room)


_R, _C, _V, _P = Axis.ROTOR, Axis.CALIPER, Axis.LEVER, Axis.PAD
_HELD = ("mount", "tab_mm", "washers", "washer_pair_mm")
"""what of a caliper the choice of its adapter and bolts depends on"""
_STANDS = {_R: ("diameter_mm",), _C: _HELD}
_BODY = {_R: ("diameter_mm", ON_IT), _C: ("mount", "fluid", "fitting", ON_IT), _V: ("fitting", ON_IT)}


def _rule(template: str, **limits: float) -> Sentence:
    return say(template, **limits)


CHECKS: tuple[CheckRow, ...] = (
    CheckRow(
        key="hub", label="rotor to hub", link=Link.ROTOR, place=Place.HUB, says=_hub, sees={_R: ("interface",)},
        rule="a six-bolt rotor goes on either hub, on a splined one with its adapter; a splined rotor on a splined hub only",
        cure="look again: it cannot be", source="the trade's hub standards",
    ),
    CheckRow(
        key="smallest", label="smallest rotor", link=Link.ROTOR, place=Place.MOUNT, says=_smallest,
        sees={_R: ("diameter_mm",), _C: ()}, ask="native_rotor_mm", drawn=True,
        rule="not below the native size: a caliper cannot move inward",
        cure="a rotor of the native size or larger", source="the trade's mount standards",
    ),
    CheckRow(
        key="largest", label="largest rotor allowed", link=Link.ROTOR, place=Place.MOUNT, says=_largest,
        sees={_R: ("diameter_mm",)}, ask="max_rotor_mm", unsafe=True, drawn=True,
        rule="as the maker of fork or frame states; not stated is unknown",
        cure="back to a size the maker of fork or frame allows: it was not made for this load",
        source="maker of fork or frame",
    ),
    CheckRow(
        key="chain", label="one adapter, never two", link=Link.CALIPER, place=Place.MOUNT, says=_chain, sees=_STANDS,
        rule="from mount to caliper by one part at most; a carrier made for it takes its maker's own flip plate",
        ask="adapter_id",
        cure="the part that belongs there; nothing is stacked, nothing is filed",
        source="the trade's mount standards, docs/mounts.md",
    ),
    CheckRow(
        key="bolts", label="bolts of a stock length", link=Link.CALIPER, place=Place.MOUNT, says=_bolts,
        sees=_STANDS, ask="thread_material",
        rule="enough thread by its material, and clear of its end",
        cure="bolts of the length that the sum asks for", source="thread engagement of the trade",
    ),
    CheckRow(
        key="edge", label="pad to rotor's edge", link=Link.ROTOR, place=Place.MOUNT, says=_edge, sees=_STANDS, drawn=True,
        rule=_rule(
            "flush within {tight_mm:g} holds, within {limit_mm:g} is tight, beyond fails: over the edge a lip grows on "
            "the pad, short of it a step on the rotor", tight_mm=EDGE_TIGHT_MM, limit_mm=PAD_EDGE_LIMIT_MM,
        ),
        cure="the adapter for this rotor, or the rotor for this adapter; nothing is filed",
        source="(D position − D rotor)/2",
    ),
    CheckRow(
        key="arc", label="pads along the track", link=Link.ROTOR, place=Place.MOUNT, says=_arc, drawn=True,
        sees={_R: ("diameter_mm",), _C: (*_HELD, "four_pistons")}, at_trial=True,
        rule=_rule(
            "ends of the pads within {tight_mm:g} of the track's circle hold, within {limit_mm:g} are tight",
            tight_mm=ARC_TIGHT_MM, limit_mm=ARC_LIMIT_MM,
        ),
        cure="another adapter; nothing is filed",
    ),
    CheckRow(
        key="holes", label="holes about the axle", link=Link.CALIPER, place=Place.ROOM, says=_holes, ask="upper_hole_mm",
        sees={}, drawn=True,
        rule=_rule(
            "measured faces within {tight_mm:g} of the standard's place hold, within {most_mm:g} are tight; beyond, native "
            "size or reading is wrong", tight_mm=PROUD_TIGHT_MM, most_mm=PROUD_MOST_MM,
        ),
        cure="read both distances again; where they stand, the native size is another",
        source="three distances make a triangle",
    ),
    CheckRow(
        key="pitch", label="pitch of the mount", link=Link.CALIPER, place=Place.MOUNT, says=_pitch, sees=_STANDS,
        ask="mount_spacing_mm", drawn=True,
        rule="each bolt within half of the room of its hole and counterbore holds, within all of it is tight; caliper gauge",
        cure="choose a plate that does; measure again before ordering", source="hole and counterbore of the plate",
    ),
    CheckRow(
        key="leg", label="rotor's edge to leg or stay", link=Link.ROTOR, place=Place.ROOM, says=_leg,
        sees={_R: ("diameter_mm",)}, ask="edge_radius_mm", at_trial=True, drawn=True,
        rule=_rule(
            "{holds_mm:g} holds, {least_mm:g} is the least; unread, a size that the maker allows or that is on it holds",
            holds_mm=METAL_HOLDS_MM, least_mm=METAL_LEAST_MM,
        ),
        cure="a smaller rotor",
    ),
    CheckRow(
        key="spokes", label="caliper to spokes", link=Link.CALIPER, place=Place.ROOM, says=_spokes,
        sees={_R: ("diameter_mm", ON_IT), _C: ("mount", "inboard_mm", ON_IT)}, ask="spoke_gap_mm", at_trial=True, drawn=True,
        rule=_rule(
            "{holds_mm:g} holds, {least_mm:g} is the least; the gap now, less what a new caliper stands out more",
            holds_mm=SPOKE_HOLDS_MM, least_mm=SPOKE_LEAST_MM,
        ),
        cure="another caliper or wheel",
    ),
    CheckRow(
        key="slot", label="rotor in the slot", link=Link.ROTOR, place=Place.CALIPER, says=_slot, drawn=True,
        ask="slot_read_mm",
        sees={_R: ("thickness_mm",), _C: ("slot_mm", "figures", ON_IT)}, rule="no thicker than the slot takes",
        cure="a rotor that fits, or another caliper; nothing is filed", source="caliper's slot",
    ),
    CheckRow(
        key="rivets", label="rivets to caliper", link=Link.ROTOR, place=Place.ROTOR, says=_rivets, drawn=True,
        sees={
            _R: ("rivet_out_mm", "rivet_radius_mm", "diameter_mm", ON_IT), _P: ("height_mm",),
            _C: ("rivet_room_mm", "body_in_mm", *_HELD, ON_IT),
        }, at_trial=True,
        rule=_rule(
            "{passes_mm:g} inside the caliper, or {holds_mm:g} beside it, holds; never under the pads",
            holds_mm=RIVET_HOLDS_MM, passes_mm=RIVET_PASSES_MM,
        ), cure="another rotor or caliper",
    ),
    CheckRow(
        key="hose", label="hose or housing slack", link=Link.LINE, place=Place.ROOM, says=_hose, sees=_BODY,
        ask="hose_slack_mm", at_trial=True, drawn=True,
        rule=_rule("{spare_mm:g} to spare after the caliper has moved, bar turned fully", spare_mm=HOSE_SPARE_MM),
        cure="a longer hose or housing",
    ),
    CheckRow(
        key="line", label="lever and caliper: fluid or cable", link=Link.LEVER, place=Place.LEVER, says=_line, unsafe=True,
        sees={_C: ("fluid",), _V: ("fluid",)}, rule="lever and caliper of one family: mineral, DOT, or cable",
        cure="put the pair together that belongs together", source="makers' instructions",
    ),
    CheckRow(
        key="pull", label="cable pull", link=Link.LEVER, place=Place.LEVER, says=_pull,
        sees={_C: ("fluid", "pull"), _V: ("fluid", "pull")}, rule="lever and caliper of one pull: long or short",
        cure="lever and caliper of one pull", source="catalogue",
    ),
    CheckRow(
        key="fitting", label="a hose for both fittings", link=Link.LINE, place=Place.LEVER, says=_fitting,
        sees={_C: ("fluid", "fitting", "figures"), _V: ("fluid", "fitting", "figures")}, rule="a hose on the shelf has both ends",
        cure="a hose with both ends", source="catalogue",
    ),
    CheckRow(
        key="bar", label="lever for this bar", link=Link.LEVER, place=Place.LEVER, says=_bar, sees={_V: ("bar",)},
        rule="a lever for a drop bar on a drop bar, one for a flat bar on a flat one", cure="a lever for this bar",
        source="catalogue",
    ),
    CheckRow(
        key="shape", label="pad shape", link=Link.PAD, place=Place.PADS, says=_shape,
        sees={_C: ("pad_shape",), _P: ("shape",)}, rule="the caliper's own shape", cure="pads of the caliper's own shape",
        source="catalogue",
    ),
    CheckRow(
        key="compound", label="compound on this rotor", link=Link.PAD, place=Place.PADS, says=_compound,
        sees={_R: ("resin_only",), _P: ("compound",)}, rule="a rotor marked for resin pads takes those only",
        cure="resin pads, or a rotor for this compound", source="marking on the rotor",
    ),
    CheckRow(
        key="inner", label="pad to inner edge of the track", link=Link.PAD, place=Place.PADS, says=_inner, drawn=True,
        sees={_R: ("diameter_mm", "track_mm"), _C: _HELD, _P: ("height_mm",)},
        rule=_rule("a pad may stand {over_mm:g} inside the track before it rides the arms", over_mm=PAD_OVER_TRACK_MM),
        cure="a lower pad, or a rotor with a higher track", source="pad and rotor",
    ),
)  # fmt: skip


def results_of(case: FitCase) -> tuple[CheckResult, ...]:
    """Every row that applies to a brake, in the table's order."""
    said = ((row, row.says(case)) for row in CHECKS)
    return tuple(CheckResult(row, found) for row, found in said if found is not None)
