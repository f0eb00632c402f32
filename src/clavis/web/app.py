"""The application: settings, database, guards, and the rooms of the house put together."""

import os
from collections.abc import Awaitable, Callable
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import Response
from starlette.staticfiles import StaticFiles

from clavis.core.errors import ClavisError
from clavis.store import database, jobs
from clavis.web.board import board
from clavis.web.build import build
from clavis.web.choose import candidates, choose, compare, swap
from clavis.web.fit import fit, special
from clavis.web.intake import guide
from clavis.web.job import job, why
from clavis.web.measure import measure
from clavis.web.parts import parts
from clavis.web.ride import library, ride, ride_changes
from clavis.web.rules import rules
from clavis.web.shell.answers import Answers
from clavis.web.shell.long_work import NoLongerAskedError
from clavis.web.shell.readers import reader
from clavis.web.shell.security import Guard, message
from clavis.web.shell.settings import Settings
from clavis.web.shell.templates import render

WEB = Path(__file__).parent
SHIPPED = frozenset({".css", ".js", ".svg", ".woff2"})


class Assets(StaticFiles):
    """Styles, scripts, drawings and fonts, wherever in the house they stand; nothing else of it."""

    def lookup_path(self, path: str) -> tuple[str, os.stat_result | None]:
        return super().lookup_path(path) if Path(path).suffix in SHIPPED else ("", None)


def _error_page(request: Request, status: int, text: str) -> Response:
    if request.headers.get("hx-request") or request.method != "GET":
        return message(text, status)
    return render(request, reader(request), "shell/error.html", status, text=text, code=status)


def create_app(settings: Settings | None = None) -> FastAPI:
    """An application over the settings' database, migrated where needed."""
    settings = settings or Settings()
    app = FastAPI(title="Clavis", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.settings = settings
    app.state.engine = database.open_engine(settings.database)
    app.state.sessions = database.sessions(app.state.engine)
    app.state.answers = Answers()

    async def on_http(request: Request, error: Exception) -> Response:
        status = error.status_code if isinstance(error, HTTPException) else 500
        text = str(error.detail) if isinstance(error, HTTPException) else "Something went wrong here; nothing was kept."
        return _error_page(request, status, "There is no such page." if text == "Not Found" else text)

    async def on_invalid(request: Request, error: Exception) -> Response:
        fields = (
            ", ".join(str(e["loc"][-1]) for e in error.errors()) if isinstance(error, RequestValidationError) else ""
        )
        return _error_page(request, 422, f"The request does not make sense: {fields}.")

    async def on_refused(request: Request, error: Exception) -> Response:
        said = reader(request).told(error.said) if isinstance(error, ClavisError) else str(error)
        if isinstance(error, jobs.ConflictError):
            return _error_page(request, 409, f"{said}. Reload to see it; nothing was overwritten.")
        return _error_page(request, 404 if isinstance(error, jobs.NotThereError) else 422, said)

    app.add_exception_handler(HTTPException, on_http)

    async def on_no_longer_asked(_request: Request, _error: Exception) -> Response:
        return Response(status_code=204)  # the page that asked has gone on

    app.add_exception_handler(NoLongerAskedError, on_no_longer_asked)
    app.add_exception_handler(ClavisError, on_refused)
    app.add_exception_handler(Exception, on_http)
    app.add_exception_handler(RequestValidationError, on_invalid)

    @app.middleware("http")
    async def cache_policy(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        with app.state.answers.courtesy.answering(request.method, request.url.path):
            response = await call_next(request)
        path = request.url.path
        policy = "no-store"  # the browser's Back fetches a job afresh, so that it never shows an older one
        if path.startswith("/static/"):
            policy = "public, max-age=86400" if path.startswith("/static/vendor/") else "no-cache"
        response.headers.setdefault("Cache-Control", policy)
        return response

    rooms = [board, parts, rules, why, guide, measure, library, ride_changes, ride, compare, candidates, swap, choose]
    for room in [*rooms, fit, special, build, job]:
        app.include_router(room.router)
    app.mount("/static", Assets(directory=WEB), name="static")
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    app.add_middleware(Guard, limit_bytes=settings.upload_limit_mb * 1_000_000)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.allowed_hosts)
    return app
