"""The scale drawing of a fit: shapes in mm from the same coordinates as its verdicts, the cut through a bolt, and both
told in words (docs/model.md, section 10).

Side view from the rotor side, front to the left, origin at the axle, x rearward, y up. What no document fixes (bodies,
leg and stays) is drawn at nominal sizes; no verdict rests on it.
"""

from cmath import exp
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from math import atan2, cos, pi, radians, sin

from clavis.core.fit.bolts import PLAIN_WASHER_MM, WASHER_LAYERS, head_across_mm
from clavis.core.fit.fit import Fit
from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM, Seat, Stand, passes_through
from clavis.core.fit.mounting import FittedBolt
from clavis.core.fit.special_plate import Plate
from clavis.core.fit.stacks import PROUD_LAYER, Run
from clavis.core.parts.models import Adapter, Axle, Caliper, Rotor
from clavis.core.parts.mounts import MOUNT_ROWS, PAD_EDGE_LIMIT_MM, CaliperMount, End, MountKind
from clavis.core.parts.threads import THREADS
from clavis.core.physics.plane import hull_of
from clavis.core.sentences import Sentence, Words, joined, say
from clavis.core.verdicts import Verdict

Point = tuple[float, float]


class DrawnLayer(StrEnum):
    """What can be shown or hidden, back to front."""

    FRAME = "frame"
    WHEEL = "wheel"
    ROTOR = "rotor"
    MOUNT = "mount"
    ADAPTER = "adapter"
    CALIPER = "caliper"
    PADS = "pads"
    BOLTS = "bolts"
    NOW = "now"
    LIMITS = "limits"
    CONFLICTS = "conflicts"
    SIZES = "sizes"


@dataclass(frozen=True)
class DrawnShape:
    """A closed outline, or a circle where ``radius_mm`` is given (about its one point). ``of`` groups shapes with the
    sizes that belong to them."""

    layer: DrawnLayer
    of: str
    title: Words
    points: tuple[Point, ...]
    radius_mm: float | None = None


@dataclass(frozen=True)
class DrawnSize:
    """A measured line between two points with its value; ``always`` stands without being asked for."""

    of: str
    title: Words
    a: Point
    b: Point
    value_mm: float
    always: bool = False


@dataclass(frozen=True)
class Drawing:
    """Shapes back to front, sizes, and the same told in sentences."""

    shapes: tuple[DrawnShape, ...]
    dimensions: tuple[DrawnSize, ...]
    words: tuple[Words, ...]


# Nominal bodies, for the eye alone.
HUB_MM, AXLE_MM = 24.0, {Axle.MM15: 7.5, Axle.MM20: 10.0}
LEG_DEG, LEG_HALF_MM, LEG_MM = 71.0, 17.0, 190.0
STAYS: tuple[tuple[str, float, float, float], ...] = (
    ("chainstay", 184.0, 11.0, 190.0),
    ("seat stay", 117.0, 9.0, 190.0),
)
"""name, direction in degrees, half width and length in mm"""
ROOT_MM = 30.0
"""what carries a mount leaves leg or stay no nearer to the axle"""
POST_MM, POST_HALF_MM, TAB_HALF_MM = 24.0, 8.0, 9.0
BODY_MM: dict[bool, float] = {False: 24.0, True: 30.0}
BODY_OVER_MM, BODY_UNDER_MM = 9.0, 3.0
NO_BOLT_MM = 12.0
TYPICAL_STAY_MM = 15.0
ARC_POINTS = 13
TYPICAL_PAD_MM = 14.0
"""height of a pad that is not known, for the eye"""
SHOWS_MM = 0.05
"""what is smaller cannot be seen"""


def _xy(z: complex) -> Point:
    return (z.real, z.imag)


def _all(points: Iterable[complex]) -> tuple[Point, ...]:
    return tuple(_xy(z) for z in points)


def _box(at: complex, out: complex, across: complex, o0: float, o1: float, half: float) -> tuple[Point, ...]:
    """A rectangle about ``at`` from o0 to o1 along ``out`` and to both sides of it."""
    corners = ((o0, -half), (o1, -half), (o1, half), (o0, half))
    return _all(at + a * out + b * across for a, b in corners)


def _rotor(at: complex, radius: float) -> list[complex]:
    return [at + radius * exp(1j * pi * k / 8) for k in range(16)]


def hull(points: Iterable[complex]) -> tuple[Point, ...]:
    """The outline of what stretches over all points, counter-clockwise."""
    return _all(hull_of(points))


def _pad(stand: Stand, height: float, half: float) -> tuple[Point, ...]:
    """A pad between two arcs about the centre it looks for."""
    centre = stand.pad_edge - abs(stand.pad_edge) * stand.pad_radial
    outer, inner = abs(stand.pad_edge), abs(stand.pad_edge) - height
    turn = half / outer
    angles = [turn * (2 * k / (ARC_POINTS - 1) - 1) for k in range(ARC_POINTS)]
    arc = [centre + outer * stand.pad_radial * exp(1j * a) for a in angles]
    back = [centre + inner * stand.pad_radial * exp(1j * a) for a in reversed(angles)]
    return _all(arc + back)


def _band(direction_deg: float, half: float, length: float) -> tuple[Point, ...]:
    out = exp(1j * radians(direction_deg))
    return _box(0j, out, 1j * out, -half, length, half)


def _frame_shapes(end: End) -> list[DrawnShape]:
    if end is End.FRONT:
        return [DrawnShape(DrawnLayer.FRAME, "frame", "fork leg", _band(LEG_DEG, LEG_HALF_MM, LEG_MM))]
    return [DrawnShape(DrawnLayer.FRAME, "frame", name, _band(way, half, long)) for name, way, half, long in STAYS]


def _carried(points: list[complex], end: End) -> DrawnShape:
    """What joins a mount to the nearest of leg or stays: for the eye."""
    ways = [LEG_DEG, LEG_DEG] if end is End.FRONT else [STAYS[1][1], STAYS[0][1]]
    out = list(points)
    for z, deg in zip((points[0], points[-1]), ways, strict=True):
        way = exp(1j * radians(deg))
        out.append(way * max((z * way.conjugate()).real, ROOT_MM))
    return DrawnShape(
        DrawnLayer.FRAME, "frame", "what carries the mount", hull(p for z in out for p in _rotor(z, TAB_HALF_MM))
    )


def _mount_shapes(fit: Fit, seat: Seat) -> list[DrawnShape]:
    mount = fit.wheel.mount.kind
    name = MOUNT_ROWS[mount].words if mount else ""
    axis, along, mouths = seat.bolt_axis, seat.along, [seat.upper, seat.lower]
    if mount is MountKind.IS:
        tab = _carried(mouths, fit.end)
        return [DrawnShape(DrawnLayer.MOUNT, "mount", f"{name} tab", tab.points)] + [
            DrawnShape(DrawnLayer.MOUNT, "mount", f"{which} hole", (_xy(z),), 3.0)
            for which, z in zip(("upper", "lower"), mouths, strict=True)
        ]
    stay = fit.wheel.measured.tab_mm or TYPICAL_STAY_MM
    depth = stay if mount is MountKind.FLAT_REAR else POST_MM
    bracket = _carried([z - (depth - 2) * axis for z in mouths], fit.end)
    if mount is MountKind.POST:
        posts = [
            DrawnShape(
                DrawnLayer.MOUNT, "mount", f"{name}, {which} post", _box(z, axis, along, -depth, 0.0, POST_HALF_MM)
            )
            for which, z in zip(("upper", "lower"), mouths, strict=True)
        ]
        return [bracket, *posts]
    half = abs(seat.upper - seat.lower) / 2 + POST_HALF_MM
    return [bracket, DrawnShape(DrawnLayer.MOUNT, "mount", name, _box(seat.middle, axis, along, -depth, 0.0, half))]


def _part_points(mount: MountKind, seat: Seat, stand: Stand, part: Adapter) -> list[complex]:
    """Feet on the mount and seats under the caliper, with metal about every hole."""
    axis, along = seat.bolt_axis, seat.along
    mouths = (seat.upper, seat.lower)
    if passes_through(mount, part):
        heights = (part.upper_mm, part.lower_mm)
        return [
            z + side * along + up * axis
            for z, h in zip(mouths, heights, strict=True)
            for side in (-8, 8)
            for up in (0.0, h)
        ]
    seats = [s + side * stand.along for s in (stand.upper, stand.lower) for side in (-8, 8)]
    if mount is MountKind.IS:
        return seats + [p for z in mouths for p in _rotor(z, 8.0)]
    feet = [z + side * along + up * axis for z in mouths for side in (-8, 8) for up in (0.0, part.flange_mm)]
    return feet + seats


def _caliper_shapes(
    stand: Stand, caliper: Caliper, pad_height: float, layer: DrawnLayer = DrawnLayer.CALIPER
) -> list[DrawnShape]:
    body = BODY_MM[caliper.four_pistons]
    out = [
        DrawnShape(
            layer,
            "caliper",
            f"caliper {caliper.name}",
            _box(stand.pad_edge, stand.bolt_axis, stand.along, -pad_height - BODY_UNDER_MM, BODY_OVER_MM, body),
        )
    ]
    if caliper.mount is not CaliperMount.OLD_IS:
        tabs = (("upper", stand.upper), ("lower", stand.lower))
        if caliper.mount is CaliperMount.FLAT:
            half = abs(stand.upper - stand.lower) / 2 + 7
            foot = _box((stand.upper + stand.lower) / 2, stand.bolt_axis, stand.along, 0.0, caliper.tab_mm, half)
            out.append(DrawnShape(layer, "caliper", "foot of the caliper", foot))
        else:
            for which, z in tabs:
                box = _box(z, stand.bolt_axis, stand.along, 0.0, caliper.tab_mm, 8.0)
                out.append(DrawnShape(layer, "caliper", f"{which} tab of the caliper", box))
    return out


def _rotor_shapes(rotor: Rotor, layer: DrawnLayer, named: bool = True) -> list[DrawnShape]:
    r = rotor.diameter_mm / 2
    title = say("rotor {name}, {wide_mm:.0}", name=rotor.name, wide_mm=rotor.diameter_mm)
    rows = [DrawnShape(layer, "rotor", title, ((0.0, 0.0),), r)]
    if named:
        rows.append(
            DrawnShape(
                layer,
                "track",
                say("inner edge of the track, {high_mm:g} high", high_mm=rotor.track_mm),
                ((0.0, 0.0),),
                r - rotor.track_mm,
            )
        )
    return rows


@dataclass(frozen=True)
class BoltPlace:
    """Where a bolt's head bears and which way it points; ``at`` alone for one that runs across the picture."""

    at: complex
    way: complex | None


def place_of_bolt(bolt: FittedBolt, seat: Seat, stand: Stand, fit: Fit) -> BoltPlace:
    """Head and direction of one bolt of the chain."""
    mouth, foot = (seat.upper, stand.upper) if bolt.upper else (seat.lower, stand.lower)
    stack, axis = bolt.stack, seat.bolt_axis
    if bolt.run is Run.CROSSWISE:
        return BoltPlace(mouth if bolt.at is None else bolt.at, None)
    if bolt.run is Run.FROM_BELOW:
        under = (stack.layers[1].height_mm or TYPICAL_STAY_MM) + PLAIN_WASHER_MM
        return BoltPlace(mouth - under * axis, axis)
    if bolt.run is Run.PLATE_TO_CALIPER:
        return BoltPlace(foot - stack.stack_mm * stand.bolt_axis, stand.bolt_axis)
    if bolt.run is Run.CALIPER_TO_PART:
        return BoltPlace(foot + stack.stack_mm * stand.bolt_axis, -stand.bolt_axis)
    if bolt.run is Run.PLATE_TO_CARRIER:
        carrier = fit.chain.parts[0]
        return BoltPlace(mouth + (carrier.flange_mm + stack.stack_mm) * axis, -axis)
    own = sum(x.height_mm or 0.0 for x in stack.layers if x.name != PROUD_LAYER)
    return BoltPlace(mouth + own * axis, -axis)


def _washers(bolt: FittedBolt, at: complex, way: complex, half: float) -> list[DrawnShape]:
    """Washers of a stack where they lie; the other layers are shapes of their own."""
    out, down = [], 0.0
    for layer in bolt.stack.layers:
        high = layer.height_mm or 0.0
        if layer.name in WASHER_LAYERS:
            box = _box(at, way, 1j * way, down, down + high, half)
            out.append(DrawnShape(DrawnLayer.BOLTS, "bolts", f"{layer.name}, {bolt.stack.place}", box))
        down += high
    return out


def _bolt_shapes(fit: Fit, seat: Seat, stand: Stand) -> list[DrawnShape]:
    out = []
    for bolt in fit.fitted_bolts:
        choice, place = bolt.choice, place_of_bolt(bolt, seat, stand, fit)
        told = choice.bolt.model if choice.bolt else choice.lacks
        title = say("bolt {place}: {told}", place=choice.stack.place, told=told)
        size = THREADS[choice.stack.thread].diameter_mm
        head_across = head_across_mm(choice.bolt) if choice.bolt else THREADS[choice.stack.thread].head_mm
        if choice.bolt is None:
            out.append(DrawnShape(DrawnLayer.CONFLICTS, "bolts", title, (_xy(place.at),), head_across / 2 + 2))
        if place.way is None:
            out.append(DrawnShape(DrawnLayer.BOLTS, "bolts", title, (_xy(place.at),), head_across / 2))
            continue
        across = 1j * place.way
        out += _washers(bolt, place.at, place.way, head_across / 2 + 1)
        length = choice.bolt.length_mm if choice.bolt else NO_BOLT_MM
        head = choice.bolt.head_height_mm if choice.bolt else size
        out.append(
            DrawnShape(DrawnLayer.BOLTS, "bolts", title, _box(place.at, place.way, across, 0.0, length, size / 2))
        )
        out.append(
            DrawnShape(
                DrawnLayer.BOLTS,
                "bolts",
                say("head, {bolt}", bolt=title),
                _box(place.at, place.way, across, -head, 0.0, head_across / 2),
            )
        )
    return out


def _sector(inner: float, outer: float, middle: complex, half_deg: float) -> tuple[Point, ...]:
    """A piece of a rotor about the axle."""
    towards = atan2(middle.imag, middle.real)
    turns = [towards + radians(half_deg) * (2 * k / 12 - 1) for k in range(13)]
    return tuple((outer * cos(a), outer * sin(a)) for a in turns) + tuple(
        (inner * cos(a), inner * sin(a)) for a in reversed(turns)
    )


Outline = tuple[tuple[Point, ...], float | None]
"""corners of a polygon, or the middle and radius of a circle"""


def _at_edge(fit: Fit, stand: Stand) -> list[Outline]:
    r, reach = fit.rotor.diameter_mm / 2, abs(stand.pad_edge)
    return [(_sector(min(r, reach), max(r, reach), stand.pad_edge, 9), None)]


def _at_arc(_fit: Fit, stand: Stand) -> list[Outline]:
    reach = abs(stand.pad_edge)
    return [(_sector(reach - 1.5, reach + 1.5, stand.pad_edge, 9), None)]


def _at_inner_edge(fit: Fit, stand: Stand) -> list[Outline]:
    inside = fit.rotor.diameter_mm / 2 - fit.rotor.track_mm
    return [(_sector(inside - 2.0, inside, stand.pad_edge, 9), None)]


def _at_leg(fit: Fit, _stand: Stand) -> list[Outline]:
    metal, r = fit.wheel.measured.edge_radius_mm or 0.0, fit.rotor.diameter_mm / 2
    way = exp(1j * radians(LEG_DEG if fit.end is End.FRONT else STAYS[0][1]))
    return [(_sector(min(metal, r), max(metal, r) + 1, way, 12), None)]


def _at_limit(fit: Fit, stand: Stand) -> list[Outline]:
    largest, r = fit.wheel.largest.mm or 0.0, fit.rotor.diameter_mm / 2
    return [(_sector(largest / 2, r, stand.pad_edge * exp(-1j * radians(28)), 9), None)]


def _at_slot(fit: Fit, stand: Stand) -> list[Outline]:
    r = fit.rotor.diameter_mm / 2
    return [(_sector(r - fit.rotor.track_mm, r, stand.pad_edge, 7), None)]


RIVET_ACROSS_MM = 5.0


def _at_rivets(fit: Fit, stand: Stand) -> list[Outline]:
    """Where its maker has them; unknown, they have no place in the picture."""
    at = fit.rotor.rivet_radius_mm
    return [] if at is None else [(_sector(at - RIVET_ACROSS_MM, at, stand.pad_edge, 14), None)]


def _at_spokes(fit: Fit, stand: Stand) -> list[Outline]:
    """The inner side of the caliper's body: the spokes pass beside it."""
    low = -fit.rotor.track_mm - BODY_UNDER_MM
    half = BODY_MM[fit.caliper.four_pistons]
    return [(_box(stand.pad_edge, stand.bolt_axis, stand.along, low, low + 4.0, half), None)]


def _at_hose(_fit: Fit, stand: Stand) -> list[Outline]:
    return [((_xy(stand.pad_edge + (BODY_OVER_MM + 5) * stand.bolt_axis),), 4.0)]


def _at_holes(fit: Fit, _stand: Stand) -> list[Outline]:
    seat = fit.seat
    return [] if seat is None else [((_xy(z),), 6.0) for z in (seat.upper, seat.lower)]


# Where each clearance is in the picture; those without a row have no place in it.
PLACES: dict[str, Callable[[Fit, Stand], list[Outline]]] = {
    "edge": _at_edge, "arc": _at_arc, "inner": _at_inner_edge, "leg": _at_leg, "largest": _at_limit,
    "slot": _at_slot, "rivets": _at_rivets, "spokes": _at_spokes, "hose": _at_hose, "pitch": _at_holes,
    "holes": _at_holes,
}  # fmt: skip


def _conflict_shapes(fit: Fit, stand: Stand) -> list[DrawnShape]:
    """Every check that fails, marked where it is; a chain that is not possible, at the pads."""
    failing = [(c.key, c.words) for c in fit.checks if c.verdict is Verdict.FAILS and c.key in PLACES]
    off = abs(abs(stand.pad_edge) - fit.rotor.diameter_mm / 2) > SHOWS_MM
    if not fit.chain.possible and off and "edge" not in dict(failing):
        failing.append(("edge", fit.chain.reason))
    return [
        DrawnShape(DrawnLayer.CONFLICTS, key, words, points, radius)
        for key, words in failing
        for points, radius in PLACES[key](fit, stand)
    ]


def _limit_shapes(fit: Fit) -> list[DrawnShape]:
    rows = []
    if fit.wheel.largest.mm is not None:
        rows.append(
            DrawnShape(
                DrawnLayer.LIMITS,
                "limits",
                say("largest rotor allowed, {wide_mm:.0}", wide_mm=fit.wheel.largest.mm),
                ((0.0, 0.0),),
                fit.wheel.largest.mm / 2,
            )
        )
    metal = fit.wheel.measured.edge_radius_mm
    if metal is not None:
        rows.append(
            DrawnShape(
                DrawnLayer.LIMITS,
                "leg",
                say("nearest metal, {away_mm:g} from the axle", away_mm=metal),
                ((0.0, 0.0),),
                metal,
            )
        )
    return rows


def _now_shapes(fit: Fit) -> list[DrawnShape]:
    """The brake as it is on the bike, where that is known and differs."""
    now, on_it = fit.case.on.stand_now, fit.wheel.on_it
    if now is None or on_it.rotor is None or on_it.caliper is None:
        return []
    if fit.case.unchanged and fit.stand is not None and abs(now.pad_edge - fit.stand.pad_edge) < SHOWS_MM:
        return []
    rows = _rotor_shapes(on_it.rotor, DrawnLayer.NOW, named=False)
    rows += _caliper_shapes(now, on_it.caliper, TYPICAL_PAD_MM, DrawnLayer.NOW)
    return [DrawnShape(s.layer, "now", say("now: {part}", part=s.title), s.points, s.radius_mm) for s in rows]


def _size(of: str, title: Words, a: complex, b: complex, always: bool = False) -> DrawnSize:
    """A size between two points: its value is their distance, never typed beside it."""
    return DrawnSize(of, title, _xy(a), _xy(b), abs(b - a), always)


def _caliper_size(stand: Stand, always: bool = False) -> DrawnSize:
    return _size("caliper", "bolts of the caliper, centre to centre", stand.upper, stand.lower, always)


def _dimensions(fit: Fit, seat: Seat, stand: Stand, native_mm: float) -> list[DrawnSize]:
    rotor, reach = fit.rotor, abs(stand.pad_edge)
    radial, r = stand.pad_edge / reach, rotor.diameter_mm / 2
    beside = radial * exp(1j * radians(62 if fit.end is End.FRONT else -62))
    beyond = beside * exp(-0.16j)
    out = [
        _size("rotor", "radius of the rotor", 0j, r * beside, always=True),
        _size("track", "height of the track", (r - rotor.track_mm) * beyond, r * beyond),
        _size("mount", "holes of the mount, centre to centre", seat.upper, seat.lower, always=True),
        _size("mount", "axle to upper hole", 0j, seat.upper),
        _size("mount", "axle to lower hole", 0j, seat.lower),
        _caliper_size(stand),
        _size("pads", "axle to the pads' outer edge", 0j, stand.pad_edge),
    ]
    moved = reach - abs(seat.pad_edge)
    if fit.chain.parts and moved > SHOWS_MM:
        native = say("outward from the native {native_mm:size}", native_mm=native_mm)
        out.append(_size("adapter", native, (reach - moved) * radial, stand.pad_edge, always=True))
    for part in fit.chain.parts:
        if fit.wheel.mount.kind is not None and passes_through(fit.wheel.mount.kind, part):
            for which, mouth, h in (("upper", seat.upper, part.upper_mm), ("lower", seat.lower, part.lower_mm)):
                out.append(_size("adapter", f"adapter under the {which} bolt", mouth, mouth + h * seat.bolt_axis))
    error = reach - r
    if abs(error) >= SHOWS_MM:
        title = "pad over the rotor's edge" if error > 0 else "rim that stays unswept"
        out.append(_size("edge", title, r * radial, stand.pad_edge, always=abs(error) > PAD_EDGE_LIMIT_MM))
    return out


def _told_edge(fit: Fit, stand: Stand) -> Words:
    error = stand.edge_error_mm(fit.rotor.diameter_mm)
    if abs(error) < SHOWS_MM:
        return "flush with the rotor's edge"
    side = "over" if error > 0 else "short of"
    return say("{off_mm:.1} {side} the rotor's edge", off_mm=abs(error), side=side)


def _told_bolt(bolt: FittedBolt) -> Sentence:
    c = bolt.choice
    if c.bolt is None:
        return say("Bolt {place}: {why}.", place=c.stack.place, why=c.lacks)
    words = "Bolt {place}: {bolt}, {grip_mm:.1} in the thread, {free_mm:.1} short of its end."
    return say(words, place=c.stack.place, bolt=c.bolt.model, grip_mm=c.engagement_mm, free_mm=c.bottom_mm)


def _told(fit: Fit, seat: Seat, stand: Stand, native_mm: float) -> tuple[Words, ...]:
    """The drawing in sentences, from the same figures."""
    rotor, half = fit.rotor, PAD_HALF_LENGTH_MM[fit.caliper.four_pistons]
    whence = "measured from the axle" if seat.measured else "at the standard's places (nominal, measure yours)"
    between = joined([part.name for part in fit.chain.parts], " with ")
    lines: list[Words] = [
        say(
            "Seen from the rotor side, front to the left: rotor {wide_mm:.0}, its track {track_mm:g} high.",
            wide_mm=rotor.diameter_mm, track_mm=rotor.track_mm,
        ),
        say(
            "{mount:cap}, native {native_mm:size}: upper hole {upper_mm:.1} and lower hole {lower_mm:.1} from the axle, "
            "{apart_mm:.1} apart, {whence}.",
            mount=fit.wheel.mount.kind, native_mm=native_mm, upper_mm=abs(seat.upper), lower_mm=abs(seat.lower),
            apart_mm=abs(seat.upper - seat.lower), whence=whence,
        ),
        say("Between mount and caliper: {between}.", between=between or "nothing")
        if fit.chain.possible
        else say("It does not fit: {why}. The caliper is drawn at the mount's own place.", why=fit.chain.reason),
        say(
            "The caliper stands for {position_mm:.1}: its pads' edge is {edge}, their ends {ends_mm:.1} off the track's "
            "circle.",
            position_mm=stand.position_mm, edge=_told_edge(fit, stand), ends_mm=stand.arc_error_mm(half),
        ),
        *(_told_bolt(bolt) for bolt in fit.fitted_bolts),
    ]  # fmt: skip
    lines += [
        say("{verdict:cap}: {label}: {words}.", verdict=c.verdict, label=c.label, words=c.words)
        for c in fit.checks
        if c.verdict is not Verdict.HOLDS
    ]
    moves = fit.case.moves_mm
    if moves is not None and moves > SHOWS_MM:
        lines.append(say("The caliper moves {moves_mm:.1} from where it is now.", moves_mm=moves))
    return tuple(lines)


def _draw_on_a_plate(fit: Fit, plate: Plate) -> Drawing | None:
    """The brake on a special plate. What carries the plate is not drawn: only its holes were measured."""
    stand = fit.stand
    if stand is None:
        return None
    height = _pad_height_mm(fit)
    edge = hull(p for hole in plate.holes for p in _rotor(hole.at, plate.rim_mm))
    name = say("special plate {name}, {thick_mm:g} thick", name=plate.geometry, thick_mm=plate.thickness_mm)
    shapes = [
        *_frame_shapes(fit.end),
        DrawnShape(DrawnLayer.WHEEL, "wheel", "axle", ((0.0, 0.0),), 6.0),
        *_rotor_shapes(fit.rotor, DrawnLayer.ROTOR),
        DrawnShape(DrawnLayer.ADAPTER, "adapter", name, edge),
        *_caliper_shapes(stand, fit.caliper, height)[:1],
        _pad_shape(fit, stand, height),
        *(
            DrawnShape(DrawnLayer.BOLTS, "bolts", f"{x.name} hole, {x.thread}", (_xy(x.at),), x.widest_mm / 2)
            for x in plate.holes
        ),
        *_limit_shapes(fit),
        *_conflict_shapes(fit, stand),
    ]
    sizes = [_size("adapter", f"axle to {x.name} hole", 0j, x.at) for x in plate.holes]
    sizes.append(_caliper_size(stand, always=True))
    words = "Seen from the rotor side, front to the left: rotor {wide_mm:.0}, on a special plate {thick_mm:g} thick."
    hole = "{name:cap} hole {x_mm:.1} rearward and {y_mm:.1} up from the axle, {thread}."
    told = [
        say(words, wide_mm=fit.rotor.diameter_mm, thick_mm=plate.thickness_mm),
        *(say(hole, name=x.name, x_mm=x.x_mm, y_mm=x.y_mm, thread=x.thread) for x in plate.holes),
        say("{reason:cap}.", reason=fit.chain.reason),
    ]
    return Drawing(tuple(shapes), tuple(sizes), tuple(told))


def _pad_height_mm(fit: Fit) -> float:
    return fit.pad.height_mm if fit.pad else min(fit.rotor.track_mm, TYPICAL_PAD_MM)


def _pad_shape(fit: Fit, stand: Stand, height: float) -> DrawnShape:
    outline = _pad(stand, height, PAD_HALF_LENGTH_MM[fit.caliper.four_pistons])
    return DrawnShape(DrawnLayer.PADS, "pads", say("pads, {high_mm:g} high", high_mm=height), outline)


def draw(fit: Fit) -> Drawing | None:
    """The fit to scale, also where it is not possible; None while mount or native size are not known."""
    if fit.plate is not None:
        return _draw_on_a_plate(fit, fit.plate)
    mount, seat, stand, native = fit.wheel.mount.kind, fit.seat, fit.stand, fit.wheel.native.mm
    if mount is None or seat is None or stand is None or native is None:
        return None
    height, axle = _pad_height_mm(fit), fit.wheel.measured.axle
    shapes = [
        *_frame_shapes(fit.end),
        DrawnShape(DrawnLayer.WHEEL, "wheel", "hub", ((0.0, 0.0),), HUB_MM),
        DrawnShape(DrawnLayer.WHEEL, "wheel", "axle", ((0.0, 0.0),), AXLE_MM.get(axle, 6.0) if axle else 6.0),
        *_rotor_shapes(fit.rotor, DrawnLayer.ROTOR),
        *_mount_shapes(fit, seat),
    ]
    for part in fit.chain.parts:
        outline = hull(_part_points(mount, seat, stand, part))
        if len(outline) > 2:
            shapes.append(DrawnShape(DrawnLayer.ADAPTER, "adapter", part.name, outline))
    shapes += _caliper_shapes(stand, fit.caliper, height)
    shapes.append(_pad_shape(fit, stand, height))
    shapes += _bolt_shapes(fit, seat, stand) + _now_shapes(fit) + _limit_shapes(fit) + _conflict_shapes(fit, stand)
    return Drawing(tuple(shapes), tuple(_dimensions(fit, seat, stand, native)), _told(fit, seat, stand, native))
