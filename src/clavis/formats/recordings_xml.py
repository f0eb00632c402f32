"""Recorded rides as XML: GPX and TCX, streamed through expat, which ``defusedxml`` hardens.

The parser calls back for every element, and a day's file has a million of them: the handlers are set on expat itself,
and letters come only while somebody waits for them. What a file may be built of is bounded, so that no file takes
longer than a long ride does.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import IO
from xml.parsers.expat import ExpatError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import XMLParser

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import Recording, recording_of
from clavis.formats import csv_table
from clavis.formats.recorded_points import Points, height_m, position

MOST_DEPTH, MOST_NAMES, MOST_ATTRIBUTES, LONGEST_TEXT = 40, 500, 60, 200
MOST_TAGS = 4_000_000
"""of an XML file, opening and closing ones: more than any recorder writes"""
LONGEST_TAG_BYTES = 1 << 18
"""expat reads an unfinished tag or remark anew with each piece of the file: without a bound a file of one tag takes
time by the square of its length"""
CHUNK_BYTES = 1 << 16
Attributes = dict[str, str]
Texts = dict[str, str]


@dataclass(frozen=True)
class _Dialect:
    """What an XML track file calls things. ``points`` are read by ``take`` from their attributes and the texts inside
    them, by path; ``pieces`` begin a new piece. Points of the first kind found win over those of the next: a file may
    hold the track ridden and the route planned."""

    root: str
    name: str
    points: tuple[str, ...]
    pieces: tuple[str, ...]
    texts: frozenset[str]
    take: Callable[[Attributes, Texts, Points], None]


class _TrackReader:
    """One file: nothing of it is kept but the points. Expat calls one pair of handlers between points and one inside
    of them."""

    def __init__(self, dialect: _Dialect) -> None:
        self.dialect = dialect
        self.found = {name: Points() for name in dialect.points}
        self._parser = XMLParser(forbid_dtd=True)
        self._expat = self._parser.parser
        self._expat.DefaultHandlerExpand = None
        self._expat.ordered_attributes = False
        self._expat.CharacterDataHandler = self._letters
        self._expat.StartElementHandler = self._root
        self._expat.EndElementHandler = self._between_end
        self._local: dict[str, str] = {}
        self._leaves = {path.rsplit("/", 1)[-1] for path in dialect.texts}
        self._between_depth = 0
        self._point = ""
        self._attributes: Attributes = {}
        self._texts: Texts = {}
        self._path: list[str] = []
        self._wanted = ""

    def _name(self, tag: str) -> str:
        """Without its namespace, which expat sets before a closing brace."""
        if len(self._local) >= MOST_NAMES:
            raise self._no_such_file()
        name = self._local[tag] = tag.rsplit("}", 1)[-1]
        return name

    def _no_such_file(self) -> ProfileError:
        return ProfileError(f"the file is built as no {self.dialect.name} is: it is nested too deep, or too long")

    def _root(self, tag: str, _attributes: Attributes) -> None:
        if self._name(tag) != self.dialect.root:
            raise ProfileError(f"this is XML, but not {self.dialect.name}: it begins with <{self._name(tag)[:30]}>")
        self._expat.StartElementHandler = self._between_start

    def _between_start(self, tag: str, attributes: Attributes) -> None:
        name = self._local.get(tag) or self._name(tag)
        if len(attributes) > MOST_ATTRIBUTES:
            raise self._no_such_file()
        if name in self.found:
            self._point, self._attributes, self._texts = name, attributes, {}
            self._expat.StartElementHandler, self._expat.EndElementHandler = self._inside_start, self._inside_end
            return
        self._between_depth += 1
        if self._between_depth > MOST_DEPTH:
            raise self._no_such_file()
        if name in self.dialect.pieces:
            for points in self.found.values():
                points.begin_piece()

    def _between_end(self, _tag: str) -> None:
        self._between_depth -= 1

    def _inside_start(self, tag: str, _attributes: Attributes) -> None:
        name = self._local.get(tag) or self._name(tag)
        path = self._path
        path.append(name)
        self._wanted = whole if name in self._leaves and (whole := "/".join(path)) in self.dialect.texts else ""
        if len(path) > MOST_DEPTH:
            raise self._no_such_file()

    def _letters(self, text: str) -> None:
        if self._wanted:
            said = self._texts.get(self._wanted, "") + text
            if len(said) > LONGEST_TEXT:
                raise ProfileError(f"a value of the file is longer than {LONGEST_TEXT} letters")
            self._texts[self._wanted] = said

    def _inside_end(self, _tag: str) -> None:
        self._wanted = ""
        if self._path:
            self._path.pop()
            return
        texts = {path: text.strip() for path, text in self._texts.items()}
        self.dialect.take(self._attributes, texts, self.found[self._point])
        self._expat.StartElementHandler, self._expat.EndElementHandler = self._between_start, self._between_end

    def read(self, stream: IO[bytes]) -> Points:
        """Raises ProfileError, and what expat and ``defusedxml`` raise."""
        fed = tags = 0
        while chunk := stream.read(CHUNK_BYTES):
            tags += chunk.count(b"<")
            fed += len(chunk)
            if tags > MOST_TAGS:
                raise self._no_such_file()
            self._expat.Parse(chunk, False)
            if fed - self._expat.CurrentByteIndex > LONGEST_TAG_BYTES + CHUNK_BYTES:
                raise self._no_such_file()
        self._expat.Parse(b"", True)
        return next((p for p in self.found.values() if len(p)), next(iter(self.found.values())))


def _xml(stream: IO[bytes], dialect: _Dialect) -> Points:
    """Stream an XML file through a hardened parser. Raises ProfileError with the place."""
    try:
        return _TrackReader(dialect).read(stream)
    except ExpatError as error:
        raise ProfileError(f"not readable as XML: line {error.lineno}, column {error.offset}") from None
    except DefusedXmlException:
        raise ProfileError(
            f"the file declares entities or a document type, which a {dialect.name} does not need; refused"
        ) from None
    except (ValueError, LookupError, UnicodeError) as error:
        if isinstance(error, ProfileError):
            raise
        raise ProfileError("not readable as XML: its text encoding is not what it says") from None


def _gpx_point(attributes: Attributes, texts: Texts, points: Points) -> None:
    place = f"point {len(points) + 1}"
    lat, lon = position(attributes.get("lat"), attributes.get("lon"), place)
    height = height_m(texts["ele"], place) if texts.get("ele") else math.nan
    time = csv_table.moment_s(texts["time"], place) if texts.get("time") else math.nan
    points.add(lat, lon, math.nan, height, time)


GPX = _Dialect("gpx", "GPX", ("trkpt", "rtept"), ("trkseg", "rte"), frozenset({"ele", "time"}), _gpx_point)


def read_gpx(stream: IO[bytes]) -> Recording:
    """GPX 1.0 or 1.1: tracks, or routes where there is none; every segment a piece. Raises ProfileError in plain
    words."""
    return recording_of(_xml(stream, GPX).raw())


_LAT, _LON = "Position/LatitudeDegrees", "Position/LongitudeDegrees"


def _tcx_point(_attributes: Attributes, texts: Texts, points: Points) -> None:
    place = f"trackpoint {len(points) + 1}"
    lat = lon = math.nan
    if _LAT in texts or _LON in texts:
        lat, lon = position(texts.get(_LAT), texts.get(_LON), place)
    height = height_m(texts["AltitudeMeters"], place) if texts.get("AltitudeMeters") else math.nan
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
