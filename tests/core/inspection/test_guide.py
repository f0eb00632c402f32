"""The complaint guide: the table is whole, sums add up by hand, answers reorder, no part comes before its turn."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.evaluation.conditions import CONDITIONS
from clavis.core.evaluation.evaluate import evaluate
from clavis.core.fit.checks import CHECKS
from clavis.core.inspection.complaints import CAUSE_ROWS, CAUSES, COMPLAINTS, QUESTIONS, Cause, RepairKind
from clavis.core.inspection.guide import (
    Guide,
    Likelihood,
    cheaper_first,
    expected_gain_bits,
    guide_of,
    likelihood_of,
    moves,
)
from clavis.core.job.document import Complaint, Job, Reply
from clavis.core.job.places import Place, Task
from clavis.core.job.wheel import FittedBrake, LeverFeel, LineState, PistonState, RotorFace
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from tests.bikes import CATALOGUE, own_job, plain, six_points, with_value

ROWS = [(complaint, row) for complaint, row in COMPLAINTS.items() if row]


def guide(job: Job) -> Guide:
    return guide_of(job, evaluate(job, CATALOGUE, {}))


def complaining(*complaints: Complaint, replies: dict[str, Reply] | None = None) -> Job:
    return own_job(complaints=complaints, replies=replies or {})


def points(found: Guide) -> dict[Cause, int]:
    return {r.row.cause: r.points for r in found.ranked}


def answered(job: Job, key: str, reply: Reply) -> Job:
    return job.model_copy(update={"replies": {**job.replies, key: reply}})


# the tables


def test_every_complaint_and_cause_has_its_row() -> None:
    assert set(COMPLAINTS) == set(Complaint)
    assert [row.cause for row in CAUSES] == list(Cause)
    assert all(-3 <= p <= 0 for row in COMPLAINTS.values() for p in row.values())


@pytest.mark.parametrize("cause", Cause)
def test_every_cause_is_asked_about_and_can_be_moved(cause: Cause) -> None:
    assert any(cause in row for row in COMPLAINTS.values())
    assert any(cause in question.points and question.points[cause] != (0, 0) for question in QUESTIONS)


@pytest.mark.parametrize("cause", [c for c in Cause if CAUSE_ROWS[c].remedy < RepairKind.CALIPER])
def test_every_cheaper_cause_can_be_excluded_wherever_it_stands(cause: Cause) -> None:
    # otherwise a part would be held back for ever
    for complaint, row in ROWS:
        if cause not in row:
            continue
        for_it = [c for c in QUESTIONS if cause in c.points and (not c.about or complaint in c.about)]
        lowest = row[cause] + sum(min(0, *c.points[cause]) for c in for_it)
        assert likelihood_of(lowest) is Likelihood.EXCLUDED, (complaint, cause)


@pytest.mark.parametrize("question", QUESTIONS, ids=lambda c: c.key)
def test_a_question_says_how_and_belongs_to_some_complaint(question) -> None:
    assert question.how
    assert question.points
    about = question.about or set(Complaint)
    assert any(cause in COMPLAINTS[complaint] for complaint in about for cause in question.points)
    assert question.asked == (not question.place)


def test_keys_are_single_and_findings_named_in_the_table_exist() -> None:
    assert len({c.key for c in QUESTIONS}) == len(QUESTIONS)
    known = {row.key for row in CONDITIONS} | {row.key for row in CHECKS}
    assert {key for row in CAUSES for key in row.due_by} <= known


def test_every_cause_leads_somewhere() -> None:
    assert {row.where for row in CAUSES} <= {*Place, *Task}


@pytest.mark.parametrize(
    ("key", "change", "reply"),
    [
        ("spongy", {"lever_feel": "spongy"}, Reply.YES),
        ("spongy", {"lever_feel": "firm"}, Reply.NO),
        ("spongy", {"lever_feel": "not_checked"}, None),
        ("late", {"lever_feel": "long"}, Reply.YES),
        ("oil_seen", {"pad_state": "oiled"}, Reply.YES),
        ("oil_seen", {"pad_state": "good", "rotor_face": "clean"}, Reply.NO),
        ("oil_seen", {"pad_state": "good"}, None),
        ("glaze_seen", {"pad_state": "glazed"}, Reply.YES),
        ("pads_thin", {"pad_inner_mm": 1.4}, Reply.YES),
        ("pads_uneven", {"pad_inner_mm": 1.0}, Reply.YES),
        ("rotor_uneven", {"rotor_points_mm": (1.7, 1.74)}, Reply.YES),
        ("rotor_uneven", {"rotor_points_mm": (1.7, 1.73)}, Reply.NO),
        ("rotor_bent", {"rotor_runout_mm": 0.25}, Reply.YES),
        ("rotor_bent", {"rotor_runout_mm": 0.2}, Reply.NO),
        ("rotor_coloured", {"rotor_colour": "blue"}, Reply.YES),
        ("rotor_dirty", {"rotor_face": "dirty"}, Reply.YES),
        ("lags", {"pistons": "lazy"}, Reply.YES),
        ("to_one_side", {"caliper_centred": "no"}, Reply.YES),
        ("leaks", {"line_state": "leaking"}, Reply.YES),
        ("stiff", {"line_state": "worn"}, Reply.YES),
        ("stale", {"water_seen": True}, Reply.YES),
        ("stale", {"fluid_grade": "dot4", "fluid_age_y": 1.0}, Reply.NO),
        ("hydraulic", {}, Reply.YES),
        ("hydraulic", {"caliper_id": "b-cable-one"}, Reply.NO),
        ("other_size", {"adapter_id": "a-pp-160-200"}, Reply.YES),
        ("other_size", {}, Reply.NO),
        ("strangers", {"lever_id": "p-arm"}, Reply.YES),
        ("hub_knocks", {"hub_play": "yes"}, Reply.YES),
        ("one_piece", {"rotor_id": "u-line-180"}, Reply.NO),
        ("loud", {}, Reply.YES),
    ],
)
def test_what_measure_knows_is_read_not_asked(key, change, reply) -> None:
    job = complaining(*[c for c in Complaint if c is not Complaint.CONVERSION]).model_copy(
        update={"complaint_end": End.FRONT}
    )
    for field, value in change.items():
        job = with_value(job, f"front.{field}", list(value) if isinstance(value, tuple) else value)
    assert guide(job).replies.get(key) is reply


@pytest.mark.parametrize(
    ("path", "value", "key", "reply"),
    [
        ("rider.skill", "novice", "beginner", Reply.YES),
        ("rider.skill", "practised", "beginner", Reply.NOT_KNOWN),
        ("rider.skill", "expert", "beginner", Reply.NO),
        ("rider.front_share_pct", 44, "rear_heavy", Reply.YES),
        ("rider.front_share_pct", 45, "rear_heavy", Reply.NO),
        ("rider.front_share_pct", None, "rear_heavy", None),
        ("bike.tread", "knobby", "wrong_tread", Reply.YES),
        ("bike.tread", "slick", "wrong_tread", Reply.NO),
    ],
)
def test_what_intake_knows_is_read_not_asked(path, value, key, reply) -> None:
    job = complaining(Complaint.ARM_PUMP, Complaint.GRABS)
    assert guide(with_value(job, path, value)).replies.get(key) is reply


def test_two_wheels_answer_no_only_together() -> None:
    job = with_value(complaining(Complaint.PULSES), "front.rotor_runout_mm", 0.1)
    assert "rotor_bent" not in guide(job).replies
    assert guide(with_value(job, "rear.rotor_runout_mm", 0.1)).replies["rotor_bent"] is Reply.NO
    assert guide(with_value(job, "rear.rotor_runout_mm", 0.3)).replies["rotor_bent"] is Reply.YES
    front_only = with_value(with_value(job, "rear.rotor_runout_mm", 0.3), "complaint_end", "front")
    assert guide(front_only).replies["rotor_bent"] is Reply.NO


# the sums


def test_points_add_up_by_hand() -> None:
    # arm pump: reach 0; hook answered no adds 3
    job = complaining(Complaint.ARM_PUMP)
    assert points(guide(job))[Cause.REACH] == 0
    after = guide(answered(job, "hook", Reply.NO))
    assert points(after)[Cause.REACH] == 3
    row = next(r for r in after.ranked if r.row.cause is Cause.REACH)
    assert [(e.question.key, e.reply, e.points) for e in row.evidence] == [("hook", Reply.NO, 3)]
    assert row.likelihood is Likelihood.LIKELY
    assert row.chance == pytest.approx(8 / 9)


def test_a_cause_that_explains_two_complaints_gains() -> None:
    one, two = guide(complaining(Complaint.FADES)), guide(complaining(Complaint.FADES, Complaint.DISCOLOURED))
    assert points(two)[Cause.LONG_DRAGS] == points(one)[Cause.LONG_DRAGS] + 1


@pytest.mark.parametrize("question", [c for c in QUESTIONS if c.asked], ids=lambda c: c.key)
def test_each_answer_reorders_as_its_row_says_and_shows_itself(question) -> None:
    complaints = [c for c in Complaint if not question.about or c in question.about]
    job = complaining(*complaints)
    before = guide(job)
    for reply, side in ((Reply.YES, 0), (Reply.NO, 1)):
        after = guide(answered(job, question.key, reply))
        gained = {c: points(after)[c] - points(before)[c] for c in points(before)}
        assert {c: g for c, g in gained.items() if g} == {
            c: pair[side] for c, pair in question.points.items() if c in gained and pair[side]
        }
        shown = {r.row.cause for r in after.ranked if any(e.question.key == question.key for e in r.evidence)}
        assert shown == {c for c, g in gained.items() if g}
        assert sum(moves(before, after).values()) == 0
        assert question.key not in {c.row.key for c in after.questions}


def test_not_known_moves_nothing_and_comes_last() -> None:
    job = complaining(Complaint.ARM_PUMP)
    key = next(c.row.key for c in guide(job).questions if c.row.asked)
    after = guide(answered(job, key, Reply.NOT_KNOWN))
    assert points(after) == points(guide(job))
    assert after.questions[-1].row.key == key
    assert after.questions[-1].skipped


# no part before its turn

OWN = evaluate(own_job(), CATALOGUE, {})


@given(st.dictionaries(st.sampled_from([c.key for c in QUESTIONS if c.asked]), st.sampled_from(Reply)))
def test_no_part_is_advised_while_a_cheaper_cause_is_not_excluded(replies) -> None:
    for complaint in (Complaint.FADES, Complaint.WEAK, Complaint.HOWLS):
        found = guide_of(complaining(complaint, replies=replies), OWN)
        for r in found.ranked:
            if r.part_advised:
                cheaper = [o for o in found.ranked if o.row.remedy < r.row.remedy]
                assert all(o.likelihood is Likelihood.EXCLUDED for o in cheaper)
        assert str(found.sentence).startswith("Parts") == found.advises_parts
        assert all(a.points >= b.points for a, b in pairwise(found.ranked))


def excluded_all_but_force() -> Job:
    """A weak brake of which everything cheap is known to be right."""
    good = {
        "lever_feel": "firm", "rotor_face": "clean", "pistons": "even", "caliper_centred": "yes", "line_state": "good",
        "rotor_runout_mm": 0.05, "pad_inner_mm": 1.9, "pad_outer_mm": 1.9,
    }  # fmt: skip
    job = complaining(Complaint.WEAK)
    for end in ("front", "rear"):
        for field, value in good.items():
            job = with_value(job, f"{end}.{field}", value)
    replies = {
        "hot_only": "no", "new_parts": "no", "bedded": "yes", "opened": "no", "wiped": "no", "wet_only": "no",
        "skids": "no", "tyre_right": "yes", "rear_mostly": "no", "hook": "yes",
    }  # fmt: skip
    return with_value(with_value(job, "replies", replies), "rider.mass_kg", 190)


def test_parts_are_the_answer_once_everything_cheaper_is_excluded() -> None:
    job = excluded_all_but_force()
    found = guide(job)
    top = found.ranked[0]
    assert top.row.cause is Cause.FORCE
    assert top.part_advised, [(r.row.name, r.points) for r in found.ranked]
    assert str(found.sentence).startswith("Parts are the answer")
    doubt = {k: v for k, v in job.replies.items() if k != "bedded"}
    held = guide(job.model_copy(update={"replies": doubt}))
    assert not held.ranked[0].part_advised
    assert CAUSE_ROWS[Cause.UNBEDDED] in held.ranked[0].held_by
    assert str(held.sentence).startswith("No part yet")


def test_what_is_worn_out_is_due_whatever_the_cause() -> None:
    job = with_value(complaining(Complaint.PULSES), "front.rotor_points_mm", [1.7, 1.76])
    row = next(r for r in guide(job).ranked if r.row.cause is Cause.WORN_ROTOR)
    assert row.due
    assert not row.part_advised


def test_an_unsafe_finding_is_never_skipped() -> None:
    job = with_value(complaining(Complaint.HOWLS), "rear.rotor_cracks", "yes")
    assert [f.key for f in guide(job).stops] == ["rear:cracks"]
    front_only = with_value(job, "complaint_end", "front")
    assert [f.key for f in guide(front_only).stops] == ["rear:cracks"]


def test_free_things_come_first_and_only_while_they_are_open() -> None:
    job = complaining(Complaint.ARM_PUMP)
    assert all(r.row.remedy is RepairKind.FREE for r in guide(job).free_first)
    after = answered(job, "hook", Reply.YES)
    assert Cause.REACH not in {r.row.cause for r in guide(after).free_first}


def test_a_rim_brake_is_not_searched_for_glaze() -> None:
    job = complaining(Complaint.WEAK)
    for end in ("front", "rear"):
        job = with_value(job, f"{end}.fitted_brake", FittedBrake.RIM.value)
    assert Cause.GLAZED not in points(guide(job))
    assert Cause.REACH in points(guide(job))


def test_a_conversion_alone_asks_for_no_causes() -> None:
    found = guide(complaining(Complaint.CONVERSION))
    assert found.ranked == ()
    assert not found.sentence


# the worth of a question


def test_the_worth_of_a_question_by_hand() -> None:
    # even odds, 4 to 1 either way: P1 = 0.8, P0 = 0.2; H(0.5) − H(0.8) = 1 − 0.7219 bits
    assert expected_gain_bits(0, 2, -2) == pytest.approx(0.2781, abs=1e-4)
    assert expected_gain_bits(0, 0, 0) == 0
    assert expected_gain_bits(-8, 2, -2) < expected_gain_bits(0, 2, -2)


@given(st.integers(-10, 10), st.integers(-6, 6), st.integers(-6, 6))
def test_a_question_is_worth_at_least_nothing_and_at_most_the_doubt(points_, yes, no) -> None:
    assert 0 <= expected_gain_bits(points_, yes, no) <= 1


@given(st.integers(-5, 5), st.integers(1, 5))
def test_a_stronger_question_is_worth_more(points_, strength) -> None:
    weak = expected_gain_bits(points_, strength, -strength)
    strong = expected_gain_bits(points_, strength + 1, -strength - 1)
    assert strong >= weak


def test_the_next_question_is_the_one_that_separates_best() -> None:
    found = guide(complaining(Complaint.FADES))
    gains = [c.gain_bits for c in found.questions]
    assert gains == sorted(gains, reverse=True)
    assert found.next_question is found.questions[0]


def test_readings_of_a_rotor_speak_for_pulses() -> None:
    job = with_value(complaining(Complaint.PULSES), "front.rotor_points_mm", list(six_points(1.7)))
    assert points(guide(job))[Cause.WORN_ROTOR] <= -4  # even rotors exclude it


LOOKED_AT = {
    "lever_feel": list(LeverFeel)[1:], "pad_state": list(PadState)[1:], "rotor_face": list(RotorFace)[1:],
    "pistons": list(PistonState)[1:], "line_state": list(LineState)[1:],
}  # fmt: skip


@pytest.mark.parametrize(("field", "value"), [(f, v) for f, values in LOOKED_AT.items() for v in values])
def test_no_check_of_a_bike_that_was_looked_over_leads_nowhere(field: str, value: str) -> None:
    """Everything is measured, whatever was found: what is still open can be answered by asking or trying. A check that
    readings or model answer is answered, or gone; none sends the reader to an entry that is made already."""
    whole = {
        "lever_feel": "firm", "pad_state": "good", "rotor_face": "clean", "pistons": "even", "line_state": "good",
        "rotor_cracks": "no", "rotor_runout_mm": 0.1, "rotor_colour": "bright", "caliper_centred": "yes", "hub_play": "no",
        "fluid_age_y": 0.5, "rotor_lip_mm": 0.0, "rotor_grooves": "no", "no_adapter": False,
    } | {field: value}  # fmt: skip
    job = complaining(*Complaint)
    wheels = {end.value: job.wheel(end).model_dump(mode="json") | whole for end in End}
    wheels["rear"]["no_adapter"] = True
    job = Job.model_validate(job.model_dump(mode="json") | wheels)
    stuck = {c.row.key for c in guide(job).questions if not c.row.asked}
    assert stuck == set()


def test_no_part_yet_is_an_open_point_of_any_order() -> None:
    job = complaining(Complaint.FADES)
    found = guide(job)
    point = cheaper_first(found, None)
    assert point is not None
    assert plain(point.words) == plain(found.sentence)
    assert plain(point.words).startswith("No part")
    assert cheaper_first(guide(complaining()), None) is None
