"""Compiled loops over a road: the speed plan, the straightest profile, the cutting of a ride into steps.

Plain arrays in SI units; how they are compiled is in ``compiled``.
"""

from math import sqrt
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from clavis.core.parameters import GRAVITY_MS2
from clavis.core.physics.compiled import compiled

Array = NDArray[np.float64]

ROTATING_MASS_RATIO = 1.02
"""mass that is sped up over mass that is carried: the wheels turn (judged)"""
SLOWEST_MS = 0.2
"""a plan never stands still"""


class Stretches(NamedTuple):
    """A road in n stretches, each (n,): length m, sine and cosine of the slope (downhill positive), air kg/m³."""

    ds: Array
    slope_sin: Array
    slope_cos: Array
    rho: Array


class SpeedWish(NamedTuple):
    """How the rider wants to go: ``hold`` m/s wanted on each stretch (n,), ``cap`` m/s the most allowed at each point
    (n + 1,) (corners, the final stop), ``brake_decel`` m/s² braked at on each stretch (n,), ``pedalled`` m/s² gained by
    pedalling where the road gives less. ``half_band`` δ 0 drags: the speed is held; above 0 pulses: roll free to
    (1 + δ) hold, brake to (1 − δ)."""

    hold: Array
    cap: Array
    brake_decel: Array
    pedalled: float
    half_band: float


class Resistance(NamedTuple):
    """What the bike meets: mass kg that has to be held, drag area m², rolling resistance, head wind m/s."""

    mass: float
    drag_area: float
    rolling: float
    head_wind: float


@compiled
def plan_speeds(road: Stretches, wish: SpeedWish, bike: Resistance) -> Array:
    """Speeds at the points of a road.

    Backward pass v_k² ≤ v_{k+1}² + 2 a ds from corners and stops, forward pass by free rolling; where the bike is below
    the speed wanted and the road restores it more slowly than ``pedalled``, the rider does, up to that speed and no
    further; so energy braked is continuous in the slope. After a pulse the bike rolls; it is pedalled from below the
    band. The ride begins at the first wanted speed.

    Parameters
    ----------
    road : Stretches
        n stretches.
    wish : SpeedWish
    bike : Resistance

    Returns
    -------
    array
        m/s, (n + 1,).

    Source: even deceleration, v² = v_0² + 2 a s (docs/model.md, section 4).

    >>> road = Stretches(np.full(3, 10.0), np.zeros(3), np.ones(3), np.full(3, 1.2))
    >>> wish = SpeedWish(np.full(3, 10.0), np.array([np.inf, np.inf, np.inf, 0.0]), np.full(3, 2.0), 0.3, 0.0)
    >>> [round(float(v), 2) for v in plan_speeds(road, wish, Resistance(90.0, 0.5, 0.007, 0.0))]
    [10.0, 8.94, 6.32, 0.0]
    """
    ds, hold, cap, brake_decel = road.ds, wish.hold, wish.cap, wish.brake_decel
    half_band, pedalled = wish.half_band, wish.pedalled
    n = len(ds)
    top = np.empty(n + 1)
    top[n] = min(cap[n], hold[n - 1] * (1.0 + half_band))
    for k in range(n - 1, -1, -1):
        most = hold[k] * (1.0 + half_band)
        allowed = min(cap[k], most)
        top[k] = min(allowed, sqrt(top[k + 1] ** 2 + 2.0 * brake_decel[k] * ds[k]))
    v = np.empty(n + 1)
    v[0] = min(hold[0], top[0])
    braking = False
    pedalling = False
    for k in range(n):
        against = v[k] + bike.head_wind
        air = 0.5 * road.rho[k] * bike.drag_area * against * abs(against) / bike.mass
        push = GRAVITY_MS2 * road.slope_sin[k] - bike.rolling * GRAVITY_MS2 * road.slope_cos[k]
        free = (push - air) / ROTATING_MASS_RATIO
        rolled = v[k] ** 2 + 2.0 * free * ds[k]
        lower = hold[k] * (1.0 - half_band)
        if v[k] >= hold[k] * (1.0 + half_band) - 1e-6:
            braking = half_band > 0.0
        if v[k] <= lower + 1e-6:
            braking = False
        if v[k] < lower - 1e-6:
            pedalling = True
        if v[k] >= hold[k] - 1e-6:
            pedalling = False
        if braking:
            squared = min(max(v[k] ** 2 - 2.0 * brake_decel[k] * ds[k], lower**2), rolled)
        elif pedalling:
            squared = max(rolled, min(v[k] ** 2 + 2.0 * pedalled * ds[k], hold[k] ** 2))
        elif v[k] <= hold[k] + 1e-6:
            # speed wanted, or on the way up from a pulse: it is kept where the road takes some
            squared = max(rolled, v[k] ** 2)
        else:
            squared = max(rolled, hold[k] ** 2)
        v[k + 1] = min(sqrt(max(squared, SLOWEST_MS**2)), top[k + 1])
    return v


@compiled
def straightest(way: Array, low: Array, high: Array) -> Array:
    """The shortest line from the middle of the first gate to the middle of the last through all between.

    A string drawn tight (the funnel walk): from where it last bent the gates ahead narrow the directions it may take;
    where they close, it bends at the gate that closed them.

    Parameters
    ----------
    way : array
        Rising, m, (n,).
    low, high : array
        The gates, m, (n,).

    Returns
    -------
    array
        m, (n,).

    Source: taut string; Davies and Kovac, Annals of Statistics 29 (2001), 1–65.

    >>> height = np.array([0.0, 0.3, -0.2, 0.1, 5.0, 5.2])
    >>> [round(float(z), 2) for z in straightest(10.0 * np.arange(6), height - 0.5, height + 0.5)]
    [0.0, 0.15, 0.3, 0.6, 4.5, 5.2]
    """
    n = len(way)
    line = np.empty(n)
    start, height = 0, 0.5 * (low[0] + high[0])
    line[0] = height
    end = 0.5 * (low[n - 1] + high[n - 1])
    while start < n - 1:
        upper, lower = np.inf, -np.inf
        at_upper = at_lower = bend = start
        bent = end
        for k in range(start + 1, n):
            bottom, top = (end, end) if k == n - 1 else (low[k], high[k])
            rise, run = bottom - height, way[k] - way[start]
            if rise / run > upper:
                bend, bent = at_upper, high[at_upper]
                break
            if (top - height) / run < lower:
                bend, bent = at_lower, low[at_lower]
                break
            if (top - height) / run <= upper:
                upper, at_upper = (top - height) / run, k
            if rise / run >= lower:
                lower, at_lower = rise / run, k
            bend = k
        for k in range(start + 1, bend + 1):
            line[k] = height + (bent - height) * (way[k] - way[start]) / (way[bend] - way[start])
        start, height = bend, bent
    return line


@compiled
def cut_steps(time: Array, energy: Array, tolerance: float, longest: float) -> NDArray[np.int64]:
    """Points that bound the integration steps.

    Greedy: a step grows while the energy braked inside it, taken as even over its time, strays from the true course
    by no more than ``tolerance``, and while it is shorter than ``longest``. After a jump in power steps start at a
    quarter of a second and grow by a half each, so that transients are resolved.

    Parameters
    ----------
    time : array
        Rising, s, (n,).
    energy : array
        Braked up to then, J, (n,).
    tolerance : float
        J, above 0.
    longest : float
        s, above 0.

    Returns
    -------
    array of int
        Indices into ``time``, the first and the last among them.

    >>> [int(k) for k in cut_steps(np.arange(9.0), 100 * np.arange(9.0), 12.0, 5.0)]
    [0, 1, 2, 3, 4, 5, 6, 8]
    """
    n = len(time)
    cuts = np.empty(n, dtype=np.int64)
    cuts[0] = 0
    count = 1
    start = 0
    span = 0.25
    last_power = -1.0
    while start < n - 1:
        end = start + 1
        while end + 1 < n and time[end + 1] - time[start] <= span:
            trial = end + 1
            duration = time[trial] - time[start]
            slope = (energy[trial] - energy[start]) / duration
            stray = 0.0
            for k in range(start + 1, trial):
                stray = max(stray, abs(energy[start] + slope * (time[k] - time[start]) - energy[k]))
            if stray > tolerance:
                break
            end = trial
        duration = max(time[end] - time[start], 1e-9)
        power = (energy[end] - energy[start]) / duration
        if last_power >= 0.0 and abs(power - last_power) > 0.3 * max(power, last_power, 50.0):
            span = 0.5
        else:
            span = min(span * 1.5, longest)
        last_power = power
        cuts[count] = end
        count += 1
        start = end
    return cuts[:count]
