"""From road to brake power: the speed plan, energy braked, laps, sharing (docs/model.md, section 4)."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from itertools import pairwise
from math import ceil, inf, sqrt
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ProfileError, ensure
from clavis.core.parameters import GAS_CONSTANT_J_KGK, GRAVITY_MS2, SEA_LEVEL_PA, ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.physics import speed_kernel
from clavis.core.physics.bike import LoadedBike, slope_angle
from clavis.core.physics.road import SPACING_M, Road, Smoothing, Track, ensure_ride, even_elevation, finer, smooth
from clavis.core.physics.speed_kernel import ROTATING_MASS_RATIO, Resistance, SpeedWish, Stretches
from clavis.core.sentences import say
from clavis.core.units import KELVIN_AT_0_C, KMH_PER_MS

Array = NDArray[np.float64]

STEEPEST_OVER_M = 30.0
"""the steepest slope of a ride is held over at least this length"""
STANDING_MS = 0.4
"""a recorded speed below this is standing"""
STEP_ENERGY_J = 12.0
LEAST_BRAKE_MS2 = 0.2
"""a bike that hardly brakes is still planned to slow before a corner"""
LONGEST_STEP_S = 5.0
LEAST_WAY_M = 0.05
"""a stretch shorter than this tells no force"""
REACH_EVERY = 0.04
"""gradients at which the most force is asked for; between them it is as good as straight"""

MostForce = Callable[[float, float], float]
"""The most brake force N on ground of a grip (infinite: the job's own) at a gradient, rise over run."""


class Style(StrEnum):
    DRAG = "drag"
    PULSE = "pulse"


@dataclass(frozen=True)
class Weather:
    """Air that the ride meets: °C, head wind m/s."""

    ambient_c: float = 20.0
    head_wind_ms: float = 0.0

    def pressure_pa(self, elevation_m: Array) -> Array:
        """p = 101325 (1 − 2.25577e-5 z)^5.25588, international standard atmosphere."""
        return np.asarray(SEA_LEVEL_PA * (1.0 - 2.25577e-5 * elevation_m) ** 5.25588, dtype=np.float64)

    def density_kg_m3(self, elevation_m: Array) -> Array:
        return self.pressure_pa(elevation_m) / (GAS_CONSTANT_J_KGK * (self.ambient_c + KELVIN_AT_0_C))


@dataclass(frozen=True)
class BrakeLoad:
    """A ride as a braking load. Per stretch (n,): time s, length m, mean speed m/s, gradient, energy braked
    by all brakes together J, pressure Pa; at points (n + 1,): distance m, elevation m, time s, speed m/s.

    ``budget_j`` accounts for everything: potential, kinetic given up, pedalled in; air, rolling, braked.
    """

    dt_s: Array
    ds_m: Array
    mean_ms: Array
    gradient: Array
    braked_j: Array
    pressure_pa: Array
    distance_m: Array
    elevation_m: Array
    time_s: Array
    speed_ms: Array
    budget_j: dict[str, float]
    recorded: bool

    @property
    def power_w(self) -> Array:
        return self.braked_j / self.dt_s

    @cached_property
    def steepest(self) -> float:
        """Steepest downhill gradient held over STEEPEST_OVER_M, never below zero."""
        ridden = self.ds_m[self.ds_m > 0]
        if not len(ridden):
            return 0.0
        spacing = max(float(np.median(ridden)), 0.1)
        window = max(1, round(STEEPEST_OVER_M / spacing))
        if len(self.gradient) <= window:
            return max(0.0, float(np.mean(self.gradient)))
        mean = np.convolve(self.gradient, np.full(window, 1 / window), mode="valid")
        return max(0.0, float(mean.max()))

    @property
    def braked_kj(self) -> float:
        return float(self.braked_j.sum()) / 1000

    @property
    def drop_m(self) -> float:
        """Height lost on the way ridden, climbs taken off; what a lift gives back is not."""
        return float((self.ds_m * np.sin(np.arctan(self.gradient))).sum())


def _of_mass(bike: LoadedBike, ds: Array, gradient: Array, v: Array) -> tuple[Array, Array, Array]:
    """What goes with mass along stretches, J: height given up, rolling, speed given up."""
    theta, mass = np.arctan(gradient), bike.rolling_mass_kg
    potential = mass * GRAVITY_MS2 * ds * np.sin(theta)
    rolling = bike.rolling_ratio * mass * GRAVITY_MS2 * ds * np.cos(theta)
    kinetic = 0.5 * mass * ROTATING_MASS_RATIO * (v[:-1] ** 2 - v[1:] ** 2)
    return potential, rolling, kinetic


def _air_j(bike: LoadedBike, weather: Weather, rho_kg_m3: Array, mean_ms: Array, ds: Array) -> Array:
    against = mean_ms + weather.head_wind_ms
    return np.asarray(0.5 * rho_kg_m3 * bike.drag_area_m2 * against * np.abs(against) * ds, dtype=np.float64)


def _load(
    bike: LoadedBike,
    weather: Weather,
    dt: Array,
    ds: Array,
    v: Array,
    gradient: Array,
    elevation: Array,
    recorded: bool,
) -> BrakeLoad:
    middle = 0.5 * (elevation[1:] + elevation[:-1])
    mean = np.where(dt > 0, ds / np.maximum(dt, 1e-9), 0.0)
    potential, rolling, kinetic = _of_mass(bike, ds, gradient, v)
    air = _air_j(bike, weather, weather.density_kg_m3(middle), mean, ds)
    surplus = potential + kinetic - rolling - air
    braked = np.maximum(surplus, 0.0)
    budget = {
        "potential": float(potential.sum()),
        "kinetic": float(kinetic.sum()),
        "pedalled": float(-np.minimum(surplus, 0.0).sum()),
        "air": float(air.sum()),
        "rolling": float(rolling.sum()),
        "braked": float(braked.sum()),
    }
    return BrakeLoad(
        dt,
        ds,
        mean,
        gradient,
        braked,
        weather.pressure_pa(middle),
        np.concatenate([[0.0], np.cumsum(ds)]),
        elevation,
        np.concatenate([[0.0], np.cumsum(dt)]),
        v,
        budget,
        recorded,
    )


def plan_ride(
    road: Road,
    bike: LoadedBike,
    weather: Weather,
    style: Style,
    parameters: ModelParameters,
    most_force_n: MostForce | None = None,
) -> BrakeLoad:
    """The speeds of a planned ride, and the energy braked on it.

    Backward pass from corners and stops, forward pass by free rolling: m_e dv/dt = m g sinθ − C_rr m g cosθ − ½ ρ
    C_dA v². The ride ends rolling: the stop that follows is the target stop, which is added to the rotor's peak where
    friction is judged hot. In pulse style stretches are cut to a tenth of a braking phase.

    Parameters
    ----------
    road : Road
    bike : LoadedBike
    weather : Weather
        °C, head wind m/s.
    style : Style
        Drag or pulse.
    parameters : ModelParameters
        Planned deceleration m/s², half width of the pulse's band.
    most_force_n : MostForce or None
        What ground, brake and rider reach at most: on no stretch is braked harder than it leaves after the slope,
        F/m_e − g sinθ.

    Returns
    -------
    BrakeLoad
        Along the way; energies in J.

    Source: Martin and others, Validation of a mathematical model for road cycling power, Journal of Applied
    Biomechanics 14 (1998), 276–291; docs/model.md, section 4.

    >>> from clavis.core.physics.samples import BIKE, ROAD
    >>> load = plan_ride(ROAD, BIKE, Weather(20), Style.DRAG, ModelParameters())
    >>> round(load.braked_kj, 1), round(load.drop_m, 1)
    (35.7, 79.7)
    """
    half_band = parameters.pulse_half_band_ratio if style is Style.PULSE else 0.0
    if style is Style.PULSE:
        slowest = float(road.hold_ms.min())
        phase = 4 * half_band * slowest**2 / (2 * parameters.plan_brake_ms2)
        road = finer(road, max(0.25, min(SPACING_M, phase / 10)))
    brake = _brake_along(road, bike, parameters.plan_brake_ms2, most_force_n)
    theta = np.arctan(road.gradient)
    middle = 0.5 * (road.elevation_m[1:] + road.elevation_m[:-1])
    v = speed_kernel.plan_speeds(
        Stretches(road.ds_m, np.sin(theta), np.cos(theta), weather.density_kg_m3(middle)),
        SpeedWish(road.hold_ms, road.cap_ms, brake, parameters.pedalled_ms2, half_band),
        Resistance(
            float(bike.rolling_mass_kg),
            float(bike.drag_area_m2),
            float(bike.rolling_ratio),
            float(weather.head_wind_ms),
        ),
    )
    dt = 2 * road.ds_m / np.maximum(v[1:] + v[:-1], 1e-6)
    load = _load(bike, weather, dt, road.ds_m, v, road.gradient, road.elevation_m, recorded=False)
    stops = np.flatnonzero(road.stand_s)
    return _with_standing(load, stops, road.stand_s[stops]) if len(stops) else load


def _brake_along(road: Road, bike: LoadedBike, brake_ms2: float, most_force_n: MostForce | None) -> Array:
    """Deceleration braked at on each stretch, m/s² (n,). Uphill no more is asked for than is reached on the flat."""
    wanted = np.full(len(road.ds_m), brake_ms2)
    if most_force_n is None:
        return wanted
    slope = np.maximum(road.gradient, 0.0)
    knots = REACH_EVERY * np.arange(ceil(float(slope.max()) / REACH_EVERY) + 1)
    grip = np.full(len(slope), inf) if road.grip is None else road.grip
    force = np.empty(len(slope))
    for ground in np.unique(grip):
        on_it = grip == ground
        force[on_it] = np.interp(slope[on_it], knots, [most_force_n(float(ground), float(g)) for g in knots])
    reached = force / bike.rolling_mass_kg - GRAVITY_MS2 * np.sin(np.arctan(slope))
    return np.asarray(np.clip(reached, LEAST_BRAKE_MS2, wanted), dtype=np.float64)


def _with_standing(load: BrakeLoad, points: NDArray[np.int64], stand_s: Array) -> BrakeLoad:
    """Time standing put in at some points of the way: nothing braked, nothing ridden."""

    def rows(values: Array, fill: Array | float) -> Array:
        return np.insert(values, points, fill)

    dt = rows(load.dt_s, stand_s)
    pressure = load.pressure_pa[np.clip(points, 0, len(load.pressure_pa) - 1)]
    return replace(
        load,
        dt_s=dt,
        ds_m=rows(load.ds_m, 0.0),
        mean_ms=rows(load.mean_ms, 0.0),
        gradient=rows(load.gradient, 0.0),
        braked_j=rows(load.braked_j, 0.0),
        pressure_pa=rows(load.pressure_pa, pressure),
        distance_m=rows(load.distance_m, load.distance_m[points]),
        elevation_m=rows(load.elevation_m, load.elevation_m[points]),
        time_s=np.concatenate([[0.0], np.cumsum(dt)]),
        speed_ms=rows(load.speed_ms, load.speed_ms[points]),
    )


def rested(load: BrakeLoad, stops: int, rest_s: float) -> BrakeLoad:
    """A load with stops to cool, standing, after equal shares of what is braked.

    Parameters
    ----------
    load : BrakeLoad
    stops : int
        How many, 1 or more.
    rest_s : float
        How long each, s.

    Returns
    -------
    BrakeLoad
        Longer by stops × rest_s, otherwise the same.

    >>> from clavis.core.physics.samples import LOAD
    >>> round(float(rested(LOAD, 2, 60.0).time_s[-1] - LOAD.time_s[-1]))
    120
    """
    running = np.cumsum(load.braked_j)
    shares = running[-1] * np.arange(1, stops + 1) / (stops + 1)
    points = np.searchsorted(running, shares).astype(np.int64) + 1
    return _with_standing(load, points, np.full(stops, rest_s))


LEAST_REST_S = 0.5


def joined(loads: Sequence[BrakeLoad], rests_s: Sequence[float]) -> BrakeLoad:
    """Loads one after the other, with rests between.

    Parameters
    ----------
    loads : sequence of BrakeLoad
    rests_s : sequence of float
        One fewer than loads, s: standing, nothing braked. The height may differ from the end of one to the start of the
        next: a lift, a car, or the way back up.

    Returns
    -------
    BrakeLoad

    >>> from clavis.core.physics.samples import LOAD
    >>> round(joined([LOAD, LOAD], [30.0]).braked_kj / LOAD.braked_kj)
    2
    """
    ensure_ride(sum(float(o.distance_m[-1]) for o in loads), sum(float(o.time_s[-1]) for o in loads) + sum(rests_s))
    if len(loads) == 1:
        return loads[0]
    rows: dict[str, list[Array]] = {n: [] for n in ("dt_s", "ds_m", "mean_ms", "gradient", "braked_j", "pressure_pa")}
    points: dict[str, list[Array]] = {n: [] for n in ("elevation_m", "speed_ms")}
    for k, load in enumerate(loads):
        if k:
            for name, value in (("dt_s", max(rests_s[k - 1], LEAST_REST_S)), ("pressure_pa", load.pressure_pa[0])):
                rows[name].append(np.array([value]))
            for name in ("ds_m", "mean_ms", "gradient", "braked_j"):
                rows[name].append(np.zeros(1))
        for name, parts in (*rows.items(), *points.items()):
            parts.append(getattr(load, name))
    flat = {name: np.concatenate(parts) for name, parts in (*rows.items(), *points.items())}
    budget = {key: sum(load.budget_j[key] for load in loads) for key in loads[0].budget_j}
    return BrakeLoad(
        **flat,
        distance_m=np.concatenate([[0.0], np.cumsum(flat["ds_m"])]),
        time_s=np.concatenate([[0.0], np.cumsum(flat["dt_s"])]),
        budget_j=budget,
        recorded=loads[0].recorded,
    )


def load_of_recording(
    track: Track,
    bike: LoadedBike,
    weather: Weather,
    smoothing: Smoothing | None = None,
) -> BrakeLoad:
    """The braking load of a track with times, at its own speed, piece by piece.

    Position is laid on an even second and smoothed, so that its noise does not turn into braking; standing is
    standing, and what lies between two pieces is a rest.

    Parameters
    ----------
    track : Track
        With times s.
    bike : LoadedBike
    weather : Weather
    smoothing : Smoothing or None
        The usual one where None.

    Returns
    -------
    BrakeLoad
        What gravity and speed give less air and rolling: braked, or pedalled where it is below zero.

    Raises
    ------
    ProfileError
        Without usable times.

    Source: Martin and others, Validation of a mathematical model for road cycling power, Journal of Applied
    Biomechanics 14 (1998), 276–291; docs/model.md, section 4.

    >>> time = np.arange(0.0, 61.0)
    >>> track = Track(10.0 * time, 500.0 - 0.8 * time, time)
    >>> load = load_of_recording(track, LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345), Weather(20))
    >>> round(load.braked_kj, 1)
    21.6
    """
    if track.time_s is None:
        raise ProfileError("the track holds no times; plan its speed instead")
    smoothing = smoothing or Smoothing()
    if not track.starts:
        return _piece_load(track, bike, weather, smoothing)
    pieces = [p for p in track.pieces if p.time_s is not None and p.time_s[-1] - p.time_s[0] >= SHORTEST_S]
    if not pieces:
        raise ProfileError("every piece of the track is too short to ride")
    rests = [
        float(b.time_s[0] - a.time_s[-1]) for a, b in pairwise(pieces) if a.time_s is not None and b.time_s is not None
    ]
    return joined([_piece_load(p, bike, weather, smoothing) for p in pieces], rests)


SHORTEST_S = 10.0


def _piece_load(track: Track, bike: LoadedBike, weather: Weather, smoothing: Smoothing) -> BrakeLoad:
    if track.time_s is None:
        raise ProfileError("the track holds no times; plan its speed instead")
    time = track.time_s - track.time_s[0]
    if np.any(np.diff(time) < 0):
        raise ProfileError("the track's time runs backward")
    if time[-1] < SHORTEST_S:
        raise ProfileError(say("the track's times span less than {least_s:g}", least_s=SHORTEST_S))
    if time[-1] > 24 * 3600:
        raise ProfileError("the track's times span more than a day; cut the ride first")
    rising = np.concatenate([[True], np.diff(time) > 0])
    even = np.arange(0.0, np.floor(time[-1]) + 1.0)
    where = np.interp(even, time[rising], track.distance_m[rising] - track.distance_m[0])
    speed = np.maximum(smooth(np.gradient(where), smoothing.speed_over_s), 0.0)
    speed[speed < STANDING_MS] = 0.0
    if float(speed.max()) > 45:
        top = float(speed.max()) * KMH_PER_MS
        raise ProfileError(say("the track runs at {top_kmh:.0}; that is no bicycle ride", top_kmh=top))
    v = speed
    dt = np.ones(len(v) - 1)
    ds = 0.5 * (v[1:] + v[:-1]) * dt
    distance, elevation = even_elevation(track, smoothing, SPACING_M)
    way = np.concatenate([[0.0], np.cumsum(ds)])
    way_in_track = way * (distance[-1] / max(way[-1], 1e-9)) if way[-1] > 0 else way
    height = np.interp(way_in_track, distance, elevation)
    sines = np.where(ds > 1e-6, -np.diff(height) / np.maximum(ds, 1e-6), 0.0)
    sines = np.clip(sines, -0.41, 0.41)
    return _load(bike, weather, dt, ds, v, sines / np.sqrt(1 - sines**2), height, recorded=True)


@dataclass(frozen=True)
class Sharing:
    """Who brakes: a third brake first, then front and rear by the rider's share or, with ``by_axle_of``, by the axle
    loads of that bike while it brakes; regeneration from its wheel."""

    front_share: float = 0.55
    by_axle_of: LoadedBike | None = None
    third_share: float = 0.0
    regen_end: End | None = None
    regen_share: float = 0.0
    regen_limit_w: float = 0.0

    def __post_init__(self) -> None:
        ensure("front share", 0, 100, front_pct=100 * self.front_share)
        ensure("third brake's share", 0, 100, third_pct=100 * self.third_share)
        ensure("regeneration's share", 0, 100, regen_pct=100 * self.regen_share)


@dataclass(frozen=True)
class HeatSteps:
    """Integration steps of one wheel (m,): time s, friction power W, speed m/s, share of braking, the most force
    asked inside it N, pressure Pa; distance at the m + 1 bounds, m; energy kept from the brakes by regeneration, J."""

    dt_s: Array
    power_w: Array
    speed_ms: Array
    braking: Array
    force_n: Array
    pressure_pa: Array
    distance_m: Array
    time_s: Array
    regen_j: float

    @property
    def energy_kj(self) -> float:
        return float((self.power_w * self.dt_s).sum()) / 1000


def front_shares(load: BrakeLoad, sharing: Sharing) -> Array:
    """The front's share of the braking along the way: the rider's own, or N_f/(m g cosθ) at the brake force of the
    stretch.

    Parameters
    ----------
    load : BrakeLoad
    sharing : Sharing

    Returns
    -------
    array
        0 to 1, (n,).

    >>> from clavis.core.physics.samples import LOAD
    >>> float(front_shares(LOAD, Sharing(front_share=0.55))[0])
    0.55
    """
    bike = sharing.by_axle_of
    if bike is None:
        return np.full_like(load.braked_j, sharing.front_share)
    force = np.divide(load.braked_j, load.ds_m, out=np.zeros_like(load.braked_j), where=load.ds_m > 1e-6)
    weight = bike.mass_kg * GRAVITY_MS2 * np.cos(np.arctan(load.gradient))
    front = (weight * bike.rear_to_cg_m + force * bike.cg_height_m) / bike.wheelbase_m
    return np.clip(front / weight, 0.0, 1.0)


def wheel_energy_j(load: BrakeLoad, sharing: Sharing, end: End) -> tuple[Array, Array]:
    """Energy at the friction brake of one wheel along the way.

    Parameters
    ----------
    load : BrakeLoad
    sharing : Sharing
        A third brake takes its share first; regeneration takes its share of its wheel's, up to its power.
    end : End

    Returns
    -------
    tuple of array
        Braked by friction and taken by regeneration, J, (n,) each.

    >>> from clavis.core.physics.samples import LOAD
    >>> round(float(wheel_energy_j(LOAD, Sharing(front_share=0.55), End.FRONT)[0].sum()) / 1000, 2)
    19.65
    """
    front = front_shares(load, sharing)
    share = front if end is End.FRONT else 1 - front
    energy = load.braked_j * (1 - sharing.third_share) * share
    if sharing.regen_end is not end:
        return energy, np.zeros_like(energy)
    regen = np.minimum(energy * sharing.regen_share, sharing.regen_limit_w * load.dt_s)
    return energy - regen, regen


class LoadDraws(NamedTuple):
    """What is drawn of a ride, (n,) each: ratios to masses, drag area and speed as stated, and what is added to the
    front's share."""

    mass: Array
    drag_area: Array
    speed: Array
    front_share: Array


def drawn_energy_j(
    load: BrakeLoad, bike: LoadedBike, weather: Weather, sharing: Sharing, end: End, draws: LoadDraws, at_s: Array
) -> Array:
    """Energy at the friction brake of one wheel between some times of a ride, for draws of masses, drag area, speed
    and sharing.

    m (height − rolling) + m s² (speed given up) − c ½ ρ C_dA (s v + w)|s v + w| ds where it is above zero, for the
    stated ride ridden s times as fast along the same way.

    Parameters
    ----------
    load : BrakeLoad
    bike : LoadedBike
    weather : Weather
    sharing : Sharing
    end : End
    draws : LoadDraws
        n of them.
    at_s : array
        Times of the stated ride, s, (m + 1,).

    Returns
    -------
    array
        J, (m, n).

    Source: the energies of ``_load``.

    >>> from clavis.core.physics.samples import BIKE, LOAD, STEPS
    >>> one = np.ones(2)
    >>> sharing, times = Sharing(front_share=0.55), STEPS.time_s
    >>> draws = LoadDraws(one, one, np.array([1.0, 1.1]), 0 * one)
    >>> drawn = drawn_energy_j(LOAD, BIKE, Weather(20), sharing, End.FRONT, draws, times)
    >>> (drawn.sum(axis=0) / 1000).round(2).tolist(), round(STEPS.energy_kj, 2)
    ([19.65, 16.36], 19.65)
    """
    potential, rolling, kinetic = _of_mass(bike, load.ds_m, load.gradient, load.speed_ms)
    kept = load.ds_m > 0
    rho = load.pressure_pa / (GAS_CONSTANT_J_KGK * (weather.ambient_c + KELVIN_AT_0_C))
    front = front_shares(load, sharing)
    out = np.empty((len(at_s) - 1, len(draws.mass)))
    for k in range(len(draws.mass)):
        faster = float(draws.speed[k])
        air = draws.drag_area[k] * _air_j(bike, weather, rho, faster * load.mean_ms, load.ds_m)
        surplus = draws.mass[k] * (potential - rolling + faster**2 * kinetic) - air
        braked = np.where(kept, np.maximum(surplus, 0.0), 0.0) * (1 - sharing.third_share)
        share = np.clip(front + draws.front_share[k], 0.0, 1.0)
        energy = braked * (share if end is End.FRONT else 1 - share)
        if sharing.regen_end is end:
            energy -= np.minimum(energy * sharing.regen_share, sharing.regen_limit_w * load.dt_s / faster)
        running = np.concatenate([[0.0], np.cumsum(energy)])
        out[:, k] = np.diff(np.interp(at_s, load.time_s, running))
    return out


STEEPEST_MINUTE_S = 60.0


def steepest_minute_n(load: BrakeLoad, bike: LoadedBike, weather: Weather, sharing: Sharing, end: End) -> float:
    """The force by which one wheel holds the bike at its speed over the steepest minute of a ride.

    m g (sinθ − C_rr cosθ) − ½ ρ C_dA (v + w)|v + w| over the way of that minute, and this wheel's share of what is
    braked on it. Slowing for a corner is no drag and does not count; standing is left out.

    Parameters
    ----------
    load : BrakeLoad
    bike : LoadedBike
    weather : Weather
        °C, head wind m/s.
    sharing : Sharing
    end : End

    Returns
    -------
    float
        N, 0 or more; of the whole ride where it is shorter than a minute.

    Source: even speed; Wilson and Schmidt, Bicycling Science, 4th ed., MIT Press 2020, chapter 4 (power and speed).

    >>> from clavis.core.physics.samples import BIKE, LOAD
    >>> round(steepest_minute_n(LOAD, BIKE, Weather(20), Sharing(front_share=0.55), End.FRONT), 1)
    19.7
    """
    rides = load.ds_m > 0
    if not rides.any():
        return 0.0
    dt, ds, theta = load.dt_s[rides], load.ds_m[rides], np.arctan(load.gradient[rides])
    against = load.mean_ms[rides] + weather.head_wind_ms
    rho = load.pressure_pa[rides] / (GAS_CONSTANT_J_KGK * (weather.ambient_c + KELVIN_AT_0_C))
    held = bike.rolling_mass_kg * GRAVITY_MS2 * (np.sin(theta) - bike.rolling_ratio * np.cos(theta))
    held -= 0.5 * rho * bike.drag_area_m2 * against * np.abs(against)
    wheel_j = wheel_energy_j(load, sharing, end)[0][rides]
    clock = np.concatenate([[0.0], np.cumsum(dt)])
    first = clock[clock + STEEPEST_MINUTE_S <= clock[-1]]
    last = first + STEEPEST_MINUTE_S
    if not len(first):
        first, last = clock[:1], clock[-1:]

    def within(amount: Array) -> Array:
        running = np.concatenate([[0.0], np.cumsum(amount)])
        return np.asarray(np.interp(last, clock, running) - np.interp(first, clock, running))

    way, braked_j = within(ds), within(load.braked_j[rides])
    k = int((within(ds * np.sin(theta)) / way).argmax())
    share = within(wheel_j)[k] / braked_j[k] if braked_j[k] > 0 else 0.0
    return max(0.0, float(within(held * ds)[k] / way[k] * share))


def heat_steps(load: BrakeLoad, sharing: Sharing, end: End, refine: int = 1) -> HeatSteps:
    """A wheel's load cut into steps for the heat balance.

    A step is as long as the energy inside it stays within STEP_ENERGY_J of an even course, so that single brakings
    and long ramps of power are both seen.

    Parameters
    ----------
    load : BrakeLoad
    sharing : Sharing
    end : End
    refine : int
        Halves the steps (2, 4 …), to check that they are short enough.

    Returns
    -------
    HeatSteps
        (m,); the energy is that of the load.

    >>> from clavis.core.physics.samples import LOAD
    >>> steps = heat_steps(LOAD, Sharing(front_share=0.55), End.FRONT)
    >>> len(steps.dt_s), round(steps.energy_kj, 2)
    (26, 19.65)
    """
    energy, regen = wheel_energy_j(load, sharing, end)
    parts = np.maximum(1, np.ceil(load.dt_s / 1.0).astype(int))
    dt = np.repeat(load.dt_s / parts, parts)
    part_energy = np.repeat(energy / parts, parts)
    time = np.concatenate([[0.0], np.cumsum(dt)])
    running = np.concatenate([[0.0], np.cumsum(part_energy)])
    cuts = speed_kernel.cut_steps(time, running, STEP_ENERGY_J, LONGEST_STEP_S)
    on = part_energy > 1.0 * dt
    ds = np.repeat(load.ds_m / parts, parts)
    way = np.concatenate([[0.0], np.cumsum(ds)])
    time_on = np.concatenate([[0.0], np.cumsum(np.where(on, dt, 0.0))])
    pressure = np.interp(time[cuts], time[1:], np.repeat(load.pressure_pa, parts))
    step = np.diff(time[cuts])
    joules = np.diff(running[cuts])
    force = np.divide(part_energy, ds, out=np.zeros_like(ds), where=on & (ds > LEAST_WAY_M))
    most_force = np.maximum.reduceat(force, cuts[:-1]) if len(force) else force

    def halved(values: Array) -> Array:
        return np.repeat(values, refine)

    dt_s = halved(step / refine)
    bounds = np.concatenate([[0.0], np.cumsum(dt_s)])
    return HeatSteps(
        dt_s=dt_s,
        power_w=halved(joules / step),
        speed_ms=halved(np.diff(way[cuts]) / step),
        braking=halved(np.diff(time_on[cuts]) / step),
        force_n=halved(most_force),
        pressure_pa=halved(0.5 * (pressure[1:] + pressure[:-1])),
        distance_m=np.interp(bounds, time, way),
        time_s=bounds,
        regen_j=float(regen.sum()),
    )


def worst_speed_ms(bike: LoadedBike, gradient: float, rho_kg_m3: float) -> float | None:
    """Steady speed at which a slope asks for most brake power: v* = √(2 m g (sinθ − C_rr cosθ)/(3 ρ C_dA)).

    Parameters
    ----------
    bike : LoadedBike
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.
    rho_kg_m3 : float
        Air density, kg/m³, above 0.

    Returns
    -------
    float or None
        m/s; None where the road does not push. At v* the air takes a third of the power.

    Source: the maximum over v of ``steady_power_w``.

    >>> from clavis.core.physics.samples import BIKE
    >>> round(worst_speed_ms(BIKE, 0.10, 1.2), 2)
    9.53
    """
    theta = slope_angle(gradient)
    push = float(np.sin(theta)) - bike.rolling_ratio * float(np.cos(theta))
    if push <= 0:
        return None
    return sqrt(2 * bike.rolling_mass_kg * GRAVITY_MS2 * push / (3 * rho_kg_m3 * bike.drag_area_m2))


def steady_power_w(bike: LoadedBike, gradient: float, speed_ms: float, rho_kg_m3: float) -> float:
    """Brake power that holds a speed on a slope in still air: m g (sinθ − C_rr cosθ) v − ½ ρ C_dA v³.

    Parameters
    ----------
    bike : LoadedBike
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.
    speed_ms : float
        m/s, 0 or more.
    rho_kg_m3 : float
        Air density, kg/m³, above 0.

    Returns
    -------
    float
        W; never below zero.

    Source: Martin and others, Validation of a mathematical model for road cycling power, Journal of Applied
    Biomechanics 14 (1998), 276–291.

    >>> from clavis.core.physics.samples import BIKE
    >>> round(steady_power_w(BIKE, 0.10, 10.0, 1.2))
    517
    """
    theta = slope_angle(gradient)
    push = bike.rolling_mass_kg * GRAVITY_MS2 * (float(np.sin(theta)) - bike.rolling_ratio * float(np.cos(theta)))
    return max(0.0, push * speed_ms - 0.5 * rho_kg_m3 * bike.drag_area_m2 * speed_ms**3)
