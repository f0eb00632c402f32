"""What cannot be read stands alone: it is told why, put away, brought back, and keeps nothing else from being read."""

import json

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.store import archive, bikes, board, catalogue, jobs, rescue
from clavis.store.rescue import Sort
from clavis.store.tables import BoardRow, JobRow, PartRow

MAUD = jobs.Author("Maud", "page-m")

POISONS = {
    "out of range": """json_set(document, '$.rider.mass_kg', 1e9)""",
    "a newer field": """json_set(document, '$.of_tomorrow', 1)""",
    "broken JSON": """substr(document, 1, 40)""",
    "no object": "'[1, 2]'",
    "nothing": "''",
    "deep": "replace(hex(zeroblob(20000)), '0', '[')",
}


def poison(session: Session, table: str, ref: object, how: str) -> None:
    session.execute(text(f"update {table} set document = {POISONS[how]} where id = :id"), {"id": ref})
    session.commit()


@pytest.mark.parametrize("how", POISONS)
def test_a_job_that_cannot_be_read_is_told_and_put_away(demo_session: Session, how: str) -> None:
    session = demo_session
    try:
        poison(session, "job", 7, how)
    except Exception:  # the search's own triggers read the document: such a row comes from outside alone
        session.rollback()
        session.execute(text("drop trigger job_search_set"))
        poison(session, "job", 7, how)
    with pytest.raises(jobs.UnreadableError):
        jobs.open_job(session, 7)
    lying = rescue.look(session, Sort.JOB, "7")
    assert lying.why and lying.title == "Tandem for the long pass"
    assert jobs.open_job(session, 6).job.title  # the others are as they were
    assert any(row.job_id == 7 for row in board.rows(session, board.BoardQuery())[0])
    rescue.put_away(session, Sort.JOB, "7", away=True)
    assert rescue.look(session, Sort.JOB, "7").put_away
    assert not any(row.job_id == 7 for row in board.rows(session, board.BoardQuery())[0])
    names = dict(archive._files(session))
    assert "unread/job-7.json" in names and "jobs/6.json" in names
    jobs.erase(session, 7)
    assert session.get(JobRow, 7) is None


def test_a_job_is_brought_back_to_the_newest_moment_that_can_be_read(session: Session) -> None:
    number = jobs.create_job(session, Job(title="A bike"), MAUD)
    jobs.change(session, number, 1, MAUD, "rider.mass_kg", 70.0)
    jobs.change(session, number, 2, MAUD, "rider.name", "Ada")
    row = session.get_one(JobRow, number)  # as a newer version would have left it: one step, and what it made of it
    row.document = {**row.document, "rider": {**row.document["rider"], "mass_kg": 1e9}}
    row.version = 4
    session.flush()
    session.add(jobs._record(row, MAUD, "rider.mass_kg", 70.0, 1e9))
    session.commit()
    lying = rescue.look(session, Sort.JOB, f"{number}")
    assert "at most 250" in str(lying.why) and lying.goes_back_to == 3
    assert rescue.bring_back(session, Sort.JOB, f"{number}", "Tess") == 3
    opened = jobs.open_job(session, number)
    assert (opened.job.rider.mass_kg, opened.job.rider.name, opened.version) == (70.0, "Ada", 5)
    newest = jobs.history(session, number)[0]
    assert (newest.who, newest.path) == ("Tess", "restored.3")
    with pytest.raises(jobs.RefusedError, match="can be read as it is"):
        rescue.bring_back(session, Sort.JOB, f"{number}", "Tess")
    assert session.get_one(BoardRow, number).version == 0  # its row is made anew


def test_what_is_no_json_comes_back_from_a_copy_alone(session: Session) -> None:
    number = jobs.create_job(session, Job(title="A bike"), MAUD)
    session.execute(text("drop trigger job_search_set"))
    poison(session, "job", number, "broken JSON")
    lying = rescue.look(session, Sort.JOB, f"{number}")
    assert lying.goes_back_to is None and lying.text.startswith("{")
    with pytest.raises(jobs.RefusedError, match="copy of the database"):
        rescue.bring_back(session, Sort.JOB, f"{number}", "Tess")


def test_a_part_that_cannot_be_read_is_left_out_and_comes_back(demo_session: Session) -> None:
    session = demo_session
    whole = jobs.read_catalogue(session)
    part_id = next(iter(whole.rotors))
    part, version = catalogue.find(session, part_id)
    with jobs.writing(session):
        catalogue.keep(session, part.model_copy(update={"price": 1.25}), "Maud", version)
    session.execute(
        text("update part set document = json_set(document, '$.diameter_mm', 1e9) where id = :id"), {"id": part_id}
    )
    session.commit()
    session.expire_all()
    assert set(whole.rotors) - set(jobs.read_catalogue(session).rotors) == {part_id}
    assert [number for number, _ in rescue.unread_parts(session)] == [part_id]
    with pytest.raises(jobs.UnreadableError, match="diameter_mm"):
        catalogue.find(session, part_id)
    plan = catalogue.plan_of(session, [("line 2", part)], [])  # a file that names it: told, and the rest is taken
    assert plan.takes == 0 and "cannot be read" in str(plan.bad[0].reason)
    assert rescue.look(session, Sort.PART, part_id).goes_back_to is not None
    rescue.bring_back(session, Sort.PART, part_id, "Tess")
    assert catalogue.find(session, part_id)[0].price == 1.25  # what its newest step made of it
    with pytest.raises(jobs.RefusedError):
        rescue.put_away(session, Sort.PART, part_id, away=True)
    assert session.get_one(PartRow, part_id).version > version


def test_a_bike_that_cannot_be_read_holds_up_no_list(demo_session: Session) -> None:
    session = demo_session
    number, name = bikes.names(session)[0]
    session.execute(text("update bike set document = '{\"name\": 5}' where id = :id"), {"id": number})
    session.execute(text("update bike set due_stamp = ''"))
    session.commit()
    session.expire_all()
    with pytest.raises(jobs.UnreadableError):
        bikes.open_bike(session, number)
    for stale in bikes.stale_due(session, 100):
        bikes.work_out_due(session, stale)
    assert bikes.stale_due(session, 100) == []
    assert name in {line.name for line in bikes.listed(session, "", 100, 0)[0]}
    rescue.put_away(session, Sort.BIKE, f"{number}", away=True)
    assert rescue.look(session, Sort.BIKE, f"{number}").put_away
    assert json.loads(dict(archive._files(session))[f"unread/bike-{number}.json"])["bike"] == {"name": 5}
