"""The job: everything that was entered about one bike on the bench. Frozen; None means not entered.

Fields are named with their unit and carry their range; the job file (docs/formats.md) is this model as JSON.
"""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, model_validator

from clavis.core.dates import Day
from clavis.core.errors import ProfileError
from clavis.core.job.pick import Pick
from clavis.core.job.special_mount import SpecialMounts
from clavis.core.job.trials import (
    MOST_HEAT_SETS,
    MOST_LOGS,
    MOST_TRIALS,
    Calibrated,
    HeatSet,
    RideLog,
    Trial,
    TrialSide,
    without_duplicates,
)
from clavis.core.job.wheel import Wheel
from clavis.core.parameters import ModelParameters
from clavis.core.parts.models import Axis, Bar, Identifier
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import BikeKind, Surface, Tread
from clavis.core.physics.descent import Style
from clavis.core.physics.road import SHORTEST_M, Section, Smoothing
from clavis.core.records import ItemId, Record, Tick, within
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Thresholds


class Skill(StrEnum):
    NOVICE = "novice"
    PRACTISED = "practised"
    EXPERT = "expert"


class HandSize(StrEnum):
    USUAL = "usual"
    SMALL = "small"


class ShareBy(StrEnum):
    """What parts the braking between the wheels while riding."""

    RIDER = "rider"
    AXLE_LOAD = "axle_load"


class Use(StrEnum):
    CITY = "city"
    TOURING = "touring"
    ROAD = "road"
    GRAVEL = "gravel"
    CROSS_COUNTRY = "cross_country"
    TRAIL = "trail"
    ENDURO = "enduro"
    DOWNHILL = "downhill"
    CARGO = "cargo"
    TANDEM = "tandem"


class Complaint(StrEnum):
    WEAK = "weak"
    FADES = "fades"
    LONG_LEVER = "long_lever"
    TO_THE_BAR = "to_the_bar"
    ARM_PUMP = "arm_pump"
    GRABS = "grabs"
    WET_NOISE = "wet_noise"
    HOWLS = "howls"
    PULSES = "pulses"
    DRAGS = "drags"
    RUBS = "rubs"
    WEARS_PADS = "wears_pads"
    DISCOLOURED = "discoloured"
    BENT = "bent"
    CONVERSION = "conversion"


class Wish(StrEnum):
    """What matters to this rider besides the stopping."""

    LIGHT = "light"
    QUIET = "quiet"
    WET_DAYS = "wet_days"
    KEEP_PARTS = "keep_parts"
    LOOKS = "looks"


class Reply(StrEnum):
    """An answer in the complaint guide. *Not known* is an answer too: it is not asked again at once."""

    YES = "yes"
    NO = "no"
    NOT_KNOWN = "not_known"


class School(StrEnum):
    """On what a ranking rests."""

    LEAN = "lean"
    COOL = "cool"
    LIGHT_HAND = "light_hand"
    THRIFT = "thrift"
    QUIET = "quiet"


class Rider(Record):
    name: str = Field("", max_length=60)
    mass_kg: float | None = within(20, 250)
    kit_mass_kg: float | None = within(0, 60, description="clothing and pack")
    fingers: Literal[1, 2] = 1
    hands: HandSize = HandSize.USUAL
    skill: Skill = Skill.PRACTISED
    style: Style = Style.DRAG
    share_by: ShareBy = ShareBy.RIDER
    front_share_pct: float | None = within(0, 100, description="of the braking, riding")


TyreSize = Annotated[str, Field(pattern=r"^(\d{2,3}-\d{3})?$", description="width and bead seat in mm: 47-622")]


class Bike(Record):
    """None takes the default of the kind."""

    kind: BikeKind | None = None
    use: Use | None = None
    mass_kg: float | None = within(4, 200)
    wheelbase_m: float | None = within(0.6, 3.2)
    rear_to_cg_m: float | None = within(0.1, 2.5, description="centre of gravity ahead of the rear contact")
    cg_height_m: float | None = within(0.3, 1.8)
    drag_area_m2: float | None = within(0.1, 2.5)
    rolling_ratio: float | None = within(0.002, 0.05)
    wheel_radius_mm: float | None = within(150, 420, description="loaded rolling radius")
    tyre_size: TyreSize = ""
    tread: Tread = Tread.MIXED
    bar: Bar | None = Field(None, description="none: as the lever that is on it says")
    assisted: bool = False
    cutoff_switches: bool = Field(False, description="motor cut-off switches in the levers")
    top_speed_kmh: float | None = within(5, 120, description="as it really is")
    rated_speed_kmh: float | None = within(5, 120, description="up to which the motor may help, as marked")
    regen_end: End | None = None
    regen_share_pct: float | None = within(0, 100)
    regen_limit_w: float | None = within(0, 5000)
    third_brake_share_pct: float | None = within(0, 100, description="drag brake of a tandem or trailer")


class Load(Record):
    """Each load has its own place: passengers and luggage may shift the centre of gravity."""

    luggage_kg: float | None = within(0, 150)
    luggage_ahead_m: float | None = within(-0.6, 2.5)
    luggage_height_m: float | None = within(0.05, 1.8)
    passengers_kg: float | None = within(0, 250)
    passengers_ahead_m: float | None = within(-0.6, 2.5)
    passengers_height_m: float | None = within(0.1, 1.8)
    trailer_kg: float | None = within(0, 200, description="unbraked")


class Conditions(Record):
    surface: Surface = Surface.DRY_ASPHALT
    rain: bool = Field(False, description="pads and rotors wet, whatever the ground")
    ambient_c: float = Field(20.0, ge=-25, le=50, allow_inf_nan=False)
    head_wind_kmh: float = Field(0.0, ge=-60, le=90, allow_inf_nan=False)


class Wishes(Record):
    school: School = School.COOL
    budget_price: float | None = within(0, 20000)
    wants: tuple[Wish, ...] = Field((), max_length=len(Wish))
    note: str = Field("", max_length=2000)


class Proposal(Record):
    """``bedded`` False judges what is new as it leaves the workshop, before any bedding in."""

    front: Pick = Pick()
    rear: Pick = Pick()
    bedded: bool = True

    def of(self, end: End) -> Pick:
        return self.front if end is End.FRONT else self.rear


MOST_PINS = 4


class Pin(Record):
    """A setup of the whole bike kept for comparison; None keeps what is fitted."""

    id: ItemId
    name: str = Field(min_length=1, max_length=80)
    front: Pick = Pick()
    rear: Pick = Pick()

    def of(self, end: End) -> Pick:
        return self.front if end is End.FRONT else self.rear


class SpeedFrom(StrEnum):
    PLANNED = "planned"
    RECORDED = "recorded"


RideId = ItemId
TrackId = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


Metres = Annotated[float, Field(ge=0, le=2_000_000, allow_inf_nan=False)]


class Mended(Record):
    """What was found wrong in a recording and what was done about it; ``places_m`` are stretches along the track."""

    words: str = Field(min_length=1, max_length=300, description="what was done, with a place for each of its values")
    values: dict[Annotated[str, Field(pattern=r"^[a-z_0-9]{1,20}$")], float | int] = Field(
        default_factory=dict, max_length=6, description="by the names of their places, which end with their units"
    )
    places_m: tuple[tuple[Metres, Metres], ...] = Field((), max_length=100)

    @model_validator(mode="after")
    def _can_be_told(self) -> "Mended":
        try:
            str(self.said)
        except (KeyError, ValueError, IndexError) as error:
            raise ValueError("the words do not go with their values") from error
        return self

    @property
    def said(self) -> Words:
        """The words with their values; without values they are plain."""
        return say(self.words, **self.values) if self.values else self.words


class Grit(StrEnum):
    """Wet grit that gets between pads and rotor."""

    NONE = "none"
    SOME = "some"
    MUCH = "much"


class Ride(Record):
    """One ride as a braking load: typed sections, or a track kept under its checksum."""

    id: RideId
    name: str = Field(min_length=1, max_length=80)
    sections: tuple[Section, ...] = Field((), max_length=200)
    track_id: TrackId | None = None
    from_m: float | None = within(0, 1_000_000, description="first metre of the track that is ridden; none: its start")
    to_m: float | None = within(0, 1_000_000, description="last metre; none: its end")
    laps: int = Field(1, ge=1, le=200)
    rest_min: float = Field(0.0, ge=0, le=240, allow_inf_nan=False, description="between laps: lift, loading, waiting")
    speed_from: SpeedFrom = SpeedFrom.PLANNED
    hold_kmh: float = Field(30.0, ge=3, le=120, allow_inf_nan=False)
    smoothing_m: float = Field(40.0, ge=0, le=500, allow_inf_nan=False, description="of heights")
    height_known_m: float = Field(0.5, ge=0, le=5, allow_inf_nan=False, description="plus or minus")
    speed_smoothing_s: float = Field(5.0, ge=0, le=60, allow_inf_nan=False)
    start_elevation_m: float = Field(800.0, ge=-400, le=6000, allow_inf_nan=False)
    times_a_year: float = Field(20.0, ge=0, le=1000, allow_inf_nan=False)
    grit: Grit = Field(Grit.NONE, description="wet grit on the way: wears pads faster, whatever the surface")
    mended: tuple[Mended, ...] = Field((), max_length=40)

    @property
    def smoothing(self) -> Smoothing:
        return Smoothing(self.smoothing_m, self.height_known_m, self.speed_smoothing_s)

    @model_validator(mode="after")
    def _one_source(self) -> "Ride":
        if bool(self.sections) == (self.track_id is not None):
            raise ValueError("a ride is either typed sections or a track")
        if self.from_m is not None and self.to_m is not None and self.to_m - self.from_m < SHORTEST_M:
            raise ProfileError(say("the stretch of the track must be at least {least_m:g} long", least_m=SHORTEST_M))
        return self


Digest = Annotated[str, Field(pattern=r"^([0-9a-f]{16})?$")]


class StepTick(Tick):
    """A step that was done, or ``skipped`` for a reason; ``work`` is the work it belongs to: with other parts it has to
    be done again."""

    work: str = Field("", max_length=40)
    skipped: str = Field("", max_length=300)


SHORTEST_REASON = 8


class TorqueFrom(StrEnum):
    """Where a part's own torque was read."""

    MARKING = "marking"
    SHEET = "sheet"


TORQUE_RANGE_NM = (0.5, 80.0)


class MarkedTorque(Tick):
    """What a fastener is tightened to, as its part or its maker's sheet says: it overrides every usual figure."""

    torque_nm: float = Field(ge=TORQUE_RANGE_NM[0], le=TORQUE_RANGE_NM[1], allow_inf_nan=False)
    source: TorqueFrom = TorqueFrom.MARKING


class Acceptance(Tick):
    """A quote that the customer has accepted: ``who`` it was, and the work and price that it is for."""

    work: Digest = ""
    price: float = Field(0.0, ge=0, le=1_000_000, allow_inf_nan=False)


class BikeHeld(StrEnum):
    """How the bike stands while it is worked on."""

    STAND = "stand"
    INVERTED = "inverted"


MOST_EVIDENCE = 300


class Clearance(Tick):
    """An open point that a named person answers for, with a reason. It holds while the evidence reads as it did
    then."""

    evidence: str = Field(min_length=1, max_length=MOST_EVIDENCE)
    reason: str = Field(min_length=SHORTEST_REASON, max_length=300)


Ticks = Annotated[dict[Annotated[str, Field(max_length=60)], StepTick], Field(max_length=400)]
Clearances = Annotated[dict[Annotated[str, Field(max_length=60)], Clearance], Field(max_length=100)]


class SignOff(Tick):
    """The release of an order by a named person, and all that it rests on: a digest of the job and of every part of
    the catalogue that it uses, the work that was done, its ticks, and what was answered for. It stands for that and
    for nothing else."""

    rests_on: Digest = Field("", description="empty: signed before Clavis kept what it rests on; it stands for nothing")
    parts: dict[Identifier, Digest] = Field(default_factory=dict, max_length=200)
    done: tuple[Annotated[str, Field(max_length=200)], ...] = Field((), max_length=100, description="the order's lines")
    ticks: Ticks = Field(default_factory=dict)
    answered: Clearances = Field(default_factory=dict)


class VoidedSignOff(Tick):
    """A sign-off that stands no more: by whose change, of which place, from what to what."""

    signed: SignOff
    path: str = Field(max_length=120)
    before: str = Field("", max_length=200)
    after: str = Field("", max_length=200)


MOST_VOIDED = 50


class StayState(StrEnum):
    """Where a bike stands in the workshop, in the order in which it goes through it."""

    BOOKED = "booked"
    ON_THE_BENCH = "on_the_bench"
    WAITS_FOR_PARTS = "waits_for_parts"
    READY = "ready"
    HANDED_OVER = "handed_over"
    ARCHIVED = "archived"
    TEMPLATE = "template"
    """no bike of its own: what new jobs about a kind of bike begin with"""


HERE = (StayState.BOOKED, StayState.ON_THE_BENCH, StayState.WAITS_FOR_PARTS, StayState.READY)
"""states of a job that is still to be done"""


class Stay(Record):
    """A bike's stay in the workshop."""

    state: StayState = StayState.ON_THE_BENCH
    promised_on: Day | None = Field(None, description="the day on which it is to be ready")
    mechanic: str = Field("", max_length=40)
    odometer_km: float | None = within(0, 500_000, description="as it came in")


class Keeps(Record):
    """Parts on the bike that shall stay, wheel by wheel."""

    front: tuple[Axis, ...] = Field((), max_length=len(Axis))
    rear: tuple[Axis, ...] = Field((), max_length=len(Axis))

    def of(self, end: End) -> tuple[Axis, ...]:
        return self.front if end is End.FRONT else self.rear


BESIDE_THE_SETUP = frozenset(
    {
        "title", "complaints", "complaint_words", "complaint_end", "replies", "wishes", "pins", "keeps", "ticks",
        "cleared", "signed_off", "signed_before", "typed", "held", "marked", "accepted", "trials", "heat_sets", "logs",
        "stay",
    }
)  # fmt: skip
"""fields of a job that change nothing of its parts, readings, rider or ride"""
BESIDE_THE_PARTS = frozenset({"rider", "load", "rides", "decisive_ride", "wishes"})
"""of the others those that do not bear on which parts can be fitted"""
OF_ACTS = frozenset(
    {
        "signed_off", "signed_before", "ticks", "cleared", "accepted", "calibration", "typed", "released", "template",
        "dummy", "checked", "who", "at", "geometry", "rests_on", "work", "read_by", "since",
    }
)  # fmt: skip
"""names of what somebody does and answers for: each is kept by an act of its own, and none is typed into a field"""
OF_THE_PROGRAM = frozenset({"id", "seed", "parameters", "data_id", "track_id"})
"""names of what is given by the program when a record is made, or learnt: the answers rest on it"""
OF_THEIR_RECORDS = frozenset({"question", "kind", "a", "b", "setup", "runs", "readings", "marks", "mended"})
"""names, in a record with a name of its own, of what makes it that one: with others it is another"""
WITH_NAMES = frozenset({"rides", "pins", "trials", "heat_sets", "logs"})
"""lists of records with names of their own"""


def is_typed(path: str) -> bool:
    """Whether a place of a job is one that somebody types into a field; an act and a record are made.

    >>> [is_typed(p) for p in ("bike.kind", "trials.t1.kind", "trials.t1.blocks", "cleared.x.who", "parameters.seed")]
    [True, False, True, False, False]
    """
    names = path.split(".")
    made = OF_ACTS | OF_THE_PROGRAM
    if names[0] in WITH_NAMES:  # of a run or a reading its figures are typed
        made |= frozenset({"a", "b", "setup"}) | (OF_THEIR_RECORDS & {names[-1]})
    return not set(names) & made


PART_FIELDS_OF_WHEEL = ("rotor_id", "caliper_id", "lever_id", "pad_id", "adapter_id", "carrying_id", "fluid_id")


class Job(Record):
    """One job. ``seed`` feeds every random draw, so that answers repeat."""

    title: str = Field("", max_length=80)
    stay: Stay = Stay()
    rider: Rider = Rider()
    bike: Bike = Bike()
    load: Load = Load()
    conditions: Conditions = Conditions()
    complaints: tuple[Complaint, ...] = Field((), max_length=len(Complaint))
    complaint_words: str = Field("", max_length=500)
    complaint_end: End | None = Field(None, description="the wheel complained of; none: both, or not said")
    replies: dict[Annotated[str, Field(max_length=40)], Reply] = Field(default_factory=dict, max_length=100)
    wishes: Wishes = Wishes()
    front: Wheel = Wheel()
    rear: Wheel = Wheel()
    rides: tuple[Ride, ...] = Field((), max_length=40)
    decisive_ride: RideId | None = None
    proposal: Proposal = Proposal()
    keeps: Keeps = Keeps()
    pins: tuple[Pin, ...] = Field((), max_length=MOST_PINS)
    special: SpecialMounts = SpecialMounts()
    target_decel_g: float | None = within(0.05, 1.2)
    thresholds: Thresholds = Thresholds()
    parameters: ModelParameters = ModelParameters()
    seed: int = Field(1, ge=0, le=2**31 - 1)
    typed: dict[Annotated[str, Field(max_length=120)], Annotated[str, Field(max_length=40)]] = Field(
        default_factory=dict,
        max_length=400,
        description="how a value was typed, by its field, where it is shown so",
    )
    trials: tuple[Trial, ...] = Field((), max_length=MOST_TRIALS)
    heat_sets: tuple[HeatSet, ...] = Field((), max_length=MOST_HEAT_SETS)
    logs: tuple[RideLog, ...] = Field((), max_length=MOST_LOGS)
    calibration: Calibrated | None = None
    accepted: Acceptance | None = None
    held: BikeHeld = BikeHeld.STAND
    marked: dict[Annotated[str, Field(max_length=60)], MarkedTorque] = Field(
        default_factory=dict, max_length=100, description="the parts' own torques, by the fastener of the order"
    )
    ticks: Ticks = Field(default_factory=dict)
    cleared: Clearances = Field(default_factory=dict)
    signed_off: SignOff | None = None
    signed_before: tuple[VoidedSignOff, ...] = Field((), max_length=MOST_VOIDED)

    @model_validator(mode="after")
    def _decisive_exists(self) -> "Job":
        without_duplicates(self.rides, "rides")
        for items, what in ((self.trials, "trials"), (self.heat_sets, "sets of readings"), (self.logs, "logged rides")):
            without_duplicates(items, what)
        for trial in self.trials:
            without_duplicates(trial.runs, "runs")
        if self.decisive_ride is not None and self.decisive_ride not in {ride.id for ride in self.rides}:
            raise ValueError("the decisive ride is not among the rides")
        return self

    def wheel(self, end: End) -> Wheel:
        return self.front if end is End.FRONT else self.rear

    @property
    def learnt(self) -> Calibrated | None:
        """The calibration that the figures rest on: one that was accepted here."""
        return self.calibration if self.calibration is not None and self.calibration.given_here else None

    @property
    def proposes(self) -> bool:
        """Something is to be changed, made new or done on a wheel."""
        return (self.proposal.front, self.proposal.rear) != (Pick(), Pick())

    @property
    def ride(self) -> Ride | None:
        """The decisive ride, or the first."""
        return next((r for r in self.rides if r.id == self.decisive_ride), self.rides[0] if self.rides else None)

    def part_ids(self) -> set[str]:
        """Every part the job uses, fitted or proposed."""
        wheels = (self.front, self.rear)
        used = {getattr(w, f) for w in wheels for f in PART_FIELDS_OF_WHEEL}
        sides = [side for trial in self.trials for side in (trial.a, trial.b)]
        sides += [heat_set.setup for heat_set in self.heat_sets] + [log.setup for log in self.logs]
        setups: tuple[Proposal | Pin | TrialSide, ...] = (self.proposal, *self.pins, *sides)
        picks = [pick for setup in setups for pick in (setup.front, setup.rear)]
        used |= {v for pick in picks for v in (*pick.part_ids.values(), pick.adapter_id, pick.wheel_id)}
        used |= {self.special.front.caliper_id, self.special.rear.caliper_id}
        return {part for part in used if part}
