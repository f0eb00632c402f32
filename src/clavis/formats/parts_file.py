"""The open files of the catalogue: CSV by kind and JSON, out and in (docs/formats.md)."""

import csv
import io
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel, ValidationError

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.parts.models import PARTS, AnyPart, parse_part
from clavis.core.records import describe
from clavis.formats.csv_table import plain_cell
from clavis.formats.plain_json import MOST_PARTS, parse_json

FORMAT = "clavis-parts"
VERSION = 1
LIST_MARK, PAIR_MARK = ";", ":"


class PartsFileError(ClavisError):
    """A catalogue file that cannot be read at all."""


@dataclass(frozen=True)
class BadRow:
    """A row that cannot be taken: its place in the file, what it calls itself, and why."""

    place: str
    name: str
    reason: str


def columns_of(kind: str) -> list[str]:
    """The columns of a kind's CSV: the fields of its lines."""
    return list(PARTS[kind].model_fields)


def cell_of(value: Any) -> str:
    """A plain value as a CSV holds it."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        pairs = (PAIR_MARK.join(cell_of(v) for v in x.values()) if isinstance(x, dict) else cell_of(x) for x in value)
        return LIST_MARK.join(pairs)
    if isinstance(value, float):
        return f"{value:.12g}"
    return plain_cell(str(value))


def write_csv(parts: Iterable[AnyPart], kind: str) -> str:
    """All lines of one kind, a column per field; lists parted by semicolons, places of an adapter as ``end:rotor``."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    columns = columns_of(kind)
    writer.writerow(columns)
    for part in parts:
        if part.kind == kind:
            document = part.model_dump(mode="json")
            writer.writerow([cell_of(document[name]) for name in columns])
    return out.getvalue()


def write_json(parts: Iterable[AnyPart]) -> str:
    rows = [part.model_dump(mode="json") for part in parts]
    file = {"format": FORMAT, "version": VERSION, "clavis": __version__, "parts": rows}
    return json.dumps(file, ensure_ascii=False, indent=1)


def is_list(model: type[BaseModel], name: str) -> bool:
    """Whether a field holds several values."""
    return "tuple" in str(model.model_fields[name].annotation)


def _value(model: type[BaseModel], name: str, text: str) -> Any:
    """A cell as the plain value its field takes; None where it is empty."""
    text = text.strip().removeprefix("'")
    if not text:
        return () if is_list(model, name) else None
    if name == "fits":
        pairs = [pair.split(PAIR_MARK, 1) for pair in text.split(LIST_MARK) if pair.strip()]
        return [{"end": p[0].strip(), "rotor_mm": p[1].strip() if len(p) > 1 else None} for p in pairs]
    if is_list(model, name):
        return [item.strip() for item in text.split(LIST_MARK) if item.strip()]
    if model.model_fields[name].annotation is bool:
        return {"yes": True, "no": False}.get(text.lower(), text)
    if text.isdecimal() and get_origin(model.model_fields[name].annotation) is Literal:
        return int(text) if int(text) in get_args(model.model_fields[name].annotation) else text
    if text.count(",") == 1 and "." not in text and text.replace(",", "").lstrip("-").isdigit():
        return text.replace(",", ".")
    return text


def from_cells(kind: str, cells: Mapping[str, str]) -> dict[str, Any]:
    """A line as plain data from the texts of its fields, as a CSV holds them; what is empty takes the default."""
    model = PARTS[kind]
    data = {name: _value(model, name, text) for name, text in cells.items() if name != "kind"}
    filled = {name: value for name, value in data.items() if value is not None and value != ()}
    return {"kind": kind, **filled}


Row = tuple[str, dict[str, Any]]
"""where in the file, and the part as plain data; under ``!`` why it is none"""


def _table(data: bytes) -> Iterator[tuple[int, dict[str, str]]]:
    """Line number and cells by heading, of every row that is not empty; cells beyond the headings under an empty one.
    Raises PartsFileError."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise PartsFileError(f"not readable as UTF-8 text: byte {error.start}") from None
    first = text.splitlines()[0] if text.strip() else ""
    mark = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text), delimiter=mark)
    headings: list[str] = []
    try:
        for cells in reader:
            stripped = [cell.strip() for cell in cells]
            if not headings:
                headings = stripped
            elif any(stripped):
                beyond = {"": " ".join(stripped[len(headings) :])} if len(stripped) > len(headings) else {}
                yield reader.line_num, dict(zip(headings, stripped, strict=False)) | beyond
    except csv.Error as error:
        raise PartsFileError(f"line {reader.line_num}: {error}") from None


def _csv_rows(data: bytes, kind: str) -> list[Row]:
    rows: list[Row] = []
    for line, cells in _table(data):
        if "id" not in cells:
            usual = f"the columns of a {kind} are {', '.join(columns_of(kind))}" if kind in PARTS else "and one “kind”"
            raise PartsFileError(f"line 1: a column “id” is needed; {usual}")
        own, place = cells.get("kind") or kind, f"line {line}"
        strange = [name for name, text in cells.items() if text and own in PARTS and name not in columns_of(own)]
        if own not in PARTS:
            rows.append((place, {"id": cells["id"], "!": f"“{own[:20]}” is no kind of part"}))
        elif strange:
            named = ", ".join(f"“{name[:30]}”" if name else "more cells than headings" for name in strange[:3])
            rows.append((place, {"id": cells["id"], "!": f"a {own} has no column {named}"}))
        else:
            rows.append((place, from_cells(own, {k: v for k, v in cells.items() if k in columns_of(own)})))
        if len(rows) > MOST_PARTS:
            raise PartsFileError(f"more than {MOST_PARTS:,} rows")
    return rows


def _json_rows(data: bytes) -> list[Row]:
    try:
        raw = parse_json(data)
    except ValueError as error:
        raise PartsFileError(str(error)) from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise PartsFileError(f"format: not a Clavis parts file (“{FORMAT}” is missing)")
    if raw.get("version") != VERSION:
        raise PartsFileError(f"version: {raw.get('version')!r:.20} is not known; this program reads {VERSION}")
    parts = raw.get("parts")
    if not isinstance(parts, list) or len(parts) > MOST_PARTS:
        raise PartsFileError(f"parts: a list of at most {MOST_PARTS:,} parts is needed")
    return [(f"parts.{k}", row if isinstance(row, dict) else {"!": "not an object"}) for k, row in enumerate(parts)]


def read_rows(data: bytes, kind: str) -> tuple[list[tuple[str, AnyPart]], list[BadRow]]:
    """The lines of a CSV or JSON file that are good, with their place, and those that are not. ``kind`` is what rows
    are taken for that do not say it. Raises PartsFileError where the file cannot be read at all; a bad row is listed,
    not raised."""
    rows = _json_rows(data) if data.lstrip(b"\xef\xbb\xbf \r\n\t").startswith((b"{", b"[")) else _csv_rows(data, kind)
    good: list[tuple[str, AnyPart]] = []
    bad: list[BadRow] = []
    seen: set[str] = set()
    for place, row in rows:
        try:
            if "!" in row:
                raise PartsFileError(str(row["!"]))
            part = parse_part(row)
            if part.id in seen:
                raise PartsFileError("the file has this id twice")
            seen.add(part.id)
            good.append((place, part))
        except (ValidationError, PartsFileError) as error:
            bad.append(BadRow(place, str(row.get("id") or "")[:60], _why(error)))
    return good, bad


def _why(error: ValidationError | PartsFileError) -> str:
    if isinstance(error, PartsFileError):
        return str(error)
    first = error.errors()[0]
    where = ".".join(str(step) for step in first["loc"] if step not in PARTS)
    return f"{where}: {describe(first)}" if where else describe(first)
