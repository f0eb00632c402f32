"""The six bikes of docs/keeping.md walked through the pages: everything of them is typed in as a mechanic would, nothing is
put into the database behind the pages but the parts that a signed order would have put there."""

from datetime import date
from typing import Any

import pytest
from starlette.testclient import TestClient

from clavis.core.keeping.bike import KeptBike
from clavis.store import bikes
from tests.core.keeping.test_six_bikes import CARGO, COMMUTER, GRAVEL, HIRE, TOURING, TRAIL
from tests.web.told import told, told_at

TODAY = date(2026, 11, 29)


@pytest.fixture(autouse=True)
def on_that_day(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bikes, "today", lambda: TODAY)


def brought(client: TestClient, bike: KeptBike) -> int:
    """A bike with its parts, as orders left it: no reading, no odometer, no week, no entry."""
    bare = bike.model_copy(
        update={"readings": (), "odometer": (), "weekly_km": None, "entries": (), "visits": bike.visits}
    )
    with client.app.state.sessions() as session:
        return bikes.create_bike(session, bare, "Tess")


def read(client: TestClient, number: int, day: str, km: float | None, **thicknesses: Any) -> str:
    form = {"day": day, "km": "" if km is None else f"{km:g}"}
    for life, (mm, gauge) in thicknesses.items():
        form |= {f"mm-{life.replace('_', '-')}": f"{mm}", f"gauge-{life.replace('_', '-')}": gauge}
    answer = client.post(f"/bikes/{number}/readings", data=form)
    assert answer.status_code == 200, told(answer)[:300]
    return told(answer)


def test_1_the_commuter_plans_for_a_month(client: TestClient) -> None:
    number = brought(client, COMMUTER)
    page = read(client, number, "2026-11-29", 3100, life_1=(1.3, "pad_gauge"), life_2=(1.8, "pad_gauge"))
    assert "plan front pads" in page and "Order: Two resin" in page
    assert "not known: say it, or read the odometer" in page  # no week yet, and so no month
    assert "; January" not in page and "2027" not in page
    client.post(f"/bikes/{number}/field/weekly_km", data={"value": "60", "base": "99"})
    page = told_at(client, f"/bikes/{number}")
    assert "60 km a week, as stated" in page.replace("\xa0", " ") and "2027" in page
    front = page.split("Front pads")[1].split("Rear pads")[0]
    assert "2026-12" not in front and "2027-" not in front  # months, never a day


def test_2_the_hire_bike_says_kilometres_and_no_date(client: TestClient) -> None:
    number = brought(client, HIRE)
    read(client, number, "2026-11-05", 400, life_1=(1.9, "pad_gauge"))
    page = read(client, number, "2026-11-29", 900, life_1=(1.8, "pad_gauge"))
    assert "nothing is due" in page and "Replace in about" in page and "2027" not in page
    assert "Hire 14" not in told_at(client, "/due")


def test_3_the_trail_bikes_vernier_asks_for_a_micrometer_and_may_condemn(client: TestClient) -> None:
    number = brought(client, TRAIL)
    page = read(client, number, "2026-11-29", 4000, life_1=(1.58, "vernier"))
    assert "ask front rotor: read 1.58 mm with a vernier" in page.replace("\xa0", " ")
    assert (
        "by the model alone: nothing read" in page or "by what such parts usually do" in page or "by the model" in page
    )
    page = read(client, number, "2026-11-29", None, life_1=(1.45, "vernier"))
    assert "unsafe front rotor: read 1.45 mm, minimum 1.50 mm" in page.replace("\xa0", " ")
    board = client.get("/").text
    assert "due-unsafe" in board  # it stands over the board


def test_4_the_cargo_bike_is_asked_about_before_a_third_set(client: TestClient) -> None:
    number = brought(client, CARGO)
    read(client, number, "2026-08-01", 900, life_1=(1.35, "pad_gauge"))
    page = read(client, number, "2026-11-29", 1300, life_1=(1.0, "pad_gauge"), life_2=(1.78, "micrometer"))
    assert "replace rear pads" in page and "What to ask" in page
    assert "times as fast as ride and compound explain" in page and "Wet grit, sand or salt on the way?" in page
    assert "pads wear out of proportion to the rotor" in page


def test_5_the_touring_bikes_fluid_and_bolts(client: TestClient) -> None:
    number = brought(client, TOURING)
    page = told_at(client, f"/bikes/{number}")
    assert "nobody knows how old it is: a bleed settles it" in page
    assert "front: DOT 4, nobody knows how old" in page
    assert "check front bolts" in page
    assert "check front bolts" not in told(client.post(f"/bikes/{number}/tightened/front"))
    assert "front bolts tightened once more" in told_at(client, f"/bikes/{number}")


def test_6_the_gravel_bikes_cure_stays_open(client: TestClient) -> None:
    number = brought(client, GRAVEL.model_copy(update={"visits": ()}))
    for what in ("front pads new", "front rotor new", "front bleed"):
        form = {"what": what, "why": "as asked", "day": "2026-11-01", "complaint": "howls"}
        assert client.post(f"/bikes/{number}/entries", data=form).status_code == 200
    page = told_at(client, f"/bikes/{number}")
    assert page.count("because: as asked") == 3 and "howls: not said yet whether it is gone" in page
    gone = told(client.post(f"/bikes/{number}/visits/day-2026-11-01", data={"outcome": "gone"}))
    assert "howls: gone; open: three things changed at once" in gone
    nowhere = client.post(f"/bikes/{number}/visits/day-2020-01-01", data={"outcome": "gone"})
    assert nowhere.status_code == 422 and "no such visit" in told(nowhere)
    other = {"outcome": "gone", "cured_by": "entry-99", "shown_by": "a trial"}
    assert client.post(f"/bikes/{number}/visits/day-2026-11-01", data=other).status_code == 422


def test_old_mineral_fluid_counts_as_water(client: TestClient) -> None:
    lives = (TOURING.lives[0].model_copy(update={"grade": "mineral"}),)
    number = brought(client, TOURING.model_copy(update={"lives": lives}))
    assert "it counts as boiling at 100 °C" in told_at(client, f"/bikes/{number}").replace("\xa0", " ")
