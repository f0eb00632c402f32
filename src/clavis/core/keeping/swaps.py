"""What a swap of parts changes: how long a new set would last on this bike, as it is fitted and as it is proposed, with
what the parts before them taught."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.evaluation.setups import WheelSetup
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.distance import WearPerKm
from clavis.core.keeping.wear_estimate import Belief, Crossing, ExpectedWear, Read, WearPace, estimate, sigma_of
from clavis.core.keeping.wear_state import NEW_HALF_WIDTH_MM, Lines, WearState
from clavis.core.parts.mounts import End


@dataclass(frozen=True)
class NewLife:
    """How far one kind of part would last from new, km; None where its limit or the model's figures are not known."""

    end: End
    what: Renewal
    name: str
    life: Crossing | None
    learnt: bool
    """what was read of the part before it is in the figure"""


def _believed(state: WearState | None, same: bool) -> Belief:
    if state is None or state.estimate is None or not state.modelled:
        return Belief()
    return state.estimate.belief.carried(same)


def life_from_new(
    what: Renewal, new_mm: float, replace_mm: float | None, mm_per_km: float | None, belief: Belief
) -> Crossing | None:
    """How far a part lasts from new, km.

    Parameters
    ----------
    what : Renewal
        Pads or rotor.
    new_mm, replace_mm : float
        Its thickness when new, and at which it is replaced; None: not known.
    mm_per_km : float or None
        What the model expects it to wear.
    belief : Belief
        Of ln u, carried over from what was there before.

    Returns
    -------
    Crossing or None
        Low, middle, high; None where something of it is not known.

    >>> life = life_from_new(Renewal.PAD, 2.0, 1.0, 0.25e-3, Belief())
    >>> round(life.middle_km, -2)
    4000.0
    """
    if replace_mm is None or mm_per_km is None or new_mm <= replace_mm:
        return None
    start = Read(0.0, new_mm, sigma_of(NEW_HALF_WIDTH_MM[what]))
    found = estimate(ExpectedWear((WearPace(0.0, mm_per_km),)), 0.0, start, [], belief)
    return None if found is None else found.crossing(replace_mm)


def new_lives(
    setups: Mapping[End, WheelSetup], paces: Mapping[End, WearPerKm], states: tuple[WearState, ...], lines: Lines
) -> tuple[NewLife, ...]:
    """Pads and rotor of every wheel of a setup, from new, front first."""
    found = []
    for end, setup in setups.items():
        on = {s.life.what: s for s in states if s.life.end is end}
        pace = paces.get(end, WearPerKm())
        pads, rotor = on.get(Renewal.PAD), on.get(Renewal.ROTOR)
        same_pads = pads is not None and pads.life.compound == setup.pad.compound
        same_rotor = rotor is not None and rotor.life.part_id == setup.rotor.id
        for what, name, new_mm, limit, rate, state, same in (
            (Renewal.PAD, setup.pad.name, setup.pad.material_mm, lines.replace_mm,
             pace.pad_mm, pads, same_pads),
            (Renewal.ROTOR, setup.rotor.name, setup.rotor.thickness_mm, setup.minimum_mm,
             pace.rotor_mm, rotor, same_rotor),
        ):  # fmt: skip
            life = life_from_new(what, new_mm, limit, rate, _believed(state, same))
            learnt = state is not None and state.estimate is not None and state.estimate.readings > 0
            found.append(NewLife(end, what, name, life, learnt))
    return tuple(found)
