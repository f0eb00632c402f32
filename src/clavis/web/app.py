"""The application: settings, database, guards, and the rooms of the house put together."""

import gc
import os
import signal
import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib import import_module
from pathlib import Path
from types import FrameType
from typing import Any

from fastapi import FastAPI
from starlette.datastructures import MutableHeaders
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from clavis.instruments.line_ports import InstrumentPorts
from clavis.store import database
from clavis.web.accounts import accounts
from clavis.web.board import board, reader_choices
from clavis.web.board.row_keeper import RowKeeper
from clavis.web.build import build, papers, supply, work
from clavis.web.choose import candidates, choose, compare, moments, sizes, swap
from clavis.web.fit import fit, special
from clavis.web.intake import guide, intake
from clavis.web.job import copies, history, job, why
from clavis.web.keep import bikes, due, files, fittings, fleet, keep, persons
from clavis.web.kept import kept
from clavis.web.measure import measure
from clavis.web.parts import parts, quick, supplier
from clavis.web.prove import heat, instruments, logs, prove, runs
from clavis.web.ride import library, ride, ride_changes
from clavis.web.rules import rules
from clavis.web.shell.answer_cache import AnswerCache
from clavis.web.shell.door import Attempts, Door, SignedIn
from clavis.web.shell.errors import answer_errors
from clavis.web.shell.held_bytes import share_heaps
from clavis.web.shell.long_queue import LongQueue
from clavis.web.shell.long_work import ENDING
from clavis.web.shell.routes import HouseRoute
from clavis.web.shell.security import Guard
from clavis.web.shell.settings import Settings
from clavis.web.user_guide import user_guide

WEB = Path(__file__).parent
ROOMS = (
    *(board, reader_choices, parts, quick, supplier, rules, job, history, copies, why),
    *(intake, guide, measure),
    *(ride, ride_changes, library),
    *(choose, candidates, compare, moments, sizes, swap),
    *(fit, special, build, papers, supply, work, prove, runs, heat, instruments, logs),
    *(user_guide, kept, accounts),
    *(keep, bikes, fittings, due, files, persons, fleet),
)
"""every module that answers requests"""
SHIPPED = frozenset({".css", ".js", ".svg", ".woff2"})


class Assets(StaticFiles):
    """Styles, scripts, drawings and fonts, wherever in the house they stand; nothing else of it."""

    def lookup_path(self, path: str) -> tuple[str, os.stat_result | None]:
        return super().lookup_path(path) if Path(path).suffix in SHIPPED else ("", None)


class Afterwards:
    """Pure ASGI: how long an answer may be kept by who asked; after a change the rows are worked out anew."""

    def __init__(self, app: ASGIApp, rows: RowKeeper) -> None:
        self.app, self.rows = app, rows

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        path = scope["path"]
        policy = "no-store"  # the browser's Back fetches a job afresh, so that it never shows an older one
        if path.startswith("/static/"):
            policy = "public, max-age=86400" if path.startswith("/static/vendor/") else "no-cache"

        async def send_with_policy(part: Message) -> None:
            if part["type"] == "http.response.start":
                MutableHeaders(scope=part).setdefault("Cache-Control", policy)
            await send(part)

        try:
            await self.app(scope, receive, send_with_policy)
        finally:
            if scope["method"] != "GET":
                self.rows.wake()


def served() -> FastAPI:
    """The application as the command line serves it, with the settings of the environment. What start-up has made stays
    for good: it is not looked through for garbage again, which would hold up a page by a quarter of a second."""
    share_heaps()
    app = create_app()
    threading.Thread(target=import_module, args=("scipy.stats",), daemon=True).start()  # slow to load; Prove needs it
    gc.collect()
    gc.freeze()
    gc.enable()
    return app


def _end_work_at_once() -> None:
    """When the program is told to end, long work is given up at its next pause, before who serves it waits for it."""
    ENDING.clear()
    if threading.current_thread() is not threading.main_thread():
        return
    for sign in (signal.SIGTERM, signal.SIGINT):
        before = signal.getsignal(sign)

        def ends(number: int, frame: FrameType | None, before: Any = before) -> None:
            ENDING.set()
            if callable(before):
                before(number, frame)

        if callable(before) and before is not signal.default_int_handler:  # served: otherwise it ends as it always does
            signal.signal(sign, ends)


@asynccontextmanager
async def _beside_the_pages(app: FastAPI) -> AsyncIterator[None]:
    """What runs beside the pages while they are served."""
    _end_work_at_once()
    if app.state.settings.background:
        app.state.rows.start()
        app.state.answers.start()
    yield
    app.state.rows.stop()
    app.state.answers.stop()


def create_app(settings: Settings | None = None) -> FastAPI:
    """An application over the settings' database, migrated where needed."""
    settings = settings or Settings()
    app = FastAPI(title="Clavis", docs_url=None, redoc_url=None, openapi_url=None, lifespan=_beside_the_pages)
    app.state.settings = settings
    app.state.answers = AnswerCache()
    app.state.engine = database.open_engine(settings.database, app.state.answers.forget)
    app.state.sessions = database.sessions(app.state.engine)
    app.state.instruments = InstrumentPorts(settings.instruments)

    app.state.rows = RowKeeper(app.state)
    app.state.signed_in, app.state.attempts = SignedIn(app.state), Attempts()
    app.state.long_queue = LongQueue()

    answer_errors(app)
    for room in ROOMS:  # at the root, with nothing added: included, each would be worked out anew at its first requests
        app.router.routes.extend(room.router.routes)
    app.mount("/static", Assets(directory=WEB), name="static")
    app.state.open_routes = tuple(r for r in app.routes if isinstance(r, HouseRoute) and r.needs.least is None)
    app.add_middleware(Afterwards, rows=app.state.rows)
    app.add_middleware(Door, state=app.state)
    app.add_middleware(GZipMiddleware, minimum_size=2000)
    app.add_middleware(Guard, limit_bytes=settings.upload_limit_mb * 1_000_000)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.allowed_hosts)
    return app
