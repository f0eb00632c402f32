"""The spine: the links of the brake from finger to road, each with the force that passes down through it and
the heat that comes back up, and every figure with its working (design: the interface)."""

from dataclasses import dataclass
from enum import StrEnum
from math import hypot, sqrt

from clavis.core import kernels
from clavis.core.evaluate import SetupResult, WheelResult
from clavis.core.forces import TRAVEL_TIGHT_RATIO, Limiter
from clavis.core.friction import COMPOUNDS
from clavis.core.heat import Node, node_row, ring_figures, witness_of
from clavis.core.mounts import End
from clavis.core.parameters import NOTES, STEFAN_BOLTZMANN, ModelParameters
from clavis.core.parts import Fluid, Rotor
from clavis.core.units import KELVIN_AT_0_C, KMH_PER_MS
from clavis.core.verdicts import Margin, Verdict
from clavis.core.working import Figure, Given


class Link(StrEnum):
    HAND = "hand"
    LEVER = "lever"
    LINE = "line"
    CALIPER = "caliper"
    PAD = "pad"
    ROTOR = "rotor"
    WHEEL = "wheel"
    ROAD = "road"


# The link a limiter marks.
LIMITING_LINK: dict[Limiter, Link] = {
    Limiter.HAND: Link.HAND,
    Limiter.FRICTION: Link.PAD,
    Limiter.GRIP: Link.ROAD,
    Limiter.CONTROL: Link.ROAD,
    Limiter.PITCH_OVER: Link.ROAD,
}
# The link a margin belongs to.
MARGIN_LINK: dict[str, Link] = {
    "fade": Link.PAD,
    "ring": Link.ROTOR,
    "sandwich": Link.ROTOR,
    "boil": Link.LINE,
    "travel": Link.LEVER,
    "rotor_limit": Link.ROTOR,
    "condition": Link.PAD,
    "ground": Link.ROAD,
}


@dataclass(frozen=True)
class Cell:
    """One wheel's side of a link: its part, the figures of force and heat, and a mark where it limits."""

    part: str
    force: tuple[Figure, ...]
    heat: tuple[Figure, ...]
    mark: Verdict | None
    mark_words: str


@dataclass(frozen=True)
class Row:
    link: Link
    cells: dict[End, Cell | None]


def _p(p: ModelParameters, name: str, symbol: str, meaning: str, unit: str, decimals: int | None = None) -> Given:
    note = NOTES.get(name)
    source = "starting value" if note is None else f"{note.source}{'; ' + note.spread if note.spread else ''}"
    return Given(symbol, meaning, getattr(p, name), unit, source, decimals)


LINE_WORDS = {Fluid.MINERAL: "mineral fluid", Fluid.DOT: "DOT fluid", Fluid.NONE: "cable"}
_FORCE_SOURCE = "lever and hydrostatic balance, textbook"
_FRICTION_DOUBT = "± 12 % on friction"
_HEAT_DOUBT = "convection ± 30 %, airflow ± 20 %: typically ± 12 % of the rise"


def wheel_figures(w: WheelResult, p: ModelParameters, ambient_c: float) -> dict[str, Figure]:
    """Every headline figure of one wheel with its working, by key."""
    f, s, heat = w.forces, w.setup, w.heat
    row = COMPOUNDS[s.pad.compound]
    cable = s.caliper.fluid is Fluid.NONE
    radius = Given("r_e", "effective radius", w.link.effective_radius_m, "m", "half the rotor less half the contact", 4)
    state = f.mu_work / row.mu_work
    clamp = Given("N/F", "clamp force over finger force", w.link.clamp_per_finger, "ratio", "lever and caliper")
    mu = Given("μ", "pad friction at work", f.mu_work, "ratio", f"{s.pad.compound.value} × state {state:.2f}", 3)
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
                Given("wet", "wet pads", f.mu_cold / (row.mu_cold * state), "ratio", "1 when dry"),
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
            "x = pad gaps × arm ratio × i" if cable else "x = i (A_side · 2 · gap + compliance · p) / A_mc",
            (
                Given("x_gap", "closing the pads", f.travel.gap_mm, "mm", "pad gap 0.25 mm each, ± 30 %"),
                Given("x_soft", "hose, caliper and pads giving", f.travel.compliance_mm, "mm", "4 mm³ per bar, ± 30 %"),
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
                    "at the road with the greatest finger force, hot",
                    f.available_hot_n,
                    "n",
                    "hand and hot friction",
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
            steps=_ledger_steps(w, ring.capacity_j_k, ring.area_m2, ambient_c, p),
        ),
        Figure(
            "carrier",
            "carrier",
            heat.peak_c[Node.CARRIER],
            "c",
            "m_C c_C dC/dt = G_RC (R − C) − air",
            (),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure(
            "pads",
            "pads",
            heat.peak_c[Node.PADS],
            "c",
            "C_P dP/dt = (1 − γ) Q + G_RP (R − P) − G_PK (P − K)",
            (),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure(
            "caliper_c",
            "caliper",
            heat.peak_c[Node.CALIPER],
            "c",
            "C_K dK/dt = G_PK (P − K) − air − radiation − G_KF (K − F)",
            (),
            "five-node balance",
            _HEAT_DOUBT,
        ),
        Figure("fade_onset", "fades at", row.fade_c, "c", "", (), "compound table, judged", ""),
        Figure(
            "energy",
            "energy",
            w.steps.energy_kj,
            "kj",
            "E = Σ P_b dt × share",
            (),
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
            "greatest power of a step",
            (),
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
                (Given("soak", "peak after the stop, s", heat.fluid_peak_after_stop_s, "s", "standing still"),),
                "five-node balance",
                _HEAT_DOUBT,
            )
        )
        figures.append(
            Figure("boils", "boils at", w.boiling.boiling_c, "c", "", (), w.boiling.note, "", lacks=w.boiling.note)
        )
    return {figure.key: figure for figure in figures}


def _ledger_steps(
    w: WheelResult, capacity: float, area: float, ambient_c: float, p: ModelParameters
) -> tuple[str, ...]:
    ledger = w.heat.ledger
    to_air = sum(ledger.convected_kj.values())
    radiated = sum(ledger.radiated_kj.values())
    stored = sum(ledger.stored_kj.values())
    all_stored = ambient_c + w.ring_share * ledger.friction_in_kj * 1000 / capacity
    steps = [
        f"energy in {ledger.friction_in_kj:.1f} kJ = to air {to_air:.1f} + radiated {radiated:.1f} "
        f"+ stored {stored:.1f} kJ (open {abs(ledger.closure):.2%})"
    ]
    hottest = int(w.steps.power_w.argmax()) if len(w.steps.power_w) else 0
    power, speed = float(w.steps.power_w[hottest]), float(w.steps.speed_ms[hottest])
    alone = ring_alone_c(w.setup.rotor, w.ring_share * power, speed, area, w, ambient_c, p)
    if all_stored <= alone:
        steps.append(f"upper bound, nothing lost: T_a + γ E/(m_R c_R) = {all_stored:.0f} °C")
    else:
        steps.append(
            f"upper bound, ring alone in air for ever at the greatest power, {power:.0f} W at "
            f"{speed * KMH_PER_MS:.0f} km/h: "
            f"γ Q = h A (T − T_a) + ε σ A (T⁴ − T_a⁴) gives {alone:.0f} °C"
        )
    return tuple(steps)


def ring_alone_c(
    rotor: Rotor, heat_w: float, speed_ms: float, area_m2: float, w: WheelResult, ambient_c: float, p: ModelParameters
) -> float:
    """Steady temperature of the ring with nothing but air and radiation to cool it, °C, by bisection."""
    row = node_row(
        rotor,
        w.setup.thickness_mm,
        w.setup.pad,
        w.setup.material_mm,
        w.setup.caliper,
        w.end,
        w.forces.lock_torque_nm / w.forces.lock_force_n,
        False,
        p,
    )
    flow = hypot(row[kernels.AIRFLOW] * speed_ms, speed_ms / row[kernels.R_WHEEL] * row[kernels.R_RING])
    root = p.convection_ratio * sqrt(flow * float(w.steps.pressure_pa.mean()) / row[kernels.L_RING])

    def out_w(celsius: float) -> float:
        film = kernels.film_w_m2k(root, celsius, ambient_c, p.still_air_w_m2k)
        hot, cool = celsius + KELVIN_AT_0_C, ambient_c + KELVIN_AT_0_C
        radiated = p.ring_emissivity_ratio * STEFAN_BOLTZMANN * area_m2 * (hot**4 - cool**4)
        return float(film * area_m2 * (celsius - ambient_c) + radiated)

    low, high = ambient_c, 5000.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if out_w(middle) < heat_w else (low, middle)
    return 0.5 * (low + high)


def link_of(margin: Margin, w: WheelResult) -> Link:
    """The link a margin belongs to; a lack of reserve belongs to the link that gives first."""
    if margin.key == "reserve":
        return LIMITING_LINK.get(w.forces.limiter, Link.HAND)
    return MARGIN_LINK[margin.key]


def margin_words(margin: Margin, w: WheelResult) -> str:
    """A margin in words with its number; a lack of reserve says which link gives first."""
    return margin.words(LIMITER_WORDS[w.forces.limiter] if margin.key == "reserve" else "")


MARGIN_UNITS = {"ratio": "pct", "k": "k", "mm": "mm"}


@dataclass(frozen=True)
class MarginRow:
    """A margin as it is shown: value and what is asked for, in a unit of ``units.KINDS``; None where unknown."""

    margin: Margin
    value: float | None
    needed: float | None
    unit: str
    words: str


def margin_rows(w: WheelResult) -> tuple[MarginRow, ...]:
    """Every margin of a wheel, the deciding one first."""
    first = w.deciding
    rows = []
    for m in sorted(w.margins, key=lambda m: (m is not first, list(Verdict).index(m.verdict) * -1)):
        scale = 100.0 if m.unit == "ratio" else 1.0
        unit = MARGIN_UNITS.get(m.unit)
        value = m.value * scale if m.value is not None and unit else None
        rows.append(MarginRow(m, value, m.needed * scale if unit else None, unit or "count", m.why_unknown))
    return tuple(rows)


def _cell(w: WheelResult, link: Link, figures: dict[str, Figure]) -> Cell:
    s = w.setup
    pick = {
        Link.HAND: ("", ("finger_target", "finger_lock"), ()),
        Link.LEVER: (s.lever.name, ("travel",), ()),
        Link.LINE: (LINE_WORDS[s.caliper.fluid], ("cable_pull", "pressure"), ("fluid", "boils")),
        Link.CALIPER: (s.caliper.name, ("clamp",), ("caliper_c",)),
        Link.PAD: (s.pad.name, ("mu_cold", "mu_hot"), ("pads",)),
        Link.ROTOR: (s.rotor.name, ("torque",), ("ring", "fade_onset", "carrier")),
        Link.WHEEL: ("", ("force",), ("energy", "power_mean", "power_peak")),
        Link.ROAD: ("", ("usable", "reserve"), ("cool",)),
    }[link]
    part, force, heat = pick
    here = [m for m in w.margins if link_of(m, w) is link and m.verdict is not Verdict.HOLDS]
    mark, words = None, ""
    if here:
        bad = max(here, key=lambda m: list(Verdict).index(m.verdict))
        mark, words = bad.verdict, margin_words(bad, w)
    return Cell(
        part,
        tuple(figures[k] for k in force if k in figures),
        tuple(figures[k] for k in heat if k in figures),
        mark,
        words,
    )


def spine_rows(setup: SetupResult, p: ModelParameters, ambient_c: float) -> tuple[Row, ...]:
    """Eight rows, hand to road, front and rear; None where a wheel lacks something."""
    figures = {end: wheel_figures(w, p, ambient_c) for end, w in setup.wheels.items()}
    return tuple(
        Row(link, {end: _cell(setup.wheels[end], link, figures[end]) if end in setup.wheels else None for end in End})
        for link in Link
    )


LIMITER_WORDS: dict[Limiter, str] = {
    Limiter.HAND: "hand: too little even with the pads at their best",
    Limiter.FRICTION: "friction: enough when warm, not when hot",
    Limiter.GRIP: "the tyre's grip",
    Limiter.CONTROL: "control: so strong that this rider must hold back",
    Limiter.PITCH_OVER: "pitch-over",
    Limiter.NONE: "nothing",
}


def limit_words(w: WheelResult) -> str:
    """What limits this wheel, in words, heat first where heat fails."""
    failing = [m for m in w.margins if m.verdict is Verdict.FAILS]
    heat = [m for m in failing if m.key in ("boil", "ring", "fade", "sandwich")]
    if heat:
        first = min(heat, key=lambda m: m.relative or 0.0)
        return {
            "boil": "heat: the fluid boils",
            "ring": "heat: the ring passes fade onset",
            "fade": "heat: force along the way falls short",
            "sandwich": "heat: the sandwich ring's limit",
        }[first.key]
    return LIMITER_WORDS[w.forces.limiter]


def boil_distance_m(w: WheelResult) -> float | None:
    """Where along the ride the fluid first reaches its boiling point, m; None where it does not."""
    if w.boiling.boiling_c is None or w.heat.fluid_peak_c is None:
        return None
    above = (w.heat.course_c[:, Node.FLUID] >= w.boiling.boiling_c).nonzero()[0]
    return float(w.heat.distance_m[above[0]]) if len(above) else None


def witness_words(w: WheelResult) -> str:
    """What colour this ride leaves on a stainless ring."""
    colour = witness_of(w.heat.peak_c[Node.RING])
    return f"This ride would turn the ring {colour} (± 60 K)" if colour else "This ride leaves no colour on the ring"
