"""Signing in and out, and the owner's page of accounts."""

from typing import Annotated

from fastapi import Form, Request
from starlette.responses import RedirectResponse, Response

from clavis.store import accounts, jobs
from clavis.store.accounts import Role, folded
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.door import (
    DEVICE_COOKIE,
    LONGEST_AT_HOME_S,
    LONGEST_WAIT_S,
    SESSION_COOKIE,
    Attempts,
    SignedIn,
)
from clavis.web.shell.readers import AuthorDep, ReaderDep, local
from clavis.web.shell.routes import ANYBODY, APPRENTICE, owner
from clavis.web.shell.templates import render

router = routes.router()
Name = Annotated[str, Form(max_length=80)]
Password = Annotated[str, Form(max_length=400)]


@router.get("/sign-in", dependencies=ANYBODY)
def sign_in_page(request: Request, reading: ReaderDep, back: str = "/") -> Response:
    if not request.app.state.settings.asks_for_sign_in:
        return RedirectResponse("/", 303)
    return render(request, reading, "accounts/sign_in.html", back=local(back), problem="", name="")


@router.post("/sign-in", dependencies=ANYBODY)
def sign_in(
    request: Request, session: SessionDep, reading: ReaderDep, name: Name = "", password: Password = "",
    back: Annotated[str, Form(max_length=500)] = "/",
) -> Response:  # fmt: skip
    """In with a name and its password; which of the two is wrong is not said."""
    if not request.app.state.settings.asks_for_sign_in:
        return RedirectResponse("/", 303)
    attempts: Attempts = request.app.state.attempts
    device = request.cookies.get(DEVICE_COOKIE, "")[:100]
    at_home, of_account = accounts.knows_device(session, name, device), f"account {folded(name)}"
    address = f"from {request.client.host if request.client else ''}"
    keys = [f"{of_account} at {device}"] if at_home else [of_account, address]
    longest_s = LONGEST_AT_HOME_S if at_home else LONGEST_WAIT_S
    waits_s = attempts.begin(*keys, longest_s=longest_s)
    account = None if waits_s else accounts.checked(session, name, password)
    if account is None:
        problem = "Name and password do not go together."
        if waits_s:
            problem = f"Too many wrong passwords. The next attempt is possible in {waits_s + 1:.0f} s."
        status = 429 if waits_s else 401
        answer: Response = render(
            request, reading, "accounts/sign_in.html", status, back=local(back), problem=problem, name=name[:40]
        )
        if waits_s:
            answer.headers["Retry-After"] = f"{waits_s + 1:.0f}"
        return answer
    attempts.right(*keys)
    answer = RedirectResponse(local(back), 303)
    for cookie, token, lasts in (
        (SESSION_COOKIE, accounts.begin_session(session, account), accounts.SESSION),
        (DEVICE_COOKIE, accounts.remember_device(session, account, device), accounts.DEVICE),
    ):
        answer.set_cookie(
            cookie, token, max_age=int(lasts.total_seconds()), httponly=True, samesite="strict",
            secure=request.url.scheme == "https",
        )  # fmt: skip
    return answer


@router.post("/sign-out", dependencies=APPRENTICE)
def sign_out(request: Request, session: SessionDep) -> Response:
    token = request.cookies.get(SESSION_COOKIE, "")
    if token:
        accounts.end_session(session, token)
        _forget(request)
    answer = RedirectResponse("/sign-in", 303)
    answer.delete_cookie(SESSION_COOKIE, httponly=True, samesite="strict")
    return answer


def _forget(request: Request) -> None:
    signed_in: SignedIn = request.app.state.signed_in
    signed_in.forget()


@router.get("/accounts", dependencies=owner("the owner keeps the accounts"))
def listed(request: Request, session: SessionDep, reading: ReaderDep) -> Response:
    return _page(request, session, reading, "", 200)


def _page(request: Request, session: SessionDep, reading: ReaderDep, problem: str, status: int) -> Response:
    return render(
        request, reading, "accounts/accounts.html", status, accounts=accounts.every(session), roles=accounts.ROLES,
        may=accounts.MAY, least=accounts.LEAST_LETTERS, problem=problem,
    )  # fmt: skip


@router.post("/accounts", dependencies=owner("the owner keeps the accounts"))
def add(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, name: Name, password: Password,
    role: Annotated[Role, Form()],
) -> Response:  # fmt: skip
    try:
        accounts.add(session, name, password, role, author.who)
    except jobs.RefusedError as error:
        return _page(request, session, reading, reading.told(error.said), 422)
    return RedirectResponse("/accounts", 303)


@router.post("/accounts/{account_id}", dependencies=owner("the owner keeps the accounts"))
def change(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, account_id: int,
    role: Annotated[Role | None, Form()] = None, active: Annotated[bool | None, Form()] = None, password: Password = "",
) -> Response:  # fmt: skip
    """Another role, another password, off or on; who is signed in with it signs in again."""
    try:
        accounts.change(session, account_id, author.who, role=role, active=active, password=password or None)
    except jobs.RefusedError as error:
        return _page(request, session, reading, reading.told(error.said), 422)
    _forget(request)
    return RedirectResponse("/accounts", 303)
