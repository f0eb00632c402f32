"""The database: migrations match the tables, foreign keys and the write-ahead log are on, the demo world fills once."""

from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from clavis.demo import world
from clavis.demo.catalogue import demo_parts
from clavis.store import bikes, database, history, jobs, search
from clavis.store.tables import Base, BoardRow, JobRow, PartRow
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
