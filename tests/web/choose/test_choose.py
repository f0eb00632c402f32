"""The sheet on the page: a part found by typing, one size by a step, and looked at otherwise."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.job.pick import Pick
from tests.web.measure.test_measure import job_of, post
from tests.web.test_pages import GRAVEL, TANDEM

pytestmark = pytest.mark.long

CARGO = 6


def offers(client: TestClient, job: int, place: str, typed: str) -> str:
    return client.get(f"/jobs/{job}/offers/{place}", params={"typed": typed}).text


def test_typing_finds_parts_by_name_and_figure_those_that_go_first(client: TestClient) -> None:
    found = offers(client, TANDEM, "front/rotor", "220")
    assert re.findall(r'data-part="([^"]+)"', found)
    assert (
        found.count("above 203, the largest that the fork allows")
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
    change = r'(?:<span class="delta">[^<]*<span[^>]*>[^<]*</span></span>)?'
    return re.findall(rf'<b>([^<]+)</b><span class="u">[^<]*</span>{change}<span class="l">{label}</span>', page)


@pytest.mark.parametrize("asked", ["weather=dry", "pull=cold", "age=new", "regeneration=on"])
def test_a_look_changes_figures_and_keeps_nothing(client: TestClient, asked: str) -> None:
    plain = client.get(f"/jobs/{CARGO}/choose").text
    seen = client.get(f"/jobs/{CARGO}/choose?{asked}").text
    assert "only looked at" in seen
    assert "only looked at" not in plain
    assert [lead(plain, k) for k in ("at lock", "rotor", "energy", "force margin")] != [
        lead(seen, k) for k in ("at lock", "rotor", "energy", "force margin")
    ]
    assert client.get(f"/jobs/{CARGO}/choose").text.count(lead(plain, "rotor")[0]) > 0
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


def test_a_word_that_no_look_has_is_no_error(client: TestClient) -> None:
    page = client.get(f"/jobs/{CARGO}/choose?weather=snow&pull=&age=old")
    assert page.status_code == 200
    assert "only looked at" not in page.text


HIRE = 4


def test_what_trades_against_what_is_drawn_where_the_figures_are(client: TestClient) -> None:
    """The dot of the leanest pick stands at its mass and margin, read back from the picture's own ticks."""
    page = client.get(f"/jobs/{HIRE}/tradeoff/front", params={"x": "mass", "y": "rotor"}).text
    patterns = {
        "x": r'<text x="([\d.]+)" y="274" class="tick">([^<]+)<',
        "y": r'<text x="52" y="([\d.]+)" class="tick up">([^<]+)<',
    }
    ticks = {
        axis: [(float(at), float(text.replace("\u2212", "-"))) for at, text in re.findall(pattern, page)]
        for axis, pattern in patterns.items()
    }

    def read(axis: str, at: float) -> float:
        (a, va), (b, vb) = ticks[axis][0], ticks[axis][-1]
        return va + (at - a) / (b - a) * (vb - va)

    dots = re.findall(r'class="front-dot" cx="([\d.]+)" cy="([\d.]+)" r="3.5"><title', page)
    rows = re.findall(r'<td class="num">([\d\u202f]+)\xa0g</td><td class="num">([\d\u202f]+)\xa0°C</td>', page)
    assert len(rows) == len(dots) > 2
    for (x, y), (mass, rotor) in zip(dots, rows, strict=True):
        assert read("x", float(x)) == pytest.approx(float(mass.replace("\u202f", "")), abs=1)
        assert read("y", float(y)) == pytest.approx(float(rotor.replace("\u202f", "")), abs=2)
    assert client.get(f"/jobs/{HIRE}/tradeoff/front", params={"x": "looks"}).status_code == 422


def test_pairs_are_shown_and_proposed_together(client: TestClient) -> None:
    page = client.get(f"/jobs/{HIRE}/pairing").text
    for words in ("by load", "front one size larger", "equal sizes", "Propose both"):
        assert words in page
    assert post(client, HIRE, "pairing", named="equal sizes").status_code == 200
    proposal = job_of(client, HIRE).proposal
    assert proposal.front.rotor_id is not None
    assert proposal.rear.rotor_id is not None
    assert post(client, HIRE, "pairing", named="sideways").status_code == 422


def test_where_the_pick_flips_is_looked_for_when_asked(client: TestClient) -> None:
    first = client.get(f"/jobs/{CARGO}/flips/rear").text
    assert "begun=true" in first
    told = client.get(f"/jobs/{CARGO}/flips/rear", params={"begun": "true"}).text
    assert "Lightest lever takes" in told
    assert "In the dry" in told
    assert "progress" in client.get(f"/jobs/{CARGO}/progress/flips/rear").text


def test_a_refusal_opens_to_the_parts_it_refuses(client: TestClient) -> None:
    page = client.get(f"/jobs/{HIRE}/refused/front").text
    assert "Brindewal Load 220" in page[page.index("largest that the fork allows") :]
    assert "Stays:" in client.get(f"/jobs/{HIRE}/candidates/front").text


def test_a_budget_narrows_the_candidates(client: TestClient) -> None:
    page = client.get(f"/jobs/{HIRE}/candidates/front").text
    assert "within 350" in page
    prices = [
        int(p) for p in re.findall(r"<span>(\d+) kr", client.get(f"/jobs/{HIRE}/candidates/front?within=true").text)
    ]
    assert max(prices) <= 350


def test_swapping_a_part_leaves_the_ranking_as_it_is(client: TestClient) -> None:
    answers = client.app.state.answers
    client.get(f"/jobs/{HIRE}/candidates/front")
    kept = {k for k in answers._shelf if k[0] == "choice"}
    post(client, HIRE, "step", end="front", kind="pad", by="1")
    client.get(f"/jobs/{HIRE}/candidates/front")
    assert {k for k in answers._shelf if k[0] == "choice"} == kept
    post(client, HIRE, "field", path="rider.mass_kg", value="80", room="choose")
    client.get(f"/jobs/{HIRE}/candidates/front")
    assert {k for k in answers._shelf if k[0] == "choice"} != kept


@pytest.mark.parametrize("about", ["diameter", "pistons", "compound", "style", "nonsense"])
def test_what_people_argue_about_is_held_side_by_side(client: TestClient, about: str) -> None:
    page = client.get(f"/jobs/{TANDEM}/compare", params={"about": about, "end": "rear"})
    assert page.status_code == 200
    for words in ("diameter or thickness", "two pistons or four", "compounds", "drag or pulse", "pinned"):
        assert words in page.text
    keys = re.findall(r"compare/([a-z]+-\d)/rear/sure", page.text)
    if about == "nonsense":
        assert not keys
        return
    assert len(keys) >= 2
    band = client.get(f"/jobs/{TANDEM}/compare/{keys[0]}/rear/band", params={"about": about, "end": "rear"}).json()
    assert len(band["low"]) == len(band["high"]) == 240
    assert all(a <= b for a, b in zip(band["low"], band["high"], strict=True))


def test_one_side_of_an_argument_is_proposed(client: TestClient) -> None:
    address = {"hx-current-url": f"http://testserver/jobs/{TANDEM}/compare?about=diameter&end=rear"}
    data = {"base": 9999, "page": "p"}
    answer = client.post(f"/jobs/{TANDEM}/argued/diameter-1", data=data, headers=address)
    assert answer.headers["hx-redirect"] == f"/jobs/{TANDEM}/choose"
    assert client.post(f"/jobs/{TANDEM}/argued/diameter-9", data=data, headers=address).status_code == 404


def test_a_candidate_says_in_how_many_of_ten_it_holds(client: TestClient) -> None:
    ids = {"rotor_id": "q-disc-180", "caliper_id": "p-two-21", "lever_id": "p-arm", "pad_id": "p-p2-sinter"}
    told = client.get(f"/jobs/{HIRE}/candidates/front/sure", params=ids).text
    assert re.search(r"holds in\s*<b[^>]*>\d+</b> of 10|holds in <b>\d+</b> of 10", told)
    assert client.get(f"/jobs/{HIRE}/candidates/front/sure", params=ids | {"pad_id": "p-nothing"}).status_code == 404
    assert client.get(f"/jobs/{HIRE}/candidates/front/sure", params=ids | {"pad_id": "../x"}).status_code == 422


def test_the_answer_is_proposed_by_one_act_and_taken_back(client: TestClient) -> None:
    """The tandem's own school, then another; a bike that holds keeps its brakes, and a proposal on it is dropped."""
    page = client.get(f"/jobs/{TANDEM}/answer").text
    assert page.count('hx-post="/jobs/7/answer"') == 5
    assert post(client, TANDEM, "answer", school="thrift").status_code == 200
    taken = job_of(client, TANDEM).proposal
    assert taken.front.rotor_id is not None
    again = client.get(f"/jobs/{TANDEM}/answer").text
    assert again.count('hx-post="/jobs/7/answer"') + again.count(">proposed<") == 5
    assert ">proposed<" in again
    assert "Drop the proposal" in client.get(f"/jobs/{GRAVEL}/answer").text
    assert post(client, GRAVEL, "answer", school="lean").status_code == 200
    kept = job_of(client, GRAVEL).proposal
    assert (kept.front, kept.rear) == (Pick(), Pick())
    assert "Drop the proposal" not in client.get(f"/jobs/{GRAVEL}/answer").text
    assert post(client, TANDEM, "answer", school="fastest").status_code == 422
