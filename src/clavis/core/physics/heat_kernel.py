"""The compiled heat balance: five nodes of many setups over one series of steps (docs/model.md, section 5).

Plain arrays in SI units, temperatures in °C; how it is compiled is in ``compiled``.
"""

from math import sqrt
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
    "rotor_to_pads_on", "rotor_to_pads_off", "pads_capacity", "fin_area", "pads_to_caliper",
    "caliper_capacity", "caliper_area", "caliper_emissivity", "caliper_to_fluid", "fluid_capacity",
    "rotor_share", "airflow_ratio", "convection_ratio", "still_air", "wheel_radius",
    "t1", "t2", "fade_onset", "mu_cold", "mu_work", "mu_slope_per_k", "mu_floor", "wet_ratio",
)  # fmt: skip
(
    C_ROTOR, A_ROTOR, E_ROTOR, L_ROTOR, R_ROTOR,
    C_CARRIER, A_CARRIER, L_CARRIER, R_CARRIER, G_RC,
    G_RP_ON, G_RP_OFF, C_PADS, A_FIN, G_PK,
    C_CALIPER, A_CALIPER, E_CALIPER, G_KF, C_FLUID,
    GAMMA, AIRFLOW, CONVECTION, STILL, R_WHEEL,
    T1, T2, T_FADE, MU_COLD, MU_WORK, MU_SLOPE, MU_FLOOR, WET,
) = range(len(COLUMNS))  # fmt: skip
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
    x = 0.5 * (surface_c + ambient) / _FILM_SCALE_C
    x = min(max(x, -0.06), 1.0)
    low = _A0 + x * (_A1 + x * (_A2 + x * _A3))
    return still + _PLATE * root * (low + x * x * x * x * (_A4 + x * (_A5 + x * (_A6 + x * _A7))))


@inlined
def friction(
    rotor_c: float, t1: float, t2: float, fade: float, cold: float, work: float, slope: float, floor: float
) -> float:
    """Dry pad friction at the rotor's temperature, °C; the twin of ``friction.dry_mu`` (a test holds them equal).

    >>> round(friction(100.0, 50.0, 150.0, 300.0, 0.30, 0.40, 0.001, 0.20), 3)
    0.35
    """
    rise = cold + (work - cold) * min(max((rotor_c - t1) / (t2 - t1), 0.0), 1.0)
    fall = max(work - slope * (rotor_c - fade), floor)
    return fall if rotor_c > fade else rise


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
"""setups that are stepped together, so that the compiler can use the processor's vectors"""
SWEEPS = 2
"""solutions per step: radiation as at the step's beginning, then at the midpoint found"""


class StepArrays(NamedTuple):
    """One wheel's ride cut into m steps, each (m,): ``dt`` s, ``power`` W, ``speed`` m/s, ``braking`` share of the
    step with the brake on, ``force`` N asked of the wheel, ``pressure`` Pa of the air."""

    dt: Array
    power: Array
    speed: Array
    braking: Array
    force: Array
    pressure: Array


class Block(NamedTuple):
    """Setups that are stepped together, one column each: their rows, temperatures now, peaks and when, exchanged
    heat, least friction over force and when, wetness, and C √(U/(v ℓ)) of rotor, carrier, caliper, fins (the air's
    speed goes with the bike's)."""

    rows: Array
    now: Array
    high: Array
    high_at: Array
    sums: Array
    low: Array
    low_at: Array
    wetness: Array
    roots: Array


class Integrated(NamedTuple):
    """Peaks (n, 5) °C; time of each peak (n, 5) s; ledger (n, 12) J: in, stored ×5, convected from R, C, P, K,
    radiated from R, K; least μ/force along the braked way and its time (n, 2); the course (n, m + 1, 5), or an empty
    one where it is not kept."""

    peaks: Array
    when: Array
    ledger: Array
    least: Array
    course: Array


@compiled
def _begin(block: Block, setups: Array, first: int, count: int, ambient: float, start: Array) -> None:
    """Fill a block with setups ``first`` to ``first + count`` at their temperatures of the start."""
    p, t = block.rows, block.now
    block.sums[:, :] = 0.0
    for b in range(count):
        for a in range(setups.shape[1]):
            p[a, b] = setups[first + b, a]
        for a in range(5):
            t[a, b] = start[first + b, a]
            block.high[a, b] = t[a, b]
            block.high_at[a, b] = 0.0
        block.low[b] = np.inf
        block.low_at[b] = 0.0
        block.wetness[b] = p[WET, b]
        flow, spin = p[AIRFLOW, b], 1.0 / p[R_WHEEL, b]
        rotor_flow = sqrt(flow**2 + (spin * p[R_ROTOR, b]) ** 2)
        carrier_flow = sqrt(flow**2 + (spin * p[R_CARRIER, b]) ** 2)
        block.roots[0, b] = p[CONVECTION, b] * sqrt(rotor_flow / p[L_ROTOR, b])
        block.roots[1, b] = p[CONVECTION, b] * sqrt(carrier_flow / p[L_CARRIER, b])
        block.roots[2, b] = p[CONVECTION, b] * sqrt(flow / CALIPER_LENGTH_M)
        block.roots[3, b] = p[CONVECTION, b] * sqrt(flow / FIN_LENGTH_M)
        if p[C_FLUID, b] <= 0.0:
            p[C_FLUID, b] = 1.0
            p[G_KF, b] = 0.0
            t[4, b] = ambient


@inlined
def _advance(block: Block, count: int, steps: StepArrays, j: int, ambient: float, clock: float) -> None:
    """Step ``j`` for every setup of a block: implicit midpoint rule on the chain C–R–P–K–F, a tridiagonal system
    solved straight; film coefficients as at the step's beginning, radiation that of the midpoint."""
    p, t = block.rows, block.now
    sums, low, low_at, wetness, roots = block.sums, block.low, block.low_at, block.wetness, block.roots
    q, on, asked, step = steps.power[j], steps.braking[j], steps.force[j], steps.dt[j]
    root, half = sqrt(steps.speed[j] * steps.pressure[j]), 0.5 * step
    pressed = asked > 1.0
    for b in range(count):
        still = p[STILL, b]
        root_r, root_c = roots[0, b] * root, roots[1, b] * root
        root_k, root_p = roots[2, b] * root, roots[3, b] * root
        g_cr, g_pk, g_kf = p[G_RC, b], p[G_PK, b], p[G_KF, b]
        g_rp = on * p[G_RP_ON, b] + (1.0 - on) * p[G_RP_OFF, b]
        cap_c, cap_r, cap_p = p[C_CARRIER, b] / half, p[C_ROTOR, b] / half, p[C_PADS, b] / half
        cap_k, cap_f = p[C_CALIPER, b] / half, p[C_FLUID, b] / half
        into_r, into_p = p[GAMMA, b] * q, (1.0 - p[GAMMA, b]) * q
        tc, tr, tp, tk, tf = t[0, b], t[1, b], t[2, b], t[3, b], t[4, b]
        xc, xr, xp, xk = tc, tr, tp, tk
        xf = tf
        # film coefficients hardly change with temperature: once per step, at its beginning
        out_c = p[A_CARRIER, b] * film_w_m2k(root_c, tc, ambient, still)
        out_r = p[A_ROTOR, b] * film_w_m2k(root_r, tr, ambient, still)
        out_p = p[A_FIN, b] * film_w_m2k(root_p, tp, ambient, still)
        out_k = p[A_CALIPER, b] * film_w_m2k(root_k, tk, ambient, still)
        rad_r = rad_k = 0.0
        for _sweep in range(SWEEPS):
            rad_r = radiation_w_k(p[E_ROTOR, b], p[A_ROTOR, b], xr, ambient)
            rad_k = radiation_w_k(p[E_CALIPER, b], p[A_CALIPER, b], xk, ambient)
            d_c = cap_c + g_cr + out_c
            d_r = cap_r + g_cr + g_rp + out_r + rad_r
            d_p = cap_p + g_rp + g_pk + out_p
            d_k = cap_k + g_pk + g_kf + out_k + rad_k
            d_f = cap_f + g_kf
            b_c = cap_c * tc + out_c * ambient
            b_r = cap_r * tr + (out_r + rad_r) * ambient + into_r
            b_p = cap_p * tp + out_p * ambient + into_p
            b_k = cap_k * tk + (out_k + rad_k) * ambient
            b_f = cap_f * tf
            w = g_cr / d_c
            d_r -= w * g_cr
            b_r += w * b_c
            w = g_rp / d_r
            d_p -= w * g_rp
            b_p += w * b_r
            w = g_pk / d_p
            d_k -= w * g_pk
            b_k += w * b_p
            w = g_kf / d_k
            d_f -= w * g_kf
            b_f += w * b_k
            xf = b_f / d_f
            xk = (b_k + g_kf * xf) / d_k
            xp = (b_p + g_pk * xk) / d_p
            xr = (b_r + g_rp * xp) / d_r
            xc = (b_c + g_cr * xr) / d_c
        sums[0, b] += out_r * (xr - ambient) * step
        sums[1, b] += out_c * (xc - ambient) * step
        sums[2, b] += out_p * (xp - ambient) * step
        sums[3, b] += out_k * (xk - ambient) * step
        sums[4, b] += rad_r * (xr - ambient) * step
        sums[5, b] += rad_k * (xk - ambient) * step
        wetness[b] = 1.0 if xr > WET_UNTIL_C else wetness[b]
        mu = friction(
            xr, p[T1, b], p[T2, b], p[T_FADE, b], p[MU_COLD, b], p[MU_WORK, b], p[MU_SLOPE, b], p[MU_FLOOR, b]
        )
        share = mu * wetness[b] / asked if pressed else np.inf
        lower = share < low[b]
        low[b] = share if lower else low[b]
        low_at[b] = clock + step if lower else low_at[b]
        t[0, b], t[1, b], t[2, b] = 2.0 * xc - tc, 2.0 * xr - tr, 2.0 * xp - tp
        t[3, b], t[4, b] = 2.0 * xk - tk, 2.0 * xf - tf
    for a in range(5):
        for b in range(count):
            higher = t[a, b] > block.high[a, b]
            block.high_at[a, b] = clock + step if higher else block.high_at[a, b]
            block.high[a, b] = t[a, b] if higher else block.high[a, b]


@compiled
def _finish(block: Block, setups: Array, first: int, count: int, start: Array, heat_j: float, into: Integrated) -> None:
    """Write what a block came to into the results of all setups."""
    p, t = block.rows, block.now
    for b in range(count):
        i = first + b
        into.ledger[i, 0] = heat_j
        for a in range(5):
            into.peaks[i, a] = block.high[a, b]
            into.when[i, a] = block.high_at[a, b]
        into.least[i, 0] = block.low[b]
        into.least[i, 1] = block.low_at[b]
        into.ledger[i, 1] = p[C_CARRIER, b] * (t[0, b] - start[i, 0])
        into.ledger[i, 2] = p[C_ROTOR, b] * (t[1, b] - start[i, 1])
        into.ledger[i, 3] = p[C_PADS, b] * (t[2, b] - start[i, 2])
        into.ledger[i, 4] = p[C_CALIPER, b] * (t[3, b] - start[i, 3])
        into.ledger[i, 5] = p[C_FLUID, b] * (t[4, b] - start[i, 4]) if setups[i, C_FLUID] > 0.0 else 0.0
        for a in range(6):
            into.ledger[i, 6 + a] = block.sums[a, b]


@compiled
def integrate(setups: Array, steps: StepArrays, ambient: float, start: Array, keep: bool) -> Integrated:
    """Heat balance of many setups over one series of steps.

    Five capacities in a chain, carrier – rotor – pads – caliper – fluid. Implicit midpoint rule; the tridiagonal
    system is solved straight. A cable caliper has no fluid: a capacity of one that exchanges nothing stands for it.

    Parameters
    ----------
    setups : array
        (n, len(COLUMNS)), in their units.
    steps : StepArrays
        m steps.
    ambient : float
        °C.
    start : array
        °C, (n, 5), in the order of the chain.
    keep : bool
        Keep the course of every setup.

    Returns
    -------
    Integrated

    Source: implicit midpoint rule, Hairer, Nørsett and Wanner, Solving Ordinary Differential Equations I, 2nd ed.,
    Springer 1993, section II.7; tridiagonal solution, Press and others, Numerical Recipes, 3rd ed., Cambridge 2007,
    section 2.4.

    >>> from clavis.core.parts.mounts import End
    >>> from clavis.core.parameters import ModelParameters
    >>> from clavis.core.parts.samples import CALIPER, PAD, ROTOR
    >>> from clavis.core.physics.heat import WornBrake, node_row
    >>> row = node_row(WornBrake(ROTOR, 1.8, PAD, 2.0, CALIPER, End.FRONT), 0.345, wet=False, p=ModelParameters())
    >>> one = np.ones(120)
    >>> steps = StepArrays(0.5 * one, 300 * one, 10 * one, one, 30 * one, 101325 * one)
    >>> round(float(integrate(row[None], steps, 20.0, np.full((1, 5), 20.0), False).peaks[0, 1]))
    159
    """
    n, m = setups.shape[0], len(steps.dt)
    out = Integrated(
        start.copy(),
        np.zeros((n, 5)),
        np.zeros((n, 12)),
        np.zeros((n, 2)),
        np.empty((n if keep else 0, m + 1 if keep else 0, 5)),
    )
    width = min(BLOCK, n)
    block = Block(
        np.empty((setups.shape[1], width)),
        np.empty((5, width)),
        np.empty((5, width)),
        np.empty((5, width)),
        np.empty((6, width)),
        np.empty(width),
        np.empty(width),
        np.empty(width),
        np.empty((4, width)),
    )
    heat_j = (steps.power * steps.dt).sum()
    for first in range(0, n, width):
        count = min(width, n - first)
        _begin(block, setups, first, count, ambient, start)
        if keep:
            for b in range(count):
                out.course[first + b, 0] = start[first + b]
        clock = 0.0
        for j in range(m):
            _advance(block, count, steps, j, ambient, clock)
            clock += steps.dt[j]
            if keep:
                for b in range(count):
                    for a in range(5):
                        out.course[first + b, j + 1, a] = block.now[a, b]
        _finish(block, setups, first, count, start, heat_j, out)
    return out
