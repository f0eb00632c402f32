"""A job's pages: eight stations under one address scheme, fields that save as they change, history, undo, export."""

from typing import Annotated, Any, Literal

from fastapi import Form, HTTPException, Query
from starlette.responses import HTMLResponse, RedirectResponse, Response

from clavis.core.errors import QuantityError
from clavis.core.job.document import is_typed
from clavis.core.job.maker_data import blanks_of
from clavis.core.job.places import place_of
from clavis.core.parts.mounts import End
from clavis.formats import job_file
from clavis.store import job_transfer, jobs
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench, SessionDep, bench
from clavis.web.shell.form_fields import FieldView, with_error
from clavis.web.shell.job_fields import field_view, part_kind, read_field, worth_keeping
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.stations import fields_of
from clavis.web.shell.visit import Change, ChangeDep, Visit, VisitDep

router = routes.router()


@router.get("/jobs/{job_id}", dependencies=APPRENTICE)
def open_job(job_id: int) -> Response:
    return RedirectResponse(f"/jobs/{job_id}/{Station.INTAKE.value}", 303)


@router.get("/jobs/{job_id}/export", dependencies=APPRENTICE)
def export(session: SessionDep, job_id: int) -> Response:
    """The job as one open JSON file; nothing of it is worked out for that."""
    text = job_file.to_json(job_transfer.write_job(session, job_id))
    headers = {"Content-Disposition": f'attachment; filename="clavis-job-{job_id}.json"'}
    return Response(text, media_type="application/json", headers=headers)


def _stated(b: Bench, path: str, part_id: object) -> dict[str, Any]:
    """What a part that is named for a wheel states of the fields that nobody entered."""
    end, _, field = path.partition(".")
    part = b.catalogue.by_id(part_id) if isinstance(part_id, str) and end in {e.value for e in End} else None
    return blanks_of(b.job.wheel(End(end)), field, part) if part is not None else {}


def _typed_by_hand(b: Bench, path: str) -> dict[str, Any]:
    """A reading that is typed is no longer a gauge's."""
    end, _, field = path.partition(".")
    wheel = b.job.wheel(End(end)) if end in {e.value for e in End} else None
    return {} if wheel is None or field not in wheel.read_by else {"read_by": wheel.read_by_with(field)}


@router.post("/jobs/{job_id}/field", dependencies=APPRENTICE)
def change_field(
    c: ChangeDep,
    path: Annotated[str, Form(max_length=120)],
    room: Annotated[Room, Form()],
    value: Annotated[str, Form(max_length=4000)] = "",
    bare: Annotated[bool, Form()] = False,
) -> Response:
    """Keep one field. The answer is the field itself and what follows from it; on a refusal the field comes back
    with the text as typed and the reason beside it."""
    if not is_typed(path):
        raise c.refused(422, "This is kept by an act of its own, and is not typed into a field.")
    try:
        kept = read_field(path, value, c.system, c.request.app.state.settings.currency)
        beside = _stated(c.bench, path, kept) | _typed_by_hand(c.bench, path)
        typed = value.strip()[:40] if worth_keeping(path, value, kept, c.system) else None
        now = c.keep(path, kept, beside, typed)
    except jobs.RefusedError as error:
        c.session.rollback()
        view = with_error(_view_or_422(c, path), value, error.said)
        return c.piece("shell/_field.html", 422, view=view, bare=bare)
    except jobs.ConflictError as error:
        c.session.rollback()
        theirs = bench(c.request, c.session, c.reading, c.job_id)
        shown = field_view(theirs.job, path, theirs.catalogue, c.system)
        view = with_error(shown, value, error.said, shown.text or "nothing")
        return c.piece("shell/_field.html", 409, view=view, b=theirs, bare=bare)
    stated = [name for name in beside if name != "read_by" and place_of(name) is place_of(path)]
    followers = [*fields_of(room), *(f"{path.partition('.')[0]}.{name}" for name in stated)]
    anew = c.field(now, path, oob=False, bare=bare) + _followers(c, now, path, followers)
    return HTMLResponse(anew + c.followed(now, room))


@router.get("/jobs/{job_id}/listed/{path}", dependencies=APPRENTICE)
def listed(v: VisitDep, path: str, typed: Annotated[str, Query(max_length=80)] = "") -> Response:
    """The choices of a field that names a part, found by typing."""
    if part_kind(path) is None:
        raise HTTPException(404, "This field names no part.")
    return v.piece("shell/_listed.html", view=_view_or_422(v, path, typed))


def _followers(c: Change, now: Bench, path: str, others: list[str]) -> str:
    """Fields that show another default, or what a part states, after a change."""
    changed = (other for other in others if other != path and now.field(other) != c.bench.field(other))
    return "".join(c.field(now, other, oob=True) for other in changed)


def _view_or_422(v: Visit, path: str, typed: str = "") -> FieldView:
    try:
        return v.bench.field(path, typed)
    except QuantityError as error:
        raise v.refused(422, error.said) from None


@router.post("/jobs/{job_id}/toggle/{path}/{value}", dependencies=APPRENTICE)
def toggle(
    c: ChangeDep, path: Literal["complaints", "wishes.wants"], value: str, room: Annotated[Room, Form()]
) -> Response:
    """Take one choice of several up, or drop it."""
    job = c.bench.job
    had: tuple[str, ...] = job.complaints if path == "complaints" else job.wishes.wants
    chosen = [str(choice) for choice in had if choice != value]
    if len(chosen) == len(had):
        chosen.append(value)
    return c.answered(c.or_refused(lambda: c.keep_newest(path, chosen)), room)
