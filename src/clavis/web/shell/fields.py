"""Fields of a job as pages show and read them: label, unit, choices and range all come from the core's model."""

from dataclasses import dataclass, replace
from enum import Enum
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from annotated_types import Ge, Gt, Le, Lt
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from clavis.core import units
from clavis.core.errors import QuantityError
from clavis.core.evaluation.situation import default_of
from clavis.core.job import paths
from clavis.core.job.document import Job
from clavis.core.job.maker_data import STATED
from clavis.core.parts.models import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.units import System
from clavis.core.wording.labels import choice_word, field_word, part_words
from clavis.store.jobs import RefusedError

PART_KINDS = {
    "rotor_id": "rotor",
    "caliper_id": "caliper",
    "lever_id": "lever",
    "pad_id": "pad",
    "adapter_id": "adapter",
    "fluid_id": "fluid",
}


@dataclass(frozen=True)
class Option:
    value: str
    label: str


@dataclass(frozen=True)
class FieldView:
    """One field ready for the page. ``kind`` is number, numbers, choice, part, flag, text or lines."""

    path: str
    label: str
    kind: str
    text: str
    unit: str
    options: tuple[Option, ...]
    placeholder: str
    is_default: bool
    error: str = ""
    theirs: str = ""
    allowed: str = ""

    @property
    def html_id(self) -> str:
        return "f-" + self.path.replace(".", "-")


def _field_info(path: str) -> FieldInfo:
    """The model's field behind a path; list positions and ids are stepped over. Raises QuantityError."""
    model: type[BaseModel] | None = Job
    info: FieldInfo | None = None
    for segment in path.split("."):
        if model is not None and segment in model.model_fields:
            info = model.model_fields[segment]
            model = _model_inside(info.annotation)
        elif info is None or model is None or get_origin(info.annotation) is not tuple:
            raise QuantityError("field", path, "a field of the job")
    if info is None:
        raise QuantityError("field", path, "a field of the job")
    return info


def _model_inside(annotation: Any) -> type[BaseModel] | None:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    for inner in get_args(annotation):
        found = _model_inside(inner)
        if found is not None:
            return found
    return None


def base_type(annotation: Any) -> tuple[Any, bool]:
    """The type without Optional and Annotated, and whether it may be missing."""
    if get_origin(annotation) is Annotated:
        return base_type(get_args(annotation)[0])
    if get_origin(annotation) in (Union, UnionType):
        inner = [a for a in get_args(annotation) if a is not type(None)]
        return base_type(inner[0])[0], len(inner) < len(get_args(annotation))
    return annotation, False


def _bounds(info: FieldInfo) -> tuple[float | None, float | None]:
    low = high = None
    marks = list(info.metadata)
    for inner in get_args(info.annotation):
        marks += list(getattr(inner, "__metadata__", ()))
    for mark in marks:
        for nested in getattr(mark, "metadata", [mark]):
            if isinstance(nested, Ge | Gt):
                low = float(nested.ge if isinstance(nested, Ge) else nested.gt)  # type: ignore[arg-type]
            if isinstance(nested, Le | Lt):
                high = float(nested.le if isinstance(nested, Le) else nested.lt)  # type: ignore[arg-type]
    return low, high


def _allowed(info: FieldInfo, kind: str, system: System) -> str:
    low, high = _bounds(info)
    if low is None or high is None:
        return ""
    return f"{units.entry(low, kind, system)} to {units.entry(high, kind, system)} {units.sign(kind, system)}".strip()


def part_kind(path: str) -> str:
    """The kind of part that a field names: at the front a fork carries the caliper, at the rear a frame."""
    last = path.rsplit(".", 1)[-1]
    if last == "carrying_id":
        return "fork" if path.startswith(End.FRONT.value) else "frame"
    return PART_KINDS[last]


def _part_options(path: str, catalogue: Catalogue, chosen: str | None) -> tuple[Option, ...]:
    table = catalogue.of_kind(part_kind(path))
    rows = [p for p in table.values() if not p.retired or p.id == chosen]

    def label(part: Any) -> str:
        return ", ".join(filter(None, (part.name, part_words(part))))

    key = (lambda p: (p.diameter_mm, p.name)) if path.endswith("rotor_id") else (lambda p: p.name)
    return tuple(Option(p.id, label(p)) for p in sorted(rows, key=key))


def field_view(job: Job, path: str, catalogue: Catalogue, system: System) -> FieldView:
    """A field with its present value."""
    info = _field_info(path)
    base, optional = base_type(info.annotation)
    value = paths.read(job.model_dump(mode="json"), path)
    label, last = field_word(path), path.rsplit(".", 1)[-1]
    if last == "carrying_id" or last in PART_KINDS:
        keep = "as fitted" if path.startswith("proposal.") else "not named" if last in STATED else "not measured"
        return FieldView(path, label, "part", value or "", "", _part_options(path, catalogue, value), keep, False)
    if _is_numbers(base):
        kind, texts = units.kind_of(path), value or []
        text = " ".join(units.entry(number, kind, system) for number in texts)
        return FieldView(path, label, "numbers", text, units.sign(kind, system), (), "not measured", False)
    if base is bool:
        return FieldView(path, label, "flag", "on" if value else "", "", (), "", False)
    if isinstance(base, type) and issubclass(base, Enum):
        options = tuple(Option(member.value, choice_word(member)) for member in base)
        empty = "not measured" if path.startswith(("front.", "rear.")) else "not entered"
        empty = "as the job's" if ".sections." in path else empty
        return FieldView(path, label, "choice", value or "", "", options, empty if optional else "", False)
    if get_origin(base) is Literal:
        options = tuple(Option(str(v), str(v)) for v in get_args(base))
        return FieldView(path, label, "choice", str(value), "", options, "", False)
    if base in (float, int):
        kind = units.kind_of(path)
        default = default_of(job, path)
        empty = "not measured" if path.startswith(("front.", "rear.")) else ""
        if default is not None and value is None:
            empty = units.entry(round(default, 4), kind, system)
        return FieldView(
            path, label, "number", units.entry(value, kind, system), units.sign(kind, system), (), empty,
            default is not None and value is None, allowed=_allowed(info, kind, system),
        )  # fmt: skip
    high = next((m.max_length for m in info.metadata if hasattr(m, "max_length")), 60)
    return FieldView(path, label, "lines" if high > 200 else "text", value or "", "", (), "", False)


def read_field(path: str, text: str, system: System) -> Any:
    """What was typed, as the plain value that the job's document keeps. Raises RefusedError with the reason.

    An empty entry is *not entered* where that is possible.
    """
    try:
        info = _field_info(path)
        base, optional = base_type(info.annotation)
        stripped = text.strip()
        if base is bool:
            return stripped == "on"
        if _is_numbers(base):
            return read_numbers(path, stripped, system)
        if not stripped and optional:
            return None
        if base in (float, int):
            kind = units.kind_of(path)
            number = round(units.parse(stripped, kind, system, field_word(path)), 6)
            low, high = _bounds(info)
            if (low is not None and number < low) or (high is not None and number > high):
                raise QuantityError(field_word(path), units.show(number, kind, system), _allowed(info, kind, system))
            return int(number) if base is int else number
        if isinstance(base, type) and issubclass(base, Enum):
            if stripped not in {member.value for member in base}:
                raise QuantityError(field_word(path), f"“{stripped[:30]}”", "one of the choices")
            return stripped
        if get_origin(base) is Literal:
            match = [v for v in get_args(base) if str(v) == stripped]
            if not match:
                raise QuantityError(field_word(path), f"“{stripped[:30]}”", "one of the choices")
            return match[0]
        if base is str:
            return stripped
        raise QuantityError("field", path, "a field that can be typed")
    except QuantityError as error:
        raise RefusedError(path, str(error)) from None


def _is_numbers(base: Any) -> bool:
    return get_origin(base) is tuple and base_type(get_args(base)[0])[0] is float


def read_numbers(path: str, text: str, system: System) -> list[float]:
    """Several readings typed in a row, parted by spaces or semicolons. Raises QuantityError with the first bad one."""
    kind = units.kind_of(path)
    return [
        round(units.parse(word, kind, system, field_word(path)), 6)
        for word in text.replace(";", " ").split()
        if word.lower() != units.sign(kind, system)
    ]


def with_error(view: FieldView, typed: str, error: str, theirs: str = "") -> FieldView:
    """The field with the text as it was typed and the reason why it was not kept."""
    return replace(view, text=typed, error=error, theirs=theirs)
