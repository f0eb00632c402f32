"""Trials: textbook cases, honest false-alarm rates, power as promised, verdicts that say what they may."""

import tracemalloc
from collections.abc import Callable
from itertools import combinations, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import stats

from clavis.core.errors import QuantityError
from clavis.core.proving.statistics import (
    TrialVerdict,
    balanced_order,
    block_contrasts,
    blocks_needed,
    compare_blocks,
    compare_loose,
    deceleration_ms2,
    decide_blocks,
    decide_loose,
    parted,
    power,
    randomised_order,
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
        assert order[k : k + 4] in ("ABBA", "BAAB")


@given(st.integers(2, 12), st.integers(0, 9999))
def test_a_lot_that_parts_the_setups_is_drawn_again(blocks: int, seed: int) -> None:
    order = randomised_order(blocks, seed)
    assert order == randomised_order(blocks, seed)
    assert order.count("A") == order.count("B") == 2 * blocks
    assert not parted(order)


def test_one_setup_first_and_then_the_other_is_no_order() -> None:
    assert all(parted(order) for order in ("AABB", "BBAA", "AB", "AAAA"))
    assert not any(parted(order) for order in ("ABBA", "ABAB", "BAAB"))


@given(st.integers(2, 6), st.integers(0, 99), st.floats(-3, 3), st.floats(-2, 2))
def test_an_even_drift_cancels_within_blocks(blocks: int, seed: int, drift: float, gap: float) -> None:
    order = balanced_order(blocks, seed)
    values = [10 + drift * k + (gap if run == "B" else 0.0) for k, run in enumerate(order)]
    assert block_contrasts(order, values) == pytest.approx([gap] * blocks, abs=1e-8)


def _by_counting(contrasts: list[float]) -> float:
    """Every sign pattern one by one."""
    seen = abs(sum(contrasts))
    signs = list(product((1, -1), repeat=len(contrasts)))
    return sum(
        abs(sum(s * c for s, c in zip(pattern, contrasts, strict=True))) >= seen - 1e-9 for pattern in signs
    ) / len(signs)


def test_permutation_within_blocks_against_counting() -> None:
    """The most extreme of 2⁴ sign patterns has p = 2/16; six blocks give 2/64."""
    for contrasts in ([5.0, 6.0, 5.5, 5.2], [5.0, 6.0, 5.5, 5.2, 5.1, 5.9], [1.0, -2.0, 3.0, 0.5, 2.2]):
        found = compare_blocks(contrasts, 0.1, 1)
        assert found.p_permutation == pytest.approx(_by_counting(contrasts))
        assert found.least_p == 2 / 2 ** len(contrasts)
    assert compare_blocks([5.0, 6.0, 5.5, 5.2], 0.1, 1).too_few
    assert compare_blocks([5.0, 6.0, 5.5, 5.2], 0.1, 1).verdict is TrialVerdict.CANNOT_TELL


def test_loose_runs_against_counting_and_welch() -> None:
    a, b = [8.1, 8.4, 7.9, 8.6, 8.2], [8.9, 9.4, 8.7, 9.1]
    found, welch = compare_loose(a, b, 0.2, 1), stats.ttest_ind(b, a, equal_var=False)
    assert found.p_t == pytest.approx(welch.pvalue)
    interval = welch.confidence_interval()
    assert (found.low, found.high) == pytest.approx((interval.low, interval.high))
    assert found.verdict is TrialVerdict.REAL
    runs = a + b
    seen, total = sum(b) / len(b) - sum(a) / len(a), sum(runs)
    differences = [sum(c) / 4 - (total - sum(c)) / 5 for c in combinations(runs, 4)]
    above = sum(d >= seen - 1e-9 for d in differences) / len(differences)
    below = sum(d <= seen + 1e-9 for d in differences) / len(differences)
    assert found.p_permutation == pytest.approx(2 * min(above, below))
    assert found.least_p == 1 / len(differences)


def test_blocks_needed_by_the_floor_and_by_power() -> None:
    assert blocks_needed(5.0, 1.0) == 6  # the floor of the permutation
    # one-sample t, d = 0.5: 34 (textbook tables)
    assert blocks_needed(0.5, 1.0) == 34
    assert blocks_needed(0.0, 1.0) is None
    assert blocks_needed(0.01, 1.0) is None
    # Cohen's tables: d = 0.8 needs 26 a group, d = 0.5 64 (two-sided 5 %, power 80 %): 13 and 32 blocks of two each
    assert [blocks_needed(d, 1.0, blocked=False) for d in (0.8, 0.5)] == [13, 32]


def _values(order: str, gap: float, spread: float, rng: np.random.Generator) -> list[float]:
    """Runs with a morning that warms and a rider who learns."""
    return [9 + 0.05 * k + (gap if run == "B" else 0) + rng.normal(0, spread) for k, run in enumerate(order)]


def _trials(blocks: int, effect: float, seed: int) -> np.ndarray:
    """The contrasts of a thousand trials."""
    rng, order = np.random.default_rng(seed), balanced_order(blocks, 2)
    return np.array([block_contrasts(order, _values(order, effect, 1.0, rng)) for _ in range(1000)])


@pytest.mark.parametrize("blocks", [6, 8, 12])
def test_false_alarms_are_as_rare_as_claimed(blocks: int) -> None:
    """At most 5 % of 1,000 trials of two setups that do not differ are called real."""
    found = decide_blocks(_trials(blocks, 0.0, 2024 + blocks), 1).verdicts(0.05)
    assert found.count(TrialVerdict.REAL) <= 50


@pytest.mark.long
@pytest.mark.parametrize(("blocks", "effect"), [(6, 1.6), (8, 1.2), (11, 1.0), (14, 0.8)])
def test_power_is_what_the_plan_promised(blocks: int, effect: float) -> None:
    found = decide_blocks(_trials(blocks, effect, blocks), 1).verdicts(0.01)
    assert found.count(TrialVerdict.REAL) / 1000 == pytest.approx(power(blocks, effect, 1.0), abs=0.05)


@pytest.mark.long
@pytest.mark.parametrize(("blocks", "effect"), [(2, 2.0), (3, 1.5), (4, 1.2)])
def test_power_of_loose_runs_is_what_the_plan_promised(blocks: int, effect: float) -> None:
    rng, n = np.random.default_rng(blocks), (300, 2 * blocks)
    found = decide_loose(rng.normal(0, 1, n), rng.normal(effect, 1, n), 1).verdicts(0.01)
    promised = power(blocks, effect, 1.0, blocked=False)
    assert found.count(TrialVerdict.REAL) / 300 == pytest.approx(promised, abs=0.08)


@pytest.mark.parametrize("decide", [lambda x: decide_blocks(x, 1), lambda x: decide_loose(x[:, :6], x[:, 3:], 1)])
def test_two_thousand_trials_are_decided_in_bounded_memory(decide: Callable[[NDArray[np.float64]], object]) -> None:
    """Many people open Prove at the same time: each once held 90 MB for its power."""
    trials = np.random.default_rng(1).normal(0, 1, (2000, 9))
    tracemalloc.start()
    try:
        decide(trials)
        most = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert most < 35e6


def test_one_trial_is_decided_like_a_thousand() -> None:
    many = _trials(7, 1.0, 5)[:20]
    together = decide_blocks(many, 1)
    for k, contrasts in enumerate(many):
        alone = compare_blocks(list(contrasts), 0.3, 1)
        assert alone.verdict is together.verdicts(0.3)[k]
        assert alone.p_permutation == pytest.approx(together.p_permutation[k])


def test_the_three_verdicts() -> None:
    order, rng = balanced_order(8, 4), np.random.default_rng(7)
    real = compare_blocks(block_contrasts(order, _values(order, 2.0, 0.2, rng)), 0.3, 1)
    assert (real.verdict, str(real.words())) == (TrialVerdict.REAL, "")
    same = compare_blocks(block_contrasts(order, _values(order, 0.0, 0.05, rng)), 0.3, 1)
    assert same.verdict is TrialVerdict.NONE_THAT_MATTERS
    vague = compare_blocks(block_contrasts(order[:8], _values(order[:8], 0.1, 1.0, rng)), 0.9, 1)
    assert vague.verdict is TrialVerdict.CANNOT_TELL
    assert vague.more_runs is not None
    assert f"{vague.more_runs} more runs" in str(vague.words())
    hopeless = compare_blocks(block_contrasts(order, _values(order, 0.0, 3.0, rng)), 0.01, 1)
    assert hopeless.hopeless
    assert "hardly" in str(hopeless.words())


def test_a_small_difference_that_is_surely_there_does_not_matter() -> None:
    found = compare_blocks([-0.11, -0.09, -0.1, -0.12, -0.08, -0.1], 0.5, 1)
    assert found.high < 0
    assert found.verdict is TrialVerdict.NONE_THAT_MATTERS


def test_runs_that_make_no_trial_are_refused() -> None:
    with pytest.raises(QuantityError, match="order of a block"):
        block_contrasts("AAAB" * 2, [1.0] * 8)
    with pytest.raises(QuantityError, match="whole blocks"):
        block_contrasts("ABB", [1.0] * 3)
    with pytest.raises(QuantityError, match="one for each"):
        block_contrasts("ABBA", [1.0])
    with pytest.raises(QuantityError, match="complete blocks"):
        compare_blocks([1.0], 0.1, 1)
    with pytest.raises(QuantityError, match="spread"):
        compare_blocks([1.0, 1.0], 0.1, 1)
    with pytest.raises(QuantityError, match="runs of each"):
        compare_loose([1.0], [2.0, 3.0], 0.1, 1)
    with pytest.raises(QuantityError, match="spread"):
        compare_loose([1.0, 1.0], [2.0, 2.0], 0.1, 1)
