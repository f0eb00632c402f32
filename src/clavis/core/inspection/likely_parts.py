"""Which parts can be meant where a wheel's part is named: those that go with what is known of the wheel already.

LIKELY is the table, a row for each kind of part. Nothing is forbidden by it, since what does not go together may be on
a bike all the same: such parts stand behind the others.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from clavis.core.fit.adapters import row_of
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.parts.fluids import GRADES_OF
from clavis.core.parts.models import Adapter, AnyPart, Caliper, Carrying, FluidPart, HubInterface, Lever, Pad, Rotor
from clavis.core.parts.mounts import SAME_SIZE_MM
from clavis.core.sentences import NOTHING, Words, say


@dataclass(frozen=True)
class LikelyRow:
    """What a kind of part is held against: ``goes`` with what is known, and that in words, nothing where too little is
    known to tell."""

    goes: Callable[[ResolvedWheel, Any], bool]
    words: Callable[[ResolvedWheel], Words]


def _rotor(w: ResolvedWheel, part: Rotor) -> bool:
    return w.measured.hub is not HubInterface.SIX_BOLT or part.interface is HubInterface.SIX_BOLT


def _caliper(w: ResolvedWheel, part: Caliper) -> bool:
    mount = w.mount.kind
    return mount is None or row_of(mount, part.mount) is not None


def _lever(w: ResolvedWheel, part: Lever) -> bool:
    caliper = w.on_it.caliper
    line = caliper is None or (part.fluid is caliper.fluid and part.pull is caliper.pull)
    return line and (w.bar is None or part.bar is w.bar)


def _pad(w: ResolvedWheel, part: Pad) -> bool:
    return w.on_it.caliper is None or part.shape == w.on_it.caliper.pad_shape


def _adapter(w: ResolvedWheel, part: Adapter) -> bool:
    mount, caliper, rotor, native = w.mount.kind, w.on_it.caliper, w.on_it.rotor, w.native.mm
    row = row_of(mount, caliper.mount) if mount and caliper else None
    kind = row is None or row.adapter is part.adapter_kind
    begins = native is None or part.from_mm is None or abs(part.from_mm - native) < SAME_SIZE_MM
    serves = part.serves(w.end, rotor.diameter_mm) if rotor else bool(part.sizes_at(w.end))
    return kind and begins and serves


def _carrying(w: ResolvedWheel, part: Carrying) -> bool:
    return w.mount.kind is None or part.mount is w.mount.kind


def _fluid(w: ResolvedWheel, part: FluidPart) -> bool:
    return w.on_it.caliper is None or part.grade in GRADES_OF[w.on_it.caliper.fluid]


def _beside_caliper(words: str) -> Callable[[ResolvedWheel], Words]:
    def told(w: ResolvedWheel) -> Words:
        caliper = w.on_it.caliper
        return NOTHING if caliper is None else say(words, caliper=caliper.name, shape=caliper.pad_shape)

    return told


def _on_mount(w: ResolvedWheel) -> Words:
    mount = w.mount.kind
    return NOTHING if mount is None else say("for {mount}", mount=mount)


def _of_hub(w: ResolvedWheel) -> Words:
    return say("for a six-bolt hub") if w.measured.hub is HubInterface.SIX_BOLT else NOTHING


def _lever_words(w: ResolvedWheel) -> Words:
    if w.on_it.caliper is not None:
        return say("goes with {caliper}", caliper=w.on_it.caliper.name)
    return NOTHING if w.bar is None else say("for this bar")


LIKELY: Mapping[str, LikelyRow] = {
    "rotor": LikelyRow(_rotor, _of_hub),
    "caliper": LikelyRow(_caliper, _on_mount),
    "lever": LikelyRow(_lever, _lever_words),
    "pad": LikelyRow(_pad, _beside_caliper("of its shape, {shape}")),
    "adapter": LikelyRow(_adapter, lambda w: NOTHING if w.mount.kind is None else say("for this mount and rotor")),
    "fork": LikelyRow(_carrying, _on_mount),
    "frame": LikelyRow(_carrying, _on_mount),
    "fluid": LikelyRow(_fluid, _beside_caliper("for this caliper")),
}


def likely(wheel: ResolvedWheel, part: AnyPart) -> bool:
    """Whether a part goes with what is known of the wheel already."""
    row = LIKELY.get(part.kind)
    return row is None or row.goes(wheel, part)


def likely_words(wheel: ResolvedWheel, kind: str) -> Words:
    """What the likely parts of a kind have in common; nothing where too little is known to part them."""
    row = LIKELY.get(kind)
    return NOTHING if row is None else row.words(wheel)
