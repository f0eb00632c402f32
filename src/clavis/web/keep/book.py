"""A bike's book as its page shows it: what is due, how its parts wear, what was done, which jobs it had."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import BikeVisit, LogEntry, Outcome, PartLife
from clavis.core.keeping.cures import Cure, cure_of
from clavis.core.keeping.distance import WeeklyDistance, distance_on, weekly_distance
from clavis.core.keeping.due import Due, Filling, about, due_of, fillings_of
from clavis.core.keeping.gauges import GAUGES
from clavis.core.keeping.hints import Hint, hints_of
from clavis.core.keeping.size_life import SizeLife, life_by_size
from clavis.core.keeping.wear_state import Lines, WearNeed, WearState, wear_states
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import FLUID_GRADES
from clavis.core.parts.models import Rotor
from clavis.core.parts.mounts import End
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.units import System
from clavis.store import bikes, photos
from clavis.web.keep.wear_picture import WearPicture, wear_picture


@dataclass(frozen=True)
class WearBox:
    """One part of one wheel, with its picture."""

    state: WearState
    picture: WearPicture | None
    answer: Words
    span: Words
    """between which distances, and months where a week is known"""
    pace: Words
    """how fast it wears, and on what that rests"""

    @property
    def what(self) -> str:
        return about(self.state.life)


@dataclass(frozen=True)
class VisitBox:
    """One visit: what was done, what was complained of, and what is known of the cure."""

    visit: BikeVisit | None
    day: str
    entries: tuple[LogEntry, ...]
    cure: Cure | None


@dataclass(frozen=True)
class Book:
    """Everything that a bike's page shows."""

    opened: bikes.OpenedBike
    due: tuple[Due, ...]
    wear: dict[End, tuple[WearBox, ...]]
    hints: tuple[Hint, ...]
    visits: tuple[VisitBox, ...]
    lives: tuple[PartLife, ...]
    jobs: list[bikes.JobOfBike]
    photos: list[photos.KeptPhoto]
    weekly: WeeklyDistance | None
    now_km: float | None
    today: date
    fluids: tuple[Words, ...]
    sizes: dict[End, tuple[SizeLife, ...]]
    """how long other sizes of rotor would last against the one that is on, wheel by wheel"""

    @property
    def readable(self) -> tuple[PartLife, ...]:
        """Parts that are on it and can be read."""
        return tuple(box.state.life for boxes in self.wear.values() for box in boxes)


_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


def month_of(day: date) -> str:
    """A month with its year; a forecast never names a day.

    >>> month_of(date(2027, 2, 10))
    'February 2027'
    """
    return f"{_MONTHS[day.month - 1]} {day.year}"


FARTHEST_YEARS = 3


def months_told(low: date, high: date, today: date) -> str:
    """Between which months something is to be expected.

    >>> months_told(date(2027, 2, 1), date(2027, 5, 9), date(2026, 11, 29))
    'February to May 2027'
    """
    if low.year - today.year > FARTHEST_YEARS:
        return f"not before {low.year}"
    early = month_of(low)
    if high.year - today.year > FARTHEST_YEARS:
        return f"{early} or later"
    if early == month_of(high):
        return early
    return f"{early if low.year != high.year else _MONTHS[low.month - 1]} to {month_of(high)}"


def by_told(by: Any, today: date) -> str:
    """The same of a forecast's months; empty where there are none."""
    return "" if by is None else months_told(by.low, by.high, today)


def book_of(session: Session, opened: bikes.OpenedBike, system: System, catalogue: Catalogue) -> Book:
    """A bike's book as of today."""
    bike, today = opened.bike, bikes.today()
    lines: Lines = bikes.lines_of(session)
    states = wear_states(bike, today, lines)
    wear = {
        end: tuple(
            WearBox(s, wear_picture(s, system), _answer(s), _span(s, today), _pace(s))
            for s in states
            if s.life.end is end
        )
        for end in End
    }
    weekly = weekly_distance(bike)
    return Book(
        opened, due_of(bike, today, lines, states), wear, hints_of(states), _visits(opened),
        tuple(reversed(bike.lives)),
        bikes.jobs_of(session, opened.id), photos.of_bike(session, opened.id), weekly,
        distance_on(bike, today, weekly), today, tuple(_fluid(f) for f in fillings_of(bike, today)),
        {end: _sizes(opened, end, catalogue) for end in End},
    )  # fmt: skip


_NOW: dict[WearNeed, str] = {
    WearNeed.UNSAFE: "unsafe: replace before the next ride",
    WearNeed.REPLACE: "replace now",
}


def _answer(s: WearState) -> Words:
    if s.need in _NOW:
        return _NOW[s.need]
    if s.left_km is None:
        return "not known"
    return say("replace in about {left_km:.0}", left_km=s.left_km.middle_km)


def _span(s: WearState, today: date) -> Words:
    if s.need in _NOW:
        return NOTHING
    if s.left_km is None:
        return (
            "its minimum is not known" if s.replace_mm is None else "never read, and nobody knows since when it is on"
        )
    words = "{low_km:.0} to {high_km:.0}"
    words += "; {months}" if s.replace_by else ""
    return say(words, low_km=s.left_km.low_km, high_km=s.left_km.high_km, months=by_told(s.replace_by, today))


PACE_KM = 1000.0
"""the distance for which a pace is told"""


def _pace(s: WearState) -> Words:
    found = s.estimate
    if found is None:
        return NOTHING
    decimals = 3 if s.life.what is Renewal.ROTOR else 2
    worn = say(f"{{worn_mm:.{decimals}}} in {{of_km:.0}}", worn_mm=found.rate_mm_per_km() * PACE_KM, of_km=PACE_KM)
    if not s.modelled:
        return say("{worn}, by what such parts usually do", worn=worn)
    if found.readings == 0:
        return say("{worn}, by the model alone: nothing read", worn=worn)
    words = "{worn}: {ratio:.1} times what the model expects, by {readings:reading|readings}"
    return say(words, worn=worn, ratio=found.ratio, readings=found.readings)


def _fluid(filling: Filling) -> Words:
    """A line's fluid: what, how old, where it boils now."""
    grade = FLUID_GRADES[filling.life.grade or ""].words
    words = "{end}: {grade}, {age_y:.1} old; it boils at {boils_c:.0} now"
    if filling.age_y is None:
        words = "{end}: {grade}, nobody knows how old; it counts as boiling at {boils_c:.0}"
    if filling.counts_as_c is None:
        words = "{end}: {grade}; where it boils is not known"
    told = {"end": filling.life.end, "grade": grade, "age_y": filling.age_y, "boils_c": filling.counts_as_c}
    return say(words, **told)


USUAL_SIZES_MM = (140.0, 160.0, 180.0, 203.0)


def _sizes(opened: bikes.OpenedBike, end: End, catalogue: Catalogue) -> tuple[SizeLife, ...]:
    life = opened.bike.on_it(end, Renewal.ROTOR)
    rotor = catalogue.by_id(life.part_id) if life is not None and life.part_id else None
    return life_by_size(rotor, (*USUAL_SIZES_MM, rotor.diameter_mm)) if isinstance(rotor, Rotor) else ()


def _visits(opened: bikes.OpenedBike) -> tuple[VisitBox, ...]:
    """Every visit with its entries, and entries of none of them, newest first."""
    bike = opened.bike
    boxes = [VisitBox(v, v.day, bike.of_visit(v.id), cure_of(bike, v)) for v in bike.visits]
    named = {v.id for v in bike.visits}
    boxes += [VisitBox(None, e.day, (e,), None) for e in bike.entries if e.visit not in named]
    return tuple(sorted(boxes, key=lambda box: box.day, reverse=True))


def weekly_words(weekly: WeeklyDistance | None) -> Words:
    """What is known of the week, and from what."""
    if weekly is None:
        return "how far it goes in a week is not known: say it, or read the odometer three times over eight weeks"
    words = "{week_km:.0} a week, as stated" if weekly.stated else "{week_km:.0} a week, by the odometer"
    return say(words, week_km=weekly.km)


READ_WITH = {
    Renewal.PAD: tuple((key, GAUGES[key].words) for key in ("pad_gauge", "micrometer", "ruler")),
    Renewal.ROTOR: tuple((key, GAUGES[key].words) for key in ("micrometer", "vernier")),
}
"""what each kind of part may be read with"""
OUTCOMES = {
    Outcome.NOT_SAID: "not said",
    Outcome.GONE: "gone",
    Outcome.BETTER: "better",
    Outcome.STAYS: "stays",
}
