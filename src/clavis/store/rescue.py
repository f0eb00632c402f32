"""What lies in the database and cannot be read: looked at as it is, put away, and brought back to the newest moment of
its history that can be read. Nothing here reads a document as what it should be before it has looked whether that goes.
"""

import json
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from pydantic import ValidationError
from sqlalchemy import select, text, update
from sqlalchemy.orm import Session

from clavis.core.entries import LARGEST, place_in
from clavis.core.errors import QuantityError
from clavis.core.job import paths
from clavis.core.job.document import Job, StayState
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.models import parse_part
from clavis.core.records import described
from clavis.core.sentences import Words
from clavis.core.wording.labels import place_word
from clavis.store import jobs
from clavis.store.database import Unread, read_document, writing
from clavis.store.tables import BikeChangeRow, BikeRow, BoardRow, ChangeRow, JobRow, PartChangeRow, PartRow, told_moment

LONGEST_SHOWN = 200_000
"""letters of a document that a page shows; the file has all of them"""
MOST_STEPS = 20
BROUGHT_BACK = "brought back to what could be read"


class Sort(StrEnum):
    """What may lie there unread."""

    JOB = "job"
    BIKE = "bike"
    PART = "part"


READ: Mapping[Sort, Callable[[Any], object]] = {
    Sort.JOB: Job.model_validate,
    Sort.BIKE: KeptBike.model_validate,
    Sort.PART: parse_part,
}
ROWS: Mapping[Sort, Any] = {Sort.JOB: JobRow, Sort.BIKE: BikeRow, Sort.PART: PartRow}
STEPS: Mapping[Sort, Any] = {Sort.JOB: ChangeRow, Sort.BIKE: BikeChangeRow, Sort.PART: PartChangeRow}


@dataclass(frozen=True)
class StepTold:
    """One step of a history without its values."""

    number: int
    who: str
    at: str
    words: str


@dataclass(frozen=True)
class Lying:
    """One row as it lies in the database. ``why`` says why it cannot be read, and is empty where it can."""

    sort: Sort
    ref: str
    title: str
    text: str
    why: Words
    steps: tuple[StepTold, ...]
    put_away: bool
    goes_back_to: int | None
    """the number of the newest step at which it could be read; None where that cannot be told"""


def why_unread(sort: Sort, document: Any) -> Words:
    """Why a document cannot be read; nothing where it can."""
    if isinstance(document, Unread):
        return "what is kept is no JSON"
    try:
        READ[sort](document)
    except ValidationError as error:
        return jobs.why_no_job(error) if sort is Sort.JOB else described(error)
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError) as error:
        return f"{type(error).__name__}: {str(error)[:160]}"
    return ""


def text_of(session: Session, sort: Sort, ref: str) -> str:
    """A document as it stands in the database, letter by letter. Raises NotThereError."""
    if sort is not Sort.PART and place_in(ref, LARGEST) is None:  # SQLite would take 7.0 for 7
        raise jobs.NotThereError(f"there is no such {sort}")
    table = ROWS[sort].__tablename__
    found = session.execute(text(f"select cast(document as blob) from {table} where id = :id"), {"id": ref})  # noqa: S608
    row = found.first()
    if row is None:
        raise jobs.NotThereError(f"there is no {sort} {ref}")
    return bytes(row[0] or b"").decode("utf-8", "replace")


def look(session: Session, sort: Sort, ref: str) -> Lying:
    """Raises NotThereError."""
    written = text_of(session, sort, ref)
    document = read_document(written)
    steps = _steps(session, sort, ref)
    away, title = _stands(session, sort, ref)
    why = why_unread(sort, document)
    back = None
    if why and not isinstance(document, Unread):
        back = next((number for number, found in _moments(sort, document, steps) if not why_unread(sort, found)), None)
    shown = written
    if not isinstance(document, Unread):
        shown = json.dumps(document, ensure_ascii=False, indent=1)
    told = tuple(_told(sort, row) for row in steps[:MOST_STEPS])
    return Lying(sort, ref, title, shown[:LONGEST_SHOWN], why, told, away, back)


def _steps(session: Session, sort: Sort, ref: str) -> list[Any]:
    """The newest first."""
    table = STEPS[sort]
    own = {Sort.JOB: "job_id", Sort.BIKE: "bike_id", Sort.PART: "part_id"}[sort]
    return list(session.scalars(select(table).where(getattr(table, own) == ref).order_by(table.id.desc()).limit(400)))


def _told(sort: Sort, row: Any) -> StepTold:
    words = "changed"
    if sort is Sort.JOB:
        words = place_word(row.path) if row.path else ""
    elif sort is Sort.BIKE:
        words = row.words
    return StepTold(_number(row), row.who, told_moment(row.at), words)


def _number(row: Any) -> int:
    return int(getattr(row, "version", row.id))


def _stands(session: Session, sort: Sort, ref: str) -> tuple[bool, str]:
    """Whether it is put away, and by what name it is listed."""
    if sort is Sort.JOB:
        row = session.execute(select(BoardRow.state, BoardRow.title).where(BoardRow.job_id == ref)).first()
        return (row is not None and row[0] == StayState.ARCHIVED.value), row[1] if row else ""
    if sort is Sort.BIKE:
        away, title = session.execute(select(BikeRow.archived, BikeRow.name).where(BikeRow.id == ref)).one()
        return bool(away), title
    return bool(session.scalar(select(PartRow.retired).where(PartRow.id == ref))), ref


def _moments(sort: Sort, document: Any, steps: list[Any]) -> Iterator[tuple[int, Any]]:
    """What the document was before each of its newest steps, the newest first, with the number of the step after which
    it was so; as far back as can be told. A line of the catalogue is kept whole by each of its steps."""
    if sort is Sort.PART:
        yield from ((row.id, row.after) for row in steps)
        return
    for k, row in enumerate(steps):
        number = _number(steps[k + 1]) if k + 1 < len(steps) else 0
        try:
            document = _before(sort, document, row)
        except (QuantityError, TypeError, AttributeError, KeyError):
            return
        if document is None:
            return
        yield number, document


def _before(sort: Sort, document: Any, row: Any) -> Any:
    if sort is Sort.BIKE:
        return {**document, **(row.before or {})}
    if row.path == "":
        return None  # the job was not there before
    if row.path == jobs.TAKEN_BACK:
        return document
    if row.path == jobs.SIGN_OFF or row.path.startswith(jobs.RESTORED):
        return {**document, **row.before}
    return paths.write(document, row.path, row.before)


def bring_back(session: Session, sort: Sort, ref: str, who: str) -> int:
    """Bring one back to the newest moment at which it could be read, as one step of its history; the number of the step
    it is brought back to. Raises NotThereError, and RefusedError where there is no such moment."""
    with writing(session):
        document = read_document(text_of(session, sort, ref))
        if not why_unread(sort, document):
            raise jobs.RefusedError("", "it can be read as it is: nothing is brought back")
        if isinstance(document, Unread):
            raise jobs.RefusedError("", "what is kept is no JSON: it comes back from a copy of the database alone")
        steps = _steps(session, sort, ref)
        found = next(((n, d) for n, d in _moments(sort, document, steps) if not why_unread(sort, d)), None)
        if found is None:
            raise jobs.RefusedError("", "no moment of its history can be read: bring back a copy of the database")
        number: int = found[0]
        then = found[1]
        row = session.get_one(ROWS[sort], ref if sort is Sort.PART else int(ref))
        row.document, row.version, row.changed_at = then, row.version + 1, jobs.now()
        session.flush()
        _record(session, sort, row, who, document, number)
        return number


def _record(session: Session, sort: Sort, row: Any, who: str, before: Any, number: int) -> None:
    if sort is Sort.PART:
        session.add(PartChangeRow(part_id=row.id, who=who[:40], at=jobs.now(), before=before, after=row.document))
        return
    places = [place for place in {**row.document, **before} if row.document.get(place) != before.get(place)]
    was, then = ({place: found.get(place) for place in places} for found in (before, row.document))
    shared = {"version": row.version, "who": who[:40], "at": jobs.now(), "before": was, "after": then, "undoes": None}
    if sort is Sort.JOB:
        session.add(ChangeRow(job_id=row.id, page="none", path=f"{jobs.RESTORED}{number}", **shared))
        session.execute(update(BoardRow).where(BoardRow.job_id == row.id).values(version=0))
    else:
        session.add(BikeChangeRow(bike_id=row.id, words=BROUGHT_BACK, **shared))


def put_away(session: Session, sort: Sort, ref: str, *, away: bool) -> None:
    """Put one away that cannot be read, or take it out again: it is in no list of what is worked on. Raises
    NotThereError, and RefusedError for one that can be read: that is put away on its own page."""
    with writing(session):
        document = read_document(text_of(session, sort, ref))
        if not why_unread(sort, document):
            raise jobs.RefusedError("", "it can be read: put it away on its own page")
        if sort is Sort.PART:
            session.execute(update(PartRow).where(PartRow.id == ref).values(retired=away))
        elif sort is Sort.BIKE:
            session.execute(update(BikeRow).where(BikeRow.id == int(ref)).values(archived=away))
        else:
            state = StayState.ARCHIVED if away else StayState.ON_THE_BENCH
            session.execute(update(BoardRow).where(BoardRow.job_id == int(ref)).values(state=state.value))


def unread_parts(session: Session) -> tuple[tuple[str, Words], ...]:
    """Lines of the catalogue that cannot be read, each with why."""
    found = (
        (row.id, why_unread(Sort.PART, row.document))
        for row in session.scalars(select(PartRow).execution_options(yield_per=500))
    )
    return tuple((number, why) for number, why in found if why)
