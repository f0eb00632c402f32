"""The queue of long work: so many pieces of it are worked out at a time, so many wait, and whoever comes after is told
when to ask again. Pages and changes do not stand in it, so that a person who types never waits for those who rank."""

import asyncio
from html import escape

from starlette.datastructures import Headers
from starlette.responses import HTMLResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from clavis.web.shell.long_work import reader_is_there
from clavis.web.shell.security import message

AT_A_TIME = 2
"""more would only share the same machine"""
MOST_WAITING = 200
MOST_WAIT_S = 50.0
"""a browser has six connections: those that wait are not there for what its reader types, and a proxy gives up after a
minute"""
AGAIN_S = 5


def busy(path: str, query: str, *, piece: bool) -> Response:
    """What is said to who cannot wait here: a piece of a page asks again by itself."""
    address = escape(f"{path}?{query}" if query else path)
    again, words = "", f"Ask again in {AGAIN_S} s."
    if piece:
        again = f'hx-get="{address}" hx-trigger="load delay:{AGAIN_S}s" hx-target="this" hx-swap="outerHTML"'
        words = f"This one is asked again in {AGAIN_S} s."
    words = f"Clavis is busy with many questions. {words}"
    return HTMLResponse(f'<p class="sub" role="status" {again}>{words}</p>', 503, {"Retry-After": str(AGAIN_S)})


class LongQueue:
    """Holds long work back while enough of it is under way, and lets go what nobody waits for any more."""

    def __init__(self) -> None:
        self.waiting = 0
        self._places: asyncio.Semaphore | None = None
        self._of: asyncio.AbstractEventLoop | None = None

    def places(self) -> asyncio.Semaphore:
        """Of the loop that runs: a program under test has several, one after the other."""
        loop = asyncio.get_running_loop()
        if self._places is None or self._of is not loop:
            self._places, self._of, self.waiting = asyncio.Semaphore(AT_A_TIME), loop, 0
        return self._places

    async def answer(self, app: ASGIApp, scope: Scope, receive: Receive, send: Send) -> None:
        """Let ``app`` answer one question when its turn has come."""
        places = self.places()
        if places.locked() and self.waiting >= MOST_WAITING:
            await _later(scope, receive, send)
            return
        first = await receive()  # the request itself; its body, where it has one, came whole
        gone = asyncio.ensure_future(_gone(receive))
        turn = asyncio.ensure_future(places.acquire())
        self.waiting += 1
        try:
            try:
                await asyncio.wait((turn, gone), timeout=MOST_WAIT_S, return_when=asyncio.FIRST_COMPLETED)
            finally:
                self.waiting -= 1
            if turn.done():
                await self._answered(app, scope, first, gone, send)
            elif not gone.done():  # else the reader has gone, and nothing is worked out
                await _later(scope, receive, send)
        finally:
            gone.cancel()
            if not turn.done():
                turn.cancel()
            elif not turn.cancelled():
                places.release()

    async def _answered(
        self, app: ASGIApp, scope: Scope, first: Message, gone: "asyncio.Future[None]", send: Send
    ) -> None:
        sent = False

        async def replay() -> Message:
            nonlocal sent
            if not sent:
                sent = True
                return first
            await asyncio.shield(gone)
            return {"type": "http.disconnect"}

        with reader_is_there() as left:
            gone.add_done_callback(lambda _: left.set())
            await app(scope, replay, send)


async def _later(scope: Scope, receive: Receive, send: Send) -> None:
    if scope["method"] != "GET":
        text = f"Clavis is busy with many questions: nothing was kept. Try again in {AGAIN_S} s."
        await message(text, 503)(scope, receive, send)
        return
    piece = bool(Headers(scope=scope).get("hx-request"))
    await busy(scope["path"], scope["query_string"].decode("latin-1"), piece=piece)(scope, receive, send)


async def _gone(receive: Receive) -> None:
    """Ends when the reader has gone."""
    while (await receive())["type"] != "http.disconnect":
        pass
