"""Friction of the four compounds against temperature, and the states that multiply it (model, section 3)."""

from enum import StrEnum
from math import exp

import numpy as np
from numpy.typing import NDArray

from clavis.core.parts.compounds import CompoundRow
from clavis.core.physics import heat_kernel

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
    """Pad friction, dry and bedded, at rotor temperatures in °C; any shape in, the same shape out.

    μ_cold below T_1, rising linearly to μ_work at T_2, level to T_fade, then falling by ``slope_per_100k``
    per 100 K to a floor.
    """
    rotor = np.asarray(rotor_c, dtype=np.float64)
    rise = np.interp(rotor, [row.t1_c, row.t2_c], [row.mu_cold, row.mu_work])
    fall = row.mu_work - row.slope_per_100k * (rotor - row.fade_c) / 100.0
    return np.where(rotor > row.fade_c, np.maximum(fall, row.floor), rise)


def dry_mu_at(row: CompoundRow, rotor_c: float) -> float:
    """The same for one temperature, by the compiled curve."""
    return heat_kernel.friction(
        rotor_c, row.t1_c, row.t2_c, row.fade_c, row.mu_cold, row.mu_work, row.slope_per_100k / 100, row.floor
    )


def bedding_ratio(row: CompoundRow, energy_kj: float, start_ratio: float = 0.6) -> float:
    """1 − 0.4 e^(−E/E_b): friction of a pair that has braked ``energy_kj`` since fitting (at its bedding
    temperature). A hollow-worn rotor starts lower: ``start_ratio`` 0.5."""
    return 1.0 - (1.0 - start_ratio) * exp(-energy_kj / row.bed_energy_kj)


def state_ratio(state: PadState) -> float | None:
    """Multiplier of the pads' state; None where no figure may be given (oil: do not ride)."""
    if state in (PadState.OILED, PadState.METAL):
        return None
    return GLAZED_RATIO if state is PadState.GLAZED else 1.0
