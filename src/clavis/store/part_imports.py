"""Files of parts on their way into the catalogue: some lines at a time, so that nobody waits for the whole of a file,
and to the end whatever ends the program between two pieces.

What is left of a file is kept beside the catalogue in the transaction of each piece. Who finds one that does not move
takes the rest of it (``go_on_with_broken``); two that take the same file take turns.
"""

import json
import zlib
from collections.abc import Sequence
from datetime import timedelta
from time import sleep

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from clavis.core.errors import ClavisError
from clavis.core.parts.models import AnyPart, parse_part
from clavis.store import jobs
from clavis.store.catalogue import AT_ONCE, Plan, keep_all
from clavis.store.database import writing
from clavis.store.tables import PartImportRow

OTHERS_TURN_S = 0.01
"""between two pieces of a file others have their turn"""
STANDS_AFTER = timedelta(minutes=1)
"""a file that has not moved for so long was broken off: a piece takes a tenth of a second"""
TOLD_FOR = timedelta(days=2)
"""that one was broken off is told"""


def _packed(parts: Sequence[AnyPart]) -> bytes:
    return zlib.compress(json.dumps([part.model_dump(mode="json") for part in parts]).encode())


def _unpacked(lines: bytes) -> list[AnyPart]:
    return [parse_part(line) for line in json.loads(zlib.decompress(lines))]


def take(session: Session, found: Plan, name: str, who: str) -> int:
    """Take the good rows of a plan; how many lines are new or different. Raises RefusedError where one can be kept no
    longer; the lines before it are kept."""
    parts = [*found.new, *(changed.part for changed in found.changed)]
    if len(parts) <= AT_ONCE:
        with writing(session):
            return keep_all(session, parts, who)
    lines = _packed(parts)
    with writing(session):
        row = PartImportRow(name=name[:120], who=who[:40], moved_at=jobs.now(), total=len(parts), lines=lines)
        session.add(row)
        session.flush()
        number = row.id
    try:
        return _to_the_end(session, number, parts)
    except ClavisError:
        with writing(session):
            session.execute(delete(PartImportRow).where(PartImportRow.id == number))
        raise


def _to_the_end(session: Session, number: int, parts: Sequence[AnyPart]) -> int:
    """Piece by piece, from where the row says; how many lines this one took."""
    kept = 0
    while True:
        with writing(session):
            row = session.get(PartImportRow, number)
            if row is None or row.taken >= row.total:
                return kept
            piece = parts[row.taken : row.taken + AT_ONCE]
            kept += keep_all(session, piece, row.who)
            row.taken += len(piece)
            row.moved_at = jobs.now()
            if row.taken >= row.total and row.broken_at is None:
                session.delete(row)
        sleep(OTHERS_TURN_S)


def go_on_with_broken(session: Session) -> int:
    """Take the rest of files that were broken off; how many files. One that cannot be taken further says why."""
    now = jobs.now()
    with writing(session):
        session.execute(
            delete(PartImportRow).where(
                PartImportRow.broken_at.is_not(None),
                PartImportRow.taken >= PartImportRow.total,
                PartImportRow.moved_at < now - TOLD_FOR,
            )
        )
        rows = session.scalars(select(PartImportRow).where(PartImportRow.taken < PartImportRow.total))
        standing = [row for row in rows if not row.trouble and abs(now - row.moved_at) > STANDS_AFTER]
        for row in standing:
            row.broken_at = row.taken if row.broken_at is None else row.broken_at
        found = [(row.id, row.lines) for row in standing]
    for number, lines in found:
        try:
            _to_the_end(session, number, _unpacked(lines))
        except (ClavisError, ValueError) as error:
            with writing(session):
                stopped = session.get(PartImportRow, number)
                if stopped is not None:
                    stopped.trouble = str(error)[:300]
    return len(found)


def told(session: Session) -> list[PartImportRow]:
    """Files on their way, and those that were broken off, without their lines."""
    return list(session.scalars(select(PartImportRow).order_by(PartImportRow.id)))


def dismiss(session: Session, number: int) -> None:
    """What was told of a file that was broken off is read; one that can go on stays."""
    with writing(session):
        row = session.get(PartImportRow, number)
        if row is not None and (row.trouble or row.taken >= row.total):
            session.delete(row)
