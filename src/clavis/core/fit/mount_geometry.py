"""Where a caliper stands: the holes of a mount about the axle, and the caliper on them, in the side view (docs/model.md, section 10).

Side view from the rotor side: left side of the bike, front to the left. Origin at the axle, x rearward, y up, mm.
Points and directions are complex numbers, x + iy, so that a turn is a product. ``bolt_axis`` points from the mount
outward along the bolts, ``along`` lies across it in the picture and points up.
"""

from cmath import exp, phase
from dataclasses import dataclass
from math import degrees, radians, sqrt

from clavis.core.fit.adapters import ChainAnswer, shift_mm
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Adapter
from clavis.core.parts.mounts import MOUNT_ROWS, BoltStyle, CaliperMount, End, MountKind
from clavis.core.records import figure
from clavis.core.sentences import NOTHING, Sentence, say

_NOMINAL = "nominal: measure yours"


@dataclass(frozen=True, kw_only=True)
class Nominal:
    """Where the standard has a mount: nominal, measure yours."""

    pad_angle_deg: float = figure("deg", _NOMINAL, "line from axle to pad centre, above the horizontal, rearward")
    off_radius_deg: float = figure("deg", _NOMINAL, "bolts turned from that line, upward")
    reach_mm: float = figure("mm", _NOMINAL, "holes out to the pad's outer edge with nothing between")


NOMINAL: dict[tuple[MountKind, End], Nominal] = {
    (MountKind.POST, End.FRONT): Nominal(pad_angle_deg=28.0, off_radius_deg=5.0, reach_mm=12.0),
    (MountKind.POST, End.REAR): Nominal(pad_angle_deg=138.0, off_radius_deg=5.0, reach_mm=12.0),
    (MountKind.IS, End.FRONT): Nominal(pad_angle_deg=28.0, off_radius_deg=5.0, reach_mm=28.0),
    (MountKind.IS, End.REAR): Nominal(pad_angle_deg=138.0, off_radius_deg=5.0, reach_mm=28.0),
    (MountKind.FLAT_FRONT, End.FRONT): Nominal(pad_angle_deg=24.0, off_radius_deg=5.0, reach_mm=20.0),
    (MountKind.FLAT_REAR, End.REAR): Nominal(pad_angle_deg=146.0, off_radius_deg=5.0, reach_mm=20.0),
}


@dataclass(frozen=True, kw_only=True)
class CaliperBody:
    """Where a caliper of one mount is held and how far from there its pads are."""

    to_edge_mm: float = figure("mm", _NOMINAL, "from the face or holes that hold it out to the pads' outer edge")
    pitch_mm: float = figure("mm", "the trade's mount standards", "its bolts, centre to centre")


CALIPER_BODY: dict[CaliperMount, CaliperBody] = {
    CaliperMount.POST: CaliperBody(to_edge_mm=12.0, pitch_mm=74.2),
    CaliperMount.FLAT: CaliperBody(to_edge_mm=20.0, pitch_mm=34.0),
    CaliperMount.OLD_IS: CaliperBody(to_edge_mm=28.0, pitch_mm=51.0),
    CaliperMount.OWN: CaliperBody(to_edge_mm=6.0, pitch_mm=84.0),
}
PAD_HALF_LENGTH_MM: dict[bool, float] = {False: 12.0, True: 15.0}
"""half the length of a pad along the track, by *four pistons*: nominal"""


def pad_edge_error_mm(position_mm: float, rotor_mm: float) -> float:
    """How far the pads' outer edge stands off the rotor's edge: e = (D_position − D_rotor)/2.

    Parameters
    ----------
    position_mm : float
        Rotor diameter for which the caliper stands, mm, above zero.
    rotor_mm : float
        Diameter of the rotor, mm, above zero.

    Returns
    -------
    float
        mm; above zero the pads stand over the rotor's edge, below zero rim stays unswept.

    Source: half the difference of two diameters about one centre (geometry; docs/model.md, section 10).

    >>> pad_edge_error_mm(203, 200)
    1.5
    """
    return (position_mm - rotor_mm) / 2


@dataclass(frozen=True)
class Seat:
    """The two holes of a mount as they stand about the axle."""

    upper: complex
    lower: complex
    bolt_axis: complex
    along: complex
    radial: complex
    """direction from the axle to the pad centre for which the mount is made"""
    reach_mm: float
    proud_mm: float = 0.0
    """how far the holes' mouths stand outside the standard's place, along the bolts; below zero inside"""
    measured: bool = False
    conflict: Sentence = NOTHING

    @property
    def middle(self) -> complex:
        return (self.upper + self.lower) / 2

    @property
    def pad_edge(self) -> complex:
        """Where the pads' outer edge stands with nothing between mount and caliper."""
        return self.middle + self.reach_mm * self.bolt_axis


def seat_of(mount: MountKind, end: End, native_mm: float, wheel: Wheel) -> Seat:
    """The mount of one wheel: by the standard for its native size, or from the distances of both holes from the axle
    and their spacing, where all three were measured.

    Three distances fix the place of the holes but for a turn about the axle, which no rule depends on: the bolts'
    direction is the standard's.

    Parameters
    ----------
    mount, end
        A pair that occurs (a key of NOMINAL).
    native_mm : float
        Rotor for which the mount is made, mm, 120 to 260.
    wheel : Wheel
        As measured: spacing of the holes, and of each its distance from the axle, mm; any may be missing.

    Returns
    -------
    Seat
        Places in mm about the axle. Distances that make no triangle are told as its ``conflict``, and the standard's
        places are given.

    Raises
    ------
    KeyError
        For a mount that does not occur at that end.

    Source: nominal places of the mount standards (docs/mounts.md; measure yours); law of cosines for measured ones.

    >>> seat = seat_of(MountKind.POST, End.FRONT, 160, Wheel())
    >>> round(2 * abs(seat.pad_edge), 6)
    160.0
    """
    nominal = NOMINAL[mount, end]
    side = 1 if end is End.FRONT else -1
    radial = exp(1j * radians(nominal.pad_angle_deg))
    axis = radial * exp(1j * side * radians(nominal.off_radius_deg))
    along = 1j * side * axis
    middle = native_mm / 2 * radial - nominal.reach_mm * axis
    pitch = wheel.mount_spacing_mm or MOUNT_ROWS[mount].spacing_mm
    upper, lower = wheel.upper_hole_mm, wheel.lower_hole_mm

    def seat(at: complex, proud: float = 0.0, measured: bool = False, conflict: Sentence = NOTHING) -> Seat:
        half = pitch / 2 * along
        return Seat(at + half, at - half, axis, along, radial, nominal.reach_mm, proud, measured, conflict)

    if upper is None or lower is None:
        return seat(middle)
    aside = (lower**2 - upper**2) / (2 * pitch)  # of the axle along the holes' line, from their middle
    square = upper**2 - (pitch / 2 - aside) ** 2
    if square <= 0:
        words = "holes {upper_mm:g} and {lower_mm:g} from the axle cannot be {pitch_mm:g} apart: measure again"
        return seat(middle, conflict=say(words, upper_mm=upper, lower_mm=lower, pitch_mm=pitch))
    out = sqrt(square)
    return seat(out * axis - aside * along, out - (middle / axis).real, measured=True)


@dataclass(frozen=True)
class Stand:
    """Where a caliper stands: undersides of its tabs at its two bolts, and its pads' outer edge."""

    upper: complex
    lower: complex
    bolt_axis: complex
    along: complex
    pad_edge: complex
    pad_radial: complex
    """the direction in which its pads look for the axle's centre"""

    @property
    def position_mm(self) -> float:
        """The rotor size for which the caliper stands."""
        return 2 * abs(self.pad_edge)

    def edge_error_mm(self, rotor_mm: float) -> float:
        """Above zero the pads stand over the rotor's edge."""
        return pad_edge_error_mm(self.position_mm, rotor_mm)

    @property
    def tilt_deg(self) -> float:
        """By how much the pads are turned out of the track's direction."""
        return degrees(abs(phase(self.pad_radial / self.pad_edge)))

    def arc_error_mm(self, half_length_mm: float) -> float:
        """How far the ends of the pads stand off the track's circle by that turn: e = ℓ sin τ, mm."""
        turn = self.pad_radial / (self.pad_edge / abs(self.pad_edge))
        return half_length_mm * abs(turn.imag)


def passes_through(mount: MountKind, adapter: Adapter) -> bool:
    """Whether the caliper's own bolts run through the part: then its two heights move the caliper along them."""
    return adapter.style is BoltStyle.THROUGH or (mount is MountKind.FLAT_REAR and adapter.style is BoltStyle.PLATE)


def stand_on(
    seat: Seat, mount: MountKind, end: End, native_mm: float, caliper: CaliperMount, chain: ChainAnswer, rotor_mm: float
) -> Stand:
    """The caliper on its mount, with the parts of ``chain`` between them.

    A part that the caliper's bolts run through is a wedge: it moves the caliper along the bolts and turns it by its
    two heights. Any other part carries the caliper outward by half of what its sizes say, along the line from the
    axle, and round the rotor by its own field. A chain that is not possible leaves the caliper at the mount's place.

    Parameters
    ----------
    seat : Seat
        The mount, mm about the axle.
    native_mm, rotor_mm : float
        Native rotor of the mount and the rotor asked for, mm.
    caliper : CaliperMount
        By what the caliper is held: its bolts' pitch and its reach to the pads are those of CALIPER_BODY.
    chain : ChainAnswer
        What stands between; one or two parts, or none.

    Returns
    -------
    Stand
        mm about the axle.

    Source: rigid bodies in the plane (docs/model.md, section 10; docs/mounts.md works every standard out by hand).

    >>> seat = seat_of(MountKind.POST, End.FRONT, 160, Wheel())
    >>> bare = stand_on(seat, MountKind.POST, End.FRONT, 160, CaliperMount.POST, ChainAnswer(True, ""), 160)
    >>> round(bare.position_mm, 6), round(bare.edge_error_mm(160), 6)
    (160.0, 0.0)
    """
    body, adapters = CALIPER_BODY[caliper], chain.parts
    axis, along, radial = seat.bolt_axis, seat.along, seat.radial
    if adapters and passes_through(mount, adapters[-1]):
        part = adapters[-1]
        feet = (seat.upper + part.upper_mm * axis, seat.lower + part.lower_mm * axis)
        line = feet[0] - feet[1]
        turn = line / abs(line) / along
        edge = (feet[0] + feet[1]) / 2 + seat.reach_mm * axis * turn
    else:
        outward = seat.pad_edge + shift_mm(mount, native_mm, chain, rotor_mm, end) * radial
        side = 1 if (along / axis).imag > 0 else -1
        turn = exp(1j * side * sum(a.around_mm for a in adapters) / abs(outward))
        edge = outward * turn
    axis, along, radial = axis * turn, along * turn, radial * turn
    middle, half = edge - body.to_edge_mm * axis, body.pitch_mm / 2 * along
    return Stand(middle + half, middle - half, axis, along, edge, radial)
