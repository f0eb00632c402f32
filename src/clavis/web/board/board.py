"""The board: all jobs on the bench, a new job, a job file read in; and the reader's name and units."""

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Form, HTTPException, Request, UploadFile
from starlette.responses import RedirectResponse, Response

from clavis.core.evaluation.parts_list import over_budget
from clavis.core.job.document import Job
from clavis.core.units import System
from clavis.core.workshop.supply import waits_for
from clavis.formats import job_file
from clavis.store import job_transfer, jobs
from clavis.web.shell.bench import SessionDep, bench_of
from clavis.web.shell.readers import UNITS_COOKIE, WHO_COOKIE, AuthorDep, ReaderDep
from clavis.web.shell.station_states import StationState
from clavis.web.shell.templates import render

router = APIRouter()
YEAR_S = 365 * 24 * 3600


WAITS = frozenset({StationState.LACKS, StationState.CONFLICT})


def _rows(request: Request, session: SessionDep, reading: ReaderDep, search: str) -> list[dict[str, object]]:
    rows = []
    for opened in jobs.all_jobs(session):
        bench = bench_of(request, session, reading, opened)
        head = bench.head
        row: dict[str, object] = {
            "id": opened.id,
            "title": opened.job.title or "Job without a name",
            "rider": reading.told(head.rider),
            "complaint": reading.told(head.complaint),
            "fitted": head.fitted,
            "proposed": head.setup,
            "over": over_budget(head.setup.price, opened.job.wishes.budget_price) if head.setup else 0.0,
            "words": reading.told(head.fitted_words),
            "proposed_words": reading.told(head.setup_words),
            "signed": bench.signed,
            "stamp": opened.job.signed_off,
            "stops": bench.stops,
            "waits": next((s for s in bench.stations if s.state in WAITS), None),
            "parts": waits_for(bench.supply),
            "has_proposal": bench.has_proposal,
            "demo": opened.demo,
            "changed_at": opened.changed_at,
        }
        text = " ".join(str(row[k]) for k in ("title", "rider", "complaint", "words"))
        if all(word in text.lower() for word in search.lower().split()):
            rows.append(row)
    return rows


@router.get("/")
def board(request: Request, session: SessionDep, reading: ReaderDep, search: str = "") -> Response:
    return render(
        request,
        reading,
        "board/board.html",
        rows=_rows(request, session, reading, search),
        search=search[:80],
        problem="",
    )


@router.post("/jobs")
def new_job(session: SessionDep, author: AuthorDep, title: Annotated[str, Form(max_length=80)] = "") -> Response:
    number = jobs.create_job(session, Job(title=title.strip()), author)
    return RedirectResponse(f"/jobs/{number}/intake", 303)


@router.post("/import")
def import_job(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, file: UploadFile
) -> Response:
    """Read a job file in. A file that cannot be read is answered on the board; nothing is kept of it."""
    try:
        number = job_transfer.keep(session, job_file.parse(file.file.read()), author)
    except job_file.JobFileError as error:
        session.rollback()
        rows = _rows(request, session, reading, "")
        text = f"{(file.filename or 'file')[:60]}: {reading.told(error.said)}"
        return render(request, reading, "board/board.html", 422, rows=rows, search="", problem=text)
    return RedirectResponse(f"/jobs/{number}/choose", 303)


@router.post("/who")
def say_name(name: Annotated[str, Form(min_length=1, max_length=40)], back: Annotated[str, Form()] = "/") -> Response:
    if not name.strip():
        raise HTTPException(422, "A name has at least one letter.")
    answer = RedirectResponse(_local(back), 303)
    answer.set_cookie(WHO_COOKIE, quote(name.strip()), max_age=YEAR_S, samesite="strict")
    return answer


@router.post("/units")
def choose_units(system: Annotated[System, Form()], back: Annotated[str, Form()] = "/") -> Response:
    answer = RedirectResponse(_local(back), 303)
    answer.set_cookie(UNITS_COOKIE, system.value, max_age=YEAR_S, samesite="strict")
    return answer


@router.get("/keys")
def keys(request: Request, reading: ReaderDep) -> Response:
    return render(request, reading, "shell/keys.html")


def _local(path: str) -> str:
    return path if path.startswith("/") and not path.startswith(("//", "/\\")) else "/"
