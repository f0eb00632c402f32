"""What all bikes need, from the kept rows: unsafe first; and a fleet at a glance."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from clavis.core.keeping.due import RANK, Urgency
from clavis.store.tables import BikeRow, DueRow, PersonRow

PAGE = 60
_URGENCY = {rank: urgency for urgency, rank in RANK.items()}


@dataclass(frozen=True)
class DueItem:
    """One thing that one bike needs."""

    bike_id: int
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


def counts(session: Session) -> dict[Urgency, int]:
    """How many things are due, by how urgent they are."""
    found = dict(session.execute(select(DueRow.rank, func.count()).group_by(DueRow.rank)).tuples().all())
    return {urgency: found.get(rank, 0) for rank, urgency in _URGENCY.items()}


def items(
    session: Session, urgency: Urgency | None = None, fleet: str = "", bike_id: int | None = None, page: int = 0
) -> tuple[list[DueItem], int]:
    """One page of what is due, unsafe first, then what is soonest; and how much there is in all."""
    wanted: list[ColumnElement[bool]] = [BikeRow.archived.is_(False)]
    if urgency is not None:
        wanted.append(DueRow.rank == RANK[urgency])
    if fleet:
        wanted.append(BikeRow.fleet == fleet)
    if bike_id is not None:
        wanted.append(DueRow.bike_id == bike_id)
    joined = select(DueRow, BikeRow.name, BikeRow.frame_number, BikeRow.fleet, PersonRow.name)
    joined = joined.join(BikeRow, BikeRow.id == DueRow.bike_id)
    query = joined.outerjoin(PersonRow, PersonRow.id == BikeRow.person_id).where(*wanted)
    total = session.scalar(select(func.count()).select_from(DueRow).join(BikeRow).where(*wanted)) or 0
    order = (DueRow.rank, func.coalesce(DueRow.left_km, 1e9), BikeRow.name, DueRow.key)
    found = [
        DueItem(
            row.bike_id, name, frame_number, of_fleet, person or "", row.key, _URGENCY[row.rank], row.end, row.about,
            row.shown, row.order_id, row.left_km, row.by,
        )
        for row, name, frame_number, of_fleet, person in session.execute(
            query.order_by(*order).limit(PAGE).offset(PAGE * page)
        )
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
