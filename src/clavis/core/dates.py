"""Days of the calendar. The core reckons with days that it is told; it never asks a clock what day it is."""

import datetime
from typing import Annotated

from pydantic import AfterValidator, Field

date = datetime.date
DAYS_A_WEEK = 7.0
DAYS_A_YEAR = 365.25
WEEKS_A_YEAR = DAYS_A_YEAR / DAYS_A_WEEK


def as_date(day: str) -> date:
    """A day as it stands in documents. Raises ValueError for what is none."""
    return date.fromisoformat(day)


def _a_day(text: str) -> str:
    as_date(text)
    return text


Day = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$"), AfterValidator(_a_day)]
"""a day of the calendar, 2026-11-29"""


def weeks_after(day: date, weeks: float) -> date:
    """So many weeks later; the last day that a calendar has where that is beyond it.

    >>> weeks_after(date(2026, 11, 29), 10.4).isoformat()
    '2027-02-10'
    """
    return day + datetime.timedelta(days=min(round(weeks * DAYS_A_WEEK), (date.max - day).days))


def years_before(day: date, years: float) -> date:
    """The day so many years before another.

    >>> years_before(date(2026, 11, 29), 2.0).isoformat()
    '2024-11-29'
    """
    return day - datetime.timedelta(days=min(round(years * DAYS_A_YEAR), (day - date.min).days))


def years_between(earlier: date, later: date) -> float:
    """Years from a day to a later one; none where it is not later.

    >>> round(years_between(date(2024, 11, 29), date(2026, 11, 29)), 2)
    2.0
    """
    return max((later - earlier).days / DAYS_A_YEAR, 0.0)
