"""Every part that wears, as it stands today: what was read, what is left, when its lines are crossed, what to do."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from clavis.core.dates import as_date, date, weeks_after
from clavis.core.evaluation.condition_readings import PAD_GONE_MM, PAD_PLAN_MM, PAD_REPLACE_MM
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import WEARS, KeptBike, PartLife, WearReading
from clavis.core.keeping.distance import WeeklyDistance, distance_on, week_quantile, weekly_distance
from clavis.core.keeping.gauges import GAUGES
from clavis.core.keeping.wear_estimate import (
    HIGH,
    LOW,
    NO_MODEL,
    TYPICAL_MM_PER_KM,
    Belief,
    Crossing,
    ExpectedWear,
    Read,
    WearEstimate,
    WearPace,
    estimate,
    sigma_of,
)
from clavis.core.parts.mounts import End

ROTOR_PLAN_MM = 0.10
"""a rotor is planned for when this much is left above its minimum; judged"""
NEW_HALF_WIDTH_MM = {Renewal.PAD: 0.08, Renewal.ROTOR: 0.03}
"""of a part as it left its maker; judged"""
FARTHEST_WEEKS = 520.0
_Z_OF_WEEK = (-1.2816, -0.5244, 0.0, 0.5244, 1.2816)
"""quantiles of the weekly distance over which a date is told: 10, 30, 50, 70, 90 %"""


class WearNeed(StrEnum):
    """What a part asks for, gravest first."""

    UNSAFE = "unsafe"
    REPLACE = "replace"
    PLAN = "plan"
    ASK = "ask"
    WATCH = "watch"


@dataclass(frozen=True)
class Lines:
    """Where the workshop plans and where it replaces pads, mm of material; a maker's own limit stands above both."""

    plan_mm: float = PAD_PLAN_MM
    replace_mm: float = PAD_REPLACE_MM


USUAL = Lines()


@dataclass(frozen=True)
class Months:
    """Between which days something is to be expected, to be told as months."""

    low: date
    middle: date
    high: date


@dataclass(frozen=True)
class WearState:
    """One part of one wheel. Figures are None where they cannot be told."""

    life: PartLife
    readings: tuple[WearReading, ...]
    estimate: WearEstimate | None
    plan_mm: float | None
    replace_mm: float | None
    plan: Crossing | None
    replace: Crossing | None
    replace_by: Months | None
    now_km: float | None
    """how far the bike has gone today, as far as it is known"""
    need: WearNeed
    modelled: bool
    """the model speaks of it; else what parts usually do"""

    @property
    def newest(self) -> WearReading | None:
        return self.readings[-1] if self.readings else None

    @property
    def left_km(self) -> Crossing | None:
        """From today to where it is replaced, km."""
        if self.replace is None or self.now_km is None:
            return None
        return Crossing(*(max(km - self.now_km, 0.0) for km in (
            self.replace.low_km, self.replace.middle_km, self.replace.high_km)))  # fmt: skip

    @property
    def now_mm(self) -> tuple[float, float, float] | None:
        """What is on it today: low, middle, high."""
        if self.estimate is None or self.now_km is None:
            return None
        low, middle, high = self.estimate.band_mm(np.array([self.now_km]))[:, 0]
        return float(low), float(middle), float(high)


def lines_of(life: PartLife, lines: Lines) -> tuple[float | None, float | None]:
    """Where a part is planned for and where it is replaced, mm; None where its limit is not known."""
    if life.what is Renewal.PAD:
        replace_mm = max(lines.replace_mm, life.replace_mm or 0.0)
        return max(lines.plan_mm, replace_mm), replace_mm
    return (None, None) if life.replace_mm is None else (life.replace_mm + ROTOR_PLAN_MM, life.replace_mm)


def passes(reading: WearReading, life: PartLife) -> bool:
    """Whether a reading may be counted as a thickness. A vernier bridges a worn rotor's hollow: it passes nothing."""
    return not (life.what is Renewal.ROTOR and GAUGES[reading.gauge].bridges)


def condemns(reading: WearReading, life: PartLife) -> bool:
    """Whether a reading by itself says that the part must not be ridden: at the backing plate, or below the minimum."""
    if life.what is Renewal.PAD:
        return reading.mm <= PAD_GONE_MM
    return life.replace_mm is not None and reading.mm < life.replace_mm


def condemned_by(readings: Sequence[WearReading], life: PartLife) -> WearReading | None:
    """The newest reading that condemns a part; it stands until one that may pass a part says otherwise."""
    for reading in reversed(readings):
        if condemns(reading, life):
            return reading
        if passes(reading, life):
            return None
    return None


def _expected_of_rotor(bike: KeptBike, life: PartLife, from_km: float) -> tuple[WearPace, ...]:
    """The rotor's expected wear under each of the pads that ran on it."""
    pads = [x for x in bike.lives if x.what is Renewal.PAD and x.end is life.end and x.rotor_mm_per_km]
    found = []
    for pad in pads:
        begins = pad.fitted.km if pad.fitted is not None else None
        ended = pad.removed.km if pad.removed is not None else None
        if ended is not None and ended <= from_km:
            continue
        if begins is None and pad.fitted is not None:
            continue  # nobody wrote down at which distance these came
        found.append(WearPace(max(begins or 0.0, from_km), pad.rotor_mm_per_km or 0.0))
    return tuple(sorted(found, key=lambda s: s.from_km))


def expected_of(bike: KeptBike, life: PartLife, from_km: float) -> tuple[ExpectedWear, bool]:
    """What the model expects of a part, and whether it speaks at all."""
    stretches = _expected_of_rotor(bike, life, from_km) if life.what is Renewal.ROTOR else ()
    if not stretches and life.expected_mm_per_km is not None:
        stretches = (WearPace(from_km, life.expected_mm_per_km),)
    if stretches:
        return ExpectedWear(stretches), True
    return ExpectedWear((WearPace(from_km, TYPICAL_MM_PER_KM[life.what]),)), False


def _km_of(day: str, km: float | None, bike: KeptBike, weekly: WeeklyDistance | None) -> float | None:
    return km if km is not None else distance_on(bike, as_date(day), weekly)


def _estimate_of(
    bike: KeptBike, life: PartLife, weekly: WeeklyDistance | None, prior: Belief
) -> tuple[WearEstimate | None, bool]:
    began = life.fitted
    from_km = _km_of(began.day, began.km, bike, weekly) if began is not None else None
    expected, modelled = expected_of(bike, life, from_km or 0.0)
    start = None
    if life.new_mm is not None and from_km is not None:
        start = Read(from_km, life.new_mm, sigma_of(NEW_HALF_WIDTH_MM[life.what]))
    reads = [
        Read(km, r.mm, sigma_of(GAUGES[r.gauge].half_width_mm))
        for r in bike.read_of(life)
        if passes(r, life) and (km := _km_of(r.day, r.km, bike, weekly)) is not None
    ]
    reads = [r for r in sorted(reads, key=lambda r: r.km) if from_km is None or r.km >= from_km]
    believed = prior if modelled else Belief(prior.mean, NO_MODEL.variance)
    return estimate(expected, from_km or 0.0, start, reads, believed), modelled


def _same_kind(a: PartLife, b: PartLife) -> bool:
    """Of the same compound, or the same model of rotor: what was learnt of one holds for the other."""
    return a.compound == b.compound if a.what is Renewal.PAD else a.part_id == b.part_id


def _prior(bike: KeptBike, life: PartLife, weekly: WeeklyDistance | None) -> Belief:
    """What the parts that were there before say of this one."""
    belief, last = Belief(), None
    for earlier in (x for x in bike.lives if x.end is life.end and x.what is life.what):
        if earlier.id == life.id:
            break
        prior = belief.carried(last is not None and _same_kind(last, earlier)) if last is not None else belief
        found, modelled = _estimate_of(bike, earlier, weekly, prior)
        if found is None or not modelled or found.readings == 0:
            continue
        belief, last = found.belief, earlier
    return belief if last is None else belief.carried(_same_kind(last, life))


def _months(found: WearEstimate, line_mm: float, now_km: float, weekly: WeeklyDistance, today: date) -> Months:
    """When a line is crossed, over what is not known of the wear and of the week."""
    weeks = np.linspace(0.0, FARTHEST_WEEKS, 131)
    below = np.zeros_like(weeks)
    for z in _Z_OF_WEEK:
        km = now_km + week_quantile(weekly, z) * weeks
        below += found.chances_below(line_mm, km) / len(_Z_OF_WEEK)
    days = [weeks_after(today, float(np.interp(share, below, weeks))) for share in (LOW, 0.5, HIGH)]
    return Months(*days)


def _need(life: PartLife, readings: Sequence[WearReading], replace_mm: float | None, found: WearEstimate | None,
          now_km: float | None, plan_mm: float | None) -> WearNeed:  # fmt: skip
    newest = readings[-1] if readings else None
    if condemned_by(readings, life) is not None:
        return WearNeed.UNSAFE
    if replace_mm is None or plan_mm is None:
        return WearNeed.ASK
    counted = [r for r in readings if passes(r, life)]
    if counted and counted[-1].mm <= replace_mm:
        return WearNeed.REPLACE
    if found is None:
        return WearNeed.ASK
    km = max(now_km or 0.0, found.at_km)
    if found.chance_below(replace_mm, km) >= 0.5:
        return WearNeed.REPLACE
    if found.chance_below(plan_mm, km) >= 0.5:
        return WearNeed.PLAN
    unread = newest is not None and not passes(newest, life)  # what it showed moves nothing, up or down
    return WearNeed.ASK if unread else WearNeed.WATCH


def wear_state(bike: KeptBike, life: PartLife, today: date, lines: Lines = USUAL) -> WearState:
    """One part as it stands today. Raises ValueError for a part without a thickness."""
    if life.what not in WEARS:
        raise ValueError(f"a {life.what.value} has no thickness")
    weekly = weekly_distance(bike)
    readings = bike.read_of(life)
    found, modelled = _estimate_of(bike, life, weekly, _prior(bike, life, weekly))
    plan_mm, replace_mm = lines_of(life, lines)
    now_km = distance_on(bike, today, weekly)
    if now_km is None and found is not None:
        now_km = found.at_km  # the last that is known
    plan = replace = None
    replace_by = None
    if found is not None and replace_mm is not None and plan_mm is not None:
        plan, replace = found.crossing(plan_mm), found.crossing(replace_mm)
        if weekly is not None and now_km is not None:
            replace_by = _months(found, replace_mm, now_km, weekly, today)
    need = _need(life, readings, replace_mm, found, now_km, plan_mm)
    return WearState(life, readings, found, plan_mm, replace_mm, plan, replace, replace_by, now_km, need, modelled)


def wear_states(bike: KeptBike, today: date, lines: Lines = USUAL) -> tuple[WearState, ...]:
    """Every pad pair and rotor that is on the bike, front first, pads first."""
    return tuple(wear_state(bike, life, today, lines) for life in _open(bike))


def _open(bike: KeptBike) -> Iterator[PartLife]:
    for end in End:
        for what in WEARS:
            life = bike.on_it(end, what)
            if life is not None:
                yield life
