"""Errors told in words: as a page, or as a piece where a piece was asked for. Nothing of a fault of ours is shown."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.responses import Response

from clavis.core.errors import ClavisError
from clavis.store import jobs
from clavis.web.shell.long_work import NoLongerAskedError
from clavis.web.shell.readers import reader
from clavis.web.shell.security import message
from clavis.web.shell.templates import render


def _error_page(request: Request, status: int, text: str) -> Response:
    if request.headers.get("hx-request") or request.method != "GET":
        return message(text, status)
    return render(request, reader(request), "shell/error.html", status, text=text, code=status)


async def _on_http(request: Request, error: Exception) -> Response:
    status = error.status_code if isinstance(error, HTTPException) else 500
    text = str(error.detail) if isinstance(error, HTTPException) else "Something went wrong here; nothing was saved."
    return _error_page(request, status, "There is no such page." if text == "Not Found" else text)


async def _on_invalid(request: Request, error: Exception) -> Response:
    fields = ", ".join(str(e["loc"][-1]) for e in error.errors()) if isinstance(error, RequestValidationError) else ""
    return _error_page(request, 422, f"The request does not make sense: {fields}.")


async def _on_refused(request: Request, error: Exception) -> Response:
    said = reader(request).told(error.said) if isinstance(error, ClavisError) else str(error)
    if isinstance(error, jobs.ConflictError):
        return _error_page(request, 409, f"{said}. Reload to see it; nothing was overwritten.")
    return _error_page(request, 404 if isinstance(error, jobs.NotThereError) else 422, said)


async def _on_no_longer_asked(_request: Request, _error: Exception) -> Response:
    return Response(status_code=204)  # the page that asked has gone on


def answer_errors(app: FastAPI) -> None:
    """Answer every error of this application in words."""
    app.add_exception_handler(HTTPException, _on_http)
    app.add_exception_handler(NoLongerAskedError, _on_no_longer_asked)
    app.add_exception_handler(ClavisError, _on_refused)
    app.add_exception_handler(Exception, _on_http)
    app.add_exception_handler(RequestValidationError, _on_invalid)
