"""Station 8: the book of the bike that a job is about, and the job's stay in the workshop."""

from typing import Any

from fastapi import APIRouter
from starlette.responses import Response

from clavis.store import bikes, jobs, keeping
from clavis.web.keep.bikes import shown_of
from clavis.web.keep.book import book_of
from clavis.web.shell.bench import Bench
from clavis.web.shell.paces import paces_of
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.visit import ChangeDep, station_page

router = APIRouter()
STAY = ("stay.state", "stay.promised_on", "stay.mechanic", "stay.odometer_km")


@station_page(router, Station.KEEP, STAY)
def context(b: Bench) -> dict[str, Any]:
    """The bike's book; a job whose bike was erased has none."""
    fields = {"stay": STAY}
    if b.opened.bike_id is None:
        return fields | {"book": None}
    opened = bikes.open_bike(b.session, b.opened.bike_id)
    return fields | shown_of(book_of(b.session, opened, b.reading.system))


@router.post("/jobs/{job_id}/keep/stock")
def take_stock(c: ChangeDep) -> Response:
    """Put what this job found on the bike, and read there, into the bike's book."""
    try:
        keeping.take_stock(c.session, c.bench.opened, c.bench.catalogue, paces_of(c.bench), c.author.who)
    except jobs.RefusedError as error:
        raise c.refused(422, error.said) from None
    return c.answered(c.bench, Room.KEEP)
