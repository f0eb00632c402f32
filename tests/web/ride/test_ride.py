"""Station 3 through HTTP: files of every kind, the set of rides, the picture, the library; refusals."""

import io
import json
import re

import numpy as np
import pytest
from starlette.testclient import TestClient

from clavis.demo.roads import RIDES
from clavis.formats.recordings_xml import read_gpx
from tests.formats.test_recordings import RIDE, TABLE, fit, tcx, trackpoint
from tests.formats.test_tracks import BOMB, document, point
from tests.web.test_pages import GRAVEL, HIRE, TANDEM, exported, field
from tests.web.told import told_at

GPX = (RIDES / "lift-trail.gpx").read_bytes()


def upload(client: TestClient, data: bytes, name: str = "hill.gpx", job: int = TANDEM):
    return client.post(f"/jobs/{job}/rides/file", files={"file": (name, data)}, data={"page": "p"})


def chart_of(page: str) -> dict:
    return json.loads(re.search(r'<script type="application/json">(.*?)</script>', page)[1])


def loads(page: str) -> list[list[str]]:
    """The cells of the table of rides as plain text."""
    rows = re.findall(r"<tr.*?</tr>", page.split('class="loads"')[1].split("</table>", maxsplit=1)[0], re.S)[1:]
    cells = [re.findall(r"<t[dh].*?</t[dh]>", row, re.S) for row in rows]
    return [[re.sub(r"\s+", " ", re.sub(r"<.*?>", "", c)).strip() for c in row] for row in cells]


def test_a_gpx_becomes_a_ride_and_decides_where_none_did(client: TestClient, empty_client: TestClient) -> None:
    assert upload(client, GPX, "my_trail.gpx").headers["hx-redirect"] == f"/jobs/{TANDEM}/ride?ride=my-trail"
    job = exported(client, TANDEM)["job"]
    assert job["decisive_ride"] == "pass"
    assert job["rides"][-1]["speed_from"] == "recorded"
    page = client.get(f"/jobs/{TANDEM}/ride", params={"ride": "my-trail"}).text
    chart = chart_of(page)
    assert len(chart["km"]) == len(chart["front"]) == len(chart["gradient"]) + 1 > 100
    assert max(chart["front"]) > 200
    assert chart["recorded"]
    empty_client.post("/jobs", data={"title": "New"})
    upload(empty_client, GPX, "my_trail.gpx", 1)
    assert exported(empty_client, 1)["job"]["decisive_ride"] == "my-trail"


@pytest.mark.parametrize(
    ("name", "data", "kind"),
    [
        ("a.tcx", tcx("".join(trackpoint(k) for k in range(60))), "recorded"),
        ("a.fit", fit(RIDE), "recorded"),
        ("misnamed.gpx", fit(RIDE), "recorded"),
        ("a.gpx", document(*(point(k / 2000, ele=str(400 - 3 * k)) for k in range(40))), "planned"),
    ],
)
def test_other_files_become_rides_too(client: TestClient, name: str, data: bytes, kind: str) -> None:
    assert "hx-redirect" in upload(client, data, name).headers
    ride = exported(client, TANDEM)["job"]["rides"][-1]
    assert ride["speed_from"] == kind
    page = client.get(f"/jobs/{TANDEM}/ride", params={"ride": ride["id"]}).text
    assert chart_of(page)["recorded"] is (kind == "recorded")


def test_a_table_asks_for_its_columns_and_is_read_with_them(client: TestClient) -> None:
    asked = upload(client, TABLE, "home.csv")
    assert asked.status_code == 200
    assert "which column holds what?" in asked.text
    assert asked.text.count("selected") >= 8
    assert len(exported(client, TANDEM)["job"]["rides"]) == 2
    picked = {"distance": "1", "time": "", "elevation": "2", "speed": ""}
    units = {"distance_unit": "km", "time_unit": "s", "elevation_unit": "m", "speed_unit": "km/h"}

    def send(**more):
        data = picked | units | more
        return client.post(f"/jobs/{TANDEM}/rides/table", files={"file": ("home.csv", TABLE)}, data=data)

    assert send().headers["hx-redirect"].endswith("?ride=home")
    assert exported(client, TANDEM)["job"]["rides"][-1]["speed_from"] == "planned"
    for more, words in (
        ({"elevation": ""}, "choose the elevation"),
        ({"elevation": "9"}, "elevation: there is no such column"),
        ({"distance_unit": "parsec"}, "is none of its units"),
    ):
        answer = send(**more)
        assert answer.status_code == 422
        assert words in answer.text


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"no xml", "not readable as XML"),
        (BOMB, "declares entities"),
        (document(point(0), point(0.001)), "2 points"),
        (document(*(point(k / 1000, ele=None) for k in range(4))), "no elevation"),
        (b"<gpx>" + b" " * 3_100_000, "larger than 3 MB; nothing was saved"),
        (fit(RIDE)[:300], "not readable as FIT"),
        (b"\x89PNG\r\n\x1a\n\0\0", "no GPX, TCX, FIT or CSV"),
    ],
)
def test_a_bad_track_is_answered_where_it_was_given_and_nothing_is_kept(
    client: TestClient, data: bytes, words: str
) -> None:
    before = exported(client, TANDEM)
    answer = upload(client, data)
    assert answer.status_code in (413, 422)
    assert words in answer.text.replace("\u00a0", " ")
    assert 'role="alert"' in answer.text
    assert exported(client, TANDEM) == before


def test_what_was_mended_stands_on_the_page(client: TestClient) -> None:
    points = [point(k / 10000, ele=str(400 - k), time=f"2026-05-01T10:{k // 60:02d}:{k % 60:02d}Z") for k in range(120)]
    points[50] = point(0.2, ele="350", time="2026-05-01T10:00:50Z")
    upload(client, document(*points), "spiky.gpx")
    page = client.get(f"/jobs/{TANDEM}/ride", params={"ride": "spiky"}).text.replace("\u00a0", " ")
    assert "1 point far off the way taken out" in page
    assert "at 0.5" in re.sub(r"\s|&nbsp;", " ", page.split("far off the way taken out")[1][:80])
    assert len(chart_of(page)["mended"]) == 1


def test_typed_sections_come_and_go(client: TestClient) -> None:
    client.post(f"/jobs/{TANDEM}/rides/typed", data={"name": "Quarry lane"})
    client.post(f"/jobs/{TANDEM}/rides/quarry-lane/sections")
    assert field(client, TANDEM, "rides.quarry-lane.sections.1.gradient_pct", "14", "ride").status_code == 200
    sections = exported(client, TANDEM)["job"]["rides"][-1]["sections"]
    assert [s["gradient_pct"] for s in sections] == [8, 14]
    assert field(client, TANDEM, "rides.quarry-lane.sections.1.gradient_pct", "80", "ride").status_code == 422
    client.post(f"/jobs/{TANDEM}/rides/quarry-lane/sections/0/remove")
    assert [s["gradient_pct"] for s in exported(client, TANDEM)["job"]["rides"][-1]["sections"]] == [14]
    assert client.post(f"/jobs/{TANDEM}/rides/quarry-lane/sections/0/remove").status_code == 422
    client.post(f"/jobs/{TANDEM}/rides/quarry-lane/decide")
    assert exported(client, TANDEM)["job"]["decisive_ride"] == "quarry-lane"
    for ride in ("pass", "town"):
        client.post(f"/jobs/{TANDEM}/rides/{ride}/remove")
    assert [r["id"] for r in exported(client, TANDEM)["job"]["rides"]] == ["quarry-lane"]


def test_every_ride_stands_in_the_table_with_what_always_counts(client: TestClient) -> None:
    rows = loads(client.get(f"/jobs/{HIRE}/ride").text)
    assert [r[1].split(" recorded")[0].split(" from")[0] for r in rows] == [
        "Lift trail", "Lift day: 8 runs", "Emergency stop", "Parking",
    ]  # fmt: skip
    once, day = rows[0][6], rows[1][6]
    kj = lambda text: float(re.sub(r"[^\d.]", "", text))  # noqa: E731
    assert kj(day) == pytest.approx(8 * kj(once), rel=0.01)
    assert "holds it" in " ".join(rows[3])


def test_rider_share_style_wind_and_regeneration_move_the_picture(client: TestClient) -> None:
    job = 6

    def picture() -> dict:
        return chart_of(client.get(f"/jobs/{job}/ride").text)

    base = picture()
    for path, value, changed in (
        ("rider.mass_kg", "95", {"front", "rear", "regen"}),
        ("rider.front_share_pct", "70", {"front", "rear", "regen"}),
        ("conditions.head_wind_kmh", "30", {"front", "rear", "regen"}),
        ("bike.regen_share_pct", "5", {"rear", "regen"}),
    ):
        before = picture()
        assert field(client, job, path, value, "ride").status_code == 200
        after = picture()
        moved = {name for name in ("km", "elevation", "speed", "front", "rear", "regen") if before[name] != after[name]}
        assert moved == changed, path
    assert sum(base["regen"]) > 0


def test_a_dragged_point_moves_two_sections_and_a_bad_place_is_said(client: TestClient) -> None:
    def drag(**more):
        data = {"index": 1, "at": 0.8, "height": 470, "base": 9999, "page": "p", "room": "ride"} | more
        return client.post(f"/jobs/{GRAVEL}/rides/lane/point", data=data)

    answer = drag()
    assert answer.status_code == 200
    assert 'id="live"' in answer.text
    sections = exported(client, GRAVEL)["job"]["rides"][0]["sections"]
    assert [s["length_m"] for s in sections] == [800, 1500, 700, 600]
    # 50 m over 800: sine 0.0625, 6.26 %
    assert sections[0]["gradient_pct"] == pytest.approx(6.26, abs=0.01)
    assert sections[0]["corner_kmh"] == 14
    bad = drag(at=0.001)
    assert bad.status_code == 422
    assert "at least 10 m long" in bad.text.replace("\u00a0", " ")
    assert drag(index=0, height=600).status_code == 200
    assert exported(client, GRAVEL)["job"]["rides"][0]["start_elevation_m"] == 600
    client.cookies.set("clavis_units", "imperial")
    assert drag(index=4, at=2.5, height=1000).status_code == 200
    last = exported(client, GRAVEL)["job"]["rides"][0]["sections"][-1]
    assert 800 + 1500 + 700 + last["length_m"] == pytest.approx(2.5 * 1609.344, abs=0.2)


def test_a_point_that_somebody_else_moved_is_not_overwritten_unseen(client: TestClient) -> None:
    data = {"index": 1, "at": 0.8, "height": 470, "base": 1, "room": "ride"}
    assert client.post(f"/jobs/{GRAVEL}/rides/lane/point", data=data | {"page": "mine"}).status_code == 200
    late = client.post(f"/jobs/{GRAVEL}/rides/lane/point", data=data | {"page": "theirs", "at": 0.7})
    assert late.status_code == 422
    assert "changed this in the meantime" in late.text
    assert exported(client, GRAVEL)["job"]["rides"][0]["sections"][0]["length_m"] == 800


def test_a_section_is_cut_where_it_was_picked(client: TestClient) -> None:
    assert "hx-redirect" in client.post(f"/jobs/{GRAVEL}/rides/lane/sections/split", data={"at": 0.4}).headers
    assert [s["length_m"] for s in exported(client, GRAVEL)["job"]["rides"][0]["sections"]] == [
        400,
        500,
        1400,
        700,
        600,
    ]
    assert client.post(f"/jobs/{GRAVEL}/rides/lane/sections/split", data={"at": 9}).status_code == 422


def test_the_worst_speed_of_any_slope(client: TestClient) -> None:
    half = client.get(f"/jobs/{TANDEM}/rides/pass/worst").text
    told = re.search(r"([\d.]+) to ([\d.]+).km, ([\d.]+)%", half)
    assert float(told[2]) - float(told[1]) == pytest.approx(0.5, abs=0.11)
    longer = client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"over": 5000}).text
    assert 1 < float(re.search(r"km, ([\d.]+)%", longer)[1]) < float(told[3])
    assert client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"over": 7}).status_code == 422
    steep = client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"gradient": "14"}).text
    assert max(chart_of(steep)["power"]) > max(chart_of(longer)["power"]) * 1.3
    # the steepest part of the pass lies near km 5.3
    picked = client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"at": 5.3}).text
    assert float(re.search(r"at 5\.3.km, ([\d.]+)%", picked)[1]) > 10
    assert "allowed is 1% to 45%" in client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"gradient": "-3"}).text
    assert "allowed is a number" in client.get(f"/jobs/{TANDEM}/rides/pass/worst", params={"gradient": "steep"}).text
    assert client.get(f"/jobs/{TANDEM}/rides/none/worst").status_code == 404


def test_drag_and_pulse_side_by_side(client: TestClient) -> None:
    drag = client.get(f"/jobs/{TANDEM}/styles").text
    assert [h for h in ("recorded", "drag", "pulse") if f">{h}</th>" in drag] == ["drag", "pulse"]
    recorded = client.get(f"/jobs/{HIRE}/styles").text
    assert ">recorded</th>" in recorded


def _tour() -> bytes:
    """Two climbs and two descents of 200 m, a second apart."""
    way = np.arange(0, 1600) * 7.0
    height = 400 + np.interp(way, [0, 2800, 5600, 8400, 11200], [0, 200, 0, 200, 0])
    return document(
        *(
            point(w / 111195.08, ele=f"{z:.1f}", time=f"2026-05-01T10:{k // 60:02d}:{k % 60:02d}Z")
            for k, (w, z) in enumerate(zip(way, height, strict=True))
        )
    )


def test_descents_of_a_long_ride_are_offered_and_taken(client: TestClient) -> None:
    upload(client, _tour(), "tour.gpx")
    page = client.get(f"/jobs/{TANDEM}/ride", params={"ride": "tour"}).text
    assert page.count("Make it a load") == 2
    assert [round(a, 1) for a, _ in chart_of(page)["descents"]] == pytest.approx([2.8, 8.4], abs=0.1)
    taken = client.post(f"/jobs/{TANDEM}/rides/tour/descents/1")
    assert taken.headers["hx-redirect"].endswith("?ride=tour-descent-2")
    ride = exported(client, TANDEM)["job"]["rides"][-1]
    assert ride["from_m"] == pytest.approx(8400, abs=60)
    assert ride["to_m"] == pytest.approx(11193, abs=60)
    assert client.post(f"/jobs/{TANDEM}/rides/tour/descents/7").status_code == 404
    assert "Descents in this ride" not in client.get(f"/jobs/{TANDEM}/ride", params={"ride": ride["id"]}).text


def test_the_library_gives_and_takes(client: TestClient) -> None:
    assert "Lift day: 8 runs" in client.get("/rides").text
    assert 'value="lift-day-8-runs"' in client.get("/rides/choices").text
    client.post(f"/jobs/{GRAVEL}/rides/shelf", data={"entry": "lift-day-8-runs"})
    ride = exported(client, GRAVEL)["job"]["rides"][-1]
    assert (ride["laps"], ride["rest_min"]) == (8, 14)
    assert client.post(f"/jobs/{GRAVEL}/rides/shelf", data={"entry": "none"}).status_code == 422
    assert "In the library as “gravel-lane-home”" in client.post(f"/jobs/{GRAVEL}/rides/lane/keep").text
    assert "Gravel lane home" in client.get("/rides").text
    # what a job changes stays with it
    field(client, GRAVEL, "rides.lane.laps", "5", "ride")
    assert json.loads(client.get("/rides/gravel-lane-home.json").content)["rides"][0]["laps"] == 1
    client.post("/rides/gravel-lane-home/remove")
    assert "Gravel lane home" not in client.get("/rides").text
    assert client.post("/rides/gravel-lane-home/remove").status_code == 404
    assert len(exported(client, GRAVEL)["job"]["rides"]) == 2


def test_rides_go_out_and_come_back(client: TestClient, empty_client: TestClient) -> None:
    everything = client.get("/rides/library.json").content
    assert "No ride in the library yet" in empty_client.get("/rides").text
    assert empty_client.get("/rides/library.json").status_code == 404
    answer = empty_client.post("/rides/read", files={"file": ("rides.json", everything)})
    assert answer.status_code == 303
    again = json.loads(empty_client.get("/rides/library.json").content)
    before = json.loads(everything)
    assert again["tracks"] == before["tracks"]
    assert sorted(r["name"] for r in again["rides"]) == sorted(r["name"] for r in before["rides"])
    bad = empty_client.post("/rides/read", files={"file": ("rides.json", b"{}")})
    assert bad.status_code == 422
    assert "not a Clavis rides file" in bad.text
    for address in ("/rides/long-pass.gpx", f"/jobs/{TANDEM}/rides/pass.gpx"):
        back = read_gpx(io.BytesIO(client.get(address).content)).track
        assert back.distance_m[-1] == pytest.approx(16_300, rel=0.02)
    typed = read_gpx(io.BytesIO(client.get(f"/jobs/{GRAVEL}/rides/lane.gpx").content)).track
    assert typed.distance_m[-1] == pytest.approx(3600, abs=1)
    assert json.loads(client.get(f"/jobs/{GRAVEL}/rides/lane.json").content)["rides"][0]["id"] == "lane"
    assert client.get("/rides/none.gpx").status_code == 404


def test_a_stop_cycle_is_a_ride_of_one_section(client: TestClient) -> None:
    client.post(f"/jobs/{GRAVEL}/rides/stops", data={"name": "Paper round"})
    ride = exported(client, GRAVEL)["job"]["rides"][-1]
    assert (ride["laps"], len(ride["sections"]), ride["sections"][0]["stand_s"]) == (30, 1, 15)
    rows = loads(client.get(f"/jobs/{GRAVEL}/ride").text)
    assert "stop cycle, 30 times over" in rows[1][1]


def test_what_the_job_cannot_hold_is_refused_in_words(client: TestClient) -> None:
    for k in range(45):
        answer = client.post(f"/jobs/{GRAVEL}/rides/typed", data={"name": f"Ride {k}"})
        if answer.status_code != 200:
            break
    assert answer.status_code == 422
    assert "at most 40" in answer.text
    assert len(exported(client, GRAVEL)["job"]["rides"]) == 40


def test_a_ride_of_the_library_that_cannot_be_drawn_says_so(client: TestClient) -> None:
    file = json.loads(client.get("/rides/long-pass.json").content)
    file["rides"][0] |= {"name": "Beyond its end", "from_m": 900_000}
    client.post("/rides/read", files={"file": ("rides.json", json.dumps(file).encode())})
    page = client.get("/rides")
    assert page.status_code == 200
    assert "nothing to ride lies between" in page.text
    assert "Lift day: 8 runs" in page.text
    assert client.get("/rides/beyond-its-end.gpx").status_code == 422


def test_a_step_on_what_somebody_else_changed_is_a_conflict_in_words(client: TestClient) -> None:
    data = {"end": "front", "kind": "rotor", "by": -1, "base": 1}
    assert client.post(f"/jobs/{TANDEM}/step", data=data | {"page": "mine"}).status_code == 200
    late = client.post(f"/jobs/{TANDEM}/step", data=data | {"page": "theirs"})
    assert late.status_code == 409
    assert "nothing was overwritten" in late.text


def test_values_that_nobody_typed_are_marked_until_somebody_does(client: TestClient) -> None:
    def tagged() -> bool:
        return "usual values" in told_at(client, f"/jobs/{GRAVEL}/ride", ride="paper-round")

    client.post(f"/jobs/{GRAVEL}/rides/stops", data={"name": "Paper round"})
    assert tagged()
    form = {"path": "rides.paper-round.sections.0.speed_kmh", "value": "20", "room": "ride", "page": "p"}
    assert client.post(f"/jobs/{GRAVEL}/field", data=form).status_code == 200
    assert not tagged()
    client.post(f"/jobs/{GRAVEL}/rides/typed", data={"name": "Down"})
    assert "usual values" in told_at(client, f"/jobs/{GRAVEL}/ride", ride="down")
