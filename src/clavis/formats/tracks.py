"""Keeping tracks: points as bytes under their checksum."""

import hashlib
import zlib

import numpy as np
from numpy.typing import NDArray

from clavis.core.physics.road import Track

MOST_POINTS = 200_000
_STARTS = b"starts:"


def to_array(track: Track) -> NDArray[np.float64]:
    time = np.full(len(track.distance_m), np.nan) if track.time_s is None else track.time_s
    return np.ascontiguousarray(np.column_stack([track.distance_m, track.elevation_m, time]), dtype="<f8")


def _bytes(track: Track) -> bytes:
    """Distance, elevation and time as little-endian doubles; before them, where the track has several pieces, a line
    with the points at which they begin."""
    head = _STARTS + ",".join(str(s) for s in track.starts).encode() + b"\n" if track.starts else b""
    return head + to_array(track).tobytes()


def checksum(track: Track) -> str:
    """SHA-256 over the track's bytes: its name in a job."""
    return hashlib.sha256(_bytes(track)).hexdigest()


def pack(track: Track) -> bytes:
    return zlib.compress(_bytes(track), 6)


def unpack(data: bytes) -> Track:
    plain = zlib.decompress(data)
    starts: tuple[int, ...] = ()
    if plain.startswith(_STARTS):
        head, _, plain = plain.partition(b"\n")
        starts = tuple(int(s) for s in head.removeprefix(_STARTS).split(b","))
    array = np.frombuffer(plain, dtype="<f8").reshape(-1, 3)
    time = None if np.isnan(array[:, 2]).any() else array[:, 2].copy()
    return Track(array[:, 0].copy(), array[:, 1].copy(), time, starts)
