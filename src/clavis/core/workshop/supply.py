"""What an order needs, what of it is in hand, and for what the job waits."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.sentences import NOTHING, Words, joined, say
from clavis.core.workshop.work_order import WorkOrder


@dataclass(frozen=True)
class Need:
    """Pieces of one part that the order needs, both wheels together."""

    part_id: str
    name: Words
    pieces: int
    price: float | None


@dataclass(frozen=True)
class Supplied:
    """What was done about one part: set aside from the shelf, ordered from the supplier, and arrived of that."""

    taken: int = 0
    ordered: int = 0
    arrived: int = 0
    price: float | None = None
    """of one, as it was ordered"""
    promised: str = ""
    """the day on which the supplier said that it comes"""

    @property
    def in_hand(self) -> int:
        return self.taken + self.arrived

    @property
    def on_its_way(self) -> int:
        return max(self.ordered - self.arrived, 0)


NOTHING_YET = Supplied()


@dataclass(frozen=True)
class SupplyLine:
    """One part of an order: what is needed, what is in hand for this job, what is on its way, what is on the shelf."""

    need: Need
    supplied: Supplied
    on_shelf: int

    @property
    def lacks(self) -> int:
        """Pieces that are not in hand for this job."""
        return max(self.need.pieces - self.supplied.in_hand, 0)

    @property
    def from_shelf(self) -> int:
        """Pieces that could be set aside now."""
        return min(self.lacks, self.on_shelf)

    @property
    def to_order(self) -> int:
        """Pieces that neither the shelf has nor the supplier was asked for."""
        return max(self.lacks - self.on_shelf - self.supplied.on_its_way, 0)

    @property
    def waits(self) -> bool:
        return self.lacks > 0


def needs_of(order: WorkOrder) -> tuple[Need, ...]:
    """What of an order stands in the catalogue, both wheels together, in the order of its list."""
    pieces: dict[str, int] = {}
    lines = [line for line in order.lines if line.part_id]
    for line in lines:
        pieces[line.part_id] = pieces.get(line.part_id, 0) + line.quantity
    first = {line.part_id: line for line in reversed(lines)}
    return tuple(Need(part_id, first[part_id].name, n, first[part_id].price) for part_id, n in pieces.items())


def supply_of(
    needs: tuple[Need, ...], supplied: Mapping[str, Supplied], stock: Mapping[str, int]
) -> tuple[SupplyLine, ...]:
    """How each need stands."""
    return tuple(
        SupplyLine(need, supplied.get(need.part_id, NOTHING_YET), stock.get(need.part_id, 0)) for need in needs
    )


def needed_pieces(lines: tuple[SupplyLine, ...]) -> dict[str, int]:
    """Pieces that the order needs, by part."""
    return {line.need.part_id: line.need.pieces for line in lines}


def beyond(supplied: Mapping[str, Supplied], needed: Mapping[str, int]) -> dict[str, int]:
    """Pieces that are in hand for a job and that its order does not need, by part.

    >>> beyond({"bolt": Supplied(taken=3, ordered=2, arrived=1)}, {"bolt": 3})
    {'bolt': 1}
    """
    more = {part_id: s.in_hand - needed.get(part_id, 0) for part_id, s in supplied.items()}
    return {part_id: pieces for part_id, pieces in more.items() if pieces > 0}


MOST_NAMED = 3


def waits_for(lines: tuple[SupplyLine, ...]) -> Words:
    """For what the job waits, in one line; nothing where all is in hand, or nothing was ordered or set aside yet."""
    begun = any(line.supplied != NOTHING_YET for line in lines)
    waiting = [line for line in lines if line.waits]
    if not begun or not waiting:
        return NOTHING
    named: list[Words] = [line.need.name for line in waiting[:MOST_NAMED]]
    more = len(waiting) - len(named)
    told = joined(named, ", ", ", " if more else " and ")
    days = [line.supplied.promised for line in waiting if line.supplied.promised]
    words = "waits for {what}"
    words += " and {more} more" if more else ""
    words += ", promised for {day}" if days else ""
    return say(words, what=told, more=more, day=max(days, default=""))
