"""Infrared correction against an independent integration, and calibration against readings of a known truth."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.situation import situation_of
from clavis.core.parts.mounts import End
from clavis.core.physics.infrared import SURFACES, band_radiance, corrected, true_temperature_c
from clavis.core.workshop.calibration import HeatReading, calibrate, rotor_at_stop_c
from tests.bikes import CATALOGUE, own_job, with_value


def _planck(celsius: float) -> float:
    """8 to 14 µm by adaptive quadrature in SI units."""
    h, c, k, kelvin = 6.62607015e-34, 2.99792458e8, 1.380649e-23, celsius + 273.15
    return quad(
        lambda w: 2 * h * c**2 / w**5 / np.expm1(h * c / (w * k * kelvin)), 8e-6, 14e-6, epsabs=0, epsrel=1e-10
    )[0]


@pytest.mark.parametrize("celsius", [-20, 20, 100, 250, 400, 700])
def test_band_radiance_against_quadrature(celsius: float) -> None:
    assert band_radiance(celsius) == pytest.approx(_planck(celsius), rel=1e-4)


@given(st.floats(40, 600), st.floats(0.15, 1.0), st.floats(-10, 35))
def test_a_reading_made_by_the_law_is_worked_back(true_c: float, emissivity: float, around_c: float) -> None:
    seen = emissivity * band_radiance(true_c) + (1 - emissivity) * band_radiance(around_c)
    low, high = -50.0, 1500.0
    for _ in range(60):  # what an instrument set to 1 would show
        middle = 0.5 * (low + high)
        low, high = (middle, high) if band_radiance(middle) < seen else (low, middle)
    back = true_temperature_c(0.5 * (low + high), emissivity, around_c)
    assert back == pytest.approx(true_c, abs=0.5)


def test_bright_steel_reads_far_too_low_and_the_fourth_power_misses() -> None:
    read = 120.0
    true = true_temperature_c(read, 0.25, 20.0)
    assert true is not None
    assert true > 230
    t4 = (((read + 273.15) ** 4 - 0.75 * 293.15**4) / 0.25) ** 0.25 - 273.15
    assert abs(t4 - true) > 20


def test_readings_that_say_nothing_and_ranges() -> None:
    assert true_temperature_c(-55.0, 0.1, 40.0) is None
    found = corrected(150.0, SURFACES["bright"], 20.0)
    assert found.low_c < found.true_c < found.high_c
    paint = corrected(150.0, SURFACES["paint"], 20.0)
    assert paint.true_c == pytest.approx(153, abs=3)
    assert paint.high_c - paint.low_c < (found.high_c - found.low_c) / 10
    with pytest.raises(QuantityError, match="emissivity"):
        true_temperature_c(100, 0.0, 20)
    with pytest.raises(QuantityError, match="temperature"):
        band_radiance(5000)


JOB = own_job()
SITUATION = situation_of(JOB)
FITTED = evaluate(JOB, CATALOGUE, {}).setups[SetupName.FITTED]
SETUPS = {end: w.setup for end, w in FITTED.wheels.items()}
TIMES = (20, 45, 90, 180, 300)


def truth(
    convection: float, carrier: float, airflow: float, noise_k: float, seed: int
) -> tuple[list[HeatReading], float]:
    """Readings of a bike whose true parameters are not the model's; and the true rotor in front at the stop."""
    job = with_value(JOB, "parameters.convection_ratio", 1.1 * convection)
    job = with_value(job, "parameters.rotor_to_carrier_ratio", carrier)
    for name, base in (("airflow_front_ratio", 0.65), ("airflow_rear_ratio", 0.5)):
        job = with_value(job, f"parameters.{name}", base * airflow)
    from clavis.core.physics.heat import WornBrake, node_row, standing_course

    rng = np.random.default_rng(seed)
    situation, readings, at_stop = situation_of(job), [], 0.0
    for end, wheel in evaluate(job, CATALOGUE, {}).setups[SetupName.FITTED].wheels.items():
        s = wheel.setup
        row = node_row(
            WornBrake(s.rotor, s.thickness_mm, s.pad, s.material_mm, s.caliper, end),
            situation.bike.wheel_radius_m, wet=False, p=job.parameters,
        )  # fmt: skip
        clock, rotor = standing_course(row, wheel.steps, 15.0)
        at_stop = float(rotor[0]) if end is End.FRONT else at_stop
        readings += [
            HeatReading(end, t, float(np.interp(t, clock, rotor)) + rng.normal(0, noise_k), max(noise_k, 0.5))
            for t in TIMES
        ]
    return readings, at_stop


@settings(max_examples=6)
@given(st.floats(0.75, 1.35), st.floats(0.7, 1.4), st.floats(0.85, 1.15), st.integers(0, 99))
def test_calibration_brings_the_prediction_to_the_readings(convection, carrier, airflow, seed) -> None:
    readings, _ = truth(convection, carrier, airflow, 3.0, seed)
    found = calibrate(SITUATION, FITTED.load, SETUPS, readings)
    seen = np.array([r.rotor_c for r in readings])
    before = np.abs(np.array(found.predicted_before_c) - seen).max()
    after = np.abs(np.array(found.predicted_after_c) - seen).max()
    assert found.refused == ""
    assert after < max(0.5 * before, 10)
    assert all(e.posterior_sigma <= e.prior_sigma * 1.001 for e in found.estimates)


def test_the_rotor_at_the_stop_is_worked_back_within_its_doubt() -> None:
    readings, true = truth(0.8, 1.3, 0.9, 3.0, 5)
    late = [r for r in readings if r.after_stop_s >= 45]
    estimate, sigma = rotor_at_stop_c(SITUATION, FITTED.load, SETUPS, late, End.FRONT)
    uncalibrated = calibrate(SITUATION, FITTED.load, SETUPS, [HeatReading(End.FRONT, 0, true, 5)]).predicted_before_c[0]
    assert abs(estimate - true) < 2.5 * sigma + 2
    assert abs(estimate - true) < abs(uncalibrated - true)


def test_absurd_readings_are_refused() -> None:
    absurd = [HeatReading(End.FRONT, t, 700 - t, 3.0) for t in TIMES]
    assert calibrate(SITUATION, FITTED.load, SETUPS, absurd).refused
    jumping = [HeatReading(End.FRONT, t, 90 + 80 * (k % 2), 2.0) for k, t in enumerate(TIMES)]
    assert "contradict the model" in calibrate(SITUATION, FITTED.load, SETUPS, jumping).refused


def test_without_readings_or_parts_nothing_is_fitted() -> None:
    with pytest.raises(QuantityError, match="readings"):
        calibrate(SITUATION, FITTED.load, SETUPS, [])
    with pytest.raises(QuantityError, match="wheel"):
        calibrate(SITUATION, FITTED.load, {}, [HeatReading(End.REAR, 10, 90, 2)])
    for bad in ((-1, 90, 2), (10, 5000, 2), (10, 90, 0), (10, float("nan"), 2)):
        with pytest.raises(QuantityError):
            HeatReading(End.FRONT, *bad)


def test_what_was_learnt_goes_into_the_parameters() -> None:
    readings, _ = truth(0.75, 1.0, 1.0, 1.0, 8)
    found = calibrate(SITUATION, FITTED.load, SETUPS, readings)
    learnt = found.parameters(JOB.parameters)
    assert learnt.convection_ratio < JOB.parameters.convection_ratio
    assert learnt.pad_gap_mm == JOB.parameters.pad_gap_mm
