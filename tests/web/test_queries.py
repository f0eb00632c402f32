"""How many statements a page asks of the database, with seven jobs as with hundreds: a page that asks once for every row
would fail here."""

from pathlib import Path

import pytest
from sqlalchemy import event
from starlette.testclient import TestClient

from tests.conftest import browserlike
from tests.large_workshop import laid

MOST = {
    "/": 14, "/?search=tour": 16, "/?sort=worst&page=2": 14, "/?shown=handed_over": 14, "/board/rows?search=fn": 10,
    "/due": 14, "/due?fleet=Fleet+4": 15, "/due.csv": 4, "/bikes": 6, "/bikes?search=dray": 6, "/bikes/20": 14,
    "/jobs/8/keep": 30, "/jobs/40/choose": 26, "/jobs/40/intake": 26, "/jobs/40/history": 26, "/parts": 14,
}  # fmt: skip
"""statements of each page at the most"""


@pytest.fixture(scope="module")
def many(tmp_path_factory: pytest.TempPathFactory) -> TestClient:
    path: Path = laid(tmp_path_factory.mktemp("many") / "many.db", bikes_=60, jobs_=300, readings=16)
    return browserlike(path)


def statements(client: TestClient, address: str) -> int:
    asked: list[str] = []
    engine = client.app.state.engine
    listen = lambda *a: asked.append(a[2])  # noqa: E731
    event.listen(engine, "before_cursor_execute", listen)
    try:
        assert client.get(address).status_code == 200, address
    finally:
        event.remove(engine, "before_cursor_execute", listen)
    return len(asked)


def test_a_page_asks_the_same_of_a_large_workshop_as_of_a_small_one(many: TestClient, client: TestClient) -> None:
    client.app.state.rows.catch_up()
    asked: dict[str, tuple[int, int]] = {}
    for address, most in MOST.items():
        many.get(address)
        large = statements(many, address)
        assert large <= most, (address, large)
        small_address = address.replace("/40/", "/4/").replace("/bikes/20", "/bikes/3")
        client.get(small_address)
        asked[address] = large, statements(client, small_address)
    assert {address: counts for address, counts in asked.items() if abs(counts[0] - counts[1]) > 4} == {}
