"""Changes of a job's rides: files read, sections typed, points dragged, descents cut out, rides from the library."""

from collections.abc import Callable, Sequence
from typing import Annotated

from fastapi import Depends, Form, HTTPException, UploadFile
from starlette.responses import Response

from clavis.core import entries
from clavis.core.errors import ClavisError, ProfileError
from clavis.core.evaluation.descents import as_ride, find_descents
from clavis.core.evaluation.rides import FIRST_SECTION, usual_stops
from clavis.core.evaluation.situation import load_of_ride, track_of_ride
from clavis.core.job.document import Mended, Ride, SpeedFrom
from clavis.core.job.ride_profile import move_point, split_section
from clavis.core.physics.recording import Note, Recording
from clavis.core.physics.road import Section
from clavis.core.sentences import Words, say
from clavis.core.units import stored
from clavis.formats.recordings import READERS, FileKind, kind_of_file
from clavis.formats.recordings_csv import UNITS, CsvChoice, CsvColumn, look_at_csv, read_csv
from clavis.store import jobs, ride_library
from clavis.store.database import writing
from clavis.web.ride.ride import ride_or_404
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.readers import name_of
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.security import message
from clavis.web.shell.visit import Change, ChangeDep

router = routes.router()
MOST_PLACES, HEAD_BYTES = 100, 4096


def _done(c: Change, ride_id: str = "") -> Response:
    """The page afresh, with that ride on it."""
    return c.gone_to(f"ride?ride={ride_id}" if ride_id else "ride")


def _refused(c: Change, words: Words) -> Response:
    """What is wrong, beside the button."""
    return message(c.reading.told(words), 422)


def _free_id(b: Bench, wish: str) -> str:
    return ride_library.free_id(wish, (r.id for r in b.job.rides))


def _add(c: Change, ride: Ride) -> None:
    """A new ride; it decides where none did."""
    now = c.keep_newest(f"rides.{ride.id}", ride.model_dump(mode="json"))
    if c.bench.job.ride is None:
        jobs.change(c.session, c.job_id, now.opened.version, c.author, "decisive_ride", ride.id)


def _mended(note: Note) -> Mended:
    return Mended(words=note.words.template, values=dict(note.words.values), places_m=note.places_m[:MOST_PLACES])


def _keep_recording(c: Change, name: str, recording: Recording) -> str:
    """A recording becomes a ride of the job; its name there. Raises ProfileError, RefusedError."""
    track, situation = recording.track, c.bench.evaluation.situation
    track_id = jobs.keep_track(c.session, track)
    stem = name.rsplit(".", 1)[0] or "track"
    ride = Ride(
        id=_free_id(c.bench, stem),
        name=stem.replace("-", " ").replace("_", " ").capitalize(),
        track_id=track_id,
        speed_from=SpeedFrom.PLANNED if track.time_s is None else SpeedFrom.RECORDED,
        mended=tuple(_mended(note) for note in recording.notes),
    )
    if situation:
        load_of_ride(ride, {track_id: track}, situation)
    _add(c, ride)
    return ride.id


def _read(c: Change, name: str, read: Callable[[], Recording]) -> Response:
    """A file as a new ride; an unreadable one is answered beside the button, and nothing is kept of it."""
    try:
        ride_id = _keep_recording(c, name, read())
    except ProfileError as error:
        c.session.rollback()
        return _refused(c, say("{name}: {why}", name=name, why=error.said))
    return _done(c, ride_id)


@router.post("/jobs/{job_id}/rides/file", dependencies=APPRENTICE)
def add_file(c: ChangeDep, file: UploadFile) -> Response:
    """A GPX, TCX or FIT file becomes a ride; a CSV asks for its columns first."""
    name = name_of(file, "track")
    head = file.file.read(HEAD_BYTES)
    file.file.seek(0)
    try:
        kind = kind_of_file(name, head)
        if kind is FileKind.CSV:
            look = look_at_csv(file.file.read())
            return c.piece("ride/ride_columns.html", name=name, look=look, columns=CsvColumn, table_units=UNITS)
    except ProfileError as error:
        return _refused(c, say("{name}: {why}", name=name, why=error.said))
    return _read(c, name, lambda: READERS[kind](file.file))


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
) -> dict[CsvColumn, tuple[str, str]]:
    """What was chosen for every column of a table: its number, or nothing, and its unit, as typed."""
    return {
        CsvColumn.DISTANCE: (distance, distance_unit),
        CsvColumn.TIME: (time, time_unit),
        CsvColumn.ELEVATION: (elevation, elevation_unit),
        CsvColumn.SPEED: (speed, speed_unit),
    }


def _choice(chosen: dict[CsvColumn, tuple[str, str]], headings: int) -> CsvChoice:
    """Raises ProfileError for a column or unit that is none."""
    places = {column: entries.place_in(text, headings) for column, (text, _) in chosen.items()}
    for column, (text, unit) in chosen.items():
        if text and places[column] is None:
            raise ProfileError(f"{column.value}: there is no such column")
        if unit not in UNITS[column]:
            raise ProfileError(f"{column.value}: “{unit}” is none of its units")
    return CsvChoice(places, {column: unit for column, (_, unit) in chosen.items()})


@router.post("/jobs/{job_id}/rides/table", dependencies=APPRENTICE)
def add_table(
    c: ChangeDep, file: UploadFile, chosen: Annotated[dict[CsvColumn, tuple[str, str]], Depends(chosen_columns)]
) -> Response:
    """A CSV whose columns a person chose."""
    data = file.file.read()
    return _read(c, name_of(file, "track"), lambda: read_csv(data, _choice(chosen, len(look_at_csv(data).headings))))


Name = Annotated[str, Form(max_length=80)]


@router.post("/jobs/{job_id}/rides/typed", dependencies=APPRENTICE)
def add_typed(c: ChangeDep, name: Name = "") -> Response:
    """A ride of one section, to be typed on or dragged into shape."""
    name = name.strip() or "Typed descent"
    ride = Ride(id=_free_id(c.bench, name), name=name, sections=(FIRST_SECTION,), start_elevation_m=400)
    _add(c, ride)
    return _done(c, ride.id)


@router.post("/jobs/{job_id}/rides/stops", dependencies=APPRENTICE)
def add_stops(c: ChangeDep, name: Name = "") -> Response:
    """A cycle of stops; its number, speed, distance and time standing are fields of the ride."""
    name = name.strip() or "Stops in town"
    ride = usual_stops(_free_id(c.bench, name), name)
    _add(c, ride)
    return _done(c, ride.id)


@router.post("/jobs/{job_id}/rides/shelf", dependencies=APPRENTICE)
def add_from_library(c: ChangeDep, entry: Annotated[str, Form(max_length=40)] = "") -> Response:
    """A copy of a ride in the library."""
    try:
        kept = ride_library.find(c.session, entry)
    except jobs.NotThereError:
        return message("Choose a ride of the library first.", 422)
    ride = kept.model_copy(update={"id": _free_id(c.bench, kept.id)})
    _add(c, ride)
    return _done(c, ride.id)


@router.post("/jobs/{job_id}/rides/{ride_id}/keep", dependencies=APPRENTICE)
def keep_in_library(c: ChangeDep, ride_id: str) -> Response:
    """A copy of the ride goes into the library, for other jobs."""
    with writing(c.session):
        name = ride_library.keep(c.session, ride_or_404(c.bench, ride_id), c.author.who)
    return c.piece("ride/ride_kept.html", name=name)


@router.post("/jobs/{job_id}/rides/{ride_id}/descents/{number}", dependencies=APPRENTICE)
def cut_out(c: ChangeDep, ride_id: str, number: int) -> Response:
    """One descent of a long recording becomes a ride of its own."""
    ride = ride_or_404(c.bench, ride_id)
    track = track_of_ride(ride, c.bench.tracks)
    found = find_descents(track, ride.smoothing) if track is not None else []
    if not 0 <= number < len(found):
        raise HTTPException(404, "There is no such descent in this ride.")
    name = f"{ride.name[:60]}, descent {number + 1}"
    own = as_ride(ride, found[number], _free_id(c.bench, name), name)
    _add(c, own)
    return _done(c, own.id)


def _document(sections: Sequence[Section]) -> list[dict[str, object]]:
    return [section.model_dump(mode="json") for section in sections]


@router.post("/jobs/{job_id}/rides/{ride_id}/sections", dependencies=APPRENTICE)
def add_section(c: ChangeDep, ride_id: str) -> Response:
    """Another section like the last one."""
    ride = ride_or_404(c.bench, ride_id)
    if not ride.sections:
        raise HTTPException(422, "A ride from a track has no typed sections.")
    more = (*ride.sections, ride.sections[-1])
    c.or_refused(lambda: c.keep_newest(f"rides.{ride_id}.sections", _document(more)))
    return _done(c, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections/{index}/remove", dependencies=APPRENTICE)
def remove_section(c: ChangeDep, ride_id: str, index: int) -> Response:
    ride = ride_or_404(c.bench, ride_id)
    kept = [s for k, s in enumerate(ride.sections) if k != index]
    if not kept:
        return message("A typed ride keeps at least one section; remove the ride instead.", 422)
    c.keep_newest(f"rides.{ride_id}.sections", _document(kept))
    return _done(c, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections/split", dependencies=APPRENTICE)
def split(c: ChangeDep, ride_id: str, at: Annotated[float, Form(allow_inf_nan=False)]) -> Response:
    """Cut the section at a place of the profile (in the reader's km) in two."""
    ride = ride_or_404(c.bench, ride_id)
    try:
        cut = split_section(ride, stored(at, "km", c.system) * 1000)
        c.keep_newest(f"rides.{ride_id}.sections", _document(cut))
    except ClavisError as error:
        return _refused(c, error.said)
    return _done(c, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/point", dependencies=APPRENTICE)
def drag_point(
    c: ChangeDep,
    ride_id: str,
    index: Annotated[int, Form(ge=0, le=200)],
    at: Annotated[float, Form(allow_inf_nan=False)],
    height: Annotated[float, Form(allow_inf_nan=False)],
) -> Response:
    """The end of a section at another place of the profile (in the reader's km and m). The picture follows; a place
    that cannot be is said and the point goes back."""
    ride = ride_or_404(c.bench, ride_id)
    at_m, height_m = stored(at, "km", c.system) * 1000, stored(height, "m", c.system)
    try:
        if index == 0:
            now = c.keep(f"rides.{ride_id}.start_elevation_m", round(height_m, 1))
        else:
            now = c.keep(f"rides.{ride_id}.sections", _document(move_point(ride, index - 1, at_m, height_m)))
    except ClavisError as error:
        c.session.rollback()
        return _refused(c, error.said)
    return c.answered(now, Room.RIDE)


@router.post("/jobs/{job_id}/rides/{ride_id}/decide", dependencies=APPRENTICE)
def decide(c: ChangeDep, ride_id: str) -> Response:
    """Make this ride the one that decides."""
    c.keep_newest("decisive_ride", ride_or_404(c.bench, ride_id).id)
    return _done(c, ride_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/remove", dependencies=APPRENTICE)
def remove(c: ChangeDep, ride_id: str) -> Response:
    ride, version = ride_or_404(c.bench, ride_id), c.bench.opened.version
    if c.bench.job.decisive_ride == ride.id:
        version = c.keep_newest("decisive_ride", None).opened.version
    jobs.change(c.session, c.job_id, version, c.author, f"rides.{ride.id}", None)
    return _done(c)
