"""A database in which a disc, or somebody by hand, changed something: no page ends in a fault, and what cannot be used is
told when it is opened."""

import shutil
import sqlite3
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from clavis.store import database, looking_after
from clavis.store.database import DatabaseTroubleError
from clavis.store.tables import TRIGGERS
from tests.conftest import browserlike

PAGES = ("/", "/board/rows", "/parts", "/rides", "/bikes", "/bikes/1", "/due", "/rules", "/kept/job/1")
PAGES_OF_A_JOB = ("choose", "ride", "history", "build", "keep")
DAMAGED = {
    "a board's row": ("update board_row set shown = '{\"a\":'", ""),
    "a board's row of another kind": ("update board_row set shown = '[1]'", ""),
    "when a job was changed": ("update job set changed_at = 'yesterday'", "job 1: changed_at: its date cannot be read"),
    "when a job was begun": ("update job set created_at = 'yesterday'", "job 1: created_at: its date cannot be read"),
    "when a ride was kept": ("update library_ride set kept_at = 'soon'", "library_ride long-pass: kept_at"),
    "a ride of the library": ("update library_ride set document = '{'", "ride long-pass: cannot be read"),
    "when a part was changed": ("update part set changed_at = 7", "changed_at: its date cannot be read"),
    "when a step was made": ("update change set at = '2026-99-99 10:00:00.000000'", "change 1: at: its date"),
    "what was before a step": ("update change set \"before\" = '{'", ""),
    "when a bike was changed": ("update bike set changed_at = x'00ff'", "bike 1: changed_at: its date cannot be read"),
    "what is due": ("update due set shown = '{'", ""),
    "the count of changes": ("delete from counter", ""),
    "a count that is none": ("update counter set value = 'x'", ""),
}


@pytest.mark.parametrize("what", DAMAGED)
def test_no_page_ends_in_a_fault(tmp_path: Path, demo_database: Path, what: str) -> None:
    path = Path(shutil.copy(demo_database, tmp_path / "damaged.db"))
    act, told = DAMAGED[what]
    with sqlite3.connect(path) as connection:
        assert connection.execute(act).rowcount > 0
    if told:
        assert any(told in f"{trouble.where}: {trouble.what}" for trouble in looking_after.check(path))
    with browserlike(path) as client:
        for page in (*PAGES, *(f"/jobs/1/{page}" for page in PAGES_OF_A_JOB)):
            assert client.get(page).status_code < 500, page


def test_what_is_due_is_worked_out_again_where_it_is_damaged(tmp_path: Path, demo_database: Path) -> None:
    path = Path(shutil.copy(demo_database, tmp_path / "damaged.db"))
    with sqlite3.connect(path) as connection:
        before = connection.execute('select bike_id, "key", shown from due order by 1, 2').fetchall()
        connection.execute("update due set shown = '{'")
    with browserlike(path) as client:
        client.app.state.rows.catch_up()
    with sqlite3.connect(path) as connection:
        assert connection.execute('select bike_id, "key", shown from due order by 1, 2').fetchall() == before


def test_a_date_that_is_lost_says_so(tmp_path: Path, demo_database: Path) -> None:
    path = Path(shutil.copy(demo_database, tmp_path / "damaged.db"))
    with sqlite3.connect(path) as connection:
        connection.execute("update bike set changed_at = 'x' where id = 1")
    with browserlike(path) as client:
        page = client.get("/bikes").text
    assert page.count("date unreadable") == 1
    assert "1900" not in page


@pytest.mark.parametrize(
    ("act", "words"),
    [
        ("drop table board_row", "lacks table board_row"),
        ("drop table counter", "lacks table counter"),
        ("alter table job drop column demo", "lacks job.demo"),
        ("alter table library_ride drop column who", "lacks library_ride.who"),
        ("drop trigger part_search_set", "lacks trigger part_search_set"),
        ("drop table job", "and 1 more. Bring back a copy"),
    ],
)
def test_a_schema_with_a_hole_is_told_when_it_is_opened(
    tmp_path: Path, demo_database: Path, act: str, words: str
) -> None:
    path = Path(shutil.copy(demo_database, tmp_path / "damaged.db"))
    with sqlite3.connect(path) as connection:
        connection.execute(act)
    with pytest.raises(DatabaseTroubleError, match=words):
        database.open_engine(path)
    assert any(trouble.where == "schema" and "lacks" in trouble.what for trouble in looking_after.check(path))


def test_a_new_database_has_every_trigger_that_is_looked_for_and_no_other(new_database: Path) -> None:
    with sqlite3.connect(new_database) as connection:
        made = {name for (name,) in connection.execute("select name from sqlite_master where type = 'trigger'")}
    assert made == TRIGGERS


def test_a_clock_that_jumped_is_told_on_the_board(client: TestClient) -> None:
    assert "see whether it is right" not in client.get("/").text
    client.app.state.rows.clock_trouble = (
        "the newest copy is of 2031-01-01, and the clock says 2026-12-02: see whether it is right"
    )
    assert "The newest copy is of 2031-01-01" in client.get("/").text
