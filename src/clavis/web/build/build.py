"""Station 6: the work order, its ticks and sign-off."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, HTTPException, Request
from starlette.responses import RedirectResponse, Response

from clavis.core import units
from clavis.core.units import System
from clavis.core.wording.job_summary import Station
from clavis.core.workshop.work_order import Torque, work_order
from clavis.store import jobs
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, bench_of, render
from clavis.web.shell.stations import station

router = APIRouter()


def _torque(torque: Torque, system: str) -> str:
    """A torque range in one system of units, without the unit; a work order shows both."""
    low, high = (units.number(nm, "nm", System(system)) for nm in (torque.low_nm, torque.high_nm))
    return low if low == high else f"{low}–{high}"


@station(Station.BUILD)
def context(b: Bench) -> dict[str, Any]:
    order = work_order(b.job, b.evaluation, b.catalogue)
    steps = [step.key for wheel in order.wheels for step in wheel.steps]
    done = [key for key in steps if key in b.job.ticks]
    return {"order": order, "done": len(done), "steps": len(steps), "torque": _torque}


@router.post("/jobs/{job_id}/tick")
def tick(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    key: Annotated[str, Form(max_length=60, pattern=r"^[a-z]+:[a-z_]+$")],
) -> Response:
    """Tick a step off, or take the tick back; name and time stand with it."""
    b = bench(request, session, reading, job_id)
    value = None if key in b.job.ticks else {"who": author.who, "at": jobs.now().isoformat(timespec="minutes")}
    try:
        opened = jobs.change(session, job_id, b.opened.version, author, f"ticks.{key}", value)
    except jobs.RefusedError as error:
        raise HTTPException(422, str(error)) from None
    now = bench_of(request, session, reading, opened)
    return render(request, reading, "build/build_live.html", b=now, oob=False, **context(now))


@router.post("/jobs/{job_id}/sign-off")
def sign_off(request: Request, session: SessionDep, author: AuthorDep, reading: ReaderDep, job_id: int) -> Response:
    """Sign the order off by name and date; refused while steps are open or something blocks it."""
    b = bench(request, session, reading, job_id)
    found = context(b)
    if found["order"].blocks or found["order"].trial or found["done"] < found["steps"] or not found["steps"]:
        raise HTTPException(409, "Not yet: every step is ticked first, and nothing may block the order.")
    value = {"who": author.who, "at": jobs.now().isoformat(timespec="minutes")}
    jobs.change(session, job_id, b.opened.version, author, "signed_off", value)
    return RedirectResponse(f"/jobs/{job_id}/build", 303)
