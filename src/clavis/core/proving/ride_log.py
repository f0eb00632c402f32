"""What a logged ride tells of the braking: events, time on each brake, shares, power, drags and snubs; and whether its
shares and its temperatures say the same."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError, ProfileError
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.situation import Situation
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import load_of_recording
from clavis.core.physics.road import Track
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.units import KMH_PER_MS

Array = NDArray[np.float64]

ON_BAR = 0.5
"""pressure from which a brake is on (judged: above what an idle line shows)"""
BRIDGED_S = 0.4
"""a release shorter than this parts no event (judged: two pulls of one braking)"""
SHORTEST_S = 0.3
DRAG_S = 8.0
"""on the brake for as long without a stop: a drag (judged)"""
STOP_MS = 1.0
AGREE_RATIO = 0.20
"""shares by braking and by temperature that differ by more disagree (judged: unlike airflow and cooling)"""
LEAST_RISE_K = 25.0
"""a rotor that rose less tells nothing of a share"""
LEAST_SAMPLES = 10


class BrakingKind(StrEnum):
    STOP = "stop"
    DRAG = "drag"
    SNUB = "snub"


@dataclass(frozen=True)
class LogData:
    """A logged ride, all (n,): time s, speed m/s, each brake's signal (on 1, off 0; or bar), and where the table has
    them heights m and the rotors' temperatures °C."""

    time_s: Array
    speed_ms: Array
    brake: Mapping[End, Array]
    by_pressure: bool
    elevation_m: Array | None = None
    rotor_c: Mapping[End, Array] | None = None

    def __post_init__(self) -> None:
        if len(self.time_s) < LEAST_SAMPLES:
            raise ProfileError(say("a logged ride needs {least} rows at the least", least=LEAST_SAMPLES))
        if (np.diff(self.time_s) <= 0).any():
            row = int(np.nonzero(np.diff(self.time_s) <= 0)[0][0]) + 2
            raise ProfileError(say("row {row}: the time does not go on", row=row))

    def exchanged(self) -> "LogData":
        """With the temperature sensors on each other's wheel."""
        if self.rotor_c is None:
            return self
        return replace(self, rotor_c={End.FRONT: self.rotor_c[End.REAR], End.REAR: self.rotor_c[End.FRONT]})

    @property
    def on(self) -> dict[End, NDArray[np.bool_]]:
        """Whether each brake is on."""
        least = ON_BAR if self.by_pressure else 0.5
        return {end: signal >= least for end, signal in self.brake.items()}

    @property
    def dt_s(self) -> Array:
        """The time each row stands for, (n,)."""
        return np.diff(self.time_s, append=self.time_s[-1] + float(np.median(np.diff(self.time_s))))


@dataclass(frozen=True)
class BrakingEvent:
    """One braking: from when to when, between which speeds, on which wheels, and what it took; energy and powers None
    without heights."""

    kind: BrakingKind
    start_s: float
    end_s: float
    from_ms: float
    to_ms: float
    on_s: Mapping[End, float]
    energy_kj: float | None
    mean_w: float | None
    peak_w: float | None

    @property
    def length_s(self) -> float:
        return self.end_s - self.start_s

    @property
    def from_kmh(self) -> float:
        return self.from_ms * KMH_PER_MS

    @property
    def to_kmh(self) -> float:
        return self.to_ms * KMH_PER_MS

    @property
    def start_min(self) -> float:
        return self.start_s / 60


def _stretches(on: NDArray[np.bool_], time_s: Array, dt_s: Array) -> list[tuple[int, int]]:
    """First and last row of every stretch on the brake, short releases bridged, short touches left out."""
    edges = np.diff(on.astype(np.int8), prepend=0, append=0)
    spans = list(zip(np.nonzero(edges == 1)[0], np.nonzero(edges == -1)[0] - 1, strict=True))
    joined: list[tuple[int, int]] = []
    for first, last in spans:
        if joined and time_s[first] - time_s[joined[-1][1]] - dt_s[joined[-1][1]] < BRIDGED_S:
            joined[-1] = (joined[-1][0], int(last))
        else:
            joined.append((int(first), int(last)))
    return [(a, b) for a, b in joined if time_s[b] + dt_s[b] - time_s[a] >= SHORTEST_S]


def _kind(length_s: float, to_ms: float) -> BrakingKind:
    if to_ms < STOP_MS:
        return BrakingKind.STOP
    return BrakingKind.DRAG if length_s >= DRAG_S else BrakingKind.SNUB


def braked_power_w(data: LogData, situation: Situation) -> Array | None:
    """Power of both brakes together at every row, W; None without heights. Only where a brake is on: what the rider or
    the air takes elsewhere is not the brake's."""
    if data.elevation_m is None:
        return None
    distance = np.concatenate([[0.0], np.cumsum(0.5 * (data.speed_ms[1:] + data.speed_ms[:-1]) * np.diff(data.time_s))])
    try:
        load = load_of_recording(
            Track(distance, data.elevation_m, data.time_s - data.time_s[0]), situation.bike, situation.weather
        )
    except ClavisError:
        return None
    middle = 0.5 * (load.time_s[1:] + load.time_s[:-1])
    power: Array = np.interp(data.time_s - data.time_s[0], middle, np.maximum(load.power_w, 0.0))
    on = np.logical_or.reduce(list(data.on.values()))
    return np.where(on, power, 0.0)


def events_of(data: LogData, power_w: Array | None) -> tuple[BrakingEvent, ...]:
    """Every braking, in order."""
    on, dt = data.on, data.dt_s
    either = np.logical_or.reduce(list(on.values()))
    out = []
    for a, b in _stretches(either, data.time_s, dt):
        rows = slice(a, b + 1)
        length = float(data.time_s[b] + dt[b] - data.time_s[a])
        energy = None if power_w is None else float((power_w[rows] * dt[rows]).sum())
        out.append(
            BrakingEvent(
                _kind(length, float(data.speed_ms[b])), float(data.time_s[a] - data.time_s[0]),
                float(data.time_s[b] + dt[b] - data.time_s[0]), float(data.speed_ms[a]), float(data.speed_ms[b]),
                {end: float(dt[rows][on[end][rows]].sum()) for end in on},
                None if energy is None else energy / 1000,
                None if energy is None or length <= 0 else energy / length,
                None if power_w is None else float(power_w[rows].max()),
            )
        )  # fmt: skip
    return tuple(out)


def _nm_per_bar(w: WheelResult) -> float | None:
    """Brake torque that one bar makes; None of a cable."""
    f = w.forces
    return f.torque_target_nm / f.pressure_target_bar if f.pressure_target_bar else None


@dataclass(frozen=True)
class LogStudy:
    """A logged ride read. ``front_share`` is of the energy by the pressures and the brakes' own gain, or of the time on
    the brakes where there are none; None where nobody braked. ``asked`` is a question to the person, never a mend."""

    duration_s: float
    events: tuple[BrakingEvent, ...]
    on_s: Mapping[End, float]
    front_share: float | None
    share_by_energy: bool
    mean_w: float | None
    peak_w: float | None
    heat_share: float | None
    """the front's, by what the rotors stored"""
    peak_c: Mapping[End, float]
    asked: Words

    def counts(self, kind: BrakingKind) -> int:
        return sum(event.kind is kind for event in self.events)

    @property
    def kinds(self) -> Words:
        """How many of each."""
        drags, snubs, stops = (self.counts(kind) for kind in (BrakingKind.DRAG, BrakingKind.SNUB, BrakingKind.STOP))
        words = "{drags:drag|drags}, {snubs:snub|snubs}, {stops:stop|stops}"
        return say(words, drags=drags, snubs=snubs, stops=stops)

    @property
    def longest_drag_s(self) -> float | None:
        return max((e.length_s for e in self.events if e.kind is BrakingKind.DRAG), default=None)

    @property
    def front_share_pct(self) -> float | None:
        return None if self.front_share is None else 100 * self.front_share

    @property
    def heat_share_pct(self) -> float | None:
        return None if self.heat_share is None else 100 * self.heat_share

    @property
    def duration_min(self) -> float:
        return self.duration_s / 60

    @property
    def on_pct(self) -> Mapping[End, float]:
        return {end: 100 * s / self.duration_s for end, s in self.on_s.items()}


def _front_share(data: LogData, wheels: Mapping[End, WheelResult]) -> tuple[float | None, bool]:
    """The front's share, and whether it is one of energy."""
    dt, on = data.dt_s, data.on
    gains = {end: _nm_per_bar(w) for end, w in wheels.items()}
    if data.by_pressure and len(gains) == len(End) and all(gains.values()):
        energy = {
            end: float((data.brake[end] * on[end] * data.speed_ms * dt).sum()) * (gains[end] or 0.0) for end in End
        }
    else:
        energy = {end: float(dt[on[end] & (data.speed_ms > STOP_MS)].sum()) for end in End}
        gains = {}
    total = sum(energy.values())
    return (energy[End.FRONT] / total if total > 0 else None), bool(gains)


def _heat_share(data: LogData, wheels: Mapping[End, WheelResult]) -> float | None:
    """By what each rotor stored at its peak above its start; None where one hardly warmed."""
    if data.rotor_c is None or len(wheels) < len(End):
        return None
    rise = {end: float(np.nanmax(c) - c[0]) for end, c in data.rotor_c.items()}
    if max(rise.values()) < LEAST_RISE_K:
        return None
    stored = {end: max(rise[end], 0.0) * wheels[end].node("rotor_capacity") for end in End}
    return stored[End.FRONT] / sum(stored.values())


def log_study(data: LogData, situation: Situation, wheels: Mapping[End, WheelResult]) -> LogStudy:
    """All that a logged ride tells of the setup that was ridden."""
    power = braked_power_w(data, situation)
    events = events_of(data, power)
    on, dt = data.on, data.dt_s
    share, by_energy = _front_share(data, wheels)
    heat = _heat_share(data, wheels)
    braked = np.logical_or.reduce(list(on.values()))
    peaks = {} if data.rotor_c is None else {end: float(np.nanmax(c)) for end, c in data.rotor_c.items()}
    mean_w = None
    if power is not None and braked.any():
        mean_w = float((power * dt)[braked].sum() / dt[braked].sum())
    duration_s = float(data.time_s[-1] - data.time_s[0])
    return LogStudy(
        duration_s, events, {end: float(dt[on[end]].sum()) for end in End}, share, by_energy, mean_w,
        None if power is None else float(power.max()), heat, peaks, _asked(share, heat),
    )  # fmt: skip


def _asked(share: float | None, heat: float | None) -> Words:
    """Whether braking and temperatures disagree so that somebody has to say which is right."""
    if share is None or heat is None or abs(share - heat) <= AGREE_RATIO:
        return NOTHING
    if abs(share - (1 - heat)) < abs(share - heat) - AGREE_RATIO / 2:
        question = "are the temperature sensors swapped?"
    else:
        question = "which of them is right?"
    words = "the brakes say {share_pct:.0} at the front, the rotors {heat_pct:.0}: {question}"
    return say(words, share_pct=100 * share, heat_pct=100 * heat, question=question)
