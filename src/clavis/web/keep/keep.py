"""Station 8: the book of the bike that a job is about, and the job's stay in the workshop."""

from typing import Annotated, Any

from fastapi import Form
from starlette.responses import Response

from clavis.core.keeping.distance import wear_per_km
from clavis.core.keeping.swaps import NewLife, new_lives
from clavis.store import bikes, jobs, keeping
from clavis.web.keep.bikes import shown_of
from clavis.web.keep.book import Book, book_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.paces import paces_of
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE, owner
from clavis.web.shell.visit import ChangeDep, station_page

router = routes.router()
MOST_NAMED = 5
STAY = ("stay.state", "stay.promised_on", "stay.mechanic", "stay.odometer_km")


@station_page(router, Station.KEEP, STAY)
def context(b: Bench) -> dict[str, Any]:
    """The bike's book; a job whose bike was erased has none."""
    fields: dict[str, Any] = {"stay": STAY}
    if b.opened.bike_id is None:
        return fields | {"book": None, "swaps": {}}
    opened = bikes.open_bike(b.session, b.opened.bike_id)
    book = book_of(b.session, opened, b.reading.system, b.catalogue)
    return fields | shown_of(book) | {"swaps": _swaps(b, book)}


def _swaps(b: Bench, book: Book) -> dict[str, tuple[NewLife, ...]]:
    """How long new parts would last, as fitted and as proposed; nothing where rider, ride or parts are not known."""
    states = tuple(box.state for boxes in book.wear.values() for box in boxes)
    lines = bikes.lines_of(b.session)
    shown = {"as fitted": (b.evaluation.fitted, False)}
    if b.has_proposal:
        shown["as proposed"] = (b.evaluation.proposed, True)
    return {
        name: new_lives(
            {end: w.setup for end, w in setup.wheels.items()},
            {end: wear_per_km(year, book.weekly) for end, year in paces_of(b, proposed=other).items()},
            states,
            lines,
        )
        for name, (setup, other) in shown.items()
        if setup is not None
    }


@router.post("/jobs/{job_id}/keep/bike", dependencies=APPRENTICE)
def about_a_known_bike(c: ChangeDep, words: Annotated[str, Form(max_length=80)]) -> Response:
    """The job is about a bike that is known already: found by frame number, name, or whose it is."""
    others = [(n, name) for n, name in bikes.by_words(c.session, words) if n != c.bench.opened.bike_id]
    if len(others) != 1:
        told = ", ".join(name or "no name" for _, name in others[:MOST_NAMED])
        raise c.refused(
            409, f"Several bikes have this: {told}. Type a frame number." if told else "No other bike has this."
        )
    keeping.about_another(c.session, c.job_id, others[0][0])
    return Response(headers={"HX-Refresh": "true"})


@router.post("/jobs/{job_id}/erase", dependencies=owner("the owner erases"))
def erase(c: ChangeDep) -> Response:
    """Erase an archived job with its history, for good."""
    try:
        jobs.erase(c.session, c.job_id)
    except jobs.RefusedError as error:
        raise c.refused(409, error.said) from None
    return Response(headers={"HX-Redirect": "/?shown=archived"})


@router.post("/jobs/{job_id}/keep/stock", dependencies=APPRENTICE)
def take_stock(c: ChangeDep) -> Response:
    """Put what this job found on the bike, and read there, into the bike's book."""
    try:
        keeping.take_stock(c.session, c.bench.opened, c.bench.catalogue, paces_of(c.bench), c.author.who)
    except jobs.RefusedError as error:
        raise c.refused(422, error.said) from None
    return c.answered(c.bench, Room.KEEP)
