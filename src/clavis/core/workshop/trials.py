"""Trials: fair order, analysis within blocks, and how many runs it takes (docs/model.md, section 9)."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import product
from math import sqrt

import numpy as np

from clavis.core.errors import QuantityError
from clavis.core.sentences import say
from clavis.core.units import KMH_PER_MS

POWER = 0.8
SIGNIFICANCE = 0.05
FEWEST_PER_SETUP = 4
"""fewer runs than eight in all can hardly be told from chance, whatever they show"""
MOST_PER_SETUP = 200
EXACT_BLOCKS = 14
"""up to so many blocks every permutation is counted; above, so many are drawn with the seed"""
DRAWN_PERMUTATIONS = 20_000


class TrialVerdict(StrEnum):
    """The three plain verdicts."""

    REAL = "a real difference"
    NONE_THAT_MATTERS = "no difference that matters"
    CANNOT_TELL = "cannot tell"


def deceleration_ms2(speed_ms: float, distance_m: float) -> float:
    """a = v²/(2 d) of a stop from a line, m/s². Raises QuantityError for a speed or distance that is none."""
    if not (speed_ms > 0 and distance_m > 0):
        given = say("{speed_kmh:.1}, {distance_m:.1}", speed_kmh=speed_ms * KMH_PER_MS, distance_m=distance_m)
        raise QuantityError("speed and distance of a stop", given, "above zero")
    return speed_ms**2 / (2 * distance_m)


def balanced_order(blocks: int, seed: int) -> list[str]:
    """Runs in blocks of four, A B B A or B A A B by lot: learning and warming that grow evenly cancel in each."""
    rng = np.random.default_rng(seed)
    return [run for _ in range(blocks) for run in ("ABBA" if rng.random() < 0.5 else "BAAB")]


def _power(freedom: int, shift: float, critical: float) -> float:
    """Chance that |t| passes ``critical`` under a non-central t; the far tail is nothing where it underflows."""
    from scipy.special import nctdtr

    far = nctdtr(freedom, shift, -critical)
    return float(1 - nctdtr(freedom, shift, critical) + (far if np.isfinite(far) else 0.0))


def runs_needed(difference: float, spread: float) -> int | None:
    """Runs per setup for 80 % power at 5 % to see ``difference`` between two means with standard deviation
    ``spread`` (same unit), two-sided t test; None where more than 200 would be needed or nothing differs."""
    from scipy.special import stdtrit

    if difference == 0 or spread <= 0:
        return None
    for n in range(FEWEST_PER_SETUP, MOST_PER_SETUP + 1):
        freedom = 2 * n - 2
        shift = abs(difference) / spread * sqrt(n / 2)
        critical = stdtrit(freedom, 1 - SIGNIFICANCE / 2)
        if _power(freedom, shift, float(critical)) >= POWER:
            return n
    return None


FEWEST_BLOCKS = 6
"""of 2ⁿ sign patterns the most extreme has p = 2/2ⁿ: five blocks cannot get below 5 %, whatever they show"""


def blocks_needed(difference: float, spread: float) -> int | None:
    """Blocks A B B A for 80 % power at 5 % to see ``difference`` when single runs scatter by ``spread`` (standard
    deviation, same unit): one-sample t on the block contrasts, which scatter as one run does. At least six; None
    where more than a hundred would be needed or nothing differs."""
    from scipy.special import stdtrit

    if difference == 0 or spread <= 0:
        return None
    for n in range(FEWEST_BLOCKS, MOST_PER_SETUP // 2 + 1):
        shift, critical = abs(difference) / spread * sqrt(n), stdtrit(n - 1, 1 - SIGNIFICANCE / 2)
        if _power(n - 1, float(shift), float(critical)) >= POWER:
            return n
    return None


@dataclass(frozen=True)
class TrialResult:
    """A minus B: difference with its 95 % interval and p-value, the verdict, and what more runs would do."""

    difference: float
    low: float
    high: float
    p_value: float
    verdict: TrialVerdict
    blocks: int
    more_runs: int | None
    """further runs per setup that would tell a difference of the size that matters; None where enough or hopeless"""
    words: str


def _verdict(low: float, high: float, p_value: float, matters: float) -> TrialVerdict:
    if p_value < SIGNIFICANCE and (low > 0 or high < 0):
        return TrialVerdict.REAL
    if -matters < low and high < matters:
        return TrialVerdict.NONE_THAT_MATTERS
    return TrialVerdict.CANNOT_TELL


def _more(wanted: int | None, have: int) -> int | None:
    return None if wanted is None or wanted <= have else wanted - have


def _words(verdict: TrialVerdict, more: int | None) -> str:
    if verdict is TrialVerdict.CANNOT_TELL:
        return (
            f"{verdict}; {more} more runs with each setup would" if more else f"{verdict}, and more runs hardly would"
        )
    return verdict.value


def block_contrasts(order: Sequence[str], values: Sequence[float]) -> list[float]:
    """Mean of A less mean of B in each complete block of four, so that an even drift cancels.

    Raises QuantityError where a block does not hold two runs of each.
    """
    if len(order) != len(values):
        raise QuantityError("readings", len(values), f"one for each of the {len(order)} runs")
    out = []
    for start in range(0, len(order) - len(order) % 4, 4):
        block = order[start : start + 4]
        if sorted(block) != ["A", "A", "B", "B"]:
            raise QuantityError("order of a block", "".join(block), "two runs of each setup")
        pairs = list(zip(block, values[start : start + 4], strict=True))
        out.append(sum(v if run == "A" else -v for run, v in pairs) / 2)
    return out


def permutation_p(contrasts: Sequence[float], seed: int) -> float:
    """Two-sided p-value: under no difference each block's contrast could as well have the other sign."""
    found = np.asarray(contrasts, dtype=np.float64)
    observed = abs(found.mean())
    n = len(found)
    if n <= EXACT_BLOCKS:
        signs = np.array(list(product((1.0, -1.0), repeat=n)))
    else:
        signs = np.random.default_rng(seed).choice((1.0, -1.0), size=(DRAWN_PERMUTATIONS, n))
        signs[0] = 1.0  # the arrangement that was seen is one of them
    means = np.abs((signs * found).mean(axis=1))
    return float(np.mean(means >= observed - 1e-12))


def analyse_blocked(order: Sequence[str], values: Sequence[float], matters: float, seed: int) -> TrialResult:
    """A balanced trial analysed within its blocks: permutation p, t interval on the block contrasts.

    ``matters`` is the smallest difference of interest, asked for before the runs. Incomplete last blocks are left
    out. Raises QuantityError for fewer than two complete blocks.
    """
    from scipy.special import stdtrit

    contrasts = block_contrasts(order, values)
    n = len(contrasts)
    if n < 2:
        raise QuantityError("complete blocks of four runs", n, "at least 2")
    mean, spread = float(np.mean(contrasts)), float(np.std(contrasts, ddof=1))
    reach = float(stdtrit(n - 1, 1 - SIGNIFICANCE / 2)) * spread / sqrt(n)
    p = permutation_p(contrasts, seed)
    verdict = _verdict(mean - reach, mean + reach, p, matters)
    # a contrast is a difference of two means of two: the spread of one run is that of the contrast
    blocks = blocks_needed(matters, spread)
    more = _more(None if blocks is None else 2 * blocks, 2 * n)
    return TrialResult(mean, mean - reach, mean + reach, p, verdict, n, more, _words(verdict, more))


def analyse_unblocked(a: Sequence[float], b: Sequence[float], matters: float) -> TrialResult:
    """Welch's t for two loose groups of runs; drift and traffic are not cancelled. Raises QuantityError for fewer
    than two runs of each."""
    from scipy.special import stdtr, stdtrit

    if min(len(a), len(b)) < 2:
        raise QuantityError("runs of each setup", min(len(a), len(b)), "at least 2")
    va, vb = (float(np.var(x, ddof=1)) / len(x) for x in (a, b))
    difference, error = float(np.mean(a) - np.mean(b)), sqrt(va + vb)
    if error == 0:
        raise QuantityError("spread of the runs", 0, "above zero: readings that all agree are no readings")
    freedom = (va + vb) ** 2 / (va**2 / (len(a) - 1) + vb**2 / (len(b) - 1))
    p = float(2 * stdtr(freedom, -abs(difference) / error))
    reach = float(stdtrit(freedom, 1 - SIGNIFICANCE / 2)) * error
    verdict = _verdict(difference - reach, difference + reach, p, matters)
    spread = sqrt((np.var(a, ddof=1) + np.var(b, ddof=1)) / 2)
    more = _more(runs_needed(matters, spread), min(len(a), len(b)))
    return TrialResult(difference, difference - reach, difference + reach, p, verdict, 0, more, _words(verdict, more))
