"""Sign-off: what no way leads to, what it stands for, what is on the bike from then on."""

import json
from typing import Any

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.gate import GateLevel, evidence_of, gate_of, level_of, same_evidence, worked_on
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.job.document import BESIDE_THE_SETUP, Clearance, Job, Proposal, StepTick
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import Renewal
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from clavis.core.records import digest
from clavis.core.selection.conversion import conversion_of
from clavis.core.verdicts import Severity, Verdict
from clavis.core.workshop.sign_off import NotYetError, Validity, part_digests, rests_on, signed, signed_state
from clavis.core.workshop.work_order import work_order
from clavis.demo.world import tourer
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.generated import DEMO_JOBS, TRACKS, drawn_jobs

AT = "2026-11-28T10:00"
LOOKED = {
    "rotor_cracks": "no", "rotor_face": "clean", "rotor_runout_mm": 0.1, "pistons": "even", "line_state": "good",
    "lever_feel": "firm", "fluid_age_y": 0.5, "spoke_gap_mm": 5.0, "hose_slack_mm": 40.0,
}  # fmt: skip


def looked_over(job: Job) -> Job:
    """The job with everything looked at and in order."""
    wheels = {end.value: job.wheel(end).model_dump(mode="json") | LOOKED for end in End}
    return Job.model_validate(job.model_dump(mode="json") | wheels)


def judged(job: Job, catalogue: Catalogue = CATALOGUE):
    return evaluate(job, catalogue, TRACKS)


def with_all_done(job: Job) -> Job:
    """Every step ticked and every open point answered for by name, whether that may be or not."""
    evaluation = judged(job)
    order = work_order(job, evaluation)
    ticks = {step.key: StepTick(who="Tess", at=AT, work=step.stamp) for step in order.steps}
    answers = {
        p.key: Clearance(who="Tess", at=AT, evidence=evidence_of(p.words), reason="seen, known and meant so")
        for p in evaluation.points(SetupName.PROPOSED)
    }
    return job.model_copy(update={"ticks": ticks, "cleared": answers})


def sign(job: Job) -> Job:
    return signed(job, judged(job), CATALOGUE, "Tess", AT)


GOOD = looked_over(own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter"))))


@pytest.mark.parametrize("place", range(160))
def test_nothing_that_is_wrong_or_unknown_can_be_signed(place: int) -> None:
    """Whatever is ticked and answered for: with an unsafe point, parts that do not go together, or an unknown that
    nobody may answer for, no job by the dice can be signed."""
    job = with_all_done(drawn_jobs(160, seed=13)[place])
    evaluation = judged(job)
    points = evaluation.points(SetupName.PROPOSED)
    never = [p for p in points if p.grave and p.matter is not Matter.RIDE]
    ends = worked_on(evaluation)
    settled_only = [p for p in points if level_of(p, ends) is GateLevel.SIGNING]
    if never or settled_only or evaluation.problem or not ends:
        with pytest.raises(NotYetError):
            sign(job)
    else:
        assert sign(job).signed_off is not None


def test_enough_of_them_may_be_signed_to_mean_something() -> None:
    jobs = [with_all_done(job) for job in (*DEMO_JOBS, GOOD)]
    signable = [job for job in jobs if work_order(job, judged(job)).may_be_signed(job)]
    assert len(signable) >= 4


@pytest.mark.parametrize("severity", list(Severity))
@pytest.mark.parametrize("matter", list(Matter))
def test_the_gate_by_severity_and_matter(severity: Severity, matter: Matter) -> None:
    point = OpenPoint("x", End.FRONT, None, severity, matter, "x", "x")
    here, elsewhere = level_of(point, frozenset({End.FRONT})), level_of(point, frozenset({End.REAR}))
    if severity is Severity.STOP:
        assert here is GateLevel.WORK
    if here is GateLevel.WORK:
        assert elsewhere is GateLevel.SIGNING  # the other wheel may be worked on; the bike leaves whole
    if point.grave and matter in (Matter.TOGETHER, Matter.CONDITION):
        assert here is GateLevel.WORK
    if severity is Severity.FAILS and matter is Matter.RIDE:
        assert here is GateLevel.NAME
    if severity is Severity.UNKNOWN and matter is Matter.TOGETHER:
        assert here is GateLevel.SIGNING
    if severity in (Severity.TIGHT,):
        assert here is GateLevel.NOTHING


def test_an_answer_holds_while_the_evidence_stands() -> None:
    """A force that is short may be answered for; with a heavier rider it is short by more, and nobody answers for
    that."""
    job = with_value(with_value(GOOD, "target_decel_g", 1.1), "rider.mass_kg", 120.0)
    gate = gate_of(job, judged(job))
    point = next(p for p in gate.name if p.severity is Severity.FAILS)
    answer = Clearance(who="Tess", at=AT, evidence=str(point.words), reason="never ridden that hard")
    answered = job.model_copy(update={"cleared": {point.key: answer}})
    assert point not in gate_of(answered, judged(answered)).name
    heavier = with_value(answered, "rider.mass_kg", 140.0)
    assert point.key in {p.key for p in gate_of(heavier, judged(heavier)).name}


def test_the_same_figures_in_other_words_are_no_new_evidence() -> None:
    assert same_evidence("thinnest 1.45, minimum 1.50", "read 1.45 mm, least 1.50 mm")
    assert not same_evidence("thinnest 1.44, minimum 1.50", "read 1.45 mm, least 1.50 mm")
    assert not same_evidence("something else", "a crack was seen")


def test_a_step_ticked_for_other_parts_is_not_done() -> None:
    job = with_all_done(GOOD)
    assert len(work_order(job, judged(job)).ticked(job)) == len(work_order(job, judged(job)).steps)
    other = with_value(job, "proposal.front.pad_id", "u-k2-resin")
    assert work_order(other, judged(other)).ticked(other) == {}
    answered = other.model_copy(update={"cleared": with_all_done(other).cleared})
    with pytest.raises(NotYetError, match="not ticked"):
        sign(answered)


def test_what_was_proposed_is_what_is_fitted_and_old_readings_are_gone() -> None:
    """New pads at the front: they are on it since that day, at full thickness, and the worn ones' readings are gone; the
    rotor keeps its own."""
    done = sign(with_all_done(GOOD))
    front = done.front
    assert front.pad_id == "u-k2-sinter"
    assert (front.pad_inner_mm, front.pad_state) == (CATALOGUE.pads["u-k2-sinter"].material_mm, PadState.NEW)
    assert front.rotor_points_mm == GOOD.front.rotor_points_mm
    assert front.since[Renewal.PAD].day == "2026-11-28"
    assert Renewal.ROTOR not in front.since
    assert done.rear == GOOD.rear
    assert not done.proposes
    assert done.ticks == {}
    assert any("Ulvorn K2 Sinter" in line for line in done.signed_off.done)
    state = signed_state(done, judged(done), CATALOGUE)
    assert state.validity is Validity.STANDS
    fitted = judged(done).fitted
    assert fitted is not None
    assert fitted.verdict is not Verdict.UNKNOWN


def test_a_bigger_rotor_leaves_its_adapter_bolts_and_no_old_thickness() -> None:
    job = looked_over(own_job(proposal=Proposal(front=Pick(rotor_id="q-disc-203"))))
    done = sign(with_all_done(job)).front
    assert (done.rotor_id, done.adapter_id) == ("q-disc-203", "a-pp-160-203")
    assert done.rotor_points_mm == ()
    assert done.upper_bolt_mm == 18.0
    assert {Renewal.ROTOR, Renewal.ADAPTER, Renewal.BOLTS} <= set(done.since)


RENEWED = [
    # what, lines of the order, steps that stand and that do not, what it cures
    (Renewal.PAD, {"pads, one pair"}, {"pads_in", "bed_in", "pistons_back"}, {"rotor_bolted", "bleed_full"}, {"pad_outer_mm": 0.4}),
    (Renewal.ROTOR, {"rotor", "rotor bolts"}, {"rotor_bolted", "bed_in"}, {"caliper_on", "adapter_up"}, {"rotor_cracks": "yes"}),
    (Renewal.CALIPER, {"caliper", "fluid", "bolt", "washers", "olive and insert"}, {"caliper_off", "caliper_on", "bleed_full"}, {"pistons_back"},
     {"pistons": "stuck"}),
    (Renewal.BLEED, {"fluid"}, {"bleed_full", "leaks", "pads_out"}, {"rotor_bolted", "centre"}, {"lever_feel": "pumps_up"}),
    (Renewal.BED_IN, set(), {"bed_in"}, {"wheel_out", "bleed_full", "pads_in"}, {}),
    (Renewal.BOLTS, {"bolt", "washers"}, {"caliper_on"}, {"rotor_bolted", "bleed_full"}, {"upper_bolt_mm": 22.0}),
    (Renewal.ADAPTER, {"adapter", "bolt", "washers"}, {"adapter_up", "caliper_on"}, {"rotor_bolted", "bleed_full"}, {}),
    (Renewal.HOSE, {"hose, cut to length", "fluid"}, {"line_off", "hose_on", "bleed_full"}, {"rotor_bolted"},
     {"line_state": "worn"}),
]  # fmt: skip


@pytest.mark.parametrize(("what", "lines", "stand", "gone", "ails"), RENEWED, ids=[r[0].value for r in RENEWED])
def test_the_same_part_new_is_an_order(
    what: Renewal, lines: set[str], stand: set[str], gone: set[str], ails: dict[str, Any]
) -> None:
    """Nothing but the same part new, or work without one: its lines, its steps and no others; what ailed is cured."""
    job = looked_over(own_job(proposal=Proposal(front=Pick(renew=(what,)))))
    wheel = job.front.model_dump(mode="json") | ails
    job = Job.model_validate(job.model_dump(mode="json") | {"front": wheel})
    evaluation = judged(job)
    order = work_order(job, evaluation)
    assert {line.what for line in order.lines} == lines
    assert [w.work.end for w in order.wheels] == [End.FRONT]
    steps = {step.row.key for step in order.steps}
    assert stand <= steps
    assert not gone & steps
    if ails:
        fitted, proposed = (
            {p.key for p in evaluation.points(name) if p.end is End.FRONT} for name in (SetupName.FITTED, SetupName.PROPOSED)
        )  # fmt: skip
        assert fitted - proposed, fitted
    done = sign(with_all_done(job))
    assert what in done.front.since
    assert work_order(done, judged(done)).wheels == ()


def test_a_sign_off_stands_for_nothing_else() -> None:
    done = sign(with_all_done(GOOD))
    for path, value in (
        ("front.rotor_points_mm", [1.4]), ("rider.mass_kg", 90.0), ("rides.descent.hold_kmh", 44.0),
        ("proposal.front.rotor_id", "t-heavy-220"), ("rear.pad_outer_mm", 0.5), ("conditions.rain", True),
    ):  # fmt: skip
        other = with_value(done, path, value)
        assert signed_state(other, judged(other), CATALOGUE).validity is Validity.VOID, path
    for path, value in (("title", "Another name"), ("complaint_words", "none any more"), ("wishes.note", "thanks")):
        other = with_value(done, path, value)
        assert signed_state(other, judged(other), CATALOGUE).validity is Validity.STANDS, path


def test_a_part_whose_figures_are_corrected_voids_what_rests_on_it() -> None:
    done = sign(with_all_done(GOOD))
    wrong = CATALOGUE.pads["u-k2-sinter"].model_copy(update={"height_mm": 15.0})
    corrected = Catalogue.of(wrong if p.id == wrong.id else p for p in CATALOGUE.every())
    state = signed_state(done, judged(done, corrected), corrected)
    assert state.validity is Validity.VOID
    assert "Ulvorn K2 Sinter has other figures now" in plain(state.why)


def test_an_old_sign_off_that_does_not_say_what_it_rests_on_stands_for_nothing() -> None:
    old = Job.model_validate(GOOD.model_dump(mode="json") | {"signed_off": {"who": "Tess", "at": AT}})
    assert signed_state(old, judged(old), CATALOGUE).validity is Validity.VOID
    assert signed_state(GOOD, judged(GOOD), CATALOGUE).validity is Validity.NONE


@pytest.mark.parametrize("axis", list(Axis))
def test_a_worn_out_part_is_proposed_new_among_the_candidates(axis: Axis) -> None:
    """What a wheel cannot keep comes new with every candidate that has the same model; the candidate says so."""
    from clavis.core.evaluation.wheel_cases import wheel_case
    from clavis.core.selection.candidates import choose

    ails = {
        Axis.ROTOR: {"rotor_cracks": "yes"}, Axis.PAD: {"pad_state": "oiled"}, Axis.CALIPER: {"pistons": "stuck"},
        Axis.LEVER: {"lever_feel": "pumps_up"},
    }[axis]  # fmt: skip
    cure = Renewal.BLEED if axis is Axis.LEVER else Renewal(axis.value)
    job = looked_over(own_job())
    job = Job.model_validate(
        job.model_dump(mode="json") | {"front": job.front.model_dump(mode="json") | ails}
        | {"keeps": {"front": ["rotor", "caliper", "lever"]}}
    )  # fmt: skip
    evaluation = judged(job)
    setup = evaluation.proposed
    found = choose(job, evaluation.mountings[End.FRONT], evaluation.situation, setup.demand, setup.load).candidates
    same = [c for c in found if c.setup.brake.of(axis) == evaluation.mountings[End.FRONT].wheel.on_it.of(axis)]
    assert same
    assert all(cure in c.ids.renew for c in same)
    case = wheel_case(evaluation.mountings[End.FRONT], same[0].ids)
    assert not [p for p in case.points if p.voids]


def test_a_conversion_signed_off_is_a_bike_with_discs() -> None:
    """Its new wheels, their hubs, and what was mounted on them are what is on it; no rim brake is."""
    job = tourer({})
    found = conversion_of(job, judged(job).mountings, "kr")
    picks = {w.end.value: w.pick for w in found.wheels}
    for end in End:
        job = with_value(job, f"{end.value}.spoke_gap_mm", 4.0)
    job = job.model_copy(update={"proposal": Proposal(**picks)})
    done = sign(with_all_done(job))
    for end in End:
        wheel = done.wheel(end)
        assert (wheel.fitted_brake, wheel.hub_there, wheel.hub) == ("disc", "there", "six_bolt")
        assert wheel.caliper_id == picks[end.value].caliper_id
    assert not done.proposes
    assert judged(done).fitted.wheels.keys() == set(End)


def test_another_version_of_the_program_voids_no_sign_off() -> None:
    """Fields that came later are in no digest while nothing is entered there; what is entered there voids."""
    job = GOOD.model_copy(update={"proposal": Proposal()})
    before = job.model_dump(mode="json", exclude=set(BESIDE_THE_SETUP))
    for end in End:
        assert before[end.value].pop("rotor_minimum_mm") is before[end.value].pop("mount_named") is None
    assert rests_on(job) == digest(json.dumps(before, separators=(",", ":"), ensure_ascii=False))
    read = job.model_copy(update={"front": job.front.model_copy(update={"rotor_minimum_mm": 1.5})})
    assert rests_on(read) != rests_on(job)
    part = CATALOGUE.pads["u-k2-sinter"]
    old = part.model_dump(mode="json")
    assert old.pop("figures") == "stated"
    marks = part_digests(job.model_copy(update={"front": job.front.model_copy(update={"pad_id": part.id})}), CATALOGUE)
    assert marks[part.id] == digest(json.dumps(old, separators=(",", ":"), ensure_ascii=False))
