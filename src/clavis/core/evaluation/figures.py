"""Every headline figure of a wheel with its working: equation, values put in, source, doubt; and, where a figure
is integrated, what makes it checkable by hand."""

from math import exp, hypot, sqrt

import numpy as np

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.parameters import NOTES, ModelParameters
from clavis.core.parts.models import Fluid
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import Style
from clavis.core.physics.forces import TRAVEL_TIGHT_RATIO, Pull
from clavis.core.physics.friction import COMPOUNDS
from clavis.core.physics.heat import Node, ring_figures
from clavis.core.units import KMH_PER_MS
from clavis.core.working import Figure, Given


def _p(p: ModelParameters, name: str, symbol: str, meaning: str, unit: str, decimals: int | None = None) -> Given:
    note = NOTES.get(name)
    source = "starting value" if note is None else f"{note.source}{'; ' + note.spread if note.spread else ''}"
    return Given(symbol, meaning, getattr(p, name), unit, source, decimals)


_FORCE_SOURCE = "lever and hydrostatic balance, textbook"
_FRICTION_DOUBT = "± 12 % on friction"
PULSE_DOUBT = "; optimistic: in pulse braking the pads' face is hotter than their mean, and more reaches the fluid"
_HEAT_DOUBT = "convection ± 30 %, airflow ± 20 %: typically ± 12 % of the rise"


MU_WORDS: dict[Pull, str] = {Pull.WARM: "at work", Pull.COLD: "cold", Pull.HOT: "at the ride's hottest"}


def wheel_figures(w: WheelResult, p: ModelParameters, ambient_c: float) -> dict[str, Figure]:
    """Every headline figure of one wheel with its working, by key."""
    f, s, heat = w.forces, w.setup, w.heat
    row = COMPOUNDS[s.pad.compound]
    cable = s.caliper.fluid is Fluid.NONE
    construction = s.rotor.construction.value.replace("_", " ")
    radius = Given("r_e", "effective radius", w.link.effective_radius_m, "m", "half the rotor less half the contact", 4)
    state = f.mu_work / row.mu_work
    clamp = Given("N/F", "clamp force over finger force", w.link.clamp_per_finger, "ratio", "lever and caliper")
    wet_in_gain = f.wet_ratio if f.pull is Pull.COLD else 1.0
    told = f"{s.pad.compound.value} × state {state:.2f}" + (f" × wet {wet_in_gain:.2f}" if wet_in_gain < 1 else "")
    mu = Given("μ", f"pad friction {MU_WORDS[f.pull]}", f.mu_pull * wet_in_gain, "ratio", told, 3)
    r_w = Given("r_w", "rolling radius", f.lock_torque_nm / f.lock_force_n, "m", "bike", 3)
    needed = Given("F_i", f"force needed: {f.target_name}", f.needed_n, "n", "axle load share of the target")
    gain = Given("gain", "road over finger", f.gain, "ratio", "as worked out for this wheel")
    ring = ring_figures(s.rotor, s.thickness_mm, p)
    figures = [
        Figure(
            "gain",
            "gain, road over finger",
            f.gain,
            "ratio",
            "gain = 2 μ (N/F) r_e / r_w",
            (mu, clamp, radius, r_w),
            _FORCE_SOURCE,
            _FRICTION_DOUBT,
        ),
        Figure(
            "clamp_ratio",
            "clamp force over finger force",
            w.link.clamp_per_finger,
            "ratio",
            "N/F = i η_c i_arm" if cable else "N/F = i η A_side / A_mc",
            (
                Given("i", "lever ratio", s.lever.ratio, "ratio", s.lever.name),
                _p(p, "cable_efficiency_ratio", "η_c", "cable efficiency", "ratio"),
                Given("i_arm", "arm ratio", s.caliper.arm_ratio, "ratio", s.caliper.name),
            )
            if cable
            else (
                Given("i", "lever ratio", s.lever.ratio, "ratio", s.lever.name),
                _p(p, "hydraulic_efficiency_ratio", "η", "efficiency of the line", "ratio"),
                Given("A_side", "piston area on one side, mm²", s.caliper.piston_area_mm2, "ratio", s.caliper.name, 1),
                Given("A_mc", "master piston area, mm²", s.lever.master_area_mm2, "ratio", s.lever.name, 1),
            ),
            _FORCE_SOURCE,
            "± 5 %",
        ),
        Figure(
            "finger_target",
            "at target",
            f.finger_target_n,
            "n",
            "F = F_i / gain",
            (needed, gain),
            _FORCE_SOURCE,
            _FRICTION_DOUBT,
        ),
        Figure(
            "finger_lock",
            "at lock",
            f.finger_lock_n,
            "n",
            "F = F_lock / (gain × wet)",
            (
                Given("F_lock", "ground limit of this wheel alone", f.lock_force_n, "n", "grip and axle load, ± 15 %"),
                gain,
                Given("wet", "wet pads", f.wet_ratio / wet_in_gain, "ratio", "1 when dry, or in the gain"),
            ),
            _FORCE_SOURCE,
            "± 20 %",
        ),
        Figure(
            "finger_drag",
            "in the drag",
            f.finger_drag_n,
            "n",
            "F = F_drag / gain",
            (
                Given("F_drag", "force this wheel drags with", f.finger_drag_n * f.gain, "n", "ride, 95th percentile"),
                gain,
            ),
            _FORCE_SOURCE,
            _FRICTION_DOUBT,
        ),
        Figure(
            "travel",
            "travel",
            f.travel.total_mm,
            "mm",
            "x = pad gaps × arm ratio × i" if cable else "x = i (A_side · 2 · gap + c p + V_0 p/(p_0 + p)) / A_mc",
            (
                Given("x_gap", "closing the pads", f.travel.gap_mm, "mm", "pad gap 0.25 mm each, ± 30 %"),
                Given("x_soft", "hose, caliper, pads giving", f.travel.compliance_mm, "mm", "4 mm³/bar, ± 30 %"),
                Given(
                    "x_air", "air in a spongy line pressed together", f.travel.air_mm, "mm", "gas law, judged volume"
                ),
                Given("to bar", "travel there is", f.travel.limit_mm, "mm", f"tight above {TRAVEL_TIGHT_RATIO:.0%}"),
            ),
            "volume balance",
            "± 30 %",
        ),
        Figure(
            "cable_pull",
            "pull",
            f.cable_pull_n,
            "n",
            "pull = F i",
            (
                Given("F", "at target", f.finger_target_n, "n", "as above"),
                Given("i", "lever ratio", s.lever.ratio, "ratio", s.lever.name),
            ),
            _FORCE_SOURCE,
            "± 5 %",
        )
        if cable
        else Figure(
            "pressure",
            "pressure",
            f.pressure_target_bar,
            "bar",
            "p = F i η / A_mc",
            (
                Given("F", "at target", f.finger_target_n, "n", "as above"),
                Given("i", "lever ratio", s.lever.ratio, "ratio", s.lever.name),
                _p(p, "hydraulic_efficiency_ratio", "η", "efficiency of the line", "ratio"),
                Given("A_mc", "master piston area, mm²", s.lever.master_area_mm2, "ratio", s.lever.name, 1),
            ),
            _FORCE_SOURCE,
            "± 5 %",
            decimals=0,
        ),
        Figure(
            "clamp",
            "clamp",
            f.clamp_target_n,
            "n",
            "N = F × N/F",
            (Given("F", "at target", f.finger_target_n, "n", "as above"), clamp),
            _FORCE_SOURCE,
            "± 15 %",
        ),
        Figure(
            "mu_cold",
            "μ cold",
            f.mu_cold,
            "ratio",
            "μ_cold × state × wet",
            (Given("μ_cold", "cold", row.mu_cold, "ratio", "compound table"),),
            "compound table, judged",
            _FRICTION_DOUBT,
        ),
        Figure(
            "mu_hot",
            "μ hot",
            f.mu_hot,
            "ratio",
            "μ(T_hot) × state",
            (
                Given("T_hot", "ring at its peak plus one target stop", w.hot_c, "c", "heat model"),
                Given("T_fade", "fade onset", row.fade_c, "c", "compound table"),
                Given("slope", "fall per 100 K", row.slope_per_100k, "ratio", "compound table"),
                Given("floor", "least friction", row.floor, "ratio", "compound table"),
            ),
            "compound table, judged",
            _FRICTION_DOUBT,
            steps=(f"above fade: μ = μ_work − slope (T_hot − T_fade)/100; μ_work {row.mu_work:.2f}",),
        ),
        Figure(
            "torque",
            "torque",
            f.torque_target_nm,
            "nm",
            "T = F_i r_w",
            (needed, r_w),
            _FORCE_SOURCE,
            "± 1 %",
            decimals=0,
        ),
        Figure(
            "force",
            "at the road",
            f.needed_n,
            "n",
            "F_i = F_b N_i / (m g cosθ)",
            (Given("F_i", f.target_name, f.needed_n, "n", "axle load share"),),
            "moment balance, textbook",
            "± 5 %",
        ),
        Figure(
            "reserve",
            "in reserve",
            f.reserve * 100,
            "pct",
            "reserve = (available / F_i − 1) · 100 %",
            (
                Given(
                    "available",
                    f"at the road with the greatest finger force, {'cold' if f.pull is Pull.COLD else 'hot'}",
                    f.available_n,
                    "n",
                    "hand and friction",
                ),
                needed,
            ),
            _FORCE_SOURCE,
            "± 20 %",
            decimals=0,
        ),
        Figure(
            "usable",
            "usable",
            f.usable_n,
            "n",
            "usable = ground limit − σ gain",
            (
                Given("hold back", "finger scatter × gain", f.control_hold_back_n, "n", "finger scatter 6 N, ± 30 %"),
                Given("ground", "limit of this wheel in the target stop", f.ground_n, "n", "grip ± 15 %, axle loads"),
            ),
            "grip and pitch-over limits",
            "± 15 %",
        ),
        Figure(
            "ring",
            "ring",
            heat.peak_c[Node.RING],
            "c",
            "m_R c_R dR/dt = γ Q − air − radiation − carrier − pads",
            (
                Given("m_R", "ring mass", ring.mass_kg, "kg", f"{s.rotor.name}, {s.thickness_mm:.2f} mm", 4),
                Given("m_R c_R", "ring capacity", ring.capacity_j_k, "jpk", "steel 470 J/kgK"),
                Given("A_R", "ring cooling area", ring.area_m2, "m2", "geometry, 25 % holes", 4),
                Given("γ", "share of heat into the ring", w.ring_share, "ratio", "effusivities of pad and ring", 3),
                _p(p, "convection_ratio", "C", "convection multiplier", "ratio"),
            ),
            "five-node balance; flat-plate correlation, textbook",
            _HEAT_DOUBT,
            steps=_ledger_steps(w, ambient_c),
        ),
        Figure(
            "carrier",
            "carrier",
            heat.peak_c[Node.CARRIER],
            "c",
            "m_C c_C dC/dt = G_RC (R − C) − h_C A_C (C − T_a)",
            (
                Given(
                    "m_C c_C", "carrier's capacity", w.node("carrier_capacity"), "jpk", "weighed rotor less its ring"
                ),
                Given("G_RC", "ring to carrier", w.node("ring_to_carrier"), "wpk", f"{construction}, ± 30 %"),
                Given("A_C", "carrier's area", w.node("carrier_area"), "m2", "2.2 m_C/(ρ_C t)", 4),
            ),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure(
            "pads",
            "pads",
            heat.peak_c[Node.PADS],
            "c",
            "C_P dP/dt = (1 − γ) Q + G_RP (R − P) − G_PK (P − K)",
            (
                Given("C_P", "capacity of both pads with plates", w.node("pads_capacity"), "jpk", s.pad.name),
                Given("d_pad", "material on each", s.material_mm, "mm", "measured, or new"),
                Given("G_RP", "ring to pads, braking", w.node("ring_to_pads_on"), "wpk", "2 A_pad/(d_pad/k_p + 1/h_c)"),
                Given("G_PK", "pads to caliper", w.node("pads_to_caliper"), "wpk", "pistons, judged"),
            ),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure(
            "caliper_c",
            "caliper",
            heat.peak_c[Node.CALIPER],
            "c",
            "C_K dK/dt = G_PK (P − K) − h_K A_K (K − T_a) − radiation − G_KF (K − F)",
            (
                Given("C_K", "caliper's capacity", w.node("caliper_capacity"), "jpk", "pistons, judged"),
                Given("A_K", "caliper's area", w.node("caliper_area"), "m2", "pistons, judged"),
                Given("G_PK", "pads to caliper", w.node("pads_to_caliper"), "wpk", "pistons, judged"),
            ),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure(
            "fade_onset",
            "fades at",
            row.fade_c,
            "c",
            "T_fade of the compound",
            (Given("above", "time of the ride above it", w.time_above_s(Node.RING, row.fade_c), "s", "heat model", 0),),
            "compound table, judged",
            "",
        ),
        Figure(
            "energy",
            "energy",
            w.steps.energy_kj,
            "kj",
            "E = E_b × share − regeneration",
            (
                Given("E_b", "energy all brakes turn into heat", w.ride_braked_kj, "kj", "energy balance of the ride"),
                Given("share", "this wheel's part of it", w.brake_share, "ratio", "rider's share, or axle load", 3),
                Given("regen", "taken by the motor", w.steps.regen_j / 1000, "kj", "share and limit entered"),
            ),
            "energy balance of the ride",
            "± 8 %",
        ),
        Figure(
            "power_mean",
            "mean",
            w.steps.energy_kj * 1000 / max(float(w.steps.time_s[-1]), 1e-9),
            "w",
            "P = E / t",
            (
                Given("E", "energy", w.steps.energy_kj, "kj", "ride"),
                Given("t", "duration", float(w.steps.time_s[-1]), "s", "ride"),
            ),
            "",
            "± 8 %",
        ),
        Figure(
            "power_peak",
            "peak",
            float(w.steps.power_w.max(initial=0.0)),
            "w",
            "P = E / t of the hardest step of integration",
            (
                Given("E", "energy in that step", _hardest_kj(w), "kj", "ride", 2),
                Given("t", "its length", _hardest_s(w), "s", "steps follow the energy", 2),
            ),
            "energy balance of the ride",
            "± 15 %",
        ),
        Figure(
            "cool",
            "back to 50 °C",
            None if heat.cool_s is None else heat.cool_s / 60,
            "min",
            "an hour standing still",
            (),
            "five-node balance, still air",
            "± 30 %",
            lacks="not within an hour",
        ),
    ]
    if heat.fluid_peak_c is not None:
        figures.append(
            Figure(
                "fluid",
                "fluid",
                heat.fluid_peak_c,
                "c",
                "C_F dF/dt = G_KF (K − F), with the soak after the stop",
                (
                    Given("C_F", "fluid in the caliper", w.node("fluid_capacity"), "jpk", "pistons, judged"),
                    Given("G_KF", "caliper to fluid", w.node("caliper_to_fluid"), "wpk", "judged, ± 30 %"),
                    Given(
                        "soak", "peak so long after the stop", heat.fluid_peak_after_stop_s, "s", "standing still", 0
                    ),
                ),
                "five-node balance",
                _HEAT_DOUBT + (PULSE_DOUBT if w.style is Style.PULSE else ""),
            )
        )
        figures.append(
            Figure("boils", "boils at", w.boiling.boiling_c, "c", "", (), w.boiling.note, "", lacks=w.boiling.note)
        )
    return {figure.key: figure for figure in figures}


def _hardest_s(w: WheelResult) -> float | None:
    return float(w.steps.dt_s[w.steps.power_w.argmax()]) if len(w.steps.dt_s) else None


def _hardest_kj(w: WheelResult) -> float | None:
    seconds = _hardest_s(w)
    return None if seconds is None else seconds * float(w.steps.power_w.max()) / 1000


def _ring_root(w: WheelResult, speed_ms: float, pressure_pa: float) -> float:
    """C √(U p/ℓ) of the ring's film coefficient at one speed."""
    flow = hypot(w.node("airflow_ratio") * speed_ms, speed_ms / w.node("wheel_radius") * w.node("ring_radius"))
    return w.node("convection_ratio") * sqrt(flow * pressure_pa / w.node("ring_length"))


def _ledger_steps(w: WheelResult, ambient_c: float) -> tuple[str, ...]:
    """What makes an integrated figure checkable: the ledger, one moment worked out, a bound from above."""
    ledger = w.heat.ledger
    to_air = sum(ledger.convected_kj.values())
    radiated = sum(ledger.radiated_kj.values())
    stored = sum(ledger.stored_kj.values())
    steps = [
        f"energy in {ledger.friction_in_kj:.1f} kJ = to air {to_air:.1f} + radiated {radiated:.1f} "
        f"+ stored {stored:.1f} kJ (open {abs(ledger.closure):.2%})"
    ]
    if len(w.steps.power_w):
        upper, words = _upper_bound(w, ambient_c)
        steps += [_moment(w, ambient_c), words, _lower_bound(w, ambient_c, upper)]
    return tuple(steps)


def _moment(w: WheelResult, ambient_c: float) -> str:
    """The ring's balance at the step of greatest power, each term in W."""
    k = int(w.steps.power_w.argmax())
    ring, carrier, pads = (
        0.5 * float(w.heat.course_c[k, n] + w.heat.course_c[k + 1, n]) for n in (Node.RING, Node.CARRIER, Node.PADS)
    )
    speed, on = float(w.steps.speed_ms[k]), float(w.steps.braking[k])
    film = heat_kernel.film_w_m2k(
        _ring_root(w, speed, float(w.steps.pressure_pa[k])), ring, ambient_c, w.node("still_air")
    )
    into = w.node("ring_share") * float(w.steps.power_w[k])
    air = film * w.node("ring_area") * (ring - ambient_c)
    radiated = heat_kernel.radiation_w_k(w.node("ring_emissivity"), w.node("ring_area"), ring, ambient_c) * (
        ring - ambient_c
    )
    to_carrier = w.node("ring_to_carrier") * (ring - carrier)
    to_pads = (on * w.node("ring_to_pads_on") + (1 - on) * w.node("ring_to_pads_off")) * (ring - pads)
    left = into - air - radiated - to_carrier - to_pads
    return (
        f"at km {w.heat.distance_m[k] / 1000:.2f}, {speed * KMH_PER_MS:.1f} km/h, ring {ring:.1f} °C, "
        f"h {film:.1f} W/m²K: "
        f"γQ {into:.1f} − air {air:.1f} − radiation {radiated:.1f} − carrier {to_carrier:.1f} − pads {to_pads:.1f} "
        f"= {left:.1f} W into {w.node('ring_capacity'):.1f} J/K: {left / w.node('ring_capacity'):+.2f} K/s"
    )


def _upper_bound(w: WheelResult, ambient_c: float) -> tuple[float, str]:
    """The ring cannot be hotter than with nothing lost, nor than alone in air for ever at the greatest power."""
    k = int(w.steps.power_w.argmax())
    power, speed = float(w.steps.power_w[k]), float(w.steps.speed_ms[k])
    nothing_lost = ambient_c + w.ring_share * w.heat.ledger.friction_in_kj * 1000 / w.node("ring_capacity")
    alone = ring_alone_c(w, w.ring_share * power, speed, ambient_c)
    if nothing_lost <= alone:
        return nothing_lost, f"upper bound, nothing lost: T_a + γ E/(m_R c_R) = {nothing_lost:.0f} °C"
    return alone, (
        f"upper bound, ring alone in air for ever at the greatest power, {power:.0f} W at "
        f"{speed * KMH_PER_MS:.0f} km/h: "
        f"γ Q = h A (T − T_a) + ε σ A (T⁴ − T_a⁴) gives {alone:.0f} °C"
    )


def _lower_bound(w: WheelResult, ambient_c: float, upper_c: float) -> str:
    """The ring is at least as hot as the hardest stretch of the ride makes it when all its heat came at the
    beginning, carrier and pads stood at ambient, and air and radiation took what they take at most:
    T_a + γE/(m_R c_R)·e^(−G t/(m_R c_R)). The best stretch is looked for."""
    capacity, pressure = w.node("ring_capacity"), float(w.steps.pressure_pa.max())
    # the film coefficient falls with the film's temperature: it is greatest at ambient
    film = heat_kernel.film_w_m2k(
        _ring_root(w, float(w.steps.speed_ms.max()), pressure), ambient_c, ambient_c, w.node("still_air")
    )
    leak = film * w.node("ring_area") + w.node("ring_to_carrier") + w.node("ring_to_pads_on")
    leak += heat_kernel.radiation_w_k(w.node("ring_emissivity"), w.node("ring_area"), upper_c, ambient_c)
    running = np.concatenate([[0.0], np.cumsum(w.steps.power_w * w.steps.dt_s)]) * w.ring_share
    best, stretch, heat = 0.0, 0.0, 0.0
    for seconds in (5, 10, 15, 20, 30, 45, 60, 90, 120):
        start = np.searchsorted(w.steps.time_s, w.steps.time_s - seconds)  # no longer than the stretch
        inside = running - running[start]
        rise = float(inside.max()) / capacity * exp(-leak * seconds / capacity)
        if rise > best:
            best, stretch, heat = rise, float(seconds), float(inside.max())
    return (
        f"lower bound, the hardest {stretch:.0f} s bring γE {heat / 1000:.2f} kJ, at most G {leak:.2f} W/K leaves: "
        f"T_a + γE/(m_R c_R)·e^(−G t/(m_R c_R)) = {ambient_c + best:.0f} °C"
    )


def ring_alone_c(w: WheelResult, heat_w: float, speed_ms: float, ambient_c: float) -> float:
    """Steady temperature of the ring with nothing but air and radiation to cool it, °C, by bisection."""
    root, area = _ring_root(w, speed_ms, float(w.steps.pressure_pa.mean())), w.node("ring_area")

    def out_w(celsius: float) -> float:
        film = heat_kernel.film_w_m2k(root, celsius, ambient_c, w.node("still_air"))
        radiated = heat_kernel.radiation_w_k(w.node("ring_emissivity"), area, celsius, ambient_c)
        return (film * area + radiated) * (celsius - ambient_c)

    low, high = ambient_c, 5000.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if out_w(middle) < heat_w else (low, middle)
    return 0.5 * (low + high)
