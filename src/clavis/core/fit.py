"""Fit: the mount chain of one wheel, its bolts and clearances, and the coordinates that drawing and verdict share
(model, section 10).

Side view from the rotor side: left side of the bike, front to the left. Origin at the axle, x to the right
(rearward), y up, mm. The local frame of a caliper has u along the line from axle to pad centre and t across it.
"""

from dataclasses import dataclass
from math import cos, radians, sin

from clavis.core.bolts import DIAMETER_MM, PLAIN_WASHER_MM, BoltChoice, BoltStack, Layer, Thread, choose_bolt
from clavis.core.chain import ChainAnswer, judge_pitch, native_of, position_mm, solve_chain
from clavis.core.mounts import LABELS as MOUNT_NAMES
from clavis.core.mounts import (
    MOUNTS,
    PAD_EDGE_LIMIT_MM,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
    MountTelling,
    ThreadMaterial,
    pad_edge_error_mm,
    tell_mount,
)
from clavis.core.parts import Adapter, Axle, Caliper, Catalogue, Rotor
from clavis.core.verdicts import Verdict, worst
from clavis.core.wheel import Wheel

FLAT_CALIPER_DEPTH_MM = 10.0
"""threaded depth in a flat-mount caliper: typical, measure yours"""

# Angle of the line axle → pad centre above the horizontal, pointing rearward, degrees: nominal, measure yours.
PAD_ANGLE_DEG: dict[tuple[MountKind, End], float] = {
    (MountKind.POST, End.FRONT): 28.0,
    (MountKind.IS, End.FRONT): 28.0,
    (MountKind.FLAT_FRONT, End.FRONT): 24.0,
    (MountKind.POST, End.REAR): 138.0,
    (MountKind.IS, End.REAR): 138.0,
    (MountKind.FLAT_REAR, End.REAR): 148.0,
}
TAB_BELOW_EDGE_MM = 12.0
"""underside of the caliper's tabs inside the rotor's edge when the pad stands right: nominal, measure yours"""
POST_PITCH_MM = 74.0
FLAT_PITCH_MM = 34.0
IS_HOLE_INWARD_MM = 16.0
"""IS tab holes inside the line of the caliper's tabs: nominal, measure yours"""


@dataclass(frozen=True)
class Clearance:
    """One check of the fit: value, its limit and verdict, in words."""

    label: str
    value_mm: float | None
    verdict: Verdict
    words: str


@dataclass(frozen=True)
class Circle:
    x: float
    y: float
    r: float
    layer: str
    title: str


@dataclass(frozen=True)
class Polygon:
    points: tuple[tuple[float, float], ...]
    layer: str
    title: str


@dataclass(frozen=True)
class Dimension:
    """A measured line between two points with its text."""

    a: tuple[float, float]
    b: tuple[float, float]
    text: str


@dataclass(frozen=True)
class Drawing:
    """Shapes in mm about the axle, back to front, and the same told in words."""

    circles: tuple[Circle, ...]
    polygons: tuple[Polygon, ...]
    dimensions: tuple[Dimension, ...]
    words: str


@dataclass(frozen=True)
class Fit:
    """The fit of one wheel: which mount, which adapter, which bolts, what clears, drawn."""

    end: End
    telling: MountTelling
    chain: ChainAnswer
    bolts: tuple[BoltChoice, ...]
    pad_edge_mm: float | None
    clearances: tuple[Clearance, ...]
    drawing: Drawing | None

    @property
    def verdict(self) -> Verdict:
        if self.telling.kind is None or self.chain.unknown:
            return Verdict.UNKNOWN
        if not self.chain.possible:
            return Verdict.FAILS
        parts = [c.verdict for c in self.clearances]
        parts += [
            Verdict.UNKNOWN if b.stack.unmeasured else Verdict.FAILS if b.bolt is None else Verdict.HOLDS
            for b in self.bolts
        ]
        return worst(parts or [Verdict.UNKNOWN])

    @property
    def bolts_complete(self) -> bool:
        return bool(self.bolts) and all(b.bolt for b in self.bolts)


def bolt_stacks(mount: MountKind, wheel: Wheel, caliper: Caliper, adapter: Adapter | None) -> tuple[BoltStack, ...]:
    """What each bolt of the chain goes through. Upper and lower may differ; two to the mount, and two more to
    the caliper where the adapter has threads of its own."""
    thread: Thread = "M5" if next(m for m in MOUNTS if m.kind is mount).thread == "M5" else "M6"
    washer, tab = Layer("washer", PLAIN_WASHER_MM), Layer("caliper tab", caliper.tab_mm)
    into_mount = (wheel.thread_material, wheel.hole_depth_mm)
    where = "fork" if mount is MountKind.FLAT_FRONT else "mount"
    heights = (
        (("upper", adapter.upper_mm), ("lower", adapter.lower_mm)) if adapter else (("upper", 0.0), ("lower", 0.0))
    )

    def stack(
        place: str,
        layers: tuple[Layer, ...],
        into: str,
        thread_of: tuple[ThreadMaterial | None, float | None],
        size: Thread = thread,
    ) -> BoltStack:
        return BoltStack(place, size, layers, thread_of[0], thread_of[1], into)

    if mount is MountKind.FLAT_REAR and caliper.mount is CaliperMount.FLAT:
        below = Layer("chainstay", wheel.tab_mm)
        return tuple(
            stack(
                f"{side}, from below",
                (washer, below) + ((Layer("spacer", height),) if adapter else ()),
                "caliper",
                (ThreadMaterial.LIGHT_ALLOY, FLAT_CALIPER_DEPTH_MM),
            )
            for side, height in heights
        )
    if adapter is None:
        return tuple(stack(side, (washer, tab), where, into_mount) for side, _ in heights)
    in_adapter = (ThreadMaterial.LIGHT_ALLOY, adapter.thread_depth_mm)
    if adapter.style is BoltStyle.THROUGH:
        return tuple(stack(side, (washer, tab, Layer("adapter", h)), where, into_mount) for side, h in heights)
    flange = Layer("adapter flange", adapter.flange_mm)
    if adapter.style is BoltStyle.SIDE:
        to_mount = tuple(
            stack(f"{side}, tab to adapter", (washer, Layer("IS tab", wheel.tab_mm)), "adapter", in_adapter)
            for side, _ in heights
        )
    else:
        to_mount = tuple(stack(f"{side}, to {where}", (flange,), where, into_mount) for side, _ in heights)
    if caliper.mount is CaliperMount.FLAT:
        plate = (ThreadMaterial.LIGHT_ALLOY, FLAT_CALIPER_DEPTH_MM)
        to_caliper = tuple(
            stack(f"{side}, plate to caliper", (Layer("plate", h),), "caliper", plate, "M5") for side, h in heights
        )
    else:
        to_caliper = tuple(
            stack(f"{side}, to adapter", (washer, tab), "adapter", in_adapter, "M6") for side, _ in heights
        )
    return to_mount + to_caliper


def _clearances(
    fit_edge_mm: float | None, rotor: Rotor, caliper: Caliper, max_rotor_mm: float | None
) -> tuple[Clearance, ...]:
    out = []
    if fit_edge_mm is not None:
        ok = abs(fit_edge_mm) <= PAD_EDGE_LIMIT_MM + 1e-9
        side = (
            "pad over the rotor's edge"
            if fit_edge_mm > 0
            else "rim of the track unswept"
            if fit_edge_mm < 0
            else "flush"
        )
        out.append(
            Clearance(
                "pad to rotor's edge",
                fit_edge_mm,
                Verdict.HOLDS if ok else Verdict.FAILS,
                f"{side}; ± {PAD_EDGE_LIMIT_MM:g} mm is allowed",
            )
        )
    slot = caliper.slot_mm - rotor.thickness_mm
    out.append(
        Clearance(
            "rotor in the slot",
            slot,
            Verdict.FAILS if slot < 0 else Verdict.HOLDS,
            f"slot takes {caliper.slot_mm:g} mm, rotor is {rotor.thickness_mm:g} mm",
        )
    )
    if rotor.rivet_out_mm > 0:
        room = caliper.rivet_room_mm - rotor.rivet_out_mm
        out.append(
            Clearance(
                "rivets to caliper",
                room,
                Verdict.FAILS if room < 0 else Verdict.TIGHT if room < 0.5 else Verdict.HOLDS,
                "if it meets, choose another rotor or caliper; spin and look before riding",
            )
        )
    room_mm = None if max_rotor_mm is None else max_rotor_mm - rotor.diameter_mm
    out.append(
        Clearance(
            "largest rotor allowed",
            room_mm,
            Verdict.UNKNOWN if room_mm is None else Verdict.HOLDS if room_mm >= 0 else Verdict.FAILS,
            "not known: ask the maker of fork or frame" if max_rotor_mm is None else f"allowed is {max_rotor_mm:g} mm",
        )
    )
    return tuple(out)


def fit_wheel(wheel: Wheel, end: End, rotor: Rotor, caliper: Caliper, catalogue: Catalogue) -> Fit:
    """Chain, bolts, clearances and drawing of one wheel, all from the same numbers."""
    telling = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end)
    if telling.kind is None:
        words = telling.conflict or telling.lacks
        chain = ChainAnswer(False, words, unknown=True)
        return Fit(end, telling, chain, (), None, _clearances(None, rotor, caliper, wheel.largest_rotor_mm), None)
    mount = telling.kind
    native = native_of(wheel, end, catalogue).size_mm
    chain = solve_chain(mount, native, end, caliper.mount, rotor.diameter_mm, catalogue.adapters.values())
    position = native
    chosen: tuple[BoltChoice, ...] = ()
    if chain.possible and native is not None:
        position = position_mm(mount, native, chain.adapter, rotor.diameter_mm, end)
        stock = list(catalogue.bolts.values())
        chosen = tuple(choose_bolt(s, stock) for s in bolt_stacks(mount, wheel, caliper, chain.adapter))
    edge = None if position is None else pad_edge_error_mm(position, rotor.diameter_mm)
    drawing = None
    if native is not None and position is not None:
        drawing = draw(mount, end, native, position, rotor, caliper, chain.adapter, wheel, chosen)
    clearances = _clearances(edge, rotor, caliper, wheel.largest_rotor_mm)
    if mount is MountKind.FLAT_FRONT and chain.adapter is not None:
        pitch = judge_pitch(wheel.mount_spacing_mm, wheel.spacing_tool, chain.adapter)
        clearances += (Clearance("pitch of the mount", pitch.error_mm, pitch.verdict, pitch.words),)
    return Fit(end, telling, chain, chosen, edge, clearances, drawing)


def _frame(angle_deg: float) -> tuple[tuple[float, float], tuple[float, float]]:
    a = radians(angle_deg)
    u = (cos(a), sin(a))
    t = (-sin(a), cos(a)) if cos(a) >= 0 else (sin(a), -cos(a))  # t points up on both sides
    return u, t


def _box(
    u: tuple[float, float], t: tuple[float, float], u0: float, u1: float, t0: float, t1: float
) -> tuple[tuple[float, float], ...]:
    return tuple((u[0] * a + t[0] * b, u[1] * a + t[1] * b) for a, b in ((u0, t0), (u1, t0), (u1, t1), (u0, t1)))


@dataclass(frozen=True)
class _Shank:
    """A bolt in the side view: its place across, where its head bears, and which way it points along u."""

    across: float
    bears: float
    inward: bool
    choice: BoltChoice


def _shanks(
    mount: MountKind,
    chosen: tuple[BoltChoice, ...],
    face: float,
    tab: float,
    half: float,
    mount_half: float,
    caliper: Caliper,
    adapter: Adapter | None,
    stay_mm: float,
) -> list[_Shank]:
    """Where each chosen bolt stands; bolts that run across the picture (IS tabs) are not among them."""
    out = []
    head = tab + caliper.tab_mm + PLAIN_WASHER_MM
    for k, choice in enumerate(chosen):
        side = 1 if k % 2 == 0 else -1  # upper first
        first_pair = len(chosen) == 4 and k < 2
        if mount is MountKind.FLAT_REAR and caliper.mount is CaliperMount.FLAT:
            out.append(_Shank(side * half, face - stay_mm - PLAIN_WASHER_MM, False, choice))
        elif first_pair and mount is MountKind.IS:
            continue
        elif first_pair and adapter is not None:
            out.append(_Shank(side * mount_half, face + adapter.flange_mm, True, choice))
        elif caliper.mount is CaliperMount.FLAT:
            out.append(_Shank(side * half, tab - (adapter.upper_mm if adapter else 0.0), False, choice))
        else:
            out.append(_Shank(side * half, head, True, choice))
    return out


BOLT_NOT_CHOSEN_MM = 12.0
TYPICAL_STAY_MM = 15.0
"""drawn where the chainstay was not measured; no verdict rests on it"""


def draw(
    mount: MountKind,
    end: End,
    native_mm: float,
    position: float,
    rotor: Rotor,
    caliper: Caliper,
    adapter: Adapter | None,
    wheel: Wheel,
    chosen: tuple[BoltChoice, ...],
) -> Drawing:
    """Side view to scale from the same coordinates as the verdicts: axle, rotor with track, mount, adapter,
    caliper, pads, and the bolts in their chosen lengths. Nominal places are marked so in the words."""
    u, t = _frame(PAD_ANGLE_DEG[mount, end])
    r = rotor.diameter_mm / 2
    face, tab, edge_u = native_mm / 2 - TAB_BELOW_EDGE_MM, position / 2 - TAB_BELOW_EDGE_MM, position / 2
    half = (FLAT_PITCH_MM if caliper.mount is CaliperMount.FLAT else POST_PITCH_MM) / 2
    mount_half = (wheel.mount_spacing_mm or next(m for m in MOUNTS if m.kind is mount).spacing_mm) / 2
    stay = wheel.tab_mm or TYPICAL_STAY_MM
    body = 29.0 if caliper.four_pistons else 24.0
    wide = max(half, mount_half) + 8

    def at(along: float, across: float) -> tuple[float, float]:
        return u[0] * along + t[0] * across, u[1] * along + t[1] * across

    circles = [
        Circle(0, 0, 24, "hub", "hub"),
        Circle(0, 0, 7.5 if wheel.axle is Axle.MM15 else 6, "axle", "axle"),
        Circle(0, 0, r, "rotor", f"rotor, {rotor.diameter_mm:g} mm"),
        Circle(0, 0, r - rotor.track_mm, "track", f"inner edge of the track, {rotor.track_mm:g} mm high"),
    ]
    shapes: list[tuple[str, str, tuple[float, float, float, float]]] = []  # layer, title, u0 u1 t0 t1
    name = adapter.name if adapter else "adapter missing"
    if mount is MountKind.IS:
        inward = face - IS_HOLE_INWARD_MM
        shapes.append(("mount", "IS tab", (inward - 9, inward + 9, -mount_half - 9, mount_half + 9)))
        circles += [Circle(*at(inward, s * mount_half), 3, "bolt", "IS bolt, crosswise") for s in (-1, 1)]
        shapes.append(("adapter", name, (inward - 7, tab, -half - 7, half + 7)))
    else:
        depth = stay if mount is MountKind.FLAT_REAR else 22.0
        for s in (-1, 1):
            shapes.append(("mount", MOUNT_NAMES[mount], (face - depth, face, s * mount_half - 8, s * mount_half + 8)))
        if adapter is not None and tab - face > 0.2:
            shapes.append(("adapter", name, (face, tab, -wide, wide)))
    for s in (-1, 1):
        shapes.append(("caliper", "caliper tab", (tab, tab + caliper.tab_mm, s * half - 8, s * half + 8)))
    for b in _shanks(mount, chosen, face, tab, half, mount_half, caliper, adapter, stay):
        size = DIAMETER_MM[b.choice.stack.thread] / 2
        length = b.choice.bolt.length_mm if b.choice.bolt else BOLT_NOT_CHOSEN_MM
        way = -1 if b.inward else 1
        ends = sorted((b.bears, b.bears + way * length))
        head = sorted((b.bears, b.bears - way * (b.choice.bolt.head_height_mm if b.choice.bolt else 2 * size)))
        title = f"bolt {b.choice.stack.place}: " + (b.choice.bolt.model if b.choice.bolt else b.choice.lacks)
        shapes.append(("bolt", title, (ends[0], ends[1], b.across - size, b.across + size)))
        shapes.append(("bolt", title, (head[0], head[1], b.across - 1.7 * size, b.across + 1.7 * size)))
    pad_height, pad_half = min(rotor.track_mm, 16.0), 15.0 if caliper.four_pistons else 12.0
    shapes.append(("caliper", f"caliper {caliper.name}", (edge_u - pad_height - 3, edge_u + 9, -body, body)))
    shapes.append(("pad", "pad", (edge_u - pad_height, edge_u, -pad_half, pad_half)))
    error = pad_edge_error_mm(position, rotor.diameter_mm)
    if abs(error) > PAD_EDGE_LIMIT_MM:
        what = f"pad {abs(error):.1f} mm {'over the edge' if error > 0 else 'short of the edge'}"
        shapes.append(("conflict", what, (min(r, edge_u), max(r, edge_u), -body, body)))
    polygons = tuple(Polygon(_box(u, t, *box), layer, title) for layer, title, box in shapes)
    outside = max(tab + caliper.tab_mm, edge_u + 9) + 9
    dimensions = (
        Dimension((0.0, 0.0), at(r, 0), f"{r:.1f}"),
        Dimension(at(outside, -half), at(outside, half), f"{2 * half:.1f}"),
    )
    words = (
        f"Seen from the rotor side: rotor {rotor.diameter_mm:g} mm, track {rotor.track_mm:g} mm. Caliper stands for "
        f"{position:g} mm; pad edge {error:+.1f} mm against the rotor's edge. Mount native {native_mm:g} mm"
        f"{'' if adapter is None else ', ' + adapter.name + ' between'}. "
        "Angle of the caliper and depth of the tabs are nominal: measure yours."
    )
    return Drawing(tuple(circles), polygons, dimensions, words)
