"""Parts of an order: set aside from the shelf, ordered from the supplier, arrived; the order as a file. A supplier that
fails leaves the order as it is, and what is not known is said."""

import csv
import io
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Annotated

from fastapi import Form, Request
from starlette.responses import JSONResponse, Response

from clavis.core.parts.models import Axis, Bolt, Identifier
from clavis.core.parts.mounts import End
from clavis.core.records import digest
from clavis.core.selection.substitutes import other_bolts, substitutes_of
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.workshop.supply import SupplyLine, needed_pieces
from clavis.formats.csv_table import plain_cell
from clavis.store import jobs, shelf
from clavis.supplier.http_supplier import supplier_at
from clavis.supplier.offers import Asked, Supplier, SupplierError, SupplierOffer
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.visit import Change, ChangeDep, VisitDep

router = routes.router()
ORDER_COLUMNS = ("part", "maker", "model", "pieces", "price")


@dataclass(frozen=True)
class OfferedLine:
    """A line of the order beside what the supplier says of it; ``offer`` is None where it says nothing."""

    line: SupplyLine
    offer: SupplierOffer | None

    places: tuple[tuple[End, Axis], ...] = ()
    """where it stands in the order, if it is one of the four parts of a brake"""
    other_bolts: tuple[Bolt, ...] = ()
    """of a bolt: others that would do at every place it is for"""

    @property
    def dearer(self) -> float | None:
        """By how much one piece is dearer than the catalogue says; None where one of the two is not known."""
        price = self.offer.price if self.offer else None
        return None if price is None or self.line.need.price is None else price - self.line.need.price

    @property
    def short(self) -> bool:
        """The supplier has fewer than are to be ordered."""
        return self.offer is not None and self.offer.pieces is not None and self.offer.pieces < self.line.to_order

    @property
    def comes(self) -> str:
        """The day on which it would come, ordered now; empty where that is not known."""
        days = self.offer.days if self.offer else None
        return "" if days is None else (jobs.now().date() + timedelta(days=days)).isoformat()


def supplier_of(request: Request) -> Supplier | None:
    """Whoever is asked; None where the workshop has named nobody."""
    given: Supplier | None = getattr(request.app.state, "supplier", None)
    settings = request.app.state.settings
    if given is None and settings.supplier_url:
        given = request.app.state.supplier = supplier_at(settings.supplier_url, settings.supplier_timeout_s)
    return given


def _places(b: Bench) -> dict[str, tuple[tuple[End, Axis], ...]]:
    """Where each of the four parts of a brake stands in the order."""
    out: dict[str, tuple[tuple[End, Axis], ...]] = {}
    for wheel in b.order.wheels:
        for axis in sorted(wheel.work.changes.parts):
            part = wheel.work.setup.brake.of(axis)
            if part is not None:
                out[part.id] = (*out.get(part.id, ()), (wheel.work.end, axis))
    return out


def to_order(b: Bench) -> tuple[SupplyLine, ...]:
    return tuple(line for line in b.supply if line.to_order)


@router.get("/jobs/{job_id}/supplier", dependencies=APPRENTICE)
def offered(v: VisitDep) -> Response:
    """What the supplier says of what the order lacks; loaded after the page, which never waits for it."""
    supplier, wanted, trouble = supplier_of(v.request), to_order(v.bench), ""
    offers: dict[str, SupplierOffer] = {}
    if supplier is None:
        trouble = "no supplier is named: the prices are the catalogue's"
    elif wanted:
        try:
            offers = dict(supplier.offers([line.need.part_id for line in wanted]))
        except SupplierError as error:
            trouble = f"{error.said}: the prices are the catalogue's, and what it has is not known"
    places = _places(v.bench)
    laid = [choice for wheel in v.bench.order.wheels for choice in wheel.work.fit.bolts]
    stock = tuple(v.bench.catalogue.bolts.values())
    told = [
        OfferedLine(
            x, offers.get(x.need.part_id), places.get(x.need.part_id, ()), other_bolts(laid, x.need.part_id, stock)
        )
        for x in wanted
    ]
    costs = [o.offer.price * o.line.to_order for o in told if o.offer and o.offer.price is not None]
    known = len(costs) == len(told) and bool(told)
    return v.piece(
        "build/offered.html", told=told, trouble=trouble if wanted else "", asked=supplier is not None,
        cost=sum(costs) if known else None,
    )  # fmt: skip


def _again(c: Change, said: Words = NOTHING) -> Response:
    return c.answered(replace(c.bench), Room.BUILD, said=said)  # what this one knows of the shelf was asked before


@router.get("/jobs/{job_id}/instead/{end}/{axis}", dependencies=APPRENTICE)
def instead(v: VisitDep, end: End, axis: Axis) -> Response:
    """What would do in the place of one part of the order; what lies on the shelf is said."""
    b = v.bench
    found = b.kept("instead", lambda: substitutes_of(b.job, b.evaluation, end, axis), end, axis)
    lying = shelf.stock(v.session, [s.part.id for s in found])
    return v.piece("build/instead.html", found=found, lying=lying, end=end, axis=axis)


@router.post("/jobs/{job_id}/supply/aside", dependencies=APPRENTICE)
def aside(c: ChangeDep) -> Response:
    """Set aside for this job what the shelf has of its order."""
    pieces = shelf.set_aside(c.session, c.job_id, c.bench.supply, c.author.who)
    return _again(c, say("{pieces:piece|pieces} set aside", pieces=pieces))


@router.post("/jobs/{job_id}/supply/back", dependencies=APPRENTICE)
def back(c: ChangeDep) -> Response:
    """Lay back on the shelf what the order needs no more."""
    pieces = shelf.put_back(c.session, c.job_id, needed_pieces(c.bench.supply), c.author.who)
    return _again(c, say("{pieces:piece|pieces} laid back", pieces=pieces))


@router.post("/jobs/{job_id}/supply/order", dependencies=mechanic("a mechanic orders"))
def order(c: ChangeDep) -> Response:
    """Order from the supplier what neither the shelf has nor is on its way. Nothing is ordered before the gate lets the
    work begin; pressed twice it is one order."""
    gate, lines, supplier = c.bench.order.gate, to_order(c.bench), supplier_of(c.request)
    if not gate.may_work:
        raise c.refused(409, gate.words)
    if supplier is None or not lines:
        raise c.refused(422, "There is nothing to order, or nobody to order from.")
    asked = [Asked(part_id=line.need.part_id, pieces=line.to_order) for line in lines]
    before = [f"{line.need.part_id}:{line.supplied.ordered}:{line.to_order}" for line in lines]
    try:
        confirmed = supplier.order(f"job-{c.job_id}-{digest('|'.join(before))}", asked)
    except SupplierError as error:
        words = "No word that it was ordered: {why}. Pressed again it is the same order, not a second one."
        raise c.refused(502, say(words, why=error.said)) from None
    told = {offer.part_id: offer for offer in confirmed.lines}
    kept = [(a.part_id, a.pieces, told[a.part_id].price, told[a.part_id].days) for a in asked]
    shelf.ordered(c.session, c.job_id, confirmed.number, kept, c.author.who)
    return _again(c, say("ordered, number {number}", number=confirmed.number))


@router.post("/jobs/{job_id}/supply/arrived", dependencies=APPRENTICE)
def has_arrived(c: ChangeDep, part_id: Annotated[Identifier, Form()]) -> Response:
    """What was ordered of a part is there."""
    try:
        shelf.arrived(c.session, c.job_id, part_id, c.author.who)
    except jobs.NotThereError as error:
        raise c.refused(404, error.said) from None
    return _again(c)


@router.get("/jobs/{job_id}/order.json", dependencies=APPRENTICE)
def order_json(v: VisitDep) -> Response:
    """What is to be ordered, for whoever takes files."""
    body = {"format": "clavis-order", "version": 1, "job": v.job_id, "lines": _file_lines(v.bench)}
    name = f'attachment; filename="order-{v.job_id}.json"'
    return JSONResponse(body, headers={"Content-Disposition": name})


@router.get("/jobs/{job_id}/order.csv", dependencies=APPRENTICE)
def order_csv(v: VisitDep) -> Response:
    out = io.StringIO()
    writer = csv.DictWriter(out, ORDER_COLUMNS)
    writer.writeheader()
    lines = _file_lines(v.bench)
    cells = ({name: plain_cell(told) if isinstance(told, str) else told for name, told in n.items()} for n in lines)
    writer.writerows(cells)
    name = f'attachment; filename="order-{v.job_id}.csv"'
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers={"Content-Disposition": name})


def _file_lines(b: Bench) -> list[dict[str, object]]:
    parts = [(line, b.catalogue.by_id(line.need.part_id)) for line in to_order(b)]
    return [
        {"part": part.id, "maker": part.maker, "model": part.model, "pieces": line.to_order, "price": part.price}
        for line, part in parts
        if part is not None
    ]
