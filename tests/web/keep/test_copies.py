"""One wheel for the other, a job copied, a template, and one change for a fleet after it was looked at."""

import re

from starlette.testclient import TestClient

from clavis.core.job.document import StayState
from clavis.core.job.wheel import Wheel
from clavis.core.keeping.copies import NOT_OF_ANOTHER
from clavis.core.keeping.returning import READ_ANEW
from clavis.core.parts.mounts import End
from clavis.store import bikes, jobs
from tests.core.workshop.test_sign_off import GOOD
from tests.web.build.test_gate import field, laid
from tests.web.keep.test_returning import job_of
from tests.web.told import told, told_at

HIRE = 4
FORM = {"page": "p", "room": "measure"}


def numbered(client: TestClient) -> dict[str, int]:
    with client.app.state.sessions() as session:
        return {name: number for number, name in bikes.names(session)}


def test_what_is_alike_is_copied_where_nothing_stands(client: TestClient) -> None:
    number = laid(client, GOOD.model_copy(update={"rear": Wheel(pad_id="p-p2-resin", rotor_points_mm=(1.7,))}))
    assert client.post(f"/jobs/{number}/copy-wheel/front", data=FORM).status_code == 200
    job = job_of(client, number)
    assert (job.rear.rotor_id, job.rear.lever_id) == (job.front.rotor_id, job.front.lever_id)
    assert job.rear.pad_id == "p-p2-resin" and job.rear.rotor_points_mm == (1.7,)  # what was entered stays
    assert job.rear.native_rotor_mm is None and job.rear.adapter_id is None  # a wheel's own
    again = client.post(f"/jobs/{number}/copy-wheel/front", data=FORM)
    assert again.status_code == 409 and "Nothing to copy" in told(again)
    client.post(f"/jobs/{number}/undo", data={"page": "p"})
    assert job_of(client, number).rear.rotor_id is None  # one step of the history


def test_a_copied_job_is_about_another_bike_and_signs_nothing(client: TestClient) -> None:
    answer = client.post(f"/jobs/{HIRE}/copy", data={"page": "p"})
    number = int(answer.headers["hx-redirect"].split("/")[2])
    was, copied = job_of(client, HIRE), job_of(client, number)
    assert copied.title == "Hire bike no. 14 (copy)" and copied.rides == was.rides and copied.proposal == was.proposal
    assert copied.signed_off is None and not copied.ticks and not copied.trials
    for name in (*READ_ANEW, *NOT_OF_ANOTHER):
        assert getattr(copied.front, name) == Wheel.model_fields[name].get_default(call_default_factory=True)
    assert copied.front.native_rotor_mm == was.front.native_rotor_mm  # what its maker says stays said
    with client.app.state.sessions() as session:
        assert jobs.open_job(session, number).bike_id != jobs.open_job(session, HIRE).bike_id


def test_a_template_begins_new_jobs_and_names_no_rider(client: TestClient) -> None:
    client.post("/board/5/state", data={"value": StayState.TEMPLATE.value})
    page = client.get("/").text
    assert 'name="template"' in page and "Gravel bike that grabs" in page
    answer = client.post("/jobs", data={"title": "Another gravel bike", "template": "5"})
    new = job_of(client, int(answer.headers["location"].split("/")[2]))
    assert new.title == "Another gravel bike" and new.rider.name == "" and not new.complaints
    assert new.front.caliper_id == job_of(client, 5).front.caliper_id and new.stay.state is StayState.ON_THE_BENCH
    assert client.post("/jobs", data={"title": "x", "template": "4"}).status_code == 422
    assert "Gravel bike that grabs" not in told_at(client, "/").split("Waits for")[1]  # no bike of the workshop


def test_one_change_for_a_fleet_is_looked_at_first(client: TestClient) -> None:
    """Equal bikes are ticked; one with other pads is not offered; a job with the same proposal is begun for each."""
    named = numbered(client)
    client.post(f"/bikes/{named['Hire bike no. 15']}/readings", data={"km": "2300"})
    with client.app.state.sessions() as session:
        number = named["Hire bike no. 16"]

        def other_pads(bike):
            lives = tuple(x.model_copy(update={"part_id": "p-p2-semi"}) if x.end is End.REAR else x for x in bike.lives)
            return bike.model_copy(update={"lives": lives})

        bikes.change(session, number, other_pads, "Tess", "other pads")
    page = client.get(f"/jobs/{HIRE}/fleet")
    offered = [int(n) for n in re.findall(r'name="bike" value="(\d+)"', page.text)]
    assert offered == [named[f"Hire bike no. {k}"] for k in (11, 12, 13, 15)]
    assert "rear: another pad" in told(page) and "rotor not known" in told(page)
    forged = client.post(f"/jobs/{HIRE}/fleet", data={"page": "p", "bike": [str(named["Hire bike no. 16"])]})
    assert forged.status_code == 409
    chosen = [str(n) for n in offered[:2]]
    assert client.post(f"/jobs/{HIRE}/fleet", data={"page": "p", "bike": chosen}).status_code == 303
    with client.app.state.sessions() as session:
        for number in offered[:2]:
            begun = bikes.newest_job(session, number)
            assert begun is not None
            assert jobs.open_job(session, begun).job.proposal == job_of(client, HIRE).proposal
        assert bikes.newest_job(session, offered[2]) is None
    field(client, HIRE, "title", "Hire bike no. 14")


def test_without_a_fleet_it_says_where_one_is_named(client: TestClient) -> None:
    assert "No other bike bears this bike’s fleet" in told_at(client, "/jobs/3/fleet")
