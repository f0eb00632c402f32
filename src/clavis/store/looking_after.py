"""Looking after the data: copies while they are in use, bringing a copy back, a copy every day, and looking whether all
is well. A copy is a whole database of its own; nothing half written ever bears its name."""

import contextlib
import re
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from sqlalchemy import String, create_engine, func, or_, select, type_coerce
from sqlalchemy.orm import Session

from clavis.core.errors import ClavisError
from clavis.core.job.document import Job, Ride
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.models import parse_part
from clavis.core.records import described
from clavis.store import accounts, database, jobs
from clavis.store.file_copies import ONLY_OWNER, copy_whole, reading
from clavis.store.tables import Base, BikeRow, BoardRow, JobRow, LibraryRideRow, PartRow, SearchEntryRow, StoredMoment

KEPT_DAYS = 14
MOST_TAKEN_AWAY = 2
"""copies at a start: one for the one that was made, and one more where fewer are to be kept from now on"""
LONGEST_AWAY_DAYS = 120
"""a workshop that was shut for longer looks at its clock"""
_DAILY = re.compile(r"^clavis-(\d{4}-\d{2}-\d{2})\.db$")


class BackupError(ClavisError):
    """A copy that could not be made, or brought back; nothing was changed."""


def _sound(path: Path) -> str:
    """What is wrong with a database as a file; nothing where it is sound."""
    try:
        with contextlib.closing(reading(path)) as connection:
            connection.text_factory = database.LETTERS
            found = connection.execute("pragma integrity_check(5)").fetchall()
            version = connection.execute("select version_num from alembic_version").fetchone()
    except (sqlite3.Error, UnicodeError) as error:
        return " ".join(str(error).split())
    if [row[0] for row in found] != ["ok"]:
        return " ".join("; ".join(str(row[0]) for row in found).split())[:300]
    if version is None or str(version[0]) > database.NEWEST:
        return f"it is of a newer Clavis ({version[0] if version else 'unknown'})"
    return ""


def copy(source: Path, target: Path) -> None:
    """Copy a database whole while it is in use. Raises BackupError; the target is there whole or not at all."""
    if not source.exists():
        raise BackupError(f"{source} is not there")
    if target.exists():
        raise BackupError(f"{target} exists already")
    try:
        wrong = copy_whole(source, target, _sound)
    except (OSError, sqlite3.Error) as error:
        raise BackupError(f"{target} could not be written: {error}") from None
    if wrong:
        raise BackupError(f"the copy is not sound: {wrong}")


def restore(backup: Path, path: Path, now: datetime) -> Path | None:
    """Bring a copy back in the place of a database, also while that is in use: whoever reads next reads the copy. What
    was there before is kept beside it; where. Raises BackupError; then nothing was changed."""
    if not backup.exists():
        raise BackupError(f"{backup} is not there")
    wrong = _sound(backup)
    if wrong:
        raise BackupError(f"{backup} cannot be brought back: {wrong}")
    before, count = None, _count(path)
    if path.exists():
        before = path.with_name(f"{path.stem}-before-{now:%Y-%m-%d-%H%M%S}{path.suffix}")
        copy(path, before)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with contextlib.closing(reading(backup)) as there, contextlib.closing(sqlite3.connect(path)) as here:
            here.execute("pragma busy_timeout = 10000")
            there.backup(here)
        path.chmod(ONLY_OWNER)
    except (OSError, sqlite3.Error) as error:
        raise BackupError(f"{path} could not be written: {error}") from None
    engine = database.open_engine(path)  # an older copy is brought to the newest schema
    with database.sessions(engine)() as session, database.writing(session):
        jobs.move_count(session, count)
        accounts.end_every_session(session)  # one that has ended since the copy was made begins not anew
    engine.dispose()
    return before


def _count(path: Path) -> int:
    """How often the catalogue of a database has changed; 0 where that cannot be told."""
    with contextlib.suppress(sqlite3.Error), contextlib.closing(reading(path)) as connection:
        return int(connection.execute("select value from counter where name = 'catalogue'").fetchone()[0])
    return 0


def daily(path: Path, folder: Path, today: date, kept_days: int = KEPT_DAYS) -> Path | None:
    """Today's copy, where there is none yet; the new copy, or None. One of long ago is taken away where as many newer
    ones are there, never more than was added: a clock that is wrong takes nothing with it. Raises BackupError; then no
    older copy is taken away."""
    if not path.exists():
        return None
    target = folder / f"clavis-{today.isoformat()}.db"
    made = None
    if not target.exists():
        copy(path, target)
        made = target
        beyond = sorted(_dailies(folder), key=lambda found: found[1])[:-kept_days]
        for name, day in beyond[:MOST_TAKEN_AWAY]:
            if day < today - timedelta(days=kept_days - 1):
                name.unlink(missing_ok=True)
    return made


def clock_trouble(folder: Path, today: date) -> str:
    """What the days of the copies say against today's; nothing where they agree."""
    newest = max((day for _, day in _dailies(folder) if day != today), default=None)
    if newest is None or timedelta(0) <= today - newest <= timedelta(days=LONGEST_AWAY_DAYS):
        return ""
    return (
        f"the newest copy is of {newest.isoformat()}, and the clock says {today.isoformat()}: see whether it is right"
    )


def _dailies(folder: Path) -> Iterator[tuple[Path, date]]:
    for name in sorted(folder.iterdir()) if folder.exists() else []:
        found = _DAILY.match(name.name)
        if found:
            with contextlib.suppress(ValueError):
                yield name, date.fromisoformat(found[1])


@dataclass(frozen=True)
class Trouble:
    """Something that is not well: where, and what."""

    where: str
    what: str


def check(path: Path) -> list[Trouble]:
    """Everything that is not well in a database: the file, its references, and every document in it. Raises BackupError
    where there is none."""
    if not path.exists():
        raise BackupError(f"{path} is not there")
    wrong = _sound(path)
    if wrong:
        return [Trouble("file", wrong)]
    found = []
    with contextlib.closing(reading(path)) as connection:
        for table, row, parent, _ in connection.execute("pragma foreign_key_check"):
            found.append(Trouble(f"{table} {row}", f"refers to a {parent} that is not there"))
        (version,) = connection.execute("select version_num from alembic_version").fetchone()
    if version == database.NEWEST and (lacks := _lacking(path)):
        return [*found, *(Trouble("schema", f"lacks {what}") for what in lacks)]
    if version != database.NEWEST:
        return [*found, Trouble("schema", f"{version}, older than this Clavis: it is brought up when it is opened")]
    engine = create_engine("sqlite://", creator=lambda: reading(path), json_deserializer=database.read_document)
    try:
        with database.sessions(engine)() as session:
            found += _documents(session)
    finally:
        engine.dispose()
    return found


def _lacking(path: Path) -> list[str]:
    engine = create_engine("sqlite://", creator=lambda: reading(path))
    try:
        return database.missing(engine)
    finally:
        engine.dispose()


def _documents(session: Session) -> Iterator[Trouble]:
    """Documents that cannot be read, jobs without a bike or without a row of the board, and what the search lost."""
    for row in session.scalars(select(JobRow).execution_options(yield_per=200)):
        yield from _readable(f"job {row.id}", Job.model_validate, row.document)
        if row.bike_id is None:
            yield Trouble(f"job {row.id}", "is about no bike")
    for bike in session.scalars(select(BikeRow).execution_options(yield_per=200)):
        yield from _readable(f"bike {bike.id}", KeptBike.model_validate, bike.document)
    for part in session.scalars(select(PartRow).execution_options(yield_per=200)):
        yield from _readable(f"part {part.id}", parse_part, part.document)
    for ride in session.scalars(select(LibraryRideRow).execution_options(yield_per=200)):
        yield from _readable(f"ride {ride.id}", Ride.model_validate, ride.document)
    yield from _lost_moments(session)
    missing = select(JobRow.id).where(JobRow.id.not_in(select(BoardRow.job_id)))
    for number in session.scalars(missing):
        yield Trouble(f"job {number}", "does not stand on the board")
    for kind, table in (("job", JobRow), ("bike", BikeRow), ("part", PartRow)):
        known = session.scalar(select(func.count(SearchEntryRow.id)).where(SearchEntryRow.kind == kind))
        there = session.scalar(select(func.count()).select_from(table))
        if known != there:
            yield Trouble("search", f"knows {known} of {there} {kind}s")


def _lost_moments(session: Session) -> Iterator[Trouble]:
    """Dates that are none, of whatever table."""
    for table in Base.metadata.sorted_tables:
        keys = list(table.primary_key.columns)
        for column in (c for c in table.columns if isinstance(c.type, StoredMoment)):
            stored = type_coerce(column, String)
            none = or_(func.julianday(stored).is_(None), stored.not_like("____-__-__ __:__%"))
            for row in session.execute(select(*keys).where(stored.is_not(None), none)):
                yield Trouble(f"{table.name} {' '.join(map(str, row))}", f"{column.name}: its date cannot be read")


def _readable(where: str, read: Callable[[Any], object], document: Any) -> Iterator[Trouble]:
    try:
        read(document)
    except ValidationError as error:
        yield Trouble(where, f"cannot be read: {described(error)}"[:200])
    except (ValueError, KeyError, TypeError) as error:
        yield Trouble(where, f"cannot be read: {error}"[:200])
