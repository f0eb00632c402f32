"""Friction of the four compounds against temperature, and the states that multiply it (docs/model.md, section 3)."""

from enum import StrEnum
from math import exp

import numpy as np
from numpy.typing import NDArray

from clavis.core.parts.compounds import CompoundRow
from clavis.core.physics import heat_kernel
from clavis.core.physics.compiled import compiled

GLAZED_RATIO = 0.7


class PadState(StrEnum):
    """What is known of the pads' face."""

    NOT_CHECKED = "not_checked"
    GOOD = "good"
    NEW = "new"
    GLAZED = "glazed"
    OILED = "oiled"
    METAL = "metal"


def dry_mu(row: CompoundRow, rotor_c: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """Friction of pads on a rotor, dry and bedded in.

    μ_cold below T_1, rising evenly to μ_work at T_2, level to T_fade, then falling by ``slope_per_100k`` per 100 K to
    a floor.

    Parameters
    ----------
    row : CompoundRow
        The compound's figures.
    rotor_c : float or array
        Rotor temperature, °C, any shape.

    Returns
    -------
    array
        Friction over clamping force, the same shape.

    Source: judged, ± 12 %, after the shape that pad makers and textbooks show (docs/model.md, section 3).

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> [round(float(mu), 3) for mu in dry_mu(COMPOUNDS["resin"], [10.0, 100.0, 260.0])]
    [0.445, 0.45, 0.378]
    """
    rotor = np.asarray(rotor_c, dtype=np.float64)
    rise = np.interp(rotor, [row.t1_c, row.t2_c], [row.mu_cold, row.mu_work])
    fall = row.mu_work - row.slope_per_100k * (rotor - row.fade_c) / 100.0
    return np.where(rotor > row.fade_c, np.maximum(fall, row.floor), rise)


def rise_per_k(row: CompoundRow) -> float:
    """How much friction rises per kelvin from T_1 to T_2.

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> round(rise_per_k(COMPOUNDS["sintered"]), 4)
    0.0015
    """
    return (row.mu_work - row.mu_cold) / (row.t2_c - row.t1_c)


def fall_from(row: CompoundRow) -> float:
    """Where the line of fading friction would stand at 0 °C.

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> round(fall_from(COMPOUNDS["resin"]), 2)
    0.69
    """
    return row.mu_work + row.slope_per_100k / 100 * row.fade_c


Array = NDArray[np.float64]

STOP_PARTS = 32
"""even parts of a stop's energy over which its friction is taken"""


def friction_shape(row: CompoundRow) -> Array:
    """The curve of ``dry_mu`` as the compiled loop takes it, (7,).

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> friction_shape(COMPOUNDS["resin"]).round(4).tolist()
    [0.0, 20.0, 0.44, 0.0005, 0.69, 0.0012, 0.2]
    """
    slope = row.slope_per_100k / 100
    return np.array([row.t1_c, row.t2_c, row.mu_cold, rise_per_k(row), fall_from(row), slope, row.floor])


@compiled
def stop_mu(shapes: Array, wet_ratios: Array, start_c: Array, rise_k: Array) -> Array:
    """Friction over whole stops, friction and rotor temperature together until standstill.

    What is braked heats the rotor evenly along the stop, E from 0 to its end; a way dE/F(E) goes by with each part of
    it, so that the stop is as long as with the harmonic mean of the friction over the rise, 1/mean(1/μ). Water counts
    until the rotor has passed 80 °C.

    Parameters
    ----------
    shapes : array
        (n, 7), as ``friction_shape`` gives them.
    wet_ratios : array
        (n,), what water leaves of the friction; 1 when dry.
    start_c : array
        Rotor before the stop, °C, (n,).
    rise_k : array
        What k stops heat it by, K, 0 or more, (n, k).

    Returns
    -------
    array
        (n, k).

    Source: work over way, dE = F ds (docs/model.md, section 2).

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> shape = friction_shape(COMPOUNDS["resin"])[None]
    >>> stop_mu(shape, np.ones(1), np.array([150.0]), np.array([[0.0, 200.0]])).round(3)
    array([[0.45 , 0.373]])
    """
    n, k = rise_k.shape
    out = np.empty((n, k))
    for i in range(n):
        t1, t2, cold, rise, fall, slope, floor = shapes[i]
        for j in range(k):
            against = 0.0
            for part in range(STOP_PARTS):
                rotor_c = start_c[i] + rise_k[i, j] * (part + 0.5) / STOP_PARTS
                water = 1.0 if rotor_c > heat_kernel.WET_UNTIL_C else wet_ratios[i]
                against += 1.0 / (water * heat_kernel.friction(rotor_c, t1, t2, cold, rise, fall, slope, floor))
            out[i, j] = STOP_PARTS / against
    return out


def bedding_ratio(row: CompoundRow, energy_kj: float, start_ratio: float = 0.6) -> float:
    """Share of its friction that a pair of pads and rotor has reached while bedding in: 1 − (1 − r_0) e^(−E/E_b).

    Parameters
    ----------
    row : CompoundRow
        With its bedding energy E_b, kJ.
    energy_kj : float
        Braked since fitting, kJ, 0 or more, at the bedding temperature.
    start_ratio : float
        r_0, 0 to 1: 0.6 for a flat rotor, 0.5 for one worn hollow.

    Returns
    -------
    float
        r_0 to 1.

    Source: judged (docs/model.md, section 3).

    >>> from clavis.core.parts.compounds import COMPOUNDS
    >>> bedding_ratio(COMPOUNDS["resin"], 0.0), round(bedding_ratio(COMPOUNDS["resin"], 20.0), 3)
    (0.6, 0.853)
    """
    return 1.0 - (1.0 - start_ratio) * exp(-energy_kj / row.bed_energy_kj)


def state_ratio(state: PadState) -> float | None:
    """What the state of the pads' face leaves of their friction: 0.7 glazed, 1 sound; None where no figure may be
    given (oil, metal on metal: do not ride).

    Source: judged (docs/model.md, section 3).

    >>> state_ratio(PadState.GLAZED), state_ratio(PadState.OILED)
    (0.7, None)
    """
    if state in (PadState.OILED, PadState.METAL):
        return None
    return GLAZED_RATIO if state is PadState.GLAZED else 1.0
