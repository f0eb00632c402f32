"""Wear of pads and ring from the energy they brake (model, section 7)."""

from collections.abc import Sequence
from dataclasses import dataclass

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.rides import RideFigures
from clavis.core.evaluation.setups import PAD_REPLACE_MM, WheelSetup, minimum_thickness_mm
from clavis.core.parameters import ModelParameters
from clavis.core.physics.friction import COMPOUNDS
from clavis.core.physics.heat import Node, pad_area_mm2, ring_figures

RING_WEAR_MM3_MJ = 50.0
ABOVE_FADE_RATIO = 1.5
WEEKS_A_YEAR = 52.18
WET_GRIT_RATIO = 3.0
"""wet grit wears pads two to four times as fast (model, section 7); the middle is taken on wet surfaces"""


@dataclass(frozen=True)
class WearLife:
    """Rides and km until pads and ring are worn out on this ride alone; None where it cannot be told. ± 50 %."""

    pad_mm_per_ride: float
    ring_mm_per_ride: float
    pad_rides: float | None
    ring_rides: float | None
    ride_km: float

    @property
    def pad_km(self) -> float | None:
        return None if self.pad_rides is None else self.pad_rides * self.ride_km

    @property
    def ring_km(self) -> float | None:
        return None if self.ring_rides is None else self.ring_rides * self.ride_km


def _wear_mm(
    setup: WheelSetup, energy_kj: float, ring_peak_c: float, p: ModelParameters, wet: bool
) -> tuple[float, float]:
    """Wear of one pad and of the ring's thickness, mm: ΔV = k_w E; per pad ΔV/(2 A_pad); ring over both faces of the
    swept solid area; pads × 1.5 above fade onset, × 3 in the wet."""
    row = COMPOUNDS[setup.pad.compound]
    energy_mj = energy_kj / 1000
    hot = ABOVE_FADE_RATIO if ring_peak_c > row.fade_c else 1.0
    grit = WET_GRIT_RATIO if wet else 1.0
    pad = row.pad_wear_mm3_mj * energy_mj * hot * grit / (2 * pad_area_mm2(setup.pad, setup.caliper))
    swept_mm2 = ring_figures(setup.rotor, setup.thickness_mm, p).swept_m2 * 1e6
    return pad, RING_WEAR_MM3_MJ * row.ring_wear_ratio * energy_mj / swept_mm2


def _left_mm(setup: WheelSetup) -> tuple[float, float | None]:
    """Pad material and ring thickness above their limits, mm; None where the ring's limit is not known."""
    minimum = minimum_thickness_mm(setup.rotor)
    ring = None if minimum is None else max(setup.thickness_mm - minimum, 0.0)
    return max(setup.material_mm - PAD_REPLACE_MM, 0.0), ring


def wear_life(w: WheelResult, p: ModelParameters, wet: bool = False) -> WearLife:
    """Wear on the decisive ride alone."""
    pad, ring = _wear_mm(w.setup, w.steps.energy_kj, float(w.heat.peak_c[Node.RING]), p, wet)
    pad_left, ring_left = _left_mm(w.setup)
    return WearLife(
        pad,
        ring,
        pad_left / pad if pad > 0 else None,
        ring_left / ring if ring > 0 and ring_left is not None else None,
        float(w.steps.distance_m[-1]) / 1000,
    )


@dataclass(frozen=True)
class YearOfWear:
    """Wear of one wheel over all rides of a job in a year, mm, and how many years what is left lasts; None where it
    cannot be told. ± 50 %."""

    energy_mj: float
    pad_mm: float
    ring_mm: float
    pad_years: float | None
    ring_years: float | None

    @property
    def pad_weeks(self) -> float | None:
        return None if self.pad_years is None else self.pad_years * WEEKS_A_YEAR

    @property
    def ring_weeks(self) -> float | None:
        return None if self.ring_years is None else self.ring_years * WEEKS_A_YEAR


def year_of_wear(w: WheelResult, rides: Sequence[RideFigures], p: ModelParameters, wet: bool = False) -> YearOfWear:
    """Every ride with how often it is ridden; those that cannot be read count nothing."""
    energy = pad = ring = 0.0
    for ride in rides:
        if ride.friction_kj is None or ride.ring_c is None or w.end not in ride.friction_kj:
            continue
        times, kj = ride.ride.times_a_year, ride.friction_kj[w.end]
        one_pad, one_ring = _wear_mm(w.setup, kj, ride.ring_c[w.end], p, wet)
        energy, pad, ring = energy + times * kj / 1000, pad + times * one_pad, ring + times * one_ring
    pad_left, ring_left = _left_mm(w.setup)
    return YearOfWear(
        energy,
        pad,
        ring,
        pad_left / pad if pad > 0 else None,
        ring_left / ring if ring > 0 and ring_left is not None else None,
    )
