"""The whole answer: what may not be ridden has no figures, contradictions are told, and states of parts count."""

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.sheet import wheel_figures
from clavis.core.job.document import Proposal
from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.verdicts import Severity, Verdict
from tests.bikes import CATALOGUE, own_job, plain, six_points, with_value


def test_oiled_pads_get_no_figures_and_fail() -> None:
    """Nothing is computed for a wheel that may not be ridden; the verdict of the whole is *fails*."""
    job = with_value(own_job(), "front.pad_state", "oiled")
    fitted = evaluate(job, CATALOGUE, {}).setups["fitted"]
    assert End.FRONT not in fitted.wheels
    assert fitted.verdict is Verdict.FAILS
    first = fitted.points[0]
    assert (first.end, first.code, first.severity) == (End.FRONT, "oil", Severity.STOP)
    assert plain(first.told).startswith("front: pads oiled")
    proposed = evaluate(job, CATALOGUE, {}).setups["proposed"]
    assert End.FRONT in proposed.wheels  # new pads are proposed there
    kept = evaluate(with_value(job, "proposal.front.pad_id", None), CATALOGUE, {}).setups["proposed"]
    assert kept.points[0].code == "oil"


def test_pads_that_hang_over_the_track_leave_their_wheel_out_with_the_reason() -> None:
    """A pad of 14 mm on a track of 13: the front has no figures and fails, the rear is judged."""
    fitted = evaluate(with_value(own_job(), "front.rotor_id", "t-light-180"), CATALOGUE, {}).setups["fitted"]
    assert set(fitted.wheels) == {End.REAR}
    assert "inner" in {p.code for p in fitted.points_of(End.FRONT)}
    assert fitted.verdict is Verdict.FAILS


def test_a_spongy_lever_explains_its_travel_until_the_line_is_opened() -> None:
    job = with_value(own_job(), "front.lever_feel", "spongy")
    fitted = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    assert fitted.forces.travel.air_mm > 10
    opened = job.model_copy(update={"proposal": Proposal(front=Pick(caliper_id="u-four-1718", pad_id="u-k4-semi"))})
    assert evaluate(opened, CATALOGUE, {}).setups["proposed"].wheels[End.FRONT].forces.travel.air_mm == 0


def test_before_bedding_in_new_pairs_grip_less_and_kept_ones_do_not() -> None:
    """0.6 with a new rotor or new pads, 0.5 with new pads on a rotor worn hollow, all where both are kept."""

    def grip(job, end: End = End.FRONT) -> float:
        return evaluate(job, CATALOGUE, {}).setups["proposed"].wheels[end].forces.mu_work

    def unbedded(job):
        return with_value(job, "proposal.bedded", False)

    job = own_job()
    assert grip(unbedded(job)) == pytest.approx(0.6 * grip(job))
    hollow = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))  # rotor at 1.71 of 1.8
    assert grip(unbedded(hollow)) == pytest.approx(0.6 * grip(hollow))
    deeper = with_value(hollow, "front.rotor_points_mm", list(six_points(1.65)))
    assert grip(unbedded(deeper)) == pytest.approx(0.5 * grip(deeper))
    kept = own_job(proposal=Proposal(front=Pick(lever_id="u-blade-a")))
    assert grip(unbedded(kept)) == pytest.approx(grip(kept))
    fitted = evaluate(unbedded(job), CATALOGUE, {}).setups["fitted"].wheels[End.FRONT].forces.mu_work
    assert fitted == evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT].forces.mu_work


def test_time_above_a_limit() -> None:
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups["fitted"].wheels[End.FRONT]
    ride = float(wheel.steps.time_s[-1])
    assert wheel.time_above_s(Node.ROTOR, -50.0) == pytest.approx(ride)
    assert wheel.time_above_s(Node.ROTOR, 2000.0) == 0
    assert wheel.time_above_s(Node.FLUID, None) is None
    half = float(np.median(wheel.heat.course_c[:, Node.ROTOR]))
    assert 0.2 * ride < wheel.time_above_s(Node.ROTOR, half) < 0.8 * ride


def test_the_energy_of_a_wheel_is_its_share() -> None:
    found = evaluate(own_job(), CATALOGUE, {})
    for wheel in found.fitted.wheels.values():
        figure = wheel_figures(wheel, found.situation)["energy"]
        by = {g.symbol: g.value for g in figure.given}
        assert by["share"] == pytest.approx(0.52 if wheel.end is End.FRONT else 0.48)
        assert figure.value == pytest.approx(by["E_b"] * by["share"] - by["regen"])
