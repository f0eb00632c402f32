"""What holds of any trial, any log and any readings."""

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.trials import TrialSide
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node, cooling_course, standing_course, standing_courses
from clavis.core.proving.calibration import HeatReading, calibrate, rotor_courses
from clavis.core.proving.prediction import side_on_ride, with_ambient
from clavis.core.proving.ride_log import ON_BAR, LogData, events_of
from clavis.core.proving.statistics import TrialVerdict, compare_blocks, compare_loose, power
from clavis.core.proving.temperatures import group_of, heat_study
from tests.bikes import CATALOGUE
from tests.core.proving.test_calibration import JOB, read_set

CONTRASTS = st.lists(st.floats(-5, 5), min_size=3, max_size=9)


def scattered(values: list[float]) -> bool:
    return float(np.std(values)) > 1e-3


@settings(max_examples=60)
@given(CONTRASTS, st.floats(0.05, 3.0))
def test_with_the_setups_exchanged_the_answer_is_the_same_the_other_way(values: list[float], matters: float) -> None:
    assume(scattered(values))
    one, other = compare_blocks(values, matters, 1), compare_blocks([-v for v in values], matters, 1)
    assert other.difference == pytest.approx(-one.difference)
    assert (other.low, other.high) == pytest.approx((-one.high, -one.low))
    assert other.verdict is one.verdict
    assert other.p_permutation == pytest.approx(one.p_permutation)


@settings(max_examples=60)
@given(CONTRASTS, st.floats(0.1, 50))
def test_in_other_units_the_answer_is_the_same(values: list[float], factor: float) -> None:
    """Metres or feet: difference and interval scale, p and verdict stay."""
    assume(scattered(values))
    one, other = compare_blocks(values, 1.0, 1), compare_blocks([factor * v for v in values], factor, 1)
    assert other.difference == pytest.approx(factor * one.difference, abs=1e-9)
    assert other.p_permutation == pytest.approx(one.p_permutation, abs=0.011)
    assert other.verdict is one.verdict


@settings(max_examples=40)
@given(
    st.lists(st.floats(1, 9), min_size=3, max_size=6),
    st.lists(st.floats(1, 9), min_size=3, max_size=6),
    st.floats(-50, 50),
)
def test_where_the_tape_begins_does_not_matter(a: list[float], b: list[float], shift: float) -> None:
    assume(scattered(a) and scattered(b))
    one, other = compare_loose(a, b, 0.5, 1), compare_loose([v + shift for v in a], [v + shift for v in b], 0.5, 1)
    assert other.difference == pytest.approx(one.difference, abs=1e-6)
    assert other.high - other.low == pytest.approx(one.high - one.low, abs=1e-6)


@settings(max_examples=60)
@given(CONTRASTS, st.floats(0.05, 2.0))
def test_a_verdict_is_borne_out_by_its_figures(values: list[float], matters: float) -> None:
    assume(scattered(values))
    found = compare_blocks(values, matters, 1)
    assert found.low <= found.difference <= found.high
    assert found.p_permutation >= found.least_p - 1e-12
    if found.verdict is TrialVerdict.REAL:
        assert found.p_permutation < 0.05
        assert not found.low <= 0 <= found.high
        assert not found.too_few
    if found.verdict is TrialVerdict.NONE_THAT_MATTERS:
        assert -matters < found.low
        assert found.high < matters
    if found.verdict is not TrialVerdict.CANNOT_TELL:
        assert found.more_runs is None


@settings(max_examples=30)
@given(st.integers(11, 40), st.floats(0.1, 1.5))
def test_more_runs_and_larger_differences_are_seen_more_surely(blocks: int, effect: float) -> None:
    assert power(blocks + 3, effect, 1.0) >= power(blocks, effect, 1.0) - 1e-9
    assert power(blocks, effect + 0.2, 1.0) >= power(blocks, effect, 1.0) - 1e-9
    assert power(blocks, effect, 1.0) == pytest.approx(power(blocks, 3 * effect, 3.0), abs=0.01)


SIGNALS = st.lists(st.tuples(st.booleans(), st.booleans()), min_size=12, max_size=120)


@settings(max_examples=80)
@given(SIGNALS, st.floats(0.05, 1.0))
def test_events_part_the_time_on_the_brakes(signals: list[tuple[bool, bool]], step_s: float) -> None:
    """They follow each other, none overlaps the next, and no more time is told than there was."""
    clock = np.arange(len(signals)) * step_s
    front, rear = (np.array([float(pair[k]) for pair in signals]) for k in (0, 1))
    data = LogData(clock, np.full(len(clock), 6.0), {End.FRONT: front, End.REAR: rear}, by_pressure=False)
    events = events_of(data, None)
    for event in events:
        assert event.end_s > event.start_s
        assert all(s <= event.length_s + 1e-9 for s in event.on_s.values())
        assert event.length_s <= sum(event.on_s.values()) + 0.5 * len(signals) * step_s + 1e-9
    for one, after in itertools.pairwise(events):
        assert after.start_s > one.end_s
    for end, signal in ((End.FRONT, front), (End.REAR, rear)):
        assert sum(e.on_s[end] for e in events) <= signal.sum() * step_s + 1e-6


@settings(max_examples=30)
@given(st.floats(ON_BAR + 0.01, 60), st.integers(3, 40))
def test_a_brake_is_on_by_its_pressure_however_hard(bar: float, rows: int) -> None:
    clock = np.arange(60) * 0.5
    pressure = np.where((np.arange(60) >= 5) & (np.arange(60) < 5 + rows), bar, ON_BAR - 0.05)
    data = LogData(clock, np.full(60, 5.0), {End.FRONT: pressure, End.REAR: np.zeros(60)}, by_pressure=True)
    (event,) = events_of(data, None)
    assert event.length_s == pytest.approx(0.5 * rows)
    assert event.on_s[End.REAR] == 0


SIDE = side_on_ride(JOB, None, TrialSide(name="a"), CATALOGUE, {})


@pytest.mark.parametrize("end", list(End))
def test_many_courses_at_once_are_each_its_own(end: End) -> None:
    w, air = SIDE.setup.wheels[end], JOB.conditions.ambient_c
    clock, together = standing_courses(np.array([w.nodes] * 3), w.steps, np.array([0.5, 1.0, 1.5]), air)
    alone = standing_course(w.nodes, w.steps, air)[1]
    assert together[1] == pytest.approx(alone)
    assert together[0][0] < together[1][0] < together[2][0]
    assert len(clock) == together.shape[1]


@pytest.mark.parametrize("start_c", [60.0, 150.0, 300.0])
def test_a_rotor_cools_from_where_it_is_put_and_never_below_the_air(start_c: float) -> None:
    w = SIDE.setup.wheels[End.FRONT]
    _, rotor_c = cooling_course(w.nodes, w.heat.end_c, start_c, 15.0)
    assert rotor_c[0] == pytest.approx(start_c)
    assert (np.diff(rotor_c) <= 1e-9).all()
    assert rotor_c[-1] > 15.0
    own = cooling_course(w.nodes, w.heat.end_c, w.heat.end_c[Node.ROTOR], 15.0)[1]
    assert own == pytest.approx(
        standing_course(w.nodes, w.steps, 15.0)[1], abs=1.5
    )  # but for the air's thinness up there


def test_readings_on_the_model_move_nothing() -> None:
    """Exactly what the model says: every multiplier stays, and the doubt shrinks."""
    group = heat_study(JOB, read_set(1), CATALOGUE, {}).group
    exact = []
    for end in End:
        clock, rotor_c = rotor_courses(group, end, np.zeros((1, 4)))
        exact += [HeatReading(end, t, float(np.interp(t, clock, rotor_c[0])), 4.0) for t in (20.0, 60.0, 150.0, 300.0)]
    found = calibrate([group.of(exact)])
    assert found.chi_square_ratio < 1e-6
    assert [e.value for e in found.estimates[:3]] == pytest.approx([1, 1, 1], abs=1e-3)
    assert all(e.posterior_sigma < e.prior_sigma for e in found.estimates)
    assert all(e.learnt_pct > 0 for e in found.estimates)


@pytest.mark.parametrize("sigma", [1.0, 4.0, 12.0])
def test_surer_readings_leave_less_open(sigma: float) -> None:
    group = heat_study(JOB, read_set(2), CATALOGUE, {}).group
    widths = [
        calibrate([group.of([replace(r, sigma_k=s) for r in group.readings])]).estimate("front_share").posterior_sigma
        for s in (sigma, 2 * sigma)
    ]
    assert widths[0] < widths[1]


def test_colder_air_is_told_by_the_set_not_by_the_job() -> None:
    """What the rotor mirrored and stood in that day counts, whatever the job says."""
    cold = read_set(3).model_copy(update={"around_c": 0.0})
    study, usual = heat_study(JOB, cold, CATALOGUE, {}), heat_study(JOB, read_set(3), CATALOGUE, {})
    assert study.group.situation.weather.ambient_c == 0.0
    assert usual.group.situation.weather.ambient_c == JOB.conditions.ambient_c
    assert with_ambient(usual.group.situation, 3.0).weather.ambient_c == 3.0


def test_a_setup_without_figures_gives_no_group() -> None:
    bare = JOB.model_copy(update={"front": JOB.front.model_copy(update={"rotor_id": None}),
                                  "rear": JOB.rear.model_copy(update={"rotor_id": None})})  # fmt: skip
    side = side_on_ride(bare, None, TrialSide(name="a"), CATALOGUE, {})
    assert group_of(bare, read_set(1), side, ()) is None
    assert heat_study(bare, read_set(1), CATALOGUE, {}).wheels == {}


def test_what_was_learnt_narrows_what_is_drawn() -> None:
    from clavis.core.evaluation.sampling import draws_of

    study = heat_study(JOB, read_set(5), CATALOGUE, {})
    found = calibrate([study.group])
    job = JOB.model_copy(
        update={"calibration": found.accepted(study.group.readings, ("s",), "Tess", "2026-01-02T10:00")}
    )  # fmt: skip
    situation = evaluate(job, CATALOGUE, {}).situation
    plain, known = (
        draws_of(situation.parameters, 1, narrowed=n).by_key for n in (None, situation.narrowed)
    )  # fmt: skip
    for key in ("convection_ratio", "front_share", "rotor_to_carrier_ratio"):
        assert np.std(known[key]) < np.std(plain[key])
    assert np.std(known["grip"]) == pytest.approx(np.std(plain["grip"]))
