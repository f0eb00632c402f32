"""What the wear of a wheel says beside how long it lasts: one row for each thing to ask. A new hint is a new row."""

from collections.abc import Callable
from dataclasses import dataclass
from math import exp, log, sqrt

from clavis.core.evaluation.condition_readings import UNEVEN_MM
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.gauges import GAUGES
from clavis.core.keeping.wear_estimate import sigma_of
from clavis.core.keeping.wear_state import WearState
from clavis.core.parts.mounts import End
from clavis.core.sentences import Words, say

SURE = 0.80
"""a hint speaks where the chance of what it says is at least this; judged"""
FASTER_RATIO, SLOWER_RATIO, APART_RATIO = 1.5, 0.5, 1.8
"""of what the model expects; of the pads' wear against the rotor's; judged"""
SETS_LOW, SETS_HIGH = 1.0, 5.0
"""a rotor usually lasts about two sets of pads; outside of this it is worth a question; judged"""


@dataclass(frozen=True)
class WheelWear:
    """Pads and rotor of one wheel; None where none is on it."""

    end: End
    pads: WearState | None
    rotor: WearState | None


def _was_read(state: WearState) -> bool:
    return state.estimate is not None and state.estimate.readings > 0 and state.modelled


Speaks = Callable[[WheelWear], Words | None]


@dataclass(frozen=True, kw_only=True)
class HintRow:
    """When it speaks, and what to ask then, likeliest first."""

    key: str
    speaks: Speaks
    ask: tuple[str, ...]


@dataclass(frozen=True)
class Hint:
    """A row that speaks of a wheel."""

    key: str
    end: End
    words: Words
    ask: tuple[str, ...]


def _faster(w: WheelWear) -> Words | None:
    if w.pads is None or w.pads.estimate is None or not _was_read(w.pads):
        return None
    if w.pads.estimate.chance_of_ratio_above(FASTER_RATIO) < SURE:
        return None
    return say("pads wear {ratio:.1} times as fast as ride and compound explain", ratio=w.pads.estimate.ratio)


def _slower(w: WheelWear) -> Words | None:
    found = w.pads.estimate if w.pads is not None and _was_read(w.pads) else None
    if found is None or found.chance_of_ratio_above(SLOWER_RATIO) > 1 - SURE:
        return None
    return say("pads wear {ratio:.1} times as fast as ride and compound explain", ratio=found.ratio)


def _apart(w: WheelWear) -> tuple[float, float] | None:
    """ln of the pads' wear over the rotor's, each as a multiple of what is expected, and its σ; None unless both were
    read."""
    if w.pads is None or w.rotor is None or not (_was_read(w.pads) and _was_read(w.rotor)):
        return None
    a, b = w.pads.estimate, w.rotor.estimate
    if a is None or b is None:
        return None
    return a.belief.mean - b.belief.mean, sqrt(a.belief.variance + b.belief.variance)


def _chance_above(mean: float, sigma: float, ratio: float) -> float:
    from scipy.special import ndtr

    return float(ndtr((mean - log(ratio)) / sigma))


def _pads_alone(w: WheelWear) -> Words | None:
    apart = _apart(w)
    if apart is None or _chance_above(*apart, APART_RATIO) < SURE:
        return None
    return say("pads wear out of proportion to the rotor: {ratio:.1} times", ratio=exp(apart[0]))


def _rotor_alone(w: WheelWear) -> Words | None:
    apart = _apart(w)
    if apart is None or _chance_above(-apart[0], apart[1], APART_RATIO) < SURE:
        return None
    return say("the rotor wears out of proportion to the pads: {ratio:.1} times", ratio=exp(-apart[0]))


def _sets_of_pads(w: WheelWear) -> Words | None:
    """How many sets of pads the rotor lasts at the pace of both."""
    if w.pads is None or w.rotor is None or not (_was_read(w.pads) and _was_read(w.rotor)):
        return None
    pads, rotor = (_whole_life_km(s) for s in (w.pads, w.rotor))
    if pads is None or rotor is None or SETS_LOW <= rotor / pads <= SETS_HIGH:
        return None
    return say("at this pace the rotor lasts {sets:.1} sets of pads; about two are usual", sets=rotor / pads)


def _whole_life_km(s: WearState) -> float | None:
    if s.estimate is None or s.replace_mm is None or s.life.new_mm is None:
        return None
    rate = s.estimate.rate_mm_per_km()
    return (s.life.new_mm - s.replace_mm) / rate if rate > 0 else None


def _one_pad(w: WheelWear) -> Words | None:
    newest = w.pads.newest if w.pads is not None else None
    if newest is None or newest.other_mm is None or abs(newest.mm - newest.other_mm) < UNEVEN_MM:
        return None
    return say("one pad has {apart_mm:.1} less than the other", apart_mm=abs(newest.mm - newest.other_mm))


def _thicker(w: WheelWear) -> Words | None:
    for state in (w.pads, w.rotor):
        if state is None or len(state.readings) < 2:
            continue
        before, after = state.readings[-2:]
        doubt = 3 * sqrt(sum(sigma_of(GAUGES[r.gauge].half_width_mm) ** 2 for r in (before, after)))
        if after.mm - before.mm > doubt:
            what = "pads" if state.life.what is Renewal.PAD else "rotor"
            return say("the {what} read {by_mm:.2} thicker than before", what=what, by_mm=after.mm - before.mm)
    return None


HINTS: tuple[HintRow, ...] = (
    HintRow(
        key="thicker_than_before",
        speaks=_thicker,
        ask=("Was the part changed and nobody wrote it down?", "Was one of the two misread?"),
    ),
    HintRow(
        key="one_pad_alone",
        speaks=_one_pad,
        ask=(
            "Do both pistons move alike, and do both pads lift off?",
            "Is the caliper centred over the rotor?",
            "On a cable caliper: is the fixed pad set too far in?",
        ),
    ),
    HintRow(
        key="faster_than_explained",
        speaks=_faster,
        ask=(
            "Wet grit, sand or salt on the way? It is a field of each ride.",
            "Does a pad drag when the lever is released?",
            "Long spells on the brake that are not among the rides?",
            "Is the compound right for the wet, and are the pads free of oil?",
        ),
    ),
    HintRow(
        key="slower_than_explained",
        speaks=_slower,
        ask=(
            "Is it ridden less, or on other ways, than the rides say?",
            "Does the other brake do the work?",
            "Glazed pads wear little: do they still bite?",
        ),
    ),
    HintRow(
        key="out_of_proportion",
        speaks=_pads_alone,
        ask=(
            "Grit or a dragging pad wears the pads first.",
            "Is the rotor's surface rough or grooved?",
            "A soft compound for this use?",
        ),
    ),
    HintRow(
        key="rotor_out_of_proportion",
        speaks=_rotor_alone,
        ask=(
            "Metal in the pads on a rotor that is marked for resin only?",
            "Grit pressed into the pads' faces?",
            "Did a pad run down to its backing plate?",
        ),
    ),
    HintRow(
        key="sets_of_pads",
        speaks=_sets_of_pads,
        ask=(
            "Are pads changed earlier than they need be, or the rotor's minimum misread?",
            "Do compound and rotor go together?",
        ),
    ),
)


def hints_of(states: tuple[WearState, ...]) -> tuple[Hint, ...]:
    """Every hint that speaks, front first, in the order of the table."""
    found = []
    for end in End:
        on = {s.life.what: s for s in states if s.life.end is end}
        wheel = WheelWear(end, on.get(Renewal.PAD), on.get(Renewal.ROTOR))
        for row in HINTS:
            words = row.speaks(wheel)
            if words is not None:
                found.append(Hint(row.key, end, words, row.ask))
    return tuple(found)
