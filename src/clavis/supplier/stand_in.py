"""A stand-in for a supplier: a small service that offers the parts it was given, with stock and days by their ids, and
can be told to fail as suppliers do. Nothing is bought from it."""

from collections.abc import Iterable
from enum import StrEnum
from hashlib import sha256
from time import sleep
from typing import Annotated

from fastapi import FastAPI, HTTPException, Query
from pydantic import BaseModel, Field

from clavis.core.parts.models import Part
from clavis.supplier.offers import Asked, Confirmed, SupplierOffer

SLOW_S = 8.0
DEARER_RATIO = 1.08
MOST_IN_STOCK = 9
LONGEST_DAYS = 9


class Mode(StrEnum):
    """How it behaves."""

    WELL = "well"
    SLOW = "slow"
    DOWN = "down"
    OUT_OF_STOCK = "out_of_stock"
    DEARER = "dearer"
    NONSENSE = "nonsense"


class ModeAsked(BaseModel):
    mode: Mode


class OrderAsked(BaseModel):
    reference: str = Field(min_length=1, max_length=80)
    lines: tuple[Asked, ...] = Field(min_length=1, max_length=500)


def _number(part_id: str, salt: str, most: int) -> int:
    """The same invented number for a part every time."""
    return int(sha256(f"{salt}{part_id}".encode()).hexdigest()[:8], 16) % (most + 1)


class Shop:
    """What the stand-in sells, how it behaves, and the orders it has taken, by their reference."""

    def __init__(self, parts: Iterable[Part]) -> None:
        self.parts = {part.id: part for part in parts if not part.retired}
        self.mode = Mode.WELL
        self.orders: dict[str, Confirmed] = {}

    def offer(self, part_id: str) -> SupplierOffer | None:
        part = self.parts.get(part_id)
        if part is None:
            return None
        pieces = 0 if self.mode is Mode.OUT_OF_STOCK else _number(part_id, "stock", MOST_IN_STOCK)
        price = round(part.price * (DEARER_RATIO if self.mode is Mode.DEARER else 1.0), 2)
        days = 1 + _number(part_id, "days", 2) if pieces else 3 + _number(part_id, "days", LONGEST_DAYS)
        return SupplierOffer(part_id=part_id, price=price, pieces=pieces, days=days)

    def behave(self) -> None:
        if self.mode is Mode.SLOW:
            sleep(SLOW_S)
        if self.mode is Mode.DOWN:
            raise HTTPException(503, "out of order")


MOST_ORDERS = 1000


def create_shop(parts: Iterable[Part]) -> FastAPI:
    """The service; its shop is at ``state.shop``."""
    app, shop = FastAPI(title="Supplier stand-in", openapi_url=None), Shop(parts)
    app.state.shop = shop

    @app.get("/offers")
    def offers(part: Annotated[list[str], Query(max_length=500)]) -> dict[str, object]:
        shop.behave()
        if shop.mode is Mode.NONSENSE:
            return {"offers": [{"part_id": part[0], "price": "a song"}]}
        return {"offers": [offer.model_dump() for part_id in part if (offer := shop.offer(part_id)) is not None]}

    @app.post("/orders")
    def order(asked: OrderAsked) -> Confirmed:
        shop.behave()
        if asked.reference in shop.orders:
            return shop.orders[asked.reference]
        lines = [shop.offer(line.part_id) for line in asked.lines]
        if None in lines:
            raise HTTPException(422, "a part that is not sold here")
        if len(shop.orders) >= MOST_ORDERS:
            shop.orders.clear()
        number = f"S-{len(shop.orders) + 1:05d}"
        confirmed = Confirmed(number=number, lines=tuple(line for line in lines if line is not None))
        shop.orders[asked.reference] = confirmed
        return confirmed

    @app.post("/mode")
    def mode(asked: ModeAsked) -> ModeAsked:
        shop.mode = asked.mode
        return asked

    return app
