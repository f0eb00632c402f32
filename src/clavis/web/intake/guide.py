"""The complaint guide: a room beside Intake. Answers reorder the causes; what Measure knows is not asked."""

from typing import Annotated, Any

from fastapi import Form, HTTPException
from starlette.responses import Response

from clavis.core.evaluation.conditions import FindingKind
from clavis.core.inspection.complaints import QUESTIONS, REMEDY_WORDS
from clavis.core.inspection.guide import moves
from clavis.core.job.document import Complaint, Reply
from clavis.core.sentences import say
from clavis.core.wording.labels import choice_word
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.stations import gathers
from clavis.web.shell.visit import ChangeDep, VisitDep

router = routes.router()


@gathers(Room.GUIDE)
def context(b: Bench) -> dict[str, Any]:
    answered = [question for question in QUESTIONS if question.key in b.job.replies]
    return {
        "guide": b.guide,
        "complaints": [(c.value, choice_word(c), c in b.job.complaints) for c in Complaint],
        "answered": [(question, b.job.replies[question.key]) for question in answered],
        "due": [f for f in b.findings if f.kind is FindingKind.REPLACE],
        "remedies": REMEDY_WORDS,
        "moved": {},
        "because": "",
    }


@router.get("/jobs/{job_id}/guide", dependencies=APPRENTICE)
def page(v: VisitDep) -> Response:
    return v.page(Room.GUIDE, "intake/guide.html", **context(v.bench))


@router.post("/jobs/{job_id}/reply/{key}", dependencies=APPRENTICE)
def reply(c: ChangeDep, key: str, value: Annotated[Reply | None, Form()] = None) -> Response:
    """Answer one question, or take the answer back; the ranking comes again with what the answer moved."""
    question = next((q for q in QUESTIONS if q.key == key and q.asked), None)
    if question is None:
        raise HTTPException(404, "There is no such question.")
    now = c.keep(f"replies.{key}", value.value if value else None)
    said = choice_word(value) if value else "no answer"
    because = say("{words}: {said}", words=question.words, said=said)
    return c.answered(now, Room.GUIDE, {"moved": moves(c.bench.guide, now.guide), "because": because})
