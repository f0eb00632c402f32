"""From road to brake power: profiles, the speed plan, energy braked, sharing (model, section 4)."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from math import sqrt
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from clavis.core import kernels
from clavis.core.bike import LoadedBike, slope_angle
from clavis.core.errors import ProfileError, QuantityError
from clavis.core.mounts import End
from clavis.core.parameters import GRAVITY_MS2, ModelParameters
from clavis.core.units import KELVIN_AT_0_C, KMH_PER_MS

Array = NDArray[np.float64]

ROTATING_MASS_RATIO = 1.02
SPACING_M = 5.0
"""longest stretch of a planned road (model, section 4)"""
STEEPEST_OVER_M = 30.0
"""the steepest slope of a ride is held over at least this length"""
GRADIENT_LIMIT = 0.45
STANDING_MS = 0.4
"""a recorded speed below this is standing"""
STEP_ENERGY_J = 12.0
LONGEST_STEP_S = 5.0


class Style(StrEnum):
    DRAG = "drag"
    PULSE = "pulse"


class Section(BaseModel):
    """A typed stretch of road. ``corner_kmh`` is the speed of the corner at its end, if there is one."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    length_m: Annotated[float, Field(ge=10, le=100_000, allow_inf_nan=False)]
    gradient_pct: Annotated[float, Field(ge=-35, le=35, allow_inf_nan=False, description="downhill positive")]
    speed_kmh: Annotated[float, Field(ge=3, le=120, allow_inf_nan=False)]
    corner_kmh: Annotated[float, Field(ge=2, le=120, allow_inf_nan=False)] | None = None


@dataclass(frozen=True)
class Track:
    """Points along a way: distance and elevation in m, time in s (None where not recorded), all (n,)."""

    distance_m: Array
    elevation_m: Array
    time_s: Array | None

    def __post_init__(self) -> None:
        n = len(self.distance_m)
        if n < 3:
            raise ProfileError(f"the track has {n} points; at least 3 are needed")
        if len(self.elevation_m) != n or (self.time_s is not None and len(self.time_s) != n):
            raise ProfileError("distance, elevation and time differ in length")
        for name, values in (("distance", self.distance_m), ("elevation", self.elevation_m), ("time", self.time_s)):
            if values is not None and not np.all(np.isfinite(values)):
                raise ProfileError(f"the track's {name} holds a value that is not a number")
        if np.any(np.diff(self.distance_m) < 0):
            raise ProfileError("the track's distance runs backward")
        if self.distance_m[-1] - self.distance_m[0] < 20:
            raise ProfileError("the track is shorter than 20 m")


@dataclass(frozen=True)
class Road:
    """A road as n stretches: length m, gradient (rise per run, downhill positive), speed wanted m/s, all (n,);
    elevation m and greatest speed m/s at the n + 1 points."""

    ds_m: Array
    gradient: Array
    hold_ms: Array
    elevation_m: Array
    cap_ms: Array


def road_of_sections(sections: Sequence[Section], start_elevation_m: float, spacing_m: float = SPACING_M) -> Road:
    """Cut typed sections into stretches no longer than ``spacing_m``. Raises ProfileError when there are none."""
    if not sections:
        raise ProfileError("the ride has no sections yet")
    ds: list[Array] = []
    gradient: list[Array] = []
    hold: list[Array] = []
    caps: list[tuple[int, float]] = []
    count = 0
    for section in sections:
        n = max(1, int(np.ceil(section.length_m / spacing_m)))
        count += n
        ds.append(np.full(n, section.length_m / n))
        gradient.append(np.full(n, section.gradient_pct / 100))
        hold.append(np.full(n, section.speed_kmh / KMH_PER_MS))
        if section.corner_kmh is not None:
            caps.append((count, section.corner_kmh / KMH_PER_MS))
    cap = np.full(count + 1, np.inf)
    for index, speed in caps:
        cap[index] = speed
    all_ds, all_gradient = np.concatenate(ds), np.concatenate(gradient)
    sines = np.sin(np.arctan(all_gradient))
    elevation = start_elevation_m - np.concatenate([[0.0], np.cumsum(all_ds * sines)])
    return Road(all_ds, all_gradient, np.concatenate(hold), elevation, cap)


def _smooth(values: Array, sigma: float) -> Array:
    """Gaussian smoothing of evenly spaced values; ``sigma`` in samples; ends mirrored about their value."""
    if sigma < 0.3 or len(values) < 3:
        return values.copy()
    reach = min(int(np.ceil(3 * sigma)), len(values) - 1)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    before = 2 * values[0] - values[reach:0:-1]
    after = 2 * values[-1] - values[-2 : -reach - 2 : -1]
    return np.convolve(np.concatenate([before, values, after]), kernel, mode="valid")


def _even_elevation(track: Track, smoothing_m: float, spacing_m: float) -> tuple[Array, Array]:
    """Distance (even) and smoothed elevation of a track; ``smoothing_m`` is the width of the window."""
    start, end = track.distance_m[0], track.distance_m[-1]
    n = max(4, int(np.ceil((end - start) / spacing_m)))
    distance = np.linspace(0, end - start, n + 1)
    elevation = np.interp(distance, track.distance_m - start, track.elevation_m)
    return distance, _smooth(elevation, smoothing_m / 2 / (distance[1] - distance[0]))


def _gradient(elevation: Array, ds: Array) -> Array:
    sines = np.clip(-np.diff(elevation) / np.maximum(ds, 1e-9), -0.41, 0.41)
    return np.clip(sines / np.sqrt(1 - sines**2), -GRADIENT_LIMIT, GRADIENT_LIMIT)


def road_of_track(track: Track, hold_kmh: float, smoothing_m: float = 60.0, spacing_m: float = SPACING_M) -> Road:
    """A road to be planned from a track whose recorded times are not used."""
    distance, elevation = _even_elevation(track, smoothing_m, spacing_m)
    ds = np.diff(distance)
    hold = np.full(len(ds), hold_kmh / KMH_PER_MS)
    return Road(ds, _gradient(elevation, ds), hold, elevation, np.full(len(ds) + 1, np.inf))


@dataclass(frozen=True)
class Weather:
    """Air that the ride meets: °C, head wind m/s."""

    ambient_c: float = 20.0
    head_wind_ms: float = 0.0

    def pressure_pa(self, elevation_m: Array) -> Array:
        """p = 101325 (1 − 2.25577e-5 z)^5.25588, international standard atmosphere."""
        return np.asarray(101325.0 * (1.0 - 2.25577e-5 * elevation_m) ** 5.25588, dtype=np.float64)

    def density_kg_m3(self, elevation_m: Array) -> Array:
        return self.pressure_pa(elevation_m) / (kernels.GAS_CONSTANT * (self.ambient_c + KELVIN_AT_0_C))


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
        window = max(
            1,
            round(
                STEEPEST_OVER_M
                / max(
                    float(
                        np.median(
                            self.ds_m[self.ds_m > 0],
                        )
                    ),
                    0.1,
                )
            ),
        )
        if len(self.gradient) <= window:
            return max(0.0, float(np.mean(self.gradient)))
        mean = np.convolve(self.gradient, np.full(window, 1 / window), mode="valid")
        return max(0.0, float(mean.max()))

    @property
    def braked_kj(self) -> float:
        return float(self.braked_j.sum()) / 1000

    @property
    def drop_m(self) -> float:
        return float(self.elevation_m[0] - self.elevation_m[-1])


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
    theta = np.arctan(gradient)
    middle = 0.5 * (elevation[1:] + elevation[:-1])
    rho = weather.density_kg_m3(middle)
    mass, rolling_mass = bike.rolling_mass_kg, bike.rolling_mass_kg * ROTATING_MASS_RATIO
    mean = np.where(dt > 0, ds / np.maximum(dt, 1e-9), 0.0)
    rel = mean + weather.head_wind_ms
    potential = mass * GRAVITY_MS2 * ds * np.sin(theta)
    rolling = bike.rolling_ratio * mass * GRAVITY_MS2 * ds * np.cos(theta)
    air = 0.5 * rho * bike.drag_area_m2 * rel * np.abs(rel) * ds
    kinetic = 0.5 * rolling_mass * (v[:-1] ** 2 - v[1:] ** 2)
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
    brake_ms2: float | None = None,
) -> BrakeLoad:
    """The speed plan of a road and the energy braked on it.

    The ride ends rolling: the stop that follows is the target stop, which is added to the ring's peak where
    friction is judged hot. Backward pass from corners, forward pass by free rolling (model, section 4).
    ``brake_ms2`` caps the planned deceleration at what this bike reaches. In pulse style stretches are cut to
    a tenth of the braking phase.
    """
    brake = parameters.plan_brake_ms2 if brake_ms2 is None else min(parameters.plan_brake_ms2, brake_ms2)
    brake = max(brake, 0.2)
    half_band = parameters.pulse_half_band_ratio if style is Style.PULSE else 0.0
    if style is Style.PULSE:
        slowest = float(road.hold_ms.min())
        phase = 4 * half_band * slowest**2 / (2 * brake)
        road = _finer(road, max(0.25, min(SPACING_M, phase / 10)))
    theta = np.arctan(road.gradient)
    middle = 0.5 * (road.elevation_m[1:] + road.elevation_m[:-1])
    v = kernels.plan_speeds(
        road.ds_m,
        np.sin(theta),
        np.cos(theta),
        weather.density_kg_m3(middle),
        road.hold_ms,
        road.cap_ms,
        bike.rolling_mass_kg,
        bike.drag_area_m2,
        bike.rolling_ratio,
        weather.head_wind_ms,
        brake,
        half_band,
        float(road.hold_ms[0]),
    )
    dt = 2 * road.ds_m / np.maximum(v[1:] + v[:-1], 1e-6)
    return _load(bike, weather, dt, road.ds_m, v, road.gradient, road.elevation_m, recorded=False)


def _finer(road: Road, spacing_m: float) -> Road:
    parts = np.maximum(1, np.ceil(road.ds_m / spacing_m).astype(int))
    if parts.max() == 1:
        return road
    ends = np.cumsum(parts)
    cap = np.full(int(ends[-1]) + 1, np.inf)
    cap[np.concatenate([[0], ends])] = road.cap_ms
    ds = np.repeat(road.ds_m / parts, parts)
    where = np.concatenate([[0.0], np.cumsum(ds)])
    elevation = np.interp(where, np.concatenate([[0.0], np.cumsum(road.ds_m)]), road.elevation_m)
    return Road(ds, np.repeat(road.gradient, parts), np.repeat(road.hold_ms, parts), elevation, cap)


def load_of_recording(track: Track, bike: LoadedBike, weather: Weather, smoothing_m: float = 60.0) -> BrakeLoad:
    """The braking load of a track with times, at its own speed.

    Position is laid on an even second and smoothed over about ten seconds so that its noise does not turn into
    braking; standing is standing. Raises ProfileError without usable times.
    """
    if track.time_s is None:
        raise ProfileError("the track holds no times; plan its speed instead")
    time = track.time_s - track.time_s[0]
    if np.any(np.diff(time) < 0):
        raise ProfileError("the track's time runs backward")
    if time[-1] < 10:
        raise ProfileError("the track's times span less than 10 s")
    if time[-1] > 24 * 3600:
        raise ProfileError("the track's times span more than a day; cut the ride first")
    rising = np.concatenate([[True], np.diff(time) > 0])
    even = np.arange(0.0, np.floor(time[-1]) + 1.0)
    where = np.interp(even, time[rising], track.distance_m[rising] - track.distance_m[0])
    speed = np.maximum(_smooth(np.gradient(where), 5.0), 0.0)
    speed[speed < STANDING_MS] = 0.0
    if float(speed.max()) > 45:
        raise ProfileError(f"the track runs at {speed.max() * KMH_PER_MS:.0f} km/h; that is no bicycle ride")
    v = speed
    dt = np.ones(len(v) - 1)
    ds = 0.5 * (v[1:] + v[:-1]) * dt
    distance, elevation = _even_elevation(track, smoothing_m, SPACING_M)
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
        for name, value in (
            ("front share", self.front_share),
            ("third brake's share", self.third_share),
            ("regeneration's share", self.regen_share),
        ):
            if not 0 <= value <= 1:
                raise QuantityError(name, value, "0 to 1")


@dataclass(frozen=True)
class HeatSteps:
    """Integration steps of one wheel (m,): time s, friction power W, speed m/s, share of braking, force asked
    N, pressure Pa; distance at the m + 1 bounds, m; energy kept from the brakes by regeneration, J."""

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
    """The front's share of the braking per stretch (n,): the rider's own, or N_f/(m g cosθ) at the brake force of
    the stretch, never beyond all of it."""
    bike = sharing.by_axle_of
    if bike is None:
        return np.full_like(load.braked_j, sharing.front_share)
    force = np.divide(load.braked_j, load.ds_m, out=np.zeros_like(load.braked_j), where=load.ds_m > 1e-6)
    weight = bike.mass_kg * GRAVITY_MS2 * np.cos(np.arctan(load.gradient))
    front = (weight * bike.rear_to_cg_m + force * bike.cg_height_m) / bike.wheelbase_m
    return np.clip(front / weight, 0.0, 1.0)


def wheel_energy_j(load: BrakeLoad, sharing: Sharing, end: End) -> tuple[Array, Array]:
    """Energy at the friction brake of one wheel per stretch (n,), and what regeneration took, J."""
    front = front_shares(load, sharing)
    share = front if end is End.FRONT else 1 - front
    energy = load.braked_j * (1 - sharing.third_share) * share
    if sharing.regen_end is not end:
        return energy, np.zeros_like(energy)
    regen = np.minimum(energy * sharing.regen_share, sharing.regen_limit_w * load.dt_s)
    return energy - regen, regen


def heat_steps(load: BrakeLoad, sharing: Sharing, end: End, refine: int = 1) -> HeatSteps:
    """Cut a wheel's load into integration steps.

    A step is as long as the energy inside it stays within STEP_ENERGY_J of an even course, so that braking
    events and long ramps of power are both seen. ``refine`` halves the steps (2, 4 …) for checks.
    """
    energy, regen = wheel_energy_j(load, sharing, end)
    parts = np.maximum(1, np.ceil(load.dt_s / 1.0).astype(int))
    dt = np.repeat(load.dt_s / parts, parts)
    part_energy = np.repeat(energy / parts, parts)
    time = np.concatenate([[0.0], np.cumsum(dt)])
    running = np.concatenate([[0.0], np.cumsum(part_energy)])
    cuts = kernels.cut_steps(time, running, STEP_ENERGY_J, LONGEST_STEP_S)
    on = part_energy > 1.0 * dt
    ds = np.repeat(load.ds_m / parts, parts)
    way = np.concatenate([[0.0], np.cumsum(ds)])
    way_on = np.concatenate([[0.0], np.cumsum(np.where(on, ds, 0.0))])
    time_on = np.concatenate([[0.0], np.cumsum(np.where(on, dt, 0.0))])
    pressure = np.interp(time[cuts], time[1:], np.repeat(load.pressure_pa, parts))
    step = np.diff(time[cuts])
    joules = np.diff(running[cuts])
    metres_on = np.diff(way_on[cuts])
    force = np.where(metres_on > 0.05, joules / np.maximum(metres_on, 0.05), 0.0)

    def halved(values: Array) -> Array:
        return np.repeat(values, refine)

    dt_s = halved(step / refine)
    bounds = np.concatenate([[0.0], np.cumsum(dt_s)])
    return HeatSteps(
        dt_s=dt_s,
        power_w=halved(joules / step),
        speed_ms=halved(np.diff(way[cuts]) / step),
        braking=halved(np.diff(time_on[cuts]) / step),
        force_n=halved(force),
        pressure_pa=halved(0.5 * (pressure[1:] + pressure[:-1])),
        distance_m=np.interp(bounds, time, way),
        time_s=bounds,
        regen_j=float(regen.sum()),
    )


def worst_speed_ms(bike: LoadedBike, gradient: float, rho_kg_m3: float) -> float | None:
    """Steady speed at which a slope asks for most brake power: v* = √(2 m g (sinθ − C_rr cosθ)/(3 ρ C_dA)).

    None where the road does not push. At v* the air takes a third of the power.
    """
    theta = slope_angle(gradient)
    push = float(np.sin(theta)) - bike.rolling_ratio * float(np.cos(theta))
    if push <= 0:
        return None
    return sqrt(2 * bike.rolling_mass_kg * GRAVITY_MS2 * push / (3 * rho_kg_m3 * bike.drag_area_m2))


def steady_power_w(bike: LoadedBike, gradient: float, speed_ms: float, rho_kg_m3: float) -> float:
    """Brake power that holds ``speed_ms`` on a slope in still air, W; never below zero."""
    theta = slope_angle(gradient)
    push = bike.rolling_mass_kg * GRAVITY_MS2 * (float(np.sin(theta)) - bike.rolling_ratio * float(np.cos(theta)))
    return max(0.0, push * speed_ms - 0.5 * rho_kg_m3 * bike.drag_area_m2 * speed_ms**3)
