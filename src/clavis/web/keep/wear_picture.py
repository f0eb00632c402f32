"""The picture of a part's wear: what was read, and the forecast with its interval down to the lines at which it is
planned for and replaced. Drawn on the server, in the picture's own units."""

from dataclasses import dataclass
from math import floor, log10

import numpy as np

from clavis.core import units
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import WearReading
from clavis.core.keeping.gauges import GAUGES
from clavis.core.keeping.wear_estimate import Crossing
from clavis.core.keeping.wear_state import WearState, passes
from clavis.core.units import System
from clavis.web.shell.plots import AxisMark, nice_ticks

WIDTH, HEIGHT = 560.0, 170.0
LEFT, RIGHT, TOP, BOTTOM = 46.0, 10.0, 8.0, 28.0
PLACES = 48
"""of the curves"""
BEYOND = 1.08
"""how far behind the late end of the interval the picture ends"""


@dataclass(frozen=True)
class ReadDot:
    """A reading with its gauge's doubt; ``passes`` is whether it counts as a thickness."""

    x: float
    y: float
    top: float
    bottom: float
    passes: bool
    words: str


@dataclass(frozen=True)
class LineMark:
    """A line at which something is to be done, and when it is reached."""

    y: float
    words: str
    low: float
    middle: float
    high: float


@dataclass(frozen=True)
class WearPicture:
    """``band`` and ``curve`` are paths; ``now`` is where the bike has come to today."""

    x_ticks: tuple[AxisMark, ...]
    y_ticks: tuple[AxisMark, ...]
    band: str
    curve: str
    dots: tuple[ReadDot, ...]
    lines: tuple[LineMark, ...]
    now: float | None
    x_unit: str


@dataclass(frozen=True)
class _Axis:
    low: float
    high: float
    start: float
    end: float

    def at(self, value: float) -> float:
        """Beyond the axis where the value is: the picture is cut off at its frame."""
        share = (value - self.low) / (self.high - self.low)
        return round(self.start + min(max(share, -1.0), 2.0) * (self.end - self.start), 1)


def _range(s: WearState) -> tuple[float, float] | None:
    """From where to where the picture goes, km."""
    found = s.estimate
    if found is None:
        return None
    begun = s.life.fitted.km if s.life.fitted is not None and s.life.fitted.km is not None else None
    known = [r.km for r in s.readings if r.km is not None]
    first = min([km for km in (begun, *known, found.at_km) if km is not None])
    last = s.replace.high_km * BEYOND if s.replace is not None else found.at_km
    last = max(last - first, 100.0) + first
    return first, last


def wear_picture(s: WearState, system: System) -> WearPicture | None:
    """None where no thickness is known. Thicknesses are in millimetres for everybody, as they are marked on parts."""
    reach = _range(s)
    if reach is None or s.estimate is None:
        return None
    first, last = reach
    km = np.linspace(s.estimate.at_km, last, PLACES)
    low, middle, high = s.estimate.band_mm(km)
    read_mm = [r.mm for r in s.readings]
    floor_mm = 0.0 if s.life.what is Renewal.PAD else min([s.replace_mm or 9.0, *read_mm]) - 0.1
    top_mm = max([*read_mm, float(high[0]), s.life.new_mm or 0.0]) + 0.05
    begins, ends = (units.convert(v, "km", system) for v in (first, last))
    x_ticks = nice_ticks(begins, ends, about=5)
    y_ticks = nice_ticks(floor_mm, top_mm, about=4)
    place = _WearFrame(
        _Axis(x_ticks[0], x_ticks[-1], LEFT, WIDTH - RIGHT),
        _Axis(y_ticks[0], y_ticks[-1], HEIGHT - BOTTOM, TOP),
        system,
    )
    upper = [place.at(a, b) for a, b in zip(km, high, strict=True)]
    lower = [place.at(a, b) for a, b in zip(km, low, strict=True)]
    places = max(0, -floor(log10(y_ticks[1] - y_ticks[0]) + 1e-9))
    return WearPicture(
        tuple(AxisMark(place.x.at(v), f"{v:,.0f}".replace(",", "\u202f")) for v in x_ticks),
        tuple(AxisMark(place.y.at(v), f"{v:.{places}f}") for v in y_ticks),
        _path([*upper, *reversed(lower)]) + "Z",
        _path([place.at(a, b) for a, b in zip(km, middle, strict=True)]),
        tuple(_dot(s, r, place) for r in s.readings if r.km is not None),
        tuple(
            _line(place, mm, words, crossing)
            for mm, words, crossing in ((s.plan_mm, "plan", s.plan), (s.replace_mm, "replace", s.replace))
            if mm is not None and crossing is not None
        ),
        place.at(s.now_km, 0.0)[0] if s.now_km is not None else None,
        units.sign("km", system),
    )


@dataclass(frozen=True)
class _WearFrame:
    x: _Axis
    y: _Axis
    system: System

    def at(self, km: float, mm: float) -> tuple[float, float]:
        return self.x.at(units.convert(km, "km", self.system)), self.y.at(mm)


def _line(place: _WearFrame, mm: float, words: str, crossing: Crossing) -> LineMark:
    low, middle, high = (place.at(km, mm)[0] for km in (crossing.low_km, crossing.middle_km, crossing.high_km))
    return LineMark(place.y.at(mm), words, low, middle, high)


def _dot(s: WearState, reading: WearReading, place: _WearFrame) -> ReadDot:
    gauge, km = GAUGES[reading.gauge], reading.km or 0.0
    x, y = place.at(km, reading.mm)
    top, bottom = (place.y.at(reading.mm + way * gauge.half_width_mm) for way in (1, -1))
    counted = passes(reading, s.life)
    words = f"{reading.day}: {units.millimetres(reading.mm, place.system, 2)}, {gauge.words}"
    return ReadDot(x, y, top, bottom, counted, words if counted else f"{words}; passes nothing")


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:g} {y:g}" for x, y in points)
