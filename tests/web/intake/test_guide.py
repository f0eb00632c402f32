"""The complaint guide over HTTP: answers are kept, reorder what is shown, and can be taken back."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.inspection.complaints import CAUSE_ROWS, Cause
from tests.web.test_pages import TANDEM, exported, field

FOLDING, TOURER, HIRE = 1, 2, 4


def reply(client: TestClient, job: int, key: str, value: str, base: int = 9999):
    return client.post(f"/jobs/{job}/reply/{key}", data={"value": value, "base": base, "page": "p", "room": "guide"})


def order(text: str) -> list[str]:
    return re.findall(r'class="name">([^<]+)<', text)


def test_the_guide_opens_for_every_job(client: TestClient) -> None:
    for job in range(1, 8):
        page = client.get(f"/jobs/{job}/guide")
        assert page.status_code == 200
        assert "Complaint guide" in page.text
        assert f'<a href="/jobs/{job}/intake" ' in page.text


def test_an_answer_is_kept_reorders_and_says_what_moved(client: TestClient) -> None:
    before = order(client.get(f"/jobs/{HIRE}/guide").text)
    answer = reply(client, HIRE, "hook", "no")
    after = order(answer.text)
    name = CAUSE_ROWS[Cause.REACH].name.capitalize().replace("'", "&#39;")
    assert after.index(name) < before.index(name)
    assert "▲" in answer.text
    assert "after “one finger sits in the blade&#39;s hook with the wrist straight: no”" in answer.text
    assert re.search(r"no: one finger sits.*?<b>\+3</b>", answer.text)
    assert exported(client, HIRE)["job"]["replies"] == {"hook": "no"}
    assert order(client.get(f"/jobs/{HIRE}/guide").text) == after
    reply(client, HIRE, "hook", "")
    assert exported(client, HIRE)["job"]["replies"] == {}
    assert order(client.get(f"/jobs/{HIRE}/guide").text) == before


@pytest.mark.parametrize(
    ("key", "value", "status"), [("nonsense", "yes", 404), ("oil_seen", "yes", 404), ("hook", "x", 422)]
)
def test_what_is_no_question_or_no_answer_is_refused(client: TestClient, key, value, status) -> None:
    assert reply(client, HIRE, key, value).status_code == status
    assert exported(client, HIRE)["job"]["replies"] == {}


def test_undo_takes_an_answer_back(client: TestClient) -> None:
    reply(client, HIRE, "hook", "no")
    client.post(f"/jobs/{HIRE}/undo", data={"page": "p"})
    assert exported(client, HIRE)["job"]["replies"] == {}


def test_unsafe_comes_before_the_next_check(client: TestClient) -> None:
    field(client, HIRE, "front.line_state", "leaking", station="measure")
    page = client.get(f"/jobs/{HIRE}/guide").text
    assert page.index("First: not ridden like this") < page.index("Check next")
    assert "line leaks" in page


def test_a_part_is_held_back_and_says_by_what(client: TestClient) -> None:
    page = client.get(f"/jobs/{TANDEM}/guide").text
    assert "No part yet for “undersized for the heat”" in page
    assert "cheaper causes not excluded" in page


def test_worn_parts_are_due_in_any_case(client: TestClient) -> None:
    page = client.get(f"/jobs/{FOLDING}/guide").text
    assert "Due in any case: Measure found it worn out" in page


def test_complaints_are_taken_up_and_dropped(client: TestClient) -> None:
    data = {"base": 9999, "page": "p", "room": "guide"}
    added = client.post(f"/jobs/{HIRE}/toggle/complaints/howls", data=data)
    assert 'id="live" class="guide-live" hx-swap-oob="true"' in added.text
    assert "howls" in exported(client, HIRE)["job"]["complaints"]
    client.post(f"/jobs/{HIRE}/toggle/complaints/howls", data=data)
    assert "howls" not in exported(client, HIRE)["job"]["complaints"]
    wants = client.post(f"/jobs/{HIRE}/toggle/wishes.wants/quiet", data={**data, "room": "intake"})
    assert 'id="causes"' in wants.text
    assert exported(client, HIRE)["job"]["wishes"]["wants"] == ["quiet"]
    assert client.post(f"/jobs/{HIRE}/toggle/complaints/nonsense", data=data).status_code == 422
    assert client.post(f"/jobs/{HIRE}/toggle/title/x", data=data).status_code == 422


def test_a_conversion_alone_points_to_measure(client: TestClient) -> None:
    client.post(f"/jobs/{TOURER}/toggle/complaints/weak", data={"base": 9999, "page": "p", "room": "guide"})
    assert f'href="/jobs/{TOURER}/measure"' in client.get(f"/jobs/{TOURER}/guide").text


def test_intake_shows_the_likeliest_causes_and_the_way_to_the_guide(client: TestClient) -> None:
    page = client.get(f"/jobs/{HIRE}/intake").text
    assert f'href="/jobs/{HIRE}/guide"' in page
    assert "Glazed pads" in page
