"""A table of text as people and instruments write it: comma, semicolon or tab, decimal comma or point, a first line of
headings. Every refusal names its line."""

import csv
import io
import math
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, datetime

from clavis.core import entries
from clavis.core.errors import ProfileError, QuantityError

MOST_COLUMNS, PREVIEW_ROWS = 60, 5
MOST_LINES = 250_000
LEAST_ROWS = 3


FORMULA_MARKS = ("=", "+", "-", "@", "\t", "\r")


def plain_cell(text: str) -> str:
    """Text that begins as a formula does is kept from being one: a spreadsheet must not take a name for it.

    >>> plain_cell("=1+1"), plain_cell("Tess")
    ("'=1+1", 'Tess')
    """
    return f"'{text}" if text.startswith(FORMULA_MARKS) else text


def in_short(text: str, most: int = 20) -> str:
    """The beginning of a text on one line, to be told in a refusal.

    >>> in_short("1\\n2\\n3 and so on without an end")
    '1 2 3 and so on with'
    """
    return " ".join(text[: 4 * most].split())[:most]


def rows(data: bytes) -> Iterator[tuple[int, list[str]]]:
    """Line number and cells of every row that is not empty."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise ProfileError(f"not readable as UTF-8 text: byte {error.start}") from None
    if data.count(b"\n") > MOST_LINES:
        raise ProfileError(f"the table has more than {MOST_LINES:,} lines; cut it first")
    sample = text[:4000]
    mark = max(";\t,", key=lambda m: sample.splitlines()[0].count(m) if sample.splitlines() else 0)
    reader = csv.reader(io.StringIO(text), delimiter=mark)
    try:
        for row in reader:
            if len(row) > MOST_COLUMNS:
                raise ProfileError(f"line {reader.line_num} has {len(row)} columns; {MOST_COLUMNS} at most")
            cells = list(map(str.strip, row))
            if any(cells):
                yield reader.line_num, cells
    except csv.Error as error:
        raise ProfileError(f"line {reader.line_num}: {error}") from None


def first_rows(data: bytes) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...]]:
    """Headings and the first rows. Raises ProfileError where there is no table."""
    found = [row for _, row in zip(range(PREVIEW_ROWS + 1), rows(data), strict=False)]
    if len(found) < LEAST_ROWS:
        raise ProfileError("the file holds no table: a line of headings and at least two rows are needed")
    return tuple(found[0][1]), tuple(tuple(row) for _, row in found[1:])


def guessed_column(headings: Sequence[str], marks: Sequence[str]) -> int | None:
    """The first column whose heading holds one of these words."""
    return next((k for k, heading in enumerate(headings) if any(mark in heading.lower() for mark in marks)), None)


def guessed_unit(units: Mapping[str, float], headings: Sequence[str], column: int | None) -> str:
    """The unit that stands in a column's heading; the first of the table where none does."""
    low = "" if column is None else headings[column].lower()
    marks = [u for u in units if f"({u})" in low or f"[{u}]" in low or low.endswith((f"_{u}", f" {u}"))]
    return marks[0] if marks else next(iter(units))


def number(text: str, place: str) -> float:
    """A number with a decimal comma or point, spaces parting thousands. Raises ProfileError with its place."""
    try:
        value = float(text)
    except ValueError:
        compact = text.replace(" ", "").replace("\u00a0", "")
        if "," in compact and "." not in compact:
            compact = compact.replace(",", ".")
        try:
            value = float(compact)
        except ValueError:
            raise ProfileError(f"{place}: “{in_short(text)}” is not a number") from None
    if not math.isfinite(value):
        raise ProfileError(f"{place}: “{in_short(text)}” is not a number")
    return value


def day(text: str, place: str) -> str:
    """A day of the calendar. Raises ProfileError with its place."""
    try:
        return entries.day(text)
    except QuantityError:
        raise ProfileError(f"{place}: “{in_short(text)}” is no day, as 2026-11-29") from None


def figure(text: str, place: str, most: float) -> float | None:
    """A number from nought to the most that it can be; None for an empty cell. Raises ProfileError with its place."""
    if not text:
        return None
    value = number(text, place)
    if not 0 <= value <= most:
        raise ProfileError(f"{place}: {value:g} is not between 0 and {most:g}")
    return value


def moment_s(text: str, place: str) -> float:
    """A date with time, s since 1970; without a zone it is taken as universal time. Raises ProfileError."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        raise ProfileError(f"{place} has the time “{in_short(text, 30)}”") from None
    return (moment if moment.tzinfo else moment.replace(tzinfo=UTC)).timestamp()


def clock_s(text: str, place: str) -> float:
    """Minutes and seconds, hours too, or a date with time, s. Raises ProfileError."""
    parts = text.split(":")
    if len(parts) in (2, 3) and all(p.replace(".", "", 1).isdigit() for p in parts):
        return sum(float(p) * 60.0**k for k, p in enumerate(reversed(parts)))
    return moment_s(text, place)
