"""The view: wet and dry, cold and hot, new and worn, without regeneration; and nothing of it is kept."""

import re
from dataclasses import replace
from math import atan, sin

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.sheet import wheel_figures
from clavis.core.evaluation.view_conditions import AS_ENTERED, Age, ViewConditions, Wetness, under
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Surface, ground_limits
from clavis.core.physics.forces import Pull, reached_stop
from clavis.core.physics.friction import dry_mu
from clavis.core.verdicts import Verdict
from clavis.core.wording.job_summary import setup_sentence
from clavis.demo.world import folding, gravel
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.generated import TRACKS, drawn_jobs

VIEWS = [ViewConditions(pull=pull, wetness=wet, age=age) for pull in Pull for wet in Wetness for age in (None, *Age)]


def front(view, job=None, name=SetupName.FITTED):
    return evaluate(job or own_job(), CATALOGUE, {}, view).setups[name].wheels[End.FRONT]


def test_as_entered_changes_nothing() -> None:
    plain = evaluate(own_job(), CATALOGUE, {}).setups[SetupName.FITTED].wheels[End.FRONT]
    assert front(AS_ENTERED).forces == plain.forces
    assert front(AS_ENTERED).margins == plain.margins
    assert not AS_ENTERED.words
    assert under(own_job(), AS_ENTERED) == own_job()


def test_a_cold_first_pull_takes_the_ratio_of_the_frictions() -> None:
    """Semi-metallic: 0.45 at work, 0.38 cold; the finger pulls 0.45/0.38 as hard, and the reserve counts the cold."""
    warm, cold = front(AS_ENTERED).forces, front(ViewConditions(pull=Pull.COLD)).forces
    row = COMPOUNDS[front(AS_ENTERED).setup.pad.compound]
    assert cold.finger_target_n == pytest.approx(warm.finger_target_n * row.mu_work / row.mu_cold)
    # the reserve is that of a stop begun cold: the rotor warms from 15 °C in it, by hand in a thousand parts
    wheel = front(AS_ENTERED)
    rise = wheel.rotor_share * cold.reserve_of.energy_j / wheel.node("rotor_capacity")
    over = 1 / np.mean(1 / dry_mu(row, 15 + rise * (np.arange(1000) + 0.5) / 1000))
    assert cold.reserve == pytest.approx(90 * cold.link.gain_per_mu * over / cold.reserve_of.force_n - 1, rel=2e-3)
    hot = front(ViewConditions(pull=Pull.HOT)).forces
    assert hot.finger_target_n == pytest.approx(warm.finger_target_n * warm.mu_work / warm.mu_hot)
    assert hot.reserve == pytest.approx(warm.reserve)


def test_wet_takes_grip_and_cold_friction_and_dry_gives_them_back() -> None:
    wet = front(ViewConditions(wetness=Wetness.WET))
    dry = front(AS_ENTERED)
    row = COMPOUNDS[dry.setup.pad.compound]
    # less lock force by grip; wet pads at the first pull, dried off once this ride has heated the rotor
    assert wet.heat.peak_c[1] > 80
    assert wet.forces.wet_ratio == 1
    assert wet.forces.lock_force_n < dry.forces.lock_force_n
    first = front(ViewConditions(wetness=Wetness.WET, pull=Pull.COLD)).forces
    assert first.wet_ratio == pytest.approx(row.wet_ratio)
    assert first.gain == pytest.approx(wet.forces.gain * row.mu_cold / row.mu_work * row.wet_ratio)
    job = with_value(own_job(), "conditions.surface", "wet_asphalt")
    again = front(ViewConditions(wetness=Wetness.DRY), job).forces
    assert again.finger_lock_n == pytest.approx(dry.forces.finger_lock_n)


def test_gravel_in_the_rain_stays_gravel_with_wet_pads() -> None:
    job = with_value(own_job(), "conditions.surface", "gravel")
    seen = under(job, ViewConditions(wetness=Wetness.WET))
    assert seen.conditions.surface is Surface.GRAVEL
    assert seen.conditions.rain
    assert under(seen, ViewConditions(wetness=Wetness.DRY)).conditions == job.conditions
    assert front(ViewConditions(wetness=Wetness.WET, pull=Pull.COLD), job).forces.wet_ratio < 1


def cool_ride(**more: object):
    """A kilometre at 20 km/h on 1 % in 2 °C: the rotor stays below 80 °C, before the target stop and after it."""
    job = own_job(target_decel_g=0.35)
    section = {"length_m": 1000.0, "gradient_pct": 1.0, "speed_kmh": 20.0}
    job = with_value(job, "rides", [{"id": "descent", "name": "Flat", "sections": [section]}])
    job = with_value(with_value(job, "conditions.ambient_c", 2.0), "bike.top_speed_kmh", 20.0)
    for path, value in ({"front.pad_id": "u-k2-sinter"} | more).items():
        job = with_value(job, path, value)
    return job


def test_rain_that_nothing_dries_off_counts_in_force_finger_and_stop() -> None:
    """Sintered, 0.60 of its friction in the wet: reserve, finger and stopping distance by just that; in the dry it
    holds, in the rain it does not."""
    wet_job = cool_ride(**{"conditions.rain": True})
    dry, wet = front(AS_ENTERED, cool_ride()), front(AS_ENTERED, wet_job)
    assert wet.heat.peak_c[1] < wet.hot_c < 80
    assert wet.forces.mu_hot == pytest.approx(0.60 * dry.forces.mu_hot)
    assert wet.forces.reserve == pytest.approx(0.60 * (dry.forces.reserve + 1) - 1)
    assert wet.forces.finger_target_n == pytest.approx(dry.forces.finger_target_n / 0.60)
    assert wet.forces.finger_lock_n == pytest.approx(dry.forces.finger_lock_n / 0.60)
    assert (dry.forces.reserve > 0, wet.forces.reserve > 0) == (True, False)
    stops = [evaluate(j, CATALOGUE, {}).fitted.stop_flat for j in (cool_ride(), wet_job)]
    assert stops[1].decel_ms2 < stops[0].decel_ms2
    assert stops[1].distance_m > stops[0].distance_m


@pytest.mark.parametrize("place", range(0, 60, 3))
def test_wet_is_never_better_than_dry(place: int) -> None:
    job = drawn_jobs(60, seed=16)[place]
    seen = {w: evaluate(job, CATALOGUE, TRACKS, ViewConditions(wetness=w)).fitted for w in Wetness}
    if None in seen.values():
        return
    wet, dry = seen[Wetness.WET], seen[Wetness.DRY]
    for end in wet.wheels:
        if dry.wheels[end].forces.needed_n <= wet.wheels[end].forces.needed_n + 1e-9:
            assert wet.wheels[end].forces.reserve <= dry.wheels[end].forces.reserve + 1e-9
        assert wet.wheels[end].forces.mu_cold <= dry.wheels[end].forces.mu_cold


def test_new_parts_are_not_bedded_and_worn_ones_are_thin() -> None:
    new, worn = front(ViewConditions(age=Age.NEW)), front(ViewConditions(age=Age.WORN))
    assert (new.setup.thickness_mm, new.setup.material_mm, new.setup.bedding) == (1.8, 2.0, pytest.approx(0.6))
    assert (worn.setup.thickness_mm, worn.setup.material_mm, worn.setup.bedding) == (1.5, 1.0, 1.0)
    assert new.forces.finger_target_n == pytest.approx(front(AS_ENTERED).forces.finger_target_n / 0.6)
    assert worn.heat.peak_c[1] > front(AS_ENTERED).heat.peak_c[1] > new.heat.peak_c[1]
    assert not any(m.key == "condition" for m in new.margins)
    oiled = with_value(own_job(), "front.pad_state", "oiled")
    assert End.FRONT not in evaluate(oiled, CATALOGUE, {}, ViewConditions(age=Age.WORN)).setups[SetupName.FITTED].wheels
    unmarked = with_value(own_job(), "proposal.front.rotor_id", "t-heavy-200")
    bare = {**{r.id: r for r in CATALOGUE.every()}, "t-heavy-200": CATALOGUE.rotors["t-heavy-200"].model_copy(
        update={"minimum_mm": None})}  # fmt: skip
    other = replace(CATALOGUE, rotors={k: bare[k] for k in CATALOGUE.rotors})
    found = evaluate(unmarked, other, {}, ViewConditions(age=Age.WORN)).setups[SetupName.PROPOSED].wheels[End.FRONT]
    assert found.setup.thickness_mm == 2.3  # no minimum is made up
    assert "no_minimum" in {p.code for p in found.points}
    assert found.verdict is not Verdict.HOLDS


def test_no_verdict_counts_on_regeneration_and_a_look_shows_what_it_spares() -> None:
    job = own_job()
    for path, value in (("regen_end", "front"), ("regen_share_pct", 40.0), ("regen_limit_w", 400.0)):
        job = with_value(job, f"bike.{path}", value)
    on, off = front(ViewConditions(regeneration=True), job), front(AS_ENTERED, job)
    assert on.steps.regen_j > 0
    assert off.steps.regen_j == 0
    assert off.heat.ledger.friction_in_kj == pytest.approx(on.heat.ledger.friction_in_kj + on.steps.regen_j / 1000)


@pytest.mark.parametrize("view", VIEWS, ids=lambda view: str(view.words))
def test_workings_still_add_up_under_every_view(view) -> None:
    """A figure's own givens give it again: F = F_i / gain; F = F_lock / gain; gain = 2 μ (N/F) r_e / r_w."""
    found = evaluate(own_job(), CATALOGUE, {}, view)
    wheel = found.setups[SetupName.FITTED].wheels[End.FRONT]
    figures = wheel_figures(wheel, found.situation)
    value = {
        k: {g.symbol: g.value for g in figures[k].given} for k in ("finger_target", "finger_lock", "gain", "reserve")
    }
    v = value["gain"]
    assert figures["gain"].value == pytest.approx(2 * v["μ"] * v["N/F"] * v["r_e"] / v["r_w"])
    v = value["finger_target"]
    assert figures["finger_target"].value == pytest.approx(v["F_i"] / v["gain"])
    v = value["finger_lock"]
    assert figures["finger_lock"].value == pytest.approx(v["F_lock"] / v["gain"])
    v = value["reserve"]
    assert figures["reserve"].value == pytest.approx((v["F_hand"] * v["gain/μ"] * v["μ_stop"] / v["F_i"] - 1) * 100)


def on_loose_ground(gradient_pct: float):
    """Our own tourer on a slope of loose ground, knobby tyres: grip 0.35."""
    section = {"length_m": 400.0, "gradient_pct": gradient_pct, "speed_kmh": 15.0}
    job = with_value(own_job(), "rides", [{"id": "descent", "name": "Chute", "sections": [section]}])
    return with_value(with_value(job, "conditions.surface", "loose"), "bike.tread", "knobby")


def test_a_bike_that_cannot_be_stopped_on_its_slope_fails_and_says_so() -> None:
    """32 % of loose ground: gravity asks m g sin(theta), the ground takes less once the finger's scatter is kept off."""
    found = evaluate(on_loose_ground(32.0), CATALOGUE, {}).fitted
    assert found.stop_steep is None
    point = next(p for p in found.points if p.code == "stopping")
    assert point.end is None
    told = re.search(r"slope, 32%: (\d+) N of (\d+) N", plain(point.words))
    reached, needed = float(told[1]), float(told[2])
    mass = evaluate(on_loose_ground(32.0), CATALOGUE, {}).situation.bike.rolling_mass_kg
    assert needed == pytest.approx(mass * 9.80665 * sin(atan(0.32)), abs=1)
    assert reached < needed
    assert found.verdict is Verdict.FAILS
    assert "cannot be stopped" in plain(setup_sentence(found))
    gentle = evaluate(on_loose_ground(10.0), CATALOGUE, {}).fitted
    assert gentle.stop_steep is not None
    assert "stopping" not in {p.code for p in gentle.points}


@pytest.mark.parametrize("place", range(0, 120, 2))
def test_a_stop_that_cannot_be_made_never_holds(place: int) -> None:
    job = drawn_jobs(120, seed=17)[place]
    for setup in evaluate(job, CATALOGUE, TRACKS).setups.values():
        if len(setup.wheels) == len(End) and setup.stop_steep is None:
            assert setup.verdict is Verdict.FAILS
            assert "stopping" in {p.code for p in setup.points}


def test_pads_found_new_are_not_bedded_in_until_somebody_does_it() -> None:
    """0.6 of their friction; an order that beds them in, and one that was signed off, makes it whole."""
    new = with_value(own_job(), "front.pad_state", "new")
    assert front(AS_ENTERED, new).setup.bedding == pytest.approx(0.6)
    assert front(AS_ENTERED, new).forces.mu_hot == pytest.approx(0.6 * front(AS_ENTERED).forces.mu_hot)
    assert "unbedded" in {p.code for p in front(AS_ENTERED, new).points}
    ordered = with_value(new, "proposal.front", {"renew": ["bed_in"]})
    found = front(AS_ENTERED, ordered, SetupName.PROPOSED)
    assert (found.setup.bedding, "unbedded" in {p.code for p in found.points}) == (1.0, False)
    done = with_value(new, "front.since", {"bed_in": {"day": "2026-11-28"}})
    assert front(AS_ENTERED, done).setup.bedding == 1.0


@pytest.mark.parametrize("place", range(0, 120, 3))
def test_a_planned_ride_asks_nowhere_for_more_than_is_reached(place: int) -> None:
    """Greatest deceleration on the steepest stretches, against the stop reached there with cold pads."""
    job = drawn_jobs(120, seed=23)[place]
    if job.ride is None:
        return
    found = evaluate(job, CATALOGUE, TRACKS, replace(AS_ENTERED, pull=Pull.COLD)).fitted
    if found is None or found.load is None or found.load.recorded or len(found.wheels) < len(End):
        return
    load = found.load
    rolls = load.ds_m > 0
    decel = (-np.diff(load.speed_ms**2) / (2 * np.maximum(load.ds_m, 1e-9)))[rolls]
    steep = load.gradient[rolls] >= found.demand.steep.gradient - 1e-6
    steepest, given = found.demand.steep.gradient, {}
    for end, w in found.wheels.items():
        given[end] = w.link.gain_per_mu * w.forces.mu_cold
    situation = evaluate(job, CATALOGUE, TRACKS).situation
    bike, hand = situation.bike, situation.hand
    available, kept = ({end: n * gain for end, gain in given.items()} for n in (hand.greatest_n, hand.scatter_n))
    limits = ground_limits(bike, situation.grip, steepest)
    reached = reached_stop(bike, limits, available, kept, 8.0, situation.parameters)
    least = reached.decel_ms2 if reached else 0.0
    assert np.all(decel[steep] <= max(least, 0.2) + 0.03)


@pytest.mark.parametrize("place", range(0, 120, 2))
def test_two_bars_part_what_fails_from_what_is_tight(place: int) -> None:
    """Below what every bicycle must reach it fails, above what is wanted with its reserve it holds, between it is
    tight; and where one wheel makes up for the other, that is said and it does not fail."""
    job = drawn_jobs(120, seed=31)[place]
    found = evaluate(job, CATALOGUE, TRACKS).fitted
    for wheel in found.wheels.values() if found else ():
        f = wheel.forces
        margin = next((m for m in wheel.margins if m.key == "reserve"), None)
        assert (margin is None) == (f.reserve is None and f.must is None)
        if margin is None:
            continue
        below = f.must is not None and f.must < 0
        assert (margin.verdict is Verdict.FAILS) == (below or (f.must is None and f.reserve < 0))
        made_up = f.must_alone is not None and f.must_alone < 0
        wanted = f.reserve is None or f.reserve >= job.thresholds.reserve_ratio
        assert (margin.verdict is Verdict.HOLDS) == (not below and not made_up and wanted)
        told = next((plain(p.words) for p in wheel.points if p.code == "reserve"), "")
        if f.must_alone is not None and f.must_alone < 0 <= f.must:
            assert "the other wheel makes up for it" in told
        elif below:
            assert "short of its part of what every bicycle must reach" in told
        elif f.reserve is not None and f.reserve < 0:
            assert told.startswith("stops, but takes all of this hand")
    if found and len(found.wheels) == 2 and all(w.forces.must_alone for w in found.wheels.values()):
        # what one gives above its part is what the other may lack: together they reach it, or one of them fails
        for k, stop in enumerate(found.demand.musts):
            given = {end: w.forces.given_in_musts_n[k] for end, w in found.wheels.items()}
            grip = {end: n * (found.demand.flat, found.demand.steep)[stop.gradient > 0].both_n / stop.force_n
                    for end, n in stop.wheel_force_n.items()}  # fmt: skip
            reached = sum(min(given[end], max(grip[end], stop.wheel_force_n[end])) for end in End)
            fails = any(w.forces.must < 0 for w in found.wheels.values())
            assert reached >= stop.force_n - 1e-6 or fails


def test_a_reserve_is_that_of_the_whole_stop_not_of_its_last_instant() -> None:
    """The gravel bike of the worked example: in its last instant 16 % are left, over the stop 52."""
    wheel = evaluate(gravel({}), CATALOGUE, {}).fitted.wheels[End.FRONT]
    at_the_end = wheel.forces.available_hot_n / wheel.forces.needed_n - 1
    assert at_the_end == pytest.approx(0.157, abs=0.01)
    assert wheel.forces.reserve == pytest.approx(0.524, abs=0.01)


def test_a_wheel_without_a_reserve_is_still_held_against_what_it_must() -> None:
    """The folding bike's rear is next to unloaded in the target stop, not in the one that every bicycle must make: with
    a hand too weak for that it fails, and is not passed over."""
    strong = evaluate(folding({}), CATALOGUE, {}).fitted.wheels[End.REAR]
    assert strong.forces.reserve is None
    margin = next(m for m in strong.margins if m.key == "reserve")
    assert (margin.verdict, plain(margin.label)) == (Verdict.HOLDS, "its part of what every bicycle must reach")
    weak = with_value(folding({}), "parameters.finger_greatest_n", 2.0)
    found = evaluate(weak, CATALOGUE, {}).fitted.wheels[End.REAR]
    assert found.forces.reserve is None
    assert found.forces.must < 0
    assert next(m for m in found.margins if m.key == "reserve").verdict is Verdict.FAILS


def test_the_working_of_a_cold_reserve_begins_at_the_air() -> None:
    found = evaluate(own_job(), CATALOGUE, {}, ViewConditions(pull=Pull.COLD))
    given = wheel_figures(found.fitted.wheels[End.FRONT], found.situation)["reserve"].given
    assert next(g.value for g in given if g.symbol == "R") == found.situation.weather.ambient_c
