"""What recorders do wrong, and what becomes of it: mended where it can be, said, and never turned into braking."""

import numpy as np
import pytest
from pydantic import ValidationError

from clavis.core.errors import ProfileError
from clavis.core.job.document import Mended
from clavis.core.physics.bike import LoadedBike
from clavis.core.physics.descent import Weather, load_of_recording
from clavis.core.physics.recording import NoteKind, RawTrack, haversine_m, recording_of
from clavis.core.sentences import render
from clavis.core.units import NBSP, System
from tests.bikes import plain

BIKE = LoadedBike(110, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345)
AIR = Weather(20.0)
DEGREE_M = 111195.08
"""a degree of latitude: 6371008.8 · π/180"""


def raw(way, height, time=None, *, by_position: bool = True, east=None, starts=()) -> RawTrack:
    """A ride due north along the equator's meridian."""
    way, height = np.asarray(way, float), np.asarray(height, float)
    time = None if time is None else np.asarray(time, float)
    if by_position:
        east = np.zeros_like(way) if east is None else east
        return RawTrack(height, lat=way / DEGREE_M, lon=east / DEGREE_M, time_s=time, starts=starts)
    return RawTrack(height, distance_m=way, time_s=time, starts=starts)


def notes(recording, kind: NoteKind) -> list[str]:
    return [plain(n.words) for n in recording.notes if n.kind is kind]


def flat(minutes: int = 30, speed_ms: float = 6.0):
    time = np.arange(0.0, minutes * 60)
    return time * speed_ms, np.full(len(time), 250.0), time


def mean_w(recording) -> float:
    load = load_of_recording(recording.track, BIKE, AIR)
    return load.braked_kj * 1000 / float(load.time_s[-1])


def test_distance_by_hand() -> None:
    # a degree along the equator is 111 195.08 m; a thousandth of one along 60° north half as much
    assert haversine_m(np.array([0.0, 0.0]), np.array([0.0, 1.0]))[0] == pytest.approx(111195.08, abs=0.1)
    assert haversine_m(np.array([60.0, 60.0]), np.array([0.0, 0.001]))[0] == pytest.approx(55.597, abs=0.01)


def _markov(rng, n: int, sigma: float, memory_s: float):
    out, keep = np.zeros(n), np.exp(-1 / memory_s)
    for k in range(1, n):
        out[k] = keep * out[k - 1] + rng.normal() * sigma * np.sqrt(1 - keep**2)
    return out


def noisy(name: str, rng, way, height, time) -> RawTrack:
    """Kinds of noise that recorders make; most of them the demo world's recorder does not."""
    n = len(way)
    east = np.zeros(n)
    if name == "white position":
        way, east = way + rng.normal(0, 2.0, n), rng.normal(0, 2.0, n)
    elif name == "wandering position":
        way, east = way + _markov(rng, n, 5.0, 40), _markov(rng, n, 5.0, 40)
    elif name == "position jumps":
        at = rng.choice(np.arange(50, n - 50), 12, replace=False)
        east[at] = rng.choice([-1, 1], 12) * rng.uniform(80, 900, 12)
    elif name == "white height":
        height = height + rng.normal(0, 1.0, n)
    elif name == "height drift":
        height = height + _markov(rng, n, 6.0, 400) + np.linspace(0, -20, n)
    elif name == "height steps":
        height = height + np.cumsum(np.where(rng.random(n) < 0.004, rng.choice([-1, 1], n) * rng.uniform(3, 9, n), 0))
    elif name == "height in metres":
        height = np.round(height + _markov(rng, n, 1.0, 200))
    elif name == "height spikes":
        at = rng.choice(np.arange(50, n - 50), 25, replace=False)
        height = height.copy()
        height[at] += rng.choice([-1, 1], 25) * rng.uniform(8, 60, 25)
    elif name == "drop-outs":
        height = height.copy()
        keep = np.ones(n, bool)
        for start in rng.choice(np.arange(60, n - 200), 6, replace=False):
            keep[start : start + int(rng.integers(10, 90))] = False
        way, east, height, time = way[keep], east[keep], height[keep] + rng.normal(0, 0.5, int(keep.sum())), time[keep]
    elif name == "barometric lag":
        gust = _markov(rng, n, 3.0, 25)
        lagged = np.zeros(n)
        for k in range(1, n):
            lagged[k] = lagged[k - 1] + (gust[k] - lagged[k - 1]) / 12
        height = height + lagged
    elif name == "everything at once":
        way, east = way + _markov(rng, n, 3.0, 60) + rng.normal(0, 0.8, n), _markov(rng, n, 3.0, 60)
        height = np.round((height + _markov(rng, n, 2.0, 90)) / 0.2) * 0.2
    return raw(way, height, time, east=east)


NOISES = (
    "white position", "wandering position", "position jumps", "white height", "height drift", "height steps",
    "height in metres", "height spikes", "drop-outs", "barometric lag", "everything at once",
)  # fmt: skip


@pytest.mark.parametrize("name", NOISES)
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_noise_alone_on_a_flat_road_hardly_brakes(name: str, seed: int) -> None:
    recording = recording_of(noisy(name, np.random.default_rng(seed), *flat()))
    assert mean_w(recording) < 10
    assert recording.track.distance_m[-1] == pytest.approx(30 * 60 * 6, rel=0.08)


# a drifting height is another descent: all that can be asked of it is a flat road
@pytest.mark.parametrize("name", [n for n in NOISES if n != "height drift"])
def test_the_same_noise_on_a_descent_keeps_its_energy(name: str) -> None:
    """A flat road without braking would also come from a filter that removes everything."""
    way, _, time = flat(10, 8.0)
    clean = recording_of(raw(way, 900 - way * 0.0797, time))
    # 4792 m of way at 8 %: 382 m down
    assert clean.track.elevation_m[0] - clean.track.elevation_m[-1] == pytest.approx(382, abs=1)
    seen = recording_of(noisy(name, np.random.default_rng(5), way, 900 - way * 0.0797, time))
    assert mean_w(seen) == pytest.approx(mean_w(clean), rel=0.08)


def test_a_spike_of_position_is_taken_out_and_said() -> None:
    way, height, time = flat(5)
    east = np.zeros_like(way)
    east[100] = 2000
    recording = recording_of(raw(way, height, time, east=east))
    assert notes(recording, NoteKind.JUMP) == ["1 point far off the way taken out"]
    assert recording.notes[0].places_m[0][0] == pytest.approx(99 * 6, abs=4)
    assert recording.track.distance_m[-1] == pytest.approx(way[-1], rel=0.01)


def test_a_jump_that_stays_takes_the_pace_around_it() -> None:
    way, height, time = flat(5)
    way = way + np.where(time >= 150, 500.0, 0)
    recording = recording_of(raw(way, height, time))
    assert "jump" in notes(recording, NoteKind.JUMP)[0]
    assert recording.track.distance_m[-1] == pytest.approx(299 * 6, rel=0.02)


def test_a_tunnel_is_ridden_evenly_and_said() -> None:
    time = np.concatenate([np.arange(0, 100.0), np.arange(180, 300.0)])
    way = time * 7
    height = 500 - way * 0.05
    height[95:105] = np.nan  # nothing on either side of the mouth
    recording = recording_of(raw(way, height, time))
    gap = next(n for n in recording.notes if n.kind is NoteKind.GAP)
    assert plain(gap.words).startswith("1 gap without points, the first after 0.7 km: 567 m in 81 s")
    assert gap.places_m[0] == pytest.approx((693, 1260), abs=2)
    assert notes(recording, NoteKind.HEIGHT)[0].startswith("no height at 10 points")
    load = load_of_recording(recording.track, BIKE, AIR)
    assert load.drop_m == pytest.approx(299 * 7 * np.sin(np.arctan(0.05)), rel=0.02)


def test_missing_heights_are_said_and_too_many_refused() -> None:
    way, height, time = flat(3)
    height = height.copy()
    height[10:20] = np.nan
    recording = recording_of(raw(way, height, time))
    assert notes(recording, NoteKind.HEIGHT) == ["no height at 10 points, up to 66 m on end: taken straight between"]
    height[20:160] = np.nan
    with pytest.raises(ProfileError, match="at least half are needed"):
        recording_of(raw(way, height, time))


def test_standing_is_said() -> None:
    time = np.arange(0, 240.0)
    way = np.where(time < 100, time * 6, np.where(time < 160, 600.0, 600 + (time - 160) * 6))
    recording = recording_of(raw(way, np.full(240, 90.0), time))
    assert notes(recording, NoteKind.STANDING) == ["1 stop, 1.0 min standing"]


def test_pieces_are_kept_apart() -> None:
    """A lift between two runs: 400 m higher, 20 minutes later, 3 km away. Nothing of that is ridden."""
    time = np.concatenate([np.arange(0, 100.0), 1300 + np.arange(0, 100.0)])
    way = np.concatenate([np.arange(100) * 6.0, 3600 + np.arange(100) * 6.0])
    height = np.concatenate([900 - np.arange(100) * 0.6, 1240 - np.arange(100) * 0.6])
    recording = recording_of(raw(way, height, time, starts=(100,)))
    assert recording.track.starts == (100,)
    assert "2 pieces" in notes(recording, NoteKind.PIECES)[0]
    assert recording.track.distance_m[-1] == pytest.approx(2 * 99 * 6, rel=0.01)
    load = load_of_recording(recording.track, BIKE, AIR)
    assert load.time_s[-1] == pytest.approx(1399, abs=3)
    assert load.drop_m == pytest.approx(2 * 99 * 0.6, rel=0.05)
    alone = load_of_recording(recording_of(raw(way[:100], height[:100], time[:100])).track, BIKE, AIR)
    assert load.braked_kj == pytest.approx(2 * alone.braked_kj, rel=0.03)


def test_segments_that_only_follow_on_are_one_way() -> None:
    way, height, time = flat(3)
    assert recording_of(raw(way, height, time, starts=(60, 120))).track.starts == ()


def test_the_clock() -> None:
    way, height, time = flat(3)
    slipped = time.copy()
    slipped[50] -= 3
    recording = recording_of(raw(way, height, slipped))
    assert notes(recording, NoteKind.TIMES) == ["the clock ran backward at 1 point: held there"]
    slipped[50:] -= 40
    with pytest.raises(ProfileError, match="runs backward at point 51"):
        recording_of(raw(way, height, slipped))
    few = np.where(np.arange(len(time)) % 3 == 0, np.nan, time)
    untimed = recording_of(raw(way, height, few))
    assert untimed.track.time_s is None
    assert "not used" in notes(untimed, NoteKind.TIMES)[0]
    some = np.where(np.arange(len(time)) == 7, np.nan, time)
    assert recording_of(raw(way, height, some)).track.time_s[7] == pytest.approx(7)


def test_by_distance_instead_of_position() -> None:
    way, height, time = flat(3)
    recording = recording_of(raw(way, height, time, by_position=False))
    assert recording.track.distance_m == pytest.approx(way)
    with pytest.raises(ProfileError, match="point 61: the distance runs backward"):
        recording_of(raw(np.where(np.arange(len(way)) == 60, 0, way), height, time, by_position=False))
    with pytest.raises(ProfileError, match="neither positions nor distances"):
        recording_of(RawTrack(height, time_s=time))
    with pytest.raises(ProfileError, match="no elevation"):
        recording_of(raw(way, np.full(len(way), np.nan), time))


def test_a_note_is_kept_with_its_values_and_told_in_the_readers_units() -> None:
    note = Mended(words="heights come in steps of {step_m:g}", values={"step_m": 10})
    assert plain(note.said) == "heights come in steps of 10 m"
    assert render(note.said, System.IMPERIAL).replace(NBSP, " ") == "heights come in steps of 32.808 ft"
    assert Mended(words="typed by {hand}").said == "typed by {hand}"


@pytest.mark.parametrize(
    "words", ["{other_m}", "{step_m!r:>999999999}", "{step_m:zz}", "{step_m", "{0}", "{step_m.__class__}"]
)
def test_a_file_cannot_bring_words_that_cannot_be_told(words: str) -> None:
    with pytest.raises(ValidationError):
        Mended(words=words, values={"step_m": 10})
