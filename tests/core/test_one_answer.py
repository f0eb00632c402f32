"""Two places that answer one question agree: margin, check, fit, finding, guide, order and candidates, over the demo's
jobs and jobs by the dice."""

from collections import Counter
from functools import cache

import pytest

from clavis.core.evaluation.evaluate import Evaluation, SetupName, evaluate, wheel_result
from clavis.core.evaluation.open_points import MARGIN_ROWS, Matter, OpenPoint, gravest_first
from clavis.core.evaluation.parts_list import price_of
from clavis.core.inspection.complaints import found_on
from clavis.core.inspection.findings import findings_of, findings_of_wheel
from clavis.core.inspection.guide import guide_of, known_of
from clavis.core.job.document import Complaint, Job
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Severity, Verdict, worst
from clavis.core.workshop.torques import BOLT_TORQUES, TORQUE_ROWS, Fastener
from clavis.core.workshop.work_order import work_order
from tests.bikes import CATALOGUE, own_job, with_value
from tests.choices import choice_of
from tests.generated import DEMO_JOBS, TRACKS, drawn_jobs

JOBS: tuple[Job, ...] = (*DEMO_JOBS, own_job(), *drawn_jobs(80))
GRAVER = list(Severity)


@cache
def evaluated(place: int) -> Evaluation:
    return evaluate(JOBS[place], CATALOGUE, TRACKS)


EVERY = pytest.mark.parametrize("place", range(len(JOBS)), ids=lambda k: f"{k}-{JOBS[k].title}")


def told(code: str, settles: str, verdict: Verdict, points: tuple[OpenPoint, ...]) -> bool:
    """Whether a list tells a point with this verdict, or a graver one that the same entry settles."""
    return any(
        (p.code == code and p.verdict is verdict)
        or (settles and p.settles == settles and worst([p.verdict, verdict]) is p.verdict)
        for p in points
    )


def test_the_dice_throw_what_has_to_be_told() -> None:
    """The jobs show most codes that exist: otherwise the tests below would look at little."""
    codes = Counter(p.code for k in range(len(JOBS)) for name in SetupName for p in evaluated(k).points(name))
    assert len(codes) > 55
    assert set(MARGIN_ROWS) - {"ground"} <= set(codes)
    verdicts = Counter(s.verdict for k in range(len(JOBS)) for s in evaluated(k).setups.values())
    assert set(verdicts) >= {Verdict.FAILS, Verdict.UNKNOWN}


@EVERY
def test_a_margin_and_the_list_agree(place: int) -> None:
    for setup in evaluated(place).setups.values():
        for end, wheel in setup.wheels.items():
            listed = setup.points_of(end)
            assert listed == gravest_first(wheel.points)
            for margin in wheel.margins:
                settles = f"{end.value}.{MARGIN_ROWS[margin.key].settles}" if MARGIN_ROWS[margin.key].settles else ""
                if margin.verdict is Verdict.HOLDS:
                    assert margin.key not in {p.code for p in listed}
                else:
                    assert told(margin.key, settles, margin.verdict, listed), margin.key
            margins = {m.key: m.verdict for m in wheel.margins}
            assert all(margins[p.code] is p.verdict for p in listed if p.code in MARGIN_ROWS)


@EVERY
def test_a_check_the_fit_and_the_list_agree(place: int) -> None:
    for name, cases in evaluated(place).cases.items():
        for end, case in cases.items():
            listed = evaluated(place).points(name)
            wrong = {c.key: c.verdict for c in case.checks if c.verdict is not Verdict.HOLDS and not c.at_trial}
            for check in case.checks:
                if check.key in wrong:
                    assert told(check.key, f"{end.value}.{check.row.ask}" if check.ask else "", check.verdict, listed)
            together = [p for p in listed if p.end is end and p.matter is Matter.TOGETHER]
            assert all(wrong[p.code] is p.verdict for p in together)
            if case.fit is not None:
                assert case.fit.checks == case.checks
                assert (case.fit.verdict is Verdict.FAILS) == (Verdict.FAILS in wrong.values())


@EVERY
def test_a_finding_and_the_list_agree(place: int) -> None:
    """What is unsafe on the bike as it stands is a stop in both; what the list calls wrong was found."""
    found = findings_of(evaluated(place))
    listed = evaluated(place).points(SetupName.FITTED)
    for finding in found:
        if finding.unsafe:
            assert any(p.code == finding.code and p.end is finding.end and p.grave for p in listed), finding.code
    codes = {(f.end, f.code) for f in found}
    for point in listed:
        if point.grave and point.matter in (Matter.CONDITION, Matter.TOGETHER):
            assert (point.end, point.code) in codes
        if point.severity is Severity.STOP:
            assert any(f.unsafe and f.code == point.code for f in found), point.code


@EVERY
def test_the_guide_looks_at_the_same_findings(place: int) -> None:
    job = JOBS[place].model_copy(update={"complaints": tuple(Complaint), "complaint_end": None})
    known = known_of(job, evaluated(place))
    for case in known.cases:
        of_wheel = findings_of_wheel(case.wheel, frozenset(), case.checks)
        unread = {c.key for c in case.checks if c.verdict is Verdict.UNKNOWN}
        assert {f.code for f in of_wheel} - unread <= found_on(case)
        assert {p.code for p in case.points if p.grave} <= found_on(case)
    due = {r.row.cause for r in guide_of(job, evaluated(place)).ranked if r.due}
    assert due == {
        r.row.cause for r in guide_of(job, evaluated(place)).ranked if set(r.row.due_by) & known.findings
    }  # fmt: skip


@EVERY
def test_the_order_carries_out_what_the_setup_says(place: int) -> None:
    evaluation = evaluated(place)
    order = work_order(JOBS[place], evaluation)
    listed, ends = evaluation.points(SetupName.PROPOSED), {w.work.end for w in order.wheels}
    gate = order.gate
    assert {*gate.work, *gate.signing, *gate.name, *(a.point for a in gate.answered)} <= set(listed)
    assert all(p in gate.work for p in listed if p.severity is Severity.STOP and p.end in ends)
    assert not gate.may_sign or all(not p.grave and p.verdict is not Verdict.UNKNOWN for p in listed)
    proposed = evaluation.proposed
    if proposed is not None:
        assert order.lines == tuple(line for line in proposed.lines if line.end in ends)
        assert order.total == pytest.approx(price_of(order.lines))
        assert {line.end for line in proposed.lines} <= ends


@EVERY
def test_every_bolt_of_an_order_has_its_torque(place: int) -> None:
    for wheel in work_order(JOBS[place], evaluated(place)).wheels:
        rows = [t for t in wheel.torques if t.places]
        laid = wheel.work.tightened
        if wheel.work.changes.bolts:
            assert laid == wheel.work.fit.fitted_bolts
        assert bool(laid) == (wheel.work.set_anew and bool(wheel.work.fit.fitted_bolts))
        assert Counter(p for t in rows for p in t.places) == Counter(b.stack.place for b in laid)
        for bolt in laid:
            row = next(t for t in rows if bolt.stack.place in t.places)
            assert row.fastening.row is BOLT_TORQUES[bolt.stack.thread]
        threads = {t.fastening.row for t in rows}
        for line in wheel.work.lines:
            part = CATALOGUE.by_id(line.part_id) if line.part_id else None
            if line.what == "rotor bolts":
                assert TORQUE_ROWS[Fastener.ROTOR_BOLTS] in {t.fastening.row for t in wheel.torques}
            elif part is not None and part.kind == "bolt":
                assert BOLT_TORQUES[part.thread] in threads, line


@EVERY
def test_a_verdict_is_the_worst_of_its_list(place: int) -> None:
    for name, setup in evaluated(place).setups.items():
        assert evaluated(place).points(name) == setup.points
        assert setup.verdict is worst([Verdict.HOLDS, *(p.verdict for p in setup.points)])
        for end, wheel in setup.wheels.items():
            assert wheel.verdict is worst([Verdict.HOLDS, *(p.verdict for p in setup.points_of(end))])
        if setup.verdict is Verdict.HOLDS:
            assert all(m.verdict is Verdict.HOLDS for w in setup.wheels.values() for m in w.margins)


RANKED = [k for k in range(0, len(JOBS), 9) if (p := evaluated(k).proposed) is not None and p.load is not None]


@pytest.mark.parametrize("place", RANKED)
def test_a_candidate_that_is_proposed_keeps_its_points_verdict_margins_and_price(place: int) -> None:
    """Under the same demand: a proposal may let the rider brake harder, and so change the ride itself."""
    job, evaluation = JOBS[place], evaluated(place)
    setup, situation = evaluation.proposed, evaluation.situation
    for end in End:
        choice = choice_of(job, evaluation, end)
        for candidate in choice.candidates[:: max(1, len(choice.candidates) // 4)]:
            own = with_value(job, f"proposal.{end.value}", candidate.ids.model_dump(mode="json"))
            case = evaluate(own, CATALOGUE, TRACKS, names=(SetupName.PROPOSED,)).cases[SetupName.PROPOSED][end]
            wheel = wheel_result(case.setup, situation, setup.demand, setup.load, case.points)
            assert {p.code for p in wheel.points} == {p.code for p in candidate.points}
            assert wheel.verdict is candidate.verdict
            assert [m.value for m in wheel.margins] == [pytest.approx(m.value) for m in candidate.margins]
            assert price_of(case.lines) == pytest.approx(candidate.price)


def test_enough_of_the_jobs_have_candidates() -> None:
    assert len(RANKED) > 6


def test_a_forks_own_limit_is_one_answer_everywhere() -> None:
    """The fork's line in the catalogue states 160, the wheel's own field is empty, a 180 is on it."""
    fork = next(f for f in CATALOGUE.of_kind("fork").values() if f.max_rotor_mm and f.max_rotor_mm < 180)
    job = own_job()
    for path, value in {"carrying_id": fork.id, "max_rotor_mm": None}.items():
        job = with_value(job, f"front.{path}", value)
    evaluation = evaluate(job, CATALOGUE, {})
    case = evaluation.cases[SetupName.FITTED][End.FRONT]
    assert case.wheel.largest.mm == fork.max_rotor_mm
    assert next(c for c in case.checks if c.key == "largest").verdict is Verdict.FAILS
    assert case.fit.verdict is Verdict.FAILS
    assert next(p for p in evaluation.points(SetupName.FITTED) if p.code == "largest").severity is Severity.STOP
    assert next(f for f in findings_of(evaluation) if f.code == "largest").unsafe
    assert any(p.code == "largest" for p in work_order(job, evaluation).gate.work)
