"""The figures of force of one wheel with their working, from the finger down to the road: equation, the very values
that were put in, their sources, their doubt (docs/model.md, section 2)."""

from dataclasses import dataclass, replace

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.situation import Situation
from clavis.core.parameters import ModelParameters, doubt_words, note_of
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.physics.forces import (
    AIR_PRESSURE_BAR,
    CABLE_HOUSING_LOSS_RATIO,
    HOUSING_RATIO,
    TRAVEL_TIGHT_RATIO,
    Housing,
    Pull,
    pressure_bar,
)
from clavis.core.physics.heat import Node
from clavis.core.sentences import Sentence, Words, say
from clavis.core.working import Figure, Given

LEVER_BALANCE = "lever and hydrostatic balance, textbook"
FRICTION_DOUBT = f"{doubt_words('friction_front')} on friction"
GRIP_DOUBT = doubt_words("grip")
COMPOUND_TABLE = "compound table, judged"
PULL_AT = {Pull.WARM: "at work", Pull.COLD: "cold", Pull.HOT: "at the ride's hottest"}


def parameter(
    p: ModelParameters, name: str, symbol: str, meaning: str, unit: str, decimals: int | None = None
) -> Given:
    """A parameter of the model as a value put in, with its source and doubt."""
    return Given(symbol, meaning, getattr(p, name), unit, note_of(name), decimals)


@dataclass(frozen=True)
class _Common:
    """Values that several figures put in."""

    w: WheelResult
    p: ModelParameters
    cable: bool

    @property
    def lever_ratio(self) -> Given:
        lever = self.w.setup.lever
        return Given("i", "lever ratio", lever.ratio, "ratio", lever.name)

    @property
    def efficiency(self) -> Given:
        if self.cable:
            told = parameter(self.p, "cable_efficiency_ratio", "η_c", "cable efficiency", "ratio")
            housing = self.w.setup.housing
            if housing is Housing.USUAL:
                return told
            value = self.p.cable_efficiency_ratio * HOUSING_RATIO[housing]
            source = say("{usual:.2} × {by:.2} in {housing} housing", usual=self.p.cable_efficiency_ratio,
                         by=HOUSING_RATIO[housing], housing=housing)  # fmt: skip
            return replace(told, value=value, source=source)
        return parameter(self.p, "hydraulic_efficiency_ratio", "η", "efficiency of the line", "ratio")

    @property
    def master_area(self) -> Given:
        lever = self.w.setup.lever
        return Given("A_mc", "master piston area", lever.master_area_mm2, "mm2", lever.name, 1)

    @property
    def side_area(self) -> Given:
        caliper = self.w.setup.caliper
        return Given("A_side", "piston area on one side", caliper.piston_area_mm2, "mm2", caliper.name, 1)

    @property
    def clamp(self) -> Given:
        return Given("N/F", "clamp force over finger force", self.w.link.clamp_per_finger, "ratio", "lever and caliper")

    @property
    def rolling_radius(self) -> Given:
        f = self.w.forces
        return Given("r_w", "rolling radius", f.lock_torque_nm / f.lock_force_n, "m", "bike", 3)

    @property
    def needed(self) -> Given:
        f = self.w.forces
        name = f"force needed: {f.target_name}"
        return Given("F_i", name, f.needed_n, "n", "axle load share of the target")

    @property
    def gain(self) -> Given:
        return Given("gain", "road over finger", self.w.forces.gain, "ratio", "as worked out for this wheel")

    @property
    def at_target(self) -> Given:
        return Given("F", "at target", self.w.forces.finger_target_n, "n", "as above")

    @property
    def wet_in_gain(self) -> float:
        return self.w.forces.wet_ratio


def force_figures(w: WheelResult, situation: Situation) -> tuple[Figure, ...]:
    """Every figure of force of one wheel."""
    c = _Common(w, situation.parameters, w.setup.caliper.fluid is Fluid.NONE)
    return (
        _gain(c),
        _clamp_ratio(c),
        *_fingers(c, situation),
        _travel(c),
        _pull(c) if c.cable else _pressure(c),
        _clamp(c),
        *_friction(c),
        *_at_the_road(c, situation),
    )


def _gain(c: _Common) -> Figure:
    f, link = c.w.forces, c.w.link
    words = "{compound} × state {state:.2}" + (" × wet {wet:.2}" if c.wet_in_gain < 1 else "")
    row = COMPOUNDS[c.w.setup.pad.compound]
    told = say(words, compound=row.words, state=f.mu_work / row.mu_work, wet=c.wet_in_gain)
    mu = Given("μ", f"pad friction {PULL_AT[f.pull]}", f.mu_pull * c.wet_in_gain, "ratio", told, 3)
    radius = Given("r_e", "effective radius", link.effective_radius_m, "m", "half the rotor less half the contact", 4)
    return Figure(
        "gain", "gain, road over finger", f.gain, "ratio", "gain = 2 μ (N/F) r_e / r_w",
        (mu, c.clamp, radius, c.rolling_radius), LEVER_BALANCE, FRICTION_DOUBT,
    )  # fmt: skip


def _clamp_ratio(c: _Common) -> Figure:
    caliper = c.w.setup.caliper
    given: tuple[Given, ...] = (c.lever_ratio, c.efficiency, c.side_area, c.master_area)
    if c.cable:
        given = (c.lever_ratio, c.efficiency, Given("i_arm", "arm ratio", caliper.arm_ratio, "ratio", caliper.name))
    return Figure(
        "clamp_ratio", "clamp force over finger force", c.w.link.clamp_per_finger, "ratio",
        "N/F = i η_c i_arm" if c.cable else "N/F = i η A_side / A_mc", given, LEVER_BALANCE, "± 5 %",
    )  # fmt: skip


def _fingers(c: _Common, situation: Situation) -> tuple[Figure, ...]:
    f, hand = c.w.forces, situation.hand
    lock = Given("F_lock", "ground limit of this wheel alone", f.lock_force_n, "n", f"grip {GRIP_DOUBT} and axle load")
    slides = Given(
        "F_slide", "left once it slides", f.slide_force_n, "n",
        say("{ratio:.2} of the grip; {note}", ratio=c.p.slide_of_peak_grip_ratio,
            note=note_of("slide_of_peak_grip_ratio")),
    )  # fmt: skip
    drag = Given("F_drag", "holds the steepest minute", f.finger_drag_n * f.gain, "n", "ride")
    comfort = Given("comfortable", "for long", hand.comfortable_n, "n", note_of("finger_comfortable_n"))
    return (
        Figure("finger_target", "at target", f.finger_target_n, "n", "F = F_i / gain", (c.needed, c.gain),
               LEVER_BALANCE, FRICTION_DOUBT),
        Figure("finger_lock", "at lock", f.finger_lock_n, "n", "F = F_lock / gain",
               (lock, c.gain, slides), LEVER_BALANCE, "± 20 %"),
        Figure("finger_drag", "in the drag", f.finger_drag_n, "n", "F = F_drag / gain", (drag, c.gain, comfort),
               LEVER_BALANCE, FRICTION_DOUBT),
    )  # fmt: skip


def _travel(c: _Common) -> Figure:
    t, setup = c.w.forces.travel, c.w.setup
    gap = parameter(c.p, "pad_gap_mm", "gap", "each pad off the rotor", "mm", 2)
    origin: Words = "as measured on the lever" if setup.to_bar_mm is not None else note_of("lever_to_bar_mm")
    limit = Given("to bar", "travel there is", t.limit_mm, "mm", origin)
    tight = say("tight above {share_pct:.0} of the way to the bar", share_pct=100 * TRAVEL_TIGHT_RATIO)
    if c.cable:
        arm = Given("i_arm", "arm ratio", setup.caliper.arm_ratio, "ratio", setup.caliper.name)
        loss = Given("loss", "pull lost in a metre of housing", CABLE_HOUSING_LOSS_RATIO, "ratio", "judged")
        return Figure("travel", "travel", t.total_mm, "mm", "x = 2 gap i_arm i (1 + loss)",
                      (gap, arm, c.lever_ratio, loss, limit), "volume balance", "± 30 %", (tight,))  # fmt: skip
    bar = pressure_bar(c.w.link, c.w.forces.finger_target_n, c.p)
    given = (
        c.lever_ratio, c.side_area, gap,
        parameter(c.p, "compliance_mm3_per_bar", "c", "hose, caliper and pads giving", "mm3_per_bar"),
        Given("p", "pressure at target", bar, "bar", "as above"),
        Given("V_0", "air in the line at rest", setup.air_mm3, "mm3", "spongy lever, judged; else none"),
        Given("p_0", "pressure of the air", AIR_PRESSURE_BAR, "bar", "standard atmosphere", 3),
        c.master_area, limit,
    )  # fmt: skip
    parts = say(
        "closing the pads {gap_mm:.1}, line giving {soft_mm:.1}, air pressed together {air_mm:.1}",
        gap_mm=t.gap_mm, soft_mm=t.compliance_mm, air_mm=t.air_mm,
    )  # fmt: skip
    return Figure(
        "travel", "travel", t.total_mm, "mm", "x = i (A_side · 2 · gap + c p + V_0 p/(p_0 + p)) / A_mc", given,
        "volume balance", "± 30 %", (parts, tight),
    )  # fmt: skip


def _pull(c: _Common) -> Figure:
    f = c.w.forces
    return Figure("cable_pull", "pull", f.cable_pull_n, "n", "pull = F i", (c.at_target, c.lever_ratio), LEVER_BALANCE,
                  "± 5 %")  # fmt: skip


def _pressure(c: _Common) -> Figure:
    given = (c.at_target, c.lever_ratio, c.efficiency, c.master_area)
    return Figure("pressure", "pressure", c.w.forces.pressure_target_bar, "bar", "p = F i η / A_mc", given,
                  LEVER_BALANCE, "± 5 %", decimals=0)  # fmt: skip


def _clamp(c: _Common) -> Figure:
    return Figure("clamp", "clamp", c.w.forces.clamp_target_n, "n", "N = F × N/F", (c.at_target, c.clamp),
                  LEVER_BALANCE, "± 15 %")  # fmt: skip


def _friction(c: _Common) -> tuple[Figure, ...]:
    f, row = c.w.forces, COMPOUNDS[c.w.setup.pad.compound]
    state = Given("state", "bedding and face", f.mu_work / row.mu_work, "ratio", "as measured, or new")
    wet = Given("wet", "wet pads", f.mu_cold / (row.mu_cold * f.mu_work / row.mu_work), "ratio", "1 when dry")
    cold = (Given("μ_cold", "cold", row.mu_cold, "ratio", COMPOUND_TABLE), state, wet)
    hot = (
        Given("T_hot", "rotor at its peak plus one target stop", c.w.hot_c, "c", "heat model"),
        Given("T_fade", "fade onset", row.fade_c, "c", COMPOUND_TABLE),
        Given("μ_work", "at work", row.mu_work, "ratio", COMPOUND_TABLE),
        Given("slope", "friction lost above fade", 100 * row.slope_per_100k, "pct_100k", COMPOUND_TABLE),
        Given("floor", "least friction", row.floor, "ratio", COMPOUND_TABLE),
        state,
        Given("wet", "wet pads, until the rotor has dried", f.wet_now_ratio, "ratio", "1 when dry, or dried off"),
    )
    return (
        Figure("mu_cold", "μ cold", f.mu_cold, "ratio", "μ_cold × state × wet", cold, COMPOUND_TABLE, FRICTION_DOUBT),
        Figure("mu_hot", "μ hot", f.mu_hot, "ratio", "μ(T_hot) × state × wet", hot, COMPOUND_TABLE, FRICTION_DOUBT,
               steps=("above fade: μ = μ_work − slope (T_hot − T_fade), never below the floor",)),
    )  # fmt: skip


def _reserve(c: _Common, situation: Situation) -> Figure:
    """What is left in the target stop, friction and rotor temperature together until standstill."""
    f, stop = c.w.forces, c.w.forces.reserve_of
    if f.reserve is None or stop is None:
        return Figure("reserve", "force margin", None, "pct", "", (), "axle loads", "", instead="unloaded")
    begins = "cold" if f.pull is Pull.COLD else "at the ride's hottest"
    given = (
        Given("F_hand", "greatest at the finger", situation.hand.greatest_n, "n", note_of("finger_greatest_n")),
        Given("gain/μ", "road over finger and friction", c.w.link.gain_per_mu, "ratio", "2 (N/F) r_e/r_w", 3),
        Given("μ_stop", f"over the stop, begun {begins}", f.available_n / (situation.hand.greatest_n
              * c.w.link.gain_per_mu), "ratio", "1/mean(1/μ) while the rotor warms; with state and wet", 4),
        Given("R", "rotor before it", situation.weather.ambient_c if f.pull is Pull.COLD
              else c.w.heat.peak_c[Node.ROTOR], "c", "the air" if f.pull is Pull.COLD else "heat model"),
        Given("ΔR", "that it warms by", c.w.rotor_share * stop.energy_j / c.w.node("rotor_capacity"), "k",
              "γ E_i/(m_R c_R)"),
        Given("F_i", stop.name, stop.force_n, "n", "axle load share"),
    )  # fmt: skip
    steps: tuple[Sentence, ...] = ()
    if f.must is not None and f.must_of is not None:
        words = "what every bicycle must reach, {must}: {needed_n:.0} here, cold and hot; {by_pct:+.0}"
        steps = (say(words, must=f.must_of.name, needed_n=f.must_of.force_n, by_pct=100 * f.must),)
    return Figure(
        "reserve", "force margin", f.reserve * 100, "pct", "reserve = (F_hand (gain/μ) μ_stop / F_i − 1) · 100 %",
        given, LEVER_BALANCE, "± 20 %", steps, decimals=0,
    )  # fmt: skip


def _at_the_road(c: _Common, situation: Situation) -> tuple[Figure, ...]:
    f = c.w.forces
    hold_back = (
        Given("ground", "limit of this wheel in the target stop", f.ground_n, "n", f"grip {GRIP_DOUBT}, axle loads"),
        Given("σ", "scatter of the finger", situation.hand.scatter_n, "n", note_of("finger_scatter_n")),
        Given("gain", "road over finger, wet where it is", f.control_hold_back_n / situation.hand.scatter_n
              if situation.hand.scatter_n else None, "ratio", "as worked out for this wheel"),
    )  # fmt: skip
    share = Given("F_i", f.target_name, f.needed_n, "n", "axle load share")
    return (
        Figure("torque", "torque", f.torque_target_nm, "nm", "T = F_i r_w", (c.needed, c.rolling_radius), LEVER_BALANCE,
               "± 1 %", decimals=0),
        Figure("force", "at the road", f.needed_n, "n", "F_i = F_b N_i / (m g cosθ)", (share,),
               "moment balance, textbook", "± 5 %"),
        _reserve(c, situation),
        Figure("usable", "usable", f.usable_n, "n", "usable = ground − σ gain", hold_back, "grip and pitch-over limits",
               "± 15 %"),
    )  # fmt: skip
