"""Parts through HTTP: search, what goes on a wheel, lines added, changed and retired, files planned and taken."""

import re

import pytest
from starlette.testclient import TestClient

from tests.store.test_catalogue import HEAD, ONE
from tests.web.test_pages import TANDEM, exported, field
from tests.web.told import entries_of, told, told_at

ROTOR = {
    "id": "x-new-180", "maker": "Haldrick", "model": "New 180", "price": "31", "mass_g": "150", "diameter_mm": "180",
    "thickness_mm": "1.8", "minimum_mm": "1.5", "interface": "six_bolt", "construction": "one_piece",
    "track_mm": "14.5", "rivet_out_mm": "0",
}  # fmt: skip


def rows(page: str) -> list[str]:
    table = page.split('class="catalogue"')[1].split("</table>", maxsplit=1)[0] if 'class="catalogue"' in page else ""
    return [re.sub(r"\s+", " ", re.sub(r"<.*?>", " ", r)).strip() for r in re.findall(r"<tr.*?</tr>", table, re.S)[1:]]


def test_search_by_words_of_any_field(client: TestClient) -> None:
    found = rows(client.get("/parts", params={"kind": "rotor", "search": "tressick 204"}).text)
    assert found == []
    found = rows(client.get("/parts", params={"kind": "rotor", "search": "vaned pellory"}).text)
    assert len(found) == 3
    assert all("Vane" in row for row in found)
    assert "No rotor has “zeppelin”" in client.get("/parts", params={"search": "zeppelin"}).text


def test_what_goes_on_a_wheel_stands_first_with_the_reason_for_the_rest(client: TestClient) -> None:
    found = rows(client.get("/parts", params={"kind": "rotor", "fits": f"{TANDEM}-front"}).text)
    goes = [" goes " in f"{row} " for row in found]
    assert goes == sorted(goes, reverse=True)
    assert 0 < sum(goes) < len(goes)
    assert any("a splined rotor does not go on a six-bolt hub" in row for row in found)
    pads = rows(client.get("/parts", params={"kind": "pad", "fits": f"{TANDEM}-front"}).text)
    assert any("pad shape K2 in a caliper for P4" in row for row in pads)
    adapters = rows(client.get("/parts", params={"kind": "adapter", "fits": f"{TANDEM}-front"}).text)
    assert any("starts from 140, this mount is native" in row for row in adapters)
    assert any("not what goes between a post mount" in row for row in adapters)
    assert any(" goes " in f"{row} " for row in adapters)
    assert "not judged" in client.get("/parts", params={"kind": "bolt", "fits": f"{TANDEM}-front"}).text
    assert "On this wheel" not in client.get("/parts", params={"fits": "7-sideways"}).text


def test_a_new_line_is_kept_and_can_be_chosen(client: TestClient) -> None:
    assert entries_of(client.get("/parts/new/rotor"))["track_mm"] == "14.5"
    answer = client.post("/parts/new/rotor", data=ROTOR)
    assert answer.status_code == 303
    assert "Haldrick New 180" in client.get(answer.headers["location"]).text
    assert field(client, TANDEM, "proposal.front.rotor_id", "x-new-180", "choose").status_code == 200
    assert exported(client, TANDEM)["job"]["proposal"]["front"]["rotor_id"] == "x-new-180"
    again = client.post("/parts/new/rotor", data=ROTOR)
    assert again.status_code == 422
    assert "stands in the catalogue already" in again.text


@pytest.mark.parametrize(
    ("name", "text", "words"),
    [
        ("price", "a lot", "allowed is a number"),
        ("diameter_mm", "500", "120 mm to 260 mm"),
        ("interface", "", "it is missing"),
        ("id", "Not An Id", "cannot stand here"),
        ("minimum_mm", "1.9", "below the thickness when new"),
    ],
)
def test_a_mistake_is_said_beside_its_field_with_everything_as_typed(
    client: TestClient, name: str, text: str, words: str
) -> None:
    answer = client.post("/parts/new/rotor", data=ROTOR | {name: text})
    assert answer.status_code == 422
    assert words in told(answer)
    assert 'value="Haldrick"' in answer.text
    assert text in answer.text
    assert "x-new-180" not in client.get("/parts").text


def test_units_of_the_reader(client: TestClient) -> None:
    client.cookies.set("clavis_units", "imperial")
    client.post(
        "/parts/new/rotor",
        data=ROTOR
        | {
            "diameter_mm": "7.0866 in",
            "thickness_mm": "1.8 mm",
            "minimum_mm": "1.5 mm",
            "mass_g": "5 oz",
            "track_mm": "14.5 mm",
        },
    )
    client.cookies.set("clavis_units", "metric")
    kept = entries_of(client.get("/parts/line/x-new-180"))
    assert float(kept["diameter_mm"]) == pytest.approx(180, abs=0.01)
    assert float(kept["mass_g"]) == pytest.approx(141.7, abs=0.1)


def test_a_change_moves_the_jobs_that_use_the_part_and_is_on_record(client: TestClient) -> None:
    page = client.get("/parts/line/b-load-203")
    assert "jobs use this part" in page.text
    texts = entries_of(page) | {"interface": "six_bolt", "construction": "one_piece", "price": "99"}
    texts.pop("resin_only")  # a box that is not ticked is not sent
    before = client.get(f"/jobs/{TANDEM}/choose").text
    assert client.post("/parts/line/b-load-203", data=texts).status_code == 303
    assert "Price: 28.0 → 99.0" in client.get("/parts/line/b-load-203").text
    assert client.get(f"/jobs/{TANDEM}/choose").text != before
    late = client.post("/parts/line/b-load-203", data=texts | {"price": "1"})
    assert late.status_code == 422
    assert "Tess Bench changed this line since the page was opened" in late.text
    assert "99.0" in client.get("/parts/line/b-load-203").text


def test_a_retired_part_is_not_offered_and_stays_where_it_is_used(client: TestClient) -> None:
    client.post("/parts/line/b-load-203/retire")
    assert not any("b-load-203" in row for row in rows(client.get("/parts").text))
    assert any("b-load-203, retired" in row for row in rows(client.get("/parts", params={"retired": "true"}).text))
    assert exported(client, TANDEM)["job"]["proposal"]["front"]["rotor_id"] == "b-load-203"
    assert "Load 203" in client.get(f"/jobs/{TANDEM}/choose").text
    client.post("/parts/line/b-load-203/retire")
    assert any("b-load-203" in row for row in rows(client.get("/parts").text))
    assert client.post("/parts/line/none/retire").status_code == 404


def test_a_retired_adapter_is_not_ordered(client: TestClient) -> None:
    page = client.get(f"/jobs/{TANDEM}/fit").text
    used = re.search(r"Quernmark (P\d+–203)", page)[1]
    for kind in rows(client.get("/parts", params={"kind": "adapter", "search": used}).text):
        client.post(f"/parts/line/{re.search(r'a-pp-[0-9-]+', kind)[0]}/retire")
    assert used not in client.get(f"/jobs/{TANDEM}/fit").text


def test_a_file_is_planned_then_taken(client: TestClient) -> None:
    data = (HEAD + ONE + ONE.replace("x-one", "x-two").replace("180", "wide")).encode()
    planned = client.post("/parts/plan", files={"file": ("list.csv", data)}, data={"kind": "rotor"})
    assert "list.csv: 1 new, 0 changed, 0 as they are, 1 bad" in planned.text
    assert "line 3" in planned.text
    assert "Import 1 good row" in planned.text
    assert "x-one" not in client.get("/parts").text
    taken = client.post("/parts/take", files={"file": ("list.csv", data)}, data={"kind": "rotor"})
    assert taken.headers["hx-redirect"] == "/parts?kind=rotor"
    assert "x-one" in client.get("/parts").text
    bad = client.post("/parts/plan", files={"file": ("list.csv", b"\xff")}, data={"kind": "rotor"})
    assert bad.status_code == 422
    assert "list.csv: not readable as UTF-8" in bad.text


def test_files_go_out(client: TestClient) -> None:
    assert client.get("/parts/pad.csv").text.startswith("id,maker,model,price,mass_g,retired,figures,kind,shape")
    assert client.get("/parts/everything.json").json()["format"] == "clavis-parts"
    assert client.get("/parts/engine.csv").status_code == 404
    assert client.get("/parts/new/engine").status_code == 404


def test_a_mislabelled_packet_is_flagged_where_it_is_chosen(client: TestClient) -> None:
    flag = "the packet says +40, its sizes make +43: the sizes count"
    shelf = client.get("/parts", params={"kind": "adapter"}).text
    assert shelf.count(flag) == shelf.count('class="flagged"') == 1
    fit = client.get(f"/jobs/{TANDEM}/fit").text
    assert flag in fit  # both wheels of the tandem go from 160 to 203
    assert flag not in client.get("/jobs/5/fit").text


def test_pieces_on_the_shelf_are_counted_and_shown(client: TestClient) -> None:
    line = "/parts/line/b-load-203"
    assert client.post(f"{line}/stock", data={"pieces": "4"}).status_code == 303
    assert 'name="pieces" min="0" step="1" value="4"' in client.get(line).text
    build = told_at(client, "/jobs/7/build", view="parts")
    assert "Brindewal Load 203 1 28.00 4 on the shelf" in build  # two are needed and need not be ordered
    assert "Brindewal Load 203" not in client.get("/jobs/7/supplier").text
    for bad in ("-1", "many", "99999999"):
        assert client.post(f"{line}/stock", data={"pieces": bad}).status_code == 422
    assert client.post("/parts/line/no-such/stock", data={"pieces": "1"}).status_code == 404
