"""What has to clear what once a brake stands on its wheel: each holds, is tight, fails or is unknown (the job, 5).

CLEARANCES is the table. A row says nothing where it does not apply. A caliper that fouls is never filed down: the words
say what to choose instead. Limits are judged by us where no source is named.
"""

from collections.abc import Callable
from dataclasses import dataclass

from clavis.core.fit.adapters import ChainAnswer, judge_pitch
from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM, Seat, Stand
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Adapter, Caliper, Fluid, Pad, Rotor
from clavis.core.parts.mounts import PAD_EDGE_LIMIT_MM, End, MountKind
from clavis.core.physics.forces import PAD_OVER_TRACK_MM
from clavis.core.verdicts import Verdict

EDGE_TIGHT_MM = 0.3
INNER_TIGHT_MM = 0.1
ARC_LIMIT_MM, ARC_TIGHT_MM = 0.5, 0.3
"""ends of the pads off the track's circle (model, section 10)"""
METAL_HOLDS_MM, METAL_LEAST_MM = 2.0, 1.0
SPOKE_HOLDS_MM, SPOKE_LEAST_MM = 2.0, 1.0
RIVET_HOLDS_MM = 0.5
HOSE_SPARE_MM = 10.0
STAYS_MM = 0.5
"""a caliper that moves by less stays where it is"""
PROUD_TIGHT_MM, PROUD_MOST_MM = 0.3, 1.0
SLACK_MM = 1e-9


@dataclass(frozen=True)
class Clearance:
    """One check of the fit: value, verdict and words. ``ask`` is the field of the wheel that would tell; ``at_trial``
    what can only be read once the parts are held in place."""

    key: str
    label: str
    value_mm: float | None
    verdict: Verdict
    words: str
    ask: str = ""
    at_trial: bool = False


@dataclass(frozen=True)
class Held:
    """A brake as it would stand, and as it stands now."""

    end: End
    wheel: Wheel
    mount: MountKind | None
    native_mm: float | None
    largest_mm: float | None
    rotor: Rotor
    caliper: Caliper
    pad: Pad | None
    chain: ChainAnswer
    old_rotor: Rotor | None
    old_caliper: Caliper | None
    old_adapter: Adapter | None
    new_hose: bool
    special: bool = False
    """on a special plate that is released"""
    seat: Seat | None = None
    stand: Stand | None = None
    before: Stand | None = None
    """where the caliper that is on it stands"""

    @property
    def carries(self) -> str:
        return "fork" if self.end is End.FRONT else "frame"

    @property
    def unchanged(self) -> bool:
        """The caliper and the rotor that are on it stay."""
        old = (self.old_rotor, self.old_caliper)
        return None not in old and (self.rotor, self.caliper) == old

    @property
    def moves_mm(self) -> float | None:
        """How far the caliper moves from where it stands now; None where one of the two is not known."""
        if self.stand is None or self.before is None:
            return None
        return abs(self.stand.pad_edge - self.before.pad_edge)


Said = tuple[float | None, Verdict, str]
"""value in mm where there is one, verdict, words"""


@dataclass(frozen=True)
class ClearanceRow:
    key: str
    label: str
    rule: str
    """the limits in words, for the page of rules"""
    says: Callable[[Held], Said | None]
    ask: str = ""
    at_trial: bool = False


def _graded(room: float, least: float, holds: float) -> Verdict:
    if room < least - SLACK_MM:
        return Verdict.FAILS
    return Verdict.HOLDS if room >= holds - SLACK_MM else Verdict.TIGHT


def _within(error: float, tight: float, limit: float) -> Verdict:
    if abs(error) > limit + SLACK_MM:
        return Verdict.FAILS
    return Verdict.TIGHT if abs(error) > tight + SLACK_MM else Verdict.HOLDS


def edge_verdict(error_mm: float) -> Verdict:
    """Pads over the rotor's edge or short of it."""
    return _within(error_mm, EDGE_TIGHT_MM, PAD_EDGE_LIMIT_MM)


def arc_verdict(error_mm: float) -> Verdict:
    """Ends of the pads off the track's circle."""
    return _within(error_mm, ARC_TIGHT_MM, ARC_LIMIT_MM)


def _outer_edge(h: Held) -> Said | None:
    if h.stand is None:
        return None
    error = h.stand.edge_error_mm(h.rotor.diameter_mm)
    verdict = edge_verdict(error)
    allowed = f"± {PAD_EDGE_LIMIT_MM:g} mm is allowed"
    if abs(error) < 0.05:
        return error, verdict, f"flush; {allowed}"
    if error > 0:
        return (
            error,
            verdict,
            f"{error:.1f} mm of the pad over the edge: it does not wear and a lip rides the rotor; {allowed}",
        )
    return error, verdict, f"{-error:.1f} mm of rim unswept: a step is left there as the ring wears; {allowed}"


def _inner_edge(h: Held) -> Said | None:
    if h.stand is None or h.pad is None:
        return None
    pad_in = h.stand.position_mm / 2 - h.pad.height_mm
    room = pad_in - (h.rotor.diameter_mm / 2 - h.rotor.track_mm)
    if room < -PAD_OVER_TRACK_MM - SLACK_MM:
        return room, Verdict.FAILS, "the pad would ride the arms: a lower pad, or a rotor with a higher track"
    if room < -INNER_TIGHT_MM:
        return (
            room,
            Verdict.TIGHT,
            f"pad {h.pad.height_mm:g} mm on a track of {h.rotor.track_mm:g}: just over its inner edge",
        )
    return room, Verdict.HOLDS, f"pad {h.pad.height_mm:g} mm on a track of {h.rotor.track_mm:g}"


def _arc(h: Held) -> Said | None:
    if h.stand is None:
        return None
    error = h.stand.arc_error_mm(PAD_HALF_LENGTH_MM[h.caliper.four_pistons])
    words = f"pads turned {h.stand.tilt_deg:.1f}° out of the track's direction; {ARC_LIMIT_MM:g} mm at their ends is allowed"
    return error, arc_verdict(error), words


def _holes(h: Held) -> Said | None:
    if h.seat is None or not (h.seat.measured or h.seat.conflict):
        return None
    if h.seat.conflict:
        return None, Verdict.UNKNOWN, h.seat.conflict
    proud = h.seat.proud_mm
    side = "outside" if proud > 0 else "inside"
    words = f"faces {abs(proud):.1f} mm {side} the standard's place for {h.native_mm:g}"
    if abs(proud) > PROUD_MOST_MM + SLACK_MM:
        return proud, Verdict.UNKNOWN, f"{words}: native size or reading is wrong, measure again"
    return proud, _within(proud, PROUD_TIGHT_MM, PROUD_MOST_MM), words


def _pitch(h: Held) -> Said | None:
    if h.mount is not MountKind.FLAT_FRONT or h.chain.adapter is None:
        return None
    pitch = judge_pitch(h.wheel.mount_spacing_mm, h.wheel.spacing_tool, h.chain.adapter)
    return pitch.error_mm, pitch.verdict, pitch.words


def metal_room_mm(wheel: Wheel, rotor: Rotor) -> float | None:
    """From the rotor's edge to the nearest metal beside it; None where it was not read."""
    return None if wheel.edge_radius_mm is None else wheel.edge_radius_mm - rotor.diameter_mm / 2


def _metal(h: Held) -> Said | None:
    room, what = metal_room_mm(h.wheel, h.rotor), "leg" if h.end is End.FRONT else "stay"
    if room is not None:
        words = f"nearest metal {h.wheel.edge_radius_mm:g} mm from the axle"
        verdict = _graded(room, METAL_LEAST_MM, METAL_HOLDS_MM)
        after = {Verdict.FAILS: "; a smaller rotor", Verdict.TIGHT: "; spin and look under load"}.get(verdict, "")
        return room, verdict, words + after
    if h.largest_mm is not None and h.rotor.diameter_mm <= h.largest_mm + 0.25:
        return None, Verdict.HOLDS, f"the {h.carries}'s maker allows this size; look once the wheel is in"
    if h.old_rotor is not None and h.rotor.diameter_mm <= h.old_rotor.diameter_mm:
        return None, Verdict.HOLDS, "no larger than the one on it"
    return None, Verdict.UNKNOWN, f"measure from the axle to the nearest metal of {what} or mount beside the rotor"


def _slot(h: Held) -> Said:
    fitted = h.old_caliper is not None and h.old_caliper.id == h.caliper.id
    slot = h.wheel.slot_read_mm if fitted and h.wheel.slot_read_mm is not None else h.caliper.slot_mm
    room = slot - h.rotor.thickness_mm
    words = f"slot takes {slot:g} mm, rotor is {h.rotor.thickness_mm:g} mm"
    return room, Verdict.FAILS if room < -SLACK_MM else Verdict.HOLDS, words


def _rivets(h: Held) -> Said | None:
    if h.rotor.rivet_out_mm <= 0:
        return None
    room = h.caliper.rivet_room_mm - h.rotor.rivet_out_mm
    where = (
        f"rivets of the {h.rotor.diameter_mm:g} stand out {h.rotor.rivet_out_mm:g} mm, room {h.caliper.rivet_room_mm:g}"
    )
    verdict = _graded(room, 0.0, RIVET_HOLDS_MM)
    after = "; spin and look before riding" if verdict is Verdict.TIGHT else ""
    return room, verdict, where + ("; choose another rotor or caliper" if verdict is Verdict.FAILS else after)


def spoke_room_mm(wheel: Wheel, old: Caliper | None, new: Caliper) -> float | None:
    """From a caliper to the nearest spoke: the gap as read, less what another caliper than the one that is on it
    stands out more. A gap read where none was on it is that of the new one. None where it cannot be told."""
    gap = wheel.spoke_gap_mm
    if gap is None or old is None or old.id == new.id:
        return gap
    if old.inboard_mm is None or new.inboard_mm is None:
        return None
    return gap + old.inboard_mm - new.inboard_mm


def _spokes(h: Held) -> Said | None:
    gap, old, new = h.wheel.spoke_gap_mm, h.old_caliper, h.caliper
    same = old is not None and old.id == new.id
    if gap is not None:
        room = spoke_room_mm(h.wheel, old, new)
        if room is None:
            return (
                None,
                Verdict.UNKNOWN,
                "how far a caliper stands toward the spokes is not stated: hold it in place, turn the wheel once round",
            )
        verdict = _graded(room, SPOKE_LEAST_MM, SPOKE_HOLDS_MM)
        after = "; choose another caliper or wheel" if verdict is Verdict.FAILS else ""
        return (
            room,
            verdict,
            ("as measured" if old is None or same else f"{gap:g} mm now, less what the new one stands out more")
            + after,
        )
    outward = h.stand and h.before and h.stand.position_mm >= h.before.position_mm - 2 * STAYS_MM
    if (same and outward) or h.unchanged:
        return None, Verdict.HOLDS, "the same caliper, no nearer to the spokes than now"
    return None, Verdict.UNKNOWN, "hold it in place, turn the wheel once round and measure the smallest gap"


def _hose(h: Held) -> Said | None:
    what = "housing" if h.caliper.fluid is Fluid.NONE else "hose"
    if h.stand is None:
        return None
    if h.new_hose:
        return None, Verdict.HOLDS, f"a new {what}, cut to length with the bar turned fully"
    moves = h.moves_mm
    if h.unchanged or (moves is not None and moves <= STAYS_MM):
        return None, Verdict.HOLDS, "the caliper stays where it is"
    slack = h.wheel.hose_slack_mm
    if moves is None:  # where it stands now is not known: what is left is read in the new place
        if slack is None:
            return (
                None,
                Verdict.UNKNOWN,
                "hold the caliper in its new place, bar turned fully: measure what slack is left",
            )
        return slack, _graded(slack, 0.0, HOSE_SPARE_MM), f"{slack:g} mm left, as read in the new place"
    if slack is None:
        words = f"the caliper moves {moves:.0f} mm: measure how far it can be drawn outward with the bar turned fully"
        return None, Verdict.UNKNOWN, words
    spare = slack - moves
    verdict = _graded(spare, 0.0, HOSE_SPARE_MM)
    after = f"; a longer {what}" if verdict is Verdict.FAILS else ""
    return spare, verdict, f"slack {slack:g} mm, the caliper moves {moves:.0f}{after}"


def _smallest(h: Held) -> Said | None:
    if h.special:
        return None
    if h.native_mm is None:
        return None, Verdict.UNKNOWN, "native size not known"
    room = h.rotor.diameter_mm - h.native_mm
    if room < -0.25:
        return room, Verdict.FAILS, f"below the native {h.native_mm:g}: a caliper cannot move inward"
    return room, Verdict.HOLDS, f"the mount is made for {h.native_mm:g}"


def _largest(h: Held) -> Said:
    if h.largest_mm is None:
        return None, Verdict.UNKNOWN, f"not known: ask the maker of the {h.carries}"
    room = h.largest_mm - h.rotor.diameter_mm
    return room, Verdict.HOLDS if room >= -0.25 else Verdict.FAILS, f"allowed is {h.largest_mm:g} mm"


CLEARANCES: tuple[ClearanceRow, ...] = (
    ClearanceRow(
        "edge",
        "pad to rotor's edge",
        f"flush within {EDGE_TIGHT_MM:g} mm holds, within {PAD_EDGE_LIMIT_MM:g} is tight, beyond fails: over the edge a lip grows on the pad, short of it a step on the ring",
        _outer_edge,
    ),
    ClearanceRow(
        "inner",
        "pad to inner edge of the track",
        f"a pad may stand {PAD_OVER_TRACK_MM:g} mm inside the track before it rides the arms",
        _inner_edge,
    ),
    ClearanceRow(
        "arc",
        "pads along the track",
        f"ends of the pads within {ARC_TIGHT_MM:g} mm of the track's circle hold, within {ARC_LIMIT_MM:g} are tight",
        _arc,
    ),
    ClearanceRow(
        "holes",
        "holes about the axle",
        f"measured faces within {PROUD_TIGHT_MM:g} mm of the standard's place hold, within {PROUD_MOST_MM:g} are tight; beyond, native size or reading is wrong",
        _holes,
        "upper_hole_mm",
    ),
    ClearanceRow(
        "pitch",
        "pitch of the mount",
        "within what the plate's holes and counterbores allow, read with a caliper gauge",
        _pitch,
        "mount_spacing_mm",
    ),
    ClearanceRow("smallest", "smallest rotor", "the native size", _smallest, "native_rotor_mm"),
    ClearanceRow(
        "largest",
        "largest rotor allowed",
        "as the maker of fork or frame states; not stated is unknown",
        _largest,
        "max_rotor_mm",
    ),
    ClearanceRow(
        "metal",
        "rotor's edge to leg or stay",
        f"{METAL_HOLDS_MM:g} mm holds, {METAL_LEAST_MM:g} is the least; unread, a size that the maker allows or that is on it holds",
        _metal,
        "edge_radius_mm",
        at_trial=True,
    ),
    ClearanceRow("slot", "rotor in the slot", "no thicker than the slot takes", _slot),
    ClearanceRow("rivets", "rivets to caliper", f"{RIVET_HOLDS_MM:g} mm of room holds", _rivets),
    ClearanceRow(
        "spokes",
        "caliper to spokes",
        f"{SPOKE_HOLDS_MM:g} mm holds, {SPOKE_LEAST_MM:g} is the least; the gap now, less what a new caliper stands out more",
        _spokes,
        "spoke_gap_mm",
        at_trial=True,
    ),
    ClearanceRow(
        "hose",
        "hose or housing slack",
        f"{HOSE_SPARE_MM:g} mm to spare after the caliper has moved, bar turned fully",
        _hose,
        "hose_slack_mm",
        at_trial=True,
    ),
)


def clearances_of(held: Held) -> tuple[Clearance, ...]:
    """Every row that applies, in the table's order."""
    out = []
    for row in CLEARANCES:
        said = row.says(held)
        if said is not None:
            value, verdict, words = said
            unknown = verdict is Verdict.UNKNOWN
            out.append(
                Clearance(
                    row.key, row.label, value, verdict, words, row.ask if unknown else "", row.at_trial and unknown
                )
            )
    return tuple(out)
