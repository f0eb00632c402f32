"""A visit to a job: who comes, in which units, and the job on the bench; and a change that is made there.

Every route of a job takes one of the two, and nothing else of the request.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, HTTPException, Request
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse, Response

from clavis.core.entries import LARGEST
from clavis.core.parts.mounts import End
from clavis.core.sentences import NOTHING, Words
from clavis.core.units import System
from clavis.core.wording.labels import field_word
from clavis.store import jobs
from clavis.web.shell.bench import Bench, SessionDep, bench, bench_of
from clavis.web.shell.readers import SAID_COOKIE, AuthorDep, Reader, ReaderDep
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.stations import Gather, context_of, gathers, new_page
from clavis.web.shell.templates import render, text_of


@dataclass(frozen=True)
class Visit:
    """One request to one job."""

    request: Request
    session: Session
    reading: Reader
    bench: Bench

    @property
    def system(self) -> System:
        return self.reading.system

    @property
    def job_id(self) -> int:
        return self.bench.opened.id

    def piece(self, template: str, status: int = 200, **more: Any) -> HTMLResponse:
        """A piece of a page about this job."""
        return render(self.request, self.reading, template, status, **{"b": self.bench, **more})

    def page(self, room: Room | None, template: str, **more: Any) -> HTMLResponse:
        """The whole page of a room, or of none of them."""
        station = room.station if room else None
        said = self.reading.said
        answer = self.piece(
            template, station=station, room=room or "", page=new_page(), others="", said_once=said, oob=False, **more
        )
        if said:
            answer.delete_cookie(SAID_COOKIE, samesite="strict", httponly=True)
        return answer

    def station(self, station: Station, lane: str, gathered: dict[str, Any]) -> HTMLResponse:
        """The whole page of a station; ``lane`` is the wheel shown where only one has room."""
        lane = lane if lane in {e.value for e in End} else End.FRONT.value
        return self.page(Room(station.value), f"{station.value}/{station.value}.html", lane=lane, **gathered)

    def refused(self, status: int, words: Words) -> HTTPException:
        """A refusal in the reader's units, to be raised."""
        return HTTPException(status, self.reading.told(words))

    def gone_to(self, address: str) -> Response:
        """The browser goes to another page of this job."""
        return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{self.job_id}/{address}"})


def visit(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Visit:
    return Visit(request, session, reading, bench(request, session, reading, job_id))


VisitDep = Annotated[Visit, Depends(visit)]


def station_page(router: APIRouter, station: Station, fields: tuple[str, ...] = ()) -> Callable[[Gather], Gather]:
    """Mark a function as the one that gathers what a station's page shows, and serve that page."""

    def serve(gather: Gather) -> Gather:
        @router.get(f"/jobs/{{job_id}}/{station.value}", dependencies=APPRENTICE)
        def page(v: VisitDep, lane: str = "") -> Response:
            return v.station(station, lane, gather(v.bench))

        return gathers(station.value, fields)(gather)

    return serve


@dataclass(frozen=True)
class Change(Visit):
    """A request that changes a job: by whom, from which opened page, and which version that page showed."""

    author: jobs.Author
    base: int

    def keep(self, path: str, value: Any, beside: Mapping[str, Any] | None = None, typed: str | None = None) -> Bench:
        """Keep one value on top of what the page showed, as it was ``typed`` where that is shown again; the job as it
        is then. Raises RefusedError, ConflictError."""
        return self._kept(self.base, path, value, beside, typed)

    def keep_newest(self, path: str, value: Any) -> Bench:
        """The same on top of the job as it is now, where the change does not rest on what the page showed."""
        return self._kept(self.bench.opened.version, path, value, None, None)

    def _kept(self, version: int, path: str, value: Any, beside: Mapping[str, Any] | None, typed: str | None) -> Bench:
        also = jobs.Also(typed=typed)
        opened = jobs.change(self.session, self.job_id, version, self.author, path, value, beside, also)
        return bench_of(self.request, self.session, self.reading, opened)

    def followed(self, now: Bench, room: Room, more: dict[str, Any] | None = None, said: Words = NOTHING) -> str:
        """What follows a change on the page it was made on: head line, stations, the page's live part; and a word where
        somebody else changed the job since the page was opened. ``more`` adds to what the live part shows."""
        theirs = jobs.since(self.session, now.opened.id, self.base, self.author.page)
        others = ""
        if theirs:
            places = ", ".join(dict.fromkeys(field_word(row.path).lower() for row in theirs))
            who = " and ".join(dict.fromkeys(row.who for row in theirs))
            others = f"{who} changed {places} since this page was opened. Reload to see it."
        shared: dict[str, Any] = {
            "b": now,
            "station": room.station,
            "room": room,
            "page": self.author.page,
            "oob": True,
        }
        head = render(self.request, self.reading, "job/_head.html", others=others, said_once=said, **shared)
        template = f"{room.folder}/{room.value}_live.html"
        live = render(self.request, self.reading, template, **shared, **context_of(room, now) | (more or {}))
        return text_of(head) + text_of(live)

    def answered(
        self, now: Bench, room: Room, more: dict[str, Any] | None = None, said: Words = NOTHING
    ) -> HTMLResponse:
        """What follows a change; ``said`` is a word about it that stands over the page until the next one."""
        return HTMLResponse(self.followed(now, room, more, said))

    def field(self, now: Bench, path: str, *, oob: bool, bare: bool = False) -> str:
        """One field of the job anew."""
        return text_of(self.piece("shell/_field.html", view=now.field(path), b=now, bare=bare, field_oob=oob))

    def or_refused(self, make: Callable[[], Bench]) -> Bench:
        """A change whose refusal is an answer of its own."""
        try:
            return make()
        except jobs.RefusedError as error:
            raise self.refused(422, error.said) from None


def change(visited: VisitDep, author: AuthorDep, base: Annotated[int | None, Form(ge=0, le=LARGEST)] = None) -> Change:
    """``base`` is the version that the page showed; a page that does not say it is taken at the newest."""
    v = visited
    version = v.bench.opened.version if base is None else base
    return Change(v.request, v.session, v.reading, v.bench, author, version)


ChangeDep = Annotated[Change, Depends(change)]
