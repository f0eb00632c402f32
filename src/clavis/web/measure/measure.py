"""Station 2: a walk round the bike, place by place, front lane and rear lane; readings, findings, gauges."""

from dataclasses import dataclass
from math import cos, radians, sin
from typing import Annotated, Any

from fastapi import APIRouter, Form, HTTPException, Request
from starlette.responses import HTMLResponse, Response

from clavis.core.errors import ClavisError
from clavis.core.inspection.findings import Place, WheelView, clearance_of, view_of
from clavis.core.inspection.walk import FIELDS_AT, place_of, place_states, said_at
from clavis.core.job.document import Clearance
from clavis.core.job.wheel import MOST_RING_POINTS, RING_POINTS, Instrument
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import WITNESSES
from clavis.core.selection.conversion import conversion_of, wants_conversion
from clavis.core.wording.job_summary import Station
from clavis.instruments.gauges import GAUGES, DemoBench, Feature, GaugeError, GaugeKind, SimulatedGauge
from clavis.store import jobs
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, bench_of, render
from clavis.web.shell.fields import read_numbers
from clavis.web.shell.stations import Room, after_change, station, text_of

router = APIRouter()

DIAL_MM, DIAL_NUMBER_MM = 37.0, 47.5
"""radius of the points and of their numbers on the little ring"""


@dataclass(frozen=True)
class DialPoint:
    """One place on the little ring where the micrometer goes, and what was read there."""

    number: int
    x: float
    y: float
    text_x: float
    text_y: float
    reading_mm: float | None
    thinnest: bool
    next: bool


def dial(v: WheelView) -> list[DialPoint]:
    """Six places round the ring, or as many as were read; the first at the top, clockwise."""
    readings = v.wheel.rotor_points_mm
    count = max(RING_POINTS, len(readings))
    thinnest = v.wheel.rotor_thinnest_mm
    points = []
    for k in range(count):
        angle = radians(360 * k / count)
        x, y = sin(angle), -cos(angle)
        value = readings[k] if k < len(readings) else None
        points.append(
            DialPoint(
                k + 1, round(DIAL_MM * x, 2), round(DIAL_MM * y, 2), round(DIAL_NUMBER_MM * x, 2),
                round(DIAL_NUMBER_MM * y + 3.5, 2), value, value is not None and value == thinnest, k == len(readings),
            )
        )  # fmt: skip
    return points


def _place(b: Bench) -> Place:
    """The place that the page shows: as asked for, or the one where a named field stands."""
    asked, at = b.asked.get("place", ""), b.asked.get("at", "")
    if asked in {p.value for p in Place}:
        return Place(asked)
    return place_of(at) if at else Place.MOUNT


def walk(b: Bench, place: Place) -> dict[str, Any]:
    """What the walk shows at one place."""
    views = tuple(view_of(b.job, end, b.catalogue) for end in End)
    fitted = b.evaluation.fitted.wheels if b.evaluation.fitted else {}
    order = list(Place)
    at = order.index(place)
    return {
        "place": place,
        "fields": FIELDS_AT[place],
        "states": place_states(views, b.findings),
        "views": {v.end: v for v in views},
        "said": {v.end: said_at(place, v, fitted.get(v.end), b.catalogue) for v in views},
        "lane_findings": {
            end: sorted((f for f in b.findings if f.end is end), key=lambda f: (not f.unsafe, f.row.place is not place))
            for end in End
        },
        "cleared": {f.key: c for f in b.findings if (c := clearance_of(b.job, f))},
        "dials": {v.end: dial(v) for v in views},
        "most_points": MOST_RING_POINTS,
        "gauges": GAUGES.values(),
        "witnesses": WITNESSES,
        "before": order[at - 1] if at else None,
        "after": order[at + 1] if at + 1 < len(order) else None,
        "conversion": wants_conversion(b.job),
    }


@station(Station.MEASURE)
def context(b: Bench) -> dict[str, Any]:
    return walk(b, _place(b))


def _ring(request: Request, b: Bench, end: End, error: str = "") -> str:
    view = view_of(b.job, end, b.catalogue)
    return text_of(
        render(request, b.reading, "measure/dial.html", b=b, end=end, view=view, points=dial(view), ring_error=error)
    )


@router.post("/jobs/{job_id}/points/{end}")
def points(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    end: End,
    base: Annotated[int, Form()],
    value: Annotated[str, Form(max_length=400)] = "",
    drop: Annotated[int | None, Form(ge=0, lt=MOST_RING_POINTS)] = None,
    clear: Annotated[bool, Form()] = False,
) -> Response:
    """Add what was typed to the readings of a ring (one, or several parted by spaces), drop one, or start again."""
    b = bench(request, session, reading, job_id)
    path, kept = f"{end.value}.rotor_points_mm", list(b.job.wheel(end).rotor_points_mm)
    try:
        new = [] if clear else [*kept, *read_numbers(path, value, reading.system)]
        if drop is not None and drop < len(new):
            del new[drop]
        if len(new) > MOST_RING_POINTS:
            raise jobs.RefusedError(path, f"a ring keeps {MOST_RING_POINTS} readings at most; drop one first")
        opened = jobs.change(session, job_id, base, author, path, new)
    except ClavisError as error:
        session.rollback()
        conflict = isinstance(error, jobs.ConflictError)
        words = f"{error}; reload to see it" if conflict else str(error)
        return HTMLResponse(_ring(request, b, end, words), 409 if conflict else 422)
    b = bench_of(request, session, reading, opened)
    return HTMLResponse(_ring(request, b, end) + after_change(request, session, b, Room.MEASURE, author.page, base))


@router.post("/jobs/{job_id}/gauge")
def gauge(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    base: Annotated[int, Form()],
    path: Annotated[str, Form(pattern=r"^(front|rear)\.[a-z_]+$")],
    kind: Annotated[GaugeKind, Form()],
) -> Response:
    """A gauge sends its reading into the field in hand, as if it had been typed there."""
    b = bench(request, session, reading, job_id)
    end, field = End(path.split(".")[0]), path.split(".")[1]
    try:
        feature = Feature(field)
    except ValueError:
        raise HTTPException(422, "No gauge reads this field; type it.") from None
    wheel = b.job.wheel(end)
    ring = feature is Feature.RING
    if ring and wheel.rotor_points_mm and wheel.rotor_instrument is not _instrument(kind):
        raise HTTPException(422, f"This ring was begun with the {wheel.rotor_instrument.value}: clear it first.")
    device = SimulatedGauge(kind, DemoBench(b.job, b.catalogue), b.job.seed * 100_003 + b.opened.version)
    try:
        sent = device.read(end, feature, len(wheel.rotor_points_mm)).value_mm
        if ring and len(wheel.rotor_points_mm) >= MOST_RING_POINTS:
            raise GaugeError(f"a ring keeps {MOST_RING_POINTS} readings at most; drop one first")
        if ring and not wheel.rotor_points_mm:
            jobs.change(session, job_id, base, author, f"{end.value}.rotor_instrument", _instrument(kind).value)
        if feature is Feature.BOLT_SPACING:
            jobs.change(session, job_id, base, author, f"{end.value}.spacing_tool", "gauge")
        value: Any = [*wheel.rotor_points_mm, sent] if ring else sent
        opened = jobs.change(session, job_id, base, author, path, value)
    except jobs.ConflictError as error:
        session.rollback()
        raise HTTPException(409, f"{error}. Reload to see it; nothing was overwritten.") from None
    except (GaugeError, jobs.RefusedError) as error:
        session.rollback()
        raise HTTPException(422, f"{error}.") from None
    b = bench_of(request, session, reading, opened)
    if ring:
        own = _ring(request, b, end)
        also = f"{end.value}.rotor_instrument"
    else:
        own = text_of(render(request, reading, "shell/_field.html", view=b.field(path), b=b, bare=False))
        also = f"{end.value}.spacing_tool" if feature is Feature.BOLT_SPACING else ""
    if also:
        view = b.field(also)
        own += text_of(render(request, reading, "shell/_field.html", view=view, b=b, bare=False, field_oob=True))
    return HTMLResponse(own + after_change(request, session, b, Room.MEASURE, author.page, base))


def _instrument(kind: GaugeKind) -> Instrument:
    return Instrument.MICROMETER if kind is GaugeKind.MICROMETER else Instrument.VERNIER


@router.post("/jobs/{job_id}/clear/{key}")
def clear(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    key: str,
    base: Annotated[int, Form()],
    reason: Annotated[str, Form(max_length=300)] = "",
    back: Annotated[bool, Form()] = False,
) -> Response:
    """A named person answers for an unsafe finding with a reason, or takes that back."""
    b = bench(request, session, reading, job_id)
    finding = next((f for f in b.findings if f.key == key and f.unsafe), None)
    if finding is None:
        raise HTTPException(404, "There is no such unsafe finding any more.")
    answer = None
    if not back:
        if len(reason.strip()) < 8:
            raise HTTPException(422, "Say in a few words what was done about it; it stands with your name.")
        at = jobs.now().isoformat(timespec="minutes")
        answer = Clearance(who=author.who, at=at, evidence=finding.reason, reason=reason.strip()).model_dump()
    opened = jobs.change(session, job_id, base, author, f"cleared.{key}", answer)
    b = bench_of(request, session, reading, opened)
    return HTMLResponse(after_change(request, session, b, Room.MEASURE, author.page, base))


@router.get("/jobs/{job_id}/conversion")
def conversion(request: Request, session: SessionDep, reading: ReaderDep, job_id: int) -> Response:
    """The verdict on converting, loaded after the page: it goes through the whole catalogue."""
    b = bench(request, session, reading, job_id)
    currency = request.app.state.settings.currency
    key = ("conversion", b.opened.id, b.opened.version, id(b.catalogue))
    found = b.answers.get(key, lambda: conversion_of(b.job, b.catalogue, currency))
    return render(request, reading, "measure/conversion.html", found=found)
