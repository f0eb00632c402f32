"""The sheet on the page: a part found by typing, one size by a step, and looked at otherwise."""

import re

import pytest
from starlette.testclient import TestClient

from tests.web.test_measure import job_of, post
from tests.web.test_pages import TANDEM

CARGO = 6


def offers(client: TestClient, job: int, place: str, typed: str) -> str:
    return client.get(f"/jobs/{job}/offers/{place}", params={"typed": typed}).text


def test_typing_finds_parts_by_name_and_figure_those_that_go_first(client: TestClient) -> None:
    found = offers(client, TANDEM, "front/rotor", "220")
    assert re.findall(r'data-part="([^"]+)"', found)
    assert (
        found.count("above 203 mm, the largest that the fork allows")
        == found.count("220 × ") - found.count("splined rotor")
        > 2
    )
    assert found.count("does not go:") == found.count("refused-offer") == found.count("220 × ")
    both = offers(client, TANDEM, "front/rotor", "load")
    assert both.index("b-load-203") < both.index("b-load-220")  # the refused one last
    assert "as fitted" in both
    assert "Brindewal" not in offers(client, TANDEM, "front/rotor", "load splined")
    assert "No rotor is called that." in offers(client, TANDEM, "front/rotor", "xyzzy")
    assert "and " in offers(client, TANDEM, "front/rotor", "")
    assert client.get(f"/jobs/{TANDEM}/offers/front/saddle").status_code == 422


def test_a_part_that_was_found_is_swapped_and_given_back(client: TestClient) -> None:
    answer = post(client, TANDEM, "swap", end="front", axis="rotor", part_id="q-disc-203")
    assert answer.status_code == 200
    assert job_of(client, TANDEM).proposal.front.rotor_id == "q-disc-203"
    assert 'value="Plain 203"' in answer.text
    post(client, TANDEM, "swap", end="front", axis="rotor", part_id="")
    assert job_of(client, TANDEM).proposal.front.rotor_id is None
    assert post(client, TANDEM, "swap", end="front", axis="rotor", part_id="nothing").status_code == 422


def lead(page: str, label: str) -> list[str]:
    """The figures with one label, front and rear, as they stand on the sheet."""
    change = r'(?:<span class="delta">[^<]*</span>)?'
    return re.findall(rf'<b>([^<]+)</b><span class="u">[^<]*</span>{change}<span class="l">{label}</span>', page)


@pytest.mark.parametrize("asked", ["weather=dry", "pull=cold", "age=new", "regeneration=off"])
def test_a_look_changes_figures_and_keeps_nothing(client: TestClient, asked: str) -> None:
    plain = client.get(f"/jobs/{CARGO}/choose").text
    seen = client.get(f"/jobs/{CARGO}/choose?{asked}").text
    assert "only looked at" in seen
    assert "only looked at" not in plain
    assert [lead(plain, k) for k in ("at lock", "ring", "energy", "in reserve")] != [
        lead(seen, k) for k in ("at lock", "ring", "energy", "in reserve")
    ]
    assert client.get(f"/jobs/{CARGO}/choose").text.count(lead(plain, "ring")[0]) > 0
    assert job_of(client, CARGO).conditions.rain is False


def test_a_look_is_kept_by_its_links_and_by_what_follows_a_change(client: TestClient) -> None:
    page = client.get(f"/jobs/{CARGO}/choose?weather=dry&show=fitted").text
    assert 'href="?weather=dry&amp;show=fitted&amp;pull=cold"' in page
    assert 'href="?show=fitted&amp;weather=wet"' not in page  # the job is wet: that needs no word
    address = {"hx-current-url": f"http://testserver/jobs/{CARGO}/choose?weather=dry"}
    step = {"base": 9999, "page": "p", "end": "front", "kind": "rotor", "by": "-1"}
    after = client.post(f"/jobs/{CARGO}/step", data=step, headers=address)
    assert "only looked at" in after.text
    why = client.get(f"/jobs/{CARGO}/why/fitted/front/finger_lock", headers=address).text
    assert why != client.get(f"/jobs/{CARGO}/why/fitted/front/finger_lock").text


def test_a_word_the_lens_does_not_know_is_no_error(client: TestClient) -> None:
    page = client.get(f"/jobs/{CARGO}/choose?weather=snow&pull=&age=old")
    assert page.status_code == 200
    assert "only looked at" not in page.text
