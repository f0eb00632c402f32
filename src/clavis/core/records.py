"""What records and tables have in common: records are frozen and hold nothing unknown, figures lie within a range, the
figures of a table say their unit and where they come from."""

import dataclasses
import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Protocol

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


ItemId = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")]
"""the name of one item of a list, by which its place is found"""


def next_id(prefix: str, taken: Iterable[str]) -> str:
    """The name of what is written down next: a prefix, and a number above all that are there.

    >>> next_id("r", ["r1", "r4"]), next_id("life-", [])
    ('r5', 'life-1')
    """
    numbers = [int(name.removeprefix(prefix)) for name in taken if name.removeprefix(prefix).isdecimal()]
    return f"{prefix}{max(numbers, default=0) + 1}"


class Tick(Record):
    """Who, and when."""

    who: str = Field(min_length=1, max_length=40)
    at: str = Field(min_length=10, max_length=40)


def within(low: float, high: float, description: str = "") -> Any:
    """A figure that may be missing, with the range it must lie in."""
    return Field(None, ge=low, le=high, allow_inf_nan=False, description=description or None)


class HasWords(Protocol):
    """A row of a table that a field can name."""

    @property
    def words(self) -> str: ...


@dataclass(frozen=True, eq=False)
class Choices:
    """Marks a field whose values are the keys of a table; pages offer its rows by their words."""

    table: Mapping[str, HasWords]

    def known(self, value: str) -> str:
        if value not in self.table:
            raise ValueError(f"it should be one of {', '.join(self.table)}")
        return value

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(self.known, handler(source))

    def __get_pydantic_json_schema__(self, _schema: CoreSchema, _handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {"type": "string", "enum": list(self.table)}


def key_of(table: Mapping[str, HasWords]) -> Any:
    """The type of a field that names a row of a table: a new row is a new choice, everywhere."""
    return Annotated[str, Choices(table)]


def figure(unit: str, source: str, words: str = "") -> Any:
    """A column of figures in a table of rules: its unit, a key of ``units.KINDS`` (empty: a plain ratio), where its
    figures come from, and what they are, for who reads the table."""
    return dataclasses.field(metadata={"unit": unit, "source": source, "words": words})


@dataclass(frozen=True)
class Column:
    """One column of a table, as it is shown to who reads the rules."""

    name: str
    words: str
    unit: str
    source: str


def columns_of(row: type) -> tuple[Column, ...]:
    """The columns of figures of a table's rows, in their order."""
    return tuple(
        Column(f.name, f.metadata["words"] or f.name.replace("_", " "), f.metadata["unit"], f.metadata["source"])
        for f in dataclasses.fields(row)
        if "unit" in f.metadata
    )


def digest(text: str) -> str:
    """A short mark of a text: another one for another text.

    >>> digest("M6 × 20")
    '6fc273e45d2bcb04'
    """
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def describe(error: Mapping[str, Any]) -> str:
    """A pydantic error as one plain sentence with the value that was given."""
    message = str(error["msg"]).removeprefix("Value error, ").replace("Input should", "it should")
    given = error.get("input")
    shown = f" (given: {given!s:.40})" if isinstance(given, str | int | float) else ""
    return message + shown
