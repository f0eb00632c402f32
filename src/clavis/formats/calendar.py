"""What is due, and the days promised, as a calendar (iCalendar, RFC 5545). Every item bears the same name at every
export, so that a second one changes it and never doubles it."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from icalendar import Calendar, Event

PRODUCT = "-//Clavis//bicycle brakes//EN"


@dataclass(frozen=True)
class CalendarItem:
    """One item: ``uid`` for good, ``revision`` counted up with every change."""

    uid: str
    day: date
    title: str
    text: str
    revision: int
    changed_at: datetime
    days: int = 1


def to_ics(items: Iterable[CalendarItem], name: str, now: datetime) -> bytes:
    """The calendar as a file."""
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", name)
    calendar.add("refresh-interval", timedelta(hours=12), parameters={"value": "DURATION"})
    for item in items:
        event = Event()
        event.add("uid", item.uid)
        event.add("dtstamp", now)
        event.add("dtstart", item.day)
        event.add("dtend", item.day + timedelta(days=item.days))
        event.add("summary", item.title)
        event.add("description", item.text)
        event.add("sequence", item.revision)
        event.add("last-modified", item.changed_at)
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
