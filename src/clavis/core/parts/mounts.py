"""Mounts: telling them apart, native sizes, and the words of the trade for them.

The table MOUNTS says what spacing and bolt direction tell; which adapter stands between mount and caliper is in
``chain``. Sources: the trade's mount standards as listed in docs/mounts.md.
"""

from dataclasses import dataclass
from enum import StrEnum

TELLING_TOLERANCE_MM = 1.0
PAD_EDGE_LIMIT_MM = 0.5
"""a pad may stand this far over the rotor's edge, or fall this far short of it (model, section 10)"""


class End(StrEnum):
    FRONT = "front"
    REAR = "rear"

    @property
    def other(self) -> "End":
        return End.REAR if self is End.FRONT else End.FRONT


class MountKind(StrEnum):
    POST = "post_mount"
    IS = "is_mount"
    FLAT_FRONT = "flat_front"
    FLAT_REAR = "flat_rear"


class CaliperMount(StrEnum):
    POST = "post"
    FLAT = "flat"
    OLD_IS = "old_is"
    OWN = "own"


class BoltDirection(StrEnum):
    ALONG_POST = "along_post"
    CROSSWISE = "crosswise"
    INTO_LEG = "into_leg"
    THROUGH_STAY = "through_stay"


class SpacingTool(StrEnum):
    """What the bolt spacing was read with. A tape tells mounts apart; it does not judge a pitch."""

    TAPE = "tape"
    GAUGE = "gauge"


class AdapterKind(StrEnum):
    """What an adapter sits on and what it carries."""

    POST_TO_POST = "post_to_post"
    IS_TO_POST = "is_to_post"
    FLAT_FRONT_PLATE = "flat_front_plate"
    FLAT_REAR_SPACER = "flat_rear_spacer"
    FLAT_TO_POST = "flat_to_post"
    POST_TO_FLAT = "post_to_flat"


class ThreadMaterial(StrEnum):
    LIGHT_ALLOY = "light_alloy"
    STEEL = "steel"


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


DIRECTION_WORDS: dict[BoltDirection, str] = {
    BoltDirection.ALONG_POST: "along the posts",
    BoltDirection.CROSSWISE: "crosswise",
    BoltDirection.INTO_LEG: "into the leg's face",
    BoltDirection.THROUGH_STAY: "through the stay from below",
}
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


ADAPTER_WORDS: dict[AdapterKind, str] = {
    AdapterKind.POST_TO_POST: "post-mount adapter",
    AdapterKind.IS_TO_POST: "IS-to-post adapter",
    AdapterKind.FLAT_FRONT_PLATE: "flat-mount fork plate",
    AdapterKind.FLAT_REAR_SPACER: "flat-mount frame spacer",
    AdapterKind.FLAT_TO_POST: "flat-to-post adapter",
    AdapterKind.POST_TO_FLAT: "post-to-flat adapter",
}
