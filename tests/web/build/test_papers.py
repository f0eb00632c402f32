"""Quote and papers through the pages: minutes and hour, the customer's word, what is served."""

from io import BytesIO

import pytest
from pypdf import PdfReader
from starlette.testclient import TestClient

from tests.web.build.test_gate import finished
from tests.web.told import told_at

TANDEM, TOURER = 7, 2


def accept(client: TestClient, customer: str):
    data = {"customer": customer, "page": "p", "room": "build"}
    return client.post(f"/jobs/{TANDEM}/accepted", data=data)


@pytest.mark.parametrize("what", ["order", "quote", "handover"])
def test_each_paper_is_a_page_and_a_pdf(client: TestClient, what: str) -> None:
    page = client.get(f"/jobs/{TANDEM}/papers/{what}")
    assert page.status_code == 200
    assert "Workshop at the old lock" in page.text
    pdf = client.get(f"/jobs/{TANDEM}/papers/{what}.pdf?size=letter")
    assert (pdf.status_code, pdf.content[:5]) == (200, b"%PDF-")
    assert client.get(f"/jobs/{TOURER}/papers/{what}").status_code == 404  # nothing is proposed there
    assert client.get(f"/jobs/{TANDEM}/papers/poem").status_code == 422


def test_a_quote_names_a_step_cheaper_that_is(client: TestClient) -> None:
    page = told_at(client, f"/jobs/{TANDEM}/papers/quote")
    assert "One step cheaper, one step dearer" in page
    assert "cheaper front:" in page


def test_the_customers_word_stands_for_what_was_quoted(client: TestClient) -> None:
    assert accept(client, "Osric").status_code == 200
    assert "Accepted by Osric" in told_at(client, f"/jobs/{TANDEM}/build", view="papers")
    swap = {"end": "front", "axis": "pad", "part_id": "p-p4-semi", "page": "p", "base": 999}
    assert client.post(f"/jobs/{TANDEM}/swap", data=swap).status_code == 200
    page = told_at(client, f"/jobs/{TANDEM}/build", view="papers")
    assert "the order is another one since then; ask again" in page
    assert accept(client, "").status_code == 200
    assert "Accepted by" not in told_at(client, f"/jobs/{TANDEM}/build", view="papers")


def test_without_an_hour_there_is_no_sum_to_accept(client: TestClient) -> None:
    terms = {"name": "", "hour": ""}
    assert client.post("/rules/terms", data=terms).status_code == 303
    assert "price is not set" in told_at(client, f"/jobs/{TANDEM}/build", view="papers")
    assert accept(client, "Osric").status_code == 422


def test_minutes_of_the_workshop_make_its_labour(client: TestClient) -> None:
    def minutes() -> int:
        page = told_at(client, f"/jobs/{TANDEM}/build", view="papers")
        return int(page.split("work, ")[1].split()[0])

    before = minutes()
    assert client.post("/rules/terms", data={"hour": "80", "minutes.bed_in": "30"}).status_code == 303
    assert minutes() == before + 20  # ten more on either wheel
    assert 'value="30"' in client.get("/rules?table=steps").text
    letter = {"hour": "80", "minutes.bed_in": "30", "paper": "letter", "valid_days": "7"}
    assert client.post("/rules/terms", data=letter).status_code == 303
    pdf = client.get(f"/jobs/{TANDEM}/papers/order.pdf").content
    assert float(PdfReader(BytesIO(pdf)).pages[0].mediabox.width) == pytest.approx(612, abs=0.1)
    for bad in (
        {"paper": "napkin"},
        {"valid_days": "0"},
        {"minutes.bed_in": "soon"},
        {"minutes.bed_in": "-4"},
        {"hour": "a lot"},
        {"minutes.bed_in": "9999"},
    ):
        assert client.post("/rules/terms", data=bad).status_code == 422, bad
    assert minutes() == before + 20


def test_the_hand_over_is_there_once_the_order_is_signed_and_gone(client: TestClient) -> None:
    number = finished(client)
    assert f"/jobs/{number}/papers/handover" in client.get(f"/jobs/{number}/build").text
    page = told_at(client, f"/jobs/{number}/papers/handover")
    assert "Front: Ulvorn K2 Sinter." in page
    assert "Front: bedded in by Tess Bench." in page
    assert "pads new at 1.5 mm" in page
    assert client.get(f"/jobs/{number}/papers/order").status_code == 404
