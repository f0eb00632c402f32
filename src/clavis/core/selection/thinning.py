"""Of parts that are nearly alike one stands for the others, where all of them together are more than can be weighed.

The steps go from what nobody can tell apart to what differs a little: the first that leaves few enough is taken. What
is on the wheel always stays, and of what is merged the cheapest.
"""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Any

from clavis.core.parts.likeness import likeness

DIGITS = (3, 2, 1)
"""significant digits to which the other figures are told apart, step by step"""


@dataclass(frozen=True)
class Kept:
    """By kind, by class of parts that no check tells apart: the places of the parts that are weighed."""

    members: Sequence[Sequence[Sequence[int]]]


def _merged(kept: Kept, parts: Sequence[Sequence[Any]], on_it: Sequence[Any], digits: int | None) -> Kept:
    out = []
    for of_axis, table, stays in zip(kept.members, parts, on_it, strict=True):
        classes = []
        for places in of_axis:
            best: dict[Hashable, int] = {}

            def first(k: int, table: Sequence[Any] = table, stays: Any = stays) -> tuple[Any, ...]:
                return table[k] != stays, table[k].price, table[k].mass_g, table[k].id

            for place in sorted(places, key=first):
                best.setdefault(likeness(table[place], digits), place)
            classes.append(tuple(sorted(best.values())))
        out.append(classes)
    return Kept(out)


def _halved(kept: Kept, parts: Sequence[Sequence[Any]], on_it: Sequence[Any]) -> Kept:
    """Of the kind with most parts every other one by its price, class by class; each class keeps one at least."""
    counts = [sum(len(places) for places in of_axis if len(places) > 1) for of_axis in kept.members]
    longest = counts.index(max(counts))
    table, stays = parts[longest], on_it[longest]
    classes = []
    for places in kept.members[longest]:
        ordered = sorted(places, key=lambda k: (table[k] != stays, table[k].price, table[k].id))
        classes.append(tuple(sorted(ordered[::2])))  # what is on the wheel comes first, and stays
    return Kept([classes if k == longest else of_axis for k, of_axis in enumerate(kept.members)])


def thinned(
    kept: Kept, parts: Sequence[Sequence[Any]], on_it: Sequence[Any], weighed: Callable[[Kept], float], most: float
) -> Kept:
    """The first step that leaves at most so many to be weighed. Where even one part of each class is more than that,
    one of each is what is weighed."""
    if weighed(kept) <= most:
        return kept
    for digits in (None, *DIGITS):
        kept = _merged(kept, parts, on_it, digits)
        if weighed(kept) <= most:
            return kept
    while weighed(kept) > most and any(len(places) > 1 for of_axis in kept.members for places in of_axis):
        kept = _halved(kept, parts, on_it)
    return kept
