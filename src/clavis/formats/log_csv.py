"""The log of a bike as a table (CSV), out and in again: one row for each thing that was done."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.errors import ProfileError
from clavis.core.keeping.bike import FARTHEST_KM, KeptBike, LogEntry
from clavis.core.keeping.cures import written
from clavis.core.parts.mounts import End
from clavis.formats import csv_table

HEAD = ("day", "odometer_km", "wheel", "what", "why", "who")
MOST_ROWS = 2000


def to_csv(bike: KeptBike) -> str:
    """Every entry, oldest first."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    for e in sorted(bike.entries, key=lambda e: (e.day, e.id)):
        km = "" if e.km is None else f"{e.km:g}"
        words = (csv_table.plain_cell(text) for text in (e.what, e.why, e.who))
        writer.writerow((e.day, km, e.end.value if e.end else "", *words))
    return out.getvalue()


@dataclass(frozen=True)
class LogRow:
    """One row of a table that comes in."""

    day: str
    km: float | None
    end: End | None
    what: str
    why: str


def is_log(data: bytes) -> bool:
    """Whether a table is one of a log, by its headings. Raises ProfileError for what is no text."""
    head = next(csv_table.rows(data), (1, []))[1]
    return "what" in [name.strip().lower() for name in head]


def parse(data: bytes) -> tuple[LogRow, ...]:
    """Rows of a table, its columns found by their headings. Raises ProfileError naming the line."""
    table = csv_table.rows(data)
    _, headings = next(table, (1, []))
    names = [heading.strip().lower() for heading in headings]
    if "day" not in names or "what" not in names:
        raise ProfileError(f"line 1: the columns are {', '.join(HEAD)}")
    found: list[LogRow] = []
    for line, values in table:
        if len(found) >= MOST_ROWS:
            raise ProfileError(f"more than {MOST_ROWS} entries")
        cells, place = dict(zip(names, values, strict=False)), f"line {line}"
        day = csv_table.day(cells.get("day", ""), place)
        what, end = cells.get("what", "").lstrip("'")[:200], cells.get("wheel", "")
        if not what:
            raise ProfileError(f"{place}: nothing stands under “what”")
        if end and end not in set(End):
            raise ProfileError(f"{place}: wheel “{end[:20]}”: front, rear, or nothing")
        km = csv_table.figure(cells.get("odometer_km", ""), f"{place}, odometer_km", FARTHEST_KM)
        why = cells.get("why", "").lstrip("'")[:300]
        found.append(LogRow(day, km, End(end) if end else None, what, why))
    return tuple(found)


def added(bike: KeptBike, rows: Iterable[LogRow], who: str) -> tuple[KeptBike, int]:
    """The bike with the entries of a table, and how many were new; one that is there already is not written twice."""
    new = 0
    for row in rows:
        if not any((e.day, e.end, e.what) == (row.day, row.end, row.what) for e in bike.entries):
            entry = LogEntry(id="new", day=row.day, km=row.km, end=row.end, what=row.what, why=row.why, who=who)
            bike, new = written(bike, entry), new + 1
    return bike, new
