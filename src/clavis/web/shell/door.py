"""The door: where sign-in is asked for, nothing but the sign-in page is answered to who has not signed in. What each
role may is said at the routes (routes.py). On the machine itself nobody is asked."""

from collections.abc import Mapping
from dataclasses import dataclass
from threading import Lock
from time import monotonic
from urllib.parse import quote

from anyio import to_thread
from cachetools import LRUCache
from starlette.datastructures import Headers, State
from starlette.responses import RedirectResponse
from starlette.routing import Match
from starlette.types import ASGIApp, Receive, Scope, Send

from clavis.store import accounts, jobs
from clavis.store.accounts import Account
from clavis.web.shell.security import message

SESSION_COOKIE, DEVICE_COOKIE = "clavis_session", "clavis_device"
REMEMBERED_S = 5.0
MOST_REMEMBERED = 500


class SignedIn:
    """Whose session a token is, remembered for some seconds: a page asks for many things at once."""

    def __init__(self, state: State) -> None:
        self._state = state
        self._lock = Lock()
        self._known: LRUCache[str, tuple[float, Account | None]] = LRUCache(MOST_REMEMBERED)

    def account(self, token: str) -> Account | None:
        with self._lock:
            known = self._known.get(token)
        if known is not None and known[0] > monotonic():
            return known[1]
        with self._state.sessions() as session:
            found = accounts.of_token(session, token, jobs.now())
        with self._lock:
            self._known[token] = (monotonic() + REMEMBERED_S, found)
        return found

    def forget(self) -> None:
        """An account or a session is another now."""
        with self._lock:
            self._known.clear()


class Door:
    """Pure ASGI, inside the guard against foreign pages."""

    def __init__(self, app: ASGIApp, state: State) -> None:
        self.app, self.state = app, state

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not self.state.settings.asks_for_sign_in:
            await self.app(scope, receive, send)
            return
        token = _cookies(Headers(scope=scope)).get(SESSION_COOKIE, "")
        signed_in: SignedIn = self.state.signed_in
        account = await to_thread.run_sync(signed_in.account, token) if 20 < len(token) < 100 else None
        scope.setdefault("state", {})["account"] = account
        if account is None and not self._open(scope):
            await _turned_away(scope, receive, send)
            return
        await self.app(scope, receive, send)

    def _open(self, scope: Scope) -> bool:
        """What is answered to everybody: assets, and the routes that say so of themselves."""
        of_everybody = self.state.open_routes
        return scope["path"].startswith("/static/") or any(r.matches(scope)[0] is Match.FULL for r in of_everybody)


async def _turned_away(scope: Scope, receive: Receive, send: Send) -> None:
    headers = Headers(scope=scope)
    if scope["method"] == "GET" and not headers.get("hx-request"):
        back = quote(scope["path"] + (f"?{scope['query_string'].decode('latin-1')}" if scope["query_string"] else ""))
        await RedirectResponse(f"/sign-in?back={back}", 303)(scope, receive, send)
        return
    text = "You are signed out: nothing was changed. Sign in again in another tab, then press it once more."
    await message(text, 401)(scope, receive, send)


def _cookies(headers: Headers) -> Mapping[str, str]:
    pairs = (part.strip().partition("=") for part in headers.get("cookie", "").split(";"))
    return {name: value for name, _, value in pairs}


FREE_TRIES = 5
"""wrong passwords in a row before anybody has to wait"""
FIRST_WAIT_S, LONGEST_WAIT_S = 15.0, 900.0
LONGEST_AT_HOME_S = 60.0
"""in a browser that is known: its right password is never locked out"""
FORGOTTEN_S = 3600.0
"""after so long without another, wrong passwords are forgotten"""
MOST_WATCHED = 10_000


@dataclass
class _Wrong:
    count: int
    until: float


class Attempts:
    """Wrong passwords by account and by address apart: after some, each further one under that key has to wait twice as
    long. What is tried for one account hinders nobody who tries another from elsewhere."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._wrong: LRUCache[str, _Wrong] = LRUCache(MOST_WATCHED)

    def _found(self, key: str) -> _Wrong:
        found = self._wrong.get(key)
        return found if found is not None and monotonic() < found.until + FORGOTTEN_S else _Wrong(0, 0.0)

    def begin(self, *keys: str, longest_s: float = LONGEST_WAIT_S) -> float:
        """Count an attempt as wrong until it is known to be right, so that of many at the same instant none is free; or
        how long before it may be made, and then it is none."""
        with self._lock:
            wait_s = max(max(self._found(key).until for key in keys) - monotonic(), 0.0)
            if wait_s:
                return wait_s
            for key in keys:
                count = self._found(key).count + 1
                over = count - FREE_TRIES
                wait = min(FIRST_WAIT_S * 2.0 ** min(over, 20), longest_s) if over >= 0 else 0.0
                self._wrong[key] = _Wrong(count, monotonic() + wait)
        return 0.0

    def right(self, account: str, *others: str) -> None:
        """It was right: the account's are forgotten, and under other keys it is one less. Who knows one password does
        not wipe out what was tried for others."""
        with self._lock:
            self._wrong.pop(account, None)
            for key in others:
                count = self._found(key).count - 1
                self._wrong[key] = _Wrong(max(count, 0), monotonic())
