"""The day's due work, a fleet at a glance, and the calendar read back with a calendar library."""

import csv
import io

from icalendar import Calendar
from starlette.testclient import TestClient

from clavis.store import bikes
from tests.web.test_pages import field
from tests.web.told import told, told_at

FLEET = {"fleet": "Lift hire"}


def key_of(client: TestClient) -> str:
    client.post("/calendar")
    page = client.get("/due").text
    return page.split('href="/calendar/')[1].split(".ics")[0]


def events(client: TestClient, key: str) -> dict[str, dict[str, object]]:
    calendar = Calendar.from_ical(client.get(f"/calendar/{key}.ics").content)
    found = list(calendar.walk("VEVENT"))
    told = {
        str(e["uid"]): {"summary": str(e["summary"]), "day": e.decoded("dtstart"), "seq": int(e["sequence"])}
        for e in found
    }
    assert len(told) == len(found)  # no two bear the same name
    return told


def test_unsafe_comes_first_with_its_reason_and_what_to_order(client: TestClient) -> None:
    page = told_at(client, "/due")
    first = page.split("Why Left When Order")[1]
    assert first.strip().startswith("unsafe front pads Hire bike no. 12")
    assert "read 0.15 mm: down to the backing plate" in first and "Pellory P2 Resin" in first
    order = page.split("To order, for a month")[1]
    assert "Pellory P2 Resin" in order


def test_urgency_and_fleet_narrow_the_list(client: TestClient) -> None:
    assert "Commuter" not in told_at(client, "/due", **FLEET)
    fleet = told_at(client, "/due", **FLEET)
    assert fleet.index("Hire bike no. 12") < fleet.index("Hire bike no. 15") < fleet.index("Hire bike no. 16")
    assert "nothing due" in fleet
    only = told_at(client, "/due", urgency="ask")
    assert "read it with a micrometer" in only and "backing plate" not in only


def test_the_calendar_can_be_read_back_and_a_second_export_changes_and_never_doubles(client: TestClient) -> None:
    key = key_of(client)
    first = events(client, key)
    plan = {uid: e for uid, e in first.items() if "plan front pads" in str(e["summary"])}
    assert plan and all(e["day"].day == 1 for e in plan.values())  # a month, not a day
    uid = next(uid for uid, e in plan.items() if "Commuter" in str(e["summary"]))
    with client.app.state.sessions() as session:
        number = next(n for n, name in bikes.names(session) if name.startswith("Commuter"))
    client.post(f"/bikes/{number}/field/weekly_km", data={"value": "400", "base": "99"})
    second = events(client, key)
    assert set(second) == set(first)
    assert second[uid]["day"] < first[uid]["day"] and second[uid]["seq"] > first[uid]["seq"]
    assert events(client, key) == second


def test_promised_days_stand_in_the_calendar(client: TestClient) -> None:
    key = key_of(client)
    client.post("/board/3/promised_on", data={"value": "2031-05-06"})
    named = {uid: e for uid, e in events(client, key).items() if uid.startswith("job-3@")}
    assert [str(e["day"]) for e in named.values()] == ["2031-05-06"]
    client.post("/board/3/state", data={"value": "handed_over"})
    assert not [uid for uid in events(client, key) if uid.startswith("job-3@")]


def test_only_who_knows_its_address_reads_the_calendar(client: TestClient) -> None:
    assert client.get("/calendar/anything.ics").status_code == 404
    assert client.get("/calendar/.ics").status_code == 404
    key_of(client)
    assert client.get("/calendar/anything.ics").status_code == 404


def test_the_list_as_a_table(client: TestClient) -> None:
    rows = list(csv.DictReader(io.StringIO(client.get("/due.csv").text)))
    assert rows[0]["urgency"] == "unsafe" and rows[0]["bike"] == "Hire bike no. 12"
    assert {row["urgency"] for row in rows} >= {"unsafe", "replace", "plan", "ask"}


def test_the_workshop_chooses_its_lines(client: TestClient) -> None:
    before = told_at(client, "/due").count("replace ")
    assert client.post("/rules/terms", data={"pad_plan_mm": "1", "pad_replace_mm": "1.5"}).status_code == 422
    assert client.post("/rules/terms", data={"pad_plan_mm": "2", "pad_replace_mm": "0.5"}).status_code == 422
    assert client.post("/rules/terms", data={"pad_plan_mm": "2", "pad_replace_mm": "1.5"}).status_code == 303
    client.app.state.rows.catch_up()
    page = told(client.get("/due"))
    assert page.count("replace ") > before and "to be replaced at 1.50 mm" in page


def test_a_fleet_says_of_its_bikes_jobs_what_the_board_says(client: TestClient) -> None:
    """Unsafe is unsafe, here as there."""
    client.app.state.rows.catch_up()
    assert "unsafe to ride" not in told_at(client, "/due", **FLEET)
    field(client, 4, "front.rotor_cracks", "yes")
    client.app.state.rows.catch_up()
    assert "unsafe to ride: front" in told_at(client, "/due", **FLEET)
