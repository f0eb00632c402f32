"""Papers: what stands on them, and that the PDF says the same on either size of paper."""

import re
from io import BytesIO

import pytest
from pypdf import PdfReader

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.document import StepTick
from clavis.core.job.renewal import Renewal
from clavis.core.units import System
from clavis.core.wording.papers import (
    Alternative,
    Caution,
    Paragraph,
    Rows,
    Step,
    handed_over,
    handover_paper,
    order_paper,
    quote_paper,
    section_words,
)
from clavis.core.workshop.labour import Labour, PaperSize, QuoteSum
from clavis.core.workshop.work_order import work_order
from clavis.formats.paper_pdf import paper_pdf
from tests.bikes import CATALOGUE, own_job, plain, with_value

JOB = own_job()
FOUND = evaluate(JOB, CATALOGUE, {})
ORDER = work_order(JOB, FOUND)


def quote(price: float | None = 96.0, alternatives=None):
    money = QuoteSum(ORDER.total, Labour(90.0, price), ORDER.unpriced)
    return quote_paper(7, JOB, ORDER, money, FOUND, alternatives or {}, "2026-12-28", "kr")


PAPERS = {
    "order": order_paper(7, JOB, ORDER, "kr"),
    "quote": quote(),
    "handover": handover_paper(7, JOB, handed_over(JOB, ORDER, FOUND, "2026-11-28")),
}


def words_of(paper) -> str:
    return " ".join(plain(b.words) for b in paper.blocks if not isinstance(b, Rows))


def text_of(body: bytes) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in PdfReader(BytesIO(body)).pages))


def test_the_order_has_every_step_caution_torque_and_part() -> None:
    paper = PAPERS["order"]
    steps = [b for b in paper.blocks if isinstance(b, Step)]
    assert [s.number for s in steps] == [s.number for s in ORDER.steps]
    assert [s.caution for s in steps] == [s.row.caution for s in ORDER.steps]
    assert {plain(b.words) for b in paper.blocks if isinstance(b, Caution)} == set(ORDER.cautions)
    parts, torques = (b for b in paper.blocks if isinstance(b, Rows))
    assert len(parts.rows) == len(ORDER.lines) + 1
    assert len(torques.rows) == len(ORDER.torques)
    told = {plain(words) for row in torques.rows for words in row}
    assert "6.0–10.0 N·m (53–89 lbf·in)" in told
    assert {plain(section_words(s)) for s in ORDER.sections} >= {"Before", "Front wheel", "On the road: front"}


def test_the_step_that_lays_bolts_says_which_goes_where_and_the_rotor_both_goes() -> None:
    steps = {s.number: plain(s.under) for s in PAPERS["order"].blocks if isinstance(s, Step)}
    by_key = {s.key: steps[s.number] for s in ORDER.steps}
    for choice in ORDER.bolts_of(ORDER.step_of("front:caliper_on")):
        assert f"{choice.stack.place}: M6 × {choice.bolt.length_mm:g}" in by_key["front:caliper_on"].replace(" mm", "")
    assert "first to about 3.0 N·m, then 6.0 N·m unless marked otherwise" in by_key["front:rotor_bolted"]


def test_a_tick_and_a_reason_stand_on_it() -> None:
    first, second = ORDER.steps[:2]
    ticks = {
        first.key: StepTick(who="Tess", at="2026-11-28T10:00", work=first.stamp),
        second.key: StepTick(who="Tess", at="2026-11-28T10:05", work=second.stamp, skipped="was cold already"),
    }
    steps = [
        b for b in order_paper(7, JOB.model_copy(update={"ticks": ticks}), ORDER, "kr").blocks if isinstance(b, Step)
    ]
    assert plain(steps[0].done) == "Tess, 2026-11-28 10:00"
    assert plain(steps[1].done) == "Tess, 2026-11-28 10:05: skipped, was cold already"
    assert not steps[2].done


def test_a_quote_is_the_sum_of_parts_and_work() -> None:
    sums = [b for b in quote().blocks if isinstance(b, Rows)][1]
    assert [plain(row[1]) for row in sums.rows] == [f"{ORDER.total:.2f}", "96.00", f"{ORDER.total + 96:.2f}"]
    unknown = [b for b in quote(None).blocks if isinstance(b, Rows)][1]
    assert [plain(row[1]) for row in unknown.rows][1:] == ["not known", "not known"]


def test_a_quote_says_what_it_does_what_it_does_not_and_what_is_beside_it() -> None:
    told = words_of(quote())
    assert "No brake stops better than its tyre on its ground" in told
    assert "stop on the flat takes" in told
    assert "stands until 2026-12-28" in told
    beside = quote(alternatives={"cheaper": Alternative("pads alone", 40.0, "tight")})
    rows = [b for b in beside.blocks if isinstance(b, Rows)][-1].rows
    assert [plain(words) for words in rows[0]] == ["cheaper", "pads alone", "tight", "40.00"]


def test_the_hand_over_has_limits_checks_and_the_day_of_the_fluid() -> None:
    told = words_of(PAPERS["handover"])
    assert "pads new at 1.5 mm of material, at the latest at 1.0 mm; the rotor not thinner than 1.50 mm" in told
    assert "nothing brings them back" in told
    assert "filled on" not in told  # no line was opened
    bled = with_value(JOB, "proposal", {"front": {"renew": [Renewal.BLEED.value]}})
    found = evaluate(bled, CATALOGUE, {})
    told = words_of(handover_paper(7, bled, handed_over(bled, work_order(bled, found), found, "2026-11-28")))
    assert "Front: filled on 2026-11-28 with Ulvorn" in told
    assert "the parts that were on it, serviced" in told


@pytest.mark.parametrize("name", PAPERS)
@pytest.mark.parametrize(("size", "wide"), [(PaperSize.A4, 595.28), (PaperSize.LETTER, 612.0)])
def test_the_pdf_says_what_the_paper_says(name: str, size: PaperSize, wide: float) -> None:
    paper = PAPERS[name]
    body = paper_pdf(paper, size, System.METRIC, "Workshop at the old lock")
    reader = PdfReader(BytesIO(body))
    assert float(reader.pages[0].mediabox.width) == pytest.approx(wide, abs=0.1)
    told = text_of(body)
    assert "Workshop at the old lock" in told
    for block in paper.blocks:
        if isinstance(block, Step | Paragraph | Caution):
            start = " ".join(plain(block.words).split()[:5])
            assert start in told, start


def test_units_are_the_readers() -> None:
    told = text_of(paper_pdf(PAPERS["handover"], PaperSize.A4, System.IMPERIAL, ""))
    assert "mph" in told
    assert "km/h" not in told


def test_names_beyond_one_alphabet_are_written() -> None:
    job = with_value(JOB, "rider.name", "Łucja Ωmega Ångström")
    body = paper_pdf(order_paper(7, job, ORDER, "kr"), PaperSize.A4, System.METRIC, "")
    assert "Łucja" in text_of(body)
