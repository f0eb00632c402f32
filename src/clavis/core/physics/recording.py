"""A recorded ride as it comes from outside, and the track that is made of it: what was mended is said.

Position jumps, spikes and steps in height, missing heights, gaps and pieces are handled here once, whatever the file.
Distances m, elevations m, times s, speeds m/s.
"""

from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ProfileError
from clavis.core.physics.road import LEAST_POINTS, Track
from clavis.core.sentences import Sentence, say

Array = NDArray[np.float64]

EARTH_RADIUS_M = 6371008.8
"""mean radius of the earth (IUGG)"""
FAR_DEG = 1.0
"""a ride that is farther away than this does not lead through latitude and longitude nought"""
FASTEST_MS = 35.0
"""faster than this a recorder has jumped: no bicycle ride"""
POSITION_SMOOTHING = 1.5
"""samples over which positions of a one-second record are smoothed: a wandering fix is not a longer way"""
CLOCK_SLIP_S = 5.0
"""a clock that slips back by less is held; by more, the file is not one ride"""
GAP_S, GAP_M = 15.0, 50.0
PIECE_S, PIECE_M = 120.0, 100.0
HEIGHT_SPIKE_M = 4.0
HEIGHT_STEP_M, HEIGHT_STEP_SLOPE = 2.0, 0.6
"""a jump of height by more than this, steeper than this, between two points is the recorder's"""
LEAST_HEIGHTS = 0.5


class NoteKind(StrEnum):
    """What was found in a file."""

    JUMP = "jump"
    GAP = "gap"
    HEIGHT = "height"
    STANDING = "standing"
    PIECES = "pieces"
    TIMES = "times"


@dataclass(frozen=True)
class Note:
    """One thing that was mended or noticed; ``places_m`` are stretches (from, to) along the way, m."""

    kind: NoteKind
    words: Sentence
    places_m: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class RawTrack:
    """Points of a file (n,). Either ``lat``/``lon`` in degrees or ``distance_m``; elevation and time may hold NaN.
    ``starts`` are the points at which a new piece of the record begins."""

    elevation_m: Array
    lat: Array | None = None
    lon: Array | None = None
    distance_m: Array | None = None
    time_s: Array | None = None
    starts: tuple[int, ...] = ()


@dataclass(frozen=True)
class Recording:
    """A track with what was said about it."""

    track: Track
    notes: tuple[Note, ...]


def haversine_m(lat: Array, lon: Array, apart: int = 1) -> Array:
    """Great-circle distance from each point to a later one.

    Parameters
    ----------
    lat, lon : array
        Degrees, (n,).
    apart : int
        How many points further on, 1 or more.

    Returns
    -------
    array
        m, (n − apart,).

    Source: the haversine formula; Sinnott, Sky and Telescope 68 (1984), 159; mean radius of the earth.

    >>> [round(float(m)) for m in haversine_m(np.array([0.0, 0.0]), np.array([0.0, 0.01]))]
    [1112]
    """
    phi, lam = np.radians(lat), np.radians(lon)
    up, along = phi[apart:] - phi[:-apart], lam[apart:] - lam[:-apart]
    a = np.sin(up / 2) ** 2 + np.cos(phi[:-apart]) * np.cos(phi[apart:]) * np.sin(along / 2) ** 2
    return np.asarray(2 * EARTH_RADIUS_M * np.arcsin(np.sqrt(np.clip(a, 0, 1))), dtype=np.float64)


def _times(raw: RawTrack) -> tuple[Array | None, list[Note]]:
    """Times from the first point on, or None where they cannot be used."""
    if raw.time_s is None:
        return None, []
    known = np.isfinite(raw.time_s)
    if not known.any():
        return None, []
    missing = int((~known).sum())
    if missing > 0.2 * len(known):
        words = "times missing at {missing} of {points:point|points}: not used"
        return None, [Note(NoteKind.TIMES, say(words, missing=missing, points=len(known)))]
    index = np.arange(len(known), dtype=np.float64)
    time = np.interp(index, index[known], raw.time_s[known])
    said = say("times missing at {missing:point|points}: taken between", missing=missing)
    notes = [Note(NoteKind.TIMES, said)] if missing else []
    falls = np.diff(time)
    if (falls < -CLOCK_SLIP_S).any():
        at = int(np.argmax(falls < -CLOCK_SLIP_S)) + 2
        raise ProfileError(say("the track's time runs backward at point {at}", at=at))
    back = int((falls < 0).sum())
    if back:
        time = np.maximum.accumulate(time)
        notes.append(Note(NoteKind.TIMES, say("the clock ran backward at {back:point|points}: held there", back=back)))
    return np.asarray(time - time[0], dtype=np.float64), notes


def _without_fixless(raw: RawTrack) -> tuple[RawTrack, int]:
    """Points at latitude and longitude nought are what a receiver writes that has no fix; how many were taken out."""
    if raw.lat is None or raw.lon is None:
        return raw, 0
    nowhere = (raw.lat == 0.0) & (raw.lon == 0.0)
    count = int(nowhere.sum())
    if not count or len(nowhere) - count < LEAST_POINTS:
        return raw, 0
    ridden = np.median(np.abs(raw.lat[~nowhere])), np.median(np.abs(raw.lon[~nowhere]))
    if max(ridden) < FAR_DEG:
        return raw, 0
    return _kept(raw, ~nowhere), count


def _without_spikes(raw: RawTrack) -> tuple[RawTrack, NDArray[np.int64]]:
    """Points far off the way that the next one is back on are taken out; two rounds find pairs. Of each that went, the
    index of the point before it among those that stayed."""
    before = np.arange(len(raw.elevation_m))
    stayed = np.ones(len(before), dtype=bool)
    for _ in range(2):
        if raw.lat is None or raw.lon is None or len(raw.lat) < 5:
            break
        step = haversine_m(raw.lat, raw.lon)
        straight = haversine_m(raw.lat, raw.lon, 2)
        detour = step[:-1] + step[1:]
        off = (detour > 60) & (detour > 4 * straight + 40)
        if raw.time_s is None:
            off &= detour > 200
        else:
            dt = np.diff(raw.time_s)
            off &= (step[:-1] > FASTEST_MS * np.maximum(dt[:-1], 1.0)) | (detour > 400)
        if not off.any():
            break
        keep = np.concatenate([[True], ~off, [True]])
        stayed[before] = keep
        before = before[keep]
        raw = _kept(raw, keep)
    return raw, np.searchsorted(before, np.flatnonzero(~stayed)) - 1


def _kept(raw: RawTrack, keep: NDArray[np.bool_]) -> RawTrack:
    places = np.cumsum(keep) - 1
    starts = tuple(sorted({int(places[s]) if keep[s] else int(places[s]) + 1 for s in raw.starts}))

    def cut(values: Array | None) -> Array | None:
        return None if values is None else values[keep]

    return replace(
        raw,
        elevation_m=raw.elevation_m[keep],
        lat=cut(raw.lat),
        lon=cut(raw.lon),
        distance_m=cut(raw.distance_m),
        time_s=cut(raw.time_s),
        starts=tuple(s for s in starts if 0 < s < int(keep.sum())),
    )


def _smoothed(values: Array, starts: tuple[int, ...]) -> Array:
    """Light Gaussian smoothing inside each piece."""
    reach = np.arange(-4, 5)
    kernel = np.exp(-0.5 * (reach / POSITION_SMOOTHING) ** 2)
    kernel /= kernel.sum()
    out = values.copy()
    for a, b in _pieces(len(values), starts):
        piece = values[a:b]
        if len(piece) > 9:
            before, after = 2 * piece[0] - piece[4:0:-1], 2 * piece[-1] - piece[-2:-6:-1]
            out[a:b] = np.convolve(np.concatenate([before, piece, after]), kernel, mode="valid")
    return out


def _pieces(n: int, starts: tuple[int, ...]) -> list[tuple[int, int]]:
    bounds = [0, *starts, n]
    return list(pairwise(bounds))


def _steps_m(raw: RawTrack, time: Array | None) -> Array:
    """Distances between neighbours, m, (n − 1,)."""
    if raw.distance_m is not None:
        step = np.diff(raw.distance_m)
        if (step < -1.0).any():
            at = int(np.argmax(step < -1.0)) + 2
            raise ProfileError(f"point {at}: the distance runs backward")
        return np.asarray(np.maximum(step, 0.0), dtype=np.float64)
    if raw.lat is None or raw.lon is None:
        raise ProfileError("the file holds neither positions nor distances")
    lat, lon = raw.lat, raw.lon
    if time is not None and len(time) > 20 and float(np.median(np.diff(time))) <= 2.0:
        # a gap is not smoothed over: its way would be lost
        gaps = np.flatnonzero(np.diff(time) > GAP_S) + 1
        bounds = tuple(sorted({*raw.starts, *(int(g) for g in gaps)}))
        lat, lon = _smoothed(lat, bounds), _smoothed(lon, bounds)
    return haversine_m(lat, lon)


def _without_jumps(step: Array, time: Array | None, at_start: NDArray[np.bool_]) -> tuple[Array, NDArray[np.bool_]]:
    """Steps that a recorder cannot have ridden take the pace around them instead."""
    if time is None:
        return step, np.zeros(len(step), dtype=bool)
    dt = np.maximum(np.diff(time), 1e-3)
    speed = step / dt
    around = _running_median(np.where(at_start | (dt > GAP_S), np.nan, speed), 10)
    jumped = (speed > np.minimum(FASTEST_MS, 2.5 * around + 8.0)) & ~at_start & (step > 10)
    return np.where(jumped, around * dt, step), jumped


def _running_median(values: Array, reach: int) -> Array:
    """Median of the values within ``reach`` samples either side, NaN left out; 0 where there is none."""
    padded = np.concatenate([np.full(reach, np.nan), values, np.full(reach, np.nan)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
    empty = np.isnan(windows).all(axis=1)
    out = np.zeros(len(values))
    if (~empty).any():
        out[~empty] = np.nanmedian(windows[~empty], axis=1)
    return out


def _spans(mask: NDArray[np.bool_], distance: Array) -> tuple[tuple[float, float], ...]:
    """Stretches of the way over which ``mask`` (per step) is true."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
    return tuple((float(distance[a]), float(distance[b])) for a, b in zip(edges[::2], edges[1::2], strict=True))


def _heights(elevation: Array, distance: Array, starts: tuple[int, ...]) -> tuple[Array, list[Note]]:
    """Heights without holes, spikes and steps of the recorder."""
    notes: list[Note] = []
    known = np.isfinite(elevation)
    if not known.any():
        raise ProfileError("the track has no elevation: without it there is no descent to compute")
    if known.mean() < LEAST_HEIGHTS:
        words = "only {known_pct:.0} of the points have an elevation; at least half are needed"
        raise ProfileError(say(words, known_pct=100 * float(known.mean())))
    out = np.where(known, elevation, np.interp(distance, distance[known], elevation[known]))
    if not known.all():
        spans = _spans(~known[:-1] | ~known[1:], distance)
        longest = max(b - a for a, b in spans)
        words = "no height at {missing:point|points}, up to {longest_m:.0} on end: taken straight between"
        notes.append(Note(NoteKind.HEIGHT, say(words, missing=int((~known).sum()), longest_m=longest), spans))
    for a, b in _pieces(len(out), starts):
        out[a:b], found = _piece_heights(out[a:b], distance[a:b])
        notes += found
    return out, notes


def _quantum(dz: Array) -> float:
    """The step in which heights come, m, where they come in steps of a metre or more; otherwise 0."""
    moves = np.abs(dz[np.abs(dz) > 1e-6])
    if len(moves) < 5 or len(moves) > 0.5 * len(dz):
        return 0.0
    least = float(moves.min())
    whole = np.abs(moves / least - np.round(moves / least)) < 0.02
    return least if least >= 0.9 and float(whole.mean()) > 0.98 else 0.0


def _scatter(steps: Array) -> float:
    """Standard deviation of what is usual among the steps, by their median departure."""
    return 1.4826 * float(np.median(np.abs(steps - np.median(steps))))


def _piece_heights(z: Array, distance: Array) -> tuple[Array, list[Note]]:
    notes: list[Note] = []
    if len(z) < 12:
        return z, notes
    quantum = _quantum(np.diff(z))
    if quantum:
        change = np.flatnonzero(np.diff(z)) + 1
        where = 0.5 * (distance[change - 1] + distance[change])
        middle = 0.5 * (z[change - 1] + z[change])
        anchors = np.concatenate([[distance[0]], where, [distance[-1]]])
        heights = np.concatenate([[z[0]], middle, [z[-1]]])
        z = np.interp(distance, anchors, heights)
        words = "heights come in steps of {step_m:g}: laid straight between the steps"
        notes.append(Note(NoteKind.HEIGHT, say(words, step_m=quantum)))
        return z, notes
    middle = _running_median(z, 4)
    reach = np.maximum(np.interp(distance, distance, np.gradient(distance)) * 4 * 0.35, HEIGHT_SPIKE_M)
    spikes = np.abs(z - middle) > reach
    if spikes.any():
        z = np.where(spikes, middle, z)
        words = "{heights:height|heights} stood out and took the middle of the heights around"
        said = say(words, heights=int(spikes.sum()))
        notes.append(Note(NoteKind.HEIGHT, said, _spans(spikes[:-1] | spikes[1:], distance)))
    dz, ds = np.diff(z), np.maximum(np.diff(distance), 1.0)
    jumps = (np.abs(dz) > HEIGHT_STEP_M) & (np.abs(dz) > HEIGHT_STEP_SLOPE * ds) & (np.abs(dz) > 5 * _scatter(dz))
    if jumps.any():
        z = z - np.concatenate([[0.0], np.cumsum(np.where(jumps, dz, 0.0))])
        said = say("{steps:step|steps} in height, steeper than any road, set level", steps=int(jumps.sum()))
        notes.append(Note(NoteKind.HEIGHT, said, _spans(jumps, distance)))
    return z, notes


def _gaps(step: Array, time: Array | None, distance: Array, at_start: NDArray[np.bool_]) -> list[Note]:
    if time is None:
        return []
    dt = np.diff(time)
    gap = (dt > GAP_S) & (step > GAP_M) & ~at_start
    if not gap.any():
        return []
    first = int(np.argmax(gap))
    said = say(
        "{gaps:gap|gaps} without points, the first after {at_km:.1}: {over_m:.0} in {over_s:.0}; pace and slope taken "
        "as even (a tunnel, a lost signal)",
        gaps=int(gap.sum()),
        at_km=float(distance[first]) / 1000,
        over_m=float(step[first]),
        over_s=float(dt[first]),
    )
    return [Note(NoteKind.GAP, said, _spans(gap, distance))]


def _real_starts(raw: RawTrack, step: Array, time: Array | None) -> tuple[int, ...]:
    """Of the file's pieces those between which something was left out."""
    late = (lambda s: time[s] - time[s - 1] > PIECE_S) if time is not None else (lambda s: False)
    return tuple(s for s in raw.starts if step[s - 1] > PIECE_M or late(s))


def recording_of(raw: RawTrack) -> Recording:
    """A track made of what a file holds, with a note for everything that was mended.

    Parameters
    ----------
    raw : RawTrack
        Points as read, (n,): positions or distances, heights with holes, times or none.

    Returns
    -------
    Recording
        The track, cleaned; the notes in words, with their places along it.

    Raises
    ------
    ProfileError
        In plain words, where no track can be made.

    Source: docs/decisions/004-reading-tracks.md.

    >>> raw = RawTrack(np.array([100.0, 99.0, 98.0, 97.0]), distance_m=np.array([0.0, 10.0, 20.0, 30.0]))
    >>> [float(m) for m in recording_of(raw).track.distance_m]
    [0.0, 10.0, 20.0, 30.0]
    """
    n = len(raw.elevation_m)
    if n < 3:
        raise ProfileError(say("the track has {points:point|points}; at least {least} are needed", points=n, least=3))
    raw, nowhere = _without_fixless(raw)
    raw, spikes = _without_spikes(raw)
    time, notes = _times(raw)
    if nowhere:
        said = say("{points:point|points} at 0°, 0°, where a receiver without a fix stands, taken out", points=nowhere)
        notes.append(Note(NoteKind.JUMP, said))
    step = _steps_m(raw, time)
    starts = _real_starts(raw, step, time)
    at_start = np.zeros(len(step), dtype=bool)
    at_start[[s - 1 for s in starts]] = True
    step, jumped = _without_jumps(step, time, at_start)
    step = np.where(at_start, 0.0, step)
    distance = np.concatenate([[0.0], np.cumsum(step)])
    if len(spikes):
        said = say("{points:point|points} far off the way taken out", points=len(spikes))
        notes.append(Note(NoteKind.JUMP, said, tuple((float(distance[k]), float(distance[k])) for k in spikes)))
    if jumped.any():
        said = say("{jumps:jump|jumps} of position taken at the pace around", jumps=int(jumped.sum()))
        notes.append(Note(NoteKind.JUMP, said, _spans(jumped, distance)))
    notes += _gaps(step, time, distance, at_start)
    elevation, more = _heights(raw.elevation_m, distance, starts)
    notes += more
    if starts:
        places = tuple((float(distance[s]), float(distance[s])) for s in starts)
        words = "{pieces} pieces; what lies between them was not ridden and brakes nothing"
        notes.append(Note(NoteKind.PIECES, say(words, pieces=len(starts) + 1), places))
    track = rounded(Track(distance, elevation, time, starts))
    if time is not None:
        notes += _standing(track)
    return Recording(track, tuple(notes))


def rounded(track: Track) -> Track:
    """A track to centimetres and hundredths of a second: finer than any recorder, and the same after a trip through
    JSON.

    >>> track = Track(np.array([0.0, 10.004, 20.0]), np.array([5.0, 5.0, 4.996]), None)
    >>> [float(m) for m in rounded(track).distance_m]
    [0.0, 10.0, 20.0]
    """
    time = None if track.time_s is None else np.round(track.time_s, 2)
    return Track(np.round(track.distance_m, 2), np.round(track.elevation_m, 2) + 0.0, time, track.starts)


def _standing(track: Track) -> list[Note]:
    """How long the recorder stood, by stretches of ten seconds and more."""
    if track.time_s is None:
        return []
    even = np.arange(0.0, track.time_s[-1] + 1.0)
    rising = np.concatenate([[True], np.diff(track.time_s) > 0])
    where = np.interp(even, track.time_s[rising], track.distance_m[rising])
    ahead = min(10, len(where) - 1)
    still = (where[ahead:] - where[:-ahead]) < 2.0
    spans = np.flatnonzero(np.diff(np.concatenate([[0], still.astype(int), [0]])))
    stops = [(int(a), int(b) + ahead) for a, b in zip(spans[::2], spans[1::2], strict=True)]
    if not stops:
        return []
    total = sum(b - a for a, b in stops)
    places = tuple((float(where[a]), float(where[min(b, len(where) - 1)])) for a, b in stops)
    said = say("{stops:stop|stops}, {total_min:.1} standing", stops=len(stops), total_min=total / 60)
    return [Note(NoteKind.STANDING, said, places)]
