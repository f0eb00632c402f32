"""Which parts can be meant where a wheel's part is named: those that go with what is known of the wheel already.

LIKELY is the table, a row for each kind of part. Nothing is forbidden by it, since what does not go together may be on
a bike all the same: such parts stand behind the others.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from clavis.core.fit.adapters import row_of
from clavis.core.job.document import Job
from clavis.core.job.wheel import Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import GRADES_OF
from clavis.core.parts.models import Adapter, AnyPart, Caliper, Carrying, FluidPart, HubInterface, Lever, Pad, Rotor
from clavis.core.parts.mounts import IS_ZERO_OFFSET_MM, SAME_SIZE_MM, End, MountKind, named_mount, tell_mount
from clavis.core.sentences import NOTHING, Words, say


@dataclass(frozen=True)
class WheelSoFar:
    """What is known of a wheel before a part of it is named."""

    job: Job
    end: End
    catalogue: Catalogue

    @property
    def wheel(self) -> Wheel:
        return self.job.wheel(self.end)

    @property
    def mount(self) -> MountKind | None:
        carrying = self.catalogue.carrying(self.end, self.wheel.carrying_id)
        told = tell_mount(self.wheel.mount_spacing_mm, self.wheel.bolt_direction, self.end)
        return named_mount(self.wheel.mount_named, told, self.end).kind or (carrying.mount if carrying else None)

    @property
    def native_mm(self) -> float | None:
        carrying = self.catalogue.carrying(self.end, self.wheel.carrying_id)
        if self.mount is MountKind.IS:
            return IS_ZERO_OFFSET_MM[self.end]
        return self.wheel.native_rotor_mm or (carrying.native_mm if carrying else None)

    @property
    def caliper(self) -> Caliper | None:
        return self.catalogue.calipers.get(self.wheel.caliper_id or "")

    @property
    def rotor(self) -> Rotor | None:
        return self.catalogue.rotors.get(self.wheel.rotor_id or "")


@dataclass(frozen=True)
class LikelyRow:
    """What a kind of part is held against: ``goes`` with what is known, and that in words, nothing where too little is
    known to tell."""

    goes: Callable[[WheelSoFar, Any], bool]
    words: Callable[[WheelSoFar], Words]


def _rotor(k: WheelSoFar, part: Rotor) -> bool:
    return k.wheel.hub is not HubInterface.SIX_BOLT or part.interface is HubInterface.SIX_BOLT


def _caliper(k: WheelSoFar, part: Caliper) -> bool:
    return k.mount is None or row_of(k.mount, part.mount) is not None


def _lever(k: WheelSoFar, part: Lever) -> bool:
    caliper, bar = k.caliper, k.job.bike.bar
    line = caliper is None or (part.fluid is caliper.fluid and part.pull is caliper.pull)
    return line and (bar is None or part.bar is bar)


def _pad(k: WheelSoFar, part: Pad) -> bool:
    return k.caliper is None or part.shape == k.caliper.pad_shape


def _adapter(k: WheelSoFar, part: Adapter) -> bool:
    row = row_of(k.mount, k.caliper.mount) if k.mount and k.caliper else None
    kind = row is None or row.adapter is part.adapter_kind
    native, rotor = k.native_mm, k.rotor
    begins = native is None or part.from_mm is None or abs(part.from_mm - native) < SAME_SIZE_MM
    serves = part.serves(k.end, rotor.diameter_mm) if rotor else bool(part.sizes_at(k.end))
    return kind and begins and serves


def _carrying(k: WheelSoFar, part: Carrying) -> bool:
    return k.mount is None or part.mount is k.mount


def _fluid(k: WheelSoFar, part: FluidPart) -> bool:
    return k.caliper is None or part.grade in GRADES_OF[k.caliper.fluid]


def _beside_caliper(words: str) -> Callable[[WheelSoFar], Words]:
    return lambda k: NOTHING if k.caliper is None else say(words, caliper=k.caliper.name, shape=k.caliper.pad_shape)


def _on_mount(k: WheelSoFar) -> Words:
    return NOTHING if k.mount is None else say("for {mount}", mount=k.mount)


def _of_hub(k: WheelSoFar) -> Words:
    return say("for a six-bolt hub") if k.wheel.hub is HubInterface.SIX_BOLT else NOTHING


def _lever_words(k: WheelSoFar) -> Words:
    if k.caliper is not None:
        return say("goes with {caliper}", caliper=k.caliper.name)
    return NOTHING if k.job.bike.bar is None else say("for this bar")


LIKELY: Mapping[str, LikelyRow] = {
    "rotor": LikelyRow(_rotor, _of_hub),
    "caliper": LikelyRow(_caliper, _on_mount),
    "lever": LikelyRow(_lever, _lever_words),
    "pad": LikelyRow(_pad, _beside_caliper("of its shape, {shape}")),
    "adapter": LikelyRow(_adapter, lambda k: NOTHING if k.mount is None else say("for this mount and rotor")),
    "fork": LikelyRow(_carrying, _on_mount),
    "frame": LikelyRow(_carrying, _on_mount),
    "fluid": LikelyRow(_fluid, _beside_caliper("for this caliper")),
}


def likely(known: WheelSoFar, part: AnyPart) -> bool:
    """Whether a part goes with what is known of the wheel already."""
    row = LIKELY.get(part.kind)
    return row is None or row.goes(known, part)


def likely_words(known: WheelSoFar, kind: str) -> Words:
    """What the likely parts of a kind have in common; nothing where too little is known to part them."""
    row = LIKELY.get(kind)
    return NOTHING if row is None else row.words(known)
