"""The standard shelf: parts by standard and of no maker, complete enough to work with on the first day.

A *typical* part has the figures that parts of its kind usually have, and may be put on an order: the part that is
bought is checked against it. A *stand-in* stands for a part that is on a bike and that nobody can name; it is never
offered. How widely the figures of either are doubted is in ``core.parts.figures``. What a maker alone can state
(minimum thickness, largest rotor, boiling point of a mineral fluid) is left unknown.

Sources: the trade's mount and hub standards as listed in docs/mounts.md; dimensions, masses and prices are usual ones,
judged by us, prices in the workshop's currency.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import product
from typing import Any

from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.figures import Figures
from clavis.core.parts.fluids import FLUID_GRADES, Fluid
from clavis.core.parts.models import (
    AnyPart,
    Axle,
    Bar,
    CablePull,
    CarrierMaterial,
    Construction,
    HubInterface,
    SmallRole,
    parse_part,
)
from clavis.core.parts.mounts import (
    IS_ZERO_OFFSET_MM,
    MOUNT_ROWS,
    AdapterKind,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
    ThreadMaterial,
)
from clavis.core.parts.threads import Thread

ANY_MAKE, NOT_NAMED = "Any make", "Unknown"
SHELF = "std-"
"""what the part numbers of the shelf begin with"""

_HUB_WORDS = {HubInterface.SIX_BOLT: "six-bolt", HubInterface.SPLINED: "splined"}


def _size(mm: float) -> str:
    return f"{mm:g}"


# Rotors.


@dataclass(frozen=True, kw_only=True)
class RotorSeries:
    """Rotors that differ in diameter and hub alone."""

    construction: Construction
    words: str
    thickness_mm: float
    diameters_mm: tuple[float, ...]
    price: float
    """of the 160"""
    of_mass: float = 1.0
    """of a plain rotor of this size and thickness"""
    rivet_out_mm: float = 0.0
    carrier_material: CarrierMaterial | None = None


ROTOR_SERIES: tuple[RotorSeries, ...] = (
    RotorSeries(construction=Construction.ONE_PIECE, words="plain", thickness_mm=1.8, price=16,
                diameters_mm=(140, 160, 180, 200, 203, 220, 223)),
    RotorSeries(construction=Construction.ONE_PIECE, words="plain", thickness_mm=2.0, price=24,
                diameters_mm=(160, 180, 200, 203, 220, 223)),
    RotorSeries(construction=Construction.ONE_PIECE, words="plain", thickness_mm=2.3, price=34,
                diameters_mm=(180, 200, 203, 220, 223)),
    RotorSeries(construction=Construction.FLOATING, words="floating", thickness_mm=1.8, price=34, of_mass=0.88,
                rivet_out_mm=1.2, carrier_material=CarrierMaterial.ALUMINIUM, diameters_mm=(140, 160, 180, 200, 203)),
    RotorSeries(construction=Construction.FLOATING, words="floating", thickness_mm=2.0, price=42, of_mass=0.88,
                rivet_out_mm=1.2, carrier_material=CarrierMaterial.ALUMINIUM,
                diameters_mm=(160, 180, 200, 203, 220, 223)),
    RotorSeries(construction=Construction.SANDWICH, words="sandwich", thickness_mm=1.8, price=56, of_mass=0.92,
                carrier_material=CarrierMaterial.ALUMINIUM, diameters_mm=(140, 160, 180, 203)),
)  # fmt: skip
_PLAIN_G = {140: 92, 160: 114, 180: 143, 200: 176, 203: 182, 220: 212, 223: 218}
"""mass of a plain rotor 1.8 mm thick"""
_PLAIN_MM = 1.8
_TRACK_MM = 14.5
_RIVETS_INSIDE_MM = 2.5
"""rivets stand so far inside the track's inner edge"""
_DEARER_A_MM = 0.014
"""of its price, for each millimetre of diameter above 160"""


def _rotors() -> Iterator[dict[str, Any]]:
    for series, hub in product(ROTOR_SERIES, HubInterface):
        for diameter in series.diameters_mm:
            words = f"{_size(diameter)} × {series.thickness_mm:.1f}, {series.words}, {_HUB_WORDS[hub]}"
            rivets = diameter / 2 - _TRACK_MM - _RIVETS_INSIDE_MM if series.rivet_out_mm else None
            thick = f"{series.thickness_mm:.1f}".replace(".", "")
            yield {
                "kind": "rotor",
                "id": f"{SHELF}rotor-{_size(diameter)}-{thick}-{series.words}-{hub.value.replace('_', '-')}",
                "model": f"rotor {words}",
                "diameter_mm": diameter,
                "thickness_mm": series.thickness_mm,
                "interface": hub,
                "construction": series.construction,
                "carrier_material": series.carrier_material,
                "track_mm": _TRACK_MM,
                "rivet_out_mm": series.rivet_out_mm,
                "rivet_radius_mm": rivets,
                "mass_g": round(_PLAIN_G[int(diameter)] * series.thickness_mm / _PLAIN_MM * series.of_mass),
                "price": round(series.price * (1 + _DEARER_A_MM * (diameter - 160))),
            }


# Calipers and what goes with them.


@dataclass(frozen=True, kw_only=True)
class CaliperType:
    """A kind of caliper. ``bores_mm`` are the pistons of one side; none of a cable caliper."""

    words: str
    mounts: tuple[CaliperMount, ...]
    fluids: tuple[Fluid, ...]
    bores_mm: tuple[float, ...] = ()
    pads: str
    """pad shape on a post mount; a flat mount has its own"""
    slot_mm: float
    mass_g: float
    price: float
    inboard_mm: float
    arm_ratio: float | None = None
    pull: CablePull | None = None
    moving_pads: int = 2


_BOTH = (CaliperMount.POST, CaliperMount.FLAT)
_FLUIDS = (Fluid.MINERAL, Fluid.DOT)
CALIPER_TYPES: tuple[CaliperType, ...] = (
    CaliperType(words="two-piston caliper", mounts=_BOTH, fluids=_FLUIDS, bores_mm=(21.5,), pads="two-piston",
                slot_mm=2.0, mass_g=118, price=60, inboard_mm=14.0),
    CaliperType(words="four-piston caliper", mounts=_BOTH, fluids=_FLUIDS, bores_mm=(16.0, 17.0), pads="four-piston",
                slot_mm=2.3, mass_g=150, price=105, inboard_mm=15.5),
    CaliperType(words="cable caliper, both pads move", mounts=_BOTH, fluids=(Fluid.NONE,), pads="cable", slot_mm=2.0,
                mass_g=170, price=58, inboard_mm=17.5, arm_ratio=5.5, pull=CablePull.SHORT),
    CaliperType(words="cable caliper, one pad moves", mounts=_BOTH, fluids=(Fluid.NONE,), pads="cable", slot_mm=2.0,
                mass_g=160, price=32, inboard_mm=17.5, arm_ratio=5.2, pull=CablePull.SHORT, moving_pads=1),
    CaliperType(words="cable caliper, one pad moves", mounts=(CaliperMount.POST,), fluids=(Fluid.NONE,), pads="cable",
                slot_mm=2.0, mass_g=164, price=30, inboard_mm=17.5, arm_ratio=9.4, pull=CablePull.LONG, moving_pads=1),
)  # fmt: skip
FLAT_FOUR_BORES_MM = (14.0, 15.0)
"""flat-mount calipers have less room"""
_TAB_MM = {CaliperMount.POST: 8.0, CaliperMount.FLAT: 6.0}
_BODY_IN_MM = {CaliperMount.POST: 18.0, CaliperMount.FLAT: 15.0}
_FLAT_PADS = {"two-piston": "flat two", "four-piston": "flat four", "cable": "flat cable"}


def _line_words(fluid: Fluid, pull: CablePull | None) -> str:
    return {Fluid.MINERAL: "mineral", Fluid.DOT: "DOT"}.get(fluid, f"{pull} pull" if pull else "")


def _slug(words: str) -> str:
    return words.lower().replace(",", "").replace(" ", "-")


def _calipers(figures: Figures) -> Iterator[dict[str, Any]]:
    for kind in CALIPER_TYPES:
        for mount, fluid in product(kind.mounts, kind.fluids):
            flat = mount is CaliperMount.FLAT
            bores = FLAT_FOUR_BORES_MM if flat and len(kind.bores_mm) > 1 else kind.bores_mm
            words = f"{kind.words}, {mount} mount, {_line_words(fluid, kind.pull)}"
            yield {
                "kind": "caliper",
                "id": _number(figures, _slug(words)),
                "model": words,
                "mount": mount,
                "fluid": fluid,
                "bores_mm": bores,
                "pad_shape": _FLAT_PADS[kind.pads] if flat else kind.pads,
                "slot_mm": kind.slot_mm,
                "tab_mm": _TAB_MM[mount],
                "body_in_mm": _BODY_IN_MM[mount],
                "moving_pads": kind.moving_pads,
                "arm_ratio": kind.arm_ratio,
                "pull": kind.pull,
                "inboard_mm": kind.inboard_mm,
                "mass_g": kind.mass_g,
                "price": kind.price,
            }


def _number(figures: Figures, words: str) -> str:
    return f"{SHELF}{'unknown-' if figures is Figures.STAND_IN else ''}{words}"[:60]


# line, bar, ratio, master bore mm, pull, grams, price
LEVER_TYPES: tuple[tuple[Fluid, Bar, float, float | None, CablePull | None, float, float], ...] = (
    (Fluid.MINERAL, Bar.FLAT, 5.8, 10.0, None, 105, 55),
    (Fluid.MINERAL, Bar.DROP, 5.0, 9.5, None, 235, 150),
    (Fluid.DOT, Bar.FLAT, 5.8, 10.0, None, 105, 75),
    (Fluid.DOT, Bar.DROP, 5.0, 9.7, None, 235, 160),
    (Fluid.NONE, Bar.FLAT, 4.6, None, CablePull.SHORT, 86, 18),
    (Fluid.NONE, Bar.DROP, 4.2, None, CablePull.SHORT, 186, 64),
    (Fluid.NONE, Bar.FLAT, 2.6, None, CablePull.LONG, 82, 16),
)


def _levers(figures: Figures) -> Iterator[dict[str, Any]]:
    for fluid, bar, ratio, bore_mm, pull, mass_g, price in LEVER_TYPES:
        words = f"{bar} bar, {_line_words(fluid, pull)}"
        yield {
            "kind": "lever",
            "id": _number(figures, f"lever-{_slug(words)}"),
            "model": f"lever, {words}",
            "ratio": ratio,
            "fluid": fluid,
            "bore_mm": bore_mm,
            "pull": pull,
            "bar": bar,
            "mass_g": mass_g,
            "price": price,
        }


# shape, height mm, area of one pad mm², material mm, grams, price of resin
PAD_SHAPES: tuple[tuple[str, float, float, float, float, float], ...] = (
    ("two-piston", 14.0, 330, 2.0, 17, 12),
    ("four-piston", 14.0, 515, 2.0, 25, 17),
    ("cable", 14.0, 320, 2.2, 18, 9),
    ("flat two", 12.5, 300, 1.8, 14, 15),
    ("flat four", 12.5, 470, 1.8, 20, 22),
    ("flat cable", 12.5, 300, 1.8, 14, 12),
)
_DEARER = {"resin": 1.0, "semi_metallic": 1.2, "sintered": 1.45, "ceramic": 1.6}
_HEAVIER = {"resin": 1.0, "semi_metallic": 1.12, "sintered": 1.32, "ceramic": 1.05}


def _pads() -> Iterator[dict[str, Any]]:
    for (shape, height_mm, area_mm2, material_mm, mass_g, price), (key, row) in product(PAD_SHAPES, COMPOUNDS.items()):
        yield {
            "kind": "pad",
            "id": f"{SHELF}pad-{_slug(shape)}-{key.replace('_', '-')}",
            "model": f"pads {shape}, {row.words}",
            "shape": shape,
            "compound": key,
            "material_mm": material_mm,
            "height_mm": height_mm,
            "area_mm2": area_mm2,
            "mass_g": round(mass_g * _HEAVIER[key], 1),
            "price": round(price * _DEARER[key], 1),
        }


# Adapters: every legal step from a mount's native size.


@dataclass(frozen=True, kw_only=True)
class AdapterSeries:
    """Adapters of one kind: for which ends, from which native size to which rotors, and how they are made."""

    kind: AdapterKind
    ends: tuple[End, ...]
    steps: tuple[tuple[float | None, tuple[float, ...]], ...]
    style: BoltStyle
    words: str
    flange_mm: float = 0.0
    thread_depth_mm: float = 0.0
    least_mm: float = 0.0
    """height of the part where it carries the caliper nowhere"""
    price: float = 11.0
    holes: tuple[tuple[str, float], ...] = ()
    """pitch, diameter, counterbore and its depth, how far it carries the caliper round the rotor"""


_F, _R = End.FRONT, End.REAR
_POST_HOLES = (("around_mm", 20.0), ("counterbore_mm", 11.0), ("head_room_mm", 7.0))
_PLATE_HOLES = (("pitch_mm", 70.0), ("hole_mm", 5.5), ("counterbore_mm", 9.0), ("head_room_mm", 3.2))
_FORK_HOLES = (
    ("pitch_mm", 70.0), ("hole_mm", 5.3), ("counterbore_mm", 8.9), ("head_room_mm", 6.0), ("around_mm", 12.0),
)  # fmt: skip
ADAPTER_SERIES: tuple[AdapterSeries, ...] = (
    AdapterSeries(kind=AdapterKind.POST_TO_POST, ends=(_F, _R), style=BoltStyle.THROUGH, words="post to post",
                  steps=((140, (160,)), (160, (180,)), (180, (200, 203)), (200, (203, 220, 223)), (203, (220, 223)))),
    AdapterSeries(kind=AdapterKind.POST_TO_POST, ends=(_F, _R), style=BoltStyle.FOUR_HOLE, words="post to post",
                  price=15, flange_mm=8, thread_depth_mm=12, holes=_POST_HOLES,
                  steps=((140, (180, 200, 203)), (160, (200, 203, 220, 223)), (180, (220, 223)))),
    AdapterSeries(kind=AdapterKind.IS_TO_POST, ends=(_F,), style=BoltStyle.SIDE, words="IS to post, front", price=12,
                  thread_depth_mm=12, steps=((None, (160, 180, 200, 203)),)),
    AdapterSeries(kind=AdapterKind.IS_TO_POST, ends=(_R,), style=BoltStyle.SIDE, words="IS to post, rear", price=12,
                  thread_depth_mm=12, steps=((None, (140, 160, 180, 200, 203)),)),
    AdapterSeries(kind=AdapterKind.FLAT_REAR_SPACER, ends=(_R,), style=BoltStyle.PLATE, words="flat mount, frame",
                  steps=((140, (160, 180)), (160, (180,)))),
    AdapterSeries(kind=AdapterKind.FLAT_TO_POST, ends=(_F,), style=BoltStyle.FOUR_HOLE,
                  words="flat fork to post caliper", price=19, flange_mm=7, thread_depth_mm=12, least_mm=8,
                  steps=((140, (160,)), (160, (180,))),
                  holes=_FORK_HOLES),
    AdapterSeries(kind=AdapterKind.FLAT_TO_POST, ends=(_R,), style=BoltStyle.FOUR_HOLE,
                  words="flat frame to post caliper", price=19, flange_mm=7, thread_depth_mm=12, least_mm=8,
                  steps=((140, (160,)), (160, (180,))), holes=(("around_mm", 12.0),)),
    AdapterSeries(kind=AdapterKind.POST_TO_FLAT, ends=(_F, _R), style=BoltStyle.FOUR_HOLE,
                  words="post to flat caliper", price=22, flange_mm=6, thread_depth_mm=10, least_mm=6,
                  steps=((140, (160,)), (160, (160, 180))), holes=(("around_mm", 6.0),)),
)  # fmt: skip
FLIP_PLATES_MM: tuple[tuple[float, float], ...] = ((140, 160), (160, 180))
"""a flip plate of a flat-mount fork serves its native size, and turned round the next one"""
_TURNED_MM = 0.4
"""the lower height of a through-bolted part exceeds the upper by twice this: it turns the caliper along the track"""


def _heights_mm(series: AdapterSeries, step_mm: float) -> tuple[float, float]:
    """Under the upper and the lower bolt, for a rotor that is larger by this much: half the step between the two, since
    the caliper goes outward by half of it."""
    half = step_mm / 2
    if series.style is BoltStyle.THROUGH:
        return round(half - _TURNED_MM, 2), round(half + _TURNED_MM, 2)
    return round(half + series.least_mm, 2), round(half + series.least_mm, 2)


def _adapters() -> Iterator[dict[str, Any]]:
    for series in ADAPTER_SERIES:
        for origin, sizes in series.steps:
            for size in sizes:
                begins = origin if origin is not None else IS_ZERO_OFFSET_MM[series.ends[0]]
                upper, lower = _heights_mm(series, size - begins)
                steps = _size(size) if origin is None else f"{_size(origin)} to {_size(size)}"
                yield {
                    "kind": "adapter",
                    "id": f"{SHELF}adapter-{_slug(series.words)}-{_slug(steps)}",
                    "model": f"adapter {series.words}, {steps}",
                    "adapter_kind": series.kind,
                    "from_mm": origin,
                    "fits": [{"end": end, "rotor_mm": size} for end in series.ends],
                    "style": series.style,
                    "upper_mm": upper,
                    "lower_mm": lower,
                    "flange_mm": series.flange_mm,
                    "thread_depth_mm": series.thread_depth_mm,
                    "mass_g": round(16 + (upper + lower) * 0.6),
                    "price": series.price,
                    **dict(series.holes),
                }
    for small, large in FLIP_PLATES_MM:
        yield {
            "kind": "adapter",
            "id": f"{SHELF}flip-plate-{_size(small)}-{_size(large)}",
            "model": f"flip plate of a flat-mount fork, {_size(small)} or {_size(large)}",
            "adapter_kind": AdapterKind.FLAT_FRONT_PLATE,
            "from_mm": small,
            "fits": [{"end": _F, "rotor_mm": mm} for mm in (small, large)],
            "style": BoltStyle.PLATE,
            "upper_mm": 4.0,
            "lower_mm": 4.0,
            "flange_mm": 3.0,
            "mass_g": 24,
            "price": 12,
            **dict(_PLATE_HOLES),
        }


# Bolts, washers, hub parts, what a line is filled and made of.

# thread, lengths, head, its height, its diameter, drive, grams per mm, price: the usual stock and the low heads
BOLT_STOCK: tuple[tuple[Thread, range, str, float, float, str, float, float], ...] = (
    ("M6", range(12, 52, 2), "cap", 6.0, 10.0, "5 mm hex", 0.24, 0.8),
    ("M5", range(9, 41), "cap", 5.0, 8.5, "4 mm hex", 0.16, 0.8),
    ("M8", range(16, 62, 2), "cap", 8.0, 13.0, "6 mm hex", 0.42, 1.4),
    ("M6", range(12, 32, 2), "low", 3.4, 10.0, "T25 star", 0.24, 1.5),
    ("M5", range(9, 25), "low", 3.0, 8.5, "T25 star", 0.16, 1.5),
)
_LONG_THREAD_MM, _THREADED_UP_TO_MM = 24, 30
"""bolts up to 30 mm are threaded all the way, longer ones 24 mm from the tip"""


def stock_bolts(id_before: str) -> Iterator[dict[str, Any]]:
    """Stock bolts of every length, as plain data, without a maker."""
    for thread, lengths, head, height, across, drive, grams, price in BOLT_STOCK:
        low = head == "low"
        for length in lengths:
            yield {
                "kind": "bolt",
                "id": f"{id_before}{thread.lower()}-{length}{'-low' if low else ''}",
                "model": f"{thread} × {length}{' low' if low else ''}",
                "thread": thread,
                "length_mm": length,
                "head": head,
                "head_height_mm": height,
                "head_mm": across,
                "drive": drive,
                "thread_mm": length if length <= _THREADED_UP_TO_MM else _LONG_THREAD_MM,
                "mass_g": round((1.4 if low else 2) + grams * length, 1),
                "price": price,
            }


# role, name, thread, height mm, grams, price
SMALL_PARTS: tuple[tuple[SmallRole, str, Thread | None, float | None, float, float], ...] = (
    (SmallRole.WASHER, "Washer M5", "M5", 1.0, 0.4, 0.15),
    (SmallRole.WASHER, "Washer M6", "M6", 1.0, 0.6, 0.15),
    (SmallRole.WASHER, "Washer M8", "M8", 1.0, 1.0, 0.2),
    (SmallRole.CUP_CONE, "Cup and cone M6", "M6", 3.4, 4.0, 0.9),
    (SmallRole.OLIVE_SET, "Olive and insert", None, None, 2.0, 1.6),
    (SmallRole.INNER_CABLE, "Inner cable", None, None, 22.0, 3.5),
    (SmallRole.HOUSING, "Stiff housing", None, None, 90.0, 12.0),
    (SmallRole.FERRULE, "Ferrule", None, None, 1.0, 0.4),
    (SmallRole.END_CAP, "End cap", None, None, 0.5, 0.2),
)


def small_parts(id_before: str) -> Iterator[dict[str, Any]]:
    """Washers, and what hose ends and cables need, as plain data, without a maker."""
    for role, name, thread, height_mm, mass_g, price in SMALL_PARTS:
        yield {
            "kind": "small",
            "id": id_before + _slug(name),
            "model": name,
            "role": role,
            "thread": thread,
            "height_mm": height_mm,
            "mass_g": mass_g,
            "price": price,
        }


HUB_PARTS: tuple[tuple[str, str, float, float], ...] = (
    ("six_bolt_on_splined", "six-bolt rotor on a splined hub", 34, 18),
    ("lockring_internal", "lockring, inner teeth", 12, 6),
    ("lockring_external", "lockring, outer teeth", 16, 8),
)
_HOSE_LENGTHS_MM = (1800, 3200)
_RIMS_MM = (622, 584, 559, 507, 406, 355)


def _hub_parts() -> Iterator[dict[str, Any]]:
    for role, words, mass_g, price in HUB_PARTS:
        yield {
            "kind": "hub",
            "id": f"{SHELF}hub-{role.replace('_', '-')}",
            "model": words,
            "role": role,
            "mass_g": mass_g,
            "price": price,
        }


def _line_parts() -> Iterator[dict[str, Any]]:
    for key, grade in FLUID_GRADES.items():
        yield {
            "kind": "fluid",
            "id": f"{SHELF}fluid-{key}",
            "model": f"brake fluid, {grade.words}",
            "grade": key,
            "volume_ml": 250,
            "mass_g": 260,
            "price": 9,
        }
    for fluid, length_mm in product(_FLUIDS, _HOSE_LENGTHS_MM):
        words = f"hose for {_line_words(fluid, None)}, {_size(length_mm / 1000)} m"
        yield {
            "kind": "hose",
            "id": f"{SHELF}hose-{fluid}-{length_mm}",
            "model": words,
            "fluid": fluid,
            "lever_fitting": "M8",
            "caliper_fitting": "M8",
            "length_mm": length_mm,
            "mass_g": round(0.034 * length_mm),
            "price": round(0.0105 * length_mm),
        }


def _wheels() -> Iterator[dict[str, Any]]:
    for end, hub, rim_mm in product(End, HubInterface, _RIMS_MM):
        words = f"{end} wheel, bead seat {rim_mm}, {_HUB_WORDS[hub]}"
        yield {
            "kind": "wheel",
            "id": f"{SHELF}wheel-{end}-{rim_mm}-{hub.value.replace('_', '-')}",
            "model": words,
            "end": end,
            "interface": hub,
            "rim_mm": rim_mm,
            "mass_g": 1000 if end is _F else 1250,
            "price": 95 if end is _F else 120,
        }


# mount, native, axle
_FORKS: tuple[tuple[MountKind, float | None, Axle], ...] = (
    (MountKind.POST, 160, Axle.MM15),
    (MountKind.POST, 180, Axle.MM15),
    (MountKind.POST, 203, Axle.MM20),
    (MountKind.IS, None, Axle.QUICK_RELEASE),
    (MountKind.FLAT_FRONT, 140, Axle.MM12),
    (MountKind.FLAT_FRONT, 160, Axle.MM12),
)
_FRAMES: tuple[tuple[MountKind, float | None, Axle], ...] = (
    (MountKind.POST, 140, Axle.MM12),
    (MountKind.POST, 160, Axle.MM12),
    (MountKind.POST, 180, Axle.MM12),
    (MountKind.IS, None, Axle.QUICK_RELEASE),
    (MountKind.FLAT_REAR, 140, Axle.MM12),
)


def _carrying() -> Iterator[dict[str, Any]]:
    for kind, rows in (("fork", _FORKS), ("frame", _FRAMES)):
        for mount, native, axle in rows:
            row, steel = MOUNT_ROWS[mount], mount is MountKind.IS
            sized = f", native {_size(native)}" if native is not None else ""
            yield {
                "kind": kind,
                "id": f"{SHELF}{kind}-{mount.value.replace('_', '-')}{f'-{_size(native)}' if native else ''}",
                "model": f"{kind}, {row.words.removesuffix(f', {kind}')}{sized}",
                "mount": mount,
                "native_mm": native,
                "axle": axle,
                "thread_material": ThreadMaterial.STEEL if steel else ThreadMaterial.LIGHT_ALLOY,
                "mass_g": (1150 if steel else 1900) if kind == "fork" else 2300,
                "price": (140 if steel else 360) if kind == "fork" else 600,
            }


@lru_cache(maxsize=1)
def standard_shelf() -> tuple[AnyPart, ...]:
    """Every part of the shelf, checked as any other part is, in the order of their kinds."""
    by_standard = [*stock_bolts(SHELF), *small_parts(SHELF), *_hub_parts()]
    typical = [
        *_rotors(),
        *_calipers(Figures.TYPICAL),
        *_levers(Figures.TYPICAL),
        *_pads(),
        *_adapters(),
        *_wheels(),
        *_carrying(),
        *_line_parts(),
    ]
    stand_ins = [*_calipers(Figures.STAND_IN), *_levers(Figures.STAND_IN)]
    groups = (
        (ANY_MAKE, Figures.TYPICAL, typical),
        (ANY_MAKE, Figures.STATED, by_standard),
        (NOT_NAMED, Figures.STAND_IN, stand_ins),
    )
    return tuple(
        parse_part({"maker": maker, "figures": figures, **row}) for maker, figures, rows in groups for row in rows
    )
