"""Descents found in a long ride: where a hand would cut it."""

import numpy as np
import pytest

from clavis.core.errors import ProfileError
from clavis.core.evaluation.descents import as_ride, descents_of, find_descents
from clavis.core.evaluation.situation import load_of_ride, situation_of
from clavis.core.job.document import Ride, SpeedFrom
from clavis.core.physics.road import Section, Track
from tests.bikes import own_job


def track_of(*legs: tuple[float, float], starts: tuple[int, ...] = (), timed: bool = True) -> Track:
    """Legs of (length m, gradient down +), a point every 10 m, ridden at 8 m/s."""
    way, height = [0.0], [500.0]
    for length, gradient in legs:
        for _ in range(round(length / 10)):
            way.append(way[-1] + 10)
            height.append(height[-1] - 10 * gradient)
    distance = np.array(way)
    return Track(distance, np.array(height), distance / 8 if timed else None, starts)


def test_a_pass_between_two_valleys() -> None:
    found = find_descents(track_of((2000, 0.0), (3000, -0.06), (4000, 0.08), (1500, 0.0)))
    assert len(found) == 1
    down = found[0]
    assert (down.from_m, down.to_m) == pytest.approx((5000, 9000), abs=80)
    assert down.drop_m == pytest.approx(320, rel=0.02)
    assert down.mean_pct == pytest.approx(8, rel=0.03)
    assert down.steepest_pct == pytest.approx(8, rel=0.02)
    assert down.length_m == pytest.approx(4000, abs=100)


@pytest.mark.parametrize(
    ("between", "many"),
    [
        ((150, -0.06), 1),  # a bump of 9 m lies within the descent
        ((500, -0.06), 2),  # a climb of 30 m does not
        ((600, 0.0), 1),  # a short level stretch
        ((1600, 0.0), 2),  # a long one: the brakes cool
    ],
)
def test_what_lies_between_two_slopes(between: tuple[float, float], many: int) -> None:
    found = find_descents(track_of((1500, 0.07), between, (1500, 0.05)))
    assert len(found) == many
    assert sum(d.drop_m for d in found) == pytest.approx(1500 * 0.12 - (9 if between == (150, -0.06) else 0), abs=6)


def test_what_is_none() -> None:
    assert find_descents(track_of((4000, 0.0))) == []
    assert find_descents(track_of((4000, -0.05))) == []
    assert find_descents(track_of((300, 0.08), (300, -0.08))) == []  # 24 m
    assert find_descents(track_of((6000, 0.01))) == []  # too gentle to brake


def test_a_piece_ends_a_descent() -> None:
    whole = find_descents(track_of((4000, 0.06)))
    halves = find_descents(track_of((4000, 0.06), starts=(200,)))
    assert len(whole) == 1
    assert [(round(d.from_m, -2), round(d.to_m, -2)) for d in halves] == [(0, 2000), (2000, 4000)]


def test_each_is_a_load_of_its_own() -> None:
    """Two descents with a climb between brake what the whole does; the way of each is the way found."""
    track = track_of((2500, 0.07), (1500, -0.06), (2000, 0.09))
    situation = situation_of(own_job())
    ride = Ride(id="all", name="All", track_id="a" * 64, speed_from=SpeedFrom.RECORDED, laps=3, rest_min=5)
    tracks = {"a" * 64: track}
    found = descents_of(ride, tracks, track, situation)
    assert len(found) == 2
    one_lap = Ride.model_validate(ride.model_dump() | {"laps": 1, "rest_min": 0})
    whole_kj = load_of_ride(one_lap, tracks, situation).braked_kj
    assert sum(d.braked_kj for d in found) == pytest.approx(whole_kj, rel=0.03)
    second = as_ride(ride, found[1], "second", "The second")
    assert (second.from_m, second.to_m, second.laps) == (round(found[1].from_m, 1), round(found[1].to_m, 1), 1)
    load = load_of_ride(second, tracks, situation)
    assert load.drop_m == pytest.approx(found[1].drop_m, rel=0.03)
    assert load.braked_kj == pytest.approx(found[1].braked_kj)
    # a descent found inside a stretch stands in metres of the track
    inner = Ride.model_validate(one_lap.model_dump() | {"from_m": 3000.0})
    again = descents_of(inner, tracks, track.between(3000, 6000), situation)
    assert as_ride(inner, again[0], "x", "X").from_m == pytest.approx(found[1].from_m, abs=30)


def test_a_typed_ride_has_none_to_cut_out() -> None:
    typed = Ride(id="t", name="T", sections=(Section(length_m=1000, gradient_pct=8, speed_kmh=30),))
    found = find_descents(track_of((1000, 0.08)))
    with pytest.raises(ProfileError, match="typed"):
        as_ride(typed, found[0], "x", "X")
