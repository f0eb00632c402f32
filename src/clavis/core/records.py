"""What records and tables have in common: records are frozen and hold nothing unknown, figures lie within a range, the
figures of a table say their unit and where they come from."""

import dataclasses
import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Protocol

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler, ValidationError
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


FROM_FILE = "from a file: "
"""begins the name of who did something elsewhere, and whose word came with a file"""
LONGEST_NAME = 40


class Tick(Record):
    """Who, and when."""

    who: str = Field(min_length=1, max_length=LONGEST_NAME)
    at: str = Field(min_length=10, max_length=40)

    @property
    def given_here(self) -> bool:
        """Whether somebody did it in this workshop; what came with a file is on record and counts for nothing."""
        return not self.who.startswith(FROM_FILE)


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


# What is wanted, by what pydantic found wrong; a validator's own words are told as they are.
_WANTED: Mapping[str, str] = {
    "missing": "it is missing",
    "extra_forbidden": "there is no such field",
    "string_type": "wanted: text",
    "string_pattern_mismatch": "it holds letters or signs that cannot stand here",
    "string_too_short": "it is empty",
    "string_too_long": "wanted: at most {max_length} letters",
    "greater_than_equal": "wanted: at least {ge:g}",
    "greater_than": "wanted: more than {gt:g}",
    "less_than_equal": "wanted: at most {le:g}",
    "less_than": "wanted: less than {lt:g}",
    "finite_number": "wanted: a number",
    "bool_parsing": "wanted: yes or no",
    "bool_type": "wanted: yes or no",
    "too_short": "wanted: at least {min_length}",
    "too_long": "wanted: at most {max_length}",
}
_NUMBERS = ("float_parsing", "float_type", "int_parsing", "int_type", "int_from_float")
_CHOICES = ("enum", "literal_error")


def describe(error: Mapping[str, Any]) -> str:
    """A pydantic error in plain words: what is wanted, and what was given.

    >>> describe({"type": "greater_than_equal", "msg": "", "ctx": {"ge": 120}, "input": 50})
    'wanted: at least 120 (given: 50)'
    """
    kind, given, told = str(error["type"]), error.get("input"), error.get("ctx") or {}
    if kind in _NUMBERS:
        message = "wanted: a whole number" if kind.startswith("int") else "wanted: a number"
    elif kind in _CHOICES:
        message = "wanted: " + str(told.get("expected", "one of the choices")).replace("'", "")
    elif kind in _WANTED:
        message = _WANTED[kind].format(**told)
    else:
        message = str(error["msg"]).removeprefix("Value error, ").replace("Input should", "it should")
    shown = f" (given: {given!s:.40})" if isinstance(given, str | int | float) and given != "" else ""
    return message + shown


MOST_ERRORS = 5000
"""that are looked at one by one: pydantic has no first error without all of them"""


def described(error: ValidationError) -> str:
    """The first thing that is wrong, with its place."""
    if error.error_count() > MOST_ERRORS:
        return f"{error.error_count():,} things of it are wrong"
    first = error.errors(include_url=False)[0]
    place = ".".join(map(str, first["loc"]))
    return f"{place}: {describe(first)}" if place else describe(first)
