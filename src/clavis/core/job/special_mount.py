"""Special mounts: what was measured for a plate to a caliper that no adapter is made for.

From it ``plate`` computes the plate, and ``stages`` leads from paper to a release by a named engineer.
"""

from enum import StrEnum
from hashlib import sha256
from typing import Annotated

from pydantic import Field

from clavis.core.parts.models import Caliper, Identifier, Rotor
from clavis.core.parts.mounts import End, ThreadMaterial
from clavis.core.parts.threads import Thread
from clavis.core.records import Record, Tick, within


class MountBolts(StrEnum):
    """How the plate is held: bolts through an unthreaded tab into the plate, or through the plate into a boss."""

    THROUGH_TAB = "through_tab"
    INTO_BOSS = "into_boss"


class CaliperBolts(StrEnum):
    """How the caliper is held: bolts through its ear into the plate, or through the plate into its threaded ear."""

    THROUGH_EAR = "through_ear"
    INTO_EAR = "into_ear"


class Tried(Tick):
    """One act on the way to a plate: by whom, when, and for which geometry."""

    geometry: Annotated[str, Field(pattern=r"^[0-9a-f]{10}$")]


class TemplateTried(Tried):
    """The paper template on the bike, with its ruler measured."""

    ruler_mm: float = Field(ge=30, le=140, allow_inf_nan=False, description="the ruler, as printed")


class DummyChecked(Tried):
    """What was read with the printed dummy on the bike."""

    angle_off_deg: float = Field(ge=-20, le=20, allow_inf_nan=False, description="pads turned, top outward positive")
    edge_off_mm: float = Field(ge=-20, le=20, allow_inf_nan=False, description="pads over the rotor's edge positive")
    turns_free: bool = False
    """the wheel turns once round without meeting anything"""
    clears: bool = False
    """leg, stays, spokes and hose clear"""


class Release(Tried):
    """The engineer's release of one geometry."""

    engineer: str = Field(min_length=5, max_length=80, description="full name")
    qualification: str = Field(min_length=5, max_length=120, description="profession and where it is entered")
    drawing: str = Field(min_length=2, max_length=60, description="number of the released drawing")
    elsewhere: bool = Field(False, description="it came with a file, and holds where it was given alone")


Coordinate = within(-300, 300)


class SpecialMount(Record):
    """What was measured for a special mount of one wheel, and how far it is. None means not measured.

    Coordinates are from the axle in the side view from the rotor side: x rearward, y up. ``*_face_mm`` are distances
    from the rotor's middle plane outward, toward the mount.
    """

    upper_x_mm: float | None = Coordinate
    upper_y_mm: float | None = Coordinate
    lower_x_mm: float | None = Coordinate
    lower_y_mm: float | None = Coordinate
    third_x_mm: float | None = Coordinate
    third_y_mm: float | None = Coordinate
    caliper_id: Identifier | None = Field(None, description="the plate is for this one alone")
    rotor_mm: float | None = within(120, 320)
    pitch_mm: float | None = within(20, 160, description="the caliper's bolts, centre to centre")
    line_to_edge_mm: float | None = within(-60, 80, description="line of its bolts out to its pads' outer edge")
    pad_angle_deg: float | None = within(-180, 180, description="axle to pad centre, above the horizontal, rearward")
    mount_face_mm: float | None = within(-20, 120, description="rotor's middle out to the mount's face")
    caliper_face_mm: float | None = within(-20, 120, description="rotor's middle out to the caliper's face")
    material: ThreadMaterial | None = Field(None, description="of the plate")
    thickness_mm: float | None = within(3, 40, description="none: the least stock thickness that carries the sums")
    rim_mm: float | None = within(4, 60, description="centres of the holes to the edge; none: the least that holds")
    mount_bolts: MountBolts = MountBolts.THROUGH_TAB
    mount_thread: Thread = "M6"
    tab_mm: float | None = within(2, 40, description="unthreaded tab under the head")
    boss_depth_mm: float | None = within(4, 60, description="full thread of the boss")
    boss_material: ThreadMaterial | None = None
    caliper_bolts: CaliperBolts = CaliperBolts.THROUGH_EAR
    caliper_thread: Thread = "M8"
    ear_mm: float | None = within(3, 40, description="the caliper's ear under the head, or the thread in it")
    counterbore_mm: float | None = within(0, 20, description="depth for the heads in the plate; none: heads stand free")
    out_mm: float = Field(0.0, ge=-20, le=20, allow_inf_nan=False, description="correction: caliper outward")
    turn_deg: float = Field(
        0.0, ge=-20, le=20, allow_inf_nan=False, description="correction: caliper turned, top outward"
    )
    template: TemplateTried | None = None
    dummy: Tried | None = None
    checked: DummyChecked | None = None
    released: Release | None = None

    def stands_in(self, caliper: Caliper, rotor: Rotor) -> bool:
        """Whether the plate is for this caliper and this rotor."""
        return self.caliper_id == caliper.id and self.rotor_mm == rotor.diameter_mm


class SpecialMounts(Record):
    front: SpecialMount = SpecialMount()
    rear: SpecialMount = SpecialMount()

    def of(self, end: End) -> SpecialMount:
        return self.front if end is End.FRONT else self.rear


NEEDED: tuple[tuple[str, str], ...] = (
    ("upper_x_mm", "upper hole, rearward"),
    ("upper_y_mm", "upper hole, up"),
    ("lower_x_mm", "lower hole, rearward"),
    ("lower_y_mm", "lower hole, up"),
    ("caliper_id", "caliper"),
    ("rotor_mm", "rotor"),
    ("pitch_mm", "pitch of the caliper's bolts"),
    ("line_to_edge_mm", "bolt line to the pads' edge"),
    ("pad_angle_deg", "angle of the pads"),
    ("mount_face_mm", "face of the mount"),
    ("caliper_face_mm", "face of the caliper"),
    ("material", "material of the plate"),
    ("ear_mm", "ear of the caliper"),
)


def lacks_of(m: SpecialMount) -> tuple[tuple[str, str], ...]:
    """What is still to be measured before anything can be computed: field and words."""
    out = [(name, words) for name, words in NEEDED if getattr(m, name) is None]
    if m.mount_bolts is MountBolts.THROUGH_TAB and m.tab_mm is None:
        out.append(("tab_mm", "thickness of the tab"))
    if m.mount_bolts is MountBolts.INTO_BOSS and m.boss_material is None:
        out.append(("boss_material", "material of the boss"))
    if (m.third_x_mm is None) != (m.third_y_mm is None):
        out.append(("third_x_mm" if m.third_x_mm is None else "third_y_mm", "third hole"))
    return tuple(out)


GEOMETRY_FIELDS = tuple(
    name for name in SpecialMount.model_fields if name not in ("template", "dummy", "checked", "released")
)


def geometry_of(m: SpecialMount) -> str:
    """A name for everything that a plate is made from: what was tried or released holds for this geometry alone."""
    text = "|".join(f"{name}={getattr(m, name)}" for name in GEOMETRY_FIELDS)
    return sha256(text.encode()).hexdigest()[:10]
