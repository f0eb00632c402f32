"""Photographs and tables in and out, and a person's data taken out and erased."""

import io
import json

from PIL import Image
from starlette.testclient import TestClient

from clavis.store import bikes
from tests.web.keep.test_copies import numbered
from tests.web.told import told, told_at


def photograph() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (800, 600), (10, 80, 60)).save(out, "JPEG")
    return out.getvalue()


def test_a_photograph_is_kept_shown_and_taken_out(client: TestClient) -> None:
    number = numbered(client)["Commuter on cable discs"]
    files = {"file": ("front.jpg", photograph(), "image/jpeg")}
    kept = client.post(f"/bikes/{number}/photos", files=files, data={"caption": "before", "job": "3"})
    assert kept.status_code == 200 and "before" in told(kept)
    whole, small = (client.get(f"/bikes/{number}/photos/1{tail}.jpg") for tail in ("", "/small"))
    assert Image.open(io.BytesIO(whole.content)).size == (800, 600)
    assert max(Image.open(io.BytesIO(small.content)).size) == 320
    other = numbered(client)["Hire bike no. 11"]
    assert client.get(f"/bikes/{other}/photos/1.jpg").status_code == 404  # another bike's
    wrong = {"file": ("letter.jpg", b"Dear Tess", "image/jpeg")}
    refused = client.post(f"/bikes/{number}/photos", files=wrong)
    assert refused.status_code == 422 and "letter.jpg: not a photograph that can be read" in told(refused)
    assert client.post(f"/bikes/{number}/photos/1/remove").status_code == 200
    assert client.get(f"/bikes/{number}/photos/1.jpg").status_code == 404


def test_readings_go_out_and_come_in_once(client: TestClient) -> None:
    number = numbered(client)["Commuter on cable discs"]
    table = client.get(f"/bikes/{number}/readings.csv").text
    assert table.splitlines()[0] == "day,odometer_km,wheel,part,mm,other_mm,gauge,who"
    again = {"file": ("readings.csv", table.encode(), "text/csv")}
    client.post(f"/bikes/{number}/readings.csv", files=again)
    assert client.get(f"/bikes/{number}/readings.csv").text == table  # none is doubled
    day = bikes.today().isoformat()
    more = f"day;wheel;part;mm;odometer_km\n{day};front;pad;1,25;6100\n".encode()
    client.post(f"/bikes/{number}/readings.csv", files={"file": ("more.csv", more, "text/csv")})
    assert f"{day},6100,front,pad,1.25,,pad_gauge,Tess Bench" in client.get(f"/bikes/{number}/readings.csv").text


def test_the_log_goes_out_and_comes_in_once(client: TestClient) -> None:
    number = numbered(client)["Gravel bike that grabs"]
    table = client.get(f"/bikes/{number}/log.csv").text
    assert table.splitlines()[0] == "day,odometer_km,wheel,what,why,who" and table.count("\n") == 4
    again = {"file": ("log.csv", table.encode(), "text/csv")}
    assert client.post(f"/bikes/{number}/readings.csv", files=again).status_code == 200
    assert client.get(f"/bikes/{number}/log.csv").text == table
    more = b"day;what;why\n2026-11-20;=hose shortened;rattles\n"
    client.post(f"/bikes/{number}/readings.csv", files={"file": ("more.csv", more, "text/csv")})
    assert "2026-11-20,,,'=hose shortened,rattles,Tess Bench" in client.get(f"/bikes/{number}/log.csv").text.replace(
        "2026-11-20,,'=", "2026-11-20,,,'=")  # fmt: skip
    bad = b"day,what\n2026-11-20,\n"
    refused = client.post(f"/bikes/{number}/readings.csv", files={"file": ("bad.csv", bad, "text/csv")})
    assert refused.status_code == 422 and "line 2: nothing stands under “what”" in told(refused)


def test_a_bike_is_put_away_and_erased_without_jobs_alone(client: TestClient) -> None:
    number = numbered(client)["Hire bike no. 12"]
    assert "Hire bike no. 12" in told_at(client, "/due")
    client.post(f"/bikes/{number}/archive")
    assert "Hire bike no. 12" not in told_at(client, "/due") and "Hire bike no. 12" not in told_at(client, "/bikes")
    assert "Erase this bike" in told_at(client, f"/bikes/{number}")
    commuter = numbered(client)["Commuter on cable discs"]
    refused = client.post(f"/bikes/{commuter}/erase")
    assert refused.status_code == 422 and "there are jobs about this bike" in told(refused)
    assert client.post(f"/bikes/{number}/erase").headers["hx-redirect"] == "/bikes"
    assert client.get(f"/bikes/{number}").status_code == 404


def test_a_wrong_row_is_named_and_nothing_of_the_table_is_kept(client: TestClient) -> None:
    number = numbered(client)["Commuter on cable discs"]
    before = client.get(f"/bikes/{number}/readings.csv").text
    good = "2026-11-20,front,pad,1.3\n"
    for row, said in (
        ("2026-13-01,front,pad,1.2", "line 3: “2026-13-01” is no day"),
        ("2026-11-20,middle,pad,1.2", "line 3: wheel “middle”"),
        ("2026-11-20,front,bell,1.2", "line 3: part “bell”"),
        ("2026-11-20,front,pad,thin", "line 3, mm: “thin” is not a number"),
        ("2026-11-20,front,pad,99", "line 3, mm: 99 is not between 0 and 12"),
        ("1999-01-01,front,pad,1.2", "line 3: no pad of the front wheel is in the book for 1999-01-01"),
    ):
        data = f"day,wheel,part,mm\n{good}{row}\n".encode()
        refused = client.post(f"/bikes/{number}/readings.csv", files={"file": ("t.csv", data, "text/csv")})
        assert refused.status_code == 422 and said in told(refused), (row, told(refused)[:400])
    for data in (b"", b"\xff\xfe\x00", b"a,b\n1,2\n"):
        assert client.post(f"/bikes/{number}/readings.csv", files={"file": ("t.csv", data)}).status_code == 422
    assert client.get(f"/bikes/{number}/readings.csv").text == before


def test_a_persons_data_are_taken_out_and_erased(client: TestClient) -> None:
    number = numbered(client)["Commuter on cable discs"]
    page = client.get(f"/bikes/{number}").text
    person = page.split('href="/people/')[1].split('"')[0]
    assert "Commuter on cable discs" in told_at(client, f"/people/{person}")
    data = json.loads(client.get(f"/people/{person}/export").content)
    assert data["name"] == "Bram Oakeshott" and data["bikes"][0]["jobs"][0]["job"]["rider"]["name"] == "Bram Oakeshott"
    assert client.post(f"/people/{person}/erase").headers["hx-redirect"] == "/bikes"
    assert client.get(f"/people/{person}").status_code == 404
    for address in ("/", f"/bikes/{number}", "/jobs/3/history", "/jobs/3/intake"):
        assert "Oakeshott" not in told_at(client, address)
    assert "Oakeshott" not in client.get("/jobs/3/export").text
    assert "No job has" in told_at(client, "/", search="oakeshott")
