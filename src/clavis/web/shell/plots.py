"""Pictures drawn on the server: where points, ticks and words of a scatter stand, in the picture's own units."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from math import ceil, floor, log10

from clavis.core import units
from clavis.core.evaluation.compound_table import CURVE_TO_C, friction_curves
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.selection.schools import Candidate
from clavis.core.selection.tradeoffs import MeasureRow, Point, Tradeoff
from clavis.core.units import System
from clavis.core.verdicts import Verdict

WIDTH, HEIGHT = 620.0, 300.0
LEFT, RIGHT, TOP, BOTTOM = 58.0, 14.0, 14.0, 40.0
TICKS = 6
LETTER_WIDE, LABEL_HIGH, LABEL_OFF = 7.2, 15.0, 10.0


def nice_ticks(low: float, high: float, about: int = TICKS) -> list[float]:
    """Round values from below ``low`` to above ``high``: steps of 1, 2 or 5 times a power of ten."""
    span = max(high - low, 1e-9)
    rough = span / about
    power = 10 ** floor(log10(rough))
    step = next(m * power for m in (1, 2, 5, 10) if m * power >= rough - 1e-12)
    first, last = floor(low / step + 1e-9), ceil(high / step - 1e-9)
    return [k * step for k in range(first, max(last, first + 1) + 1)]


@dataclass(frozen=True)
class AxisMark:
    at: float
    text: str


@dataclass(frozen=True)
class Spot:
    """A candidate that is told apart: on the front, or first of some schools."""

    x: float
    y: float
    words: str
    name: str
    anchor: str = "start"
    label_y: float = 0.0


@dataclass(frozen=True)
class Scatter:
    """A scatter as it is drawn. ``clouds`` are paths of dots by verdict; ``line`` runs through the front."""

    x_ticks: tuple[AxisMark, ...]
    y_ticks: tuple[AxisMark, ...]
    clouds: tuple[tuple[Verdict, str], ...]
    line: str
    front: tuple[Spot, ...]
    firsts: tuple[Spot, ...]


def _name(candidate: Candidate) -> str:
    return f"{candidate.rotor.name}, {candidate.caliper.name}, {candidate.lever.name}, {candidate.pad.name}"


@dataclass(frozen=True)
class _Scale:
    """From a figure to a place: linear between round ticks in the reader's units."""

    row: MeasureRow
    system: System
    ticks: tuple[float, ...]
    start: float
    end: float

    def at(self, value: float) -> float:
        shown = units.convert(value, self.row.unit, self.system)
        share = (shown - self.ticks[0]) / (self.ticks[-1] - self.ticks[0])
        return round(self.start + share * (self.end - self.start), 1)

    def marks(self) -> tuple[AxisMark, ...]:
        step = self.ticks[1] - self.ticks[0]
        places = max(0, -floor(log10(step) + 1e-9))
        share = [(v - self.ticks[0]) / (self.ticks[-1] - self.ticks[0]) for v in self.ticks]
        return tuple(
            AxisMark(round(self.start + s * (self.end - self.start), 1), f"{v:.{places}f}".replace("-", "\u2212"))
            for s, v in zip(share, self.ticks, strict=True)
        )


def _scale(row: MeasureRow, values: Sequence[float], system: System, start: float, end: float) -> _Scale:
    shown = [units.convert(v, row.unit, system) for v in values] or [0.0, 1.0]
    return _Scale(row, system, tuple(nice_ticks(min(shown), max(shown))), start, end)


def _labelled(spots: Sequence[tuple[tuple[float, float], str, str]]) -> tuple[Spot, ...]:
    """Spots with their words beside them: right, left, lower or upper, where no other word or spot is."""
    taken = [(x - LABEL_OFF, y - LABEL_OFF, x + LABEL_OFF, y + LABEL_OFF) for (x, y), _, _ in spots]
    out = []
    for own, ((x, y), words, name) in enumerate(spots):
        wide = LETTER_WIDE * len(words)
        best: tuple[int, str, float, tuple[float, float, float, float]] | None = None
        for anchor, down in product(("start", "end"), (0.0, LABEL_HIGH, -LABEL_HIGH)):
            left = x + LABEL_OFF if anchor == "start" else x - LABEL_OFF - wide
            box = (left, y + down - LABEL_HIGH / 2, left + wide, y + down + LABEL_HIGH / 2)
            met = sum(_overlap(box, other) for k, other in enumerate(taken) if k != own)
            met += 10 * (box[0] < LEFT or box[2] > WIDTH or box[1] < 0 or box[3] > HEIGHT - BOTTOM)
            if best is None or met < best[0]:
                best = (met, anchor, y + down, box)
        if best is not None:
            taken.append(best[3])
            out.append(Spot(x, y, words, name, best[1], best[2]))
    return tuple(out)


def _overlap(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def scatter_of(tradeoff: Tradeoff, firsts: Sequence[tuple[str, Candidate]], system: System) -> Scatter:
    """Where everything of a trade-off stands. ``firsts`` are the schools' titles with their picks."""
    xs = _scale(tradeoff.x, [p.x for p in tradeoff.points], system, LEFT, WIDTH - RIGHT)
    ys = _scale(tradeoff.y, [p.y for p in tradeoff.points], system, HEIGHT - BOTTOM, TOP)

    def place(point: Point) -> tuple[float, float]:
        return xs.at(point.x), ys.at(point.y)

    clouds = []
    for verdict in (Verdict.FAILS, Verdict.UNKNOWN, Verdict.TIGHT, Verdict.HOLDS):
        dots = sorted({place(p) for p in tradeoff.points if p.candidate.verdict is verdict})
        if dots:
            clouds.append((verdict, "".join(f"M{x:g} {y:g}h0" for x, y in dots)))
    front = tuple(Spot(*place(p), words=p.candidate.verdict.value, name=_name(p.candidate)) for p in tradeoff.front)
    line = " ".join(f"{spot.x:g},{spot.y:g}" for spot in front)
    shown = {p.candidate.ids for p in tradeoff.points}
    titles: dict[tuple[float, float], list[str]] = {}
    names: dict[tuple[float, float], str] = {}
    for title, candidate in firsts:
        a, b = tradeoff.x.of(candidate), tradeoff.y.of(candidate)
        if a is not None and b is not None and candidate.ids in shown:
            at = xs.at(a), ys.at(b)
            titles.setdefault(at, []).append(title)
            names[at] = _name(candidate)
    spots = _labelled([(at, ", ".join(words), names[at]) for at, words in sorted(titles.items())])
    return Scatter(xs.marks(), ys.marks(), tuple(clouds), line, front, spots)


@dataclass(frozen=True)
class Curve:
    """A line of a picture, with its word at the end of it."""

    key: str
    words: str
    points: str
    end_y: float


@dataclass(frozen=True)
class FrictionPicture:
    """Friction of every compound over the rotor's temperature; ``peaks`` are the places of a wheel's peak."""

    x_ticks: tuple[AxisMark, ...]
    y_ticks: tuple[AxisMark, ...]
    curves: tuple[Curve, ...]
    peaks: tuple[tuple[str, float], ...]


FRICTION_TOP = 0.5
_RIGHT_WORDS, _LABEL_APART = 96.0, 13.0


def friction_picture(peaks_c: Sequence[tuple[str, float]], system: System) -> FrictionPicture:
    rotor_c, curves = friction_curves()
    wide, high = WIDTH - _RIGHT_WORDS - LEFT, HEIGHT - BOTTOM - TOP

    def x_at(celsius: float) -> float:
        return round(LEFT + wide * min(celsius / CURVE_TO_C, 1.0), 1)

    def y_at(mu: float) -> float:
        return round(TOP + high * (1 - mu / FRICTION_TOP), 1)

    ends: list[Curve] = []
    for key, mu in sorted(curves.items(), key=lambda item: -item[1][-1]):
        points = " ".join(f"{x_at(float(c)):g},{y_at(float(m)):g}" for c, m in zip(rotor_c, mu, strict=True))
        below = ends[-1].end_y + _LABEL_APART if ends else 0.0
        ends.append(Curve(key, COMPOUNDS[key].words, points, max(y_at(float(mu[-1])), below)))
    ticks_c = nice_ticks(units.convert(0.0, "c", system), units.convert(CURVE_TO_C, "c", system))
    shown = [(units.stored(t, "c", system), t) for t in ticks_c]
    return FrictionPicture(
        tuple(AxisMark(x_at(c), f"{t:.0f}") for c, t in shown if 0 <= c <= CURVE_TO_C),
        tuple(AxisMark(y_at(mu), f"{mu:.1f}") for mu in nice_ticks(0.0, FRICTION_TOP, 5)),
        tuple(ends),
        tuple((words, x_at(celsius)) for words, celsius in peaks_c),
    )
