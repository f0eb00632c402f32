"""The views of Choose: one page in the state its address says, each view with what it promises."""

import json
import re

import pytest
from starlette.testclient import TestClient

from clavis.core.parts.mounts import End
from clavis.web.choose.moments import ROWS
from clavis.web.choose.views import VIEWS, View
from tests.web.measure.test_measure import post
from tests.web.told import told_at

pytestmark = pytest.mark.long

TANDEM, CABLE = 7, 3


def tabs_of(page: str) -> dict[str, tuple[str, bool]]:
    """The tabs of a page: word, address, whether it is the open one."""
    nav = page[page.index('class="views"') :]
    found = re.findall(
        r'<a href="([^"]+)" title="[^"]*"( aria-current="page")?[^>]*>([^<]+)<kbd>', nav[: nav.index("</nav>")]
    )
    return {word: (address.replace("&amp;", "&"), bool(now)) for address, now, word in found}


@pytest.mark.parametrize("row", VIEWS, ids=[row.view.value for row in VIEWS])
def test_every_view_is_a_state_of_the_address_and_leads_to_the_others(client: TestClient, row) -> None:
    address = "compare" if row.view is View.COMPARE else f"choose?view={row.view.value}"
    page = client.get(f"/jobs/{TANDEM}/{address}").text
    tabs = tabs_of(page)
    assert list(tabs) == [r.word for r in VIEWS]
    assert [word for word, (_, now) in tabs.items() if now] == [row.word]
    assert f"/jobs/{TANDEM}/answer" in page  # the answer stands over all of them
    assert ('id="live"' in page) == (row.view in (View.SHEET, View.COMPARE))
    for address, _ in tabs.values():
        assert client.get(address).status_code == 200


def test_keys_of_the_views_are_their_own_and_no_others(client: TestClient) -> None:
    keys = [row.key for row in VIEWS]
    assert len(set(keys)) == len(keys)
    assert not set(keys) & set("bfrpun?/12345678")  # those of every page
    listed = client.get("/keys").text
    for row in VIEWS:
        assert f"<kbd>{row.key}</kbd>" in listed


def test_how_the_sheet_is_looked_at_goes_along_to_another_view(client: TestClient) -> None:
    tabs = tabs_of(client.get(f"/jobs/{TANDEM}/choose?weather=wet&view=ladder").text)
    assert tabs["Along the ride"][0].endswith("choose?weather=wet&view=ride")
    assert tabs["Sheet"][0].endswith("choose?weather=wet")


def test_a_view_that_there_is_not_is_the_sheet(client: TestClient) -> None:
    assert tabs_of(client.get(f"/jobs/{TANDEM}/choose?view=cellar").text)["Sheet"][1]


def test_a_change_in_a_view_brings_no_sheet_along(client: TestClient) -> None:
    at = {"hx-current-url": f"http://testserver/jobs/{TANDEM}/choose?view=candidates"}
    step = {"base": 9999, "page": "p", "end": "front", "kind": "rotor", "by": "-1"}
    answer = client.post(f"/jobs/{TANDEM}/step", data=step, headers=at)
    assert answer.status_code == 200
    assert 'id="head"' in answer.text
    assert 'id="live"' not in answer.text


def picture(page: str) -> dict:
    return json.loads(page[page.index("application/json") :].split(">", 1)[1].split("</script>", 1)[0])


def test_the_ride_is_told_moment_by_moment(client: TestClient) -> None:
    page = client.get(f"/jobs/{TANDEM}/moments").text
    d = picture(page)
    places = len(d["km"])
    assert set(d["ends"]) == {e.value for e in End}
    for w in d["ends"].values():
        assert set(w["told"]) == {row.key for row in ROWS}
        assert all(len(told) == places for told in w["told"].values())
        assert all(len(side) == places for band in w["bands"].values() for side in band)
        low, high = w["bands"]["rotor"]
        assert all(a <= b for a, b in zip(low, high, strict=True))
        top = w["rotor"].index(max(w["rotor"]))
        assert w["told"]["rotor"][top] == f"{max(w['rotor']):.0f}\u00a0°C"
    assert {m["mark"] for m in d["marks"] if m["end"] == "front"} >= {"hottest", "weakest"}
    assert "data-scrub" in page


def test_fitted_and_proposed_are_ridden_apart_and_in_the_readers_units(client: TestClient) -> None:
    def told(query: str) -> dict:
        client.headers["HX-Current-URL"] = f"http://testserver/jobs/{TANDEM}/choose?view=ride{query}"
        return picture(client.get(f"/jobs/{TANDEM}/moments").text)

    fitted, proposed = told("&show=fitted"), told("")
    assert "boils" in fitted["ends"]["front"]["told"]["boils"]
    assert "boils" not in proposed["ends"]["front"]["told"]["boils"]
    client.cookies.set("clavis_units", "imperial")
    imperial = told("&show=fitted")
    assert imperial["units"]["c"] == "°F"
    assert "°F" in imperial["ends"]["front"]["told"]["rotor"][0]


def test_a_cable_brake_has_no_fluid_to_boil(client: TestClient) -> None:
    d = picture(client.get(f"/jobs/{CABLE}/moments").text)
    for w in d["ends"].values():
        assert w["fluid"] is None
        assert set(w["told"]["fluid"]) == set(w["told"]["boils"]) == {"–"}


def test_without_a_ride_there_is_no_moment_of_it(client: TestClient) -> None:
    new = client.post("/jobs", data={"title": "x"}, follow_redirects=False)
    job = re.search(r"/jobs/(\d+)", new.headers.get("location") or new.headers["HX-Redirect"]).group(1)
    assert client.get(f"/jobs/{job}/moments").status_code == 422
    page = client.get(f"/jobs/{job}/choose?view=ride").text
    assert "The sheet needs" in page


def test_sizes_stand_with_bars_and_reasons(client: TestClient) -> None:
    page = client.get(f"/jobs/{TANDEM}/sizes").text
    assert page.count('class="handbar"') == 10
    assert "above 203, the largest that the fork allows" in page
    assert re.search(r"largest allowed 203\W*mm", page)
    assert page.count('class="present') == 2
    hand = client.get(f"/jobs/{TANDEM}/choose").text
    assert re.search(r"with ease 56\W*N, at most 144\W*N", hand)


def test_a_hand_that_cannot_reach_is_told_so_by_its_bar(client: TestClient) -> None:
    from clavis.core.physics.forces import Hand
    from clavis.web.choose.bars import hand_bar, heat_bar, share_pct

    class Forces:
        finger_target_n, finger_lock_n = 300.0, 45.0

    bar = hand_bar(Forces(), Hand(30.0, 90.0, 5.0, 1.0))
    assert (bar.comfortable, bar.greatest, bar.target, bar.lock) == (20.8, 62.5, 100.0, 31.2)
    assert bar.target_beyond
    assert not bar.lock_beyond
    assert share_pct(-5, 10) == 0
    assert heat_bar(275.0, None).at == 50.0
    assert heat_bar(5000.0, 275.0).step == 10


def test_the_friction_of_compounds_is_one_table_on_choose_and_on_rules(client: TestClient) -> None:
    page = client.get(f"/jobs/{TANDEM}/compounds").text
    assert page.count('class="friction-table"') == 2
    assert page.count("<polyline") == 4
    assert "front at its hottest" in page
    assert re.search(r"At 375\W*°C", page)
    assert "0.24, fading" in page
    rules = client.get("/rules?table=compounds").text
    assert rules.count('class="friction-table"') == 1
    assert "at its hottest" not in rules
    client.cookies.set("clavis_units", "imperial")
    assert "°C" not in client.get(f"/jobs/{TANDEM}/compounds").text


def test_the_budget_is_told_on_the_board_and_on_the_order(client: TestClient) -> None:
    """For both wheels together: held, or by how much it is passed; the same on Board and Build."""
    order = client.get(f"/jobs/{TANDEM}/build?view=parts").text
    total = float(re.search(r"In all.*?<b>([\d\u202f.]+)</b>", order, re.DOTALL).group(1).replace("\u202f", ""))
    if total <= 600:
        assert "Within the budget of 600" in order
    post(client, TANDEM, "field", path="wishes.budget_price", value="100", room="intake")
    assert "over the budget of 100" in client.get(f"/jobs/{TANDEM}/build").text
    order = client.get(f"/jobs/{TANDEM}/build?view=parts").text
    assert "Over the budget of 100" in order
    assert f"{total - 100:.0f} over the budget" in told_at(client, "/").replace("\u202f", "")
