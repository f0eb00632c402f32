"""A supplier's own table: its columns are guessed, said by a person, planned, and then taken."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.parts.models import Caliper, Rotor
from clavis.core.units import System
from clavis.store import catalogue as shelf
from clavis.web.parts.supplier import choices_of
from tests.web.told import told

TABLE = (
    "Article no;Brand;Description;Hub;Diameter;Weight;Net price;Stock\n"
    "4711-A;Northmere;Disc 180;6-bolt;180 mm;0,151 kg;23,40;7\n"
    "4711-B;Northmere;Disc 203;spline;203;188;31,00;0\n"
    "4711-C;Northmere;Disc 999;6-bolt;999;188;31;0\n"
    "4711-A;Northmere;Disc 180 again;6-bolt;180;151;23;1\n"
    "4711-D;Northmere;Disc 160;round;160;120;20;1\n"
    ";Northmere;;6-bolt;160;120;20;1\n"
)
SAID = {
    "col-id": "0", "col-maker": "1", "col-model": "2", "col-interface": "3", "col-diameter_mm": "4", "unit-diameter_mm": "mm",
    "col-mass_g": "5", "unit-mass_g": "g", "col-price": "6", "same-thickness_mm": "1.9", "same-construction": "one_piece",
    "kind": "rotor",
}  # fmt: skip


def sent(client: TestClient, path: str, text: str = TABLE, **said: str) -> str:
    answer = client.post(path, data=said, files={"file": ("list.csv", text.encode())})
    assert answer.status_code == 200, answer.text
    return told(answer) if not answer.headers.get("hx-redirect") else answer.headers["hx-redirect"]


def test_columns_are_guessed_from_the_headings() -> None:
    headings = TABLE.splitlines()[0].split(";")
    guess = {c.name: headings[c.guess] for c in choices_of("rotor", headings, System.METRIC) if c.guess is not None}
    assert guess == {
        "id": "Article no", "maker": "Brand", "model": "Description", "interface": "Hub", "diameter_mm": "Diameter",
        "mass_g": "Weight", "price": "Net price",
    }  # fmt: skip


def test_the_unit_in_a_heading_is_the_columns() -> None:
    by_name = {c.name: c for c in choices_of("rotor", ("Name", "Weight (kg)", "Size"), System.METRIC)}
    assert (by_name["mass_g"].unit, by_name["diameter_mm"].unit) == ("kg", "mm")


def test_a_strange_table_asks_for_its_columns_and_keeps_nothing(client: TestClient) -> None:
    page = sent(client, "/parts/plan", kind="rotor")
    assert "list.csv: which column holds what?" in page and "Diameter, needed" in page and "Northmere" in page
    with client.app.state.sessions() as session:
        assert not [n for n in shelf.uses(session) if n.startswith("4711")]


def test_planned_with_every_bad_row_and_then_taken(client: TestClient) -> None:
    page = sent(client, "/parts/columns", **SAID)
    assert "2 new, 0 changed, 0 as they are, 4 bad" in page
    assert re.search(r"line 4 4711-C Diameter: ", page)
    assert "the file has this part number twice" in page
    assert "line 6 4711-D Hub" in page and "“round” is not possible; allowed is six-bolt" in page
    assert "Model: nothing is not possible" in page
    assert sent(client, "/parts/columns/take", **SAID) == "/parts?kind=rotor"
    with client.app.state.sessions() as session:
        small, big = (shelf.find(session, number)[0] for number in ("4711-a", "4711-b"))
    assert isinstance(small, Rotor) and isinstance(big, Rotor)
    assert (small.diameter_mm, small.mass_g, small.price, small.thickness_mm) == (180, 151, 23.4, 1.9)
    assert (small.interface.value, big.interface.value, big.diameter_mm) == ("six_bolt", "splined", 203)
    assert small.minimum_mm is None and small.figures.value == "typical"
    again = sent(client, "/parts/columns", **SAID)
    assert "0 new, 0 changed, 2 as they are" in again


def test_what_no_column_holds_is_of_the_part_most_like_it(client: TestClient) -> None:
    text = "Name;Line;Pads\nFour stopper;mineral;K4\nCable one;cable;K1\n"
    said = {
        "kind": "caliper", "col-model": "0", "col-fluid": "1", "col-pad_shape": "2", "same-mount": "post",
        "same-maker": "Northmere",
    }  # fmt: skip
    assert "2 new" in sent(client, "/parts/columns", text, **said)
    sent(client, "/parts/columns/take", text, **said)
    with client.app.state.sessions() as session:
        cable = shelf.find(session, "northmere-cable-one")[0]
        wet = shelf.find(session, "northmere-four-stopper")[0]
    assert isinstance(cable, Caliper) and isinstance(wet, Caliper)
    assert cable.arm_ratio is not None and not cable.bores_mm and wet.bores_mm and wet.pad_shape == "K4"


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"\xff\xfe;1;2\nx;y;z", "not readable as UTF-8"),
        (b"one;two\n" + b"a;b\n" * 2, "which column holds what?"),
        (b"", ""),
    ],
)
def test_what_is_no_table_is_said(client: TestClient, data: bytes, said: str) -> None:
    answer = client.post("/parts/plan", data={"kind": "rotor"}, files={"file": ("x.csv", data)})
    assert answer.status_code in (200, 422) and said in told(answer)


def test_our_own_file_is_planned_at_once(client: TestClient) -> None:
    answer = client.get("/parts/rotor.csv")
    page = sent(client, "/parts/plan", answer.text, kind="rotor")
    assert "0 new, 0 changed" in page and "which column" not in page
