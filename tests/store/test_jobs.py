"""The one door: versions, conflicts, history, undo; nothing kept of what is refused."""

import threading
from pathlib import Path

import pytest
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from clavis.core.job import paths
from clavis.core.job.document import Job
from clavis.core.job.wheel import Wheel
from clavis.store import database, history, jobs
from clavis.store.tables import ChangeRow, JobPartRow, JobRow, PartRow
from tests.bikes import fork, own_job

MAUD, TESS = jobs.Author("Maud", "page-m"), jobs.Author("Tess", "page-t")


@pytest.fixture
def job_id(session: Session) -> int:
    return jobs.create_job(session, Job(title="A bike"), MAUD)


def test_what_follows_from_a_change_is_one_step_and_one_undo(session: Session, job_id: int) -> None:
    jobs.keep_part(session, fork())
    beside = {"native_rotor_mm": 180.0, "max_rotor_mm": 203.0}
    opened = jobs.change(session, job_id, 1, MAUD, "front.carrying_id", "k", beside=beside)
    assert (opened.version, opened.job.front.native_rotor_mm, opened.job.front.max_rotor_mm) == (2, 180, 203)
    assert jobs.history(session, job_id)[0].path == "front"
    history.undo(session, job_id, MAUD)
    assert jobs.open_job(session, job_id).job.front == Wheel()


def test_what_follows_never_writes_over_what_another_page_entered(session: Session, job_id: int) -> None:
    jobs.keep_part(session, fork())
    jobs.change(session, job_id, 1, TESS, "front.max_rotor_mm", 160.0)
    with pytest.raises(jobs.ConflictError):
        jobs.change(session, job_id, 1, MAUD, "front.carrying_id", "k", beside={"max_rotor_mm": 203.0})
    assert jobs.open_job(session, job_id).job.front.carrying_id is None
    jobs.change(session, job_id, 1, MAUD, "front.carrying_id", "k", beside={"native_rotor_mm": 180.0})
    assert jobs.open_job(session, job_id).job.front.max_rotor_mm == 160


def test_a_change_is_kept_with_who_what_before_and_after(session: Session, job_id: int) -> None:
    opened = jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    assert opened.version == 2
    assert opened.job.rider.mass_kg == 82.5
    row = jobs.history(session, job_id)[0]
    assert (row.who, row.path, row.before, row.after, row.version) == ("Maud", "rider.mass_kg", None, 82.5, 2)
    assert jobs.open_job(session, job_id).job == opened.job


def test_the_same_value_again_is_no_change(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    assert jobs.change(session, job_id, 2, MAUD, "rider.mass_kg", 82.5).version == 2
    assert len(jobs.history(session, job_id)) == 2


def test_two_people_on_different_fields_do_not_meet(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    opened = jobs.change(session, job_id, 1, TESS, "bike.kind", "tandem")
    assert opened.job.rider.mass_kg == 82.5
    assert [row.path for row in jobs.since(session, job_id, 1, TESS.page)] == ["rider.mass_kg"]


def test_two_people_on_one_field_the_later_is_told(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    with pytest.raises(jobs.ConflictError) as caught:
        jobs.change(session, job_id, 1, TESS, "rider.mass_kg", 90.0)
    assert caught.value.who == "Maud"
    assert caught.value.theirs == 82.5
    session.rollback()
    assert jobs.open_job(session, job_id).job.rider.mass_kg == 82.5
    # having seen it, the later one may
    assert jobs.change(session, job_id, 2, TESS, "rider.mass_kg", 90.0).job.rider.mass_kg == 90.0


def test_a_whole_and_its_part_conflict_too(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    with pytest.raises(jobs.ConflictError):
        jobs.change(session, job_id, 1, TESS, "rider", {"name": "Ida"})


def test_a_page_is_never_in_conflict_with_itself(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    assert jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 83.0).job.rider.mass_kg == 83.0


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("rider.mass_kg", -80, "wanted: at least 20"),
        ("rider.mass_kg", float("nan"), "wanted: a number"),
        ("rider.mass_kg", "heavy", "number"),
        ("front.max_rotor_mm", 900, "wanted: at most 260"),
        ("bike.kind", "unicycle", "wanted: city, road"),
        ("rider.nonsense", 3, "there is no such field"),
        ("front.rotor_id", "no-such-part", "no part"),
        ("decisive_ride", "nowhere", "not among the rides"),
        ("seed", -1, "wanted: at least 0"),
    ],
)
def test_refused_changes_name_the_reason_and_keep_nothing(session: Session, job_id: int, path, value, words) -> None:
    with pytest.raises(jobs.RefusedError, match=words) as caught:
        jobs.change(session, job_id, 1, MAUD, path, value)
    assert caught.value.path == path
    session.rollback()
    assert jobs.open_job(session, job_id).version == 1
    assert len(jobs.history(session, job_id)) == 1


def test_a_path_that_leads_nowhere_is_an_error(session: Session, job_id: int) -> None:
    with pytest.raises(ValueError, match="field"):
        jobs.change(session, job_id, 1, MAUD, "rides.none.name", "x")


def test_undo_walks_back_change_by_change(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "rider.mass_kg", 82.5)
    jobs.change(session, job_id, 2, MAUD, "rider.mass_kg", 90.0)
    jobs.change(session, job_id, 3, MAUD, "bike.kind", "road")
    undone = [history.undo(session, job_id, TESS, anybodys=True) for _ in range(4)]
    assert [row.path if row else None for row in undone] == ["bike.kind", "rider.mass_kg", "rider.mass_kg", None]
    job = jobs.open_job(session, job_id).job
    assert job == Job(title="A bike")
    assert [row.who for row in jobs.history(session, job_id)][:3] == ["Tess"] * 3


def test_rides_come_go_and_come_back(session: Session, job_id: int) -> None:
    ride = {"id": "hill", "name": "Hill", "sections": [{"length_m": 500, "gradient_pct": 8, "speed_kmh": 30}]}
    jobs.change(session, job_id, 1, MAUD, "rides.hill", ride)
    jobs.change(session, job_id, 2, MAUD, "rides.hill.sections.0.gradient_pct", 10)
    assert jobs.open_job(session, job_id).job.rides[0].sections[0].gradient_pct == 10
    jobs.change(session, job_id, 3, MAUD, "rides.hill", None)
    assert jobs.open_job(session, job_id).job.rides == ()
    history.undo(session, job_id, MAUD)
    assert jobs.open_job(session, job_id).job.rides[0].sections[0].gradient_pct == 10


def test_ticks_are_set_and_taken_away(session: Session, job_id: int) -> None:
    jobs.change(session, job_id, 1, MAUD, "ticks.front:cool", {"who": "Maud", "at": "2026-01-01T10:00"})
    assert "front:cool" in jobs.open_job(session, job_id).job.ticks
    jobs.change(session, job_id, 2, MAUD, "ticks.front:cool", None)
    assert jobs.open_job(session, job_id).job.ticks == {}


def test_a_used_part_cannot_be_deleted(demo_session: Session) -> None:
    opened = jobs.all_jobs(demo_session)[0]
    used = demo_session.query(JobPartRow.part_id).filter_by(job_id=opened.id).first()
    assert used is not None
    with pytest.raises(IntegrityError):
        demo_session.execute(text("delete from part where id = :id"), {"id": used[0]})


def test_use_follows_the_job(demo_session: Session) -> None:
    opened = jobs.all_jobs(demo_session)[0]
    jobs.change(demo_session, opened.id, opened.version, MAUD, "front.rotor_id", "p-vane-203")
    rows = {r[0] for r in demo_session.query(JobPartRow.part_id).filter_by(job_id=opened.id)}
    assert "p-vane-203" in rows
    assert rows == jobs.open_job(demo_session, opened.id).job.part_ids()


def test_the_catalogues_stamp_moves_with_a_part(demo_session: Session) -> None:
    before = jobs.catalogue_stamp(demo_session)
    rotor = jobs.read_catalogue(demo_session).rotors["q-disc-160"]
    jobs.keep_part(demo_session, rotor.model_copy(update={"price": 99.0}))
    demo_session.flush()
    assert jobs.catalogue_stamp(demo_session) != before
    assert demo_session.get(PartRow, "q-disc-160").document["price"] == 99.0


def test_there_is_no_such_job(session: Session) -> None:
    with pytest.raises(jobs.NotThereError):
        jobs.open_job(session, 77)
    with pytest.raises(jobs.NotThereError):
        jobs.change(session, 77, 1, MAUD, "title", "x")
    assert session.query(ChangeRow).count() == 0


def test_reading_paths() -> None:
    document = {"a": {"b": 3}, "rides": [{"id": "x", "sections": [{"v": 1}, {"v": 2}]}]}
    assert paths.read(document, "a.b") == 3
    assert paths.read(document, "rides.x.sections.1.v") == 2
    assert paths.read(document, "rides.y.sections") is None
    assert paths.read(document, "a.b.c") is None
    changed = paths.write(document, "rides.x.sections.0.v", 9)
    assert changed["rides"][0]["sections"][0]["v"] == 9
    assert document["rides"][0]["sections"][0]["v"] == 1


def test_a_document_from_before_a_field_was_thought_of_takes_it(session: Session) -> None:
    number = jobs.create_job(session, own_job(), MAUD)
    row = session.get(JobRow, number)
    row.document = {k: v for k, v in row.document.items() if k not in ("keeps", "pins")}
    session.commit()
    opened = jobs.change(session, number, 1, MAUD, "keeps.front", ["lever"])
    assert opened.job.keeps.front == ("lever",)
    pin = {"id": "one", "name": "One", "front": {"rotor_id": None}, "rear": {}}
    assert jobs.change(session, number, opened.version, MAUD, "pins.one", pin).job.pins[0].name == "One"


def test_two_at_the_same_instant_are_both_kept_or_told(tmp_path: Path) -> None:
    """Fields of one job, each by a hand of its own, again and again: no change is lost and none is answered by a
    fault."""
    engine = database.open_engine(tmp_path / "a.db")
    with database.sessions(engine)() as opened:
        number = jobs.create_job(opened, Job(title="A bike"), MAUD)
    told: list[str] = []

    def busy(path: str, who: str) -> None:
        with database.sessions(engine)() as mine:
            for value in range(30, 50):
                base = jobs.version_of(mine, number) or 0
                mine.rollback()
                jobs.change(mine, number, base, jobs.Author(who, who), path, float(value))
                told.append(f"{path} {value}")

    hands = [threading.Thread(target=busy, args=pair) for pair in (("rider.mass_kg", "Maud"), ("bike.mass_kg", "Tess"))]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    with database.sessions(engine)() as opened:
        job = jobs.open_job(opened, number)
        assert (job.job.rider.mass_kg, job.job.bike.mass_kg) == (49.0, 49.0)
        assert len(told) == 40 and job.version == 41 and len(jobs.history(opened, number)) == 41
    engine.dispose()
