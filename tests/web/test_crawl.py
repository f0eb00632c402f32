"""Every page of every station, and whatever it links to and loads, for each demo job, with the standard shelf added, and
for a first day on the shelf alone: none ends in a fault."""

import re
from collections import deque
from collections.abc import Callable, Iterable
from html import unescape
from urllib.parse import urlsplit

import pytest
from starlette.testclient import TestClient

from clavis.web.shell.rooms import Station
from tests.generated import DEMO_JOBS

pytestmark = pytest.mark.long

LINK = re.compile(r'(href|hx-get|src)="((?:/|\?)[^"#]*)')
BESIDE = ("guide", "special", "compare", "work", "history", "export")
OFFERS = [f"offers/{end}/{axis}" for end in ("front", "rear") for axis in ("rotor", "caliper", "lever", "pad")]
ONCE = "/flips/"
"""pieces that take seconds: asked for with one query of several"""
ROOMS = [*(station.value for station in Station), *BESIDE, *OFFERS]


def crawl(client: TestClient, begin: Iterable[str], stays: Callable[[str], bool]) -> set[str]:
    """All that is reached from some addresses within others, asked for as a browser does: a page by its link, a piece
    from the page it stands on. A page that a query changes is not followed to itself with yet another query."""
    seen: set[str] = set()
    waiting = deque((address, "", "href") for address in begin)
    while waiting:
        address, from_page, how = waiting.popleft()
        key = address.partition("?")[0] if ONCE in address else address
        if key in seen:
            continue
        seen.add(key)
        piece = {"hx-request": "true", "hx-current-url": f"http://testserver{from_page}"}
        answer = client.get(address, headers=piece if how == "hx-get" else {})
        assert answer.status_code < 500 and answer.status_code != 404, (answer.status_code, address, from_page)
        page = from_page if how == "hx-get" else address
        for way, found in LINK.findall(answer.text if "html" in answer.headers.get("content-type", "") else ""):
            link = unescape(found) if found.startswith("/") else urlsplit(page).path + unescape(found)
            to, here = urlsplit(link), urlsplit(address)
            if stays(to.path) and not (to.query and here.query and to.path == here.path):
                waiting.append((link, page, way))
    return seen


def crawl_job(client: TestClient, job: str) -> set[str]:
    return crawl(client, [f"/jobs/{job}/{room}" for room in ROOMS], lambda path: path.startswith(f"/jobs/{job}/"))


@pytest.fixture
def followed(client: TestClient) -> TestClient:
    client.follow_redirects = True
    return client


@pytest.mark.parametrize("number", range(1, len(DEMO_JOBS) + 1))
def test_every_page_of_a_demo_job_beside_the_standard_shelf(followed: TestClient, number: int) -> None:
    assert followed.post("/parts/standard-shelf").status_code == 200
    assert len(crawl_job(followed, str(number))) > 100


def test_every_page_beside_the_jobs(followed: TestClient) -> None:
    begin = ["/", "/parts", "/rides", "/bikes", "/due", "/rules", "/guide", "/keys"]
    one_line = re.compile(
        r"/parts/line/(?!r-)|/static/|/jobs/|/parts/new/"
    )  # of the lines of parts the rotors stand for all
    assert len(crawl(followed, begin, lambda path: not one_line.match(path))) > 150


FIRST_DAY = {
    "rider.mass_kg": "78", "bike.kind": "folding", "front.carrying_id": "std-fork-post-mount-160",
    "rear.carrying_id": "std-frame-post-mount-160", "front.max_rotor_mm": "203", "rear.max_rotor_mm": "203",
    "front.rotor_id": "std-rotor-160-18-plain-six-bolt", "front.pad_id": "std-pad-two-piston-resin",
    "front.caliper_id": "std-unknown-two-piston-caliper-post-mount-mineral",
    "front.lever_id": "std-unknown-lever-flat-bar-mineral", "front.hub": "six_bolt", "front.fluid_boils_c": "200",
}  # fmt: skip


@pytest.mark.parametrize("entered", ["nothing", "everything", "what never fits"])
def test_every_page_of_a_first_day_on_the_shelf(empty_client: TestClient, entered: str) -> None:
    client = empty_client
    client.post("/parts/standard-shelf")
    job = client.post("/jobs", data={"title": "First", "page": "p"}).headers["location"].split("/")[2]
    kept = {"nothing": {}, "everything": FIRST_DAY}.get(entered, FIRST_DAY | {"front.max_rotor_mm": "140"})
    for path, value in kept.items():
        answer = client.post(f"/jobs/{job}/field", data={"path": path, "value": value, "room": "measure", "page": "p"})
        assert answer.status_code == 200, (path, answer.text)
    if kept:
        client.post(f"/jobs/{job}/copy-wheel/front", data={"room": "measure", "page": "p"})
        assert client.post(f"/jobs/{job}/rides/stops", data={"page": "p"}).status_code == 200
    client.follow_redirects = True
    assert len(crawl_job(client, job)) > 30
