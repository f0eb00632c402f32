"""What the eight stations share: a registry of their contexts, and the answer to a change on any of them."""

from collections.abc import Callable
from typing import Any

from fastapi import Request
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse

from clavis.core.headline import Station
from clavis.core.words import field_word
from clavis.store import door
from clavis.web.context import Bench, render

Context = Callable[[Bench], dict[str, Any]]
_CONTEXTS: dict[Station, Context] = {}


def station(name: Station) -> Callable[[Context], Context]:
    """Mark a function as the one that gathers what a station's page shows."""

    def keep(function: Context) -> Context:
        _CONTEXTS[name] = function
        return function

    return keep


def context_of(name: Station, b: Bench) -> dict[str, Any]:
    return _CONTEXTS[name](b)


def text_of(response: HTMLResponse) -> str:
    return bytes(response.body).decode()


def after_change(request: Request, session: Session, b: Bench, name: Station, page: str, base: int) -> str:
    """What follows a change on the page it was made on: head line, stations, the page's live part; and a word
    where somebody else changed the job since the page was opened."""
    theirs = door.since(session, b.opened.id, base, page)
    others = ""
    if theirs:
        places = ", ".join(dict.fromkeys(field_word(row.path).lower() for row in theirs))
        who = " and ".join(dict.fromkeys(row.who for row in theirs))
        others = f"{who} changed {places} since this page was opened. Reload to see it."
    shared: dict[str, Any] = {"b": b, "station": name, "page": page, "oob": True}
    head = render(request, b.reading, "_head.html", others=others, **shared)
    live = render(request, b.reading, f"{name.value}_live.html", **shared, **context_of(name, b))
    return text_of(head) + text_of(live)
