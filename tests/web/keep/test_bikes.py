"""A bike's book through the pages: readings, log, cures, people, undo; what two people do at the same time."""

import re
from datetime import timedelta

import pytest
from starlette.testclient import TestClient

from clavis.core.keeping.bike import KeptBike
from clavis.store import bikes
from tests.web.told import told, told_at

COMMUTER, GRAVEL, HIRE = 3, 5, 4


@pytest.fixture
def numbers(client: TestClient) -> dict[str, int]:
    """Bikes of the demo world by name."""
    with client.app.state.sessions() as session:
        return {name: number for number, name in bikes.names(session)}


def kept(client: TestClient, number: int) -> KeptBike:
    with client.app.state.sessions() as session:
        return bikes.open_bike(session, number).bike


def other(client: TestClient, name: str) -> TestClient:
    found = TestClient(client.app, headers=client.headers, follow_redirects=False)
    found.cookies.set("clavis_who", name)
    return found


def test_the_book_says_what_is_due_and_when(client: TestClient, numbers: dict[str, int]) -> None:
    page = told_at(client, f"/bikes/{numbers['Commuter on cable discs']}")
    assert "plan front pads" in page and "read it with a micrometer" in page
    assert re.search(r"Replace in about [\d ]+ km [\d ]+ km to [\d ]+ km; \w+ (\d{4} )?to \w+ \d{4}", page)
    assert "km a week, by the odometer" in page
    assert "0.40 mm in 1 000 km: 1.5 times what the model expects, by 3 readings" in page.replace("\u202f", " ")


def test_readings_are_kept_and_move_the_forecast(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Hire bike no. 13"]
    before = told_at(client, f"/bikes/{number}")
    answer = client.post(
        f"/bikes/{number}/readings",
        data={"km": "2400", "mm-life-1": "1.2", "other-life-1": "1.5", "gauge-life-1": "pad_gauge", "mm-life-2": ""},
    )
    assert answer.status_code == 200 and "plan front pads" in told(answer) and "plan front pads" not in before
    bike = kept(client, number)
    assert (bike.readings[-1].mm, bike.readings[-1].other_mm, bike.readings[-1].who) == (1.2, 1.5, "Tess Bench")
    assert bike.odometer[-1].km == 2400 and bike.readings[-1].km == 2400
    assert "Hire bike no. 13" in told_at(client, "/due")


def test_imperial_distances_are_read_in_miles(client: TestClient, numbers: dict[str, int]) -> None:
    client.cookies.set("clavis_units", "imperial")
    number = numbers["Hire bike no. 13"]
    client.post(f"/bikes/{number}/readings", data={"km": "1500"})
    assert kept(client, number).odometer[-1].km == pytest.approx(1500 * 1.609344, abs=0.01)


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ({"mm-life-1": "paper"}, "front pads"),
        ({"mm-life-1": "40"}, "0 mm to 12 mm"),
        ({"km": "-5"}, "Odometer"),
        ({"day": "2999-01-01", "km": "3"}, "a day that has been"),
        ({"day": "yesterday", "km": "3"}, "a day, as 2026-11-29"),
        ({}, "Nothing was typed"),
    ],
)
def test_a_mistake_is_said_and_what_was_typed_stays(
    client: TestClient, numbers: dict[str, int], typed: dict[str, str], said: str
) -> None:
    number = numbers["Commuter on cable discs"]
    before = kept(client, number)
    answer = client.post(f"/bikes/{number}/readings", data={"mm-life-2": "1.44"} | typed if typed else {})
    assert answer.status_code == 422 and said in told(answer)
    assert kept(client, number) == before
    if typed:
        assert 'value="1.44"' in answer.text


def test_a_vernier_reading_is_kept_and_passes_nothing(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Hire bike no. 14"]
    bike = kept(client, number)
    rotor = next(life for life in bike.lives if life.what.value == "rotor")
    before = re.findall(r"Replace in about [\d ]+", told_at(client, f"/bikes/{number}"))
    client.post(f"/bikes/{number}/readings", data={f"mm-{rotor.id}": "1.70", f"gauge-{rotor.id}": "vernier"})
    assert kept(client, number).readings[-1].gauge == "vernier"
    told_now = told_at(client, f"/bikes/{number}")
    assert ": 1.70 mm, vernier caliper" in told_now and before
    assert re.findall(r"Replace in about [\d ]+", told_now) == before
    refused = client.post(f"/bikes/{number}/readings", data={f"mm-{rotor.id}": "1.6", f"gauge-{rotor.id}": "ruler"})
    assert refused.status_code == 200 and kept(client, number).readings[-1].gauge == "micrometer"


def test_a_cure_stays_open_until_one_is_shown(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Gravel bike that grabs"]
    assert "howls: gone; open: three things changed at once" in told_at(client, f"/bikes/{number}")
    form = {"outcome": "gone", "cured_by": "entry-2", "shown_by": ""}
    refused = client.post(f"/bikes/{number}/visits/visit-1", data=form)
    assert refused.status_code == 422 and "What shows that it was this one?" in told(refused)
    shown = client.post(f"/bikes/{number}/visits/visit-1", data=form | {"shown_by": "old rotor back: it howls"})
    assert "gone by: rotor Ulvorn Line 160 fitted (shown by old rotor back: it howls)" in told(shown)
    stays = client.post(f"/bikes/{number}/visits/visit-1", data={"outcome": "stays"})
    assert "howls: it stays" in told(stays)


def test_entries_are_one_thing_each(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Hire bike no. 11"]
    assert "One thing for each entry" in told(client.post(f"/bikes/{number}/entries", data={"what": " "}))
    client.post(f"/bikes/{number}/entries", data={"what": "pistons evened out", "why": "drags", "end": "front"})
    client.post(f"/bikes/{number}/entries", data={"what": "caliper centred", "why": "drags", "end": "front"})
    page = told_at(client, f"/bikes/{number}")
    assert "front: pistons evened out" in page and "front: caliper centred" in page and "because: drags" in page


def test_whose_it_is_and_what_is_no_address(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Hire bike no. 11"]
    bad = client.post(f"/bikes/{number}/person", data={"name": "Una", "email": "una at home"})
    assert bad.status_code == 422 and "is no address" in told(bad)
    bad = client.post(f"/bikes/{number}/person", data={"name": "Una", "phone": "<b>"})
    assert bad.status_code == 422 and "is no number" in told(bad)
    client.post(f"/bikes/{number}/person", data={"name": "Una Selby", "phone": "0555 0190"})
    assert "Una Selby" in told_at(client, f"/bikes/{number}")
    assert "Hire bike no. 11" in told_at(client, "/bikes", search="selby")
    client.post(f"/bikes/{numbers['Hire bike no. 12']}/person", data={"name": "Una Selby", "phone": "0555 0190"})
    with client.app.state.sessions() as session:
        owners = {bikes.open_bike(session, numbers[f"Hire bike no. {k}"]).person for k in (11, 12)}
    assert len(owners) == 1  # the same person, not two of the same name


def test_two_people_at_one_bike(client: TestClient, numbers: dict[str, int]) -> None:
    """Readings of both are kept; the same field is not overwritten unseen; the other's act is not undone unasked."""
    number = numbers["Hire bike no. 13"]
    rolf = other(client, "Rolf")
    with client.app.state.sessions() as session:
        base = bikes.open_bike(session, number).version
    client.post(f"/bikes/{number}/readings", data={"mm-life-1": "1.8"})
    rolf.post(f"/bikes/{number}/readings", data={"mm-life-2": "1.7"})
    assert [r.who for r in kept(client, number).readings[-2:]] == ["Tess Bench", "Rolf"]
    assert (
        rolf.post(f"/bikes/{number}/field/frame_number", data={"value": "LH-13", "base": str(base)}).status_code == 200
    )
    late = client.post(f"/bikes/{number}/field/frame_number", data={"value": "LH-1313", "base": str(base)})
    assert late.status_code == 422 and "Rolf changed this in the meantime: it is “LH-13” now" in told(late)
    assert kept(client, number).frame_number == "LH-13"
    refused = client.post(f"/bikes/{number}/undo")
    assert refused.status_code == 422 and "the newest act is Rolf’s" in told(refused)
    assert client.post(f"/bikes/{number}/undo", data={"anybodys": "on"}).status_code == 200
    assert kept(client, number).frame_number == "LH-0013"


def test_bolts_tightened_once_more_leave_the_list(client: TestClient, numbers: dict[str, int]) -> None:
    number = numbers["Hire bike no. 16"]
    with client.app.state.sessions() as session:
        from clavis.core.job.renewal import Renewal
        from clavis.core.keeping.bike import Moment, PartLife
        from clavis.core.parts.mounts import End

        day = (bikes.today() - timedelta(days=2)).isoformat()
        life = PartLife(id="life-9", end=End.FRONT, what=Renewal.BOLTS, fitted=Moment(day=day))
        bikes.change(session, number, lambda b: b.model_copy(update={"lives": (*b.lives, life)}), "Tess", "bolts")
    assert "check front bolts" in told_at(client, f"/bikes/{number}")
    assert "check front bolts" not in told(client.post(f"/bikes/{number}/tightened/front"))


def test_what_is_not_there_is_said(client: TestClient) -> None:
    assert client.get("/bikes/999").status_code == 404
    assert client.post("/bikes/999/readings", data={"km": "3"}).status_code == 404
