"""Pairing: how the two wheels go together. Front one size larger, equal sizes, or each by its own load."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.job.document import School
from clavis.core.selection.candidates import Choice
from clavis.core.selection.rotor_steps import size_of
from clavis.core.selection.schools import Candidate, SchoolRow, Standing, row_of_school, together


class Pairing(StrEnum):
    BY_LOAD = "by load"
    FRONT_LARGER = "front one size larger"
    EQUAL = "equal sizes"


PAIRINGS: dict[Pairing, Callable[[int, int], bool]] = {
    Pairing.BY_LOAD: lambda _front, _rear: True,
    Pairing.FRONT_LARGER: lambda front, rear: front == rear + 1,
    Pairing.EQUAL: lambda front, rear: front == rear,
}


@dataclass(frozen=True)
class Pair:
    """The school's best pair of one pairing; both None where no two candidates pair so."""

    pairing: Pairing
    front: Candidate | None
    rear: Candidate | None
    standing: Standing | None

    @property
    def least_pct(self) -> float:
        """The least relative margin of both wheels, %."""
        return 0.0 if self.standing is None else self.standing.smallest * 100


def _best_by_size(candidates: Iterable[Candidate], row: SchoolRow) -> dict[int, Candidate]:
    best: dict[int, Candidate] = {}
    for candidate in candidates:
        size = size_of(candidate.rotor.diameter_mm)
        now = best.get(size)
        if now is None or row.key(candidate.standing) < row.key(now.standing):
            best[size] = candidate
    return best


def _best(choice: Choice, row: SchoolRow) -> Candidate | None:
    return min(choice.candidates, key=lambda c: row.key(c.standing), default=None)


def pairs_of(front: Choice, rear: Choice, school: School) -> tuple[Pair, ...]:
    """For each pairing each wheel's best of its size, and of those the pair whose two wheels together stand first."""
    row = row_of_school(school)
    fronts = _best_by_size(front.candidates, row)
    rears = _best_by_size(rear.candidates, row)
    own_front, own_rear = (_best(choice, row) for choice in (front, rear))
    out = []
    for pairing, pairs in PAIRINGS.items():
        both = [
            (f, r, together([f.standing, r.standing]))
            for a, f in fronts.items()
            for b, r in rears.items()
            if pairs(a, b)
        ]
        if pairing is Pairing.BY_LOAD:
            both = [x for x in both if x[0] is own_front and x[1] is own_rear]
        best = min(both, key=lambda x: row.key(x[2]), default=None)
        out.append(Pair(pairing, *best) if best else Pair(pairing, None, None, None))
    return tuple(out)
