"""Trials: textbook cases, honest false-alarm rates, verdicts that say what they may."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from clavis.core.errors import QuantityError
from clavis.core.workshop.trials import (
    TrialVerdict,
    analyse_blocked,
    analyse_unblocked,
    balanced_order,
    block_contrasts,
    blocks_needed,
    deceleration_ms2,
    permutation_p,
    runs_needed,
)


def test_deceleration_by_hand() -> None:
    assert deceleration_ms2(25 / 3.6, 6.0) == pytest.approx(4.0188, abs=1e-3)
    with pytest.raises(QuantityError):
        deceleration_ms2(8.0, 0.0)


@given(st.integers(1, 12), st.integers(0, 999))
def test_orders_are_balanced_and_repeat_by_seed(blocks: int, seed: int) -> None:
    order = balanced_order(blocks, seed)
    assert order == balanced_order(blocks, seed)
    assert len(order) == 4 * blocks
    for k in range(0, len(order), 4):
        assert "".join(order[k : k + 4]) in ("ABBA", "BAAB")


@given(st.integers(2, 6), st.integers(0, 99), st.floats(-3, 3), st.floats(-2, 2))
def test_an_even_drift_cancels_within_blocks(blocks: int, seed: int, drift: float, gap: float) -> None:
    order = balanced_order(blocks, seed)
    values = [10 + drift * k + (gap if run == "A" else 0.0) for k, run in enumerate(order)]
    assert block_contrasts(order, values) == pytest.approx([gap] * blocks, abs=1e-9)


def test_four_blocks_can_never_be_significant() -> None:
    """The most extreme of 2⁴ sign patterns has p = 2/16; six blocks give 2/64."""
    assert permutation_p([5.0, 6.0, 5.5, 5.2], 1) == pytest.approx(2 / 16)
    assert permutation_p([5.0, 6.0, 5.5, 5.2, 5.1, 5.9], 1) == pytest.approx(2 / 64)
    assert permutation_p([1.0, -1.0, 1.0, -1.0], 1) == 1.0


def test_blocks_needed_by_the_floor_and_by_power() -> None:
    assert blocks_needed(5.0, 1.0) == 6  # the floor of the permutation
    # one-sample t, d = 0.5: 34 (textbook tables)
    assert blocks_needed(0.5, 1.0) == 34
    assert blocks_needed(0.0, 1.0) is None
    assert blocks_needed(0.01, 1.0) is None


def test_many_blocks_are_drawn_and_nearly_exact() -> None:
    rng = np.random.default_rng(5)
    contrasts = rng.normal(0.5, 1, 16)
    exact = stats.ttest_1samp(contrasts, 0).pvalue
    assert permutation_p(list(contrasts), 3) == pytest.approx(exact, abs=0.03)


def test_welch_against_scipy() -> None:
    a, b = [8.1, 8.4, 7.9, 8.6, 8.2], [8.9, 9.4, 8.7, 9.1]
    ours, theirs = analyse_unblocked(a, b, 0.2), stats.ttest_ind(a, b, equal_var=False)
    assert ours.p_value == pytest.approx(theirs.pvalue)
    interval = theirs.confidence_interval()
    assert (ours.low, ours.high) == pytest.approx((interval.low, interval.high))
    assert ours.verdict is TrialVerdict.REAL


def _values(order, gap: float, spread: float, rng) -> list[float]:
    return [9 + (gap if run == "A" else 0) + rng.normal(0, spread) for run in order]


def test_false_alarms_are_as_rare_as_claimed() -> None:
    rng = np.random.default_rng(11)
    order = balanced_order(8, 2)
    real = sum(
        analyse_blocked(order, _values(order, 0.0, 0.4, rng), 0.2, 1).verdict is TrialVerdict.REAL for _ in range(600)
    )
    assert real / 600 < 0.075  # 5 % and three standard errors


def test_the_runs_asked_for_do_find_the_difference() -> None:
    rng = np.random.default_rng(12)
    blocks = blocks_needed(0.6, 0.5)
    assert blocks is not None
    assert blocks > 6
    order = balanced_order(blocks, 3)
    found = sum(
        analyse_blocked(order, _values(order, 0.6, 0.5, rng), 0.2, 1).verdict is TrialVerdict.REAL for _ in range(300)
    )
    assert 0.7 < found / 300 < 0.92  # 80 % and a few standard errors; the permutation costs a little


def test_the_three_verdicts() -> None:
    order = balanced_order(8, 4)
    rng = np.random.default_rng(7)
    assert analyse_blocked(order, _values(order, 2.0, 0.2, rng), 0.3, 1).verdict is TrialVerdict.REAL
    same = analyse_blocked(order, _values(order, 0.0, 0.05, rng), 0.3, 1)
    assert same.verdict is TrialVerdict.NONE_THAT_MATTERS
    vague = analyse_blocked(order[:8], _values(order[:8], 0.1, 1.0, rng), 0.9, 1)
    assert vague.verdict is TrialVerdict.CANNOT_TELL
    assert vague.more_runs is not None
    assert f"{vague.more_runs} more runs" in vague.words


def test_runs_that_make_no_trial_are_refused() -> None:
    with pytest.raises(QuantityError, match="order of a block"):
        analyse_blocked(list("AAAB" * 2), [1.0] * 8, 0.1, 1)
    with pytest.raises(QuantityError, match="complete blocks"):
        analyse_blocked(list("ABBA"), [1.0, 2, 3, 4], 0.1, 1)
    with pytest.raises(QuantityError, match="one for each"):
        analyse_blocked(list("ABBA"), [1.0], 0.1, 1)
    with pytest.raises(QuantityError, match="runs of each"):
        analyse_unblocked([1.0], [2.0, 3.0], 0.1)
    with pytest.raises(QuantityError, match="spread"):
        analyse_unblocked([1.0, 1.0], [2.0, 2.0], 0.1)


def test_runs_needed_against_the_textbook() -> None:
    # Cohen's tables: d = 1.0 needs 17 a group, d = 0.8 26, d = 0.5 64 (two-sided 5 %, power 80 %)
    assert [runs_needed(d, 1.0) for d in (1.0, 0.8, 0.5)] == [17, 26, 64]
    assert runs_needed(0.0, 1.0) is None
    assert runs_needed(0.01, 1.0) is None
    assert runs_needed(10.0, 1.0) == 4
