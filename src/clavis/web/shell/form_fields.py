"""Fields of forms, made from the core's models: kind, unit, choices, range, how a value is shown and what was typed is
read. A job's fields and a catalogue line's are made here alike."""

from dataclasses import dataclass, replace
from enum import Enum
from itertools import groupby
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from annotated_types import Ge, Gt, Le, Lt
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from clavis.core import entries, units
from clavis.core.errors import QuantityError
from clavis.core.records import Choices
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.units import System
from clavis.core.wording.labels import choice_word

LONG_TEXT = 200
"""a text that may be longer is typed on several lines"""


@dataclass(frozen=True)
class Option:
    value: str
    label: str
    group: Words = NOTHING
    """what it stands under in the list"""


@dataclass(frozen=True)
class FieldView:
    """One field ready for the page. ``kind`` is number, numbers, choice, part, flag, text or lines; ``name`` its path
    or its name in the form."""

    name: str
    label: str
    kind: str
    text: str
    unit: str = ""
    options: tuple[Option, ...] = ()
    placeholder: str = ""
    is_default: bool = False
    required: bool = False
    hint: str = ""
    error: Words = NOTHING
    theirs: str = ""
    adds: str = ""
    """the kind of part that can be added in passing where the list has not got it"""
    more: int = 0
    """choices that are not listed, since there are too many: they are found by typing"""
    source: Words = NOTHING
    """where a reading came from that no hand typed, or a value that stands in"""

    @property
    def grouped(self) -> list[tuple[Words, list[Option]]]:
        """The choices as they stand in the list, by what they stand under."""
        return [(words, list(rows)) for words, rows in groupby(self.options, key=lambda option: option.group)]

    @property
    def html_id(self) -> str:
        return "f-" + self.name.replace(".", "-")


def with_error(view: FieldView, typed: str, error: Words, theirs: str = "") -> FieldView:
    """The field with the text as it was typed and the reason why it was not kept."""
    return replace(view, text=typed, error=error, theirs=theirs)


def base_type(annotation: Any) -> tuple[Any, bool]:
    """The type without Optional and Annotated, and whether it may be missing."""
    if get_origin(annotation) is Annotated:
        return base_type(get_args(annotation)[0])
    if get_origin(annotation) in (Union, UnionType):
        inner = [a for a in get_args(annotation) if a is not type(None)]
        return base_type(inner[0])[0], len(inner) < len(get_args(annotation))
    return annotation, False


def _marks(info: FieldInfo) -> list[Any]:
    """What a field is marked with: its own, and that of the type inside an optional one."""
    found = list(info.metadata)
    for inner in (info.annotation, *get_args(info.annotation)):
        found += list(getattr(inner, "__metadata__", ()))
    return [nested for mark in found for nested in getattr(mark, "metadata", [mark])]


@dataclass(frozen=True)
class FieldSpec:
    """What a model says of one of its fields."""

    name: str
    base: Any
    optional: bool
    options: tuple[Option, ...]
    low: float | None
    high: float | None
    most_letters: int
    required: bool
    hint: str

    @classmethod
    def of(cls, name: str, info: FieldInfo) -> "FieldSpec":
        base, optional = base_type(info.annotation)
        marks = _marks(info)
        table = next((mark.table for mark in marks if isinstance(mark, Choices)), None)
        low = next((m.ge if isinstance(m, Ge) else m.gt for m in marks if isinstance(m, Ge | Gt)), None)
        high = next((m.le if isinstance(m, Le) else m.lt for m in marks if isinstance(m, Le | Lt)), None)
        letters = next((m.max_length for m in marks if hasattr(m, "max_length")), 60)
        if table is not None:
            options = tuple(Option(key, row.words) for key, row in table.items())
        elif isinstance(base, type) and issubclass(base, Enum):
            options = tuple(Option(member.value, choice_word(member)) for member in base)
        elif get_origin(base) is Literal:
            options = tuple(Option(str(v), str(v).replace("_", " ")) for v in get_args(base))
        elif base is bool and optional:
            options = (Option("yes", "yes"), Option("no", "no"))
        else:
            options = ()
        needed = info.is_required() and not optional
        least, most = (None if edge is None else float(edge) for edge in (low, high))  # type: ignore[arg-type]
        return cls(name, base, optional, options, least, most, letters, needed, info.description or "")

    @property
    def kind(self) -> str:
        if self.options:
            return "choice"
        if self.base is bool:
            return "flag"
        if self.base in (float, int):
            return "number"
        if self.base is str and self.name.endswith("_on"):
            return "day"
        if get_origin(self.base) is tuple and base_type(get_args(self.base)[0])[0] is float:
            return "numbers"
        return "lines" if self.most_letters > LONG_TEXT else "text"

    @property
    def quantity(self) -> str:
        """The kind of quantity it holds, a key of ``units.KINDS``."""
        return units.kind_of(self.name)

    def unit(self, system: System) -> str:
        return units.sign(self.quantity, system) if self.kind in ("number", "numbers") else ""

    def allowed(self) -> Words:
        """The range it must lie in; nothing where there is none."""
        if self.low is None or self.high is None:
            return NOTHING
        words = f"{{low_{self.quantity}:g}} to {{high_{self.quantity}:g}}"
        return say(words, **{f"low_{self.quantity}": self.low, f"high_{self.quantity}": self.high})

    def text_of(self, value: Any, system: System) -> str:
        """A kept value as it stands in the entry."""
        if self.kind == "number":
            return units.entry(value, self.quantity, system)
        if self.kind == "numbers":
            return " ".join(units.entry(number, self.quantity, system) for number in value or ())
        if self.base is bool:
            on, off = ("yes", "no") if self.optional else ("on", "")
            return "" if value is None else on if value else off
        return "" if value is None else str(value)

    def read(self, text: str, system: System, label: str, currency: str = "") -> Any:
        """What was typed, as the plain value that is kept; None for an empty entry where there may be none. A sum may
        carry its ``currency``. Raises QuantityError with the reason."""
        text = text.strip()
        if self.kind == "flag":
            return text == "on"
        if self.kind == "numbers":
            return self.read_numbers(text, system, label)
        if not text and self.optional:
            return None
        if self.kind == "number":
            return self._number(text, system, label, currency)
        if self.options:
            return self._choice(text, label)
        if self.kind == "day":
            return entries.day(text, label)
        if self.base is str:
            return entries.tyre_size(text, label) if self.name.endswith("tyre_size") else entries.text(text, label)
        raise QuantityError("field", self.name, "a field that can be typed")

    def _number(self, text: str, system: System, label: str, currency: str) -> float | int:
        typed = entries.parse(text, self.quantity, system, label, low=self.low, high=self.high, currency=currency)
        number = round(typed, 6)
        if (self.low is not None and number < self.low) or (self.high is not None and number > self.high):
            given = say(f"{{given_{self.quantity}:g}}", **{f"given_{self.quantity}": number})
            raise QuantityError(label, given, self.allowed())
        return int(number) if self.base is int else number

    def _choice(self, text: str, label: str) -> Any:
        if text not in {option.value for option in self.options}:
            raise QuantityError(label, f"“{text[:30]}”", "one of the choices")
        if self.base is bool:
            return text == "yes"
        if get_origin(self.base) is Literal:
            return next(v for v in get_args(self.base) if str(v) == text)
        return text

    def read_numbers(self, text: str, system: System, label: str) -> list[float]:
        """Several readings typed in a row, parted by spaces or semicolons. Raises QuantityError with the first bad
        one."""
        unit = units.sign(self.quantity, system)
        words = (word for word in text.replace(";", " ").split() if word.lower() != unit)
        return [round(entries.parse(word, self.quantity, system, label), 6) for word in words]


def spec_at(model: type[BaseModel], path: str) -> FieldSpec:
    """The field behind a dotted path; list positions and ids are stepped over. Raises QuantityError where there is
    none."""
    inside: type[BaseModel] | None = model
    info: FieldInfo | None = None
    for segment in path.split("."):
        if inside is not None and segment in inside.model_fields:
            info = inside.model_fields[segment]
            inside = _model_inside(info.annotation)
        elif info is None or inside is None or get_origin(info.annotation) is not tuple:
            raise QuantityError("field", path, "a field of the job")
    if info is None:
        raise QuantityError("field", path, "a field of the job")
    return FieldSpec.of(path, info)


def _model_inside(annotation: Any) -> type[BaseModel] | None:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    return next((found for inner in get_args(annotation) if (found := _model_inside(inner)) is not None), None)
