"""Life of a rotor against its size: it goes with the swept ring, not with the diameter squared (docs/keeping.md)."""

from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.parameters import ModelParameters
from clavis.core.parts.models import Rotor
from clavis.core.physics.heat import rotor_geometry


@dataclass(frozen=True)
class SizeLife:
    """A size, and how many times the life of the rotor that is on the bike it would have at the same energy."""

    diameter_mm: float
    ratio: float


def life_by_size(rotor: Rotor, sizes_mm: Iterable[float]) -> tuple[SizeLife, ...]:
    """Sizes of the same thickness and track against the rotor that is on it, smallest first: by the area that the pads
    sweep (docs/model.md, section 5)."""
    p = ModelParameters()

    def swept(diameter_mm: float) -> float:
        other = rotor.model_copy(update={"diameter_mm": diameter_mm})
        return rotor_geometry(other, rotor.thickness_mm, p).swept_m2

    own = swept(rotor.diameter_mm)
    return tuple(SizeLife(mm, swept(mm) / own) for mm in sorted(set(sizes_mm)))
