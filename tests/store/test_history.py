"""Undo, redo, and any moment brought back: against a plain list of what the job was at every step."""

from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.store import database, history, jobs
from clavis.store.history import OthersError

MAUD, TESS = jobs.Author("Maud", "p1"), jobs.Author("Tess", "p2")


@pytest.fixture
def job_id(session: Session) -> int:
    return jobs.create_job(session, Job(title="A bike"), MAUD)


def set_(session: Session, job_id: int, path: str, value: Any, author: jobs.Author = MAUD) -> None:
    jobs.change(session, job_id, jobs.version_of(session, job_id) or 0, author, path, value)


def job(session: Session, job_id: int) -> Job:
    return jobs.open_job(session, job_id).job


def test_redo_does_again_what_was_undone_until_something_else_is_done(session: Session, job_id: int) -> None:
    set_(session, job_id, "rider.mass_kg", 70)
    set_(session, job_id, "rider.mass_kg", 80)
    history.undo(session, job_id, MAUD)
    history.undo(session, job_id, MAUD)
    assert job(session, job_id).rider.mass_kg is None
    assert history.redo(session, job_id, MAUD) and job(session, job_id).rider.mass_kg == 70
    assert history.redo(session, job_id, MAUD) and job(session, job_id).rider.mass_kg == 80
    assert history.redo(session, job_id, MAUD) is None
    history.undo(session, job_id, MAUD)
    assert job(session, job_id).rider.mass_kg == 70
    set_(session, job_id, "bike.kind", "road")
    assert history.redo(session, job_id, MAUD) is None
    assert job(session, job_id).rider.mass_kg == 70


def test_another_persons_step_is_not_taken_back_unasked(session: Session, job_id: int) -> None:
    set_(session, job_id, "rider.mass_kg", 70, TESS)
    with pytest.raises(OthersError) as refused:
        history.undo(session, job_id, MAUD)
    assert refused.value.step.who == "Tess" and job(session, job_id).rider.mass_kg == 70
    assert history.undo(session, job_id, MAUD, anybodys=True)
    assert job(session, job_id).rider.mass_kg is None


def test_any_moment_is_brought_back_as_a_step_of_its_own(session: Session, job_id: int) -> None:
    ride = {"id": "hill", "name": "Hill", "sections": [{"length_m": 500, "gradient_pct": 8, "speed_kmh": 30}]}
    was = [job(session, job_id)]
    for path, value in (
        ("rider.mass_kg", 70),
        ("rides.hill", ride),
        ("rides.hill.name", "The hill"),
        ("bike.kind", "road"),
        ("rides.hill", None),
    ):
        set_(session, job_id, path, value)
        was.append(job(session, job_id))
    for version in (1, 2, 3, 4, 5):
        history.restore(session, job_id, version, MAUD)
        assert job(session, job_id) == was[version - 1], version
        assert history.moment(session, job_id, version) == was[version - 1]
        history.undo(session, job_id, MAUD)
        assert job(session, job_id) == was[-1]
        history.redo(session, job_id, MAUD)
        assert job(session, job_id) == was[version - 1]
        history.undo(session, job_id, MAUD)
    with pytest.raises(jobs.RefusedError, match="not there then"):
        history.restore(session, job_id, 0, MAUD)


STEPS = st.lists(
    st.one_of(
        st.tuples(st.sampled_from(["rider.mass_kg", "bike.mass_kg", "load.luggage_kg"]), st.integers(20, 100)),
        st.sampled_from([("undo", 0), ("redo", 0)]),
    ),
    max_size=14,
)


@pytest.fixture(scope="module")
def one_database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Session]:
    engine = database.open_engine(tmp_path_factory.mktemp("undo") / "a.db")
    with database.sessions(engine)() as session:
        yield session
    engine.dispose()


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(STEPS)
def test_undo_and_redo_are_those_of_a_plain_list(one_database: Session, steps: list[Any]) -> None:
    """Whatever is done, undone and done again: the job is what a list of states with a finger on it says."""
    session = one_database
    number = jobs.create_job(session, Job(), MAUD)
    states, at = [job(session, number)], 0
    for what, value in steps:
        if what == "undo":
            history.undo(session, number, MAUD)
            at = max(at - 1, 0)
        elif what == "redo":
            history.redo(session, number, MAUD)
            at = min(at + 1, len(states) - 1)
        else:
            before = job(session, number)
            set_(session, number, what, value)
            if job(session, number) != before:
                states, at = [*states[: at + 1], job(session, number)], at + 1
        assert job(session, number) == states[at]


ANSWER = {"who": "Maud", "at": "2026-11-01T10:00", "evidence": "12 % short", "reason": "rides on the flat"}
TICK = {"who": "Maud", "at": "2026-11-01T10:00"}
HEAT = {**TICK, "id": "h1", "name": "Pass", "accepted": TICK,
        "readings": [{"id": "r1", "end": "front", "after_s": 20, "read_c": 200}]}  # fmt: skip
KEY = "front:rotor_oil"


def test_an_answer_that_was_withdrawn_is_not_brought_back_under_its_name(session: Session, job_id: int) -> None:
    """Neither by undo, nor by redo, nor with a moment at which it stood: who means it gives it anew."""
    set_(session, job_id, "rider.mass_kg", 70)
    set_(session, job_id, f"cleared.{KEY}", ANSWER)
    answered = jobs.version_of(session, job_id)
    set_(session, job_id, f"cleared.{KEY}", None)
    undone = history.undo(session, job_id, TESS, anybodys=True)
    assert undone is not None and undone.path == "rider.mass_kg"  # the giving is past, and the taking is not undone
    assert job(session, job_id).cleared == {}
    assert history.undo(session, job_id, TESS, anybodys=True) is None
    assert history.redo(session, job_id, MAUD) is not None and job(session, job_id).cleared == {}
    history.restore(session, job_id, answered or 0, TESS)
    assert job(session, job_id).cleared == {}


def test_undo_goes_on_behind_an_answer_given_and_withdrawn(session: Session, job_id: int) -> None:
    set_(session, job_id, "rider.mass_kg", 70)
    set_(session, job_id, f"cleared.{KEY}", ANSWER)
    assert history.undo(session, job_id, MAUD) and job(session, job_id).cleared == {}
    assert history.undo(session, job_id, MAUD) and job(session, job_id).rider.mass_kg is None
    assert history.redo(session, job_id, MAUD) and job(session, job_id).rider.mass_kg == 70
    assert history.redo(session, job_id, MAUD) is None and job(session, job_id).cleared == {}


def test_readings_come_back_and_their_acceptance_does_not(session: Session, job_id: int) -> None:
    set_(session, job_id, "heat_sets.h1", HEAT)
    there = jobs.version_of(session, job_id)
    set_(session, job_id, "heat_sets.h1", None)
    history.undo(session, job_id, TESS, anybodys=True)
    back = job(session, job_id).heat_sets[0]
    assert back.accepted is None and back.readings[0].read_c == 200 and back.who == "Maud"
    set_(session, job_id, "heat_sets.h1.name", "The pass")
    history.restore(session, job_id, there or 0, TESS)
    assert job(session, job_id).heat_sets[0].accepted is None


def test_what_stands_today_stays_where_a_moment_is_brought_back(session: Session, job_id: int) -> None:
    set_(session, job_id, f"cleared.{KEY}", ANSWER)
    set_(session, job_id, "ticks.front:rotor", TICK)
    there = jobs.version_of(session, job_id)
    set_(session, job_id, "rider.mass_kg", 70)
    history.restore(session, job_id, there or 0, MAUD)
    now = job(session, job_id)
    assert now.rider.mass_kg is None and now.cleared[KEY].who == now.ticks["front:rotor"].who == "Maud"
