"""What every request passes: size limit, same-origin check on every change, headers on every answer."""

import re
from html import escape

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import HTMLResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}
STRICT_TRANSPORT = "max-age=31536000"
"""once reached over TLS, a browser asks for these pages over nothing else for a year; other names of the domain are not
ours to tell of"""
_NO_ADDRESS = re.compile(r"[\x00-\x1f\x7f]|(?:^|/)-?\d{16,}(?:[/.]|$)")
"""control characters, and a number that no row of any table has, nor can have: no address of ours has either"""
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})


def message(text: str, status: int) -> Response:
    """An error as a small piece of page, so that it can stand where the request came from."""
    return HTMLResponse(f'<p class="problem" role="alert">{escape(text)}</p>', status)


def from_own_page(headers: Headers) -> bool:
    """True where the browser says that the request comes from one of our own pages.

    A request that says nothing at all about its origin is not trusted either.
    """
    site = headers.get("sec-fetch-site")
    if site is not None:
        return site == "same-origin"
    origin = headers.get("origin")
    return origin is not None and origin.split("://", 1)[-1] == headers.get("host", "")


class Guard:
    """Pure ASGI: refuses foreign changes and oversized bodies, adds the security headers."""

    def __init__(self, app: ASGIApp, limit_bytes: int) -> None:
        self.app, self.limit = app, limit_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if _NO_ADDRESS.search(scope["path"]):
            await message("There is no such page.", 404)(scope, receive, send)
            return

        async def send_with_headers(part: Message) -> None:
            if part["type"] == "http.response.start":
                out = MutableHeaders(scope=part)
                for name, value in HEADERS.items():
                    out.setdefault(name, value)
                if scope.get("scheme") == "https":
                    out.setdefault("Strict-Transport-Security", STRICT_TRANSPORT)
            await send(part)

        if scope["method"] not in SAFE_METHODS:
            if not from_own_page(headers):
                await message("This change does not come from one of Clavis's own pages; refused.", 403)(
                    scope, receive, send_with_headers
                )
                return
            body = await self._body(receive)
            if body is None:
                text = f"The file is larger than {self.limit // 1_000_000} MB; nothing was saved. Cut it first."
                await message(text, 413)(scope, receive, send_with_headers)
                return
            sent = False

            async def replay() -> Message:
                nonlocal sent
                if sent:
                    return await receive()
                sent = True
                return {"type": "http.request", "body": body, "more_body": False}

            await self.app(scope, replay, send_with_headers)
            return
        # what only looks whether a page is there is told what reading it would be; the server leaves the body out
        read = {**scope, "method": "GET"} if scope["method"] == "HEAD" else scope
        await self.app(read, receive, send_with_headers)

    async def _body(self, receive: Receive) -> bytes | None:
        """The whole body, or None when it is too large; read to its end either way, so that the browser hears
        the answer instead of a broken connection."""
        chunks: list[bytes] = []
        size = 0
        while True:
            part = await receive()
            if part["type"] == "http.disconnect":
                return b""
            chunk = part.get("body", b"")
            size += len(chunk)
            if size <= self.limit:
                chunks.append(chunk)
            else:
                chunks.clear()
            if not part.get("more_body", False):
                return b"".join(chunks) if size <= self.limit else None
