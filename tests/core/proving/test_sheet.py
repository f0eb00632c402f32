"""The run sheet as it is taken to the road."""

import pytest

from clavis.core.job.trials import Question, SetupFrom, TrialKind, TrialSide
from clavis.core.proving.plan import begun, plan_of
from clavis.core.sentences import render
from clavis.core.units import System
from clavis.core.wording.papers import Caution, Heading, Paragraph, Rows
from clavis.core.wording.trial_sheet import trial_paper
from clavis.core.workshop.labour import PaperSize
from clavis.formats.paper_pdf import paper_pdf
from tests.bikes import CATALOGUE
from tests.core.proving.test_calibration import JOB

A = TrialSide(name="as it is")
B = TrialSide(name="larger in front", source=SetupFrom.PICKED, front=JOB.proposal.front, rear=JOB.proposal.rear)


def paper(question: Question, **more: object):
    trial = begun("t", question, A, B, JOB, CATALOGUE, {}).model_copy(update=more)
    plan = plan_of(JOB, trial, CATALOGUE, {})
    return plan, trial_paper(7, JOB, plan)


def words(sheet, kind: type = Paragraph, system: System = System.METRIC) -> str:
    return " ".join(render(b.words, system) for b in sheet.blocks if isinstance(b, kind)).replace("\u00a0", " ")


@pytest.mark.parametrize("question", list(Question))
def test_every_run_has_its_line_in_the_order_that_was_drawn(question: Question) -> None:
    plan, sheet = paper(question)
    (table,) = (b for b in sheet.blocks if isinstance(b, Rows))
    assert len(table.rows) == len(plan.runs)
    for row, run in zip(table.rows, plan.runs, strict=True):
        assert str(row[0]) == str(run.number)
        assert str(row[2]).startswith(run.side.value)
        assert ("change" in str(row[2])) == run.change
    assert len(table.head) == len(table.rows[0]) == len(table.shares)


def test_the_caution_of_its_kind_stands_on_it() -> None:
    plan, sheet = paper(Question.RUNS_COOLER)
    assert plan.kind.caution in words(sheet, Caution)
    assert "Rotors burn skin" in words(sheet, Caution)


def test_seed_bedding_and_what_to_see_to_stand_on_it() -> None:
    plan, sheet = paper(Question.STOPS_SHORTER)
    told = words(sheet)
    assert f"order drawn by lot with seed {plan.trial.seed}" in told
    assert "bed in with" in told
    assert "A: as it is" in told
    assert "B: larger in front" in told
    assert "□ More than one kind of part differs" in told
    assert "What else could make the difference" in words(sheet, Heading)


def test_marks_are_named_where_there_are_any() -> None:
    _, sheet = paper(Question.GOES_QUICKER, kind=TrialKind.FREE_DESCENT, marks=("bridge", "barn"))
    assert "1: bridge; 2: barn" in words(sheet)
    assert "has no figure for the difference" in words(sheet)


def test_who_reads_feet_gets_feet() -> None:
    _, sheet = paper(Question.STOPS_SHORTER)
    told = words(sheet, system=System.IMPERIAL)
    assert "mph" in told
    assert "km/h" not in told


@pytest.mark.parametrize("size", list(PaperSize))
def test_it_goes_out_as_pdf(size: PaperSize) -> None:
    _, sheet = paper(Question.STOPS_SHORTER)
    assert paper_pdf(sheet, size, System.METRIC, "Workshop").startswith(b"%PDF")
