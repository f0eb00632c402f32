"""The door: where sign-in is asked for, nothing but the sign-in page is answered to who has not signed in, and what is
for a mechanic or the owner alone is refused to others. On the machine itself nobody is asked."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from threading import Lock
from time import monotonic
from urllib.parse import quote

from anyio import to_thread
from cachetools import LRUCache
from fastapi import Request
from starlette.datastructures import Headers, State
from starlette.responses import RedirectResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from clavis.store import accounts, jobs
from clavis.store.accounts import Account, Role
from clavis.web.shell.errors import error_page
from clavis.web.shell.security import SAFE_METHODS, message

SESSION_COOKIE = "clavis_session"
OPEN = re.compile(r"^/(sign-in$|static/|alive$|calendar/[^/]+\.ics$)")
"""what is answered to everybody; a calendar's feed to who knows its name"""
REMEMBERED_S = 5.0
MOST_REMEMBERED = 500


@dataclass(frozen=True)
class Rule:
    """What is for some roles alone: changes at these addresses, or with ``reads`` pages as well."""

    address: re.Pattern[str]
    least: Role
    words: str
    reads: bool = False


RULES: tuple[Rule, ...] = (
    Rule(re.compile(r"^/accounts(/|$)"), Role.OWNER, "the owner keeps the accounts", reads=True),
    Rule(re.compile(r"^/(jobs|bikes|people)/\d+/erase$"), Role.OWNER, "the owner erases"),
    Rule(re.compile(r"^/jobs/\d+/sign-off(/back)?$"), Role.MECHANIC, "a mechanic signs off, and takes a sign-off back"),
    Rule(re.compile(r"^/jobs/\d+/special/\w+/release$"), Role.MECHANIC, "a mechanic enters an engineer’s release"),
    Rule(re.compile(r"^/jobs/\d+/supply/order$"), Role.MECHANIC, "a mechanic orders"),
    Rule(re.compile(r"^/jobs/\d+/calibration"), Role.MECHANIC, "a mechanic accepts a calibration"),
    Rule(re.compile(r"^/jobs/\d+/answer/"), Role.MECHANIC, "a mechanic answers for an open point"),
    Rule(re.compile(r"^/parts/(take|columns/take|standard-shelf|line)"), Role.MECHANIC, "a mechanic keeps the parts"),
    Rule(re.compile(r"^/(rules/terms|calendar)$"), Role.MECHANIC, "a mechanic changes the workshop’s settings"),
    Rule(re.compile(r"^/kept/"), Role.MECHANIC, "a mechanic brings back what cannot be read"),
)  # fmt: skip
"""a new row is a new rule; what no row names everybody may who has signed in"""


def rule_of(method: str, path: str) -> Rule | None:
    """The rule for a request; None where everybody may."""
    changes = method not in SAFE_METHODS
    return next((rule for rule in RULES if rule.address.match(path) and (changes or rule.reads)), None)


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
        path, method = scope["path"], scope["method"]
        if account is None and not OPEN.match(path):
            await _turned_away(scope, receive, send)
            return
        rule = rule_of(method, path)
        if rule is not None and account is not None and not account.may(rule.least):
            refused = error_page(Request(scope), 403, f"Not with this account: {rule.words}.")
            await refused(scope, receive, send)
            return
        await self.app(scope, receive, send)


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
MOST_WATCHED = 10_000


class Attempts:
    """Wrong passwords by name and by address: after some, each further one has to wait twice as long."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._wrong: LRUCache[str, tuple[int, float]] = LRUCache(MOST_WATCHED)

    def waits_s(self, *keys: str) -> float:
        """How long before the next attempt under any of these keys."""
        with self._lock:
            until = max((self._wrong.get(key, (0, 0.0))[1] for key in keys), default=0.0)
        return max(until - monotonic(), 0.0)

    def wrong(self, *keys: str) -> None:
        with self._lock:
            for key in keys:
                count = self._wrong.get(key, (0, 0.0))[0] + 1
                wait = min(FIRST_WAIT_S * 2.0 ** (count - FREE_TRIES), LONGEST_WAIT_S) if count >= FREE_TRIES else 0.0
                self._wrong[key] = (count, monotonic() + wait)

    def right(self, *keys: str) -> None:
        with self._lock:
            for key in keys:
                self._wrong.pop(key, None)
