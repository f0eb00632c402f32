"""Wear: by hand over one ride and over a year, and where it cannot be told."""

from dataclasses import replace

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.job.document import Grit, Ride
from clavis.core.parts.mounts import End
from clavis.core.physics.road import Section
from tests.bikes import CATALOGUE, own_job, with_value


def test_wear_by_hand_and_where_it_cannot_be_told() -> None:
    job = own_job()
    evaluation = evaluate(job, CATALOGUE, {})
    wheel = evaluation.setups["fitted"].wheels[End.FRONT]
    life = wear_life(wheel, job.ride, job.parameters)
    energy = wheel.steps.energy_kj / 1000
    assert life.pad_mm_per_ride == pytest.approx(180 * energy / (2 * 330))
    assert life.pad_rides == pytest.approx(0.7 / life.pad_mm_per_ride)
    assert life.rotor_rides == pytest.approx((1.71 - 1.5) / life.rotor_mm_per_ride)


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
    # semi-metallic fades at 320 °C (docs/model.md, section 3): what the wall brakes above it wears half as much again
    assert rides[1].rotor_c[End.FRONT] > 320
    slow, hot = (r.hot_kj[End.FRONT] / 1000 for r in rides)
    assert 0 < hot < steep
    assert year.pad_mm == pytest.approx(180 * (30 * (gentle + 0.5 * slow) + 4 * (steep + 0.5 * hot)) / (2 * 330))
    assert year.pad_years == pytest.approx(0.7 / year.pad_mm)
    assert year.rotor_years == pytest.approx((1.71 - 1.5) / year.rotor_mm)
    idle = tuple(replace(r, ride=r.ride.model_copy(update={"times_a_year": 0.0})) for r in rides)
    assert year_of_wear(wheel, idle, job.parameters).pad_years is None


def test_wet_grit_is_the_rides_not_the_surfaces() -> None:
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    none, some, much = (wear_life(wheel, job.ride.model_copy(update={"grit": g}), job.parameters) for g in Grit)
    assert some.pad_mm_per_ride == pytest.approx(2 * none.pad_mm_per_ride)
    assert much.pad_mm_per_ride == pytest.approx(4 * none.pad_mm_per_ride)
    assert much.rotor_mm_per_ride == none.rotor_mm_per_ride
    rain = with_value(job, "conditions.rain", True)
    wet = evaluate(rain, CATALOGUE, {}).fitted.wheels[End.FRONT]
    per_kj = [wear_life(w, job.ride, job.parameters).pad_mm_per_ride / w.steps.energy_kj for w in (wheel, wet)]
    assert per_kj[1] == pytest.approx(per_kj[0])


def test_wear_goes_up_with_the_energy_above_fade_onset_alone() -> None:
    """No jump where the peak passes the onset: the steeper the slope, the more of the energy counts half again."""
    ratios = []
    for gradient in np.linspace(16, 24, 33):
        wall = Ride(id="w", name="W", sections=(Section(length_m=700, gradient_pct=float(gradient), speed_kmh=25),))
        job = own_job(rides=(wall,), decisive_ride="w")
        wheel = evaluate(job, CATALOGUE, {}).fitted.wheels[End.FRONT]
        ratios.append(wear_life(wheel, wall, job.parameters).pad_mm_per_ride / wheel.steps.energy_kj)
    growth = np.diff(ratios) / ratios[0]
    assert growth.min() > -1e-9
    assert growth.max() < 0.10
    assert ratios[-1] > 1.2 * ratios[0]
