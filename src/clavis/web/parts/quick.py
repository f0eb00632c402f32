"""A part added in passing, beside the page of a job: what is known of it is typed, the rest is the standard shelf's."""

from typing import Any

from fastapi import HTTPException
from pydantic import ValidationError
from starlette.datastructures import FormData
from starlette.responses import HTMLResponse, Response

from clavis.core.errors import QuantityError
from clavis.core.parts.models import PARTS
from clavis.core.parts.mounts import End
from clavis.core.parts.quick_part import QUICK, QuickPart, quick_part
from clavis.core.records import describe
from clavis.core.sentences import NOTHING, Words
from clavis.core.units import System
from clavis.core.wording.labels import PART_FIELDS
from clavis.formats import parts_file
from clavis.store import catalogue as shelf
from clavis.store import jobs
from clavis.store.database import writing
from clavis.web.shell import routes
from clavis.web.shell.form_fields import FieldSpec, FieldView
from clavis.web.shell.job_fields import part_kind
from clavis.web.shell.readers import FormDep
from clavis.web.shell.rooms import Room, Station, station_of
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import text_of
from clavis.web.shell.visit import ChangeDep, VisitDep

router = routes.router()
NAMES = ("maker", "model")


def _kind(path: str) -> str:
    """The kind of part that a field names. Raises 404 for a field that names none that is added so."""
    kind = part_kind(path.removeprefix("proposal."))
    if kind is None or kind not in QUICK:
        raise HTTPException(404, "Nothing is added in passing here: add the part on Parts.")
    return kind


def _specs(kind: str) -> list[FieldSpec]:
    names = (*NAMES, *QUICK[kind].needed, *QUICK[kind].asked)
    return [FieldSpec.of(name, PARTS[kind].model_fields[name]) for name in names]


def _views(kind: str, texts: dict[str, str], errors: dict[str, Words], system: System) -> list[FieldView]:
    needed = {"model", *QUICK[kind].needed}
    return [
        FieldView(
            spec.name, PART_FIELDS[spec.name], spec.kind, texts.get(spec.name, ""), spec.unit(system), spec.options,
            required=spec.name in needed, placeholder="" if spec.name in needed else "not known",
            error=errors.get(spec.name, NOTHING),
        )
        for spec in _specs(kind)
    ]  # fmt: skip


@router.get("/jobs/{job_id}/quick/{path}", dependencies=APPRENTICE)
def form(v: VisitDep, path: str) -> Response:
    kind = _kind(path)
    return v.piece("parts/quick.html", path=path, kind=kind, fields=_views(kind, {}, {}, v.system), problem=NOTHING)


def _told(kind: str, texts: dict[str, str], system: System, currency: str) -> tuple[dict[str, Any], dict[str, Words]]:
    """What was typed as plain values, and errors by field."""
    told: dict[str, Any] = {}
    errors: dict[str, Words] = {}
    for spec in _specs(kind):
        text = texts[spec.name]
        if spec.name in QUICK[kind].needed and not text:
            errors[spec.name] = "needed: without it the part stands for nothing"
        if not text or spec.name in NAMES:
            continue
        try:
            if spec.name == "bores_mm":
                told |= parts_file.from_cells(kind, {spec.name: text})
            else:
                told[spec.name] = spec.read(text, system, PART_FIELDS[spec.name], currency)
        except QuantityError as error:
            errors[spec.name] = error.said
    if not texts["model"]:
        errors["model"] = "needed: the name on the part, or what the workshop calls it"
    return told, errors


def _made(c: ChangeDep, kind: str, texts: dict[str, str]) -> tuple[QuickPart | None, dict[str, Words]]:
    told, errors = _told(kind, texts, c.system, c.request.app.state.settings.currency)
    if errors:
        return None, errors
    try:
        taken = (part.id for part in c.bench.catalogue.every())
        return quick_part(kind, told, texts["maker"], texts["model"], taken), {}
    except QuantityError as error:
        return None, {"": error.said}
    except ValidationError as error:
        found = error.errors()[0]
        name = next((str(step) for step in found["loc"] if step in texts), "")
        return None, {name: describe(found)}


@router.post("/jobs/{job_id}/quick/{path}", dependencies=mechanic("a mechanic adds parts to the catalogue"))
def add(c: ChangeDep, path: str, typed: FormDep) -> Response:
    """Keep the part. Where it names what is on the bike it is put into its field at once; a proposal is made by its own
    button, which checks that it goes."""
    kind = _kind(path)
    texts = _texts(kind, typed)
    made, errors = _made(c, kind, texts)
    if made is None:
        fields, problem = _views(kind, texts, errors, c.system), errors.get("", NOTHING)
        return c.piece("parts/quick.html", 422, path=path, kind=kind, fields=fields, problem=problem)
    with writing(c.session):
        shelf.keep(c.session, made.part, c.author.who)
    borrowed = [PART_FIELDS[name].lower() for name in made.borrowed]
    if station_of(path) is not Station.MEASURE:
        return c.piece("parts/quick_added.html", made=made, borrowed=borrowed, path=path, proposes=path.split(".")[1])
    try:
        now = c.keep_newest(path, made.part.id)
    except jobs.RefusedError as error:
        raise c.refused(422, error.said) from None
    told = c.piece("parts/quick_added.html", made=made, borrowed=borrowed, path=path, proposes="")
    anew = "".join(c.field(now, f"{end.value}.{path.partition('.')[2]}", oob=True) for end in End)
    return HTMLResponse(text_of(told) + anew + c.followed(now, Room.MEASURE))


def _texts(kind: str, typed: FormData) -> dict[str, str]:
    return {spec.name: str(typed.get(spec.name, ""))[:80].strip() for spec in _specs(kind)}
