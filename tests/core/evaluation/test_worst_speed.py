"""Worst speeds: the fluid's lies below the rotor's, the rotor's below the power's; steady steps keep their energy."""

import numpy as np
import pytest

from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.worst_speed import steady_steps, worst_speeds
from clavis.core.parts.mounts import End
from tests.bikes import CATALOGUE, own_job, with_value


def _found(gradient: float = 0.09, drop: float = 700.0, limit: float = 90.0, job=None, end=End.FRONT):
    evaluation = evaluate(job or own_job(), CATALOGUE, {})
    wheel = evaluation.setups[SetupName.FITTED].wheels[end]
    return worst_speeds(wheel, evaluation.situation, gradient, drop, 600.0, limit)


def test_the_order_of_the_three() -> None:
    found = _found()
    assert found.power_kmh is not None
    assert found.fluid_kmh is not None
    assert found.fluid_kmh < found.rotor_kmh < found.power_kmh


def test_moderate_speed_is_worse_than_fast() -> None:
    found = _found()
    assert found.rotor_worst_c > found.rotor_c[-1] + 40
    assert found.rotor_worst_c == pytest.approx(found.rotor_c.max())
    assert found.fluid_worst_c == pytest.approx(found.fluid_c.max())


def test_the_roads_limit_caps_all_three() -> None:
    found = _found(limit=14)
    assert found.speeds_kmh.max() <= 14
    assert found.power_kmh == 14
    assert found.rotor_kmh <= 14


def test_more_mass_and_more_drop_are_worse() -> None:
    heavy = _found(job=with_value(own_job(), "rider.mass_kg", 110.0))
    assert heavy.rotor_worst_c > _found().rotor_worst_c
    assert _found(drop=1200).fluid_worst_c > _found(drop=300).fluid_worst_c


def test_steady_steps_keep_time_way_and_energy() -> None:
    steps = steady_steps(500.0, 8.0, 4000.0, 95000.0)
    assert steps.time_s[-1] == pytest.approx(500)
    assert steps.distance_m[-1] == pytest.approx(4000)
    assert steps.energy_kj == pytest.approx(250)
    assert np.all(np.diff(steps.time_s) <= 10)


@pytest.mark.parametrize(("gradient", "drop"), [(0.0, 500), (3.0, 500), (-0.1, 500), (0.1, 0), (0.1, 9000)])
def test_slopes_that_are_none(gradient: float, drop: float) -> None:
    with pytest.raises(QuantityError):
        _found(gradient, drop)
