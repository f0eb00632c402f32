"""Station 8: wear on the decisive ride and over a year, for what is fitted and what is proposed."""

from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter

from clavis.core.evaluation.condition_readings import PAD_REPLACE_MM
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.job.renewal import Renewal
from clavis.core.parts.mounts import End
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.visit import station_page

router = APIRouter()


@dataclass(frozen=True)
class CameNew:
    """Something that came new by an order that was signed off: the part by its name, where it is one."""

    what: Renewal
    part: str
    day: str


def since_of(b: Bench, end: End) -> tuple[CameNew, ...]:
    """What of a wheel came new, newest first; a part that is not on it any more is left out."""
    wheel = b.job.wheel(end)
    told = []
    for what in Renewal:
        fitted = wheel.came_new(what)
        if fitted is not None:
            part = b.catalogue.by_id(fitted.part_id) if fitted.part_id else None
            told.append(CameNew(what, part.name if part else "", fitted.day))
    return tuple(sorted(told, key=lambda row: row.day, reverse=True))


@station_page(router, Station.KEEP)
def context(b: Bench) -> dict[str, Any]:
    """Wear on the decisive ride, and over a year of all rides, for what is fitted and what is proposed."""
    situation = b.evaluation.situation
    years = {
        name: {
            end: year_of_wear(w, rides_of(b.job, b.evaluation, b.tracks, setup), situation.parameters)
            for end, w in setup.wheels.items()
        }
        for name, setup in b.evaluation.setups.items()
        if situation
    }
    lives = {
        name: {end: wear_life(w, b.job.ride, situation.parameters) for end, w in setup.wheels.items()}
        for name, setup in b.evaluation.setups.items()
        if situation
    }
    return {
        "since": {end: since_of(b, end) for end in End},
        "pad_replace_mm": PAD_REPLACE_MM,
        "lives": lives,
        "years": years,
        "ride": b.job.ride,
        "rides": b.job.rides,
    }
