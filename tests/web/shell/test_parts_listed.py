"""Parts to choose among: few are listed whole; of many those that can be meant, and the others by typing."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.job.resolved_wheel import ResolvedWheel, resolve_wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Pad
from clavis.core.parts.mounts import End
from clavis.demo.catalogue import demo_parts
from clavis.store import catalogue as shelf
from clavis.store.database import writing
from clavis.web.shell.job_fields import MOST_LISTED, OTHERS, parts_listed
from tests.bikes import own_job
from tests.web.told import told


def many_pads() -> list[Pad]:
    """A hundred of each pad of the demo, and the demo's own."""
    own = [p for p in demo_parts() if isinstance(p, Pad)]
    return [
        *own,
        *(p.model_copy(update={"id": f"{p.id}-{k}", "model": f"{p.model} lot {k}"}) for p in own for k in range(100)),
    ]


@pytest.fixture(scope="module")
def wheel_and_shelf() -> tuple[ResolvedWheel, Catalogue]:
    job = own_job()
    catalogue = Catalogue.of([*(p for p in demo_parts() if p.kind != "pad"), *many_pads()])
    return resolve_wheel(job, End.FRONT, catalogue), catalogue


def test_of_few_all_are_listed(wheel_and_shelf: tuple[ResolvedWheel, Catalogue]) -> None:
    wheel, catalogue = wheel_and_shelf
    listed = parts_listed("rotor", catalogue, None, wheel)
    assert {o.value for o in listed.options} == set(catalogue.rotors)
    assert listed.more == 0


def test_of_many_those_that_can_be_meant_come_first_and_the_chosen_one_is_there(
    wheel_and_shelf: tuple[ResolvedWheel, Catalogue],
) -> None:
    wheel, catalogue = wheel_and_shelf
    caliper = wheel.on_it.caliper
    assert caliper is not None
    goes = {p.id for p in catalogue.pads.values() if p.shape == caliper.pad_shape}
    odd = max(set(catalogue.pads) - goes)
    listed = parts_listed("pad", catalogue, odd, wheel)
    assert len(listed.options) == MOST_LISTED
    assert listed.more == len(catalogue.pads) - MOST_LISTED
    assert [o.value for o in listed.options if o.group == OTHERS][-1] == odd
    first = {o.value for o in listed.options if o.group != OTHERS}
    assert first <= goes
    assert len(first) == min(len(goes), MOST_LISTED - 1)


def test_of_many_those_with_every_word_are_found(wheel_and_shelf: tuple[ResolvedWheel, Catalogue]) -> None:
    wheel, catalogue = wheel_and_shelf
    one = next(iter(catalogue.pads.values()))
    named = {p.id for p in catalogue.pads.values() if "lot 77" in p.name.lower()}
    listed = parts_listed("pad", catalogue, one.id, wheel, "LOT 77")
    assert {o.value for o in listed.options} == named | {one.id}
    assert listed.more == 0
    assert not parts_listed("pad", catalogue, None, wheel, "no such thing").options


def test_measure_asks_for_a_word_where_there_are_many(client: TestClient) -> None:
    assert "data-find" not in client.get("/jobs/7/measure?place=pads").text
    with client.app.state.sessions() as session, writing(session):  # type: ignore[attr-defined]
        shelf.keep_all(session, many_pads(), "a test")
    page = client.get("/jobs/7/measure?place=pads").text
    boxes = re.findall(r'hx-get="(/jobs/7/listed/[^"]+)"', page)
    assert boxes == ["/jobs/7/listed/front.pad_id", "/jobs/7/listed/rear.pad_id"]
    assert "more: find by name or size" in page
    found = client.get(boxes[0], params={"typed": "lot 77"})
    assert "lot 77" in told(found)
    assert "lot 78" not in told(found)
    assert client.get("/jobs/7/listed/front.nothing").status_code == 404
    assert client.get("/jobs/7/listed/rider.mass_kg").status_code == 404  # names no part
