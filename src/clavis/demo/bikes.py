"""The books of the demo world's bikes: parts with their lives, readings over the year, people, a hire fleet, and one bike
that comes back from last year. Days are reckoned from today, so that the world does not grow old."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from sqlalchemy.orm import Session

from clavis.core.job.document import Complaint, Job, Stay, StayState
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import (
    BikeVisit,
    KeptBike,
    LogEntry,
    Moment,
    OdometerReading,
    Outcome,
    PartLife,
    WearReading,
)
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import BikeKind
from clavis.store import bikes, jobs, people

FRONT, REAR = End.FRONT, End.REAR
FLEET = "Lift hire"
WHO = "Tess"


@dataclass(frozen=True)
class BookText:
    """A bike's book as it is laid down: lines of parts and readings, in the words of the tables below."""

    name: str
    parts: str
    readings: str = ""
    odometer: str = ""
    person: tuple[str, str, str] | None = None
    about: dict[str, Any] | None = None


# part: wheel what id days-ago km pace (mm in 10,000 km, and of pads what the rotor wears under them); – is not known
# reading: number of the part's line, days ago, km, mm, gauge
BOOKS: tuple[BookText, ...] = (
    BookText(
        "Commuter on cable discs",
        """front pad b-c1-resin 260 4100 2.6 0.25
           rear pad b-c1-resin 260 4100 1.7 0.18
           front rotor q-disc-160 700 0 0.25 -
           rear rotor q-disc-160 700 0 0.18 -""",
        """1 150 4980 2.0 pad_gauge
           1 60 5620 1.6 pad_gauge
           1 2 6080 1.3 pad_gauge
           2 2 6080 1.7 pad_gauge
           3 2 6080 1.71 micrometer
           4 2 6080 1.74 vernier""",
        "260 4100; 150 4980; 60 5620; 2 6080",
        ("Bram Oakeshott", "0555 0142", "bram@oakeshott.example"),
    ),
    BookText(
        "Longtail for the school run",
        """rear pad u-k2-resin 140 2900 6.5 0.6
           front pad u-k2-resin 140 2900 7.0 0.7
           rear rotor q-disc-180 400 0 0.6 -
           front bleed dot4 - - - -""",
        """1 70 3260 1.4 pad_gauge
           1 1 3560 0.8 pad_gauge
           2 1 3560 1.2 pad_gauge
           3 1 3560 1.72 micrometer""",
        "140 2900; 70 3260; 1 3560",
        ("Ida Quillfeather", "0555 0177", ""),
    ),
    BookText(
        "Tandem for the long pass",
        """front pad u-k2-resin 330 9200 3.4 0.35
           rear pad u-k2-resin 330 9200 3.1 0.31
           front rotor q-disc-180 1200 0 0.35 -
           front bleed dot4 820 6100 - -
           rear bleed dot4 820 6100 - -""",
        "3 3 11900 1.68 micrometer",
        "330 9200; 3 11900",
        ("Osric Fennimore", "", "fennimore@tandem.example"),
    ),
    BookText(
        "Hire bike no. 14",
        """front pad p-p2-resin 35 2100 9.0 1.0
           rear pad p-p2-resin 35 2100 8.0 0.9
           front rotor q-disc-180 300 0 1.0 -""",
        """1 14 2310 1.9 pad_gauge
           1 1 2480 1.55 pad_gauge
           2 1 2480 1.6 pad_gauge
           3 1 2480 1.57 micrometer""",
        "35 2100; 14 2310; 1 2480",
        None,
        {"fleet": FLEET, "kind": BikeKind.ENDURO, "frame_number": "LH-0014"},
    ),
)
HIRE_PADS = ((11, 1.2, 1.4), (12, 0.15, 0.9), (13, 1.9, 1.8), (15, 1.45, 1.1), (16, 2.3, 2.4))
"""other bikes of the fleet: number, front and rear pads as they were read last"""


def _lines(text: str) -> Iterator[list[str]]:
    for line in text.splitlines():
        if line.strip():
            yield line.split()


def _figure(word: str) -> float | None:
    return None if word == "-" else float(word)


def _life(number: int, words: list[str], catalogue: Catalogue, today: date) -> PartLife:
    end, what, part_id, ago, km, pace, under = words
    told: dict[str, Any] = {"id": f"life-{number}", "end": End(end), "what": Renewal(what)}
    if ago != "-":
        day = (today - timedelta(days=int(ago))).isoformat()
        told["fitted"] = Moment(day=day, km=_figure(km), who=WHO, why="service")
    if what == Renewal.BLEED:
        return PartLife(**told, grade=part_id)
    part = catalogue.by_id(part_id)
    told |= {"part_id": part_id, "name": part.name if part else "", "expected_mm_per_km": float(pace) / 10_000}
    if isinstance(part, Pad):
        told |= {"new_mm": part.material_mm, "compound": part.compound, "rotor_mm_per_km": float(under) / 10_000}
    if isinstance(part, Rotor):
        told |= {"new_mm": part.thickness_mm, "replace_mm": part.minimum_mm}
    return PartLife(**told)


def book(text: BookText, catalogue: Catalogue, today: date) -> KeptBike:
    """A bike's book as of a day."""

    def day(ago: str) -> str:
        return (today - timedelta(days=int(ago))).isoformat()

    lives = tuple(_life(k, words, catalogue, today) for k, words in enumerate(_lines(text.parts), 1))
    reads = tuple(
        WearReading(
            id=f"read-{k}", life=f"life-{number}", day=day(ago), km=float(km), mm=float(mm), gauge=gauge, who=WHO
        )
        for k, (number, ago, km, mm, gauge) in enumerate(_lines(text.readings), 1)
    )
    pairs = [pair.split() for pair in text.odometer.split(";") if pair.strip()]
    told = tuple(
        OdometerReading(id=f"odo-{k}", day=day(ago), km=float(km), who=WHO) for k, (ago, km) in enumerate(pairs, 1)
    )
    return KeptBike(name=text.name, lives=lives, readings=reads, odometer=told, **(text.about or {}))


def _gravel(today: date) -> KeptBike:
    """Three things at once, and it was quiet: nobody can say which of them it was."""
    day = (today - timedelta(days=90)).isoformat()
    done = ("pads Tarnwick F2 resin fitted", "rotor Ulvorn Line 160 fitted", "fresh fluid and a full bleed")
    return KeptBike(
        name="Gravel bike that grabs",
        weekly_km=110,
        odometer=(OdometerReading(id="odo-1", day=day, km=2200, who=WHO),),
        visits=(
            BikeVisit(id="visit-1", day=day, complaints=(Complaint.HOWLS,), outcome=Outcome.GONE, who=WHO),
        ),
        entries=tuple(
            LogEntry(id=f"entry-{k}", day=day, km=2200, end=FRONT, what=what, why="howls", who=WHO, visit="visit-1")
            for k, what in enumerate(done, 1)
        ),
    )  # fmt: skip


def _hire(number: int, front_mm: float, rear_mm: float) -> BookText:
    return BookText(
        f"Hire bike no. {number}",
        """front pad p-p2-resin 80 1500 9.0 1.0
           rear pad p-p2-resin 80 1500 8.0 0.9""",
        f"1 3 2160 {front_mm} pad_gauge\n2 3 2160 {rear_mm} pad_gauge",
        "80 1500; 40 1810; 3 2160",
        None,
        {"fleet": FLEET, "kind": BikeKind.ENDURO, "frame_number": f"LH-00{number}"},
    )


def _returning(catalogue: Catalogue, today: date) -> BookText:
    return BookText(
        "Steel tourer, last year’s service",
        """front pad u-k2-semi 390 12400 2.2 0.3
           rear pad u-k2-semi 390 12400 2.0 0.3
           front rotor u-line-180 390 12400 0.3 -
           front bleed mineral 390 12400 - -""",
        "1 380 12400 2.3 pad_gauge",
        "800 8100; 390 12400",
        ("Hesper Vane", "0555 0119", "hesper@vane.example"),
        {"frame_number": "ST-77120"},
    )


def lay_down(session: Session, catalogue: Catalogue, last_year: Job, bench: jobs.Author) -> None:
    """The books of the bikes whose jobs stand on the board, the rest of the fleet, and a bike of last year with its
    handed-over job."""
    today = bikes.today()
    books = [book(text, catalogue, today) for text in BOOKS] + [_gravel(today)]
    made = {kept.name: kept for kept in books}
    owners = {text.name: text.person for text in BOOKS}
    for number, name in bikes.names(session):
        if name in made:
            _written(session, number, made[name], bench.who)
            _owned(session, number, owners.get(name), bench.who)
    for row in HIRE_PADS:
        bikes.create_bike(session, book(_hire(*row), catalogue, today), bench.who)
    text = _returning(catalogue, today)
    number = bikes.create_bike(session, book(text, catalogue, today), bench.who)
    _owned(session, number, text.person, bench.who)
    promised = (today - timedelta(days=388)).isoformat()
    stay = Stay(state=StayState.HANDED_OVER, promised_on=promised, mechanic=WHO, odometer_km=12400)
    jobs.create_job(session, last_year.model_copy(update={"stay": stay}), bench, demo=True, bike_id=number)


def _written(session: Session, number: int, kept: KeptBike, who: str) -> None:
    bikes.change(session, number, lambda _: kept, who, "book laid down")


def _owned(session: Session, number: int, person: tuple[str, str, str] | None, who: str) -> None:
    if person is not None:
        people.of_bike(session, number, people.read(*person), who)
