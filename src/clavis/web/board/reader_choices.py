"""What a reader chooses for this browser: name, units, keys of a single letter, the tour."""

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import Form, HTTPException, Request
from starlette.responses import RedirectResponse, Response

from clavis.core.units import System
from clavis.store.board import newest
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.readers import KEYS_COOKIE, TOUR_COOKIE, UNITS_COOKIE, WHO_COOKIE, ReaderDep, local
from clavis.web.shell.routes import ANYBODY, APPRENTICE
from clavis.web.shell.templates import render
from clavis.web.shell.tour_steps import TOUR, address_of_step

router = routes.router()
YEAR_S = 365 * 24 * 3600


@router.post("/who", dependencies=APPRENTICE)
def say_name(
    request: Request, name: Annotated[str, Form(min_length=1, max_length=40)], back: Annotated[str, Form()] = "/"
) -> Response:
    """Who is at the bench, where nobody signs in."""
    if request.app.state.settings.asks_for_sign_in:
        raise HTTPException(403, "The name is that of the account.")
    if not name.strip():
        raise HTTPException(422, "A name has at least one letter.")
    answer = RedirectResponse(local(back), 303)
    answer.set_cookie(WHO_COOKIE, quote(name.strip()), max_age=YEAR_S, samesite="strict")
    return answer


@router.post("/units", dependencies=APPRENTICE)
def choose_units(system: Annotated[System, Form()], back: Annotated[str, Form()] = "/") -> Response:
    answer = RedirectResponse(local(back), 303)
    answer.set_cookie(UNITS_COOKIE, system.value, max_age=YEAR_S, samesite="strict")
    return answer


@router.get("/keys", dependencies=APPRENTICE)
def keys(request: Request, reading: ReaderDep) -> Response:
    return render(request, reading, "shell/keys.html")


@router.post("/keys", dependencies=APPRENTICE)
def switch_keys(letters: Annotated[Literal["on", "off"], Form()]) -> Response:
    """Keys of a single letter on or off, in this browser."""
    answer = RedirectResponse("/keys", 303)
    answer.set_cookie(KEYS_COOKIE, letters, max_age=YEAR_S, samesite="strict")
    return answer


@router.post("/tour", dependencies=APPRENTICE)
def tour(
    session: SessionDep, step: Annotated[int, Form(ge=0, le=len(TOUR))],
    job: Annotated[int, Form(ge=0, le=2**31 - 1)] = 0,
) -> Response:  # fmt: skip
    """Go to a step of the tour, or out of it; in the job that is open, or the newest."""
    answer = RedirectResponse(address_of_step(step, job or newest(session)) if step else "/", 303)
    answer.set_cookie(TOUR_COOKIE, str(step), max_age=YEAR_S, samesite="strict")
    return answer


@router.get("/alive", dependencies=ANYBODY)
def alive() -> Response:
    """That Clavis answers, for pages that wait for it."""
    return Response("alive", media_type="text/plain", headers={"Cache-Control": "no-store"})
