"""Labour: the minutes of an order's steps, and what they cost at the workshop's hour."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from pydantic import Field, model_validator

from clavis.core.evaluation.condition_readings import PAD_PLAN_MM, PAD_REPLACE_MM
from clavis.core.records import Record, within
from clavis.core.workshop.steps import StepRow
from clavis.core.workshop.work_order import WorkOrder


class PaperSize(StrEnum):
    A4 = "A4"
    LETTER = "letter"


Minutes = Annotated[float, Field(gt=0, le=480, allow_inf_nan=False)]


class WorkshopTerms(Record):
    """What a workshop sets for itself: its name on papers, its hour, and minutes of steps where they are not those of
    the table."""

    name: str = Field("", max_length=60)
    hourly_price: float | None = within(0, 10_000)
    minutes: dict[Annotated[str, Field(max_length=40)], Minutes] = Field(default_factory=dict, max_length=200)
    calendar_key: str = Field("", max_length=40, description="opens the feed of the workshop's calendar")
    calendar_id: str = Field("", max_length=40, description="names what stands in the calendar, for good")
    valid_days: int = Field(30, ge=1, le=365, description="for so long a quote stands")
    paper: PaperSize = PaperSize.A4
    pad_plan_mm: float = Field(PAD_PLAN_MM, ge=PAD_REPLACE_MM, le=3, description="new pads are planned at this")
    pad_replace_mm: float = Field(PAD_REPLACE_MM, ge=PAD_REPLACE_MM, le=3, description="pads are replaced by this")

    @model_validator(mode="after")
    def _planned_before_replaced(self) -> "WorkshopTerms":
        if self.pad_plan_mm < self.pad_replace_mm:
            raise ValueError("pads are planned for before they are replaced")
        return self

    def minutes_of(self, row: StepRow) -> float:
        return self.minutes.get(row.key, row.minutes)


@dataclass(frozen=True)
class Labour:
    """Time and price of an order's work; the price is None while the workshop has not said what its hour costs."""

    minutes: float
    price: float | None


def labour_of(order: WorkOrder, terms: WorkshopTerms) -> Labour:
    """The minutes of every step that stands in the order."""
    minutes = sum(terms.minutes_of(step.row) for step in order.steps)
    return Labour(minutes, labour_price(minutes, terms.hourly_price))


def labour_price(minutes: float, hourly_price: float | None) -> float | None:
    """What so many minutes cost; None without an hour's price.

    >>> labour_price(90.0, 60.0), labour_price(90.0, None)
    (90.0, None)
    """
    return None if hourly_price is None else minutes / 60 * hourly_price


@dataclass(frozen=True)
class QuoteSum:
    """What a quote comes to: parts and labour; ``unpriced`` lines are not in it."""

    parts: float
    labour: Labour
    unpriced: int

    @property
    def total(self) -> float | None:
        """None while the workshop's hour is not known."""
        return None if self.labour.price is None else self.parts + self.labour.price


def quote_sum(order: WorkOrder, terms: WorkshopTerms) -> QuoteSum:
    return QuoteSum(order.total, labour_of(order, terms), order.unpriced)


def known_steps(minutes: Mapping[str, float], rows: tuple[StepRow, ...]) -> dict[str, float]:
    """Minutes of steps that there are, and that differ from the table."""
    by_key = {row.key: row.minutes for row in rows}
    return {key: told for key, told in minutes.items() if key in by_key and told != by_key[key]}
