"""Compiled loops: the speed plan, the cutting of a ride into steps, and the heat integration.

Everything here works on plain arrays in SI units (temperatures in °C). Numba compiles at first use and keeps the
result; ``clavis warm`` does it at set-up. Why compiled: docs/decisions/003-compiled-heat-loop.md.
"""

from collections.abc import Callable
from math import sqrt
from typing import Any, TypeVar, cast

import numba
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
F = TypeVar("F", bound=Callable[..., Any])


def _jit(function: F) -> F:
    return cast(F, numba.njit(cache=True, error_model="numpy")(function))


GAS_CONSTANT = 287.05  # J/kgK, dry air
WET_UNTIL_C = 80.0  # a wet ring counts as wet until it first passes this

# Columns of a setup's row, in the order of COLUMNS. Capacities J/K, conductances W/K, areas m², lengths m.
COLUMNS = (
    "ring_capacity", "ring_area", "ring_emissivity", "ring_length", "ring_radius",
    "carrier_capacity", "carrier_area", "carrier_length", "carrier_radius", "ring_to_carrier",
    "ring_to_pads_on", "ring_to_pads_off", "pads_capacity", "fin_area", "pads_to_caliper",
    "caliper_capacity", "caliper_area", "caliper_emissivity", "caliper_to_fluid", "fluid_capacity",
    "ring_share", "airflow_ratio", "convection_ratio", "still_air", "wheel_radius",
    "t1", "t2", "fade_onset", "mu_cold", "mu_work", "mu_slope_per_k", "mu_floor", "wet_ratio",
)  # fmt: skip
(
    C_RING, A_RING, E_RING, L_RING, R_RING,
    C_CARRIER, A_CARRIER, L_CARRIER, R_CARRIER, G_RC,
    G_RP_ON, G_RP_OFF, C_PADS, A_FIN, G_PK,
    C_CALIPER, A_CALIPER, E_CALIPER, G_KF, C_FLUID,
    GAMMA, AIRFLOW, CONVECTION, STILL, R_WHEEL,
    T1, T2, T_FADE, MU_COLD, MU_WORK, MU_SLOPE, MU_FLOOR, WET,
) = range(len(COLUMNS))  # fmt: skip
FIN_LENGTH_M = 0.020
CALIPER_LENGTH_M = 0.040


@_jit
def plan_speeds(
    ds: Array,
    slope_sin: Array,
    slope_cos: Array,
    rho: Array,
    hold: Array,
    cap: Array,
    mass: float,
    drag_area: float,
    rolling: float,
    head_wind: float,
    brake_decel: float,
    half_band: float,
    start_speed: float,
) -> Array:
    """Speeds at the points of a road, m/s; shape (n + 1,) for n stretches.

    ``hold`` is the speed wanted on each stretch, ``cap`` the most allowed at each of its n + 1 points (corners,
    the final stop). ``half_band`` 0 drags: the speed is held. Above 0 pulses: roll free to (1 + δ) hold, brake
    to (1 − δ). Backward pass v_k² ≤ v_{k+1}² + 2 a ds, forward pass by free rolling; where the road would slow
    the bike the rider pedals to keep its speed.
    """
    n = len(ds)
    top = np.empty(n + 1)
    top[n] = min(cap[n], hold[n - 1] * (1.0 + half_band))
    for k in range(n - 1, -1, -1):
        most = hold[k] * (1.0 + half_band)
        allowed = min(cap[k], most)
        top[k] = min(allowed, sqrt(top[k + 1] ** 2 + 2.0 * brake_decel * ds[k]))
    v = np.empty(n + 1)
    v[0] = min(start_speed, top[0])
    braking = False
    for k in range(n):
        air = 0.5 * rho[k] * drag_area * (v[k] + head_wind) * abs(v[k] + head_wind) / mass
        free = (9.80665 * slope_sin[k] - rolling * 9.80665 * slope_cos[k] - air) / 1.02
        if half_band > 0.0:
            upper = hold[k] * (1.0 + half_band)
            lower = hold[k] * (1.0 - half_band)
            if v[k] >= upper - 1e-6:
                braking = True
            if v[k] <= lower + 1e-6:
                braking = False
            if braking:
                squared = max(v[k] ** 2 - 2.0 * brake_decel * ds[k], lower**2)
                squared = min(squared, v[k] ** 2 + 2.0 * free * ds[k]) if free < 0 else squared
            elif free < 0.0 and v[k] <= hold[k]:
                squared = v[k] ** 2
            else:
                squared = v[k] ** 2 + 2.0 * free * ds[k]
        elif free < 0.0:
            squared = v[k] ** 2 if v[k] <= hold[k] else v[k] ** 2 + 2.0 * free * ds[k]
        else:
            squared = v[k] ** 2 + 2.0 * free * ds[k]
        # pedal up to the speed wanted when below it on a road that does not give it
        if free < 0.0 and v[k] < hold[k] * (1.0 - half_band):
            squared = v[k] ** 2 + 2.0 * 0.4 * ds[k]
        v[k + 1] = min(sqrt(max(squared, 0.04)), top[k + 1])
    return v


@_jit
def cut_steps(time: Array, energy: Array, tolerance: float, longest: float) -> NDArray[np.int64]:
    """Indices of the points that bound the integration steps.

    Greedy: a step grows while the energy braked inside it, taken as even over its time, strays from the true
    course by no more than ``tolerance`` J, and while it is shorter than ``longest`` s. After a jump in power
    steps start at a quarter of a second and grow by a half each, so that transients are resolved.
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


@_jit
def _air(film_c: float, pressure: float) -> tuple[float, float]:
    """Kinematic viscosity (m²/s) and conductivity (W/mK) of air by Sutherland's formula."""
    kelvin = film_c + 273.15
    ratio = (kelvin / 273.15) ** 1.5
    mu = 1.716e-5 * ratio * 383.55 / (kelvin + 110.4)
    k = 0.0241 * ratio * 467.15 / (kelvin + 194.0)
    return mu * GAS_CONSTANT * kelvin / pressure, k


@_jit
def _film(
    flow: float, length: float, surface_c: float, ambient: float, pressure: float, still: float, ratio: float
) -> float:
    """h = h_0 + C·0.664 Re^½ Pr^⅓ k/ℓ with air at the film temperature (laminar plate), W/m²K."""
    if flow <= 0.0:
        return still
    nu, k = _air(0.5 * (surface_c + ambient), pressure)
    reynolds = flow * length / nu
    film: float = still + ratio * 0.664 * sqrt(reynolds) * 0.70 ** (1.0 / 3.0) * k / length
    return film


@_jit
def _friction(ring_c: float, p: Array) -> float:
    """Dry pad friction at the ring's temperature; the twin of ``friction.dry_mu`` (a test holds them equal)."""
    mu: float = p[MU_WORK]
    if ring_c > p[T_FADE]:
        mu = max(p[MU_WORK] - p[MU_SLOPE] * (ring_c - p[T_FADE]), p[MU_FLOOR])
    elif ring_c <= p[T1]:
        mu = p[MU_COLD]
    elif ring_c < p[T2]:
        mu = p[MU_COLD] + (p[MU_WORK] - p[MU_COLD]) * (ring_c - p[T1]) / (p[T2] - p[T1])
    return mu


@_jit
def _radiation(emissivity: float, area: float, surface_c: float, ambient_c: float) -> float:
    """Radiative conductance ε σ A (T² + T_a²)(T + T_a), W/K, temperatures absolute inside."""
    hot, cool = surface_c + 273.15, ambient_c + 273.15
    conductance: float = emissivity * 5.670374419e-8 * area * (hot * hot + cool * cool) * (hot + cool)
    return conductance


@_jit
def integrate(
    setups: Array,
    dt: Array,
    power: Array,
    speed: Array,
    braking: Array,
    force: Array,
    pressure: Array,
    ambient: float,
    start: Array,
    keep: bool,
) -> tuple[Array, Array, Array, Array, Array]:
    """Five-node heat balance of many setups over one series of steps (model, section 5).

    ``setups`` (n, len(COLUMNS)); ``dt`` s, ``power`` W, ``speed`` m/s, ``braking`` share of the step with the
    brake on, ``force`` N asked of the wheel, ``pressure`` Pa, all (m,); ``start`` (n, 5) °C in the order
    carrier, ring, pads, caliper, fluid. Implicit midpoint rule on the chain C–R–P–K–F, a tridiagonal
    system; film coefficients and radiation are iterated at the midpoint. A cable caliper has no node F.

    Returns peaks (n, 5) °C; time of each peak (n, 5) s; ledger (n, 12) J: in, stored ×5, convected from
    R, C, P, K, radiated from R, K; least μ/force along the braked way and its time (n, 2); and, if ``keep``,
    the course (n, m + 1, 5), otherwise an empty one.
    """
    n, m = setups.shape[0], len(dt)
    peaks = start.copy()
    when = np.zeros((n, 5))
    ledger = np.zeros((n, 12))
    least = np.empty((n, 2))
    course = np.empty((n if keep else 0, m + 1 if keep else 0, 5))
    x = np.empty(5)
    caps = np.empty(5)
    link = np.empty(4)
    diagonal = np.empty(5)
    rhs = np.empty(5)
    for i in range(n):
        p = setups[i]
        caps[0], caps[1], caps[2], caps[3], caps[4] = p[C_CARRIER], p[C_RING], p[C_PADS], p[C_CALIPER], p[C_FLUID]
        temp = start[i].copy()
        nodes = 5 if p[C_FLUID] > 0.0 else 4
        wet = p[WET] < 1.0
        least[i, 0] = np.inf
        least[i, 1] = 0.0
        clock = 0.0
        still, ratio = p[STILL], p[CONVECTION]
        if keep:
            course[i, 0] = temp
        for j in range(m):
            v = speed[j]
            spin = v / p[R_WHEEL]
            flow = p[AIRFLOW] * v
            flow_ring = sqrt(flow**2 + (spin * p[R_RING]) ** 2)
            flow_carrier = sqrt(flow**2 + (spin * p[R_CARRIER]) ** 2)
            pa = pressure[j]
            link[0] = p[G_RC]
            link[1] = braking[j] * p[G_RP_ON] + (1.0 - braking[j]) * p[G_RP_OFF]
            link[2] = p[G_PK]
            link[3] = p[G_KF] if nodes == 5 else 0.0
            half = 0.5 * dt[j]
            x[:] = temp
            for _sweep in range(6):
                out_c = p[A_CARRIER] * _film(flow_carrier, p[L_CARRIER], x[0], ambient, pa, still, ratio)
                out_r = p[A_RING] * _film(flow_ring, p[L_RING], x[1], ambient, pa, still, ratio)
                out_p = 0.0
                if p[A_FIN] > 0.0:
                    out_p = p[A_FIN] * _film(flow, FIN_LENGTH_M, x[2], ambient, pa, still, ratio)
                out_k = p[A_CALIPER] * _film(flow, CALIPER_LENGTH_M, x[3], ambient, pa, still, ratio)
                rad_r = _radiation(p[E_RING], p[A_RING], x[1], ambient)
                rad_k = _radiation(p[E_CALIPER], p[A_CALIPER], x[3], ambient)
                diagonal[0] = caps[0] / half + link[0] + out_c
                diagonal[1] = caps[1] / half + link[0] + link[1] + out_r + rad_r
                diagonal[2] = caps[2] / half + link[1] + link[2] + out_p
                diagonal[3] = caps[3] / half + link[2] + link[3] + out_k + rad_k
                diagonal[4] = caps[4] / half + link[3]
                rhs[0] = caps[0] / half * temp[0] + out_c * ambient
                rhs[1] = caps[1] / half * temp[1] + (out_r + rad_r) * ambient + p[GAMMA] * power[j]
                rhs[2] = caps[2] / half * temp[2] + out_p * ambient + (1.0 - p[GAMMA]) * power[j]
                rhs[3] = caps[3] / half * temp[3] + (out_k + rad_k) * ambient
                rhs[4] = caps[4] / half * temp[4]
                for a in range(1, nodes):
                    w = link[a - 1] / diagonal[a - 1]
                    diagonal[a] -= w * link[a - 1]
                    rhs[a] += w * rhs[a - 1]
                change = 0.0
                for a in range(nodes - 1, -1, -1):
                    new = rhs[a] / diagonal[a] if a == nodes - 1 else (rhs[a] + link[a] * x[a + 1]) / diagonal[a]
                    change = max(change, abs(new - x[a]))
                    x[a] = new
                if change < 1e-3:
                    break
            clock += dt[j]
            ledger[i, 0] += power[j] * dt[j]
            ledger[i, 6] += out_r * (x[1] - ambient) * dt[j]
            ledger[i, 7] += out_c * (x[0] - ambient) * dt[j]
            ledger[i, 8] += out_p * (x[2] - ambient) * dt[j]
            ledger[i, 9] += out_k * (x[3] - ambient) * dt[j]
            ledger[i, 10] += rad_r * (x[1] - ambient) * dt[j]
            ledger[i, 11] += rad_k * (x[3] - ambient) * dt[j]
            if x[1] > WET_UNTIL_C:
                wet = False
            if force[j] > 1.0:
                share = _friction(x[1], p) * (p[WET] if wet else 1.0) / force[j]
                if share < least[i, 0]:
                    least[i, 0] = share
                    least[i, 1] = clock
            for a in range(nodes):
                temp[a] = 2.0 * x[a] - temp[a]
                if temp[a] > peaks[i, a]:
                    peaks[i, a] = temp[a]
                    when[i, a] = clock
            if keep:
                course[i, j + 1] = temp
        for a in range(nodes):
            ledger[i, 1 + a] = caps[a] * (temp[a] - start[i, a])
    return peaks, when, ledger, least, course
