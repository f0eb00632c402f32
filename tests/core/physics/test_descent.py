"""From road to brake power: drags by hand, energy balance, plans that obey their corners, noise that does not brake."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from clavis.core.errors import ProfileError, QuantityError
from clavis.core.parameters import ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.physics import speed_kernel
from clavis.core.physics.bike import LoadedBike, Surface, Tread, ground_limits
from clavis.core.physics.descent import (
    MostForce,
    Sharing,
    Style,
    Weather,
    front_shares,
    heat_steps,
    joined,
    load_of_recording,
    plan_ride,
    steady_power_w,
    steepest_minute_n,
    wheel_energy_j,
    worst_speed_ms,
)
from clavis.core.physics.road import Road, Section, Smoothing, Track, even_elevation, road_of_sections, road_of_track

P = ModelParameters()
BIKE = LoadedBike(110, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345)
AIR = Weather(20.0)


def section(**more) -> Section:
    return Section(**({"length_m": 1000, "gradient_pct": 8, "speed_kmh": 30} | more))


def plan(*sections: Section, style=Style.DRAG, bike=BIKE, weather=AIR, top=400.0):
    return plan_ride(road_of_sections(sections, top), bike, weather, style, P)


def test_a_steady_drag_by_hand() -> None:
    load = plan(section(length_m=3000, gradient_pct=10))
    # θ = atan 0.1: sin 0.099504, cos 0.995037; v 8.3333 m/s
    # 110·9.80665·(0.099504 − 0.007·0.995037) = 99.825 N; air at 250 m, 20 °C: ρ = 1.1689 → ½·1.1689·0.5·69.44 = 20.29 N
    middle = load.power_w[len(load.power_w) // 2]
    assert middle == pytest.approx((99.825 - 20.29) * 8.33333, rel=0.002)
    assert steady_power_w(BIKE, 0.10, 8.33333, 1.1689) == pytest.approx(middle, rel=0.002)


def test_worst_steady_speed_is_where_the_air_takes_a_third() -> None:
    v = worst_speed_ms(BIKE, 0.10, 1.2)
    assert v is not None
    power = steady_power_w(BIKE, 0.10, v, 1.2)
    assert all(steady_power_w(BIKE, 0.10, v * k, 1.2) < power for k in (0.97, 1.03))
    push = power + 0.5 * 1.2 * 0.5 * v**3
    assert 0.5 * 1.2 * 0.5 * v**3 == pytest.approx(push / 3, rel=1e-9)
    assert worst_speed_ms(BIKE, 0.005, 1.2) is None


sections = st.builds(
    Section,
    length_m=st.floats(60, 1500),
    gradient_pct=st.floats(-6, 18),
    speed_kmh=st.floats(10, 60),
    corner_kmh=st.one_of(st.none(), st.floats(5, 50)),
    stand_s=st.sampled_from([0.0, 0.0, 12.0, 90.0]),
    surface=st.sampled_from([None, None, Surface.GRAVEL, Surface.WET_COBBLES]),
)


@settings(max_examples=40, deadline=None)
@given(st.lists(sections, min_size=1, max_size=5), st.sampled_from(list(Style)), st.floats(-5, 5))
def test_energy_is_all_accounted_for(parts: list[Section], style: Style, wind: float) -> None:
    b = plan(*parts, style=style, weather=Weather(15.0, wind), top=900.0).budget_j
    into, out = b["potential"] + b["kinetic"] + b["pedalled"], b["air"] + b["rolling"] + b["braked"]
    assert into == pytest.approx(out, abs=1e-6 * max(abs(b["potential"]), 1e4))
    assert b["braked"] >= 0
    assert b["pedalled"] >= 0


@settings(max_examples=30, deadline=None)
@given(
    st.lists(sections, min_size=1, max_size=4),
    st.floats(0.0, 1.0),
    st.floats(0.0, 0.4),
    st.floats(0.0, 1.0),
    st.floats(0, 800),
    st.sampled_from(list(End)),
)
def test_potential_and_kinetic_are_air_rolling_brakes_and_regeneration(
    parts: list[Section], front: float, third: float, regen: float, limit_w: float, end: End
) -> None:
    """Every joule once: what both friction brakes, the third brake and regeneration take is what is left over."""
    load = plan(*parts, top=900.0)
    sharing = Sharing(front, third_share=third, regen_end=end, regen_share=regen, regen_limit_w=limit_w)
    friction = taken = 0.0
    for wheel in End:
        left, regenerated = wheel_energy_j(load, sharing, wheel)
        friction += float(left.sum())
        taken += float(regenerated.sum())
        if wheel is not end:
            assert regenerated.sum() == 0
    b = load.budget_j
    in_third = third * b["braked"]
    into = b["potential"] + b["kinetic"] + b["pedalled"]
    assert into == pytest.approx(b["air"] + b["rolling"] + friction + in_third + taken, abs=1e-6 * max(into, 1e4))
    assert friction >= 0
    assert taken <= limit_w * load.time_s[-1] + 1e-6


@settings(max_examples=40, deadline=None)
@given(st.lists(sections, min_size=1, max_size=5))
def test_a_drag_plan_never_exceeds_what_is_wanted_nor_brakes_harder_than_planned(parts: list[Section]) -> None:
    road = road_of_sections(parts, 900.0)
    load = plan_ride(replace(road, stand_s=np.zeros_like(road.stand_s)), BIKE, AIR, Style.DRAG, P)
    assert np.all(load.speed_ms[1:-1] <= np.maximum(road.hold_ms[:-1], road.hold_ms[1:]) + 1e-6)
    assert np.all(load.speed_ms <= road.cap_ms + 1e-6)
    decel = -np.diff(load.speed_ms**2) / (2 * load.ds_m)
    assert decel.max() <= P.plan_brake_ms2 + 1e-6


def _town(gradient_pct: float, style: Style = Style.DRAG):
    """Twenty stops from a wanted 30 km/h, 200 m apart."""
    return plan(*[section(length_m=200, gradient_pct=gradient_pct, stand_s=5)] * 20, style=style)


@pytest.mark.parametrize("style", Style)
def test_a_rider_pedals_up_to_the_speed_wanted_where_the_slope_does_not(style: Style) -> None:
    """Level: each stop takes ½ m_e v² less rolling and air over v²/(2 a) = 11.6 m. The first begins at speed; at 0.3 m/s²
    30 km/h takes 27.8 s and 115.7 m, the rest of the 200 m 8.7 s, braking 2.8 s: 19 · 44.3 + 25.4 s and twenty waits."""
    load = _town(0.0, style)
    v = 30 / 3.6
    way = v**2 / (2 * 3.0)
    mean_rho = AIR.density_kg_m3(np.array([400.0]))[0]
    lost = 0.007 * 110 * 9.80665 * way + 0.5 * mean_rho * 0.5 * v**2 / 2 * way
    assert load.braked_kj == pytest.approx(20 * (0.5 * BIKE.rolling_mass_kg * 1.02 * v**2 - lost) / 1000, rel=0.03)
    way_at_speed = 200 - way - v**2 / (2 * 0.3)
    by_hand_s = 19 * (v / 0.3 + way_at_speed / v + v / 3) + (200 - way) / v + v / 3 + 20 * 5
    assert load.time_s[-1] == pytest.approx(by_hand_s, rel=0.02)


@pytest.mark.parametrize("style", Style)
def test_energy_in_town_is_continuous_in_the_slope_and_rises_with_it(style: Style) -> None:
    """No step above what 0.1 % of 4 km lifts, a tenth more for pulses that fall otherwise: the rider saves no more."""
    braked = [_town(g, style).braked_kj for g in np.arange(-2.0, 7.01, 0.1)]
    steps = np.diff(braked)
    assert steps.min() > -0.25
    assert steps.max() < 1.1 * 110 * 9.80665 * 4 / 1000


@pytest.mark.parametrize("corner", [None, 10])
def test_in_the_drag_is_what_holds_the_steepest_minute(corner: int | None) -> None:
    """12 % at 20 km/h after 4 %: 110 · 9.80665 · (0.119145 − 0.007 · 0.992877) less the air, half of it behind; a
    corner on the gentle part does not count, nor does the slowing before the steep one."""
    load = plan(section(gradient_pct=4, speed_kmh=40, corner_kmh=corner), section(gradient_pct=12, speed_kmh=20))
    rho = AIR.density_kg_m3(np.array([400.0 - 40 - 60]))[0]
    held = 110 * 9.80665 * (0.119145 - 0.007 * 0.992877) - 0.5 * rho * 0.5 * (20 / 3.6) ** 2
    for end in End:
        assert steepest_minute_n(load, BIKE, AIR, Sharing(0.5), end) == pytest.approx(held / 2, rel=0.01)


def test_on_the_level_nothing_is_held_and_a_short_ride_is_taken_whole() -> None:
    assert steepest_minute_n(plan(section(gradient_pct=0, corner_kmh=8)), BIKE, AIR, Sharing(0.5), End.FRONT) == 0.0
    short = plan(section(gradient_pct=12, length_m=100, speed_kmh=20))
    assert steepest_minute_n(short, BIKE, AIR, Sharing(0.5), End.FRONT) == pytest.approx(56.04, rel=0.01)


def test_corners_are_taken_at_their_speed() -> None:
    load = plan(section(corner_kmh=12), section())
    at = int(np.argmin(np.abs(load.distance_m - 1000)))
    assert load.speed_ms[at] == pytest.approx(12 / 3.6, rel=1e-6)
    assert load.speed_ms[at - 40] > 7


def test_pulsing_brakes_nearly_the_same_energy_in_higher_peaks() -> None:
    drag, pulse = (plan(section(length_m=4000, gradient_pct=9), style=s) for s in (Style.DRAG, Style.PULSE))
    assert pulse.braked_kj == pytest.approx(drag.braked_kj, rel=0.03)
    assert pulse.power_w.max() > 2 * drag.power_w.max()
    middle = pulse.speed_ms[len(pulse.speed_ms) // 4 : -10]
    assert middle.max() <= 1.15 * 30 / 3.6 + 0.05
    assert middle.min() >= 0.85 * 30 / 3.6 - 0.05


@pytest.mark.parametrize(
    ("change", "more"),
    [
        ({"gradient_pct": 10}, True),
        ({"speed_kmh": 20}, True),  # slower: the air does less of it
        ({"length_m": 1500}, True),
        ({"corner_kmh": 10}, True),
        ({"gradient_pct": 5}, False),
    ],
)
def test_energy_to_brake_moves_the_right_way(change: dict, more: bool) -> None:
    base, other = plan(section()), plan(section(**change))
    assert bool(other.power_w.max() > base.power_w.max() or other.braked_kj > base.braked_kj) is more


def test_head_wind_and_a_trailer_count() -> None:
    base = plan(section()).braked_kj
    assert plan(section(), weather=Weather(20.0, 5.0)).braked_kj < base
    towed = LoadedBike(110, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345, trailer_kg=30)
    assert plan(section(), bike=towed).braked_kj > base * 1.2


def _track(noise_m: float, lift_m: float, seed: int = 3, with_time: bool = True) -> Track:
    """A 3 km descent at 9 % and 30 km/h as a recorder would see it."""
    rng = np.random.default_rng(seed)
    time = np.arange(0, 360.0)
    way = time * 30 / 3.6
    seen = np.maximum.accumulate(way + rng.normal(0, noise_m, len(way)))
    height = 900 - way * np.sin(np.arctan(0.09)) + rng.normal(0, lift_m, len(way))
    return Track(seen, height, time if with_time else None)


def test_the_same_descent_typed_planned_and_recorded_agrees() -> None:
    typed = plan(section(length_m=2991, gradient_pct=9), top=900).braked_kj
    planned = plan_ride(road_of_track(_track(0.5, 0.5, with_time=False), 30), BIKE, AIR, Style.DRAG, P).braked_kj
    recorded = load_of_recording(_track(1.0, 1.0), BIKE, AIR).braked_kj
    assert planned == pytest.approx(typed, rel=0.08)
    assert recorded == pytest.approx(typed, rel=0.08)


def test_noise_on_a_flat_road_does_not_brake() -> None:
    rng = np.random.default_rng(4)
    time = np.arange(0, 1800.0)
    way = np.maximum.accumulate(time * 6.0 + rng.normal(0, 2, len(time)))
    load = load_of_recording(Track(way, 200 + rng.normal(0, 1.0, len(time)), time), BIKE, AIR)
    assert load.braked_kj * 1000 / load.time_s[-1] < 10


def test_standing_is_standing() -> None:
    time = np.arange(0, 300.0)
    way = np.where(time < 100, time * 6, np.where(time < 200, 600.0, 600 + (time - 200) * 6))
    load = load_of_recording(Track(way, 500 - way * 0.06, time), BIKE, AIR)
    waiting = (load.time_s[:-1] > 120) & (load.time_s[1:] < 180)
    assert np.all(load.mean_ms[waiting] == 0)
    assert np.all(load.braked_j[waiting] == 0)


def test_sharing_third_brake_and_regeneration() -> None:
    load = plan(section())
    total = load.braked_j.sum()
    front, none = wheel_energy_j(load, Sharing(0.6), End.FRONT)
    rear, _ = wheel_energy_j(load, Sharing(0.6), End.REAR)
    assert front.sum() == pytest.approx(0.6 * total)
    assert front.sum() + rear.sum() == pytest.approx(total)
    assert none.sum() == 0
    third = Sharing(0.6, third_share=0.25)
    assert wheel_energy_j(load, third, End.FRONT)[0].sum() == pytest.approx(0.45 * total)
    regen = Sharing(0.6, regen_end=End.REAR, regen_share=0.5, regen_limit_w=1e9)
    left, taken = wheel_energy_j(load, regen, End.REAR)
    assert taken.sum() == pytest.approx(0.2 * total)
    assert left.sum() == pytest.approx(0.2 * total)
    limited, some = wheel_energy_j(load, Sharing(0.6, regen_end=End.REAR, regen_share=0.5, regen_limit_w=50), End.REAR)
    assert np.all(some <= 50 * load.dt_s + 1e-9)
    assert limited.sum() + some.sum() == pytest.approx(0.4 * total)
    with pytest.raises(QuantityError, match="front share"):
        Sharing(1.2)


@settings(max_examples=30, deadline=None)
@given(st.lists(sections, min_size=1, max_size=4), st.floats(0.2, 0.8))
def test_steps_keep_time_way_and_energy(parts: list[Section], share: float) -> None:
    load = plan(*parts, top=900)
    steps = heat_steps(load, Sharing(share), End.FRONT)
    assert steps.dt_s.sum() == pytest.approx(load.time_s[-1])
    assert steps.distance_m[-1] == pytest.approx(load.distance_m[-1])
    assert steps.energy_kj == pytest.approx(share * load.braked_kj, abs=1e-9)
    assert steps.dt_s.max() <= 5 + 1e-6
    assert np.all((steps.braking >= 0) & (steps.braking <= 1 + 1e-9))


def test_a_long_ramp_of_power_is_seen_by_the_steps() -> None:
    """Power growing evenly for minutes: no step may hide more than the tolerance."""
    n = 400
    gradient = np.linspace(0.0, 0.14, n)
    road = Road(
        np.full(n, 5.0),
        gradient,
        np.full(n, 8.0),
        900 - np.cumsum(np.r_[0, 5 * gradient]),
        np.full(n + 1, np.inf),
        np.zeros(n + 1),
    )
    load = plan_ride(road, BIKE, AIR, Style.DRAG, P)
    steps = heat_steps(load, Sharing(1.0), End.FRONT)
    running = np.concatenate([[0], np.cumsum(steps.power_w * steps.dt_s)])
    true = np.concatenate([[0], np.cumsum(load.braked_j)])
    stray = np.abs(np.interp(load.time_s, steps.time_s, running) - true)
    assert stray.max() <= 15


@pytest.mark.parametrize(
    ("distance", "elevation", "time", "words"),
    [
        ([0, 10], [1, 2], None, r"2\spoints"),
        ([0, 10, 5], [1, 2, 3], None, "backward"),
        ([0, 10, float("nan")], [1, 2, 3], None, "not a number"),
        ([0, 1, 2], [1, 2, 3], None, r"shorter than 20\sm"),
        ([0, 50, 90], [1, 2], None, "differ in length"),
    ],
)
def test_tracks_that_are_none(distance, elevation, time, words) -> None:
    with pytest.raises(ProfileError, match=words):
        Track(np.array(distance, float), np.array(elevation, float), time)


def test_times_that_cannot_be_used() -> None:
    with pytest.raises(ProfileError, match="no times"):
        load_of_recording(_track(0, 0, with_time=False), BIKE, AIR)
    t = _track(0, 0)
    with pytest.raises(ProfileError, match="no bicycle ride"):
        load_of_recording(Track(t.distance_m * 20, t.elevation_m, t.time_s), BIKE, AIR)
    with pytest.raises(ProfileError, match="no sections"):
        road_of_sections((), 400)


def test_sharing_by_axle_load_by_hand() -> None:
    """On a steady drag: N_f/(m g cosθ) = (m g cosθ l_r + F_b h)/(L m g cosθ)."""
    load = plan(section(length_m=2000, gradient_pct=10))
    k = len(load.dt_s) // 2
    force = load.braked_j[k] / load.ds_m[k]
    weight = 110 * 9.80665 * 0.995037
    by_hand = (weight * 0.45 + force * 1.08) / 1.06 / weight
    share = front_shares(load, Sharing(0.55, by_axle_of=BIKE))
    assert share[k] == pytest.approx(by_hand, rel=1e-4)
    front, _ = wheel_energy_j(load, Sharing(by_axle_of=BIKE), End.FRONT)
    rear, _ = wheel_energy_j(load, Sharing(by_axle_of=BIKE), End.REAR)
    assert front.sum() + rear.sum() == pytest.approx(load.braked_j.sum())
    # a hard stop puts more of it in front than a drag does
    hard = plan(section(corner_kmh=6))
    shares = front_shares(hard, Sharing(by_axle_of=BIKE))
    assert shares[int(hard.power_w.argmax())] > shares[10] + 0.1


def test_standing_at_a_stop_takes_its_time_and_brakes_nothing() -> None:
    there, waits = plan(section(corner_kmh=0.9 * 3.6), section()), plan(section(stand_s=45), section())
    assert waits.time_s[-1] == pytest.approx(there.time_s[-1] + 45, abs=4)
    still = np.flatnonzero((waits.ds_m == 0) & (waits.dt_s > 1))
    assert len(still) == 1
    assert waits.braked_j[still[0]] == 0
    assert waits.distance_m[still[0]] == pytest.approx(1000)
    assert waits.speed_ms[still[0]] == pytest.approx(0.25)


def test_laps_with_rests_by_hand() -> None:
    one = plan(section(length_m=800))
    three = joined([one] * 3, [600.0, 600.0])
    assert three.time_s[-1] == pytest.approx(3 * one.time_s[-1] + 1200)
    assert three.braked_kj == pytest.approx(3 * one.braked_kj)
    assert three.drop_m == pytest.approx(3 * one.drop_m)
    assert three.distance_m[-1] == pytest.approx(3 * one.distance_m[-1])
    assert three.budget_j["air"] == pytest.approx(3 * one.budget_j["air"])
    assert joined([one], []) is one


def _corner_at_eight(bike: LoadedBike, most_force_n: MostForce, surface: Surface | None, tread: Tread) -> float:
    """Greatest deceleration, m/s², before a corner on 8 %."""
    road = road_of_sections([section(corner_kmh=8, surface=surface), section()], 400, tread=tread)
    load = plan_ride(road, bike, AIR, Style.DRAG, P, most_force_n)
    return float((-np.diff(load.speed_ms**2) / (2 * load.ds_m)).max())


def test_a_slippery_section_is_braked_more_gently() -> None:
    """The ground's force on 8 % is μ m g 0.99682, the slope takes g 0.07975; m_e is BIKE's. Loose, μ 0.35, 0.85 of it on
    slicks."""

    def ground_n(grip: float, gradient: float) -> float:
        return ground_limits(BIKE, min(grip, 0.85), gradient).both_n

    ratio = BIKE.mass_kg / BIKE.rolling_mass_kg
    for surface, tread, grip in (
        (None, Tread.MIXED, 0.85),
        (Surface.WET_COBBLES, Tread.MIXED, 0.40),
        (Surface.LOOSE, Tread.MIXED, 0.35),
        (Surface.LOOSE, Tread.SLICK, 0.2975),
    ):
        by_hand = min(3.0, 9.80665 * (grip * 0.99682 * ratio - 0.07975))
        assert _corner_at_eight(BIKE, ground_n, surface, tread) == pytest.approx(by_hand, rel=1e-3)


def test_nowhere_is_braked_harder_than_is_reached_on_that_slope() -> None:
    """270 N reached whatever the slope: 270 / m_e on the flat, less g 0.07975 on 8 %; and where hardly anything is
    left the plan still slows."""
    reached = 270 / BIKE.rolling_mass_kg - 9.80665 * 0.07975
    assert _corner_at_eight(BIKE, lambda _, __: 270.0, None, Tread.MIXED) == pytest.approx(reached, rel=1e-3)
    assert _corner_at_eight(BIKE, lambda _, __: 60.0, None, Tread.MIXED) == pytest.approx(0.2, rel=1e-3)


def test_the_straightest_profile_within_what_heights_are_known_to() -> None:
    way = np.arange(0, 2000.0, 5)
    ripple = Track(way, 300 + 0.4 * np.sin(way / 9), None)
    flat = even_elevation(ripple, Smoothing(0, 0.5), 5)[1]
    assert flat[30:-30] == pytest.approx(np.full(len(flat) - 60, 300.0), abs=0.2)
    slope = Track(way, 300 - 0.08 * way, None)
    assert even_elevation(slope, Smoothing(0, 0.5), 5)[1] == pytest.approx(
        300 - 0.08 * even_elevation(slope, Smoothing(0, 0.5), 5)[0], abs=1e-6
    )
    # a hill twice as high as the gate is wide loses its top by the gate, not more
    hill = Track(way, 300 + 20 * np.exp(-(((way - 1000) / 150) ** 2)), None)
    kept = even_elevation(hill, Smoothing(0, 0.5), 5)[1]
    assert kept.max() == pytest.approx(319.5, abs=0.2)
    rough = even_elevation(ripple, Smoothing(0, 0.0), 5)[1]
    assert np.ptp(rough) > 0.7


@settings(max_examples=30, deadline=None)
@given(st.lists(st.floats(-3, 3), min_size=8, max_size=60), st.floats(0.05, 2))
def test_a_string_drawn_tight_stays_within_its_gates_and_is_no_longer_than_the_middle(
    steps: list[float], half: float
) -> None:
    height = np.cumsum(steps)
    way = np.arange(len(height)) * 5.0
    line = speed_kernel.straightest(way, height - half, height + half)
    assert np.all(np.abs(line - height) <= half + 1e-9)
    length = lambda z: np.hypot(np.diff(way), np.diff(z)).sum()  # noqa: E731
    assert length(line) <= length(height) + 1e-9
    assert line[[0, -1]] == pytest.approx(height[[0, -1]])


def test_a_stretch_of_a_track() -> None:
    t = _track(0, 0)
    part = t.between(1000, 2000)
    assert part.distance_m[0] >= 1000
    assert part.distance_m[-1] <= 2000
    assert part.elevation_m[0] - part.elevation_m[-1] == pytest.approx(1000 * 0.0896, rel=0.02)
    pieces = Track(t.distance_m, t.elevation_m, t.time_s, (100, 200))
    assert [len(p.distance_m) for p in pieces.pieces] == [100, 100, 160]
    assert pieces.between(1000, 2000).starts == (200 - int(np.argmax(t.distance_m >= 1000)),)
    with pytest.raises(ProfileError, match="nothing to ride lies between"):
        t.between(5000, 6000)
    with pytest.raises(ProfileError, match="pieces"):
        Track(t.distance_m, t.elevation_m, t.time_s, (0,))
