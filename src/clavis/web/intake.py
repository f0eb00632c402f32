"""Station 1: rider, load, bike, complaint, wishes; and what they mean at once."""

from typing import Any

from clavis.core.bike import standing_figures
from clavis.core.headline import Station
from clavis.core.job import Complaint
from clavis.core.words import choice_word
from clavis.web.context import Bench
from clavis.web.station import station


@station(Station.INTAKE)
def context(b: Bench) -> dict[str, Any]:
    situation = b.evaluation.situation
    return {
        "strip": standing_figures(situation.bike, situation.grip) if situation else (),
        "mass_kg": situation.bike.rolling_mass_kg if situation else None,
        "complaints": [(c.value, choice_word(c), c in b.job.complaints) for c in Complaint],
    }
