"""What the stations and their side rooms share: a registry of contexts, and the answer to a change on any of them."""

from collections.abc import Callable
from enum import StrEnum
from typing import Any

from fastapi import Request
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse

from clavis.core.wording.job_summary import Station
from clavis.core.wording.labels import field_word
from clavis.store import jobs
from clavis.web.shell.context import Bench, render

Context = Callable[[Bench], dict[str, Any]]
_CONTEXTS: dict[str, Context] = {}


class Room(StrEnum):
    """Where a change can be made: the eight stations, the guide beside Intake, the comparison beside Choose, special
    mounts beside Fit."""

    INTAKE = Station.INTAKE.value
    MEASURE = Station.MEASURE.value
    RIDE = Station.RIDE.value
    CHOOSE = Station.CHOOSE.value
    FIT = Station.FIT.value
    BUILD = Station.BUILD.value
    PROVE = Station.PROVE.value
    KEEP = Station.KEEP.value
    GUIDE = "guide"
    COMPARE = "compare"
    SPECIAL = "special"

    @property
    def folder(self) -> str:
        """Where its module and its templates stand: with the station it is beside."""
        return self.station.value

    @property
    def station(self) -> Station:
        """The station whose place in the way through a room takes."""
        beside = {Room.GUIDE: Station.INTAKE, Room.COMPARE: Station.CHOOSE, Room.SPECIAL: Station.FIT}
        return beside.get(self) or Station(self.value)


def station(name: str) -> Callable[[Context], Context]:
    """Mark a function as the one that gathers what a room's page shows."""

    def keep(function: Context) -> Context:
        _CONTEXTS[name] = function
        return function

    return keep


def context_of(name: str, b: Bench) -> dict[str, Any]:
    return _CONTEXTS[name](b)


def text_of(response: HTMLResponse) -> str:
    return bytes(response.body).decode()


def after_change(
    request: Request, session: Session, b: Bench, room: Room, page: str, base: int, more: dict[str, Any] | None = None
) -> str:
    """What follows a change on the page it was made on: head line, stations, the page's live part; and a word
    where somebody else changed the job since the page was opened. ``more`` adds to what the live part shows."""
    theirs = jobs.since(session, b.opened.id, base, page)
    others = ""
    if theirs:
        places = ", ".join(dict.fromkeys(field_word(row.path).lower() for row in theirs))
        who = " and ".join(dict.fromkeys(row.who for row in theirs))
        others = f"{who} changed {places} since this page was opened. Reload to see it."
    shared: dict[str, Any] = {"b": b, "station": room.station, "room": room, "page": page, "oob": True}
    head = render(request, b.reading, "job/_head.html", others=others, **shared)
    live = render(
        request, b.reading, f"{room.folder}/{room.value}_live.html", **shared, **context_of(room, b) | (more or {})
    )
    return text_of(head) + text_of(live)
