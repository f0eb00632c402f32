"""Recorded rides as tables: a person chooses which column holds what."""

import math
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import Recording, recording_of
from clavis.formats import csv_table
from clavis.formats.recorded_points import Points, on_earth


class CsvColumn(StrEnum):
    """What a column of a CSV may hold."""

    DISTANCE = "distance"
    TIME = "time"
    ELEVATION = "elevation"
    SPEED = "speed"


UNITS: dict[CsvColumn, dict[str, float]] = {
    CsvColumn.DISTANCE: {"m": 1.0, "km": 1000.0, "mi": 1609.344},
    CsvColumn.TIME: {"s": 1.0, "min": 60.0, "h:m:s or date": 1.0},
    CsvColumn.ELEVATION: {"m": 1.0, "ft": 0.3048},
    CsvColumn.SPEED: {"km/h": 1 / 3.6, "m/s": 1.0, "mph": 0.44704},
}
_GUESSES: dict[CsvColumn, tuple[str, ...]] = {
    CsvColumn.DISTANCE: ("dist", "strecke", "way"),
    CsvColumn.TIME: ("time", "sec", "zeit"),
    CsvColumn.ELEVATION: ("ele", "alt", "height", "höhe"),
    CsvColumn.SPEED: ("speed", "veloc", "geschw"),
}


@dataclass(frozen=True)
class CsvChoice:
    """Which column (by number, None for none) holds what, and in which unit."""

    columns: dict[CsvColumn, int | None]
    units: dict[CsvColumn, str]

    def complete(self) -> bool:
        has = {c for c, k in self.columns.items() if k is not None}
        return CsvColumn.ELEVATION in has and (CsvColumn.DISTANCE in has or {CsvColumn.TIME, CsvColumn.SPEED} <= has)


@dataclass(frozen=True)
class CsvLook:
    """Headings and first rows of a CSV with a guess at its columns, for the person who chooses."""

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    guess: CsvChoice


def look_at_csv(data: bytes) -> CsvLook:
    """Headings, first rows and a guess. Raises ProfileError where there is no table."""
    headings, first = csv_table.first_rows(data)
    columns = {c: csv_table.guessed_column(headings, _GUESSES[c]) for c in CsvColumn}
    units = {c: csv_table.guessed_unit(UNITS[c], headings, columns[c]) for c in CsvColumn}
    return CsvLook(headings, first, CsvChoice(columns, units))


def read_csv(data: bytes, choice: CsvChoice) -> Recording:
    """A table with the columns a person chose: elevation, and distance or time with speed."""
    if not choice.complete():
        raise ProfileError("choose the elevation, and the distance or both time and speed")
    chosen = {column: k for column, k in choice.columns.items() if k is not None}
    points, last_time, way = Points(), math.nan, 0.0
    for line, row in csv_table.rows(data):
        if line == 1:
            continue
        value = dict.fromkeys(CsvColumn, math.nan)
        for column, k in chosen.items():
            text = row[k] if k < len(row) else ""
            if not text:
                continue
            place, unit = f"line {line}, column {k + 1}", choice.units[column]
            if column is CsvColumn.TIME and unit.startswith("h:m:s"):
                value[column] = csv_table.clock_s(text, place)
            else:
                value[column] = csv_table.number(text, place) * UNITS[column][unit]
        height = value[CsvColumn.ELEVATION]
        if math.isfinite(height):
            on_earth(height, f"line {line}")
        time, distance = value[CsvColumn.TIME], value[CsvColumn.DISTANCE]
        if choice.columns[CsvColumn.DISTANCE] is None:
            if math.isfinite(time) and math.isfinite(last_time):
                way += max(value[CsvColumn.SPEED], 0.0) * max(time - last_time, 0.0)
            distance, last_time = way, time
        points.add(math.nan, math.nan, distance, height, time)
    return recording_of(points.raw())
