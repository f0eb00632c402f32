"""The board: all jobs on the bench, a new job, a job file read in."""

from dataclasses import dataclass, fields, replace
from enum import StrEnum
from typing import Annotated, Any, Literal
from urllib.parse import urlencode

from fastapi import Depends, Form, HTTPException, Request, UploadFile
from starlette.responses import RedirectResponse, Response

from clavis.core import entries
from clavis.core.errors import QuantityError
from clavis.core.job.document import HERE, Job, StayState
from clavis.core.keeping.copies import copied_job
from clavis.formats import job_file
from clavis.store import board as board_rows
from clavis.store import catalogue as shelf
from clavis.store import due_list, job_transfer, jobs, search
from clavis.store.board import BoardQuery, SortBy
from clavis.web.board.rows import NOTHING_SHOWN
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.job_fields import read_field
from clavis.web.shell.readers import AuthorDep, ReaderDep
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import render

router = routes.router()

MOST_FOUND = 5
"""bikes, people and parts that are shown beside the jobs while one types"""


class Shown(StrEnum):
    """Which jobs the board lists: those that are here, those in one state, or every one."""

    HERE = "here"
    BOOKED = StayState.BOOKED.value
    ON_THE_BENCH = StayState.ON_THE_BENCH.value
    WAITS_FOR_PARTS = StayState.WAITS_FOR_PARTS.value
    READY = StayState.READY.value
    HANDED_OVER = StayState.HANDED_OVER.value
    ARCHIVED = StayState.ARCHIVED.value
    TEMPLATE = StayState.TEMPLATE.value

    @property
    def state(self) -> StayState | None:
        return None if self is Shown.HERE else StayState(self.value)


@dataclass(frozen=True)
class BoardAsked:
    """What the address of the board asks for; what is none of it is left aside."""

    shown: Shown = Shown.HERE
    mechanic: str = ""
    search: str = ""
    sort: SortBy = SortBy.CHANGED
    page: int = 0

    @property
    def query(self) -> BoardQuery:
        return BoardQuery(self.shown.state, self.mechanic, self.search, self.sort, self.page)

    def but(self, **other: object) -> str:
        """The address with something of it changed; another choice begins at the first page."""
        asked = replace(self, **({"page": 0} | other))  # type: ignore[arg-type]
        usual = BoardAsked()
        words = {f.name: getattr(asked, f.name) for f in fields(asked)}
        said = {name: str(value) for name, value in words.items() if value != getattr(usual, name)}
        return f"?{urlencode(said)}" if said else ""

    @property
    def said(self) -> str:
        """The address as it is."""
        return self.but(page=self.page)


@dataclass(frozen=True)
class Paging:
    """Where in a long list a page stands, as it is told; an address is empty where there is nothing that way."""

    total: int
    number: int
    pages: int
    earlier: str
    later: str


def paging(asked: BoardAsked, total: int) -> Paging | None:
    """None where everything stands on one page."""
    pages = -(-total // board_rows.PAGE)
    if pages < 2:
        return None
    earlier = asked.but(page=asked.page - 1) or "?" if asked.page > 0 else ""
    later = asked.but(page=asked.page + 1) if asked.page + 1 < pages else ""
    return Paging(total, asked.page + 1, pages, earlier, later)


def asked_of(
    shown: str = "here", mechanic: str = "", search: str = "", sort: str = "changed", page: str = "0"
) -> BoardAsked:
    return BoardAsked(
        Shown(shown) if shown in set(Shown) else Shown.HERE,
        mechanic[:40].strip(),
        search[:80].strip(),
        SortBy(sort) if sort in set(SortBy) else SortBy.CHANGED,
        entries.place_in(page, MOST_PAGES) or 0,
    )


FIRST_JOBS = 10
"""up to so many jobs a workshop is told what Clavis does and where to begin"""
SORTS = {
    SortBy.CHANGED: "newest",
    SortBy.PROMISED: "promised",
    SortBy.WORST: "worst",
    SortBy.NAME: "name",
}
BoardAskedDep = Annotated[BoardAsked, Depends(asked_of)]
MOST_PAGES = 100_000


def _listed(session: SessionDep, asked: BoardAsked) -> dict[str, Any]:
    """What the board's table shows."""
    rows, total = board_rows.rows(session, asked.query)
    rows = [replace(row, shown=NOTHING_SHOWN | row.shown) for row in rows]
    found = {kind: search.found(session, asked.search, MOST_FOUND, kind) for kind in ("bike", "person", "part")}
    return {
        "rows": rows,
        "total": total,
        "paging": paging(asked, total),
        "asked": asked,
        "states": tuple(StayState),
        "still_here": HERE,
        "found": {kind: hits for kind, hits in found.items() if hits},
        "working": any(not row.current for row in rows),
        "today": jobs.now().date().isoformat(),
    }


def _page(
    request: Request, session: SessionDep, reading: ReaderDep, asked: BoardAsked, problem: str = "", status: int = 200
) -> Response:
    counts = board_rows.counts(session)
    here = sum(counts[state] for state in HERE)
    first_days = sum(counts.values()) < FIRST_JOBS
    return render(
        request, reading, "board/board.html", status, problem=problem, counts=counts, always=HERE, here_count=here,
        clock_trouble=request.app.state.rows.clock_trouble,
        mechanics=board_rows.mechanics(session), first_days=first_days,
        shelf_missing=len(shelf.missing_of_shelf(session)) if first_days else 0,
        templates=board_rows.templates(session), sorts=SORTS, due=due_list.counts(session), **_listed(session, asked),
    )  # fmt: skip


@router.get("/", dependencies=APPRENTICE)
def board(request: Request, session: SessionDep, reading: ReaderDep, asked: BoardAskedDep) -> Response:
    return _page(request, session, reading, asked)


@router.get("/board/rows", dependencies=APPRENTICE)
def rows_alone(request: Request, session: SessionDep, reading: ReaderDep, asked: BoardAskedDep) -> Response:
    """The table alone: while one types, and while rows are being worked out."""
    return render(request, reading, "board/rows.html", **_listed(session, asked))


@router.post("/board/{job_id}/{name}", dependencies=APPRENTICE)
def change_stay(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, asked: BoardAskedDep, job_id: int,
    name: Literal["state", "promised_on"], value: Annotated[str, Form(max_length=40)] = "",
) -> Response:  # fmt: skip
    """Where a bike stands, and by when it is promised; the table as it is then."""
    path = f"stay.{name}"
    try:
        kept = read_field(path, value, reading.system)
        jobs.change(session, job_id, jobs.open_job(session, job_id).version, author, path, kept)
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None
    except jobs.RefusedError as error:
        raise HTTPException(422, reading.told(error.said)) from None
    return render(request, reading, "board/rows.html", **_listed(session, asked))


@router.post("/jobs", dependencies=APPRENTICE)
def new_job(
    session: SessionDep, author: AuthorDep, reading: ReaderDep, title: Annotated[str, Form(max_length=80)] = "",
    template: Annotated[str, Form(max_length=10)] = "",
) -> Response:  # fmt: skip
    """A new job about a new bike; from a template with what stands there."""
    job = Job()
    if template.isdecimal():
        kept = board_rows.templates(session).get(int(template))
        if kept is None:
            raise HTTPException(422, "This template is not there any more.")
        job = copied_job(jobs.open_job(session, int(template)).job, template=True)
    try:
        named = job.model_copy(update={"title": entries.text(title, "title")})
    except QuantityError as error:
        raise HTTPException(422, reading.told(error.said)) from None
    number = jobs.create_job(session, named, author)
    return RedirectResponse(f"/jobs/{number}/intake", 303)


@router.post("/import", dependencies=mechanic("a mechanic brings files of jobs in, with their parts"))
def import_job(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, file: UploadFile
) -> Response:
    """Read a job file in. A file that cannot be read is answered on the board; nothing is kept of it."""
    try:
        number = job_transfer.keep(session, job_file.parse(file.file.read()), author)
    except job_file.JobFileError as error:
        session.rollback()
        text = f"{(file.filename or 'file')[:60]}: {reading.told(error.said)}"
        return _page(request, session, reading, BoardAsked(), text, 422)
    return RedirectResponse(f"/jobs/{number}/choose", 303)
