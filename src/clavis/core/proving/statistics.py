"""Runs of two setups compared: order by lot, analysis within blocks, and how many runs it takes (docs/model.md,
section 9). Differences are B less A. SciPy computes tests and intervals; the same rule decides a trial, and the
thousand simulated ones from which its power is told."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise
from math import comb, sqrt
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import QuantityError
from clavis.core.sentences import NOTHING, Sentence, say
from clavis.core.units import KMH_PER_MS

Array = NDArray[np.float64]

POWER = 0.8
SIGNIFICANCE = 0.05
CONFIDENCE = 1 - SIGNIFICANCE
BLOCK = 4
"""runs of a block: two with each setup"""
MOST_BLOCKS = 100
MOST_RESAMPLES = 10_000
"""up to so many arrangements every one is counted; above, so many are drawn with the seed"""
SIMULATED = 2000
SIMULATED_UP_TO = {True: 10, False: 3}
"""blocks, compared as blocks or as loose runs, up to which the power is simulated by the very rule; above, permutation
and t test hardly differ"""
MOST_EFFECT = 20.0
"""differences over spread beyond which nothing changes"""
SLACK = 0.05
"""by which a simulated power may lie above the calculated one, by chance"""
_MOST_AT_ONCE, _MOST_FIGURES = 128, 500_000
"""arrangements looked at in one go, and figures in them: of two thousand trials fewer, or they would hold 90 MB"""


def _at_once(*sides: Array) -> int:
    return min(_MOST_AT_ONCE, max(1, _MOST_FIGURES // sum(side.size for side in sides)))


class TrialVerdict(StrEnum):
    """The three plain verdicts."""

    REAL = "real"
    NONE_THAT_MATTERS = "no difference that matters"
    CANNOT_TELL = "cannot tell"


def deceleration_ms2(speed_ms: float, distance_m: float) -> float:
    """a = v²/(2 d) of a stop from a line, m/s². Raises QuantityError for a speed or distance that is none.

    >>> round(deceleration_ms2(25 / 3.6, 6.0), 2)
    4.02
    """
    if not (speed_ms > 0 and distance_m > 0):
        given = say("{speed_kmh:.1}, {distance_m:.1}", speed_kmh=speed_ms * KMH_PER_MS, distance_m=distance_m)
        raise QuantityError("speed and distance of a stop", given, "above zero")
    return speed_ms**2 / (2 * distance_m)


def balanced_order(blocks: int, seed: int) -> str:
    """Runs in blocks of four, A B B A or B A A B by lot: learning and warming that grow evenly cancel in each.

    >>> len(balanced_order(6, 1))
    24
    """
    rng = np.random.default_rng(seed)
    return "".join("ABBA" if rng.random() < 0.5 else "BAAB" for _ in range(blocks))


def randomised_order(blocks: int, seed: int) -> str:
    """As many runs of each setup in an order by lot, none first and the other after: a draw that parts them so is drawn
    again."""
    rng = np.random.default_rng(seed)
    runs = np.array(list("AB" * (BLOCK // 2 * blocks)))
    while True:
        order = "".join(rng.permutation(runs))
        if not parted(order):
            return order


def parted(order: Sequence[str]) -> bool:
    """All runs of one setup before all of the other: whatever changes with the hour changes with the setup.

    >>> parted("AABB"), parted("ABBA")
    (True, False)
    """
    changes = sum(a != b for a, b in pairwise(order))
    return changes < 2


@dataclass(frozen=True)
class Compared:
    """B less A: the difference with its 95 % interval and two p-values. ``least_p`` is the smallest that so many runs
    can give by permutation, whatever they show."""

    difference: float
    low: float
    high: float
    p_permutation: float
    p_t: float
    least_p: float
    verdict: TrialVerdict
    spread: float
    """of one run to the next, standard deviation"""
    more_blocks: int | None
    """further blocks that would tell a difference that matters; None where enough or hopeless"""

    @property
    def more_runs(self) -> int | None:
        return None if self.more_blocks is None else BLOCK * self.more_blocks

    @property
    def hopeless(self) -> bool:
        """Not even the greatest number of runs would tell a difference that just matters."""
        return self.verdict is TrialVerdict.CANNOT_TELL and self.more_blocks is None

    @property
    def too_few(self) -> bool:
        """So few runs that no outcome could have been told from chance."""
        return self.least_p >= SIGNIFICANCE

    def words(self) -> Sentence:
        """What is still needed where it cannot be told; nothing else."""
        if self.verdict is not TrialVerdict.CANNOT_TELL:
            return NOTHING
        if self.more_runs is None:
            return say("more runs hardly would: they scatter too much for a difference that small")
        return say("{more} more runs would", more=self.more_runs)


def _verdict(low: float, high: float, p: float, matters: float) -> TrialVerdict:
    """The interval inside what does not matter is an answer too, also where it leaves out zero."""
    if -matters < low and high < matters:
        return TrialVerdict.NONE_THAT_MATTERS
    if p < SIGNIFICANCE and (low > 0 or high < 0):
        return TrialVerdict.REAL
    return TrialVerdict.CANNOT_TELL


def block_contrasts(order: Sequence[str], values: Sequence[float]) -> list[float]:
    """Mean of B less mean of A in each block of four, so that an even drift cancels.

    Raises QuantityError where a block does not hold two runs of each.

    >>> block_contrasts("ABBA", [8.0, 7.0, 7.2, 8.2])
    [-1.0]
    """
    if len(order) != len(values):
        raise QuantityError("readings", len(values), f"one for each of the {len(order)} runs")
    if len(order) % BLOCK:
        raise QuantityError("runs", len(order), "whole blocks of four")
    out = []
    for start in range(0, len(order), BLOCK):
        block = order[start : start + BLOCK]
        if sorted(block) != ["A", "A", "B", "B"]:
            raise QuantityError("order of a block", "".join(block), "two runs of each setup")
        pairs = zip(block, values[start : start + BLOCK], strict=True)
        out.append(round(sum(v if run == "B" else -v for run, v in pairs) / 2, 9))
    return out


@dataclass(frozen=True)
class Decided:
    """Of one trial or of many at once: difference, interval, p by permutation and by t."""

    difference: Array
    low: Array
    high: Array
    p_permutation: Array
    p_t: Array

    def verdicts(self, matters: float) -> list[TrialVerdict]:
        """One for each trial."""
        found = (np.atleast_1d(v) for v in (self.low, self.high, self.p_permutation))
        return [_verdict(float(low), float(high), float(p), matters) for low, high, p in zip(*found, strict=True)]


def _mean(x: Array, axis: int = -1) -> Any:
    return np.mean(x, axis=axis)


def _less(b: Array, a: Array, axis: int = -1) -> Any:
    return np.mean(b, axis=axis) - np.mean(a, axis=axis)


def decide_blocks(contrasts: Array, seed: int) -> Decided:
    """Within blocks, (n,) or (trials, n): under no difference each contrast could as well have the other sign."""
    from scipy import stats

    t = stats.ttest_1samp(contrasts, 0.0, axis=-1)
    interval = t.confidence_interval(CONFIDENCE)
    swapped = stats.permutation_test(
        (contrasts,), _mean, permutation_type="samples", vectorized=True, n_resamples=MOST_RESAMPLES,
        batch=_at_once(contrasts), axis=-1, rng=np.random.default_rng(seed),
    )  # fmt: skip
    return Decided(_mean(contrasts), interval.low, interval.high, swapped.pvalue, t.pvalue)


def decide_loose(a: Array, b: Array, seed: int) -> Decided:
    """Without blocks: under no difference any of the runs could as well have been with the other setup; the interval is
    Welch's."""
    from scipy import stats

    t = stats.ttest_ind(b, a, equal_var=False, axis=-1)
    interval = t.confidence_interval(CONFIDENCE)
    swapped = stats.permutation_test(
        (b, a), _less, permutation_type="independent", vectorized=True, n_resamples=MOST_RESAMPLES,
        batch=_at_once(a, b), axis=-1, rng=np.random.default_rng(seed),
    )  # fmt: skip
    return Decided(_less(b, a), interval.low, interval.high, swapped.pvalue, t.pvalue)


def _compared(d: Decided, matters: float, spread: float, least_p: float, more_blocks: int | None) -> Compared:
    low, high, p = float(d.low), float(d.high), float(d.p_permutation)
    verdict = d.verdicts(matters)[0]
    more = more_blocks if verdict is TrialVerdict.CANNOT_TELL else None
    return Compared(float(d.difference), low, high, p, float(d.p_t), least_p, verdict, spread, more)


def _more(wanted: int | None, have: int) -> int | None:
    return None if wanted is None else max(wanted - have, 1)


def compare_blocks(contrasts: Sequence[float], matters: float, seed: int) -> Compared:
    """A balanced trial by its block contrasts: sign permutation, t interval. ``matters`` is the smallest difference of
    interest, asked for before the runs. Raises QuantityError for fewer than two blocks, or blocks that all agree to
    the last digit: those are no readings.

    >>> found = compare_blocks([-1.1, -0.9, -1.0, -1.2, -0.8, -1.0], matters=0.4, seed=1)
    >>> found.verdict.value, round(found.p_permutation, 3), found.least_p
    ('real', 0.031, 0.03125)
    """
    n = len(contrasts)
    if n < 2:
        raise QuantityError("complete blocks of four runs", n, "at least 2")
    values = np.asarray(contrasts, dtype=np.float64)
    spread = float(values.std(ddof=1))
    if spread == 0:
        raise QuantityError("spread of the runs", 0, "above zero: readings that all agree are no readings")
    # a contrast is a difference of two means of two: it scatters as one run does
    more = _more(blocks_needed(matters, spread), n)
    return _compared(decide_blocks(values, seed), matters, spread, 2 / 2**n, more)


def compare_loose(a: Sequence[float], b: Sequence[float], matters: float, seed: int) -> Compared:
    """Two loose groups of runs; drift and traffic are not cancelled. Raises QuantityError for fewer than two runs of
    either, or runs that all agree."""
    fewest = min(len(a), len(b))
    if fewest < 2:
        raise QuantityError("runs of each setup", fewest, "at least 2")
    one, two = np.asarray(a, dtype=np.float64), np.asarray(b, dtype=np.float64)
    spread = float(sqrt((one.var(ddof=1) + two.var(ddof=1)) / 2))
    if spread == 0:
        raise QuantityError("spread of the runs", 0, "above zero: readings that all agree are no readings")
    more = _more(blocks_needed(matters, spread, blocked=False), fewest * 2 // BLOCK)
    least_p = min(1.0, (2 if len(a) == len(b) else 1) / comb(len(a) + len(b), len(a)))
    return _compared(decide_loose(one, two, seed), matters, spread, least_p, more)


def _t_power(freedom: int, shift: float) -> float:
    """Chance that |t| passes its critical value under a non-central t; the far tail is nothing where it underflows."""
    from scipy.special import nctdtr, stdtrit

    critical = float(stdtrit(freedom, 1 - SIGNIFICANCE / 2))
    far = nctdtr(freedom, shift, -critical)
    return float(1 - nctdtr(freedom, shift, critical) + (far if np.isfinite(far) else 0.0))


def _by_t(blocks: int, effect: float, blocked: bool) -> float:
    """Of blocks that are compared, or of all their runs as two loose groups."""
    freedom = blocks - 1 if blocked else BLOCK * blocks - 2
    return _t_power(freedom, min(effect, MOST_EFFECT) * sqrt(blocks))


@lru_cache(maxsize=512)
def _simulated_power(blocks: int, effect: float, blocked: bool) -> float:
    """Share of simulated trials that the rule calls other than chance, and whose interval leaves out zero."""
    rng = np.random.default_rng([blocks, round(1000 * effect), blocked])
    if blocked:
        found = decide_blocks(rng.normal(effect, 1.0, (SIMULATED, blocks)), 1)
    else:
        runs = BLOCK // 2 * blocks
        found = decide_loose(rng.normal(0, 1, (SIMULATED, runs)), rng.normal(effect, 1, (SIMULATED, runs)), 1)
    return found.verdicts(0.0).count(TrialVerdict.REAL) / SIMULATED


def power(blocks: int, difference: float, spread: float, *, blocked: bool = True) -> float:
    """Chance that so many blocks of four tell a difference when single runs scatter by ``spread`` (standard deviation,
    same unit): simulated by the rule that decides, where that matters, else by the non-central t distribution.

    >>> round(power(34, 0.5, 1.0), 2)
    0.81
    """
    effect = round(abs(difference) / spread, 2)
    if blocks < 2:
        return 0.0
    if blocks <= SIMULATED_UP_TO[blocked]:
        return _simulated_power(blocks, min(effect, MOST_EFFECT), blocked)
    return _by_t(blocks, effect, blocked)


def blocks_needed(difference: float, spread: float, *, blocked: bool = True) -> int | None:
    """Blocks of four runs that tell ``difference`` with a chance of 80 %. Never fewer than can be told from chance at
    all; None where more than a hundred would be needed or nothing differs.

    >>> blocks_needed(5.0, 1.0), blocks_needed(0.5, 1.0), blocks_needed(0.01, 1.0)
    (6, 34, None)
    """
    if difference == 0 or spread <= 0:
        return None
    effect = abs(difference) / spread
    # a difference that is told lies outside the t interval too: where t has no such power, the rule has none
    counts = (n for n in range(2, MOST_BLOCKS + 1) if _by_t(n, effect, blocked) >= POWER - SLACK)
    return next((n for n in counts if power(n, difference, spread, blocked=blocked) >= POWER), None)
