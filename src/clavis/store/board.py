"""What the board shows of jobs: kept rows, filtered, sorted and paged by the database. No job is computed to be
listed."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import ColumnElement, and_, case, func, or_, select, update
from sqlalchemy.orm import Session

from clavis.core.job.document import HERE, StayState
from clavis.store.search import asked_for, found
from clavis.store.tables import BikeRow, BoardRow, JobRow, PersonRow

PAGE = 30
"""rows of one page of the board"""


class SortBy(StrEnum):
    """By what the board is sorted."""

    PROMISED = "promised"
    CHANGED = "changed"
    WORST = "worst"
    NAME = "name"


@dataclass(frozen=True)
class BoardQuery:
    """What of the board is asked for; ``state`` None is every bike that is here."""

    state: StayState | None = None
    mechanic: str = ""
    words: str = ""
    sort: SortBy = SortBy.CHANGED
    page: int = 0


@dataclass(frozen=True)
class Listed:
    """One row of the board. ``current`` is whether ``shown`` was made of the job as it is now."""

    job_id: int
    state: StayState
    promised_on: str
    mechanic: str
    title: str
    changed_at: datetime
    shown: dict[str, Any]
    current: bool
    demo: bool
    bike_id: int | None
    bike: str
    person: str


MOST_MATCHES = 500
"""jobs that a search looks at; whoever finds more types another letter"""


def _wanted(session: Session, query: BoardQuery) -> list[ColumnElement[bool]]:
    found: list[ColumnElement[bool]] = []
    if query.state is not None:
        found.append(BoardRow.state == query.state.value)
    elif not asked_for(query.words):
        found.append(BoardRow.state.in_([state.value for state in HERE]))
    if query.mechanic:
        found.append(BoardRow.mechanic == query.mechanic)
    if asked_for(query.words):
        found.append(BoardRow.job_id.in_(_matches(session, query.words)))
    return found


def _matches(session: Session, words: str) -> list[int]:
    """Jobs that have these words, or whose bike has them, or whose bike's owner: the best first, so many."""
    of_kind = {
        kind: [int(hit.ref) for hit in found(session, words, MOST_MATCHES, kind)] for kind in ("job", "bike", "person")
    }
    owned = select(BikeRow.id).where(BikeRow.person_id.in_(of_kind["person"]))
    of_bikes = select(JobRow.id).where(or_(JobRow.bike_id.in_(of_kind["bike"]), JobRow.bike_id.in_(owned)))
    return [*of_kind["job"], *session.scalars(of_bikes.limit(MOST_MATCHES))]


def _joined(what: Any) -> Any:
    return (
        what.join(JobRow, JobRow.id == BoardRow.job_id)
        .outerjoin(BikeRow, BikeRow.id == JobRow.bike_id)
        .outerjoin(PersonRow, PersonRow.id == BikeRow.person_id)
    )


_ORDER: dict[SortBy, tuple[Any, ...]] = {
    SortBy.CHANGED: (BoardRow.changed_at.desc(), BoardRow.job_id),
    SortBy.PROMISED: (case((BoardRow.promised_on == "", 1), else_=0), BoardRow.promised_on, BoardRow.job_id),
    SortBy.WORST: (BoardRow.grade, BoardRow.changed_at.desc()),
    SortBy.NAME: (func.lower(BoardRow.title), BoardRow.job_id),
}


def rows(session: Session, query: BoardQuery) -> tuple[list[Listed], int]:
    """One page of the board, and how many rows there are in all."""
    wanted = and_(True, *_wanted(session, query))
    total = session.scalar(select(func.count(BoardRow.job_id)).where(wanted)) or 0
    # which rows first, by the narrow columns; then what they show
    ids = select(BoardRow.job_id).where(wanted).order_by(*_ORDER[query.sort]).limit(PAGE).offset(PAGE * query.page)
    numbers = list(session.scalars(ids))
    columns = (BoardRow, JobRow.version, JobRow.demo, JobRow.bike_id, BikeRow.name, PersonRow.name)
    page = _joined(select(*columns)).where(BoardRow.job_id.in_(numbers)).order_by(*_ORDER[query.sort])
    found = [
        Listed(
            row.job_id, state_of(row.state), row.promised_on, row.mechanic, row.title, row.changed_at,
            row.shown if isinstance(row.shown, dict) else {},
            row.version == version, demo, bike_id, bike or "", person or "",
        )
        for row, version, demo, bike_id, bike, person in session.execute(page)
    ]  # fmt: skip
    return found, total


def state_of(written: str) -> StayState:
    """A state as it stands in a row; one that nobody knows counts as on the bench, where it is seen."""
    return StayState(written) if written in set(StayState) else StayState.ON_THE_BENCH


def promised(session: Session, most: int) -> list[tuple[int, str, str, str, int, datetime]]:
    """Number, day, title, mechanic, version and last change of every job here that has a day promised."""
    query = (
        select(
            BoardRow.job_id, BoardRow.promised_on, BoardRow.title, BoardRow.mechanic, JobRow.version,
            BoardRow.changed_at,
        )
        .join(JobRow, JobRow.id == BoardRow.job_id)
        .where(BoardRow.promised_on != "", BoardRow.state.in_([state.value for state in HERE]))
        .order_by(BoardRow.promised_on)
        .limit(most)
    )  # fmt: skip
    return [
        (number, day, title, mechanic, version, at)
        for number, day, title, mechanic, version, at in session.execute(query)
    ]


def counts(session: Session) -> dict[StayState, int]:
    """How many jobs there are in each state."""
    found = dict(session.execute(select(BoardRow.state, func.count()).group_by(BoardRow.state)).all())
    return {state: found.get(state.value, 0) for state in StayState}


def mechanics(session: Session) -> list[str]:
    """Everybody who has a bike here, by name."""
    here = BoardRow.state.in_([state.value for state in HERE])
    query = select(BoardRow.mechanic).where(BoardRow.mechanic != "", here).distinct()
    return sorted(session.scalars(query))


def here(session: Session, also: str = "", most: int = 60) -> list[tuple[int, str]]:
    """Number and title of the jobs that are here, the newest change first, and of one more that is asked for."""
    found = BoardRow.state.in_([state.value for state in HERE])
    query = select(BoardRow.job_id, BoardRow.title).where(found).order_by(BoardRow.changed_at.desc()).limit(most)
    rows = [(number, title) for number, title in session.execute(query)]
    if also.isdecimal() and int(also) not in dict(rows):
        asked = session.execute(select(BoardRow.job_id, BoardRow.title).where(BoardRow.job_id == int(also)))
        rows += [(number, title) for number, title in asked]
    return rows


def templates(session: Session, most: int = 40) -> dict[int, str]:
    """Jobs that are templates, by number, with their titles."""
    query = (
        select(BoardRow.job_id, BoardRow.title)
        .where(BoardRow.state == StayState.TEMPLATE.value)
        .order_by(BoardRow.title)
        .limit(most)
    )
    return dict(session.execute(query).all())


def stale(session: Session, stamp: str, most: int) -> list[int]:
    """Jobs whose row was made of an older version; of the bikes that are here also those whose row was made by other
    rules or another catalogue. What was handed over stands as it was judged then."""
    here = BoardRow.state.in_([state.value for state in HERE])
    query = (
        select(BoardRow.job_id)
        .join(JobRow, JobRow.id == BoardRow.job_id)
        .where(or_(BoardRow.version != JobRow.version, and_(here, BoardRow.stamp != stamp)))
        .order_by(case((here, 0), else_=1), BoardRow.changed_at.desc())
        .limit(most)
    )
    return list(session.scalars(query))


def keep(session: Session, job_id: int, version: int, stamp: str, grade: int, shown: dict[str, Any]) -> None:
    """What is shown of a job at a version; an older one never takes the place of a newer."""
    session.execute(
        update(BoardRow)
        .where(BoardRow.job_id == job_id, BoardRow.version <= version)
        .values(version=version, stamp=stamp, grade=grade, shown=shown)
    )
    session.commit()


def newest(session: Session) -> int:
    """The number of the newest job; 0 where there is none."""
    return session.scalar(select(func.max(JobRow.id))) or 0
