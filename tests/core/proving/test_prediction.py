"""What the model expects of a trial's sides: by hand where it can be, and from the same evaluation as every page."""

from math import sqrt

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.job.document import Proposal
from clavis.core.job.trials import OrderOfRuns, Question, SetupFrom, Side, Trial, TrialKind, TrialSide
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Surface
from clavis.core.physics.heat import COOL_C, Node
from clavis.core.proving.plan import SHORTEST_PAUSE_S, begun, plan_of
from clavis.core.proving.prediction import predict, predict_side, side_on_ride, told_difference, trial_job
from clavis.core.proving.questions import KINDS, QUESTIONS
from clavis.core.proving.statistics import power
from tests.bikes import CATALOGUE, own_job
from tests.core.proving.test_calibration import JOB as HILL_JOB

JOB = own_job()
A = TrialSide(name="as it is")
B = TrialSide(name="other", source=SetupFrom.PICKED, front=JOB.proposal.front, rear=JOB.proposal.rear)


def trial(question: Question, kind: TrialKind, **more: object) -> Trial:
    base = {"id": "t", "name": "t", "a": A, "b": B, "end": End.FRONT, "matters": 1.0}
    return Trial(question=question, kind=kind, **(base | more))


STOP = trial(Question.STOPS_SHORTER, TrialKind.STOP)


def test_a_stop_is_the_one_that_the_rider_reaches_at_that_speed_on_that_ground() -> None:
    """v²/(2 a) without reaction; twice the speed takes four times the way where grip does not change with it."""
    slow = predict(JOB, STOP, CATALOGUE, {})
    setup = slow.sides[Side.A].setup
    assert setup is not None
    assert setup.demand.top_speed.value == pytest.approx(25 / 3.6)
    assert slow.of_question.a == pytest.approx((25 / 3.6) ** 2 / (2 * setup.stop_flat.decel_ms2))
    assert setup.stop_flat.distance_m > slow.of_question.a  # the sheet's own has the reaction in it
    loose = predict(JOB, STOP.model_copy(update={"surface": Surface.LOOSE}), CATALOGUE, {})
    assert loose.of_question.a > 1.3 * slow.of_question.a


def test_downhill_it_takes_longer() -> None:
    flat = predict(JOB, STOP, CATALOGUE, {}).of_question
    steep = predict(JOB, STOP.model_copy(update={"gradient_pct": 8.0}), CATALOGUE, {}).of_question
    assert steep.a > 1.1 * flat.a


def test_a_side_is_evaluated_as_every_page_does() -> None:
    """The setup on the job's own ride has the very temperatures of the evaluation."""
    side = side_on_ride(JOB, None, B, CATALOGUE, {})
    proposed = evaluate(JOB.model_copy(update={"proposal": Proposal(front=B.front, rear=B.rear)}), CATALOGUE, {}).setups
    for end in End:
        told = proposed[SetupName.PROPOSED].wheels[end].heat.end_c
        assert side.setup.wheels[end].heat.end_c == pytest.approx(told)


def test_a_drag_is_ridden_at_one_speed_on_the_brake() -> None:
    dragged = trial_job(JOB, trial(Question.RUNS_COOLER, TrialKind.DRAG_DESCENT, speed_kmh=18.0))
    assert {s.speed_kmh for s in dragged.ride.sections} == {18.0}
    assert all(s.corner_kmh is None for s in dragged.ride.sections)
    assert dragged.rider.style.value == "drag"
    assert trial_job(JOB, trial(Question.GOES_QUICKER, TrialKind.FREE_DESCENT)).ride.sections == JOB.ride.sections


def test_regeneration_is_off_for_a_trial() -> None:
    bike = JOB.bike.model_copy(update={"regen_end": End.REAR, "regen_share_pct": 40.0})
    assert trial_job(JOB.model_copy(update={"bike": bike}), STOP).bike.regen_share_pct == 0


def test_cooling_is_timed_between_two_readings() -> None:
    wide = trial(Question.COOLS_FASTER, TrialKind.COOLING, from_c=120.0, to_c=60.0)
    narrow = trial(Question.COOLS_FASTER, TrialKind.COOLING, from_c=90.0, to_c=60.0)
    long, short = (predict(HILL_JOB, t, CATALOGUE, {}).of_question for t in (wide, narrow))
    assert long.a > short.a > 0
    never = trial(Question.COOLS_FASTER, TrialKind.COOLING, from_c=480.0, to_c=60.0)
    assert predict(HILL_JOB, never, CATALOGUE, {}).of_question.difference is None


def test_the_pause_lasts_until_both_rotors_are_cool() -> None:
    side = predict_side(HILL_JOB, trial(Question.RUNS_COOLER, TrialKind.DRAG_DESCENT), A, CATALOGUE, {})
    assert side.pause_s == max(w.heat.cool_s for w in side.setup.wheels.values())
    assert side.setup.wheels[End.FRONT].heat.end_c[Node.ROTOR] > COOL_C
    plan = plan_of(JOB, STOP, CATALOGUE, {})
    assert min(s for s in plan.pauses_s.values() if s is not None) >= SHORTEST_PAUSE_S
    assert plan.resting_s == pytest.approx(sum(r.pause_s for r in plan.runs))


def test_the_time_of_a_descent_is_the_riders() -> None:
    expected = predict(JOB, trial(Question.GOES_QUICKER, TrialKind.FREE_DESCENT), CATALOGUE, {}).of_question
    assert expected.blind
    assert expected.difference is None
    assert expected.spread == pytest.approx(0.02 * expected.a)


def test_what_is_missing_is_said_of_its_side() -> None:
    bare = JOB.model_copy(update={"front": JOB.front.model_copy(update={"rotor_id": None})})
    plan = plan_of(bare, STOP, CATALOGUE, {})
    assert "A, as it is" in str(plan.prediction.problem)
    assert plan.expected.difference is None
    assert plan.for_expected is None
    assert plan.promised is None
    heavy = JOB.model_copy(update={"rider": JOB.rider.model_copy(update={"mass_kg": None})})
    assert "still needed" in str(plan_of(heavy, STOP, CATALOGUE, {}).prediction.problem)


def test_an_own_spread_takes_the_place_of_the_judged_one() -> None:
    own = plan_of(JOB, STOP.model_copy(update={"spread": 0.9}), CATALOGUE, {})
    assert own.expected.spread == 0.9
    assert own.promised_matters == pytest.approx(power(6, 1.0, 0.9))


def test_more_blocks_promise_more_and_the_needed_ones_are_enough() -> None:
    few, many = (plan_of(JOB, STOP.model_copy(update={"blocks": n, "matters": 0.4}), CATALOGUE, {}) for n in (6, 14))
    assert many.promised_matters > few.promised_matters
    needed = few.for_matters
    assert needed is not None
    enough = plan_of(JOB, STOP.model_copy(update={"blocks": needed, "matters": 0.4}), CATALOGUE, {})
    assert enough.promised_matters >= 0.8
    assert enough.runs_for_matters == 4 * needed


def test_loose_runs_need_fewer_where_nothing_drifts() -> None:
    loose = STOP.model_copy(update={"order": OrderOfRuns.RANDOMISED, "matters": 0.4})
    assert (
        plan_of(JOB, loose, CATALOGUE, {}).for_matters
        <= plan_of(JOB, STOP.model_copy(update={"matters": 0.4}), CATALOGUE, {}).for_matters
    )


def test_a_difference_in_words_has_its_direction() -> None:
    for row in QUESTIONS.values():
        less, more = (str(told_difference(row, d)) for d in (-3.0, 3.0))
        assert less != more
        assert less.startswith("B")
        assert more.startswith("B")


def test_every_question_has_a_way_to_be_tested_and_every_way_a_caution() -> None:
    for row in QUESTIONS.values():
        assert row.kinds
        assert all(kind in KINDS for kind in row.kinds)
        assert row.measured in {"distance_m", "spots_c", "cool_s", "finger_n", "time_s"}
    assert all(len(row.caution) > 40 for row in KINDS.values())


@pytest.mark.parametrize("question", list(Question))
def test_a_trial_is_begun_whole(question: Question) -> None:
    made = begun("new", question, A, B, HILL_JOB, CATALOGUE, {})
    assert made.kind in QUESTIONS[question].kinds
    assert (made.end is not None) == QUESTIONS[question].of_wheel
    assert made.matters > 0
    assert Trial.model_validate(made.model_dump()) == made
    plan = plan_of(HILL_JOB, made, CATALOGUE, {})
    promised = max(plan.promised or 0, plan.promised_matters or 0)
    assert promised >= 0.75 or plan.expected.a is None


def test_sides_keep_their_parts_when_the_proposal_changes() -> None:
    """A trial is about what was planned that day."""
    other = JOB.model_copy(update={"proposal": Proposal()})
    assert predict(other, STOP, CATALOGUE, {}).of_question.b == pytest.approx(
        predict(JOB, STOP, CATALOGUE, {}).of_question.b
    )


def test_speed_at_the_line_counts_by_its_square() -> None:
    one, two = (
        predict(JOB, STOP.model_copy(update={"speed_kmh": v}), CATALOGUE, {}).of_question.a for v in (20.0, 30.0)
    )
    assert sqrt(two / one) == pytest.approx(1.5, rel=0.02)


def test_a_rotor_is_expected_as_it_is_when_it_is_read() -> None:
    """Some seconds after the stop, when it has fed its carrier; at the stop it is the end of the ride."""
    drag = trial(Question.RUNS_COOLER, TrialKind.DRAG_DESCENT)
    at_once, later, late = (
        predict(HILL_JOB, drag.model_copy(update={"after_s": s}), CATALOGUE, {}).of_question for s in (0.0, 20.0, 120.0)
    )
    end_c = predict_side(HILL_JOB, drag, A, CATALOGUE, {}).setup.wheels[End.FRONT].heat.end_c[Node.ROTOR]
    assert at_once.a == pytest.approx(end_c)
    assert at_once.a > later.a + 5 > late.a + 10
