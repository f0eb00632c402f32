"""What was measured and seen on one wheel. Nothing here is assumed: None, or *not checked*, is a state of its own."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from clavis.core.job.renewal import Renewal
from clavis.core.parts.compounds import CompoundKey
from clavis.core.parts.fluids import FluidGradeKey
from clavis.core.parts.models import Axle, HubInterface, Identifier
from clavis.core.parts.mounts import BoltDirection, MountKind, SpacingTool, ThreadMaterial
from clavis.core.physics.bike import Tread, TreadLeft
from clavis.core.physics.friction import PadState
from clavis.core.records import Record, within


class Presence(StrEnum):
    """Whether something is there at all: a disc mount, a seat for a rotor."""

    THERE = "there"
    MISSING = "missing"


class FittedBrake(StrEnum):
    """What stops the wheel today."""

    DISC = "disc"
    RIM = "rim"
    OTHER = "other"


class LimitSource(StrEnum):
    """Where the largest rotor allowed comes from, or why there is none."""

    MARKED = "marked"
    DOCUMENT = "document"
    MAKER_ANSWER = "maker_answer"
    REFUSED = "refused"


class Seen(StrEnum):
    """Whether something was looked for, and found."""

    NOT_CHECKED = "not_checked"
    NO = "no"
    YES = "yes"


class Instrument(StrEnum):
    """What a thickness was read with. A vernier bridges the worn hollow: it may condemn, never pass."""

    MICROMETER = "micrometer"
    VERNIER = "vernier"


class RotorFace(StrEnum):
    NOT_CHECKED = "not_checked"
    CLEAN = "clean"
    DIRTY = "dirty"
    OILED = "oiled"


class RotorColour(StrEnum):
    """Temper colours of stainless steel, a witness of how hot the rotor has been."""

    NOT_CHECKED = "not_checked"
    BRIGHT = "bright"
    STRAW = "straw"
    BROWN = "brown"
    PURPLE = "purple"
    BLUE = "blue"


class PistonState(StrEnum):
    NOT_CHECKED = "not_checked"
    EVEN = "even"
    LAZY = "lazy"
    STUCK = "stuck"


class LineState(StrEnum):
    """Seals and hose of a hydraulic line, housing and cable of the other."""

    NOT_CHECKED = "not_checked"
    GOOD = "good"
    WORN = "worn"
    LEAKING = "leaking"


class LineRuns(StrEnum):
    """Where hose or housing runs."""

    OUTSIDE = "outside"
    INSIDE = "inside"


class LeverFeel(StrEnum):
    """How the lever feels before anything is changed. Spongy means air in the line."""

    NOT_CHECKED = "not_checked"
    FIRM = "firm"
    SPONGY = "spongy"
    LONG = "long"
    PUMPS_UP = "pumps_up"


RotorReading = Annotated[float, Field(ge=0.3, le=6, allow_inf_nan=False)]
ROTOR_POINTS = 6
"""readings a rotor needs before its thickness can pass"""
MOST_ROTOR_POINTS = 12


class Fitted(Record):
    """Something that came new by an order that was signed off: which part, and on which day."""

    part_id: Identifier | None = None
    day: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")


class TrialFit(Record):
    """What was seen with the parts held in place, and with which parts: with others it says nothing."""

    rotor_id: Identifier
    caliper_id: Identifier
    adapter_id: Identifier | None = None
    arc: bool | None = Field(None, description="the pads follow the track")
    rivets: bool | None = Field(None, description="the rivets pass free of caliper and pads")


class Wheel(Record):
    """One wheel as it stands on the stand."""

    # mount
    fitted_brake: FittedBrake | None = None
    mount_there: Presence | None = None
    mount_named: MountKind | None = Field(None, description="by its picture; measuring proves it")
    mount_spacing_mm: float | None = within(10, 200)
    spacing_tool: SpacingTool | None = None
    bolt_direction: BoltDirection | None = None
    native_rotor_mm: float | None = within(120, 230)
    max_rotor_mm: float | None = within(120, 260, description="as the maker of fork or frame allows")
    limit_source: LimitSource | None = None
    carrying_id: Identifier | None = Field(None, description="fork or frame, where the catalogue has it")
    adapter_id: Identifier | None = None
    no_adapter: bool = False
    thread_material: ThreadMaterial | None = None
    hole_depth_mm: float | None = within(4, 60, description="full thread depth of the mount")
    lower_depth_mm: float | None = within(4, 60, description="of the lower hole; none: as the upper")
    tab_mm: float | None = within(2, 60, description="IS tab or chainstay under the bolt")
    lower_tab_mm: float | None = within(2, 60, description="at the lower bolt; none: as at the upper")
    upper_hole_mm: float | None = within(20, 250, description="axle's centre to the middle of the upper hole's mouth")
    lower_hole_mm: float | None = within(20, 250, description="axle's centre to the middle of the lower hole's mouth")
    upper_bolt_mm: float | None = within(6, 80, description="length under the head of the bolt that is on it")
    lower_bolt_mm: float | None = within(6, 80, description="length under the head of the bolt that is on it")
    edge_radius_mm: float | None = within(60, 200, description="axle to the nearest metal beside the rotor")
    spoke_gap_mm: float | None = within(0, 60, description="caliper to the nearest spoke, wheel turned once round")
    hose_slack_mm: float | None = within(0, 300, description="what the caliper can be drawn outward, bar turned fully")
    # hub
    hub_there: Presence | None = None
    hub: HubInterface | None = None
    axle: Axle | None = None
    hub_play: Seen = Seen.NOT_CHECKED
    tyre_tread: Tread | None = Field(None, description="none: as the bike's")
    tyre_left: TreadLeft | None = None
    # rotor
    rotor_id: Identifier | None = None
    rotor_points_mm: tuple[RotorReading, ...] = Field((), max_length=MOST_ROTOR_POINTS)
    rotor_instrument: Instrument = Instrument.MICROMETER
    rotor_minimum_mm: float | None = within(0.5, 5, description="least thickness, as marked on this rotor")
    rotor_runout_mm: float | None = within(0, 5)
    rotor_lip_mm: float | None = within(0, 2, description="step at the outer edge of the track")
    rotor_cracks: Seen = Seen.NOT_CHECKED
    rotor_grooves: Seen = Seen.NOT_CHECKED
    rotor_face: RotorFace = RotorFace.NOT_CHECKED
    rotor_colour: RotorColour = RotorColour.NOT_CHECKED
    film_compound: CompoundKey | None = Field(None, description="ran on this rotor before; none: the same as now")
    # pads
    pad_id: Identifier | None = None
    pad_inner_mm: float | None = within(0, 8, description="friction material left, thinnest place")
    pad_outer_mm: float | None = within(0, 8, description="friction material left, thinnest place")
    pad_taper_mm: float | None = within(0, 4, description="thickest less thinnest place of one pad")
    pad_state: PadState = PadState.NOT_CHECKED
    # caliper
    caliper_id: Identifier | None = None
    pistons: PistonState = PistonState.NOT_CHECKED
    bore_read_mm: float | None = within(5, 40, description="largest piston, measured")
    slot_read_mm: float | None = within(1, 8, description="measured")
    caliper_centred: Seen = Seen.NOT_CHECKED
    line_state: LineState = LineState.NOT_CHECKED
    line_runs: LineRuns | None = Field(None, description="outside, or through frame or fork; none: not noted")
    # lever and line
    lever_id: Identifier | None = None
    lever_feel: LeverFeel = LeverFeel.NOT_CHECKED
    lever_reach_mm: float | None = within(15, 130, description="bar to blade, at rest")
    lever_bite_mm: float | None = within(0, 120, description="bar to blade, where the pads bite")
    fluid_id: Identifier | None = Field(None, description="what is in the line, where the catalogue has it")
    fluid_grade: FluidGradeKey | None = None
    fluid_age_y: float | None = within(0, 30)
    fluid_boils_c: float | None = within(80, 400, description="mineral fluid: the maker's figure")
    water_seen: bool = False
    trial: TrialFit | None = None
    # where readings came from that no hand typed
    read_by: dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=80)]] = Field(
        default_factory=dict, max_length=40
    )
    # what came new by an order
    since: dict[Renewal, Fitted] = Field(default_factory=dict, max_length=len(Renewal))

    def came_new(self, what: Renewal) -> Fitted | None:
        """When the part that is on it came new, by an order; None where nobody says so, or another is on it now."""
        fitted = self.since.get(what)
        if fitted is None or (what.axis and fitted.part_id != getattr(self, f"{what.value}_id")):
            return None
        return fitted

    def read_by_with(self, field: str, source: str = "") -> dict[str, str]:
        """``read_by`` once a field was read from a ``source``, or typed by hand."""
        return {name: told for name, told in self.read_by.items() if name != field} | (
            {field: source} if source else {}
        )

    @property
    def rotor_thinnest_mm(self) -> float | None:
        """The thinnest reading counts; None where nothing was read."""
        return min(self.rotor_points_mm, default=None)

    @property
    def rotor_variation_mm(self) -> float | None:
        """Thickest less thinnest reading; None below two readings."""
        points = self.rotor_points_mm
        return max(points) - min(points) if len(points) > 1 else None

    @property
    def pad_material_mm(self) -> float | None:
        """The thinner of the two pads, of those that were measured."""
        return min((mm for mm in (self.pad_inner_mm, self.pad_outer_mm) if mm is not None), default=None)

    @property
    def pads_measured(self) -> bool:
        return self.pad_inner_mm is not None and self.pad_outer_mm is not None
