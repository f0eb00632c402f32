"""The whole answer for one job: fitted and proposed setup, both wheels, forces, heat, margins, verdicts.

``evaluate`` is the one entry that pages, the command line and tests share. It never guesses: what is missing
is listed in ``lacks`` and what rests on it is unknown.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from clavis.core import bike as bikes
from clavis.core import kernels
from clavis.core.bike import LoadedBike, PlacedMass, ground_limits
from clavis.core.descent import (
    BrakeLoad,
    HeatSteps,
    Road,
    Sharing,
    Style,
    Track,
    Weather,
    heat_steps,
    load_of_recording,
    plan_ride,
    road_of_sections,
    road_of_track,
)
from clavis.core.errors import ClavisError, QuantityError
from clavis.core.forces import (
    TRAVEL_TIGHT_RATIO,
    Hand,
    Linkage,
    Stop,
    StopTarget,
    WheelForces,
    hand_of,
    holding_force_n,
    linkage,
    pad_height_mm,
    reached_stop,
    stop_target,
    wheel_forces,
)
from clavis.core.friction import COMPOUNDS, PadState, dry_mu_at, state_ratio
from clavis.core.heat import (
    SANDWICH_LIMIT_C,
    BoilingPoint,
    HeatResult,
    Node,
    boiling_point,
    heat_of,
    node_row,
    ring_figures,
    ring_share,
)
from clavis.core.job import HandSize, Instrument, Job, LeverFeel, Pick, Ride, ShareBy, Skill, SpeedFrom, Wheel
from clavis.core.mounts import End
from clavis.core.parameters import ModelParameters
from clavis.core.parts import Caliper, Catalogue, Construction, Lever, Pad, Rotor
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Margin, Thresholds, Verdict, deciding_margin, worst

RIDE_FRONT_SHARE = 0.55
UNMARKED_START_MM, UNMARKED_MINIMUM_MM = 1.8, 1.5
"""a rotor that started at 1.8 and bears no marking is worn out at 1.5 mm"""


@dataclass(frozen=True)
class Lack:
    """Something that is missing: where it is entered, and in words."""

    station: str
    path: str
    words: str


@dataclass(frozen=True)
class Sourced:
    """A value with where it came from."""

    value: float
    source: str


@dataclass(frozen=True)
class Situation:
    """Bike, rider and ground of a job, resolved from what was entered and the defaults of the kind."""

    bike: LoadedBike
    sources: Mapping[str, Sourced]
    hand: Hand
    grip: float
    wet: bool
    weather: Weather
    sharing: Sharing
    style: Style
    parameters: ModelParameters
    thresholds: Thresholds


DEFAULT_TEXT = "default of the kind"
ENTERED_TEXT = "entered"


def bike_defaults(job: Job) -> dict[str, float]:
    """What the kind of bike brings, keyed by the field of ``job.bike`` it stands for; empty without a kind."""
    if job.bike.kind is None:
        return {}
    kind = bikes.KINDS[job.bike.kind]
    return {
        "mass_kg": kind.bike_mass_kg + (bikes.ASSIST_MASS_KG if job.bike.assisted else 0.0),
        "wheelbase_m": kind.wheelbase_m,
        "rear_to_cg_m": kind.rear_to_cg_m,
        "cg_height_m": kind.cg_height_m,
        "drag_area_m2": kind.drag_area_m2,
        "rolling_ratio": kind.rolling_ratio,
        "wheel_radius_mm": kind.wheel_radius_m * 1000,
    }


def default_of(job: Job, path: str) -> float | None:
    """What stands in for a field that was not entered, or None where nothing may."""
    if path.startswith("bike."):
        return bike_defaults(job).get(path.removeprefix("bike."))
    base = {name: getattr(job.bike, name) or value for name, value in bike_defaults(job).items()}
    stand_in = {
        "rider.front_share_pct": RIDE_FRONT_SHARE * 100,
        "rider.kit_mass_kg": 0.0,
        "load.luggage_ahead_m": base.get("rear_to_cg_m"),
        "load.passengers_ahead_m": base.get("rear_to_cg_m"),
        "load.luggage_height_m": base.get("cg_height_m"),
        "load.passengers_height_m": base.get("cg_height_m"),
        "load.luggage_kg": 0.0,
        "load.passengers_kg": 0.0,
        "load.trailer_kg": 0.0,
    }
    return stand_in.get(path)


def situation_of(job: Job) -> Situation | list[Lack]:
    """Resolve bike and rider; a list of what is missing where that cannot be done.

    Raises QuantityError where the entries contradict each other (a centre of gravity outside the axles).
    """
    lacks = []
    if job.bike.kind is None:
        lacks.append(Lack("intake", "bike.kind", "bike kind"))
    if job.rider.mass_kg is None:
        lacks.append(Lack("intake", "rider.mass_kg", "rider mass"))
    if lacks or job.rider.mass_kg is None:
        return lacks
    sources: dict[str, Sourced] = {}
    for name, default in bike_defaults(job).items():
        entered = getattr(job.bike, name)
        sources[name] = Sourced(default, DEFAULT_TEXT) if entered is None else Sourced(entered, ENTERED_TEXT)
    value = {name: s.value for name, s in sources.items()}
    load, wheelbase = job.load, value["wheelbase_m"]
    places = [
        PlacedMass(
            name,
            mass,
            value["rear_to_cg_m"] if ahead is None else ahead,
            value["cg_height_m"] if height is None else height,
        )
        for name, mass, ahead, height in (
            ("luggage", load.luggage_kg, load.luggage_ahead_m, load.luggage_height_m),
            ("passengers", load.passengers_kg, load.passengers_ahead_m, load.passengers_height_m),
        )
        if mass
    ]
    bike = bikes.load_bike(
        bike_mass_kg=value["mass_kg"],
        rider_mass_kg=job.rider.mass_kg + (job.rider.kit_mass_kg or 0.0),
        wheelbase_m=wheelbase,
        rear_to_cg_m=value["rear_to_cg_m"],
        cg_height_m=value["cg_height_m"],
        drag_area_m2=value["drag_area_m2"],
        rolling_ratio=value["rolling_ratio"],
        wheel_radius_m=value["wheel_radius_mm"] / 1000,
        loads=tuple(places),
        trailer_kg=load.trailer_kg or 0.0,
    )
    share = job.rider.front_share_pct
    sharing = Sharing(
        front_share=RIDE_FRONT_SHARE if share is None else share / 100,
        by_axle_of=bike if job.rider.share_by is ShareBy.AXLE_LOAD else None,
        third_share=(job.bike.third_brake_share_pct or 0.0) / 100,
        regen_end=job.bike.regen_end,
        regen_share=(job.bike.regen_share_pct or 0.0) / 100,
        regen_limit_w=job.bike.regen_limit_w or 0.0,
    )
    surface = job.conditions.surface
    return Situation(
        bike=bike,
        sources=sources,
        hand=hand_of(
            job.parameters, job.rider.fingers, job.rider.hands is HandSize.SMALL, job.rider.skill is Skill.NOVICE
        ),
        grip=bikes.tyre_grip(surface, job.bike.tread),
        wet=surface in bikes.WET_SURFACES,
        weather=Weather(job.conditions.ambient_c, job.conditions.head_wind_kmh / KMH_PER_MS),
        sharing=sharing,
        style=job.rider.style,
        parameters=job.parameters,
        thresholds=job.thresholds,
    )


def road_of_ride(ride: Ride, tracks: Mapping[str, Track]) -> Road:
    """The road to be planned, from sections or from the track. Raises ProfileError."""
    if ride.track_id is None:
        return road_of_sections(ride.sections, ride.start_elevation_m)
    return road_of_track(tracks[ride.track_id], ride.hold_kmh, ride.smoothing_m)


def load_of_ride(
    ride: Ride, tracks: Mapping[str, Track], situation: Situation, brake_ms2: float | None = None
) -> BrakeLoad:
    """The braking load of a ride for this bike and rider."""
    if ride.track_id is not None and ride.speed_from is SpeedFrom.RECORDED:
        return load_of_recording(tracks[ride.track_id], situation.bike, situation.weather, ride.smoothing_m)
    return plan_ride(
        road_of_ride(ride, tracks), situation.bike, situation.weather, situation.style, situation.parameters, brake_ms2
    )


@dataclass(frozen=True)
class WheelSetup:
    """The parts of one wheel's brake with their measured state."""

    rotor: Rotor
    thickness_mm: float
    caliper: Caliper
    lever: Lever
    pad: Pad
    material_mm: float
    pad_state: PadState
    unmeasured: tuple[str, ...] = ()
    air_mm3: float = 0.0
    """air in the line at rest"""
    worn_out: str = ""
    """why the ring or the pads may not be ridden, in words; empty where nothing says so"""


def minimum_thickness_mm(rotor: Rotor) -> float | None:
    """As marked; 1.5 mm where nothing is marked and the rotor started at 1.8; otherwise unknown."""
    if rotor.minimum_mm is not None:
        return rotor.minimum_mm
    return UNMARKED_MINIMUM_MM if abs(rotor.thickness_mm - UNMARKED_START_MM) < 0.01 else None


def _ring_condition(wheel: Wheel, rotor: Rotor) -> tuple[list[str], str]:
    minimum, reading = minimum_thickness_mm(rotor), wheel.rotor_thinnest_mm
    if reading is None:
        return ["ring thickness not measured"], ""
    if minimum is None:
        return ["minimum thickness not marked and not known"], ""
    if reading < minimum:
        return [], f"ring at {reading:.2f} mm is under its minimum of {minimum:.2f} mm"
    if wheel.rotor_instrument is Instrument.VERNIER:
        return ["ring read with a vernier: it can condemn, not pass; use a micrometer"], ""
    return [], ""


SPONGY_AIR_MM3 = 300.0
"""air at rest in a line whose lever feels spongy (judged): about a third of a cubic centimetre"""
PAD_REPLACE_MM = 1.0
PAD_PLAN_MM = 1.5


def setup_of(job: Job, end: End, pick: Pick | None, catalogue: Catalogue) -> WheelSetup | list[Lack]:
    """The fitted setup (``pick`` None) or the proposed one: what is picked, the rest as fitted."""
    wheel = job.wheel(end)
    pick = pick or Pick()
    proposed = pick != Pick()
    lacks: list[Lack] = []

    def part(kind: str, table: Mapping[str, object]) -> object | None:
        part_id = getattr(pick, f"{kind}_id") or getattr(wheel, f"{kind}_id")
        if part_id is None or part_id not in table:
            station, path = (
                ("choose", f"proposal.{end.value}.{kind}_id") if proposed else ("measure", f"{end.value}.{kind}_id")
            )
            lacks.append(
                Lack(
                    station,
                    path,
                    f"{end.value} {kind}" + ("" if part_id is None else f" “{part_id}” not in the catalogue"),
                )
            )
            return None
        return table[part_id]

    rotor, caliper = part("rotor", catalogue.rotors), part("caliper", catalogue.calipers)
    lever, pad = part("lever", catalogue.levers), part("pad", catalogue.pads)
    if not (
        isinstance(rotor, Rotor) and isinstance(caliper, Caliper) and isinstance(lever, Lever) and isinstance(pad, Pad)
    ):
        return lacks
    keeps_rotor, keeps_pad = rotor.id == wheel.rotor_id, pad.id == wheel.pad_id
    keeps_line = caliper.id == wheel.caliper_id and lever.id == wheel.lever_id
    unmeasured: list[str] = []
    worn: list[str] = []
    if keeps_rotor:
        missing, out = _ring_condition(wheel, rotor)
        unmeasured += missing
        worn += [out] if out else []
    if keeps_pad:
        if wheel.pad_state is PadState.NOT_CHECKED:
            unmeasured.append("pads not checked for glaze, oil and metal")
        if wheel.pad_material_mm is None:
            unmeasured.append("pad material not measured")
        elif wheel.pad_material_mm < PAD_REPLACE_MM:
            worn.append(f"pads at {wheel.pad_material_mm:.1f} mm: replace by {PAD_REPLACE_MM:.1f} mm")
        if wheel.pad_state is PadState.OILED:
            worn.append("pads oiled: do not ride; replace them and clean the rotor")
        if wheel.pad_state is PadState.METAL:
            worn.append("pads at metal: do not ride; replace pads and rotor")
    return WheelSetup(
        rotor,
        wheel.rotor_thinnest_mm if keeps_rotor and wheel.rotor_thinnest_mm else rotor.thickness_mm,
        caliper,
        lever,
        pad,
        wheel.pad_material_mm if keeps_pad and wheel.pad_material_mm is not None else pad.material_mm,
        wheel.pad_state if keeps_pad else PadState.NEW,
        tuple(unmeasured),
        SPONGY_AIR_MM3 if keeps_line and wheel.lever_feel is LeverFeel.SPONGY else 0.0,
        "; ".join(worn),
    )


@dataclass(frozen=True)
class WheelResult:
    """One wheel of one setup: forces, heat, margins, verdict."""

    end: End
    setup: WheelSetup
    link: Linkage
    forces: WheelForces
    heat: HeatResult
    steps: HeatSteps
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    ring_share: float
    hot_c: float
    style: Style
    nodes: NDArray[np.float64]
    """the row that was integrated, in the order of ``kernels.COLUMNS``"""

    def node(self, name: str) -> float:
        """One figure of the row by its column's name."""
        return float(self.nodes[kernels.COLUMNS.index(name)])

    @property
    def verdict(self) -> Verdict:
        return worst(m.verdict for m in self.margins)

    @property
    def deciding(self) -> Margin:
        """The margin that sets the verdict."""
        return deciding_margin(self.margins)


class SetupName(StrEnum):
    FITTED = "fitted"
    PROPOSED = "proposed"


@dataclass(frozen=True)
class SetupResult:
    """One setup of the whole bike. A wheel that lacks something is absent and ``lacks`` says why."""

    name: SetupName
    wheels: Mapping[End, WheelResult]
    lacks: tuple[Lack, ...]
    load: BrakeLoad | None
    demand: "Demand | None"
    stop_flat: Stop | None
    stop_steep: Stop | None
    price: float
    mass_g: float
    unsafe: tuple[str, ...] = ()
    """why a wheel may not be ridden at all and gets no figures, in words"""

    @property
    def verdict(self) -> Verdict:
        if self.unsafe:
            return Verdict.FAILS
        parts = [w.verdict for w in self.wheels.values()]
        return worst(parts + [Verdict.UNKNOWN] * (2 - len(parts)))


@dataclass(frozen=True)
class Evaluation:
    """Everything that is known of a job. ``problem`` is an error of the entries, in words."""

    situation: Situation | None
    lacks: tuple[Lack, ...]
    setups: Mapping[SetupName, SetupResult]
    problem: str = ""

    @cached_property
    def fitted(self) -> SetupResult | None:
        return self.setups.get(SetupName.FITTED)

    @cached_property
    def proposed(self) -> SetupResult | None:
        return self.setups.get(SetupName.PROPOSED)


@dataclass(frozen=True)
class Demand:
    """What the ground and the ride ask of each wheel, whatever brake is on it."""

    flat: bikes.GroundLimits
    steep: bikes.GroundLimits
    targets: tuple[StopTarget, ...]
    holding_n: Mapping[End, float]
    top_speed: Sourced
    unstoppable: str = ""


def demand_of(job: Job, situation: Situation, load: BrakeLoad) -> Demand:
    """Target stops on the flat and on the steepest slope, holding still there, top speed with its source."""
    bike, p = situation.bike, situation.parameters
    if job.bike.top_speed_kmh is not None:
        top = Sourced(job.bike.top_speed_kmh / KMH_PER_MS, ENTERED_TEXT)
    else:
        top = Sourced(float(load.speed_ms.max()), "greatest speed of the ride")
    flat, steep = (ground_limits(bike, situation.grip, g) for g in (0.0, load.steepest))
    named = [(flat, "target stop on the flat"), (steep, "target stop on the steepest slope")]
    targets = [stop_target(bike, limits, top.value, p, name, job.target_decel_g) for limits, name in named]
    unstoppable = (
        "" if all(targets) else "this ground does not hold this bike on the steepest slope, whatever the brake"
    )
    return Demand(flat, steep, tuple(t for t in targets if t), holding_force_n(bike, load.steepest), top, unstoppable)


def boiling_of(wheel: Wheel, caliper: Caliper, keeps_fluid: bool, elevation_m: float) -> BoilingPoint:
    """Boiling point of the wheel's fluid; a line that is opened gets fresh fluid of the caliper's family."""
    grade = wheel.fluid_grade.value if wheel.fluid_grade else None
    if keeps_fluid:
        return boiling_point(
            caliper.fluid, grade, wheel.fluid_age_y, wheel.water_seen, wheel.fluid_boils_c, elevation_m
        )
    fresh = "dot4" if grade in (None, "mineral") else grade
    return boiling_point(caliper.fluid, fresh, 0.0, False, wheel.fluid_boils_c, elevation_m)


def drag_force_n(steps: HeatSteps) -> float:
    """Greatest force that the ride asks of this wheel in steady braking: the 95th percentile over braked steps."""
    braked = steps.force_n[steps.force_n > 1.0]
    return float(np.percentile(braked, 95)) if len(braked) else 0.0


def margins_of(
    setup: WheelSetup,
    wheel: Wheel,
    forces: WheelForces,
    ring_c: float,
    fade_ratio: float,
    fluid_c: float | None,
    boiling: BoilingPoint,
    ambient_c: float,
    t: Thresholds,
    unstoppable: str,
) -> tuple[Margin, ...]:
    """Every limit this wheel is held against, in the order they are shown."""
    row = COMPOUNDS[setup.pad.compound]
    margins = [
        Margin("reserve", "force in reserve", forces.reserve, "ratio", t.reserve_ratio, forces.reserve),
        Margin("fade", "force along the way", fade_ratio, "ratio", t.fade_ratio, fade_ratio),
        Margin(
            "ring",
            "ring below fade",
            row.fade_c - ring_c,
            "k",
            row.fade_c * (1 - t.ring_of_fade_ratio),
            (row.fade_c - ring_c) / (row.fade_c - ambient_c),
        ),
    ]
    if setup.rotor.construction in (Construction.SANDWICH, Construction.VANED):
        left = SANDWICH_LIMIT_C - ring_c
        margins.append(
            Margin("sandwich", "sandwich ring below its limit", left, "k", 25.0, left / (SANDWICH_LIMIT_C - ambient_c))
        )
    if fluid_c is not None:
        left_k = None if boiling.boiling_c is None else boiling.boiling_c - fluid_c
        relative = None if left_k is None or boiling.boiling_c is None else left_k / (boiling.boiling_c - ambient_c)
        margins.append(Margin("boil", "fluid below boiling", left_k, "k", t.boil_margin_k, relative, boiling.note))
    travel = forces.travel.limit_mm - forces.travel.total_mm
    margins.append(
        Margin(
            "travel",
            "lever short of the bar",
            travel,
            "mm",
            forces.travel.limit_mm * (1 - TRAVEL_TIGHT_RATIO),
            travel / forces.travel.limit_mm,
        )
    )
    room = None if wheel.max_rotor_mm is None else wheel.max_rotor_mm - setup.rotor.diameter_mm
    margins.append(
        Margin(
            "rotor_limit",
            "within the rotor limit",
            room,
            "mm",
            0.0,
            None if room is None else (1.0 if room >= 0 else room / setup.rotor.diameter_mm),
            "largest rotor that fork or frame allows is not known: ask its maker",
        )
    )
    if setup.worn_out or setup.unmeasured:
        margins.append(
            Margin(
                "condition",
                setup.worn_out or "condition",
                -1.0 if setup.worn_out else None,
                "count",
                0.0,
                -1.0 if setup.worn_out else None,
                "; ".join(setup.unmeasured),
            )
        )
    if unstoppable:
        margins.append(Margin("ground", unstoppable, -1.0, "count", 0.0, -1.0))
    return tuple(margins)


def _state(setup: WheelSetup) -> float:
    """Friction multiplier of the pads' state. Pads that may have no figure never come this far."""
    ratio = state_ratio(setup.pad_state)
    if ratio is None:
        raise ClavisError(f"no figure for pads in this state: {setup.worn_out}")
    return ratio


@dataclass(frozen=True)
class Judged:
    """What a setup's peaks mean: forces at that heat, and every margin."""

    link: Linkage
    forces: WheelForces
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    ring_share: float
    hot_c: float


@dataclass(frozen=True)
class Fixed:
    """What of a setup no doubt changes: its linkage, the ring's capacity J/K, the ring's share of the heat."""

    link: Linkage
    capacity_j_k: float
    ring_share: float


def fixed_of(setup: WheelSetup, situation: Situation) -> Fixed:
    p = situation.parameters
    ring = ring_figures(setup.rotor, setup.thickness_mm, p)
    link = linkage(setup.rotor, setup.caliper, setup.lever, setup.pad, situation.bike.wheel_radius_m, p)
    return Fixed(link, ring.capacity_j_k, ring_share(ring, setup.pad, setup.caliper))


def judge(
    job: Job,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    end: End,
    setup: WheelSetup,
    fixed: Fixed,
    drag_n: float,
    ring_c: float,
    fluid_c: float | None,
    least_mu_per_n: float,
    friction_ratio: float = 1.0,
) -> Judged:
    """Forces and margins of one wheel from its ring and fluid peaks (°C) and its least μ over force (1/N), which
    holds the same ``friction_ratio`` that multiplies the table's friction here."""
    p, bike, wheel = situation.parameters, situation.bike, job.wheel(end)
    row = COMPOUNDS[setup.pad.compound]
    link = fixed.link
    energy = max((t.wheel_energy_j[end] for t in demand.targets), default=0.0)
    hot = ring_c + fixed.ring_share * energy / fixed.capacity_j_k
    state = _state(setup)
    lead = max((t.wheel_force_n[End.FRONT] for t in demand.targets[:1]), default=0.0)
    forces = wheel_forces(
        link,
        end,
        bike,
        demand.flat,
        list(demand.targets),
        demand.holding_n[end],
        drag_n,
        situation.hand,
        dry_mu_at(row, hot),
        state * friction_ratio,
        row.wet_ratio if situation.wet else 1.0,
        p,
        lead,
        setup.air_mm3,
    )
    fade = situation.hand.greatest_n * link.gain_per_mu * state * least_mu_per_n - 1
    boiling = boiling_of(wheel, setup.caliper, keeps_fluid(job, end, setup), float(load.elevation_m[-1]))
    margins = margins_of(
        setup,
        wheel,
        forces,
        ring_c,
        fade,
        fluid_c,
        boiling,
        situation.weather.ambient_c,
        situation.thresholds,
        demand.unstoppable,
    )
    return Judged(link, forces, boiling, margins, fixed.ring_share, hot)


def wheel_result(
    job: Job, situation: Situation, demand: Demand, load: BrakeLoad, end: End, setup: WheelSetup
) -> WheelResult:
    """Forces and heat of one wheel over the ride."""
    steps = heat_steps(load, situation.sharing, end)
    nodes = node_row(
        setup.rotor,
        setup.thickness_mm,
        setup.pad,
        setup.material_mm,
        setup.caliper,
        end,
        situation.bike.wheel_radius_m,
        situation.wet,
        situation.parameters,
    )
    heat = heat_of(nodes[None, :], steps, situation.weather.ambient_c)[0]
    j = judge(
        job,
        situation,
        demand,
        load,
        end,
        setup,
        fixed_of(setup, situation),
        drag_force_n(steps),
        heat.peak_c[Node.RING],
        heat.fluid_peak_c,
        heat.least_mu_per_n,
    )
    return WheelResult(
        end, setup, j.link, j.forces, heat, steps, j.boiling, j.margins, j.ring_share, j.hot_c, situation.style, nodes
    )


def keeps_fluid(job: Job, end: End, setup: WheelSetup) -> bool:
    """The line stays closed while caliper and lever are the fitted ones."""
    wheel = job.wheel(end)
    return setup.caliper.id == wheel.caliper_id and setup.lever.id == wheel.lever_id


def _reached(
    situation: Situation,
    limits: bikes.GroundLimits,
    setups: Mapping[End, WheelSetup],
    mu: Callable[[WheelSetup], float],
    speed_ms: float,
) -> Stop | None:
    p = situation.parameters
    available, hold_back = dict.fromkeys(End, 0.0), dict.fromkeys(End, 0.0)
    for end, setup in setups.items():
        link = linkage(setup.rotor, setup.caliper, setup.lever, setup.pad, situation.bike.wheel_radius_m, p)
        gain = link.gain_per_mu * mu(setup) * _state(setup)
        available[end] = situation.hand.greatest_n * gain
        hold_back[end] = situation.hand.scatter_n * gain
    return reached_stop(situation.bike, limits, available, hold_back, speed_ms, p)


def _cold_mu(situation: Situation) -> Callable[[WheelSetup], float]:
    def mu(setup: WheelSetup) -> float:
        row = COMPOUNDS[setup.pad.compound]
        return row.mu_cold * (row.wet_ratio if situation.wet else 1.0)

    return mu


def planned_load(
    job: Job, situation: Situation, tracks: Mapping[str, Track], setups: Mapping[End, WheelSetup]
) -> BrakeLoad:
    """The ride as this setup can brake it: the planned deceleration is never above the reached one, cold."""
    ride = job.ride
    if ride is None:
        raise ClavisError("no ride yet")
    brake = None
    if len(setups) == len(End):
        flat = ground_limits(situation.bike, situation.grip, 0.0)
        stop = _reached(situation, flat, setups, _cold_mu(situation), 8.0)
        brake = stop.decel_ms2 if stop else 0.3
    return load_of_ride(ride, tracks, situation, brake)


def _contradiction(setup: WheelSetup) -> str:
    """Why these parts cannot be computed together, in words; empty where they can."""
    try:
        pad_height_mm(setup.rotor, setup.pad)
    except QuantityError as error:
        return str(error)
    return ""


def evaluate_setup(
    job: Job, name: SetupName, situation: Situation, catalogue: Catalogue, tracks: Mapping[str, Track]
) -> SetupResult:
    """One setup: both wheels over the decisive ride."""
    lacks: list[Lack] = []
    setups: dict[End, WheelSetup] = {}
    for end in End:
        found = setup_of(job, end, job.proposal.of(end) if name is SetupName.PROPOSED else None, catalogue)
        if isinstance(found, WheelSetup):
            setups[end] = found
        else:
            lacks += found
    unsafe = tuple(f"{end.value}: {s.worn_out}" for end, s in setups.items() if state_ratio(s.pad_state) is None)
    setups = {end: s for end, s in setups.items() if state_ratio(s.pad_state) is not None}
    for end, odd in [(end, _contradiction(s)) for end, s in setups.items()]:
        if odd:
            station = "choose" if name is SetupName.PROPOSED else "measure"
            lacks.append(Lack(station, f"{end.value}.pad_id", f"{end.value}: {odd}"))
            del setups[end]
    price, mass = (
        _new_parts(job, setups),
        sum(s.rotor.mass_g + s.caliper.mass_g + s.lever.mass_g + s.pad.mass_g for s in setups.values()),
    )
    if job.ride is None:
        lacks.append(Lack("ride", "rides", "a ride"))
        return SetupResult(name, {}, tuple(lacks), None, None, None, None, price, mass, unsafe)
    load = planned_load(job, situation, tracks, setups)
    demand = demand_of(job, situation, load)
    wheels = {end: wheel_result(job, situation, demand, load, end, setup) for end, setup in setups.items()}
    hot = {id(w.setup): w.forces.mu_hot / _state(w.setup) for w in wheels.values()}
    stops = [
        _reached(situation, limits, setups, lambda s: hot[id(s)], demand.top_speed.value)
        if len(setups) == len(End)
        else None
        for limits in (demand.flat, demand.steep)
    ]
    return SetupResult(name, wheels, tuple(lacks), load, demand, stops[0], stops[1], price, mass, unsafe)


def _new_parts(job: Job, setups: Mapping[End, WheelSetup]) -> float:
    total = 0.0
    for end, setup in setups.items():
        wheel = job.wheel(end)
        for kind in ("rotor", "caliper", "lever", "pad"):
            part = getattr(setup, kind)
            total += part.price if part.id != getattr(wheel, f"{kind}_id") else 0.0
    return total


def evaluate(job: Job, catalogue: Catalogue, tracks: Mapping[str, Track]) -> Evaluation:
    """Fitted and proposed setup of a job. ``tracks`` by checksum. Never raises for what a person entered:
    contradictions come back as ``problem``."""
    try:
        situation = situation_of(job)
        if not isinstance(situation, Situation):
            return Evaluation(None, tuple(situation), {})
        setups = {name: evaluate_setup(job, name, situation, catalogue, tracks) for name in SetupName}
    except ClavisError as error:
        return Evaluation(None, (), {}, problem=str(error))
    lacks = dict.fromkeys(lack for s in setups.values() if s.name is SetupName.FITTED for lack in s.lacks)
    return Evaluation(situation, tuple(lacks), setups)
