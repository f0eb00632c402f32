"""A bike as the workshop keeps it: what is on it since when, what was read, what was done. Frozen; None means not
known."""

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from clavis.core.dates import Day
from clavis.core.job.document import Complaint
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.gauges import GAUGES, GaugeKey
from clavis.core.parts.fluids import FluidGradeKey
from clavis.core.parts.models import Identifier
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import BikeKind
from clavis.core.records import ItemId, Record, within

MOST_LIVES, MOST_READINGS, MOST_ENTRIES, MOST_VISITS, MOST_ODOMETER = 400, 2000, 2000, 400, 1000
FARTHEST_KM = 500_000.0
WEARS = (Renewal.PAD, Renewal.ROTOR)
"""what has a thickness that goes down"""


class Moment(Record):
    """When, at what distance, by whom and why something was done; ``visit`` is the visit it belongs to."""

    day: Day
    km: float | None = within(0, FARTHEST_KM)
    who: str = Field("", max_length=40)
    why: str = Field("", max_length=300)
    visit: str = Field("", max_length=40)


class PartLife(Record):
    """One part from the day it was fitted to the day it came off. The same part fitted anew is another life.

    ``expected_mm_per_km`` is what the model expects it to wear, ``rotor_mm_per_km`` of pads what the rotor
    wears under them, both for the rides of the job by which they came.
    """

    id: ItemId
    end: End
    what: Renewal
    part_id: Identifier | None = None
    name: str = Field("", max_length=120)
    fitted: Moment | None = Field(None, description="none: it was there when the bike first came")
    removed: Moment | None = None
    new_mm: float | None = within(0.3, 12)
    replace_mm: float | None = within(0.2, 6, "the maker's own limit")
    compound: str = Field("", max_length=20)
    expected_mm_per_km: float | None = within(1e-9, 5)
    rotor_mm_per_km: float | None = within(1e-10, 5)
    grade: FluidGradeKey | None = Field(None, description="of a filling")
    boils_c: float | None = within(80, 400, "a mineral filling: the maker's figure")
    water_seen: bool = Field(False, description="in a filling: it counts as boiling as water does")

    @property
    def open(self) -> bool:
        return self.removed is None


class WearReading(Record):
    """A thickness that was read, of the thinner pad or the thinnest place of the track."""

    id: ItemId
    life: ItemId
    day: Day
    km: float | None = within(0, FARTHEST_KM)
    mm: float = Field(ge=0, le=12, allow_inf_nan=False)
    other_mm: float | None = within(0, 12, "the other pad")
    gauge: GaugeKey = "micrometer"
    who: str = Field("", max_length=40)
    visit: str = Field("", max_length=40)


class OdometerReading(Record):
    id: ItemId
    day: Day
    km: float = Field(ge=0, le=FARTHEST_KM, allow_inf_nan=False)
    who: str = Field("", max_length=40)


class LogEntry(Record):
    """One thing that was done."""

    id: ItemId
    day: Day
    km: float | None = within(0, FARTHEST_KM)
    end: End | None = None
    what: str = Field(min_length=1, max_length=200)
    renewal: Renewal | None = None
    tightened: bool = Field(False, description="bolts were tightened once more, after the first ride")
    why: str = Field("", max_length=300)
    who: str = Field("", max_length=40)
    visit: str = Field("", max_length=40)


class Outcome(StrEnum):
    """What became of what was complained of."""

    NOT_SAID = "not_said"
    GONE = "gone"
    BETTER = "better"
    STAYS = "stays"


class BikeVisit(Record):
    """What was done together, and what was complained of; ``cured_by`` is the entry that someone showed to be the cure,
    with what showed it."""

    id: ItemId
    day: Day
    job: int | None = Field(None, ge=1, le=2**31 - 1)
    complaints: tuple[Complaint, ...] = Field((), max_length=len(Complaint))
    outcome: Outcome = Outcome.NOT_SAID
    cured_by: ItemId | None = None
    shown_by: str = Field("", max_length=300)
    who: str = Field("", max_length=40)


class KeptBike(Record):
    """One bike. ``weekly_km`` is what its rider says; the odometer tells it too where it was read often enough."""

    name: str = Field("", max_length=80)
    frame_number: str = Field("", max_length=40)
    kind: BikeKind | None = None
    fleet: str = Field("", max_length=40, description="bikes of one fleet bear the same word")
    weekly_km: float | None = within(0.1, 3000)
    note: str = Field("", max_length=2000)
    odometer: tuple[OdometerReading, ...] = Field((), max_length=MOST_ODOMETER)
    lives: tuple[PartLife, ...] = Field((), max_length=MOST_LIVES)
    readings: tuple[WearReading, ...] = Field((), max_length=MOST_READINGS)
    entries: tuple[LogEntry, ...] = Field((), max_length=MOST_ENTRIES)
    visits: tuple[BikeVisit, ...] = Field((), max_length=MOST_VISITS)

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        for rows in (self.odometer, self.lives, self.readings, self.entries, self.visits):
            names = [row.id for row in rows]
            if len(set(names)) < len(names):
                raise ValueError("two rows bear the same name")
        lives = {life.id: life for life in self.lives}
        for reading in self.readings:
            life = lives.get(reading.life)
            if life is None:
                raise ValueError("a reading belongs to no part of this bike")
            if life.what not in WEARS:
                raise ValueError("only pads and rotors are read")
            if life.what is Renewal.ROTOR and not GAUGES[reading.gauge].of_rotors:
                raise ValueError("a rotor is read with a micrometer; a vernier may condemn it")
        return self

    def on_it(self, end: End, what: Renewal) -> PartLife | None:
        """The part of a kind that is on a wheel now; the newest life where there are several."""
        return next((x for x in reversed(self.lives) if x.end is end and x.what is what and x.open), None)

    def read_of(self, life: PartLife) -> tuple[WearReading, ...]:
        """The readings of a part, oldest first; those of one day as they were written."""
        return tuple(sorted((r for r in self.readings if r.life == life.id), key=lambda r: r.day))

    def of_visit(self, visit: str) -> tuple[LogEntry, ...]:
        return tuple(entry for entry in self.entries if entry.visit == visit)
