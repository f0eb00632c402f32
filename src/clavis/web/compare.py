"""Setups side by side: pinned, proposed and fitted; a room beside Choose."""

import json
from string import ascii_uppercase
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, HTTPException, Request
from starlette.responses import HTMLResponse, Response

from clavis.core import units
from clavis.core.compare import Column, Comparison, compare, pin_name
from clavis.core.heat import Node
from clavis.core.job import MOST_PINS, Pin, Proposal
from clavis.core.mounts import End
from clavis.core.sampling import certainty, draws_of, samples_of
from clavis.core.schools import SCHOOLS
from clavis.core.verdicts import Verdict
from clavis.store import door, library
from clavis.web.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, new_page, render
from clavis.web.station import Room, station

router = APIRouter()
COURSE_POINTS = 240


def _comparison(b: Bench) -> Comparison:
    key = ("compare", b.opened.id, b.opened.version, id(b.catalogue))
    found: Comparison = b.answers.get(key, lambda: compare(b.job, b.evaluation, b.catalogue, b.tracks))
    return found


def _courses(columns: tuple[Column, ...], b: Bench) -> str:
    """The ring of every setup over the way, front and rear, in the reader's units, as JSON text."""
    wheels = [c.setup.wheels for c in columns]
    ends: dict[str, Any] = {}
    system = b.reading.system
    longest = max((float(w.heat.distance_m[-1]) for ws in wheels for w in ws.values()), default=0.0)
    way = np.linspace(0, longest, COURSE_POINTS)
    for end in End:
        lines = []
        for letter, ws in zip(ascii_uppercase, wheels, strict=False):
            if end in ws:
                course = np.interp(way, ws[end].heat.distance_m, ws[end].heat.course_c[:, Node.RING])
                lines.append([letter, [round(units.convert(float(v), "c", system), 1) for v in course]])
        ends[end.value] = lines
    km = [round(units.convert(float(v) / 1000, "km", system), 3) for v in way]
    return json.dumps({"km": km, "ends": ends, "units": {k: units.sign(k, system) for k in ("km", "c")}})


@station(Room.COMPARE)
def context(b: Bench) -> dict[str, Any]:
    found = _comparison(b)
    return {
        "comparison": found,
        "letters": list(zip(ascii_uppercase, found.columns, strict=False)),
        "courses": _courses(found.columns, b) if found.columns else "",
        "school": next(row for row in SCHOOLS if row.school is b.job.wishes.school),
    }


@router.get("/jobs/{job_id}/compare")
def page(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Response:
    b = bench(request, session, reading, job_id)
    return render(
        request, reading, "compare.html", b=b, station=Room.COMPARE.station, room=Room.COMPARE, page=new_page(),
        others="", oob=False, **context(b),
    )  # fmt: skip


@router.get("/jobs/{job_id}/compare/{key}/{end}/sure")
def sure(request: Request, session: SessionDep, reading: ReaderDep, job_id: int, key: str, end: End) -> Response:
    """The chance that one wheel of one setup holds, and the band of its ring: the second update."""
    b = bench(request, session, reading, job_id)
    situation = b.evaluation.situation
    column = next((c for c in _comparison(b).columns if c.key == key), None)
    wheel = column.setup.wheels.get(end) if column else None
    load = column.setup.load if column else None
    if situation is None or wheel is None or load is None:
        raise HTTPException(404, "This wheel cannot be judged.")

    def draw() -> tuple[float, float, float]:
        draws = draws_of(situation.parameters, b.job.seed)
        found = certainty(b.job, situation, load, wheel, draws, samples_of(b.job, situation, load, draws))
        band = found.bands["ring_peak_c"]
        return found.chances[Verdict.HOLDS], band.low, band.high

    chance, low, high = b.answers.get(("compared", b.opened.id, b.opened.version, id(b.catalogue), key, end), draw)
    return render(request, reading, "compare_sure.html", of_ten=round(chance * 10), low=low, high=high)


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
    pin_id = library.free_id(words, (p.id for p in b.job.pins))
    kept = Pin(id=pin_id, name=words, front=proposal.front, rear=proposal.rear)
    door.change(session, job_id, b.opened.version, author, f"pins.{kept.id}", kept.model_dump(mode="json"))
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
    door.change(session, job_id, b.opened.version, author, f"pins.{_pin(b, pin_id).id}", None)
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/compare"})


@router.post("/jobs/{job_id}/pins/{pin_id}/propose")
def propose(
    request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int, pin_id: str
) -> Response:
    """Make a pinned setup the proposal."""
    b = bench(request, session, reading, job_id)
    found = _pin(b, pin_id)
    proposal = Proposal(front=found.front, rear=found.rear, bedded=b.job.proposal.bedded)
    door.change(session, job_id, b.opened.version, author, "proposal", proposal.model_dump(mode="json"))
    return Response(status_code=200, headers={"HX-Redirect": f"/jobs/{job_id}/choose"})
