"""Station 8: wear on the decisive ride and over a year, for what is fitted and what is proposed."""

from typing import Any

from fastapi import APIRouter

from clavis.core.evaluation.condition_readings import PAD_REPLACE_MM
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.visit import station_page

router = APIRouter()


@station_page(router, Station.KEEP)
def context(b: Bench) -> dict[str, Any]:
    """Wear on the decisive ride, and over a year of all rides, for what is fitted and what is proposed."""
    situation = b.evaluation.situation
    years = {
        name: {
            end: year_of_wear(w, rides_of(b.job, b.evaluation, b.tracks, setup), situation.parameters, situation.wet)
            for end, w in setup.wheels.items()
        }
        for name, setup in b.evaluation.setups.items()
        if situation
    }
    lives = {
        name: {end: wear_life(w, situation.parameters, situation.wet) for end, w in setup.wheels.items()}
        for name, setup in b.evaluation.setups.items()
        if situation
    }
    return {"pad_replace_mm": PAD_REPLACE_MM, "lives": lives, "years": years, "ride": b.job.ride, "rides": b.job.rides}
