"""A ride moment by moment: by hand at single places, and against what is told of the whole ride."""

from dataclasses import replace

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import SetupName, boil_distance_m, evaluate
from clavis.core.evaluation.moments import (
    Mark,
    first_failing,
    marks_of,
    moments_of,
    places_of,
)
from clavis.core.parameters import GRAVITY_MS2
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import dry_mu
from clavis.core.physics.heat import Node
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, own_job, with_value
from tests.generated import DEMO_JOBS, TRACKS


def ridden(job):
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    setup, situation = evaluation.setups[SetupName.FITTED], evaluation.situation
    places = places_of(job, situation, setup.load, setup.wheels.values())
    return setup, situation, places, {end: moments_of(w, places, situation) for end, w in setup.wheels.items()}


RIDDEN = [(job, *ridden(job)) for job in DEMO_JOBS if (e := evaluate(job, CATALOGUE, TRACKS)).fitted and e.fitted.load]


def test_a_stop_begun_at_one_place_by_hand() -> None:
    """Force over gain and the mean of friction while the rotor warms, 1/mean(1/μ), in 32 parts."""
    job = own_job()
    setup, situation, places, moments = ridden(job)
    w, found = setup.wheels[End.FRONT], moments[End.FRONT]
    k = int(np.nanargmax(np.where(np.isfinite(found.stop_finger_n), places.speed_ms, np.nan)))
    stop = places.stops[k]
    bike, theta = situation.bike, np.arctan(places.gradient[k])
    force = bike.rolling_mass_kg * (stop.decel_ms2 + GRAVITY_MS2 * np.sin(theta))
    weight = bike.mass_kg * GRAVITY_MS2 * np.cos(theta)
    front = (weight * bike.rear_to_cg_m + force * bike.cg_height_m) / bike.wheelbase_m / weight
    row = COMPOUNDS[w.setup.pad.compound]
    rise = w.rotor_share * stop.wheel_energy_j[End.FRONT] / w.node("rotor_capacity")
    rotor_c = np.interp(places.at_m[k], w.heat.distance_m, w.heat.course_c[:, Node.ROTOR])
    mu = 1 / np.mean(1 / dry_mu(row, rotor_c + rise * (np.arange(32) + 0.5) / 32))
    state = w.forces.mu_work / row.mu_work
    finger = force * min(front, 1.0) / (w.link.gain_per_mu * mu * state)
    assert found.stop_finger_n[k] == pytest.approx(finger, rel=1e-6)
    assert found.above[k] == pytest.approx(situation.hand.greatest_n / finger - 1, rel=1e-6)


@pytest.mark.parametrize("job, setup, situation, places, moments", RIDDEN, ids=[r[0].title for r in RIDDEN])
def test_what_is_told_of_a_moment_is_what_is_told_of_the_ride(job, setup, situation, places, moments) -> None:
    for end, w in setup.wheels.items():
        found = moments[end]
        assert np.nanmax(found.node_c[:, Node.ROTOR]) == pytest.approx(w.heat.peak_c[Node.ROTOR], abs=0.5)
        at = places.nearest(w.heat.peak_at_m[Node.ROTOR])
        assert found.node_c[at, Node.ROTOR] == pytest.approx(w.heat.peak_c[Node.ROTOR], abs=0.5)
        boils_at_m = boil_distance_m(w.heat, w.boiling)
        if boils_at_m is None:
            assert np.isnan(found.boils_in_m).all()
        else:
            ahead = places.at_m < boils_at_m
            assert found.boils_in_m[ahead] == pytest.approx(boils_at_m - places.at_m[ahead])
            assert (found.boils_in_m[~ahead] == 0).all()
        if w.heat.fluid_peak_c is None:
            assert np.isnan(found.node_c[:, Node.FLUID]).all()


@pytest.mark.parametrize("job, setup, situation, places, moments", RIDDEN, ids=[r[0].title for r in RIDDEN])
def test_a_first_failing_moment_is_marked_where_a_limit_of_the_ride_fails(job, setup, situation, places, moments):
    for w in setup.wheels.values():
        fails = {m.key for m in w.margins if m.verdict is Verdict.FAILS}
        boils_riding = boil_distance_m(w.heat, w.boiling) is not None  # after the stop it may still boil
        told = first_failing(w)
        assert (told is not None) == bool(fails & {"rotor", "fade", "sandwich"} or boils_riding)
        if told is not None:
            assert 0 <= told.at_m <= places.at_m[-1]
            assert told.at_m in places.at_m
    marks = marks_of(setup.wheels, moments, places)
    for end in setup.wheels:
        own = {m.mark: m for m in marks if m.end is end}
        assert Mark.HOTTEST in own
        if Mark.WEAKEST in own:
            k = places.nearest(own[Mark.WEAKEST].at_m)
            assert moments[end].above[k] == np.nanmin(moments[end].above)


def test_a_hotter_brake_asks_more_of_the_finger_and_water_more_again() -> None:
    def finger(job):
        _, _, places, moments = ridden(job)
        k = places.nearest(places.at_m[-1] * 0.6)
        return moments[End.FRONT].stop_finger_n[k]

    steep = with_value(own_job(), "rides.descent.sections.1.gradient_pct", 14.0)
    assert finger(with_value(steep, "rider.mass_kg", 110.0)) > finger(steep)
    own = own_job()
    setup, situation, places, moments = ridden(own)
    w = setup.wheels[End.FRONT]
    wet = moments_of(w, places, replace(situation, wet=True))
    cold = moments[End.FRONT].node_c[:, Node.ROTOR] < 80
    assert (wet.mu[cold] < moments[End.FRONT].mu[cold]).all()
    assert wet.mu[~cold] == pytest.approx(moments[End.FRONT].mu[~cold])
