"""Opening the database: SQLite with foreign keys and the write-ahead log on, brought to the newest migration."""

from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Engine, create_engine, event, inspect, text
from sqlalchemy.orm import Session, sessionmaker

if TYPE_CHECKING:
    from alembic.config import Config

NEWEST = "0008"
"""the newest migration; a test holds it to the files"""
MIGRATIONS = Path(__file__).with_name("migrations")


def _on_connect(connection: object, _record: object) -> None:
    cursor = connection.cursor()  # type: ignore[attr-defined]
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.execute("PRAGMA journal_mode = WAL")
    cursor.execute("PRAGMA synchronous = NORMAL")
    cursor.execute("PRAGMA busy_timeout = 5000")
    cursor.close()


def open_engine(path: Path) -> Engine:
    """An engine over the file at ``path``, made and migrated where needed."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _on_connect)
    migrate(engine)
    return engine


def migration_config() -> "Config":
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest revision. Alembic is loaded only where there is something to do: it is a
    quarter of the start-up time."""
    with engine.begin() as connection:
        there = inspect(connection).has_table("alembic_version")
        if there and connection.execute(text("SELECT version_num FROM alembic_version")).scalar() == NEWEST:
            return
        from alembic import command

        config = migration_config()
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def sessions(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)
