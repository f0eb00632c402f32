"""A few hundred odd requests at every route; ``make fuzz`` asks twenty thousand."""

import pytest
from starlette.testclient import TestClient

from tests.fuzz import routes_of, wrong_of


@pytest.mark.parametrize("seed", [101])
def test_no_odd_request_is_answered_by_a_fault(client: TestClient, seed: int) -> None:
    assert wrong_of(client, seed, 200) == []


def test_the_description_names_every_route_and_what_it_takes(client: TestClient) -> None:
    found = {(route.method, route.path): route for route in routes_of(client.app)}  # type: ignore[arg-type]
    assert len(found) > 150
    assert set(found["POST", "/jobs/{job_id}/field"].form) >= {"path", "value", "room"}
    assert found["POST", "/jobs/{job_id}/rides/file"].files == ("file",)
