"""The history of a job in words; undo, redo, and any moment brought back."""

from dataclasses import dataclass
from typing import Annotated
from urllib.parse import quote

from fastapi import Form, HTTPException
from starlette.responses import Response

from clavis.core.job.by_name import holds_acts_alone
from clavis.core.sentences import Words, say
from clavis.store import history, jobs, keeping
from clavis.store.accounts import Role
from clavis.store.tables import ChangeRow
from clavis.web.shell import routes
from clavis.web.shell.history_words import step_words
from clavis.web.shell.readers import SAID_COOKIE
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.templates import page_address
from clavis.web.shell.visit import ChangeDep, VisitDep

router = routes.router()
PAGE = 200
SAID_S = 20


@dataclass(frozen=True)
class StepLine:
    """One step of the history, in words."""

    row: ChangeRow
    words: Words
    stands: bool


@router.get("/jobs/{job_id}/history", dependencies=APPRENTICE)
def whole_history(v: VisitDep, page: int = 0) -> Response:
    page = min(max(page, 0), 10_000)
    rows = history.steps(v.session, v.job_id, PAGE + 1, page)
    stands = history.in_effect(history.steps(v.session, v.job_id, PAGE * (page + 1) + 1))
    lines = [StepLine(row, step_words(row, v.bench.catalogue), stands.get(row.id, True)) for row in rows[:PAGE]]
    return v.page(None, "job/history.html", lines=lines, older=page + 1 if len(rows) > PAGE else 0)


def _back(c: ChangeDep, said: Words) -> Response:
    """The page on which it was asked for, drawn anew, with a word of what was done."""
    back = page_address(c.request)
    place = back if c.request.headers.get("hx-current-url") and back.startswith(f"/jobs/{c.job_id}/") else ""
    answer = Response(headers={"HX-Redirect": place or f"/jobs/{c.job_id}/history"}, status_code=200)
    if said:
        answer.set_cookie(
            SAID_COOKIE, quote(c.reading.told(said)[:200]), max_age=SAID_S, samesite="strict", httponly=True
        )
    return answer


@router.post("/jobs/{job_id}/undo", dependencies=APPRENTICE)
def undo(c: ChangeDep, anybodys: Annotated[str, Form(max_length=3)] = "") -> Response:
    """Take the newest step back, then show the page again and say what it was. Another person's step is taken back only
    when that was said."""
    last = history.offered(c.session, c.job_id).undo
    if last is not None and c.reading.signed_in is Role.APPRENTICE:
        if last.path == jobs.SIGN_OFF:
            raise HTTPException(403, "Not with this account: a mechanic takes a sign-off back.")
        if holds_acts_alone(last.path) and last.who != c.author.who:
            raise HTTPException(403, f"Not with this account: {last.who} or a mechanic takes this back.")
    try:
        row = keeping.undo(c.session, c.job_id, c.author, anybodys=anybodys == "on")
    except history.OthersError as error:
        c.session.rollback()
        words = step_words(error.step, c.bench.catalogue)
        return c.piece("job/undo_others.html", 409, who=error.step.who, words=words)
    except jobs.RefusedError as error:
        c.session.rollback()
        raise HTTPException(409, f"This cannot be undone by itself: {c.reading.told(error.said)}") from None
    if row is None:
        return _back(c, "there is nothing to undo")
    whose = f", {row.who}’s" if row.who != c.author.who else ""
    return _back(c, say("undone{whose}: {what}", whose=whose, what=step_words(row, c.bench.catalogue)))


@router.post("/jobs/{job_id}/redo", dependencies=APPRENTICE)
def redo(c: ChangeDep) -> Response:
    """Do again what was undone last."""
    try:
        row = history.redo(c.session, c.job_id, c.author)
    except (jobs.RefusedError, jobs.ConflictError) as error:
        c.session.rollback()
        raise HTTPException(409, f"This cannot be done again: {c.reading.told(error.said)}") from None
    words = (
        say("done again: {what}", what=step_words(row, c.bench.catalogue)) if row else "there is nothing to do again"
    )
    return _back(c, words)


@router.post("/jobs/{job_id}/restore/{version}", dependencies=APPRENTICE)
def restore(c: ChangeDep, version: int) -> Response:
    """Bring the job back to what it was after a step."""
    if not 0 < version <= c.bench.opened.version:
        raise HTTPException(404, "There is no such moment in this history.")
    try:
        history.restore(c.session, c.job_id, version, c.author)
    except (jobs.RefusedError, jobs.ConflictError) as error:
        c.session.rollback()
        raise HTTPException(409, f"This moment cannot be brought back: {c.reading.told(error.said)}") from None
    return _back(c, f"brought back to no. {version}")
