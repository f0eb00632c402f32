"""A job's load: its rides side by side, what always counts beside them, drag against pulse, and the slow points."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from math import atan, sin

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import Evaluation, SetupResult, planned_load
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Job, Ride, SpeedFrom
from clavis.core.parameters import GRAVITY_MS2
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import ground_limits, limit_alone_n
from clavis.core.physics.descent import STANDING_MS, BrakeLoad, Style, heat_steps
from clavis.core.physics.heat import Node, peaks_of
from clavis.core.physics.road import SHORTEST_M, Section, Track
from clavis.core.sentences import Words, joined, say
from clavis.core.units import KMH_PER_MS

Array = NDArray[np.float64]

SLOWED_BY_MS = 1.4
"""a place counts as slow where the speed falls by this much before it and rises by as much after it"""


class RideKind(StrEnum):
    """What a ride is made of."""

    RECORDED = "recorded"
    PLANNED = "track, planned speed"
    TYPED = "typed"
    STOPS = "stop cycle"


def kind_of_ride(ride: Ride) -> RideKind:
    """A typed ride that stands at the end of half its sections or more is a stop cycle."""
    if ride.track_id is not None:
        return RideKind.RECORDED if ride.speed_from is SpeedFrom.RECORDED else RideKind.PLANNED
    stops = sum(s.stand_s > 0 for s in ride.sections)
    return RideKind.STOPS if 2 * stops >= len(ride.sections) else RideKind.TYPED


@dataclass(frozen=True)
class RideFigures:
    """One ride of a job as a load; peaks are those of the setup that was asked for, °C, where its wheels are known.
    ``problem`` says why there are no figures."""

    ride: Ride
    kind: RideKind
    decisive: bool
    length_m: float = 0.0
    drop_m: float = 0.0
    steepest: float = 0.0
    duration_s: float = 0.0
    braked_kj: float = 0.0
    rotor_c: Mapping[End, float] | None = None
    fluid_c: Mapping[End, float] | None = None
    friction_kj: Mapping[End, float] | None = None
    hot_kj: Mapping[End, float] | None = None
    """of it above fade onset"""
    problem: Words = ""

    @property
    def length_km(self) -> float:
        return self.length_m / 1000

    @property
    def steepest_pct(self) -> float:
        return self.steepest * 100

    @property
    def duration_min(self) -> float:
        return self.duration_s / 60

    @property
    def mean_w(self) -> float:
        return self.braked_kj * 1000 / self.duration_s if self.duration_s > 0 else 0.0

    @property
    def yearly_mj(self) -> float:
        return self.braked_kj * self.ride.times_a_year / 1000

    @property
    def hottest_c(self) -> float | None:
        return max(self.rotor_c.values()) if self.rotor_c else None


def _figures(
    ride: Ride, load: BrakeLoad, decisive: bool, situation: Situation, setup: SetupResult | None
) -> RideFigures:
    rotor: dict[End, float] = {}
    fluid: dict[End, float] = {}
    friction: dict[End, float] = {}
    hot: dict[End, float] = {}
    for end, wheel in (setup.wheels if setup else {}).items():
        steps = heat_steps(load, situation.sharing, end)
        table = peaks_of(wheel.nodes[None, :], steps, situation.weather.ambient_c)
        rotor[end] = float(table.peak_c[0, Node.ROTOR])
        friction[end], hot[end] = steps.energy_kj, float(table.hot_kj[0])
        if wheel.heat.fluid_peak_c is not None:
            fluid[end] = float(table.fluid_peak_c[0])
    return RideFigures(
        ride,
        kind_of_ride(ride),
        decisive,
        float(load.distance_m[-1]),
        load.drop_m,
        load.steepest,
        float(load.time_s[-1]),
        load.braked_kj,
        rotor,
        fluid,
        friction,
        hot,
    )


def rides_of(
    job: Job, evaluation: Evaluation, tracks: Mapping[str, Track], setup: SetupResult | None
) -> tuple[RideFigures, ...]:
    """Every ride of a job as a load for one setup, in the order of the job."""
    out, situation = [], evaluation.situation
    for ride in job.rides:
        decisive = ride is job.ride
        if situation is None:
            lacks = say("still needed: {lacks}", lacks=joined([lack.words for lack in evaluation.lacks], ", "))
            out.append(RideFigures(ride, kind_of_ride(ride), decisive, problem=evaluation.problem or lacks))
            continue
        try:
            if decisive and setup and setup.load:
                load = setup.load
            else:
                setups = {end: w.setup for end, w in setup.wheels.items()} if setup else {}
                load = planned_load(ride, situation, tracks, setups)
            out.append(_figures(ride, load, decisive, situation, setup))
        except ClavisError as error:
            out.append(RideFigures(ride, kind_of_ride(ride), decisive, problem=error.said))
    return tuple(out)


def hotter_than_decisive(rides: Sequence[RideFigures]) -> RideFigures | None:
    """A ride that heats a rotor more than the decisive one does, if there is one: the hottest."""
    decisive = next((r for r in rides if r.decisive), None)
    if decisive is None or decisive.hottest_c is None:
        return None
    hotter = [r for r in rides if r.hottest_c is not None and r.hottest_c > decisive.hottest_c + 1.0]
    return max(hotter, key=lambda r: r.hottest_c or 0.0, default=None)


@dataclass(frozen=True)
class AlwaysCounts:
    """What is asked whatever the ride: an emergency stop from top speed, and standing parked, on the steepest slope of
    all rides. Forces N, energy kJ, rises K; None where it cannot be told."""

    gradient: float
    top_ms: float
    top_source: Words
    stop_kj: float | None
    stop_n: float | None
    stop_m: float | None
    rotor_rise_k: Mapping[End, float]
    park_n: float
    park_grip_n: Mapping[End, float]
    """what one locked wheel alone can hold on this ground"""
    problem: Words = ""

    @property
    def gradient_pct(self) -> float:
        return self.gradient * 100

    @property
    def top_kmh(self) -> float:
        return self.top_ms * KMH_PER_MS

    @property
    def park_by(self) -> tuple[End, ...]:
        """Wheels that hold the bike by themselves."""
        return tuple(end for end, most in self.park_grip_n.items() if most >= self.park_n)


def always_of(evaluation: Evaluation, setup: SetupResult | None) -> AlwaysCounts | None:
    """None without a ride."""
    situation = evaluation.situation
    if situation is None or setup is None or setup.demand is None:
        return None
    demand, bike = setup.demand, situation.bike
    gradient = demand.steep.gradient
    stop = next((t for t in demand.targets if t.gradient == gradient), None)
    rise = {
        end: stop.wheel_energy_j[end] * w.node("rotor_share") / w.node("rotor_capacity")
        for end, w in setup.wheels.items()
        if stop is not None
    }
    limits = ground_limits(bike, situation.grip, gradient, situation.rear_grip_ratio)
    return AlwaysCounts(
        gradient,
        demand.top_speed.value,
        demand.top_speed.source,
        sum(stop.wheel_energy_j.values()) / 1000 if stop else None,
        stop.force_n if stop else None,
        stop.distance_m if stop else None,
        rise,
        bike.rolling_mass_kg * GRAVITY_MS2 * sin(atan(gradient)),
        {end: limit_alone_n(limits, end) for end in End},
        demand.unstoppable,
    )


@dataclass(frozen=True)
class StyleFigures:
    """The decisive ride braked in one way. Power of both brakes together over the hardest second, W."""

    name: str
    figures: RideFigures
    peak_w: float


def _peak_w(load: BrakeLoad) -> float:
    """Greatest mean power over one second."""
    running = np.concatenate([[0.0], np.cumsum(load.braked_j)])
    until = np.interp(load.time_s + 1.0, load.time_s, running)
    return float((until - running).max())


def styles_of(
    job: Job, evaluation: Evaluation, tracks: Mapping[str, Track], setup: SetupResult | None
) -> tuple[StyleFigures, ...]:
    """The decisive ride as recorded, where it was, and planned in both styles, at the same mean speed."""
    situation, ride = evaluation.situation, job.ride
    if situation is None or ride is None or setup is None or setup.load is None:
        return ()
    out = []
    if setup.load.recorded:
        own = _figures(ride, setup.load, True, situation, setup)
        out.append(StyleFigures("recorded", own, _peak_w(setup.load)))
        ride = _planned_like(ride, setup.load)
    setups = {end: w.setup for end, w in setup.wheels.items()}
    for style in Style:
        held = replace(situation, style=style)
        load = planned_load(ride, held, tracks, setups)
        figures = _figures(ride, load, True, held, setup)
        out.append(StyleFigures(style.value, figures, _peak_w(load)))
    return tuple(out)


def _planned_like(ride: Ride, load: BrakeLoad) -> Ride:
    """The ride with its speed planned: the mean of the recorded one while moving."""
    moving = load.mean_ms > STANDING_MS
    mean_ms = float(load.ds_m[moving].sum() / max(float(load.dt_s[moving].sum()), 1e-9))
    hold = min(max(mean_ms * KMH_PER_MS, 3.0), 120.0)
    return Ride.model_validate(ride.model_dump() | {"speed_from": SpeedFrom.PLANNED, "hold_kmh": hold})


@dataclass(frozen=True)
class SlowPoint:
    """A corner or a stop: where the speed has a low, m from the start; speed m/s."""

    at_m: float
    speed_ms: float

    @property
    def is_stop(self) -> bool:
        return self.speed_ms < STANDING_MS


def slow_points(load: BrakeLoad) -> tuple[SlowPoint, ...]:
    """Lows of the speed between a fall and a rise of SLOWED_BY_MS each, in their order; and the stop at the end."""
    out: list[SlowPoint] = []
    speed, way = load.speed_ms, load.distance_m
    low = high = 0
    falling = False
    for k in range(1, len(speed)):
        if falling:
            if speed[k] < speed[low]:
                low = k
            elif speed[k] - speed[low] > SLOWED_BY_MS:
                out.append(SlowPoint(float(way[low]), float(speed[low])))
                falling, high = False, k
        elif speed[k] > speed[high]:
            high = k
        elif speed[high] - speed[k] > SLOWED_BY_MS:
            falling, low = True, k
    if falling and speed[low] < STANDING_MS:
        out.append(SlowPoint(float(way[low]), float(speed[low])))
    return tuple(out)


PICKED_OVER_M = 100.0


def gradient_at(load: BrakeLoad, at_m: float) -> float:
    """Mean gradient over PICKED_OVER_M around a place of the ride; downhill positive."""
    inside = (load.distance_m[1:] > at_m - PICKED_OVER_M / 2) & (load.distance_m[:-1] < at_m + PICKED_OVER_M / 2)
    length = float(load.ds_m[inside].sum())
    return float((load.ds_m * load.gradient)[inside].sum()) / length if length > 0 else 0.0


FIRST_SECTION = Section(length_m=1000, gradient_pct=8, speed_kmh=30)
"""what a typed ride begins with, to be typed over"""


def usual_stops(ride_id: str, name: str) -> Ride:
    """Riding in town as it begins, to be typed over."""
    return stop_cycle(ride_id, name, stops=30, speed_kmh=25, every_m=300, stand_s=15)


def as_begun(ride: Ride) -> bool:
    """Whether a typed ride still has the values that it began with: nobody has said how it is ridden."""
    stops = usual_stops(ride.id, ride.name)
    return ride.sections == (FIRST_SECTION,) or (ride.sections, ride.laps) == (stops.sections, stops.laps)


def stop_cycle(ride_id: str, name: str, stops: int, speed_kmh: float, every_m: float, stand_s: float) -> Ride:
    """Stops from ``speed_kmh`` every so many metres on the level, each with its time standing: one section, ridden as
    often as there are stops."""
    section = Section(length_m=max(every_m, SHORTEST_M), gradient_pct=0.0, speed_kmh=speed_kmh, stand_s=stand_s)
    return Ride(id=ride_id, name=name, sections=(section,), laps=stops, start_elevation_m=100.0)
