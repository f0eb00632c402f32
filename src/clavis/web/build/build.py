"""Station 6: the work order, the gate that it has to pass, its ticks and its sign-off."""

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Form, HTTPException
from starlette.responses import RedirectResponse, Response

from clavis.core import units
from clavis.core.evaluation.evaluate import SetupName
from clavis.core.evaluation.gate import in_order
from clavis.core.evaluation.parts_list import over_budget
from clavis.core.job.document import SHORTEST_REASON, Clearance, StepTick
from clavis.core.job.renewal import Renewal
from clavis.core.parts.mounts import End
from clavis.core.units import System
from clavis.core.workshop.sign_off import NotYetError, Validity, signed
from clavis.core.workshop.torques import TorqueLine
from clavis.store import jobs
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.visit import Change, ChangeDep, station_page

router = APIRouter()


def _torque(line: TorqueLine, system: str) -> str:
    """A torque range in one system of units, without the unit; a work order shows both."""
    low, high = (
        units.number(nm, "nm", System(system)) for nm in (line.fastening.row.low_nm, line.fastening.row.high_nm)
    )
    return low if low == high else f"{low}–{high}"


@dataclass(frozen=True)
class RenewalChip:
    """One thing that can come new, or be done, on a wheel, and whether the order has it."""

    what: Renewal
    on: bool
    forced: bool
    """another model is proposed for its place anyway"""


def renewals_of(b: Bench, end: End) -> tuple[RenewalChip, ...]:
    """What can come new on a wheel that has a brake; nothing where there is none."""
    case, pick = b.evaluation.cases[SetupName.PROPOSED][end], b.job.proposal.of(end)
    on_it = case.wheel.on_it
    if on_it.caliper is None:
        return ()
    chips = []
    for what in Renewal:
        if what.axis is not None and on_it.of(what.axis) is None:
            continue
        if what is Renewal.BLEED and case.changes is not None and case.changes.cable:
            continue
        other = what.axis is not None and case.brake.of(what.axis) != on_it.of(what.axis)
        chips.append(RenewalChip(what, what in pick.renew, other))
    return tuple(chips)


@station_page(router, Station.BUILD)
def context(b: Bench) -> dict[str, Any]:
    order = b.order
    return {
        "order": order,
        "budget": b.job.wishes.budget_price,
        "over": over_budget(order.total, b.job.wishes.budget_price),
        "ticked": order.ticked(b.job),
        "steps": order.steps,
        "may_sign": order.may_be_signed(b.job),
        "torque": _torque,
        "signed": b.signed,
        "Validity": Validity,
        "renewals": {end: renewals_of(b, end) for end in End},
        "shortest": SHORTEST_REASON,
        "rests": {end: in_order(case) for end, case in b.evaluation.cases[SetupName.PROPOSED].items()},
    }


def _again(c: Change, now: Bench) -> Response:
    return c.answered(now, Room.BUILD)


@router.post("/jobs/{job_id}/tick")
def tick(c: ChangeDep, key: Annotated[str, Form(max_length=60, pattern=r"^[a-z]+:[a-z_]+$")]) -> Response:
    """Tick a step off, or take the tick back; name and time stand with it. Nothing is ticked that must not be begun."""
    order = c.bench.order
    wheel = order.step_of(key)
    if wheel is None:
        raise HTTPException(404, "The order has no such step any more. Reload to see it.")
    value = None
    if key not in order.ticked(c.bench.job):
        if not order.gate.may_work:
            raise c.refused(409, order.gate.words)
        at = jobs.now().isoformat(timespec="minutes")
        value = StepTick(who=c.author.who, at=at, work=wheel.work.stamp).model_dump()
    return _again(c, c.or_refused(lambda: c.keep_newest(f"ticks.{key}", value)))


@router.post("/jobs/{job_id}/answer/{key}")
def answer(
    c: ChangeDep,
    key: str,
    reason: Annotated[str, Form(max_length=300)] = "",
    back: Annotated[bool, Form()] = False,
) -> Response:
    """A named person answers for a point that is open, with a reason; or takes that back."""
    if back:
        return _again(c, c.or_refused(lambda: c.keep_newest(f"cleared.{key}", None)))
    point = next((p for p in c.bench.order.gate.name if p.key == key), None)
    if point is None:
        raise HTTPException(409, "Nobody can answer for this: it is settled, or mended.")
    if len(reason.strip()) < SHORTEST_REASON:
        raise HTTPException(422, "Say in a few words why it may be so; it is printed with your name.")
    at = jobs.now().isoformat(timespec="minutes")
    given = Clearance(who=c.author.who, at=at, evidence=str(point.words)[:300], reason=reason.strip())
    return _again(c, c.or_refused(lambda: c.keep_newest(f"cleared.{key}", given.model_dump())))


@router.post("/jobs/{job_id}/renew")
def renew(
    c: ChangeDep,
    end: Annotated[End, Form()],
    what: Annotated[Renewal, Form()],
    room: Annotated[Room, Form()] = Room.BUILD,
) -> Response:
    """Put something that comes new, or is done, into the order of a wheel, or take it out."""
    had = list(c.bench.job.proposal.of(end).renew)
    had.remove(what) if what in had else had.append(what)
    return c.answered(c.or_refused(lambda: c.keep_newest(f"proposal.{end.value}.renew", had)), room)


@router.post("/jobs/{job_id}/sign-off")
def sign_off(c: ChangeDep) -> Response:
    """Sign the order off by name and date. Refused while steps are open, or anything bars it."""
    if c.base != c.bench.opened.version:
        raise HTTPException(409, "The job was changed since this page was opened. Reload, look again, then sign.")
    b, at = c.bench, jobs.now().isoformat(timespec="minutes")
    try:
        jobs.sign_off(c.session, b.opened, c.author, signed(b.job, b.evaluation, b.catalogue, c.author.who, at))
    except (NotYetError, jobs.ConflictError) as error:
        raise c.refused(409, error.said) from None
    return RedirectResponse(f"/jobs/{c.job_id}/build", 303)


@router.post("/jobs/{job_id}/sign-off/back")
def take_back(c: ChangeDep) -> Response:
    """Take a sign-off back; it stays on record."""
    try:
        jobs.take_back(c.session, c.job_id, c.author)
    except jobs.RefusedError as error:
        raise c.refused(409, error.said) from None
    return RedirectResponse(f"/jobs/{c.job_id}/build", 303)
