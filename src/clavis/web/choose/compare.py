"""Setups side by side: pinned, proposed and fitted; a room beside Choose."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from string import ascii_uppercase
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, HTTPException, Request
from numpy.typing import NDArray
from starlette.responses import HTMLResponse, JSONResponse, Response

from clavis.core import units
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.sampling import certainty, draws_of, ring_band, samples_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import MOST_PINS, Pin, Proposal
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad
from clavis.core.physics.heat import Node, standing_course
from clavis.core.selection.arguments import Argument, hold
from clavis.core.selection.compare import Column, Comparison, compare, pin_name, side_by_side
from clavis.core.units import System
from clavis.core.verdicts import Verdict
from clavis.core.wording.labels import choice_word
from clavis.store import jobs, ride_library
from clavis.web.choose.candidates import choice_of
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, new_page, render
from clavis.web.shell.stations import Room, station

router = APIRouter()
COURSE_POINTS = 240
COOLING_S = 1800.0
"""how long after the stop the cooling is shown"""
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Shown:
    """What the room shows: pinned setups, or the sides of an argument about one wheel."""

    about: Argument | None
    end: End
    comparison: Comparison
    words: tuple[str, ...] = ()
    why_not: str = ""


def _shown(b: Bench) -> Shown:
    about, end = b.asked.get("about", ""), End.REAR if b.asked.get("end") == End.REAR.value else End.FRONT
    if about not in {a.value for a in Argument}:
        key = ("compare", b.opened.id, b.opened.version, id(b.catalogue))
        return Shown(None, end, b.answers.get(key, lambda: compare(b.job, b.evaluation, b.catalogue, b.tracks)))
    argument, choice = Argument(about), choice_of(b, end)

    def held() -> Shown:
        if choice is None:
            return Shown(argument, end, side_by_side(b.job, ()), why_not="a rider, a bike and a ride are needed first")
        found = hold(argument, end, b.job, b.evaluation, choice, b.catalogue, b.tracks)
        return Shown(argument, end, side_by_side(b.job, found.columns, end), found.words, found.why_not)

    shown: Shown = b.answers.get(("held", about, end, b.opened.id, b.opened.version, id(b.catalogue)), held)
    return shown


def _courses(columns: tuple[Column, ...], b: Bench) -> str:
    """The ring of every setup over the way and over an hour after it, front and rear, in the reader's units, as JSON
    text."""
    wheels = [c.setup.wheels for c in columns]
    system, situation = b.reading.system, b.evaluation.situation
    way = _way(columns)
    rides: dict[str, Any] = {}
    stands: dict[str, Any] = {}
    minutes: list[float] = []
    for end in End:
        rides[end.value], stands[end.value] = [], []
        for letter, ws in zip(ascii_uppercase, wheels, strict=False):
            if end in ws and situation is not None:
                course = np.interp(way, ws[end].heat.distance_m, ws[end].heat.course_c[:, Node.RING])
                rides[end.value].append([letter, _degrees(course, system)])
                clock, ring = standing_course(ws[end].nodes, ws[end].steps, situation.weather.ambient_c)
                first = clock <= COOLING_S
                minutes = [round(float(s) / 60, 2) for s in clock[first]]
                stands[end.value].append([letter, _degrees(ring[first], system)])
    km = [round(units.convert(float(v) / 1000, "km", system), 3) for v in way]
    signs = {k: units.sign(k, system) for k in ("km", "c", "min")}
    keys = [[letter, c.key] for letter, c in zip(ascii_uppercase, columns, strict=False)]
    return json.dumps({"km": km, "ends": rides, "minutes": minutes, "stands": stands, "units": signs, "keys": keys})


def _way(columns: Sequence[Column]) -> Array:
    """Distances along the longest of the rides at which courses are shown, m."""
    longest = max((float(w.heat.distance_m[-1]) for c in columns for w in c.setup.wheels.values()), default=0.0)
    return np.linspace(0, longest, COURSE_POINTS)


def _degrees(values: Array, system: System) -> list[float]:
    return [round(units.convert(float(v), "c", system), 1) for v in values]


def _address(about: Argument | None, end: End) -> str:
    return "?" if about is None else f"?about={about.value}&end={end.value}"


@station(Room.COMPARE)
def context(b: Bench) -> dict[str, Any]:
    shown = _shown(b)
    found = shown.comparison
    ways = [(None, "pinned"), *((a, choice_word(a)) for a in Argument)]
    return {
        "shown": shown,
        "comparison": found,
        "letters": list(zip(ascii_uppercase, found.columns, strict=False)),
        "courses": _courses(found.columns, b) if found.columns else "",
        "arguments": [
            (word, "?" if a is None else f"?about={a.value}&end={shown.end.value}", a is shown.about)
            for a, word in ways
        ],
        "lanes": [(e, f"?about={shown.about.value}&end={e.value}", e is shown.end) for e in End] if shown.about else [],
    }


@router.get("/jobs/{job_id}/compare")
def page(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Response:
    b = bench(request, session, reading, job_id)
    return render(
        request, reading, "choose/compare.html", b=b, station=Room.COMPARE.station, room=Room.COMPARE, page=new_page(),
        others="", oob=False, **context(b),
    )  # fmt: skip


def _wheel(b: Bench, key: str, end: End) -> tuple[Situation, BrakeLoad, WheelResult]:
    """One wheel of one column with what it is sampled on; 404 where it cannot be judged."""
    column = next((c for c in _shown(b).comparison.columns if c.key == key), None)
    wheel = column.setup.wheels.get(end) if column else None
    load = column.setup.load if column else None
    if b.evaluation.situation is None or wheel is None or load is None:
        raise HTTPException(404, "This wheel cannot be judged.")
    return b.evaluation.situation, load, wheel


@router.get("/jobs/{job_id}/compare/{key}/{end}/sure")
def sure(request: Request, session: SessionDep, reading: ReaderDep, job_id: int, key: str, end: End) -> Response:
    """The chance that one wheel of one setup holds, and the band of its ring: the second update."""
    b = bench(request, session, reading, job_id)
    situation, load, wheel = _wheel(b, key, end)

    def draw() -> tuple[float, float, float]:
        draws = draws_of(situation.parameters, b.job.seed)
        pause = b.pause()
        samples = samples_of(b.job, situation, load, draws, pause)
        found = certainty(b.job, situation, load, wheel, draws, samples, pause)
        band = found.bands["ring_peak_c"]
        return found.chances[Verdict.HOLDS], band.low, band.high

    asked = ("compared", b.opened.id, b.opened.version, id(b.catalogue), key, end, b.asked.get("end"))
    chance, low, high = b.answers.get(asked, draw)
    return render(request, reading, "choose/compare_sure.html", of_ten=round(chance * 10), low=low, high=high)


@router.get("/jobs/{job_id}/compare/{key}/{end}/band")
def band(request: Request, session: SessionDep, reading: ReaderDep, job_id: int, key: str, end: End) -> Response:
    """10 and 90 % of the ring's temperature over the way, where the chart has its points, as JSON."""
    b = bench(request, session, reading, job_id)
    situation, _, wheel = _wheel(b, key, end)
    way = _way(_shown(b).comparison.columns)
    asked = ("band", b.opened.id, b.opened.version, id(b.catalogue), key, end, b.asked.get("end"))
    low, high = b.answers.get(
        asked, lambda: ring_band(wheel, situation, draws_of(situation.parameters, b.job.seed), way)
    )
    return JSONResponse({"low": _degrees(low, reading.system), "high": _degrees(high, reading.system)})


@router.post("/jobs/{job_id}/pins")
def pin(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    name: Annotated[str, Form(max_length=80)] = "",
) -> Response:
    """Pin what is proposed now; at most four."""
    b = bench(request, session, reading, job_id)
    proposed = b.evaluation.proposed
    if proposed is None or not b.has_proposal:
        raise HTTPException(422, "Propose something first; what is fitted is always in the comparison.")
    proposal = b.job.proposal
    same = next((p for p in b.job.pins if (p.front, p.rear) == (proposal.front, proposal.rear)), None)
    if same is not None:
        raise HTTPException(422, f"This setup is pinned already, as “{same.name}”.")
    if len(b.job.pins) >= MOST_PINS:
        raise HTTPException(422, f"{MOST_PINS} setups are pinned; take one off first, on the comparison.")
    words = name.strip() or pin_name(proposed, "Setup")
    pin_id = ride_library.free_id(words, (p.id for p in b.job.pins))
    kept = Pin(id=pin_id, name=words, front=proposal.front, rear=proposal.rear)
    jobs.change(session, job_id, b.opened.version, author, f"pins.{kept.id}", kept.model_dump(mode="json"))
    text = (
        f'<p class="done" role="status">Pinned. <a href="/jobs/{job_id}/compare">Compare {len(b.job.pins) + 1}</a></p>'
    )
    return HTMLResponse(text)


def _pin(b: Bench, pin_id: str) -> Pin:
    found = next((p for p in b.job.pins if p.id == pin_id), None)
    if found is None:
        raise HTTPException(404, "There is no such pinned setup on this job.")
    return found


@router.post("/jobs/{job_id}/pins/{pin_id}/off")
def unpin(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, pin_id: str
) -> Response:
    b = bench(request, session, reading, job_id)
    jobs.change(session, job_id, b.opened.version, author, f"pins.{_pin(b, pin_id).id}", None)
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/compare"})


@router.post("/jobs/{job_id}/pins/{pin_id}/propose")
def propose(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, pin_id: str
) -> Response:
    """Make a pinned setup the proposal."""
    b = bench(request, session, reading, job_id)
    found = _pin(b, pin_id)
    return _proposed(session, b, author, Proposal(front=found.front, rear=found.rear, bedded=b.job.proposal.bedded))


@router.post("/jobs/{job_id}/argued/{key}")
def propose_argued(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, key: str
) -> Response:
    """Make one side of an argument the proposal."""
    b = bench(request, session, reading, job_id)
    picks = next((c.picks for c in _shown(b).comparison.columns if c.key == key), None)
    if picks is None:
        raise HTTPException(404, "There is no such side of this comparison.")
    proposal = Proposal(front=picks[End.FRONT], rear=picks[End.REAR], bedded=b.job.proposal.bedded)
    return _proposed(session, b, author, proposal)


def _proposed(session: SessionDep, b: Bench, author: AuthorDep, proposal: Proposal) -> Response:
    job_id = b.opened.id
    jobs.change(session, job_id, b.opened.version, author, "proposal", proposal.model_dump(mode="json"))
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/choose"})
