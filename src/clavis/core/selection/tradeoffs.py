"""What trades against what: candidates by two of their figures, and those that nothing beats in both."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.selection.schools import Candidate


class Measure(StrEnum):
    MARGIN = "margin"
    MASS = "mass"
    PRICE = "price"
    FINGER = "finger"
    ROTOR = "rotor"
    FLUID = "fluid"
    QUIET = "quiet"


@dataclass(frozen=True)
class MeasureRow:
    """A figure of a candidate: its label, unit (of ``units.KINDS``), value, and whether more of it is better."""

    figure: Measure
    label: str
    unit: str
    of: Callable[[Candidate], float | None]
    more: bool = False
    floor: float | None = None
    """below this a candidate is out of the question, and out of the picture"""


MEASURES: dict[Measure, MeasureRow] = {
    row.figure: row
    for row in (
        MeasureRow(Measure.MARGIN, "least margin", "pct", lambda c: c.smallest * 100, more=True, floor=-60.0),
        MeasureRow(Measure.MASS, "mass", "g", lambda c: c.mass_g),
        MeasureRow(Measure.PRICE, "new parts", "price", lambda c: c.price),
        MeasureRow(Measure.FINGER, "finger at target", "n", lambda c: c.standing.finger_target_n),
        MeasureRow(Measure.ROTOR, "rotor peak", "c", lambda c: c.rotor_c),
        MeasureRow(Measure.FLUID, "fluid peak", "c", lambda c: c.fluid_c),
        MeasureRow(Measure.QUIET, "noise, wet and cold", "ratio", lambda c: c.standing.quiet),
    )
}


@dataclass(frozen=True)
class Point:
    candidate: Candidate
    x: float
    y: float


@dataclass(frozen=True)
class Tradeoff:
    """Candidates as points by two figures, and the front: those that no other beats in one without losing in the
    other, best ``x`` first. ``unplaced`` candidates have one of the figures not at all (a cable has no fluid)."""

    x: MeasureRow
    y: MeasureRow
    points: tuple[Point, ...]
    front: tuple[Point, ...]
    unplaced: int
    beneath: int
    """candidates out of the picture: below the floor of one of the figures"""


def _below(row: MeasureRow, value: float) -> bool:
    return row.floor is not None and value < row.floor


def tradeoff_of(candidates: Sequence[Candidate], x: Measure, y: Measure) -> Tradeoff:
    across, up = MEASURES[x], MEASURES[y]
    points = []
    for candidate in candidates:
        a, b = across.of(candidate), up.of(candidate)
        if a is not None and b is not None:
            points.append(Point(candidate, a, b))
    above = [p for p in points if not (_below(across, p.x) or _below(up, p.y))]
    placed = len(points)
    if above:  # where nothing stands above the floor, the picture shows what there is
        points = above
    sign_x, sign_y = (-1.0 if row.more else 1.0 for row in (across, up))
    front: list[Point] = []
    least = float("inf")
    for point in sorted(points, key=lambda p: (sign_x * p.x, sign_y * p.y, p.candidate.heat_ids)):
        if sign_y * point.y < least - 1e-9:
            least = sign_y * point.y
            front.append(point)
    return Tradeoff(across, up, tuple(points), tuple(front), len(candidates) - placed, placed - len(points))
