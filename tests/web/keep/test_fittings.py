"""A part that came on a bike without an order, through the pages."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.mounts import End
from clavis.store import bikes
from tests.web.told import told, told_at

HIRE = "Hire bike no. 13"


@pytest.fixture
def number(client: TestClient) -> int:
    with client.app.state.sessions() as session:
        return next(number for number, name in bikes.names(session) if name == HIRE)


def kept(client: TestClient, number: int) -> KeptBike:
    with client.app.state.sessions() as session:
        return bikes.open_bike(session, number).bike


def offered(client: TestClient, number: int, kind: str) -> str:
    form = client.get(f"/bikes/{number}/fitting").text
    return re.findall(rf'<option value="({kind}:[^"]+)"', form)[0]


def test_pads_that_the_rider_fitted_end_the_life_of_those_before(client: TestClient, number: int) -> None:
    before = kept(client, number).on_it(End.FRONT, Renewal.PAD)
    pads = offered(client, number, "pad")
    form = {"end": "front", "part": pads, "km": "3000", "why": "on the road"}
    page = told(client.post(f"/bikes/{number}/fittings", data=form))
    bike = kept(client, number)
    new = bike.on_it(End.FRONT, Renewal.PAD)
    assert before and new and new.id != before.id and new.part_id == pads.partition(":")[2]
    assert (new.fitted.km, new.fitted.why, new.fitted.who) == (3000, "on the road", "Tess Bench")  # type: ignore[union-attr]
    old = next(life for life in bike.lives if life.id == before.id)
    assert old.removed is not None and old.removed.km == 3000
    assert bike.odometer[-1].km == 3000
    assert f"front: {new.name} fitted, {before.name} off" in page and "because: on the road" in page
    client.post(f"/bikes/{number}/undo")
    assert kept(client, number).on_it(End.FRONT, Renewal.PAD) == before


def test_fresh_fluid_on_the_road_counts_from_its_day(client: TestClient, number: int) -> None:
    form = {"end": "rear", "part": "bleed:dot51", "day": bikes.today().isoformat()}
    assert client.post(f"/bikes/{number}/fittings", data=form).status_code == 200
    assert "rear: DOT 5.1, 0.0 years old; it boils at 260 °C now" in told_at(client, f"/bikes/{number}")


@pytest.mark.parametrize(
    ("form", "said"),
    [
        ({"end": "", "part": "hose:"}, "Say which wheel"),
        ({"end": "front", "part": ""}, "Say which wheel"),
        ({"end": "front", "part": "pad:nobodys"}, "Say which wheel"),
        ({"end": "front", "part": "bleed:soup"}, "Say which wheel"),
        ({"end": "front", "part": "hose:", "day": "2999-01-01"}, "a day that has been"),
        ({"end": "front", "part": "PAD", "day": "2001-01-01"}, "that is later"),
        ({"end": "front", "part": "PAD", "km": "1"}, "that is further"),
    ],
)
def test_what_cannot_have_been_is_refused(client: TestClient, number: int, form: dict[str, str], said: str) -> None:
    pads = offered(client, number, "pad")
    first = {"end": "front", "part": pads, "km": "2000"}
    assert client.post(f"/bikes/{number}/fittings", data=first).status_code == 200
    before = kept(client, number)
    sent = form | {"part": form["part"].replace("PAD", pads)}
    answer = client.post(f"/bikes/{number}/fittings", data=sent)
    assert answer.status_code == 422 and said in told(answer)
    assert answer.headers["hx-retarget"] == "#fitting-form"  # the form stays open, with what was typed
    if sent["part"] and sent["part"] in client.get(f"/bikes/{number}/fitting").text:
        assert f'value="{sent["part"]}" selected' in answer.text
    assert kept(client, number) == before


def test_a_bike_tells_what_its_jobs_found(client: TestClient) -> None:
    """Of the rotor that was below its minimum when the bike was here, the book speaks."""
    client.app.state.rows.catch_up()
    with client.app.state.sessions() as session:
        named = {name: number for number, name in bikes.names(session)}
        about = {name: bikes.jobs_of(session, number) for name, number in named.items()}
    found = {name: row.shown.get("found") for name, rows in about.items() for row in rows if row.shown.get("found")}
    assert found, "no job of the demo world found anything"
    name = next(iter(found))
    assert re.search(r"(front|rear), [^:]+: ", told_at(client, f"/bikes/{named[name]}"))
    assert 'class="tag found"' in client.get(f"/bikes/{named[name]}").text
