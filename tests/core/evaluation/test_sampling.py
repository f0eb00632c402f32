"""How sure: draws have the width they claim, the cube is a Latin one, bands hold the figure, chances behave."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.margins import Peaks, demand_of, fixed_of, judge, pad_friction, wheel_ride
from clavis.core.evaluation.sampling import (
    FRICTION_COLUMNS,
    Drawn,
    certainty,
    draw,
    draws_of,
    hypercube,
    sampled_rows,
    standard_error,
)
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import load_of_ride, situation_of
from clavis.core.evaluation.wear import wear_life, wear_mm
from clavis.core.evaluation.wheel_cases import mountings_of, wheel_case
from clavis.core.parameters import DOUBTS, NOMINAL, ModelParameters, Spread
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import heat_steps
from clavis.core.physics.heat import Node, heat_of
from clavis.core.verdicts import Verdict, worst
from clavis.demo.world import folding
from tests.bikes import CATALOGUE, own_job, with_value


@given(st.integers(2, 200), st.integers(1, 12), st.integers(0, 10_000))
def test_every_stratum_of_every_column_is_hit_once(samples: int, columns: int, seed: int) -> None:
    cube = hypercube(samples, columns, seed)
    assert cube.shape == (samples, columns)
    for k in range(columns):
        assert sorted((cube[:, k] * samples).astype(int)) == list(range(samples))


@pytest.mark.parametrize("doubt", DOUBTS, ids=lambda d: d.key)
def test_ninety_percent_lie_within_the_half_width(doubt) -> None:
    value = getattr(ModelParameters(), doubt.key, NOMINAL.get(doubt.key, 1.0))
    drawn = draw(doubt, value, (np.arange(20000) + 0.5) / 20000)
    low, middle, high = np.percentile(drawn, (5, 50, 95))
    assert middle == pytest.approx(value, rel=0.02, abs=1e-3)
    if doubt.spread is Spread.LOGNORMAL:
        assert high == pytest.approx(value * (1 + doubt.half_width), rel=0.01)
        assert low == pytest.approx(value / (1 + doubt.half_width), rel=0.01)
    else:
        assert high - low == pytest.approx(2 * doubt.half_width, rel=0.05)
        assert drawn.min() >= doubt.low
        assert drawn.max() <= doubt.high


def _wheel(job=None, end=End.FRONT):
    job = job or own_job()
    evaluation = evaluate(job, CATALOGUE, {})
    setup = evaluation.setups[SetupName.FITTED]
    assert evaluation.situation is not None
    return job, evaluation.situation, setup, setup.wheels[end]


def sure(job, situation, setup, wheel, draws):
    return certainty(wheel, Drawn(job, situation, setup.load, setup.demand, draws))


def test_the_same_seed_says_the_same_another_nearly() -> None:
    job, situation, setup, wheel = _wheel()
    once, again, other = (
        sure(job, situation, setup, wheel, draws_of(situation.parameters, seed)) for seed in (1, 1, 2)
    )
    assert once == again
    assert once != other
    assert once.bands["rotor_peak_c"].middle == pytest.approx(other.bands["rotor_peak_c"].middle, rel=0.05)


def test_bands_hold_the_figure_and_have_a_plausible_width() -> None:
    job, situation, setup, wheel = _wheel()
    found = sure(job, situation, setup, wheel, draws_of(situation.parameters, 3))
    for name, figure in (
        ("rotor_peak_c", wheel.heat.peak_c[Node.ROTOR]),
        ("fluid_peak_c", wheel.heat.fluid_peak_c),
        ("finger_target_n", wheel.forces.finger_target_n),
        ("lever_travel_mm", wheel.forces.travel.total_mm),
    ):
        band = found.bands[name]
        assert band.low < figure < band.high, name
    rise = wheel.heat.peak_c[Node.ROTOR] - situation.weather.ambient_c
    own, band = found.own_bands["rotor_peak_c"], found.bands["rotor_peak_c"]
    assert 0.1 * rise < own.high - own.low < 0.6 * rise
    # the greatest finger force is the rider's: the brake's own doubt knows nothing of it
    reserve, by_brake = found.bands["reserve_ratio"], found.own_bands["reserve_ratio"]
    assert reserve.high - reserve.low > 1.5 * (by_brake.high - by_brake.low)
    assert band.high - band.low > own.high - own.low


def test_draws_as_stated_are_the_wheel_itself() -> None:
    """Every draw at its stated value: the figures of the sheet, through the same arithmetic."""
    for job in (
        own_job(),
        with_value(own_job(), "rider.style", "pulse"),
        with_value(own_job(), "conditions.rain", True),
    ):
        _, situation, setup, wheel = _wheel(job)
        draws = draws_of(situation.parameters, 3, 4)
        stated = {d.key: getattr(situation.parameters, d.key, NOMINAL.get(d.key, 1.0)) for d in DOUBTS}
        same = replace(draws, by_key={key: np.full(draws.all, value) for key, value in stated.items()})
        found = sure(job, situation, setup, wheel, same)
        figures = {
            "rotor_peak_c": wheel.heat.peak_c[Node.ROTOR], "fluid_peak_c": wheel.heat.fluid_peak_c,
            "finger_target_n": wheel.forces.finger_target_n, "finger_lock_n": wheel.forces.finger_lock_n,
            "reserve_ratio": wheel.forces.reserve, "usable_n": wheel.forces.usable_n,
            "lever_travel_mm": wheel.forces.travel.total_mm,
            "pad_wear_mm": wear_life(wheel, job.ride, job.parameters).pad_mm_per_ride,
        }  # fmt: skip
        for name, value in figures.items():
            assert found.bands[name].middle == pytest.approx(value, rel=1e-6), name
        assert found.chances[worst(m.verdict for m in wheel.margins)] == 1
        for m in wheel.margins:
            assert found.margin_chances[m.key][m.verdict] == 1


@pytest.mark.parametrize("key", [d.key for d in DOUBTS if d.key not in (
    "cable_efficiency_ratio", "airflow_rear_ratio", "friction_rear", "finger_comfortable_n", "slide_of_peak_grip_ratio",
)])  # fmt: skip
def test_every_doubt_opens_some_band(key: str) -> None:
    """One doubt alone against none: some band opens. (Where pitch-over limits, grip opens none: it is asked on gravel.)"""
    job, situation, setup, wheel = _wheel(with_value(own_job(), "conditions.surface", "gravel"))
    draws = draws_of(situation.parameters, 3, 32, own=False)
    stated = {d.key: getattr(situation.parameters, d.key, NOMINAL.get(d.key, 1.0)) for d in DOUBTS}
    none = {k: np.full(draws.all, value) for k, value in stated.items()}
    alone = sure(job, situation, setup, wheel, replace(draws, by_key=none | {key: draws.by_key[key]}))
    widths = {name: band.high - band.low for name, band in alone.bands.items()}
    assert max(width / max(abs(alone.bands[name].middle), 0.01) for name, width in widths.items()) > 3e-4


def test_more_doubt_is_never_a_narrower_band() -> None:
    """Doubts put in one after the other, in their order: with 512 draws no band narrows by more than chance allows."""
    job, situation, setup, wheel = _wheel()
    draws = draws_of(situation.parameters, 5, 512, own=False)
    stated = {d.key: getattr(situation.parameters, d.key, NOMINAL.get(d.key, 1.0)) for d in DOUBTS}
    by_key = {k: np.full(draws.all, value) for k, value in stated.items()}
    before: dict[str, float] = {}
    for doubt in DOUBTS:
        by_key = by_key | {doubt.key: draws.by_key[doubt.key]}
        bands = sure(job, situation, setup, wheel, replace(draws, by_key=by_key)).bands
        widths = {name: band.high - band.low for name, band in bands.items()}
        for name, width in before.items():
            assert widths[name] >= 0.93 * width - 1e-9, (doubt.key, name)
        before = widths


COVERED = ("rotor_peak_c", "fluid_peak_c", "finger_target_n", "reserve_ratio", "lever_travel_mm", "pad_wear_mm")


def test_eight_of_ten_hidden_truths_lie_within_the_bands() -> None:
    """Bikes and riders with hidden truths of every noted doubt, computed one by one from their own entries, not by the
    sampling: of each figure 75 to 85 % lie within the band told beforehand."""
    truths = 240
    job, situation, setup, wheel = _wheel()
    told = sure(job, situation, setup, wheel, draws_of(situation.parameters, 1, 512)).bands
    rng = np.random.default_rng(2026)
    hidden = {
        d.key: draw(d, getattr(situation.parameters, d.key, NOMINAL.get(d.key, 1.0)), rng.random(truths))
        for d in DOUBTS
    }
    inside = dict.fromkeys(COVERED, 0)
    for k in range(truths):
        true = _true_figures(job, {key: float(values[k]) for key, values in hidden.items()})
        for name in COVERED:
            inside[name] += told[name].low <= true[name] <= told[name].high
    for name, count in inside.items():
        assert 0.75 <= count / truths <= 0.85, (name, count / truths)


def _true_figures(job, truth: dict[str, float]) -> dict[str, float]:
    """What one bike and rider come to whose every doubtful value is known: the job entered with those values."""
    stated = situation_of(job)
    names = ModelParameters.model_fields.keys() & truth.keys()
    parameters = job.parameters.model_copy(update={name: truth[name] for name in names})
    faster = tuple(s.model_copy(update={"speed_kmh": s.speed_kmh * truth["speed"]}) for s in job.ride.sections)
    ride = job.ride.model_copy(update={"sections": faster})
    mass = truth["mass"]
    share = 100 * (stated.sharing.front_share + truth["front_share"])
    bike = job.bike.model_copy(update={
        "mass_kg": stated.sources["mass_kg"].value * mass,
        "drag_area_m2": stated.bike.drag_area_m2 * truth["drag_area"],
        "top_speed_kmh": job.bike.top_speed_kmh and job.bike.top_speed_kmh * truth["speed"],
    })  # fmt: skip
    rider = job.rider.model_copy(update={
        "mass_kg": job.rider.mass_kg * mass, "kit_mass_kg": (job.rider.kit_mass_kg or 0.0) * mass,
        "front_share_pct": min(max(share, 0.0), 100.0),
    })  # fmt: skip
    load = job.load.model_copy(update={"luggage_kg": (job.load.luggage_kg or 0.0) * mass})
    true = job.model_copy(
        update={"bike": bike, "rider": rider, "load": load, "rides": (ride,), "parameters": parameters}
    )
    mounting = mountings_of(true, CATALOGUE)[End.FRONT]
    situation = situation_of(true)
    situation = replace(situation, grip=situation.grip * truth["grip"])
    setup = wheel_case(mounting, None).setup
    braked = load_of_ride(ride, {}, situation)
    demand = demand_of(true, situation, braked)
    steps = heat_steps(braked, situation.sharing, End.FRONT)
    nodes = row_of(setup, situation)
    nodes[list(FRICTION_COLUMNS)] *= truth["friction_front"]
    heat = heat_of(nodes[None], steps, situation.weather.ambient_c)[0]
    peaks = Peaks(heat.peak_c[Node.ROTOR], heat.peak_c[Node.CARRIER], heat.fluid_peak_c, heat.least_mu_per_n)
    asked = wheel_ride(situation.bike, demand, End.FRONT, 0.0, braked)
    fixed = fixed_of(setup, situation, asked.ends_at_m)
    friction = pad_friction(fixed, situation, asked, peaks, truth["friction_front"])
    forces = judge(fixed, situation, asked, peaks, friction).forces
    return {
        "rotor_peak_c": peaks.rotor_c, "fluid_peak_c": peaks.fluid_c, "finger_target_n": forces.finger_target_n,
        "reserve_ratio": forces.reserve, "lever_travel_mm": forces.travel.total_mm,
        "pad_wear_mm": wear_mm(setup, steps.energy_kj, heat.hot_kj, ride.grit, parameters)[0],
    }  # fmt: skip


def test_chances_add_up_and_follow_the_margin() -> None:
    job, situation, setup, wheel = _wheel()
    draws = draws_of(situation.parameters, 3)
    found = sure(job, situation, setup, wheel, draws)
    assert sum(found.chances.values()) == pytest.approx(1)
    for chances in found.margin_chances.values():
        assert sum(chances.values()) == pytest.approx(1)
    hotter = with_value(job, "rides.descent.sections.1.gradient_pct", 15.0)
    _, hot_situation, hot_setup, hot_wheel = _wheel(hotter)
    worse = sure(hotter, hot_situation, hot_setup, hot_wheel, draws)
    assert worse.margin_chances["rotor"][Verdict.FAILS] > found.margin_chances["rotor"][Verdict.FAILS]


def test_an_unknown_margin_stays_unknown_in_every_draw() -> None:
    job = with_value(own_job(), "front.fluid_boils_c", None)
    _, situation, setup, wheel = _wheel(job)
    found = sure(job, situation, setup, wheel, draws_of(situation.parameters, 3, 16))
    assert found.margin_chances["boil"][Verdict.UNKNOWN] == 1
    assert found.holds_of_ten == 0


def test_what_nobody_knows_about_the_wheel_is_unknown_in_every_draw() -> None:
    job = with_value(own_job(), "front.max_rotor_mm", None)
    _, situation, setup, wheel = _wheel(job)
    found = sure(job, situation, setup, wheel, draws_of(situation.parameters, 3, 16))
    assert found.holds_of_ten == 0
    assert found.chances[Verdict.UNKNOWN] + found.chances[Verdict.FAILS] == 1


def test_only_what_is_doubtful_is_drawn() -> None:
    _, situation, _, wheel = _wheel()
    rows = sampled_rows(wheel, situation, draws_of(situation.parameters, 3, 32))
    from clavis.core.physics import heat_kernel

    moved = {name for k, name in enumerate(heat_kernel.COLUMNS) if np.ptp(rows[:, k]) > 1e-12}
    assert moved == {
        "convection_ratio", "airflow_ratio", "still_air", "rotor_emissivity", "rotor_to_carrier", "mu_cold",
        "mu_rise_per_k", "mu_fall", "mu_slope_per_k", "mu_floor", "rotor_capacity", "rotor_area", "carrier_capacity",
        "carrier_area", "rotor_share", "rotor_to_surface_on", "caliper_to_fluid",
    }  # fmt: skip


def test_the_chances_own_doubt_by_hand() -> None:
    assert standard_error(0.5, 100) == pytest.approx(0.05)
    assert standard_error(1.0, 128) == 0


def test_the_fluid_has_peaked_within_the_time_the_candidates_are_given() -> None:
    from clavis.core.physics.heat import FLUID_PEAKS_WITHIN_S

    for end in End:
        for name in SetupName:
            wheel = evaluate(own_job(), CATALOGUE, {}).setups[name].wheels[end]
            assert wheel.heat.fluid_peak_after_stop_s is not None
            assert wheel.heat.fluid_peak_after_stop_s < FLUID_PEAKS_WITHIN_S


def test_no_draw_makes_parts_go_together() -> None:
    """A rotor above the fork's limit: every margin of the ride may hold, and the wheel fails in each draw."""
    job = with_value(own_job(), "proposal.front.rotor_id", "t-heavy-220")
    evaluation = evaluate(job, CATALOGUE, {})
    setup = evaluation.setups[SetupName.PROPOSED]
    wheel = setup.wheels[End.FRONT]
    found = sure(job, evaluation.situation, setup, wheel, draws_of(job.parameters, 3, 16))
    assert "largest" in {p.code for p in wheel.points}
    assert found.chances[Verdict.FAILS] == 1
    assert set(found.margin_chances) == {m.key for m in wheel.margins}


def test_a_track_without_holes_has_bands_too() -> None:
    job, situation, setup, wheel = _wheel(with_value(own_job(), "parameters.rotor_void_ratio", 0.0))
    bands = sure(job, situation, setup, wheel, draws_of(situation.parameters, 3, 16)).bands
    assert all(np.isfinite([b.low, b.middle, b.high]).all() for b in bands.values())


def test_a_bike_at_the_limit_of_its_mass_is_sampled() -> None:
    """595 kg of the 600 that are possible: what is drawn about it may lie beyond."""
    job = own_job()
    for path, kg in (("rider.mass_kg", 250.0), ("bike.mass_kg", 200.0), ("load.luggage_kg", 145.0)):
        job = with_value(job, path, kg)
    job, situation, setup, wheel = _wheel(with_value(job, "rider.kit_mass_kg", 0.0))
    assert situation.bike.mass_kg > 590
    assert sure(job, situation, setup, wheel, draws_of(situation.parameters, 3, 16)).bands


def test_a_wheel_that_carries_nothing_has_no_band_of_a_reserve() -> None:
    job, situation, setup, wheel = _wheel(folding({}), End.REAR)
    assert wheel.forces.reserve is None
    found = sure(job, situation, setup, wheel, draws_of(situation.parameters, 3, 16))
    assert "reserve_ratio" not in found.bands
    assert "reserve_ratio" not in found.own_bands
    assert "reserve" in found.margin_chances
