"""Station 7: predictions to hold against the road, and how many runs it takes to see a difference."""

from typing import Any

from fastapi import APIRouter

from clavis.core import units
from clavis.core.evaluation.evaluate import SetupResult
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import COOL_C
from clavis.core.workshop.trials import blocks_needed
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.visit import station_page

router = APIRouter()

STOP_SPREAD_RATIO = 0.08
"""run-to-run spread of a stopping distance as a share of it, a practised rider (judged)"""


def _cool(setup: SetupResult | None, end: End) -> str:
    if setup is None or end not in setup.wheels:
        return "unknown"
    seconds = setup.wheels[end].heat.cool_s
    return "over an hour" if seconds is None else units.show(seconds / 60, "min")


@station_page(router, Station.PROVE)
def context(b: Bench) -> dict[str, Any]:
    """Predictions to hold against the road: stopping distance, drag temperatures, runs needed."""
    fitted, proposed = b.evaluation.fitted, b.evaluation.proposed
    blocks = None
    if fitted and proposed and fitted.stop_flat and proposed.stop_flat:
        longest = max(fitted.stop_flat.distance_m, proposed.stop_flat.distance_m)
        blocks = blocks_needed(fitted.stop_flat.distance_m - proposed.stop_flat.distance_m, STOP_SPREAD_RATIO * longest)
    return {"fitted": fitted, "proposed": proposed, "blocks": blocks, "cool": _cool, "cool_c": COOL_C}
