"""A supplier that is asked over HTTP."""

from collections.abc import Mapping, Sequence
from time import monotonic
from typing import TypeVar

import httpx
from pydantic import BaseModel, Field, ValidationError

from clavis.supplier.offers import Asked, Confirmed, SupplierError, SupplierOffer

MOST_BYTES, PIECE_BYTES = 1_000_000, 65_536
LONGEST_S = 10.0
"""for a whole answer, however slowly it trickles"""
M = TypeVar("M", bound=BaseModel)


class SupplierOffers(BaseModel):
    offers: tuple[SupplierOffer, ...] = Field(max_length=5000, fail_fast=True)


class HttpSupplier:
    """Asks ``GET /offers`` and ``POST /orders`` of one address. A slow supplier is given up after the client's
    time-out; what it answers is checked before it is believed."""

    def __init__(self, client: httpx.Client) -> None:
        self.client = client

    def _asked(self, method: str, path: str, model: type[M], **more: object) -> M:
        content = bytearray()
        ends = monotonic() + LONGEST_S
        try:
            with self.client.stream(method, path, **more) as answer:  # type: ignore[arg-type]
                if answer.status_code >= httpx.codes.INTERNAL_SERVER_ERROR:
                    raise SupplierError("the supplier is out of order just now")
                if not answer.is_success:
                    raise SupplierError("the supplier refused what it was asked")
                if answer.headers.get("content-encoding", "identity") != "identity":  # it was not asked to pack
                    raise SupplierError("the supplier's answer cannot be understood")
                for piece in answer.iter_bytes(PIECE_BYTES):
                    content += piece
                    if len(content) > MOST_BYTES:
                        raise SupplierError("the supplier's answer is too long to be one")
                    if monotonic() > ends:
                        raise SupplierError("the supplier takes too long to answer")
        except httpx.TimeoutException:
            raise SupplierError("the supplier takes too long to answer") from None
        except httpx.HTTPError:
            raise SupplierError("the supplier cannot be reached") from None
        try:
            return model.model_validate_json(bytes(content))
        except ValidationError:
            raise SupplierError("the supplier's answer cannot be understood") from None

    def offers(self, part_ids: Sequence[str]) -> Mapping[str, SupplierOffer]:
        wanted = set(part_ids)
        told = self._asked("GET", "/offers", SupplierOffers, params={"part": sorted(wanted)})
        return {offer.part_id: offer for offer in told.offers if offer.part_id in wanted}

    def order(self, reference: str, lines: Sequence[Asked]) -> Confirmed:
        body = {"reference": reference, "lines": [line.model_dump() for line in lines]}
        confirmed = self._asked("POST", "/orders", Confirmed, json=body)
        if {line.part_id for line in confirmed.lines} != {line.part_id for line in lines}:
            raise SupplierError("the supplier confirmed other parts than were ordered")
        return confirmed


def supplier_at(address: str, timeout_s: float) -> HttpSupplier:
    """The supplier at an address."""
    plain = {"accept-encoding": "identity"}
    return HttpSupplier(httpx.Client(base_url=address, timeout=timeout_s, follow_redirects=False, headers=plain))
