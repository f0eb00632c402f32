"""The one door for changes of a bike: each is an act with its words, by somebody, on the bike as it is at that moment.

Acts are functions of the bike; two people who each add a reading are not in each other's way. What a form showed and
would overwrite is checked by the form's own fields (``change_fields``).
"""

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.orm import Session

from clavis.core.job.document import Job, StayState
from clavis.core.keeping.bike import KeptBike
from clavis.core.keeping.due import RANK, Due, due_of
from clavis.core.keeping.wear_state import Lines
from clavis.core.records import describe, described
from clavis.core.sentences import packed, say
from clavis.core.wording.labels import choice_word
from clavis.store import jobs, search, workshop
from clavis.store.board import state_of
from clavis.store.database import alone, writing
from clavis.store.history import in_effect
from clavis.store.rules import rules_mark
from clavis.store.search import asked_for, matching
from clavis.store.tables import BikeChangeRow, BikeRow, BoardRow, DueRow, JobRow, PersonRow

Act = Callable[[KeptBike], KeptBike]


@dataclass(frozen=True)
class Person:
    """Whose bike it is."""

    id: int
    name: str
    phone: str
    email: str


@dataclass(frozen=True)
class OpenedBike:
    """A bike as read."""

    id: int
    version: int
    bike: KeptBike
    person: Person | None
    archived: bool
    changed_at: datetime


def today() -> date:
    return jobs.now().date()


def _person(row: PersonRow | None) -> Person | None:
    return None if row is None else Person(row.id, row.name, row.phone, row.email)


def _opened(session: Session, row: BikeRow) -> OpenedBike:
    return _read(row, session.get(PersonRow, row.person_id) if row.person_id is not None else None)


def _read(row: BikeRow, person: PersonRow | None) -> OpenedBike:
    bike = read_bike(row)
    return OpenedBike(row.id, row.version, bike, _person(person), row.archived, row.changed_at)


def read_bike(row: BikeRow) -> KeptBike:
    """A row's document as a bike. Raises UnreadableError."""
    try:
        return KeptBike.model_validate(row.document)
    except ValidationError as error:
        raise jobs.UnreadableError("bike", f"{row.id}", described(error)) from None


def open_bike(session: Session, bike_id: int) -> OpenedBike:
    """Raises NotThereError."""
    row = session.get(BikeRow, bike_id, populate_existing=True)
    if row is None:
        raise jobs.NotThereError(f"there is no bike {bike_id}")
    return _opened(session, row)


def create_bike(session: Session, bike: KeptBike, who: str) -> int:
    """Keep a new bike; its number."""
    with writing(session):
        return add(session, bike, who)


def add(session: Session, bike: KeptBike, who: str, person_id: int | None = None, *, archived: bool = False) -> int:
    """A new bike as part of a larger step; its number. Not yet committed."""
    row = BikeRow(document=bike.model_dump(mode="json"), created_at=jobs.now(), changed_at=jobs.now())
    _stand_beside(row, bike)
    row.person_id, row.archived = person_id, archived
    session.add(row)
    session.flush()
    session.add(_change(row, who, "bike entered", {}, {"name": bike.name}))
    refresh_due(session, row, bike)
    return row.id


def _stand_beside(row: BikeRow, bike: KeptBike) -> None:
    row.name, row.frame_number, row.fleet = bike.name, bike.frame_number, bike.fleet


def _change(row: BikeRow, who: str, words: str, before: Any, after: Any, undoes: int | None = None) -> BikeChangeRow:
    return BikeChangeRow(
        bike_id=row.id, version=row.version, who=who[:40], at=jobs.now(), words=words[:200], before=before,
        after=after, undoes=undoes,
    )  # fmt: skip


def changed(session: Session, bike_id: int, act: Act, who: str, words: str, undoes: int | None = None) -> BikeRow:
    """The bike after an act, kept but not yet committed: for what belongs to a larger step. Raises NotThereError,
    RefusedError where the bike would not hang together."""
    alone(session)
    row = session.get(BikeRow, bike_id, populate_existing=True)
    if row is None:
        raise jobs.NotThereError(f"there is no bike {bike_id}")
    before = read_bike(row)
    try:
        after = KeptBike.model_validate(act(before).model_dump())
    except ValidationError as error:
        raise jobs.RefusedError("bike", describe(error.errors()[0])) from None
    if after == before:
        return row
    was, then = before.model_dump(mode="json"), after.model_dump(mode="json")
    places = [place for place in then if was[place] != then[place]]
    row.document, row.version, row.changed_at = then, row.version + 1, jobs.now()
    _stand_beside(row, after)
    session.flush()  # written against the version that was read, before anything else is
    session.add(_change(row, who, words, _only(was, places), _only(then, places), undoes))
    refresh_due(session, row, after)
    return row


def _only(document: Mapping[str, Any], places: Sequence[str]) -> dict[str, Any]:
    return {place: document[place] for place in places}


def change(session: Session, bike_id: int, act: Act, who: str, words: str, undoes: int | None = None) -> OpenedBike:
    """Carry an act out on the bike as it is, and keep it. Raises NotThereError, RefusedError; nothing is kept then."""
    with writing(session):
        return _opened(session, changed(session, bike_id, act, who, words, undoes))


def change_field(session: Session, bike_id: int, base: int, who: str, name: str, value: Any, word: str) -> OpenedBike:
    """Set one field of a bike that was read at version ``base``. Raises ConflictError where another value stands there
    since."""
    with writing(session):
        newest = open_bike(session, bike_id)
        standing = getattr(newest.bike, name)
        since = session.scalars(
            select(BikeChangeRow).where(BikeChangeRow.bike_id == bike_id, BikeChangeRow.version > base)
        )  # fmt: skip
        other = next((row for row in since if name in row.after and row.who != who), None)
        if other is not None and standing != value:
            raise jobs.ConflictError(name, other.who, standing)
        return change(
            session, bike_id, lambda bike: bike.model_copy(update={name: value}), who, f"{word}: {value or '–'}"
        )


def history(session: Session, bike_id: int, most: int = 200) -> list[BikeChangeRow]:
    """The newest acts first."""
    query = select(BikeChangeRow).where(BikeChangeRow.bike_id == bike_id).order_by(BikeChangeRow.version.desc())
    return list(session.scalars(query.limit(most)))


def archive(session: Session, bike_id: int, who: str, *, archived: bool) -> None:
    """Put a bike away, or take it out again: it is in no list, nothing of it is due, and nothing of it is lost. Raises
    NotThereError."""
    with writing(session):
        row = session.get(BikeRow, bike_id, populate_existing=True)
        if row is None:
            raise jobs.NotThereError(f"there is no bike {bike_id}")
        row.archived, row.version, row.changed_at = archived, row.version + 1, jobs.now()
        session.add(_change(row, who, "archived" if archived else "taken out of the archive", {}, {}))
        refresh_due(session, row, read_bike(row))


def erase(session: Session, bike_id: int) -> None:
    """Erase a bike with its book and its photographs. Raises NotThereError, and RefusedError while there are jobs about
    it: they are erased first, each by itself."""
    with writing(session):
        row = session.get(BikeRow, bike_id)
        if row is None:
            raise jobs.NotThereError(f"there is no bike {bike_id}")
        if newest_job(session, bike_id) is not None:
            raise jobs.RefusedError("bike", "there are jobs about this bike: erase them first, or archive the bike")
        session.delete(row)


def by_words(session: Session, words: str) -> list[tuple[int, str]]:
    """Number and name of the bikes that have these words: those alone that have one of them whole, where there are."""
    hits = search.found(session, words, MOST_FOUND, "bike")
    whole = [h for h in hits if words.strip().lower() in (h.title.lower(), *h.body.lower().split())]
    return [(int(hit.ref), hit.title) for hit in whole or hits]


MOST_FOUND = 20


def of_fleet(session: Session, fleet: str, most: int) -> list[int]:
    """Numbers of the bikes of a fleet, by name."""
    query = select(BikeRow.id).where(BikeRow.fleet == fleet, BikeRow.archived.is_(False)).order_by(BikeRow.name)
    return list(session.scalars(query.limit(most)))


def names(session: Session) -> list[tuple[int, str]]:
    """Number and name of every bike."""
    return [(number, name) for number, name in session.execute(select(BikeRow.id, BikeRow.name).order_by(BikeRow.id))]


def undo(session: Session, bike_id: int, who: str, *, anybodys: bool = False) -> OpenedBike:
    """Take the newest act back that still stands; pressed again, the one before it. Raises RefusedError where there is
    none, or where it is another person's and it was not said that it may be (``path`` is ``anybodys`` then)."""
    with writing(session):
        rows = history(session, bike_id)
        stands = in_effect(rows)
        last = next((row for row in rows if row.before and row.undoes is None and stands[row.id]), None)
        if last is None:
            raise jobs.RefusedError("bike", "there is nothing to undo")
        if last.who != who and not anybodys:
            words = "the newest act is {who}’s: “{act}”. Say that it may be undone."
            raise jobs.RefusedError("anybodys", say(words, who=last.who, act=last.words))
        places = dict(last.before)
        return change(session, bike_id, lambda bike: _set_back(bike, places), who, f"undone: {last.words}", last.id)


def _set_back(bike: KeptBike, places: dict[str, Any]) -> KeptBike:
    return KeptBike.model_validate(bike.model_dump(mode="json") | places)


@dataclass(frozen=True)
class ListedBike:
    """One line of the list of bikes."""

    id: int
    name: str
    frame_number: str
    fleet: str
    changed_at: datetime
    person_id: int | None
    person: str
    due: int


def listed(session: Session, words: str, most: int, page: int) -> tuple[list[ListedBike], int]:
    """Bikes with whose they are and how much is due of each, the newest change first; and how many there are."""
    wanted: list[ColumnElement[bool]] = [BikeRow.archived.is_(False)]
    if asked_for(words):
        of_bikes, of_people = matching("bike", words), matching("person", words)
        wanted.append(or_(BikeRow.id.in_(of_bikes), BikeRow.person_id.in_(of_people)))
    total = session.scalar(select(func.count(BikeRow.id)).where(*wanted)) or 0
    due = select(func.count()).select_from(DueRow).where(DueRow.bike_id == BikeRow.id).scalar_subquery()
    columns = (BikeRow.id, BikeRow.name, BikeRow.frame_number, BikeRow.fleet, BikeRow.changed_at, BikeRow.person_id)
    query = (
        select(*columns, PersonRow.name, due)
        .outerjoin(PersonRow, PersonRow.id == BikeRow.person_id)
        .where(*wanted)
        .order_by(BikeRow.changed_at.desc(), BikeRow.id)
        .limit(most)
        .offset(most * page)
    )
    found = [
        ListedBike(number, bike, frame, fleet, at, person_id, person or "", due)
        for number, bike, frame, fleet, at, person_id, person, due in session.execute(query)
    ]
    return found, total


@dataclass(frozen=True)
class JobOfBike:
    """One job about a bike, as its row of the board tells it, and what was tried on the road."""

    id: int
    title: str
    begun: datetime
    state: StayState
    shown: dict[str, Any]
    trials: tuple[str, ...]


def jobs_of(session: Session, bike_id: int) -> list[JobOfBike]:
    """Every job about a bike, newest first."""
    names = func.json_extract(JobRow.document, "$.trials")
    query = (
        select(JobRow.id, BoardRow.title, JobRow.created_at, BoardRow.state, BoardRow.shown, names)
        .join(BoardRow, BoardRow.job_id == JobRow.id)
        .where(JobRow.bike_id == bike_id)
        .order_by(JobRow.created_at.desc(), JobRow.id.desc())
    )
    return [
        JobOfBike(
            number, title, begun, state_of(state), shown if isinstance(shown, dict) else {},
            tuple(trial.get("name", "") for trial in json.loads(trials or "[]")),
        )
        for number, title, begun, state, shown, trials in session.execute(query)
    ]  # fmt: skip


def newest_job(session: Session, bike_id: int) -> int | None:
    """The job that was begun last about a bike."""
    return session.scalar(select(func.max(JobRow.id)).where(JobRow.bike_id == bike_id))


def with_last_job(session: Session, numbers: Sequence[int]) -> list[tuple[OpenedBike, Job | None]]:
    """Bikes, in this order, each with the job that was begun last about it. Raises NotThereError where one is
    missing."""
    newest = select(func.max(JobRow.id)).where(JobRow.bike_id.in_(numbers)).group_by(JobRow.bike_id)
    last = {row.bike_id: row for row in session.scalars(select(JobRow).where(JobRow.id.in_(newest)))}
    rows = select(BikeRow, PersonRow).outerjoin(PersonRow, PersonRow.id == BikeRow.person_id)
    found = {bike.id: (bike, person) for bike, person in session.execute(rows.where(BikeRow.id.in_(numbers)))}
    missing = [number for number in numbers if number not in found]
    if missing:
        raise jobs.NotThereError(f"there is no bike {missing[0]}")
    told = []
    for number in numbers:
        bike, person = found[number]
        job = jobs.read_job(last[number]) if number in last else None
        told.append((_read(bike, person), job))
    return told


def due_stamp(day: date, lines: Lines) -> str:
    """On what the kept list of what is due rests, beside the bike: day, the workshop's lines, the core's own text."""
    return f"{day.isoformat()} {lines.plan_mm:g} {lines.replace_mm:g} {rules_mark()}"


def lines_of(session: Session) -> Lines:
    """The workshop's own lines."""
    terms = workshop.terms(session)
    return Lines(terms.pad_plan_mm, terms.pad_replace_mm)


def refresh_due(session: Session, row: BikeRow, bike: KeptBike | None, lines: Lines | None = None) -> None:
    """What a bike needs, worked out as of today and kept for the lists; nothing of one that cannot be read."""
    lines = lines or lines_of(session)
    session.execute(delete(DueRow).where(DueRow.bike_id == row.id))
    found = () if row.archived or bike is None else due_of(bike, today(), lines)
    session.add_all(_due_row(row.id, due) for due in found)
    row.due_stamp = due_stamp(today(), lines)


def _due_row(bike_id: int, due: Due) -> DueRow:
    crossing, by = due.left_km, due.by
    shown: dict[str, Any] = {"why": packed(due.why, choice_word), "urgency": due.urgency.value}
    if crossing is not None:
        shown["left_km"] = [crossing.low_km, crossing.middle_km, crossing.high_km]
    if by is not None:
        shown["by"] = [day.isoformat() for day in (by.low, by.middle, by.high)]
    order = due.order
    return DueRow(
        bike_id=bike_id,
        key=due.key[:60],
        rank=RANK[due.urgency],
        end=due.end.value if due.end else "",
        about=due.about,
        shown=shown | {"order": order.name if order else ""},
        left_km=crossing.middle_km if crossing else None,
        by=by.middle.isoformat() if by else "",
        order_id=(order.part_id or "") if order else "",
    )


def stale_due(session: Session, most: int) -> list[int]:
    """Bikes whose list of what is due was worked out on another day, or by other lines or rules, or is damaged."""
    stamp = due_stamp(today(), lines_of(session))
    damaged = select(DueRow.bike_id).where(func.json_valid(DueRow.shown) == 0)
    stale = or_(BikeRow.due_stamp != stamp, BikeRow.id.in_(damaged))
    query = select(BikeRow.id).where(stale).order_by(BikeRow.id).limit(most)
    return list(session.scalars(query))


def work_out_due(session: Session, bike_id: int) -> None:
    """Bring one bike's list up to date; the bike itself is not changed by it."""
    with writing(session):
        row = session.get(BikeRow, bike_id, populate_existing=True)
        if row is None:
            return
        try:
            refresh_due(session, row, read_bike(row))
        except jobs.UnreadableError:  # nothing is due of it until it can be read, and it is not looked at again today
            refresh_due(session, row, None)
