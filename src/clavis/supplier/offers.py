"""What a supplier is asked and what it answers, whoever it is. What it does not say is not known."""

from collections.abc import Mapping, Sequence
from typing import Annotated, Protocol

from pydantic import BaseModel, ConfigDict, Field

from clavis.core.errors import ClavisError
from clavis.core.parts.models import Identifier, Price

Pieces = Annotated[int, Field(ge=1, le=1000)]


class SupplierError(ClavisError):
    """The supplier did not answer, or not so that it could be understood; the message says which."""


class Asked(BaseModel):
    """Pieces of one part."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    part_id: Identifier
    pieces: Pieces


class SupplierOffer(BaseModel):
    """What the supplier says of one part: its price today, how many it has, and in how many days they come; None where
    it does not say."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    part_id: Identifier
    price: Price | None = None
    pieces: int | None = Field(None, ge=0, le=100_000)
    days: int | None = Field(None, ge=0, le=365)


class Confirmed(BaseModel):
    """An order that the supplier has taken: its number there, and the lines with price and days."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    number: str = Field(min_length=1, max_length=40)
    lines: tuple[SupplierOffer, ...] = Field(max_length=500, fail_fast=True)


class Supplier(Protocol):
    """Whoever parts are bought from. Both raise SupplierError."""

    def offers(self, part_ids: Sequence[str]) -> Mapping[str, SupplierOffer]:
        """What is offered of each part; a part that it does not know is not in the answer."""
        ...

    def order(self, reference: str, lines: Sequence[Asked]) -> Confirmed:
        """Order lines; the same ``reference`` again is the same order, not a second one."""
        ...
