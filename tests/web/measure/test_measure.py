"""Measure over HTTP: readings of a rotor, gauges, unsafe findings and who answers for them, conversions, rule tables."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.evaluation.conditions import CONDITIONS
from clavis.core.fit.checks import CHECKS
from clavis.core.inspection.complaints import CAUSES, QUESTIONS
from clavis.core.job.document import Job
from clavis.core.job.places import Place
from clavis.core.parts.hubs import HUBS
from clavis.core.parts.mounts import MOUNT_ROWS
from tests.web.test_pages import TANDEM, exported, field
from tests.web.told import told, told_at

FOLDING, TOURER = 1, 2


def post(client: TestClient, job: int, where: str, place: str = "rotor", **data: object):
    page = {"hx-current-url": f"http://testserver/jobs/{job}/measure?place={place}"}
    return client.post(f"/jobs/{job}/{where}", data={"base": 9999, "page": "p", **data}, headers=page)


def job_of(client: TestClient, job: int) -> Job:
    return Job.model_validate(exported(client, job)["job"])


@pytest.mark.parametrize("place", list(Place), ids=lambda p: p.value)
def test_every_place_of_the_walk_opens_with_its_drawing(client: TestClient, place: Place) -> None:
    for job in (FOLDING, TOURER, TANDEM):
        page = client.get(f"/jobs/{job}/measure", params={"place": place.value})
        assert page.status_code == 200
        assert page.text.count('aria-current="step"') == 1
        drawn = re.search(r'<figure class="drawn".*?</figure>', page.text, re.S)
        assert drawn is not None
        lit = set(" ".join(re.findall(r'data-dim="([^"]+)"', drawn[0])).split())
        shown = set(re.findall(r'id="f-front-(\w+)"', page.text)) | set(
            re.findall(r'data-field="front\.(\w+)"', page.text)
        )
        assert lit <= shown, "a dimension of a field that is not here"


def test_nearly_every_field_lights_something(client: TestClient) -> None:
    # a dimension line, a part or a row of the chart; the rest has nothing to point at in a drawing
    without = {"fitted_brake", "mount_there", "rotor_id"}
    for place in Place:
        page = client.get(f"/jobs/{TANDEM}/measure", params={"place": place.value}).text
        lit = set(" ".join(re.findall(r'data-dim="([^"]+)"', page)).split())
        shown = set(re.findall(r'id="f-front-(\w+)"', page))
        assert shown - lit <= without, place


def test_a_missing_entry_links_to_its_place(empty_client: TestClient) -> None:
    empty_client.post("/jobs", data={"title": "New"})
    field(empty_client, 1, "bike.kind", "city")
    field(empty_client, 1, "rider.mass_kg", "80")
    page = empty_client.get("/jobs/1/choose").text
    assert 'href="/jobs/1/measure?place=rotor#f-front-rotor_id"' in page
    there = empty_client.get("/jobs/1/measure", params={"place": "rotor"}).text
    assert 'id="f-front-rotor_id"' in there


# readings of a rotor


def test_readings_come_one_by_one_or_in_a_row_and_the_verdict_follows(client: TestClient) -> None:
    assert post(client, TANDEM, "points/front", clear="true").status_code == 200
    assert job_of(client, TANDEM).front.rotor_points_mm == ()
    first = post(client, TANDEM, "points/front", value="1.71")
    assert "5 more points" in told(first)
    assert 'id="rotor-front"' in first.text
    rest = post(client, TANDEM, "points/front", value="1,70 1.69; 1.72 1.71 1.70")
    assert job_of(client, TANDEM).front.rotor_points_mm == (1.71, 1.70, 1.69, 1.72, 1.71, 1.70)
    assert "1.69 mm, minimum 1.50 mm" in told(rest)
    dropped = post(client, TANDEM, "points/front", drop=2)
    assert job_of(client, TANDEM).front.rotor_points_mm == (1.71, 1.70, 1.72, 1.71, 1.70)
    assert "1 more point" in told(dropped)


def test_an_imperial_reader_types_inches(client: TestClient) -> None:
    client.cookies.set("clavis_units", "imperial")
    post(client, TANDEM, "points/front", clear="true")
    post(client, TANDEM, "points/front", value="0.0670 1.7mm")
    assert job_of(client, TANDEM).front.rotor_points_mm == pytest.approx((0.0670 * 25.4, 1.7), abs=1e-6)


@pytest.mark.parametrize(
    ("value", "words"),
    [("thin", "a number"), ("1.7 9", "wanted: at most 6"), ("1.7 " * 13, "12 readings at most")],
)
def test_a_bad_reading_is_refused_beside_the_rotor_and_nothing_is_lost(client: TestClient, value, words) -> None:
    before = job_of(client, TANDEM).front.rotor_points_mm
    answer = post(client, TANDEM, "points/front", value=value)
    assert answer.status_code == 422
    assert words in answer.text
    assert 'id="rotor-front"' in answer.text
    assert job_of(client, TANDEM).front.rotor_points_mm == before


def test_two_people_at_one_rotor_are_told(client: TestClient) -> None:
    base = re.search(r'name="base" value="(\d+)"', client.get(f"/jobs/{TANDEM}/measure").text)
    assert base is not None
    post(client, TANDEM, "points/front", value="1.71", base=base[1], page="a")
    late = post(client, TANDEM, "points/front", value="1.60", base=base[1], page="b")
    assert late.status_code == 409
    assert "changed this in the meantime" in late.text
    assert 1.60 not in job_of(client, TANDEM).front.rotor_points_mm


# gauges


def test_a_gauge_sends_into_the_field_in_hand(client: TestClient) -> None:
    post(client, TANDEM, "points/rear", clear="true")
    for n in range(1, 7):
        sent = post(client, TANDEM, "gauge", path="rear.rotor_points_mm", kind="micrometer")
        assert sent.status_code == 200
        assert len(job_of(client, TANDEM).rear.rotor_points_mm) == n
    assert 'id="rotor-rear"' in sent.text
    points = job_of(client, TANDEM).rear.rotor_points_mm
    assert all(1.4 < p < 1.8 and round(p, 2) == p for p in points)
    assert len(set(points)) > 1


def test_a_stand_in_writes_on_demo_jobs_alone_and_says_where_a_reading_came_from(client: TestClient) -> None:
    assert "a stand-in: an invented bike" in told(
        post(client, TANDEM, "gauge", place="pads", path="rear.pad_inner_mm", kind="caliper_gauge")
    )
    assert set(job_of(client, TANDEM).rear.read_by) == {"pad_inner_mm"}
    typed = field(client, TANDEM, "rear.pad_inner_mm", "1.4", station="measure")
    assert "stand-in" not in told(typed)
    assert job_of(client, TANDEM).rear.read_by == {}
    data = client.get(f"/jobs/{TANDEM}/export").content
    own = client.post("/import", files={"file": ("job.json", data)}).headers["location"].split("/")[2]
    assert "Send" not in told_at(client, f"/jobs/{own}/measure")
    refused = post(client, int(own), "gauge", path="rear.pad_inner_mm", kind="caliper_gauge")
    assert refused.status_code == 409
    assert "on demo jobs alone" in told(refused)


def test_a_spacing_that_a_gauge_sends_is_read_with_a_gauge(client: TestClient) -> None:
    sent = post(client, TANDEM, "gauge", place="mount", path="front.mount_spacing_mm", kind="caliper_gauge")
    assert sent.status_code == 200
    front = job_of(client, TANDEM).front
    assert front.mount_spacing_mm == pytest.approx(74.2, abs=0.3)
    assert front.spacing_tool is not None
    assert front.spacing_tool.value == "gauge"
    assert 'id="w-f-front-spacing_tool" hx-swap-oob="true"' in sent.text


@pytest.mark.parametrize(
    ("path", "kind", "words"),
    [
        ("front.mount_spacing_mm", "micrometer", "does not reach this"),
        ("front.rotor_points_mm", "caliper_gauge", "begun with the micrometer"),
        ("front.rotor_colour", "micrometer", "No gauge reads this"),
    ],
)
def test_a_gauge_that_cannot_says_why_and_changes_nothing(client: TestClient, path, kind, words) -> None:
    before = job_of(client, TANDEM).front
    answer = post(client, TANDEM, "gauge", path=path, kind=kind)
    assert answer.status_code == 422
    assert words in answer.text
    assert job_of(client, TANDEM).front == before


def test_a_vernier_begun_rotor_stays_a_vernier_rotor(client: TestClient) -> None:
    post(client, TANDEM, "points/front", clear="true")
    sent = post(client, TANDEM, "gauge", path="front.rotor_points_mm", kind="caliper_gauge")
    assert sent.status_code == 200
    assert job_of(client, TANDEM).front.rotor_instrument.value == "vernier"
    assert "a vernier cannot pass it" in sent.text


# unsafe findings


def crack(client: TestClient) -> str:
    return field(client, TANDEM, "front.rotor_cracks", "yes", station="measure").text


def test_an_unsafe_finding_follows_the_job_until_it_is_mended(client: TestClient) -> None:
    assert "Unsafe to ride" in crack(client)
    for station in ("intake", "ride", "choose", "build", "keep"):
        assert "Unsafe to ride:" in client.get(f"/jobs/{TANDEM}/{station}").text
    assert post(client, TANDEM, "answer/front:cracks", reason="it has always been there").status_code == 409
    assert "Unsafe to ride:" in client.get(f"/jobs/{TANDEM}/keep").text
    field(client, TANDEM, "front.rotor_cracks", "no", station="measure")
    assert "Unsafe to ride:" not in client.get(f"/jobs/{TANDEM}/keep").text


# conversions and tables


def test_a_conversion_says_what_it_means_in_parts_and_money(client: TestClient) -> None:
    assert f'hx-get="/jobs/{TOURER}/conversion"' in client.get(f"/jobs/{TOURER}/measure").text
    conversion = told_at(client, f"/jobs/{TOURER}/conversion")
    assert "of which 214 kr for wheels" in conversion
    assert "Roller front 622" in conversion
    assert client.get(f"/jobs/{TANDEM}/conversion").text.strip() == ""


def test_a_conversion_is_proposed_whole_and_becomes_an_order(client: TestClient) -> None:
    """Wheels, rotors, calipers, levers, pads; adapters, bolts, cable and housing follow; the price is the one told."""
    total = re.search(r"from (\d+) kr", told_at(client, f"/jobs/{TOURER}/conversion"))[1]
    assert "Propose this" in told_at(client, f"/jobs/{TOURER}/conversion")
    assert post(client, TOURER, "convert").headers["hx-redirect"] == f"/jobs/{TOURER}/choose"
    proposal = job_of(client, TOURER).proposal
    assert {proposal.front.wheel_id, proposal.rear.wheel_id} == {"w-plain-f622", "w-plain-r622"}
    answer = told_at(client, f"/jobs/{TOURER}/answer")
    assert float(re.search(r"(\d+) kr", answer)[1]) > 300 + 214 / 2, answer  # the wheels are in every price
    assert "choose done" in told_at(client, f"/jobs/{TOURER}/choose")
    build = told_at(client, f"/jobs/{TOURER}/build", view="parts")
    assert "Roller front 622" in build
    assert f"In all {total}" in build
    order = client.get(f"/jobs/{TOURER}/build").text
    assert "step-front-wheel_new" in order
    assert "step-front-rim_off" in order
    assert post(client, TANDEM, "convert").status_code == 409


def test_the_tables_show_every_row(client: TestClient) -> None:
    def text(table: str) -> str:
        page = client.get("/rules", params={"table": table})
        assert page.status_code == 200
        return re.sub(r"\s+", " ", page.text)

    assert all(row.words in text("mounts").lower() for row in MOUNT_ROWS.values())
    assert all(row.tool in text("hubs") for row in HUBS)
    assert all(f'id="{row.key}"' in text("conditions") for row in CONDITIONS)
    names = text("causes").lower()
    assert all(row.name in names.replace("&#39;", "'") for row in CAUSES)
    assert all(f'id="{row.key}"' in text("checks") for row in CHECKS)
    assert all(f'id="{row.key}"' in text("questions") for row in QUESTIONS)
    assert "purple" in text("colours")
    assert "Mounts" in text("no such table") or "Spacing" in text("no such table")


def test_naming_a_fork_fills_what_nobody_entered_in_one_step_that_can_be_taken_back(client: TestClient) -> None:
    """The commuter's fork is measured but for its thread depth; the folding bike's native size is not entered."""
    for path in ("front.native_rotor_mm", "front.max_rotor_mm", "front.limit_source", "front.hole_depth_mm"):
        assert field(client, FOLDING, path, "", "measure").status_code == 200
    before = job_of(client, FOLDING).front
    answer = field(client, FOLDING, "front.carrying_id", "k-span-160", "measure")
    assert answer.status_code == 200
    for filled in ("native_rotor_mm", "max_rotor_mm", "limit_source", "hole_depth_mm"):
        assert f'id="w-f-front-{filled}" hx-swap-oob="true"' in answer.text  # shown at once, without a reload
    assert 'id="w-f-front-axle"' not in answer.text
    now = job_of(client, FOLDING).front
    assert (now.native_rotor_mm, now.max_rotor_mm, now.hole_depth_mm) == (160, 203, 16)
    assert now.limit_source == "document"
    assert now.axle is before.axle  # that was entered
    history = client.get(f"/jobs/{FOLDING}/history").text
    assert "front wheel" in history
    assert "largest rotor allowed – → 203" in history
    assert post(client, FOLDING, "undo").status_code == 200
    assert job_of(client, FOLDING).front == before
