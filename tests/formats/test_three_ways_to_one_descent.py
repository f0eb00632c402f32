"""One descent typed as sections, as a GPX without times, and as a GPX with times and noise: the same energy braked."""

import io

import numpy as np
import pytest

from clavis.core.evaluation.situation import load_of_ride, situation_of
from clavis.core.job.document import Ride, SpeedFrom
from clavis.core.parameters import ModelParameters
from clavis.core.physics.descent import Style, Weather, load_of_recording, plan_ride
from clavis.core.physics.recording import EARTH_RADIUS_M
from clavis.core.physics.road import Section, road_of_sections
from clavis.formats.gpx_out import track_of_sections, write_gpx
from clavis.formats.recordings_xml import read_gpx
from tests.bikes import own_job
from tests.formats.test_tracks import document, point

TYPED = Ride(
    id="typed", name="Typed", start_elevation_m=900,
    sections=tuple(
        Section(length_m=length, gradient_pct=gradient, speed_kmh=30)
        for length, gradient in ((700, 6), (1100, 9), (400, 3), (900, 11), (600, 7), (800, 10))
    ),
)  # fmt: skip
SITUATION = situation_of(own_job())


def _drift(rng: np.random.Generator, n: int, sigma: float, memory_s: float):
    keep, out = np.exp(-1 / memory_s), np.zeros(n)
    for k in range(1, n):
        out[k] = keep * out[k - 1] + rng.normal() * sigma * np.sqrt(1 - keep**2)
    return out


def recorded_gpx(seed: int) -> bytes:
    """The typed descent ridden as planned, seen by a recorder once a second: its position wanders by 2.5 m, its height
    by 1.5 m in steps of 0.2 m."""
    load = plan_ride(
        road_of_sections(TYPED.sections, TYPED.start_elevation_m),
        SITUATION.bike, SITUATION.weather, Style.DRAG, ModelParameters(),
    )  # fmt: skip
    rng = np.random.default_rng(seed)
    time = np.arange(0, load.time_s[-1])
    n = len(time)
    north = np.interp(time, load.time_s, load.distance_m) + _drift(rng, n, 2.5, 90)
    east = _drift(rng, n, 2.5, 90)
    height = np.round((np.interp(time, load.time_s, load.elevation_m) + _drift(rng, n, 1.5, 60)) / 0.2) * 0.2
    degrees = 180 / np.pi / EARTH_RADIUS_M
    return document(
        *(
            point(y * degrees, x * degrees, f"{z:.1f}", f"2026-05-01T10:{k // 60:02d}:{k % 60:02d}Z")
            for k, (x, y, z) in enumerate(zip(east, north, height, strict=True))
        )
    )


def braked_kj(data: bytes, speed_from: SpeedFrom) -> float:
    track = read_gpx(io.BytesIO(data)).track
    assert (track.time_s is not None) is (speed_from is SpeedFrom.RECORDED)
    ride = Ride(id="r", name="R", track_id="a" * 64, speed_from=speed_from, hold_kmh=30)
    return load_of_ride(ride, {"a" * 64: track}, SITUATION).braked_kj


@pytest.mark.parametrize("seed", range(5))
def test_typed_planned_and_recorded_agree_within_eight_per_cent(seed: int) -> None:
    typed = load_of_ride(TYPED, {}, SITUATION).braked_kj
    untimed = braked_kj(write_gpx("way", track_of_sections(TYPED)).encode(), SpeedFrom.PLANNED)
    recorded = braked_kj(recorded_gpx(seed), SpeedFrom.RECORDED)
    assert untimed == pytest.approx(typed, rel=0.08)
    assert recorded == pytest.approx(typed, rel=0.08)
    assert recorded == pytest.approx(untimed, rel=0.08)


def test_a_descent_that_is_not_the_same_does_not_agree() -> None:
    """The agreement is no accident of a wide margin: one per cent less of slope is told apart."""
    gentler = tuple(s.model_copy(update={"gradient_pct": s.gradient_pct - 1}) for s in TYPED.sections)
    typed = load_of_ride(TYPED.model_copy(update={"sections": gentler}), {}, SITUATION).braked_kj
    assert braked_kj(recorded_gpx(0), SpeedFrom.RECORDED) > 1.08 * typed


def test_the_weather_counts_for_a_recording_too() -> None:
    track = read_gpx(io.BytesIO(recorded_gpx(1))).track
    still, head = (load_of_recording(track, SITUATION.bike, Weather(20.0, w)).braked_kj for w in (0.0, 6.0))
    assert head < 0.9 * still
