"""Rides that jobs share: kept once, taken as copies, carried away and read back; and rides written as GPX."""

import io
import json

import numpy as np
import pytest
from sqlalchemy.orm import Session

from clavis.core.errors import ProfileError
from clavis.core.evaluation.situation import load_of_ride, situation_of
from clavis.core.job.document import Ride, SpeedFrom
from clavis.core.physics.road import Section, Track
from clavis.formats import rides_file
from clavis.formats.gpx_out import track_of_sections, write_gpx
from clavis.formats.recordings_xml import read_gpx
from clavis.store import jobs, ride_library
from tests.bikes import own_job

DOWN, UP = (
    Section(length_m=615, gradient_pct=9, speed_kmh=30, corner_kmh=12),
    Section(length_m=400, gradient_pct=-3, speed_kmh=25),
)
TYPED = Ride(id="x", name="Mill lane", start_elevation_m=400, sections=(DOWN, UP))


def track(starts: tuple[int, ...] = ()) -> Track:
    time = np.arange(0, 300.0)
    if starts:
        time[starts[0] :] += 600
    return Track(np.arange(300) * 7.0, np.round(900 - np.arange(300) * 0.5, 2), time, starts)


def test_a_ride_is_kept_once_under_a_name_of_its_own(session: Session) -> None:
    first = ride_library.keep(session, TYPED, "Tess")
    assert first == "mill-lane"
    assert ride_library.keep(session, TYPED.model_copy(update={"id": "y"}), "Rob") == first
    steeper = TYPED.model_copy(update={"laps": 2})
    assert ride_library.keep(session, steeper, "Rob") == "mill-lane-2"
    assert [(e.ride.laps, e.who) for e in ride_library.entries(session)] == [(1, "Tess"), (2, "Rob")]
    ride_library.remove(session, first)
    assert [e.ride.id for e in ride_library.entries(session)] == ["mill-lane-2"]
    with pytest.raises(jobs.NotThereError):
        ride_library.remove(session, first)
    with pytest.raises(jobs.NotThereError):
        ride_library.find(session, first)


def test_a_rides_file_comes_back_whole(session: Session, demo_session: Session) -> None:
    rides = [e.ride for e in ride_library.entries(demo_session)]
    assert len(rides) >= 8
    text = rides_file.write(rides, jobs.tracks_of(demo_session, rides))
    for entry in rides:
        ride_library.remove(demo_session, entry.id)
    assert ride_library.entries(demo_session) == []
    ride_library.keep_file(demo_session, rides_file.parse(text.encode()), "Tess")
    back = [e.ride for e in ride_library.entries(demo_session)]
    strip = lambda r: r.model_copy(update={"id": "-"})  # noqa: E731
    assert [strip(r) for r in back] == [strip(r) for r in rides]
    situation = situation_of(own_job())
    for ride in back:
        assert load_of_ride(ride, jobs.tracks_of(demo_session, back), situation).braked_kj > 0


def _file(**more) -> dict:
    return {
        "format": "clavis-rides",
        "version": 1,
        "clavis": "0",
        "rides": [TYPED.model_dump(mode="json")],
        "tracks": {},
    } | more


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (b"no json", "not JSON: line 1"),
        (b"[]", "not a Clavis rides file"),
        (json.dumps({"format": "clavis-job"}).encode(), "not a Clavis rides file"),
        (json.dumps(_file(version=9)).encode(), "version"),
        (json.dumps(_file(rides=[])).encode(), "rides"),
        (json.dumps(_file(rides=[{**TYPED.model_dump(mode="json"), "laps": 0}])).encode(), "rides.0.laps"),
        (
            json.dumps(_file(rides=[{"id": "a", "name": "A", "track_id": "a" * 64}])).encode(),
            "uses a track that the file",
        ),
        (
            json.dumps(_file(tracks={"a" * 64: {"distance_m": [0, 50, 90], "elevation_m": [9, 5, 1]}})).encode(),
            "does not match its checksum",
        ),
    ],
)
def test_a_rides_file_that_is_none_is_refused(raw: bytes, words: str) -> None:
    with pytest.raises(rides_file.RidesFileError, match=words):
        rides_file.parse(raw)


@pytest.mark.parametrize("starts", [(), (150,)])
def test_gpx_goes_out_and_comes_back(starts: tuple[int, ...]) -> None:
    before = track(starts)
    after = read_gpx(io.BytesIO(write_gpx("A & B <ride>", before).encode())).track
    step = np.diff(before.distance_m)
    step[[s - 1 for s in starts]] = 0
    assert after.distance_m == pytest.approx(np.concatenate([[0], np.cumsum(step)]), abs=0.5)
    assert after.elevation_m == pytest.approx(before.elevation_m, abs=0.011)
    assert after.time_s == pytest.approx(before.time_s)
    assert after.starts == starts


def test_typed_sections_go_out_as_the_same_load() -> None:
    text = write_gpx(TYPED.name, track_of_sections(TYPED))
    back = read_gpx(io.BytesIO(text.encode())).track
    assert back.time_s is None
    assert back.distance_m[-1] == pytest.approx(1015, abs=0.5)
    planned = Ride(
        id="b", name="B", track_id="b" * 64, speed_from=SpeedFrom.PLANNED, hold_kmh=30, smoothing_m=5, height_known_m=0
    )
    situation = situation_of(own_job())
    plain = TYPED.model_copy(
        update={"sections": tuple(s.model_copy(update={"corner_kmh": None, "speed_kmh": 30.0}) for s in TYPED.sections)}
    )
    typed_kj = load_of_ride(plain, {}, situation).braked_kj
    assert load_of_ride(planned, {"b" * 64: back}, situation).braked_kj == pytest.approx(typed_kj, rel=0.03)
    with pytest.raises(ProfileError):
        read_gpx(io.BytesIO(text.replace("<ele>", "<x>").replace("</ele>", "</x>").encode()))
