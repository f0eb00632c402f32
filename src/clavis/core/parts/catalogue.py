"""The catalogue: what can be bought, by kind."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from clavis.core.parts.models import (
    KIND_NAMES,
    Adapter,
    AnyPart,
    Bolt,
    Caliper,
    Carrying,
    FluidPart,
    Fork,
    Frame,
    Hose,
    Hub,
    Lever,
    Pad,
    Rotor,
    SmallPart,
    WheelPart,
)
from clavis.core.parts.mounts import End


@dataclass(frozen=True)
class Catalogue:
    """Parts by kind and id, each kind in a fixed order."""

    rotors: Mapping[str, Rotor]
    calipers: Mapping[str, Caliper]
    levers: Mapping[str, Lever]
    pads: Mapping[str, Pad]
    adapters: Mapping[str, Adapter]
    bolts: Mapping[str, Bolt]
    hubs: Mapping[str, Hub]
    wheels: Mapping[str, WheelPart]
    forks: Mapping[str, Fork]
    frames: Mapping[str, Frame]
    fluids: Mapping[str, FluidPart]
    hoses: Mapping[str, Hose]
    smalls: Mapping[str, SmallPart]

    @classmethod
    def of(cls, parts: Iterable[AnyPart]) -> "Catalogue":
        groups: dict[str, dict[str, Any]] = {kind: {} for kind in KIND_NAMES}
        for part in sorted(parts, key=lambda p: p.id):
            groups[part.kind][part.id] = part
        return cls(**{f"{kind}s": group for kind, group in groups.items()})

    def every(self) -> list[AnyPart]:
        return [part for kind in KIND_NAMES for part in self.of_kind(kind).values()]

    def of_kind(self, kind: str) -> Mapping[str, AnyPart]:
        """The table of one of KIND_NAMES."""
        table: Mapping[str, AnyPart] = getattr(self, f"{kind}s")
        return table

    def carrying(self, end: End, part_id: str | None) -> Carrying | None:
        """The fork at the front or the frame at the rear; None where the catalogue has none of this name."""
        table: Mapping[str, Carrying] = self.forks if end is End.FRONT else self.frames
        return table.get(part_id or "")

    def by_id(self, part_id: str) -> AnyPart | None:
        return next((table[part_id] for kind in KIND_NAMES if part_id in (table := self.of_kind(kind))), None)
