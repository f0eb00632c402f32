"""Station 3: rides as braking loads: files, typed sections, the profile and the brake power per wheel."""

import json
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, HTTPException, Request, UploadFile
from numpy.typing import NDArray
from starlette.responses import Response

from clavis.core.descent import BrakeLoad, wheel_energy_j
from clavis.core.errors import ClavisError, ProfileError, QuantityError
from clavis.core.headline import Station
from clavis.core.job import Ride, SpeedFrom
from clavis.core.mounts import End
from clavis.core.road import Section
from clavis.core.situation import load_of_ride
from clavis.core.units import KMH_PER_MS
from clavis.core.worst import WorstSpeeds, worst_on_ride
from clavis.store import door
from clavis.store.recordings import read_gpx
from clavis.web.context import AuthorDep, Bench, ReaderDep, SessionDep, bench
from clavis.web.security import message
from clavis.web.station import station

router = APIRouter()
CHART_POINTS = 600
FIRST_SECTION = Section(length_m=1000, gradient_pct=8, speed_kmh=30)


def _thin(values: NDArray[np.float64], index: NDArray[np.int64], places: int) -> list[float]:
    return [round(float(v), places) for v in values[index]]


def chart_of(load: BrakeLoad, b: Bench) -> str:
    """Distance km, elevation m, speed km/h, brake power per wheel W, for the chart, as JSON text.

    Powers are means over each drawn stretch, so that the picture holds the same energy as the load.
    """
    situation = b.evaluation.situation
    if situation is None:
        return ""
    n = len(load.dt_s)
    cuts = np.unique(np.linspace(0, n, min(n, CHART_POINTS) + 1).astype(np.int64))
    time = np.diff(load.time_s[cuts])

    def mean_power(end: End) -> list[float]:
        running = np.concatenate([[0.0], np.cumsum(wheel_energy_j(load, situation.sharing, end)[0])])
        power = np.diff(running[cuts]) / np.maximum(time, 1e-9)
        return [round(float(v)) for v in np.append(power, power[-1])]

    return json.dumps(
        {
            "km": _thin(load.distance_m / 1000, cuts, 3),
            "elevation": _thin(load.elevation_m, cuts, 1),
            "speed": _thin(load.speed_ms * KMH_PER_MS, cuts, 1),
            "front": mean_power(End.FRONT),
            "rear": mean_power(End.REAR),
        }
    )


def _worst(b: Bench) -> WorstSpeeds | None:
    """Of the fitted front wheel; None where the ride is no descent or the wheel is not known."""
    fitted, situation = b.evaluation.fitted, b.evaluation.situation
    wheel = fitted.wheels.get(End.FRONT) if fitted else None
    if fitted is None or situation is None or wheel is None or fitted.load is None or fitted.demand is None:
        return None
    try:
        return worst_on_ride(wheel, situation, fitted.load, fitted.demand)
    except QuantityError:
        return None


@station(Station.RIDE)
def context(b: Bench) -> dict[str, Any]:
    """The decisive ride as a load, its chart and head figures."""
    ride, situation = b.job.ride, b.evaluation.situation
    load, problem = None, ""
    if ride and situation:
        fitted = b.evaluation.fitted
        try:
            load = fitted.load if fitted and fitted.load else load_of_ride(ride, b.tracks, situation)
        except ClavisError as error:
            problem = str(error)
    figures = {}
    if load and situation:
        figures = {
            "mean_w": load.braked_kj * 1000 / max(float(load.time_s[-1]), 1e-9),
            "braked_kj": load.braked_kj,
            "drop_m": load.drop_m,
            "length_km": float(load.distance_m[-1]) / 1000,
            "minutes": float(load.time_s[-1]) / 60,
            "steepest_pct": load.steepest * 100,
            "share": {end: float(wheel_energy_j(load, situation.sharing, end)[0].sum()) / 1000 for end in End},
        }
    return {
        "ride": ride,
        "load": load,
        "problem": problem,
        "figures": figures,
        "chart": chart_of(load, b) if load else "",
        "sections": enumerate(ride.sections) if ride else (),
        "found": _worst(b),
    }


def _free_id(b: Bench, wish: str) -> str:
    taken = {r.id for r in b.job.rides}
    stem = "".join(c if c.isascii() and c.isalnum() else "-" for c in wish.lower()).strip("-")[:30] or "ride"
    return next(name for name in (stem, *(f"{stem}-{k}" for k in range(2, 100))) if name not in taken)


def _done(job_id: int) -> Response:
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/ride"})


def _add(session: SessionDep, author: door.Author, b: Bench, ride: Ride) -> None:
    opened = door.change(
        session, b.opened.id, b.opened.version, author, f"rides.{ride.id}", ride.model_dump(mode="json")
    )
    door.change(session, b.opened.id, opened.version, author, "decisive_ride", ride.id)


@router.post("/jobs/{job_id}/rides/file")
def add_file(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, file: UploadFile
) -> Response:
    """A GPX file becomes a ride. An unreadable one is answered beside the button; nothing is kept of it."""
    b = bench(request, session, reading, job_id)
    name = (file.filename or "track").rsplit("/", 1)[-1][:60]
    try:
        track = read_gpx(file.file).track
        track_id = door.keep_track(session, track)
        stem = name.rsplit(".", 1)[0] or "track"
        ride = Ride(
            id=_free_id(b, stem),
            name=stem.replace("-", " ").replace("_", " ").capitalize(),
            track_id=track_id,
            speed_from=SpeedFrom.PLANNED if track.time_s is None else SpeedFrom.RECORDED,
        )
        if b.evaluation.situation:
            load_of_ride(ride, {track_id: track}, b.evaluation.situation)
        _add(session, author, b, ride)
    except ProfileError as error:
        session.rollback()
        return message(f"{name}: {error}", 422)
    return _done(job_id)


@router.post("/jobs/{job_id}/rides/typed")
def add_typed(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    name: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    b = bench(request, session, reading, job_id)
    name = name.strip() or "Typed descent"
    _add(session, author, b, Ride(id=_free_id(b, name), name=name, sections=(FIRST_SECTION,), start_elevation_m=400))
    return _done(job_id)


def _ride(b: Bench, ride_id: str) -> Ride:
    ride = next((r for r in b.job.rides if r.id == ride_id), None)
    if ride is None:
        raise HTTPException(404, "There is no such ride on this job.")
    return ride


@router.post("/jobs/{job_id}/rides/{ride_id}/sections")
def add_section(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    """Another section like the last one."""
    b = bench(request, session, reading, job_id)
    ride = _ride(b, ride_id)
    if not ride.sections:
        raise HTTPException(422, "A ride from a track has no typed sections.")
    sections = [s.model_dump(mode="json") for s in (*ride.sections, ride.sections[-1])]
    try:
        door.change(session, job_id, b.opened.version, author, f"rides.{ride_id}.sections", sections)
    except door.RefusedError as error:
        return message(str(error), 422)
    return _done(job_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/sections/{index}/remove")
def remove_section(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str, index: int
) -> Response:
    b = bench(request, session, reading, job_id)
    kept = [s.model_dump(mode="json") for k, s in enumerate(_ride(b, ride_id).sections) if k != index]
    if not kept:
        return message("A typed ride keeps at least one section; remove the ride instead.", 422)
    door.change(session, job_id, b.opened.version, author, f"rides.{ride_id}.sections", kept)
    return _done(job_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/decide")
def decide(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    """Make this ride the one that decides."""
    b = bench(request, session, reading, job_id)
    door.change(session, job_id, b.opened.version, author, "decisive_ride", _ride(b, ride_id).id)
    return _done(job_id)


@router.post("/jobs/{job_id}/rides/{ride_id}/remove")
def remove(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, ride_id: str
) -> Response:
    b = bench(request, session, reading, job_id)
    ride = _ride(b, ride_id)
    version = b.opened.version
    if b.job.decisive_ride == ride.id:
        version = door.change(session, job_id, version, author, "decisive_ride", None).version
    door.change(session, job_id, version, author, f"rides.{ride.id}", None)
    return _done(job_id)
