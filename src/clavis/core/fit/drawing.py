"""The scale drawing of a fit: shapes in mm from the same coordinates as its verdicts, the cut through a bolt, and both
told in words (model, section 10).

Side view from the rotor side, front to the left, origin at the axle, x rearward, y up. What no document fixes (bodies,
leg and stays) is drawn at nominal sizes; no verdict rests on it.
"""

from cmath import exp
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from math import atan2, cos, pi, radians, sin

from clavis.core.fit.bolts import BOLT_HEAD_MM, DIAMETER_MM, PLAIN_WASHER_MM, WASHER_LAYERS
from clavis.core.fit.fit import Fit, FittedBolt, Run
from clavis.core.fit.mount_geometry import NOMINAL, PAD_HALF_LENGTH_MM, Seat, Stand, passes_through
from clavis.core.fit.special_plate import Plate
from clavis.core.parts.models import Adapter, Axle, Caliper, Rotor
from clavis.core.parts.mounts import LABELS, PAD_EDGE_LIMIT_MM, CaliperMount, End, MountKind
from clavis.core.physics.plane import hull_of
from clavis.core.verdicts import Verdict

Point = tuple[float, float]


class Layer(StrEnum):
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
class Shape:
    """A closed outline, or a circle where ``radius_mm`` is given (about its one point). ``of`` groups shapes with the
    sizes that belong to them."""

    layer: Layer
    of: str
    title: str
    points: tuple[Point, ...]
    radius_mm: float | None = None


@dataclass(frozen=True)
class Dimension:
    """A measured line between two points with its value; ``always`` stands without being asked for."""

    of: str
    title: str
    a: Point
    b: Point
    value_mm: float
    always: bool = False


@dataclass(frozen=True)
class Drawing:
    """Shapes back to front, sizes, and the same told in sentences."""

    shapes: tuple[Shape, ...]
    dimensions: tuple[Dimension, ...]
    words: tuple[str, ...]


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


def _xy(z: complex) -> Point:
    return (z.real, z.imag)


def _all(points: Iterable[complex]) -> tuple[Point, ...]:
    return tuple(_xy(z) for z in points)


def _box(at: complex, out: complex, across: complex, o0: float, o1: float, half: float) -> tuple[Point, ...]:
    """A rectangle about ``at`` from o0 to o1 along ``out`` and to both sides of it."""
    corners = ((o0, -half), (o1, -half), (o1, half), (o0, half))
    return _all(at + a * out + b * across for a, b in corners)


def _ring(at: complex, radius: float) -> list[complex]:
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


def _frame_shapes(end: End) -> list[Shape]:
    if end is End.FRONT:
        return [Shape(Layer.FRAME, "frame", "fork leg", _band(LEG_DEG, LEG_HALF_MM, LEG_MM))]
    return [Shape(Layer.FRAME, "frame", name, _band(way, half, long)) for name, way, half, long in STAYS]


def _carried(points: list[complex], end: End) -> Shape:
    """What joins a mount to the nearest of leg or stays: for the eye."""
    ways = [LEG_DEG, LEG_DEG] if end is End.FRONT else [STAYS[1][1], STAYS[0][1]]
    out = list(points)
    for z, deg in zip((points[0], points[-1]), ways, strict=True):
        way = exp(1j * radians(deg))
        out.append(way * max((z * way.conjugate()).real, ROOT_MM))
    return Shape(Layer.FRAME, "frame", "what carries the mount", hull(p for z in out for p in _ring(z, TAB_HALF_MM)))


def _mount_shapes(fit: Fit, seat: Seat) -> list[Shape]:
    mount, name = fit.telling.kind, LABELS[fit.telling.kind] if fit.telling.kind else ""
    axis, along, mouths = seat.bolt_axis, seat.along, [seat.upper, seat.lower]
    if mount is MountKind.IS:
        tab = _carried(mouths, fit.end)
        return [Shape(Layer.MOUNT, "mount", f"{name} tab", tab.points)] + [
            Shape(Layer.MOUNT, "mount", f"{which} hole", (_xy(z),), 3.0)
            for which, z in zip(("upper", "lower"), mouths, strict=True)
        ]
    stay = fit.held.wheel.tab_mm or TYPICAL_STAY_MM
    depth = stay if mount is MountKind.FLAT_REAR else POST_MM
    bracket = _carried([z - (depth - 2) * axis for z in mouths], fit.end)
    if mount is MountKind.POST:
        posts = [
            Shape(Layer.MOUNT, "mount", f"{name}, {which} post", _box(z, axis, along, -depth, 0.0, POST_HALF_MM))
            for which, z in zip(("upper", "lower"), mouths, strict=True)
        ]
        return [bracket, *posts]
    half = abs(seat.upper - seat.lower) / 2 + POST_HALF_MM
    return [bracket, Shape(Layer.MOUNT, "mount", name, _box(seat.middle, axis, along, -depth, 0.0, half))]


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
        return seats + [p for z in mouths for p in _ring(z, 8.0)]
    feet = [z + side * along + up * axis for z in mouths for side in (-8, 8) for up in (0.0, part.flange_mm)]
    return feet + seats


def _caliper_shapes(stand: Stand, caliper: Caliper, pad_height: float, layer: Layer = Layer.CALIPER) -> list[Shape]:
    body = BODY_MM[caliper.four_pistons]
    out = [
        Shape(
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
            out.append(Shape(layer, "caliper", "foot of the caliper", foot))
        else:
            for which, z in tabs:
                box = _box(z, stand.bolt_axis, stand.along, 0.0, caliper.tab_mm, 8.0)
                out.append(Shape(layer, "caliper", f"{which} tab of the caliper", box))
    return out


def _rotor_shapes(rotor: Rotor, layer: Layer, named: bool = True) -> list[Shape]:
    r = rotor.diameter_mm / 2
    title = f"rotor {rotor.name}, {rotor.diameter_mm:g} mm"
    rows = [Shape(layer, "rotor", title, ((0.0, 0.0),), r)]
    if named:
        rows.append(
            Shape(
                layer,
                "track",
                f"inner edge of the track, {rotor.track_mm:g} mm high",
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


def place_of_bolt(bolt: FittedBolt, mount: MountKind, seat: Seat, stand: Stand, fit: Fit) -> BoltPlace:
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
    own = sum(x.height_mm or 0.0 for x in stack.layers if x.name != "face outside its place")
    return BoltPlace(mouth + own * axis, -axis)


def _washers(bolt: FittedBolt, at: complex, way: complex, half: float) -> list[Shape]:
    """Washers of a stack where they lie; the other layers are shapes of their own."""
    out, down = [], 0.0
    for layer in bolt.stack.layers:
        high = layer.height_mm or 0.0
        if layer.name in WASHER_LAYERS:
            box = _box(at, way, 1j * way, down, down + high, half)
            out.append(Shape(Layer.BOLTS, "bolts", f"{layer.name}, {bolt.stack.place}", box))
        down += high
    return out


def _bolt_shapes(fit: Fit, mount: MountKind, seat: Seat, stand: Stand) -> list[Shape]:
    out = []
    for bolt in fit.fitted_bolts:
        choice, place = bolt.choice, place_of_bolt(bolt, mount, seat, stand, fit)
        title = f"bolt {choice.stack.place}: {choice.bolt.model if choice.bolt else choice.lacks}"
        size = DIAMETER_MM[choice.stack.thread]
        head_across = (choice.bolt.head_mm if choice.bolt else None) or BOLT_HEAD_MM[choice.stack.thread]
        if choice.bolt is None:
            out.append(Shape(Layer.CONFLICTS, "bolts", title, (_xy(place.at),), head_across / 2 + 2))
        if place.way is None:
            out.append(Shape(Layer.BOLTS, "bolts", title, (_xy(place.at),), head_across / 2))
            continue
        across = 1j * place.way
        out += _washers(bolt, place.at, place.way, head_across / 2 + 1)
        length = choice.bolt.length_mm if choice.bolt else NO_BOLT_MM
        head = choice.bolt.head_height_mm if choice.bolt else size
        out.append(Shape(Layer.BOLTS, "bolts", title, _box(place.at, place.way, across, 0.0, length, size / 2)))
        out.append(
            Shape(
                Layer.BOLTS, "bolts", f"head, {title}", _box(place.at, place.way, across, -head, 0.0, head_across / 2)
            )
        )
    return out


def _sector(inner: float, outer: float, middle: complex, half_deg: float) -> tuple[Point, ...]:
    """A piece of a ring about the axle."""
    towards = atan2(middle.imag, middle.real)
    turns = [towards + radians(half_deg) * (2 * k / 12 - 1) for k in range(13)]
    return tuple((outer * cos(a), outer * sin(a)) for a in turns) + tuple(
        (inner * cos(a), inner * sin(a)) for a in reversed(turns)
    )


Outline = tuple[tuple[Point, ...], float | None]
"""corners of a polygon, or the middle and radius of a circle"""


def _at_edge(fit: Fit, stand: Stand) -> list[Outline]:
    r, reach = fit.held.rotor.diameter_mm / 2, abs(stand.pad_edge)
    return [(_sector(min(r, reach), max(r, reach), stand.pad_edge, 9), None)]


def _at_arc(_fit: Fit, stand: Stand) -> list[Outline]:
    reach = abs(stand.pad_edge)
    return [(_sector(reach - 1.5, reach + 1.5, stand.pad_edge, 9), None)]


def _at_inner_edge(fit: Fit, stand: Stand) -> list[Outline]:
    inside = fit.held.rotor.diameter_mm / 2 - fit.held.rotor.track_mm
    return [(_sector(inside - 2.0, inside, stand.pad_edge, 9), None)]


def _at_metal(fit: Fit, _stand: Stand) -> list[Outline]:
    metal, r = fit.held.wheel.edge_radius_mm or 0.0, fit.held.rotor.diameter_mm / 2
    way = exp(1j * radians(LEG_DEG if fit.end is End.FRONT else STAYS[0][1]))
    return [(_sector(min(metal, r), max(metal, r) + 1, way, 12), None)]


def _at_limit(fit: Fit, stand: Stand) -> list[Outline]:
    largest, r = fit.held.largest_mm or 0.0, fit.held.rotor.diameter_mm / 2
    return [(_sector(largest / 2, r, stand.pad_edge * exp(-1j * radians(28)), 9), None)]


def _at_slot(fit: Fit, stand: Stand) -> list[Outline]:
    r = fit.held.rotor.diameter_mm / 2
    return [(_sector(r - fit.held.rotor.track_mm, r, stand.pad_edge, 7), None)]


def _at_rivets(fit: Fit, stand: Stand) -> list[Outline]:
    inside = fit.held.rotor.diameter_mm / 2 - fit.held.rotor.track_mm
    return [(_sector(inside - 5.0, inside, stand.pad_edge, 14), None)]


def _at_spokes(fit: Fit, stand: Stand) -> list[Outline]:
    """The inner side of the caliper's body: the spokes pass beside it."""
    low = -fit.held.rotor.track_mm - BODY_UNDER_MM
    half = BODY_MM[fit.held.caliper.four_pistons]
    return [(_box(stand.pad_edge, stand.bolt_axis, stand.along, low, low + 4.0, half), None)]


def _at_hose(_fit: Fit, stand: Stand) -> list[Outline]:
    return [((_xy(stand.pad_edge + (BODY_OVER_MM + 5) * stand.bolt_axis),), 4.0)]


def _at_holes(fit: Fit, _stand: Stand) -> list[Outline]:
    seat = fit.held.seat
    return [] if seat is None else [((_xy(z),), 6.0) for z in (seat.upper, seat.lower)]


# Where each clearance is in the picture; those without a row have no place in it.
PLACES: dict[str, Callable[[Fit, Stand], list[Outline]]] = {
    "edge": _at_edge, "arc": _at_arc, "inner": _at_inner_edge, "metal": _at_metal, "largest": _at_limit,
    "slot": _at_slot, "rivets": _at_rivets, "spokes": _at_spokes, "hose": _at_hose, "pitch": _at_holes,
    "holes": _at_holes,
}  # fmt: skip


def _conflict_shapes(fit: Fit, stand: Stand) -> list[Shape]:
    """Every clearance that fails, marked where it is; a chain that is not possible, at the pads."""
    failing = [(c.key, c.words) for c in fit.clearances if c.verdict is Verdict.FAILS and c.key in PLACES]
    off = abs(abs(stand.pad_edge) - fit.held.rotor.diameter_mm / 2) > 0.05
    if not fit.chain.possible and off and "edge" not in dict(failing):
        failing.append(("edge", fit.chain.reason))
    return [
        Shape(Layer.CONFLICTS, key, words, points, radius)
        for key, words in failing
        for points, radius in PLACES[key](fit, stand)
    ]


def _limit_shapes(fit: Fit) -> list[Shape]:
    rows = []
    if fit.held.largest_mm is not None:
        rows.append(
            Shape(
                Layer.LIMITS,
                "limits",
                f"largest rotor allowed, {fit.held.largest_mm:g} mm",
                ((0.0, 0.0),),
                fit.held.largest_mm / 2,
            )
        )
    metal = fit.held.wheel.edge_radius_mm
    if metal is not None:
        rows.append(Shape(Layer.LIMITS, "metal", f"nearest metal, {metal:g} mm from the axle", ((0.0, 0.0),), metal))
    return rows


def _now_shapes(fit: Fit) -> list[Shape]:
    """The brake as it is on the bike, where that is known and differs."""
    h = fit.held
    if h.before is None or h.old_rotor is None or h.old_caliper is None:
        return []
    if (
        h.stand is not None
        and abs(h.before.pad_edge - h.stand.pad_edge) < 0.05
        and h.old_rotor.id == h.rotor.id
        and h.old_caliper.id == h.caliper.id
    ):
        return []
    rows = _rotor_shapes(h.old_rotor, Layer.NOW, named=False)
    rows += _caliper_shapes(h.before, h.old_caliper, 14.0, Layer.NOW)
    return [Shape(s.layer, "now", f"now: {s.title}", s.points, s.radius_mm) for s in rows]


def _size(of: str, title: str, a: complex, b: complex, always: bool = False) -> Dimension:
    """A size between two points: its value is their distance, never typed beside it."""
    return Dimension(of, title, _xy(a), _xy(b), abs(b - a), always)


def _caliper_size(stand: Stand, always: bool = False) -> Dimension:
    return _size("caliper", "bolts of the caliper, centre to centre", stand.upper, stand.lower, always)


def _dimensions(fit: Fit, seat: Seat, stand: Stand, native_mm: float) -> list[Dimension]:
    rotor, reach = fit.held.rotor, abs(stand.pad_edge)
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
    if fit.chain.parts and moved > 0.05:
        title = f"outward from the native {native_mm:g}"
        out.append(_size("adapter", title, (reach - moved) * radial, stand.pad_edge, always=True))
    for part in fit.chain.parts:
        if fit.telling.kind is not None and passes_through(fit.telling.kind, part):
            for which, mouth, h in (("upper", seat.upper, part.upper_mm), ("lower", seat.lower, part.lower_mm)):
                out.append(_size("adapter", f"adapter under the {which} bolt", mouth, mouth + h * seat.bolt_axis))
    error = reach - r
    if abs(error) >= 0.05:
        title = "pad over the rotor's edge" if error > 0 else "rim that stays unswept"
        out.append(_size("edge", title, r * radial, stand.pad_edge, always=abs(error) > PAD_EDGE_LIMIT_MM))
    return out


def _told(fit: Fit, seat: Seat, stand: Stand, native_mm: float) -> tuple[str, ...]:
    """The drawing in sentences, from the same figures."""
    h, rotor = fit.held, fit.held.rotor
    kind = LABELS[fit.telling.kind] if fit.telling.kind else ""
    whence = "measured from the axle" if seat.measured else "at the standard's places (nominal, measure yours)"
    lines = [
        f"Seen from the rotor side, front to the left: rotor {rotor.diameter_mm:g} mm, its track {rotor.track_mm:g} mm high.",
        f"{kind[:1].upper()}{kind[1:]}, native {native_mm:g}: upper hole {abs(seat.upper):.1f} mm and lower hole "
        f"{abs(seat.lower):.1f} mm from the axle, {abs(seat.upper - seat.lower):.1f} mm apart, {whence}.",
    ]
    between = " with ".join(part.name for part in fit.chain.parts)
    if not fit.chain.possible:
        lines.append(f"It does not fit: {fit.chain.reason}. The caliper is drawn at the mount's own place.")
    else:
        lines.append(f"Between mount and caliper: {between or 'nothing'}.")
    error = stand.edge_error_mm(rotor.diameter_mm)
    side = (
        "flush with the rotor's edge"
        if abs(error) < 0.05
        else f"{abs(error):.1f} mm {'over' if error > 0 else 'short of'} the rotor's edge"
    )
    half = PAD_HALF_LENGTH_MM[h.caliper.four_pistons]
    lines.append(
        f"The caliper stands for {stand.position_mm:.1f} mm: its pads' edge is {side}, their ends {stand.arc_error_mm(half):.1f} mm off the track's circle."
    )
    for bolt in fit.fitted_bolts:
        c = bolt.choice
        if c.bolt is not None and c.engagement_mm is not None and c.bottom_mm is not None:
            lines.append(
                f"Bolt {c.stack.place}: {c.bolt.model}, {c.engagement_mm:.1f} mm in the thread, {c.bottom_mm:.1f} mm short of its end."
            )
        else:
            lines.append(f"Bolt {c.stack.place}: {c.lacks}.")
    lines += [
        f"{c.verdict.value.capitalize()}: {c.label}: {c.words}."
        for c in fit.clearances
        if c.verdict is not Verdict.HOLDS
    ]
    if h.moves_mm is not None and h.moves_mm > 0.05:
        lines.append(f"The caliper moves {h.moves_mm:.1f} mm from where it is now.")
    return tuple(lines)


def _draw_on_a_plate(fit: Fit, plate: Plate) -> Drawing | None:
    """The brake on a special plate. What carries the plate is not drawn: only its holes were measured."""
    h, stand = fit.held, fit.held.stand
    if stand is None:
        return None
    height = h.pad.height_mm if h.pad else min(h.rotor.track_mm, 14.0)
    edge = hull(p for hole in plate.holes for p in _ring(hole.at, plate.rim_mm))
    holes = [
        Shape(Layer.BOLTS, "bolts", f"{x.name} hole, {x.thread}", (_xy(x.at),), x.widest_mm / 2) for x in plate.holes
    ]
    shapes = [
        *_frame_shapes(fit.end),
        Shape(Layer.WHEEL, "wheel", "axle", ((0.0, 0.0),), 6.0),
        *_rotor_shapes(h.rotor, Layer.ROTOR),
        Shape(Layer.ADAPTER, "adapter", f"special plate {plate.geometry}, {plate.thickness_mm:g} mm", edge),
        *_caliper_shapes(stand, h.caliper, height)[:1],
        Shape(
            Layer.PADS,
            "pads",
            f"pads, {height:g} mm high",
            _pad(stand, height, PAD_HALF_LENGTH_MM[h.caliper.four_pistons]),
        ),
        *holes,
        *_limit_shapes(fit),
        *_conflict_shapes(fit, stand),
    ]
    sizes = [_size("adapter", f"axle to {x.name} hole", 0j, x.at) for x in plate.holes]
    sizes.append(_caliper_size(stand, always=True))
    words = [
        f"Seen from the rotor side, front to the left: rotor {h.rotor.diameter_mm:g} mm, on a special plate {plate.thickness_mm:g} mm thick."
    ]
    words += [
        f"{x.name[:1].upper()}{x.name[1:]} hole {x.x_mm:.1f} mm rearward and {x.y_mm:.1f} mm up from the axle, {x.thread}."
        for x in plate.holes
    ]
    words.append(f"{fit.chain.reason}.")
    return Drawing(tuple(shapes), tuple(sizes), tuple(words))


def draw(fit: Fit) -> Drawing | None:
    """The fit to scale, also where it is not possible; None while mount or native size are not known."""
    h, mount = fit.held, fit.telling.kind
    if fit.plate is not None:
        return _draw_on_a_plate(fit, fit.plate)
    if mount is None or h.seat is None or h.stand is None or h.native_mm is None or (mount, fit.end) not in NOMINAL:
        return None
    seat, stand = h.seat, h.stand
    pad_height = h.pad.height_mm if h.pad else min(h.rotor.track_mm, 14.0)
    shapes = _frame_shapes(fit.end)
    shapes += [
        Shape(Layer.WHEEL, "wheel", "hub", ((0.0, 0.0),), HUB_MM),
        Shape(Layer.WHEEL, "wheel", "axle", ((0.0, 0.0),), AXLE_MM.get(h.wheel.axle, 6.0) if h.wheel.axle else 6.0),
    ]
    shapes += _rotor_shapes(h.rotor, Layer.ROTOR) + _mount_shapes(fit, seat)
    for part in fit.chain.parts:
        outline = hull(_part_points(mount, seat, stand, part))
        if len(outline) > 2:
            shapes.append(Shape(Layer.ADAPTER, "adapter", part.name, outline))
    shapes += _caliper_shapes(stand, h.caliper, pad_height)
    half = PAD_HALF_LENGTH_MM[h.caliper.four_pistons]
    shapes.append(Shape(Layer.PADS, "pads", f"pads, {pad_height:g} mm high", _pad(stand, pad_height, half)))
    shapes += _bolt_shapes(fit, mount, seat, stand) + _now_shapes(fit) + _limit_shapes(fit)
    shapes += _conflict_shapes(fit, stand)
    return Drawing(
        tuple(shapes), tuple(_dimensions(fit, seat, stand, h.native_mm)), _told(fit, seat, stand, h.native_mm)
    )
