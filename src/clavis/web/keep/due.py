"""What is due of all bikes, unsafe first; a fleet at a glance; what to order; the calendar and its feed."""

import csv
import io
from dataclasses import dataclass
from datetime import date, timedelta
from hmac import compare_digest

from fastapi import HTTPException, Request
from sqlalchemy.orm import Session
from starlette.responses import Response

from clavis.core.dates import as_date
from clavis.core.keeping.due import Urgency
from clavis.core.records import digest
from clavis.core.sentences import unpacked
from clavis.formats.calendar import CalendarItem, to_ics
from clavis.formats.csv_table import plain_cell
from clavis.store import bikes, board, due_list, jobs, workshop
from clavis.web.keep.book import months_told
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep, catalogue_of
from clavis.web.shell.readers import AuthorDep, Reader, ReaderDep
from clavis.web.shell.routes import ANYBODY, APPRENTICE, mechanic
from clavis.web.shell.templates import render

router = routes.router()
SOON_DAYS = 31
"""so far ahead parts are ordered"""
MOST_IN_CALENDAR = 5000


@dataclass(frozen=True)
class DueLine:
    """One line of the list, told."""

    item: due_list.DueItem
    why: str
    left: tuple[float, float, float] | None
    months: str
    order: str


def _line(item: due_list.DueItem, reading: Reader, today: date) -> DueLine:
    by = item.shown.get("by")
    now = item.urgency in (Urgency.UNSAFE, Urgency.REPLACE)
    left = None if now else item.shown.get("left_km")
    months = "now" if now else months_told(as_date(by[0]), as_date(by[2]), today) if by else ""
    return DueLine(
        item,
        reading.told(unpacked(item.shown["why"])),
        tuple(left) if left else None,
        months,
        str(item.shown.get("order", "")),
    )


@dataclass(frozen=True)
class OrderLine:
    part_id: str
    name: str
    pieces: int


def _to_order(request: Request, session: Session, fleet: str) -> list[OrderLine]:
    """Parts for what is due now or within a month, as they stand in the catalogue."""
    catalogue, _ = catalogue_of(request, session)
    until = (bikes.today() + timedelta(days=SOON_DAYS)).isoformat()
    parts = ((part_id, count, catalogue.by_id(part_id)) for part_id, count in due_list.to_order(session, fleet, until))
    return [OrderLine(part_id, part.name if part else part_id, count) for part_id, count, part in parts]


@router.get("/due", dependencies=APPRENTICE)
def due(
    request: Request, session: SessionDep, reading: ReaderDep, urgency: str = "", fleet: str = "", page: int = 0
) -> Response:
    """The day's due work over all bikes, or over a fleet."""
    fleet, page = fleet[:40], min(max(page, 0), 100_000)
    wanted = Urgency(urgency) if urgency in set(Urgency) else None
    found, total = due_list.items(session, wanted, fleet, page)
    today = bikes.today()
    key = workshop.terms(session).calendar_key
    return render(
        request, reading, "keep/due.html", lines=[_line(item, reading, today) for item in found], total=total,
        urgency=wanted, urgencies=tuple(Urgency), counts=due_list.counts(session, fleet), fleet=fleet,
        fleets=due_list.fleets(session), order=_to_order(request, session, fleet), page=page, later=page + 1,
        more=total > (page + 1) * due_list.PAGE, feed=f"/calendar/{key}.ics" if key else "",
        fleet_bikes=due_list.fleet_at_a_glance(session, fleet) if fleet else [],
        most_at_a_glance=due_list.MOST_AT_A_GLANCE,
    )  # fmt: skip


@router.get("/due.csv", dependencies=APPRENTICE)
def due_csv(session: SessionDep, reading: ReaderDep) -> Response:
    """The list as a table."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(("urgency", "bike", "frame_number", "fleet", "whose", "what", "why", "left_km", "by", "order"))
    found, _ = due_list.items(session, most=MOST_IN_CALENDAR)
    for line in (_line(item, reading, bikes.today()) for item in found):
        i = line.item
        left = "" if i.left_km is None else f"{i.left_km:.0f}"
        words = (i.bike, i.frame_number, i.fleet, i.person, i.about, line.why, left, line.months, line.order)
        writer.writerow((i.urgency.value, *map(plain_cell, words)))
    headers = {"Content-Disposition": 'attachment; filename="clavis-due.csv"'}
    return Response(out.getvalue(), media_type="text/csv", headers=headers)


@router.post("/calendar", dependencies=mechanic("a mechanic changes the workshop’s settings"))
def open_feed(session: SessionDep, author: AuthorDep) -> Response:
    """Give the calendar an address of its own, which only who knows it can read; or another one."""
    workshop.new_calendar_key(session, author.who)
    return Response(headers={"HX-Refresh": "true"})


@router.get("/calendar/{key}.ics", dependencies=ANYBODY)
def feed(session: SessionDep, reading: ReaderDep, key: str) -> Response:
    """The calendar: what is due, in the month in which it is first to be expected, and the days promised."""
    terms = workshop.terms(session)
    if not terms.calendar_key or not compare_digest(key.encode(), terms.calendar_key.encode()):
        raise HTTPException(404, "There is no such calendar.")
    own = terms.calendar_id or digest(terms.calendar_key)  # opened before what stands in it had a name of its own
    items = [*_due_items(session, reading, own), *_promised(session, own)]
    name = terms.name or "Clavis"
    return Response(to_ics(items, name, jobs.now()), media_type="text/calendar")


def _due_items(session: Session, reading: Reader, own: str) -> list[CalendarItem]:
    """What is due now stands on the day on which the bike's book said so; what is forecast on the first of the month in
    which it is first to be expected: no forecast names a day."""
    found, _ = due_list.items(session, most=MOST_IN_CALENDAR)
    items = []
    for line in (_line(item, reading, bikes.today()) for item in found):
        i = line.item
        by: list[str] = i.shown.get("by", [])
        forecast = by and i.urgency is Urgency.PLAN
        day = as_date(by[0]).replace(day=1) if forecast else i.changed_at.date()
        title = f"{i.bike or 'Bike'}: {i.urgency.value} {i.about}"
        text = "\n".join(part for part in (line.why, line.months, f"order: {line.order}" if line.order else "") if part)
        items.append(CalendarItem(f"due-{i.bike_id}-{i.key}@{own}", day, title, text, i.version, i.changed_at))
    return items


def _promised(session: Session, own: str) -> list[CalendarItem]:
    return [
        CalendarItem(f"job-{job_id}@{own}", as_date(day), f"Ready: {title or 'job'}", mechanic, version, at)
        for job_id, day, title, mechanic, version, at in board.promised(session, MOST_IN_CALENDAR)
    ]
