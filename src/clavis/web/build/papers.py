"""Order, quote and hand-over as a page to print and as PDF; and the customer's word on the quote."""

from datetime import timedelta
from enum import StrEnum
from typing import Annotated

from fastapi import Form, HTTPException
from starlette.responses import Response

from clavis.core.job.document import Acceptance
from clavis.core.parts.mounts import End
from clavis.core.selection.recommendation import one_step_beside
from clavis.core.selection.schools import Candidate, together
from clavis.core.sentences import Words, joined, say
from clavis.core.wording.papers import Alternative, Paper, handed_over, handover_paper, order_paper, quote_paper
from clavis.core.workshop.labour import PaperSize, WorkshopTerms, quote_sum
from clavis.formats.paper_pdf import paper_pdf
from clavis.store import jobs, workshop
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.choices import choice_of
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep, Visit, VisitDep

router = routes.router()


class PaperKind(StrEnum):
    ORDER = "order"
    QUOTE = "quote"
    HANDOVER = "handover"


def _words_of(pair: tuple[Candidate, Candidate]) -> Words:
    """What a pair changes, wheel by wheel."""
    told: list[Words] = []
    for end, c in zip(End, pair, strict=True):
        new = [c.setup.brake.of(axis) for axis in sorted(c.setup.new)]
        names = joined([part.name for part in new if part is not None], ", ")
        told.append(say("{end}: {what}", end=end, what=names if new else "as it is"))
    return joined(told, "; ")


def _alternatives(b: Bench) -> dict[str, Alternative]:
    """One step cheaper and one dearer than what is proposed, where both wheels can be weighed."""
    both = [choice_of(b, end) for end in End]
    front, rear = both
    if front is None or rear is None:
        return {}
    found = one_step_beside(front, rear, b.job.wishes.school, b.order.total)

    def told(pair: tuple[Candidate, Candidate]) -> Alternative:
        verdict = together([c.standing for c in pair]).verdict
        return Alternative(_words_of(pair), sum(c.price for c in pair), verdict.value)

    return {name: told(pair) for name, pair in zip(("cheaper", "dearer"), found, strict=True) if pair is not None}


def paper_of(v: Visit, what: PaperKind, terms: WorkshopTerms) -> Paper:
    """One of the papers of a job's order; the hand-over also once that is signed off. Raises 404 without an order."""
    b, currency, today = v.bench, v.request.app.state.settings.currency, jobs.now().date()
    wheels = handed_over(b.job, b.order, b.evaluation, today.isoformat()) if what is PaperKind.HANDOVER else ()
    if wheels:
        return handover_paper(b.opened.id, b.job, wheels)
    if not b.order.wheels:
        raise HTTPException(404, "There is no order: nothing is to be done.")
    if what is PaperKind.ORDER:
        return order_paper(b.opened.id, b.job, b.order, currency)
    until = (today + timedelta(days=terms.valid_days)).isoformat()
    return quote_paper(
        b.opened.id, b.job, b.order, quote_sum(b.order, terms), b.evaluation,
        _alternatives(b), until, currency,
    )  # fmt: skip


@router.get("/jobs/{job_id}/papers/{what}.pdf", dependencies=APPRENTICE)
def as_pdf(v: VisitDep, what: PaperKind, size: PaperSize | None = None) -> Response:
    terms = workshop.terms(v.session)
    body = paper_pdf(paper_of(v, what, terms), size or terms.paper, v.system, terms.name)
    name = f'inline; filename="{what.value}-{v.job_id}.pdf"'
    return Response(body, media_type="application/pdf", headers={"Content-Disposition": name})


@router.get("/jobs/{job_id}/papers/{what}", dependencies=APPRENTICE)
def as_page(v: VisitDep, what: PaperKind) -> Response:
    terms = workshop.terms(v.session)
    here = f"/jobs/{v.job_id}"
    return v.page(
        None, "shell/paper.html", paper=paper_of(v, what, terms), terms=terms, back=f"{here}/build?view=papers",
        back_words=f"Order {v.job_id}", pdf=f"{here}/papers/{what.value}.pdf",
    )  # fmt: skip


@router.post("/jobs/{job_id}/accepted", dependencies=APPRENTICE)
def accepted(c: ChangeDep, customer: Annotated[str, Form(max_length=40)] = "") -> Response:
    """The customer accepts what is quoted, by name; no name takes it back."""
    order, terms = c.bench.order, workshop.terms(c.session)
    if not customer.strip():
        return c.answered(c.or_refused(lambda: c.keep_newest("accepted", None)), Room.BUILD)
    if not order.wheels:
        raise HTTPException(409, "There is nothing to accept: no order.")
    total = quote_sum(order, terms).total
    if total is None:
        raise HTTPException(422, "Say what the workshop's hour costs first: the quote has no sum.")
    at = jobs.moment()
    word = Acceptance(who=customer.strip(), at=at, work=order.stamp, price=round(total, 2))
    return c.answered(c.or_refused(lambda: c.keep_newest("accepted", word.model_dump())), Room.BUILD)
