"""The six bikes of docs/orders.md through the pages: read in as job files, their order on Build, in work mode, on paper."""

import re

import pytest
from starlette.testclient import TestClient

from tests.core.workshop.test_six_bikes import BIKES, written
from tests.web.build.test_gate import laid


@pytest.mark.parametrize("number", range(1, 7))
def test_every_page_has_the_order_as_it_was_written(client: TestClient, number: int) -> None:
    job = laid(client, BIKES[number - 1])
    steps = written()[number - 1]
    build = client.get(f"/jobs/{job}/build").text
    assert re.findall(r'id="step-(bike|front|rear)-([a-z_]+)"', build) == steps
    work = client.get(f"/jobs/{job}/work").text
    cards = re.findall(r'data-key="(bike|front|rear):([a-z_]+)"', work)
    assert cards == (steps if "data-do" in work else [])  # what must not be begun has no steps there
    paper = client.get(f"/jobs/{job}/papers/order").text
    assert paper.count('class="paper-step"') == len(steps)
    for end in ("front", "rear"):
        counted = client.get(f"/jobs/{job}/bedding/{end}").status_code
        assert counted == (200 if (end, "bed_in") in steps else 404)
