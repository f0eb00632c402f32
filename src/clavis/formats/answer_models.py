"""The shape of a job's answers: plain data with units in the names (docs/formats.md)."""

from pydantic import BaseModel, ConfigDict

from clavis.core.evaluation.gate import GateLevel
from clavis.core.evaluation.open_points import Matter
from clavis.core.parameters import ModelParameters
from clavis.core.parts.links import Link
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Severity, Verdict
from clavis.core.workshop.sign_off import Validity


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class MarginAnswer(_Plain):
    key: str
    label: str
    value: float | None
    unit: str
    needed: float
    verdict: Verdict
    why_unknown: str


class BoltAnswer(_Plain):
    place: str
    thread: str
    stack_mm: float | None
    minimum_mm: float | None
    maximum_mm: float | None
    length_mm: float | None
    head: str | None
    engagement_mm: float | None
    bottom_mm: float | None
    old_bolt: Verdict | None
    lacks: str


class BandAnswer(_Plain):
    """10, 50 and 90 % of the samples."""

    p10: float
    p50: float
    p90: float


class SampledAnswer(_Plain):
    """How sure: bands by figure (unit in the name) with every doubt, rider, ride and ground too, and of the brake's own
    alone; the chance of each verdict per margin and of the whole."""

    samples: int
    bands: dict[str, BandAnswer]
    own_bands: dict[str, BandAnswer]
    margin_chances: dict[str, dict[Verdict, float]]
    chances: dict[Verdict, float]


class WorstAnswer(_Plain):
    """Worst steady speeds on the steepest slope that the ride sustains over 500 m, held over its greatest fall, capped
    by the top speed."""

    from_m: float
    to_m: float
    gradient_ratio: float
    drop_m: float
    power_kmh: float | None
    rotor_kmh: float
    rotor_peak_c: float
    fluid_kmh: float | None
    fluid_peak_c: float | None


class RideHeatAnswer(_Plain):
    """What one of the job's rides does to a wheel."""

    friction_kj: float
    rotor_peak_c: float
    fluid_peak_c: float | None


class YearAnswer(_Plain):
    """A year of all rides, each as often as it is ridden."""

    friction_mj: float
    pad_wear_mm: float
    rotor_wear_mm: float
    pad_life_years: float | None
    rotor_life_years: float | None


class CheckAnswer(_Plain):
    """Whether parts go together: one row of the table of checks."""

    key: str
    label: str
    value_mm: float | None
    verdict: Verdict
    words: str


class OpenPointAnswer(_Plain):
    """One thing that is wrong, unknown or to be watched, gravest first; ``settles`` is the field that would settle
    it."""

    code: str
    end: End | None
    link: Link | None
    severity: Severity
    matter: Matter
    words: str
    settles: str


class GatePointAnswer(_Plain):
    """One open point as the gate sees it: how far it lets the work go, and who answers for it."""

    code: str
    end: End | None
    level: GateLevel
    words: str
    answered_by: str


class GateAnswer(_Plain):
    """Whether the proposed setup may be ordered and begun, whether anything but open steps bars its sign-off, and every
    point that bars either, answered for or not."""

    may_work: bool
    may_sign: bool
    words: str
    points: list[GatePointAnswer]


class SignOffAnswer(_Plain):
    """How the job's sign-off stands, and where it does not, why."""

    validity: Validity
    who: str
    why: str


class PartLineAnswer(_Plain):
    end: End
    what: str
    part_id: str
    name: str
    quantity: int
    price: float | None


class FitAnswer(_Plain):
    """``position_mm`` is the rotor size for which the caliper stands, ``arc_error_mm`` how far the ends of its pads are
    off the track's circle, ``proud_mm`` how far the mount's faces stand outside the standard's place."""

    mount: str | None
    possible: bool
    reason: str
    adapter_id: str | None
    plate_id: str | None
    look_for: str
    position_mm: float | None
    pad_edge_mm: float | None
    arc_error_mm: float | None
    proud_mm: float | None
    checks: list[CheckAnswer]
    bolts: list[BoltAnswer]
    verdict: Verdict


class WheelAnswer(_Plain):
    """One wheel. Temperatures °C, forces N at the road unless named."""

    parts: dict[str, str]
    verdict: Verdict
    limit: str
    margins: list[MarginAnswer]
    gain_road_n_per_finger_n: float
    finger_target_n: float
    finger_lock_n: float
    finger_lock_while_front_brakes_n: float | None
    finger_drag_n: float
    needed_n: float
    needed_for: str
    available_hot_n: float
    usable_n: float
    reserve_ratio: float | None
    must_ratio: float | None
    must_alone_ratio: float | None
    feel: str
    clamp_target_n: float
    pressure_target_bar: float
    torque_target_nm: float
    lever_travel_mm: float
    mu_cold: float
    mu_work: float
    mu_hot: float
    peak_c: dict[str, float]
    end_c: dict[str, float]
    fluid_peak_with_soak_c: float | None
    boiling_point_c: float | None
    boils_at_m: float | None
    cool_to_50_c_s: float | None
    rotor_above_fade_s: float | None
    fluid_above_boiling_s: float | None
    friction_energy_kj: float
    regeneration_kj: float
    ledger_kj: dict[str, float]
    ledger_open_ratio: float
    lever_travel_air_mm: float
    slide_force_n: float
    pad_wear_mm_per_ride: float
    rotor_wear_mm_per_ride: float
    pad_life_rides: float | None
    rotor_life_rides: float | None
    ride_km: float
    worst_speed: WorstAnswer | None
    rides: dict[str, RideHeatAnswer]
    year: YearAnswer
    emergency_rotor_rise_k: float | None
    sampled: SampledAnswer | None


class GroundAnswer(_Plain):
    """What the ground takes on one slope."""

    gradient_ratio: float
    pitch_over_n: float
    both_n: float
    front_alone_n: float
    rear_alone_n: float
    decel_ms2: float


class RideAnswer(_Plain):
    length_m: float
    drop_m: float
    duration_s: float
    steepest_ratio: float
    budget_kj: dict[str, float]


class RideLoadAnswer(_Plain):
    """One of the job's rides as a braking load; ``problem`` says why there are no figures."""

    kind: str
    decisive: bool
    times_a_year: float
    length_m: float
    drop_m: float
    steepest_ratio: float
    duration_s: float
    braked_kj: float
    yearly_mj: float
    problem: str


class AlwaysAnswer(_Plain):
    """An emergency stop and parking on the steepest slope of all rides."""

    gradient_ratio: float
    top_speed_kmh: float
    stop_kj: float | None
    stop_n: float | None
    stop_m: float | None
    parking_n: float
    parking_held_by: list[End]


class SetupAnswer(_Plain):
    verdict: Verdict
    sentence: str
    regeneration: str
    open_points: list[OpenPointAnswer]
    parts: list[PartLineAnswer]
    price: float
    mass_g: float
    fits: dict[End, FitAnswer]
    ride: RideAnswer | None
    rides: dict[str, RideLoadAnswer]
    always: AlwaysAnswer | None
    ground_flat: GroundAnswer | None
    ground_steepest: GroundAnswer | None
    stop_flat_m: float | None
    stop_flat_ms2: float | None
    stop_flat_locked_m: float | None
    stop_steepest_m: float | None
    stop_steepest_ms2: float | None
    stop_steepest_locked_m: float | None
    wheels: dict[End, WheelAnswer]


class Answers(_Plain):
    """What ``clavis evaluate`` prints, version 2."""

    format: str
    version: int
    clavis: str
    problem: str
    lacks: list[str]
    total_mass_kg: float | None
    rear_to_cg_m: float | None
    cg_height_m: float | None
    grip_ratio: float | None
    parameters: ModelParameters
    seed: int
    gate: GateAnswer
    signed_off: SignOffAnswer
    setups: dict[str, SetupAnswer]
