"""Recorded rides as FIT: the records of an activity, read by columns.

A FIT file is a row of messages, each of a layout that was defined before it. One pass notes where the messages lie;
the few fields that a ride needs are then taken out of all of them at once. (A decoder that makes an object of every
field takes a hundred times as long; the tests decode the same files with one and compare.) Layout and base types:
the format's published specification.
"""

import struct
from dataclasses import dataclass, field
from enum import IntEnum
from typing import IO

import fastcrc
import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import Recording, recording_of
from clavis.core.physics.road import HIGHEST_M, LOWEST_M
from clavis.formats.recorded_points import Points, ensure_room, on_earth, position

Array = NDArray[np.float64]
SEMICIRCLE_DEG = 180.0 / 2**31
EPOCH_S = 631_065_600
"""moments of the file count from 1989-12-31, s since 1970"""
EARLIEST_STAMP = 0x10000000
"""a smaller stamp counts from when the recorder was switched on"""
HEADER_BYTES, CRC_BYTES = 12, 2
MOST_MESSAGES, MOST_DEFINITIONS = 1_000_000, 5000
"""of a file: more than any recorder writes. A message may be one byte long: without a bound a file of such takes half a
minute"""


class _Message(IntEnum):
    RECORD = 20
    EVENT = 21


class _Field(IntEnum):
    """Numbers of fields in a record."""

    LAT = 0
    LON = 1
    ALTITUDE = 2
    DISTANCE = 5
    SPEED_AND_DISTANCE = 8
    ENHANCED_ALTITUDE = 78
    TIMESTAMP = 253


READ = frozenset(_Field)
"""fields whose place is kept; those of an event have the numbers of the first of them"""
TIMER_EVENT, EVENT, EVENT_TYPE, START = 0, 0, 1, 0
ALTITUDE_SCALE, ALTITUDE_OFFSET_M, DISTANCE_SCALE = 5.0, 500.0, 100.0
PACKED_SCALE, PACKED_BITS = 16.0, 12
BASE_TYPES: dict[int, tuple[str, float | None]] = {
    0x00: ("u1", 0xFF),
    0x01: ("i1", 0x7F),
    0x02: ("u1", 0xFF),
    0x0A: ("u1", 0),
    0x0D: ("u1", 0xFF),
    0x83: ("i2", 0x7FFF),
    0x84: ("u2", 0xFFFF),
    0x85: ("i4", 0x7FFFFFFF),
    0x86: ("u4", 0xFFFFFFFF),
    0x88: ("f4", None),
    0x89: ("f8", None),
    0x8B: ("u2", 0),
    0x8C: ("u4", 0),
    0x8E: ("i8", 0x7FFFFFFFFFFFFFFF),
    0x8F: ("u8", 0xFFFFFFFFFFFFFFFF),
    0x90: ("u8", 0),
}
"""numpy's name of each base type, and the number that stands for “no value”"""


@dataclass(frozen=True)
class _Part:
    """A field of a layout: where it lies in the message, bytes, and of what type it is."""

    at: int
    size: int
    base_type: int


@dataclass
class _Layout:
    """How messages of one local number are built, until it is defined anew; and where they were found: the place of
    each in the file, bytes, and its number among the records."""

    message: int
    order: str
    parts: dict[int, _Part]
    size: int
    found_at: list[int] = field(default_factory=list)
    numbers: list[int] = field(default_factory=list)

    def column(self, data: NDArray[np.uint8], wanted: int) -> Array | None:
        """A field of all messages found, NaN where it has no value; None where the layout lacks it."""
        part = self.parts.get(wanted)
        if part is None or part.base_type not in BASE_TYPES:
            return None
        name, no_value = BASE_TYPES[part.base_type]
        kind = np.dtype(self.order + name)
        if part.size != kind.itemsize:
            return None
        raw = self._bytes(data, part).view(kind)[:, 0]
        values = raw.astype(np.float64)
        return values if no_value is None else np.where(raw == no_value, np.nan, values)

    def packed_distance(self, data: NDArray[np.uint8]) -> Array | None:
        """Twelve bits of a distance that begins anew after 256 m, as old recorders write it; m, unrolled."""
        part = self.parts.get(_Field.SPEED_AND_DISTANCE)
        if part is None or part.size != 3:
            return None
        raw = self._bytes(data, part).astype(np.int64)
        there = ~(raw == 0xFF).all(axis=1)
        counts = (raw[:, 1] >> 4) | (raw[:, 2] << 4)
        steps = np.diff(counts[there], prepend=0) % (1 << PACKED_BITS)
        way = np.full(len(raw), np.nan)
        way[there] = np.cumsum(steps) / PACKED_SCALE
        return way

    def _bytes(self, data: NDArray[np.uint8], part: _Part) -> NDArray[np.uint8]:
        """(messages, bytes of the field)"""
        starts = np.array(self.found_at, dtype=np.int64) + part.at
        return np.ascontiguousarray(data[starts[:, None] + np.arange(part.size)])


class _DamagedError(Exception):
    """Why a file is no FIT; the caller adds after which record."""


@dataclass
class _File:
    """One pass over the messages of a file."""

    data: bytes
    records: int = 0
    starts: list[int] = field(default_factory=list)
    stamps: dict[int, float] = field(default_factory=dict)
    """moments that stand in a message's head as seconds after the moment before, by number of the record"""
    layouts: list[_Layout] = field(default_factory=list)
    _defined: dict[int, _Layout] = field(default_factory=dict)
    _last_stamp: int = 0
    _messages: int = 0
    _definitions: int = 0

    def walk(self) -> None:
        """All files that are chained in this one. Raises _DamagedError, ProfileError for too many records."""
        at = 0
        while at < len(self.data):
            self._defined, self._last_stamp = {}, 0
            if at:
                self.starts.append(self.records)
            at = self._one(at)

    def _one(self, begin: int) -> int:
        """The file that begins here; where it ends. Its checksums first: a damaged file is not guessed at."""
        data = self.data
        if len(data) < begin + HEADER_BYTES:
            raise _DamagedError("the file is cut short")
        size: int
        body: int
        size, _protocol, _profile, body, mark = struct.unpack_from("<BBHI4s", data, begin)
        at = begin + size
        end = at + body
        if size < HEADER_BYTES or mark != b".FIT":
            raise _DamagedError("the header is damaged")
        if len(data) < end + CRC_BYTES:
            raise _DamagedError("the file is cut short")
        if size >= HEADER_BYTES + CRC_BYTES:
            (stated,) = struct.unpack_from("<H", data, begin + HEADER_BYTES)
            if stated and stated != fastcrc.crc16.arc(data[begin : begin + HEADER_BYTES]):
                raise _DamagedError("the header's checksum does not match")
        (stated,) = struct.unpack_from("<H", data, end)
        if stated != fastcrc.crc16.arc(data[begin:end]):
            raise _DamagedError("the checksum does not match")
        while at < end:
            at = self._message(at, end)
        if at != end:
            raise _DamagedError("the last message is cut short")
        return end + CRC_BYTES

    def _message(self, at: int, end: int) -> int:
        """The message at this place; where the next one begins."""
        self._messages += 1
        if self._messages > MOST_MESSAGES:
            raise _DamagedError("it is built as no FIT is: too many messages")
        head = self.data[at]
        seconds = None
        if head & 0x80:  # a data message with the moment in its head
            local, seconds = head >> 5 & 0x3, head & 0x1F
        elif head & 0x40:
            return self._define(at, head)
        else:
            local = head & 0xF
        layout = self._defined.get(local)
        if layout is None:
            raise _DamagedError(f"local message {local} is not defined")
        after = at + 1 + layout.size
        if after > end:
            raise _DamagedError("a message is cut short")
        self._stamp(layout, at + 1, seconds)
        if layout.message == _Message.RECORD:
            ensure_room(self.records)
            layout.found_at.append(at + 1)
            layout.numbers.append(self.records)
            if seconds is not None:
                self.stamps[self.records] = float(self._last_stamp)
            self.records += 1
        elif layout.message == _Message.EVENT and self._is_start(layout, at + 1):
            self.starts.append(self.records)
        return after

    def _stamp(self, layout: _Layout, at: int, seconds: int | None) -> None:
        """The last moment, which heads with seconds only count on from (they roll over after 32)."""
        part = layout.parts.get(_Field.TIMESTAMP)
        if part is not None and part.size == 4:
            stamp: int
            (stamp,) = struct.unpack_from(layout.order + "I", self.data, at + part.at)
            if stamp != 0xFFFFFFFF:
                self._last_stamp = stamp
        if seconds is not None:
            self._last_stamp += (seconds - self._last_stamp) & 0x1F

    def _is_start(self, layout: _Layout, at: int) -> bool:
        def value(number: int, otherwise: int) -> int:
            part = layout.parts.get(number)
            return self.data[at + part.at] if part is not None and part.size == 1 else otherwise

        return value(EVENT, TIMER_EVENT) == TIMER_EVENT and value(EVENT_TYPE, 0xFF) == START

    def _define(self, at: int, head: int) -> int:
        """A definition: the layout of its local number from here on; where the next message begins."""
        order = ">" if self.data[at + 2] else "<"
        message, fields = struct.unpack_from(order + "HB", self.data, at + 3)
        at += 6
        parts: dict[int, _Part] = {}
        size = 0
        for _ in range(fields):
            number, width, base_type = self.data[at : at + 3]
            if number in READ:
                parts[number] = _Part(size, width, base_type)
            size += width
            at += 3
        if head & 0x20:  # fields of the maker's own: their length only
            own = self.data[at]
            at += 1
            size += sum(self.data[at + 1 + 3 * k] for k in range(own))
            at += 3 * own
        self._definitions += 1
        if self._definitions > MOST_DEFINITIONS:
            raise _DamagedError("it is built as no FIT is: too many definitions")
        layout = _Layout(message, order, parts, size)
        self._defined[head & 0xF] = layout
        if message == _Message.RECORD:
            self.layouts.append(layout)
        return at


def _joined(file: _File, data: NDArray[np.uint8], *wanted: _Field) -> Array:
    """A value of every record: of the first of these fields that it has, NaN where it has none."""
    whole = np.full(file.records, np.nan)
    for layout in file.layouts:
        mine = np.full(len(layout.numbers), np.nan)
        for name in wanted:
            column = layout.packed_distance(data) if name is _Field.SPEED_AND_DISTANCE else layout.column(data, name)
            if column is not None:
                scaled = column / DISTANCE_SCALE if name is _Field.DISTANCE else column
                mine = np.where(np.isnan(mine), scaled, mine)
        whole[layout.numbers] = mine
    return whole


def _points(file: _File) -> Points:
    """Raises ProfileError where a record lies nowhere on earth."""
    data = np.frombuffer(file.data, dtype=np.uint8)
    lat = _joined(file, data, _Field.LAT) * SEMICIRCLE_DEG
    lon = _joined(file, data, _Field.LON) * SEMICIRCLE_DEG
    height = _joined(file, data, _Field.ENHANCED_ALTITUDE, _Field.ALTITUDE) / ALTITUDE_SCALE - ALTITUDE_OFFSET_M
    stamp = _joined(file, data, _Field.TIMESTAMP)
    stamp[list(file.stamps)] = list(file.stamps.values())
    time = np.where(stamp >= EARLIEST_STAMP, stamp + EPOCH_S, np.nan)
    with np.errstate(invalid="ignore"):
        nowhere = (np.abs(lat) > 90) | (np.abs(lon) > 180)
        no_road = (height < LOWEST_M) | (height > HIGHEST_M)
    if nowhere.any():  # told as every other reader tells it
        k = int(nowhere.argmax())
        position(str(lat[k]), str(lon[k]), f"record {k + 1}")
    if no_road.any():
        k = int(no_road.argmax())
        on_earth(float(height[k]), f"record {k + 1}")
    way = _joined(file, data, _Field.DISTANCE, _Field.SPEED_AND_DISTANCE)
    rows = zip(*(column.tolist() for column in (lat, lon, way, height, time)), strict=True)
    return Points(list(rows), sorted({s for s in file.starts if 0 < s < file.records}))


def read_fit(stream: IO[bytes]) -> Recording:
    """FIT: the records of an activity; a stop and start of the recorder begins a new piece. Raises ProfileError."""
    file = _File(stream.read())
    try:
        file.walk()
    except (_DamagedError, struct.error, IndexError, ValueError) as error:
        if isinstance(error, ProfileError):
            raise
        why = str(error) if isinstance(error, _DamagedError) else "the file is cut short"
        raise ProfileError(f"not readable as FIT after record {file.records}: {why}") from None
    return recording_of(_points(file).raw())
