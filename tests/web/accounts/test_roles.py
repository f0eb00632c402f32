"""Every route by every role, however its address is spelled: what a role may is said at the route, and holds."""

import re
from collections.abc import Callable, Iterator
from html import unescape
from urllib.parse import quote, unquote

import pytest
from fastapi import FastAPI
from starlette.responses import Response
from starlette.routing import Match
from starlette.testclient import TestClient

from clavis.store.accounts import ROLES, Role
from clavis.web.shell import door, routes
from clavis.web.shell.routes import HouseRoute, owner
from tests.web.accounts.conftest import PEOPLE

pytestmark = pytest.mark.usefixtures("quick_hash")

OF_OWNER = {
    "POST /jobs/1/erase", "POST /bikes/1/erase", "POST /people/1/erase", "GET /accounts", "POST /accounts",
    "POST /accounts/1",
}  # fmt: skip
OF_MECHANIC = {
    "POST /jobs/1/sign-off", "POST /jobs/1/sign-off/back", "POST /jobs/1/special/front/release", "POST /jobs/1/supply/order",
    "POST /jobs/1/calibration", "POST /jobs/1/calibration/back", "POST /jobs/1/calibration/from/1",
    "POST /jobs/1/heat/x/accept", "POST /jobs/1/answer/x", "POST /jobs/1/quick/front.rotor_id", "POST /parts/new/rotor",
    "POST /parts/line/x", "POST /parts/line/x/stock", "POST /parts/line/x/retire", "POST /parts/standard-shelf", "POST /parts/imports/1/read",
    "POST /parts/plan", "POST /parts/take", "POST /parts/columns", "POST /parts/columns/take", "POST /rides/x/remove",
    "POST /bikes/1/photos/1/remove", "POST /rules/terms", "POST /calendar", "POST /import",
    "POST /kept/job/1/bring-back", "POST /kept/job/1/put-away", "POST /kept/job/1/undo",
}  # fmt: skip
OF_EVERYBODY = {"GET /sign-in", "POST /sign-in", "GET /alive", "GET /calendar/x.ics"}
ODD = (
    "+9",
    " 9",
    "9 ",
    "9.0",
    "\n9",
    "9\n",
    "09",
    "0x9",
    "9_0",
    "\u0669",
    "\uff19",
    "9e0",
    "-9",
    "9,0",
    "9\x00",
    "\t9",
    "1" * 16,
)
"""spellings of a number that something reads as one, and no page of ours writes"""
OTHERS = {
    "end": "front", "axis": "rotor", "setup": "proposed", "kind": "rotor", "sort": "job", "ref": "1", "what": "order",
    "path": "front.rotor_id", "source": "front", "name": "state", "part": "bands",
}  # fmt: skip


def address(route: HouseRoute, number: str = "1") -> str:
    """A route's address with a number, and with something that it may mean elsewhere."""
    path = route.path
    while "{" in path:
        name = path[path.index("{") + 1 : path.index("}")]
        value = number if name in route.numbers else OTHERS.get(name, "x")
        path = path.replace(f"{{{name}}}", value)
    return path


def every_route(app: FastAPI) -> Iterator[tuple[str, HouseRoute]]:
    for route in app.routes:
        if isinstance(route, HouseRoute):
            yield from ((method, route) for method in sorted(route.methods))


def test_a_route_that_does_not_say_who_may_is_not_made() -> None:
    room = routes.router()
    for who in ((), (*routes.APPRENTICE, *owner("the owner"))):
        with pytest.raises(TypeError, match="does not say who"):
            room.get("/jobs/{job_id}/new", dependencies=who)(lambda: None)


def test_every_route_is_one_of_the_house(app_of_shop: FastAPI) -> None:
    """What is not made by it is the assets alone."""
    assert [r.path for r in app_of_shop.routes if not isinstance(r, HouseRoute)] == ["/static"]


def test_the_acts_of_each_role(app_of_shop: FastAPI) -> None:
    """The list by hand against what the routes say: a new act is thought of here."""
    told: dict[Role | None, set[str]] = {None: set(), **{role: set() for role in Role}}
    for method, route in every_route(app_of_shop):
        told[route.needs.least].add(f"{method} {address(route)}")
    assert (told[None], told[Role.MECHANIC], told[Role.OWNER]) == (OF_EVERYBODY, OF_MECHANIC, OF_OWNER)
    grave = ("erase", "sign-off", "release", "accept", "accounts", "shelf", "take", "retire")
    loose = {a for a in told[Role.APPRENTICE] if a.startswith("POST") and a.rpartition("/")[2] in grave}
    assert loose == {"POST /jobs/1/rides/shelf"}


def test_each_role_may_what_the_route_says(
    app_of_shop: FastAPI, signed_in: Callable[[str], TestClient], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Every route is asked by every role, and by nobody; what would be done is left undone."""
    asked = 0
    clients = {None: signed_in("")} | {role: signed_in(name) for name, role in PEOPLE.items()}
    for _, route in every_route(app_of_shop):
        monkeypatch.setattr(route.dependant, "call", lambda **_: Response("reached"))
    for method, route in every_route(app_of_shop):
        for role, client in clients.items():
            answer = client.request(method, address(route))
            asked += 1
            least = route.needs.least
            if role is None and least is not None:
                assert answer.status_code == (303 if method == "GET" else 401), (method, route.path)
                assert answer.text == "" or "signed out" in answer.text
            elif role is not None and least is not None and ROLES.index(role) < ROLES.index(least):
                assert answer.status_code == 403 and route.needs.words in answer.text, (role, method, route.path)
            else:
                assert "Not with this account" not in answer.text, (role, method, route.path)
    assert asked > 800
    assert clients[None].get("/jobs/7/candidates/front", headers={"hx-request": "true"}).status_code == 401
    clients[None].cookies.set(door.SESSION_COOKIE, "x" * 43)
    assert clients[None].get("/jobs/7/choose").status_code == 303


def test_a_number_spelled_oddly_leads_nowhere(app_of_shop: FastAPI) -> None:
    """Every route with a number by every spelling, as the server decodes it: none of all routes takes it."""
    tried = 0
    for method, route in every_route(app_of_shop):
        for odd in ODD if route.numbers else ():
            path = unquote(quote(address(route, odd)))
            scope = {"type": "http", "method": method, "path": path, "headers": []}
            if odd == "1" * 16:  # turned away before any route is asked
                continue
            taken = [r.path for _, r in every_route(app_of_shop) if r.matches(scope)[0] is not Match.NONE]
            assert not taken, (path, taken)
            tried += 1
    assert tried > 2000


@pytest.mark.parametrize("odd", ODD)
def test_no_act_is_reached_by_an_odd_address(signed_in: Callable[[str], TestClient], odd: str) -> None:
    for name in ("Adam Apprentice", "Olga Owner"):
        client = signed_in(name)
        for act in ("/jobs/{}/sign-off", "/jobs/{}/erase", "/people/{}/erase", "/jobs/{}/answer/front:x"):
            assert client.post(act.format(quote(odd))).status_code == 404, (name, act)


OFFER = re.compile(r'(?:hx-post|(?<=method="post" )action)="(/[^"?]*)')
PAGES = (
    "/", "/parts", "/parts/line/r-160-18", "/rides", "/bikes", "/bikes/1", "/people/1", "/due", "/rules",
    *(f"/jobs/{job}/{page}" for job in (1, 3, 7) for page in (
        "intake", "guide", "measure", "ride", "choose", "fit", "special", "build", "build?view=supply", "prove",
        "prove?view=temperatures", "prove?view=calibration", "keep", "history", "offers/front/rotor",
    )),
)  # fmt: skip


def test_no_page_offers_what_its_reader_may_not(app_of_shop: FastAPI, signed_in: Callable[[str], TestClient]) -> None:
    """Every button of the pages, by the role that its route needs; and a mechanic is offered more."""
    posts = [route for method, route in every_route(app_of_shop) if method == "POST"]
    offered: dict[str, set[str]] = {}
    for name, role in PEOPLE.items():
        client, found = signed_in(name), offered.setdefault(name, set())
        for page in PAGES:
            for path in OFFER.findall(client.get(page).text):
                scope = {"type": "http", "method": "POST", "path": unescape(path), "headers": []}
                route = next((r for r in posts if r.matches(scope)[0] is Match.FULL), None)
                assert route is not None, (page, path)
                least = route.needs.least or Role.APPRENTICE
                assert ROLES.index(role) >= ROLES.index(least), f"{page} offers {path} to an {role}"
                found.add(route.path)
    assert {"/import", "/parts/plan"} <= offered["Mara Mechanic"] - offered["Adam Apprentice"]
