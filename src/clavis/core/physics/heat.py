"""Heat of one wheel in six nodes: figures from parts, integration, soak, ledger (docs/model.md, section 5)."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import IntEnum
from math import log, pi, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.parameters import SEA_LEVEL_PA, ModelParameters
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import AGES_OVER_Y, FLUID_GRADES, Fluid
from clavis.core.parts.models import Caliper, CarrierMaterial, Construction, Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import LEAST_WAY_M, HeatSteps
from clavis.core.physics.friction import fall_from, rise_per_k
from clavis.core.physics.heat_kernel import Integrated, StepArrays
from clavis.core.sentences import Words, say

Array = NDArray[np.float64]


class Node(IntEnum):
    """The six nodes, in the order of the arrays."""

    CARRIER = 0
    ROTOR = 1
    SURFACE = 2
    PADS = 3
    CALIPER = 4
    FLUID = 5


NODE_NAMES = {
    Node.ROTOR: "rotor",
    Node.CARRIER: "carrier",
    Node.SURFACE: "surface",
    Node.PADS: "pads",
    Node.CALIPER: "caliper",
    Node.FLUID: "fluid",
}


@dataclass(frozen=True)
class Metal:
    """Density kg/m³, heat capacity J/kgK, conductivity W/mK."""

    rho: float
    c: float
    k: float


STEEL = Metal(7750, 470, 25)
ALUMINIUM = Metal(2700, 900, 200)
SANDWICH_STEEL_SHARE = 0.5
"""share of a sandwich rotor's thickness that is steel, both faces together (typical; measure yours)"""
LAYERED = frozenset({Construction.SANDWICH, Construction.VANED})
"""rotors of steel faces on an aluminium core"""
SANDWICH_LIMIT_C = 375.0
ROTOR_TO_CARRIER_W_K: dict[Construction, float] = {
    Construction.ONE_PIECE: 0.35,
    Construction.FLOATING: 0.12,
    Construction.SANDWICH: 0.5,
    Construction.VANED: 0.8,
}
PAD_AREA_MM2 = {False: 330.0, True: 520.0}
"""one pad: two pistons, four pistons, where the pad states none"""
CABLE_CALIPER = (110.0, 0.011)
HYDRAULIC_CALIPER = {False: (95.0, 0.010, 4.3, 0.6), True: (145.0, 0.014, 6.9, 0.9)}
"""C_K J/K, A_K m², C_F J/K, G_PK W/K: two pistons, four pistons"""
PHENOLIC_RATIO = 0.4
FIN_AREA_M2 = 0.003
LEAST_MATERIAL_MM = 0.5
CARRIER_LENGTH_M = 0.020
_MM2 = 1e-6
_MM = 1e-3


def metals_of(rotor: Rotor) -> str:
    """What a rotor's track is made of, in words.

    >>> from clavis.core.parts.samples import ROTOR
    >>> metals_of(ROTOR)
    'steel'
    """
    layered = rotor.construction in LAYERED
    return "steel faces on aluminium" if layered else "steel"


def pad_area_mm2(pad: Pad, caliper: Caliper) -> float:
    """Area of one pad: its own, or the usual one for two or four pistons, mm².

    >>> from clavis.core.parts.samples import CALIPER, PAD
    >>> pad_area_mm2(PAD, CALIPER)
    330.0
    """
    return pad.area_mm2 or PAD_AREA_MM2[caliper.four_pistons]


CARRIER_METALS: dict[CarrierMaterial, Metal] = {CarrierMaterial.STEEL: STEEL, CarrierMaterial.ALUMINIUM: ALUMINIUM}


def carrier_material(rotor: Rotor) -> CarrierMaterial:
    """What a rotor's arms are made of: as stated, or by its construction (judged): steel where rotor and arms are one
    piece, aluminium where they are joined.

    >>> from clavis.core.parts.samples import ROTOR
    >>> carrier_material(ROTOR).value
    'steel'
    """
    if rotor.carrier_material is not None:
        return rotor.carrier_material
    return CarrierMaterial.STEEL if rotor.construction is Construction.ONE_PIECE else CarrierMaterial.ALUMINIUM


@dataclass(frozen=True)
class RotorGeometry:
    """What the rotor's geometry gives: mass kg, capacity J/K, cooling area m², swept solid area of one face m²."""

    mass_kg: float
    capacity_j_k: float
    area_m2: float
    swept_m2: float
    mean_radius_m: float
    effusivity: float


def rotor_geometry(rotor: Rotor, thickness_mm: float, p: ModelParameters) -> RotorGeometry:
    """What a rotor's geometry gives for heat.

    m_R = ρ A_gross (1 − void) t; A_R = 2 A_gross (1 − void) + 2π(2 r_o − w) t + 4 t void A_gross/d_h.

    Parameters
    ----------
    rotor : Rotor
    thickness_mm : float
        Of the track as measured, mm, above 0: a worn rotor stores less.
    p : ModelParameters
        Share of holes 0 to 0.8, their diameter mm.

    Returns
    -------
    RotorGeometry
        kg, J/K, m², m; effusivity √(k ρ c) of its face, W s^½/(m² K).

    Source: ring geometry; material figures of stainless steel and aluminium from textbook tables (Incropera and others,
    Fundamentals of Heat and Mass Transfer, 6th ed., table A.1).

    >>> from clavis.core.parts.samples import ROTOR
    >>> geometry = rotor_geometry(ROTOR, 1.8, ModelParameters())
    >>> round(1000 * geometry.mass_kg, 1), round(geometry.capacity_j_k, 1)
    (78.9, 37.1)
    """
    outer, track, t = rotor.diameter_mm / 2 * _MM, rotor.track_mm * _MM, thickness_mm * _MM
    gross = pi * (outer**2 - (outer - track) ** 2)
    solid = gross * (1 - p.rotor_void_ratio)
    layered = rotor.construction in LAYERED
    steel = SANDWICH_STEEL_SHARE if layered else 1.0
    mass = solid * t * (STEEL.rho * steel + ALUMINIUM.rho * (1 - steel))
    capacity = solid * t * (STEEL.rho * STEEL.c * steel + ALUMINIUM.rho * ALUMINIUM.c * (1 - steel))
    area = 2 * solid + 2 * pi * (2 * outer - track) * t + 4 * t * p.rotor_void_ratio * gross / (p.rotor_hole_mm * _MM)
    return RotorGeometry(mass, capacity, area, solid, outer - track / 2, sqrt(STEEL.k * STEEL.rho * STEEL.c))


def carrier_mass_kg(rotor: Rotor, new_rotor_kg: float) -> float:
    """Mass of what is inside the track: the weighed rotor less its track when new.

    Parameters
    ----------
    rotor : Rotor
        Weighed in g.
    new_rotor_kg : float
        Its track when new, kg.

    Returns
    -------
    float
        kg; where next to nothing is left, the usual 45 g (D/160)³ (t/1.8) (judged).

    >>> from clavis.core.parts.samples import ROTOR
    >>> round(carrier_mass_kg(ROTOR, 0.0789), 3)
    0.064
    """
    rest = rotor.mass_g / 1000 - new_rotor_kg
    typical = 0.045 * (rotor.diameter_mm / 160) ** 3 * rotor.thickness_mm / 1.8
    return rest if rest > 0.3 * typical else typical


def equal_mass_thickness_mm(rotor: Rotor, mass_g: float, p: ModelParameters) -> float | None:
    """How thick a rotor's track would be to weigh what another rotor weighs, its diameter and arms as they are.

    t = (m − m_arms)/(m_track/t_new); in one piece the arms grow with the track: t = t_new m/m_new.

    Parameters
    ----------
    rotor : Rotor
    mass_g : float
        Of the other rotor, g.
    p : ModelParameters
        Share of holes.

    Returns
    -------
    float or None
        mm; None where the arms alone weigh more.

    Source: ring geometry.

    >>> from clavis.core.parts.samples import ROTOR
    >>> round(equal_mass_thickness_mm(ROTOR, 2 * ROTOR.mass_g, ModelParameters()), 2)
    3.6
    """
    if rotor.construction is Construction.ONE_PIECE:
        return rotor.thickness_mm * mass_g / rotor.mass_g
    track_kg = rotor_geometry(rotor, rotor.thickness_mm, p).mass_kg
    left_kg = mass_g / 1000 - carrier_mass_kg(rotor, track_kg)
    return rotor.thickness_mm * left_kg / track_kg if left_kg > 0 else None


def rotor_share(geometry: RotorGeometry, pad: Pad, caliper: Caliper) -> float:
    """Share of the friction heat that enters the rotor: γ = 1/(1 + e_p A_pad/(e_R A_swept)), e = √(k ρ c).

    Parameters
    ----------
    geometry : RotorGeometry
    pad : Pad
    caliper : Caliper

    Returns
    -------
    float
        0 to 1.

    Source: two half-spaces that share a heated face; Limpert, Brake Design and Safety, 3rd ed., SAE International 2011,
    chapter 3 (thermal analysis).

    >>> from clavis.core.parts.samples import CALIPER, PAD, ROTOR
    >>> round(rotor_share(rotor_geometry(ROTOR, 1.8, ModelParameters()), PAD, CALIPER), 3)
    0.991
    """
    row = COMPOUNDS[pad.compound]
    effusivity = sqrt(row.k_w_mk * row.rho_kg_m3 * row.c_j_kgk)
    return 1 / (1 + effusivity * pad_area_mm2(pad, caliper) * _MM2 / (geometry.effusivity * geometry.swept_m2))


@dataclass(frozen=True)
class WornBrake:
    """A brake as it is, not as new: ``thickness_mm`` of the rotor's track, ``material_mm`` left on one pad."""

    rotor: Rotor
    thickness_mm: float
    pad: Pad
    material_mm: float
    caliper: Caliper
    end: End


def node_row(brake: WornBrake, wheel_radius_m: float, wet: bool, p: ModelParameters) -> Array:
    """One brake as a row for the heat balance.

    Parameters
    ----------
    brake : WornBrake
        Parts as they are, not as new.
    wheel_radius_m : float
        m, 0.1 to 0.5.
    wet : bool
        Whether the ride begins wet.
    p : ModelParameters

    Returns
    -------
    array
        (len(heat_kernel.COLUMNS),), in their order and units.

    >>> from clavis.core.parts.samples import CALIPER, PAD, ROTOR
    >>> row = node_row(WornBrake(ROTOR, 1.8, PAD, 2.0, CALIPER, End.FRONT), 0.345, wet=False, p=ModelParameters())
    >>> round(float(row[heat_kernel.C_ROTOR]), 1)
    37.1
    """
    rotor, thickness_mm, pad, material_mm = brake.rotor, brake.thickness_mm, brake.pad, brake.material_mm
    caliper, end = brake.caliper, brake.end
    row = COMPOUNDS[pad.compound]
    geometry = rotor_geometry(rotor, thickness_mm, p)
    carrier = carrier_mass_kg(rotor, rotor_geometry(rotor, rotor.thickness_mm, p).mass_kg)
    metal = CARRIER_METALS[carrier_material(rotor)]
    vanes = 2.0 if rotor.construction is Construction.VANED else 1.0
    carrier_thickness = rotor.thickness_mm * _MM
    area = 2 * pad_area_mm2(pad, caliper) * _MM2
    material, surface = max(material_mm, LEAST_MATERIAL_MM) * _MM, p.pad_surface_mm * _MM
    friction_material = row.rho_kg_m3 * row.c_j_kgk
    plates = p.plate_area_of_pad_ratio * p.plate_mm * _MM * STEEL.rho * STEEL.c
    if caliper.fluid is Fluid.NONE:
        (cap_k, area_k), cap_f, to_caliper = CABLE_CALIPER, 0.0, HYDRAULIC_CALIPER[False][3]
    else:
        cap_k, area_k, cap_f, to_caliper = HYDRAULIC_CALIPER[caliper.four_pistons]
    if caliper.phenolic:
        to_caliper *= PHENOLIC_RATIO
    inner = rotor.diameter_mm / 2 * _MM - rotor.track_mm * _MM
    values = {
        "rotor_capacity": geometry.capacity_j_k,
        "rotor_area": geometry.area_m2,
        "rotor_emissivity": p.rotor_emissivity_ratio,
        "rotor_length": rotor.track_mm * _MM,
        "rotor_radius": geometry.mean_radius_m,
        "carrier_capacity": carrier * metal.c,
        "carrier_area": 2.2 * carrier / (metal.rho * carrier_thickness) * vanes,
        "carrier_length": CARRIER_LENGTH_M,
        "carrier_radius": (inner + 0.022) / 2,
        "rotor_to_carrier": ROTOR_TO_CARRIER_W_K[rotor.construction] * p.rotor_to_carrier_ratio,
        "rotor_to_surface_on": area / (1 / p.pad_contact_w_m2k + surface / 2 / row.k_w_mk),
        "rotor_to_surface_off": p.pad_released_w_k,
        "surface_capacity": area * surface * friction_material,
        "surface_to_pads": area * row.k_w_mk / (material - surface / 2),
        "pads_capacity": area * ((material - surface) * friction_material + plates),
        "fin_area": FIN_AREA_M2 if pad.finned else 0.0,
        "pads_to_caliper": to_caliper,
        "caliper_capacity": cap_k,
        "caliper_area": area_k,
        "caliper_emissivity": p.caliper_emissivity_ratio,
        "caliper_to_fluid": p.caliper_fluid_w_k,
        "fluid_capacity": cap_f,
        "rotor_share": rotor_share(geometry, pad, caliper),
        "airflow_ratio": p.airflow_front_ratio if end is End.FRONT else p.airflow_rear_ratio,
        "convection_ratio": p.convection_ratio,
        "still_air": p.still_air_w_m2k,
        "wheel_radius": wheel_radius_m,
        "t1": row.t1_c,
        "t2": row.t2_c,
        "fade_onset": row.fade_c,
        "mu_cold": row.mu_cold,
        "mu_rise_per_k": rise_per_k(row),
        "mu_fall": fall_from(row),
        "mu_slope_per_k": row.slope_per_100k / 100,
        "mu_floor": row.floor,
        "wet_ratio": row.wet_ratio if wet else 1.0,
    }
    return np.array([values[name] for name in heat_kernel.COLUMNS], dtype=np.float64)


SOAK_S = 3600.0
FLUID_PEAKS_WITHIN_S = 1200.0
"""after a stop the fluid has peaked by then in every construction (a test looks)"""
COOL_C = 50.0


@dataclass(frozen=True)
class Ledger:
    """Where the energy went, kJ. ``closure`` is the share of the energy in that is not accounted for."""

    friction_in_kj: float
    stored_kj: dict[Node, float]
    convected_kj: dict[Node, float]
    radiated_kj: dict[Node, float]

    @property
    def closure(self) -> float:
        out = sum(self.stored_kj.values()) + sum(self.convected_kj.values()) + sum(self.radiated_kj.values())
        return (self.friction_in_kj - out) / max(self.friction_in_kj, 1e-9)


@dataclass(frozen=True)
class HeatResult:
    """Temperatures of one wheel, °C. ``course_c`` (m + 1, 6) at ``distance_m`` and ``time_s``.

    ``fluid_peak_c`` includes the soak after the stop; ``least_mu_per_n`` is the least friction over force
    asked along the braked way, 1/N, and ``least_at_m`` where; ``hot_kj`` what is braked with the rotor above fade
    onset; ``cool_s`` the time after the stop until the rotor is back to 50 °C.
    """

    peak_c: dict[Node, float]
    peak_at_m: dict[Node, float]
    end_c: dict[Node, float]
    fluid_peak_c: float | None
    fluid_peak_after_stop_s: float | None
    least_mu_per_n: float
    least_at_m: float
    hot_kj: float
    cool_s: float | None
    course_c: Array
    distance_m: Array
    time_s: Array
    ledger: Ledger


def _soak_steps() -> Array:
    steps: list[float] = []
    span = 1.0
    while sum(steps) < SOAK_S:
        steps.append(min(span, 20.0))
        span *= 1.08
    return np.array(steps)


_SOAK_DT = _soak_steps()
_SOAK_CLOCK = np.concatenate([[0.0], np.cumsum(_SOAK_DT)])


def cooled_s(rotor_c: Array, ambient_c: float, to_c: float = COOL_C) -> float | None:
    """When a rotor that stands still is down to a temperature, s; 0 where it begins there, None where the hour does not
    bring it there. ``rotor_c`` is on the clock of ``standing_course``; between two of its points the excess over the
    air falls exponentially.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> _, rotor_c = standing_course(ROW, STEPS, 20.0)
    >>> sooner, later = cooled_s(rotor_c, 20.0, 70.0), cooled_s(rotor_c, 20.0)
    >>> 0 < sooner < later
    True
    """
    below = np.nonzero(rotor_c <= to_c)[0]
    if not len(below) or not below[0]:
        return 0.0 if len(below) else None
    k = below[0]
    hotter, cooler, wanted = (log(max(c - ambient_c, 1e-6)) for c in (rotor_c[k - 1], rotor_c[k], to_c))
    return float(_SOAK_CLOCK[k] - _SOAK_DT[k - 1] * (wanted - cooler) / (hotter - cooler))


def _standing(rows: Array, start: Array, ambient_c: float, pressure_pa: float, keep: bool) -> Integrated:
    """An hour standing still; without a course only as long as the fluid may take to its peak."""
    dt = _SOAK_DT if keep else _SOAK_DT[_SOAK_CLOCK[:-1] < FLUID_PEAKS_WITHIN_S]
    nothing = np.zeros_like(dt)
    still = StepArrays(dt, nothing[:, None], nothing, nothing, nothing[:, None], np.full_like(dt, pressure_pa))
    return heat_kernel.integrate(rows, still, float(ambient_c), start, keep)


def arrays_of(steps: HeatSteps) -> StepArrays:
    """The steps as the compiled loop takes them."""
    power, force = steps.power_w[:, None], steps.force_n[:, None]
    return StepArrays(steps.dt_s, power, steps.speed_ms, steps.braking, force, steps.pressure_pa)


def _riding(rows: Array, steps: HeatSteps, ambient_c: float, keep: bool) -> Integrated:
    start = np.full((len(rows), heat_kernel.NODES), float(ambient_c))
    return heat_kernel.integrate(rows, arrays_of(steps), float(ambient_c), start, keep)


def _soak_peak_s(fluid_c: Array, later: bool) -> float:
    """When standing still the fluid is hottest, s; at once where it was hotter on the ride."""
    return float(_SOAK_CLOCK[fluid_c.argmax()]) if later else 0.0


def heat_of(rows: Array, steps: HeatSteps, ambient_c: float) -> list[HeatResult]:
    """Temperatures of several setups along one ride from ambient, then an hour standing still.

    Parameters
    ----------
    rows : array
        (n, len(heat_kernel.COLUMNS)), as ``node_row`` gives them.
    steps : HeatSteps
        Of one wheel.
    ambient_c : float
        °C.

    Returns
    -------
    list of HeatResult
        n, in order; °C.

    Source: energy balance of six lumped capacities (docs/model.md, section 5).

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> heat = heat_of(ROW[None], STEPS, 20.0)[0]
    >>> round(heat.peak_c[Node.ROTOR]), round(heat.fluid_peak_c), round(abs(heat.ledger.closure), 9)
    (118, 32, 0.0)
    """
    n = len(rows)
    peaks, ledger, least, hot, course = _riding(rows, steps, ambient_c, keep=True)
    end = course[:, -1, :]
    standing = _standing(rows, end.copy(), ambient_c, float(steps.pressure_pa[-1]), True)
    soak_peaks, soak = standing.peaks, standing.course
    out = []
    for i in range(n):
        has_fluid = rows[i, heat_kernel.C_FLUID] > 0
        nodes = [node for node in Node if has_fluid or node is not Node.FLUID]
        later = bool(soak_peaks[i, Node.FLUID] > peaks[i, Node.FLUID] + 0.01)
        kj = ledger[i] / 1000
        out.append(
            HeatResult(
                peak_c={node: float(peaks[i, node]) for node in nodes},
                peak_at_m={node: float(steps.distance_m[course[i, :, node].argmax()]) for node in nodes},
                end_c={node: float(end[i, node]) for node in nodes},
                fluid_peak_c=float(max(peaks[i, Node.FLUID], soak_peaks[i, Node.FLUID])) if has_fluid else None,
                fluid_peak_after_stop_s=_soak_peak_s(soak[i, :, Node.FLUID], later) if has_fluid else None,
                least_mu_per_n=float(least[i, 0]),
                least_at_m=float(np.interp(least[i, 1], steps.time_s, steps.distance_m)),
                hot_kj=float(hot[i]) / 1000,
                cool_s=cooled_s(soak[i, :, Node.ROTOR], ambient_c),
                course_c=course[i],
                distance_m=steps.distance_m,
                time_s=steps.time_s,
                ledger=Ledger(
                    float(kj[0]),
                    {node: float(kj[1 + node]) for node in nodes},
                    {
                        Node.ROTOR: float(kj[7]),
                        Node.CARRIER: float(kj[8]),
                        Node.PADS: float(kj[9]),
                        Node.CALIPER: float(kj[10]),
                    },
                    {Node.ROTOR: float(kj[11]), Node.CALIPER: float(kj[12])},
                ),
            )
        )
    return out


def standing_course(row: Array, steps: HeatSteps, ambient_c: float) -> tuple[Array, Array]:
    """How a rotor cools after a ride, standing still.

    Parameters
    ----------
    row : array
        (len(heat_kernel.COLUMNS),).
    steps : HeatSteps
    ambient_c : float
        °C.

    Returns
    -------
    tuple of array
        Time since the stop s, rotor °C, over an hour.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> clock, rotor_c = standing_course(ROW, STEPS, 20.0)
    >>> round(float(rotor_c[0])), round(float(np.interp(300.0, clock, rotor_c)))
    (118, 44)
    """
    clock, rotor_c = standing_courses(row[None, :], steps, np.ones(1), ambient_c)
    return clock, rotor_c[0]


def standing_courses(rows: Array, steps: HeatSteps, power_ratio: Array, ambient_c: float) -> tuple[Array, Array]:
    """How the rotors of several setups cool after a ride, standing still, each with its share of the ride's power.

    Parameters
    ----------
    rows : array
        (n, len(heat_kernel.COLUMNS)).
    steps : HeatSteps
    power_ratio : array
        What each brakes of the stated power, (n,), above 0.
    ambient_c : float
        °C.

    Returns
    -------
    tuple of array
        Time since the stop s (m,), rotor °C (n, m), over an hour.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> _, rotor_c = standing_courses(np.array([ROW, ROW]), STEPS, np.array([1.0, 0.5]), 20.0)
    >>> rotor_c[:, 0].round().tolist()
    [118.0, 69.0]
    """
    load = arrays_of(steps)
    load = load._replace(power=load.power * power_ratio, force=load.force * power_ratio)
    start = np.full((len(rows), heat_kernel.NODES), float(ambient_c))
    ledger = heat_kernel.integrate(rows, load, float(ambient_c), start, False).ledger
    soak = _standing(rows, _end_of(rows, ledger, ambient_c), ambient_c, float(steps.pressure_pa[-1]), True)
    return _SOAK_CLOCK, soak.course[:, :, Node.ROTOR]


def cooling_course(row: Array, end_c: Mapping[Node, float], rotor_c: float, ambient_c: float) -> tuple[Array, Array]:
    """How a rotor would cool, standing still at sea level, had its ride ended with the rotor at another temperature:
    every node's excess over the air in the same proportion.

    Parameters
    ----------
    row : array
        (len(heat_kernel.COLUMNS),).
    end_c : mapping of Node to float
        At the end of its ride, °C; the rotor's above the air.
    rotor_c : float
        Where it starts, °C.
    ambient_c : float
        °C.

    Returns
    -------
    tuple of array
        Time s, rotor °C, over an hour.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> ended = heat_of(ROW[None], STEPS, 20.0)[0].end_c
    >>> clock, rotor_c = cooling_course(ROW, ended, 200.0, 20.0)
    >>> round(float(rotor_c[0])), round(float(np.interp(300.0, clock, rotor_c)))
    (200, 62)
    """
    ratio = (rotor_c - ambient_c) / (end_c[Node.ROTOR] - ambient_c)
    start = np.array([[ambient_c + ratio * (end_c.get(node, ambient_c) - ambient_c) for node in Node]])
    soak = _standing(row[None, :], start, ambient_c, SEA_LEVEL_PA, True)
    return _SOAK_CLOCK, soak.course[0, :, Node.ROTOR]


def node_courses(rows: Array, steps: HeatSteps, ambient_c: float) -> Array:
    """Every node's temperature of many setups along one way.

    Parameters
    ----------
    rows : array
        (n, len(heat_kernel.COLUMNS)).
    steps : HeatSteps
        m steps.
    ambient_c : float
        °C.

    Returns
    -------
    array
        °C, (n, m + 1, nodes), at ``steps.distance_m``.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> node_courses(ROW[None], STEPS, 20.0).shape == (1, len(STEPS.distance_m), len(Node))
    True
    """
    return _riding(rows, steps, ambient_c, keep=True).course


CAPACITY_COLUMNS = [heat_kernel.COLUMNS.index(f"{NODE_NAMES[node]}_capacity") for node in Node]
"""of the nodes, in their order"""


def _end_of(rows: Array, ledger: Array, ambient_c: float) -> Array:
    """Temperatures at the end of a ride that began at ambient, (n, 6), from what each node stores."""
    caps = rows[:, CAPACITY_COLUMNS]
    stored: Array = ledger[:, 1 : 1 + len(Node)] * np.divide(1.0, caps, out=np.zeros_like(caps), where=caps > 0)
    return float(ambient_c) + stored


@dataclass(frozen=True)
class PeakTable:
    """Peaks of many setups at once, (n, 6) °C; the fluid's with its soak (n,); least μ over force (n,), 1/N; energy
    braked with the rotor above fade onset (n,), kJ."""

    peak_c: Array
    fluid_peak_c: Array
    least_mu_per_n: Array
    hot_kj: Array


def peaks_of(rows: Array, steps: HeatSteps, ambient_c: float) -> PeakTable:
    """The peaks of many setups without their courses, for ranking.

    Parameters
    ----------
    rows : array
        (n, len(heat_kernel.COLUMNS)).
    steps : HeatSteps
    ambient_c : float
        °C.

    Returns
    -------
    PeakTable
        °C and 1/N; the fluid's with its soak after the stop.

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> peaks = peaks_of(ROW[None], STEPS, 20.0)
    >>> round(float(peaks.peak_c[0, Node.ROTOR])), round(float(peaks.fluid_peak_c[0]))
    (118, 32)
    """
    ride = _riding(rows, steps, ambient_c, keep=False)
    return _with_soak(rows, ride, _end_of(rows, ride.ledger, ambient_c), ambient_c, float(steps.pressure_pa[-1]))


def _with_soak(rows: Array, ride: Integrated, end: Array, ambient_c: float, pressure_pa: float) -> PeakTable:
    soak = _standing(rows, end, ambient_c, pressure_pa, False)
    fluid_c = np.maximum(ride.peaks[:, Node.FLUID], soak.peaks[:, Node.FLUID])
    return PeakTable(ride.peaks, fluid_c, ride.least[:, 0], ride.hot / 1000)


@dataclass(frozen=True)
class DrawnLoad:
    """A wheel's load drawn n times, ridden s times as fast as stated (n,): power and force of each in the stated steps,
    (m, n); energy J (n,)."""

    arrays: StepArrays
    speed: Array
    energy_j: Array


def drawn_load(steps: HeatSteps, energy_j: Array, speed: Array) -> DrawnLoad:
    """Loads of their own for n setups, from their energies in the stated steps. The force asked goes with the energy
    of the step.

    Parameters
    ----------
    steps : HeatSteps
        m stated steps.
    energy_j : array
        J, (m, n); its memory becomes the load's own.
    speed : array
        How many times as fast it is ridden, (n,).

    Returns
    -------
    DrawnLoad

    >>> from clavis.core.physics.samples import STEPS
    >>> drawn = drawn_load(STEPS, 1.1 * (STEPS.power_w * STEPS.dt_s)[:, None], np.ones(1))
    >>> round(float(drawn.arrays.power[0, 0] / STEPS.power_w[0]), 3)
    1.1
    """
    stated, way = steps.power_w * steps.dt_s, np.diff(steps.distance_m)
    by_way = np.divide(1.0, way, out=np.zeros_like(way), where=way > LEAST_WAY_M)
    per_j = np.divide(steps.force_n, stated, out=by_way, where=stated > 1.0)
    total, force = energy_j.sum(axis=0), energy_j * per_j[:, None]
    power = np.divide(energy_j, steps.dt_s[:, None], out=energy_j)  # two matrices are kept, no third
    power *= speed
    return DrawnLoad(arrays_of(steps)._replace(power=power, force=force), speed, total)


def peaks_of_drawn(rows: Array, load: DrawnLoad, ambient_c: float) -> PeakTable:
    """``peaks_of`` where each setup has a load of its own.

    Heat at s times the speed is heat in the stated time with capacities s times as great.

    Parameters
    ----------
    rows : array
        (n, len(heat_kernel.COLUMNS)).
    load : DrawnLoad
    ambient_c : float
        °C.

    Returns
    -------
    PeakTable

    >>> from clavis.core.physics.samples import ROW, STEPS
    >>> load = drawn_load(STEPS, (STEPS.power_w * STEPS.dt_s)[:, None], np.ones(1))
    >>> round(float(peaks_of_drawn(ROW[None], load, 20.0).peak_c[0, Node.ROTOR]))
    118
    """
    faster = rows.copy()
    faster[:, CAPACITY_COLUMNS] *= load.speed[:, None]
    faster[:, heat_kernel.AIRFLOW] *= load.speed
    faster[:, heat_kernel.R_WHEEL] /= load.speed
    start = np.full((len(rows), heat_kernel.NODES), float(ambient_c))
    ride = heat_kernel.integrate(faster, load.arrays, float(ambient_c), start, False)
    end = _end_of(faster, ride.ledger, ambient_c)
    ridden = ride._replace(hot=ride.hot / load.speed)
    return _with_soak(rows, ridden, end, ambient_c, float(load.arrays.pressure[-1]))


@dataclass(frozen=True)
class BoilingPoint:
    """°C; None is unknown. ``note`` says what it rests on."""

    boiling_c: float | None
    note: Words


WATER_BOILS_C = 100.0


def boiling_point(
    fluid: Fluid, grade: str | None, age_y: float | None, water_seen: bool, maker_c: float | None, elevation_m: float
) -> BoilingPoint:
    """Boiling point of what is in the caliper.

    A grade that takes up water is taken between its dry and its wet figure over two years. Mineral fluid has the
    maker's figure while its filling is younger than that and no water was seen; older, or of unknown age, it is judged
    as with a drop of water at the caliper. Water boils at 100 °C, less one kelvin for every 300 m. An unknown age is
    never assumed fresh.

    Parameters
    ----------
    fluid : Fluid
    grade : str or None
        Key of FLUID_GRADES.
    age_y : float or None
        Years since it was filled; None is not known.
    water_seen : bool
    maker_c : float or None
        Maker's figure, °C.
    elevation_m : float
        Of the ride's highest place, m.

    Returns
    -------
    BoilingPoint
        °C or None, and what it rests on.

    Source: dry and wet figures of the grades, FMVSS 116; two years judged; water by the saturation line, 3.3 K per
    1000 m.

    >>> boiling_point(Fluid.DOT, "dot4", 1.0, False, None, 0.0).boiling_c
    192.5
    >>> boiling_point(Fluid.MINERAL, None, None, True, None, 600.0).boiling_c
    98.0
    """
    if fluid is Fluid.NONE:
        return BoilingPoint(None, "no fluid")
    water_c = WATER_BOILS_C - max(elevation_m, 0.0) / 300.0
    if water_seen:
        return BoilingPoint(water_c, "water in the system boils first")
    if fluid is Fluid.MINERAL:
        if age_y is None or age_y >= AGES_OVER_Y:
            words = "mineral fluid, {age}: judged as with a drop of water at the caliper; bleeding settles it"
            age = "its age not known" if age_y is None else say("{age_y:g} old", age_y=age_y)
            return BoilingPoint(water_c, say(words, age=age))
        if maker_c is None:
            return BoilingPoint(None, "mineral fluid: the maker's figure is not known")
        return BoilingPoint(
            maker_c, say("mineral fluid, {age_y:g} old, no water seen: the maker's figure", age_y=age_y)
        )
    row = FLUID_GRADES.get(grade or "")
    if row is None or row.dry_c is None or row.wet_c is None:
        return BoilingPoint(None, "DOT grade not known")
    points = {"dry_c": row.dry_c, "wet_c": row.wet_c}
    if age_y is None:
        words = "age of the fluid not known: {dry_c} fresh, {wet_c} at two years; bleeding settles it"
        return BoilingPoint(None, say(words, **points))
    share = min(max(age_y, 0.0), AGES_OVER_Y) / AGES_OVER_Y
    words = "{age_y:g} old, {dry_c} dry to {wet_c} wet over two years"
    return BoilingPoint(row.dry_c + (row.wet_c - row.dry_c) * share, say(words, age_y=age_y, **points))


# Colours a stainless rotor takes, °C from which they show (± 60).
WITNESS_DOUBT_K = 60.0
WITNESSES: tuple[tuple[float, str], ...] = ((290, "straw"), (370, "brown"), (420, "purple"), (500, "blue"))


def witness_of(rotor_c: float) -> str | None:
    """The colour that a rotor temperature leaves on stainless steel, ± 60 K; None where it stays bright.

    Parameters
    ----------
    rotor_c : float
        °C.

    Source: temper colours of stainless steel in air, minutes of exposure (judged from trade tables).

    >>> witness_of(400.0), witness_of(200.0)
    ('brown', None)
    """
    reached = [name for limit, name in WITNESSES if rotor_c >= limit]
    return reached[-1] if reached else None
