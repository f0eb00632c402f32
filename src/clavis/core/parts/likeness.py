"""What makes one part stand for another: everything but what a maker calls it and asks for it."""

from collections.abc import Hashable, Iterable
from enum import Enum
from math import floor, log10
from typing import Any, TypeVar

from clavis.core.parts.models import Part

BY_NAME = frozenset({"id", "maker", "model", "price", "mass_g", "figures", "retired"})
"""what parts differ in that are the same for every check and every figure but price and mass"""
DECIDES = frozenset({"diameter_mm"})
"""figures that are never rounded: sizes by which parts are sold"""
P = TypeVar("P", bound=Part)


def rounded(value: float, digits: int) -> float:
    """To so many significant digits.

    >>> rounded(5.2345, 2), rounded(0.0, 2), rounded(1834.0, 1)
    (5.2, 0.0, 2000.0)
    """
    return round(value, digits - 1 - floor(log10(abs(value)))) if value else 0.0


def likeness(part: Any, digits: int | None = None) -> Hashable:
    """What has to be the same of two parts for one to stand for the other; with ``digits`` figures are told apart to so
    many significant ones."""
    told: list[Hashable] = []
    for name in type(part).model_fields:
        value = getattr(part, name)
        if name in BY_NAME:
            continue
        if digits is not None and name not in DECIDES:
            if isinstance(value, float):
                value = rounded(value, digits)
            elif isinstance(value, tuple):
                value = tuple(rounded(v, digits) if isinstance(v, float) else v for v in value)
        told.append(value.value if isinstance(value, Enum) else value)
    return tuple(told)


def cheapest_of_each(parts: Iterable[P]) -> list[P]:
    """Of parts that are alike the cheapest, of those that cost the same the first by its number."""
    found: dict[Hashable, P] = {}
    for part in sorted(parts, key=lambda part: (part.price, part.id)):
        found.setdefault(likeness(part), part)
    return list(found.values())
