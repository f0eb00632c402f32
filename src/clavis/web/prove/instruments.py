"""Readings that instruments send while a run or a set of readings is written down: held, shown live, and taken."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated

from fastapi import Query
from starlette.responses import JSONResponse, Response

from clavis.core import units
from clavis.instruments.line_ports import InstrumentPorts
from clavis.instruments.line_protocol import ALSO, QUANTITY, InstrumentError, RoadInstrument
from clavis.web.shell import routes
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import VisitDep

router = routes.router()
Word = Annotated[str, Query(max_length=40, pattern=r"^[A-Za-z0-9._-]*$")]


SHOWN: Mapping[RoadInstrument, int] = {
    RoadInstrument.THERMOMETER: 1,
    RoadInstrument.TAPE: 2,
    RoadInstrument.STOPWATCH: 1,
    RoadInstrument.FORCE: 0,
}
"""decimals of a live reading"""


@dataclass(frozen=True)
class Connected:
    """An instrument beside a form: which entry its reading goes into, and where what stands with it goes. ``adds``
    appends to what is there."""

    kind: RoadInstrument
    words: str
    into: str
    also: str = ""
    adds: bool = False


FOR_ENTRY: Mapping[str, Connected] = {
    "distance_m": Connected(RoadInstrument.TAPE, "tape and wheel sensor", "distance_m", "speed_kmh"),
    "spots_c": Connected(RoadInstrument.THERMOMETER, "thermometer", "spots_c", adds=True),
    "cool_s": Connected(RoadInstrument.STOPWATCH, "stopwatch", "cool_s"),
    "time_s": Connected(RoadInstrument.STOPWATCH, "stopwatch", "time_s"),
    "finger_n": Connected(RoadInstrument.FORCE, "pull scale", "finger_n"),
    "shown": Connected(RoadInstrument.THERMOMETER, "thermometer", "shown"),
}
"""by the entry that they fill"""


def connected(ports: InstrumentPorts, names: Iterable[str]) -> tuple[Connected, ...]:
    """The instruments that are connected and fill one of these entries."""
    return tuple(row for name in names if (row := FOR_ENTRY.get(name)) is not None and ports.has(row.kind))


@router.get("/jobs/{job_id}/instruments/{kind}/reading", dependencies=APPRENTICE)
def reading(
    v: VisitDep, kind: RoadInstrument, trial: Word = "", side: Word = "", place: Word = "", set_id: Word = "",
    end: Word = "", after: Word = "",
) -> Response:  # fmt: skip
    """One reading of an instrument that is held, in the reader's units, as JSON; or why there is none. Nothing is
    kept."""
    ports: InstrumentPorts = v.request.app.state.instruments
    about = {
        "job": str(v.job_id), "trial": trial, "side": side, "place": place, "set": set_id, "end": end, "after": after,
    }  # fmt: skip
    try:
        found = ports.read(kind, about)
    except InstrumentError as error:
        return JSONResponse({"problem": v.reading.told(error.said)})
    value, quantity = found.value, QUANTITY[kind]
    told = {"value": units.entry(value, quantity, v.system), "text": units.show(value, quantity, v.system, SHOWN[kind])}
    also = {name: units.entry(value, ALSO[name], v.system) for name, value in found.also.items()}
    return JSONResponse(told | {"also": also})
