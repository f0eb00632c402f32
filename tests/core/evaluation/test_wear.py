"""Wear: by hand over one ride and over a year, and where it cannot be told."""

from dataclasses import replace

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.job.document import Ride
from clavis.core.parts.mounts import End
from clavis.core.physics.road import Section
from tests.bikes import CATALOGUE, own_job


def test_wear_by_hand_and_where_it_cannot_be_told() -> None:
    job = own_job()
    evaluation = evaluate(job, CATALOGUE, {})
    wheel = evaluation.setups["fitted"].wheels[End.FRONT]
    life = wear_life(wheel, job.parameters)
    energy = wheel.steps.energy_kj / 1000
    assert life.pad_mm_per_ride == pytest.approx(180 * energy / (2 * 330))
    assert life.pad_rides == pytest.approx(0.7 / life.pad_mm_per_ride)
    assert life.rotor_rides == pytest.approx((1.71 - 1.5) / life.rotor_mm_per_ride)
    assert life.pad_km == pytest.approx(life.pad_rides * 5.5, rel=1e-6)


def test_a_year_of_wear_by_hand() -> None:
    """Two rides, 30 and 4 times: every ride's energy at this wheel as often as it is ridden."""
    hill = own_job().rides[0].model_copy(update={"times_a_year": 30.0})
    wall = Ride(id="w", name="W", sections=(Section(length_m=3000, gradient_pct=18, speed_kmh=25),), times_a_year=4)
    job = own_job(rides=(hill, wall), decisive_ride=hill.id)
    found = evaluate(job, CATALOGUE, {})
    wheel = found.setups["fitted"].wheels[End.FRONT]
    rides = rides_of(job, found, {}, found.fitted)
    year = year_of_wear(wheel, rides, job.parameters)
    gentle, steep = (r.friction_kj[End.FRONT] / 1000 for r in rides)
    assert year.energy_mj == pytest.approx(30 * gentle + 4 * steep)
    # semi-metallic fades at 320 °C (docs/model.md, section 3): the wall passes it, so its wear counts half as much again
    assert rides[1].rotor_c[End.FRONT] > 320
    hot = 1.5 if rides[0].rotor_c[End.FRONT] > 320 else 1.0
    assert year.pad_mm == pytest.approx(180 * (hot * 30 * gentle + 1.5 * 4 * steep) / (2 * 330))
    assert year.pad_years == pytest.approx(0.7 / year.pad_mm)
    assert year.rotor_years == pytest.approx((1.71 - 1.5) / year.rotor_mm)
    idle = tuple(replace(r, ride=r.ride.model_copy(update={"times_a_year": 0.0})) for r in rides)
    assert year_of_wear(wheel, idle, job.parameters).pad_years is None


def test_wet_grit_wears_pads_three_times_as_fast() -> None:
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    dry, wet = (wear_life(wheel, job.parameters, w) for w in (False, True))
    assert wet.pad_mm_per_ride == pytest.approx(3 * dry.pad_mm_per_ride)
    assert wet.rotor_mm_per_ride == dry.rotor_mm_per_ride
