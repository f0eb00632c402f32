"""Trials: how many runs it takes to see a difference (model, section 9)."""

from math import sqrt

POWER = 0.8
SIGNIFICANCE = 0.05
FEWEST_PER_SETUP = 4
"""fewer runs than eight in all can hardly be told from chance, whatever they show"""
MOST_PER_SETUP = 200


def runs_needed(difference: float, spread: float) -> int | None:
    """Runs per setup for 80 % power at 5 % to see ``difference`` between two means with standard deviation
    ``spread`` (same unit), two-sided t test; None where more than 200 would be needed or nothing differs."""
    from scipy.special import nctdtr, stdtrit

    if difference == 0 or spread <= 0:
        return None
    for n in range(FEWEST_PER_SETUP, MOST_PER_SETUP + 1):
        freedom = 2 * n - 2
        shift = abs(difference) / spread * sqrt(n / 2)
        critical = stdtrit(freedom, 1 - SIGNIFICANCE / 2)
        if 1 - nctdtr(freedom, shift, critical) + nctdtr(freedom, shift, -critical) >= POWER:
            return n
    return None
