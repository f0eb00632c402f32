"""A supplier's own table: which of its columns is which figure, guessed from the headings and said by a person, with a
figure that is the same for all rows where no column holds it. It is planned before anything is taken."""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from fastapi import Request, UploadFile
from pydantic import ValidationError
from starlette.datastructures import FormData
from starlette.responses import Response

from clavis.core import entries, units
from clavis.core.errors import ClavisError, QuantityError
from clavis.core.parts.models import PARTS, AnyPart, parse_part
from clavis.core.parts.quick_part import QUICK, part_number, quick_part
from clavis.core.records import describe
from clavis.core.units import System
from clavis.core.wording.labels import PART_FIELDS
from clavis.formats import csv_table, parts_file
from clavis.formats.parts_file import BadRow
from clavis.formats.plain_json import MOST_PARTS
from clavis.store import catalogue as shelf
from clavis.store import part_imports
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.form_fields import FieldSpec, Option
from clavis.web.shell.readers import AuthorDep, FormDep, Reader, ReaderDep, name_of
from clavis.web.shell.routes import mechanic
from clavis.web.shell.security import message
from clavis.web.shell.templates import render

router = routes.router()


def known_kind(kind: str) -> str:
    """A kind of part as a form sends it; rotors for one that nobody knows."""
    return kind if kind in PARTS else "rotor"


NOT_MAPPED = frozenset({"kind", "retired", "figures"})

# What suppliers call a column; the field's own name and label count as well.
HEADINGS: Mapping[str, tuple[str, ...]] = {
    "id": ("part number", "article", "item no", "item number", "sku", "order number", "code", "ref"),
    "maker": ("maker", "make", "manufacturer", "brand", "vendor"),
    "model": ("model", "name", "description", "title", "product", "designation"),
    "price": ("price", "net", "cost", "each"),
    "mass_g": ("weight", "mass", "gram"),
    "diameter_mm": ("diameter", "size", "ø"),
    "thickness_mm": ("thickness", "thick"),
    "minimum_mm": ("minimum", "min.", "wear limit"),
    "interface": ("interface", "hub", "mount type", "fitting"),
    "pad_shape": ("pad", "shape"),
    "shape": ("shape", "form", "fits"),
    "compound": ("compound", "material", "friction"),
    "length_mm": ("length",),
    "native_mm": ("native",),
    "max_rotor_mm": ("max", "largest"),
}
# What suppliers call a choice; its own value and words count as well.
CHOICES: Mapping[str, tuple[str, ...]] = {
    "six_bolt": ("6bolt", "6bolts", "6hole", "sixhole", "6b", "is6", "6"),
    "splined": ("spline", "splines", "lockring"),
    "one_piece": ("solid", "onepiece", "1piece", "fixed", "plain"),
    "floating": ("2piece", "twopiece", "float"),
    "resin": ("organic", "resin"),
    "sintered": ("metal", "metallic", "sinter"),
    "semi_metallic": ("semi", "semimetal", "semimetallic"),
    "post_mount": ("pm", "post"),
    "flat": ("fm", "flatmount"),
    "none": ("cable", "mechanical"),
    "dot": ("dot4", "dot51"),
}


def _plain(text: str) -> str:
    return re.sub(r"[^a-z0-9ø]+", "", text.lower())


@dataclass(frozen=True)
class ColumnChoice:
    """One figure of the kind, and where in the file it may stand."""

    name: str
    label: str
    needed: bool
    guess: int | None
    units: tuple[str, ...]
    unit: str
    """that stands in the heading; else the reader's own"""
    options: tuple[Option, ...]


def _specs(kind: str) -> list[FieldSpec]:
    return [FieldSpec.of(n, info) for n, info in PARTS[kind].model_fields.items() if n not in NOT_MAPPED]


def _needed(kind: str) -> frozenset[str]:
    """Figures without which no row is a part of its kind; the standard shelf stands in for the others where it can."""
    if kind in QUICK:
        return frozenset({"model", *QUICK[kind].needed})
    return frozenset({"model", *(spec.name for spec in _specs(kind) if spec.required)})


def choices_of(kind: str, headings: Sequence[str], system: System) -> list[ColumnChoice]:
    """Every figure of a kind with the column that most likely holds it; a column is guessed for one figure alone."""
    taken: set[int] = set()
    needed, found = _needed(kind), []
    for spec in _specs(kind):
        words = [_plain(w) for w in (spec.name.rpartition("_")[0] or spec.name, PART_FIELDS[spec.name])]
        words += [_plain(w) for w in HEADINGS.get(spec.name, ())]
        free = [(k, _plain(h)) for k, h in enumerate(headings) if k not in taken and _plain(h)]
        exact = next((k for k, h in free if h in words), None)
        guess = exact if exact is not None else next((k for k, h in free if any(w in h for w in words)), None)
        if guess is not None:
            taken.add(guess)
        row = units.KINDS.get(spec.quantity) if spec.kind == "number" else None
        offered = () if row is None else (row.unit(system), row.metric, *row.others)
        signs = {u.sign: u.factor for u in offered if u.sign}
        unit = csv_table.guessed_unit(signs, headings, guess) if signs else ""
        found.append(
            ColumnChoice(
                spec.name, PART_FIELDS[spec.name], spec.name in needed, guess, tuple(signs), unit, spec.options
            )
        )  # fmt: skip
    return sorted(found, key=lambda c: not c.needed)


def headings_of(data: bytes) -> tuple[str, ...] | None:
    """The headings of a table that is not Clavis's own; None for its own, and for what is no table."""
    if data.lstrip(b"\xef\xbb\xbf \r\n\t").startswith((b"{", b"[")):
        return None
    first = next(iter(csv_table.rows(data)), None)
    return None if first is None or "id" in first[1] else tuple(first[1])


def columns_form(request: Request, reading: Reader, name: str, kind: str, data: bytes) -> Response | None:
    """The form that asks for the columns of a supplier's table; None where the file is Clavis's own. Raises
    ProfileError where it is no table."""
    headings = headings_of(data)
    if headings is None:
        return None
    rows = [row for _, row in zip(range(csv_table.PREVIEW_ROWS + 1), csv_table.rows(data), strict=False)][1:]
    return render(
        request, reading, "parts/columns.html", name=name, kind=kind, headings=headings,
        rows=[cells for _, cells in rows], columns=choices_of(kind, headings, reading.system), shelf=kind in QUICK,
    )  # fmt: skip


@dataclass(frozen=True)
class Mapped:
    """Where a figure stands: a column, with the unit of cells that name none, or one text for every row."""

    column: int | None
    unit: str
    same: str

    def text(self, cells: Sequence[str]) -> str:
        if self.column is None or self.column >= len(cells):
            return self.same
        cell = cells[self.column].strip()
        bare = cell and not any(c.isalpha() or c in "\"'′″" for c in cell)
        return f"{cell} {self.unit}" if bare and self.unit else cell or self.same


def mapping_of(form: FormData, kind: str) -> dict[str, Mapped]:
    """What a person said of every figure."""
    found = {}
    for spec in _specs(kind):
        column = entries.place_in(str(form.get(f"col-{spec.name}", "")), csv_table.MOST_COLUMNS)
        unit, same = str(form.get(f"unit-{spec.name}", ""))[:8], str(form.get(f"same-{spec.name}", ""))[:80].strip()
        found[spec.name] = Mapped(column, unit, same)
    return found


def _choice(spec: FieldSpec, text: str) -> str:
    """The choice that a supplier's word means. Raises QuantityError with the choices."""
    word = _plain(text)
    for option in spec.options:
        if word in {_plain(option.value), _plain(option.label), *CHOICES.get(option.value, ())}:
            return option.value
    allowed = ", ".join(option.label for option in spec.options)
    raise QuantityError(PART_FIELDS[spec.name], f"“{text[:30]}”", allowed)


def _figure(spec: FieldSpec, kind: str, text: str, system: System, currency: str) -> Any:
    if spec.options:
        return spec.read(_choice(spec, text), system, PART_FIELDS[spec.name])
    if spec.kind == "flag":
        return _plain(text) in ("yes", "y", "true", "1", "x")
    if parts_file.is_list(PARTS[kind], spec.name):
        return parts_file.from_cells(kind, {spec.name: text}).get(spec.name)
    return spec.read(text, system, PART_FIELDS[spec.name], currency)


def part_of(kind: str, mapping: Mapping[str, Mapped], cells: Sequence[str], system: System, currency: str) -> AnyPart:
    """One row as a part. Raises QuantityError, ValidationError."""
    texts = {spec.name: mapping[spec.name].text(cells) for spec in _specs(kind)}
    told = {
        spec.name: _figure(spec, kind, texts[spec.name], system, currency)
        for spec in _specs(kind)
        if texts[spec.name] and spec.name not in ("id", "maker", "model")
    }
    missing = next((name for name in _needed(kind) if not texts[name] and name != "id"), None)
    if missing is not None:
        raise QuantityError(PART_FIELDS[missing], "nothing", "an answer in every row, or the same for all")
    number, maker, model = part_number("", texts["id"]) if texts["id"] else "", texts["maker"][:40], texts["model"][:60]
    if kind in QUICK:
        return quick_part(kind, told, maker, model, number=number).part
    named = {"id": number or part_number(maker, model), "maker": maker, "model": model}
    return parse_part({"kind": kind, **told, **named})


def _rows(
    kind: str, mapping: Mapping[str, Mapped], data: bytes, system: System, currency: str
) -> Iterator[tuple[str, AnyPart | BadRow]]:
    for at, (line, cells) in enumerate(csv_table.rows(data)):
        if at == 0:
            continue
        if at > MOST_PARTS:
            raise ClavisError(f"more than {MOST_PARTS:,} rows")
        place = f"line {line}"
        name = mapping["id"].text(cells)[:60] or mapping["model"].text(cells)[:60]
        try:
            yield place, part_of(kind, mapping, cells, system, currency)
        except QuantityError as error:
            yield place, BadRow(place, name, str(error))
        except ValidationError as error:
            first = error.errors()[0]
            where = next((PART_FIELDS[str(s)] for s in first["loc"] if str(s) in PART_FIELDS), "")
            yield place, BadRow(place, name, f"{where}: {describe(first)}" if where else describe(first))


def _plan(request: Request, session: SessionDep, reading: Reader, file: UploadFile, form: FormData) -> shelf.Plan:
    """What a supplier's table would change. Raises ClavisError."""
    kind = str(form.get("kind", "rotor"))
    kind = known_kind(kind)
    currency = request.app.state.settings.currency
    good: dict[str, tuple[str, AnyPart]] = {}
    bad: list[BadRow] = []
    for place, found in _rows(kind, mapping_of(form, kind), file.file.read(), reading.system, currency):
        if isinstance(found, BadRow):
            bad.append(found)
        elif found.id in good:
            bad.append(BadRow(place, found.id, "the file has this part number twice"))
        else:
            good[found.id] = (place, found)
    return shelf.plan_of(session, list(good.values()), bad)


@router.post("/parts/columns", dependencies=mechanic("a mechanic keeps the parts"))
def plan(request: Request, session: SessionDep, reading: ReaderDep, file: UploadFile, form: FormDep) -> Response:
    """What the table would change with its columns read so; nothing is kept."""
    name = name_of(file, "file")
    try:
        found = _plan(request, session, reading, file, form)
    except ClavisError as error:
        return message(f"{name}: {reading.told(error.said)}", 422)
    return render(
        request, reading, "parts/parts_plan.html", plan=found, name=name, labels=PART_FIELDS,
        take="/parts/columns/take", include="#parts-form, #columns-form",
    )  # fmt: skip


@router.post("/parts/columns/take", dependencies=mechanic("a mechanic keeps the parts"))
def take(
    request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, file: UploadFile, form: FormDep
) -> Response:
    """Take the good rows of a supplier's table."""
    try:
        found = _plan(request, session, reading, file, form)
        part_imports.take(session, found, name_of(file, "file"), author.who)
    except ClavisError as error:
        return message(str(error), 422)
    kind = known_kind(str(form.get("kind", "")))
    return Response(status_code=200, headers={"HX-Redirect": f"/parts?kind={kind}"})
