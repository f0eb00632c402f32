"""Wear of pads and rotor from the energy they brake (docs/model.md, section 7)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from clavis.core.dates import WEEKS_A_YEAR
from clavis.core.evaluation.condition_readings import PAD_REPLACE_MM
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.rides import RideFigures
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.job.document import Grit, Ride
from clavis.core.parameters import ModelParameters
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.physics.heat import pad_area_mm2, rotor_geometry

ROTOR_WEAR_MM3_MJ = 50.0
ABOVE_FADE_RATIO = 1.5
GRIT_RATIO: Mapping[Grit, float] = {Grit.NONE: 1.0, Grit.SOME: 2.0, Grit.MUCH: 4.0}
"""wet grit wears pads two to four times as fast (docs/model.md, section 7)"""


@dataclass(frozen=True)
class WearLife:
    """Rides and km until pads and rotor are worn out on this ride alone; None where it cannot be told. ± 50 %."""

    pad_mm_per_ride: float
    rotor_mm_per_ride: float
    pad_rides: float | None
    rotor_rides: float | None
    ride_km: float


def wear_mm(setup: WheelSetup, energy_kj: float, hot_kj: float, grit: Grit, p: ModelParameters) -> tuple[float, float]:
    """Wear of one pad and of the rotor's thickness, mm: ΔV = k_w E; per pad ΔV/(2 A_pad); rotor over both faces of the
    swept solid area; pads × 1.5 for the energy ``hot_kj`` that is braked above fade onset, × 2 or 4 in wet grit."""
    row = COMPOUNDS[setup.pad.compound]
    pad_mj = (energy_kj + (ABOVE_FADE_RATIO - 1) * hot_kj) / 1000 * GRIT_RATIO[grit] * p.wear_ratio
    pad = row.pad_wear_mm3_mj * pad_mj / (2 * pad_area_mm2(setup.pad, setup.caliper))
    swept_mm2 = rotor_geometry(setup.rotor, setup.thickness_mm, p).swept_m2 * 1e6
    return pad, ROTOR_WEAR_MM3_MJ * row.rotor_wear_ratio * energy_kj / 1000 * p.wear_ratio / swept_mm2


def _left_mm(setup: WheelSetup) -> tuple[float, float | None]:
    """Pad material and rotor thickness above their limits, mm; None where the rotor's limit is not known."""
    minimum = setup.minimum_mm
    rotor = None if minimum is None else max(setup.thickness_mm - minimum, 0.0)
    return max(setup.material_mm - PAD_REPLACE_MM, 0.0), rotor


def wear_life(w: WheelResult, ride: Ride | None, p: ModelParameters) -> WearLife:
    """Wear on the decisive ride alone."""
    pad, rotor = wear_mm(w.setup, w.steps.energy_kj, w.heat.hot_kj, ride.grit if ride else Grit.NONE, p)
    pad_left, rotor_left = _left_mm(w.setup)
    return WearLife(
        pad,
        rotor,
        pad_left / pad if pad > 0 else None,
        rotor_left / rotor if rotor > 0 and rotor_left is not None else None,
        float(w.steps.distance_m[-1]) / 1000,
    )


@dataclass(frozen=True)
class YearOfWear:
    """Wear of one wheel over all rides of a job in a year, mm, with the distance of those rides, and how many years
    what is left lasts; None where it cannot be told. ± 50 %."""

    energy_mj: float
    km: float
    pad_mm: float
    rotor_mm: float
    pad_years: float | None
    rotor_years: float | None

    @property
    def pad_weeks(self) -> float | None:
        return None if self.pad_years is None else self.pad_years * WEEKS_A_YEAR

    @property
    def rotor_weeks(self) -> float | None:
        return None if self.rotor_years is None else self.rotor_years * WEEKS_A_YEAR


def year_of_wear(w: WheelResult, rides: Sequence[RideFigures], p: ModelParameters) -> YearOfWear:
    """Every ride with how often it is ridden; those that cannot be read count nothing."""
    energy = km = pad = rotor = 0.0
    for ride in rides:
        if ride.friction_kj is None or ride.hot_kj is None or w.end not in ride.friction_kj:
            continue
        times, kj = ride.ride.times_a_year, ride.friction_kj[w.end]
        one_pad, one_rotor = wear_mm(w.setup, kj, ride.hot_kj[w.end], ride.ride.grit, p)
        energy, pad, rotor = energy + times * kj / 1000, pad + times * one_pad, rotor + times * one_rotor
        km += times * ride.length_km
    pad_left, rotor_left = _left_mm(w.setup)
    return YearOfWear(
        energy,
        km,
        pad,
        rotor,
        pad_left / pad if pad > 0 else None,
        rotor_left / rotor if rotor > 0 and rotor_left is not None else None,
    )
