"""Opening the database: SQLite with foreign keys and the write-ahead log on, brought to the newest migration.

A file is made here and nowhere else: once open, a database that was taken away is missed, not made anew. Whoever writes
what rests on what was read takes ``alone`` first.
"""

import contextlib
import json
import os
import sqlite3
import threading
from collections.abc import Callable, Iterator
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sqlalchemy import Engine, Inspector, create_engine, event, inspect, text
from sqlalchemy.exc import DatabaseError, DisconnectionError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import QueuePool

from clavis.core.errors import ClavisError
from clavis.store.file_copies import ONLY_OWNER, copy_whole, make_empty
from clavis.store.tables import TRIGGERS, Base

if TYPE_CHECKING:
    from alembic.config import Config

NEWEST = "0012"
"""the newest migration; a test holds it to the files"""
MIGRATIONS = Path(__file__).with_name("migrations")
MOST_CONNECTIONS = 48
"""more than requests are answered at a time, so that none of them waits for another's connection"""
BUSY_MS = 5000
"""how long a write waits for another one to end"""


class DatabaseTroubleError(ClavisError):
    """A database that cannot be used as it is: what is the matter, and what to do about it. ``passing`` is whether it
    is likely to be over when the same is tried again."""

    def __init__(self, said: str, *, passing: bool = False) -> None:
        super().__init__(said)
        self.passing = passing


# What SQLite's own names of errors come to, for who has to do something about it.
_TROUBLES: dict[str, tuple[str, bool]] = {
    "SQLITE_BUSY": ("the database is busy with another change: try again", True),
    "SQLITE_LOCKED": ("the database is busy with another change: try again", True),
    "SQLITE_FULL": ("the disk is full and nothing was kept: make room, then try again", True),
    "SQLITE_READONLY": ("the database may only be read: give its owner the right to write file and folder", False),
    "SQLITE_IOERR": ("the disk could not be read or written and nothing was kept: look after it, then try again", True),
    "SQLITE_CANTOPEN": ("the database cannot be opened: see whether its file and folder are there", False),
    "SQLITE_PERM": ("the database may not be opened: give its owner the right to read and write it", False),
    "SQLITE_CORRUPT": ("the database is damaged: run “clavis check”, bring back a copy with “clavis restore”", False),
    "SQLITE_NOTADB": ("this file is no database of Clavis, or its beginning is damaged: bring back a copy", False),
}  # fmt: skip


def trouble_of(error: BaseException) -> DatabaseTroubleError | None:
    """What an error of SQLite means in words; None for one that is a fault of ours."""
    if isinstance(error, DatabaseTroubleError):
        return error
    cause = error.orig if isinstance(error, DatabaseError) else error
    if not isinstance(cause, sqlite3.Error):
        return None
    name = getattr(cause, "sqlite_errorname", "") or ""
    for known, (said, passing) in _TROUBLES.items():
        if name == known or name.startswith(f"{known}_"):
            return DatabaseTroubleError(said, passing=passing)
    return None


class Unread(str):
    """A document that is no JSON, as the text that stands in the database: it bears no fields, and keeps nothing else
    from being read."""


def read_document(text: str | bytes) -> Any:
    """A document as plain data; Unread where it is none."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        return Unread(text if isinstance(text, str) else text.decode("utf-8", "replace"))


LETTERS = partial(str, encoding="utf-8", errors="replace")
"""a byte that a failing disc changed costs a letter of its row, not every page that reads the row"""


def _on_connect(connection: Any, _record: object) -> None:
    connection.text_factory = LETTERS
    cursor = connection.cursor()
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.execute("PRAGMA journal_mode = WAL")
    cursor.execute("PRAGMA synchronous = FULL")  # what was said to be kept outlives a power cut
    cursor.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
    cursor.close()


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _make(path: Path) -> None:
    """The file, empty and its owner's alone, where there is none. Raises DatabaseTroubleError."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        if path.is_dir():
            raise DatabaseTroubleError(f"{path} is a folder: name a file in it")
        with contextlib.suppress(FileExistsError):
            make_empty(path)
        if not os.access(path, os.R_OK | os.W_OK) or not os.access(path.parent, os.W_OK):
            raise DatabaseTroubleError(f"{path} may only be read: give its owner the right to write file and folder")
        with contextlib.suppress(OSError):  # not ours to change: then it stays as it was set
            path.chmod(ONLY_OWNER)
    except OSError as error:
        raise DatabaseTroubleError(f"{path} cannot be made: {error.strerror}") from None


def open_engine(path: Path, when_another: Callable[[], None] = lambda: None) -> Engine:
    """An engine over the file at ``path``, made and migrated where needed. ``when_another`` is called once another file
    stands in its place: nothing that was read before holds of that one. Raises DatabaseTroubleError."""
    _make(path)
    address = f"{path.resolve().as_uri()}?mode=rw"  # opening a connection never makes a file
    engine = create_engine(
        "sqlite://",
        creator=lambda: sqlite3.connect(address, uri=True, check_same_thread=False),
        pool_size=MOST_CONNECTIONS,
        max_overflow=0,
        poolclass=QueuePool,
        json_deserializer=read_document,
    )

    ready, stood = False, _identity(path)

    def opened(connection: Any, record: Any) -> None:
        nonlocal stood
        _on_connect(connection, record)
        before, stood = stood, _identity(path)
        record.info["file"] = stood
        if stood != before:
            when_another()
        if ready and connection.execute("SELECT version_num FROM alembic_version").fetchone() != (NEWEST,):
            raise DatabaseTroubleError("another file stands in the place of the database: start Clavis again")

    def handed_out(_connection: Any, record: Any, _proxy: Any) -> None:
        if record.info.get("file") != _identity(path):  # the file was taken away, or another stands in its place
            raise DisconnectionError("the file of the database is another one")

    event.listen(engine, "connect", opened)
    event.listen(engine, "checkout", handed_out)
    try:
        migrate(engine, path)
        ensure_whole(engine, path)
    except DatabaseError as error:
        engine.dispose()
        trouble = trouble_of(error)
        if trouble is None:
            raise
        raise DatabaseTroubleError(f"{path}: {trouble}") from error
    except BaseException:
        engine.dispose()
        raise
    ready = True
    return engine


def migration_config() -> "Config":
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


def _version(connection: Any, seen: Inspector) -> str | None:
    if not seen.has_table("alembic_version"):
        return None
    found: str | None = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    return found


def migrate(engine: Engine, path: Path | None = None) -> None:
    """Bring the schema to the newest revision, all of it or nothing: whatever ends it on the way leaves the database as
    it was. A database with something in it is copied beside itself before. Alembic is loaded only where there is
    something to do: it is a quarter of the start-up time. Raises DatabaseTroubleError."""
    with engine.connect() as connection:
        found = _version(connection, inspect(connection))
        if found == NEWEST:
            return
        # SQLite makes tables too within a transaction, if one is open
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        seen = inspect(connection)
        found = _version(connection, seen)  # another may have brought it up while this one waited
        if found == NEWEST:
            connection.rollback()
            return
        if found is None and seen.get_table_names():
            raise DatabaseTroubleError(f"{path or 'this file'} is a database, but none of Clavis's: name another file")
        if found is not None and found > NEWEST:
            raise DatabaseTroubleError(
                f"{path or 'this database'} was written by a newer Clavis (schema {found}; this one reads {NEWEST}):"
                " start that one, or bring back an older copy"
            )
        if found is not None and path is not None:
            copy_before(path, found)
        from alembic import command

        config = migration_config()
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()


_COLUMNS = "SELECT t.name, c.name FROM sqlite_master t JOIN pragma_table_info(t.name) c WHERE t.type = 'table'"


def missing(engine: Engine) -> list[str]:
    """Tables, columns and triggers that a database of the newest schema has and this one lacks."""
    with engine.connect() as connection:
        there = {(table, column) for table, column in connection.exec_driver_sql(_COLUMNS)}
        triggers = set(connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'trigger'").scalars())
    tables = {table for table, _ in there}
    found = []
    for table in Base.metadata.sorted_tables:
        if table.name not in tables:
            found.append(f"table {table.name}")
            continue
        found += [f"{table.name}.{column.name}" for column in table.columns if (table.name, column.name) not in there]
    return found + [f"trigger {name}" for name in sorted(TRIGGERS - triggers)]


def ensure_whole(engine: Engine, path: Path) -> None:
    """Raises DatabaseTroubleError where the schema says that it is the newest and lacks something of it. A count that
    is lost begins anew: nobody remembers yet what it was."""
    lacks = missing(engine)
    if lacks:
        more = f" and {len(lacks) - 3} more" if len(lacks) > 3 else ""
        raise DatabaseTroubleError(
            f"{path} is damaged: it lacks {', '.join(lacks[:3])}{more}. Bring back a copy with “clavis restore”"
        )
    with engine.begin() as connection:
        if connection.exec_driver_sql("SELECT 1 FROM counter WHERE name = 'catalogue'").first() is None:
            connection.exec_driver_sql("INSERT INTO counter (name, value) VALUES ('catalogue', 1)")


def copy_before(path: Path, version: str) -> Path:
    """A copy of a database as it is before it is brought up from a version. Raises DatabaseTroubleError."""
    target = path.with_name(f"{path.stem}-schema-{version}-{datetime.now():%Y-%m-%d-%H%M%S}{path.suffix}")
    try:
        copy_whole(path, target)
    except (OSError, sqlite3.Error) as error:
        said = f"{target} could not be written before the database is brought up: {error}"
        raise DatabaseTroubleError(said) from None
    return target


_turn = threading.RLock()
"""writers of this program wait here, where each is woken in turn, and not at the file, which each would ask now and
then"""


def _writes(session: Session) -> bool:
    return bool(session.connection().connection.dbapi_connection.in_transaction)  # type: ignore[union-attr]


def alone(session: Session) -> None:
    """From here to the commit nobody else writes, and what is read is what is there: a write that rests on what was
    read begins with it. Where another write does not end SQLite's own error is raised, which ``trouble_of`` tells."""
    if not _writes(session):
        session.expire_all()
        session.connection().exec_driver_sql("BEGIN IMMEDIATE")


@contextlib.contextmanager
def writing(session: Session) -> Iterator[None]:
    """The same around a write that is kept at its end, or not at all. Inside another one it is the end of both: it
    stands last there."""
    with contextlib.nullcontext() if _writes(session) else _turn:
        alone(session)
        try:
            yield
            session.commit()
        except BaseException:
            session.rollback()
            raise
    session.info["kept"] = True  # whatever goes wrong from here on, it is not said that nothing was kept


def rest(session: Session) -> None:
    """Give the connection back while something is worked out; whatever is asked afterwards takes one again."""
    if session.in_transaction() and not _writes(session):
        session.commit()


def sessions(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)
