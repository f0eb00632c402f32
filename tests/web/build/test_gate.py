"""The gate through the pages: what bars an order, who answers, what a sign-off stands for, what voids it."""

import json
import random
import re
from typing import Any

import pytest
from starlette.testclient import TestClient

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.open_points import Matter
from clavis.core.job.document import Job, SignOff
from clavis.formats.job_file import to_json
from clavis.store import jobs
from tests.bikes import CATALOGUE, file_of, own_job, with_value
from tests.core.workshop.test_sign_off import GOOD, looked_over, sign, with_all_done
from tests.generated import TRACKS, drawn_jobs
from tests.web.told import told, told_at

VERSION = re.compile(r'name="base" value="(\d+)"')


@pytest.fixture
def client(empty_client: TestClient) -> TestClient:
    """Without the demo's jobs, whose rows would be worked out anew when a file brings its parts."""
    return empty_client


def laid(client: TestClient, job: Job) -> int:
    """A job read from a file, with the tracks it uses; its number."""
    used = {ride.track_id for ride in job.rides if ride.track_id}
    data = to_json(file_of(job, {name: track for name, track in TRACKS.items() if name in used}))
    answer = client.post("/import", files={"file": ("job.json", data.encode())})
    assert answer.status_code == 303, answer.text
    return int(answer.headers["location"].split("/")[2])


def job_of(client: TestClient, number: int) -> Job:
    return Job.model_validate(json.loads(client.get(f"/jobs/{number}/export").content)["job"])


def post(client: TestClient, number: int, act: str, **values: Any):
    """An act on the job as it is now; its page, which tells the version, is not drawn for that."""
    with client.app.state.sessions() as session:
        version = jobs.version_of(session, number)
    return client.post(f"/jobs/{number}/{act}", data={"base": version, "page": "p", "room": "build", **values})


def field(client: TestClient, number: int, path: str, value: str):
    data = {"path": path, "value": value, "base": 9999, "room": "measure", "page": "p"}
    return client.post(f"/jobs/{number}/field", data=data)


def answer_all(client: TestClient, number: int) -> None:
    while keys := re.findall(r'class="answer" hx-post="/jobs/\d+/answer/([\w:-]+)"', build(client, number)):
        for key in keys:
            assert post(client, number, f"answer/{key}", reason="never ridden that hard").status_code == 200


def build(client: TestClient, number: int) -> str:
    return client.get(f"/jobs/{number}/build").text


def tick_all(client: TestClient, number: int, most: int | None = None) -> list[int]:
    """Every step that is open, or so many of them, without what is drawn anew after each; the codes of the answers."""
    keys = dict.fromkeys(re.findall(r'"key":"([a-z]+:[a-z_]+)","state":"done"', build(client, number)))
    ticks = [{"key": key, "page": "p", "quiet": "true"} for key in list(keys)[:most]]
    return [client.post(f"/jobs/{number}/tick", data=tick).status_code for tick in ticks]


def finished(client: TestClient, job: Job = GOOD) -> int:
    number = laid(client, job)
    answer_all(client, number)
    assert set(tick_all(client, number)) == {204}
    assert post(client, number, "sign-off").status_code == 303
    return number


def test_from_order_to_sign_off_to_change_to_void(client: TestClient) -> None:
    number = finished(client)
    page = told_at(client, f"/jobs/{number}/build")
    assert "Signed off by Tess Bench" in page
    assert "Earlier sign-offs" not in page
    job = job_of(client, number)
    assert (job.front.pad_id, job.proposes) == ("u-k2-sinter", False)
    assert field(client, number, "rider.mass_kg", "118").status_code == 200
    page = told_at(client, f"/jobs/{number}/build")
    assert "Signed off by" not in page
    assert "Earlier sign-offs Tess Bench" in page
    assert "changed Rider's mass: 77.0 → 118" in page
    after = job_of(client, number)
    assert after.signed_off is None
    assert after.signed_before[-1].signed == job.signed_off
    assert "Sign-off" in told_at(client, f"/jobs/{number}/history")


def test_what_is_left_out_stands_in_the_record_with_its_reason_and_what_must_not_be_is_refused(
    client: TestClient,
) -> None:
    number = laid(client, GOOD)
    answer_all(client, number)

    def tick(key: str, **data: str) -> int:
        return client.post(f"/jobs/{number}/tick", data={"key": key, "page": "p", "quiet": "true", **data}).status_code

    assert tick("bike:cool", state="skipped") == 422  # without a reason
    assert tick("bike:cool", state="skipped", reason="cold since last night") == 204
    assert tick("bike:walking", state="skipped", reason="it is raining hard") == 422  # never left out
    assert tick("bike:held", work="0" * 16) == 409  # the page showed another order
    assert tick("bike:held", at="2031-01-01T10:00:00") == 204
    assert not job_of(client, number).ticks["bike:held"].at.startswith("2031")
    assert "cold since last night" in build(client, number)
    assert tick("bike:cool", state="open") == 204
    assert tick("bike:cool", state="skipped", reason="cold since last night") == 204
    tick_all(client, number)
    assert post(client, number, "supply/aside").status_code == 200
    assert post(client, number, "sign-off").status_code == 303
    assert "Left out: Let the rotors cool before a hand is near. Tess Bench, “cold since last night”" in told_at(
        client, f"/jobs/{number}/build"
    )
    assert "Put back what" not in build(client, number)  # what was set aside is on the bike


def test_an_order_lists_what_its_verdict_rests_on(client: TestClient) -> None:
    page = told_at(client, f"/jobs/{laid(client, GOOD)}/build")
    rests = page[page.index("What this rests on") :]
    assert "looked at and in order: rotor to hub" in rests
    assert "rotor cracks, oil on the rotor, run-out, pistons, hose or housing, the lever's feel" in rests
    assert "disagree" not in rests[: rests.index("Rear")]  # things that were looked at, not faults that were not found
    unseen = told_at(client, f"/jobs/{laid(client, with_value(GOOD, 'front.rotor_cracks', 'not_checked'))}/build")
    assert "rotor cracks, oil" not in unseen[unseen.index("What this rests on") : unseen.index("Rear :")]


def test_keep_tells_since_when_a_part_is_on_the_bike(client: TestClient) -> None:
    number = finished(client)
    day = job_of(client, number).front.since["pad"].day
    assert f"Front pads Ulvorn K2 Sinter, on since {day}" in told_at(client, f"/jobs/{number}/keep")
    assert field(client, number, "front.pad_id", "u-k2-resin").status_code == 200  # others are on it now
    stock = {"page": "p", "room": "keep"}
    assert client.post(f"/jobs/{number}/keep/stock", data=stock).status_code == 200
    page = told_at(client, f"/jobs/{number}/keep")
    assert "Front pads Ulvorn K2 Resin, nobody knows since when" in page
    assert "another was found in its place" not in page.split("Parts, now and before")[0]


def test_a_rotor_proposed_after_the_sign_off_voids_it(client: TestClient) -> None:
    number = finished(client)
    data = {"end": "front", "axis": "rotor", "part_id": "q-disc-203", "base": 999, "page": "p"}
    assert client.post(f"/jobs/{number}/swap", data=data).status_code == 200
    assert job_of(client, number).signed_off is None
    over = client.post(f"/jobs/{number}/swap", data=data | {"part_id": "t-heavy-220", "base": 999})
    assert over.status_code == 422
    assert "above 203, the largest that the fork allows" in over.text


def test_what_is_beside_the_setup_leaves_the_sign_off(client: TestClient) -> None:
    number = finished(client)
    assert field(client, number, "complaint_words", "all is well now").status_code == 200
    assert field(client, number, "title", "Another name").status_code == 200
    assert job_of(client, number).signed_off is not None


def test_undo_takes_the_whole_sign_off_back_and_keeps_it_on_record(client: TestClient) -> None:
    number = laid(client, GOOD)
    answer_all(client, number)
    tick_all(client, number)
    before = job_of(client, number)
    assert post(client, number, "sign-off").status_code == 303
    assert client.post(f"/jobs/{number}/undo", data={"base": 999, "page": "p"}).status_code == 200
    after = job_of(client, number)
    assert (after.front, after.proposal, after.ticks) == (before.front, before.proposal, before.ticks)
    assert after.signed_off is None
    assert [v.path for v in after.signed_before] == ["taken_back"]
    assert "undid it" in told_at(client, f"/jobs/{number}/build")


def test_a_sign_off_is_taken_back_by_name(client: TestClient) -> None:
    number = finished(client)
    assert post(client, number, "sign-off/back").status_code == 303
    assert job_of(client, number).signed_off is None
    assert post(client, number, "sign-off/back").status_code == 409


def test_an_undone_void_does_not_bring_the_sign_off_back(client: TestClient) -> None:
    number = finished(client)
    assert field(client, number, "rider.mass_kg", "118").status_code == 200
    assert client.post(f"/jobs/{number}/undo", data={"base": 999, "page": "p"}).status_code == 200
    job = job_of(client, number)
    assert job.rider.mass_kg == 77
    assert job.signed_off is None


def test_nobody_signs_what_somebody_else_just_changed(client: TestClient) -> None:
    number = laid(client, GOOD)
    answer_all(client, number)
    tick_all(client, number)
    version = VERSION.search(build(client, number))[1]
    assert field(client, number, "title", "Renamed meanwhile").status_code == 200
    late = client.post(f"/jobs/{number}/sign-off", data={"base": version, "page": "q"})
    assert late.status_code == 409
    assert "changed since this page was opened" in late.text


@pytest.mark.parametrize("path", ["signed_off", "signed_off.who", "signed_before", "front.since"])
def test_a_sign_off_cannot_be_typed(client: TestClient, path: str) -> None:
    for number in (laid(client, GOOD), finished(client)):
        before = job_of(client, number)
        assert field(client, number, path, "Tess").status_code == 422
        assert job_of(client, number) == before


def test_a_sign_off_that_comes_in_a_file_stands_for_nothing(client: TestClient) -> None:
    """Neither one that was right, nor one that was made up for a bike that must not be ridden."""
    right = sign(with_all_done(GOOD))
    made_up = with_value(own_job(), "front.rotor_cracks", "yes").model_copy(
        update={"signed_off": SignOff(who="Nobody", at="2026-11-28T10:00")}
    )
    for job in (right, made_up):
        number = laid(client, job)
        kept = job_of(client, number)
        assert kept.signed_off is None
        assert kept.signed_before[-1].signed == job.signed_off
        page = told_at(client, f"/jobs/{number}/build")
        assert "read the job from a file: whoever signs, signs here" in page


def test_an_answer_is_printed_with_its_reason_and_goes_with_its_evidence(client: TestClient) -> None:
    job = with_value(with_value(GOOD, "target_decel_g", 1.1), "rider.mass_kg", 120.0)
    number = laid(client, job)
    key = re.search(r'/answer/([\w:-]+)"', build(client, number))[1]
    assert post(client, number, f"answer/{key}", reason="ok").status_code == 422
    answered = post(client, number, f"answer/{key}", reason="rides on the flat alone")
    assert "Tess Bench" in told(answered)
    assert "“rides on the flat alone”" in told_at(client, f"/jobs/{number}/build")
    assert field(client, number, "rider.mass_kg", "135").status_code == 200
    assert f"/answer/{key}" in build(client, number)
    assert "“rides on the flat alone”" not in told_at(client, f"/jobs/{number}/build")
    answer_all(client, number)
    assert post(client, number, f"answer/{key}", back="true").status_code == 200
    assert f"/answer/{key}" in build(client, number)


def test_an_answer_carries_a_name(client: TestClient) -> None:
    job = with_value(with_value(GOOD, "target_decel_g", 1.1), "rider.mass_kg", 120.0)
    number = laid(client, job)
    key = re.search(r'/answer/([\w:-]+)"', build(client, number))[1]
    client.cookies.delete("clavis_who")
    answer = client.post(f"/jobs/{number}/answer/{key}", data={"reason": "rides on the flat", "base": 1, "page": "p"})
    assert answer.status_code == 428


def test_what_is_renewed_is_put_in_and_taken_out_by_a_press(client: TestClient) -> None:
    number = laid(client, looked_over(own_job()).model_copy(update={"proposal": type(own_job().proposal)()}))
    assert "Nothing to do" in told_at(client, f"/jobs/{number}/build")
    post(client, number, "renew", end="front", what="pad")
    assert "pads, one pair" in told_at(client, f"/jobs/{number}/build", view="parts")
    assert job_of(client, number).proposal.front.renew == ("pad",)
    assert "Nothing to do" in told(post(client, number, "renew", end="front", what="pad"))
    assert post(client, number, "renew", end="front", what="engine").status_code == 422


def _unsafe(job: Job) -> bool:
    points = evaluate(job, CATALOGUE, TRACKS).points(SetupName.PROPOSED)
    return any(p.grave and p.matter is not Matter.RIDE for p in points)


UNSAFE = [job for job in drawn_jobs(60, seed=14) if _unsafe(job)][:5]


@pytest.mark.long
@pytest.mark.parametrize("place", range(len(UNSAFE)))
def test_no_sequence_of_requests_signs_what_is_unsafe(client: TestClient, place: int) -> None:
    """Everything a page offers, and what it does not: answers, ticks, forged ticks, typed sign-offs, undo."""
    number = laid(client, UNSAFE[place])
    points = evaluate(UNSAFE[place], CATALOGUE, TRACKS).points(SetupName.PROPOSED)
    for p in points:
        post(client, number, f"answer/{p.key}", reason="seen, known and meant so")
    tick_all(client, number)
    for key in ("front:caliper_on", "rear:pads_in", "bike:walking"):
        post(client, number, "tick", key=key)
    field(client, number, "signed_off", "Tess")
    field(client, number, "ticks.front:pump", "Tess")
    assert post(client, number, "sign-off").status_code in (409, 422)
    client.post(f"/jobs/{number}/undo", data={"base": 999, "page": "p"})
    assert post(client, number, "sign-off").status_code in (409, 422)
    assert job_of(client, number).signed_off is None
    assert "Signed off by" not in told_at(client, f"/jobs/{number}/build")


ACTS = ("tick", "answer", "sign", "undo", "renew", "swap", "step", "field", "back", "pick")
FIELDS = (
    ("front.rotor_cracks", ("yes", "no")), ("rear.pad_state", ("oiled", "good")), ("front.line_state", ("leaking", "good")),
    ("front.max_rotor_mm", ("160", "203", "")), ("rider.mass_kg", ("60", "130")), ("rear.lever_feel", ("pumps_up", "firm")),
)  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("seed", range(1))
def test_whatever_is_pressed_in_whatever_order_nothing_unsafe_stands_signed(client: TestClient, seed: int) -> None:
    """Thirty presses by the dice; after each, a sign-off that is there rests on a bike without an open stop."""
    dice = random.Random(seed)
    number, signed = laid(client, GOOD), 0
    for _ in range(30):
        press(client, number, dice)
        job = job_of(client, number)
        if job.signed_off is not None:
            signed += 1
            points = evaluate(job, CATALOGUE, {}).points(SetupName.PROPOSED)
            assert not [p.key for p in points if p.grave and p.matter is not Matter.RIDE]
            assert "Signed off by" in told_at(client, f"/jobs/{number}/build")
    answer_all(client, number)
    tick_all(client, number)
    post(client, number, "sign-off")
    job = job_of(client, number)
    assert job.signed_off is None or not _unsafe(job)


def press(client: TestClient, number: int, dice: random.Random) -> None:
    """One thing that a page offers, or that somebody tries though it does not."""
    end, axis = dice.choice(("front", "rear")), dice.choice(("rotor", "caliper", "lever", "pad"))
    match dice.choice(ACTS):
        case "tick":
            tick_all(client, number, 4)
        case "answer":
            for p in evaluate(job_of(client, number), CATALOGUE, {}).points(SetupName.PROPOSED):
                post(client, number, f"answer/{p.key}", reason="seen, known and meant so")
        case "sign":
            tick_all(client, number)
            post(client, number, "sign-off")
        case "undo":
            post(client, number, "undo")
        case "back":
            post(client, number, "sign-off/back")
        case "renew":
            post(client, number, "renew", end=end, what=dice.choice(("rotor", "pad", "bleed", "bolts", "bed_in")))
        case "swap":
            part = dice.choice(sorted(CATALOGUE.of_kind(axis)))
            post(client, number, "swap", end=end, axis=axis, part_id=part)
        case "step":
            post(client, number, "step", end=end, kind=axis, by=dice.choice((-1, 1)))
        case "pick":
            parts = {f"{kind}_id": dice.choice(sorted(CATALOGUE.of_kind(kind))) for kind in ("rotor", "pad")}
            post(client, number, "pick", end=end, **parts)
        case "field":
            path, values = dice.choice(FIELDS)
            field(client, number, path, dice.choice(values))
