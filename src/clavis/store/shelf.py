"""The shelf: pieces of each part in the workshop, what is set aside for a job, and what was ordered for it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis.core.workshop.supply import NOTHING_YET, Supplied, SupplyLine, beyond
from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import PartRow, StockRow, SupplyRow

MOST_PIECES = 100_000


def stock(session: Session, part_ids: Sequence[str] | None = None) -> dict[str, int]:
    """Pieces on the shelf by part; a part that is not in it has none."""
    query = select(StockRow.part_id, StockRow.pieces)
    if part_ids is not None:
        query = query.where(StockRow.part_id.in_(part_ids))
    return {row.part_id: row.pieces for row in session.execute(query)}


def count(session: Session, part_id: str, pieces: int, who: str) -> None:
    """Pieces were counted, or came in. Raises NotThereError, RefusedError."""
    with writing(session):
        if session.get(PartRow, part_id) is None:
            raise jobs.NotThereError("there is no such part in the catalogue")
        if not 0 <= pieces <= MOST_PIECES:
            raise jobs.RefusedError("pieces", f"pieces on the shelf are between 0 and {MOST_PIECES}")
        _put(session, part_id, pieces, who)


def _put(session: Session, part_id: str, pieces: int, who: str) -> None:
    row = session.get(StockRow, part_id)
    if row is None:
        row = StockRow(part_id=part_id)
        session.add(row)
    row.pieces, row.who, row.changed_at = pieces, who[:40], jobs.now()


def supplied(session: Session, job_id: int) -> dict[str, Supplied]:
    """What was done about each part of a job."""
    rows = session.scalars(select(SupplyRow).where(SupplyRow.job_id == job_id))
    return {r.part_id: Supplied(r.taken, r.ordered, r.arrived, r.price, r.promised) for r in rows}


def _row(session: Session, job_id: int, part_id: str, who: str) -> SupplyRow:
    row = session.get(SupplyRow, (job_id, part_id))
    if row is None:
        row = SupplyRow(job_id=job_id, part_id=part_id, taken=0, ordered=0, arrived=0, promised="", number="")
        session.add(row)
    row.who, row.changed_at = who[:40], jobs.now()
    return row


def set_aside(session: Session, job_id: int, lines: Sequence[SupplyLine], who: str) -> int:
    """Take what the shelf has of an order's lines off it, for this job; how many pieces."""
    with writing(session):
        total, now = 0, supplied(session, job_id)
        for planned in lines:
            part_id = planned.need.part_id
            line = replace(planned, supplied=now.get(part_id, NOTHING_YET))  # another may have set it aside meanwhile
            on_shelf = session.get(StockRow, part_id)
            pieces = min(line.lacks, on_shelf.pieces if on_shelf else 0)
            if pieces and on_shelf:
                _put(session, part_id, on_shelf.pieces - pieces, who)
                _row(session, job_id, part_id, who).taken += pieces
                total += pieces
        return total


def put_back(session: Session, job_id: int, needed: Mapping[str, int], who: str) -> int:
    """Lay back what is set aside, or arrived, beyond what the order needs now; how many pieces."""
    with writing(session):
        more = beyond(supplied(session, job_id), needed)
        lying = stock(session, list(more))
        for row in session.scalars(
            select(SupplyRow).where(SupplyRow.job_id == job_id, SupplyRow.part_id.in_(more))
        ).all():
            pieces = more[row.part_id]
            _out_of_hand(session, row, pieces, who)
            _put(session, row.part_id, lying.get(row.part_id, 0) + pieces, who)
        return sum(more.values())


def _out_of_hand(session: Session, row: SupplyRow, pieces: int, who: str) -> None:
    """Pieces of a part are in hand for the job no more, what arrived for it first; with nothing left nothing is
    known of it."""
    from_arrived = min(pieces, row.arrived)
    row.arrived, row.ordered = row.arrived - from_arrived, row.ordered - from_arrived
    row.taken -= pieces - from_arrived
    row.who, row.changed_at = who[:40], jobs.now()
    if not (row.taken or row.ordered):
        session.delete(row)


def used(session: Session, job_id: int, needed: Mapping[str, int], who: str) -> None:
    """An order was carried out: of what was in hand for it the pieces that it needed are on the bike."""
    with writing(session):
        for row in session.scalars(select(SupplyRow).where(SupplyRow.job_id == job_id)).all():
            _out_of_hand(session, row, min(needed.get(row.part_id, 0), row.taken + row.arrived), who)


def ordered(
    session: Session, job_id: int, number: str, lines: Sequence[tuple[str, int, float | None, int | None]], who: str
) -> None:
    """The supplier has confirmed an order: part, pieces, price of one, days."""
    with writing(session):
        today = jobs.now().date()
        for part_id, pieces, price, days in lines:
            row = _row(session, job_id, part_id, who)
            row.ordered += pieces
            row.price, row.number = price, number[:40]
            row.promised = "" if days is None else (today + timedelta(days=days)).isoformat()


def arrived(session: Session, job_id: int, part_id: str, who: str) -> None:
    """All that was ordered of a part for a job is there. Raises NotThereError where nothing was."""
    with writing(session):
        row = session.get(SupplyRow, (job_id, part_id))
        if row is None or row.arrived >= row.ordered:
            raise jobs.NotThereError("nothing of this part is on its way for this job")
        row.arrived, row.who, row.changed_at = row.ordered, who[:40], jobs.now()
