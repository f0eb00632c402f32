"""Pictures of cooling rotors: readings with their bands over the model before and after, and several rotors from one
start. Drawn on the server, in the picture's own units."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from clavis.core import units
from clavis.core.parts.mounts import End
from clavis.core.proving.temperatures import CoolingFrom, HeatStudy
from clavis.core.units import System
from clavis.web.shell.plots import AxisMark, nice_ticks

WIDTH, HEIGHT = 620.0, 260.0
LEFT, RIGHT, TOP, BOTTOM = 46.0, 14.0, 12.0, 34.0
Array = NDArray[np.float64]
SHOWN_AFTER_S = 600.0
POINTS = 60


@dataclass(frozen=True)
class BandDot:
    """A reading: the rotor behind it with the range of its emissivity, and what the instrument showed."""

    x: float
    y: float
    low: float
    high: float
    raw: float
    end: End
    counted: bool
    words: str


@dataclass(frozen=True)
class CourseLine:
    """One course; ``kind`` is *before*, *after* or *from_start*."""

    points: str
    end_y: float
    kind: str
    key: str
    words: str


@dataclass(frozen=True)
class HeatPicture:
    dots: tuple[BandDot, ...]
    lines: tuple[CourseLine, ...]
    x_ticks: tuple[AxisMark, ...]
    y_ticks: tuple[AxisMark, ...]


@dataclass(frozen=True)
class _Frame:
    """From seconds and °C to places."""

    to_s: float
    ticks: tuple[float, ...]
    system: System

    @classmethod
    def of(cls, to_s: float, temperatures_c: Sequence[float], system: System) -> "_Frame":
        shown = [units.convert(c, "c", system) for c in temperatures_c]
        return cls(to_s, tuple(nice_ticks(min([*shown, units.convert(0.0, "c", system)]), max(shown), 5)), system)

    def x(self, seconds: float) -> float:
        return round(LEFT + (WIDTH - LEFT - RIGHT) * min(seconds / self.to_s, 1.0), 1)

    def y(self, celsius: float) -> float:
        share = (units.convert(celsius, "c", self.system) - self.ticks[0]) / (self.ticks[-1] - self.ticks[0])
        return round(HEIGHT - BOTTOM - (HEIGHT - BOTTOM - TOP) * share, 1)

    def marks(self) -> tuple[tuple[AxisMark, ...], tuple[AxisMark, ...]]:
        minutes = nice_ticks(0.0, self.to_s / 60, 6)
        across = tuple(AxisMark(self.x(60 * t), f"{t:g}") for t in minutes if 60 * t <= self.to_s + 1)
        upward = tuple(AxisMark(self.y(units.stored(t, "c", self.system)), f"{t:.0f}") for t in self.ticks)
        return across, upward

    def line(self, clock: Array, rotor_c: Array, kind: str, key: str, words: str) -> CourseLine:
        seconds = np.linspace(0.0, self.to_s, POINTS)
        course = np.interp(seconds, clock, rotor_c)
        points = " ".join(f"{self.x(float(s)):g},{self.y(float(c)):g}" for s, c in zip(seconds, course, strict=True))
        return CourseLine(points, self.y(float(course[-1])), kind, key, words)


def reading_picture(
    study: HeatStudy, courses: Mapping[End, tuple[Array, Array, Array | None]], system: System
) -> HeatPicture:
    """Readings of a set over the model, before and, where there is one, after a calibration."""
    known = [c for c in study.corrected if c.rotor.true_c is not None]
    last = max([c.reading.after_s for c in known], default=0.0)
    edges = [c.rotor.high_c if c.rotor.high_c is not None else c.rotor.true_c for c in known]
    hottest = [float(v[0]) for _, before, after in courses.values() for v in (before, after) if v is not None]
    frame = _Frame.of(max(1.15 * last, 120.0), [*(e for e in edges if e is not None), *hottest], system)
    dots = []
    for c in known:
        true = c.rotor.true_c or 0.0
        low, high = c.rotor.low_c, c.rotor.high_c
        text = units.show(true, "c", system)
        raw = units.show(c.reading.read_c, "c", system)
        dots.append(
            BandDot(
                frame.x(c.reading.after_s), frame.y(true), frame.y(true if low is None else low),
                frame.y(true if high is None else high), frame.y(c.reading.read_c), c.reading.end,
                not c.reading.left_out,
                f"{c.reading.end.value}, {units.show(c.reading.after_s, 's', system, 0)}: {text} (showed {raw})",
            )
        )  # fmt: skip
    lines: list[CourseLine] = []
    for end, (clock, before, after) in courses.items():
        lines.append(frame.line(clock, before, "before", end.value, f"{end.value}, model"))
        if after is not None:
            lines.append(frame.line(clock, after, "after", end.value, f"{end.value}, calibrated"))
    return HeatPicture(tuple(dots), tuple(lines), *frame.marks())


def course_picture(found: Sequence[tuple[str, CoolingFrom]], system: System) -> HeatPicture:
    """Several rotors cooling from one temperature."""
    frame = _Frame.of(SHOWN_AFTER_S, [float(c.rotor_c[0]) for _, c in found], system)
    lines = [frame.line(c.clock_s, c.rotor_c, "from_start", str(k), words) for k, (words, c) in enumerate(found)]
    return HeatPicture((), tuple(lines), *frame.marks())
