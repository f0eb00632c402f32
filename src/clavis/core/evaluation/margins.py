"""What is asked of each wheel and how it is judged: target stops, limits, every margin."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.setups import WheelSetup, friction_state
from clavis.core.evaluation.situation import ENTERED_TEXT, Situation, Sourced
from clavis.core.job.document import Job
from clavis.core.parameters import GRAVITY_MS2, ModelParameters
from clavis.core.parts.compounds import COMPOUNDS, CompoundRow
from clavis.core.parts.fluids import GRADES_OF
from clavis.core.parts.models import Construction
from clavis.core.parts.mounts import End
from clavis.core.physics import bike as bikes
from clavis.core.physics.bike import LoadedBike, ground_limits, one
from clavis.core.physics.descent import BrakeLoad, steepest_minute_n
from clavis.core.physics.forces import (
    TRAVEL_TIGHT_RATIO,
    BrakeLine,
    Linkage,
    PadFriction,
    Pull,
    StopForce,
    StopTarget,
    WheelAsked,
    WheelForces,
    holding_force_n,
    linkage,
    side_by_side,
    sliding_limits,
    stop_target,
    wheel_forces,
)
from clavis.core.physics.friction import dry_mu, friction_shape, stop_mu
from clavis.core.physics.heat import LAYERED, SANDWICH_LIMIT_C, BoilingPoint, boiling_point, rotor_geometry, rotor_share
from clavis.core.physics.heat_kernel import WET_UNTIL_C
from clavis.core.sentences import Words, say
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Margin


@dataclass(frozen=True)
class Demand:
    """What the ground and the ride ask of each wheel, whatever brake is on it."""

    flat: bikes.GroundLimits
    sliding: bikes.GroundLimits
    """the flat for wheels that slide"""
    steep: bikes.GroundLimits
    targets: tuple[StopTarget, ...]
    musts: tuple[StopTarget, ...]
    """the stops that every bicycle must make"""
    holding_n: Mapping[End, float]
    top_speed: Sourced
    unstoppable: Words = ""
    made_up_n: Mapping[End, tuple[float, ...]] = field(default_factory=dict)
    """what the other wheel gives above its part in each of ``musts``, where both are known"""

    @property
    def alone(self) -> "Demand":
        """The same of a wheel by itself: nothing made up for it. So are candidates weighed, of which nobody knows yet
        what will be on the other wheel."""
        return replace(self, made_up_n={})


def wanted_ms2(job: Job, situation: Situation) -> float:
    """Deceleration that a good stop shall have, m/s²."""
    return (job.target_decel_g or situation.parameters.target_decel_g) * GRAVITY_MS2


ON_SLOPE_WORDS = "{decel_ms2:.1} on the steepest slope"


def demand_of(job: Job, situation: Situation, load: BrakeLoad) -> Demand:
    """Target stops on the flat and on the steepest slope of all rides, holding still there, top speed, its source."""
    bike, p = situation.bike, situation.parameters
    if job.bike.top_speed_kmh is not None:
        top = Sourced(job.bike.top_speed_kmh / KMH_PER_MS * situation.speed_ratio, ENTERED_TEXT)
    else:
        top_ms = max(float(load.speed_ms.max()), situation.elsewhere.top_ms)
        top = Sourced(top_ms * situation.speed_ratio, "greatest speed of the job's rides")
    steepest = max(load.steepest, situation.elsewhere.steepest)
    flat, steep = (ground_limits(bike, situation.grip, g, situation.rear_grip_ratio) for g in (0.0, steepest))
    named = [(flat, "target stop on the flat"), (steep, "target stop on the steepest slope")]
    wanted = wanted_ms2(job, situation)
    targets = [stop_target(bike, limits, top.value, p, name, wanted) for limits, name in named]
    must = p.must_wet_ms2 if situation.wet else p.must_dry_ms2
    asked = ((flat, must, "{decel_ms2:.1} on the flat"), (steep, must * p.must_on_slope_ratio, ON_SLOPE_WORDS))
    musts = [
        replace(stop, name=say(words, decel_ms2=float(np.mean(stop.decel_ms2))))
        for limits, decel, words in asked
        if (stop := stop_target(bike, limits, top.value, p, words, decel)) is not None
    ]
    unstoppable = (
        "" if all(targets) else "this ground does not hold this bike on the steepest slope, whatever the brake"
    )
    return Demand(
        flat=flat,
        sliding=sliding_limits(bike, flat, p),
        steep=steep,
        targets=tuple(t for t in targets if t),
        musts=tuple(musts),
        holding_n=holding_force_n(bike, steepest),
        top_speed=top,
        unstoppable=unstoppable,
    )


def boiling_of(setup: WheelSetup, elevation_m: float) -> BoilingPoint:
    """Boiling point of the wheel's fluid; a line that is opened gets fresh fluid of the caliper's family: that of the
    bottle, or where none is known the lesser grade, or the figure entered for the line."""
    m, family = setup.wheel.measured, setup.caliper.fluid
    if setup.keeps_line:
        return boiling_point(family, m.fluid_grade, m.fluid_age_y, m.water_seen, m.fluid_boils_c, elevation_m)
    bottle = setup.filled_with
    if bottle is not None and bottle.dry_c is not None:
        return BoilingPoint(bottle.dry_c, say("{bottle}, fresh, its maker's figure", bottle=bottle.name))
    grades = GRADES_OF[family]
    fresh = m.fluid_grade if m.fluid_grade in grades else next(iter(grades), None)
    return boiling_point(family, fresh, 0.0, False, m.fluid_boils_c, elevation_m)


@dataclass(frozen=True)
class Peaks:
    """What the ride makes of one setup: peaks of rotor, carrier and fluid, °C (no fluid: None), and the least μ over
    the force asked along the braked way, 1/N."""

    rotor_c: float
    carrier_c: float
    fluid_c: float | None
    least_mu_per_n: float


@dataclass(frozen=True)
class Judged:
    """What a setup's peaks mean: forces at that heat, and every margin."""

    link: Linkage
    forces: WheelForces
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    rotor_share: float
    hot_c: float
    hotter_k: float | None
    """how much hotter than its arms the ring of a rotor in one piece gets at the least, K; None of any other"""


@dataclass(frozen=True, kw_only=True)
class Fixed:
    """What of a setup no doubt and no ride changes. Of several setups of one ``kind`` at once each number is an array
    with a place for each."""

    row: CompoundRow
    state: float
    """friction multiplier of the pads' state and bedding"""
    link: Linkage
    line: BrakeLine
    capacity_j_k: float
    """of the rotor"""
    rotor_share: float
    """of the heat"""
    layered: bool
    """the rotor is glued or pressed of layers"""
    one_piece: bool
    """its ring and arms are one"""
    boiling: BoilingPoint

    @property
    def kind(self) -> tuple[object, ...]:
        """Setups that share it are held against the same limits, with the same curve of friction."""
        return self.row.words, self.link.master_area_mm2 is None, self.layered, self.boiling.boiling_c is None


def linkage_of(setup: WheelSetup, situation: Situation) -> Linkage:
    radius_m, p = situation.bike.wheel_radius_m, situation.parameters
    return linkage(setup.rotor, setup.caliper, setup.lever, setup.pad, radius_m, p, setup.housing)


def fixed_of(setup: WheelSetup, situation: Situation, ends_at_m: float) -> Fixed:
    """``ends_at_m``: the height at which the ride ends."""
    geometry = rotor_geometry(setup.rotor, setup.thickness_mm, situation.parameters)
    return Fixed(
        row=COMPOUNDS[setup.pad.compound],
        state=friction_state(setup),
        link=linkage_of(setup, situation),
        line=BrakeLine(setup.air_mm3, setup.to_bar_mm),
        capacity_j_k=geometry.capacity_j_k,
        rotor_share=rotor_share(geometry, setup.pad, setup.caliper),
        layered=setup.rotor.construction in LAYERED,
        one_piece=setup.rotor.construction is Construction.ONE_PIECE,
        boiling=boiling_of(setup, ends_at_m),
    )


def stacked(several: Sequence[Fixed], parameters: ModelParameters) -> Fixed:
    """Setups of one kind as one, with arrays in the place of numbers."""

    def each(amounts: Iterable[float | None], otherwise: float = 0.0) -> float:
        return one(np.array([otherwise if amount is None else amount for amount in amounts]))

    first = several[0]
    figures = {f.name: each(getattr(s.link, f.name) for s in several) for f in fields(Linkage)}
    link = Linkage(**figures)
    if first.link.master_area_mm2 is None:
        link = replace(link, master_area_mm2=None)
    boils = first.boiling.boiling_c is not None
    to_bar = each((s.line.to_bar_mm for s in several), parameters.lever_to_bar_mm)
    return replace(
        first,
        state=each(s.state for s in several),
        link=link,
        line=BrakeLine(each(s.line.air_mm3 for s in several), to_bar),
        capacity_j_k=each(s.capacity_j_k for s in several),
        rotor_share=each(s.rotor_share for s in several),
        boiling=replace(first.boiling, boiling_c=each(s.boiling.boiling_c for s in several) if boils else None),
    )


@dataclass(frozen=True)
class WheelRide:
    """What a ride asks of one wheel, whatever brake is on it."""

    asked: WheelAsked
    stop_j: float
    """what the hardest target stop brings this wheel"""
    ends_at_m: float
    """the height at which the ride ends, where the fluid boils soonest"""
    unstoppable: Words


def drag_force_n(situation: Situation, load: BrakeLoad, end: End) -> float:
    """What one wheel holds in the drag, N: the steepest minute of the ride."""
    return steepest_minute_n(load, situation.bike, situation.weather, situation.sharing, end)


def wheel_ride(bike: LoadedBike, demand: Demand, end: End, drag_n: float, load: BrakeLoad) -> WheelRide:
    """One wheel's part of what is asked; ``drag_n`` from ``drag_force_n``."""
    asked = WheelAsked(
        bike=bike,
        end=end,
        flat=demand.flat,
        sliding=demand.sliding,
        targets=demand.targets,
        holding_n=demand.holding_n[end],
        drag_n=drag_n,
        musts=demand.musts,
        made_up_n=demand.made_up_n.get(end, ()),
        lead_n=next((t.wheel_force_n[End.FRONT] for t in demand.targets), 0.0),
    )
    energies = [0.0, *(t.wheel_energy_j[end] for t in demand.targets)]
    stop_j = one(side_by_side(energies).max(axis=-1))
    return WheelRide(asked, stop_j, float(load.elevation_m[-1]), demand.unstoppable)


def _stopping(forces: WheelForces, asked: float) -> tuple[Margin, ...]:
    """Two bars: the target stop with its reserve, and below it the stop that every bicycle must make. A wheel that
    carries next to nothing in the first is held against the second alone; what it lacks of its part there, with the
    other wheel making up for it, leaves nothing in reserve."""
    reserve, must, alone = forces.reserve, forces.must, forces.must_alone
    if must is None or alone is None:
        return () if reserve is None else (Margin("reserve", "force margin", reserve, "ratio", asked, reserve),)
    if reserve is None:
        return (Margin("reserve", "its part of what every bicycle must reach", alone, "ratio", 0.0, must, must=must),)
    left = one(np.where(np.less(alone, 0), np.minimum(reserve, alone), reserve))
    return (Margin("reserve", "force margin", left, "ratio", asked, must, must=must),)


def margins_of(
    fixed: Fixed, situation: Situation, ride: WheelRide, forces: WheelForces, peaks: Peaks
) -> tuple[Margin, ...]:
    """Every limit this wheel is held against, in the order they are shown."""
    row, t, ambient_c, boiling = fixed.row, situation.thresholds, situation.weather.ambient_c, fixed.boiling
    fade = situation.hand.greatest_n * fixed.link.gain_per_mu * fixed.state * peaks.least_mu_per_n - 1
    left = row.fade_c - peaks.rotor_c
    margins = [
        *_stopping(forces, t.reserve_ratio),
        Margin("fade", "force along the way", fade, "ratio", t.fade_ratio, fade),
        Margin(
            "rotor", "rotor below fade", left, "k", row.fade_c * (1 - t.rotor_of_fade_ratio),
            left / (row.fade_c - ambient_c),
        ),
    ]  # fmt: skip
    if fixed.layered:
        under = SANDWICH_LIMIT_C - peaks.rotor_c
        share = under / (SANDWICH_LIMIT_C - ambient_c)
        margins.append(Margin("sandwich", "sandwich rotor below its limit", under, "k", t.sandwich_margin_k, share))
    if peaks.fluid_c is not None:
        below = None if boiling.boiling_c is None else boiling.boiling_c - peaks.fluid_c
        relative = None if below is None or boiling.boiling_c is None else below / (boiling.boiling_c - ambient_c)
        margins.append(Margin("boil", "fluid below boiling", below, "k", t.boil_margin_k, relative, boiling.note))
    travel, limit = forces.travel.limit_mm - forces.travel.total_mm, forces.travel.limit_mm
    asked = limit * (1 - TRAVEL_TIGHT_RATIO)
    margins.append(Margin("travel", "lever clearance to the bar", travel, "mm", asked, travel / limit))
    if ride.unstoppable:
        margins.append(Margin("ground", ride.unstoppable, -1.0, "count", 0.0, -1.0))
    return tuple(margins)


def _mu_over(
    row: CompoundRow, wet: float, k_per_j: float, rotor_c: float, stops: Sequence[StopForce]
) -> NDArray[np.float64]:
    """Friction over some stops from a rotor temperature, each from that anew."""
    rises = side_by_side([rotor_c * 0.0, *(k_per_j * stop.energy_j for stop in stops)])
    flat = np.atleast_2d(rises)
    begins = np.broadcast_to(np.atleast_1d(rotor_c), flat.shape[:1])
    shapes, water = np.tile(friction_shape(row), (len(flat), 1)), np.full(len(flat), wet)
    over = stop_mu(shapes, water, np.ascontiguousarray(begins), np.ascontiguousarray(flat))
    return np.asarray(over.reshape(rises.shape)[..., 1:], dtype=np.float64)


def pad_friction(
    fixed: Fixed, situation: Situation, ride: WheelRide, peaks: Peaks, friction_ratio: float = 1.0
) -> PadFriction:
    """Friction of one wheel's pads cold, at work, at the ride's hottest, and over every stop that is asked."""
    row, ambient_c = fixed.row, situation.weather.ambient_c
    hot_c = peaks.rotor_c + fixed.rotor_share * ride.stop_j / fixed.capacity_j_k
    wet = row.wet_ratio if situation.wet else 1.0
    begins_c = ambient_c if situation.pull is Pull.COLD else peaks.rotor_c
    over = partial(_mu_over, row, wet, fixed.rotor_share / fixed.capacity_j_k)
    musts = np.minimum(over(ambient_c, ride.asked.must_stops), over(peaks.rotor_c, ride.asked.must_stops))
    return PadFriction(
        cold=row.mu_cold,
        work=row.mu_work,
        hot=one(dry_mu(row, hot_c)),
        state=fixed.state * friction_ratio,
        wet=wet,
        wet_now=one(np.where(peaks.rotor_c < WET_UNTIL_C, wet, 1.0)),
        stops=over(begins_c, ride.asked.stops),
        musts=musts,
    )


def judge(
    fixed: Fixed, situation: Situation, ride: WheelRide, peaks: Peaks, friction: PadFriction | None = None
) -> Judged:
    """Forces and margins of one wheel from its peaks over the ride, its ``friction`` worked out here or before."""
    hot_c = peaks.rotor_c + fixed.rotor_share * ride.stop_j / fixed.capacity_j_k
    friction = friction or pad_friction(fixed, situation, ride, peaks)
    p, hand, pull = situation.parameters, situation.hand, situation.pull
    forces = wheel_forces(fixed.link, ride.asked, hand, friction, p, fixed.line, pull)
    margins = margins_of(fixed, situation, ride, forces, peaks)
    hotter_k = peaks.rotor_c - peaks.carrier_c if fixed.one_piece else None
    return Judged(fixed.link, forces, fixed.boiling, margins, fixed.rotor_share, hot_c, hotter_k)
