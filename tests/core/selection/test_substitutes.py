"""What could be taken in the place of a part: by looking at each by itself."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.parts_list import price_of
from clavis.core.fit.bolts import judge_length
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.selection.substitutes import other_bolts, substitutes_of
from clavis.core.verdicts import RANK, Verdict
from tests.bikes import CATALOGUE, own_job, with_value
from tests.generated import DEMO_JOBS, TRACKS

JOB = own_job()
FOUND = evaluate(JOB, CATALOGUE, {})


@pytest.mark.parametrize("axis", [Axis.ROTOR, Axis.PAD])
def test_each_by_itself_goes_together_and_holds_no_worse(axis: Axis) -> None:
    found = substitutes_of(JOB, FOUND, End.FRONT, axis, 99)
    assert found
    now = FOUND.proposed.wheels[End.FRONT]
    before = price_of(FOUND.cases[SetupName.PROPOSED][End.FRONT].lines)
    for s in found:
        other = evaluate(with_value(JOB, f"proposal.front.{axis.value}_id", s.part.id), CATALOGUE, {})
        case = other.cases[SetupName.PROPOSED][End.FRONT]
        assert case.rideable
        assert RANK[other.proposed.wheels[End.FRONT].verdict] <= RANK[now.verdict], s.part.id
        assert price_of(case.lines) - before == pytest.approx(s.dearer)
    assert [abs(s.dearer) for s in found] == sorted(abs(s.dearer) for s in found)
    assert getattr(JOB.proposal.front, f"{axis.value}_id") not in {s.part.id for s in found}


def test_nothing_is_named_that_does_not_go() -> None:
    """The tandem's front may have 203 at the most, and its rotor is held by six bolts."""
    job = DEMO_JOBS[0]
    for s in substitutes_of(job, evaluate(job, CATALOGUE, TRACKS), End.FRONT, Axis.ROTOR, 99):
        assert s.part.diameter_mm <= 203
        assert s.part.interface == "six_bolt"


def test_what_cannot_be_judged_has_no_substitute() -> None:
    blank = with_value(JOB, "rider.mass_kg", None)
    assert substitutes_of(blank, evaluate(blank, CATALOGUE, {}), End.FRONT, Axis.ROTOR) == ()


def test_other_bolts_hold_at_every_place_of_the_one() -> None:
    stock = tuple(CATALOGUE.bolts.values())
    choices = FOUND.cases[SetupName.PROPOSED][End.FRONT].fit.bolts
    part_id = choices[0].bolt.id
    found = other_bolts(choices, part_id, stock)
    assert found
    assert part_id not in {b.id for b in found}
    for bolt in stock:
        for choice in (c for c in choices if c.bolt.id == part_id):
            holds = judge_length(choice.stack, bolt.length_mm).verdict is Verdict.HOLDS
            assert bolt not in found or (bolt.thread == choice.stack.thread and holds)
    assert other_bolts(choices, "no-such", stock) == ()
