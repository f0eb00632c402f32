"""Readings and log of a bike out and in again, by the dice; the calendar read back whole."""

from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from icalendar import Calendar

from clavis.core.errors import ProfileError
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, LogEntry, PartLife, WearReading
from clavis.core.parts.mounts import End
from clavis.formats import log_csv, readings_csv
from clavis.formats.calendar import CalendarItem, to_ics

LIVES = tuple(
    PartLife(id=f"life-{k}", end=end, what=what)
    for k, (end, what) in enumerate((e, w) for e in End for w in (Renewal.PAD, Renewal.ROTOR))
)
BARE = KeptBike(lives=LIVES)
DAYS = st.dates(date(2020, 1, 1), date(2026, 11, 29)).map(date.isoformat)
MM = st.floats(0.1, 6).map(lambda v: round(v, 2))
TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=30)
WEARING = st.tuples(st.integers(0, 3), DAYS, MM, st.none() | st.floats(0, 9000).map(round))
DONE = st.tuples(DAYS, TEXT, st.sampled_from([None, *End]), st.none() | st.floats(0, 9000).map(round))


@given(st.lists(WEARING, max_size=12, unique_by=lambda row: row[:2]))
def test_readings_that_go_out_come_in_again(rows: list[tuple[int, str, float, float | None]]) -> None:
    reads = tuple(
        WearReading(id=f"read-{k}", life=f"life-{life}", day=day, mm=mm, km=km,
                    gauge="pad_gauge" if LIVES[life].what is Renewal.PAD else "micrometer")
        for k, (life, day, mm, km) in enumerate(rows)
    )  # fmt: skip
    bike = BARE.model_copy(update={"readings": reads})
    table = readings_csv.to_csv(bike).encode()
    again, new = readings_csv.added(BARE, readings_csv.parse(table), "Tess")
    assert new == len(rows)
    told = {(r.life, r.day, r.mm, r.km, r.gauge) for r in again.readings}
    assert told == {(r.life, r.day, r.mm, r.km, r.gauge) for r in reads}
    assert readings_csv.added(again, readings_csv.parse(table), "Tess") == (again, 0)


@given(st.lists(DONE, max_size=10, unique_by=lambda row: row[:2]))
def test_a_log_that_goes_out_comes_in_again(rows: list[tuple[str, str, End | None, float | None]]) -> None:
    entries = tuple(
        LogEntry(id=f"entry-{k}", day=day, what=what, end=end, km=km) for k, (day, what, end, km) in enumerate(rows)
    )
    table = log_csv.to_csv(KeptBike(entries=entries)).encode()
    assert log_csv.is_log(table) and not log_csv.is_log(readings_csv.to_csv(BARE).encode())
    again, _ = log_csv.added(KeptBike(), log_csv.parse(table), "Tess")
    told = {(e.day, e.what, e.end, e.km) for e in again.entries}
    assert told <= {(e.day, e.what.lstrip("'"), e.end, e.km) for e in entries} | {
        (e.day, e.what, e.end, e.km) for e in entries
    }
    assert log_csv.added(again, log_csv.parse(log_csv.to_csv(again).encode()), "Tess")[1] == 0
    for line in log_csv.to_csv(KeptBike(entries=entries)).splitlines()[1:]:
        cells = line.split(",")
        assert not cells[3].startswith(("=", "+", "-", "@"))  # no formula for a spreadsheet


@given(st.binary(max_size=300))
def test_whatever_comes_is_read_or_refused_in_words(data: bytes) -> None:
    for read in (readings_csv.parse, log_csv.parse):
        try:
            read(data)
        except ProfileError as error:
            assert str(error)


def test_a_calendar_is_read_back_as_it_was_written() -> None:
    at = datetime(2026, 11, 1, 9, 30, tzinfo=UTC)
    items = [
        CalendarItem("due-1@k", date(2027, 2, 1), "Tandem; front, rear: plan", "about 1.2 mm\nFebruary to May", 3, at),
        CalendarItem("job-7@k", date(2026, 12, 2), "Ready: “Tandem”", "", 9, at, days=2),
    ]
    calendar = Calendar.from_ical(to_ics(items, "Workshop, at the lock", at))
    assert str(calendar["x-wr-calname"]) == "Workshop, at the lock" and str(calendar["version"]) == "2.0"
    found = {str(event["uid"]): event for event in calendar.walk("VEVENT")}
    assert set(found) == {"due-1@k", "job-7@k"}
    for item in items:
        event = found[item.uid]
        assert str(event["summary"]) == item.title and str(event["description"]) == item.text
        assert event.decoded("dtstart") == item.day and int(event["sequence"]) == item.revision
        assert (event.decoded("dtend") - event.decoded("dtstart")).days == item.days


@pytest.mark.parametrize("module", [readings_csv, log_csv])
def test_too_long_a_table_is_refused(module: object) -> None:
    head = "day,wheel,part,mm,what\n"
    rows = "2026-01-01,front,pad,1.2,x\n" * 2001
    with pytest.raises(ProfileError, match="more than 2000"):
        module.parse((head + rows).encode())  # type: ignore[attr-defined]
