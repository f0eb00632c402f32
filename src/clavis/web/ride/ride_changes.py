"""Changes of a job's rides: files read, sections typed, points dragged, descents cut out, rides from the library."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends, Form, HTTPException, Request, UploadFile
from starlette.responses import HTMLResponse, Response

from clavis.core.errors import ClavisError, ProfileError
from clavis.core.evaluation.descents import as_ride, find_descents
from clavis.core.evaluation.rides import stop_cycle
from clavis.core.evaluation.situation import load_of_ride, track_of_ride
from clavis.core.job.document import Mended, Ride, SpeedFrom
from clavis.core.job.ride_profile import move_point, split_section
from clavis.core.physics.recording import Recording
from clavis.core.physics.road import Section
from clavis.core.units import stored
from clavis.formats.recordings import (
    UNITS,
    Column,
    CsvChoice,
    FileKind,
    kind_of_file,
    look_at_csv,
    read_csv,
    read_fit,
    read_gpx,
    read_tcx,
)
from clavis.store import jobs, ride_library
from clavis.web.ride.ride import ride_or_404
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, bench_of, render
from clavis.web.shell.security import message
from clavis.web.shell.stations import Room, after_change

router = APIRouter()
FIRST_SECTION = Section(length_m=1000, gradient_pct=8, speed_kmh=30)
READERS = {FileKind.GPX: read_gpx, FileKind.TCX: read_tcx, FileKind.FIT: read_fit}
MOST_PLACES, HEAD_BYTES = 100, 4096


def _done(job_id: int, ride_id: str = "") -> Response:
    """The page afresh, with that ride on it."""
    more = f"?ride={ride_id}" if ride_id else ""
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/ride{more}"})


def _free_id(b: Bench, wish: str) -> str:
    return ride_library.free_id(wish, (r.id for r in b.job.rides))


def _add(session: SessionDep, author: jobs.Author, b: Bench, ride: Ride) -> None:
    """A new ride; it decides where none did."""
    opened = jobs.change(
        session, b.opened.id, b.opened.version, author, f"rides.{ride.id}", ride.model_dump(mode="json")
    )
    if b.job.ride is None:
        jobs.change(session, b.opened.id, opened.version, author, "decisive_ride", ride.id)


def _name_of(file: UploadFile) -> str:
    return (file.filename or "track").replace("\\", "/").rsplit("/", 1)[-1][:60]


def _keep_recording(session: SessionDep, author: jobs.Author, b: Bench, name: str, recording: Recording) -> str:
    """A recording becomes a ride of the job; its name there. Raises ProfileError, RefusedError."""
    track = recording.track
    track_id = jobs.keep_track(session, track)
    stem = name.rsplit(".", 1)[0] or "track"
    ride = Ride(
        id=_free_id(b, stem),
        name=stem.replace("-", " ").replace("_", " ").capitalize(),
        track_id=track_id,
        speed_from=SpeedFrom.PLANNED if track.time_s is None else SpeedFrom.RECORDED,
        mended=tuple(Mended(words=n.words[:300], places_m=n.places_m[:MOST_PLACES]) for n in recording.notes),
    )
    if b.evaluation.situation:
        load_of_ride(ride, {track_id: track}, b.evaluation.situation)
    _add(session, author, b, ride)
    return ride.id


@router.post("/jobs/{job_id}/rides/file")
def add_file(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, file: UploadFile
) -> Response:
    """A GPX, TCX or FIT file becomes a ride; a CSV asks for its columns first. An unreadable one is answered beside
    the button; nothing is kept of it."""
    b = bench(request, session, reading, job_id)
    name = _name_of(file)
    try:
        head = file.file.read(HEAD_BYTES)
        file.file.seek(0)
        kind = kind_of_file(name, head)
        if kind is FileKind.CSV:
            look = look_at_csv(file.file.read())
            return render(
                request, reading, "ride/ride_columns.html", b=b, name=name, look=look, columns=Column, table_units=UNITS
            )
        ride_id = _keep_recording(session, author, b, name, READERS[kind](file.file))
    except ProfileError as error:
        session.rollback()
        return message(f"{name}: {error}", 422)
    return _done(job_id, ride_id)


Text = Annotated[str, Form(max_length=20)]


def chosen_columns(
    distance: Text = "",
    time: Text = "",
    elevation: Text = "",
    speed: Text = "",
    distance_unit: Text = "",
    time_unit: Text = "",
    elevation_unit: Text = "",
    speed_unit: Text = "",
) -> dict[Column, tuple[str, str]]:
    """What was chosen for every column of a table: its number, or nothing, and its unit, as typed."""
    return {
        Column.DISTANCE: (distance, distance_unit),
        Column.TIME: (time, time_unit),
        Column.ELEVATION: (elevation, elevation_unit),
        Column.SPEED: (speed, speed_unit),
    }


def _choice(chosen: dict[Column, tuple[str, str]], headings: int) -> CsvChoice:
    """Raises ProfileError for a column or unit that is none."""
    for column, (text, unit) in chosen.items():
        if text and not (text.isdecimal() and int(text) < headings):
            raise ProfileError(f"{column.value}: there is no such column")
        if unit not in UNITS[column]:
            raise ProfileError(f"{column.value}: “{unit}” is none of its units")
    return CsvChoice(
        {column: int(text) if text else None for column, (text, _) in chosen.items()},
        {column: unit for column, (_, unit) in chosen.items()},
    )


@router.post("/jobs/{job_id}/rides/table")
def add_table(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    file: UploadFile,
    chosen: Annotated[dict[Column, tuple[str, str]], Depends(chosen_columns)],
) -> Response:
    """A CSV whose columns a person chose."""
    b = bench(request, session, reading, job_id)
    name = _name_of(file)
    try:
        data = file.file.read()
        choice = _choice(chosen, len(look_at_csv(data).headings))
        ride_id = _keep_recording(session, author, b, name, read_csv(data, choice))
    except ProfileError as error:
        session.rollback()
        return message(f"{name}: {error}", 422)
    return _done(job_id, ride_id)


@router.post("/jobs/{job_id}/rides/typed")
def add_typed(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    name: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """A ride of one section, to be typed on or dragged into shape."""
    b = bench(request, session, reading, job_id)
    name = name.strip() or "Typed descent"
    ride = Ride(id=_free_id(b, name), name=name, sections=(FIRST_SECTION,), start_elevation_m=400)
    _add(session, author, b, ride)
    return _done(job_id, ride.id)


@router.post("/jobs/{job_id}/rides/stops")
def add_stops(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    name: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """A cycle of stops; its number, speed, distance and time standing are fields of the ride."""
    b = bench(request, session, reading, job_id)
    name = name.strip() or "Stops in town"
    ride = stop_cycle(_free_id(b, name), name, 30, 25, 300, 15)
    _add(session, author, b, ride)
    return _done(job_id, ride.id)


@router.post("/jobs/{job_id}/rides/shelf")
def add_from_library(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    entry: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """A copy of a ride in the library."""
    b = bench(request, session, reading, job_id)
    try:
        kept = ride_library.find(session, entry)
    except jobs.NotThereError:
        return message("Choose a ride of the library first.", 422)
    ride = kept.model_copy(update={"id": _free_id(b, kept.id)})
    _add(session, author, b, ride)
    return _done(job_id, ride.id)


@router.post("/jobs/{job_id}/rides/{ride_id}/keep")
def keep_in_library(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    """A copy of the ride goes into the library, for other jobs."""
    ride = ride_or_404(bench(request, session, reading, job_id), ride_id)
    name = ride_library.keep(session, ride, author.who)
    session.commit()
    return HTMLResponse(f'<p class="done" role="status">In the library as “{name}”.</p>')


@router.post("/jobs/{job_id}/rides/{ride_id}/descents/{number}")
def cut_out(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str, number: int
) -> Response:
    """One descent of a long recording becomes a ride of its own."""
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    track = track_of_ride(ride, b.tracks)
    found = find_descents(track, ride.smoothing) if track is not None else []
    if not 0 <= number < len(found):
        raise HTTPException(404, "There is no such descent in this ride.")
    name = f"{ride.name[:60]}, descent {number + 1}"
    own = as_ride(ride, found[number], _free_id(b, name), name)
    _add(session, author, b, own)
    return _done(job_id, own.id)


def _sections(
    session: SessionDep, author: jobs.Author, opened: jobs.Opened, ride: Ride, sections: Sequence[Section]
) -> jobs.Opened:
    document = [s.model_dump(mode="json") for s in sections]
    return jobs.change(session, opened.id, opened.version, author, f"rides.{ride.id}.sections", document)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections")
def add_section(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    """Another section like the last one."""
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    if not ride.sections:
        raise HTTPException(422, "A ride from a track has no typed sections.")
    try:
        _sections(session, author, b.opened, ride, (*ride.sections, ride.sections[-1]))
    except jobs.RefusedError as error:
        return message(str(error), 422)
    return _done(job_id, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections/{index}/remove")
def remove_section(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str, index: int
) -> Response:
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    kept = [s for k, s in enumerate(ride.sections) if k != index]
    if not kept:
        return message("A typed ride keeps at least one section; remove the ride instead.", 422)
    _sections(session, author, b.opened, ride, kept)
    return _done(job_id, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections/split")
def split(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    ride_id: str,
    at: Annotated[float, Form(allow_inf_nan=False)],
) -> Response:
    """Cut the section at a place of the profile (in the reader's km) in two."""
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    try:
        at_m = stored(at, "km", reading.system) * 1000
        _sections(session, author, b.opened, ride, split_section(ride, at_m))
    except ClavisError as error:
        return message(str(error), 422)
    return _done(job_id, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/point")
def drag_point(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    ride_id: str,
    index: Annotated[int, Form(ge=0, le=200)],
    at: Annotated[float, Form(allow_inf_nan=False)],
    height: Annotated[float, Form(allow_inf_nan=False)],
    base: Annotated[int, Form()],
) -> Response:
    """The end of a section at another place of the profile (in the reader's km and m). The picture follows; a place
    that cannot be is said and the point goes back."""
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    at_m = stored(at, "km", reading.system) * 1000
    height_m = stored(height, "m", reading.system)
    try:
        if index == 0:
            path, value = f"rides.{ride_id}.start_elevation_m", round(height_m, 1)
            opened = jobs.change(session, job_id, base, author, path, value)
        else:
            opened = _sections(
                session, author, replace(b.opened, version=base), ride, move_point(ride, index - 1, at_m, height_m)
            )
    except ClavisError as error:
        session.rollback()
        return message(str(error), 422)
    b = bench_of(request, session, reading, opened)
    return HTMLResponse(after_change(request, session, b, Room.RIDE, author.page, base))


@router.post("/jobs/{job_id}/rides/{ride_id}/decide")
def decide(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    """Make this ride the one that decides."""
    b = bench(request, session, reading, job_id)
    jobs.change(session, job_id, b.opened.version, author, "decisive_ride", ride_or_404(b, ride_id).id)
    return _done(job_id, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/remove")
def remove(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    b = bench(request, session, reading, job_id)
    ride = ride_or_404(b, ride_id)
    version = b.opened.version
    if b.job.decisive_ride == ride.id:
        version = jobs.change(session, job_id, version, author, "decisive_ride", None).version
    jobs.change(session, job_id, version, author, f"rides.{ride.id}", None)
    return _done(job_id)
