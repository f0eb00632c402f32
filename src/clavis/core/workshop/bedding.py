"""Bedding in, computed for this rotor, rider and compound: how many stops, from what speed, how far apart, and what
temperature is reached."""

from dataclasses import dataclass
from math import ceil

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.parameters import SEA_LEVEL_PA
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.friction import bedding_ratio
from clavis.core.physics.heat import Node
from clavis.core.physics.heat_kernel import StepArrays
from clavis.core.units import KMH_PER_MS


@dataclass(frozen=True)
class BeddingPlan:
    """Bedding in one wheel: stops from a speed down to walking pace, and what they reach."""

    end: End
    stops: int
    from_kmh: float
    pause_s: int
    rotor_c: float
    wanted_c: float
    first_finger_n: float
    """finger force that the target stop asks before any bedding"""

    @property
    def reaches(self) -> bool:
        return self.rotor_c >= self.wanted_c


WALKING_KMH = 5.0
BEDDED_RATIO = 3.0
"""three times the bedding energy leaves 2 % of the way to go"""
FEWEST_BEDDING_STOPS, MOST_BEDDING_STOPS = 10, 40
BEDDING_PAUSES_S = (120, 90, 60, 45, 30, 20, 15, 10, 5)
BEDDING_DECEL_MS2 = 2.0
BEDDING_OF_FADE_RATIO = 0.95


def _bedding_peak_c(
    row: NDArray[np.float64], energy_j: float, speed_ms: float, stops: int, pause_s: int, ambient_c: float
) -> float:
    """Hottest rotor of a row of stops with rolling pauses between, by the heat model, °C."""
    brake_s = speed_ms / BEDDING_DECEL_MS2
    pieces = [(brake_s / 4, energy_j / brake_s, speed_ms / 2, 1.0)] * 4 + [(pause_s / 4, 0.0, speed_ms * 0.7, 0.0)] * 4
    dt, power, speed, braking = (np.tile([p[k] for p in pieces], stops).astype(float) for k in range(4))
    nothing, sea_level = np.zeros((len(dt), 1)), np.full_like(dt, SEA_LEVEL_PA)
    steps = StepArrays(dt, power[:, None], speed, braking, nothing, sea_level)
    start = np.full((1, heat_kernel.NODES), float(ambient_c))
    ridden = heat_kernel.integrate(row[None, :], steps, float(ambient_c), start, False)
    return float(ridden.peaks[0, Node.ROTOR])


BEDDING_SPEED_CHANGES_KMH = (0.0, 5.0, 10.0, 15.0, -2.5, -5.0, -7.5, -10.0, -12.5, -15.0, -17.5)
"""tried in this order until the rotor gets hot enough and not too hot"""


def bedding_plan(w: WheelResult, situation: Situation) -> BeddingPlan:
    """Each wheel on its own, by the heat model: as many stops as bring three bedding energies, at least ten; the
    longest pause that still reaches the bedding temperature, at a speed that keeps the rotor below fade. Where
    nothing reaches it, the hottest plan below fade."""
    compound = COMPOUNDS[w.setup.pad.compound]
    row = row_of(w.setup, situation, wet=False)
    ambient, mass = situation.weather.ambient_c, situation.bike.rolling_mass_kg
    first = w.forces.finger_target_n * w.setup.bedding / bedding_ratio(compound, 0.0)
    most_c = BEDDING_OF_FADE_RATIO * compound.fade_c
    best = BeddingPlan(
        w.end, FEWEST_BEDDING_STOPS, 2 * WALKING_KMH, BEDDING_PAUSES_S[0], ambient, compound.bed_temperature_c, first
    )
    for change in BEDDING_SPEED_CHANGES_KMH:
        speed = compound.bed_from_kmh + change
        if speed < 2 * WALKING_KMH:
            continue
        energy = 0.5 * mass * ((speed / KMH_PER_MS) ** 2 - (WALKING_KMH / KMH_PER_MS) ** 2)
        wanted = ceil(BEDDED_RATIO * compound.bed_energy_kj * 1000 / energy)
        stops = min(max(FEWEST_BEDDING_STOPS, wanted), MOST_BEDDING_STOPS)
        for pause in BEDDING_PAUSES_S:
            peak = _bedding_peak_c(row, energy, speed / KMH_PER_MS, stops, pause, ambient)
            plan = BeddingPlan(w.end, stops, speed, pause, peak, compound.bed_temperature_c, first)
            if peak > most_c:
                break
            if plan.reaches:
                return plan
            if peak > best.rotor_c:
                best = plan
    return best
