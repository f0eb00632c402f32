"""Activity files of other kinds than GPX: TCX, FIT (written here byte by byte), CSV with chosen columns."""

import contextlib
import io
import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import NoteKind
from clavis.formats.recordings import FileKind, kind_of_file
from clavis.formats.recordings_csv import CsvChoice, CsvColumn, look_at_csv, read_csv
from clavis.formats.recordings_fit import read_fit
from clavis.formats.recordings_xml import read_gpx, read_tcx

# --- TCX ---------------------------------------------------------------------------------------------------------


def trackpoint(k: int, *, position: bool = True, distance: bool = True) -> str:
    where = (
        f"<Position><LatitudeDegrees>{k / 10000:.6f}</LatitudeDegrees><LongitudeDegrees>0</LongitudeDegrees></Position>"
        if position
        else ""
    )
    way = f"<DistanceMeters>{k * 12.5}</DistanceMeters>" if distance else ""
    return (
        f"<Trackpoint><Time>2026-05-01T10:{k // 60:02d}:{k % 60:02d}Z</Time>{where}"
        f"<AltitudeMeters>{300 - k * 0.5}</AltitudeMeters>{way}</Trackpoint>"
    )


def tcx(*tracks: str) -> bytes:
    inside = "".join(f"<Track>{t}</Track>" for t in tracks)
    return (
        '<?xml version="1.0"?><TrainingCenterDatabase xmlns="urn:training">'
        f"<Activities><Activity Sport='Biking'><Lap StartTime='x'>{inside}</Lap></Activity></Activities>"
        "</TrainingCenterDatabase>"
    ).encode()


def test_tcx_by_distance_and_by_position() -> None:
    by_way = read_tcx(io.BytesIO(tcx("".join(trackpoint(k, position=False) for k in range(60))))).track
    assert by_way.distance_m[-1] == pytest.approx(59 * 12.5)
    assert by_way.time_s[-1] == 59
    assert by_way.elevation_m[-1] == pytest.approx(270.5)
    by_place = read_tcx(io.BytesIO(tcx("".join(trackpoint(k, distance=False) for k in range(60))))).track
    # a ten-thousandth of a degree is 11.12 m
    assert by_place.distance_m[-1] == pytest.approx(59 * 11.1195, abs=0.5)


def test_a_tcx_error_names_its_trackpoint() -> None:
    bad = trackpoint(0) + trackpoint(1).replace("299.5", "high") + trackpoint(2)
    with pytest.raises(ProfileError, match="trackpoint 2 has the elevation “high”"):
        read_tcx(io.BytesIO(tcx(bad)))
    with pytest.raises(ProfileError, match="not TCX: it begins with <gpx>"):
        read_tcx(io.BytesIO(b"<gpx/>"))


def test_blanks_about_a_value_are_no_part_of_it() -> None:
    """As a writer that sets every value on a line of its own leaves them; and an empty one is none."""
    plain = "".join(trackpoint(k) for k in range(60))
    spaced = plain.replace("<Time>", "<Time>\n  ").replace("</Time>", "\n</Time>")
    spaced = spaced.replace("<AltitudeMeters>", "<AltitudeMeters>\n ").replace(
        "</AltitudeMeters>", " </AltitudeMeters>"
    )
    found, asked = (read_tcx(io.BytesIO(tcx(text))).track for text in (spaced, plain))
    assert (found.elevation_m == asked.elevation_m).all()
    assert (found.time_s == asked.time_s).all()
    point = '<trkpt lat="{:.5f}" lon="7"><ele>\n{}\n</ele><time> </time></trkpt>'
    points = "".join(point.format(46 + k / 10_000, "" if k == 5 else 500 - k) for k in range(60))
    read = read_gpx(io.BytesIO(f"<gpx><trk><trkseg>{points}</trkseg></trk></gpx>".encode()))
    assert read.track.time_s is None
    assert any(note.kind is NoteKind.HEIGHT for note in read.notes)


# --- FIT: a header, definitions, records, a checksum (the format's published layout) ------------------------------

CRC_TABLE = (0x0000, 0xCC01, 0xD801, 0x1400, 0xF001, 0x3C00, 0x2800, 0xE401,
             0xA001, 0x6C00, 0x7800, 0xB401, 0x5000, 0x9C01, 0x8801, 0x4400)  # fmt: skip


def crc(data: bytes) -> int:
    value = 0
    for byte in data:
        for nibble in (byte & 0xF, byte >> 4):
            value = (value >> 4) ^ CRC_TABLE[value & 0xF] ^ CRC_TABLE[nibble]
    return value


NO_HEIGHT, NO_PLACE = 0xFFFF, 0x7FFFFFFF


def fit(records, events=()) -> bytes:
    """Records of (seconds, lat°, lon°, height m or None, distance m); an event before the record of that number."""
    body = b"\x40\x00\x00" + struct.pack("<HB", 0, 1) + bytes((0, 1, 0x00))  # file_id: type
    body += b"\x00\x04"
    body += b"\x41\x00\x00" + struct.pack("<HB", 20, 5)  # record
    body += bytes((253, 4, 0x86, 0, 4, 0x85, 1, 4, 0x85, 2, 2, 0x84, 5, 4, 0x86))
    body += b"\x42\x00\x00" + struct.pack("<HB", 21, 3) + bytes((253, 4, 0x86, 0, 1, 0x00, 1, 1, 0x00))  # event
    for k, (seconds, lat, lon, height, way) in enumerate(records):
        if k in events:
            body += b"\x02" + struct.pack("<IBB", 1_100_000_000 + seconds, 0, 0)  # timer, start
        place = (NO_PLACE, NO_PLACE) if lat is None else (round(lat * 2**31 / 180), round(lon * 2**31 / 180))
        raw_height = NO_HEIGHT if height is None else round((height + 500) * 5)
        body += b"\x01" + struct.pack("<IiiHI", 1_100_000_000 + seconds, *place, raw_height, round(way * 100))
    head = struct.pack("<BBHI4s", 14, 0x20, 2132, len(body), b".FIT")
    head += struct.pack("<H", crc(head))
    return head + body + struct.pack("<H", crc(head + body))


RIDE = [(k, k * 0.0001, 0.0, 300 - k * 0.4, k * 11.12) for k in range(80)]


def test_fit_records_become_a_track() -> None:
    track = read_fit(io.BytesIO(fit(RIDE))).track
    assert len(track.distance_m) == 80
    assert track.distance_m[-1] == pytest.approx(79 * 11.1195, rel=0.01)
    assert list(track.time_s[:3]) == [0, 1, 2]
    assert track.elevation_m == pytest.approx([300 - k * 0.4 for k in range(80)], abs=0.11)


def test_fit_without_positions_uses_the_wheel_sensor() -> None:
    indoors = [(s, None, None, h, w) for s, _, _, h, w in RIDE]
    assert read_fit(io.BytesIO(fit(indoors))).track.distance_m[-1] == pytest.approx(79 * 11.12, abs=0.1)


def test_fit_missing_heights_and_a_stop_of_the_recorder() -> None:
    gone = [(s, a, o, None if 20 <= s < 25 else h, w) for s, a, o, h, w in RIDE]
    assert any(n.kind is NoteKind.HEIGHT and "5 points" in n.words for n in read_fit(io.BytesIO(fit(gone))).notes)
    later = [(s + (0 if s < 40 else 900), a + (0 if s < 40 else 0.02), o, h, w) for s, a, o, h, w in RIDE]
    assert read_fit(io.BytesIO(fit(later, events=(40,)))).track.starts == (40,)


def test_a_broken_fit_file_is_refused() -> None:
    whole = fit(RIDE)
    for broken in (whole[:200], b"\x0e\x20.FITno", whole[:-2] + b"\x00\x00", whole[:60] + b"\xff" * 20 + whole[80:]):
        with pytest.raises(ProfileError):
            read_fit(io.BytesIO(broken))


@given(st.binary(max_size=200), st.integers(0, 600))
def test_any_fit_bytes_are_read_or_refused(data: bytes, at: int) -> None:
    whole = fit(RIDE[:20])
    with contextlib.suppress(ProfileError):
        read_fit(io.BytesIO(whole[:at] + data + whole[at + len(data) :]))


# --- CSV ---------------------------------------------------------------------------------------------------------

TABLE = b"Time (s);Way (km);Height (m);Speed (km/h)\n" + b"".join(
    f"{k * 2};{k * 0.014:.3f};{500 - k * 1.1:.1f};25,2\n".encode() for k in range(60)
)


def choice(**columns: int) -> CsvChoice:
    look = look_at_csv(TABLE)
    return CsvChoice({c: columns.get(c.value) for c in CsvColumn}, look.guess.units)


def test_a_table_is_looked_at_and_its_columns_guessed() -> None:
    look = look_at_csv(TABLE)
    assert look.headings == ("Time (s)", "Way (km)", "Height (m)", "Speed (km/h)")
    assert len(look.rows) == 5
    assert look.guess.columns == {CsvColumn.TIME: 0, CsvColumn.DISTANCE: 1, CsvColumn.ELEVATION: 2, CsvColumn.SPEED: 3}
    assert look.guess.units[CsvColumn.DISTANCE] == "km"
    assert look.guess.complete()


def test_distance_with_and_without_time_and_time_with_speed_agree() -> None:
    by_way = read_csv(TABLE, choice(distance=1, elevation=2)).track
    timed = read_csv(TABLE, choice(distance=1, elevation=2, time=0)).track
    by_speed = read_csv(TABLE, choice(time=0, elevation=2, speed=3)).track
    assert by_way.time_s is None
    assert by_way.distance_m[-1] == pytest.approx(59 * 14)
    assert timed.time_s[-1] == 118
    # 25.2 km/h is 7 m/s
    assert by_speed.distance_m[-1] == pytest.approx(59 * 14, rel=1e-3)
    assert by_speed.elevation_m[-1] == pytest.approx(500 - 59 * 1.1, abs=0.2)


def test_units_and_clocks_of_a_table() -> None:
    feet = b"t,mi,ft\n" + b"".join(
        f"0:{k // 60:02d}:{k % 60:02d},{k * 0.005:.4f},{1000 - k * 2}\n".encode() for k in range(90)
    )
    units = {
        CsvColumn.TIME: "h:m:s or date",
        CsvColumn.DISTANCE: "mi",
        CsvColumn.ELEVATION: "ft",
        CsvColumn.SPEED: "mph",
    }
    track = read_csv(
        feet,
        CsvChoice({CsvColumn.TIME: 0, CsvColumn.DISTANCE: 1, CsvColumn.ELEVATION: 2, CsvColumn.SPEED: None}, units),
    ).track
    assert track.distance_m[-1] == pytest.approx(89 * 0.005 * 1609.344, abs=0.2)
    assert track.elevation_m[0] == pytest.approx(304.8)
    assert track.time_s[-1] == 89


@pytest.mark.parametrize(
    ("data", "picked", "words"),
    [
        (TABLE.replace(b"\n20;", b"\nlate;"), {"distance": 1, "elevation": 2, "time": 0}, "line 12, column 1: “late”"),
        (TABLE, {"distance": 1}, "choose the elevation"),
        (TABLE, {"elevation": 2, "time": 0}, "choose the elevation, and the distance or both"),
        (
            TABLE.replace(b";0.140;", b";nan;"),
            {"distance": 1, "elevation": 2},
            "line 12, column 2: “nan” is not a number",
        ),
    ],
)
def test_a_table_that_cannot_be_read_names_line_and_column(data: bytes, picked: dict, words: str) -> None:
    with pytest.raises(ProfileError, match=words):
        read_csv(data, choice(**picked))


def test_no_table_at_all() -> None:
    for data in (b"", b"a,b\n", b"\xff\xfe\x00,\x01"):
        with pytest.raises(ProfileError):
            look_at_csv(data)


# --- what a file is ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "head", "kind"),
    [
        ("a.gpx", b"<?xml version='1.0'?><gpx>", FileKind.GPX),
        ("named-wrong.gpx", tcx(trackpoint(0))[:400], FileKind.TCX),
        ("named-wrong.gpx", fit(RIDE)[:400], FileKind.FIT),
        ("a.csv", TABLE[:400], FileKind.CSV),
        ("a.txt", b"km;m\n0;300\n", FileKind.CSV),
    ],
)
def test_a_file_is_what_it_holds(name: str, head: bytes, kind: FileKind) -> None:
    assert kind_of_file(name, head) is kind


def test_a_picture_is_no_ride() -> None:
    with pytest.raises(ProfileError, match="no GPX, TCX, FIT or CSV"):
        kind_of_file("a.png", b"\x89PNG\r\n\x1a\n\0\0")


# --- one ride, every kind ------------------------------------------------------------------------------------------


def test_the_same_ride_in_every_kind_of_file_is_the_same_way() -> None:
    points = "".join(
        f'<trkpt lat="{a:.6f}" lon="{o}"><ele>{h}</ele><time>2026-05-01T10:{s // 60:02d}:{s % 60:02d}Z</time></trkpt>'
        for s, a, o, h, _ in RIDE
    )
    gpx = read_gpx(io.BytesIO(f"<gpx><trk><trkseg>{points}</trkseg></trk></gpx>".encode())).track
    table = b"t,d,ele\n" + b"".join(f"{s},{w:.2f},{h}\n".encode() for s, _, _, h, w in RIDE)
    csv = read_csv(table, look_at_csv(b"time,dist,ele\n" + table.split(b"\n", 1)[1]).guess).track
    fitted = read_fit(io.BytesIO(fit(RIDE))).track
    for other in (csv, fitted):
        assert other.distance_m == pytest.approx(gpx.distance_m, abs=1.0)
        assert np.abs(other.elevation_m - gpx.elevation_m).max() < 0.15
