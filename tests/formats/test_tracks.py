"""Tracks from outside: good ones arrive whole, bad ones are refused in plain words that name the place."""

import contextlib
import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import rounded
from clavis.core.physics.road import Track
from clavis.demo.roads import PLANS, RIDES, gpx
from clavis.formats import recorded_points, tracks
from clavis.formats.recordings_xml import read_gpx


def point(lat: float, lon: float = 0.0, ele: str | None = "100", time: str | None = None) -> str:
    inside = (f"<ele>{ele}</ele>" if ele is not None else "") + (f"<time>{time}</time>" if time else "")
    return f'<trkpt lat="{lat}" lon="{lon}">{inside}</trkpt>'


def document(*points: str, head: str = '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">') -> bytes:
    return f"<?xml version='1.0'?>{head}<trk><trkseg>{''.join(points)}</trkseg></trk></gpx>".encode()


def read(data: bytes) -> Track:
    return read_gpx(io.BytesIO(data)).track


def test_distance_by_hand() -> None:
    # a thousandth of a degree of latitude is 6371008.8 · π/180 / 1000 = 111.195 m
    track = read(document(*(point(k / 1000, ele=str(100 - k)) for k in range(4))))
    assert track.distance_m == pytest.approx([0, 111.19, 222.39, 333.58], abs=0.011)
    assert list(track.elevation_m) == [100, 99, 98, 97]
    assert track.time_s is None


def test_times_and_zones() -> None:
    stamps = ("2026-05-01T10:00:00Z", "2026-05-01T12:00:10+02:00", "2026-05-01T10:00:25Z")
    track = read(document(*(point(k / 1000, time=s) for k, s in enumerate(stamps))))
    assert list(track.time_s) == [0, 10, 25]


def test_old_gpx_routes_and_several_segments() -> None:
    old = document(
        *(point(k / 1000) for k in range(3)), head='<gpx version="1.0" xmlns="http://www.topografix.com/GPX/1/0">'
    )
    assert len(read(old).distance_m) == 3
    route = f"<gpx><rte>{''.join(point(k / 1000) for k in range(4))}</rte></gpx>".replace("trkpt", "rtept").encode()
    assert len(read(route).distance_m) == 4
    two = document(*(point(k / 1000) for k in range(3))).replace(
        b"</trkseg>", b"</trkseg><trkseg>" + point(0.003).encode() + b"</trkseg>"
    )
    assert len(read(two).distance_m) == 4


def test_single_missing_heights_are_filled_between() -> None:
    track = read(document(point(0, ele="100"), point(0.001, ele=None), point(0.002, ele="80")))
    assert track.elevation_m[1] == pytest.approx(90)


BOMB = b"""<?xml version="1.0"?><!DOCTYPE z [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">
<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;">]><gpx><trk><name>&c;</name></trk></gpx>"""


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not readable as XML: line 1"),
        (b"this is no xml at all", "not readable as XML: line 1, column 0"),
        (b"\x00\x01\x02\x03", "not readable as XML"),
        (b"<gpx><trk>", "not readable as XML"),
        (b"<html><body>hello</body></html>", "begins with <html>"),
        (document(point(0), point(0.001)), r"2\spoints; at least 3"),
        (document(point(0)), r"1\spoint; at least 3"),
        (document(), r"0\spoints"),
        (document(*(point(k / 1000, ele=None) for k in range(4))), "no elevation"),
        (document(point(0), *(point(k / 1000, ele=None) for k in range(1, 5))), "only 20% of the points"),
        (document(point(0), point(0.001, ele="high"), point(0.002)), "point 2 has the elevation “high”"),
        (document(point(0), point(0.001, ele="nan"), point(0.002)), "point 2 lies at an elevation"),
        (document(point(0), point(99), point(0.002)), "point 2 lies at 99, 0: no place on earth"),
        (document(point(0), "<trkpt lon='3'/>", point(0.002)), "point 2 has no readable lat"),
        (document(point(0), point(0.001, time="yesterday"), point(0.002)), "point 2 has the time “yesterday”"),
        (
            document(*(point(k / 1000, time=f"2026-05-01T10:00:{s}Z") for k, s in enumerate(("30", "05", "40")))),
            "time runs backward at point 2",
        ),
        (document(point(0), point(0.00001), point(0.00002)), r"shorter than 20\sm"),
        (BOMB, "declares entities or a document type"),
        (b'<?xml version="1.0" encoding="no-such-code"?><gpx/>', "not readable as XML"),
    ],
)
def test_what_is_no_track_is_refused_in_plain_words(data: bytes, words: str) -> None:
    with pytest.raises(ProfileError, match=words):
        read(data)


def test_too_many_points_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recorded_points, "MOST_POINTS", 5)
    with pytest.raises(ProfileError, match="more than 5 points"):
        read(document(*(point(k / 1000) for k in range(6))))


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused_and_nothing_else(data: bytes) -> None:
    with contextlib.suppress(ProfileError):
        read(data)


@given(
    st.lists(st.tuples(st.floats(0, 400), st.floats(-300, 4000), st.floats(0, 60)), min_size=4, max_size=40),
    st.booleans(),
)
def test_a_track_survives_packing_and_keeps_its_name(steps, timed: bool) -> None:
    way = 30 + np.cumsum([d for d, _, _ in steps])
    track = rounded(
        Track(way - way[0] + np.linspace(0, 30, len(way)), np.array([e for _, e, _ in steps]),
              np.cumsum([t for _, _, t in steps]) if timed else None)
    )  # fmt: skip
    back = tracks.unpack(tracks.pack(track))
    assert np.array_equal(back.distance_m, track.distance_m)
    assert np.array_equal(back.elevation_m, track.elevation_m)
    assert (back.time_s is None) == (not timed)
    assert tracks.checksum(back) == tracks.checksum(track)


@pytest.mark.parametrize("key", sorted(PLANS))
def test_the_demo_rides_are_what_the_program_writes(key: str) -> None:
    assert (RIDES / f"{key}.gpx").read_text(encoding="utf-8") == gpx(PLANS[key])
    track = read((RIDES / f"{key}.gpx").read_bytes())
    assert track.time_s is not None
    assert track.elevation_m[0] - track.elevation_m[-1] > 200
