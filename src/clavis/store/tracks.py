"""Reading tracks: GPX from outside, streamed through a hardened XML reader; and keeping points as bytes."""

import hashlib
import math
import zlib
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import IO
from xml.etree.ElementTree import Element, ParseError

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import iterparse
from numpy.typing import NDArray

from clavis.core.descent import Track
from clavis.core.errors import ProfileError

EARTH_RADIUS_M = 6371008.8
"""mean radius of the earth (IUGG)"""
MOST_POINTS = 200_000
_POINTS = ("trkpt", "rtept")


def _points(stream: IO[bytes]) -> Iterator[tuple[float, float, float | None, float | None]]:
    """Latitude, longitude, elevation m, time s of each point; raises ProfileError that names the point."""
    count = 0
    first = True
    for event, element in iterparse(stream, events=("start", "end"), forbid_dtd=True):
        name = element.tag.rsplit("}", 1)[-1]
        if first:
            first = False
            if name != "gpx":
                raise ProfileError(f"this is XML, but not GPX: it begins with <{name[:30]}>")
        if event == "end" and name in _POINTS:
            count += 1
            if count > MOST_POINTS:
                raise ProfileError(f"the track has more than {MOST_POINTS:,} points; cut it first")
            yield _point(element, count)
        if event == "end" and name in (*_POINTS, "trkseg", "wpt"):
            element.clear()


def _point(element: Element, count: int) -> tuple[float, float, float | None, float | None]:
    try:
        lat, lon = float(element.attrib["lat"]), float(element.attrib["lon"])
    except (KeyError, ValueError):
        raise ProfileError(f"point {count} has no readable lat and lon") from None
    if not (-90 <= lat <= 90 and -180 <= lon <= 180):
        raise ProfileError(f"point {count} lies at {lat:g}, {lon:g}: no place on earth")
    elevation = time = None
    for child in element:
        tag, text = child.tag.rsplit("}", 1)[-1], (child.text or "").strip()
        if tag == "ele" and text:
            try:
                elevation = float(text)
            except ValueError:
                raise ProfileError(f"point {count} has the elevation “{text[:20]}”") from None
            if not (math.isfinite(elevation) and -500 <= elevation <= 9000):
                raise ProfileError(f"point {count} lies at an elevation of {text[:20]} m")
        elif tag == "time" and text:
            try:
                moment = datetime.fromisoformat(text)
            except ValueError:
                raise ProfileError(f"point {count} has the time “{text[:30]}”") from None
            time = (moment if moment.tzinfo else moment.replace(tzinfo=UTC)).timestamp()
    return lat, lon, elevation, time


def _haversine_m(lat: NDArray[np.float64], lon: NDArray[np.float64]) -> NDArray[np.float64]:
    """Great-circle distances between neighbours, m, by the haversine formula; (n,) in, (n − 1,) out."""
    phi, lam = np.radians(lat), np.radians(lon)
    a = np.sin(np.diff(phi) / 2) ** 2 + np.cos(phi[:-1]) * np.cos(phi[1:]) * np.sin(np.diff(lam) / 2) ** 2
    return np.asarray(2 * EARTH_RADIUS_M * np.arcsin(np.sqrt(np.clip(a, 0, 1))), dtype=np.float64)


def read_gpx(stream: IO[bytes]) -> Track:
    """A track from GPX 1.0 or 1.1: tracks or routes, all segments in a row. Raises ProfileError in plain words.

    Single missing elevations are filled between their neighbours; a track without any is refused. Times are kept
    only where every point has one.
    """
    try:
        rows = list(_points(stream))
    except ParseError as error:
        line, column = error.position
        raise ProfileError(f"not readable as XML: line {line}, column {column}") from None
    except DefusedXmlException:
        raise ProfileError(
            "the file declares entities or a document type, which a GPX does not need; refused"
        ) from None
    except (ValueError, LookupError, UnicodeError) as error:
        if isinstance(error, ProfileError):
            raise
        raise ProfileError("not readable as XML: its text encoding is not what it says") from None
    if len(rows) < 3:
        raise ProfileError(f"the track has {len(rows)} point{'s' if len(rows) != 1 else ''}; at least 3 are needed")
    lat, lon = (np.array([r[k] for r in rows], dtype=np.float64) for k in (0, 1))
    elevation = np.array([np.nan if r[2] is None else r[2] for r in rows], dtype=np.float64)
    known = np.isfinite(elevation)
    if not known.any():
        raise ProfileError("the track has no elevation: without it there is no descent to compute")
    if known.mean() < 0.5:
        raise ProfileError(f"only {known.mean():.0%} of the points have an elevation; at least half are needed")
    distance = np.concatenate([[0.0], np.cumsum(_haversine_m(lat, lon))])
    elevation = np.interp(distance, distance[known], elevation[known])
    time = None
    if all(r[3] is not None for r in rows):
        time = np.array([r[3] for r in rows], dtype=np.float64)
        time -= time[0]
        if np.any(np.diff(time) < 0):
            index = int(np.argmax(np.diff(time) < 0)) + 2
            raise ProfileError(f"time runs backward at point {index}")
    return rounded(Track(distance, elevation, time))


def rounded(track: Track) -> Track:
    """Centimetres and hundredths of a second: finer than any recorder, and the same after a trip through JSON."""

    def tidy(values: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.maximum.accumulate(np.round(values, 2)) if values is not track.elevation_m else np.round(values, 2)

    return Track(tidy(track.distance_m), tidy(track.elevation_m), None if track.time_s is None else tidy(track.time_s))


def to_array(track: Track) -> NDArray[np.float64]:
    time = np.full(len(track.distance_m), np.nan) if track.time_s is None else track.time_s
    return np.ascontiguousarray(np.column_stack([track.distance_m, track.elevation_m, time]), dtype="<f8")


def checksum(track: Track) -> str:
    """SHA-256 over distance, elevation and time as little-endian doubles: a track's name in a job."""
    return hashlib.sha256(to_array(track).tobytes()).hexdigest()


def pack(track: Track) -> bytes:
    return zlib.compress(to_array(track).tobytes(), 6)


def unpack(data: bytes) -> Track:
    array = np.frombuffer(zlib.decompress(data), dtype="<f8").reshape(-1, 3)
    time = None if np.isnan(array[:, 2]).any() else array[:, 2].copy()
    return Track(array[:, 0].copy(), array[:, 1].copy(), time)
