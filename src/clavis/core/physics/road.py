"""Roads and tracks: typed sections, recorded points, the even stretches made of both (docs/model.md, section 4)."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from clavis.core.errors import ProfileError
from clavis.core.physics import speed_kernel
from clavis.core.physics.bike import Surface, Tread, tyre_grip
from clavis.core.sentences import say
from clavis.core.units import KMH_PER_MS

Array = NDArray[np.float64]

SPACING_M = 5.0
"""longest stretch of a planned road (docs/model.md, section 4)"""
GRADIENT_LIMIT = 0.45
LEAST_POINTS, SHORTEST_M = 3, 20.0
LONGEST_TRACK_M, LONGEST_TRACK_S = 1_000_000.0, 7 * 24 * 3600.0
"""of one recording: more is no ride but a clock or a unit that was wrong"""
LONGEST_RIDE_M, LONGEST_RIDE_S = 400_000.0, 48 * 3600.0
"""of a ride with all its laps and rests: so much is worked out in the time that somebody waits for"""
MOST_STRETCHES = 120_000
LOWEST_M, HIGHEST_M = -500.0, 9000.0
"""heights of the earth's roads, which a recording must keep to"""
DEEPEST_M, TOPMOST_M = -10_000.0, 12_000.0
"""of a typed road: its start is often a guess, and air is told well enough so far"""
STOP_MS = 0.25
"""a planned stop: the last of the speed before standing"""


class Section(BaseModel):
    """A typed stretch of road. ``corner_kmh`` is the speed of the corner at its end, if there is one; ``surface`` its
    own surface where it is not the job's."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    length_m: Annotated[float, Field(ge=10, le=100_000, allow_inf_nan=False)]
    gradient_pct: Annotated[float, Field(ge=-35, le=35, allow_inf_nan=False, description="downhill positive")]
    speed_kmh: Annotated[float, Field(ge=3, le=120, allow_inf_nan=False)]
    corner_kmh: Annotated[float, Field(ge=2, le=120, allow_inf_nan=False)] | None = None
    stand_s: Annotated[float, Field(ge=0, le=7200, allow_inf_nan=False, description="stop at its end, standing")] = 0.0
    surface: Surface | None = None


@dataclass(frozen=True)
class Track:
    """Points along a way: distance and elevation in m, time in s (None where not recorded), all (n,). ``starts`` are
    the points at which the record begins anew: what lies between two pieces was not ridden."""

    distance_m: Array
    elevation_m: Array
    time_s: Array | None
    starts: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        n = len(self.distance_m)
        if n < LEAST_POINTS:
            raise ProfileError(
                say("the track has {points:point|points}; at least {least} are needed", points=n, least=LEAST_POINTS)
            )
        if len(self.elevation_m) != n or (self.time_s is not None and len(self.time_s) != n):
            raise ProfileError("distance, elevation and time differ in length")
        for name, values in (("distance", self.distance_m), ("elevation", self.elevation_m), ("time", self.time_s)):
            if values is not None and not np.all(np.isfinite(values)):
                raise ProfileError(f"the track's {name} holds a value that is not a number")
        if np.any(np.diff(self.distance_m) < 0):
            raise ProfileError("the track's distance runs backward")
        length_m = float(self.distance_m[-1] - self.distance_m[0])
        if length_m < SHORTEST_M:
            raise ProfileError(say("the track is shorter than {least_m:g}", least_m=SHORTEST_M))
        if length_m > LONGEST_TRACK_M:
            words = "the track is {length_km:.0} long, more than the {most_km:.0} that one ride may have: see its units"
            raise ProfileError(say(words, length_km=length_m / 1000, most_km=LONGEST_TRACK_M / 1000))
        low_m, high_m = float(self.elevation_m.min()), float(self.elevation_m.max())
        if not LOWEST_M <= low_m <= high_m <= HIGHEST_M:
            wrong_m = low_m if low_m < LOWEST_M else high_m
            words = "the track lies at {wrong_m:.0} above the sea; roads lie between {low_m:.0} and {high_m:.0}"
            raise ProfileError(say(words, wrong_m=wrong_m, low_m=LOWEST_M, high_m=HIGHEST_M))
        if self.time_s is not None and float(self.time_s.max() - self.time_s.min()) > LONGEST_TRACK_S:
            words = (
                "the track’s times span {span_h:.0}, more than the {most_h:.0} that one recording may have: its clock "
                "jumps, or it holds several rides; cut it first"
            )
            span_h = float(self.time_s.max() - self.time_s.min()) / 3600
            raise ProfileError(say(words, span_h=span_h, most_h=LONGEST_TRACK_S / 3600))
        if any(not 0 < s < n for s in self.starts) or list(self.starts) != sorted(set(self.starts)):
            raise ProfileError("the track's pieces do not begin inside it, one after the other")

    @property
    def pieces(self) -> "tuple[Track, ...]":
        """The track piece by piece; those too short to ride are left out."""
        bounds = [0, *self.starts, len(self.distance_m)]
        return tuple(
            Track(self.distance_m[a:b], self.elevation_m[a:b], None if self.time_s is None else self.time_s[a:b])
            for a, b in pairwise(bounds)
            if b - a >= LEAST_POINTS and self.distance_m[b - 1] - self.distance_m[a] >= SHORTEST_M
        )

    def between(self, from_m: float, to_m: float) -> "Track":
        """The stretch of the way from one distance to another, m from the start. Raises ProfileError where little or
        nothing is left."""
        where = self.distance_m - self.distance_m[0]
        inside = np.flatnonzero((where >= from_m - 1e-6) & (where <= to_m + 1e-6))
        if len(inside) < LEAST_POINTS:
            raise ProfileError(
                say("nothing to ride lies between {from_m:.0} and {to_m:.0} of the track", from_m=from_m, to_m=to_m)
            )
        a, b = int(inside[0]), int(inside[-1]) + 1
        starts = tuple(s - a for s in self.starts if a < s < b)
        time = None if self.time_s is None else self.time_s[a:b]
        return Track(self.distance_m[a:b], self.elevation_m[a:b], time, starts)


@dataclass(frozen=True)
class Road:
    """A road as n stretches: length m, gradient (rise per run, downhill positive), speed wanted m/s, all (n,);
    elevation m, greatest speed m/s and time standing s at the n + 1 points. ``grip`` (n,) is the tyre grip of a stretch
    with a surface of its own, infinite where the job's holds; None where it does everywhere."""

    ds_m: Array
    gradient: Array
    hold_ms: Array
    elevation_m: Array
    cap_ms: Array
    stand_s: Array
    grip: Array | None = None


def road_of_sections(
    sections: Sequence[Section],
    start_elevation_m: float,
    spacing_m: float = SPACING_M,
    tread: Tread = Tread.MIXED,
) -> Road:
    """Typed sections cut into stretches.

    Parameters
    ----------
    sections : sequence of Section
        Length m, gradient %, speed km/h, with a corner or a stop at their end.
    start_elevation_m : float
        m above the sea.
    spacing_m : float
        Longest stretch, m, above 0.
    tread : Tread
        Of the tyres, for sections with a ground of their own.

    Returns
    -------
    Road
        n stretches.

    Raises
    ------
    ProfileError
        Without sections.

    >>> road = road_of_sections([Section(length_m=1000, gradient_pct=8, speed_kmh=36)], 500.0)
    >>> len(road.ds_m), round(float(road.elevation_m[-1]), 1)
    (200, 420.3)
    """
    if not sections:
        raise ProfileError("the ride has no sections yet")
    _ensure_heights(sections, start_elevation_m)
    ds: list[Array] = []
    gradient: list[Array] = []
    hold: list[Array] = []
    grip: list[Array] = []
    caps: list[tuple[int, float, float]] = []
    count = 0
    for section in sections:
        n = max(1, int(np.ceil(section.length_m / spacing_m)))
        count += n
        ds.append(np.full(n, section.length_m / n))
        gradient.append(np.full(n, section.gradient_pct / 100))
        hold.append(np.full(n, section.speed_kmh / KMH_PER_MS))
        grip.append(np.full(n, np.inf if section.surface is None else tyre_grip(section.surface, tread)))
        if section.stand_s > 0:
            caps.append((count, STOP_MS, section.stand_s))
        elif section.corner_kmh is not None:
            caps.append((count, section.corner_kmh / KMH_PER_MS, 0.0))
    cap, stand = np.full(count + 1, np.inf), np.zeros(count + 1)
    for index, speed, standing in caps:
        cap[index], stand[index] = speed, standing
    all_ds, all_gradient = np.concatenate(ds), np.concatenate(gradient)
    sines = np.sin(np.arctan(all_gradient))
    elevation = start_elevation_m - np.concatenate([[0.0], np.cumsum(all_ds * sines)])
    own = np.concatenate(grip)
    return Road(
        all_ds, all_gradient, np.concatenate(hold), elevation, cap, stand, own if np.isfinite(own).any() else None
    )


def _ensure_heights(sections: Sequence[Section], start_m: float) -> None:
    """Raises ProfileError where sections lead below the sea's floor or above all mountains."""
    falls = [s.length_m * float(np.sin(np.arctan(s.gradient_pct / 100))) for s in sections]
    heights = start_m - np.cumsum(falls)
    low_m, high_m = float(heights.min()), float(heights.max())
    if low_m < DEEPEST_M or high_m > TOPMOST_M:
        words = (
            "the ride leads from {start_m:.0} to {end_m:.0} above the sea: see lengths and gradients of its sections"
        )
        raise ProfileError(say(words, start_m=start_m, end_m=low_m if low_m < DEEPEST_M else high_m))


def ensure_ride(length_m: float, lasts_s: float = 0.0) -> None:
    """Raises ProfileError for a ride that is too long to be worked out: all its laps together m, with its rests s.

    >>> ensure_ride(500_000)
    Traceback (most recent call last):
    clavis.core.errors.ProfileError: the ride is 500\xa0km long with all its laps; at most 400\xa0km are worked out
    """
    if length_m > LONGEST_RIDE_M:
        words = "the ride is {length_km:.0} long with all its laps; at most {most_km:.0} are worked out"
        raise ProfileError(say(words, length_km=length_m / 1000, most_km=LONGEST_RIDE_M / 1000))
    if lasts_s > LONGEST_RIDE_S:
        words = "the ride lasts {lasts_h:.0} with all its laps and rests; at most {most_h:.0} are worked out"
        raise ProfileError(say(words, lasts_h=lasts_s / 3600, most_h=LONGEST_RIDE_S / 3600))


@dataclass(frozen=True)
class Smoothing:
    """How much of a recording is taken for noise: the window heights are averaged over, how well they are known (within
    that the straightest profile is taken), and the standard deviation of the window for speeds."""

    height_over_m: float = 40.0
    height_known_m: float = 0.5
    speed_over_s: float = 5.0


KINK_M = 10.0
"""standard deviation over which the bends of the straightest profile are rounded"""


def smooth(values: Array, sigma: float) -> Array:
    """Gaussian smoothing of evenly spaced values.

    Parameters
    ----------
    values : array
        (n,).
    sigma : float
        Standard deviation of the window in samples; below 0.3 nothing is smoothed.

    Returns
    -------
    array
        (n,); the ends are mirrored about their value, so that a straight line stays one.

    >>> [round(float(x), 3) for x in smooth(np.array([0.0, 1.0, 2.0, 3.0, 4.0]), 1.0)]
    [0.0, 1.0, 2.0, 3.0, 4.0]
    """
    if sigma < 0.3 or len(values) < 3:
        return values.copy()
    reach = min(int(np.ceil(3 * sigma)), len(values) - 1)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    before = 2 * values[0] - values[reach:0:-1]
    after = 2 * values[-1] - values[-2 : -reach - 2 : -1]
    return np.convolve(np.concatenate([before, values, after]), kernel, mode="valid")


def even_elevation(track: Track, smoothing: Smoothing, spacing_m: float) -> tuple[Array, Array]:
    """Height of a track at even distances, without the recorder's noise.

    A Gaussian window, then the straightest profile within what heights are known to: a wiggle smaller than that is no
    gradient.

    Parameters
    ----------
    track : Track
    smoothing : Smoothing
        Window m, how well heights are known m.
    spacing_m : float
        Wanted distance between points, m, above 0.

    Returns
    -------
    tuple of array
        Distance and elevation, m, (n + 1,) each.

    Source: docs/decisions/008-heights-are-known-to-half-a-metre.md.

    >>> way = np.arange(0.0, 201.0, 10.0)
    >>> distance, elevation = even_elevation(Track(way, 100 - 0.05 * way, None), Smoothing(), 50.0)
    >>> [round(float(z), 2) for z in elevation]
    [100.0, 97.5, 95.0, 92.5, 90.0]
    """
    start, end = track.distance_m[0], track.distance_m[-1]
    n = max(4, int(np.ceil((end - start) / spacing_m)))
    distance = np.linspace(0, end - start, n + 1)
    elevation = np.interp(distance, track.distance_m - start, track.elevation_m)
    step = float(distance[1] - distance[0])
    elevation = smooth(elevation, smoothing.height_over_m / 2 / step)
    if smoothing.height_known_m > 0:
        tight = speed_kernel.straightest(
            distance, elevation - smoothing.height_known_m, elevation + smoothing.height_known_m
        )
        elevation = smooth(tight, KINK_M / step)
    return distance, elevation


def _gradient(elevation: Array, ds: Array) -> Array:
    sines = np.clip(-np.diff(elevation) / np.maximum(ds, 1e-9), -0.41, 0.41)
    return np.clip(sines / np.sqrt(1 - sines**2), -GRADIENT_LIMIT, GRADIENT_LIMIT)


def road_of_track(track: Track, hold_kmh: float, smoothing: Smoothing | None = None) -> Road:
    """A road to be planned from a track whose recorded times are not used.

    Parameters
    ----------
    track : Track
    hold_kmh : float
        Speed wanted everywhere, km/h, above 0.
    smoothing : Smoothing or None
        The usual one where None.

    Returns
    -------
    Road

    >>> way = np.arange(0.0, 201.0, 10.0)
    >>> road = road_of_track(Track(way, 100 - 0.05 * way, None), 36.0)
    >>> round(float(road.gradient.mean()), 3), float(road.hold_ms[0])
    (0.05, 10.0)
    """
    distance, elevation = even_elevation(track, smoothing or Smoothing(), SPACING_M)
    ds = np.diff(distance)
    hold = np.full(len(ds), hold_kmh / KMH_PER_MS)
    return Road(ds, _gradient(elevation, ds), hold, elevation, np.full(len(ds) + 1, np.inf), np.zeros(len(ds) + 1))


def finer(road: Road, spacing_m: float) -> Road:
    """The same road in stretches no longer than ``spacing_m``; corners and stops stay at their places.

    >>> road = road_of_sections([Section(length_m=1000, gradient_pct=8, speed_kmh=36)], 500.0)
    >>> len(road.ds_m), len(finer(road, 1.0).ds_m)
    (200, 1000)
    """
    parts = np.maximum(1, np.ceil(road.ds_m / spacing_m).astype(int))
    if parts.max() == 1:
        return road
    if int(parts.sum()) > MOST_STRETCHES:
        length_km = float(road.ds_m.sum()) / 1000
        raise ProfileError(
            say("{length_km:.0} are too long for braking in pulses: plan it in shorter rides", length_km=length_km)
        )
    ends = np.cumsum(parts)
    at = np.concatenate([[0], ends])
    cap, stand = np.full(int(ends[-1]) + 1, np.inf), np.zeros(int(ends[-1]) + 1)
    cap[at], stand[at] = road.cap_ms, road.stand_s
    ds = np.repeat(road.ds_m / parts, parts)
    where = np.concatenate([[0.0], np.cumsum(ds)])
    elevation = np.interp(where, np.concatenate([[0.0], np.cumsum(road.ds_m)]), road.elevation_m)
    grip = None if road.grip is None else np.repeat(road.grip, parts)
    return Road(ds, np.repeat(road.gradient, parts), np.repeat(road.hold_ms, parts), elevation, cap, stand, grip)
