"""The database: migrations match the tables, foreign keys and the write-ahead log are on, the demo world fills once."""

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, event, select, text
from sqlalchemy.exc import DatabaseError, IntegrityError
from sqlalchemy.orm import Session

from clavis.demo import world
from clavis.demo.catalogue import demo_parts
from clavis.store import bikes, database, history, jobs, search
from clavis.store.tables import Base, BoardRow, JobRow, PartRow
from tests.bikes import own_job
from tests.store.old_databases import old_database


def test_migrations_make_the_tables_that_the_code_expects(tmp_path: Path) -> None:
    engine = database.open_engine(tmp_path / "a.db")
    with engine.connect() as connection:
        # the full-text index and its shadows are SQLite's own
        ours = {"include_object": lambda _o, name, kind, *_: kind != "table" or not name.startswith("search_index")}
        context = MigrationContext.configure(connection, opts={"compare_type": True, **ours})
        assert compare_metadata(context, Base.metadata) == []
    engine.dispose()


def test_the_newest_migration_is_named() -> None:
    assert ScriptDirectory.from_config(database.migration_config()).get_current_head() == database.NEWEST


VERSIONS = [f"{k:04d}" for k in range(1, int(database.NEWEST))]


@pytest.mark.parametrize("version", VERSIONS)
def test_every_released_schema_is_brought_up_with_what_is_in_it(
    tmp_path: Path, demo_database: Path, version: str
) -> None:
    """Jobs with their history, parts and tracks come through; every job is about a bike, stands on the board and is
    found by its words."""
    path = tmp_path / "old.db"
    old_database(path, version, demo_database)
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        found = jobs.all_jobs(session)
        assert len(found) == len(world.JOBS) + 1  # and one of last year
        assert len(session.scalars(select(PartRow.id)).all()) == len(demo_parts())
        for opened in found:
            assert jobs.history(session, opened.id)
            assert set(jobs.tracks_of(session, opened.job.rides)) == {
                r.track_id for r in opened.job.rides if r.track_id
            }
            assert opened.bike_id is not None and bikes.open_bike(session, opened.bike_id).bike.name
        assert len(session.scalars(select(BoardRow)).all()) == len(found)
        assert next(hit.title for hit in search.found(session, "tand", 5, "job")) == "Tandem for the long pass"
    engine.dispose()


def test_jobs_of_the_first_form_are_brought_up(tmp_path: Path, demo_database: Path) -> None:
    def as_it_was(session: Session) -> None:
        old = session.get(JobRow, 1)
        assert old is not None
        wheel = {**old.document["front"], "rotor_thinnest_mm": 1.6, "pad_material_mm": 1.2}
        for name in ("rotor_points_mm", "pad_inner_mm", "pad_outer_mm"):
            del wheel[name]
        old.document = {**old.document, "front": wheel}

    path = tmp_path / "old.db"
    old_database(path, "0001", demo_database, as_it_was)
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        front = jobs.open_job(session, 1).job.front
        assert front.rotor_points_mm == (1.6,)
        assert front.pad_material_mm == 1.2
    engine.dispose()


def test_what_was_answered_for_under_an_old_name_stays_answered_and_can_be_taken_back(
    tmp_path: Path, demo_database: Path
) -> None:
    path = tmp_path / "old.db"
    answer = {"who": "Tess", "at": "2026-11-01T10:00", "evidence": "oil", "reason": "replaced on the spot"}
    author = jobs.Author("Tess", "p")

    def as_it_was(session: Session) -> None:
        opened = jobs.open_job(session, 1)
        jobs.change(session, 1, opened.version, author, "cleared.front:rotor_oil", answer)
        row = session.get(JobRow, 1)
        assert row is not None
        row.document = {**row.document, "cleared": {"front:ring_oil": answer},
                        "thresholds": {"ring_of_fade_ratio": 0.8}}  # fmt: skip
        session.execute(text("update change set path = 'cleared.front:ring_oil' where path like 'cleared.%'"))

    old_database(path, "0004", demo_database, as_it_was)
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        kept = jobs.open_job(session, 1)
        assert set(kept.job.cleared) == {"front:rotor_oil"}
        assert kept.job.thresholds.rotor_of_fade_ratio == 0.8
        history.undo(session, 1, author)
        assert jobs.open_job(session, 1).job.cleared == {}
    engine.dispose()


def test_foreign_keys_and_the_log_are_on(session: Session) -> None:
    assert session.execute(text("PRAGMA foreign_keys")).scalar() == 1
    assert session.execute(text("PRAGMA journal_mode")).scalar() == "wal"
    with pytest.raises(IntegrityError):
        session.execute(text("insert into job_part (job_id, part_id) values (9, 'none')"))


def test_opening_again_keeps_everything(tmp_path: Path) -> None:
    path = tmp_path / "a.db"
    engine = database.open_engine(path)
    with database.sessions(engine)() as first:
        assert world.fill_if_empty(first)
        assert not world.fill_if_empty(first)
        titles = {o.job.title for o in jobs.all_jobs(first)}
    engine.dispose()
    engine = database.open_engine(path)
    with database.sessions(engine)() as second:
        assert {o.job.title for o in jobs.all_jobs(second)} == titles
    engine.dispose()


def test_reset_brings_the_demo_world_back(demo_session: Session) -> None:
    opened = jobs.all_jobs(demo_session)[0]
    jobs.change(demo_session, opened.id, opened.version, jobs.Author("x", "y"), "title", "Changed")
    world.reset(demo_session)
    assert "Changed" not in {o.job.title for o in jobs.all_jobs(demo_session)}
    assert demo_session.query(JobRow).count() == len(world.JOBS) + 1


def test_the_demo_catalogue_is_large_enough_to_choose_from() -> None:
    counts: dict[str, int] = {}
    for part in demo_parts():
        counts[part.kind] = counts.get(part.kind, 0) + 1
    assert counts["rotor"] >= 12
    assert counts["caliper"] >= 6
    assert counts["pad"] >= 12
    assert counts["adapter"] >= 15
    assert counts["bolt"] >= 20
    ids = [p.id for p in demo_parts()]
    assert len(ids) == len(set(ids))


def test_demo_adapters_agree_with_their_sizes() -> None:
    for part in demo_parts():
        if part.kind == "adapter" and part.adapter_kind.value == "post_to_post":
            for fit in part.fits:
                shift = fit.rotor_mm - part.from_mm
                assert part.upper_mm + part.lower_mm == pytest.approx(shift), part.id


def test_a_migration_that_is_cut_short_leaves_all_as_it_was(
    tmp_path: Path, demo_database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Killed after any of its statements, an upgrade has done nothing; started again it does all; a copy lies beside."""
    path = tmp_path / "old.db"
    old_database(path, "0007", demo_database)
    path.with_suffix(".new.db").unlink()
    before = _schema(path)

    class KilledError(BaseException):
        pass

    for statements in (1, 4, 9, 30, 60):
        count = 0

        def killed(*_: object, most: int = statements) -> None:
            nonlocal count
            count += 1
            if count > most:
                raise KilledError

        event.listen(Engine, "before_cursor_execute", killed)
        try:
            with pytest.raises(KilledError):
                database.open_engine(path)
        finally:
            event.remove(Engine, "before_cursor_execute", killed)
        assert _schema(path) == before
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        assert len(jobs.all_jobs(session)) == len(world.JOBS) + 1
    engine.dispose()
    copies = sorted(tmp_path.glob("old-schema-0007-*.db"))
    assert copies and _schema(copies[-1]) == before and copies[-1].stat().st_mode & 0o777 == 0o600


def _schema(path: Path) -> list[tuple[str, ...]]:
    with closing(sqlite3.connect(path)) as connection:
        rows = connection.execute("select type, name, sql from sqlite_master order by type, name").fetchall()
        return [*rows, *connection.execute("select version_num from alembic_version").fetchall()]


def test_what_cannot_be_a_database_is_said_in_one_line(tmp_path: Path) -> None:
    folder, other, torn = tmp_path / "folder", tmp_path / "other.db", tmp_path / "torn.db"
    folder.mkdir()
    with closing(sqlite3.connect(other)) as connection:
        connection.execute("create table songs (title)")
    torn.write_bytes(b"no database at all, but long enough to be looked at" * 20)
    for path, words in ((folder, "is a folder"), (other, "none of Clavis"), (torn, "no database of Clavis")):
        with pytest.raises(database.DatabaseTroubleError, match=words):
            database.open_engine(path)
    newer = tmp_path / "newer.db"
    database.open_engine(newer).dispose()
    with closing(sqlite3.connect(newer)) as connection:
        connection.execute("update alembic_version set version_num = '9999'")
        connection.commit()
    with pytest.raises(database.DatabaseTroubleError, match="newer Clavis"):
        database.open_engine(newer)
    assert _schema(newer)[-1] == ("9999",)  # and nothing was changed


def test_files_are_their_owners_alone(tmp_path: Path) -> None:
    path = tmp_path / "a.db"
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        jobs.create_job(session, own_job(), jobs.Author("Tess", "p"))
    for file in tmp_path.glob("a.db*"):
        assert file.stat().st_mode & 0o077 == 0, file
    engine.dispose()


def test_a_database_that_is_taken_away_is_missed_and_found_again(tmp_path: Path) -> None:
    """Nothing is written into a file that nobody will find; put back, all goes on."""
    path, away = tmp_path / "a.db", tmp_path / "away.db"
    engine = database.open_engine(path)
    author = jobs.Author("Tess", "p")
    with database.sessions(engine)() as session:
        number = jobs.create_job(session, own_job(), author)
    for name in tmp_path.glob("a.db*"):
        name.rename(away.with_name(name.name.replace("a.db", "away.db")))
    with database.sessions(engine)() as session, pytest.raises(DatabaseError) as caught:
        jobs.change(session, number, 1, author, "title", "Lost?")
    assert "cannot be opened" in str(database.trouble_of(caught.value)) and not path.exists()
    for name in tmp_path.glob("away.db*"):
        name.rename(path.with_name(name.name.replace("away.db", "a.db")))
    with database.sessions(engine)() as session:
        assert jobs.change(session, number, 1, author, "title", "Found").version == 2
    engine.dispose()
