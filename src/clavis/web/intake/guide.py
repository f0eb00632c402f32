"""The complaint guide: a room beside Intake. Answers reorder the causes; what Measure knows is not asked."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.responses import HTMLResponse, Response

from clavis.core.inspection.complaints import CHECKS, REMEDY_WORDS
from clavis.core.inspection.findings import FindingKind
from clavis.core.inspection.guide import Guide, guide_of, moves
from clavis.core.job.document import Complaint, Reply
from clavis.core.wording.labels import choice_word
from clavis.store import jobs
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, bench_of, new_page, render
from clavis.web.shell.stations import Room, after_change, station

router = APIRouter()


def guide(b: Bench) -> Guide:
    """The guide of a job as it stands, kept while neither job nor catalogue change."""
    key = ("guide", b.opened.id, b.opened.version, id(b.catalogue))
    found: Guide = b.answers.get(key, lambda: guide_of(b.job, b.evaluation, b.catalogue))
    return found


@station(Room.GUIDE)
def context(b: Bench) -> dict[str, Any]:
    answered = [check for check in CHECKS if check.key in b.job.replies]
    return {
        "guide": guide(b),
        "complaints": [(c.value, choice_word(c), c in b.job.complaints) for c in Complaint],
        "answered": [(check, b.job.replies[check.key]) for check in answered],
        "due": [f for f in b.findings if f.row.kind is FindingKind.REPLACE],
        "remedies": REMEDY_WORDS,
        "moved": {},
        "because": "",
    }


@router.get("/jobs/{job_id}/guide")
def page(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Response:
    b = bench(request, session, reading, job_id)
    return render(
        request,
        reading,
        "intake/guide.html",
        b=b,
        station=Room.GUIDE.station,
        room=Room.GUIDE,
        page=new_page(),
        others="",
        oob=False,
        **context(b),
    )


@router.post("/jobs/{job_id}/reply/{key}")
def reply(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    key: str,
    base: Annotated[int, Form()],
    value: Annotated[Reply | None, Form()] = None,
) -> Response:
    """Answer one check, or take the answer back; the ranking comes again with what the answer moved."""
    check = next((c for c in CHECKS if c.key == key and c.asked), None)
    if check is None:
        return HTMLResponse("There is no such question.", 404)
    before = bench(request, session, reading, job_id)
    opened = jobs.change(session, job_id, base, author, f"replies.{key}", value.value if value else None)
    b = bench_of(request, session, reading, opened)
    said = choice_word(value) if value else "taken back"
    more = {"moved": moves(guide(before), guide(b)), "because": f"{check.words}: {said}"}
    return HTMLResponse(after_change(request, session, b, Room.GUIDE, author.page, base, more))
