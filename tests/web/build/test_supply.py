"""Parts of an order through the pages: set aside, ordered, arrived; and a supplier that fails leaves all usable."""

import csv
import io
import re
from collections.abc import Mapping, Sequence

import pytest
from starlette.testclient import TestClient

from clavis.store import jobs, shelf
from clavis.supplier.offers import Asked, Confirmed, SupplierError, SupplierOffer
from tests.web.told import told, told_at

TANDEM = 7


class Shop:
    """A supplier by the word: it answers as it is told to, and counts what it was asked."""

    def __init__(self, pieces: int | None = 9, dearer: float = 0.0, fails: str = "") -> None:
        self.pieces, self.dearer, self.fails = pieces, dearer, fails
        self.taken: dict[str, Confirmed] = {}

    def _offer(self, part_id: str) -> SupplierOffer:
        return SupplierOffer(part_id=part_id, price=28.0 + self.dearer, pieces=self.pieces, days=2)

    def offers(self, part_ids: Sequence[str]) -> Mapping[str, SupplierOffer]:
        if self.fails:
            raise SupplierError(self.fails)
        return {part: self._offer(part) for part in part_ids}

    def order(self, reference: str, lines: Sequence[Asked]) -> Confirmed:
        if self.fails:
            raise SupplierError(self.fails)
        offers = tuple(self._offer(line.part_id) for line in lines)
        return self.taken.setdefault(reference, Confirmed(number=f"S-{len(self.taken) + 1}", lines=offers))


def act(client: TestClient, what: str, **data: str):
    return client.post(f"/jobs/{TANDEM}/supply/{what}", data={"page": "p", "room": "build", **data})


def asked(client: TestClient) -> str:
    return told(client.get(f"/jobs/{TANDEM}/supplier"))


def test_from_the_shelf_to_the_supplier_to_the_bench(client: TestClient) -> None:
    shop = client.app.state.supplier = Shop()
    assert "pieces set aside" in told(act(client, "aside"))
    assert "Order 6 parts" in asked(client)
    assert "Ordered, number S-1" in told(act(client, "order"))
    assert len(shop.taken) == 1
    page = told_at(client, f"/jobs/{TANDEM}/build", view="parts")
    assert "Waits for Brindewal Load 203" in page
    assert "waits for Brindewal Load 203" in told_at(client, "/")
    assert "Nothing: what stands in the catalogue is in hand" in asked(client)
    assert act(client, "order").status_code == 422  # nothing is left to order
    for part in ("b-load-203", "p-four-1618", "p-arm-swing", "a-pp-160-203", "p-hose", "p-line-51"):
        act(client, "arrived", part_id=part)
    with client.app.state.sessions() as session:
        waiting = [p for p, s in shelf.supplied(session, TANDEM).items() if s.on_its_way]
    for part in waiting:
        assert act(client, "arrived", part_id=part).status_code == 200
    assert "Waits for" not in told_at(client, f"/jobs/{TANDEM}/build", view="parts")
    assert act(client, "arrived", part_id="b-load-203").status_code == 404


def test_what_an_order_needs_no_more_goes_back(client: TestClient) -> None:
    act(client, "aside")
    with client.app.state.sessions() as session:
        before = shelf.stock(session)["p-p4-sinter"]
    for end in ("front", "rear"):
        swap = {"end": end, "axis": "pad", "part_id": "p-p4-semi", "page": "p", "base": 999}
        assert client.post(f"/jobs/{TANDEM}/swap", data=swap).status_code == 200
    assert "Put back what is no longer needed" in told_at(client, f"/jobs/{TANDEM}/build", view="parts")
    assert "pieces laid back" in told(act(client, "back"))
    with client.app.state.sessions() as session:
        assert shelf.stock(session)["p-p4-sinter"] == before + 2


def test_no_name_of_an_order_is_a_formula(client: TestClient) -> None:
    """A maker and a model as somebody typed them, in a table that a spreadsheet opens."""
    with client.app.state.sessions() as session:  # type: ignore[attr-defined]
        catalogue = jobs.read_catalogue(session)
        for part in catalogue.every():
            jobs.keep_part(session, part.model_copy(update={"maker": "=1+1", "model": "@SUM(A1)"}))
        session.commit()
    rows = list(csv.DictReader(io.StringIO(client.get("/jobs/7/order.csv").text)))
    assert {(r["maker"], r["model"]) for r in rows} == {("'=1+1", "'@SUM(A1)")}


@pytest.mark.parametrize("why", ["the supplier cannot be reached", "the supplier takes too long to answer"])
def test_a_supplier_that_fails_leaves_the_order_usable(client: TestClient, why: str) -> None:
    client.app.state.supplier = Shop(fails=why)
    page = asked(client)
    assert f"{why.capitalize()}: the prices are the catalogue's, and what it has is not known" in page
    assert "not known" in page
    refused = act(client, "order")
    assert refused.status_code == 502
    assert f"No word that it was ordered: {why}. Pressed again it is the same order" in told(refused)
    assert "687.00" in told_at(client, f"/jobs/{TANDEM}/build", view="parts")
    assert client.post(f"/jobs/{TANDEM}/tick", data={"key": "bike:held", "page": "p"}).status_code == 200
    assert client.get(f"/jobs/{TANDEM}/order.csv").status_code == 200


def test_out_of_stock_and_a_price_that_changed_are_said(client: TestClient) -> None:
    client.app.state.supplier = Shop(pieces=0, dearer=3.0)
    page = asked(client)
    assert "none" in page
    assert "31.00 +3.00 since" in page
    client.app.state.supplier = Shop(pieces=None)
    assert "not known" in asked(client)


def test_without_a_supplier_the_catalogue_stands(client: TestClient) -> None:
    assert "No supplier is named" in asked(client)
    assert act(client, "order").status_code == 422


def test_the_order_is_a_file(client: TestClient) -> None:
    rows = list(csv.DictReader(io.StringIO(client.get(f"/jobs/{TANDEM}/order.csv").text)))
    assert {"part": "b-load-203", "maker": "Brindewal", "model": "Load 203", "pieces": "2", "price": "28.0"} in rows
    body = client.get(f"/jobs/{TANDEM}/order.json").json()
    assert [line["part"] for line in body["lines"]] == [row["part"] for row in rows]
    assert not any(row["part"].startswith("m6-") for row in rows)  # the shelf has those


def test_nobody_orders_what_must_not_be_begun(client: TestClient) -> None:
    client.app.state.supplier = Shop()
    data = {"path": "front.rotor_cracks", "value": "yes", "page": "p", "room": "measure", "base": 9999}
    keep = {"path": "proposal.front.rotor_id", "value": "", "page": "p", "room": "choose", "base": 9999}
    for change in (data, keep):
        assert client.post(f"/jobs/{TANDEM}/field", data=change).status_code == 200
    assert act(client, "order").status_code == 409


def test_what_else_would_do_is_taken_by_one_press(client: TestClient) -> None:
    client.app.state.supplier = Shop(pieces=0)
    assert "what else would do, front" in asked(client)
    piece = client.get(f"/jobs/{TANDEM}/instead/front/pad")
    assert "Use this one" in piece.text or "Nothing else of the catalogue" in piece.text
    rotors = client.get(f"/jobs/{TANDEM}/instead/front/rotor")
    assert "Use this one" in rotors.text
    part = re.search(r'"part_id":"([\w-]+)"', rotors.text)[1]
    swap = {"end": "front", "axis": "rotor", "part_id": part, "page": "p", "base": 999, "room": "build"}
    answer = client.post(f"/jobs/{TANDEM}/swap", data=swap)
    assert 'class="order"' in answer.text  # the page that is open is Build's
    assert client.get(f"/jobs/{TANDEM}/instead/front/wing").status_code == 422
