"""Who reads pounds and miles meets no metric word, on any page of the demo world."""

import html
import re
from collections.abc import Iterator

import pytest
from starlette.testclient import TestClient

from clavis.web.shell.rooms import Room
from tests.bikes import CATALOGUE

pytestmark = pytest.mark.long

JOBS = (1, 2, 6, 7)  # the others are opened by test_pages
WORKED_OUT = 3
"""of this one what takes long is looked at as well"""
METRIC = re.compile(
    r"(?<![\w.])\d[\d.,\u202f]*[\s\u00a0]*"
    r"(mm³/bar|mm³|mm²|mm|cm|km/h|km|kg|m/s²|m/s|m²|m|°C|K|N·m|Nm|N|bar|ml|g|K/s|W/K|J/K)(?![\w/²³°·-])"
)
NAMED_IN_MM = re.compile(
    r"\d[\d.]* ?mm \([\d.]+ in\)"  # both are shown
    r"|\d ?mm hex|8 ?mm spanner"  # a key
    r"|lbf·in [\d.–]+ N·m"  # a torque is told in both
    r"|1[25] ?mm through|20 ?mm through|1[25] and 20 ?mm(?: axles)?|12 ?mm axles?|quick-release, 12 ?mm|20 ?mm, suits"  # an axle
    r"|100 ?mm ruler"  # what is printed on the template
)


def told(page: str) -> str:
    """What a reader of a page reads or hears."""
    text = re.sub(r"(?s)<(script|style).*?</\1>", "", page)
    text = re.sub(r'(?:placeholder|title|aria-label|value)="([^"]*)"', r"> \1 <", text)
    return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]*>", " ", text))).replace("\u00a0", " ")


def metric_words(page: str) -> list[str]:
    text = NAMED_IN_MM.sub("", told(page))
    return [text[max(0, m.start() - 50) : m.end() + 10] for m in METRIC.finditer(text)]


def addresses(job: int) -> Iterator[str]:
    of_job = f"/jobs/{job}"
    yield from (f"{of_job}/{room.value}" for room in Room)
    yield from (f"{of_job}/measure?place={place}" for place in ("hub", "rotor", "pads", "caliper", "lever", "room"))
    yield from (f"{of_job}/{piece}" for piece in ("history", "conversion", "pairing", "styles"))
    if job == WORKED_OUT:
        yield from (f"{of_job}/{piece}/rear" for piece in ("candidates", "ladder", "flips", "tradeoff"))
    yield f"{of_job}/offers/front/rotor"
    yield from (f"{of_job}/prove?view={view}" for view in ("runs", "result", "temperatures", "calibration"))
    yield from (
        f"{of_job}/{piece}" for piece in ("trials/expected", "trials/stops-shorter/sheet", "trials/stops-shorter/ride")
    )


@pytest.mark.parametrize("job", JOBS)
def test_no_page_of_a_job_tells_a_metric_word(client: TestClient, job: int) -> None:
    client.cookies.set("clavis_units", "imperial")
    answers = {address: client.get(address) for address in addresses(job)}
    pages = {address: answer.text for address, answer in answers.items() if answer.status_code == 200}
    assert len(pages) > 16
    assert {address: words for address, page in pages.items() if (words := metric_words(page))} == {}


def test_no_working_tells_a_metric_word(client: TestClient) -> None:
    client.cookies.set("clavis_units", "imperial")
    sheet = client.get("/jobs/1/choose").text
    keys = sorted(set(re.findall(r"/jobs/1/why/(\w+/\w+/\w+)", sheet)))
    assert len(keys) > 40
    pages = {key: client.get(f"/jobs/1/why/{key}").text for key in keys}
    assert {key: words for key, page in pages.items() if (words := metric_words(page))} == {}


def test_no_other_page_tells_a_metric_word(client: TestClient) -> None:
    client.cookies.set("clavis_units", "imperial")
    client.app.state.rows.catch_up()
    pages = [
        "/",
        "/rules",
        "/due",
        "/due?fleet=Lift+hire",
        "/bikes",
        *(f"/bikes/{number}" for number in range(1, 13)),
        "/rides",
        "/keys",
        "/parts",
        *(f"/parts?kind={kind}" for kind in sorted({p.kind for p in CATALOGUE.every()})),
    ]
    assert {page: words for page in pages if (words := metric_words(client.get(page).text))} == {}
