"""Databases as older versions of Clavis left them: their own schema, filled with the demo world as far as it has room."""

import shutil
from collections.abc import Callable
from pathlib import Path

from alembic import command
from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.orm import Session

from clavis.store import database


def old_database(path: Path, version: str, demo: Path, edit: Callable[[Session], None] | None = None) -> None:
    """A file at ``path`` with the schema of ``version`` and the rows of the demo world at ``demo``, after ``edit`` of
    them."""
    new = path.with_suffix(".new.db")
    shutil.copy(demo, new)
    engine = database.open_engine(new)
    with database.sessions(engine)() as session:
        if edit is not None:
            edit(session)
        session.commit()
    engine.dispose()
    old = create_engine(f"sqlite:///{path}")
    event.listen(old, "connect", lambda connection, _record: connection.execute("PRAGMA foreign_keys = OFF"))
    with old.begin() as connection:
        config = database.migration_config()
        config.attributes["connection"] = connection
        command.upgrade(config, version)
    _copied(old, new)
    old.dispose()


def _copied(old: Engine, new: Path) -> None:
    with old.connect() as connection:
        connection.execute(text(f"attach '{new}' as new"))
        names = connection.execute(text("select name from main.sqlite_master where type = 'table'")).scalars().all()
        for table in (
            name for name in names if name not in ("alembic_version", "counter") and not name.startswith("search_")
        ):
            columns = [
                {row[1] for row in connection.execute(text(f"pragma {schema}.table_info({table})"))}
                for schema in ("main", "new")
            ]
            both = ", ".join(f'"{name}"' for name in sorted(columns[0] & columns[1]))
            connection.execute(text(f"insert into main.{table} ({both}) select {both} from new.{table}"))
        connection.commit()
