"""A job's rides side by side, what always counts, styles, slow points; and profiles that are dragged."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import ProfileError
from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.rides import (
    RideKind,
    always_of,
    hotter_than_decisive,
    kind_of_ride,
    rides_of,
    slow_points,
    stop_cycle,
    styles_of,
)
from clavis.core.evaluation.situation import load_of_ride, situation_of
from clavis.core.job.document import Ride, SpeedFrom
from clavis.core.job.ride_profile import move_point, section_points, split_section
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import STANDING_MS, Style
from clavis.core.physics.heat import Node
from clavis.core.physics.road import Section, Track
from tests.bikes import CATALOGUE, own_job

EASY, HARD = Section(length_m=2000, gradient_pct=5, speed_kmh=30), Section(length_m=2500, gradient_pct=14, speed_kmh=25)
GENTLE = Ride(id="gentle", name="Gentle", sections=(EASY,), times_a_year=100)
STEEP = Ride(id="steep", name="Steep", sections=(HARD,), times_a_year=4)


def with_sections(ride: Ride, sections) -> Ride:
    return Ride.model_validate(ride.model_dump() | {"sections": [s.model_dump() for s in sections]})


def answered(*rides: Ride, decisive: str = "gentle", **more):
    job = own_job(rides=rides, decisive_ride=decisive, **more)
    return job, evaluate(job, CATALOGUE, {})


def test_every_ride_has_its_figures_and_the_decisive_one_those_of_the_sheet() -> None:
    job, found = answered(GENTLE, STEEP)
    first, second = rides_of(job, found, {}, found.fitted)
    assert (first.decisive, second.decisive) == (True, False)
    for end in End:
        assert first.rotor_c[end] == pytest.approx(found.fitted.wheels[end].heat.peak_c[Node.ROTOR], abs=1e-6)
        assert second.rotor_c[end] > first.rotor_c[end] + 50
    assert first.yearly_mj == pytest.approx(first.braked_kj * 100 / 1000)
    assert second.drop_m == pytest.approx(2500 * np.sin(np.arctan(0.14)), rel=1e-6)
    assert first.mean_w == pytest.approx(first.braked_kj * 1000 / first.duration_s)
    assert hotter_than_decisive((first, second)) is second
    job, found = answered(GENTLE, STEEP, decisive="steep")
    assert hotter_than_decisive(rides_of(job, found, {}, found.fitted)) is None


def test_a_ride_that_cannot_be_read_says_so_and_the_others_stand() -> None:
    lost = Ride(id="lost", name="Lost", track_id="a" * 64, from_m=90_000)
    short = Track(np.array([0.0, 50, 100]), np.array([9.0, 5, 1]), None)
    job = own_job(rides=(GENTLE, lost), decisive_ride="gentle")
    tracks = {"a" * 64: short}
    found = evaluate(job, CATALOGUE, tracks)
    first, second = rides_of(job, found, tracks, found.fitted)
    assert first.braked_kj > 0
    assert "nothing to ride lies between" in second.problem


def test_emergency_stop_and_parking_are_asked_on_the_steepest_of_all_rides() -> None:
    """110 kg on 14 %: m g sinθ = mass · 9.80665 · 0.13865."""
    bike = own_job().bike.model_copy(update={"top_speed_kmh": None})
    _, found = answered(GENTLE, STEEP, bike=bike)
    asked = always_of(found, found.fitted)
    assert asked.gradient == pytest.approx(0.14)
    assert asked.park_n == pytest.approx(found.situation.bike.rolling_mass_kg * 9.80665 * 0.138648, rel=1e-4)
    assert found.fitted.demand.holding_n[End.FRONT] + found.fitted.demand.holding_n[End.REAR] == pytest.approx(
        asked.park_n
    )
    # the gentle ride is the faster one and the decisive: its speed, the other's slope
    assert asked.top_ms == pytest.approx(30 / 3.6)
    _, alone = answered(GENTLE, bike=bike)
    assert always_of(alone, alone.fitted).gradient == pytest.approx(0.05)
    assert found.fitted.demand.targets[1].force_n > alone.fitted.demand.targets[1].force_n
    # the rise of a rotor: its share of the stop's energy over what it stores per kelvin
    front = found.fitted.wheels[End.FRONT]
    by_hand = (
        found.fitted.demand.targets[1].wheel_energy_j[End.FRONT]
        * front.node("rotor_share")
        / front.node("rotor_capacity")
    )
    assert asked.rotor_rise_k[End.FRONT] == pytest.approx(by_hand)
    assert asked.stop_kj > 0


def test_drag_and_pulse_side_by_side() -> None:
    job, found = answered(STEEP, decisive="steep")
    drag, pulse = styles_of(job, found, {}, found.fitted)
    assert (drag.name, pulse.name) == (Style.DRAG.value, Style.PULSE.value)
    assert pulse.peak_w > 1.5 * drag.peak_w
    assert pulse.figures.braked_kj == pytest.approx(drag.figures.braked_kj, rel=0.03)
    # the style that is the rider's own gives the figures of the sheet
    own = drag if found.situation.style is Style.DRAG else pulse
    assert own.figures.rotor_c[End.FRONT] == pytest.approx(
        found.fitted.wheels[End.FRONT].heat.peak_c[Node.ROTOR], abs=1e-6
    )


def test_a_recorded_ride_is_held_against_plans_at_its_own_mean_speed() -> None:
    time = np.arange(0, 400.0)
    track = Track(time * 7, 900 - time * 7 * 0.08, time)
    ride = Ride(id="r", name="R", track_id="a" * 64, speed_from=SpeedFrom.RECORDED)
    job = own_job(rides=(ride,), decisive_ride="r")
    tracks = {"a" * 64: track}
    found = evaluate(job, CATALOGUE, tracks)
    recorded, drag, _ = styles_of(job, found, tracks, found.fitted)
    assert recorded.name == "recorded"
    assert drag.figures.braked_kj == pytest.approx(recorded.figures.braked_kj, rel=0.03)
    assert drag.figures.duration_s == pytest.approx(399, rel=0.02)


def test_slow_points_are_the_corners_and_the_stops() -> None:
    parts = (
        Section(length_m=700, gradient_pct=8, speed_kmh=40, corner_kmh=15),
        Section(length_m=500, gradient_pct=8, speed_kmh=40, stand_s=20),
        Section(length_m=600, gradient_pct=8, speed_kmh=40, corner_kmh=38),
        Section(length_m=400, gradient_pct=8, speed_kmh=40),
    )
    load = load_of_ride(Ride(id="r", name="R", sections=parts), {}, situation_of(own_job()))
    found = slow_points(load)
    assert [round(p.at_m) for p in found] == [700, 1200]  # a corner at nearly full speed is none
    assert found[0].speed_ms == pytest.approx(15 / 3.6)
    assert [p.is_stop for p in found] == [False, True]
    assert found[1].speed_ms < STANDING_MS


def test_a_stop_cycle_by_hand() -> None:
    """40 stops from 25 km/h: each gives up ½ · 1.02 m · 6.944², less what air and rolling take over the last metres."""
    ride = stop_cycle("city", "City", 40, 25, 300, 15)
    assert kind_of_ride(ride) is RideKind.STOPS
    situation = situation_of(own_job())
    load = load_of_ride(ride, {}, situation)
    one_kj = 0.5 * 1.02 * situation.bike.rolling_mass_kg * (25 / 3.6) ** 2 / 1000
    assert load.braked_kj == pytest.approx(40 * one_kj, rel=0.08)
    assert load.braked_kj < 40 * one_kj
    assert len(slow_points(load)) == 40
    assert load.time_s[-1] > 40 * (300 / (25 / 3.6) + 15)


@pytest.mark.parametrize(
    ("ride", "kind"),
    [
        (GENTLE, RideKind.TYPED),
        (Ride(id="a", name="A", track_id="a" * 64), RideKind.PLANNED),
        (Ride(id="a", name="A", track_id="a" * 64, speed_from=SpeedFrom.RECORDED), RideKind.RECORDED),
    ],
)
def test_what_a_ride_is(ride: Ride, kind: RideKind) -> None:
    assert kind_of_ride(ride) is kind


# --- the profile -------------------------------------------------------------------------------------------------

TWO = Ride(
    id="two", name="Two", start_elevation_m=500,
    sections=(
        Section(length_m=1000, gradient_pct=8, speed_kmh=30, corner_kmh=12),
        Section(length_m=600, gradient_pct=4, speed_kmh=35, stand_s=30),
    ),
)  # fmt: skip


def test_points_of_a_profile_by_hand() -> None:
    # sin(atan 0.08) = 0.079745, sin(atan 0.04) = 0.039968
    points = section_points(TWO.sections, 500)
    assert points[1] == pytest.approx((1000, 420.255), abs=0.01)
    assert points[2] == pytest.approx((1600, 396.274), abs=0.01)


def test_a_dragged_point_moves_alone() -> None:
    moved = with_sections(TWO, move_point(TWO, 0, 800, 440))
    before, after = section_points(TWO.sections, 500), section_points(moved.sections, 500)
    assert after[1] == pytest.approx((800, 440), abs=0.1)
    assert after[2] == pytest.approx(before[2], abs=0.15)
    assert moved.sections[0].corner_kmh == 12
    assert moved.sections[1].stand_s == 30
    end = move_point(TWO, 1, 2000, 300)
    assert end[0] == TWO.sections[0]
    assert end[1].length_m == 1000


@pytest.mark.parametrize(
    ("index", "at", "height", "words"),
    [
        (0, 5, 499, r"at least 10\sm"),
        (0, 1595, 400, r"at least 10\sm"),
        (0, 1000, 100, "at most 35% steep"),
        (2, 2000, 300, "no such point"),
        (-1, 100, 490, "no such point"),
    ],
)
def test_a_point_that_may_not_lie_there(index: int, at: float, height: float, words: str) -> None:
    with pytest.raises(ProfileError, match=words):
        move_point(TWO, index, at, height)


@given(st.floats(20, 1580))
def test_cutting_a_section_changes_nothing_but_the_number(at: float) -> None:
    try:
        cut = split_section(TWO, at)
    except ProfileError:
        assert min(abs(at - 1000), at, 1600 - at) < 10.1
        return
    assert len(cut) == 3
    assert section_points(cut, 500)[-1] == pytest.approx(section_points(TWO.sections, 500)[-1], abs=0.1)
    assert sum(s.corner_kmh == 12 for s in cut) == 1
    assert sum(s.stand_s == 30 for s in cut) == 1
    situation = situation_of(own_job())
    whole = load_of_ride(TWO, {}, situation)
    parts = load_of_ride(with_sections(TWO, cut), {}, situation)
    assert parts.braked_kj == pytest.approx(whole.braked_kj, rel=0.01)


def test_cutting_off_the_profile() -> None:
    with pytest.raises(ProfileError, match="not on the profile"):
        split_section(TWO, 1700)
