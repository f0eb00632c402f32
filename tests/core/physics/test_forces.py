"""From finger to road: hydraulic and cable chains by hand, limits, and what must be monotone."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import QuantityError
from clavis.core.parameters import ModelParameters
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import LoadedBike, ground_limits
from clavis.core.physics.forces import (
    Feel,
    Housing,
    Limiter,
    PadFriction,
    WheelAsked,
    hand_of,
    holding_force_n,
    lever_travel,
    linkage,
    pressure_bar,
    reached_stop,
    sliding_limits,
    stop_target,
    wheel_forces,
)
from clavis.core.physics.friction import dry_mu, friction_shape, stop_mu
from tests.bikes import cable_caliper, cable_lever, caliper, lever, pad, rotor

P = ModelParameters()
BIKE = LoadedBike(100, 1.08, 0.42, 1.10, 0.55, 0.007, 0.345)
G = 9.80665


def link(r=None, c=None, v=None, p=None):
    return linkage(r or rotor(), c or caliper(), v or lever(), p or pad(), 0.345, P)


def forces(
    end=End.FRONT,
    grip=0.8,
    mu_hot=0.45,
    state=1.0,
    wet=1.0,
    hand=None,
    top=10.0,
    the_link=None,
    gradient=0.0,
    musts=(),
    made_up=(),
    targets=None,
):
    flat, steep = ground_limits(BIKE, grip, 0.0), ground_limits(BIKE, grip, gradient)
    targets = targets or [t for lim in (flat, steep) if (t := stop_target(BIKE, lim, top, P, "target", 0.6 * G))]
    found = the_link or link()
    asked = WheelAsked(
        bike=BIKE, end=end, flat=flat, sliding=sliding_limits(BIKE, flat, P), targets=tuple(targets), holding_n=holding_force_n(BIKE, gradient)[end], drag_n=100.0,
        lead_n=targets[0].wheel_force_n[End.FRONT], musts=musts, made_up_n=made_up,
    )  # fmt: skip
    row = COMPOUNDS[pad().compound]
    friction = PadFriction(cold=row.mu_cold, work=row.mu_work, hot=mu_hot, state=state, wet=wet,
                           stops=np.full(len(asked.stops), mu_hot), musts=np.full(len(asked.must_stops), mu_hot))  # fmt: skip
    return wheel_forces(found, asked, hand or hand_of(P, 1, False, False), friction, P)


def test_the_hydraulic_chain_by_hand() -> None:
    # A_side π·22²/4 = 380.13 mm², A_mc 78.540 mm²: N/F = 6·0.9·380.13/78.540 = 26.136
    # r_e = 90 − 7 = 83 mm; gain per μ = 2·26.136·0.083/0.345 = 12.5756
    found = link()
    assert found.clamp_per_finger == pytest.approx(26.136, rel=1e-4)
    assert found.effective_radius_m == pytest.approx(0.083)
    assert found.gain_per_mu == pytest.approx(12.5756, rel=1e-4)
    # 50 N at the finger: p = 50·6·0.9/78.540 = 3.4377 MPa = 34.4 bar
    assert pressure_bar(found, 50, P) == pytest.approx(34.377, rel=1e-4)


def test_the_cable_chain_by_hand() -> None:
    found = link(c=cable_caliper(), v=cable_lever())
    assert found.clamp_per_finger == pytest.approx(4.6 * 0.75 * 5.2)
    assert pressure_bar(found, 50, P) == 0


def test_fifteen_and_sixteen_have_the_area_of_one_twenty_two() -> None:
    assert caliper(bores_mm=[15, 16]).piston_area_mm2 == pytest.approx(caliper(bores_mm=[22]).piston_area_mm2, rel=0.01)


def test_a_larger_rotor_by_effective_radius() -> None:
    # 160 → 180: (90 − 7)/(80 − 7) = +13.7 %
    assert link(rotor(diameter_mm=180)).gain_per_mu / link(rotor(diameter_mm=160)).gain_per_mu == pytest.approx(83 / 73)


def test_lever_travel_by_hand() -> None:
    # closing: 6·380.13·0.5/78.540 = 14.520 mm; giving at 34.38 bar: 6·4·34.377/78.540 = 10.505 mm
    travel = lever_travel(link(), 50, P)
    assert travel.gap_mm == pytest.approx(14.520, rel=1e-3)
    assert travel.compliance_mm == pytest.approx(10.505, rel=1e-3)
    assert travel.share == pytest.approx(travel.total_mm / 50)
    # more piston area on the same master means a longer lever
    assert lever_travel(link(c=caliper(bores_mm=[17, 18])), 50, P).total_mm > travel.total_mm


def test_air_in_the_line_by_hand() -> None:
    # 300 mm³ at rest; at 34.377 bar 300·34.377/(1.01325 + 34.377) = 291.41 mm³ are pressed together: 6·291.41/78.540
    spongy = lever_travel(link(), 50, P, 300.0)
    assert spongy.air_mm == pytest.approx(22.262, rel=1e-3)
    assert spongy.total_mm == pytest.approx(lever_travel(link(), 50, P).total_mm + 22.262, rel=1e-3)


def test_the_target_stop_by_hand() -> None:
    # dry: limit 5.884 m/s², so the target is 0.9 · 5.884 = 5.2956; F_b = 529.56 N
    target = stop_target(BIKE, ground_limits(BIKE, 0.8, 0), 10.0, P, "flat", 0.6 * G)
    assert target is not None
    assert target.decel_ms2 == pytest.approx(5.2956, rel=1e-4)
    assert target.force_n == pytest.approx(529.56, rel=1e-4)
    # N_f = (980.665·0.42 + 529.56·1.10)/1.08 = 920.74 → share 0.93889
    assert target.wheel_force_n[End.FRONT] == pytest.approx(0.93889 * 529.56, rel=1e-4)
    assert sum(target.wheel_energy_j.values()) == pytest.approx(0.5 * 102 * 100, rel=1e-9)
    steep = stop_target(BIKE, ground_limits(BIKE, 0.8, 0.1), 10.0, P, "steep", 0.6 * G)
    assert steep is not None
    assert sum(steep.wheel_energy_j.values()) > 0.5 * 102 * 100
    assert stop_target(BIKE, ground_limits(BIKE, 0.1, 0.2), 10.0, P, "ice", 0.6 * G) is None
    mild = stop_target(BIKE, ground_limits(BIKE, 0.8, 0), 10.0, P, "flat", 0.3 * G)
    assert mild is not None
    assert mild.decel_ms2 == pytest.approx(0.3 * G)


def test_finger_forces_follow_from_the_gain() -> None:
    f = forces()
    assert f.finger_target_n == pytest.approx(f.needed_n / f.gain)
    assert f.finger_drag_n == pytest.approx(100 / f.gain)
    assert f.lock_torque_nm == pytest.approx(f.lock_force_n * 0.345)
    assert f.reserve == pytest.approx(90 * 12.5756 * 0.45 / f.needed_n - 1, rel=1e-4)


def test_two_bars_for_a_stop_by_hand() -> None:
    """Must: 3.4 m/s² of both brakes, F_b 340 N; N_f = (980.665·0.42 + 340·1.10)/1.08 = 727.67, share 0.74201: 252.3 N."""
    must = stop_target(BIKE, ground_limits(BIKE, 0.8, 0), 10.0, P, "must", 3.4)
    f = forces(mu_hot=0.30, musts=(must,))
    assert f.must_of.force_n == pytest.approx(0.74201 * 340, rel=1e-4)
    assert f.must == pytest.approx(90 * 12.5756 * 0.30 / 252.28 - 1, rel=1e-3)
    assert f.reserve < 0 < f.must
    # 10 % short of its part, and 60 N that the other wheel makes up for
    weak = forces(mu_hot=0.2, musts=(must,), made_up=(60.0,))
    assert weak.must_alone == pytest.approx(90 * 12.5756 * 0.2 / 252.28 - 1, rel=1e-3)
    assert weak.must == pytest.approx((90 * 12.5756 * 0.2 + 60) / 252.28 - 1, rel=1e-3)
    assert weak.must_alone < 0 < weak.must


def test_a_wheel_that_carries_nothing_has_no_reserve() -> None:
    """A stop that gives the rear 3 % of it, and one that gives it 7: whatever brake is behind, only that has a figure."""
    stop = stop_target(BIKE, ground_limits(BIKE, 0.8, 0), 10.0, P, "target", 0.6 * G)
    for share, told in ((0.03, False), (0.07, True)):
        parts = {End.FRONT: (1 - share) * stop.force_n, End.REAR: share * stop.force_n}
        rear = forces(end=End.REAR, targets=[replace(stop, wheel_force_n=parts)])
        assert (rear.reserve is not None) == told
        assert (rear.reserve_of is not None) == told


@given(st.sampled_from(list(COMPOUNDS)), st.floats(-10, 500), st.floats(0, 300), st.floats(0.5, 1.0))
def test_a_stop_is_integrated_until_standstill(compound: str, start_c: float, rise_k: float, wet: float) -> None:
    """Against a stop stepped through its way: dE = F ds, the rotor following the energy; friction lies between its
    ends' least and greatest, and a wet stop is never shorter than a dry one."""
    row = COMPOUNDS[compound]
    shape = friction_shape(row)[None]
    dry, damp = (
        float(stop_mu(shape, np.array([w]), np.array([start_c]), np.array([[rise_k]]))[0, 0]) for w in (1.0, wet)
    )
    energies = (np.arange(4000) + 0.5) / 4000
    rotor_c = start_c + rise_k * energies
    mu = dry_mu(row, rotor_c) * np.where(rotor_c > 80, 1.0, wet)
    assert damp == pytest.approx(1 / np.mean(1 / mu), rel=0.03)
    assert mu.min() - 1e-9 <= damp <= mu.max() + 1e-9
    assert damp <= dry + 1e-12


def test_what_limits_in_words() -> None:
    weak = link(v=lever(ratio=2.0))
    assert forces(the_link=weak).limiter is Limiter.HAND
    assert forces(mu_hot=0.05).limiter is Limiter.FRICTION
    assert forces().limiter in (Limiter.PITCH_OVER, Limiter.CONTROL)
    assert forces(grip=0.4).limiter in (Limiter.GRIP, Limiter.CONTROL)
    novice = hand_of(P, 1, False, True)
    assert forces(hand=novice, the_link=link(v=lever(ratio=11.0))).limiter is Limiter.CONTROL


def test_feel_goes_by_finger_force_at_the_limit() -> None:
    def feel(ratio: float) -> Feel:
        return forces(the_link=link(v=lever(ratio=ratio))).feel

    assert [feel(r) for r in (12, 11, 7, 4)] == [Feel.EASY, Feel.EASY, Feel.TIRING, Feel.WEAK]
    assert forces(end=End.REAR, grip=0.35, the_link=link(v=lever(ratio=8))).feel is Feel.GRABBY


def test_the_rear_locks_sooner_while_the_front_brakes() -> None:
    rear = forces(end=End.REAR, grip=0.4)
    assert rear.finger_lock_braked_n is not None
    assert rear.finger_lock_braked_n < rear.finger_lock_n
    assert forces().finger_lock_braked_n is None


def test_hands() -> None:
    assert hand_of(P, 1, False, False).greatest_n == 90
    assert hand_of(P, 2, False, False).greatest_n == pytest.approx(144)
    assert hand_of(P, 1, True, False).comfortable_n == pytest.approx(24.5)
    assert hand_of(P, 1, False, True).scatter_n == 12


@given(st.sampled_from([140, 160, 180, 203, 220]), st.floats(3, 9), st.floats(0.3, 1.0))
def test_more_radius_more_ratio_less_finger(diameter: float, ratio: float, state: float) -> None:
    small = forces(the_link=link(rotor(diameter_mm=diameter), v=lever(ratio=ratio)), state=state)
    large = forces(the_link=link(rotor(diameter_mm=diameter + 20), v=lever(ratio=ratio)), state=state)
    longer = forces(the_link=link(rotor(diameter_mm=diameter), v=lever(ratio=ratio + 1)), state=state)
    assert large.finger_target_n < small.finger_target_n
    assert longer.finger_target_n < small.finger_target_n
    assert large.control_hold_back_n > small.control_hold_back_n


def test_between_too_weak_and_too_strong_lies_the_best_for_this_rider() -> None:
    """A light novice stops shortest with neither the smallest nor the largest gain."""
    light = LoadedBike(58, 1.03, 0.45, 1.05, 0.45, 0.007, 0.345)
    limits = ground_limits(light, 0.45, 0)
    hand = hand_of(P, 1, False, True)

    def distance(gain: float) -> float:
        stop = reached_stop(
            light, limits, dict.fromkeys(End, hand.greatest_n * gain), dict.fromkeys(End, hand.scatter_n * gain), 8.0, P
        )
        assert stop is not None
        return stop.distance_m

    distances = [distance(g) for g in (0.6, 1.2, 2.0, 4.0, 8.0)]
    best = distances.index(min(distances))
    assert 0 < best < 4


def test_a_stop_on_a_slope_that_does_not_hold_is_none() -> None:
    limits = ground_limits(BIKE, 0.8, 0.25)
    weak = reached_stop(BIKE, limits, dict.fromkeys(End, 50.0), dict.fromkeys(End, 0.0), 8.0, P)
    assert weak is None


def test_a_strong_brake_reaches_what_the_ground_gives() -> None:
    limits = ground_limits(BIKE, 0.4, 0)
    stop = reached_stop(BIKE, limits, dict.fromkeys(End, 5000.0), dict.fromkeys(End, 0.0), 10.0, P)
    assert stop is not None
    assert stop.decel_ms2 == pytest.approx(0.4 * G, rel=1e-3)
    assert stop.distance_m == pytest.approx(10 + 100 / (2 * 0.4 * G), rel=1e-3)
    assert set(stop.limited_by.values()) == {Limiter.GRIP}


def test_holding_still_is_shared_by_axle_load() -> None:
    held = holding_force_n(BIKE, 0.15)
    assert sum(held.values()) == pytest.approx(100 * G * 0.15 / (1 + 0.15**2) ** 0.5)
    assert held[End.FRONT] / sum(held.values()) > 0.42 / 1.08  # the slope puts load on the front wheel


def test_parts_that_cannot_be_computed_together_are_refused_by_name() -> None:
    with pytest.raises(QuantityError, match=r"pad height: 16.mm is not possible; allowed is at most the track of 14"):
        link(p=pad(height_mm=16))


def test_housing_takes_its_part_of_a_cables_pull() -> None:
    """By hand: 0.65 in old housing and 0.85 in new of what goes in; a hydraulic line does not care."""
    cable = {k: linkage(rotor(), cable_caliper(), cable_lever(), pad(), 0.345, P, k).clamp_per_finger for k in Housing}
    bare = cable_lever().ratio * cable_caliper().arm_ratio
    assert cable[Housing.OLD] == pytest.approx(0.65 * bare)
    assert cable[Housing.USUAL] == pytest.approx(0.75 * bare)
    assert cable[Housing.NEW] == pytest.approx(0.85 * bare)
    hydraulic = {linkage(rotor(), caliper(), lever(), pad(), 0.345, P, k).clamp_per_finger for k in Housing}
    assert len(hydraulic) == 1
