"""Mounts: telling them apart, native sizes, and the words of the trade for them.

The table MOUNT_ROWS says what spacing and bolt direction tell; which adapter stands between mount and caliper is in
``fit.adapters``. Sources: the trade's mount standards as listed in docs/mounts.md.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

from clavis.core.records import figure
from clavis.core.sentences import NOTHING, Sentence, joined, say

TELLING_TOLERANCE_MM = 1.0
SAME_SIZE_MM = 0.25
"""sizes that differ by less are the same size"""
PAD_EDGE_LIMIT_MM = 0.5
"""a pad may stand this far over the rotor's edge, or fall this far short of it (docs/model.md, section 10)"""


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


_STANDARDS = "the trade's mount standards, docs/mounts.md"


@dataclass(frozen=True, kw_only=True)
class MountRow:
    """How one mount shows itself. ``ends`` are the ends of the bike it occurs at; ``native_sizes_mm`` the rotors it is
    made for: none for IS, where the zero-offset adapter decides."""

    words: str
    spacing_mm: float = figure("mm", _STANDARDS, "bolt spacing, centre to centre")
    direction: BoltDirection
    direction_words: str
    ends: tuple[End, ...]
    thread: Literal["M5", "M6"]
    native_sizes_mm: tuple[float, ...] = figure("mm", _STANDARDS, "made for rotors of")


MOUNT_ROWS: dict[MountKind, MountRow] = {
    MountKind.POST: MountRow(
        words="post mount", spacing_mm=74.2, thread="M6", ends=(End.FRONT, End.REAR),
        direction=BoltDirection.ALONG_POST, direction_words="along the post, into fork or frame from behind or above",
        native_sizes_mm=(140, 160, 180, 200, 203),
    ),
    MountKind.IS: MountRow(
        words="international standard", spacing_mm=51.0, thread="M6", ends=(End.FRONT, End.REAR),
        direction=BoltDirection.CROSSWISE, direction_words="crosswise, parallel to the axle, through unthreaded tabs",
        native_sizes_mm=(),
    ),
    MountKind.FLAT_FRONT: MountRow(
        words="flat mount, fork", spacing_mm=70.0, thread="M5", ends=(End.FRONT,),
        direction=BoltDirection.INTO_LEG, direction_words="into the face of the fork leg",
        native_sizes_mm=(140, 160),
    ),
    MountKind.FLAT_REAR: MountRow(
        words="flat mount, frame", spacing_mm=34.0, thread="M5", ends=(End.REAR,),
        direction=BoltDirection.THROUGH_STAY, direction_words="through the chainstay from below",
        native_sizes_mm=(140, 160),
    ),
}  # fmt: skip
IS_ZERO_OFFSET_MM: dict[End, float] = {End.FRONT: 160, End.REAR: 140}


@dataclass(frozen=True)
class MountTelling:
    """What the evidence says. ``conflict`` is set, and ``kind`` is not, where pieces of it disagree."""

    kind: MountKind | None
    conflict: Sentence = NOTHING
    lacks: Sentence = NOTHING
    points_to: "MountKind | None" = None
    """what the one piece of evidence says where the other lacks"""
    by_name: Sentence = NOTHING
    """who names it, where nothing was measured that proves it"""

    @property
    def why_not(self) -> Sentence:
        """Why the mount cannot be told; nothing where it can."""
        return self.conflict or self.lacks


def _kind_where(tells: Callable[[MountRow], bool], ends: tuple[End, ...]) -> MountKind | None:
    """The mount of which the evidence tells, among those that occur at one of these ends."""
    return next((kind for kind, row in MOUNT_ROWS.items() if tells(row) and set(ends) & set(row.ends)), None)


def tell_mount(spacing_mm: float | None, direction: BoltDirection | None, end: End) -> MountTelling:
    """The mount from bolt spacing (mm, centre to centre) and bolt direction; both are asked for.

    Evidence that disagrees is shown as a conflict, never averaged or guessed away.
    """

    def near(row: MountRow) -> bool:
        return spacing_mm is not None and abs(row.spacing_mm - spacing_mm) <= TELLING_TOLERANCE_MM + 1e-9

    by_spacing = _kind_where(near, (end,))
    if spacing_mm is not None and by_spacing is None:
        if _kind_where(near, tuple(End)):
            words = "a spacing of {spacing_mm:g} belongs to a mount that does not occur at the {end}; measure again"
            return MountTelling(None, conflict=say(words, spacing_mm=spacing_mm, end=end))
        sizes = sorted(row.spacing_mm for row in MOUNT_ROWS.values())
        known = joined([say("{spacing_mm:.0}", spacing_mm=mm) for mm in sizes], ", ", " or ")
        words = "a spacing of {spacing_mm:g} is none of {known} (± {tolerance_mm:.0}); measure again"
        told = say(words, spacing_mm=spacing_mm, known=known, tolerance_mm=TELLING_TOLERANCE_MM)
        return MountTelling(None, conflict=told)
    by_direction = _kind_where(lambda row: row.direction is direction, (end,))
    if direction is not None and by_direction is None:
        words = "bolts that run this way do not occur at the {end}; look again"
        return MountTelling(None, conflict=say(words, end=end))
    if by_spacing and by_direction and by_spacing is not by_direction:
        words = (
            "the spacing of {spacing_mm:g} says {one}, the direction of the bolts says {other}; one of the two is wrong"
        )
        return MountTelling(None, conflict=say(words, spacing_mm=spacing_mm, one=by_spacing, other=by_direction))
    if by_spacing is None or by_direction is None:
        evidence = (("bolt spacing", by_spacing), ("direction of the bolts", by_direction))
        missing = joined([what for what, kind in evidence if kind is None], " and ")
        return MountTelling(None, lacks=say("{what} not measured", what=missing), points_to=by_spacing or by_direction)
    return MountTelling(by_spacing)


BY_PICTURE = say("named by its picture")


def named_mount(named: MountKind | None, told: MountTelling, end: End, by: Sentence = BY_PICTURE) -> MountTelling:
    """What a name makes of what was measured: it stands until that tells the mount, and is proved by it, or wrong."""
    if named is None or told.conflict:
        return told
    if end not in MOUNT_ROWS[named].ends:
        return MountTelling(None, conflict=say("{named} does not occur at the {end}: look again", named=named, end=end))
    measured = told.kind or told.points_to
    if measured is not None and measured is not named:
        words = "named {named}, measured {measured}: one of the two is wrong"
        return MountTelling(None, conflict=say(words, named=named, measured=measured))
    return told if told.kind else MountTelling(named, by_name=by)


ADAPTER_WORDS: dict[AdapterKind, str] = {
    AdapterKind.POST_TO_POST: "post-mount adapter",
    AdapterKind.IS_TO_POST: "IS-to-post adapter",
    AdapterKind.FLAT_FRONT_PLATE: "flat-mount fork plate",
    AdapterKind.FLAT_REAR_SPACER: "flat-mount frame spacer",
    AdapterKind.FLAT_TO_POST: "flat-to-post adapter",
    AdapterKind.POST_TO_FLAT: "post-to-flat adapter",
}
