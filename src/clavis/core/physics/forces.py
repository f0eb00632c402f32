"""From finger to road: gain, limits, finger forces, reserve and what limits (docs/model.md, section 2)."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property
from math import cos, sin

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import QuantityError
from clavis.core.parameters import GRAVITY_MS2, ModelParameters
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Caliper, Lever, Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import (
    GroundLimits,
    LoadedBike,
    axle_loads_n,
    ground_limits,
    limit_alone_n,
    one,
    slope_angle,
)
from clavis.core.physics.speed_kernel import ROTATING_MASS_RATIO
from clavis.core.sentences import Words, say
from clavis.core.units import MM_PER_M


class Pull(StrEnum):
    """At which friction finger forces are told: pads at work, the cold first pull, the ride's hottest."""

    WARM = "warm"
    COLD = "cold"
    HOT = "hot"


class Feel(StrEnum):
    """How the lever feels at the limit of the ground, by finger force."""

    GRABBY = "grabby"
    EASY = "easy"
    TIRING = "tiring"
    WEAK = "weak"


class Limiter(StrEnum):
    """The link that gives first."""

    HAND = "hand"
    FRICTION = "friction"
    GRIP = "grip"
    CONTROL = "control"
    PITCH_OVER = "pitch_over"
    NONE = "none"


@dataclass(frozen=True)
class Hand:
    """The braking finger or fingers, N; ``factor`` scales the feel limits with them."""

    comfortable_n: float
    greatest_n: float
    scatter_n: float
    factor: float

    def tiring_n(self, finger_n: float) -> float:
        """What a force of the finger is above what it does with ease, N; 0 below."""
        return max(finger_n - self.comfortable_n, 0.0)


def hand_of(parameters: ModelParameters, fingers: int, small: bool, novice: bool) -> Hand:
    """The braking hand.

    Parameters
    ----------
    parameters : ModelParameters
        Comfortable, greatest and scattering force of one finger, N, and what multiplies them.
    fingers : int
        Fingers on the lever, 1 or more; from two on the force is that of two.
    small : bool
        Small hands.
    novice : bool
        Scatters twice.

    Returns
    -------
    Hand
        N, and the factor by which the limits of feel go with it.

    Source: judged, ± 30 % (docs/model.md, section 2).

    >>> hand = hand_of(ModelParameters(), fingers=2, small=True, novice=False)
    >>> round(hand.comfortable_n, 1), round(hand.greatest_n, 1)
    (39.2, 100.8)
    """
    factor = (parameters.two_finger_ratio if fingers >= 2 else 1.0) * (parameters.small_hand_ratio if small else 1.0)
    return Hand(
        parameters.finger_comfortable_n * factor,
        parameters.finger_greatest_n * factor,
        parameters.finger_scatter_n * (2.0 if novice else 1.0),
        factor,
    )


@dataclass(frozen=True)
class Linkage:
    """One wheel's chain from finger to road, without friction and state. SI except where named.

    ``gain_per_mu`` is newtons at the road per newton at the finger and unit of friction. Of several brakes of one kind,
    hydraulic or cable, at once, each figure is an array with a place for each.
    """

    effective_radius_m: float
    clamp_per_finger: float
    gain_per_mu: float
    lever_ratio: float
    master_area_mm2: float | None
    """None of a cable brake"""
    piston_area_mm2: float
    arm_ratio: float

    def times(self, ratio: float) -> "Linkage":
        """The same chain with lever and caliper that multiply the finger's force by so much more, and ask for as much
        more travel: what is gained in force is paid in way."""
        return replace(
            self,
            clamp_per_finger=self.clamp_per_finger * ratio,
            gain_per_mu=self.gain_per_mu * ratio,
            lever_ratio=self.lever_ratio * ratio,
        )


PAD_OVER_TRACK_MM = 0.5
"""a pad may be this much higher than the track before it rides the arms"""


def pads_within_track(rotor: Rotor, pad: Pad) -> bool:
    """Whether pads ride the braking track alone, not the rotor's arms: height ≤ track + 0.5 mm.

    Source: trade practice.

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> pads_within_track(ROTOR, PAD)
    True
    """
    return pad.height_mm <= rotor.track_mm + PAD_OVER_TRACK_MM


def pad_height_mm(rotor: Rotor, pad: Pad) -> float:
    """Height of contact: the pad's own, as far as the track goes.

    Parameters
    ----------
    rotor : Rotor
    pad : Pad

    Returns
    -------
    float
        mm.

    Raises
    ------
    QuantityError
        For a pad that is higher than the track by more than half a millimetre.

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> pad_height_mm(ROTOR, PAD)
    14.0
    """
    if not pads_within_track(rotor, pad):
        allowed = say("at most the track of {track_mm:g}", track_mm=rotor.track_mm)
        raise QuantityError("pad height", say("{pad_mm:g}", pad_mm=pad.height_mm), allowed)
    return min(pad.height_mm, rotor.track_mm)


class Housing(StrEnum):
    """What a cable runs in."""

    USUAL = "usual"
    OLD = "old"
    NEW = "new"


HOUSING_RATIO: dict[Housing, float] = {Housing.OLD: 0.65 / 0.75, Housing.USUAL: 1.0, Housing.NEW: 0.85 / 0.75}
"""of the cable's usual efficiency: 0.65 in old housing, 0.85 in new, compressionless housing (judged)"""


def linkage(
    rotor: Rotor,
    caliper: Caliper,
    lever: Lever,
    pad: Pad,
    wheel_radius_m: float,
    p: ModelParameters,
    housing: Housing = Housing.USUAL,
) -> Linkage:
    """One wheel's chain from finger to road, without friction and state.

    Hydraulic: N = F i η A_side/A_mc. Cable: N = F i η i_arm. Then T = 2 μ N r_e and F_road = T/r_w, with r_e = D/2 −
    half the height of contact.

    Parameters
    ----------
    rotor, caliper, lever, pad
        Parts; lever and caliper both of one fluid or both of the cable.
    wheel_radius_m : float
        Loaded rolling radius, m, 0.1 to 0.5.
    p : ModelParameters
        Efficiencies of line and cable, 0 to 1.
    housing : Housing
        Of a cable; of no matter to a hydraulic line.

    Returns
    -------
    Linkage
        Effective radius m, clamping force per finger force, and newtons at the road per newton at the finger and unit
        of friction.

    Raises
    ------
    QuantityError
        For a pad that is higher than the track.

    Source: pressure is even in a line at rest, and the even-pressure mean radius of a short pad is its middle; Limpert,
    Brake Design and Safety, 3rd ed., SAE International 2011, chapter 2 (disc brakes).

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> link = linkage(ROTOR, CALIPER, LEVER, PAD, 0.345, ModelParameters())
    >>> round(link.effective_radius_m, 4), round(link.clamp_per_finger, 2), round(link.gain_per_mu, 2)
    (0.083, 26.14, 12.58)
    """
    radius = (rotor.diameter_mm / 2 - pad_height_mm(rotor, pad) / 2) / MM_PER_M
    if caliper.fluid is Fluid.NONE:
        clamp = lever.ratio * p.cable_efficiency_ratio * HOUSING_RATIO[housing] * (caliper.arm_ratio or 0.0)
    else:
        clamp = lever.ratio * p.hydraulic_efficiency_ratio * caliper.piston_area_mm2 / (lever.master_area_mm2 or 1.0)
    return Linkage(
        effective_radius_m=radius,
        clamp_per_finger=clamp,
        gain_per_mu=2 * clamp * radius / wheel_radius_m,
        lever_ratio=lever.ratio,
        master_area_mm2=None if caliper.fluid is Fluid.NONE else lever.master_area_mm2 or 1.0,
        piston_area_mm2=caliper.piston_area_mm2,
        arm_ratio=caliper.arm_ratio or 0.0,
    )


@dataclass(frozen=True)
class StopTarget:
    """What one situation asks: brake force, what each wheel gives of it, and the energy each takes, N and J."""

    name: Words
    gradient: float
    decel_ms2: float
    force_n: float
    wheel_force_n: dict[End, float]
    wheel_energy_j: dict[End, float]
    distance_m: float


LEAST_TARGET_MS2 = 0.05
"""a target below this is no stop"""


def stop_target(
    bike: LoadedBike, limits: GroundLimits, top_speed_ms: float, p: ModelParameters, name: Words, wanted_ms2: float
) -> StopTarget | None:
    """What a stop on one slope asks of each wheel.

    a = min(wanted, 0.9 × the ground's limit); F_b = m (a + g sinθ), shared by the axle loads while it acts;
    E_i = (F_i/F_b)(½ m_e v² + m g · drop while stopping), m_e with the turning wheels.

    Parameters
    ----------
    bike : LoadedBike
    limits : GroundLimits
        Of the slope on which is stopped.
    top_speed_ms : float
        Speed from which is stopped, m/s, above 0.
    p : ModelParameters
        The share of the ground's limit that may be asked.
    name : Words
        What the stop is called.
    wanted_ms2 : float
        Deceleration asked for, m/s², above 0.

    Returns
    -------
    StopTarget or None
        Forces N and energies J by wheel, distance m; None where the ground does not slow the bike at all.

    Source: Newton's second law and the axle loads (docs/model.md, section 2); the target is a design figure.

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> limits = ground_limits(bike, 0.85, 0.0)
    >>> target = stop_target(bike, limits, 10.0, ModelParameters(), "on the flat", 0.6 * GRAVITY_MS2)
    >>> round(target.decel_ms2, 2), round(target.wheel_force_n[End.FRONT]), round(target.wheel_energy_j[End.FRONT])
    (5.15, 436, 4322)
    """
    theta = slope_angle(limits.gradient)
    decel = one(np.minimum(wanted_ms2, p.target_of_ground_ratio * limits.decel_ms2))
    if np.all(decel <= LEAST_TARGET_MS2):
        return None
    decel = one(np.maximum(decel, LEAST_TARGET_MS2))
    mass = bike.rolling_mass_kg
    force = mass * (decel + GRAVITY_MS2 * sin(theta))
    front, rear = axle_loads_n(bike, force, limits.gradient)
    weight = bike.mass_kg * GRAVITY_MS2 * cos(theta)
    shares = {End.FRONT: one(np.minimum(front / weight, 1.0)), End.REAR: one(np.maximum(rear / weight, 0.0))}
    distance = top_speed_ms**2 / (2 * decel)
    energy = 0.5 * mass * ROTATING_MASS_RATIO * top_speed_ms**2 + mass * GRAVITY_MS2 * distance * sin(theta)
    return StopTarget(
        name,
        limits.gradient,
        decel,
        force,
        {end: share * force for end, share in shares.items()},
        {end: share * energy for end, share in shares.items()},
        distance,
    )


def holding_force_n(bike: LoadedBike, gradient: float) -> dict[End, float]:
    """What each brake gives to stand still on a slope: m g sinθ, shared by the axle loads.

    Parameters
    ----------
    bike : LoadedBike
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.

    Returns
    -------
    dict of End to float
        N.

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> {end.value: round(force_n) for end, force_n in holding_force_n(bike, 0.10).items()}
    {'front': 45, 'rear': 42}
    """
    theta = slope_angle(gradient)
    total = bike.rolling_mass_kg * GRAVITY_MS2 * sin(theta)
    weight = bike.mass_kg * GRAVITY_MS2 * cos(theta)
    front, rear = axle_loads_n(bike, total, gradient)
    return {End.FRONT: total * front / weight, End.REAR: total * rear / weight}


@dataclass(frozen=True)
class LeverTravel:
    """Travel at the finger, mm, and the parts it is made of; limit to the bar."""

    total_mm: float
    gap_mm: float
    compliance_mm: float
    limit_mm: float
    air_mm: float = 0.0

    @property
    def share(self) -> float:
        return self.total_mm / self.limit_mm


TRAVEL_TIGHT_RATIO = 0.8
CABLE_HOUSING_LOSS_RATIO = 0.10
"""arm pull lost to old housing, per metre (docs/model.md, section 2)"""


AIR_PRESSURE_BAR = 1.01325


def lever_travel(
    link: Linkage, finger_n: float, p: ModelParameters, air_mm3: float = 0.0, to_bar_mm: float | None = None
) -> LeverTravel:
    """How far the finger moves the lever.

    Hydraulic: x = i (A_side · 2 gap + compliance · p + V_0 p/(p_0 + p))/A_mc, V_0 the air in the line at rest (gas
    law at even temperature). Cable: x = i · 2 gap · i_arm · 1.1, a tenth lost in a metre of housing.

    Parameters
    ----------
    link : Linkage
    finger_n : float
        Finger force, N, 0 or more.
    p : ModelParameters
        Gap of one pad mm, give of the line mm³/bar, usual travel to the bar mm.
    air_mm3 : float
        Air in the line at rest, mm³.
    to_bar_mm : float or None
        Travel there is, mm, as measured; the parameter's where it was not.

    Returns
    -------
    LeverTravel
        mm, with its parts and its limit.

    Source: volumes in the line (docs/model.md, section 2); Boyle's law for the air.

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> link = linkage(ROTOR, CALIPER, LEVER, PAD, 0.345, ModelParameters())
    >>> round(lever_travel(link, 30.0, ModelParameters()).total_mm, 1)
    20.8
    """
    limit = p.lever_to_bar_mm if to_bar_mm is None else to_bar_mm
    area = link.master_area_mm2
    if area is None:
        pull = 2 * p.pad_gap_mm * link.arm_ratio
        return LeverTravel(
            link.lever_ratio * pull * (1 + CABLE_HOUSING_LOSS_RATIO),
            link.lever_ratio * pull,
            link.lever_ratio * pull * CABLE_HOUSING_LOSS_RATIO,
            limit,
        )
    gap = link.lever_ratio * link.piston_area_mm2 * 2 * p.pad_gap_mm / area
    bar = pressure_bar(link, finger_n, p)
    soft = link.lever_ratio * p.compliance_mm3_per_bar * bar / area
    air = link.lever_ratio * air_mm3 * bar / (AIR_PRESSURE_BAR + bar) / area
    return LeverTravel(gap + soft + air, gap, soft, limit, air)


def pressure_bar(link: Linkage, finger_n: float, p: ModelParameters) -> float:
    """Pressure in the line: p = F i η/A_mc.

    Parameters
    ----------
    link : Linkage
    finger_n : float
        Finger force, N, 0 or more.
    p : ModelParameters
        Efficiency of lever and seals, 0 to 1.

    Returns
    -------
    float
        bar; 0 for a cable brake.

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> link = linkage(ROTOR, CALIPER, LEVER, PAD, 0.345, ModelParameters())
    >>> round(pressure_bar(link, 30.0, ModelParameters()), 1)
    20.6
    """
    area = link.master_area_mm2
    return 0.0 if area is None else finger_n * link.lever_ratio * p.hydraulic_efficiency_ratio / area * 10.0


def cable_pull_n(link: Linkage, finger_n: float) -> float:
    """Pull in the cable at a finger force: F i, N.

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> link = linkage(ROTOR, CALIPER, LEVER, PAD, 0.345, ModelParameters())
    >>> cable_pull_n(link, 30.0)
    180.0
    """
    return finger_n * link.lever_ratio


@dataclass(frozen=True)
class WheelForces:
    """Forces of one wheel, N unless named. μ figures carry state and wet factors.

    ``available_*``: at the road with the greatest finger force, not limited by grip.
    """

    link: Linkage
    gain: float
    mu_cold: float
    mu_work: float
    mu_hot: float
    needed_n: float
    target_name: Words
    finger_target_n: float
    finger_drag_n: float
    finger_lock_n: float
    finger_lock_braked_n: float | None
    lock_force_n: float
    slide_force_n: float
    """what is left of it once the wheel slides"""
    lock_torque_nm: float
    clamp_target_n: float
    pressure_target_bar: float
    cable_pull_n: float
    torque_target_nm: float
    available_work_n: float
    available_hot_n: float
    pull: "Pull"
    mu_pull: float
    """friction at which the finger forces are told, with state, without wet"""
    wet_ratio: float
    """what wet pads leave of it; 1 when dry"""
    wet_now_ratio: float
    """the same once the ride's heat has done its drying"""
    available_n: float
    """what the reserve counts: hot, or cold for a first pull"""
    ground_n: float
    usable_n: float
    control_hold_back_n: float
    reserve: float | None
    """of what the target stops ask, integrated; None where they ask nothing of this wheel"""
    reserve_of: "StopForce | None"
    """the stop that leaves least in reserve"""
    must: float | None
    """above what every bicycle must reach, with what the other wheel makes up for"""
    must_of: "StopForce | None"
    must_alone: float | None
    """the same by this wheel's part alone"""
    ground_pitches: bool
    """pitch-over sets the ground's limit, not grip"""
    hand: Hand
    travel: LeverTravel
    mu_over_stops: NDArray[np.float64] = field(compare=False)
    """friction over each target stop and while holding still, with state and water, (..., k)"""
    given_in_musts_n: NDArray[np.float64] = field(compare=False)
    """given in the stops that every bicycle must make, cold and hot the lesser, (..., k)"""

    @property
    def limiter(self) -> Limiter:
        """What gives first."""
        needed = self.reserve_of.force_n if self.reserve_of else self.needed_n
        return _limiter(self.available_work_n, self.available_n, needed, self.usable_n, self.ground_pitches)

    @property
    def feel(self) -> Feel:
        return feel_of(self.finger_lock_n, self.hand)


@dataclass(frozen=True)
class StopForce:
    """One wheel's part of a stop: force N, 0 where it carries nothing in it, and the energy it takes, J."""

    name: Words
    force_n: float
    energy_j: float


UNLOADED_RATIO = 0.05
"""a wheel that gives less than this of a stop carries next to nothing in it (judged)"""


def part_of(stop: StopTarget, end: End) -> StopForce:
    """One wheel's part of a stop, by the axle loads.

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> stop = stop_target(bike, ground_limits(bike, 0.85, 0.0), 10.0, ModelParameters(), "on the flat", 5.15)
    >>> round(part_of(stop, End.FRONT).force_n)
    436
    """
    force = stop.wheel_force_n[end]
    loaded = force >= UNLOADED_RATIO * stop.force_n
    return StopForce(stop.name, one(np.where(loaded, force, 0.0)), stop.wheel_energy_j[end])


def above_asked(given_n: NDArray[np.float64], asked_n: NDArray[np.float64]) -> NDArray[np.float64]:
    """What is given in each of some stops above what they ask, as a share of it; infinite where they ask nothing.

    Parameters
    ----------
    given_n : array
        N, (..., k).
    asked_n : array
        N, 0 or more, (..., k).

    Returns
    -------
    array
        (..., k).

    >>> above_asked(np.array([120.0, 50.0]), np.array([100.0, 0.0]))
    array([0.2, inf])
    """
    with np.errstate(divide="ignore"):
        return np.asarray(given_n / asked_n - 1, dtype=np.float64)


def side_by_side(amounts: Iterable[float]) -> NDArray[np.float64]:
    """Numbers, or draws of each, along a last axis of their own.

    >>> side_by_side([1.0, 2.0]).tolist()
    [1.0, 2.0]
    """
    columns = [np.asarray(amount, dtype=np.float64) for amount in amounts]
    return np.stack(np.broadcast_arrays(*columns), axis=-1) if columns else np.empty(0)


@dataclass(frozen=True, kw_only=True)
class WheelAsked:
    """What bike, ground and ride ask of one wheel, N. ``lead_n`` is the front's force at target, for the rear wheel's
    lock while the front brakes; ``drag_n`` what the ride drags with. It is the same whatever brake is on the wheel."""

    bike: LoadedBike
    end: End
    flat: GroundLimits
    sliding: GroundLimits
    """the flat for wheels that slide"""
    targets: tuple[StopTarget, ...]
    holding_n: float
    drag_n: float
    lead_n: float
    musts: tuple[StopTarget, ...] = ()
    """the stops that every bicycle must make"""
    made_up_n: tuple[float, ...] = ()
    """what the other wheel gives above its part in each of them"""

    @cached_property
    def ground(self) -> tuple[float, bool]:
        """What the ground takes at this wheel while the other gives its part of the target stop on the flat, N, and
        whether pitch-over sets it: front min(μ N_f, pitch-over − F_r), rear μ N_r."""
        target = next((t for t in self.targets if t.gradient == 0.0), None)
        front, rear = axle_loads_n(self.bike, target.force_n if target else self.flat.both_n, 0.0)
        if self.end is End.REAR:
            return one(np.maximum(0.0, self.flat.rear_grip * rear)), False
        pitch = self.flat.pitch_over_n - (target.wheel_force_n[End.REAR] if target else 0.0)
        grips = self.flat.grip * front
        return one(np.minimum(grips, pitch)), bool(np.all(pitch <= grips))

    @cached_property
    def lock_while_front_brakes_n(self) -> float | None:
        """Rear force at lock while the front gives ``lead_n``: F_r = μ (m g l_f − F_f h)/(L + μ h); None in front."""
        if self.end is End.FRONT:
            return None
        bike, grip = self.bike, self.flat.rear_grip
        moment = bike.mass_kg * GRAVITY_MS2 * bike.front_to_cg_m - self.lead_n * bike.cg_height_m
        return one(np.maximum(0.0, grip * moment / (bike.wheelbase_m + grip * bike.cg_height_m)))

    @cached_property
    def stops(self) -> tuple["StopForce", ...]:
        """This wheel's part of the target stops, and of standing on the steepest slope."""
        held = StopForce("holding still on the steepest slope", self.holding_n, 0.0)
        return (*(part_of(t, self.end) for t in self.targets), held)

    @cached_property
    def must_stops(self) -> tuple["StopForce", ...]:
        return tuple(part_of(t, self.end) for t in self.musts)

    @cached_property
    def stops_n(self) -> NDArray[np.float64]:
        return side_by_side(stop.force_n for stop in self.stops)

    @cached_property
    def musts_n(self) -> NDArray[np.float64]:
        return side_by_side(stop.force_n for stop in self.must_stops)

    @cached_property
    def made_up_in_n(self) -> NDArray[np.float64]:
        return side_by_side(self.made_up_n or (0.0,))

    @cached_property
    def loaded(self) -> bool:
        """It carries something in every target stop, in some draw at least."""
        return all(np.any(stop.force_n > 0) for stop in self.stops[:-1])

    @cached_property
    def hardest(self) -> tuple[float, Words]:
        """The greatest force that a stop, or standing on the steepest slope, asks; and which of them it is."""
        asked = [(self.stops[-1].name, self.holding_n), *((t.name, t.wheel_force_n[self.end]) for t in self.targets)]
        name, _ = max(asked, key=lambda stop: np.mean(stop[1]))
        return one(side_by_side(force for _, force in asked).max(axis=-1)), name


def _least(ratios: NDArray[np.float64]) -> int:
    """Which of several, along the last axis, is least; in the mean where there are draws of them."""
    return int((ratios if ratios.ndim == 1 else ratios.mean(axis=0)).argmin())


@dataclass(frozen=True, kw_only=True)
class PadFriction:
    """Friction of one pair of pads: its table's figures cold, at work and at the rotor's hottest, and the factors of
    their state (bedding, glaze) and of water: the pads are wet until the rotor has passed 80 °C."""

    cold: float
    work: float
    hot: float
    state: float
    wet: float
    """what water leaves at a first pull"""
    wet_now: float = 1.0
    """what it leaves once the ride's heat has done its drying"""
    stops: NDArray[np.float64]
    """over each of the stops asked, and while holding still, water with it"""
    musts: NDArray[np.float64]
    """over each stop that every bicycle must make, cold and hot the lesser, water with it"""


@dataclass(frozen=True)
class BrakeLine:
    """Air in a line at rest, and the travel there is to the bar as measured; the parameter's where it was not."""

    air_mm3: float = 0.0
    to_bar_mm: float | None = None


def wheel_forces(
    link: Linkage,
    asked: WheelAsked,
    hand: Hand,
    friction: PadFriction,
    p: ModelParameters,
    line: BrakeLine = BrakeLine(),
    pull: Pull = Pull.WARM,
) -> WheelForces:
    """Everything about force at one wheel.

    Finger forces are told at ``pull``: with pads at their working friction, at a cold first pull, or at the rotor's
    hottest. Water counts in all of them until the ride has dried it off.

    Parameters
    ----------
    link : Linkage
    asked : WheelAsked
        What bike, ground and ride ask of this wheel, N.
    hand : Hand
    friction : PadFriction
        Table figures of the pads with the factors of state and water.
    p : ModelParameters
    line : BrakeLine
        Air in it mm³, and the travel to the bar mm as measured.
    pull : Pull
        At which friction finger forces are told.

    Returns
    -------
    WheelForces
        N unless named.

    Source: the chain of ``linkage`` against ``ground_limits`` (docs/model.md, section 2).

    >>> from clavis.core.parts.samples import CALIPER, LEVER, PAD, ROTOR
    >>> link = linkage(ROTOR, CALIPER, LEVER, PAD, 0.345, ModelParameters())
    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> limits = ground_limits(bike, 0.85, 0.0)
    >>> target = stop_target(bike, limits, 10.0, ModelParameters(), "on the flat", 0.6 * GRAVITY_MS2)
    >>> here = {"bike": bike, "end": End.FRONT, "flat": limits, "sliding": limits, "targets": (target,)}
    >>> asked = WheelAsked(**here, holding_n=0.0, drag_n=60.0, lead_n=0.0)
    >>> over = {"stops": np.full(2, 0.45), "musts": np.empty(0)}
    >>> friction = PadFriction(cold=0.44, work=0.45, hot=0.45, state=1.0, wet=1.0, **over)
    >>> hand = hand_of(ModelParameters(), fingers=1, small=False, novice=False)
    >>> forces = wheel_forces(link, asked, hand, friction, ModelParameters())
    >>> round(forces.finger_target_n, 1), round(forces.reserve, 2), forces.limiter.value
    (77.1, 0.17, 'pitch_over')
    """
    mu_work, mu_cold = friction.work * friction.state, friction.cold * friction.state * friction.wet
    hot = friction.hot * friction.state * friction.wet_now
    needed, name = asked.hardest
    dry = {Pull.WARM: friction.work, Pull.COLD: friction.cold, Pull.HOT: friction.hot}[pull]
    mu_pull, wet = dry * friction.state, friction.wet if pull is Pull.COLD else friction.wet_now
    gain = link.gain_per_mu * mu_pull * wet
    lock = limit_alone_n(asked.flat, asked.end)
    behind = asked.lock_while_front_brakes_n
    greatest = hand.greatest_n * link.gain_per_mu
    available_work, available_hot = greatest * mu_work * friction.wet_now, greatest * hot
    most = np.asarray(greatest * friction.state)[..., None]
    given, must_given = most * friction.stops, most * friction.musts
    left = above_asked(given, asked.stops_n)
    worst, loaded = _least(left), asked.loaded
    available = one(given[..., worst])
    alone = helped = np.empty(0)
    must = None
    if asked.must_stops:
        alone = above_asked(must_given, asked.musts_n)
        helped = above_asked(must_given + asked.made_up_in_n, asked.musts_n)
        must = _least(helped) if np.isfinite(helped).any() else None
    hold_back = hand.scatter_n * gain
    ground, pitches = asked.ground
    usable = one(np.maximum(ground - hold_back, 0.0))
    finger_lock = lock / gain
    return WheelForces(
        link=link,
        gain=gain,
        mu_cold=mu_cold,
        mu_work=mu_work,
        mu_hot=hot,
        needed_n=needed,
        target_name=name,
        finger_target_n=needed / gain,
        finger_drag_n=asked.drag_n / gain,
        finger_lock_n=finger_lock,
        finger_lock_braked_n=None if behind is None else behind / gain,
        lock_force_n=lock,
        slide_force_n=limit_alone_n(asked.sliding, asked.end),
        lock_torque_nm=lock * asked.bike.wheel_radius_m,
        clamp_target_n=needed / gain * link.clamp_per_finger,
        pressure_target_bar=pressure_bar(link, needed / gain, p),
        cable_pull_n=cable_pull_n(link, needed / gain),
        torque_target_nm=needed * asked.bike.wheel_radius_m,
        available_work_n=available_work,
        available_hot_n=available_hot,
        pull=pull,
        mu_pull=mu_pull,
        wet_ratio=wet,
        wet_now_ratio=friction.wet_now,
        available_n=available,
        ground_n=ground,
        usable_n=usable,
        control_hold_back_n=hold_back,
        reserve=one(left.min(axis=-1)) if loaded else None,
        reserve_of=asked.stops[worst] if loaded else None,
        must=None if must is None else one(helped.min(axis=-1)),
        must_of=None if must is None else asked.must_stops[must],
        must_alone=None if must is None else one(alone.min(axis=-1)),
        ground_pitches=pitches,
        hand=hand,
        mu_over_stops=np.asarray(friction.state)[..., None] * friction.stops,
        given_in_musts_n=must_given,
        travel=lever_travel(link, needed / gain, p, line.air_mm3, line.to_bar_mm),
    )


def sliding_limits(bike: LoadedBike, limits: GroundLimits, p: ModelParameters) -> GroundLimits:
    """The ground for wheels that slide: they hold less than at their peak.

    Parameters
    ----------
    bike : LoadedBike
    limits : GroundLimits
        At peak grip.
    p : ModelParameters
        Share of peak grip left when sliding, 0 to 1.

    Returns
    -------
    GroundLimits
        N, at the grip that is left.

    Source: judged, ± 5 % (docs/model.md, section 1).

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> round(sliding_limits(bike, ground_limits(bike, 0.5, 0.0), ModelParameters()).both_n)
    375
    """
    slides = limits.grip * p.slide_of_peak_grip_ratio
    return ground_limits(bike, slides, limits.gradient, one(np.divide(limits.rear_grip, limits.grip)))


def _limiter(work: float, hot: float, needed: float, usable: float, pitches: bool) -> Limiter:
    if work < needed:
        return Limiter.HAND
    if hot < needed:
        return Limiter.FRICTION
    if usable < needed:
        return Limiter.CONTROL
    return Limiter.PITCH_OVER if pitches else Limiter.GRIP


def feel_of(finger_lock_n: float, hand: Hand) -> Feel:
    """How a lever feels that brings its wheel to the limit of the ground at this finger force, N.

    Source: judged (docs/model.md, section 2).

    >>> feel_of(20.0, hand_of(ModelParameters(), fingers=1, small=False, novice=False)).value
    'grabby'
    """
    if finger_lock_n < 25 * hand.factor:
        return Feel.GRABBY
    if finger_lock_n <= 60 * hand.factor:
        return Feel.EASY
    return Feel.TIRING if finger_lock_n <= hand.greatest_n else Feel.WEAK


STOPS_MS2 = 0.02
"""less than this is no stop"""


@dataclass(frozen=True)
class Stop:
    """A stop as this rider can do it: deceleration m/s², distance m with reaction, force per wheel N.

    ``slid_m`` is the way it takes with both wheels locked; None where the ground does not hold a sliding bike.
    """

    decel_ms2: float
    distance_m: float
    slid_m: float | None
    wheel_force_n: dict[End, float]
    limited_by: dict[End, Limiter]


@dataclass(frozen=True)
class ReachedForces:
    """What this rider holds with this brake on this ground, wheel by wheel, N, and what limits each."""

    wheel_force_n: dict[End, float]
    limited_by: dict[End, Limiter]

    @property
    def total_n(self) -> float:
        return sum(self.wheel_force_n.values())


def reached_forces(
    bike: LoadedBike, limits: GroundLimits, available_n: dict[End, float], hold_back_n: dict[End, float]
) -> ReachedForces:
    """Wheel by wheel the least of hand, grip less the finger's scatter, and pitch-over; the axle loads follow the
    forces, by repeated halving towards their balance.

    Parameters
    ----------
    bike : LoadedBike
    limits : GroundLimits
    available_n : dict of End to float
        What hand and friction give at the road, N.
    hold_back_n : dict of End to float
        What the finger's scatter takes from the ground's limit, N.

    Returns
    -------
    ReachedForces
        N.

    Source: the axle loads under braking (docs/model.md, section 1).

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> scatter = {End.FRONT: 20.0, End.REAR: 20.0}
    >>> limits = ground_limits(bike, 0.85, 0.0)
    >>> reached = reached_forces(bike, limits, {End.FRONT: 400.0, End.REAR: 200.0}, scatter)
    >>> round(reached.total_n), reached.limited_by[End.REAR].value
    (442, 'grip')
    """
    forces = dict.fromkeys(End, 0.0)
    by: dict[End, Limiter] = {}
    pitch = limits.pitch_over_n - hold_back_n[End.FRONT]
    for _ in range(80):  # the loads follow the forces; a contraction while μ h < L
        front_load, rear_load = axle_loads_n(bike, sum(forces.values()), limits.gradient)
        choices = {
            End.FRONT: [
                (available_n[End.FRONT], Limiter.HAND),
                (max(0.0, limits.grip * front_load - hold_back_n[End.FRONT]), Limiter.GRIP),
                (max(0.0, pitch - forces[End.REAR]), Limiter.PITCH_OVER),
            ],
            End.REAR: [
                (available_n[End.REAR], Limiter.HAND),
                (max(0.0, limits.rear_grip * rear_load - hold_back_n[End.REAR]), Limiter.GRIP),
            ],
        }
        for end, options in choices.items():
            least, why = min(options, key=lambda o: o[0])
            forces[end] = 0.5 * (forces[end] + least)
            by[end] = why
    return ReachedForces(forces, by)


def reached_stop(
    bike: LoadedBike,
    limits: GroundLimits,
    available_n: dict[End, float],
    hold_back_n: dict[End, float],
    speed_ms: float,
    p: ModelParameters,
) -> Stop | None:
    """The stop that this rider reaches with this brake on this ground.

    With the forces of ``reached_forces``. Distance: v t_reaction + v²/(2 a).

    Parameters
    ----------
    bike : LoadedBike
    limits : GroundLimits
    available_n : dict of End to float
        What hand and friction give at the road, N.
    hold_back_n : dict of End to float
        What the finger's scatter takes from the ground's limit, N.
    speed_ms : float
        m/s, 0 or more.
    p : ModelParameters
        Reaction time s; share of grip left when sliding.

    Returns
    -------
    Stop or None
        m/s², m and N; None where this bike does not stop on this slope.

    Source: Newton's second law and the axle loads (docs/model.md, section 2).

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> limits = ground_limits(bike, 0.85, 0.0)
    >>> available, scatter = {End.FRONT: 400.0, End.REAR: 200.0}, {End.FRONT: 20.0, End.REAR: 20.0}
    >>> stop = reached_stop(bike, limits, available, scatter, 10.0, ModelParameters())
    >>> round(stop.decel_ms2, 2), round(stop.distance_m, 1), stop.limited_by[End.FRONT].value
    (4.91, 20.2, 'hand')
    """
    reached = reached_forces(bike, limits, available_n, hold_back_n)
    decel = reached.total_n / bike.rolling_mass_kg - GRAVITY_MS2 * sin(slope_angle(limits.gradient))
    if decel <= STOPS_MS2:
        return None
    reaction_m = speed_ms * p.reaction_s
    slide = sliding_limits(bike, limits, p).decel_ms2
    slid = reaction_m + speed_ms**2 / (2 * slide) if slide > STOPS_MS2 else None
    distance = reaction_m + speed_ms**2 / (2 * decel)
    return Stop(decel, distance, slid, reached.wheel_force_n, reached.limited_by)
