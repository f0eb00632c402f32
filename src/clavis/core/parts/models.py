"""The parts of a brake as the rules need them: dimensions, limits, what they go together with.

Every part is frozen and validated at construction. A limit that the maker does not state is ``None`` and
stays unknown. Prices are in the workshop's one currency.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from itertools import product
from math import pi
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, model_validator

from clavis.core.parts.compounds import CompoundKey
from clavis.core.parts.figures import FIGURES, Figures
from clavis.core.parts.fluids import FLUID_GRADES, Fluid, FluidGradeKey
from clavis.core.parts.mounts import SAME_SIZE_MM, AdapterKind, BoltStyle, CaliperMount, End, MountKind, ThreadMaterial
from clavis.core.parts.threads import Thread

Millimetres = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]
Grams = Annotated[float, Field(gt=0, le=30000, allow_inf_nan=False)]
Price = Annotated[float, Field(ge=0, le=100000, allow_inf_nan=False)]
RotorDiameter = Annotated[float, Field(ge=120, le=260, allow_inf_nan=False, description="mm")]
Identifier = Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[a-z0-9][a-z0-9~.-]*$")]


class HubInterface(StrEnum):
    SIX_BOLT = "six_bolt"
    SPLINED = "splined"


class Construction(StrEnum):
    """How the rotor is carried; each has its own rotor-to-carrier conductance."""

    ONE_PIECE = "one_piece"
    FLOATING = "floating"
    SANDWICH = "sandwich"
    VANED = "vaned"


class CarrierMaterial(StrEnum):
    """What the arms inside the track are made of."""

    STEEL = "steel"
    ALUMINIUM = "aluminium"


class CablePull(StrEnum):
    SHORT = "short"
    LONG = "long"


class Bar(StrEnum):
    """The handlebar a lever is made for."""

    FLAT = "flat"
    DROP = "drop"


class Axle(StrEnum):
    QUICK_RELEASE = "quick_release"
    MM12 = "mm12"
    MM15 = "mm15"
    MM20 = "mm20"


class Washers(StrEnum):
    """What stands under the heads of a caliper's bolts. Cup-and-cone pairs stand above and below the tab."""

    PLAIN = "plain"
    CUP_CONE = "cup_cone"


class Axis(StrEnum):
    """The four parts that a brake is chosen by; adapter, bolts and what fills the line follow from them."""

    ROTOR = "rotor"
    CALIPER = "caliper"
    LEVER = "lever"
    PAD = "pad"


AXES = tuple(Axis)


class Part(BaseModel):
    """What every catalogue line has."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: Identifier
    maker: str = Field(min_length=1, max_length=40)
    model: str = Field(min_length=1, max_length=60)
    price: Price
    mass_g: Grams
    retired: bool = False
    figures: Figures = Field(Figures.STATED, description="what its figures rest on")

    @property
    def name(self) -> str:
        return f"{self.maker} {self.model}"

    @property
    def offered(self) -> bool:
        """Whether it may be chosen for an order."""
        return not self.retired and FIGURES[self.figures].offered

    # thousands are compared while candidates are laid out: nearly all of them by being one, or by another id
    def __eq__(self, other: object) -> bool:
        return self is other or (isinstance(other, Part) and self.id == other.id and super().__eq__(other))

    def __hash__(self) -> int:
        return hash(self.id)


class Rotor(Part):
    kind: Literal["rotor"] = "rotor"
    diameter_mm: RotorDiameter
    thickness_mm: float = Field(gt=1.0, le=5, allow_inf_nan=False)
    minimum_mm: float | None = Field(None, gt=0.5, le=5, description="as marked; unknown when not marked")
    interface: HubInterface
    construction: Construction
    carrier_material: CarrierMaterial | None = Field(
        None, description="the arms inside the track; steel in one piece, else aluminium, where not stated"
    )
    track_mm: float = Field(14.5, ge=8, le=30, description="height of the braking track")
    resin_only: bool = False
    rivet_out_mm: float = Field(0.0, ge=0, le=6, description="how far rivets stand out of the rotor's face")
    rivet_radius_mm: float | None = Field(
        None, ge=30, le=130, description="axle's middle to the outer edge of the rivets; unknown if not stated"
    )

    @model_validator(mode="after")
    def _minimum_below_new(self) -> "Rotor":
        if self.minimum_mm is not None and self.minimum_mm >= self.thickness_mm:
            raise ValueError("the minimum thickness must be below the thickness when new")
        return self


class Caliper(Part):
    kind: Literal["caliper"] = "caliper"
    mount: CaliperMount
    fluid: Fluid
    bores_mm: tuple[Millimetres, ...] = Field((), max_length=3, description="pistons on ONE side; none for cable")
    pad_shape: str = Field(min_length=1, max_length=12)
    slot_mm: float = Field(gt=1, le=6, description="thickest rotor it takes")
    tab_mm: float = Field(gt=1, le=40, description="thickness of metal under each mounting bolt's head")
    rivet_room_mm: float | None = Field(
        None, ge=0, le=10, description="beside the rotor, inside of the pads; unknown if not stated"
    )
    body_in_mm: float | None = Field(
        None,
        ge=5,
        le=60,
        description="pads' outer edge inward to its lowest metal at the rotor; unknown if not stated",
    )
    moving_pads: Literal[1, 2] = 2
    phenolic: bool = False
    arm_ratio: float | None = Field(None, gt=0.5, le=20, description="cable: clamp force over cable pull")
    pull: CablePull | None = None
    fitting: str = Field("M8", max_length=20)
    washers: Washers = Washers.PLAIN
    washer_pair_mm: float = Field(4.0, gt=0.5, le=12, description="one cup-and-cone pair, where it has them")
    inboard_mm: float | None = Field(None, gt=3, le=60, description="from the rotor's middle to its spoke side")

    @model_validator(mode="after")
    def _one_way_to_clamp(self) -> "Caliper":
        if (self.fluid is Fluid.NONE) == bool(self.bores_mm):
            raise ValueError("a hydraulic caliper lists its piston bores, a cable caliper lists none")
        if (self.fluid is Fluid.NONE) != (self.arm_ratio is not None):
            raise ValueError("a cable caliper has an arm ratio, a hydraulic one has none")
        if (self.fluid is Fluid.NONE) != (self.pull is not None):
            raise ValueError("a cable caliper states short or long pull, a hydraulic one does not")
        return self

    @cached_property
    def piston_area_mm2(self) -> float:
        """Sum of piston areas on one side."""
        return sum(pi * bore**2 / 4 for bore in self.bores_mm)

    @property
    def four_pistons(self) -> bool:
        return len(self.bores_mm) >= 2


class Lever(Part):
    kind: Literal["lever"] = "lever"
    ratio: float = Field(gt=1, le=12, description="at the finger's usual place")
    fluid: Fluid
    bore_mm: float | None = Field(None, gt=4, le=25, description="master piston; none for cable")
    pull: CablePull | None = None
    fitting: str = Field("M8", max_length=20)
    bar: Bar = Bar.FLAT

    @model_validator(mode="after")
    def _one_way_to_pull(self) -> "Lever":
        if (self.fluid is Fluid.NONE) == (self.bore_mm is not None):
            raise ValueError("a hydraulic lever states its master bore, a cable lever none")
        if (self.fluid is Fluid.NONE) != (self.pull is not None):
            raise ValueError("a cable lever states short or long pull, a hydraulic one does not")
        return self

    @property
    def master_area_mm2(self) -> float | None:
        return None if self.bore_mm is None else pi * self.bore_mm**2 / 4


class Pad(Part):
    """One pair of pads."""

    kind: Literal["pad"] = "pad"
    shape: str = Field(min_length=1, max_length=12)
    compound: CompoundKey
    material_mm: float = Field(2.0, gt=0.3, le=6, description="friction material per pad when new")
    height_mm: float = Field(14.0, gt=5, le=40, description="radial height of the friction face")
    area_mm2: float | None = Field(None, gt=50, le=3000, description="one pad; typical for the caliper if not stated")
    finned: bool = False


class AdapterFit(BaseModel):
    """One place an adapter serves: at this end of the bike, for this rotor."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    end: End
    rotor_mm: RotorDiameter


class Adapter(Part):
    """A mount adapter or plate, judged by its from-size and to-size, never by a seller's offset label."""

    kind: Literal["adapter"] = "adapter"
    adapter_kind: AdapterKind
    from_mm: RotorDiameter | None = Field(None, description="native rotor of the mount it sits on; none for IS")
    fits: tuple[AdapterFit, ...] = Field(min_length=1)
    style: BoltStyle
    upper_mm: float = Field(ge=0, le=60, description="height under the upper caliper bolt")
    lower_mm: float = Field(ge=0, le=60, description="height under the lower caliper bolt")
    flange_mm: float = Field(0.0, ge=0, le=40, description="metal under the head of the bolts to the mount")
    thread_depth_mm: float = Field(0.0, ge=0, le=40, description="threaded depth for the caliper's bolts")
    pitch_mm: float | None = Field(None, ge=10, le=200, description="between its holes for the bolts to the mount")
    hole_mm: float | None = Field(None, ge=4, le=12, description="diameter of those holes")
    counterbore_mm: float | None = Field(None, ge=6, le=20, description="diameter of their counterbores; none: flat")
    head_room_mm: float | None = Field(
        None, ge=0.5, le=30, description="depth for the heads of those bolts; none: free"
    )
    around_mm: float = Field(0.0, ge=-60, le=60, description="how far it carries the caliper round the rotor, upward")
    carrier: bool = Field(False, description="made to have the maker's own flip plate on it")
    label: str = Field("", max_length=80, description="what the packet says")

    def sizes_at(self, end: End) -> tuple[float, ...]:
        """Rotor sizes that it serves at one end, mm."""
        return tuple(f.rotor_mm for f in self.fits if f.end is end)

    def serves(self, end: End, rotor_mm: float) -> bool:
        return any(abs(mm - rotor_mm) < SAME_SIZE_MM for mm in self.sizes_at(end))


class Bolt(Part):
    """A stock bolt. Length is under the head."""

    kind: Literal["bolt"] = "bolt"
    thread: Thread
    length_mm: float = Field(ge=6, le=80)
    head: Literal["cap", "low"] = "cap"
    head_height_mm: float = Field(gt=0.5, le=10)
    head_mm: float | None = Field(None, gt=5, le=20, description="diameter of the head; typical where not stated")
    drive: Literal["T25 star", "4 mm hex", "5 mm hex", "6 mm hex"]
    thread_mm: float = Field(gt=3, le=80, description="threaded length from the tip")
    coated: bool = Field(True, description="thread-locking compound already on it")


class WheelPart(Part):
    """A complete wheel whose hub takes a rotor: what a conversion needs where the hub does not."""

    kind: Literal["wheel"] = "wheel"
    end: End
    interface: HubInterface
    rim_mm: int = Field(ge=200, le=700, description="bead seat diameter")


class Hub(Part):
    """An adapter that carries a six-bolt rotor on a splined hub, or a lockring."""

    kind: Literal["hub"] = "hub"
    role: Literal["six_bolt_on_splined", "lockring_internal", "lockring_external"]


class Carrying(Part):
    """What carries the caliper: a fork or a frame, with the limits its maker states."""

    mount: MountKind
    native_mm: RotorDiameter | None = Field(None, description="rotor its mount is made for; none for IS")
    max_rotor_mm: RotorDiameter | None = Field(None, description="as its maker allows; unknown if not stated")
    axle: Axle
    thread_material: ThreadMaterial
    hole_depth_mm: float | None = Field(None, ge=4, le=60, description="full thread depth of its mount")
    tab_mm: float | None = Field(None, ge=2, le=60, description="IS tab or chainstay under the bolt")
    assisted: bool | None = Field(None, description="released for assisted bikes; unknown if not stated")

    @model_validator(mode="after")
    def _native_and_limit(self) -> "Carrying":
        if (self.mount is MountKind.IS) == (self.native_mm is not None):
            raise ValueError("a post or flat mount states its native rotor, an IS mount has none")
        if self.native_mm is not None and self.max_rotor_mm is not None and self.max_rotor_mm < self.native_mm:
            raise ValueError("the largest rotor cannot be below the native one")
        return self


class Fork(Carrying):
    kind: Literal["fork"] = "fork"

    @model_validator(mode="after")
    def _front_mount(self) -> "Fork":
        if self.mount is MountKind.FLAT_REAR:
            raise ValueError("this mount does not occur on a fork")
        return self


class Frame(Carrying):
    kind: Literal["frame"] = "frame"

    @model_validator(mode="after")
    def _rear_mount(self) -> "Frame":
        if self.mount is MountKind.FLAT_FRONT:
            raise ValueError("this mount does not occur on a frame")
        return self


class FluidPart(Part):
    """A bottle of brake fluid. Boiling points are its maker's; a mineral one has no figure for water taken up."""

    kind: Literal["fluid"] = "fluid"
    grade: FluidGradeKey
    dry_c: float | None = Field(None, ge=100, le=400, description="boiling point, fresh; unknown if not stated")
    volume_ml: float = Field(gt=0, le=5000, allow_inf_nan=False)

    @property
    def family(self) -> Fluid:
        return FLUID_GRADES[self.grade].family


class Hose(Part):
    """A hose with its two ends."""

    kind: Literal["hose"] = "hose"
    fluid: Fluid
    lever_fitting: str = Field(min_length=1, max_length=20)
    caliper_fitting: str = Field(min_length=1, max_length=20)
    length_mm: float = Field(ge=200, le=5000, allow_inf_nan=False)

    @model_validator(mode="after")
    def _holds_fluid(self) -> "Hose":
        if self.fluid is Fluid.NONE:
            raise ValueError("a hose holds mineral or DOT fluid")
        return self


class SmallRole(StrEnum):
    """What a small part is for."""

    WASHER = "washer"
    CUP_CONE = "cup_cone"
    """a pair, above and below a tab"""
    OLIVE_SET = "olive_set"
    """olive and insert for one end of a hose"""
    INNER_CABLE = "inner_cable"
    HOUSING = "housing"
    """compressionless, a length for one wheel"""
    FERRULE = "ferrule"
    END_CAP = "end_cap"


class SmallPart(Part):
    """A washer, a ferrule, what a hose end or a cable needs: sold by the piece."""

    kind: Literal["small"] = "small"
    role: SmallRole
    thread: Thread | None = Field(None, description="of washers")
    height_mm: float | None = Field(None, gt=0, le=20, description="of washers; of a pair, both together")

    @model_validator(mode="after")
    def _washers_have_sizes(self) -> "SmallPart":
        sized = self.role in (SmallRole.WASHER, SmallRole.CUP_CONE)
        if sized != (self.thread is not None and self.height_mm is not None):
            raise ValueError("a washer states thread and height, nothing else of these does")
        return self


AnyPart = Annotated[
    Rotor | Caliper | Lever | Pad | Adapter | Bolt | Hub | WheelPart | Fork | Frame | FluidPart | Hose | SmallPart,
    Field(discriminator="kind"),
]
ANY_PART: TypeAdapter[AnyPart] = TypeAdapter(AnyPart)
PARTS: Mapping[str, type[Part]] = {
    "rotor": Rotor, "caliper": Caliper, "lever": Lever, "pad": Pad, "adapter": Adapter, "bolt": Bolt, "hub": Hub,
    "wheel": WheelPart, "fork": Fork, "frame": Frame, "fluid": FluidPart, "hose": Hose, "small": SmallPart,
}  # fmt: skip
"""the model of each kind's lines"""
KIND_NAMES = tuple(PARTS)


def parse_part(data: Mapping[str, Any]) -> AnyPart:
    """One catalogue line from plain data. Raises pydantic.ValidationError that names the field."""
    return ANY_PART.validate_python(data)


@dataclass(frozen=True)
class Brake:
    """The four parts of one wheel's brake; one that is not chosen, or not known, is None."""

    rotor: Rotor | None = None
    caliper: Caliper | None = None
    lever: Lever | None = None
    pad: Pad | None = None

    def with_part(self, axis: Axis, part: Any) -> "Brake":
        """The same brake with another part of one kind."""
        return replace(self, **{axis.value: part})

    def of(self, axis: Axis) -> Rotor | Caliper | Lever | Pad | None:
        found: Rotor | Caliper | Lever | Pad | None = getattr(self, axis)
        return found

    def maker_of(self, axis: Axis) -> str | None:
        part = self.of(axis)
        return None if part is None else part.maker

    def changed_from(self, other: "Brake") -> frozenset[Axis]:
        """The kinds of part in which it is not as another brake."""
        return _DIFFERENT[
            _other(self.rotor, other.rotor), _other(self.caliper, other.caliper), _other(self.lever, other.lever),
            _other(self.pad, other.pad),
        ]  # fmt: skip


def _other(mine: Part | None, theirs: Part | None) -> bool:
    """Whether two parts differ; asked thousands of times, so what costs least is asked first."""
    if mine is theirs:
        return False
    return mine is None or theirs is None or mine.id != theirs.id or mine != theirs


_DIFFERENT: dict[tuple[bool, ...], frozenset[Axis]] = {
    which: frozenset(axis for axis, differs in zip(AXES, which, strict=True) if differs)
    for which in product((False, True), repeat=len(AXES))
}
