"""Station 6: the work order, the gate that it has to pass, its ticks and its sign-off."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Annotated, Any

from fastapi import Form, HTTPException
from starlette.responses import RedirectResponse, Response

from clavis.core import entries, units
from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import SetupName
from clavis.core.evaluation.gate import evidence_of, in_order
from clavis.core.evaluation.parts_list import over_budget
from clavis.core.job.document import SHORTEST_REASON, TORQUE_RANGE_NM, BikeHeld, Clearance, StepTick, TorqueFrom
from clavis.core.job.renewal import Renewal
from clavis.core.parts.mounts import End
from clavis.core.units import System
from clavis.core.wording.labels import choice_word
from clavis.core.wording.papers import section_words, torque_number
from clavis.core.workshop.labour import quote_sum
from clavis.core.workshop.sign_off import NotYetError, Validity, comes_new, signed
from clavis.core.workshop.steps import STEPS
from clavis.core.workshop.supply import beyond, needed_pieces, waits_for
from clavis.core.workshop.torques import TorqueLine
from clavis.store import jobs, keeping, shelf, workshop
from clavis.web.build.views import tabs, view_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.paces import paces_of
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.visit import Change, ChangeDep, station_page

router = routes.router()


def torque(line: TorqueLine, system: str) -> str:
    """A torque without its unit in one system of units; a work order shows both."""
    return torque_number(line, System(system))


TORQUE_SIGNS = {system.value: units.sign("nm", system) for system in System}


def in_goes(line: TorqueLine, system: str) -> tuple[str, str] | None:
    """What is tightened to in the first of two goes and in the last, with the unit; None where it is done in one."""
    if line.first_nm is None or line.last_nm is None:
        return None
    unit = System(system)
    return units.show(line.first_nm, "nm", unit), units.show(line.last_nm, "nm", unit)


def usual(line: TorqueLine) -> str:
    """What the trade tightens it to, beside the part's own figure."""
    return torque(replace(line, marked=None), "metric") or "not known"


PAPERS: tuple[tuple[str, str, str], ...] = (
    ("order", "Work order", "for the bench: parts, torques, every step with its box"),
    ("quote", "Quote", "for the customer: what, why, what it costs, what it does and does not do"),
    ("handover", "Hand-over", "goes home with the rider: what is on it, bedding in, checks, limits"),
)


STEP_WORDS = {row.key: row.words for row in STEPS}


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
    order, view = b.order, view_of(b)
    terms = workshop.terms(b.session)
    return {
        "order": order,
        "view": view,
        "tabs": tabs(b, view),
        "held": tuple((h.value, choice_word(h), h is b.job.held) for h in BikeHeld),
        "sources": tuple(TorqueFrom),
        "budget": b.job.wishes.budget_price,
        "over": over_budget(order.total, b.job.wishes.budget_price),
        "ticked": order.ticked(b.job),
        "steps": len(order.steps),
        "may_sign": order.may_be_signed(b.job),
        "torque": torque,
        "TORQUE_SIGNS": TORQUE_SIGNS,
        "usual": usual,
        "section_words": section_words,
        "in_goes": in_goes,
        "signed": b.signed,
        "Validity": Validity,
        "renewals": {end: renewals_of(b, end) for end in End},
        "elsewhere": {key: by for key, by in b.job.cleared.items() if not by.given_here},
        "shortest": SHORTEST_REASON,
        "step_words": STEP_WORDS,
        "supplied_by_part": {line.need.part_id: line for line in b.supply},
        "may_set_aside": any(line.from_shelf for line in b.supply),
        "to_lay_back": beyond(shelf.supplied(b.session, b.opened.id), needed_pieces(b.supply)),
        "waits": waits_for(b.supply),
        "papers": PAPERS,
        "accepted": b.job.accepted,
        "accepted_stands": order.accepted_by(b.job),
        "terms": terms,
        "quote": quote_sum(order, terms),
        "rests": {end: in_order(case) for end, case in b.evaluation.cases[SetupName.PROPOSED].items()},
    }


def _again(c: Change, now: Bench) -> Response:
    return c.answered(now, Room.BUILD)


class Ticked(StrEnum):
    """What becomes of a step."""

    DONE = "done"
    SKIPPED = "skipped"
    OPEN = "open"


OLDEST_TICK_H = 24 * 7
"""a tick that was made while the page was offline says when; older than that, nobody waits for it"""


def _when(at: str) -> str:
    """When a step was done: as a page that was offline says; now, where that is in the future or too long ago."""
    now = jobs.now()
    try:
        told = datetime.fromisoformat(at).replace(tzinfo=None) if at else now
    except ValueError:
        told = now
    return (told if timedelta(0) <= now - told <= timedelta(hours=OLDEST_TICK_H) else now).isoformat(timespec="minutes")


@router.post("/jobs/{job_id}/tick", dependencies=APPRENTICE)
def tick(
    c: ChangeDep,
    key: Annotated[str, Form(max_length=60, pattern=r"^[a-z]+:[a-z_]+$")],
    state: Annotated[Ticked, Form()] = Ticked.DONE,
    reason: Annotated[str, Form(max_length=300)] = "",
    work: Annotated[str, Form(max_length=40)] = "",
    at: Annotated[str, Form(max_length=40)] = "",
    quiet: Annotated[bool, Form()] = False,
) -> Response:
    """A step is done, skipped for a reason, or open again; name and time stand with it. Nothing is ticked that must not
    be begun, nor for other ``work`` than the page showed. A ``quiet`` page draws nothing anew."""

    def kept(value: dict[str, Any] | None) -> Response:
        now = c.or_refused(lambda: c.keep_newest(f"ticks.{key}", value))
        return Response(status_code=204) if quiet else _again(c, now)

    order = c.bench.order
    step = order.step_of(key)
    if step is None:
        raise HTTPException(404, "The order has no such step any more. Reload to see it.")
    if state is Ticked.OPEN:
        return kept(None)
    if not order.gate.may_work:
        raise c.refused(409, order.gate.words)
    if work and work != step.stamp:
        raise HTTPException(
            409, "The order has changed since this page was opened. Reload, and look at this step again."
        )
    skipped = reason.strip() if state is Ticked.SKIPPED else ""
    if state is Ticked.SKIPPED and step.row.needed:
        raise HTTPException(422, "This step is never skipped: the bike does not leave without it.")
    if state is Ticked.SKIPPED and len(skipped) < SHORTEST_REASON:
        raise HTTPException(422, "Say in a few words why it is skipped; it is printed with your name.")
    return kept(StepTick(who=c.author.who, at=_when(at), work=step.stamp, skipped=skipped).model_dump())


@router.post("/jobs/{job_id}/marked", dependencies=APPRENTICE)
def marked(
    c: ChangeDep,
    key: Annotated[str, Form(max_length=60, pattern=r"^[A-Za-z0-9:_]+$")],
    torque: Annotated[str, Form(max_length=40)] = "",
    source: Annotated[TorqueFrom, Form()] = TorqueFrom.MARKING,
) -> Response:
    """What a fastener is tightened to as the part or its sheet says; nothing typed takes that back. The usual figure
    stands no more where the part's own does."""
    line = next((t for t in c.bench.order.torques if t.key == key), None)
    if line is None:
        raise HTTPException(404, "The order tightens no such fastener any more. Reload to see it.")
    if not torque.strip():
        return _again(c, c.or_refused(lambda: c.keep_newest(f"marked.{key}", None)))
    try:
        low_nm, high_nm = TORQUE_RANGE_NM
        torque_nm = entries.parse(torque, "nm", c.system, "torque", low=low_nm, high=high_nm)
    except QuantityError as error:
        raise c.refused(422, error.said) from None
    value = c.author.tick().model_dump() | {"torque_nm": torque_nm, "source": source.value}
    return _again(c, c.or_refused(lambda: c.keep_newest(f"marked.{key}", value)))


@router.post("/jobs/{job_id}/held", dependencies=APPRENTICE)
def held(c: ChangeDep, how: Annotated[BikeHeld, Form()]) -> Response:
    """How the bike stands while it is worked on."""
    return _again(c, c.or_refused(lambda: c.keep_newest("held", how.value)))


@router.post("/jobs/{job_id}/answer/{key}", dependencies=mechanic("a mechanic answers for an open point"))
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
    given = Clearance(who=c.author.who, at=jobs.moment(), evidence=evidence_of(point.words), reason=reason.strip())
    return _again(c, c.or_refused(lambda: c.keep_newest(f"cleared.{key}", given.model_dump())))


@router.post("/jobs/{job_id}/renew", dependencies=APPRENTICE)
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


@router.post("/jobs/{job_id}/sign-off", dependencies=mechanic("a mechanic signs off"))
def sign_off(c: ChangeDep) -> Response:
    """Sign the order off by name and date. Refused while steps are open, or anything bars it."""
    if c.base != c.bench.opened.version:
        raise HTTPException(409, "The job was changed since this page was opened. Reload, look again, then sign.")
    b, at = c.bench, jobs.moment()
    needed = needed_pieces(b.supply)
    came = {end: comes_new(case) for end, case in b.evaluation.cases[SetupName.PROPOSED].items()}
    try:
        after = signed(b.job, b.evaluation, b.catalogue, c.author.who, at)
        paces = paces_of(b), paces_of(b, proposed=True)
        keeping.sign_off(c.session, b.opened, c.author, after, b.catalogue, paces, came)
    except (NotYetError, jobs.ConflictError) as error:
        raise c.refused(409, error.said) from None
    shelf.used(c.session, c.job_id, needed, c.author.who)
    return RedirectResponse(f"/jobs/{c.job_id}/build", 303)


@router.post("/jobs/{job_id}/sign-off/back", dependencies=mechanic("a mechanic takes a sign-off back"))
def take_back(c: ChangeDep) -> Response:
    """Take a sign-off back; it stays on record."""
    try:
        jobs.take_back(c.session, c.job_id, c.author)
    except jobs.RefusedError as error:
        raise c.refused(409, error.said) from None
    return RedirectResponse(f"/jobs/{c.job_id}/build", 303)
