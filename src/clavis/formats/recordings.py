"""Reading recorded rides from outside: GPX, TCX, FIT and CSV, streamed where they can be large.

Every reader gives the points as they stand in the file (``RawTrack``); ``core.recording`` makes the track of them.
XML goes through a hardened reader. Every refusal names its place in the file.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from typing import IO, Any
from xml.etree.ElementTree import ParseError

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import XMLParser

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import RawTrack, Recording, recording_of
from clavis.core.physics.road import HIGHEST_M, LOWEST_M
from clavis.formats import csv_table
from clavis.formats.tracks import MOST_POINTS


@dataclass
class _Points:
    """Columns of a file as they are read, NaN where a point has no value; and where its pieces begin."""

    lat: list[float] = field(default_factory=list)
    lon: list[float] = field(default_factory=list)
    distance_m: list[float] = field(default_factory=list)
    elevation_m: list[float] = field(default_factory=list)
    time_s: list[float] = field(default_factory=list)
    starts: list[int] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.elevation_m)

    def add(self, lat: float, lon: float, distance_m: float, elevation_m: float, time_s: float) -> None:
        if len(self) >= MOST_POINTS:
            raise ProfileError(f"the track has more than {MOST_POINTS:,} points; cut it first")
        self.lat.append(lat)
        self.lon.append(lon)
        self.distance_m.append(distance_m)
        self.elevation_m.append(elevation_m)
        self.time_s.append(time_s)

    def begin_piece(self) -> None:
        if len(self) and (not self.starts or self.starts[-1] != len(self)):
            self.starts.append(len(self))

    def raw(self) -> RawTrack:
        """By positions, or by the file's own distances where more points have those; points without are left out."""
        columns = (self.lat, self.lon, self.distance_m, self.elevation_m, self.time_s)
        lat, lon, distance, elevation, time = (np.array(c, dtype=np.float64) for c in columns)
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


def _height_m(text: str, place: str) -> float:
    try:
        height = float(text)
    except ValueError:
        raise ProfileError(f"{place} has the elevation “{csv_table.in_short(text)}”") from None
    if not (math.isfinite(height) and LOWEST_M <= height <= HIGHEST_M):
        raise ProfileError(f"{place} lies at an elevation of {text[:20]} m")
    return height


def _position(lat_text: str | None, lon_text: str | None, place: str) -> tuple[float, float]:
    try:
        lat, lon = float(lat_text or ""), float(lon_text or "")
    except ValueError:
        raise ProfileError(f"{place} has no readable lat and lon") from None
    if not (-90 <= lat <= 90 and -180 <= lon <= 180):
        raise ProfileError(f"{place} lies at {lat:g}, {lon:g}: no place on earth")
    return lat, lon


MOST_DEPTH, MOST_ELEMENTS, MOST_ATTRIBUTES, LONGEST_TEXT = 40, 3_000_000, 60, 200
"""of an XML file: more than any recorder writes"""
Attributes = dict[str, str]
Texts = dict[str, str]


@dataclass(frozen=True)
class _Dialect:
    """What an XML track file calls things. ``point`` elements are read by ``take`` from their attributes and the texts
    inside them, by path; ``pieces`` begin a new piece. Points of the first kind found win over those of the next: a
    file may hold the track ridden and the route planned."""

    root: str
    name: str
    points: tuple[str, ...]
    pieces: tuple[str, ...]
    texts: frozenset[str]
    take: Callable[[Attributes, Texts, "_Points"], None]


class _Target:
    """Target of the streaming parser: nothing of the file is kept but the points."""

    def __init__(self, dialect: _Dialect) -> None:
        self.dialect = dialect
        self.found = {name: _Points() for name in dialect.points}
        self._local: dict[str, str] = {}
        self._point: str | None = None
        self._attributes: Attributes = {}
        self._texts: Texts = {}
        self._path: list[str] = []
        self._depth = self._elements = 0
        self._wanted: str | None = None
        self._rooted = False

    def _name(self, tag: str) -> str:
        name = self._local.get(tag)
        if name is None:
            name = self._local[tag] = tag.rsplit("}", 1)[-1]
        return name

    def start(self, tag: str, attributes: Attributes) -> None:
        name = self._name(tag)
        self._depth += 1
        self._elements += 1
        if self._depth > MOST_DEPTH or self._elements > MOST_ELEMENTS or len(attributes) > MOST_ATTRIBUTES:
            raise ProfileError(f"the file is built as no {self.dialect.name} is: it is nested too deep, or too long")
        if self._point is not None:
            self._path.append(name)
            path = "/".join(self._path)
            self._wanted = path if path in self.dialect.texts else None
        elif name in self.found:
            self._point, self._attributes, self._texts, self._wanted = name, attributes, {}, None
        elif name in self.dialect.pieces:
            for points in self.found.values():
                points.begin_piece()
        if not self._rooted:
            if name != self.dialect.root:
                raise ProfileError(f"this is XML, but not {self.dialect.name}: it begins with <{name[:30]}>")
            self._rooted = True

    def data(self, text: str) -> None:
        if self._wanted is not None:
            said = self._texts.get(self._wanted, "") + text
            if len(said) > LONGEST_TEXT:
                raise ProfileError(f"a value of the file is longer than {LONGEST_TEXT} letters")
            self._texts[self._wanted] = said

    def end(self, _tag: str) -> None:
        self._depth -= 1
        if self._point is None:
            return
        self._wanted = None
        if self._path:
            self._path.pop()
            return
        texts = {path: text.strip() for path, text in self._texts.items()}
        self.dialect.take(self._attributes, texts, self.found[self._point])
        self._point = None

    def close(self) -> _Points:
        return next((p for p in self.found.values() if len(p)), next(iter(self.found.values())))


CHUNK_BYTES = 1 << 16


def _xml(stream: IO[bytes], dialect: _Dialect) -> _Points:
    """Stream an XML file through a hardened parser. Raises ProfileError with the place."""
    try:
        parser = XMLParser(target=_Target(dialect), forbid_dtd=True)
        while chunk := stream.read(CHUNK_BYTES):
            parser.feed(chunk)
        points: _Points = parser.close()
    except ParseError as error:
        line, column = error.position
        raise ProfileError(f"not readable as XML: line {line}, column {column}") from None
    except DefusedXmlException:
        raise ProfileError(
            f"the file declares entities or a document type, which a {dialect.name} does not need; refused"
        ) from None
    except (ValueError, LookupError, UnicodeError) as error:
        if isinstance(error, ProfileError):
            raise
        raise ProfileError("not readable as XML: its text encoding is not what it says") from None
    return points


def _gpx_point(attributes: Attributes, texts: Texts, points: _Points) -> None:
    place = f"point {len(points) + 1}"
    lat, lon = _position(attributes.get("lat"), attributes.get("lon"), place)
    height = _height_m(texts["ele"], place) if texts.get("ele") else math.nan
    time = csv_table.moment_s(texts["time"], place) if texts.get("time") else math.nan
    points.add(lat, lon, math.nan, height, time)


GPX = _Dialect("gpx", "GPX", ("trkpt", "rtept"), ("trkseg", "rte"), frozenset({"ele", "time"}), _gpx_point)


def read_gpx(stream: IO[bytes]) -> Recording:
    """GPX 1.0 or 1.1: tracks, or routes where there is none; every segment a piece. Raises ProfileError in plain
    words."""
    return recording_of(_xml(stream, GPX).raw())


_LAT, _LON = "Position/LatitudeDegrees", "Position/LongitudeDegrees"


def _tcx_point(_attributes: Attributes, texts: Texts, points: _Points) -> None:
    place = f"trackpoint {len(points) + 1}"
    lat = lon = math.nan
    if _LAT in texts or _LON in texts:
        lat, lon = _position(texts.get(_LAT), texts.get(_LON), place)
    height = _height_m(texts["AltitudeMeters"], place) if texts.get("AltitudeMeters") else math.nan
    way = csv_table.number(texts["DistanceMeters"], f"{place}: distance") if texts.get("DistanceMeters") else math.nan
    time = csv_table.moment_s(texts["Time"], place) if texts.get("Time") else math.nan
    points.add(lat, lon, way, height, time)


TCX = _Dialect(
    "TrainingCenterDatabase",
    "TCX",
    ("Trackpoint",),
    ("Track",),
    frozenset({_LAT, _LON, "AltitudeMeters", "DistanceMeters", "Time"}),
    _tcx_point,
)


def read_tcx(stream: IO[bytes]) -> Recording:
    """TCX: an activity's laps, every track a piece."""
    return recording_of(_xml(stream, TCX).raw())


SEMICIRCLE_DEG = 180.0 / 2**31


def read_fit(stream: IO[bytes]) -> Recording:
    """FIT: the records of an activity; a stop and start of the recorder begins a new piece."""
    import fitdecode

    points = _Points()
    try:
        with fitdecode.FitReader(
            stream, error_handling=fitdecode.ErrorHandling.RAISE, check_crc=fitdecode.CrcCheck.RAISE
        ) as reader:
            for frame in reader:
                if frame.frame_type != fitdecode.FIT_FRAME_DATA:
                    continue
                if frame.name == "record":
                    _fit_record(frame, points)
                elif frame.name == "event" and frame.get_value("event_type", fallback=None) == "start":
                    points.begin_piece()
    except ProfileError:
        raise
    except Exception as error:  # whatever a decoder stumbles over is the file's fault
        raise ProfileError(f"not readable as FIT after record {len(points)}: {str(error)[:80]}") from None
    return recording_of(points.raw())


def _fit_record(frame: Any, points: _Points) -> None:
    place = f"record {len(points) + 1}"

    def value(*names: str) -> float:
        for name in names:
            found = frame.get_value(name, fallback=None)
            if isinstance(found, int | float):
                return float(found)
        return math.nan

    lat, lon = value("position_lat") * SEMICIRCLE_DEG, value("position_long") * SEMICIRCLE_DEG
    if math.isfinite(lat) and math.isfinite(lon):
        _position(str(lat), str(lon), place)
    height = value("enhanced_altitude", "altitude")
    if math.isfinite(height):
        _height_m(f"{height}", place)
    moment = frame.get_value("timestamp", fallback=None)
    time = moment.timestamp() if isinstance(moment, datetime) else math.nan
    points.add(lat, lon, value("distance"), height, time)


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
    points, last_time, way = _Points(), math.nan, 0.0
    for line, row in csv_table.rows(data):
        if line == 1:
            continue
        value: dict[CsvColumn, float] = {}
        for column, k in choice.columns.items():
            text = row[k] if k is not None and k < len(row) else ""
            place = f"line {line}, column {(k or 0) + 1}"
            unit = choice.units[column]
            if not text:
                value[column] = math.nan
            elif column is CsvColumn.TIME and unit.startswith("h:m:s"):
                value[column] = csv_table.clock_s(text, place)
            else:
                value[column] = csv_table.number(text, place) * UNITS[column][unit]
        height = value[CsvColumn.ELEVATION]
        if math.isfinite(height):
            _height_m(f"{height}", f"line {line}")
        time, distance = value[CsvColumn.TIME], value[CsvColumn.DISTANCE]
        if choice.columns[CsvColumn.DISTANCE] is None:
            if math.isfinite(time) and math.isfinite(last_time):
                way += max(value[CsvColumn.SPEED], 0.0) * max(time - last_time, 0.0)
            distance, last_time = way, time
        points.add(math.nan, math.nan, distance, height, time)
    return recording_of(points.raw())


class FileKind(StrEnum):
    GPX = "gpx"
    TCX = "tcx"
    FIT = "fit"
    CSV = "csv"


def kind_of_file(name: str, head: bytes) -> FileKind:
    """What a file is, by what it holds rather than by its name. Raises ProfileError for anything else."""
    start = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    if head[8:12] == b".FIT":
        return FileKind.FIT
    if start.startswith(b"<"):
        return FileKind.TCX if b"TrainingCenterDatabase" in head or name.lower().endswith(".tcx") else FileKind.GPX
    if b"\0" in head:
        raise ProfileError("this is no GPX, TCX, FIT or CSV file")
    if name.lower().endswith((".csv", ".txt", ".tsv")):
        return FileKind.CSV
    return FileKind.GPX
