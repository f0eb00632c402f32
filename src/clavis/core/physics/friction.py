"""Friction of the four compounds against temperature, and the states that multiply it (model, section 3)."""

from dataclasses import dataclass
from enum import StrEnum
from math import exp

import numpy as np
from numpy.typing import NDArray

from clavis.core.parts.models import Compound
from clavis.core.physics import heat_kernel

GLAZED_RATIO = 0.7


@dataclass(frozen=True)
class CompoundRow:
    """One compound. Friction ± 12 %, wear ± 50 %; all judged starting values."""

    mu_cold: float
    t1_c: float
    t2_c: float
    mu_work: float
    fade_c: float
    slope_per_100k: float
    floor: float
    wet_ratio: float
    k_w_mk: float
    rho_kg_m3: float
    c_j_kgk: float
    pad_wear_mm3_mj: float
    ring_wear_ratio: float
    bed_energy_kj: float
    bed_temperature_c: float
    noise_score: int
    """1 quiet to 4 loud, in the dry"""
    wet_score: int
    """1 good to 4 poor"""
    cold_score: int
    """1 bites at once to 4 weak until warm"""


COMPOUNDS: dict[Compound, CompoundRow] = {
    Compound.RESIN: CompoundRow(0.44, 0, 20, 0.45, 200, 0.12, 0.20, 0.80, 0.9, 2300, 1000, 300, 1.0, 20, 120, 1, 2, 1),
    Compound.SEMI_METALLIC: CompoundRow(
        0.38, 20, 90, 0.45, 320, 0.08, 0.25, 0.75, 3.0, 3200, 800, 180, 1.6, 35, 180, 3, 2, 2
    ),
    Compound.SINTERED: CompoundRow(
        0.32, 40, 140, 0.47, 450, 0.05, 0.30, 0.60, 18.0, 5500, 420, 100, 2.5, 60, 300, 4, 4, 4
    ),
    Compound.CERAMIC: CompoundRow(
        0.42, 20, 60, 0.44, 350, 0.07, 0.25, 0.70, 1.2, 2600, 900, 120, 1.0, 25, 150, 1, 3, 2
    ),
}


class PadState(StrEnum):
    """What is known of the pads' face."""

    NOT_CHECKED = "not_checked"
    GOOD = "good"
    NEW = "new"
    GLAZED = "glazed"
    OILED = "oiled"
    METAL = "metal"


def dry_mu(row: CompoundRow, ring_c: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """Pad friction, dry and bedded, at ring temperatures in °C; any shape in, the same shape out.

    μ_cold below T_1, rising linearly to μ_work at T_2, level to T_fade, then falling by ``slope_per_100k``
    per 100 K to a floor.
    """
    ring = np.asarray(ring_c, dtype=np.float64)
    rise = np.interp(ring, [row.t1_c, row.t2_c], [row.mu_cold, row.mu_work])
    fall = row.mu_work - row.slope_per_100k * (ring - row.fade_c) / 100.0
    return np.where(ring > row.fade_c, np.maximum(fall, row.floor), rise)


def dry_mu_at(row: CompoundRow, ring_c: float) -> float:
    """The same for one temperature, by the compiled curve."""
    return heat_kernel.friction(
        ring_c, row.t1_c, row.t2_c, row.fade_c, row.mu_cold, row.mu_work, row.slope_per_100k / 100, row.floor
    )


def bedding_ratio(row: CompoundRow, energy_kj: float, start_ratio: float = 0.6) -> float:
    """1 − 0.4 e^(−E/E_b): friction of a pair that has braked ``energy_kj`` since fitting (at its bedding
    temperature). A hollow-worn ring starts lower: ``start_ratio`` 0.5."""
    return 1.0 - (1.0 - start_ratio) * exp(-energy_kj / row.bed_energy_kj)


def state_ratio(state: PadState) -> float | None:
    """Multiplier of the pads' state; None where no figure may be given (oil: do not ride)."""
    if state in (PadState.OILED, PadState.METAL):
        return None
    return GLAZED_RATIO if state is PadState.GLAZED else 1.0
