"""FIT files of any layout, read by columns and by a kept decoder: the same points.

Layouts are drawn: either byte order, fields in any order, of other types, repeated, of a maker's own, moments in the
heads of messages, messages that are no records, definitions made anew in the middle, several files in one.
"""

import io
import math
import struct
from datetime import datetime

import fastcrc
import fitdecode
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import ProfileError
from clavis.formats import recordings_fit
from clavis.formats.recorded_points import Points

FIELDS = {  # number: (size, base type, code, smallest, largest, “no value”)
    253: (4, 0x86, "I", 0x10000000, 0xFFFFFFF0, 0xFFFFFFFF),
    0: (4, 0x85, "i", -(2**30), 2**30, 0x7FFFFFFF),
    1: (4, 0x85, "i", -(2**31), 2**31 - 2, 0x7FFFFFFF),
    2: (2, 0x84, "H", 0, 0xFFFE, 0xFFFF),
    5: (4, 0x86, "I", 0, 0xFFFFFFFE, 0xFFFFFFFF),
    78: (4, 0x86, "I", 0, 47_000, 0xFFFFFFFF),
    3: (1, 0x02, "B", 0, 254, 255),
    6: (2, 0x84, "H", 0, 0xFFFE, 0xFFFF),
    201: (8, 0x89, "d", 0, 1, 0),
}
RECORD, EVENT, LAP = 20, 21, 19
TIMER = ((0, 0), (0, 4), (3, 0))
TIMER_START = ("event", "timer", "start")


@st.composite
def message_files(draw: st.DrawFn) -> bytes:
    """The body of a file: definitions, and messages that follow them."""
    body, defined = bytearray(), {}
    for _ in range(draw(st.integers(1, 12))):
        local = draw(st.integers(0, 15))
        if local not in defined or draw(st.booleans()):
            order = draw(st.sampled_from("<>"))
            message = draw(st.sampled_from((RECORD, RECORD, RECORD, LAP, EVENT)))
            numbers = draw(st.lists(st.sampled_from(sorted(FIELDS)), min_size=1, max_size=9, unique=True))
            own = draw(st.lists(st.integers(1, 6), max_size=2))
            if message == EVENT:
                numbers = [253]
            body += bytes((0x40 | (0x20 if own else 0) | local, 0, order == ">"))
            body += struct.pack(order + "HB", message, len(numbers) + (2 if message == EVENT else 0))
            for n in numbers:
                body += bytes((n, FIELDS[n][0], FIELDS[n][1]))
            if message == EVENT:
                body += bytes((0, 1, 0, 1, 1, 0))
            if own:
                body += bytes((len(own),)) + b"".join(bytes((k, size, 0)) for k, size in enumerate(own))
            defined[local] = (order, message, numbers, sum(own))
        order, message, numbers, own_size = defined[local]
        if draw(st.booleans()) and local < 4 and message == RECORD and 253 not in numbers:
            body.append(0x80 | local << 5 | draw(st.integers(0, 31)))
        else:
            body.append(local)
        for n in numbers:
            _, _, code, low, high, no_value = FIELDS[n]
            value = draw(st.one_of(st.integers(low, high), st.just(no_value)))
            body += struct.pack(order + code, value)
        if message == EVENT:
            body += bytes(draw(st.sampled_from(TIMER)))
        body += bytes(own_size)
    return bytes(body)


def whole(body: bytes, header_bytes: int) -> bytes:
    head = struct.pack("<BBHI4s", header_bytes, 0x20, 2132, len(body), b".FIT")
    if header_bytes == 14:
        head += struct.pack("<H", fastcrc.crc16.arc(head))
    return head + body + struct.pack("<H", fastcrc.crc16.arc(head + body))


def decoded(data: bytes) -> tuple[list[tuple[float, ...]], list[int]]:
    """What the kept decoder makes of it: rows and starts."""
    rows, starts = [], set()

    def value(frame, *names: str) -> float:
        """A field that stands in the file goes before what the decoder makes of another one."""
        fields = [f for name in names for f in frame.fields if f.name == name and isinstance(f.value, int | float)]
        fields.sort(key=lambda f: f.field_def is None)
        return float(fields[0].value) if fields else math.nan

    with fitdecode.FitReader(io.BytesIO(data), check_crc=fitdecode.CrcCheck.RAISE) as reader:
        for frame in reader:
            if frame.frame_type == fitdecode.FIT_FRAME_HEADER and rows:
                starts.add(len(rows))
            if frame.frame_type != fitdecode.FIT_FRAME_DATA:
                continue
            if frame.name == "record":
                moment = frame.get_value("timestamp", fallback=None)
                rows.append(
                    (
                        value(frame, "position_lat") * 180 / 2**31,
                        value(frame, "position_long") * 180 / 2**31,
                        value(frame, "distance"),
                        value(frame, "enhanced_altitude", "altitude"),
                        moment.timestamp() if isinstance(moment, datetime) else math.nan,
                    )
                )
            elif (frame.name, *(frame.get_value(n, fallback=0) for n in ("event", "event_type"))) == TIMER_START:
                starts.add(len(rows))
    return rows, sorted(s for s in starts if 0 < s < len(rows))


def ours(data: bytes) -> Points:
    file = recordings_fit._File(data)
    file.walk()
    return recordings_fit._points(file)


@given(st.lists(message_files(), min_size=1, max_size=2), st.sampled_from((12, 14)))
@pytest.mark.filterwarnings("ignore:.*(dev_data_index|no such field)")
def test_any_layout_gives_the_points_that_a_decoder_finds(bodies: list[bytes], header_bytes: int) -> None:
    data = b"".join(whole(body, header_bytes) for body in bodies)
    rows, starts = decoded(data)
    high = next((k for k, row in enumerate(rows) if row[3] > recordings_fit.HIGHEST_M), None)
    if high is not None:
        with pytest.raises(ProfileError, match=f"record {high + 1} lies at an elevation"):
            ours(data)
        return
    points = ours(data)
    assert points.starts == starts
    assert len(points) == len(rows)
    for mine, theirs in zip(points.rows, rows, strict=True):
        assert mine == pytest.approx(theirs, abs=1e-6, nan_ok=True)


def test_moments_in_the_heads_of_messages_roll_over() -> None:
    """Five bits of seconds: 30, 31, 0, 1 after a whole moment that ends in 29."""
    first = 1_000_000_029 // 32 * 32 + 29
    body = b"\x40\x00\x00" + struct.pack("<HB", RECORD, 2) + bytes((253, 4, 0x86, 5, 4, 0x86))
    body += b"\x41\x00\x00" + struct.pack("<HB", RECORD, 1) + bytes((5, 4, 0x86))
    body += b"\x00" + struct.pack("<II", first, 0)
    for k, low in enumerate((30, 31, 0, 1)):
        body += bytes((0x80 | 1 << 5 | low,)) + struct.pack("<I", 500 * k)
    times = [row[4] - recordings_fit.EPOCH_S for row in ours(whole(body, 14)).rows]
    assert times == [first, first + 1, first + 2, first + 3, first + 4]


def test_a_packed_distance_is_unrolled() -> None:
    """Twelve bits of sixteenths of a metre begin anew after 256 m; as a kept decoder has it."""
    ways_m = [0, 100, 200, 300, 400, 650]
    body = b"\x40\x00\x00" + struct.pack("<HB", RECORD, 2) + bytes((253, 4, 0x86, 8, 3, 0x0D))
    for k, way in enumerate(ways_m):
        packed = (way * 16 % 4096) << 12 | 500
        body += b"\x00" + struct.pack("<I", 1_000_000_000 + k) + packed.to_bytes(3, "little")
    data = whole(body, 14)
    assert [row[2] for row in ours(data).rows] == ways_m
    assert [row[2] for row in decoded(data)[0]] == ways_m


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (b"\x40\x00\x00" + struct.pack("<HB", LAP, 0) + b"\x00" * 1_100_000, "too many messages"),
        ((b"\x40\x00\x00" + struct.pack("<HB", RECORD, 1) + bytes((5, 4, 0x86))) * 6000, "too many definitions"),
    ],
)
def test_what_is_built_to_take_long_is_refused(body: bytes, words: str) -> None:
    with pytest.raises(ProfileError, match=words):
        recordings_fit.read_fit(io.BytesIO(whole(body, 14)))


@pytest.mark.parametrize(
    ("damage", "words"),
    [
        (lambda d: d[:-1], "the file is cut short"),
        (lambda d: d[:8], "the file is cut short"),
        (lambda d: d[:9] + b"X" + d[10:], "the header is damaged"),
        (lambda d: d[:4] + b"\x01" + d[5:], "the header's checksum"),
        (lambda d: d[:20] + bytes((d[20] ^ 1,)) + d[21:], "the checksum does not match"),
        (lambda d: whole(b"\x07" + d[14:-2], 14), "local message 7 is not defined"),
        (lambda d: whole(d[14:-4], 14), "a message is cut short"),
        (lambda d: whole(d[14:-2] + b"\x40\x00", 14), "the file is cut short"),
    ],
)
def test_what_is_damaged_is_said_by_name(damage, words: str) -> None:
    body = b"\x40\x00\x00" + struct.pack("<HB", RECORD, 1) + bytes((5, 4, 0x86)) + b"\x00" + struct.pack("<I", 7)
    with pytest.raises(ProfileError, match=words):
        recordings_fit.read_fit(io.BytesIO(damage(whole(body, 14))))
