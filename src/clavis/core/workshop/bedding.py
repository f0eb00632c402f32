"""Bedding in, computed for this rotor, rider and compound: how many stops, from what speed, how far apart, on what
slope, and what temperature is reached; and what would be too hot, and too cold."""

from dataclasses import dataclass
from functools import cached_property
from math import ceil

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.parameters import GRAVITY_MS2, SEA_LEVEL_PA
from clavis.core.parts.compounds import COMPOUNDS, CompoundRow
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.friction import bedding_ratio
from clavis.core.physics.heat import Node
from clavis.core.physics.heat_kernel import StepArrays
from clavis.core.units import KMH_PER_MS

WALKING_KMH = 5.0
BEDDED_RATIO = 3.0
"""three times the bedding energy leaves 2 % of the way to go (three time constants, docs/model.md, section 3)"""
FEWEST_BEDDING_STOPS, MOST_BEDDING_STOPS = 10, 40
LONGEST_PAUSE_S = 180
BEDDING_DECEL_MS2 = 2.0
"""firm, and far from locking (judged)"""
BEDDING_OF_FADE_RATIO = 0.95
ROLLING_OF_SPEED_RATIO = 0.7
"""mean speed between two stops, of that which is braked from (judged)"""
SLOPES_PCT = (0.0, 4.0, 8.0)
"""the flat first; a hill where the flat does not bring the heat"""
SPEED_CHANGES_KMH = (0.0, 5.0, 10.0, 15.0, -5.0, -10.0, -15.0)
"""tried in this order until the rotor gets hot enough and not too hot"""
PAUSE_STEP_S = 5


@dataclass(frozen=True)
class BeddingPlan:
    """Bedding in one wheel: stops from a speed down to walking pace, and what they reach. ``pause_s`` is the roll from
    one stop to the next, in which the speed is got up again; up to ``too_hot_s`` it would fade, above ``too_cold_s``
    stay too cold to leave a film; None where nothing within reach does."""

    end: End
    compound: CompoundRow
    stops: int
    from_kmh: float
    slope_pct: float
    pause_s: int
    rotor_c: float
    first_finger_n: float
    """finger force that the target stop asks before any bedding"""
    too_hot_s: int | None
    too_cold_s: int | None

    @property
    def wanted_c(self) -> float:
        return self.compound.bed_temperature_c

    @property
    def reaches(self) -> bool:
        return self.rotor_c >= self.wanted_c

    @property
    def fades_c(self) -> float:
        """No hotter than this while bedding in."""
        return BEDDING_OF_FADE_RATIO * self.compound.fade_c


@dataclass(frozen=True)
class _Stops:
    """One way to bed in: a row of stops from a speed, on a slope."""

    row: NDArray[np.float64]
    mass_kg: float
    ambient_c: float
    energy_wanted_j: float
    pedalled_ms2: float
    from_kmh: float
    slope_pct: float

    @property
    def speed_ms(self) -> float:
        return self.from_kmh / KMH_PER_MS

    @property
    def _walking_ms(self) -> float:
        return WALKING_KMH / KMH_PER_MS

    @property
    def brake_s(self) -> float:
        return (self.speed_ms - self._walking_ms) / BEDDING_DECEL_MS2

    @property
    def energy_j(self) -> float:
        """What one stop puts into the brake: the speed, and the height that is lost while braking, J."""
        braked_m = (self.speed_ms + self._walking_ms) / 2 * self.brake_s
        speed = 0.5 * self.mass_kg * (self.speed_ms**2 - self._walking_ms**2)
        return speed + self.mass_kg * GRAVITY_MS2 * self.slope_pct / 100 * braked_m

    @property
    def stops(self) -> int:
        wanted = ceil(self.energy_wanted_j / self.energy_j)
        return min(max(FEWEST_BEDDING_STOPS, wanted), MOST_BEDDING_STOPS)

    @property
    def shortest_s(self) -> int:
        """Time to get the speed back, pedalling, and down the slope; nothing shorter can be ridden."""
        gained_ms2 = self.pedalled_ms2 + GRAVITY_MS2 * self.slope_pct / 100
        return PAUSE_STEP_S * ceil((self.speed_ms - self._walking_ms) / gained_ms2 / PAUSE_STEP_S)

    @cached_property
    def pauses_s(self) -> tuple[int, ...]:
        return tuple(range(self.shortest_s, max(LONGEST_PAUSE_S, self.shortest_s) + 1, PAUSE_STEP_S))

    def peak_c(self, pause_s: int) -> float:
        """Hottest rotor of the row of stops with rolling pauses between, by the heat model, °C."""
        brake = (self.brake_s / 4, self.energy_j / self.brake_s, (self.speed_ms + self._walking_ms) / 2, 1.0)
        roll = (pause_s / 4, 0.0, self.speed_ms * ROLLING_OF_SPEED_RATIO, 0.0)
        pieces = [brake] * 4 + [roll] * 4
        dt, power, speed, braking = (np.tile([p[k] for p in pieces], self.stops).astype(float) for k in range(4))
        nothing, sea_level = np.zeros((len(dt), 1)), np.full_like(dt, SEA_LEVEL_PA)
        steps = StepArrays(dt, power[:, None], speed, braking, nothing, sea_level)
        start = np.full((1, heat_kernel.NODES), float(self.ambient_c))
        ridden = heat_kernel.integrate(self.row[None, :], steps, float(self.ambient_c), start, False)
        return float(ridden.peaks[0, Node.ROTOR])

    def longest_reaching(self, temperature_c: float) -> int | None:
        """The longest pause after which the rotor still gets so hot; a longer one is cooler. None where none does."""
        low, high = 0, len(self.pauses_s) - 1
        if self.peak_c(self.pauses_s[low]) < temperature_c:
            return None
        while low < high:
            middle = (low + high + 1) // 2
            if self.peak_c(self.pauses_s[middle]) >= temperature_c:
                low = middle
            else:
                high = middle - 1
        return self.pauses_s[low]

    def between(self, fades_c: float, wanted_c: float) -> int | None:
        """The pause half way between too hot and too cold. None where none is hot enough."""
        cold, hot = self.longest_reaching(wanted_c), self.longest_reaching(fades_c)
        if cold is None:
            return None
        first = self.shortest_s if hot is None else hot + PAUSE_STEP_S
        return max(min(first, cold), PAUSE_STEP_S * ((first + cold) // 2 // PAUSE_STEP_S))


def bedding_plan(w: WheelResult, situation: Situation) -> BeddingPlan:
    """Each wheel on its own, by the heat model: as many stops as bring three bedding energies, at least ten; on the
    flat where that does, else on a hill; a pause half way between too hot and too cold, at a speed that keeps the rotor
    below fade. Where nothing reaches it, the hottest plan below fade."""
    compound = COMPOUNDS[w.setup.pad.compound]
    row = row_of(w.setup, situation, wet=False)
    first_n = w.forces.finger_target_n * w.setup.bedding / bedding_ratio(compound, 0.0)
    fades_c, wanted_c = BEDDING_OF_FADE_RATIO * compound.fade_c, compound.bed_temperature_c

    def plan(s: _Stops, pause_s: int, rotor_c: float) -> BeddingPlan:
        hot, cold = s.longest_reaching(fades_c), s.longest_reaching(wanted_c)
        return BeddingPlan(
            w.end, compound, s.stops, s.from_kmh, s.slope_pct, pause_s, rotor_c, first_n,
            too_hot_s=hot, too_cold_s=cold if cold is not None and cold < s.pauses_s[-1] else None,
        )  # fmt: skip

    coolest, best = None, None
    for slope_pct in SLOPES_PCT:
        for change in SPEED_CHANGES_KMH:
            from_kmh = compound.bed_from_kmh + change
            if from_kmh < 2 * WALKING_KMH:
                continue
            s = _Stops(
                row, situation.bike.rolling_mass_kg, situation.weather.ambient_c,
                BEDDED_RATIO * compound.bed_energy_kj * 1000, situation.parameters.pedalled_ms2, from_kmh, slope_pct,
            )  # fmt: skip
            pause_s = s.between(fades_c, wanted_c)
            tried_s = s.shortest_s if pause_s is None else pause_s
            peak_c = s.peak_c(tried_s)
            if coolest is None or peak_c < coolest[2]:
                coolest = (s, tried_s, peak_c)
            if peak_c > fades_c:
                continue
            if pause_s is not None:
                return plan(s, pause_s, peak_c)
            if best is None or peak_c > best[2]:
                best = (s, tried_s, peak_c)
    found = best or coolest
    assert found is not None  # at least one speed is above walking pace
    return plan(*found)
