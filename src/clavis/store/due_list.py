"""What all bikes need, from the kept rows: unsafe first; and a fleet at a glance."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from clavis.core.keeping.due import RANK, Urgency
from clavis.store.tables import BikeRow, BoardRow, DueRow, JobRow, PersonRow

PAGE = 60
_URGENCY = {rank: urgency for urgency, rank in RANK.items()}


@dataclass(frozen=True)
class DueItem:
    """One thing that one bike needs."""

    bike_id: int
    version: int
    changed_at: datetime
    bike: str
    frame_number: str
    fleet: str
    person: str
    key: str
    urgency: Urgency
    end: str
    about: str
    shown: Mapping[str, Any]
    order_id: str
    left_km: float | None
    by: str


@dataclass(frozen=True)
class FleetBike:
    """One bike of a fleet at a glance: its gravest due item, when it is due first, and its newest job."""

    bike_id: int
    name: str
    frame_number: str
    gravest: Urgency | None
    about: str
    least_left_km: float | None
    first_by: str
    job_id: int | None
    shown: Mapping[str, Any]
    """the board's row of its newest job"""


MOST_AT_A_GLANCE = 100
"""bikes of a fleet that are shown together"""


def _shown(document: Any) -> Mapping[str, Any]:
    """What a row of the board shows; nothing where it is damaged, until it is made anew."""
    return document if isinstance(document, dict) else {}


def fleet_at_a_glance(session: Session, fleet: str, most: int = MOST_AT_A_GLANCE) -> list[FleetBike]:
    """The bikes of a fleet, the gravest first."""
    first = (
        select(
            DueRow.bike_id,
            func.min(DueRow.rank).label("rank"),
            func.min(DueRow.left_km).label("left_km"),
            func.min(func.nullif(DueRow.by, "")).label("by"),
        )
        .group_by(DueRow.bike_id)
        .subquery()
    )
    newest = select(JobRow.bike_id, func.max(JobRow.id).label("job_id")).group_by(JobRow.bike_id).subquery()
    about = (
        select(DueRow.about)
        .where(DueRow.bike_id == BikeRow.id, DueRow.rank == first.c.rank)
        .order_by(DueRow.left_km, DueRow.key)
        .limit(1)
        .scalar_subquery()
    )
    query = (
        select(
            BikeRow.id, BikeRow.name, BikeRow.frame_number, first.c.rank, about, first.c.left_km, first.c.by,
            newest.c.job_id, BoardRow.shown,
        )
        .outerjoin(first, first.c.bike_id == BikeRow.id)
        .outerjoin(newest, newest.c.bike_id == BikeRow.id)
        .outerjoin(BoardRow, BoardRow.job_id == newest.c.job_id)
        .where(BikeRow.fleet == fleet, BikeRow.archived.is_(False))
        .order_by(func.coalesce(first.c.rank, len(RANK)), first.c.left_km, BikeRow.name)
        .limit(most)
    )  # fmt: skip
    return [
        FleetBike(number, name, frame, _URGENCY.get(rank), what or "", left_km, by or "", job_id, _shown(shown))
        for number, name, frame, rank, what, left_km, by, job_id, shown in session.execute(query)
    ]


def counts(session: Session, fleet: str = "") -> dict[Urgency, int]:
    """How many things are due, by how urgent they are."""
    query = select(DueRow.rank, func.count()).group_by(DueRow.rank)
    if fleet:
        query = query.join(BikeRow, BikeRow.id == DueRow.bike_id).where(BikeRow.fleet == fleet)
    found = dict(session.execute(query).all())
    return {urgency: found.get(rank, 0) for rank, urgency in _URGENCY.items()}


def of_bike(session: Session, bike_id: int | None) -> list[tuple[Urgency, str]]:
    """What one bike needs, gravest first: how urgent, and what."""
    query = select(DueRow.rank, DueRow.about).where(DueRow.bike_id == bike_id).order_by(DueRow.rank, DueRow.key)
    return [(_URGENCY[rank], about) for rank, about in session.execute(query)]


def items(
    session: Session, urgency: Urgency | None = None, fleet: str = "", page: int = 0, most: int = PAGE
) -> tuple[list[DueItem], int]:
    """One page of what is due, unsafe first, then what is soonest; and how much there is in all."""
    wanted: list[ColumnElement[bool]] = [BikeRow.archived.is_(False)]
    if urgency is not None:
        wanted.append(DueRow.rank == RANK[urgency])
    if fleet:
        wanted.append(BikeRow.fleet == fleet)
    columns = (BikeRow.name, BikeRow.frame_number, BikeRow.fleet, BikeRow.version, BikeRow.changed_at, PersonRow.name)
    joined = select(DueRow, *columns)
    joined = joined.join(BikeRow, BikeRow.id == DueRow.bike_id)
    query = joined.outerjoin(PersonRow, PersonRow.id == BikeRow.person_id).where(*wanted)
    total = session.scalar(select(func.count()).select_from(DueRow).join(BikeRow).where(*wanted)) or 0
    order = (DueRow.rank, func.coalesce(DueRow.left_km, 1e9), BikeRow.name, DueRow.key)
    found = [
        DueItem(
            row.bike_id, version, at, name, frame_number, of_fleet, person or "", row.key, _URGENCY[row.rank], row.end,
            row.about, row.shown, row.order_id, row.left_km, row.by,
        )
        for row, name, frame_number, of_fleet, version, at, person in session.execute(
            query.order_by(*order).limit(most).offset(most * page)
        )
        if isinstance(row.shown, dict)  # what is damaged is worked out again
    ]  # fmt: skip
    return found, total


def fleets(session: Session) -> list[tuple[str, int]]:
    """Every fleet by name, with how many bikes it has."""
    query = (
        select(BikeRow.fleet, func.count())
        .where(BikeRow.fleet != "", BikeRow.archived.is_(False))
        .group_by(BikeRow.fleet)
        .order_by(BikeRow.fleet)
    )
    return [(fleet, count) for fleet, count in session.execute(query)]


def to_order(session: Session, fleet: str = "", until: str = "") -> list[tuple[str, int]]:
    """Parts that are to be ordered, by id, with how many: of what is due now or before a day."""
    query = (
        select(DueRow.order_id, func.count())
        .join(BikeRow, BikeRow.id == DueRow.bike_id)
        .where(DueRow.order_id != "", BikeRow.archived.is_(False))
        .group_by(DueRow.order_id)
        .order_by(func.count().desc(), DueRow.order_id)
    )
    if fleet:
        query = query.where(BikeRow.fleet == fleet)
    if until:
        urgent = DueRow.rank <= RANK[Urgency.REPLACE]
        query = query.where(urgent | ((DueRow.by != "") & (DueRow.by <= until)))
    return [(part_id, count) for part_id, count in session.execute(query)]
