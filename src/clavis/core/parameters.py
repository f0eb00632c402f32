"""The model's starting values that a job may change, each with its doubt and its source.

All are engineering judgement or textbook figures (docs/model.md); a maker's figure or a measured one
replaces them. ``spread`` is the 90 % half-width of a lognormal as a share of the value unless noted.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from pydantic import BaseModel, ConfigDict, Field

GRAVITY_MS2 = 9.80665
STEFAN_BOLTZMANN = 5.670374419e-8
GAS_CONSTANT_J_KGK = 287.05
"""of dry air (international standard atmosphere)"""
SEA_LEVEL_PA = 101325.0
"""air at sea level (ISO 2533)"""


class ModelParameters(BaseModel):
    """Starting values of sections 1 to 5. Carried in the job file, so that answers can be recomputed."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    slide_of_peak_grip_ratio: float = Field(0.85, gt=0, le=1)
    finger_scatter_n: float = Field(6.0, ge=0, le=40)
    reaction_s: float = Field(1.0, ge=0, le=5)
    target_decel_g: float = Field(0.6, gt=0, le=1.2)
    target_of_ground_ratio: float = Field(0.9, gt=0, le=1)
    must_dry_ms2: float = Field(3.4, gt=0, le=9)
    must_wet_ms2: float = Field(2.0, gt=0, le=9)
    must_on_slope_ratio: float = Field(0.5, gt=0, le=1)
    """of the same on the steepest slope"""
    finger_comfortable_n: float = Field(35.0, gt=0, le=300)
    finger_greatest_n: float = Field(90.0, gt=0, le=500)
    two_finger_ratio: float = Field(1.6, ge=1, le=3)
    small_hand_ratio: float = Field(0.7, gt=0, le=1)
    hydraulic_efficiency_ratio: float = Field(0.9, gt=0, le=1)
    cable_efficiency_ratio: float = Field(0.75, gt=0, le=1)
    pad_gap_mm: float = Field(0.25, gt=0, le=2)
    compliance_mm3_per_bar: float = Field(4.0, ge=0, le=100)
    lever_to_bar_mm: float = Field(50.0, gt=0, le=120)
    plan_brake_ms2: float = Field(3.0, gt=0, le=9)
    pulse_half_band_ratio: float = Field(0.15, gt=0, le=0.5)
    pedalled_ms2: float = Field(0.3, gt=0, le=2)
    convection_ratio: float = Field(1.1, gt=0, le=5)
    still_air_w_m2k: float = Field(6.0, ge=0, le=50)
    airflow_front_ratio: float = Field(0.65, gt=0, le=1.5)
    airflow_rear_ratio: float = Field(0.5, gt=0, le=1.5)
    rotor_emissivity_ratio: float = Field(0.35, ge=0, le=1)
    caliper_emissivity_ratio: float = Field(0.8, ge=0, le=1)
    rotor_void_ratio: float = Field(0.25, ge=0, lt=0.8)
    rotor_hole_mm: float = Field(6.0, gt=0, le=20)
    pad_surface_mm: float = Field(0.3, gt=0, le=0.45)
    """the outer layer of a pad that follows each braking"""
    pad_contact_w_m2k: float = Field(3000.0, gt=0, le=100000)
    pad_released_w_k: float = Field(0.04, ge=0, le=2)
    caliper_fluid_w_k: float = Field(1.5, gt=0, le=20)
    plate_area_of_pad_ratio: float = Field(1.3, ge=1, le=3)
    plate_mm: float = Field(1.8, gt=0, le=5)
    wear_ratio: float = Field(1.0, gt=0, le=10)
    """multiplier on the wear of pads and rotor"""
    rotor_to_carrier_ratio: float = Field(1.0, gt=0, le=10)
    """multiplier on every rotor-to-carrier conductance; what calibration moves"""


NINETY_PERCENT_Z = 1.6448536269514722
"""standard normal quantile at 95 %: the half-width of a 90 % interval"""


class Spread(StrEnum):
    """How a doubtful value is drawn: a lognormal whose 90 % half-width is a share of the value, or a normal cut
    at its bounds whose 90 % half-width is in the value's own unit."""

    LOGNORMAL = "lognormal"
    TRUNCATED_NORMAL = "truncated normal"


@dataclass(frozen=True)
class Doubt:
    """One independent source of doubt: what it multiplies or replaces, and how wide it is."""

    key: str
    words: str
    spread: Spread
    half_width: float
    low: float = 0.0
    high: float = float("inf")
    rider: bool = False
    """of rider, ride and ground, not of the brake"""


# What is sampled (docs/model.md, section 8). Parameter names are multiplied or replaced; the others are named in
# sampling.
DOUBTS: tuple[Doubt, ...] = (
    Doubt("friction_front", "pad friction, front", Spread.LOGNORMAL, 0.12),
    Doubt("friction_rear", "pad friction, rear", Spread.LOGNORMAL, 0.12),
    Doubt("convection_ratio", "convection", Spread.LOGNORMAL, 0.30),
    Doubt("airflow_front_ratio", "airflow in front", Spread.LOGNORMAL, 0.20),
    Doubt("airflow_rear_ratio", "airflow behind", Spread.LOGNORMAL, 0.20),
    Doubt("still_air_w_m2k", "still air", Spread.LOGNORMAL, 0.30),
    Doubt("rotor_emissivity_ratio", "emissivity of the rotor", Spread.TRUNCATED_NORMAL, 0.15, 0.05, 0.95),
    Doubt("rotor_to_carrier_ratio", "rotor to carrier", Spread.LOGNORMAL, 0.30),
    Doubt("rotor_void_ratio", "holes in the track", Spread.LOGNORMAL, 0.30),
    Doubt("pad_contact_w_m2k", "contact of pads and rotor", Spread.LOGNORMAL, 0.30),
    Doubt("caliper_fluid_w_k", "caliper to fluid", Spread.LOGNORMAL, 0.30),
    Doubt("cable_efficiency_ratio", "efficiency of the cable", Spread.TRUNCATED_NORMAL, 0.10, 0.3, 0.95),
    Doubt("pad_gap_mm", "pad gap", Spread.LOGNORMAL, 0.30),
    Doubt("compliance_mm3_per_bar", "give of the line", Spread.LOGNORMAL, 0.30),
    Doubt("wear_ratio", "wear", Spread.LOGNORMAL, 0.50),
    Doubt("grip", "tyre–road grip", Spread.LOGNORMAL, 0.15, rider=True),
    Doubt("slide_of_peak_grip_ratio", "grip of a wheel that slides", Spread.LOGNORMAL, 0.05, rider=True),
    Doubt("finger_scatter_n", "scatter of the finger", Spread.LOGNORMAL, 0.30, rider=True),
    Doubt("finger_comfortable_n", "comfortable force of the finger", Spread.LOGNORMAL, 0.30, rider=True),
    Doubt("finger_greatest_n", "greatest force of the finger", Spread.LOGNORMAL, 0.30, rider=True),
    Doubt("front_share", "share at the front", Spread.TRUNCATED_NORMAL, 0.10, -0.4, 0.4, rider=True),
    Doubt("speed", "speed of the ride", Spread.LOGNORMAL, 0.10, rider=True),
    Doubt("drag_area", "drag area", Spread.LOGNORMAL, 0.15, rider=True),
    Doubt("mass", "masses", Spread.LOGNORMAL, 0.03, rider=True),
)
NOMINAL: dict[str, float] = {"front_share": 0.0}
"""what is added, and so is nothing where it is as stated; what multiplies is one"""


def doubt_words(key: str, narrowed: Mapping[str, float] | None = None) -> str:
    """How wide a doubtful value is drawn, in words; empty where it is not sampled. ``narrowed`` are half-widths that a
    calibration made smaller."""
    doubt = next((d for d in DOUBTS if d.key == key), None)
    if doubt is None:
        return ""
    half_width = min((narrowed or {}).get(key, doubt.half_width), doubt.half_width)
    if doubt.spread is Spread.LOGNORMAL:
        return f"± {100 * half_width:.0f} %"
    return f"± {half_width:.2g}"


_JUDGED = "engineering judgement"
SOURCES: dict[str, str] = {
    "slide_of_peak_grip_ratio": _JUDGED,
    "finger_scatter_n": f"{_JUDGED}; novices twice",
    "reaction_s": "usual figure for an alert rider",
    "target_decel_g": "design target",
    "target_of_ground_ratio": "design target",
    "must_dry_ms2": "what bicycle standards ask of both brakes together, dry; the one in force decides",
    "must_wet_ms2": "what bicycle standards ask of both brakes together, wet; the one in force decides",
    "must_on_slope_ratio": f"{_JUDGED}: half of it on the steepest slope",
    "finger_comfortable_n": _JUDGED,
    "finger_greatest_n": _JUDGED,
    "hydraulic_efficiency_ratio": "seal and lever friction, judged",
    "cable_efficiency_ratio": f"{_JUDGED}, 0.65 old housing to 0.85 new",
    "pad_gap_mm": _JUDGED,
    "compliance_mm3_per_bar": "hose, caliper and pads together, judged",
    "lever_to_bar_mm": "not measured: usual figure, judged",
    "plan_brake_ms2": "net deceleration a rider plans with, judged",
    "pedalled_ms2": "how a rider gets up to the speed wanted where the slope does not, judged",
    "convection_ratio": "laminar plate correlation, judged factor; the largest doubt of all",
    "still_air_w_m2k": "free convection of small bodies, textbook range",
    "airflow_front_ratio": _JUDGED,
    "airflow_rear_ratio": _JUDGED,
    "rotor_emissivity_ratio": "stainless steel, bright to oxidised, textbook range",
    "rotor_void_ratio": "typical drilled track",
    "rotor_hole_mm": "typical drilled track",
    "pad_contact_w_m2k": _JUDGED,
    "pad_surface_mm": "how deep heat goes into a pad in one braking, judged",
    "caliper_fluid_w_k": _JUDGED,
    "wear_ratio": "one: the wear of the compound table, judged",
    "rotor_to_carrier_ratio": "one, unless calibrated",
}
"""where a starting value comes from; how wide it is drawn is in DOUBTS, where it is sampled"""


def note_of(name: str) -> str:
    """Where a starting value comes from and how sure it is, in words."""
    return ", ".join(part for part in (SOURCES.get(name, "starting value"), doubt_words(name)) if part)
