"""What goes out of a bike's book and comes into it as files: photographs, and readings as a table."""

from collections.abc import Callable
from typing import Annotated

from fastapi import Form, HTTPException, UploadFile
from starlette.responses import Response

from clavis.core.errors import ProfileError
from clavis.core.keeping.bike import KeptBike
from clavis.formats import log_csv, readings_csv
from clavis.store import bikes, jobs, photos
from clavis.store.database import rest, writing
from clavis.web.keep.bikes import ActDep, AtBike, AtBikeDep
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.readers import name_of
from clavis.web.shell.routes import APPRENTICE, LONG, mechanic

router = routes.router()
UNCHANGING = "private, max-age=31536000, immutable"


@router.post("/bikes/{bike_id}/photos", dependencies=(*APPRENTICE, LONG))
def add_photo(
    c: ActDep, file: UploadFile, caption: Annotated[str, Form(max_length=120)] = "",
    job: Annotated[int | None, Form(ge=1, le=2**31 - 1)] = None,
) -> Response:  # fmt: skip
    """Keep a photograph, from a camera or a file."""
    try:
        of_job = job if job in [row.id for row in bikes.jobs_of(c.session, c.opened.id)] else None
        rest(c.session)
        found = photos.decoded(file.file.read())
        with writing(c.session):
            photos.add(c.session, c.opened.id, of_job, found, caption, c.author.who)
    except jobs.RefusedError as error:
        words = f"{name_of(file, 'photograph')}: {c.reading.told(error.said)}"
        return c.refused(words)
    return AtBike(c.request, c.session, c.reading, c.opened).shown("keep/book.html")


@router.get("/bikes/{bike_id}/photos/{photo_id}.jpg", dependencies=APPRENTICE)
def whole(session: SessionDep, bike_id: int, photo_id: int) -> Response:
    return _picture(session, bike_id, photo_id, small=False)


@router.get("/bikes/{bike_id}/photos/{photo_id}/small.jpg", dependencies=APPRENTICE)
def small(session: SessionDep, bike_id: int, photo_id: int) -> Response:
    return _picture(session, bike_id, photo_id, small=True)


def _picture(session: SessionDep, bike_id: int, photo_id: int, *, small: bool) -> Response:
    try:
        data = photos.picture(session, bike_id, photo_id, small=small)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error.said)) from None
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": UNCHANGING})


@router.post("/bikes/{bike_id}/photos/{photo_id}/remove", dependencies=mechanic("a mechanic removes photographs"))
def remove_photo(c: ActDep, photo_id: int) -> Response:
    try:
        photos.remove(c.session, c.opened.id, photo_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, c.reading.told(error.said)) from None
    return AtBike(c.request, c.session, c.reading, c.opened).shown("keep/book.html")


@router.get("/bikes/{bike_id}/readings.csv", dependencies=APPRENTICE)
def readings_out(at: AtBikeDep) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="clavis-bike-{at.opened.id}-readings.csv"'}
    return Response(readings_csv.to_csv(at.opened.bike), media_type="text/csv", headers=headers)


@router.post("/bikes/{bike_id}/readings.csv", dependencies=APPRENTICE)
def readings_in(c: ActDep, file: UploadFile) -> Response:
    """Readings of a table, each on the part that was on the bike on its day, or entries of a log; all or none."""
    data, name, who = file.file.read(), name_of(file, "table"), c.author.who
    added: Callable[[KeptBike], tuple[KeptBike, int]]
    try:
        if log_csv.is_log(data):
            entries = log_csv.parse(data)
            added = lambda bike: log_csv.added(bike, entries, who)  # noqa: E731
        else:
            rows = readings_csv.parse(data)
            added = lambda bike: readings_csv.added(bike, rows, who)  # noqa: E731
        new = added(c.opened.bike)[1]
    except ProfileError as error:
        return c.refused(f"{name}: {c.reading.told(error.said)}")
    return c.done(lambda bike: added(bike)[0], f"{new} rows from {name}")


@router.get("/bikes/{bike_id}/log.csv", dependencies=APPRENTICE)
def log_out(at: AtBikeDep) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="clavis-bike-{at.opened.id}-log.csv"'}
    return Response(log_csv.to_csv(at.opened.bike), media_type="text/csv", headers=headers)
