"""Errors told in words: as a page, or as a piece where a piece was asked for. Nothing of a fault of ours is shown."""

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from sqlalchemy.exc import DatabaseError
from starlette.exceptions import HTTPException
from starlette.responses import RedirectResponse, Response

from clavis.core.errors import ClavisError
from clavis.store import jobs
from clavis.store.database import DatabaseTroubleError, trouble_of
from clavis.store.rescue import Sort
from clavis.web.shell.long_work import NoLongerAskedError
from clavis.web.shell.readers import reader
from clavis.web.shell.security import message
from clavis.web.shell.templates import render

log = logging.getLogger("clavis.pages")
AGAIN_S = 3
"""after so long the same may be asked again of a database that was busy"""


def _asks_for_piece(request: Request) -> bool:
    """Whether a script asked, and not who opens a page or sends a whole form."""
    whole = request.method == "GET" or "text/html" in request.headers.get("accept", "")
    return bool(request.headers.get("hx-request")) or not whole


HEADLINES = {
    401: "Sign in first", 403: "Not allowed", 404: "Not there", 409: "Not as it stands", 413: "Too large",
    422: "Not understood", 429: "Too often", 500: "A fault of ours", 503: "Not just now",
}  # fmt: skip
"""what an error page says first, by the number that browsers read"""


def error_page(request: Request, status: int, text: str) -> Response:
    if _asks_for_piece(request):
        return message(text, status)
    return render(
        request,
        reader(request),
        "shell/error.html",
        status,
        text=text,
        headline=HEADLINES.get(status, "It did not work"),
    )


def was_kept(request: Request) -> bool:
    """Whether what the request sent was kept before anything went wrong."""
    session = getattr(request.state, "session", None)
    return session is not None and bool(session.info.get("kept"))


async def _on_http(request: Request, error: Exception) -> Response:
    status = error.status_code if isinstance(error, HTTPException) else 500
    if isinstance(error, HTTPException):
        text = str(error.detail)
    elif was_kept(request):
        text = "What you entered is kept, but the page that shows it could not be made. Reload it."
    else:
        text = "Something went wrong here; nothing was changed."
    return error_page(request, status, "There is no such page." if text == "Not Found" else text)


async def _on_invalid(request: Request, error: Exception) -> Response:
    fields = ", ".join(str(e["loc"][-1]) for e in error.errors()) if isinstance(error, RequestValidationError) else ""
    return error_page(request, 422, f"The request does not make sense: {fields}.")


async def _on_refused(request: Request, error: Exception) -> Response:
    said = reader(request).told(error.said) if isinstance(error, ClavisError) else str(error)
    if isinstance(error, jobs.ConflictError):
        return error_page(request, 409, f"{said}. Reload to see it; nothing was overwritten.")
    return error_page(request, 404 if isinstance(error, jobs.NotThereError) else 422, said)


async def _on_unreadable(request: Request, error: Exception) -> Response:
    """The page that shows it as it lies there; a piece says why."""
    assert isinstance(error, jobs.UnreadableError)
    if _asks_for_piece(request) or error.sort not in set(Sort):
        kept = "What you entered is kept. " if was_kept(request) else ""
        return error_page(request, 409, f"{kept}{reader(request).told(error.said)}")
    computed = "?computed=no" if isinstance(error, jobs.UncomputableError) else ""
    return RedirectResponse(f"/kept/{error.sort}/{error.ref}{computed}", 303)


async def _on_database(request: Request, error: Exception) -> Response:
    trouble = trouble_of(error)
    if trouble is None:
        log.exception("a fault of ours", exc_info=error)
        return await _on_http(request, error)
    log.error("%s", trouble)
    text = str(trouble)
    answer = error_page(request, 503, f"{text[:1].upper()}{text[1:]}.")
    if trouble.passing:
        answer.headers["Retry-After"] = str(AGAIN_S)
    return answer


async def _on_no_longer_asked(_request: Request, _error: Exception) -> Response:
    return Response(status_code=204)  # the page that asked has gone on


def answer_errors(app: FastAPI) -> None:
    """Answer every error of this application in words."""
    app.add_exception_handler(HTTPException, _on_http)
    app.add_exception_handler(NoLongerAskedError, _on_no_longer_asked)
    app.add_exception_handler(jobs.UnreadableError, _on_unreadable)
    app.add_exception_handler(DatabaseTroubleError, _on_database)
    app.add_exception_handler(DatabaseError, _on_database)
    app.add_exception_handler(ClavisError, _on_refused)
    app.add_exception_handler(Exception, _on_http)
    app.add_exception_handler(RequestValidationError, _on_invalid)
