"""What was planned and recorded on the road: trials with their runs, timed temperatures, logged rides, and the
calibration that was accepted from them. Nothing here is computed; what it says is told in ``core.proving``."""

from enum import StrEnum
from typing import Annotated, Any, Self

from pydantic import Field, model_validator

from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Surface
from clavis.core.physics.infrared import SurfaceKey
from clavis.core.records import ItemId, Record, Tick, within

MOST_TRIALS, MOST_RUNS, MOST_MARKS = 20, 400, 6
MOST_SPOTS = 12
MOST_HEAT_SETS, MOST_TIMED = 20, 120
MOST_LOGS = 12


class Question(StrEnum):
    """What a trial asks of B against A."""

    STOPS_SHORTER = "stops_shorter"
    RUNS_COOLER = "runs_cooler"
    COOLS_FASTER = "cools_faster"
    LESS_HAND = "less_hand"
    GOES_QUICKER = "goes_quicker"


class TrialKind(StrEnum):
    """What is ridden in one run."""

    STOP = "stop"
    DRAG_DESCENT = "drag_descent"
    FREE_DESCENT = "free_descent"
    COOLING = "cooling"


class Side(StrEnum):
    A = "A"
    B = "B"


class OrderOfRuns(StrEnum):
    """How the runs follow each other. One setup first and then the other is no order at all."""

    BALANCED = "balanced"
    RANDOMISED = "randomised"


class SetupFrom(StrEnum):
    """Where a side's parts are told: what is on the bike, or a setup that was proposed or pinned."""

    FITTED = "fitted"
    PICKED = "picked"


class TrialSide(Record):
    """One of the two setups, as it was when the trial was planned: a later proposal does not change it."""

    name: str = Field(min_length=1, max_length=80)
    source: SetupFrom = SetupFrom.FITTED
    front: Pick = Pick()
    rear: Pick = Pick()

    @property
    def picks(self) -> dict[End, Pick | None]:
        """What is picked for each wheel; None for the brake that is on it."""
        fitted = self.source is SetupFrom.FITTED
        return {end: None if fitted else pick for end, pick in ((End.FRONT, self.front), (End.REAR, self.rear))}


class RunFrom(StrEnum):
    """What a run's figure was taken with."""

    KEYBOARD = "keyboard"
    THERMOMETER = "thermometer"
    TAPE = "tape"
    STOPWATCH = "stopwatch"
    FORCE = "force"
    LOGGER = "logger"


Spots = Annotated[
    tuple[Annotated[float, Field(ge=-40, le=1200, allow_inf_nan=False)], ...], Field(max_length=MOST_SPOTS)
]
Seconds = Annotated[float, Field(gt=0, le=36_000, allow_inf_nan=False)]
Reason = Annotated[str, Field(max_length=200)]


class TrialRun(Tick):
    """One run, in its place of the order. A run that was disturbed stays, with the reason why it is ``left_out``; its
    place is then ridden again."""

    id: ItemId
    place: int = Field(ge=0, lt=MOST_RUNS, description="of the order, from 0")
    side: Side
    distance_m: float | None = within(0.2, 400, "from the line to the standing front wheel")
    spots_c: Spots = Field((), description="as the thermometer showed, one for each spot")
    cool_s: float | None = within(0.5, 36_000)
    finger_n: float | None = within(1, 500)
    time_s: float | None = within(1, 36_000)
    mark_s: tuple[Seconds | None, ...] = Field((), max_length=MOST_MARKS, description="when each mark was passed")
    speed_kmh: float | None = within(3, 120, "at the line")
    after_s: float | None = within(0, 3600, "from the stop to the reading")
    start_c: float | None = within(-40, 900, "rotor before the run, as shown")
    air_c: float | None = within(-25, 50)
    tyre_bar: float | None = within(0.3, 12)
    wet: bool = Field(False, description="ground wet")
    source: RunFrom = RunFrom.KEYBOARD
    left_out: Reason = Field("", description="why it is not counted")


Attended = Annotated[dict[Annotated[str, Field(max_length=40)], Tick], Field(max_length=40)]
MarkName = Annotated[str, Field(min_length=1, max_length=40)]


class Trial(Record):
    """A question about two setups, how it is tested, and the runs. ``matters`` and ``spread`` are in the unit in which
    the question is measured; None takes the usual spread of such runs."""

    id: ItemId
    name: str = Field(min_length=1, max_length=80)
    question: Question
    kind: TrialKind
    a: TrialSide
    b: TrialSide
    end: End | None = Field(None, description="the wheel that is read; none: the whole bike")
    matters: float = Field(gt=0, le=10_000, allow_inf_nan=False, description="smallest difference that matters")
    spread: float | None = within(0.001, 10_000, "of one run to the next, standard deviation")
    speed_kmh: float = Field(25.0, ge=5, le=90, allow_inf_nan=False)
    surface: Surface | None = Field(None, description="none: the job's ground")
    gradient_pct: float = Field(
        0.0, ge=0, le=30, allow_inf_nan=False, description="of the place of the stops, downhill"
    )
    ride_id: ItemId | None = Field(None, description="the descent; none: the decisive ride")
    from_c: float = Field(120.0, ge=40, le=500, allow_inf_nan=False, description="rotor at which the clock starts")
    to_c: float = Field(60.0, ge=25, le=400, allow_inf_nan=False, description="rotor at which it stops")
    after_s: float = Field(
        20.0, ge=0, le=600, allow_inf_nan=False, description="from the stop to the reading, always the same"
    )
    read_on: SurfaceKey = Field("paint", description="what the thermometer looks at")
    set_to_ratio: float = Field(0.95, ge=0.1, le=1, allow_inf_nan=False, description="emissivity it is set to")
    order: OrderOfRuns = OrderOfRuns.BALANCED
    blocks: int = Field(6, ge=2, le=100, description="of four runs, two with each setup")
    seed: int = Field(1, ge=0, le=2**31 - 1, description="of the lot that draws the order")
    marks: tuple[MarkName, ...] = Field((), max_length=MOST_MARKS, description="along the descent, in their order")
    attended: Attended = Field(default_factory=dict)
    runs: tuple[TrialRun, ...] = Field((), max_length=MOST_RUNS)

    @model_validator(mode="after")
    def _cools_down(self) -> Self:
        if self.kind is TrialKind.COOLING and self.to_c >= self.from_c:
            raise ValueError("the clock must stop at a cooler rotor than it starts at")
        return self

    def of(self, side: Side) -> TrialSide:
        return self.a if side is Side.A else self.b

    @property
    def counted(self) -> tuple[TrialRun, ...]:
        """The runs that are not left out, as they were ridden."""
        return tuple(run for run in self.runs if not run.left_out)


class TimedReading(Record):
    """One reading of a rotor that stands still, as the thermometer showed it."""

    id: ItemId
    end: End
    after_s: float = Field(ge=0, le=3600, allow_inf_nan=False, description="since the stop")
    read_c: float = Field(ge=-40, le=1200, allow_inf_nan=False)
    left_out: Reason = ""


class HeatSet(Tick):
    """Readings of both rotors after one ride: on what the thermometer looked, what it was set to, and what it mirrored.
    ``accepted`` by a name, they may calibrate the job's model."""

    id: ItemId
    name: str = Field(min_length=1, max_length=80)
    ride_id: ItemId | None = Field(None, description="the ride before; none: the decisive one")
    setup: TrialSide = TrialSide(name="as fitted")
    read_on: SurfaceKey = "paint"
    set_to_ratio: float = Field(0.95, ge=0.1, le=1, allow_inf_nan=False, description="emissivity it is set to")
    around_c: float | None = within(-25, 50, "what the rotor mirrors; none: the job's air")
    spot_mm: float | None = within(1, 200, "of the thermometer at that distance; none: smaller than the track")
    readings: tuple[TimedReading, ...] = Field((), max_length=MOST_TIMED)
    accepted: Tick | None = None


class Learnt(Record):
    """A multiplier of the model, or the front's share, with its doubt as one standard deviation: of its logarithm, of
    a share in its own unit."""

    value: float = Field(gt=0, le=20, allow_inf_nan=False)
    sigma: float = Field(gt=0, le=5, allow_inf_nan=False)


class Calibrated(Tick):
    """A calibration that somebody accepted: what the job's figures rest on until it is undone."""

    convection_ratio: Learnt
    rotor_to_carrier_ratio: Learnt
    airflow_ratio: Learnt
    front_share: Learnt
    readings: int = Field(ge=1, le=MOST_HEAT_SETS * MOST_TIMED)
    sets: tuple[ItemId, ...] = Field((), max_length=MOST_HEAT_SETS)
    missed_before_k: float = Field(
        ge=0, le=2000, allow_inf_nan=False, description="by how much it was off, root mean square"
    )
    missed_after_k: float = Field(ge=0, le=2000, allow_inf_nan=False)
    from_job: int | None = Field(None, ge=1, description="the job whose readings these are, where they are not its own")


class RideLog(Tick):
    """A logged ride: its data are kept under their checksum."""

    id: ItemId
    name: str = Field(min_length=1, max_length=80)
    data_id: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    setup: TrialSide = TrialSide(name="as fitted")
    exchanged: Tick | None = Field(None, description="who said that the temperature sensors are on each other's wheel")


def without_duplicates(items: tuple[Any, ...], what: str) -> None:
    """Raises ValueError where two items of a list have the same id: their places could not be told apart."""
    ids = [item.id for item in items]
    if len(ids) != len(set(ids)):
        raise ValueError(f"two {what} have the same id")
