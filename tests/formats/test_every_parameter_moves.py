"""Every starting value of the model moves some answer of some bike; none stands there for show."""

from functools import cache
from typing import Any

import pytest

from clavis.core.job.document import Job
from clavis.core.parameters import ModelParameters
from tests.bikes import own_job, with_value
from tests.formats.test_every_input_moves import figures

pytestmark = pytest.mark.long

CHANGES: tuple[dict[str, Any], ...] = (
    {},
    {"rider.hands": "small", "rider.fingers": 2, "rider.style": "pulse"},
    {"conditions.rain": True},
    {"front.caliper_id": "b-cable-one", "front.lever_id": "b-pull-short", "front.pad_id": "b-c1-semi"},
)
"""our own bike as it is; another hand that pulses; in the rain; a cable in front"""


def bikes() -> list[Job]:
    jobs = []
    for changes in CHANGES:
        job = own_job()
        for path, value in changes.items():
            job = with_value(job, path, value)
        jobs.append(job)
    return jobs


@cache
def before() -> list[dict[str, Any]]:
    return [figures(job) for job in bikes()]


@pytest.mark.parametrize("name", sorted(ModelParameters.model_fields))
def test_a_starting_value_moves_an_answer(name: str) -> None:
    value = getattr(own_job().parameters, name)
    # an effort that is comfortable for long is told where the hand is asked for more
    # and half of what every bicycle must reach is asked on a slope, where twice that is no less than on the flat
    other = {"finger_comfortable_n": 1.0, "two_finger_ratio": value * 1.2, "must_on_slope_ratio": 1.0}.get(
        name, value * 0.8
    )
    after = [figures(with_value(job, f"parameters.{name}", other)) for job in bikes()]
    moved = {key for old, new in zip(before(), after, strict=True) for key in new if new[key] != old.get(key)}
    assert moved
