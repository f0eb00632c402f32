"""The door: nobody comes in without an account, each may what its role may, and names are those of the accounts."""

import json
from collections.abc import Callable

import pytest
from starlette.testclient import TestClient

from clavis.store import accounts, jobs, workshop
from clavis.web.shell import door
from clavis.web.shell.door import FREE_TRIES, Attempts
from clavis.web.shell.settings import Settings
from tests.web.told import told

pytestmark = pytest.mark.usefixtures("quick_hash")
PASSWORD = "a long enough one"
SAME = {"sec-fetch-site": "same-origin"}


def test_the_name_is_the_accounts(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("mara mechanic")
    form = {"path": "title", "value": "Tandem, signed in", "room": "intake", "page": "p"}
    assert client.post("/jobs/7/field", data=form).status_code == 200
    with client.app.state.sessions() as session:  # type: ignore[attr-defined]
        assert jobs.history(session, 7)[0].who == "Mara Mechanic"
    assert client.post("/who", data={"name": "Somebody Else"}).status_code == 403
    assert "Mara Mechanic" in told(client.get("/")) and "Somebody Else" not in told(client.get("/"))


def test_an_apprentice_takes_no_sign_off_back_by_undo(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("Adam Apprentice")
    with client.app.state.sessions() as session:  # type: ignore[attr-defined]
        opened = jobs.open_job(session, 3)
        jobs.sign_off(
            session, opened, jobs.Author("Mara Mechanic", "p"), opened.job.model_copy(update={"title": "Signed"})
        )
    answer = client.post("/jobs/3/undo", data={"page": "p", "anybodys": "on"})
    assert answer.status_code == 403 and json.loads(client.get("/jobs/3/export").content)["job"]["title"] == "Signed"


def test_the_owner_keeps_accounts(signed_in: Callable[[str], TestClient]) -> None:
    owner, mara = signed_in("Olga Owner"), signed_in("Mara Mechanic")
    assert mara.get("/accounts").status_code == 403
    page = told(owner.get("/accounts"))
    assert "Adam Apprentice" in page and PASSWORD not in page and "$argon2" not in page
    assert (
        owner.post("/accounts", data={"name": "Nina New", "password": "short", "role": "mechanic"}).status_code == 422
    )
    assert (
        owner.post("/accounts", data={"name": "Nina New", "password": PASSWORD, "role": "mechanic"}).status_code == 303
    )
    assert signed_in("Nina New").get("/").status_code == 200
    with owner.app.state.sessions() as session:  # type: ignore[attr-defined]
        number = accounts.find(session, "Mara Mechanic").id
    assert owner.post(f"/accounts/{number}", data={"active": "false"}).status_code == 303
    assert mara.get("/").status_code == 303  # at once, not when she next signs in
    answer = owner.post("/sign-in", data={"name": "Mara Mechanic", "password": PASSWORD})
    assert answer.status_code == 401
    with owner.app.state.sessions() as session:  # type: ignore[attr-defined]
        olga = accounts.find(session, "Olga Owner").id
    answer = owner.post(f"/accounts/{olga}", data={"role": "mechanic"})
    assert answer.status_code == 422 and "one owner" in told(answer)


def test_signing_out_ends_the_session_in_every_tab(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("Mara Mechanic")
    token = client.cookies[door.SESSION_COOKIE]
    assert client.post("/sign-out").status_code == 303
    other = signed_in("")
    other.cookies.set(door.SESSION_COOKIE, token)
    assert other.get("/").headers["location"].startswith("/sign-in")


def try_(client: TestClient, name: str, password: str) -> int:
    client.cookies.delete(door.SESSION_COOKIE)
    return client.post("/sign-in", data={"name": name, "password": password}).status_code


def test_wrong_passwords_have_to_wait(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("")
    for _ in range(FREE_TRIES):
        answer = client.post("/sign-in", data={"name": "Olga Owner", "password": "guess and guess"})
        assert answer.status_code == 401 and "do not go together" in told(answer)
    answer = client.post("/sign-in", data={"name": "Olga Owner", "password": PASSWORD})
    assert answer.status_code == 429 and int(answer.headers["retry-after"]) > 5 and "possible in" in told(answer)


@pytest.mark.parametrize("name", ["olga  owner", " OLGA OWNER ", "Olga\u00a0Owner", "\uff2flga Owner"])
def test_a_name_spelled_otherwise_is_the_same_account(signed_in: Callable[[str], TestClient], name: str) -> None:
    """Its wrong passwords count together, and its right one is right."""
    assert try_(signed_in(""), name, PASSWORD) == 303
    client = signed_in("")
    client.app.state.attempts = Attempts()  # type: ignore[attr-defined]
    assert [try_(client, "Olga Owner" if k % 2 else name, "guess and guess") for k in range(FREE_TRIES)] == [401] * 5
    assert try_(client, name, PASSWORD) == 429


def test_ones_own_right_password_does_not_wipe_out_what_was_tried(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("")
    tried = []
    for _ in range(12):
        tried.append(try_(client, "Olga Owner", "guess and guess"))
        client.cookies.clear()
        try_(client, "Adam Apprentice", PASSWORD)
        client.cookies.clear()
    assert tried[:FREE_TRIES] == [401] * FREE_TRIES and set(tried[FREE_TRIES:]) == {429}


def test_nobody_is_locked_out_of_a_browser_that_is_known(signed_in: Callable[[str], TestClient]) -> None:
    """However often others guess, and whoever has asked from the same address."""
    olga = signed_in("Olga Owner")
    for name in ("Olga Owner", "Adam Apprentice") * 10:
        try_(signed_in(""), name, "guess and guess")
    assert try_(signed_in(""), "Olga Owner", PASSWORD) == 429
    assert try_(olga, "Olga Owner", PASSWORD) == 303
    stolen = signed_in("")
    stolen.cookies.set(door.DEVICE_COOKIE, olga.cookies[door.DEVICE_COOKIE])
    assert try_(stolen, "Mara Mechanic", PASSWORD) == 429  # it is known for its own account alone
    for _ in range(FREE_TRIES + 3):
        last = stolen.post("/sign-in", data={"name": "Olga Owner", "password": "guess and guess"})
    assert last.status_code == 429 and int(last.headers["retry-after"]) <= door.LONGEST_AT_HOME_S + 1


def test_a_token_that_a_browser_brings_of_itself_makes_it_not_known(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("")
    client.cookies.set(door.DEVICE_COOKIE, "x" * 43)
    answer = client.post("/sign-in", data={"name": "Olga Owner", "password": PASSWORD})
    assert answer.status_code == 303 and "x" * 43 not in str(answer.headers.get_list("set-cookie"))


def test_waiting_doubles_and_ends(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr(door, "monotonic", lambda: now[0])
    attempts, waits = Attempts(), []
    for _ in range(FREE_TRIES + 8):
        assert attempts.begin("account x", "from y") == 0.0
        waits.append(attempts.begin("account x"))
        now[0] += waits[-1]
        if not waits[-1]:
            attempts.right("from z", "account x")  # the second count is taken back
    assert waits[: FREE_TRIES - 1] == [0.0] * (FREE_TRIES - 1)
    assert waits[FREE_TRIES - 1 : FREE_TRIES + 2] == [15.0, 30.0, 60.0] and waits[-1] == 900.0
    assert attempts.begin("account v", "from w") == 0.0  # others do not wait
    now[0] += door.FORGOTTEN_S
    assert attempts.begin("account x", "from y") == 0.0 and attempts.begin("account x") == 0.0


@pytest.mark.parametrize("back", ["//evil.example", "https://evil.example", "/\\evil", "javascript:x", "/\r\nX: y"])
def test_one_is_led_back_into_these_pages_alone(app_of_shop: object, back: str) -> None:
    client = TestClient(app_of_shop, headers=SAME, follow_redirects=False)  # type: ignore[arg-type]
    answer = client.post("/sign-in", data={"name": "Olga Owner", "password": PASSWORD, "back": back})
    assert answer.headers["location"] == "/"


def test_on_the_machine_itself_nobody_is_asked(client: TestClient) -> None:
    assert client.get("/").status_code == 200 and client.get("/sign-in").headers["location"] == "/"
    for settings, asks in (
        (Settings(host="0.0.0.0"), True), (Settings(host="192.168.1.5"), True), (Settings(behind_proxy=True), True),
        (Settings(sign_in=True), True), (Settings(), False), (Settings(host="::1"), False),
    ):  # fmt: skip
        assert settings.asks_for_sign_in is asks


def test_a_calendars_feed_opens_by_its_own_name(signed_in: Callable[[str], TestClient]) -> None:
    """A calendar program has no account; it knows the feed's secret address."""
    signed_in("Mara Mechanic").post("/calendar")
    outside = signed_in("")
    with outside.app.state.sessions() as session:  # type: ignore[attr-defined]
        key = workshop.terms(session).calendar_key
    assert key and outside.get(f"/calendar/{key}.ics").status_code == 200
    assert outside.get("/calendar/guessed.ics").status_code == 404
    assert outside.get("/due").status_code == 303


def test_a_page_that_is_not_for_an_account_is_told_on_a_page(signed_in: Callable[[str], TestClient]) -> None:
    answer = signed_in("Adam Apprentice").get("/accounts")
    assert answer.status_code == 403 and answer.text.startswith("<!doctype html>") and "Adam Apprentice" in told(answer)
