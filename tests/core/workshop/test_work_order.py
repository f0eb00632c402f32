"""The work order and its plan: each step and line stands when it should, and only then."""

from dataclasses import replace

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.figures import wheel_figures
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.job.document import Pick, Proposal, Ride
from clavis.core.parts.models import Axle, Catalogue, HubInterface
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.physics.road import Section
from clavis.core.verdicts import Margin, Verdict, worst
from clavis.core.workshop.work_order import STEPS, work_order
from tests.bikes import CATALOGUE, own_job, ring, with_value


def order_of(job):
    return work_order(job, evaluate(job, CATALOGUE, {}), CATALOGUE)


def test_an_opened_line_asks_for_its_hose_and_its_bottle() -> None:
    """Own job's front: another lever on the same fittings needs the bottle alone; lever and caliper of other makes
    need a hose as well; one that the catalogue lacks is named, without a price, and the total says so."""

    def front(job, catalogue=CATALOGUE):
        order = work_order(job, evaluate(job, catalogue, {}), catalogue)
        return {x.what: x for x in order.lines if x.end is End.FRONT}, order

    lever_only, order = front(with_value(own_job(), "proposal.front.lever_id", "u-blade-c"))
    assert lever_only["fluid"].part_id == "u-oil"
    assert "hose, cut to length" not in lever_only
    assert order.unpriced == 0
    other = own_job()
    for path, part in (("caliper_id", "h-four-1617"), ("lever_id", "u-blade-c"), ("pad_id", "h-h4-semi")):
        other = with_value(other, f"proposal.front.{path}", part)
    both, _ = front(other)
    assert both["hose, cut to length"].part_id == "h-hose-m8"
    assert both["fluid"].part_id == "h-oil"
    bare = Catalogue.of(p for p in CATALOGUE.every() if p.kind not in ("hose", "fluid"))
    lacking, order = front(with_value(with_value(other, "proposal.front.lever_id", "h-stile"), "seed", 1), bare)
    assert lacking["hose, cut to length"].name == "look for a mineral hose, M8H at the lever, M8H at the caliper"
    assert lacking["fluid"].price is None
    assert order.unpriced >= 2


def test_a_rotor_on_a_splined_hub_comes_with_what_holds_it() -> None:
    def what(rotor_id, fitted):
        job = with_value(with_value(own_job(), "front.hub", "splined"), "front.rotor_id", fitted)
        job = with_value(job, "proposal.front.rotor_id", rotor_id)
        order = work_order(job, evaluate(job, CATALOGUE, {}), CATALOGUE)
        return {x.part_id for x in order.lines if x.end is End.FRONT}

    assert "h-six-on-spline" in what("q-disc-203", "u-line-180")
    assert "h-six-on-spline" not in what("q-disc-203", "q-disc-180")
    assert "h-six-on-spline" not in what("u-line-203", "u-line-180")


def test_the_order_lists_what_is_new_and_nothing_else() -> None:
    order = order_of(own_job())
    assert [(line.end, line.what, line.part_id, line.quantity) for line in order.lines] == [
        (End.FRONT, "rotor", "q-disc-203", 1),
        (End.FRONT, "pads, one pair", "u-k2-sinter", 1),
        (End.FRONT, "adapter", "a-pp-160-203", 1),
        (End.FRONT, "bolt", "m6-18", 4),
        (End.REAR, "rotor", "q-disc-180", 1),
        (End.REAR, "adapter", "a-pp-160-180", 1),
        (End.REAR, "bolt", "m6-28", 1),
        (End.REAR, "bolt", "m6-30", 1),
    ]
    assert order.total == pytest.approx(22 + 18 + 14 + 4 * 0.8 + 18 + 9 + 2 * 0.8)
    assert not order.blocks


def test_no_proposal_no_order() -> None:
    order = order_of(own_job(proposal=Proposal()))
    assert order.wheels == ()
    assert order.lines == ()


def steps(job, end: End = End.FRONT) -> list[str]:
    return next([s.row.key for s in w.steps] for w in order_of(job).wheels if w.work.end is end)


def test_steps_stand_only_where_they_apply() -> None:
    job = own_job()
    assert "battery" not in steps(job)
    assert "battery" in steps(with_value(job, "bike.assisted", True))
    assert "bleed" not in steps(job)
    opened = own_job(proposal=Proposal(front=Pick(caliper_id="u-four-1718", pad_id="u-k4-semi")))
    assert "bleed" in steps(opened)
    assert "rotor_on" in steps(job)
    splined = job.model_copy(update={"front": job.front.model_copy(update={"hub": HubInterface.SPLINED})})
    assert "rotor_spline" in steps(splined)
    assert "rotor_on" not in steps(splined)
    quick = job.model_copy(update={"front": job.front.model_copy(update={"axle": Axle.QUICK_RELEASE})})
    assert "quick_release" in steps(quick)
    pads_only = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))
    assert "adapter" not in steps(pads_only)
    assert "pads_in" in steps(pads_only)


def test_the_cut_off_switch_is_tested_where_there_is_one_and_the_lever_is_new() -> None:
    new_lever = Proposal(front=Pick(lever_id="u-blade-c"))
    job = with_value(own_job(proposal=new_lever), "bike.assisted", True)
    assert "cutoff" not in steps(job)
    assert "cutoff" in steps(with_value(job, "bike.cutoff_switches", True))
    kept = with_value(with_value(own_job(), "bike.assisted", True), "bike.cutoff_switches", True)
    assert "cutoff" not in steps(kept)


def test_steps_come_in_the_order_of_the_work() -> None:
    found = steps(own_job())
    assert found.index("cool") < found.index("rotor_on") < found.index("caliper") < found.index("pump")


def test_dangerous_acts_carry_their_caution() -> None:
    cautious = {row.key for row in STEPS if row.caution}
    assert cautious >= {"battery", "cool", "wheel_out", "adapter", "caliper", "bleed", "pads_in", "quick_release"}
    text = " ".join(row.words + row.caution for row in STEPS).lower()
    assert "is not filed" in text
    assert "one adapter only" in text


def test_what_cannot_be_fitted_blocks_the_order() -> None:
    unknown = with_value(own_job(), "front.thread_material", None)
    assert any("material of the thread" in b for b in order_of(unknown).blocks)
    limit = with_value(own_job(), "front.max_rotor_mm", None)
    assert any("largest rotor allowed" in b for b in order_of(limit).blocks)
    impossible = with_value(own_job(), "front.native_rotor_mm", 140.0)
    assert any("look for: post-mount adapter, front, from 140 to 203 (+63)" in b for b in order_of(impossible).blocks)


def test_bedding_in_reaches_its_temperature_without_fading() -> None:
    front = next(w.bedding for w in order_of(own_job()).wheels if w.work.end is End.FRONT)
    assert front is not None
    assert front.wanted_c == 300  # sintered
    assert front.reaches
    assert front.ring_c < 0.95 * 450 + 1e-6
    finger = evaluate(own_job(), CATALOGUE, {}).setups["proposed"].wheels[End.FRONT].forces.finger_target_n
    assert front.first_finger_n == pytest.approx(finger / 0.6)  # before any bedding friction is 0.6 of its own
    rear = next(w.bedding for w in order_of(own_job()).wheels if w.work.end is End.REAR)
    assert rear is not None
    assert rear.wanted_c == 180  # semi-metallic, kept, on a new rotor
    assert 10 <= rear.stops <= 40


def test_wear_by_hand_and_where_it_cannot_be_told() -> None:
    job = own_job()
    evaluation = evaluate(job, CATALOGUE, {})
    wheel = evaluation.setups["fitted"].wheels[End.FRONT]
    life = wear_life(wheel, job.parameters)
    energy = wheel.steps.energy_kj / 1000
    assert life.pad_mm_per_ride == pytest.approx(180 * energy / (2 * 330))
    assert life.pad_rides == pytest.approx(0.7 / life.pad_mm_per_ride)
    assert life.ring_rides == pytest.approx((1.71 - 1.5) / life.ring_mm_per_ride)
    assert life.pad_km == pytest.approx(life.pad_rides * 5.5, rel=1e-6)


def test_a_year_of_wear_by_hand() -> None:
    """Two rides, 30 and 4 times: every ride's energy at this wheel as often as it is ridden."""
    hill = own_job().rides[0].model_copy(update={"times_a_year": 30.0})
    wall = Ride(id="w", name="W", sections=(Section(length_m=3000, gradient_pct=18, speed_kmh=25),), times_a_year=4)
    job = own_job(rides=(hill, wall), decisive_ride=hill.id)
    found = evaluate(job, CATALOGUE, {})
    wheel = found.setups["fitted"].wheels[End.FRONT]
    rides = rides_of(job, found, {}, found.fitted)
    year = year_of_wear(wheel, rides, job.parameters)
    gentle, steep = (r.friction_kj[End.FRONT] / 1000 for r in rides)
    assert year.energy_mj == pytest.approx(30 * gentle + 4 * steep)
    # semi-metallic fades at 320 °C (model, section 3): the wall passes it, so its wear counts half as much again
    assert rides[1].ring_c[End.FRONT] > 320
    hot = 1.5 if rides[0].ring_c[End.FRONT] > 320 else 1.0
    assert year.pad_mm == pytest.approx(180 * (hot * 30 * gentle + 1.5 * 4 * steep) / (2 * 330))
    assert year.pad_years == pytest.approx(0.7 / year.pad_mm)
    assert year.ring_years == pytest.approx((1.71 - 1.5) / year.ring_mm)
    idle = tuple(replace(r, ride=r.ride.model_copy(update={"times_a_year": 0.0})) for r in rides)
    assert year_of_wear(wheel, idle, job.parameters).pad_years is None


def margin(value: float | None, needed: float = 0.25) -> Margin:
    return Margin("k", "l", value, "ratio", needed, value)


def test_verdict_words() -> None:
    assert [margin(v).verdict for v in (0.25, 0.2499, 0.0, -0.001, None)] == [
        Verdict.HOLDS, Verdict.TIGHT, Verdict.TIGHT, Verdict.FAILS, Verdict.UNKNOWN,
    ]  # fmt: skip
    assert worst([Verdict.HOLDS, Verdict.TIGHT, Verdict.UNKNOWN]) is Verdict.UNKNOWN
    assert worst([Verdict.UNKNOWN, Verdict.FAILS]) is Verdict.FAILS
    assert worst([Verdict.HOLDS, Verdict.TIGHT]) is Verdict.TIGHT
    assert worst([]) is Verdict.UNKNOWN


def test_oiled_pads_get_no_figures_and_fail() -> None:
    """Nothing is computed for a wheel that may not be ridden; the verdict of the whole is *fails*."""
    job = with_value(own_job(), "front.pad_state", "oiled")
    fitted = evaluate(job, CATALOGUE, {}).setups["fitted"]
    assert End.FRONT not in fitted.wheels
    assert fitted.verdict is Verdict.FAILS
    assert fitted.unsafe == ("front: pads oiled: do not ride; replace them and clean the rotor",)
    proposed = evaluate(job, CATALOGUE, {}).setups["proposed"]
    assert End.FRONT in proposed.wheels  # new pads are proposed there
    kept = evaluate(with_value(job, "proposal.front.pad_id", None), CATALOGUE, {}).setups["proposed"]
    assert kept.unsafe


def test_margins_in_words() -> None:
    assert margin(-0.29).words() == "−29\u202f% l"
    assert margin(0.31).words("force in reserve") == "+31\u202f% force in reserve"
    assert Margin("k", "ring below fade", -12.4, "k", 30, -0.1).words() == "−12\u00a0K ring below fade"
    assert Margin("k", "l", None, "k", 30, None, "age not known").words() == "age not known"


def test_contradicting_parts_leave_their_wheel_out_with_the_reason() -> None:
    """A pad of 14 mm on a track of 13: the front is not judged, the rear is."""
    fitted = evaluate(with_value(own_job(), "front.rotor_id", "t-light-180"), CATALOGUE, {}).setups["fitted"]
    assert set(fitted.wheels) == {End.REAR}
    assert any("pad height: 14 mm is not possible" in lack.words for lack in fitted.lacks)
    assert fitted.verdict is Verdict.UNKNOWN


def test_wet_grit_wears_pads_three_times_as_fast() -> None:
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    dry, wet = (wear_life(wheel, job.parameters, w) for w in (False, True))
    assert wet.pad_mm_per_ride == pytest.approx(3 * dry.pad_mm_per_ride)
    assert wet.ring_mm_per_ride == dry.ring_mm_per_ride


def test_a_spongy_lever_explains_its_travel_until_the_line_is_opened() -> None:
    job = with_value(own_job(), "front.lever_feel", "spongy")
    fitted = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    assert fitted.forces.travel.air_mm > 10
    opened = job.model_copy(update={"proposal": Proposal(front=Pick(caliper_id="u-four-1718", pad_id="u-k4-semi"))})
    assert evaluate(opened, CATALOGUE, {}).setups["proposed"].wheels[End.FRONT].forces.travel.air_mm == 0


def test_pulse_braking_marks_the_fluids_figure_optimistic() -> None:
    for style, marked in (("drag", False), ("pulse", True)):
        job = with_value(own_job(), "rider.style", style)
        wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
        figure = wheel_figures(wheel, job.parameters, 15.0)["fluid"]
        assert ("optimistic" in figure.uncertainty) is marked


def test_before_bedding_in_new_pairs_grip_less_and_kept_ones_do_not() -> None:
    """0.6 with a new rotor or new pads, 0.5 with new pads on a ring worn hollow, all where both are kept."""

    def grip(job, end: End = End.FRONT) -> float:
        return evaluate(job, CATALOGUE, {}).setups["proposed"].wheels[end].forces.mu_work

    def unbedded(job):
        return with_value(job, "proposal.bedded", False)

    job = own_job()
    assert grip(unbedded(job)) == pytest.approx(0.6 * grip(job))
    hollow = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))  # ring at 1.71 of 1.8
    assert grip(unbedded(hollow)) == pytest.approx(0.6 * grip(hollow))
    deeper = with_value(hollow, "front.rotor_points_mm", list(ring(1.65)))
    assert grip(unbedded(deeper)) == pytest.approx(0.5 * grip(deeper))
    kept = own_job(proposal=Proposal(front=Pick(lever_id="u-blade-a")))
    assert grip(unbedded(kept)) == pytest.approx(grip(kept))
    fitted = evaluate(unbedded(job), CATALOGUE, {}).setups["fitted"].wheels[End.FRONT].forces.mu_work
    assert fitted == evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT].forces.mu_work


def test_time_above_a_limit() -> None:
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    ride = float(wheel.steps.time_s[-1])
    assert wheel.time_above_s(Node.RING, -50.0) == pytest.approx(ride)
    assert wheel.time_above_s(Node.RING, 2000.0) == 0
    assert wheel.time_above_s(Node.FLUID, None) is None
    half = float(np.median(wheel.heat.course_c[:, Node.RING]))
    assert 0.2 * ride < wheel.time_above_s(Node.RING, half) < 0.8 * ride


def test_the_energy_of_a_wheel_is_its_share() -> None:
    job = own_job()
    for wheel in evaluate(job, CATALOGUE, {}).setups["fitted"].wheels.values():
        figure = wheel_figures(wheel, job.parameters, 15.0)["energy"]
        by = {g.symbol: g.value for g in figure.given}
        assert by["share"] == pytest.approx(0.52 if wheel.end is End.FRONT else 0.48)
        assert figure.value == pytest.approx(by["E_b"] * by["share"] - by["regen"])
