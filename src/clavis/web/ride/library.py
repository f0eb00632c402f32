"""The library of rides: what jobs share, carried away as GPX or JSON and read back."""

import numpy as np
from fastapi import HTTPException, Request, UploadFile
from starlette.responses import RedirectResponse, Response

from clavis.core.errors import ClavisError
from clavis.core.evaluation.rides import kind_of_ride
from clavis.core.job.document import Ride
from clavis.core.physics.road import Track
from clavis.formats import rides_file
from clavis.formats.gpx_out import track_of_sections, write_gpx
from clavis.store import jobs, ride_library
from clavis.store.database import writing
from clavis.web.ride.ride import ride_or_404
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.readers import AuthorDep, ReaderDep
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import render
from clavis.web.shell.visit import VisitDep

router = routes.router()


def _track(ride: Ride, tracks: dict[str, Track]) -> Track:
    """The way of one lap. Raises ProfileError."""
    if ride.track_id is None:
        return track_of_sections(ride)
    track = tracks[ride.track_id]
    return track.between(ride.from_m or 0.0, float("inf") if ride.to_m is None else ride.to_m)


@router.get("/rides", dependencies=APPRENTICE)
def page(request: Request, session: SessionDep, reading: ReaderDep) -> Response:
    found = ride_library.entries(session)
    tracks = jobs.tracks_of(session, (e.ride for e in found))
    rows = []
    for e in found:
        try:
            track = _track(e.ride, tracks)
        except ClavisError as error:
            rows.append({"ride": e.ride, "who": e.who, "kind": kind_of_ride(e.ride), "problem": error.said})
            continue
        rows.append(
            {
                "ride": e.ride,
                "who": e.who,
                "kind": kind_of_ride(e.ride),
                "length_km": float(track.distance_m[-1] - track.distance_m[0]) / 1000,
                "drop_m": float(track.elevation_m[0] - track.elevation_m[-1]),
                "points": [round(float(v), 1) for v in _outline(track)],
                "problem": "",
            }
        )
    return render(request, reading, "ride/library.html", rows=rows, error="")


@router.get("/rides/choices", dependencies=APPRENTICE)
def choices(request: Request, session: SessionDep, reading: ReaderDep) -> Response:
    """The library as the choices of a job's page."""
    return render(request, reading, "ride/ride_choices.html", rows=ride_library.entries(session))


OUTLINE_POINTS, OUTLINE_WIDTH, OUTLINE_HEIGHT = 48, 140.0, 30.0


def _outline(track: Track) -> list[float]:
    """The profile as x and y in turn, for a small drawing."""
    way = np.linspace(track.distance_m[0], track.distance_m[-1], OUTLINE_POINTS)
    height = np.interp(way, track.distance_m, track.elevation_m)
    span = max(float(np.ptp(height)), 1.0)
    x = np.linspace(0, OUTLINE_WIDTH, OUTLINE_POINTS)
    y = OUTLINE_HEIGHT * (0.5 + (float(height.max() + height.min()) / 2 - height) / span)
    return [float(v) for pair in zip(x, y, strict=True) for v in pair]


def _as_json(session: SessionDep, rides: list[Ride], name: str) -> Response:
    return Response(
        rides_file.write(rides, jobs.tracks_of(session, rides)),
        media_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.json"'},
    )


def _as_gpx(session: SessionDep, ride: Ride) -> Response:
    try:
        text = write_gpx(ride.name, _track(ride, jobs.tracks_of(session, [ride])))
    except ClavisError as error:
        raise HTTPException(422, str(error)) from None
    return Response(
        text,
        media_type="application/gpx+xml",
        headers={"Content-Disposition": f'attachment; filename="{ride.id}.gpx"'},
    )


def _found(session: SessionDep, ride_id: str) -> Ride:
    try:
        return ride_library.find(session, ride_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None


@router.get("/rides/library.json", dependencies=APPRENTICE)
def everything(session: SessionDep) -> Response:
    """The whole library as one open file."""
    rides = [e.ride for e in ride_library.entries(session)]
    if not rides:
        raise HTTPException(404, "The library is empty.")
    return _as_json(session, rides, "clavis-rides")


@router.get("/rides/{ride_id}.json", dependencies=APPRENTICE)
def one_as_json(session: SessionDep, ride_id: str) -> Response:
    return _as_json(session, [_found(session, ride_id)], ride_id)


@router.get("/rides/{ride_id}.gpx", dependencies=APPRENTICE)
def one_as_gpx(session: SessionDep, ride_id: str) -> Response:
    return _as_gpx(session, _found(session, ride_id))


@router.get("/jobs/{job_id}/rides/{ride_id}.gpx", dependencies=APPRENTICE)
def ride_as_gpx(v: VisitDep, ride_id: str) -> Response:
    return _as_gpx(v.session, ride_or_404(v.bench, ride_id))


@router.get("/jobs/{job_id}/rides/{ride_id}.json", dependencies=APPRENTICE)
def ride_as_json(v: VisitDep, ride_id: str) -> Response:
    return _as_json(v.session, [ride_or_404(v.bench, ride_id)], ride_id)


@router.post("/rides/read", dependencies=APPRENTICE)
def read(session: SessionDep, reading: ReaderDep, author: AuthorDep, file: UploadFile) -> Response:
    """A rides file into the library; nothing of it is kept where it cannot be read whole."""
    try:
        found = rides_file.parse(file.file.read())
        with writing(session):
            ride_library.keep_file(session, found, author.who)
    except ClavisError as error:
        raise HTTPException(422, f"“{(file.filename or 'file')[:60]}”: {reading.told(error.said)}") from None
    return RedirectResponse("/rides", 303)


@router.post("/rides/{ride_id}/remove", dependencies=mechanic("a mechanic removes rides of the library"))
def remove(session: SessionDep, author: AuthorDep, ride_id: str) -> Response:
    """Jobs that use a copy keep it."""
    try:
        with writing(session):
            ride_library.remove(session, ride_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None
    return Response(status_code=200, headers={"HX-Redirect": "/rides"})
