"""Station 6: the work order, its ticks and sign-off."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, HTTPException
from starlette.responses import RedirectResponse, Response

from clavis.core import units
from clavis.core.units import System
from clavis.core.workshop.torques import TorqueLine
from clavis.core.workshop.work_order import work_order
from clavis.store import jobs
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.visit import ChangeDep, station_page

router = APIRouter()


def _torque(line: TorqueLine, system: str) -> str:
    """A torque range in one system of units, without the unit; a work order shows both."""
    low, high = (
        units.number(nm, "nm", System(system)) for nm in (line.fastening.row.low_nm, line.fastening.row.high_nm)
    )
    return low if low == high else f"{low}–{high}"


@station_page(router, Station.BUILD)
def context(b: Bench) -> dict[str, Any]:
    order = work_order(b.job, b.evaluation)
    steps = [step.key for wheel in order.wheels for step in wheel.steps]
    done = [key for key in steps if key in b.job.ticks]
    return {"order": order, "done": len(done), "steps": len(steps), "torque": _torque}


@router.post("/jobs/{job_id}/tick")
def tick(c: ChangeDep, key: Annotated[str, Form(max_length=60, pattern=r"^[a-z]+:[a-z_]+$")]) -> Response:
    """Tick a step off, or take the tick back; name and time stand with it."""
    done = key in c.bench.job.ticks
    value = None if done else {"who": c.author.who, "at": jobs.now().isoformat(timespec="minutes")}
    now = c.or_refused(lambda: c.keep_newest(f"ticks.{key}", value))
    return c.piece("build/build_live.html", b=now, oob=False, room=Room.BUILD, **context(now))


@router.post("/jobs/{job_id}/sign-off")
def sign_off(c: ChangeDep) -> Response:
    """Sign the order off by name and date; refused while steps are open or something blocks it."""
    found = context(c.bench)
    if found["order"].blocks or found["order"].trial or found["done"] < found["steps"] or not found["steps"]:
        raise HTTPException(409, "Not yet: every step is ticked first, and nothing may block the order.")
    c.keep_newest("signed_off", {"who": c.author.who, "at": jobs.now().isoformat(timespec="minutes")})
    return RedirectResponse(f"/jobs/{c.job_id}/build", 303)
