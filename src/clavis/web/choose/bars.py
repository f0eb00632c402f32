"""Bars: where on them a figure and its limits stand, in percent of their width."""

from dataclasses import dataclass

from clavis.core.physics.forces import Hand, WheelForces

HEAT_TOP_C = 550.0
"""the one heat ramp runs from ambient to here; the same for every temperature on every page"""
HEAT_STEPS = 11
HAND_ROOM = 1.6
"""a hand's bar runs so far beyond the most that it gives"""


def share_pct(value: float, top: float) -> float:
    """How far along a bar a value stands, 0 to 100."""
    return round(100 * min(max(value / top, 0.0), 1.0), 1)


def heat_step(celsius: float) -> int:
    """The colour of a temperature on the heat ramp."""
    return int(min(max(celsius / HEAT_TOP_C, 0.0), 0.999) * HEAT_STEPS)


@dataclass(frozen=True)
class HeatBar:
    """A temperature on the heat ramp, and its limit; None where there is none or it is not known."""

    step: int
    at: float
    limit: float | None


def heat_bar(celsius: float, limit_c: float | None) -> HeatBar:
    limit = None if limit_c is None else share_pct(limit_c, HEAT_TOP_C)
    return HeatBar(heat_step(celsius), share_pct(celsius, HEAT_TOP_C), limit)


@dataclass(frozen=True)
class HandBar:
    """What a stop asks of the hand, and where the wheel is at the limit of the ground, against what this hand does with
    ease and at most; places in percent, forces in N. ``beyond``: the bar ends before the figure."""

    comfortable: float
    greatest: float
    target: float
    lock: float
    comfortable_n: float
    greatest_n: float
    target_n: float
    lock_n: float
    target_beyond: bool
    lock_beyond: bool


def hand_bar(forces: WheelForces, hand: Hand) -> HandBar:
    top = HAND_ROOM * hand.greatest_n
    return HandBar(
        comfortable=share_pct(hand.comfortable_n, top),
        greatest=share_pct(hand.greatest_n, top),
        target=share_pct(forces.finger_target_n, top),
        lock=share_pct(forces.finger_lock_n, top),
        comfortable_n=hand.comfortable_n,
        greatest_n=hand.greatest_n,
        target_n=forces.finger_target_n,
        lock_n=forces.finger_lock_n,
        target_beyond=forces.finger_target_n > top,
        lock_beyond=forces.finger_lock_n > top,
    )
