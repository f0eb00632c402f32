"""What somebody answers for by name is kept by an act of its own: it cannot be typed, and from a file it comes as that."""

import json

import pytest
from starlette.testclient import TestClient

from clavis.core.evaluation.gate import answer_for
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.evaluation.situation import parameters_of
from clavis.core.job.document import Job
from clavis.core.job.special_mount import Release, geometry_of
from clavis.core.parts.mounts import End
from clavis.core.records import FROM_FILE
from clavis.core.verdicts import Severity
from clavis.formats.job_file import marked_as_imported
from tests.bikes import own_job
from tests.web.told import told_at

FIELDS = (
    "signed_off", "signed_off.who", "signed_before", "ticks.front:rotor.who", "cleared.front:rotor_oil.who", "accepted.who",
    "special.front.released.geometry", "special.rear.released.engineer", "special.front.dummy.who",
    "special.front.template.geometry", "special.front.checked.clears", "calibration", "typed.title", "front.read_by.x",
    "front.since.rotor.day", "seed", "parameters.seed", "parameters.convection_ratio", "trials.x.id", "trials.x.seed",
    "trials.x.kind", "trials.x.a.name", "heat_sets.x.id", "heat_sets.x.setup.name", "logs.x.data_id", "rides.pass.id",
    "rides.pass.track_id",
)  # fmt: skip


@pytest.mark.parametrize("path", FIELDS)
def test_no_field_takes_what_is_an_act(client: TestClient, path: str) -> None:
    before = client.get("/jobs/7/export").content
    form = {"path": path, "value": "Eve Example", "room": "intake", "page": "p"}
    assert client.post("/jobs/7/field", data=form).status_code in (403, 422)
    assert client.get("/jobs/7/export").content == before


def test_what_makes_a_trial_or_a_set_of_readings_is_not_typed(client: TestClient) -> None:
    """Ids and seeds of what is there: the demo has both, and the rest of each is typed."""
    tried = 0
    for number in range(1, 8):
        document = json.loads(client.get(f"/jobs/{number}/export").content)["job"]
        for place, fields in (
            ("trials", ("id", "seed", "kind")),
            ("heat_sets", ("id",)),
            ("rides", ("id", "track_id")),
        ):
            for record in document[place]:
                for name in fields:
                    form = {"path": f"{place}.{record['id']}.{name}", "value": "7", "room": "prove", "page": "p"}
                    assert client.post(f"/jobs/{number}/field", data=form).status_code == 422
                    tried += 1
        form = {"path": "seed", "value": "7", "room": "intake", "page": "p"}
        assert client.post(f"/jobs/{number}/field", data=form).status_code == 422
        assert json.loads(client.get(f"/jobs/{number}/export").content)["job"] == document
    assert tried > 10


def test_a_letter_that_cannot_be_seen_is_no_part_of_a_title(client: TestClient) -> None:
    form = {"path": "title", "value": "Tan\x00dem", "room": "intake", "page": "p"}
    refused = client.post("/jobs/7/field", data=form)
    assert refused.status_code == 422 and "cannot be seen" in refused.text
    assert client.post("/jobs", data={"title": "Tan\x00dem", "page": "p"}).status_code == 422


def with_release(job: Job) -> Job:
    mount = job.special.front.model_copy(update={"rotor_mm": 180.0})
    told = {"who": "Tess", "at": "2026-11-01T10:00", "geometry": geometry_of(mount), "engineer": "Ada Example",
            "qualification": "engineer, register 7", "drawing": "K-7"}  # fmt: skip
    mounts = job.special.model_copy(update={"front": mount.model_copy(update={"released": Release(**told)})})
    return Job.model_validate(job.model_copy(update={"special": mounts}).model_dump())


def test_a_release_from_a_file_is_shown_as_that_and_holds_not_here() -> None:
    found = marked_as_imported(with_release(own_job())).special.of(End.FRONT).released
    assert found is not None and found.elsewhere and found.who == f"{FROM_FILE}Tess" and found.engineer == "Ada Example"
    again = marked_as_imported(marked_as_imported(with_release(own_job())))
    assert again.special.front.released == found  # once is enough


def test_an_imported_job_says_who_ticked_it_elsewhere(client: TestClient) -> None:
    file = json.loads(client.get("/jobs/7/export").content)
    file["job"]["accepted"] = {"who": "Mr Example", "at": "2026-11-01T10:00", "work": "0" * 16, "price": 1.0}
    sent = {"file": ("job.json", json.dumps(file).encode(), "application/json")}
    number = client.post("/import", files=sent).headers["location"].split("/")[2]
    kept = json.loads(client.get(f"/jobs/{number}/export").content)["job"]
    assert kept["accepted"]["who"] == "from a file: Mr Example" and kept["signed_off"] is None


def test_nothing_that_was_done_elsewhere_counts_here() -> None:
    """Answers, ticks, an accepted quote, readings and a calibration, a tried plate: from a file they are on record."""
    tick = {"who": "Mara", "at": "2026-11-01T10:00"}
    one = {"value": 1.0, "sigma": 0.1}
    told = own_job().model_dump() | {
        "cleared": {"front:x": tick | {"evidence": "12 % short", "reason": "rides on the flat"}},
        "ticks": {"front:rotor": tick}, "accepted": tick,
        "calibration": tick | {
            "convection_ratio": one | {"value": 1.5}, "rotor_to_carrier_ratio": one, "airflow_ratio": one,
            "front_share": one | {"value": 0.6}, "readings": 4, "missed_before_k": 9, "missed_after_k": 2,
        },
    }  # fmt: skip
    here = Job.model_validate(told)
    point = OpenPoint("x", End.FRONT, None, Severity.FAILS, Matter.RIDE, "stop", "12 % short")
    away = marked_as_imported(here)
    assert answer_for(here, point) is not None and answer_for(away, point) is None
    assert away.cleared["front:x"].who == "from a file: Mara"
    assert here.learnt is not None and away.learnt is None and away.calibration is not None
    assert parameters_of(away) == away.parameters != parameters_of(here)
    assert not any(act.given_here for act in (*away.ticks.values(), *filter(None, [away.accepted])))


def test_a_sign_off_does_not_outlive_its_rider(client: TestClient) -> None:
    """Whatever it rests on is another: it is void, and is kept on record as that."""
    signed = client.app.state.sessions
    from clavis.core.job.document import SignOff
    from clavis.core.workshop.sign_off import rests_on
    from clavis.store import jobs

    with signed() as session:
        opened = jobs.open_job(session, 3)
        note = SignOff(
            who="Tess", at="2026-11-01T10:00", rests_on=rests_on(opened.job), parts={}, done=(), ticks={}, answered={}
        )
        after = Job.model_validate(opened.job.model_copy(update={"signed_off": note}).model_dump())
        jobs.sign_off(session, opened, jobs.Author("Tess", "p"), after)
    form = {"path": "rider.mass_kg", "value": "120", "room": "intake", "page": "p"}
    assert client.post("/jobs/3/field", data=form).status_code == 200
    kept = json.loads(client.get("/jobs/3/export").content)["job"]
    assert kept["signed_off"] is None and kept["signed_before"][0]["path"] == "rider.mass_kg"
    assert "sign-off" in told_at(client, "/jobs/3/build").lower()


@pytest.mark.parametrize(
    "sent",
    [
        b'{"format": "clavis-job", "version": 3, "job": {"title": "\\ud800"}, "parts": []}',
        b"[" * 100_000,
        b'{"format": 1e999}',
        b'{"format": "clavis-job", "version": 3, "job": {"title": "a\\u0000b"}, "tracks": {}, "parts": []}',
    ],
)
def test_a_file_that_cannot_be_kept_is_refused_in_words(client: TestClient, sent: bytes) -> None:
    answer = client.post("/import", files={"file": ("job.json", sent, "application/json")})
    assert answer.status_code == 422 and "Traceback" not in answer.text
