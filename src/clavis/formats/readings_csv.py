"""Readings of a bike's parts as a table (CSV), out and in again: one row for each reading, with what it was read on."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.errors import ProfileError
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import FARTHEST_KM, WEARS, KeptBike, PartLife, WearReading
from clavis.core.keeping.gauges import GAUGES
from clavis.core.parts.mounts import End
from clavis.core.records import next_id
from clavis.formats import csv_table

HEAD = ("day", "odometer_km", "wheel", "part", "mm", "other_mm", "gauge", "who")
MOST_ROWS = 2000
THICKEST_MM = 12.0


def to_csv(bike: KeptBike) -> str:
    """Every reading, oldest first; text that a spreadsheet would take for a formula is quoted."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    lives = {life.id: life for life in bike.lives}
    for r in sorted(bike.readings, key=lambda r: (r.day, r.id)):
        life = lives[r.life]
        km = "" if r.km is None else f"{r.km:g}"
        other = "" if r.other_mm is None else f"{r.other_mm:g}"
        writer.writerow(
            (r.day, km, life.end.value, life.what.value, f"{r.mm:g}", other, r.gauge, csv_table.plain_cell(r.who))
        )
    return out.getvalue()


@dataclass(frozen=True)
class ReadingRow:
    """One row of a table that comes in."""

    line: int
    day: str
    km: float | None
    end: End
    what: Renewal
    mm: float
    other_mm: float | None
    gauge: str


def parse(data: bytes) -> tuple[ReadingRow, ...]:
    """Rows of a table, its columns found by their headings. Raises ProfileError naming the line."""
    table = csv_table.rows(data)
    try:
        _, headings = next(table)
    except StopIteration:
        raise ProfileError("the file is empty") from None
    names = [heading.strip().lower() for heading in headings]
    missing = [name for name in ("day", "wheel", "part", "mm") if name not in names]
    if missing:
        raise ProfileError(f"line 1: no column “{missing[0]}”; the columns are {', '.join(HEAD)}")
    found: list[ReadingRow] = []
    for line, cells in table:
        if len(found) >= MOST_ROWS:
            raise ProfileError(f"more than {MOST_ROWS} readings")
        found.append(_row(line, dict(zip(names, cells, strict=False))))
    return tuple(found)


def _row(line: int, cells: dict[str, str]) -> ReadingRow:
    place = f"line {line}"
    day = csv_table.day(cells.get("day", ""), place)
    end, what = cells.get("wheel", ""), cells.get("part", "")
    if end not in set(End):
        raise ProfileError(f"{place}: wheel “{end[:20]}”: front or rear")
    if what not in {w.value for w in WEARS}:
        raise ProfileError(f"{place}: part “{what[:20]}”: pad or rotor")
    gauge = cells.get("gauge") or ("pad_gauge" if what == Renewal.PAD else "micrometer")
    if gauge not in GAUGES:
        raise ProfileError(f"{place}: gauge “{gauge[:20]}”: one of {', '.join(GAUGES)}")
    mm = csv_table.figure(cells.get("mm", ""), f"{place}, mm", THICKEST_MM)
    if mm is None:
        raise ProfileError(f"{place}: nothing stands under “mm”")
    km = csv_table.figure(cells.get("odometer_km", ""), f"{place}, odometer_km", FARTHEST_KM)
    other = csv_table.figure(cells.get("other_mm", ""), f"{place}, other_mm", THICKEST_MM)
    return ReadingRow(line, day, km, End(end), Renewal(what), mm, other, gauge)


def added(bike: KeptBike, rows: Iterable[ReadingRow], who: str) -> tuple[KeptBike, int]:
    """The bike with the readings of a table on the parts that were on it on each day, and how many were new. One that
    is there already is not kept twice. Raises ProfileError where no part was on the wheel on that day."""
    readings, new = list(bike.readings), 0
    for row in rows:
        life = next((x for x in reversed(bike.lives) if _was_on(x, row)), None)
        if life is None:
            part = f"{row.what.value} of the {row.end.value} wheel"
            raise ProfileError(f"line {row.line}: no {part} is in the book for {row.day}")
        same = any((r.life, r.day, r.mm, r.km) == (life.id, row.day, row.mm, row.km) for r in readings)
        if not same:
            name = next_id("read-", (r.id for r in readings))
            told = {"day": row.day, "km": row.km, "mm": row.mm, "other_mm": row.other_mm, "gauge": row.gauge}
            readings.append(WearReading.model_validate({"id": name, "life": life.id, "who": who} | told))
            new += 1
    return bike.model_copy(update={"readings": tuple(readings)}), new


def _was_on(life: PartLife, row: ReadingRow) -> bool:
    if (life.end, life.what) != (row.end, row.what):
        return False
    begun = life.fitted is None or life.fitted.day <= row.day
    return begun and (life.removed is None or row.day <= life.removed.day)
