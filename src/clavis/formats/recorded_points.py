"""Points of a recorded ride as they stand in its file, whatever kind of file it is."""

import math
from dataclasses import dataclass, field

import numpy as np

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import RawTrack
from clavis.core.physics.road import HIGHEST_M, LOWEST_M
from clavis.formats import csv_table
from clavis.formats.tracks import MOST_POINTS


def ensure_room(points: int) -> None:
    """Raises ProfileError where a file that holds so many points has one more."""
    if points >= MOST_POINTS:
        raise ProfileError(f"the track has more than {MOST_POINTS:,} points; cut it first")


@dataclass
class Points:
    """Points of a file as they are read: latitude and longitude, degrees, distance and elevation, m, and time, s; NaN
    where a point has no value. And where its pieces begin."""

    rows: list[tuple[float, float, float, float, float]] = field(default_factory=list)
    starts: list[int] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.rows)

    def add(self, lat: float, lon: float, distance_m: float, elevation_m: float, time_s: float) -> None:
        """Raises ProfileError where there are too many."""
        ensure_room(len(self.rows))
        self.rows.append((lat, lon, distance_m, elevation_m, time_s))

    def begin_piece(self) -> None:
        """What comes next was recorded after a stop of the recorder."""
        if len(self) and (not self.starts or self.starts[-1] != len(self)):
            self.starts.append(len(self))

    def raw(self) -> RawTrack:
        """By positions, or by the file's own distances where more points have those; points without are left out."""
        lat, lon, distance, elevation, time = np.array(self.rows, dtype=np.float64).reshape(-1, 5).T
        placed = np.isfinite(lat) & np.isfinite(lon)
        by_distance = np.isfinite(distance)
        use_distance = by_distance.sum() > placed.sum()
        keep = by_distance if use_distance else placed
        if len(keep) and not keep.any():
            raise ProfileError("the file holds neither positions nor distances")
        places = np.cumsum(keep) - keep
        starts = tuple(sorted({int(places[s]) for s in self.starts if s < len(keep)} - {0, int(keep.sum())}))
        return RawTrack(
            elevation[keep],
            None if use_distance else lat[keep],
            None if use_distance else lon[keep],
            distance[keep] if use_distance else None,
            time[keep],
            starts,
        )


def height_m(text: str, place: str) -> float:
    """An elevation as it was written, m. Raises ProfileError with its place."""
    try:
        height = float(text)
    except ValueError:
        raise ProfileError(f"{place} has the elevation “{csv_table.in_short(text)}”") from None
    return on_earth(height, place)


def on_earth(elevation_m: float, place: str) -> float:
    """The same elevation, m. Raises ProfileError where no road leads."""
    if not (math.isfinite(elevation_m) and LOWEST_M <= elevation_m <= HIGHEST_M):
        raise ProfileError(f"{place} lies at an elevation of {elevation_m:g} m")
    return elevation_m


def position(lat_text: str | None, lon_text: str | None, place: str) -> tuple[float, float]:
    """Latitude and longitude as they were written, degrees. Raises ProfileError with their place."""
    try:
        lat, lon = float(lat_text or ""), float(lon_text or "")
    except ValueError:
        raise ProfileError(f"{place} has no readable lat and lon") from None
    if not (-90 <= lat <= 90 and -180 <= lon <= 180):
        raise ProfileError(f"{place} lies at {lat:g}, {lon:g}: no place on earth")
    return lat, lon
