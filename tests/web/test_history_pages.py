"""The history in words, undo and redo by the buttons, another person's step, a moment brought back."""

import re

from starlette.testclient import TestClient

from tests.web.test_pages import TANDEM, exported, field
from tests.web.told import told, told_at


def press(client: TestClient, act: str, **form: str):
    here = {"hx-current-url": f"http://testserver/jobs/{TANDEM}/measure"}
    return client.post(f"/jobs/{TANDEM}/{act}", data={"page": "p"} | form, headers=here)


def named(client: TestClient, name: str) -> TestClient:
    other = TestClient(client.app, headers=client.headers, follow_redirects=False)
    other.cookies.set("clavis_who", name)
    return other


def test_steps_are_told_in_words_with_parts_by_name_and_units(client: TestClient) -> None:
    field(client, TANDEM, "front.rotor_id", "u-line-160")
    field(client, TANDEM, "rider.mass_kg", "82.5")
    field(client, TANDEM, "bike.assisted", "on")
    page = told_at(client, f"/jobs/{TANDEM}/history").replace("\u202f", " ").replace("\xa0", " ")
    assert "front: rotor: Quernmark Plain 180 → Ulvorn Line 160" in page
    assert "Rider's mass: 128 kg → 82.5 kg" in page or "→ 82.5 kg" in page
    assert "Assisted: no → yes" in page and "Tess Bench" in page
    client.cookies.set("clavis_units", "imperial")
    assert re.search(r"→ 18[12][.\d]* lb", told_at(client, f"/jobs/{TANDEM}/history").replace("\xa0", " "))


def test_undo_says_what_it_took_back_and_offers_redo(client: TestClient) -> None:
    field(client, TANDEM, "rider.mass_kg", "82.5")
    assert press(client, "undo").headers["hx-redirect"] == f"/jobs/{TANDEM}/measure"
    page = client.get(f"/jobs/{TANDEM}/measure")
    assert "Undone: Rider's mass" in told(page).replace("\xa0", " ") and "data-redo" in page.text
    assert "Undone" not in told_at(client, f"/jobs/{TANDEM}/measure")  # said once
    assert press(client, "redo").status_code == 200
    assert exported(client, TANDEM)["job"]["rider"]["mass_kg"] == 82.5
    assert "data-redo" not in client.get(f"/jobs/{TANDEM}/measure").text


def test_the_button_says_whose_step_it_would_take_back_and_asks(client: TestClient) -> None:
    rolf = named(client, "Rolf")
    field(rolf, TANDEM, "rider.mass_kg", "77")
    assert "Rolf’s" in client.get(f"/jobs/{TANDEM}/measure").text
    asked = press(client, "undo")
    assert asked.status_code == 409 and "The newest change is Rolf’s: Rider's mass" in told(asked)
    assert exported(client, TANDEM)["job"]["rider"]["mass_kg"] == 77
    assert press(client, "undo", anybodys="on").status_code == 200
    assert exported(client, TANDEM)["job"]["rider"]["mass_kg"] != 77
    assert "Undone, Rolf’s:" in told_at(client, f"/jobs/{TANDEM}/measure")


def test_any_moment_comes_back(client: TestClient) -> None:
    before = exported(client, TANDEM)["job"]
    field(client, TANDEM, "rider.mass_kg", "82.5")
    field(client, TANDEM, "front.rotor_id", "u-line-160")
    assert press(client, "restore/1").status_code == 200
    assert exported(client, TANDEM)["job"] == before
    assert "brought back to no. 1" in told_at(client, f"/jobs/{TANDEM}/history")
    assert press(client, "restore/99").status_code == 404
    assert press(client, "restore/0").status_code == 404
