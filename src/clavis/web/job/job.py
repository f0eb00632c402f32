"""A job's pages: eight stations under one address scheme, fields that save as they change, history, undo, export."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, HTTPException, Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from clavis.core.job.maker_data import blanks_of
from clavis.core.parts.mounts import End
from clavis.core.wording.job_summary import Station
from clavis.core.wording.labels import field_word
from clavis.formats import job_file
from clavis.store import job_transfer, jobs
from clavis.store.tables import ChangeRow
from clavis.web.build import build
from clavis.web.choose import choose
from clavis.web.fit import fit
from clavis.web.intake import intake
from clavis.web.keep import keep
from clavis.web.measure import measure
from clavis.web.prove import prove
from clavis.web.ride import ride
from clavis.web.shell.context import (
    AuthorDep,
    Bench,
    ReaderDep,
    SessionDep,
    bench,
    bench_of,
    new_page,
    page_address,
    render,
)
from clavis.web.shell.fields import field_view, read_field, with_error
from clavis.web.shell.stations import Room, after_change, context_of, text_of

STATIONS = (intake, measure, ride, choose, fit, build, prove, keep)
router = APIRouter()


@router.get("/jobs/{job_id}")
def open_job(job_id: int) -> Response:
    return RedirectResponse(f"/jobs/{job_id}/{Station.INTAKE.value}", 303)


@dataclass(frozen=True)
class Told:
    """A change as the history tells it: of a whole record, only what differs."""

    row: ChangeRow
    before: str
    after: str


def told(row: ChangeRow) -> Told:
    before, after = row.before, row.after
    if isinstance(before, dict) and isinstance(after, dict):
        differing = [k for k in after if before.get(k) != after[k]]
        return Told(row, *(_parts_of(record, row.path, differing) for record in (before, after)))
    return Told(row, *("" if value is None else str(value) for value in (before, after)))


def _parts_of(record: dict[str, Any], path: str, names: list[str]) -> str:
    shown = ((field_word(f"{path}.{name}").lower(), record.get(name)) for name in names)
    return ", ".join(f"{word} {'–' if value is None else value}" for word, value in shown)


@router.get("/jobs/{job_id}/history")
def history(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Response:
    b = bench(request, session, reading, job_id)
    return render(
        request,
        reading,
        "job/history.html",
        b=b,
        rows=[told(row) for row in jobs.history(session, job_id)],
        station=None,
        room="",
        page=new_page(),
        others="",
        oob=False,
    )


@router.get("/jobs/{job_id}/export")
def export(session: SessionDep, job_id: int) -> Response:
    """The job as one open JSON file."""
    try:
        file = job_transfer.write_job(session, job_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None
    name = f"clavis-job-{job_id}.json"
    return Response(
        job_file.to_json(file),
        media_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )


@router.get("/jobs/{job_id}/{station}")
def station_page(
    request: Request,
    session: SessionDep,
    reading: ReaderDep,
    job_id: int,
    station: Station,
    show: str = "",
    lane: str = "front",
) -> Response:
    b = bench(request, session, reading, job_id)
    extra = choose.sheet(b, show) if station is Station.CHOOSE else context_of(station, b)
    return render(
        request,
        reading,
        f"{station.value}/{station.value}.html",
        b=b,
        station=station,
        room=Room(station.value),
        page=new_page(),
        others="",
        lane=lane if lane in {e.value for e in End} else "front",
        oob=False,
        **extra,
    )


def _stated(b: Bench, path: str, part_id: object) -> dict[str, Any]:
    """What a part that is named for a wheel states of the fields that nobody entered."""
    end, _, field = path.partition(".")
    part = b.catalogue.by_id(part_id) if isinstance(part_id, str) and end in {e.value for e in End} else None
    return blanks_of(b.job.wheel(End(end)), field, part) if part is not None else {}


@router.post("/jobs/{job_id}/field")
def change_field(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    path: Annotated[str, Form(max_length=120)],
    base: Annotated[int, Form()],
    room: Annotated[Room, Form()],
    value: Annotated[str, Form(max_length=4000)] = "",
    bare: Annotated[bool, Form()] = False,
) -> Response:
    """Keep one field. The answer is the field itself and what follows from it; on a refusal the field comes back
    with the text as typed and the reason beside it."""
    before = bench(request, session, reading, job_id)
    try:
        kept = read_field(path, value, reading.system)
        beside = _stated(before, path, kept)
        opened = jobs.change(session, job_id, base, author, path, kept, beside=beside)
    except jobs.RefusedError as error:
        session.rollback()
        view = with_error(_view_or_404(before, path), value, str(error))
        return render(request, reading, "shell/_field.html", 422, view=view, b=before, bare=bare)
    except jobs.ConflictError as error:
        session.rollback()
        now = bench(request, session, reading, job_id)
        theirs = field_view(now.job, path, now.catalogue, reading.system)
        view = with_error(theirs, value, str(error), theirs.text or "nothing")
        return render(request, reading, "shell/_field.html", 409, view=view, b=now, bare=bare)
    b = bench_of(request, session, reading, opened)
    view = b.field(path)
    answer = text_of(render(request, reading, "shell/_field.html", view=view, b=b, bare=bare))
    # a default, or what a part states, that follows from this field is shown anew
    followers = intake.PATHS if room is Room.INTAKE else [f"{path.partition('.')[0]}.{name}" for name in beside]
    for other in followers:
        changed = b.field(other)
        if other != path and changed != before.field(other):
            answer += text_of(
                render(request, reading, "shell/_field.html", view=changed, b=b, bare=False, field_oob=True)
            )
    return HTMLResponse(answer + after_change(request, session, b, room, author.page, base))


def _view_or_404(b: Bench, path: str) -> Any:
    try:
        return b.field(path)
    except ValueError as error:
        raise HTTPException(422, str(error)) from None


@router.post("/jobs/{job_id}/toggle/{path}/{value}")
def toggle(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    path: Literal["complaints", "wishes.wants"],
    value: str,
    base: Annotated[int, Form()],
    room: Annotated[Room, Form()],
) -> Response:
    """Take one choice of several up, or drop it."""
    b = bench(request, session, reading, job_id)
    had: tuple[str, ...] = b.job.complaints if path == "complaints" else b.job.wishes.wants
    chosen = [c for c in had if c != value]
    if len(chosen) == len(had):
        chosen.append(value)
    try:
        opened = jobs.change(session, job_id, b.opened.version, author, path, [str(c) for c in chosen])
    except jobs.RefusedError as error:
        raise HTTPException(422, str(error)) from None
    b = bench_of(request, session, reading, opened)
    return HTMLResponse(after_change(request, session, b, room, author.page, base))


@router.post("/jobs/{job_id}/undo")
def undo(request: Request, session: SessionDep, author: AuthorDep, job_id: int) -> Response:
    """Take the newest change back, then show the page again."""
    try:
        jobs.undo(session, job_id, author)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None
    except jobs.RefusedError as error:
        raise HTTPException(409, f"This cannot be taken back by itself: {error}") from None
    back = page_address(request)
    place = back if request.headers.get("hx-current-url") and back.startswith(f"/jobs/{job_id}/") else ""
    return Response(headers={"HX-Redirect": place or f"/jobs/{job_id}/history"}, status_code=200)
