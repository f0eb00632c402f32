"""One bad row, or one job that cannot be computed, holds up no page but its own; and its own tells what can be done."""

import json

import pytest
from sqlalchemy import text
from starlette.testclient import TestClient

from clavis.core.errors import ProfileError
from clavis.web.shell import bench
from tests.web.told import told_at

OTHERS = ("/", "/board/rows", "/parts", "/bikes", "/due", "/rides", "/jobs/6/choose", "/jobs/6/keep", "/bikes/6")


def poison(client: TestClient, table: str, ref: object, document: str | bytes) -> None:
    with client.app.state.sessions() as session:
        for trigger in ("search_set", "search_new"):
            session.execute(text(f"drop trigger if exists {table}_{trigger}"))
        session.execute(
            text(f"update {table} set document = cast(:d as text) where id = :id"), {"d": document, "id": ref}
        )
        if table == "job":
            session.execute(text("update board_row set version = 0 where job_id = :id"), {"id": ref})
        session.commit()
    client.app.state.rows.catch_up()


@pytest.mark.parametrize("document", ["{", "[]", '{"rider": {"mass_kg": 1e9}}', '{"of_tomorrow": 1}'])
def test_a_poisoned_job_leaves_the_board_and_the_others_alone(client: TestClient, document: str) -> None:
    poison(client, "job", 7, document)
    for address in OTHERS:
        assert client.get(address).status_code == 200, address
    assert "cannot be read" in told_at(client, "/")
    for address in ("/jobs/7/choose", "/jobs/7/export", "/jobs/7/history", "/jobs/7/answer"):
        answer = client.get(address)
        assert (answer.status_code, answer.headers["location"]) == (303, "/kept/job/7"), address
    page = told_at(client, "/kept/job/7")
    assert "It cannot be read" in page and "Archive" in page and "Export as it is" in page
    assert client.get("/kept/job/7/document").text == document
    answer = client.post(
        "/jobs/7/field", data={"path": "title", "value": "x", "room": "intake", "page": "p", "base": 1}
    )
    assert answer.status_code == 409 and "cannot be read" in answer.text
    assert client.post("/kept/job/7/put-away", data={"away": "on"}).status_code == 303
    assert "Tandem for the long pass" not in told_at(client, "/")


def test_a_poisoned_part_is_left_out_and_told(client: TestClient) -> None:
    job = json.loads(client.get("/jobs/7/export").content)["job"]
    poison(client, "part", job["front"]["rotor_id"], '{"kind": "rotor"}')
    for address in (*OTHERS, "/jobs/7/choose", "/jobs/7/measure", "/jobs/7/fit", "/jobs/7/build"):
        assert client.get(address).status_code == 200, address
    assert "1 line cannot be read" in told_at(client, "/parts")
    answer = client.get(f"/parts/line/{job['front']['rotor_id']}")
    assert answer.headers["location"] == f"/kept/part/{job['front']['rotor_id']}"


def test_a_poisoned_bike_has_a_page_of_its_own(client: TestClient) -> None:
    poison(client, "bike", 6, "{}x")
    for address in ("/", "/bikes", "/due", "/jobs/6/choose"):
        assert client.get(address).status_code == 200, address
    assert client.get("/bikes/6").headers["location"] == "/kept/bike/6"
    assert "Bike 6" in told_at(client, "/kept/bike/6")


@pytest.mark.parametrize(("table", "ref", "own"), [("job", 7, "/jobs/7/choose"), ("bike", 6, "/bikes/6"),
                                                   ("part", "u-k2-semi", "/parts/line/u-k2-semi")])  # fmt: skip
def test_bytes_that_are_no_letters_are_no_fault_of_other_rows(
    client: TestClient, table: str, ref: object, own: str
) -> None:
    """As a failing disc leaves them."""
    poison(client, table, ref, b'{"\xc9\xff')
    for address in (*OTHERS, "/?search=t", "/bikes?search=t"):
        assert client.get(address).status_code in (200, 303), address
    answer = client.get(own)
    assert (answer.status_code, answer.headers["location"]) == (303, f"/kept/{table}/{ref}")
    assert "It cannot be read" in told_at(client, f"/kept/{table}/{ref}")


def test_what_is_not_there_is_not_made_up(client: TestClient) -> None:
    for address in (
        "/kept/job/999",
        "/kept/part/none",
        "/kept/bike/0",
        "/kept/song/1",
        "/kept/job/7.0",
        "/kept/job/7e0",
    ):
        assert client.get(address).status_code in (404, 422), address


@pytest.mark.parametrize("error", [ProfileError("the ride is endless"), ZeroDivisionError("oops"), MemoryError()])
def test_a_job_that_cannot_be_computed_is_kept_and_can_be_undone(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, error: Exception
) -> None:
    """What was typed is kept although its answer cannot be worked out; that it was not is never said."""
    real = bench.evaluation_of

    def broken(answers: object, job: object, *more: object) -> object:
        if getattr(getattr(job, "rider", None), "mass_kg", None) == 77.0:
            raise error
        return real(answers, job, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(bench, "evaluation_of", broken)
    form = {"path": "rider.mass_kg", "value": "77", "room": "intake", "page": "p"}
    answer = client.post("/jobs/3/field", data=form)
    assert answer.status_code == 409 and "is kept" in answer.text and "nothing was" not in answer.text
    assert client.get("/").status_code == 200
    away = client.get("/jobs/3/intake")
    assert away.headers["location"] == "/kept/job/3?computed=no"
    assert "answers cannot be computed" in told_at(client, "/kept/job/3", computed="no")
    assert client.get("/jobs/3/export").status_code == 200
    assert client.post("/kept/job/3/undo").status_code == 303
    assert client.get("/jobs/3/intake").status_code == 200


def test_a_fault_after_the_keeping_does_not_say_that_nothing_was_kept(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fault(*_: object, **__: object) -> None:
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr("clavis.web.shell.visit.Change.followed", fault)
    quiet = TestClient(client.app, raise_server_exceptions=False, headers=dict(client.headers))
    quiet.cookies.set("clavis_who", "Tess")
    form = {"path": "rider.mass_kg", "value": "78", "room": "intake", "page": "p"}
    answer = quiet.post("/jobs/3/field", data=form)
    assert answer.status_code == 500 and "What you entered is kept" in answer.text


def test_a_sign_off_that_is_undone_there_is_off_the_bike_as_well(client: TestClient) -> None:
    """The same undo as on the job's own pages: what the order put on the bike is off it again."""
    undone: list[int] = []

    def undo(_session: object, job_id: int, *_: object, **__: object) -> object:
        undone.append(job_id)
        return object()

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("clavis.store.keeping.undo", undo)
        assert client.post("/kept/job/3/undo").status_code == 303
    assert undone == [3]


def test_who_sends_a_whole_form_is_answered_by_a_whole_page(client: TestClient) -> None:
    address = "/kept/job/3/bring-back"
    page = client.post(address, headers={"accept": "text/html,application/xhtml+xml"})
    piece = client.post(address)
    assert page.status_code == piece.status_code == 422
    assert page.text.startswith("<!doctype html>") and piece.text.startswith("<p")
