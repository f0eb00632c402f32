"""Wear of pads and ring from the energy they brake (model, section 7)."""

from dataclasses import dataclass

from clavis.core.evaluate import WheelResult
from clavis.core.friction import COMPOUNDS
from clavis.core.heat import Node, pad_area_mm2, ring_figures
from clavis.core.parameters import ModelParameters
from clavis.core.setups import PAD_REPLACE_MM, minimum_thickness_mm

RING_WEAR_MM3_MJ = 50.0
ABOVE_FADE_RATIO = 1.5
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


def wear_life(w: WheelResult, p: ModelParameters, wet: bool = False) -> WearLife:
    """ΔV = k_w E; per pad ΔV/(2 A_pad); ring over both faces of the swept solid area; pads × 1.5 above fade
    onset, × 3 in the wet."""
    row = COMPOUNDS[w.setup.pad.compound]
    energy_mj = w.steps.energy_kj / 1000
    hot = ABOVE_FADE_RATIO if w.heat.peak_c[Node.RING] > row.fade_c else 1.0
    pad = (
        row.pad_wear_mm3_mj
        * energy_mj
        * hot
        * (WET_GRIT_RATIO if wet else 1.0)
        / (2 * pad_area_mm2(w.setup.pad, w.setup.caliper))
    )
    swept_mm2 = ring_figures(w.setup.rotor, w.setup.thickness_mm, p).swept_m2 * 1e6
    ring = RING_WEAR_MM3_MJ * row.ring_wear_ratio * energy_mj / swept_mm2
    minimum = minimum_thickness_mm(w.setup.rotor)
    pad_left = max(w.setup.material_mm - PAD_REPLACE_MM, 0.0)
    ring_left = None if minimum is None else max(w.setup.thickness_mm - minimum, 0.0)
    return WearLife(
        pad,
        ring,
        pad_left / pad if pad > 0 else None,
        ring_left / ring if ring > 0 and ring_left is not None else None,
        float(w.steps.distance_m[-1]) / 1000,
    )
