"""The catalogue as a person keeps it: lines added, changed and retired; files planned before they are taken.

A line that a job uses is never deleted; it is retired and no longer offered. A file is read in two steps: a plan of
what it would change, with every bad row, and the taking of its good rows.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from clavis.core.parts.models import AnyPart
from clavis.core.parts.standard_shelf import SHELF, standard_shelf
from clavis.formats.parts_file import BadRow, read_rows
from clavis.store import jobs
from clavis.store.database import alone
from clavis.store.tables import JobPartRow, PartChangeRow, PartRow


def keep(session: Session, part: AnyPart, who: str, base: int | None = None) -> bool:
    """Add a line or replace the one of its id; False where nothing is different. ``base`` is the version of the line
    that was read, 0 where there was none: raises ConflictError where it has moved on since. Not yet committed."""
    alone(session)
    if base is not None:
        there = session.scalar(select(PartRow.version).where(PartRow.id == part.id)) or 0
        if there != base:
            last = next(iter(history(session, part.id)), None)
            raise jobs.ConflictError("", last.who if last else "somebody", None)
    return bool(keep_all(session, [part], who))


def keep_all(session: Session, parts: Sequence[AnyPart], who: str) -> int:
    """Add lines, or replace those of their ids, in one step; how many are new or different. Raises RefusedError where
    one would change its kind; none is kept then."""
    alone(session)
    present = _present(session, [part.id for part in parts])
    before = {part_id: jobs.read_part(row) for part_id, row in present.items()}
    different = [part for part in parts if before.get(part.id) != part]
    for part in different:
        was = before.get(part.id)
        if was is not None and was.kind != part.kind:
            raise jobs.RefusedError("kind", f"“{part.id}” is a {was.kind}; a part does not change its kind")
    jobs.keep_new_parts(session, [part for part in different if part.id not in before])
    for part in (part for part in different if part.id in before):
        jobs.keep_part(session, part)
    session.flush()  # a change refers to its line
    at = jobs.now()
    steps = [
        {"part_id": part.id, "who": who[:40], "at": at, "before": _plain(before.get(part.id)), "after": _plain(part)}
        for part in different
    ]
    if steps:
        session.execute(insert(PartChangeRow), steps)
    return len(different)


AT_ONCE = 500
"""numbers that one question of the database names"""


def _present(session: Session, part_ids: Sequence[str]) -> dict[str, PartRow]:
    """Those of these lines that the catalogue has."""
    found: dict[str, PartRow] = {}
    for k in range(0, len(part_ids), AT_ONCE):
        query = select(PartRow).where(PartRow.id.in_(part_ids[k : k + AT_ONCE]))
        found |= {row.id: row for row in session.scalars(query)}
    return found


def _plain(part: AnyPart | None) -> dict[str, Any] | None:
    return None if part is None else part.model_dump(mode="json")


def find(session: Session, part_id: str) -> tuple[AnyPart, int]:
    """A line and its version. Raises NotThereError."""
    row = session.get(PartRow, part_id)
    if row is None:
        raise jobs.NotThereError("there is no such part in the catalogue")
    return jobs.read_part(row), row.version


def count(session: Session) -> int:
    """Lines in all, those that cannot be read as well."""
    return session.scalar(select(func.count(PartRow.id))) or 0


def history(session: Session, part_id: str) -> list[PartChangeRow]:
    """Newest first."""
    query = select(PartChangeRow).where(PartChangeRow.part_id == part_id).order_by(PartChangeRow.id.desc())
    return list(session.scalars(query))


def uses(session: Session) -> dict[str, int]:
    """How many jobs use each part."""
    rows = session.execute(select(JobPartRow.part_id, func.count()).group_by(JobPartRow.part_id))
    return {part_id: int(count) for part_id, count in rows}


def differences(before: AnyPart, after: AnyPart) -> list[tuple[str, Any, Any]]:
    """Fields in which two lines differ, as plain values."""
    old, new = before.model_dump(mode="json"), after.model_dump(mode="json")
    return [(name, old.get(name), new.get(name)) for name in new if old.get(name) != new.get(name)]


@dataclass(frozen=True)
class Changed:
    """A line that a file would change."""

    part: AnyPart
    fields: tuple[tuple[str, Any, Any], ...]


@dataclass(frozen=True)
class Plan:
    """What a file would do to the catalogue."""

    new: tuple[AnyPart, ...]
    changed: tuple[Changed, ...]
    same: int
    bad: tuple[BadRow, ...]

    @property
    def takes(self) -> int:
        return len(self.new) + len(self.changed)


def plan(session: Session, data: bytes, kind: str) -> Plan:
    """What a CSV or JSON file would change. ``kind`` is what rows are taken for that do not say it. Raises
    PartsFileError where the file cannot be read at all; a bad row is listed, not raised."""
    return plan_of(session, *read_rows(data, kind))


def plan_of(session: Session, rows: Sequence[tuple[str, AnyPart]], unread: Sequence[BadRow]) -> Plan:
    """What rows would change, each with its place in the file; ``unread`` are those that could not be read."""
    bad = list(unread)
    present = _present(session, [part.id for _, part in rows])
    new: list[AnyPart] = []
    changed: list[Changed] = []
    same = 0
    for place, part in rows:
        try:
            before = jobs.read_part(present[part.id]) if part.id in present else None
        except jobs.UnreadableError as error:
            bad.append(BadRow(place, part.id, str(error.said)))
            continue
        if before is None:
            new.append(part)
        elif before.kind != part.kind:
            bad.append(BadRow(place, part.id, f"“{part.id}” is a {before.kind} in the catalogue"))
        elif fields := tuple(differences(before, part)):
            changed.append(Changed(part, fields))
        else:
            same += 1
    return Plan(tuple(new), tuple(changed), same, tuple(bad))


def missing_of_shelf(session: Session) -> list[AnyPart]:
    """Parts of the standard shelf that the catalogue does not have; one that was changed or retired is there."""
    there = set(session.scalars(select(PartRow.id).where(PartRow.id.startswith(SHELF))))
    return [part for part in standard_shelf() if part.id not in there]


def put_shelf(session: Session, who: str) -> int:
    """Put what is missing of the standard shelf into the catalogue; how many lines that were."""
    return keep_all(session, missing_of_shelf(session), who)
