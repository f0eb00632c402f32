"""The compiled heat balance: six nodes of many setups over one series of steps (docs/model.md, section 5).

Plain arrays in SI units, temperatures in °C; how it is compiled is in ``compiled``.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from math import sqrt
from os import cpu_count
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from clavis.core.parameters import GAS_CONSTANT_J_KGK, STEFAN_BOLTZMANN
from clavis.core.physics.compiled import compiled, inlined
from clavis.core.units import KELVIN_AT_0_C

Array = NDArray[np.float64]

WET_UNTIL_C = 80.0  # a wet rotor counts as wet until it first passes this

# Columns of a setup's row, in the order of COLUMNS. Capacities J/K, conductances W/K, areas m², lengths m.
COLUMNS = (
    "rotor_capacity", "rotor_area", "rotor_emissivity", "rotor_length", "rotor_radius",
    "carrier_capacity", "carrier_area", "carrier_length", "carrier_radius", "rotor_to_carrier",
    "rotor_to_surface_on", "rotor_to_surface_off", "surface_capacity", "surface_to_pads",
    "pads_capacity", "fin_area", "pads_to_caliper",
    "caliper_capacity", "caliper_area", "caliper_emissivity", "caliper_to_fluid", "fluid_capacity",
    "rotor_share", "airflow_ratio", "convection_ratio", "still_air", "wheel_radius",
    "t1", "t2", "fade_onset", "mu_cold", "mu_rise_per_k", "mu_fall", "mu_slope_per_k", "mu_floor", "wet_ratio",
)  # fmt: skip
(
    C_ROTOR, A_ROTOR, E_ROTOR, L_ROTOR, R_ROTOR,
    C_CARRIER, A_CARRIER, L_CARRIER, R_CARRIER, G_RC,
    G_RS_ON, G_RS_OFF, C_SURFACE, G_SP,
    C_PADS, A_FIN, G_PK,
    C_CALIPER, A_CALIPER, E_CALIPER, G_KF, C_FLUID,
    GAMMA, AIRFLOW, CONVECTION, STILL, R_WHEEL,
    T1, T2, T_FADE, MU_COLD, MU_RISE, MU_FALL, MU_SLOPE, MU_FLOOR, WET,
) = range(len(COLUMNS))  # fmt: skip
NODES = 6
FIN_LENGTH_M = 0.020
CALIPER_LENGTH_M = 0.040


# k/√ν of air at the film temperature, W s^½/(m² K) at 1 Pa: Sutherland's formulas for viscosity and conductivity,
# fitted by a polynomial in the film temperature from −60 to 1 000 °C so that the loop over setups has no powers in
# it. A test holds it to the formulas within 0.05 %.
_FILM_SCALE_C = 1000.0


def air_factor(film_c: Array) -> Array:
    """The part of the film coefficient that depends on temperature: k(T) √(p/ν(T) · 1/p).

    Parameters
    ----------
    film_c : array
        Mean of surface and air, °C.

    Returns
    -------
    array
        W s^½/(m² K Pa^½).

    Source: Sutherland's formulas for viscosity and conductivity of air; White, Viscous Fluid Flow, 3rd ed., McGraw-Hill
    2006, tables 1-2 and 1-3.

    >>> round(float(air_factor(np.array([20.0]))[0]), 5)
    0.0208
    """
    kelvin = film_c + KELVIN_AT_0_C
    ratio = (kelvin / KELVIN_AT_0_C) ** 1.5
    mu = 1.716e-5 * ratio * 383.55 / (kelvin + 110.4)
    k = 0.0241 * ratio * 467.15 / (kelvin + 194.0)
    return np.asarray(k / np.sqrt(mu * GAS_CONSTANT_J_KGK * kelvin), dtype=np.float64)


_TEMPERATURES = np.linspace(-60.0, 1000.0, 800)
_FACTORS = air_factor(_TEMPERATURES)
_AIR = np.polynomial.polynomial.polyfit(_TEMPERATURES / _FILM_SCALE_C, _FACTORS, 7, w=1 / _FACTORS)
_A0, _A1, _A2, _A3, _A4, _A5, _A6, _A7 = (float(c) for c in _AIR)
_PLATE = 0.664 * 0.70 ** (1.0 / 3.0)


@inlined
def film_w_m2k(root: float, surface_c: float, ambient: float, still: float) -> float:
    """Film coefficient of a surface in the air that passes: h_0 + C · 0.664 Re^½ Pr^⅓ k/ℓ.

    Parameters
    ----------
    root : float
        C √(U p/ℓ), everything that does not depend on the surface's temperature, SI.
    surface_c, ambient : float
        °C.
    still : float
        h_0 in still air, W/m²K.

    Returns
    -------
    float
        W/m²K.

    Source: mean of a laminar flat plate; Incropera and others, Fundamentals of Heat and Mass Transfer, 6th ed., Wiley
    2007, section 7.2.1.

    >>> round(film_w_m2k(1000.0, 100.0, 20.0, 6.0), 2)
    18.27
    """
    x = min(max((0.5 / _FILM_SCALE_C) * (surface_c + ambient), -0.06), 1.0)
    low = _A0 + x * (_A1 + x * (_A2 + x * _A3))
    return still + _PLATE * root * (low + x * x * x * x * (_A4 + x * (_A5 + x * (_A6 + x * _A7))))


@inlined
def friction(
    rotor_c: float, t1: float, t2: float, cold: float, rise_per_k: float, fall: float, slope: float, floor: float
) -> float:
    """Dry pad friction at the rotor's temperature, °C: the lesser of a rise from t1 to t2 and of a line that falls by
    ``slope`` per kelvin from ``fall`` at 0 °C to a floor; the twin of ``friction.dry_mu`` (a test holds them equal).

    >>> round(friction(100.0, 50.0, 150.0, 0.30, 0.001, 0.70, 0.001, 0.20), 3)
    0.35
    """
    return min(cold + rise_per_k * (min(max(rotor_c, t1), t2) - t1), max(fall - slope * rotor_c, floor))


@inlined
def radiation_w_k(emissivity: float, area: float, surface_c: float, ambient_c: float) -> float:
    """Conductance by radiation: ε σ A (T² + T_a²)(T + T_a), temperatures absolute inside.

    Parameters
    ----------
    emissivity : float
        0 to 1.
    area : float
        m².
    surface_c, ambient_c : float
        °C.

    Returns
    -------
    float
        W/K.

    Source: a small grey body in large surroundings; Incropera and others, Fundamentals of Heat and Mass Transfer, 6th
    ed., Wiley 2007, eq. 1.9.

    >>> round(radiation_w_k(0.35, 0.02, 200.0, 20.0), 4)
    0.0942
    """
    hot, cool = surface_c + KELVIN_AT_0_C, ambient_c + KELVIN_AT_0_C
    return emissivity * STEFAN_BOLTZMANN * area * (hot * hot + cool * cool) * (hot + cool)


BLOCK = 64
"""setups that are stepped together, side by side in memory, so that the compiler can use the processor's vectors"""

# Rows of a block's scratch: BLOCK values each, one of every setup, at the offsets below. One flat array with offsets
# known to the compiler is what lets it see that no row runs into another, and so use vectors without asking.
_ROWS = (
    "cap_c", "cap_r", "cap_p", "cap_k", "cap_f", "cap_s", "per_cap_s",
    "out_c", "out_r", "out_p", "out_k", "ray_r", "ray_k",
    "g_rc", "g_on", "g_off", "g_sp", "g_pk", "g_kf", "gamma", "still",
    "t1", "t2", "fade", "cold", "rise", "fall", "slope", "floor", "wet",
    "heat", "asked",
    "c", "r", "s", "p", "k", "f",
    "high_c", "high_r", "high_s", "high_p", "high_k", "high_f",
    "air_r", "air_c", "air_p", "air_k", "rad_r", "rad_k",
    "mu", "low", "low_at", "hot", "flow_c", "flow_r", "flow_p", "flow_k",
)  # fmt: skip
(
    _CAP_C, _CAP_R, _CAP_P, _CAP_K, _CAP_F, _CAP_S, _PER_CAP_S,
    _OUT_C, _OUT_R, _OUT_P, _OUT_K, _RAY_R, _RAY_K,
    _G_RC, _G_ON, _G_OFF, _G_SP, _G_PK, _G_KF, _GAMMA, _STILL,
    _T1, _T2, _FADE, _COLD, _RISE, _FALL, _SLOPE, _FLOOR, _WET,
    _HEAT, _ASKED,
    _C, _R, _S, _P, _K, _F,
    _HIGH_C, _HIGH_R, _HIGH_S, _HIGH_P, _HIGH_K, _HIGH_F,
    _AIR_R, _AIR_C, _AIR_P, _AIR_K, _RAD_R, _RAD_K,
    _MU, _LOW, _LOW_AT, _HOT, _FLOW_C, _FLOW_R, _FLOW_P, _FLOW_K,
) = range(0, len(_ROWS) * BLOCK, BLOCK)  # fmt: skip
_SCRATCH = len(_ROWS) * BLOCK


class StepArrays(NamedTuple):
    """One wheel's ride cut into m steps: ``dt`` s, ``speed`` m/s, ``braking`` share of the step with the brake on,
    ``pressure`` Pa of the air, each (m,); ``power`` W, and ``force`` N, the most that is asked of the wheel inside the
    step, each (m, 1) for all setups or (m, n) for each its own."""

    dt: Array
    power: Array
    speed: Array
    braking: Array
    force: Array
    pressure: Array


class Integrated(NamedTuple):
    """Peaks (n, 6) °C; ledger (n, 13) J: in, stored ×6, convected from R, C, P, K, radiated from R, K; least μ/force
    along the braked way and its time (n, 2); energy braked with the rotor above fade onset (n,) J; the course
    (n, m + 1, 6), or an empty one where it is not kept."""

    peaks: Array
    ledger: Array
    least: Array
    hot: Array
    course: Array


@compiled
def _begin(w: Array, setups: Array, first: int, count: int, ambient: float, start: Array) -> None:
    """Fill a block with setups ``first`` to ``first + count`` at their temperatures of the start."""
    for b in range(count):
        p = setups[first + b]
        w[_CAP_C + b], w[_CAP_R + b], w[_CAP_P + b] = 2.0 * p[C_CARRIER], 2.0 * p[C_ROTOR], 2.0 * p[C_PADS]
        w[_CAP_K + b], w[_CAP_F + b], w[_G_KF + b] = 2.0 * p[C_CALIPER], 2.0 * p[C_FLUID], p[G_KF]
        w[_CAP_S + b], w[_PER_CAP_S + b] = p[C_SURFACE], 1.0 / p[C_SURFACE]
        w[_OUT_C + b], w[_OUT_R + b], w[_OUT_P + b], w[_OUT_K + b] = p[A_CARRIER], p[A_ROTOR], p[A_FIN], p[A_CALIPER]
        w[_RAY_R + b] = p[E_ROTOR] * STEFAN_BOLTZMANN * p[A_ROTOR]
        w[_RAY_K + b] = p[E_CALIPER] * STEFAN_BOLTZMANN * p[A_CALIPER]
        w[_G_RC + b], w[_G_ON + b], w[_G_OFF + b] = p[G_RC], p[G_RS_ON], p[G_RS_OFF]
        w[_G_SP + b], w[_G_PK + b], w[_GAMMA + b], w[_STILL + b] = p[G_SP], p[G_PK], p[GAMMA], p[STILL]
        w[_T1 + b], w[_T2 + b], w[_FADE + b], w[_COLD + b] = p[T1], p[T2], p[T_FADE], p[MU_COLD]
        w[_RISE + b], w[_FALL + b], w[_SLOPE + b], w[_FLOOR + b] = p[MU_RISE], p[MU_FALL], p[MU_SLOPE], p[MU_FLOOR]
        for a in range(NODES):
            w[_C + a * BLOCK + b] = w[_HIGH_C + a * BLOCK + b] = start[first + b, a]
        for a in range(6):
            w[_AIR_R + a * BLOCK + b] = 0.0
        if p[C_FLUID] <= 0.0:  # a cable caliper: a capacity of one that exchanges nothing
            w[_CAP_F + b], w[_G_KF + b] = 2.0, 0.0
            w[_F + b] = w[_HIGH_F + b] = ambient
        rotor_c = start[first + b, 1]
        w[_WET + b] = 1.0 if rotor_c > WET_UNTIL_C else p[WET]
        mu = friction(rotor_c, p[T1], p[T2], p[MU_COLD], p[MU_RISE], p[MU_FALL], p[MU_SLOPE], p[MU_FLOOR])
        w[_MU + b] = mu * w[_WET + b]
        w[_LOW + b], w[_LOW_AT + b], w[_HOT + b] = np.inf, 0.0, 0.0
        # the air's speed goes with the bike's: C √(U/(v ℓ))
        flow, spin, c = p[AIRFLOW], 1.0 / p[R_WHEEL], p[CONVECTION]
        w[_FLOW_R + b] = c * sqrt(sqrt(flow**2 + (spin * p[R_ROTOR]) ** 2) / p[L_ROTOR])
        w[_FLOW_C + b] = c * sqrt(sqrt(flow**2 + (spin * p[R_CARRIER]) ** 2) / p[L_CARRIER])
        w[_FLOW_P + b], w[_FLOW_K + b] = c * sqrt(flow / FIN_LENGTH_M), c * sqrt(flow / CALIPER_LENGTH_M)


@inlined
def _advance(w: Array, count: int, on: float, step: float, root: float, ambient: float, clock: float) -> None:
    """One step for every setup of a block.

    Implicit midpoint rule on the chain C–R–S–P–K–F: a tridiagonal system, eliminated from both ends towards the rotor.
    Film coefficients are those of the step's beginning, radiation its tangent there. The pads' surface follows its
    neighbours within a fraction of a second, less than many steps take: it stands in the system with its mean over the
    step, c (S − S_0) with c = (C_S/dt) · (1 + z/2 + z²/6 + z³/24)/(1/2 + z/3 + z²/8 + z³/24), z = dt ΣG/C_S; with e^z
    up to its fourth power that is the exponential solution, second order where the step is short and backward Euler
    where it is long.
    """
    per_step, off = 1.0 / step, 1.0 - on
    air_k = ambient + KELVIN_AT_0_C
    air_4 = air_k * air_k * air_k * air_k
    for b in range(count):
        q, still = w[_HEAT + b], w[_STILL + b]
        tc, tr, ts, tp, tk, tf = w[_C + b], w[_R + b], w[_S + b], w[_P + b], w[_K + b], w[_F + b]
        into_r = w[_GAMMA + b] * q
        into_s = q - into_r
        # what leaves to the air
        out_c = w[_OUT_C + b] * film_w_m2k(w[_FLOW_C + b] * root, tc, ambient, still)
        out_r = w[_OUT_R + b] * film_w_m2k(w[_FLOW_R + b] * root, tr, ambient, still)
        out_p = w[_OUT_P + b] * film_w_m2k(w[_FLOW_P + b] * root, tp, ambient, still)
        out_k = w[_OUT_K + b] * film_w_m2k(w[_FLOW_K + b] * root, tk, ambient, still)
        hot_r, hot_k = tr + KELVIN_AT_0_C, tk + KELVIN_AT_0_C
        ray_r, ray_k = w[_RAY_R + b], w[_RAY_K + b]
        cube_r, cube_k = hot_r * hot_r * hot_r, hot_k * hot_k * hot_k
        rad_r, rad_k = ray_r * (cube_r * hot_r - air_4), ray_k * (cube_k * hot_k - air_4)
        per_r, per_k = 4.0 * ray_r * cube_r, 4.0 * ray_k * cube_k
        # the system
        g_rc, g_sp, g_pk, g_kf = w[_G_RC + b], w[_G_SP + b], w[_G_PK + b], w[_G_KF + b]
        g_rs = on * w[_G_ON + b] + off * w[_G_OFF + b]
        z = step * (g_rs + g_sp) * w[_PER_CAP_S + b]
        even = 1.0 + z * (0.5 + z * (1 / 6 + z * (1 / 24)))
        cap_s = per_step * w[_CAP_S + b] * even / (0.5 + z * (1 / 3 + z * (1 / 8 + z * (1 / 24))))
        cap_c, cap_r = per_step * w[_CAP_C + b], per_step * w[_CAP_R + b]
        cap_p, cap_k, cap_f = per_step * w[_CAP_P + b], per_step * w[_CAP_K + b], per_step * w[_CAP_F + b]
        b_c = cap_c * tc + out_c * ambient
        b_r = cap_r * tr + out_r * ambient + per_r * tr - rad_r + into_r
        b_s = cap_s * ts + into_s
        b_p = cap_p * tp + out_p * ambient
        b_k = cap_k * tk + out_k * ambient + per_k * tk - rad_k
        b_f = cap_f * tf
        i_f = 1.0 / (cap_f + g_kf)
        part = g_kf * i_f
        b_k += part * b_f
        i_k = 1.0 / (cap_k + g_pk + g_kf + out_k + per_k - part * g_kf)
        part = g_pk * i_k
        b_p += part * b_k
        i_p = 1.0 / (cap_p + g_sp + g_pk + out_p - part * g_pk)
        part = g_sp * i_p
        b_s += part * b_p
        i_s = 1.0 / (cap_s + g_rs + g_sp - part * g_sp)
        part = g_rs * i_s
        b_r += part * b_s
        i_c = 1.0 / (cap_c + g_rc + out_c)
        whole = g_rc * i_c
        b_r += whole * b_c
        xr = b_r / (cap_r + g_rc + g_rs + out_r + per_r - part * g_rs - whole * g_rc)
        xc = (b_c + g_rc * xr) * i_c
        xs = (b_s + g_rs * xr) * i_s
        xp = (b_p + g_sp * xs) * i_p
        xk = (b_k + g_pk * xp) * i_k
        xf = (b_f + g_kf * xk) * i_f
        # where the heat went
        w[_AIR_R + b] += out_r * (xr - ambient) * step
        w[_AIR_C + b] += out_c * (xc - ambient) * step
        w[_AIR_P + b] += out_p * (xp - ambient) * step
        w[_AIR_K + b] += out_k * (xk - ambient) * step
        w[_RAD_R + b] += (rad_r + per_r * (xr - tr)) * step
        w[_RAD_K + b] += (rad_k + per_k * (xk - tk)) * step
        tc, tr, tp = 2.0 * xc - tc, 2.0 * xr - tr, 2.0 * xp - tp
        tk, tf = 2.0 * xk - tk, 2.0 * xf - tf
        ts += (g_rs * (xr - xs) + g_sp * (xp - xs) + into_s) * step * w[_PER_CAP_S + b]
        w[_C + b], w[_R + b], w[_S + b], w[_P + b], w[_K + b], w[_F + b] = tc, tr, ts, tp, tk, tf
        w[_HIGH_C + b], w[_HIGH_R + b] = max(w[_HIGH_C + b], tc), max(w[_HIGH_R + b], tr)
        w[_HIGH_S + b], w[_HIGH_P + b] = max(w[_HIGH_S + b], ts), max(w[_HIGH_P + b], tp)
        w[_HIGH_K + b], w[_HIGH_F + b] = max(w[_HIGH_K + b], tk), max(w[_HIGH_F + b], tf)
        w[_HOT + b] += q * step if xr > w[_FADE + b] else 0.0
        # friction between the step's ends is least at one of them
        wet = 1.0 if tr > WET_UNTIL_C else w[_WET + b]
        rise_from, rise_to, rise = w[_T1 + b], w[_T2 + b], w[_RISE + b]
        cold, fall, slope, floor = w[_COLD + b], w[_FALL + b], w[_SLOPE + b], w[_FLOOR + b]
        mu = wet * friction(tr, rise_from, rise_to, cold, rise, fall, slope, floor)
        share, low = min(mu, w[_MU + b]) * w[_ASKED + b], w[_LOW + b]
        lower = share < low
        w[_LOW + b] = share if lower else low
        w[_LOW_AT + b] = clock if lower else w[_LOW_AT + b]
        w[_MU + b], w[_WET + b] = mu, wet


@inlined
def _ask(w: Array, first: int, count: int, power: Array, force: Array, j: int) -> None:
    """Power of step ``j`` and one over the force asked; the brake is on from a newton."""
    own, own_force = power.shape[1] > 1, force.shape[1] > 1
    for b in range(count):
        w[_HEAT + b] = power[j, first + b if own else 0]
        asked = force[j, first + b if own_force else 0]
        w[_ASKED + b] = 1.0 / asked if asked > 1.0 else np.inf


@compiled
def _finish(w: Array, setups: Array, first: int, count: int, start: Array, into: Integrated) -> None:
    """Write what a block came to into the results of all setups."""
    capacities = (C_CARRIER, C_ROTOR, C_SURFACE, C_PADS, C_CALIPER, C_FLUID)
    for b in range(count):
        i = first + b
        for a in range(NODES):
            into.peaks[i, a] = w[_HIGH_C + a * BLOCK + b]
            capacity = setups[i, capacities[a]]
            into.ledger[i, 1 + a] = capacity * (w[_C + a * BLOCK + b] - start[i, a]) if capacity > 0.0 else 0.0
        for a in range(6):
            into.ledger[i, 1 + NODES + a] = w[_AIR_R + a * BLOCK + b]
        into.least[i, 0], into.least[i, 1], into.hot[i] = w[_LOW + b], w[_LOW_AT + b], w[_HOT + b]


@compiled
def _integrate(
    setups: Array, steps: StepArrays, ambient: float, start: Array, keep: bool, out: Integrated, begin: int, end: int
) -> None:
    """Setups ``begin`` to ``end`` of all."""
    w = np.zeros(_SCRATCH)
    for first in range(begin, end, BLOCK):
        count = min(BLOCK, end - first)
        _begin(w, setups, first, count, ambient, start)
        if keep:
            for b in range(count):
                out.course[first + b, 0] = start[first + b]
        clock = 0.0
        for j in range(len(steps.dt)):
            _ask(w, first, count, steps.power, steps.force, j)
            root = sqrt(steps.speed[j] * steps.pressure[j])
            clock += steps.dt[j]
            _advance(w, count, steps.braking[j], steps.dt[j], root, ambient, clock)
            if keep:
                for b in range(count):
                    for a in range(NODES):
                        out.course[first + b, j + 1, a] = w[_C + a * BLOCK + b]
        _finish(w, setups, first, count, start, out)


WORTH_A_THREAD = 100_000
"""setups × steps from which a second core is asked: a millisecond or two of work"""


@lru_cache(maxsize=1)
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=cpu_count() or 1, thread_name_prefix="heat")


def _together(work: Callable[[int, int], None], n: int, cores: int) -> None:
    """The blocks of ``n`` setups in equal parts on so many cores; the loop holds no lock of the interpreter."""
    blocks = -(-n // BLOCK)
    bounds = [min(BLOCK * round(blocks * k / cores), n) for k in range(cores + 1)]
    others = [_pool().submit(work, bounds[k], bounds[k + 1]) for k in range(1, cores)]
    work(bounds[0], bounds[1])
    for other in others:
        other.result()


def integrate(setups: Array, steps: StepArrays, ambient: float, start: Array, keep: bool) -> Integrated:
    """Heat balance of many setups over one series of steps.

    Six capacities in a chain, carrier – rotor – pads' surface – pads – caliper – fluid; see ``_advance``. A cable
    caliper has no fluid: a capacity of one that exchanges nothing stands for it.

    Parameters
    ----------
    setups : array
        (n, len(COLUMNS)), in their units.
    steps : StepArrays
        m steps.
    ambient : float
        °C.
    start : array
        °C, (n, 6), in the order of the chain.
    keep : bool
        Keep the course of every setup.

    Returns
    -------
    Integrated

    Source: implicit midpoint rule, Hairer, Nørsett and Wanner, Solving Ordinary Differential Equations I, 2nd ed.,
    Springer 1993, section II.7; exponential integrators, Hochbruck and Ostermann, Acta Numerica 19 (2010), 209–286;
    tridiagonal solution, Press and others, Numerical Recipes, 3rd ed., Cambridge 2007, section 2.4.

    >>> from clavis.core.parts.mounts import End
    >>> from clavis.core.parameters import ModelParameters
    >>> from clavis.core.parts.samples import CALIPER, PAD, ROTOR
    >>> from clavis.core.physics.heat import WornBrake, node_row
    >>> row = node_row(WornBrake(ROTOR, 1.8, PAD, 2.0, CALIPER, End.FRONT), 0.345, wet=False, p=ModelParameters())
    >>> one = np.ones(120)
    >>> steps = StepArrays(0.5 * one, 300 * one[:, None], 10 * one, one, 30 * one[:, None], 101325 * one)
    >>> round(float(integrate(row[None], steps, 20.0, np.full((1, NODES), 20.0), False).peaks[0, 1]))
    160
    """
    n, m = setups.shape[0], len(steps.dt)
    out = Integrated(
        np.empty((n, NODES)),
        np.zeros((n, 1 + NODES + 6)),
        np.zeros((n, 2)),
        np.zeros(n),
        np.empty((n if keep else 0, m + 1 if keep else 0, NODES)),
    )
    out.ledger[:, 0] = steps.dt @ steps.power
    cores = min(cpu_count() or 1, -(-n // BLOCK)) if n * m > WORTH_A_THREAD else 1
    _together(lambda a, b: _integrate(setups, steps, ambient, start, keep, out, a, b), n, cores)
    return out
