"""Worst speeds: the fluid's lies below the rotor's, the rotor's below the power's; steady steps keep their energy."""

import numpy as np
import pytest

from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.worst_speed import (
    WorstSpeeds,
    at_speed,
    greatest_fall_m,
    speed_advice,
    speed_on,
    steady_steps,
    steepest_stretch,
    worst_on_ride,
    worst_speeds,
)
from clavis.core.parts.mounts import End
from clavis.core.physics.samples import LOAD
from tests.bikes import CATALOGUE, own_job, plain, with_value


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


def _ride(*parts: tuple[float, float]):
    """The load of a ride of sections, m and %."""
    sections = [{"length_m": m, "gradient_pct": pct, "speed_kmh": 30} for m, pct in parts]
    job = with_value(own_job(), "rides", [{"id": "descent", "name": "R", "sections": sections}])
    evaluation = evaluate(job, CATALOGUE, {})
    return evaluation, evaluation.fitted


def test_the_steepest_stretch_by_hand() -> None:
    """1,000 m of 4 %, 600 m of 12, 2,000 m of 2: over 500 m 12 %; over 1,000 m 600 of 12 and 400 of 4, 8.8 %."""
    _, setup = _ride((1000, 4), (600, 12), (2000, 2))
    half, whole = steepest_stretch(setup.load), steepest_stretch(setup.load, 1000.0)
    assert half.gradient == pytest.approx(0.12, abs=1e-3)
    assert 1000 <= half.from_m <= 1100
    assert half.to_m == half.from_m + 500
    assert whole.gradient == pytest.approx(0.088, abs=1e-3)
    assert whole.from_m == pytest.approx(600, abs=6)
    # a ride that is shorter is taken whole
    _, short = _ride(
        (300, 10),
    )
    assert steepest_stretch(short.load, 5000.0).to_m == pytest.approx(300)


def test_the_greatest_fall_takes_off_what_is_climbed_between() -> None:
    _, setup = _ride((1000, 8), (500, -4), (1000, 6), (1000, -9))
    by_hand = 79.75 - 19.98 + 59.89  # 1000 sin atan 0.08 and so on
    assert greatest_fall_m(setup.load) == pytest.approx(by_hand, abs=0.1)


@pytest.mark.parametrize("parts", [((4000, 1), (900, 14), (4000, 1)), ((2000, 6),), ((500, 3), (1500, 11), (500, 2))])
def test_the_worst_speed_is_no_cooler_than_the_ride(parts) -> None:
    """Flat kilometres around a steep one hid it in the mean of the whole."""
    evaluation, setup = _ride(*parts)
    wheel = setup.wheels[End.FRONT]
    _, found = worst_on_ride(wheel, evaluation.situation, setup.load, setup.demand)
    assert found.rotor_worst_c > wheel.heat.peak_c[1] - 1


@pytest.mark.parametrize(("gradient", "drop"), [(0.0, 500), (3.0, 500), (-0.1, 500), (0.1, 0), (0.1, 9000)])
def test_slopes_that_are_none(gradient: float, drop: float) -> None:
    with pytest.raises(QuantityError):
        _found(gradient, drop)


def test_the_present_speed_stands_beside_the_worst_with_what_is_cooler() -> None:
    speeds = np.arange(6.0, 62.0, 2.0)
    rotor = 400 - 0.2 * (speeds - 30) ** 2
    found = WorstSpeeds(0.1, 300.0, speeds, speeds * 0 + 900, rotor, rotor * 0.2, 40.0, 30.0, 400.0, 20.0, 80.0)
    assert at_speed(found, 31.0) == pytest.approx((rotor[12] + rotor[13]) / 2)
    assert "faster would be hotter" in plain(speed_advice(found, 15.0))
    assert "towards the worst would be hotter" in plain(speed_advice(found, 50.0))
    near = plain(speed_advice(found, 30.0))
    assert "slower is cooler, and faster where the road allows it" in near
    assert "400" in near
    assert "30" in near


def test_how_fast_a_stretch_is_ridden_is_its_length_over_its_time() -> None:
    stretch = steepest_stretch(LOAD, 300.0)
    inside = (LOAD.distance_m >= stretch.from_m) & (LOAD.distance_m <= stretch.to_m)
    slow, fast = LOAD.speed_ms[inside].min() * 3.6, LOAD.speed_ms[inside].max() * 3.6
    assert slow - 1e-6 <= speed_on(LOAD, stretch) <= fast + 1e-6
