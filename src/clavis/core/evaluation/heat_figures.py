"""The figures of heat of one wheel with their working, from the rotor up to the fluid: equation, the very values that
were put in, their sources, their doubt; and what makes an integrated figure checkable by hand (docs/model.md,
section 5)."""

from dataclasses import replace
from math import exp, hypot, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.force_figures import COMPOUND_TABLE, parameter
from clavis.core.evaluation.situation import Situation
from clavis.core.parameters import doubt_words
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import HeatSteps
from clavis.core.physics.heat import COOL_C, Node, carrier_material, metals_of, rotor_geometry
from clavis.core.sentences import Sentence, say
from clavis.core.units import KMH_PER_MS
from clavis.core.working import Figure, Given

BALANCE = "six-node balance; flat-plate correlation, textbook"
HEAT_DOUBT = (
    f"convection {doubt_words('convection_ratio')}, airflow {doubt_words('airflow_front_ratio')}: typically ± 12 % of "
    "the rise"
)
JUDGED_BY_PISTONS = "by the caliper's pistons, judged"
STRETCHES_S = (5, 10, 15, 20, 30, 45, 60, 90, 120)
"""stretches of the ride that are tried for the bound from below"""


def heat_figures(w: WheelResult, situation: Situation, *, brief: bool = False) -> tuple[Figure, ...]:
    """Every figure of heat of one wheel; ``brief`` without the rotor's bounds, which have to be searched for."""
    figures = (_rotor(w, situation, brief), _carrier(w), _pads(w), _caliper(w), _fade_onset(w), *_energy(w), _cool(w))
    fluid = _fluid(w) if w.heat.fluid_peak_c is not None else ()
    return tuple(_as_calibrated(figure, situation) for figure in (*figures, *fluid))


_LEARNT = {"C": "convection_ratio"}
"""symbols of what a calibration moves, where they are put into a figure"""


def _as_calibrated(figure: Figure, situation: Situation) -> Figure:
    """The figure with the doubt that a calibration left, and where its multipliers come from now."""
    learnt, narrowed = situation.calibrated, situation.narrowed
    if learnt is None:
        return figure
    words = "calibrated by {who}, {day}, from {readings:reading|readings}"
    source = say(words, who=learnt.who, day=learnt.at[:10], readings=learnt.readings)
    told = tuple(
        replace(
            given, source=say("{source}, {doubt}", source=source, doubt=doubt_words(_LEARNT[given.symbol], narrowed))
        )
        if given.symbol in _LEARNT
        else given
        for given in figure.given
    )
    uncertainty = figure.uncertainty
    if uncertainty == HEAT_DOUBT:
        left = [doubt_words(key, narrowed) for key in ("convection_ratio", "airflow_front_ratio")]
        uncertainty = say("{source}: convection {c}, airflow {a}", source=source, c=left[0], a=left[1])
    return replace(figure, given=told, uncertainty=uncertainty)


def _rotor(w: WheelResult, situation: Situation, brief: bool) -> Figure:
    s, p = w.setup, situation.parameters
    geometry = rotor_geometry(s.rotor, s.thickness_mm, p)
    metal = say("{metal}", metal=metals_of(s.rotor))
    holes = say(
        "geometry, {void_pct:.0} holes of {hole_mm:g}", void_pct=100 * p.rotor_void_ratio, hole_mm=p.rotor_hole_mm
    )
    mass = say("{part}, {thickness_mm:.2}", part=s.rotor.name, thickness_mm=s.thickness_mm)
    given = (
        Given("m_R", "rotor's mass within the track", geometry.mass_kg, "kg", mass, 4),
        Given("m_R c_R", "its heat capacity", geometry.capacity_j_k, "j_k", metal),
        Given("A_R", "its cooling area", geometry.area_m2, "m2", holes, 4),
        Given("γ", "share of heat into the rotor", w.rotor_share, "ratio", "effusivities of pad and rotor", 3),
        parameter(p, "convection_ratio", "C", "convection multiplier", "ratio"),
        parameter(p, "rotor_emissivity_ratio", "ε", "emissivity", "ratio"),
    )
    return Figure(
        "rotor", "rotor", w.heat.peak_c[Node.ROTOR], "c", "m_R c_R dR/dt = γ Q − air − radiation − carrier − pads",
        given, BALANCE, HEAT_DOUBT, steps=() if brief else _ledger_steps(w, situation.weather.ambient_c),
    )  # fmt: skip


def _carrier(w: WheelResult) -> Figure:
    construction = say("{construction} rotor, {doubt}", construction=w.setup.rotor.construction,
                       doubt=doubt_words("rotor_to_carrier_ratio"))  # fmt: skip
    rotor = w.setup.rotor
    metal = say("{material}, {origin}", material=carrier_material(rotor),
                origin="as stated" if rotor.carrier_material else "usual for its construction")  # fmt: skip
    given = (
        Given(
            "m_C c_C",
            "carrier's capacity",
            w.node("carrier_capacity"),
            "j_k",
            say("weighed rotor less its track; {metal}", metal=metal),
        ),
        Given("G_RC", "rotor to carrier", w.node("rotor_to_carrier"), "w_k", construction),
        Given("A_C", "carrier's area", w.node("carrier_area"), "m2", "2.2 m_C/(ρ_C t)", 4),
    )
    return Figure("carrier", "carrier", w.heat.peak_c[Node.CARRIER], "c",
                  "m_C c_C dC/dt = G_RC (R − C) − h_C A_C (C − T_a)", given, BALANCE, HEAT_DOUBT)  # fmt: skip


def _pads(w: WheelResult) -> Figure:
    s = w.setup
    given = (
        Given("C_P", "capacity of both pads with plates", w.node("pads_capacity"), "j_k", s.pad.name),
        Given("d_pad", "material on each", s.material_mm, "mm", "measured, or new"),
        Given("C_S", "capacity of their surfaces", w.node("surface_capacity"), "j_k", "outer layer of each", 2),
        Given("S", "hottest at the surface", w.heat.peak_c[Node.SURFACE], "c", "heat model"),
        Given("G_RS", "rotor to surface, braking", w.node("rotor_to_surface_on"), "w_k", "2 A_pad/(1/h_c + δ/2k_p)", 2),
        Given("G_SP", "surface to pad", w.node("surface_to_pads"), "w_k", "2 A_pad k_p/(d_pad − δ/2)", 2),
        Given("G_PK", "pads to caliper", w.node("pads_to_caliper"), "w_k", JUDGED_BY_PISTONS),
    )
    return Figure("pads", "pads", w.heat.peak_c[Node.PADS], "c", "C_P dP/dt = G_SP (S − P) − G_PK (P − K); "
                  "C_S dS/dt = (1 − γ) Q + G_RS (R − S) − G_SP (S − P)",
                  given, BALANCE, HEAT_DOUBT)  # fmt: skip


def _caliper(w: WheelResult) -> Figure:
    given = (
        Given("C_K", "caliper's capacity", w.node("caliper_capacity"), "j_k", JUDGED_BY_PISTONS),
        Given("A_K", "caliper's area", w.node("caliper_area"), "m2", JUDGED_BY_PISTONS),
        Given("G_PK", "pads to caliper", w.node("pads_to_caliper"), "w_k", JUDGED_BY_PISTONS),
    )
    return Figure("caliper_c", "caliper", w.heat.peak_c[Node.CALIPER], "c",
                  "C_K dK/dt = G_PK (P − K) − h_K A_K (K − T_a) − radiation − G_KF (K − F)", given, BALANCE,
                  HEAT_DOUBT)  # fmt: skip


def _fade_onset(w: WheelResult) -> Figure:
    fade_c = COMPOUNDS[w.setup.pad.compound].fade_c
    above = Given("above", "time of the ride above it", w.time_above_s(Node.ROTOR, fade_c), "s", "heat model", 0)
    return Figure("fade_onset", "fades at", fade_c, "c", "T_fade of the compound", (above,), COMPOUND_TABLE)


def _energy(w: WheelResult) -> tuple[Figure, ...]:
    steps, balance = w.steps, "energy balance of the ride"
    seconds = float(steps.time_s[-1])
    hardest = int(steps.power_w.argmax()) if len(steps.power_w) else None
    hard_s = None if hardest is None else float(steps.dt_s[hardest])
    hard_kj = None if hardest is None else float(steps.dt_s[hardest] * steps.power_w[hardest]) / 1000
    of_ride = (
        Given("E_b", "energy all brakes turn into heat", w.ride_braked_kj, "kj", balance),
        Given("share", "this wheel's part of it", w.brake_share, "ratio", "rider's share, or axle load", 3),
        Given("regen", "taken by the motor", steps.regen_j / 1000, "kj", "share and limit entered"),
    )
    mean = (Given("E", "energy", steps.energy_kj, "kj", "ride"), Given("t", "duration", seconds, "s", "ride"))
    peak = (
        Given("E", "energy in that step", hard_kj, "kj", "ride", 2),
        Given("t", "its length", hard_s, "s", "steps follow the energy", 2),
    )
    return (
        Figure("energy", "energy", steps.energy_kj, "kj", "E = E_b × share − regeneration", of_ride, balance, "± 8 %"),
        Figure("power_mean", "mean", steps.energy_kj * 1000 / max(seconds, 1e-9), "w", "P = E / t", mean, "", "± 8 %"),
        Figure("power_peak", "peak", float(steps.power_w.max(initial=0.0)), "w",
               "P = E / t of the hardest step of integration", peak, balance, "± 15 %"),
    )  # fmt: skip


def _cool(w: WheelResult) -> Figure:
    minutes = None if w.heat.cool_s is None else w.heat.cool_s / 60
    given = (Given("T", "the rotor is back to", COOL_C, "c", "cool to the touch"),)
    return Figure("cool", "cool again after", minutes, "min", "an hour standing still", given,
                  "six-node balance, still air", "± 30 %", instead="not within an hour")  # fmt: skip


def _fluid(w: WheelResult) -> tuple[Figure, ...]:
    given = (
        Given("C_F", "fluid in the caliper", w.node("fluid_capacity"), "j_k", JUDGED_BY_PISTONS),
        Given("G_KF", "caliper to fluid", w.node("caliper_to_fluid"), "w_k", "judged, ± 30 %"),
        Given("soak", "peak so long after the stop", w.heat.fluid_peak_after_stop_s, "s", "standing still", 0),
    )
    note = w.boiling.note
    return (
        Figure("fluid", "fluid", w.heat.fluid_peak_c, "c", "C_F dF/dt = G_KF (K − F), with the soak after the stop",
               given, BALANCE, HEAT_DOUBT),
        Figure("boils", "boils at", w.boiling.boiling_c, "c", "", (), note, "", lacks=note),
    )  # fmt: skip


# What makes the rotor's peak checkable: the ledger, one moment worked out, a bound from above and one from below.


def _rotor_root(w: WheelResult, speed_ms: float, pressure_pa: float) -> float:
    """C √(U p/ℓ) of the rotor's film coefficient at one speed."""
    flow = hypot(w.node("airflow_ratio") * speed_ms, speed_ms / w.node("wheel_radius") * w.node("rotor_radius"))
    return w.node("convection_ratio") * sqrt(flow * pressure_pa / w.node("rotor_length"))


def _film_w_m2k(w: WheelResult, speed_ms: float, pressure_pa: float, rotor_c: float, ambient_c: float) -> float:
    return heat_kernel.film_w_m2k(_rotor_root(w, speed_ms, pressure_pa), rotor_c, ambient_c, w.node("still_air"))


def _radiation_w_k(w: WheelResult, rotor_c: float, ambient_c: float) -> float:
    return heat_kernel.radiation_w_k(w.node("rotor_emissivity"), w.node("rotor_area"), rotor_c, ambient_c)


def _ledger_steps(w: WheelResult, ambient_c: float) -> tuple[Sentence, ...]:
    ledger = w.heat.ledger
    words = (
        "energy in {in_kj:.1} = to air {air_kj:.1} + radiated {radiated_kj:.1} + stored {stored_kj:.1} "
        "(open {open_pct:.2})"
    )
    steps = [
        say(
            words, in_kj=ledger.friction_in_kj, air_kj=sum(ledger.convected_kj.values()),
            radiated_kj=sum(ledger.radiated_kj.values()), stored_kj=sum(ledger.stored_kj.values()),
            open_pct=100 * abs(ledger.closure),
        )
    ]  # fmt: skip
    if len(w.steps.power_w):
        upper_c, told = _upper_bound(w, ambient_c)
        steps += [_moment(w, ambient_c), told, _lower_bound(w, ambient_c, upper_c)]
    return tuple(steps)


def _moment(w: WheelResult, ambient_c: float) -> Sentence:
    """The rotor's balance at the step of greatest power, each term in W."""
    k = int(w.steps.power_w.argmax())
    rotor, carrier, surface = (
        0.5 * float(w.heat.course_c[k, n] + w.heat.course_c[k + 1, n]) for n in (Node.ROTOR, Node.CARRIER, Node.SURFACE)
    )
    speed, on = float(w.steps.speed_ms[k]), float(w.steps.braking[k])
    film = _film_w_m2k(w, speed, float(w.steps.pressure_pa[k]), rotor, ambient_c)
    into = w.node("rotor_share") * float(w.steps.power_w[k])
    air = film * w.node("rotor_area") * (rotor - ambient_c)
    radiated = _radiation_w_k(w, rotor, ambient_c) * (rotor - ambient_c)
    to_carrier = w.node("rotor_to_carrier") * (rotor - carrier)
    to_pads = (on * w.node("rotor_to_surface_on") + (1 - on) * w.node("rotor_to_surface_off")) * (rotor - surface)
    left = into - air - radiated - to_carrier - to_pads
    return say(
        "{at_km:.2} on the way, at {speed_kmh:.1}, rotor {rotor_c:.1}, h {film_w_m2k:.1}: γQ {into_w:.1} "
        "− air {air_w:.1} − radiation {radiated_w:.1} − carrier {carrier_w:.1} − pads {pads_w:.1} "
        "= {left_w:.1} into {capacity_j_k:.1}: {rise_k_s:+.2}",
        at_km=w.heat.distance_m[k] / 1000, speed_kmh=speed * KMH_PER_MS, rotor_c=rotor, film_w_m2k=film, into_w=into,
        air_w=air, radiated_w=radiated, carrier_w=to_carrier, pads_w=to_pads, left_w=left,
        capacity_j_k=w.node("rotor_capacity"), rise_k_s=left / w.node("rotor_capacity"),
    )  # fmt: skip


def _least_cooled(steps: HeatSteps) -> NDArray[np.int64]:
    """The steps among which the one lies that would heat the rotor most: none has both more power and less air."""
    air = steps.speed_ms * steps.pressure_pa
    order = np.lexsort((air, -steps.power_w))
    before = np.concatenate([[np.inf], np.minimum.accumulate(air[order])[:-1]])
    return np.asarray(order[air[order] < before], dtype=np.int64)


def _upper_bound(w: WheelResult, ambient_c: float) -> tuple[float, Sentence]:
    """The rotor cannot be hotter than with nothing lost, nor than alone in air in any step of the ride, held for ever;
    what the pads took at the greatest power is let come back to it."""
    share, greatest_w = w.rotor_share, float(w.steps.power_w.max())
    nothing_lost = ambient_c + w.heat.ledger.friction_in_kj * 1000 / w.node("rotor_capacity")
    into = share * w.steps.power_w + (1 - share) * greatest_w
    alone, k = max((rotor_alone_c(w, float(into[k]), int(k), ambient_c), int(k)) for k in _least_cooled(w.steps))
    if nothing_lost <= alone:
        words = "upper bound, nothing lost: T_a + E/(m_R c_R) = {bound_c:.0}"
        return nothing_lost, say(words, bound_c=nothing_lost)
    words = (
        "upper bound, rotor alone in air for ever in the step that would heat it most, {power_w:.0} at {speed_kmh:.0}, "
        "and what pads hold of {greatest_w:.0}: γ Q + (1 − γ) Q_max = h A (T − T_a) + ε σ A (T⁴ − T_a⁴) gives "
        "{bound_c:.0}"
    )
    power, speed = float(w.steps.power_w[k]), float(w.steps.speed_ms[k])
    return alone, say(words, power_w=power, speed_kmh=speed * KMH_PER_MS, greatest_w=greatest_w, bound_c=alone)


def _lower_bound(w: WheelResult, ambient_c: float, upper_c: float) -> Sentence:
    """The rotor is at least as hot as the hardest stretch of the ride makes it when all its heat came at the
    beginning, carrier and pads stood at ambient, and air and radiation took what they take at most:
    T_a + γE/(m_R c_R)·e^(−G t/(m_R c_R)). The best stretch is looked for."""
    capacity = w.node("rotor_capacity")
    # the film coefficient falls with the film's temperature: it is greatest at ambient
    film = _film_w_m2k(w, float(w.steps.speed_ms.max()), float(w.steps.pressure_pa.max()), ambient_c, ambient_c)
    leak = film * w.node("rotor_area") + w.node("rotor_to_carrier") + w.node("rotor_to_surface_on")
    leak += _radiation_w_k(w, upper_c, ambient_c)
    running = np.concatenate([[0.0], np.cumsum(w.steps.power_w * w.steps.dt_s)]) * w.rotor_share
    best, stretch, heat = 0.0, 0.0, 0.0
    for seconds in STRETCHES_S:
        start = np.searchsorted(w.steps.time_s, w.steps.time_s - seconds)  # no longer than the stretch
        inside = running - running[start]
        rise = float(inside.max()) / capacity * exp(-leak * seconds / capacity)
        if rise > best:
            best, stretch, heat = rise, float(seconds), float(inside.max())
    words = (
        "lower bound, the hardest {stretch_s:.0} bring γE {heat_kj:.2}, at most G {leak_w_k:.2} leaves: "
        "T_a + γE/(m_R c_R)·e^(−G t/(m_R c_R)) = {bound_c:.0}"
    )
    return say(words, stretch_s=stretch, heat_kj=heat / 1000, leak_w_k=leak, bound_c=ambient_c + best)


HOTTEST_C = 5000.0


def rotor_alone_c(w: WheelResult, heat_w: float, step: int, ambient_c: float) -> float:
    """Steady temperature of the rotor with nothing but air and radiation to cool it, at the speed and height of one
    step, °C."""
    from scipy.optimize import brentq

    area = w.node("rotor_area")
    speed, pressure = float(w.steps.speed_ms[step]), float(w.steps.pressure_pa[step])

    def left_w(rotor_c: float) -> float:
        out_w_k = _film_w_m2k(w, speed, pressure, rotor_c, ambient_c) * area + _radiation_w_k(w, rotor_c, ambient_c)
        return heat_w - out_w_k * (rotor_c - ambient_c)

    if left_w(ambient_c) <= 0:
        return ambient_c
    return float(brentq(left_w, ambient_c, HOTTEST_C)) if left_w(HOTTEST_C) < 0 else HOTTEST_C
