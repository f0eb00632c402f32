"""Axle loads and what the ground allows, against values worked by hand and the physics that must hold."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import QuantityError
from clavis.core.physics.bike import (
    KINDS,
    BikeKind,
    LoadedBike,
    PlacedMass,
    Surface,
    Tread,
    TreadLeft,
    axle_loads_n,
    centre_of,
    ground_limits,
    standing_figures,
    tyre_grip,
)

CITY = LoadedBike(100, 1.08, 0.42, 1.10, 0.55, 0.007, 0.345)
G = 9.80665

bikes = st.builds(
    lambda m, length, share, h: LoadedBike(m, length, length * share, h, 0.5, 0.007, 0.34),
    st.floats(40, 300), st.floats(0.9, 2.0), st.floats(0.3, 0.7), st.floats(0.8, 1.3),
)  # fmt: skip


def test_standing_axle_loads_by_hand() -> None:
    # 100 kg · 9.80665 · 0.42 / 1.08 = 381.37 N in front, the rest behind
    front, rear = axle_loads_n(CITY, 0.0, 0.0)
    assert front == pytest.approx(381.370, abs=0.01)
    assert rear == pytest.approx(599.295, abs=0.01)


def test_braking_moves_load_by_force_times_height_over_wheelbase() -> None:
    # 300 N · 1.10 / 1.08 = 305.56 N
    front, rear = axle_loads_n(CITY, 300.0, 0.0)
    assert front == pytest.approx(381.370 + 305.556, abs=0.01)
    assert rear == pytest.approx(599.295 - 305.556, abs=0.01)


def test_limits_by_hand() -> None:
    # l_f/h = 0.66/1.10 = 0.6: on dry asphalt (0.8) the bike pitches over at 0.6 m g = 588.40 N
    dry = ground_limits(CITY, 0.8, 0.0)
    assert dry.pitch_over_n == pytest.approx(588.399, abs=0.01)
    assert dry.front_pitches_first
    assert dry.both_n == pytest.approx(588.399, abs=0.01)
    assert dry.front_alone_n == pytest.approx(588.399, abs=0.01)
    assert dry.decel_ms2 == pytest.approx(5.88399, abs=1e-4)
    # rear alone: 0.8 · 980.665 · 0.66 / (1.08 + 0.88) = 264.18 N
    assert dry.rear_alone_n == pytest.approx(264.181, abs=0.01)
    # wet cobbles 0.4: front alone 0.4 · 980.665 · 0.42/(1.08 − 0.44) = 257.42 N, both 392.27 N
    wet = ground_limits(CITY, 0.4, 0.0)
    assert not wet.front_pitches_first
    assert wet.front_alone_n == pytest.approx(257.425, abs=0.01)
    assert wet.both_n == pytest.approx(392.266, abs=0.01)


@given(bikes, st.floats(0.2, 1.0), st.floats(0.0, 0.3))
def test_what_must_hold_of_any_bike(bike: LoadedBike, grip: float, gradient: float) -> None:
    flat, steep = ground_limits(bike, grip, 0.0), ground_limits(bike, grip, gradient)
    assert flat.both_n <= grip * bike.mass_kg * G + 1e-9
    assert flat.front_alone_n <= flat.pitch_over_n + 1e-9
    assert steep.decel_ms2 <= flat.decel_ms2 + 1e-9
    # at the rear's own limit the rear tyre is just at its grip
    _, rear_load = axle_loads_n(bike, flat.rear_alone_n, 0.0)
    assert flat.rear_alone_n == pytest.approx(grip * rear_load, rel=1e-9)
    front, rear = axle_loads_n(bike, flat.both_n, 0.0)
    assert front + rear == pytest.approx(bike.mass_kg * G)
    assert rear >= -1e-6


@given(bikes, st.floats(0.2, 1.0), st.floats(0.3, 1.6), st.floats(0.0, 0.3))
def test_each_tyre_is_at_its_own_grip(bike: LoadedBike, grip: float, ratio: float, gradient: float) -> None:
    """At the limit with both each tyre gives its grip times its load; alone each is at its own."""
    limits = ground_limits(bike, grip, gradient, ratio)
    front, rear = axle_loads_n(bike, limits.both_n, gradient)
    if limits.both_n < limits.pitch_over_n * (1 - 1e-9):
        assert limits.both_n == pytest.approx(grip * front + grip * ratio * rear, rel=1e-9)
    _, rear_load = axle_loads_n(bike, limits.rear_alone_n, gradient)
    assert limits.rear_alone_n == pytest.approx(grip * ratio * rear_load, rel=1e-9)
    assert limits.front_alone_n == ground_limits(bike, grip, gradient).front_alone_n


def test_a_worn_rear_tyre_by_hand() -> None:
    """90 kg, μ 0.5 in front and 0.4 behind: m g (0.4 · 1.08 + 0.1 · 0.45)/(1.08 − 0.1 · 1.08) = 433.2 N."""
    bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    limits = ground_limits(bike, 0.5, 0.0, 0.8)
    assert limits.both_n == pytest.approx(433.2, abs=0.1)
    assert limits.rear_grip == pytest.approx(0.4)
    told = {f.key: f for f in standing_figures(bike, 0.5, 0.8)}["decel_limit"]
    assert told.value == pytest.approx(limits.decel_ms2)
    assert "μ_r" in told.equation
    assert [g.value for g in told.given if g.symbol == "μ_r"] == [pytest.approx(0.4)]


def test_loads_shift_the_centre_of_gravity() -> None:
    tour = KINDS[BikeKind.TOURING]
    unladen, bags = PlacedMass("bike and rider", 90, 0.45, 1.08), PlacedMass("bags", 10, 0.05, 0.5)
    both = centre_of((unladen, bags))
    bike, bare = (
        LoadedBike(m.mass_kg, tour.wheelbase_m, m.ahead_m, m.height_m, 0.5, 0.007, 0.345, trailer_kg)
        for m, trailer_kg in ((both, 20), (unladen, 0))
    )
    # (90 · 0.45 + 10 · 0.05)/100 = 0.41 m; (90 · 1.08 + 10 · 0.5)/100 = 1.022 m
    assert bike.rear_to_cg_m == pytest.approx(0.41)
    assert bike.cg_height_m == pytest.approx(1.022)
    assert bike.mass_kg == 100
    assert bike.rolling_mass_kg == 120
    # the trailer loads no axle of the bike, but it has to be slowed
    assert sum(axle_loads_n(bike, 0, 0)) == pytest.approx(100 * G)
    assert ground_limits(bike, 0.8, 0).decel_ms2 < ground_limits(bare, 0.8, 0).decel_ms2
    with pytest.raises(QuantityError, match="above zero"):
        centre_of((PlacedMass("nothing", 0, 0.4, 1),))


def test_tread_counts_where_it_does() -> None:
    assert tyre_grip(Surface.DRY_ASPHALT, Tread.SLICK) == pytest.approx(0.80)
    assert tyre_grip(Surface.DRY_ASPHALT, Tread.KNOBBY) == pytest.approx(0.72)
    assert tyre_grip(Surface.GRAVEL, Tread.SLICK) == pytest.approx(0.45 * 0.85)
    assert tyre_grip(Surface.GRAVEL, Tread.KNOBBY) == pytest.approx(0.45)
    worn = TreadLeft.WORN
    assert tyre_grip(Surface.GRAVEL, Tread.KNOBBY, worn) == pytest.approx(0.45 * 0.85)
    assert tyre_grip(Surface.WET_ASPHALT, Tread.MIXED, worn) == pytest.approx(0.55 * 0.90)
    assert tyre_grip(Surface.WET_ASPHALT, Tread.MIXED, TreadLeft.HALF) == pytest.approx(0.55 * 0.97)
    assert tyre_grip(Surface.DRY_ASPHALT, Tread.MIXED, worn) == pytest.approx(0.80)
    assert tyre_grip(Surface.WET_ASPHALT, Tread.SLICK, worn) == pytest.approx(0.55)  # it has none to lose


@pytest.mark.parametrize(
    ("place", "value", "names"),
    [
        (0, 0.0, "total mass"),
        (0, -80, "total mass"),
        (0, float("nan"), "total mass"),
        (1, 0.1, "wheelbase"),
        (2, 1.5, "centre of gravity"),
        (3, 9.0, "height"),
        (5, 0.9, "rolling resistance"),
        (6, 0.9, "rolling radius"),
    ],
)
def test_impossible_bikes_are_refused_by_name(place: int, value: float, names: str) -> None:
    good = [100, 1.08, 0.42, 1.10, 0.55, 0.007, 0.345]
    good[place] = value
    with pytest.raises(QuantityError, match=names) as caught:
        LoadedBike(*good)
    assert caught.value.allowed


def test_a_slope_of_three_hundred_percent_is_refused() -> None:
    with pytest.raises(QuantityError, match="gradient"):
        ground_limits(CITY, 0.8, 3.0)


def test_the_strip_shows_its_working() -> None:
    figures = {f.key: f for f in standing_figures(CITY, 0.8)}
    assert figures["decel_limit"].steps == ("set by pitch-over",)
    assert {g.symbol for g in figures["axle_front"].given} >= {"m", "L", "l_r"}
    by_hand = {g.symbol: g.value for g in figures["axle_front"].given}
    assert figures["axle_front"].value == pytest.approx(by_hand["m"] * by_hand["g"] * by_hand["l_r"] / by_hand["L"])
    assert {f.key: f for f in standing_figures(CITY, 0.3)}["decel_limit"].steps == ("set by grip",)


def test_every_kind_has_defaults_that_make_a_bike() -> None:
    assert set(KINDS) == set(BikeKind)
    for kind in KINDS.values():
        LoadedBike(
            kind.bike_mass_kg + 75, kind.wheelbase_m, kind.rear_to_cg_m, kind.cg_height_m, kind.drag_area_m2,
            kind.rolling_ratio, kind.wheel_radius_m,
        )  # fmt: skip
