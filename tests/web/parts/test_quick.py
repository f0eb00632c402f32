"""A part added in passing from Measure and Choose."""

import pytest
from starlette.testclient import TestClient

from clavis.store import catalogue as shelf
from clavis.store import jobs
from tests.web.told import told

TANDEM = 7
ROTOR = {"model": "R 190", "maker": "Own", "diameter_mm": "190", "interface": "six_bolt", "thickness_mm": "1.9"}


def test_from_measure_it_is_added_and_put_on_the_wheel(client: TestClient) -> None:
    assert "not in the list" in client.get(f"/jobs/{TANDEM}/quick/front.rotor_id").text
    answer = client.post(f"/jobs/{TANDEM}/quick/front.rotor_id", data=ROTOR)
    assert answer.status_code == 200
    said = told(answer)
    assert (
        "Own R 190" in said and "put on this wheel" in said and "to be checked on the part" in said and "mass" in said
    )
    with client.app.state.sessions() as session:
        part, _ = shelf.find(session, "own-r-190")
        job = jobs.open_job(session, TANDEM).job
    assert job.front.rotor_id == "own-r-190" and part.figures.value == "typical"
    assert answer.text.count("own-r-190") >= 3  # in the lists of both wheels, and in what was said


def test_from_choose_it_is_proposed_by_its_own_press(client: TestClient) -> None:
    path = "proposal.front.rotor_id"
    assert f"/jobs/{TANDEM}/quick/{path}" in client.get(f"/jobs/{TANDEM}/offers/front/rotor").text
    answer = client.post(f"/jobs/{TANDEM}/quick/{path}", data=ROTOR)
    assert answer.status_code == 200 and "Propose it" in answer.text and "put on this wheel" not in told(answer)
    with client.app.state.sessions() as session:
        assert jobs.open_job(session, TANDEM).job.proposal.front.rotor_id != "own-r-190"


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"diameter_mm": ""}, "needed"),
        ({"diameter_mm": "big"}, "Diameter"),
        ({"diameter_mm": "900"}, "260"),
        ({"model": ""}, "needed"),
        ({"minimum_mm": "2.5"}, "below"),
    ],
)
def test_what_is_wrong_stands_beside_its_field_with_what_was_typed(
    client: TestClient, wrong: dict[str, str], said: str
) -> None:
    answer = client.post(f"/jobs/{TANDEM}/quick/front.rotor_id", data=ROTOR | wrong)
    assert answer.status_code == 422 and said in told(answer) and 'value="Own"' in answer.text
    with client.app.state.sessions() as session, pytest.raises(jobs.NotThereError):
        shelf.find(session, "own-r-190")


def test_nothing_is_added_where_no_part_is_named(client: TestClient) -> None:
    for path in ("rider.mass_kg", "front.adapter_id", "front.mount_spacing_mm"):
        assert client.get(f"/jobs/{TANDEM}/quick/{path}").status_code == 404
