"""What regeneration would spare a wheel's brake. No verdict counts on it: the battery may be full, the electronics
dead."""

from dataclasses import replace

from clavis.core.evaluation.evaluate import SetupResult
from clavis.core.evaluation.setups import row_of
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Bike
from clavis.core.physics.descent import Sharing, heat_steps
from clavis.core.physics.heat import Node, heat_of
from clavis.core.sentences import NOTHING, Words, say


def sharing_with_regeneration(sharing: Sharing, bike: Bike) -> Sharing | None:
    """Who brakes where regeneration takes its share; None where there is none, or its greatest power is not known."""
    if bike.regen_end is None or not bike.regen_share_pct or bike.regen_limit_w is None:
        return None
    share, limit = bike.regen_share_pct / 100, bike.regen_limit_w
    return replace(sharing, regen_end=bike.regen_end, regen_share=share, regen_limit_w=limit)


def spared_words(setup: SetupResult, situation: Situation, bike: Bike) -> Words:
    """What regeneration would take off the brake of its wheel over the ride; nothing where there is none to speak
    of."""
    end = bike.regen_end
    if end is None or not bike.regen_share_pct:
        return NOTHING
    if bike.regen_limit_w is None:
        words = "what regeneration spares the {end} brake is unknown: its greatest power is not entered"
        return say(words, end=end)
    wheel, sharing = setup.wheels.get(end), sharing_with_regeneration(situation.sharing, bike)
    if wheel is None or setup.load is None or sharing is None:
        return NOTHING
    steps = heat_steps(setup.load, sharing, end)
    spared = heat_of(row_of(wheel.setup, situation)[None, :], steps, situation.weather.ambient_c)[0]
    words = (
        "regeneration would spare the {end} brake {spared_kj:.0} of {all_kj:.0}: rotor {with_c} instead of {without_c} "
        "at its peak; no verdict counts on it"
    )
    return say(
        words, end=end, spared_kj=steps.regen_j / 1000, all_kj=wheel.steps.energy_kj,
        with_c=float(spared.peak_c[Node.ROTOR]), without_c=float(wheel.heat.peak_c[Node.ROTOR]),
    )  # fmt: skip
