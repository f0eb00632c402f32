"""The supplier over HTTP: the stand-in as it is served, and every way in which a supplier fails."""

import socket
import threading
import time
from collections.abc import Iterator

import httpx
import pytest
import uvicorn

from clavis.supplier import http_supplier, stand_in
from clavis.supplier.http_supplier import HttpSupplier, supplier_at
from clavis.supplier.offers import Asked, SupplierError
from tests.bikes import CATALOGUE

PARTS = ("q-disc-203", "u-k2-resin")


@pytest.fixture(scope="module")
def shop() -> Iterator[tuple[stand_in.Shop, str]]:
    """The stand-in, served, with its address."""
    app = stand_in.create_shop(CATALOGUE.every())
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield app.state.shop, f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(5)


@pytest.fixture
def supplier(shop) -> Iterator[HttpSupplier]:
    shop[0].mode = stand_in.Mode.WELL
    yield supplier_at(shop[1], 0.4)
    shop[0].mode = stand_in.Mode.WELL


def test_it_offers_what_it_sells_and_nothing_else(supplier: HttpSupplier) -> None:
    offers = supplier.offers([*PARTS, "no-such-part"])
    assert set(offers) == set(PARTS)
    assert offers["q-disc-203"].price == CATALOGUE.rotors["q-disc-203"].price
    assert supplier.offers(PARTS) == supplier.offers(PARTS)


def test_the_same_reference_is_the_same_order(supplier: HttpSupplier, shop) -> None:
    lines = [Asked(part_id=part, pieces=2) for part in PARTS]
    first, again, other = (supplier.order(ref, lines) for ref in ("job-1-a", "job-1-a", "job-1-b"))
    assert first == again
    assert other.number != first.number
    assert {line.part_id for line in first.lines} == set(PARTS)
    with pytest.raises(SupplierError, match="refused"):
        supplier.order("job-2", [Asked(part_id="no-such-part", pieces=1)])


@pytest.mark.parametrize(
    ("mode", "why"), [("slow", "too long"), ("down", "out of order"), ("nonsense", "cannot be understood")]
)
def test_each_failure_is_told_for_what_it_is(supplier: HttpSupplier, shop, monkeypatch, mode, why) -> None:
    monkeypatch.setattr(stand_in, "SLOW_S", 1.0)
    shop[0].mode = stand_in.Mode(mode)
    with pytest.raises(SupplierError, match=why):
        supplier.offers(PARTS)


def test_out_of_stock_and_dearer_are_answers(supplier: HttpSupplier, shop) -> None:
    usual = supplier.offers(PARTS)
    shop[0].mode = stand_in.Mode.OUT_OF_STOCK
    assert {o.pieces for o in supplier.offers(PARTS).values()} == {0}
    shop[0].mode = stand_in.Mode.DEARER
    dearer = supplier.offers(PARTS)
    assert all(dearer[p].price == pytest.approx(usual[p].price * 1.08, abs=0.01) for p in PARTS)


def test_nobody_there_is_told_so() -> None:
    with pytest.raises(SupplierError, match="cannot be reached"):
        supplier_at("http://127.0.0.1:9", 0.5).offers(PARTS)


@pytest.mark.parametrize(
    ("body", "why"),
    [
        ({"number": "S-1", "lines": []}, "other parts"),
        ({"number": "S-1", "lines": [{"part_id": "x"}]}, "other parts"),
        ({"number": "", "lines": []}, "cannot be understood"),
        ({"lines": "all of it"}, "cannot be understood"),
        ({"number": "S-1", "lines": [], "padding": "x" * 1_100_000}, "too long to be one"),
    ],
)
def test_a_confirmation_that_is_none_is_not_believed(body, why) -> None:
    answers = httpx.MockTransport(lambda _request: httpx.Response(200, json=body))
    client = httpx.Client(transport=answers, base_url="http://supplier")
    with pytest.raises(SupplierError, match=why):
        HttpSupplier(client).order("job-1", [Asked(part_id="q-disc-203", pieces=1)])


def test_an_answer_without_end_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    """It is read as it comes: no more of it than an answer may have, packed or not, and not for ever."""
    given = 0

    def pieces():
        nonlocal given
        for _ in range(10_000):
            given += 1
            yield b"x" * 100_000

    def ask(answer: httpx.Response) -> None:
        client = httpx.Client(transport=httpx.MockTransport(lambda _request: answer), base_url="http://supplier")
        HttpSupplier(client).offers(["q-disc-203"])

    with pytest.raises(SupplierError, match="too long to be one"):
        ask(httpx.Response(200, content=pieces()))
    assert given < 20
    with pytest.raises(SupplierError, match="cannot be understood"):
        ask(httpx.Response(200, content=pieces(), headers={"content-encoding": "gzip"}))
    monkeypatch.setattr(http_supplier, "LONGEST_S", -1.0)
    with pytest.raises(SupplierError, match="too long to answer"):
        ask(httpx.Response(200, content=pieces()))
