"""Setups side by side: pinned, proposed and fitted; a room beside Choose."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from string import ascii_uppercase
from typing import Annotated, Any

import numpy as np
from fastapi import Form, HTTPException
from numpy.typing import NDArray
from starlette.responses import JSONResponse, Response

from clavis.core import units
from clavis.core.evaluation.evaluate import SetupResult, WheelResult
from clavis.core.evaluation.sampling import Drawn, bands_along, certainty, draws_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import MOST_PINS, Pin, Proposal
from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node, standing_course
from clavis.core.selection.arguments import Argument, hold
from clavis.core.selection.compare import Comparison, SetupColumn, compare, pin_name, side_by_side
from clavis.core.sentences import Words
from clavis.core.units import System
from clavis.core.verdicts import Verdict
from clavis.core.wording.labels import choice_word
from clavis.store import ride_library
from clavis.web.choose.views import View, tabs
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.choices import choice_of
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE, LONG
from clavis.web.shell.stations import gathers
from clavis.web.shell.visit import Change, ChangeDep, VisitDep

router = routes.router()
COURSE_POINTS = 240
COOLING_S = 1800.0
"""how long after the stop the cooling is shown"""
Array = NDArray[np.float64]


@dataclass(frozen=True)
class SetupsShown:
    """What the room shows: pinned setups, or the sides of an argument about one wheel."""

    about: Argument | None
    end: End
    comparison: Comparison
    words: tuple[Words, ...] = ()
    why_not: Words = ""


def _shown(b: Bench) -> SetupsShown:
    about, end = b.asked.get("about", ""), End.REAR if b.asked.get("end") == End.REAR.value else End.FRONT
    if about not in {a.value for a in Argument}:
        return SetupsShown(None, end, b.kept("compare", lambda: compare(b.job, b.evaluation, b.tracks)))
    argument, choice = Argument(about), choice_of(b, end)

    def held() -> SetupsShown:
        if choice is None:
            return SetupsShown(
                argument, end, side_by_side(b.job, ()), why_not="a rider, a bike and a ride are needed first"
            )
        found = hold(argument, end, b.job, b.evaluation, choice, b.tracks)
        return SetupsShown(argument, end, side_by_side(b.job, found.columns, end), found.words, found.why_not)

    return b.kept("held", held, about, end)


def _courses(columns: tuple[SetupColumn, ...], b: Bench) -> str:
    """The rotor of every setup over the way and over an hour after it, front and rear, in the reader's units, as JSON
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
                course = np.interp(way, ws[end].heat.distance_m, ws[end].heat.course_c[:, Node.ROTOR])
                rides[end.value].append([letter, _degrees(course, system)])
                clock, rotor = standing_course(ws[end].nodes, ws[end].steps, situation.weather.ambient_c)
                first = clock <= COOLING_S
                minutes = [round(float(s) / 60, 2) for s in clock[first]]
                stands[end.value].append([letter, _degrees(rotor[first], system)])
    km = [round(units.convert(float(v) / 1000, "km", system), 3) for v in way]
    signs = {k: units.sign(k, system) for k in ("km", "c", "min")}
    keys = [[letter, c.key] for letter, c in zip(ascii_uppercase, columns, strict=False)]
    return json.dumps({"km": km, "ends": rides, "minutes": minutes, "stands": stands, "units": signs, "keys": keys})


def _way(columns: Sequence[SetupColumn]) -> Array:
    """Distances along the longest of the rides at which courses are shown, m."""
    longest = max((float(w.heat.distance_m[-1]) for c in columns for w in c.setup.wheels.values()), default=0.0)
    return np.linspace(0, longest, COURSE_POINTS)


def _degrees(values: Array, system: System) -> list[float]:
    return [round(units.convert(float(v), "c", system), 1) for v in values]


def _address(about: Argument | None, end: End) -> str:
    return "?" if about is None else f"?about={about.value}&end={end.value}"


@gathers(Room.COMPARE)
def context(b: Bench) -> dict[str, Any]:
    shown = _shown(b)
    found = shown.comparison
    ways = [(None, "pinned"), *((a, choice_word(a)) for a in Argument)]
    return {
        "view": View.COMPARE,
        "tabs": tabs(b, View.COMPARE),
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


@router.get("/jobs/{job_id}/compare", dependencies=APPRENTICE)
def page(v: VisitDep) -> Response:
    return v.page(Room.COMPARE, "choose/compare.html", **context(v.bench))


def _wheel(b: Bench, key: str, end: End) -> tuple[Situation, SetupResult, WheelResult]:
    """One wheel of one column with what it is sampled on; 404 where it cannot be judged."""
    column = next((c for c in _shown(b).comparison.columns if c.key == key), None)
    wheel = column.setup.wheels.get(end) if column else None
    setup = column.setup if column else None
    if b.evaluation.situation is None or wheel is None or setup is None:
        raise HTTPException(404, "This wheel cannot be judged.")
    return b.evaluation.situation, setup, wheel


@router.get("/jobs/{job_id}/compare/{key}/{end}/sure", dependencies=(*APPRENTICE, LONG))
def sure(v: VisitDep, key: str, end: End) -> Response:
    """The chance that one wheel of one setup holds, and the band of its rotor: the second update."""
    b = v.bench
    situation, setup, wheel = _wheel(b, key, end)
    load, demand = setup.load, setup.demand
    if load is None or demand is None:
        raise HTTPException(404, "This wheel cannot be judged.")

    def draw() -> tuple[float, float, float]:
        b.pause()()
        found = certainty(
            wheel,
            Drawn(
                b.job, situation, load, demand, draws_of(situation.parameters, b.job.seed, narrowed=situation.narrowed)
            ),
        )
        band = found.bands["rotor_peak_c"]
        return found.chances[Verdict.HOLDS], band.low, band.high

    chance, low, high = b.kept("compared", draw, key, end, b.asked.get("end"))
    return v.piece("choose/compare_sure.html", of_ten=round(chance * 10), low=low, high=high)


@router.get("/jobs/{job_id}/compare/{key}/{end}/band", dependencies=(*APPRENTICE, LONG))
def band(v: VisitDep, key: str, end: End) -> Response:
    """10 and 90 % of the rotor's temperature over the way, where the chart has its points, as JSON."""
    b = v.bench
    situation, _, wheel = _wheel(b, key, end)
    way = _way(_shown(b).comparison.columns)
    draws = draws_of(situation.parameters, b.job.seed, own=False, narrowed=situation.narrowed)
    rotor = (Node.ROTOR,)
    found = b.kept("band", lambda: bands_along(wheel, situation, draws, way, rotor), key, end, b.asked.get("end"))
    low, high = found[Node.ROTOR]
    return JSONResponse({"low": _degrees(low, v.system), "high": _degrees(high, v.system)})


@router.post("/jobs/{job_id}/pins", dependencies=APPRENTICE)
def pin(c: ChangeDep, name: Annotated[str, Form(max_length=80)] = "") -> Response:
    """Pin what is proposed now; at most four."""
    b = c.bench
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
    now = c.keep_newest(f"pins.{kept.id}", kept.model_dump(mode="json"))
    return c.piece("choose/pinned.html", b=now)


def _pin(b: Bench, pin_id: str) -> Pin:
    found = next((p for p in b.job.pins if p.id == pin_id), None)
    if found is None:
        raise HTTPException(404, "There is no such pinned setup on this job.")
    return found


@router.post("/jobs/{job_id}/pins/{pin_id}/off", dependencies=APPRENTICE)
def unpin(c: ChangeDep, pin_id: str) -> Response:
    c.keep_newest(f"pins.{_pin(c.bench, pin_id).id}", None)
    return c.gone_to("compare")


def _proposed(c: Change, picks: Mapping[End, Pick]) -> Response:
    proposal = Proposal(front=picks[End.FRONT], rear=picks[End.REAR], bedded=c.bench.job.proposal.bedded)
    c.keep_newest("proposal", proposal.model_dump(mode="json"))
    return c.gone_to("choose")


@router.post("/jobs/{job_id}/pins/{pin_id}/propose", dependencies=APPRENTICE)
def propose(c: ChangeDep, pin_id: str) -> Response:
    """Make a pinned setup the proposal."""
    found = _pin(c.bench, pin_id)
    return _proposed(c, {end: found.of(end) for end in End})


@router.post("/jobs/{job_id}/argued/{key}", dependencies=APPRENTICE)
def propose_argued(c: ChangeDep, key: str) -> Response:
    """Make one side of an argument the proposal."""
    picks = next((column.picks for column in _shown(c.bench).comparison.columns if column.key == key), None)
    if picks is None:
        raise HTTPException(404, "There is no such side of this comparison.")
    return _proposed(c, picks)
