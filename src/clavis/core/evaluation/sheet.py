"""The sheet: the links of the brake from finger to road, each with the force that passes down through it, the heat that
comes back up, and what is open about it."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.evaluation.evaluate import SetupResult, WheelResult
from clavis.core.evaluation.force_figures import force_figures
from clavis.core.evaluation.heat_figures import heat_figures
from clavis.core.evaluation.open_points import LIMITER_WORDS, OpenPoint
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wheel_cases import WheelCase
from clavis.core.parts.fluids import LINE_WORDS
from clavis.core.parts.links import Link
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Feel, Limiter
from clavis.core.physics.heat import WITNESS_DOUBT_K, Node, witness_of
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.verdicts import Margin, Severity, Verdict
from clavis.core.working import Figure

AXIS_AT: Mapping[Link, Axis] = {
    Link.LEVER: Axis.LEVER,
    Link.CALIPER: Axis.CALIPER,
    Link.PAD: Axis.PAD,
    Link.ROTOR: Axis.ROTOR,
}
"""the kind of part that sits on a link"""
# What each link shows of force and of heat, the headline first.
SHOWN: Mapping[Link, tuple[tuple[str, ...], tuple[str, ...]]] = {
    Link.HAND: (("finger_target", "finger_lock"), ()),
    Link.LEVER: (("travel",), ()),
    Link.LINE: (("cable_pull", "pressure"), ("fluid", "boils")),
    Link.CALIPER: (("clamp",), ("caliper_c",)),
    Link.PAD: (("mu_cold", "mu_hot"), ("pads",)),
    Link.ROTOR: (("torque",), ("rotor", "fade_onset", "carrier")),
    Link.WHEEL: (("force",), ("energy", "power_mean", "power_peak")),
    Link.ROAD: (("usable", "reserve"), ("cool",)),
}


NOT_MARKED = (Severity.UNSEEN, Severity.NOTE)
"""what does not mark a link: nobody has looked yet, or it is only to be watched"""


@dataclass(frozen=True)
class Cell:
    """One wheel's side of a link: its part, the figures of force and heat, and what is open about it, gravest first."""

    part: str
    force: tuple[Figure, ...]
    heat: tuple[Figure, ...]
    points: tuple[OpenPoint, ...]

    @property
    def mark(self) -> OpenPoint | None:
        """What marks the link: the gravest of its points, unless that is only to be watched."""
        first = next(iter(self.points), None)
        return None if first is None or first.severity in NOT_MARKED else first

    @property
    def others(self) -> int:
        """How many points there are beside the first."""
        return max(len(self.points) - 1, 0)


@dataclass(frozen=True)
class SheetRow:
    link: Link
    cells: Mapping[End, Cell]


def wheel_figures(w: WheelResult, situation: Situation, *, brief: bool = False) -> dict[str, Figure]:
    """Every headline figure of one wheel with its working, by key; ``brief`` without what has to be searched for."""
    figures = (*force_figures(w, situation), *heat_figures(w, situation, brief=brief))
    return {figure.key: figure for figure in figures}


def _part_at(link: Link, case: WheelCase) -> str:
    if link is Link.LINE and case.brake.caliper is not None:
        return LINE_WORDS[case.brake.caliper.fluid]
    part = case.brake.of(AXIS_AT[link]) if link in AXIS_AT else None
    return part.name if part is not None else ""


def sheet_rows(setup: SetupResult, situation: Situation) -> tuple[SheetRow, ...]:
    """Eight rows, hand to road, front and rear; a wheel without figures shows its parts and what is open about it."""
    figures = {end: wheel_figures(w, situation, brief=True) for end, w in setup.wheels.items()}

    def cell(link: Link, end: End) -> Cell:
        force, heat = (
            tuple(figures[end][key] for key in keys if end in figures and key in figures[end]) for keys in SHOWN[link]
        )
        here = tuple(p for p in setup.points_of(end) if p.link is link)
        return Cell(_part_at(link, setup.cases[end]), force, heat, here)

    return tuple(SheetRow(link, {end: cell(link, end) for end in End}) for link in Link)


@dataclass(frozen=True)
class ShownMargin:
    """A margin as it is shown: value and what is asked for, in a unit of ``units.KINDS``; None where unknown."""

    margin: Margin
    value: float | None
    needed: float | None
    unit: str


MARGIN_UNITS = {"ratio": "pct", "k": "k", "mm": "mm"}
_GRAVEST = list(reversed(Verdict))


def shown_margins(w: WheelResult) -> tuple[ShownMargin, ...]:
    """Every margin of a wheel, the worst first."""
    rows = []
    for m in sorted(w.margins, key=lambda m: (_GRAVEST.index(m.verdict), m.relative is None, m.relative or 0.0)):
        scale = 100.0 if m.unit == "ratio" else 1.0
        unit = MARGIN_UNITS.get(m.unit)
        value = m.value * scale if m.value is not None and unit else None
        rows.append(ShownMargin(m, value, m.needed * scale if unit else None, unit or "count"))
    return tuple(rows)


TIRES_AND_HOLDS_BACK = (
    "tiring to hold for long; and so near the tyre’s limit that this hand has to hold back, which is what counts here"
)
"""where the pull tires and the hand must hold back at once"""


def limit_words(setup: SetupResult, end: End) -> Words:
    """What limits this wheel: the gravest thing that is open, or the link that gives first where nothing is."""
    first = next(iter(setup.points_of(end)), None)
    if first is not None and first.severity not in NOT_MARKED:
        return first.words
    wheel = setup.wheels.get(end)
    if wheel is None:
        return ""
    limiter, feel = wheel.forces.limiter, wheel.forces.feel
    if limiter is Limiter.CONTROL and feel in (Feel.TIRING, Feel.WEAK):
        return TIRES_AND_HOLDS_BACK
    return LIMITER_WORDS[limiter]


LONGER_BY_M = 0.1
"""a stop that gets longer by less is the same"""
MORE_GAIN_RATIO = 1.01


def longer_words(now: SetupResult, before: SetupResult) -> Words:
    """Why a stop on the flat is longer than with another setup; nothing where it is not. More force for the same finger
    makes it longer where the hand must keep clear of the limit of the ground."""
    stop, was = now.stop_flat, before.stop_flat
    if stop is None or was is None or stop.distance_m < was.distance_m + LONGER_BY_M:
        return NOTHING
    by_m = stop.distance_m - was.distance_m
    for end, limiter in stop.limited_by.items():
        stronger = (
            end in now.wheels
            and end in before.wheels
            and now.wheels[end].forces.gain > MORE_GAIN_RATIO * before.wheels[end].forces.gain
        )
        if stronger and limiter is not Limiter.HAND:
            words = (
                "{by_m:.1} longer: {end}, this rider’s finger scatters as before, which now moves the force more: the "
                "hand must stay further from the limit of the ground"
            )
            return say(words, by_m=by_m, end=end)
    weakest = next((end for end, limiter in stop.limited_by.items() if limiter is Limiter.HAND), End.FRONT)
    return say("{by_m:.1} longer: {end}, {why}", by_m=by_m, end=weakest, why=LIMITER_WORDS[stop.limited_by[weakest]])


def witness_words(w: WheelResult) -> Words:
    """What colour this ride leaves on a stainless rotor."""
    colour = witness_of(w.heat.peak_c[Node.ROTOR])
    if colour is None:
        return "This ride leaves no colour on the rotor"
    words = "This ride would turn the rotor {colour} (± {doubt_k:.0})"
    return say(words, colour=colour, doubt_k=WITNESS_DOUBT_K)
