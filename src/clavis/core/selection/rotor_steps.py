"""The ladder of rotor sizes as practice counts them, and how like two rotors are, their size aside."""

from collections.abc import Iterable

from clavis.core.parts.models import Rotor

# Sizes that practice takes for one: 200 and 203 are the same step, 183 and 185 an old 180.
SIZES_MM: tuple[tuple[float, float], ...] = ((120, 150), (150, 172), (172, 192), (192, 212), (212, 261))


def size_of(diameter_mm: float) -> int:
    """The step on the ladder of rotor sizes: 140, 160, 180, 200 or 203, 220 or 223."""
    return next(k for k, (low, high) in enumerate(SIZES_MM) if low <= diameter_mm < high)


def unlike(present: Rotor, rotor: Rotor) -> tuple[object, ...]:
    """How unlike a rotor is, its size aside; sorts the most like one first."""
    return (
        rotor.interface is not present.interface,
        rotor.construction is not present.construction,
        rotor.carrier_material is not present.carrier_material,
        abs(rotor.thickness_mm - present.thickness_mm),
        rotor.maker != present.maker,
        rotor.price,
        rotor.id,
    )


def beyond(present: Rotor, rotors: Iterable[Rotor], by: int) -> list[Rotor]:
    """Rotors of the sizes above the present one (``by`` 1) or below it (−1): size by size, the most like it first."""
    here = size_of(present.diameter_mm)
    further = [r for r in rotors if (size_of(r.diameter_mm) - here) * by > 0]
    return sorted(further, key=lambda r: (abs(size_of(r.diameter_mm) - here), *unlike(present, r)))
