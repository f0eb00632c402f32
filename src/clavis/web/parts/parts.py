"""The catalogue: lines by kind, what fits a wheel, lines added, changed and retired, files in and out."""

from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Any, get_origin

from fastapi import Form, HTTPException, Request, UploadFile
from pydantic import AfterValidator, ValidationError
from starlette.datastructures import FormData
from starlette.responses import RedirectResponse, Response

from clavis.core import entries
from clavis.core.errors import ClavisError, QuantityError
from clavis.core.evaluation.evaluate import SetupName
from clavis.core.fit.adapters import label_conflict
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.parts.figures import FIGURES
from clavis.core.parts.models import KIND_NAMES, PARTS, Adapter, AnyPart, parse_part
from clavis.core.parts.mounts import End
from clavis.core.records import describe
from clavis.core.sentences import NOTHING, Words
from clavis.core.units import System
from clavis.core.wording.labels import PART_FIELDS
from clavis.formats import parts_file
from clavis.store import board, jobs, part_imports, rescue
from clavis.store import catalogue as shelf
from clavis.store import shelf as stock_room
from clavis.store.database import writing
from clavis.web.parts.supplier import columns_form, known_kind
from clavis.web.shell import routes
from clavis.web.shell.answer_cache import AnswerCache
from clavis.web.shell.bench import Bench, SessionDep, bench, catalogue_of
from clavis.web.shell.form_fields import FieldSpec, FieldView
from clavis.web.shell.readers import AuthorDep, FormDep, Reader, ReaderDep, name_of
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.security import message
from clavis.web.shell.templates import render

router = routes.router()
NOT_SHOWN = -1
"""a version that no line has: what the page showed cannot be told"""

# What each kind shows beside maker, model, mass and price: field, heading, unit.
COLUMNS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "rotor": (("diameter_mm", "Ø", "mm"), ("thickness_mm", "Thick", "mm"), ("minimum_mm", "Minimum", "mm"),
              ("interface", "Hub", ""), ("construction", "Construction", ""), ("track_mm", "Track", "mm")),
    "caliper": (("mount", "Mount", ""), ("fluid", "Line", ""), ("bores_mm", "Bores, one side", ""), ("pad_shape", "Pad", ""),
                ("slot_mm", "Slot", "mm"), ("tab_mm", "Tab", "mm")),
    "lever": (("ratio", "Ratio", "ratio"), ("fluid", "Line", ""), ("bar", "Bar", ""), ("bore_mm", "Bore", "mm"), ("pull", "Pull", "")),
    "pad": (("shape", "Shape", ""), ("compound", "Compound", ""), ("material_mm", "Material", "mm"), ("height_mm", "Height", "mm")),
    "adapter": (("adapter_kind", "Kind", ""), ("from_mm", "From", "mm"), ("fits", "Serves", ""), ("style", "Bolted", ""),
                ("upper_mm", "Upper", "mm"), ("lower_mm", "Lower", "mm")),
    "bolt": (("thread", "Thread", ""), ("length_mm", "Length", "mm"), ("thread_mm", "Threaded", "mm"), ("drive", "Drive", "")),
    "fork": (("mount", "Mount", ""), ("native_mm", "Native", "mm"), ("max_rotor_mm", "Largest rotor", "mm"), ("axle", "Axle", ""),
             ("thread_material", "Thread", ""), ("assisted", "Assisted", "")),
    "frame": (("mount", "Mount", ""), ("native_mm", "Native", "mm"), ("max_rotor_mm", "Largest rotor", "mm"), ("axle", "Axle", ""),
              ("thread_material", "Thread", ""), ("tab_mm", "Tab", "mm"), ("assisted", "Assisted", "")),
    "fluid": (("grade", "Grade", ""), ("dry_c", "Boils, fresh", "c"), ("volume_ml", "ml", "count")),
    "hose": (("fluid", "Line", ""), ("lever_fitting", "At the lever", ""), ("caliper_fitting", "At the caliper", ""), ("length_mm", "Length", "mm")),
    "small": (("role", "What for", ""), ("thread", "Thread", ""), ("height_mm", "Height", "mm")),
    "hub": (("role", "Role", ""),),
    "wheel": (("end", "End", ""), ("interface", "Hub", ""), ("rim_mm", "Bead seat", "mm")),
}  # fmt: skip

# Of these a missing figure is unknown; of the others it does not apply.
LIMITS = frozenset({"minimum_mm", "max_rotor_mm", "assisted", "dry_c"})


@dataclass(frozen=True)
class CatalogueLine:
    """A catalogue line in the list: how many jobs use it, and why it does not go on the wheel that was asked for;
    ``refused`` is None where nothing can be said."""

    part: AnyPart
    used_by: int
    refused: tuple[Words, ...] | None
    flag: Words = NOTHING
    pieces: int = 0
    """on the workshop's own shelf"""
    """where its words and its sizes disagree"""


def _wheel_asked(request: Request, session: SessionDep, reading: ReaderDep, fits: str) -> tuple[Bench, End] | None:
    """``7-front``: that wheel of that job. Nothing for anything else."""
    number, _, end = fits.partition("-")
    job_id = entries.place_in(number, entries.LARGEST)
    if job_id is None or end not in {e.value for e in End}:
        return None
    return bench(request, session, reading, job_id), End(end)


def _against(asked: tuple[Bench, End], part: AnyPart) -> tuple[Words, ...] | None:
    """Why a part does not go on the wheel that was asked for, beside what is proposed or fitted there."""
    b, end = asked
    return part_refusals(b.evaluation.place_for(end), b.evaluation.cases[SetupName.PROPOSED][end].brake, part)


@router.get("/parts", dependencies=APPRENTICE)
def parts(
    request: Request,
    session: SessionDep,
    reading: ReaderDep,
    kind: str = "rotor",
    search: str = "",
    fits: str = "",
    retired: bool = False,
) -> Response:
    """Lines of one kind that have every word, those that go on the wheel first; so many of them at a time."""
    kind = kind if kind in KIND_NAMES else "rotor"
    asked = _wheel_asked(request, session, reading, fits)
    used, lying = shelf.uses(session), stock_room.stock(session)
    words = search.lower().split()[:8]
    table = catalogue_of(request, session)[0].of_kind(kind).values()
    found = [part for part in table if (retired or not part.retired) and _has(part, words)]
    lines = []
    for part in found[: MOST_JUDGED if asked else MOST_LINES]:
        refused = _against(asked, part) if asked else None
        flag = label_conflict(part) if isinstance(part, Adapter) else ""
        lines.append(CatalogueLine(part, used.get(part.id, 0), refused, flag, lying.get(part.id, 0)))
    if asked:
        lines.sort(key=lambda line: (line.refused is None, bool(line.refused)))
    lines = lines[:MOST_LINES]
    wheels = [
        (f"{number}-{end.value}", f"{title or 'Job without a name'}, {end.value}")
        for number, title in board.here(session, fits.partition("-")[0] if asked else "")
        for end in End
    ]
    return render(
        request, reading, "parts/parts.html", kind=kind, kinds=KIND_NAMES, lines=lines, columns=COLUMNS[kind], limits=LIMITS,
        search=search[:80], fits=fits if asked else "", wheels=wheels, retired=retired,
        shelf_missing=len(shelf.missing_of_shelf(session)), figures=FIGURES, unread=_unread(request, session),
        more=len(found) - len(lines), imports=part_imports.told(session),
    )  # fmt: skip


MOST_LINES, MOST_JUDGED = 200, 600
"""lines that one page shows, and those that are held against a wheel for it"""


def _has(part: AnyPart, words: list[str]) -> bool:
    """Whether every word stands somewhere in a line."""
    if not words:
        return True
    values = (v.value if isinstance(v, Enum) else v for v in part.model_dump().values())
    text = f"{part.name} {' '.join(map(str, values))}".lower()
    return all(word in text for word in words)


def _unread(request: Request, session: SessionDep) -> tuple[tuple[str, Words], ...]:
    """Lines that cannot be read, each with why."""
    catalogue, stamp = catalogue_of(request, session)
    if shelf.count(session) == len(catalogue.every()):
        return ()
    answers: AnswerCache = request.app.state.answers
    return answers.get(("unread parts", stamp), lambda: rescue.unread_parts(session))


NOT_TYPED = frozenset({"kind", "retired"})


def _specs(kind: str) -> list[FieldSpec]:
    return [FieldSpec.of(name, info) for name, info in PARTS[kind].model_fields.items() if name not in NOT_TYPED]


def _text_of(spec: FieldSpec, value: Any, system: System) -> str:
    """A value as its entry shows it, lengths and masses in the reader's units; lists as a CSV holds them."""
    if isinstance(value, list | tuple) and spec.kind != "numbers":
        return parts_file.cell_of(value)
    return spec.text_of(value, system)


def _fields(kind: str, texts: dict[str, str], errors: dict[str, Words], system: System) -> list[FieldView]:
    """The form of a kind: texts as they stand in its entries, errors by field."""
    out = []
    for spec in _specs(kind):
        unit = spec.unit(system)
        view = FieldView(
            spec.name, PART_FIELDS[spec.name], spec.kind, texts.get(spec.name, ""), unit, spec.options,
            required=spec.required or spec.kind == "flag", hint="" if spec.hint == unit else spec.hint,
            error=errors.get(spec.name, NOTHING),
        )  # fmt: skip
        out.append(view)
    return out


def _texts_of(part: AnyPart, system: System) -> dict[str, str]:
    """A line as its form shows it."""
    kept = part.model_dump(mode="json")
    return {spec.name: _text_of(spec, kept[spec.name], system) for spec in _specs(part.kind)}


def _defaults_of(kind: str, system: System) -> dict[str, str]:
    out = {}
    for spec in _specs(kind):
        default = PARTS[kind].model_fields[spec.name].get_default()
        value = default.value if isinstance(default, Enum) else default
        if not spec.required and value not in (None, "", ()):
            out[spec.name] = _text_of(spec, value, system)
    return out


def _read(
    kind: str, form: FormData, system: System, currency: str
) -> tuple[dict[str, str], dict[str, Words], AnyPart | None]:
    """Texts as typed, errors by field (the empty name for the whole line), and the part where there are none."""
    texts = {spec.name: str(form.get(spec.name, ""))[:400].strip() for spec in _specs(kind)}
    lists = {spec.name: texts[spec.name] for spec in _specs(kind) if spec.kind == "text" and _is_list(spec)}
    data, errors = parts_file.from_cells(kind, lists), {}
    for spec in _specs(kind):
        text = texts[spec.name]
        if spec.name in lists or (not text and spec.kind != "flag"):
            continue
        try:
            data[spec.name] = spec.read(text, system, PART_FIELDS[spec.name], currency)
        except QuantityError as error:
            errors[spec.name] = error.said
    if errors:
        return texts, errors, None
    try:
        return texts, {}, parse_part(data)
    except ValidationError as error:
        for found in error.errors():
            name = next((str(step) for step in found["loc"] if step in PARTS[kind].model_fields and step != "kind"), "")
            errors.setdefault(name, describe(found))
        return texts, errors, None


def _is_list(spec: FieldSpec) -> bool:
    return get_origin(spec.base) is tuple


@dataclass(frozen=True)
class _Opened:
    """A line on its form: its number and version where it is in the catalogue already."""

    kind: str
    part_id: str = ""
    version: int = 0
    retired: bool = False


def _form(
    request: Request,
    reading: Reader,
    session: SessionDep,
    line: _Opened,
    texts: dict[str, str],
    errors: dict[str, Words] | None = None,
) -> Response:
    errors = errors or {}
    return render(
        request, reading, "parts/part.html", 422 if errors else 200, kind=line.kind, part_id=line.part_id,
        version=line.version, retired=line.retired, fields=_fields(line.kind, texts, errors, reading.system),
        problem=errors.get("", ""), errors=len(errors),
        history=shelf.history(session, line.part_id) if line.part_id else [],
        used_by=shelf.uses(session).get(line.part_id, 0), labels=PART_FIELDS,
        pieces=stock_room.stock(session, [line.part_id]).get(line.part_id, 0) if line.part_id else 0,
    )  # fmt: skip


@router.get("/parts/new/{kind}", dependencies=APPRENTICE)
def new(request: Request, session: SessionDep, reading: ReaderDep, kind: str, like: str = "") -> Response:
    """An empty form, or one filled like another line of the kind."""
    if kind not in PARTS:
        raise HTTPException(404, "There is no such kind of part.")
    texts = _defaults_of(kind, reading.system)
    if like:
        model, _ = _found(session, like)
        texts = _texts_of(model, reading.system) | {"id": ""} if model.kind == kind else texts
    return _form(request, reading, session, _Opened(kind), texts)


def _found(session: SessionDep, part_id: str) -> tuple[AnyPart, int]:
    try:
        return shelf.find(session, part_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None


@router.get("/parts/line/{part_id}", dependencies=APPRENTICE)
def edit(request: Request, session: SessionDep, reading: ReaderDep, part_id: str) -> Response:
    part, version = _found(session, part_id)
    texts = _texts_of(part, reading.system)
    return _form(request, reading, session, _Opened(part.kind, part_id, version, part.retired), texts)


@router.post("/parts/new/{kind}", dependencies=mechanic("a mechanic keeps the parts"))
def add(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, kind: str, form: FormDep
) -> Response:
    """A new line. What is wrong is said beside its field, with everything as it was typed."""
    if kind not in PARTS:
        raise HTTPException(404, "There is no such kind of part.")
    texts, errors, part = _read(kind, form, reading.system, request.app.state.settings.currency)
    if part is not None:
        try:
            with writing(session):
                shelf.keep(session, part, author.who, base=0)
        except jobs.ConflictError:
            errors |= {"id": "this part number stands in the catalogue already"}
        else:
            return RedirectResponse(f"/parts?kind={kind}&search={part.id}", 303)
    return _form(request, reading, session, _Opened(kind), texts, errors)


@router.post("/parts/line/{part_id}", dependencies=mechanic("a mechanic keeps the parts"))
def change(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, part_id: str, form: FormDep
) -> Response:
    """Change a line. Jobs that use it follow; a change that somebody else made meanwhile is not overwritten."""
    before, _ = _found(session, part_id)
    texts, errors, part = _read(before.kind, form, reading.system, request.app.state.settings.currency)
    texts["id"] = part_id
    base = entries.place_in(str(form.get("version", "")), entries.LARGEST)
    base = NOT_SHOWN if base is None else base
    if part is not None:
        try:
            with writing(session):
                shelf.keep(
                    session, part.model_copy(update={"id": part_id, "retired": before.retired}), author.who, base
                )
            return RedirectResponse(f"/parts?kind={part.kind}&search={part_id}", 303)
        except jobs.ConflictError as error:
            errors = {"": f"{error.who} changed this line since the page was opened; open it again to see it."}
    return _form(request, reading, session, _Opened(before.kind, part_id, base, before.retired), texts, errors)


@router.post("/parts/line/{part_id}/stock", dependencies=mechanic("a mechanic keeps the parts"))
def count(
    session: SessionDep, author: AuthorDep, part_id: str, pieces: Annotated[int, Form(ge=0, le=stock_room.MOST_PIECES)]
) -> Response:
    """Pieces were counted on the workshop's shelf."""
    _found(session, part_id)
    stock_room.count(session, part_id, pieces, author.who)
    return RedirectResponse(f"/parts/line/{part_id}", 303)


@router.post("/parts/line/{part_id}/retire", dependencies=mechanic("a mechanic keeps the parts"))
def retire(session: SessionDep, author: AuthorDep, part_id: str) -> Response:
    """No longer offered, or offered again; never deleted."""
    with writing(session):
        part, _ = _found(session, part_id)
        shelf.keep(session, part.model_copy(update={"retired": not part.retired}), author.who)
    return RedirectResponse(f"/parts?kind={part.kind}&search={part_id}&retired=true", 303)


@router.post("/parts/standard-shelf", dependencies=mechanic("a mechanic keeps the parts"))
def put_shelf(session: SessionDep, author: AuthorDep, back: Annotated[str, Form(max_length=20)] = "") -> Response:
    """Put the standard shelf into the catalogue, but for what is there already."""
    with writing(session):
        shelf.put_shelf(session, author.who)
    return RedirectResponse("/" if back == "/" else "/parts", 303)


@router.post("/parts/imports/{number}/read", dependencies=mechanic("a mechanic keeps the parts"))
def import_read(session: SessionDep, number: int) -> Response:
    """What was told of an import that was broken off is read."""
    part_imports.dismiss(session, number)
    return RedirectResponse("/parts", 303)


@router.get("/parts/{kind}.csv", dependencies=APPRENTICE)
def as_csv(request: Request, session: SessionDep, kind: str) -> Response:
    if kind not in PARTS:
        raise HTTPException(404, "There is no such kind of part.")
    text = parts_file.write_csv(catalogue_of(request, session)[0].every(), kind)
    headers = {"Content-Disposition": f'attachment; filename="clavis-{kind}s.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/parts/everything.json", dependencies=APPRENTICE)
def as_json(request: Request, session: SessionDep) -> Response:
    headers = {"Content-Disposition": 'attachment; filename="clavis-parts.json"'}
    text = parts_file.write_json(catalogue_of(request, session)[0].every())
    return Response(text, media_type="application/json", headers=headers)


Kind = Annotated[str, AfterValidator(known_kind), Form(max_length=20)]


def _plan(session: SessionDep, file: UploadFile, kind: str) -> shelf.Plan:
    return shelf.plan(session, file.file.read(), kind)


@router.post("/parts/plan", dependencies=mechanic("a mechanic keeps the parts"))
def dry_run(
    request: Request, session: SessionDep, reading: ReaderDep, file: UploadFile, kind: Kind = "rotor"
) -> Response:
    """What a file would change, and every bad row; nothing is kept."""
    name = name_of(file, "file")
    try:
        asked = columns_form(request, reading, name, kind, file.file.read())
        if asked is not None:
            return asked
        file.file.seek(0)
        found = _plan(session, file, kind)
    except ClavisError as error:
        return message(f"{name}: {reading.told(error.said)}", 422)
    return render(
        request, reading, "parts/parts_plan.html", plan=found, name=name, labels=PART_FIELDS, take="/parts/take",
        include="#parts-form",
    )  # fmt: skip


@router.post("/parts/take", dependencies=mechanic("a mechanic keeps the parts"))
def take(session: SessionDep, author: AuthorDep, file: UploadFile, kind: Kind = "rotor") -> Response:
    """Take the good rows of a file."""
    try:
        part_imports.take(session, _plan(session, file, kind), name_of(file, "file"), author.who)
    except ClavisError as error:
        return message(str(error), 422)
    return Response(status_code=200, headers={"HX-Redirect": f"/parts?kind={kind}"})
