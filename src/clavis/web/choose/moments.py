"""Along the ride: both wheels at any moment of it, as the page draws it and reads it out."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import HTTPException
from numpy.typing import NDArray
from starlette.responses import Response

from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import SetupResult, WheelResult
from clavis.core.evaluation.moments import Marked, Moments, Places, marks_of, moments_of, places_of
from clavis.core.evaluation.sampling import bands_along, draws_of
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.worst_speed import speed_advice, speed_on, worst_on_ride
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.links import Link
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.sentences import Words
from clavis.core.units import KMH_PER_MS, System, convert, number, show, sign
from clavis.web.choose.views import setup_addresses, setup_shown
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.routes import APPRENTICE, LONG
from clavis.web.shell.visit import VisitDep

router = routes.router()
Array = NDArray[np.float64]
BANDS = (Node.ROTOR, Node.FLUID)
NEEDS = "A moment of the ride needs a rider, a bike and a ride first."


@dataclass(frozen=True)
class RowShown:
    """A line of what is read out: its link, what it tells, and in which unit."""

    key: str
    link: Link
    words: str
    unit: str
    decimals: int | None
    lead: bool = False


ROWS: tuple[RowShown, ...] = (
    RowShown("drag", Link.HAND, "finger, for the braking there", "n", 0),
    RowShown("stop", Link.HAND, "finger, for a stop begun there", "n", 0, lead=True),
    RowShown("above", Link.HAND, "what the hand has over it", "pct", 0),
    RowShown("fluid", Link.LINE, "fluid", "c", 0, lead=True),
    RowShown("boils", Link.LINE, "way to boiling", "m", 0),
    RowShown("caliper", Link.CALIPER, "caliper", "c", 0),
    RowShown("pads", Link.PAD, "pads", "c", 0, lead=True),
    RowShown("surface", Link.PAD, "their face", "c", 0),
    RowShown("mu", Link.PAD, "friction", "ratio", 2),
    RowShown("rotor", Link.ROTOR, "rotor", "c", 0, lead=True),
    RowShown("carrier", Link.ROTOR, "carrier", "c", 0),
    RowShown("power", Link.WHEEL, "braking", "w", 0),
)
_NODES = {"fluid": Node.FLUID, "caliper": Node.CALIPER, "pads": Node.PADS, "surface": Node.SURFACE,
          "rotor": Node.ROTOR, "carrier": Node.CARRIER}  # fmt: skip
NO_WAY, BOILS = "not on this ride", "boils"


def _values(moments: Moments, row: RowShown) -> Array:
    if row.key in _NODES:
        return moments.node_c[:, _NODES[row.key]]
    column = {
        "drag": moments.drag_finger_n, "stop": moments.stop_finger_n, "above": 100 * moments.above,
        "boils": moments.boils_in_m, "mu": moments.mu, "power": moments.power_w,
    }  # fmt: skip
    return column[row.key]


def _told(w: WheelResult, moments: Moments, row: RowShown, system: System) -> list[str]:
    """A line's words at every place."""
    values = _values(moments, row)
    told = ["–" if np.isnan(v) else show(float(v), row.unit, system, row.decimals) for v in values]
    if row.key == "boils" and w.heat.fluid_peak_c is not None:
        if w.boiling.boiling_c is None:
            return ["unknown"] * len(told)
        return [NO_WAY if np.isnan(v) else BOILS if v <= 0 else t for v, t in zip(values, told, strict=True)]
    return told


def _degrees(values: Array, system: System) -> list[float | None]:
    return [None if np.isnan(v) else round(convert(float(v), "c", system), 1) for v in values]


def _limit(value: float | None, system: System) -> float | None:
    return None if value is None else round(convert(value, "c", system), 1)


def _wheel(
    b: Bench, situation: Situation, w: WheelResult, places: Places, moments: Moments, system: System
) -> dict[str, Any]:
    nodes = [n for n in BANDS if n is not Node.FLUID or w.heat.fluid_peak_c is not None]
    bands = bands_along(
        w,
        situation,
        draws_of(situation.parameters, b.job.seed, own=False, narrowed=situation.narrowed),
        places.at_m,
        nodes,
    )
    return {
        "rotor": _degrees(moments.node_c[:, Node.ROTOR], system),
        "pads": _degrees(moments.node_c[:, Node.PADS], system),
        "fluid": _degrees(moments.node_c[:, Node.FLUID], system) if Node.FLUID in nodes else None,
        "bands": {n.name.lower(): [_degrees(v, system) for v in bands[n]] for n in nodes},
        "fade": _limit(COMPOUNDS[w.setup.pad.compound].fade_c, system),
        "boils": _limit(w.boiling.boiling_c, system),
        "told": {row.key: _told(w, moments, row, system) for row in ROWS},
    }


def _clock(seconds: float) -> str:
    whole = round(seconds)
    return f"{whole // 60}:{whole % 60:02d}"


def _picture(
    b: Bench,
    situation: Situation,
    setup: SetupResult,
    places: Places,
    moments: Mapping[End, Moments],
    marks: Sequence[Marked],
) -> str:
    """All that the page draws and reads out, in the reader's units, as JSON text."""
    system = b.reading.system
    return json.dumps(
        {
            "km": [round(convert(float(m) / 1000, "km", system), 3) for m in places.at_m],
            "height": [round(convert(float(m), "m", system), 1) for m in places.elevation_m],
            "seconds": [round(float(s), 1) for s in places.time_s],
            "where": [
                f"{show(float(m) / 1000, 'km', system, 2)}, {_clock(float(s))} min after the start"
                for m, s in zip(places.at_m, places.time_s, strict=True)
            ],
            "speed": [show(float(v) * KMH_PER_MS, "kmh", system, 0) for v in places.speed_ms],
            "slope": [show(float(g) * 100, "pct", system, 1) for g in places.gradient],
            "ends": {
                end.value: _wheel(b, situation, setup.wheels[end], places, found, system)
                for end, found in moments.items()
            },
            "marks": [
                {
                    "mark": m.mark.value,
                    "end": m.end.value,
                    "at": places.nearest(m.at_m),
                    "words": b.reading.told(m.words),
                }
                for m in marks
            ],
            "units": {kind: sign(kind, system) for kind in ("km", "c", "m")},
        }
    )  # fmt: skip


def _of_wheel(marks: Sequence[Marked], end: End, system: System) -> list[tuple[int, Marked, str]]:
    """One wheel's marks with their places among all, and where they are in words."""
    return [(k, m, show(m.at_m / 1000, "km", system, 1)) for k, m in enumerate(marks) if m.end is end]


@router.get("/jobs/{job_id}/moments", dependencies=(*APPRENTICE, LONG))
def moments(v: VisitDep) -> Response:
    """Any moment of the ride, of the setup that is proposed, or of the fitted one where the page asks for it."""
    own, b = v.bench, v.bench.seen
    name = setup_shown(own, own.asked.get("show", ""))
    setup, situation = b.evaluation.setups.get(name), b.evaluation.situation
    if setup is None or situation is None or setup.load is None or setup.demand is None or not setup.wheels:
        raise HTTPException(422, NEEDS)
    load, demand = setup.load, setup.demand

    def look() -> tuple[str, tuple[Marked, ...]]:
        places = places_of(b.job, situation, load, setup.wheels.values())
        found = {end: moments_of(w, places, situation) for end, w in setup.wheels.items()}
        marks = marks_of(setup.wheels, found, places)
        return _picture(b, situation, setup, places, found, marks), marks

    def worst() -> dict[End, Words]:
        """Of each wheel the speed of the steepest slope beside the worst one; nothing where the ride is no descent."""
        out: dict[End, Words] = {}
        for end, w in setup.wheels.items():
            try:
                stretch, found = worst_on_ride(w, situation, load, demand)
            except QuantityError:
                continue
            out[end] = speed_advice(found, speed_on(load, stretch))
        return out

    picture, marks = b.kept("moments", look, name, own.view, b.reading.system)
    return v.piece(
        "choose/moments.html",
        name=name,
        which=setup_addresses(own),
        picture=picture,
        marks=[(end, _of_wheel(marks, end, v.system)) for end in setup.wheels],
        rows=ROWS,
        advice=b.kept("worst on ride", worst, name, own.view),
        setup=setup,
        tops={end: number(w.heat.peak_c[Node.ROTOR], "c", v.system, 0) for end, w in setup.wheels.items()},
    )
