"""Station 2: a walk round the bike, place by place, front lane and rear lane; readings, findings, gauges."""

from dataclasses import dataclass
from math import cos, radians, sin
from typing import Annotated, Any

from fastapi import Form, HTTPException
from starlette.responses import HTMLResponse, Response

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import SetupName
from clavis.core.inspection.walk import entered, place_states, readings_at
from clavis.core.job.document import Proposal
from clavis.core.job.places import FIELDS_AT, FIRST_AT, Place, place_of
from clavis.core.job.wheel import MOST_ROTOR_POINTS, ROTOR_POINTS, Instrument, Wheel
from clavis.core.parts.mounts import MOUNT_ROWS, End
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES
from clavis.core.selection.conversion import conversion_of, wants_conversion
from clavis.core.sentences import NOTHING, Words, say
from clavis.instruments.gauges import GAUGES, DemoBench, Feature, GaugeError, GaugeKind, SimulatedGauge
from clavis.store import jobs
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.job_fields import read_readings
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.templates import text_of
from clavis.web.shell.visit import Change, ChangeDep, VisitDep, station_page

router = routes.router()

DIAL_MM, DIAL_NUMBER_MM = 37.0, 47.5
"""radius of the points and of their numbers on the little rotor"""


@dataclass(frozen=True)
class DialPoint:
    """One place on the little rotor where the micrometer goes, and what was read there."""

    number: int
    x: float
    y: float
    text_x: float
    text_y: float
    reading_mm: float | None
    thinnest: bool
    next: bool


def dial(wheel: Wheel) -> list[DialPoint]:
    """Six places round the rotor, or as many as were read; the first at the top, clockwise."""
    readings = wheel.rotor_points_mm
    count = max(ROTOR_POINTS, len(readings))
    thinnest = wheel.rotor_thinnest_mm
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


def _opened(b: Bench, end: End, place: Place) -> tuple[str, ...]:
    """The folded readings of a place that are entered, or that were asked for: what was read is never hidden."""
    wheel, asked = b.job.wheel(end), b.asked.get("at", "").rpartition(".")[2]
    folded = (field for field in FIELDS_AT[place] if field not in FIRST_AT[place])
    return tuple(field for field in folded if field == asked or entered(wheel, field))


def walk(b: Bench, place: Place) -> dict[str, Any]:
    """What the walk shows at one place."""
    cases = b.evaluation.cases[SetupName.FITTED]
    results = b.evaluation.fitted.wheels if b.evaluation.fitted else {}
    order = list(Place)
    at = order.index(place)
    return {
        "place": place,
        "first": FIRST_AT[place],
        "more": tuple(field for field in FIELDS_AT[place] if field not in FIRST_AT[place]),
        "opened": {end: _opened(b, end, place) for end in End},
        "states": place_states((b.job.wheel(end) for end in End), b.findings),
        "wheels": {end: case.wheel for end, case in cases.items()},
        "said": {end: readings_at(place, case, results.get(end)) for end, case in cases.items()},
        "lane_findings": {
            end: sorted((f for f in b.findings if f.end is end), key=lambda f: (not f.unsafe, f.place is not place))
            for end in End
        },
        "dials": {end: dial(b.job.wheel(end)) for end in End},
        "most_points": MOST_ROTOR_POINTS,
        "gauges": GAUGES.values() if b.stand_ins else (),
        "witnesses": WITNESSES,
        "witness_doubt_k": WITNESS_DOUBT_K,
        "mounts": {kind.value: row for kind, row in MOUNT_ROWS.items()},
        "before": order[at - 1] if at else None,
        "after": order[at + 1] if at + 1 < len(order) else None,
        "conversion": wants_conversion(b.job),
    }


@station_page(router, Station.MEASURE)
def context(b: Bench) -> dict[str, Any]:
    return walk(b, _place(b))


def _rotor(c: Change, now: Bench, end: End, error: Words = NOTHING) -> str:
    wheel = now.job.wheel(end)
    return text_of(c.piece("measure/dial.html", b=now, end=end, wheel=wheel, points=dial(wheel), rotor_error=error))


@router.post("/jobs/{job_id}/points/{end}", dependencies=APPRENTICE)
def points(
    c: ChangeDep,
    end: End,
    value: Annotated[str, Form(max_length=400)] = "",
    drop: Annotated[int | None, Form(ge=0, lt=MOST_ROTOR_POINTS)] = None,
    clear: Annotated[bool, Form()] = False,
) -> Response:
    """Add what was typed to the readings of a rotor (one, or several parted by spaces), drop one, or start again."""
    path, kept = f"{end.value}.rotor_points_mm", list(c.bench.job.wheel(end).rotor_points_mm)
    try:
        new = [] if clear else [*kept, *read_readings(path, value, c.system)]
        if drop is not None and drop < len(new):
            del new[drop]
        if len(new) > MOST_ROTOR_POINTS:
            raise jobs.RefusedError(path, TOO_MANY_POINTS)
        read_by = c.bench.job.wheel(end).read_by_with("rotor_points_mm")
        now = c.keep(path, new, {"read_by": read_by} if read_by != c.bench.job.wheel(end).read_by else None)
    except ClavisError as error:
        c.session.rollback()
        conflict = isinstance(error, jobs.ConflictError)
        words = say("{error}; reload to see it", error=error.said) if conflict else error.said
        return HTMLResponse(_rotor(c, c.bench, end, words), 409 if conflict else 422)
    return HTMLResponse(_rotor(c, now, end) + c.followed(now, Room.MEASURE))


TOO_MANY_POINTS = say("a rotor keeps {most} readings at most; drop one first", most=MOST_ROTOR_POINTS)


@router.post("/jobs/{job_id}/gauge", dependencies=APPRENTICE)
def gauge(
    c: ChangeDep,
    path: Annotated[str, Form(pattern=r"^(front|rear)\.[a-z_]+$")],
    kind: Annotated[GaugeKind, Form()],
) -> Response:
    """A gauge sends its reading into the field in hand, as if it had been typed there."""
    if not c.bench.stand_ins:
        raise HTTPException(409, "No gauge is connected. The stand-in reads an invented bike: on demo jobs alone.")
    end, field = End(path.split(".")[0]), path.split(".")[1]
    try:
        feature = Feature(field)
    except ValueError:
        raise HTTPException(422, "No gauge reads this field; type it.") from None
    wheel = c.bench.job.wheel(end)
    if feature is Feature.ROTOR and wheel.rotor_points_mm and wheel.rotor_instrument is not _instrument(kind):
        raise HTTPException(422, f"This rotor was begun with the {wheel.rotor_instrument.value}: clear it first.")
    try:
        now = _sent(c, end, feature, kind)
    except jobs.ConflictError as error:
        c.session.rollback()
        raise c.refused(409, say("{error}. Reload to see it; nothing was overwritten.", error=error.said)) from None
    except (GaugeError, jobs.RefusedError) as error:
        c.session.rollback()
        raise c.refused(422, say("{error}.", error=error.said)) from None
    own = _rotor(c, now, end) if feature is Feature.ROTOR else c.field(now, path, oob=False)
    also = {Feature.ROTOR: "rotor_instrument", Feature.BOLT_SPACING: "spacing_tool"}.get(feature)
    if also:
        own += c.field(now, f"{end.value}.{also}", oob=True)
    return HTMLResponse(own + c.followed(now, Room.MEASURE))


def _sent(c: Change, end: End, feature: Feature, kind: GaugeKind) -> Bench:
    """One reading of a gauge kept, with what it was read with. Raises GaugeError, RefusedError, ConflictError."""
    job, rotor = c.bench.job, feature is Feature.ROTOR
    wheel = job.wheel(end)
    device = SimulatedGauge(kind, DemoBench(job, c.bench.catalogue), job.seed * 100_003 + c.bench.opened.version)
    sent = device.read(end, feature, len(wheel.rotor_points_mm)).value_mm
    if rotor and len(wheel.rotor_points_mm) >= MOST_ROTOR_POINTS:
        raise GaugeError(TOO_MANY_POINTS)
    if rotor and not wheel.rotor_points_mm:
        c.keep(f"{end.value}.rotor_instrument", _instrument(kind).value)
    if feature is Feature.BOLT_SPACING:
        c.keep(f"{end.value}.spacing_tool", "gauge")
    value: Any = [*wheel.rotor_points_mm, sent] if rotor else sent
    source = f"{GAUGES[kind].words}, a stand-in: an invented bike"
    return c.keep(f"{end.value}.{feature.value}", value, {"read_by": wheel.read_by_with(feature.value, source)})


def _instrument(kind: GaugeKind) -> Instrument:
    return Instrument.MICROMETER if kind is GaugeKind.MICROMETER else Instrument.VERNIER


@router.get("/jobs/{job_id}/conversion", dependencies=APPRENTICE)
def conversion(v: VisitDep) -> Response:
    """The verdict on converting, loaded after the page: it goes through the whole catalogue."""
    b, currency = v.bench, v.request.app.state.settings.currency
    found = b.kept("conversion", lambda: conversion_of(b.job, b.evaluation.mountings, currency))
    return v.piece("measure/conversion.html", found=found)


@router.post("/jobs/{job_id}/convert", dependencies=APPRENTICE)
def convert(c: ChangeDep) -> Response:
    """Propose the conversion: its parts, and its wheels where the hubs take no rotor."""
    b, currency = c.bench, c.request.app.state.settings.currency
    found = b.kept("conversion", lambda: conversion_of(b.job, b.evaluation.mountings, currency))
    picks = {w.end.value: w.pick for w in found.wheels if w.pick is not None} if found else {}
    if not picks:
        raise HTTPException(409, "There is nothing to propose: no conversion can be bought whole.")
    proposal = Proposal(**picks, bedded=b.job.proposal.bedded)
    c.or_refused(lambda: c.keep_newest("proposal", proposal.model_dump(mode="json")))
    return c.gone_to("choose")
