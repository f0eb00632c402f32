"""The spine: the links of the brake from finger to road, each with the force that passes down through it and
the heat that comes back up, and every figure with its working (design: the interface)."""

from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.evaluate import SetupResult, WheelResult
from clavis.core.evaluation.figures import wheel_figures
from clavis.core.parameters import ModelParameters
from clavis.core.parts.models import Fluid
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Limiter
from clavis.core.physics.heat import Node, witness_of
from clavis.core.verdicts import Margin, Verdict
from clavis.core.working import Figure


class Link(StrEnum):
    HAND = "hand"
    LEVER = "lever"
    LINE = "line"
    CALIPER = "caliper"
    PAD = "pad"
    ROTOR = "rotor"
    WHEEL = "wheel"
    ROAD = "road"


# The link a limiter marks.
LIMITING_LINK: dict[Limiter, Link] = {
    Limiter.HAND: Link.HAND,
    Limiter.FRICTION: Link.PAD,
    Limiter.GRIP: Link.ROAD,
    Limiter.CONTROL: Link.ROAD,
    Limiter.PITCH_OVER: Link.ROAD,
}
# The link a margin belongs to.
MARGIN_LINK: dict[str, Link] = {
    "fade": Link.PAD,
    "ring": Link.ROTOR,
    "sandwich": Link.ROTOR,
    "boil": Link.LINE,
    "travel": Link.LEVER,
    "rotor_limit": Link.ROTOR,
    "condition": Link.PAD,
    "ground": Link.ROAD,
    # hard rules, at the part that one would change
    "rule_hub": Link.ROTOR,
    "rule_native": Link.ROTOR,
    "rule_limit": Link.ROTOR,
    "rule_chain": Link.CALIPER,
    "rule_bolts": Link.CALIPER,
    "rule_slot": Link.ROTOR,
    "rule_rivets": Link.ROTOR,
    "rule_pads": Link.ROTOR,
    "rule_metal": Link.ROTOR,
    "rule_spokes": Link.CALIPER,
    "rule_line": Link.LEVER,
    "rule_fitting": Link.LINE,
    "rule_bar": Link.LEVER,
    "rule_shape": Link.PAD,
    "rule_resin": Link.PAD,
    "rule_track": Link.PAD,
}


@dataclass(frozen=True)
class Cell:
    """One wheel's side of a link: its part, the figures of force and heat, and a mark where it limits."""

    part: str
    force: tuple[Figure, ...]
    heat: tuple[Figure, ...]
    mark: Verdict | None
    mark_words: str


@dataclass(frozen=True)
class Row:
    link: Link
    cells: dict[End, Cell | None]


LINE_WORDS = {Fluid.MINERAL: "mineral fluid", Fluid.DOT: "DOT fluid", Fluid.NONE: "cable"}


def link_of(margin: Margin, w: WheelResult) -> Link:
    """The link a margin belongs to; a lack of reserve belongs to the link that gives first."""
    if margin.key == "reserve":
        return LIMITING_LINK.get(w.forces.limiter, Link.HAND)
    return MARGIN_LINK[margin.key]


def margin_words(margin: Margin, w: WheelResult) -> str:
    """A margin in words with its number; a lack of reserve says which link gives first."""
    return margin.words(LIMITER_WORDS[w.forces.limiter] if margin.key == "reserve" else "")


MARGIN_UNITS = {"ratio": "pct", "k": "k", "mm": "mm"}


@dataclass(frozen=True)
class MarginRow:
    """A margin as it is shown: value and what is asked for, in a unit of ``units.KINDS``; None where unknown."""

    margin: Margin
    value: float | None
    needed: float | None
    unit: str
    words: str


def margin_rows(w: WheelResult) -> tuple[MarginRow, ...]:
    """Every margin of a wheel, the deciding one first."""
    first = w.deciding
    rows = []
    for m in sorted(w.margins, key=lambda m: (m is not first, list(Verdict).index(m.verdict) * -1)):
        scale = 100.0 if m.unit == "ratio" else 1.0
        unit = MARGIN_UNITS.get(m.unit)
        value = m.value * scale if m.value is not None and unit else None
        rows.append(MarginRow(m, value, m.needed * scale if unit else None, unit or "count", m.why_unknown))
    return tuple(rows)


def _cell(w: WheelResult, link: Link, figures: dict[str, Figure]) -> Cell:
    s = w.setup
    pick = {
        Link.HAND: ("", ("finger_target", "finger_lock"), ()),
        Link.LEVER: (s.lever.name, ("travel",), ()),
        Link.LINE: (LINE_WORDS[s.caliper.fluid], ("cable_pull", "pressure"), ("fluid", "boils")),
        Link.CALIPER: (s.caliper.name, ("clamp",), ("caliper_c",)),
        Link.PAD: (s.pad.name, ("mu_cold", "mu_hot"), ("pads",)),
        Link.ROTOR: (s.rotor.name, ("torque",), ("ring", "fade_onset", "carrier")),
        Link.WHEEL: ("", ("force",), ("energy", "power_mean", "power_peak")),
        Link.ROAD: ("", ("usable", "reserve"), ("cool",)),
    }[link]
    part, force, heat = pick
    here = [m for m in w.margins if link_of(m, w) is link and m.verdict is not Verdict.HOLDS]
    mark, words = None, ""
    if here:
        bad = max(here, key=lambda m: (list(Verdict).index(m.verdict), m.key.startswith("rule_")))
        mark, words = bad.verdict, margin_words(bad, w)
    return Cell(
        part,
        tuple(figures[k] for k in force if k in figures),
        tuple(figures[k] for k in heat if k in figures),
        mark,
        words,
    )


def spine_rows(setup: SetupResult, p: ModelParameters, ambient_c: float) -> tuple[Row, ...]:
    """Eight rows, hand to road, front and rear; None where a wheel lacks something."""
    figures = {end: wheel_figures(w, p, ambient_c) for end, w in setup.wheels.items()}
    return tuple(
        Row(link, {end: _cell(setup.wheels[end], link, figures[end]) if end in setup.wheels else None for end in End})
        for link in Link
    )


LIMITER_WORDS: dict[Limiter, str] = {
    Limiter.HAND: "hand: too little even with the pads at their best",
    Limiter.FRICTION: "friction: enough when warm, not when hot",
    Limiter.GRIP: "the tyre's grip",
    Limiter.CONTROL: "control: so strong that this rider must hold back",
    Limiter.PITCH_OVER: "pitch-over",
    Limiter.NONE: "nothing",
}


def limit_words(w: WheelResult) -> str:
    """What limits this wheel, in words, heat first where heat fails."""
    failing = [m for m in w.margins if m.verdict is Verdict.FAILS]
    refused = [m.label for m in failing if m.key.startswith("rule_")]
    if refused:
        return f"does not go together: {refused[0]}"
    heat = [m for m in failing if m.key in ("boil", "ring", "fade", "sandwich")]
    if heat:
        first = min(heat, key=lambda m: m.relative or 0.0)
        return {
            "boil": "heat: the fluid boils",
            "ring": "heat: the ring passes fade onset",
            "fade": "heat: force along the way falls short",
            "sandwich": "heat: the sandwich ring's limit",
        }[first.key]
    return LIMITER_WORDS[w.forces.limiter]


def boil_distance_m(w: WheelResult) -> float | None:
    """Where along the ride the fluid first reaches its boiling point, m; None where it does not."""
    if w.boiling.boiling_c is None or w.heat.fluid_peak_c is None:
        return None
    above = (w.heat.course_c[:, Node.FLUID] >= w.boiling.boiling_c).nonzero()[0]
    return float(w.heat.distance_m[above[0]]) if len(above) else None


def witness_words(w: WheelResult) -> str:
    """What colour this ride leaves on a stainless ring."""
    colour = witness_of(w.heat.peak_c[Node.RING])
    return f"This ride would turn the ring {colour} (± 60 K)" if colour else "This ride leaves no colour on the ring"
