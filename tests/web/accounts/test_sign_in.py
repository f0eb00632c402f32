"""The door: nobody comes in without an account, each may what its role may, and names are those of the accounts."""

import json
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from clavis.store import accounts, jobs, workshop
from clavis.store.accounts import Role
from clavis.web.app import create_app
from clavis.web.shell import door
from clavis.web.shell.door import FREE_TRIES, OPEN, RULES, Attempts, rule_of
from clavis.web.shell.settings import Settings
from tests.fuzz import routes_of
from tests.web.told import told

pytestmark = pytest.mark.usefixtures("quick_hash")
PASSWORD = "a long enough one"
SAME = {"sec-fetch-site": "same-origin"}


@pytest.fixture
def app_of_shop(tmp_path: Path, demo_database: Path, quick_hash: None) -> Iterator[object]:
    copy = tmp_path / "shop.db"
    shutil.copy(demo_database, copy)
    app = create_app(Settings(database=copy, allowed_hosts=["testserver"], background=False, sign_in=True))
    with app.state.sessions() as session:
        for name, role in (
            ("Olga Owner", Role.OWNER),
            ("Mara Mechanic", Role.MECHANIC),
            ("Adam Apprentice", Role.APPRENTICE),
        ):
            accounts.add(session, name, PASSWORD, role, "cli")
    yield app
    app.state.engine.dispose()


@pytest.fixture
def signed_in(app_of_shop: object) -> Callable[[str], TestClient]:
    def client_of(name: str) -> TestClient:
        client = TestClient(app_of_shop, headers=SAME, follow_redirects=False)  # type: ignore[arg-type]
        client.cookies.set("clavis_who", "Somebody%20Else")
        if name:
            answer = client.post(
                "/sign-in", data={"name": name, "password": PASSWORD, "back": "/jobs/7/choose?view=ladder"}
            )
            assert (answer.status_code, answer.headers["location"]) == (303, "/jobs/7/choose?view=ladder")
            cookie = answer.headers["set-cookie"]
            assert "HttpOnly" in cookie and "SameSite=strict" in cookie
        return client

    return client_of


def test_nothing_is_answered_to_who_has_not_signed_in(signed_in: Callable[[str], TestClient]) -> None:
    """Every route of the description, with no session, an ended one and a made-up one."""
    client = signed_in("")
    for token in ("", "x" * 43):
        client.cookies.set(door.SESSION_COOKIE, token)
        for route in routes_of(client.app):  # type: ignore[arg-type]
            path = route.path.replace("{sort}", "job")
            while "{" in path:
                path = path[: path.index("{")] + "1" + path[path.index("}") + 1 :]
            if OPEN.match(path):
                continue
            answer = client.request(route.method, path)
            if route.method == "GET":
                assert answer.status_code == 303 and answer.headers["location"].startswith("/sign-in?back="), path
            else:
                assert answer.status_code == 401, path
    assert client.get("/static/shell/shell.css").status_code == 200
    assert client.get("/jobs/7/candidates/front", headers={"hx-request": "true"}).status_code == 401


def test_the_name_is_the_accounts(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("mara mechanic")
    form = {"path": "title", "value": "Tandem, signed in", "room": "intake", "page": "p"}
    assert client.post("/jobs/7/field", data=form).status_code == 200
    with client.app.state.sessions() as session:  # type: ignore[attr-defined]
        assert jobs.history(session, 7)[0].who == "Mara Mechanic"
    assert client.post("/who", data={"name": "Somebody Else"}).status_code == 403
    assert "Mara Mechanic" in told(client.get("/")) and "Somebody Else" not in told(client.get("/"))


REFUSED: dict[str, tuple[Role, str, dict[str, str]]] = {
    "sign off": (Role.MECHANIC, "/jobs/7/sign-off", {}),
    "take back": (Role.MECHANIC, "/jobs/7/sign-off/back", {}),
    "release": (Role.MECHANIC, "/jobs/7/special/front/release", {}),
    "order": (Role.MECHANIC, "/jobs/7/supply/order", {}),
    "catalogue": (Role.MECHANIC, "/parts/standard-shelf", {}),
    "terms": (Role.MECHANIC, "/rules/terms", {}),
    "erase a job": (Role.OWNER, "/jobs/7/erase", {}),
    "erase a person": (Role.OWNER, "/people/1/erase", {}),
    "accounts": (Role.OWNER, "/accounts", {"name": "Eve Example", "password": PASSWORD, "role": "owner"}),
}


@pytest.mark.parametrize("what", REFUSED)
def test_each_may_what_the_role_may(signed_in: Callable[[str], TestClient], what: str) -> None:
    least, address, form = REFUSED[what]
    for name, role in (("Adam Apprentice", Role.APPRENTICE), ("Mara Mechanic", Role.MECHANIC)):
        answer = signed_in(name).post(address, data=form)
        below = accounts.ROLES.index(role) < accounts.ROLES.index(least)
        assert (answer.status_code == 403 and "Not with this account" in told(answer)) is below, (
            name,
            answer.status_code,
        )
    assert signed_in("Adam Apprentice").get("/jobs/7/choose").status_code == 200


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


def test_wrong_passwords_have_to_wait(signed_in: Callable[[str], TestClient]) -> None:
    client = signed_in("")
    for _ in range(FREE_TRIES):
        answer = client.post("/sign-in", data={"name": "Olga Owner", "password": "guess and guess"})
        assert answer.status_code == 401 and "do not go together" in told(answer)
    answer = client.post("/sign-in", data={"name": "Olga Owner", "password": PASSWORD})
    assert answer.status_code == 429 and int(answer.headers["retry-after"]) > 5 and "possible in" in told(answer)


def test_waiting_doubles_and_ends(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr(door, "monotonic", lambda: now[0])
    attempts, waits = Attempts(), []
    for _ in range(FREE_TRIES + 8):
        attempts.wrong("name x")
        waits.append(attempts.waits_s("name x", "from y"))
    assert waits[: FREE_TRIES - 1] == [0.0] * (FREE_TRIES - 1)
    assert waits[FREE_TRIES - 1 : FREE_TRIES + 2] == [15.0, 30.0, 60.0] and waits[-1] == 900.0
    now[0] += 900.0
    assert attempts.waits_s("name x") == 0.0
    attempts.right("name x")
    attempts.wrong("name x")
    assert attempts.waits_s("name x") == 0.0


def test_every_rule_meets_a_route(signed_in: Callable[[str], TestClient]) -> None:
    """A rule whose address no route has any more would guard nothing."""
    paths = []
    for route in routes_of(signed_in("").app):  # type: ignore[arg-type]
        path = route.path
        while "{" in path:
            path = path[: path.index("{")] + "1" + path[path.index("}") + 1 :]
        paths.append((route.method, path))
    for rule in RULES:
        assert any(rule_of(method, path) is rule for method, path in paths), rule.words


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
