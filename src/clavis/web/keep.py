"""Station 8: wear on this ride, for what is fitted and what is proposed."""

from typing import Any

from clavis.core.headline import Station
from clavis.core.wear import wear_life
from clavis.web.context import Bench
from clavis.web.station import station


@station(Station.KEEP)
def context(b: Bench) -> dict[str, Any]:
    """Wear on this ride for what is fitted and what is proposed."""
    situation = b.evaluation.situation
    lives = {
        name: {end: wear_life(w, situation.parameters, situation.wet) for end, w in setup.wheels.items()}
        for name, setup in b.evaluation.setups.items()
        if situation
    }
    return {"lives": lives, "ride": b.job.ride}
