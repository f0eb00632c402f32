"""A special plate computed: holes, outline, thickness, counterbores, walls, bolt sums.

The plate lies flat in the plane of the rotor; its bolts run crosswise, like the axle. From the holes measured about
the axle, the rotor and the caliper's pitch follows geometry. Nothing here says that a plate is strong enough.
"""

from cmath import exp
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import combinations
from math import ceil, radians

from clavis.core.fit.bolts import (
    ENGAGEMENT_DIAMETERS,
    PLAIN_WASHER_MM,
    BoltChoice,
    BoltStack,
    Rack,
    StackLayer,
    choose_bolt,
)
from clavis.core.job.special_mount import CaliperBolts, MountBolts, SpecialMount, geometry_of, lacks_of
from clavis.core.parts.models import Bolt
from clavis.core.parts.mounts import End, ThreadMaterial
from clavis.core.parts.threads import THREADS, Thread
from clavis.core.physics.plane import hull_of
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict, worst

EDGE_DIAMETERS: dict[ThreadMaterial, float] = {ThreadMaterial.LIGHT_ALLOY: 2.0, ThreadMaterial.STEEL: 1.5}
"""from a hole's centre to the plate's edge, in bolt diameters (usual for bearing and tear-out)"""
HEAD_RIM_MM = 2.0
"""metal beyond a head or counterbore"""
WALL_HOLDS_MM, WALL_LEAST_MM = 5.0, 3.0
FLOOR_DIAMETERS = 0.6
"""metal under a counterbored head, in bolt diameters"""
STOCK_THICKNESS_MM = (6.0, 8.0, 10.0, 12.0, 15.0, 16.0, 18.0, 20.0, 25.0)
SAME_HOLE_MM = 1.0
SPACER_COUNTS_MM = 0.05
"""a gap between plate and faces below this is none"""
FILLS_MM = 6.0
"""a plate is made this much thicker than needed rather than stand on spacers"""


@dataclass(frozen=True)
class PlateHole:
    """One hole of a plate, mm from the axle."""

    name: str
    x_mm: float
    y_mm: float
    bore_mm: float
    thread: Thread
    tapped: bool
    counterbore_mm: float | None
    counterbore_depth_mm: float

    @property
    def at(self) -> complex:
        return complex(self.x_mm, self.y_mm)

    @property
    def widest_mm(self) -> float:
        return max(self.bore_mm, self.counterbore_mm or 0.0, THREADS[self.thread].diameter_mm)


@dataclass(frozen=True)
class PlateSide:
    """A straight piece of the outline and the arc that follows it about ``corner``; counter-clockwise."""

    start: complex
    end: complex
    corner: complex
    arc_end: complex


@dataclass(frozen=True)
class PlateCheck:
    """One check of the plate: value, limit, verdict, words."""

    key: str
    label: str
    value_mm: float | None
    needed_mm: float | None
    verdict: Verdict
    words: Words


@dataclass(frozen=True)
class Plate:
    """A plate as computed. Coordinates in mm about the axle, x rearward, y up."""

    end: End
    holes: tuple[PlateHole, ...]
    rim_mm: float
    """from the centres of the outermost holes to the plate's edge"""
    outline: tuple[PlateSide, ...]
    thickness_mm: float
    needed_thickness_mm: float
    spacer_mm: float
    rotor_mm: float
    pad_edge: complex
    pad_radial: complex
    bolts: tuple[BoltChoice, ...]
    checks: tuple[PlateCheck, ...]
    geometry: str

    @property
    def verdict(self) -> Verdict:
        return worst(c.verdict for c in self.checks)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, bottom, right and top of the outline, mm from the axle."""
        xs, ys = [h.x_mm for h in self.holes], [h.y_mm for h in self.holes]
        r = self.rim_mm
        return min(xs) - r, min(ys) - r, max(xs) + r, max(ys) + r

    def distance_mm(self, first: str, second: str) -> float:
        """Between two named holes."""
        by_name = {h.name: h.at for h in self.holes}
        return abs(by_name[first] - by_name[second])


def outline_of(centres: list[complex], rim_mm: float) -> tuple[PlateSide, ...]:
    """The edge at ``rim_mm`` about all holes: straight sides and arcs about the corners, counter-clockwise."""
    corners = hull_of(centres)
    out = []
    for k, corner in enumerate(corners):
        after, beyond = corners[(k + 1) % len(corners)], corners[(k + 2) % len(corners)]
        way, next_way = (after - corner) / abs(after - corner), (beyond - after) / abs(beyond - after)
        out.append(
            PlateSide(corner - 1j * rim_mm * way, after - 1j * rim_mm * way, after, after - 1j * rim_mm * next_way)
        )
    return tuple(out)


def _mount_layers(m: SpecialMount, thickness: float, spacer: float) -> tuple[StackLayer, ...]:
    gap = (StackLayer("spacer", spacer),) if spacer > SPACER_COUNTS_MM else ()
    if m.mount_bolts is MountBolts.THROUGH_TAB:
        return (StackLayer("washer", PLAIN_WASHER_MM), StackLayer("tab", m.tab_mm), *gap)
    return (StackLayer("plate", thickness - (m.counterbore_mm or 0.0)), *gap)


def _stacks(m: SpecialMount, thickness: float, spacer: float, count: int) -> list[BoltStack]:
    mount_in_plate = m.mount_bolts is MountBolts.THROUGH_TAB
    ear_in_plate = m.caliper_bolts is CaliperBolts.THROUGH_EAR
    out = [
        BoltStack(
            f"{name}, {'tab to plate' if mount_in_plate else 'plate to boss'}", m.mount_thread,
            _mount_layers(m, thickness, spacer), m.material if mount_in_plate else m.boss_material,
            thickness if mount_in_plate else m.boss_depth_mm, "plate" if mount_in_plate else "boss",
        )
        for name in MOUNT_HOLES[:count]
    ]  # fmt: skip
    ear = (StackLayer("washer", PLAIN_WASHER_MM), StackLayer("caliper's ear", m.ear_mm))
    through = (StackLayer("plate", thickness - (m.counterbore_mm or 0.0)),)
    for name in CALIPER_HOLES:
        out.append(
            BoltStack(
                f"{name}, {'ear to plate' if ear_in_plate else 'plate to ear'}", m.caliper_thread,
                ear if ear_in_plate else through, m.material if ear_in_plate else ThreadMaterial.LIGHT_ALLOY,
                thickness if ear_in_plate else m.ear_mm, "plate" if ear_in_plate else "caliper",
            )
        )  # fmt: skip
    return out


MOUNT_HOLES, CALIPER_HOLES = ("upper", "lower", "third"), ("caliper upper", "caliper lower")


def _needed_thickness(m: SpecialMount) -> float:
    """The least that carries threads and counterbored heads, mm."""
    assert m.material is not None
    turns = ENGAGEMENT_DIAMETERS[m.material]
    needs = []
    for tapped, thread in (
        (m.mount_bolts is MountBolts.THROUGH_TAB, m.mount_thread),
        (m.caliper_bolts is CaliperBolts.THROUGH_EAR, m.caliper_thread),
    ):
        d = THREADS[thread].diameter_mm
        needs.append(turns * d + 1.0 if tapped else (m.counterbore_mm or 0.0) + FLOOR_DIAMETERS * d)
    return max(needs)


def _made_thickness(needed_mm: float, room_mm: float) -> float:
    """The plate that fills the room between the faces where it is thick enough for it and not much thicker than
    needed; otherwise the least stock thickness."""
    if needed_mm - 1e-9 <= room_mm <= needed_mm + FILLS_MM:
        return round(room_mm, 2)
    return next((mm for mm in STOCK_THICKNESS_MM if mm >= needed_mm - 1e-9), float(ceil(needed_mm)))


def _hole(name: str, at: complex, m: SpecialMount, mount: bool) -> PlateHole:
    thread = m.mount_thread if mount else m.caliper_thread
    tapped = m.mount_bolts is MountBolts.THROUGH_TAB if mount else m.caliper_bolts is CaliperBolts.THROUGH_EAR
    sunk = bool(m.counterbore_mm) and not tapped
    return PlateHole(
        name, round(at.real, 3), round(at.imag, 3), THREADS[thread].tap_drill_mm if tapped else THREADS[thread].clearance_hole_mm,
        thread, tapped, THREADS[thread].counterbore_mm if sunk else None, m.counterbore_mm or 0.0 if sunk else 0.0,
    )  # fmt: skip


def _holes(m: SpecialMount, end: End) -> tuple[tuple[PlateHole, ...], complex, complex]:
    """Every hole, the pads' edge and the direction in which they look for the axle."""
    assert m.pad_angle_deg is not None and m.rotor_mm is not None
    assert m.line_to_edge_mm is not None and m.pitch_mm is not None
    mount = [("upper", m.upper_x_mm, m.upper_y_mm), ("lower", m.lower_x_mm, m.lower_y_mm),
             ("third", m.third_x_mm, m.third_y_mm)]  # fmt: skip
    radial = exp(1j * radians(m.pad_angle_deg))
    edge = (m.rotor_mm / 2 + m.out_mm) * radial
    side = 1 if end is End.FRONT else -1
    # the caliper's top turns outward: clockwise at the front, where its back is to the right
    turn = exp(-1j * side * radians(m.turn_deg))
    out, up = radial * turn, 1j * side * radial * turn
    line = edge - m.line_to_edge_mm * out
    holes = [_hole(name, complex(x, y), m, mount=True) for name, x, y in mount if x is not None and y is not None]
    pair = sorted((line + way * m.pitch_mm / 2 * up for way in (1, -1)), key=lambda at: (-at.imag, at.real))
    holes += [_hole(name, at, m, mount=False) for name, at in zip(CALIPER_HOLES, pair, strict=True)]
    return tuple(holes), edge, out


def _material(m: SpecialMount) -> ThreadMaterial:
    assert m.material is not None
    return m.material


def _needed_rim(m: SpecialMount, holes: tuple[PlateHole, ...]) -> float:
    """From the centres to the edge, mm."""
    diameters = EDGE_DIAMETERS[_material(m)]
    return max(max(diameters * THREADS[h.thread].diameter_mm, h.widest_mm / 2 + HEAD_RIM_MM) for h in holes)


def plate_of(m: SpecialMount, end: End, stock: list[Bolt]) -> Plate | None:
    """The plate for what was measured; None while something is missing (``lacks_of`` says what)."""
    if lacks_of(m):
        return None
    assert m.mount_face_mm is not None and m.caliper_face_mm is not None and m.material is not None
    holes, edge, radial = _holes(m, end)
    needed = _needed_thickness(m)
    room = m.mount_face_mm - m.caliper_face_mm
    thickness = m.thickness_mm or _made_thickness(needed, room)
    spacer = room - thickness
    rim = m.rim_mm or _needed_rim(m, holes)
    stacks = _stacks(m, thickness, max(spacer, 0.0), len(holes) - len(CALIPER_HOLES))
    rack = Rack.of(stock)
    bolts = tuple(choose_bolt(stack, rack) for stack in stacks)
    plate = Plate(
        end=end, holes=holes, rim_mm=rim, outline=outline_of([h.at for h in holes], rim), thickness_mm=thickness,
        needed_thickness_mm=needed, spacer_mm=spacer, rotor_mm=m.rotor_mm or 0.0, pad_edge=edge, pad_radial=radial,
        bolts=bolts, checks=(), geometry=geometry_of(m),
    )  # fmt: skip
    return replace(plate, checks=tuple(check for row in PLATE_CHECKS for check in row(plate, m)))


def thinnest_wall(holes: tuple[PlateHole, ...]) -> tuple[float, PlateHole, PlateHole]:
    """The thinnest metal between any two bores or counterbores, mm, and which they are."""
    pairs = [(abs(a.at - b.at) - (a.widest_mm + b.widest_mm) / 2, a, b) for a, b in combinations(holes, 2)]
    return min(pairs, key=lambda row: row[0])


def _walls(p: Plate, _m: SpecialMount) -> list[PlateCheck]:
    wall, a, b = thinnest_wall(p.holes)
    where = f"between {a.name} and {b.name}"
    if abs(a.at - b.at) < SAME_HOLE_MM:
        return [
            PlateCheck(
                "walls", "walls between bores", wall, WALL_HOLDS_MM, Verdict.FAILS, f"{where}: the same place twice"
            )
        ]
    verdict = Verdict.HOLDS if wall >= WALL_HOLDS_MM else Verdict.TIGHT if wall >= WALL_LEAST_MM else Verdict.FAILS
    after = "; another pad angle moves them apart" if verdict is Verdict.FAILS else ""
    return [PlateCheck("walls", "walls between bores", wall, WALL_HOLDS_MM, verdict, where + after)]


def _names(p: Plate, _m: SpecialMount) -> list[PlateCheck]:
    """Upper is above lower: a plate whose holes are called the other way round is bolted on upside down."""
    at = {h.name: h.at for h in p.holes}
    over = at["upper"].imag - at["lower"].imag
    if over >= 0:
        return []
    words = say(
        "the upper hole is entered {under_mm:.1} below the lower one: enter them the other way round", under_mm=-over
    )
    return [PlateCheck("names", "upper and lower hole", over, 0.0, Verdict.FAILS, words)]


@dataclass(frozen=True)
class HoleDistance:
    """From the middle of one hole to that of another, mm: what a caliper gauge checks on template, dummy and plate."""

    first: str
    second: str
    apart_mm: float


def hole_distances(plate: Plate) -> tuple[HoleDistance, ...]:
    """Between every two holes.

    Source: |a − b| in the plane of the plate (geometry).
    """
    return tuple(HoleDistance(a.name, b.name, abs(a.at - b.at)) for a, b in combinations(plate.holes, 2))


def _edges(p: Plate, m: SpecialMount) -> list[PlateCheck]:
    """Centre to edge at every hole: enough metal in bolt diameters, and beyond heads and counterbores."""
    words = say(
        "{turns:.1} diameters from every centre, {rim_mm:g} beyond every head",
        turns=EDGE_DIAMETERS[_material(m)], rim_mm=HEAD_RIM_MM,
    )  # fmt: skip
    needed = _needed_rim(m, p.holes)
    verdict = Verdict.HOLDS if p.rim_mm >= needed - 1e-9 else Verdict.FAILS
    return [PlateCheck("edges", "hole to the plate's edge", p.rim_mm, needed, verdict, words)]


def _thickness(p: Plate, m: SpecialMount) -> list[PlateCheck]:
    enough = p.thickness_mm >= p.needed_thickness_mm - 1e-9
    words = "threads and heads hold in it; whether it is strong enough is the engineer's to say"
    if not enough:
        words = "too thin for the thread it carries, or under a counterbored head"
    verdict = Verdict.HOLDS if enough else Verdict.FAILS
    return [PlateCheck("thickness", "thickness", p.thickness_mm, p.needed_thickness_mm, verdict, words)]


def _spacer(p: Plate, _m: SpecialMount) -> list[PlateCheck]:
    if p.spacer_mm < -SPACER_COUNTS_MM:
        template = "plate {over_mm:.1} thicker than the room between the two faces: a thinner one, or another caliper"
        told = say(template, over_mm=-p.spacer_mm)
        return [PlateCheck("spacer", "room between the faces", p.spacer_mm, 0.0, Verdict.FAILS, told)]
    words: Words = "the plate fills it"
    if p.spacer_mm > SPACER_COUNTS_MM:
        words = say("a spacer of {spacer_mm:.1} at every bolt to the mount", spacer_mm=p.spacer_mm)
    return [PlateCheck("spacer", "room between the faces", max(p.spacer_mm, 0.0), 0.0, Verdict.HOLDS, words)]


def _bolts(p: Plate, _m: SpecialMount) -> list[PlateCheck]:
    out = []
    for choice in p.bolts:
        verdict = Verdict.HOLDS if choice.bolt else Verdict.UNKNOWN if choice.stack.unmeasured else Verdict.FAILS
        if choice.bolt and choice.depth_typical:
            verdict = Verdict.TIGHT
        words: Words = choice.bolt.model if choice.bolt else choice.lacks
        if choice.bolt and choice.depth_typical:
            words = say("{bolt}; typical depth, measure yours", bolt=words)
        place = choice.stack.place
        out.append(
            PlateCheck(f"bolt {place}", f"bolt {place}", choice.engagement_mm, choice.stack.needed_mm, verdict, words)
        )
    return out


PlateRow = Callable[[Plate, SpecialMount], list[PlateCheck]]
PLATE_CHECKS: tuple[PlateRow, ...] = (_names, _walls, _edges, _thickness, _spacer, _bolts)


@dataclass(frozen=True)
class HoleLoad:
    """What one bolt to the mount carries in shear under a braking force, N; for the engineer."""

    name: str
    force_n: float


def hole_loads(plate: Plate, force_n: float) -> tuple[HoleLoad, ...]:
    """A braking force at the pads' edge shared by the bolts to the mount: an equal part each, and the moment
    about their centre by their distances from it (elastic bolt group). Preload, play and fatigue are left out."""
    holes = [h for h in plate.holes if h.name in MOUNT_HOLES]
    centre = sum(h.at for h in holes) / len(holes)
    way = 1j * plate.pad_edge / abs(plate.pad_edge)  # the rotor turns counter-clockwise, seen from its side
    arm = plate.pad_edge - centre
    moment = (arm.conjugate() * (force_n * way)).imag
    square = sum(abs(h.at - centre) ** 2 for h in holes)
    return tuple(
        HoleLoad(h.name, abs(force_n * way / len(holes) + moment * 1j * (h.at - centre) / square)) for h in holes
    )


@dataclass(frozen=True)
class PlateLoads:
    """A braking force at the road, the same at the pads' edge, and what of it each bolt to the mount carries, N."""

    road_n: float
    pads_n: float
    holes: tuple[HoleLoad, ...]


def loads_of(plate: Plate, road_n: float, wheel_radius_m: float) -> PlateLoads:
    """Torque about the axle stays: F_pads = F_road · r_w / r_pads, taken at the pads' outer edge (the least arm is a
    little shorter, the force there a little more: for the engineer to say which)."""
    pads_n = road_n * wheel_radius_m * 1000 / abs(plate.pad_edge)
    return PlateLoads(road_n, pads_n, hole_loads(plate, pads_n))
