"""What lies in the database, as it lies there: the page of what cannot be read or computed. Nothing on it is worked out
but why it cannot be read; it opens when every other page of the same thing does not."""

from typing import Annotated

from fastapi import Form, HTTPException, Request
from starlette.responses import RedirectResponse, Response

from clavis.core.job.document import StayState
from clavis.store import jobs, keeping, rescue
from clavis.store.rescue import Sort
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.readers import AuthorDep, ReaderDep
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import render

router = routes.router()
OWN_PAGES: dict[Sort, str] = {Sort.JOB: "/jobs/{}/intake", Sort.BIKE: "/bikes/{}", Sort.PART: "/parts/line/{}"}
LISTS: dict[Sort, str] = {Sort.JOB: "/", Sort.BIKE: "/bikes", Sort.PART: "/parts"}


@router.get("/kept/{sort}/{ref}", dependencies=APPRENTICE)
def kept(
    request: Request, session: SessionDep, reading: ReaderDep, sort: Sort, ref: str, computed: str = "yes"
) -> Response:
    lying = rescue.look(session, sort, ref)
    return render(
        request, reading, "kept/kept.html", lying=lying, own_page=OWN_PAGES[sort].format(ref), back=LISTS[sort],
        computed=computed != "no",
    )  # fmt: skip


@router.get("/kept/{sort}/{ref}/document", dependencies=APPRENTICE)
def document(session: SessionDep, sort: Sort, ref: str) -> Response:
    """The document letter by letter, as a file."""
    headers = {"Content-Disposition": f'attachment; filename="clavis-{sort.value}.json"'}
    return Response(rescue.text_of(session, sort, ref), media_type="application/json", headers=headers)


@router.post("/kept/{sort}/{ref}/bring-back", dependencies=mechanic("a mechanic brings back what cannot be read"))
def bring_back(session: SessionDep, author: AuthorDep, sort: Sort, ref: str) -> Response:
    """The newest moment of the history that can be read."""
    rescue.bring_back(session, sort, ref, author.who)
    return RedirectResponse(f"/kept/{sort.value}/{ref}", 303)


@router.post("/kept/job/{job_id}/undo", dependencies=mechanic("a mechanic brings back what cannot be read"))
def undo(session: SessionDep, author: AuthorDep, job_id: int) -> Response:
    """The newest step of a job that can be read and not be computed, whoever made it."""
    if keeping.undo(session, job_id, author, anybodys=True) is None:
        raise HTTPException(409, "There is nothing to undo.")
    return RedirectResponse(f"/kept/job/{job_id}?computed=no", 303)


@router.post("/kept/{sort}/{ref}/put-away", dependencies=mechanic("a mechanic brings back what cannot be read"))
def put_away(
    session: SessionDep, author: AuthorDep, sort: Sort, ref: str, away: Annotated[str, Form(max_length=3)] = "on"
) -> Response:
    """Out of the lists of what is worked on, or in again."""
    if sort is Sort.JOB and not rescue.look(session, sort, ref).why:
        state = StayState.ARCHIVED if away == "on" else StayState.ON_THE_BENCH
        jobs.change(session, int(ref), jobs.version_of(session, int(ref)) or 0, author, "stay.state", state.value)
    else:
        rescue.put_away(session, sort, ref, away=away == "on")
    return RedirectResponse(f"/kept/{sort.value}/{ref}", 303)
