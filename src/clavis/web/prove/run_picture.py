"""The picture of a trial: every run as a point in the order it was ridden, and the means of both sides with their
intervals. Drawn on the server, in the picture's own units."""

from collections.abc import Callable
from dataclasses import dataclass

from clavis.core import units
from clavis.core.job.trials import Side
from clavis.core.proving.results import RunPoint, SideMean, TrialResult
from clavis.core.proving.statistics import BLOCK
from clavis.core.units import System
from clavis.web.shell.plots import AxisMark, nice_ticks

WIDTH, HEIGHT = 760.0, 250.0
LEFT, TOP, BOTTOM = 58.0, 12.0, 30.0
RUNS_TO, MEANS = 560.0, {Side.A: 620.0, Side.B: 690.0}


@dataclass(frozen=True)
class RunDot:
    x: float
    y: float
    side: Side
    counted: bool
    words: str


@dataclass(frozen=True)
class MeanBar:
    """A side's mean; ``low`` and ``high`` are None where one run tells no scatter."""

    x: float
    y: float
    low: float | None
    high: float | None
    side: Side
    words: str


@dataclass(frozen=True)
class RunPicture:
    dots: tuple[RunDot, ...]
    means: tuple[MeanBar, ...]
    y_ticks: tuple[AxisMark, ...]
    blocks: tuple[tuple[float, float], ...]
    """from and to of every second block, to be shaded"""
    unit: str


def _shown(p: RunPoint, text: str) -> str:
    state = "" if p.counted else ", not counted"
    return f"run {p.number}, {p.run.side.value}: {text}{state}"


def run_picture(result: TrialResult, system: System) -> RunPicture | None:
    """None where no run has a figure."""
    row, with_value = result.row, [p for p in result.points if p.value is not None]
    if not with_value:
        return None
    unit = "s" if result.mark is not None else row.unit
    edges = [v for m in result.means.values() for v in (m.low, m.high) if v is not None]
    shown = [units.convert(v, unit, system) for v in [*edges, *(p.value for p in with_value if p.value is not None)]]
    ticks = nice_ticks(min(shown), max(shown), 5)

    def y_at(value: float) -> float:
        share = (units.convert(value, unit, system) - ticks[0]) / (ticks[-1] - ticks[0])
        return round(HEIGHT - BOTTOM - share * (HEIGHT - BOTTOM - TOP), 1)

    places = max(len(result.points), BLOCK)
    wide = (RUNS_TO - LEFT) / places

    def x_at(k: int) -> float:
        return round(LEFT + (k + 0.5) * wide, 1)

    dots = tuple(
        RunDot(
            x_at(k), y_at(p.value), p.run.side, p.counted, _shown(p, units.show(p.value, unit, system, row.decimals))
        )
        for k, p in enumerate(result.points)
        if p.value is not None
    )
    means = tuple(
        _bar(side, m, y_at, units.show(m.mean, unit, system, row.decimals))
        for side, m in result.means.items()
        if m.mean is not None
    )
    step = ticks[1] - ticks[0]
    decimals = 0 if step >= 1 else 1 if step >= 0.1 else 2
    marks = tuple(AxisMark(y_at(units.stored(t, unit, system)), f"{t:.{decimals}f}") for t in ticks)
    blocks = tuple((round(LEFT + k * wide, 1), round(BLOCK * wide, 1)) for k in range(BLOCK, places, 2 * BLOCK))
    return RunPicture(dots, means, marks, blocks, units.sign(unit, system))


def _bar(side: Side, m: SideMean, y_at: Callable[[float], float], text: str) -> MeanBar:
    assert m.mean is not None
    low, high = (None if v is None else y_at(v) for v in (m.low, m.high))
    return MeanBar(MEANS[side], y_at(m.mean), low, high, side, f"{side.value}: {text}, {m.runs} runs")
