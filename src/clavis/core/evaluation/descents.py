"""The descents in a long ride: where it goes down for long enough to be a load of its own."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ProfileError
from clavis.core.evaluation.situation import Situation, load_of_ride
from clavis.core.job.document import Ride
from clavis.core.physics.road import Smoothing, Track, even_elevation

Array = NDArray[np.float64]

LEAST_DROP_M = 30.0
LEAST_GRADIENT = 0.02
"""mean gradient below which a way down is no descent: the road and the air hold the bike"""
CLIMB_BETWEEN_M = 15.0
"""a climb of this height ends a descent; a lesser one lies within it"""
FLAT_M, FLAT_DROP_M = 1000.0, 10.0
"""so much of the way that loses no more than this ends a descent as well: the brakes cool"""
SPACING_M = 10.0
HELD_OVER_M = 30.0


@dataclass(frozen=True)
class Descent:
    """A stretch of a track, m from its start, and what it asks of the brakes. ``braked_kj`` is None where it could not
    be computed."""

    from_m: float
    to_m: float
    drop_m: float
    mean: float
    steepest: float
    braked_kj: float | None = None

    @property
    def from_km(self) -> float:
        return self.from_m / 1000

    @property
    def length_km(self) -> float:
        return self.length_m / 1000

    @property
    def length_m(self) -> float:
        return self.to_m - self.from_m

    @property
    def mean_pct(self) -> float:
        return self.mean * 100

    @property
    def steepest_pct(self) -> float:
        return self.steepest * 100


def find_descents(track: Track, smoothing: Smoothing | None = None) -> list[Descent]:
    """Descents in the order ridden. A piece of the record ends one, as does a climb of CLIMB_BETWEEN_M or a flat of
    FLAT_M; level ground at either end is cut off. Only those that lose LEAST_DROP_M and fall by LEAST_GRADIENT in
    the mean are given."""
    pieces, found = track.pieces if track.starts else (track,), []
    for piece in pieces:
        offset = float(piece.distance_m[0] - track.distance_m[0])
        way, height = even_elevation(piece, smoothing or Smoothing(), SPACING_M)
        for top, bottom in _downs(way, height):
            a, b = _without_flats(way, height, top, bottom)
            drop, length = float(height[a] - height[b]), float(way[b] - way[a])
            if drop >= LEAST_DROP_M and length > 0 and drop / length >= LEAST_GRADIENT:
                steepest = _steepest(way[a : b + 1], height[a : b + 1])
                found.append(Descent(offset + float(way[a]), offset + float(way[b]), drop, drop / length, steepest))
    return found


def _downs(way: Array, height: Array) -> list[tuple[int, int]]:
    """Pairs of points, top and bottom, between which the height is lost but for lesser climbs."""
    found: list[tuple[int, int]] = []
    top = low = 0
    flat = max(1, round(FLAT_M / max(float(way[1] - way[0]), 1e-9)))
    for k in range(1, len(height)):
        if k - flat > top and height[k - flat] - height[k] < FLAT_DROP_M and height[low] >= height[k] - CLIMB_BETWEEN_M:
            last = height[k - flat : k + 1]
            found.append((top, k - flat + int(np.argmax(last <= last.min() + 1.0))))
            top = low = k
        elif height[k] < height[low]:
            low = k
        elif low > top and height[k] - height[low] > CLIMB_BETWEEN_M:
            found.append((top, low))
            top = low = k
        elif low == top and height[k] >= height[top]:
            top = low = k
    if low > top:
        found.append((top, low))
    return found


def _without_flats(way: Array, height: Array, a: int, b: int) -> tuple[int, int]:
    """Level ends, less than LEAST_GRADIENT over a hundred metres, cut off."""
    reach = max(1, round(100 / max(float(way[1] - way[0]), 1e-9)))
    while a + reach < b and height[a] - height[a + reach] < LEAST_GRADIENT * (way[a + reach] - way[a]):
        a += 1
    while b - reach > a and height[b - reach] - height[b] < LEAST_GRADIENT * (way[b] - way[b - reach]):
        b -= 1
    return a, b


def _steepest(way: Array, height: Array) -> float:
    reach = min(len(way) - 1, max(1, round(HELD_OVER_M / max(float(way[1] - way[0]), 1e-9))))
    return float(((height[:-reach] - height[reach:]) / (way[reach:] - way[:-reach])).max())


def as_ride(ride: Ride, descent: Descent, ride_id: str, name: str) -> Ride:
    """The descent as a ride of its own: the same track and speeds, its stretch only. Raises ProfileError where the ride
    has no track."""
    if ride.track_id is None:
        raise ProfileError("a typed ride is its own descent")
    start = ride.from_m or 0.0
    change: dict[str, Any] = {
        "id": ride_id,
        "name": name[:80],
        "from_m": round(start + descent.from_m, 1),
        "to_m": round(start + descent.to_m, 1),
        "laps": 1,
        "rest_min": 0.0,
    }
    return Ride.model_validate(ride.model_dump() | change)


def descents_of(ride: Ride, tracks: Mapping[str, Track], track: Track, situation: Situation) -> list[Descent]:
    """The descents in the stretch of ``track`` that a ride is, each with the energy this bike and rider brake on it."""
    out = []
    for found in find_descents(track, ride.smoothing):
        try:
            kj = load_of_ride(as_ride(ride, found, ride.id, ride.name), tracks, situation).braked_kj
        except ProfileError:
            kj = None
        out.append(replace(found, braked_kj=kj))
    return out
