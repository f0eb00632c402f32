"""Mounts: telling them apart, native sizes, and which adapter carries which caliper to which rotor.

Three tables: MOUNTS (what spacing and bolt direction say), CHAIN (which adapter kind stands between a
mount and a caliper) and RIM_TOLERANCE. Sources: the trade's mount standards as listed in docs/mounts.md.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from clavis.core.parts import Adapter

TELLING_TOLERANCE_MM = 1.0
PAD_EDGE_LIMIT_MM = 0.5
"""a pad may stand this far over the rotor's edge, or fall this far short of it (model, section 10)"""


class End(StrEnum):
    FRONT = "front"
    REAR = "rear"


class MountKind(StrEnum):
    POST = "post_mount"
    IS = "is_mount"
    FLAT_FRONT = "flat_front"
    FLAT_REAR = "flat_rear"


class CaliperMount(StrEnum):
    POST = "post"
    FLAT = "flat"
    OLD_IS = "old_is"


class BoltDirection(StrEnum):
    ALONG_POST = "along_post"
    CROSSWISE = "crosswise"
    INTO_LEG = "into_leg"
    THROUGH_STAY = "through_stay"


class AdapterKind(StrEnum):
    """What an adapter sits on and what it carries."""

    POST_TO_POST = "post_to_post"
    IS_TO_POST = "is_to_post"
    FLAT_FRONT_PLATE = "flat_front_plate"
    FLAT_REAR_SPACER = "flat_rear_spacer"
    FLAT_TO_POST = "flat_to_post"
    POST_TO_FLAT = "post_to_flat"


class BoltStyle(StrEnum):
    """How an adapter is bolted: through both, four holes, from the side, or a flat-mount plate."""

    THROUGH = "through"
    FOUR_HOLE = "four_hole"
    SIDE = "side"
    PLATE = "plate"


@dataclass(frozen=True)
class MountRow:
    """How one mount shows itself. ``ends`` are the ends of the bike it occurs at."""

    kind: MountKind
    spacing_mm: float
    direction: BoltDirection
    ends: tuple[End, ...]
    thread: str
    says: str


MOUNTS: tuple[MountRow, ...] = (
    MountRow(MountKind.POST, 74.2, BoltDirection.ALONG_POST, (End.FRONT, End.REAR), "M6",
             "bolts run along the post, into fork or frame from behind or above"),
    MountRow(MountKind.IS, 51.0, BoltDirection.CROSSWISE, (End.FRONT, End.REAR), "M6",
             "bolts run crosswise, parallel to the axle, through unthreaded tabs"),
    MountRow(MountKind.FLAT_FRONT, 70.0, BoltDirection.INTO_LEG, (End.FRONT,), "M5",
             "bolts run into the face of the fork leg"),
    MountRow(MountKind.FLAT_REAR, 34.0, BoltDirection.THROUGH_STAY, (End.REAR,), "M5",
             "bolts run through the chainstay from below"),
)  # fmt: skip

# Native rotor sizes that occur; IS has none of its own, its zero-offset adapter decides.
NATIVE_SIZES_MM: dict[MountKind, tuple[float, ...]] = {
    MountKind.POST: (140, 160, 180, 200, 203),
    MountKind.FLAT_FRONT: (140, 160),
    MountKind.FLAT_REAR: (140, 160),
}
IS_ZERO_OFFSET_MM: dict[End, float] = {End.FRONT: 160, End.REAR: 140}


@dataclass(frozen=True)
class ChainRow:
    """What may stand between a mount and a caliper. ``direct`` allows no adapter at the native size;
    ``always`` asks for the plate at every size (a flat-mount fork carries its caliper on a flip plate)."""

    mount: MountKind
    caliper: CaliperMount
    adapter: AdapterKind | None
    direct: bool
    always: bool = False
    note: str = ""


CHAIN: tuple[ChainRow, ...] = (
    ChainRow(MountKind.POST, CaliperMount.POST, AdapterKind.POST_TO_POST, direct=True),
    ChainRow(MountKind.IS, CaliperMount.POST, AdapterKind.IS_TO_POST, direct=False, always=True),
    ChainRow(MountKind.IS, CaliperMount.OLD_IS, None, direct=True, note="serves only the size its maker states"),
    ChainRow(MountKind.FLAT_FRONT, CaliperMount.FLAT, AdapterKind.FLAT_FRONT_PLATE, direct=False, always=True),
    ChainRow(MountKind.FLAT_REAR, CaliperMount.FLAT, AdapterKind.FLAT_REAR_SPACER, direct=True),
    ChainRow(MountKind.FLAT_FRONT, CaliperMount.POST, AdapterKind.FLAT_TO_POST, direct=False, always=True),
    ChainRow(MountKind.FLAT_REAR, CaliperMount.POST, AdapterKind.FLAT_TO_POST, direct=False, always=True),
    ChainRow(MountKind.POST, CaliperMount.FLAT, AdapterKind.POST_TO_FLAT, direct=False, always=True),
)


@dataclass(frozen=True)
class MountTelling:
    """What the evidence says. ``conflict`` is set, and ``kind`` is not, where pieces of it disagree."""

    kind: MountKind | None
    conflict: str = ""
    lacks: str = ""


def tell_mount(spacing_mm: float | None, direction: BoltDirection | None, end: End) -> MountTelling:
    """The mount from bolt spacing (mm, centre to centre) and bolt direction; both are asked for.

    Evidence that disagrees is shown as a conflict, never averaged or guessed away.
    """
    by_spacing = None
    if spacing_mm is not None:
        by_spacing = next(
            (r for r in MOUNTS if abs(r.spacing_mm - spacing_mm) <= TELLING_TOLERANCE_MM + 1e-9 and end in r.ends),
            None,
        )
        if by_spacing is None:
            other = next((r for r in MOUNTS if abs(r.spacing_mm - spacing_mm) <= TELLING_TOLERANCE_MM), None)
            what = (
                f"belongs to a mount that does not occur at the {end.value}"
                if other
                else "is none of 34, 51, 70 or 74 mm (± 1 mm)"
            )
            return MountTelling(None, conflict=f"a spacing of {spacing_mm:g} mm {what}; measure again")
    by_direction = next((r for r in MOUNTS if r.direction is direction and end in r.ends), None)
    if direction is not None and by_direction is None:
        return MountTelling(None, conflict=f"bolts that run this way do not occur at the {end.value}; look again")
    if by_spacing and by_direction and by_spacing.kind is not by_direction.kind:
        return MountTelling(
            None,
            conflict=(
                f"the spacing of {spacing_mm:g} mm says {LABELS[by_spacing.kind]}, the direction of the bolts says "
                f"{LABELS[by_direction.kind]}; one of the two is wrong"
            ),
        )
    if by_spacing is None or by_direction is None:
        missing = [w for w, row in (("bolt spacing", by_spacing), ("direction of the bolts", by_direction)) if not row]
        return MountTelling(None, lacks=" and ".join(missing) + " not measured")
    return MountTelling(by_spacing.kind)


LABELS: dict[MountKind, str] = {
    MountKind.POST: "post mount",
    MountKind.IS: "international standard",
    MountKind.FLAT_FRONT: "flat mount, fork",
    MountKind.FLAT_REAR: "flat mount, frame",
}


def native_size_mm(kind: MountKind, end: End, given_mm: float | None) -> float | None:
    """Smallest rotor of the mount, mm. IS mounts have theirs by standard; others are given or unknown."""
    if kind is MountKind.IS:
        return IS_ZERO_OFFSET_MM[end]
    return given_mm


def pad_edge_error_mm(position_mm: float, rotor_mm: float) -> float:
    """(D_position − D_rotor)/2: above zero the pad stands over the rotor's edge (model, section 10)."""
    return (position_mm - rotor_mm) / 2


@dataclass(frozen=True)
class ChainAnswer:
    """The chain's answer: possible or not and why; the adapter, or none needed; or what to look for."""

    possible: bool
    reason: str
    adapter: "Adapter | None" = None
    look_for: str = ""
    unknown: bool = False


def _serves(adapter: "Adapter", end: End, rotor_mm: float, native_mm: float, mount: MountKind) -> bool:
    from_ok = mount is MountKind.IS or (adapter.from_mm is not None and abs(adapter.from_mm - native_mm) < 0.25)
    return from_ok and any(f.end is end and abs(f.rotor_mm - rotor_mm) < 0.25 for f in adapter.fits)


def solve_chain(
    mount: MountKind,
    native_mm: float | None,
    end: End,
    caliper: CaliperMount,
    rotor_mm: float,
    adapters: Iterable["Adapter"],
) -> ChainAnswer:
    """Exactly one adapter from the catalogue, or none needed, or not possible and why. Never two stacked.

    ``native_mm`` None is answered as unknown: nothing is assumed.
    """
    row = next((r for r in CHAIN if r.mount is mount and r.caliper is caliper), None)
    where = f"{LABELS[mount]} {end.value}"
    if row is None:
        return ChainAnswer(False, f"no adapter is made that puts this caliper on a {where}")
    native = native_size_mm(mount, end, native_mm)
    if native is None:
        return ChainAnswer(False, "native rotor size not measured, so the adapter cannot be told", unknown=True)
    if rotor_mm < native - 0.25:
        return ChainAnswer(False, f"{rotor_mm:g} is below the native size {native:g}: a caliper cannot move inward")
    at_native = abs(rotor_mm - native) < 0.25
    if row.direct and not row.always and at_native:
        return ChainAnswer(True, f"{rotor_mm:g} is the native size: no adapter")
    if row.adapter is None:
        return ChainAnswer(False, f"this caliper bolts straight to its tabs and serves {native:g} only")
    offset = rotor_mm - native
    look_for = f"{ADAPTER_WORDS[row.adapter]}, {end.value}, from {native:g} to {rotor_mm:g} (+{offset:g})"
    fitting = [a for a in adapters if a.adapter_kind is row.adapter and _serves(a, end, rotor_mm, native, mount)]
    if not fitting:
        return ChainAnswer(
            False, "the catalogue has no single adapter for it; two are never stacked", look_for=look_for
        )
    best = min(fitting, key=lambda a: (a.price, a.mass_g, a.id))
    return ChainAnswer(True, f"one {ADAPTER_WORDS[row.adapter]}, {native:g} to {rotor_mm:g}", adapter=best)


ADAPTER_WORDS: dict[AdapterKind, str] = {
    AdapterKind.POST_TO_POST: "post-mount adapter",
    AdapterKind.IS_TO_POST: "IS-to-post adapter",
    AdapterKind.FLAT_FRONT_PLATE: "flat-mount fork plate",
    AdapterKind.FLAT_REAR_SPACER: "flat-mount frame spacer",
    AdapterKind.FLAT_TO_POST: "flat-to-post adapter",
    AdapterKind.POST_TO_FLAT: "post-to-flat adapter",
}
