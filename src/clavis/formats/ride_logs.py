"""Logged rides from outside: a table with time, speed, each brake on or off or its pressure, and where there are any
heights and temperatures; and how they are kept."""

import hashlib
import io
import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ProfileError
from clavis.core.parts.mounts import End
from clavis.core.proving.ride_log import LogData
from clavis.core.sentences import say
from clavis.formats import csv_table

Array = NDArray[np.float64]
MOST_ROWS = 200_000


class LogColumn(StrEnum):
    """What a column of a logged ride may hold."""

    TIME = "time"
    SPEED = "speed"
    FRONT = "front brake"
    REAR = "rear brake"
    FRONT_C = "front rotor"
    REAR_C = "rear rotor"
    ELEVATION = "elevation"


_ON_OFF, _BAR = "on or off", "bar"
_BRAKE = {_ON_OFF: 1.0, _BAR: 1.0, "psi": 0.0689476, "MPa": 10.0}
_TEMPERATURE = {"°C": 1.0, "°F": 5 / 9}
LOG_UNITS: Mapping[LogColumn, Mapping[str, float]] = {
    LogColumn.TIME: {"s": 1.0, "ms": 0.001, "min": 60.0, "h:m:s or date": 1.0},
    LogColumn.SPEED: {"km/h": 1 / 3.6, "m/s": 1.0, "mph": 0.44704},
    LogColumn.FRONT: _BRAKE,
    LogColumn.REAR: _BRAKE,
    LogColumn.FRONT_C: _TEMPERATURE,
    LogColumn.REAR_C: _TEMPERATURE,
    LogColumn.ELEVATION: {"m": 1.0, "ft": 0.3048},
}
_GUESSES: Mapping[LogColumn, tuple[str, ...]] = {
    LogColumn.TIME: ("time", "sec"),
    LogColumn.SPEED: ("speed", "veloc"),
    LogColumn.FRONT: ("front brake", "brake front", "front_brake", "brake_front", "front bar", "front_bar"),
    LogColumn.REAR: ("rear brake", "brake rear", "rear_brake", "brake_rear", "rear bar", "rear_bar"),
    LogColumn.FRONT_C: ("front rotor", "front_rotor", "front temp", "front_c", "rotor front"),
    LogColumn.REAR_C: ("rear rotor", "rear_rotor", "rear temp", "rear_c", "rotor rear"),
    LogColumn.ELEVATION: ("ele", "alt", "height"),
}
NEEDED = (LogColumn.TIME, LogColumn.SPEED, LogColumn.FRONT, LogColumn.REAR)
FAHRENHEIT_ZERO_C = -32 * 5 / 9


@dataclass(frozen=True)
class LogChoice:
    """Which column (by number, None for none) holds what, and in which unit."""

    columns: Mapping[LogColumn, int | None]
    units: Mapping[LogColumn, str]


@dataclass(frozen=True)
class LogLook:
    """Headings and first rows with a guess, for the person who chooses."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: LogChoice


def look_at_log(data: bytes) -> LogLook:
    """Raises ProfileError where there is no table."""
    headings, first = csv_table.first_rows(data)
    columns = {c: csv_table.guessed_column(headings, _GUESSES[c]) for c in LogColumn}
    units = {c: csv_table.guessed_unit(LOG_UNITS[c], headings, columns[c]) for c in LogColumn}
    return LogLook(headings, first, LogChoice(columns, units))


_ON_WORDS = {"on": 1.0, "off": 0.0, "true": 1.0, "false": 0.0, "yes": 1.0, "no": 0.0, "": 0.0}


def _cell(column: LogColumn, unit: str, text: str, place: str) -> float:
    if column is LogColumn.TIME and unit.startswith("h:m:s"):
        return csv_table.clock_s(text, place)
    if unit == _ON_OFF and text.lower() in _ON_WORDS:
        return _ON_WORDS[text.lower()]
    if not text:
        return math.nan
    value = csv_table.number(text, place) * LOG_UNITS[column][unit]
    return value + FAHRENHEIT_ZERO_C if unit == "°F" else value


def read_log(data: bytes, choice: LogChoice) -> LogData:
    """A table with the columns a person chose. Raises ProfileError with the line of what cannot be."""
    missing = [c.value for c in NEEDED if choice.columns.get(c) is None]
    if missing:
        raise ProfileError(say("choose a column for: {missing}", missing=", ".join(missing)))
    if choice.units[LogColumn.FRONT] == _ON_OFF != choice.units[LogColumn.REAR]:
        raise ProfileError("both brakes must be told alike: on or off, or by their pressure")
    chosen = {c: k for c, k in choice.columns.items() if k is not None}
    found: dict[LogColumn, list[float]] = {c: [] for c in chosen}
    for line, row in csv_table.rows(data):
        if line == 1:
            continue
        if len(found[LogColumn.TIME]) >= MOST_ROWS:
            raise ProfileError(f"the table has more than {MOST_ROWS:,} rows; cut it first")
        for column, k in chosen.items():
            place = f"line {line}, column {k + 1}"
            found[column].append(_cell(column, choice.units[column], row[k] if k < len(row) else "", place))
    return _data({c: np.array(v, dtype=np.float64) for c, v in found.items()}, choice.units[LogColumn.FRONT] != _ON_OFF)


def _whole(values: Array, what: LogColumn) -> Array:
    """Without holes: what lies between two rows is taken from both."""
    known = np.isfinite(values)
    if known.sum() < 2:
        raise ProfileError(say("the column for {what} is empty", what=what.value))
    places = np.arange(len(values))
    whole: Array = np.interp(places, places[known], values[known])
    return whole


def _data(columns: Mapping[LogColumn, Array], by_pressure: bool) -> LogData:
    whole = {c: _whole(v, c) for c, v in columns.items()}
    for column, (low, high) in _RANGES.items():
        if column in whole and not ((whole[column] >= low) & (whole[column] <= high)).all():
            worst = int(np.argmax(np.abs(whole[column] - (low + high) / 2)))
            words = "line {line}: {what} of {value} is out of range"
            raise ProfileError(say(words, line=worst + 2, what=column.value, value=float(whole[column][worst])))
    brakes = {End.FRONT: whole[LogColumn.FRONT], End.REAR: whole[LogColumn.REAR]}
    rotors = None
    if {LogColumn.FRONT_C, LogColumn.REAR_C} <= whole.keys():
        rotors = {End.FRONT: whole[LogColumn.FRONT_C], End.REAR: whole[LogColumn.REAR_C]}
    heights = whole.get(LogColumn.ELEVATION)
    return LogData(whole[LogColumn.TIME], whole[LogColumn.SPEED], brakes, by_pressure, heights, rotors)


_RANGES: Mapping[LogColumn, tuple[float, float]] = {
    LogColumn.SPEED: (-0.5, 45.0),
    LogColumn.FRONT: (-5.0, 400.0),
    LogColumn.REAR: (-5.0, 400.0),
    LogColumn.FRONT_C: (-40.0, 1200.0),
    LogColumn.REAR_C: (-40.0, 1200.0),
    LogColumn.ELEVATION: (-500.0, 9000.0),
}
"""in the units they are kept in"""


def pack(data: LogData) -> bytes:
    """As it is kept."""
    stream = io.BytesIO()
    more = {} if data.elevation_m is None else {"elevation_m": data.elevation_m}
    if data.rotor_c is not None:
        more |= {f"{end.value}_c": c for end, c in data.rotor_c.items()}
    columns = {"time_s": data.time_s, "speed_ms": data.speed_ms, **{end.value: s for end, s in data.brake.items()}}
    told: dict[str, Any] = {**columns, **more, "by_pressure": np.array(data.by_pressure)}
    np.savez_compressed(stream, **told)
    return stream.getvalue()


def unpack(kept: bytes) -> LogData:
    with np.load(io.BytesIO(kept), allow_pickle=False) as table:
        brakes = {end: table[end.value] for end in End}
        rotors = {end: table[f"{end.value}_c"] for end in End} if "front_c" in table else None
        heights = table.get("elevation_m", None)
        return LogData(table["time_s"], table["speed_ms"], brakes, bool(table["by_pressure"]), heights, rotors)


def checksum(data: LogData) -> str:
    """SHA-256 over its columns: its name in a job."""
    columns = [data.time_s, data.speed_ms, *data.brake.values()]
    columns += [] if data.elevation_m is None else [data.elevation_m]
    columns += [] if data.rotor_c is None else list(data.rotor_c.values())
    told = b"".join(np.ascontiguousarray(c, dtype="<f8").tobytes() for c in columns)
    return hashlib.sha256(told + bytes([data.by_pressure])).hexdigest()
