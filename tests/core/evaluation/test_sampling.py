"""How sure: draws have the width they claim, the cube is a Latin one, bands hold the figure, chances behave."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.sampling import (
    certainty,
    draw,
    draws_of,
    hypercube,
    sampled_rows,
    samples_of,
    standard_error,
)
from clavis.core.parameters import DOUBTS, ModelParameters, Spread
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, own_job, with_value


@given(st.integers(2, 200), st.integers(1, 12), st.integers(0, 10_000))
def test_every_stratum_of_every_column_is_hit_once(samples: int, columns: int, seed: int) -> None:
    cube = hypercube(samples, columns, seed)
    assert cube.shape == (samples, columns)
    for k in range(columns):
        assert sorted((cube[:, k] * samples).astype(int)) == list(range(samples))


@pytest.mark.parametrize("doubt", DOUBTS, ids=lambda d: d.key)
def test_ninety_percent_lie_within_the_half_width(doubt) -> None:
    value = getattr(ModelParameters(), doubt.key, 1.0)
    drawn = draw(doubt, value, (np.arange(20000) + 0.5) / 20000)
    low, middle, high = np.percentile(drawn, (5, 50, 95))
    assert middle == pytest.approx(value, rel=0.02)
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
    return certainty(wheel, situation, setup.load, draws, samples_of(job, situation, setup.load, draws))


def test_the_same_seed_says_the_same_another_nearly() -> None:
    job, situation, setup, wheel = _wheel()
    once, again, other = (
        sure(job, situation, setup, wheel, draws_of(situation.parameters, seed)) for seed in (1, 1, 2)
    )
    assert once == again
    assert once != other
    assert once.bands["rotor_peak_c"].middle == pytest.approx(other.bands["rotor_peak_c"].middle, rel=0.03)


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
    band = found.bands["rotor_peak_c"]
    assert 0.1 * rise < band.high - band.low < 0.6 * rise


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
        "convection_ratio", "airflow_ratio", "rotor_emissivity", "rotor_to_carrier", "mu_cold", "mu_rise_per_k",
        "mu_fall", "mu_slope_per_k", "mu_floor",
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
