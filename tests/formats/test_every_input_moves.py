"""Change every input singly on a bike that stands in no demo: the right figures move, the right way, no others.

Each row: path, new value, figures that must move with their direction, and the only figures that may.
"""

import re
from functools import cache
from typing import Any

import pytest

from clavis.core.job.document import Job
from clavis.formats.answers import answers_of
from tests.bikes import file_of, own_job, with_value


def _name(item: dict[str, Any], place: int) -> str:
    """What one of a list is called: a margin or check by its key, a bolt by its place, a point or part by its wheel."""
    if "code" in item:
        return f"{item['end']}:{item['code']}"
    if "what" in item:
        return f"{item['end']}:{item['what']}, {item['part_id']}"
    return str(item.get("key") or item.get("place") or place)


def _flat(value: Any, path: str = "") -> dict[str, Any]:
    if isinstance(value, dict):
        return {k: v for key, inner in value.items() for k, v in _flat(inner, f"{path}.{key}" if path else key).items()}
    if isinstance(value, list):
        named = {_name(item, k): item for k, item in enumerate(value) if isinstance(item, dict)}
        return _flat(named or {str(k): v for k, v in enumerate(value)}, path)
    return {path: value}


def figures(job: Job) -> dict[str, Any]:
    flat = _flat(answers_of(file_of(job)))
    return {k: v for k, v in flat.items() if not k.startswith("parameters.") and k != "clavis"}


@cache
def base() -> dict[str, Any]:
    return figures(own_job())


FIT_FRONT = "setups.fitted.fits.front."
FF, FR, PF, PR = (f"setups.{s}.wheels.{e}." for s in ("fitted", "proposed") for e in ("front", "rear"))
ANY = r"setups\.\w+\.wheels\.\w+\."
GONE = r"setups\.\w+\.(mass_g|stop_\w+|always.*|rides?\..*|wheels\..*)"
"""what is unsafe has no figures: with one wheel gone, the bike has none either"""
# families of figures that a change may move
WORDS = (
    r"(gate\..*|setups\.\w+\.(sentence|verdict|open_points\..*)|"
    + ANY
    + r"(verdict|limit|feel|needed_for|margins\.\w+\.(verdict|label|why_unknown)|margins\.reserve\.(key|needed|unit)))"
)
STOPS = r"setups\.\w+\.(stop_\w+|ground_\w+\.\w+|always\.[\w.]+|wheels\.\w+\.(emergency_rotor_rise_k|must_\w+))"
HEAT = ANY + (
    r"(peak_c\.\w+|end_c\.\w+|fluid_peak_with_soak_c|boils_at_m|cool_to_50_c_s|rotor_above_fade_s|fluid_above_boiling_s|friction_energy_kj|regeneration_kj|"
    r"ledger_kj\.\w+|ledger_open_ratio|pad_wear_mm_per_ride|rotor_wear_mm_per_ride|pad_life_rides|rotor_life_rides|finger_drag_n|"
    r"worst_speed\.\w+|rides\.\w+\.\w+|year\.\w+|emergency_rotor_rise_k|margins\.(fade|rotor|boil)\.value)"
)
HOT = ANY + r"(mu_hot|available_hot_n|reserve_ratio|margins\.reserve\.value)"
RIDE = r"setups\.\w+\.(ride\..*|rides\..*|wheels\.\w+\.ride_km)"
NEEDED = (
    ANY
    + r"(needed_n|finger_target_n|clamp_target_n|pressure_target_bar|torque_target_nm|lever_travel_mm|lever_travel_air_mm|margins\.travel\.value)"
)
GROUND = ANY + r"(usable_n|slide_force_n|finger_lock_n|finger_lock_while_front_brakes_n)"
GAIN = ANY + r"(gain_road_n_per_finger_n)"
FITS = r"setups\.\w+\.fits\.\w+\."
FIT = FITS + r".*"
BUYS = r"setups\.proposed\.(price|parts\..*)"
MASS = r"(total_mass_kg|rear_to_cg_m|cg_height_m)"
WHEEL_BRAKE = (HEAT, HOT, NEEDED, GROUND, GAIN, STOPS, WORDS)


def only(end: str, *families: str) -> tuple[str, ...]:
    """The families, for one wheel."""
    return tuple(f.replace(r"wheels\.\w+", rf"wheels\.{end}").replace(r"fits\.\w+", rf"fits\.{end}") for f in families)


def setup(name: str, *families: str) -> tuple[str, ...]:
    return tuple(f.replace(r"setups\.\w+", rf"setups\.{name}") for f in families)


ROWS: list[tuple[str, Any, dict[str, int], tuple[str, ...]]] = [
    # rider
    ("rider.mass_kg", 92.0, {"total_mass_kg": 1, FF + "peak_c.rotor": 1, FR + "needed_n": 1, PF + "finger_target_n": 1,
     "setups.fitted.ride.budget_kj.braked": 1}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("rider.kit_mass_kg", 11.0, {"total_mass_kg": 1, FF + "peak_c.rotor": 1}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("rider.fingers", 2, {FF + "available_hot_n": 1, PF + "reserve_ratio": 1, FF + "margins.fade.value": 1},
     (ANY + r"(available_hot_n|reserve_ratio|margins\.(reserve|fade)\.value)", STOPS, WORDS)),
    ("rider.hands", "small", {FF + "available_hot_n": -1, FF + "reserve_ratio": -1},
     (ANY + r"(available_hot_n|reserve_ratio|margins\.(reserve|fade)\.value)", STOPS, WORDS, HEAT, RIDE)),
    ("rider.skill", "novice", {FF + "usable_n": -1, PR + "usable_n": -1}, (ANY + "usable_n", STOPS, WORDS)),
    ("rider.style", "pulse", {}, (HEAT, HOT, RIDE, WORDS, STOPS)),
    ("rider.front_share_pct", 68.0, {FF + "peak_c.rotor": 1, FR + "peak_c.rotor": -1, PF + "friction_energy_kj": 1},
     (HEAT, HOT, WORDS, STOPS)),
    ("rider.share_by", "axle_load", {}, (HEAT, HOT, WORDS, STOPS)),
    ("rider.name", "Somebody else", {}, ()),
    # bike
    ("bike.kind", "city", {}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.mass_kg", 25.0, {"total_mass_kg": 1, FF + "peak_c.rotor": 1}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.wheelbase_m", 1.25, {FF + "usable_n": 1, FR + "usable_n": 1}, (HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.rear_to_cg_m", 0.52, {"rear_to_cg_m": 1, "setups.fitted.stop_flat_m": 1}, (MASS, HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.cg_height_m", 0.9, {"cg_height_m": -1, FR + "usable_n": 1}, (MASS, HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.drag_area_m2", 0.7, {FF + "peak_c.rotor": -1, "setups.fitted.ride.budget_kj.air": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("bike.rolling_ratio", 0.015, {FF + "peak_c.rotor": -1, "setups.fitted.ride.budget_kj.rolling": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("bike.wheel_radius_mm", 300.0, {FF + "gain_road_n_per_finger_n": 1, FF + "finger_target_n": -1, FF + "peak_c.rotor": -1},
     WHEEL_BRAKE),
    ("bike.tread", "knobby", {"grip_ratio": -1, FR + "finger_lock_n": -1}, ("grip_ratio", HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("bike.tread", "slick", {}, ()),  # slick or mixed: the same on dry asphalt
    ("front.film_compound", "resin", {FF + "mu_work": -1, FF + "finger_target_n": 1},
     setup("fitted", *only("front", ANY + "mu_(cold|work)", HEAT, HOT, NEEDED, GROUND, GAIN), STOPS, WORDS, RIDE, HEAT)),
    ("rear.tyre_tread", "knobby", {FR + "finger_lock_n": -1}, (HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("front.tyre_tread", "knobby", {"grip_ratio": -1}, ("grip_ratio", HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("rear.tyre_left", "worn", {}, (WORDS,)),  # on a dry road: no tread is asked for
    ("bike.top_speed_kmh", 60.0, {FF + "mu_hot": -1, FF + "reserve_ratio": -1, "setups.fitted.stop_flat_m": 1}, (HOT, STOPS, WORDS, ANY + r"worst_speed\.\w+")),
    ("bike.rated_speed_kmh", 25.0, {}, (WORDS,)),
    ("bike.third_brake_share_pct", 30.0, {FF + "peak_c.rotor": -1, FR + "peak_c.rotor": -1}, (HEAT, HOT, STOPS, WORDS)),
    ("bike.use", "city", {}, ()),
    ("bike.tyre_size", "40-355", {FF + "gain_road_n_per_finger_n": 1, FF + "finger_target_n": -1}, WHEEL_BRAKE),
    ("bike.cutoff_switches", True, {}, ()),
    ("wishes.wants", ["quiet"], {}, ()),
    ("complaint_end", "front", {}, ()),
    ("replies", {"hook": "no"}, {}, ()),
    # load
    ("load.luggage_kg", 30.0, {"total_mass_kg": 1, "cg_height_m": -1, "rear_to_cg_m": -1}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("load.luggage_ahead_m", 0.9, {"rear_to_cg_m": 1}, (MASS, HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("load.luggage_height_m", 1.3, {"cg_height_m": 1}, (MASS, HOT, NEEDED, GROUND, STOPS, WORDS)),
    ("load.passengers_kg", 20.0, {"total_mass_kg": 1, FF + "peak_c.rotor": 1}, (MASS, HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    ("load.trailer_kg", 25.0, {"total_mass_kg": 1, FF + "peak_c.rotor": 1, "setups.fitted.stop_flat_m": 1},
     ("total_mass_kg", HEAT, HOT, RIDE, NEEDED, GROUND, STOPS, WORDS)),
    # where
    ("conditions.surface", "gravel", {"grip_ratio": -1, "setups.fitted.stop_flat_m": 1}, ("grip_ratio", HOT, NEEDED, GROUND, STOPS, WORDS, RIDE, HEAT)),
    ("conditions.rain", True, {FF + "mu_cold": -1},
     (ANY + "mu_cold", ANY + r"(year\.)?(pad|rotor)_(wear|life)\w*", GROUND, HEAT, HOT, RIDE, STOPS, WORDS)),
    ("conditions.ambient_c", 32.0, {FF + "peak_c.rotor": 1, FF + "margins.boil.value": -1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("conditions.head_wind_kmh", 20.0, {FF + "peak_c.rotor": -1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    # ride
    ("rides.descent.sections.1.gradient_pct", 12.0, {"setups.fitted.ride.steepest_ratio": 1, FF + "peak_c.rotor": 1, FF + "needed_n": 1},
     (HEAT, HOT, RIDE, NEEDED, STOPS, WORDS)),
    ("rides.descent.sections.0.length_m", 4000.0, {"setups.fitted.ride.length_m": 1, FF + "friction_energy_kj": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("rides.descent.sections.1.corner_kmh", 6.0, {"setups.fitted.ride.duration_s": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("rides.descent.start_elevation_m", 2400.0, {FF + "peak_c.rotor": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("rides.descent.times_a_year", 90.0, {"setups.fitted.rides.descent.yearly_mj": 1, FF + "year.pad_wear_mm": 1, FR + "year.pad_life_years": -1},
     (ANY + r"year\.\w+", r"setups\.\w+\.rides\.descent\.(yearly_mj|times_a_year)")),
    ("rides.descent.sections.0.stand_s", 120.0, {"setups.fitted.ride.duration_s": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("rides.descent.grit", "some", {FF + "pad_wear_mm_per_ride": 1}, (ANY + r"(year\.)?pad_(wear|life)\w*", ANY + r"rides\.\w+\.\w+")),
    ("rides.descent.sections.1.surface", "loose", {"setups.fitted.ride.duration_s": 1}, (HEAT, HOT, RIDE, STOPS, WORDS)),
    ("rides.descent.laps", 3, {"setups.fitted.ride.length_m": 1, FF + "friction_energy_kj": 1, FF + "peak_c.rotor": 1},
     (HEAT, HOT, RIDE, STOPS, WORDS)),
    # front wheel as measured
    ("front.rotor_points_mm", [1.55, 1.56, 1.56, 1.55, 1.56, 1.56], {FF + "peak_c.rotor": 1, FF + "mu_hot": -1}, setup("fitted", *only("front", HEAT, HOT, WORDS), STOPS, WORDS)),
    ("front.pad_inner_mm", 1.2, {FF + "peak_c.fluid": 1}, setup("fitted", *only("front", HEAT, HOT, WORDS), STOPS, WORDS)),
    ("front.pad_state", "glazed", {FF + "mu_work": -1, FF + "finger_target_n": 1, FF + "reserve_ratio": -1},
     setup("fitted", *only("front", ANY + "mu_(cold|work)", HEAT, HOT, NEEDED, GROUND, GAIN), STOPS, WORDS, RIDE, HEAT)),
    ("front.fluid_boils_c", 110.0, {FF + "boiling_point_c": -1, FF + "margins.boil.value": -1},
     only("front", ANY + r"(boiling_point_c|margins\.boil\.value|boils_at_m|fluid_above_boiling_s)", WORDS) + (WORDS,)),
    ("front.water_seen", True, {FF + "boiling_point_c": -1}, only("front", ANY + r"(boiling_point_c|margins\.boil\.value|boils_at_m|fluid_above_boiling_s)", WORDS) + (WORDS,)),
    ("front.max_rotor_mm", 180.0, {FIT_FRONT + "checks.largest.value_mm": -1}, only("front", FIT, WORDS) + (WORDS,)),
    ("front.native_rotor_mm", 180.0, {}, (*only("front", FIT), WORDS, BUYS)),
    ("front.hole_depth_mm", 12.0, {FIT_FRONT + "bolts.upper.maximum_mm": -1}, (*only("front", FIT), WORDS, BUYS)),
    ("front.lower_depth_mm", 12.0, {FIT_FRONT + "bolts.lower.maximum_mm": -1}, only("front", FIT)),
    ("front.tab_mm", 6.0, {}, ()),
    ("front.lower_tab_mm", 6.0, {}, ()),
    ("front.upper_hole_mm", 74.6, {}, ()),
    ("front.upper_bolt_mm", 20.0, {}, (*only("front", FITS + r"(verdict|checks\.bolts\.\w+|bolts\.[\w, ]+\.old_bolt)"), WORDS)),
    ("front.lower_bolt_mm", 20.0, {}, (*only("front", FITS + r"(verdict|checks\.bolts\.\w+|bolts\.[\w, ]+\.old_bolt)"), WORDS)),
    ("front.edge_radius_mm", 104.0, {}, only("front", FITS + r"(verdict|checks\.leg\.\w+)") + (WORDS,)),
    ("front.spoke_gap_mm", 1.2, {}, only("front", FITS + r"(verdict|checks\.spokes\.\w+)") + (WORDS,)),
    ("front.hose_slack_mm", 30.0, {}, only("front", FITS + r"(verdict|checks\.hose\.\w+)") + (WORDS,)),
    ("front.thread_material", "steel", {FIT_FRONT + "bolts.upper.minimum_mm": -1}, (*only("front", FIT), WORDS, BUYS)),
    ("front.lever_id", "u-blade-a", {FF + "gain_road_n_per_finger_n": -1, FF + "finger_target_n": 1, PF + "finger_target_n": 1},
     (*only("front", HEAT, HOT, NEEDED, GROUND, GAIN, ANY + r"(parts\.lever|mu_\w+)"), STOPS, WORDS, r"setups\.\w+\.mass_g", RIDE, HEAT)),
    ("front.lever_feel", "spongy", {FF + "lever_travel_mm": 1, PF + "lever_travel_air_mm": 1, FF + "margins.travel.value": -1},
     (*only("front", ANY + r"(lever_travel_mm|lever_travel_air_mm|margins\.travel\.value)", WORDS), WORDS)),
    ("front.adapter_id", None, {}, only("front", FITS + r".*") + (WORDS, r"setups\.proposed\.parts\..*", r"setups\.proposed\.price")),
    ("front.pad_outer_mm", 1.3, {FF + "peak_c.fluid": 1}, setup("fitted", *only("front", HEAT, HOT, WORDS), STOPS, WORDS)),
    ("front.lever_reach_mm", 40.0, {FF + "margins.travel.value": -1}, (*only("front", ANY + r"margins\.travel\.(value|needed)", WORDS), WORDS)),
    ("front.rotor_cracks", "yes", {}, (GONE, WORDS)),
    ("front.rotor_colour", "blue", {}, (WORDS,)),
    ("front.rotor_runout_mm", 0.4, {}, (WORDS,)),
    ("front.pistons", "stuck", {}, (GONE, WORDS)),
    ("front.line_state", "leaking", {}, (GONE, WORDS)),
    ("front.mount_there", "there", {}, ()),
    ("rear.rotor_id", "q-disc-140", {FR + "peak_c.rotor": 1, FR + "finger_target_n": 1},
     setup("fitted", *only("rear", HEAT, HOT, NEEDED, GROUND, GAIN, FIT, ANY + r"parts\.rotor"), STOPS, WORDS, r"setups\.\w+\.mass_g", RIDE, HEAT)),
    # proposal: what is fitted stays as it is
    ("proposal.front.rotor_id", "b-load-203", {PF + "peak_c.rotor": -1, "setups.proposed.price": 1},
     setup("proposed", *only("front", *WHEEL_BRAKE, FIT, ANY + r"parts\.rotor"), STOPS, WORDS, BUYS, r"setups\.\w+\.mass_g")),
    ("proposal.rear.pad_id", "u-k2-resin", {PR + "peak_c.fluid": -1, "setups.proposed.price": 1},
     setup("proposed", *only("rear", *WHEEL_BRAKE, ANY + r"(parts\.pad|mu_\w+|margins\.(rotor|reserve|fade)\.needed)"), STOPS, WORDS, BUYS, r"setups\.\w+\.mass_g", RIDE, HEAT)),
    ("proposal.bedded", False, {PF + "mu_work": -1, PF + "finger_target_n": 1, PR + "finger_target_n": 1},
     setup("proposed", ANY + r"mu_(cold|work)", HEAT, HOT, NEEDED, GROUND, GAIN, STOPS, WORDS, RIDE)),
    ("special.front.rotor_mm", 203.0, {}, ()),
    ("special.front.upper_x_mm", 90.0, {}, ()),
    # settings
    ("thresholds.boil_margin_k", 70.0, {FF + "margins.boil.needed": 1}, (ANY + r"margins\.boil\.needed", WORDS)),
    ("target_decel_g", 0.3, {FF + "needed_n": -1}, (NEEDED, HOT, GROUND, STOPS, WORDS)),
    ("parameters.convection_ratio", 1.6, {FF + "peak_c.rotor": -1}, (HEAT, HOT, STOPS, WORDS)),
    ("parameters.airflow_rear_ratio", 0.8, {FR + "peak_c.rotor": -1}, (*only("rear", HEAT, HOT), STOPS, WORDS)),
    ("seed", 99, {"seed": 1}, ("seed",)),
    ("title", "Another name", {}, ()),
    ("complaints", ["weak", "howls"], {}, ()),
    ("wishes.school", "lean", {}, ()),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value", "moves", "may"), ROWS, ids=lambda r: r if isinstance(r, str) else "")
def test_the_right_figures_move_and_no_others(
    path: str, value: Any, moves: dict[str, int], may: tuple[str, ...]
) -> None:
    before, after = base(), figures(with_value(own_job(), path, value))
    moved = {k for k in before.keys() | after.keys() if before.get(k) != after.get(k)}
    for key, way in moves.items():
        old, new = before.get(key, 0.0), after[key]
        assert (new - old) * way > 0, f"{key}: {old} → {new}"
    strays = [k for k in sorted(moved) if not any(re.fullmatch(pattern, k) for pattern in may)]
    assert not strays, {k: (before.get(k), after.get(k)) for k in strays[:6]}
    if may:
        assert moved, "nothing moved at all"


def without_words(job) -> dict[str, Any]:
    return {key: value for key, value in figures(job).items() if not key.endswith(".regeneration")}


@pytest.mark.parametrize("end", ["front", "rear"])
def test_regeneration_moves_no_figure_and_says_what_it_spares_its_own_wheel(end: str) -> None:
    job = with_value(with_value(own_job(), "bike.regen_end", end), "bike.regen_limit_w", 300.0)
    counted = with_value(job, "bike.regen_share_pct", 50.0)
    assert without_words(job) == without_words(counted)
    said = answers_of(file_of(counted))["setups"]["fitted"]["regeneration"]
    assert f"would spare the {end} brake" in said
    spared, every, hot, cold = (float(n) for n in re.findall(r"(\d+)\s", said)[:2] + re.findall(r"(\d+)\s*°C", said))
    assert 0 < spared < every
    assert hot < cold
    blank = with_value(counted, "bike.regen_limit_w", None)
    assert without_words(blank) == without_words(job)
    assert (
        "unknown: its greatest power is not entered" in answers_of(file_of(blank))["setups"]["fitted"]["regeneration"]
    )
    assert answers_of(file_of(job))["setups"]["fitted"]["regeneration"] == ""


def test_what_is_missing_is_unknown_and_named() -> None:
    for path, word in (("rider.mass_kg", "rider mass"), ("bike.kind", "bike kind")):
        answers = answers_of(file_of(with_value(own_job(), path, None)))
        assert word in answers["lacks"]
        assert answers["setups"] == {}
    answers = answers_of(file_of(with_value(own_job(), "front.caliper_id", None)))
    assert "front" not in answers["setups"]["fitted"]["wheels"]
    assert answers["setups"]["fitted"]["verdict"] == "unknown"
    assert "front caliper" in answers["lacks"]


def test_not_measured_is_a_state_of_its_own() -> None:
    answers = answers_of(file_of(with_value(own_job(), "front.rotor_points_mm", [])))
    point = next(p for p in answers["setups"]["fitted"]["open_points"] if p["code"] == "rotor_unread")
    assert point["severity"] == "unknown"
    assert "not read" in point["words"]
    assert point["settles"] == "front.rotor_points_mm"
    assert answers["setups"]["fitted"]["verdict"] in ("unknown", "fails")


def test_contradicting_entries_come_back_as_a_problem() -> None:
    answers = answers_of(file_of(with_value(own_job(), "bike.rear_to_cg_m", 2.0)))
    assert "between the axles" in answers["problem"]
    assert answers["setups"] == {}
