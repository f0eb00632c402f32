"""Timed readings of a rotor that stands: what it really was, what it was at the stop, and what is wrong with readings
that are no single decay (docs/model.md, section 8)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from math import sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.job.document import Job
from clavis.core.job.trials import HeatSet, TimedReading
from clavis.core.parameters import NINETY_PERCENT_Z
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node, cooled_s, cooling_course
from clavis.core.physics.infrared import SURFACES, Corrected, corrected
from clavis.core.physics.road import Track
from clavis.core.proving.calibration import AtStop, Calibration, HeatGroup, HeatReading, at_stop, calibrate
from clavis.core.proving.prediction import SidePrediction, side_on_ride, with_ambient
from clavis.core.sentences import NOTHING, Words, say

Array = NDArray[np.float64]

SCATTER_K = 4.0
"""of one reading: spot, holes, an uneven ring (judged; one standard deviation)"""
SCATTER_RATIO = 0.025
"""and of its rise above the air, for the hand's delay while it cools (judged)"""
RISES_SIGMAS = 3.0
"""a reading above the one before it by more than so much of their doubt is no cooling"""
ODD_RATIO = 1.5
"""mean square of the residuals, in their own doubt, at which the rest of the readings agree"""
FEWEST = 2
"""readings of a wheel from which a course is told"""


@dataclass(frozen=True)
class CorrectedReading:
    """A reading with the rotor behind it: best figure and the range of the surface's emissivity."""

    reading: TimedReading
    rotor: Corrected

    @property
    def says_nothing(self) -> bool:
        """It lies below what the surface mirrors of its surroundings."""
        return self.rotor.true_c is None


def around_c(job: Job, heat_set: HeatSet) -> float:
    return job.conditions.ambient_c if heat_set.around_c is None else heat_set.around_c


def corrected_readings(job: Job, heat_set: HeatSet) -> tuple[CorrectedReading, ...]:
    """Every reading of a set, in its order."""
    surface, air = SURFACES[heat_set.read_on], around_c(job, heat_set)
    return tuple(
        CorrectedReading(r, corrected(r.read_c, surface, air, heat_set.set_to_ratio)) for r in heat_set.readings
    )


def _heat_reading(found: CorrectedReading, air_c: float) -> HeatReading | None:
    """A corrected reading with its doubt; None for one that is left out or says nothing."""
    true, low, high = found.rotor.true_c, found.rotor.low_c, found.rotor.high_c
    if found.reading.left_out or true is None:
        return None
    half = ((true if high is None else high) - (true if low is None else low)) / 2
    sigma = sqrt(SCATTER_K**2 + (SCATTER_RATIO * (true - air_c)) ** 2)
    return HeatReading(found.reading.end, found.reading.after_s, true, sigma, half / NINETY_PERCENT_Z)


class Suspect(StrEnum):
    """What may be wrong with readings that are no single decay."""

    MIRRORS = "mirrors"
    RISES = "rises"
    ODD_ONE = "odd_one"
    SWAPPED = "swapped"
    SURFACE = "surface"
    SPOT = "spot"


SUSPECT_WORDS: Mapping[Suspect, str] = {
    Suspect.MIRRORS: "{end}, {after_s:.0} after the stop: the surface mirrors its surroundings, the reading says nothing; a "
                     "dab of matt paint helps",
    Suspect.RISES: "{end}, {after_s:.0} after the stop: {by_k:.0} hotter than before; another spot, the other wheel, or a wrong "
                   "time",
    Suspect.ODD_ONE: "{end}, {after_s:.0} after the stop: without this one the others are one decay; another spot, or a wrong time",
    Suspect.SWAPPED: "with front and rear swapped the readings are one decay each: were the wheels written the wrong way round?",
    Suspect.SPOT: "a spot of {spot_mm:.0} on a track of {track_mm:.1}, {end}: it reads what is behind the rotor too, and too cold; "
                  "go nearer, or use a smaller one",
    Suspect.SURFACE: "the readings fall together otherwise than a rotor does: the paint burnt off, the spot larger than the track, "
                     "or the bike moved in the meantime",
}  # fmt: skip


@dataclass(frozen=True)
class WheelAtStop:
    """One wheel of a set: the rotor at the stop with its interval, or why it is not told."""

    end: End
    counted: int
    found: AtStop | None
    refused: Words
    suspects: tuple[Words, ...]


def _ordered(readings: Sequence[HeatReading]) -> list[HeatReading]:
    return sorted(readings, key=lambda r: r.after_stop_s)


def _rising(readings: Sequence[HeatReading]) -> list[Words]:
    out: list[Words] = []
    found = _ordered(readings)
    for before, after in pairwise(found):
        doubt = RISES_SIGMAS * sqrt(before.sigma_k**2 + after.sigma_k**2)
        if after.rotor_c - before.rotor_c > doubt:
            by_k = after.rotor_c - before.rotor_c
            out.append(say(SUSPECT_WORDS[Suspect.RISES], end=after.end.value, after_s=after.after_stop_s, by_k=by_k))
    return out


def _odd_ones(group: HeatGroup) -> list[Words]:
    """Readings without which the rest agree."""
    out: list[Words] = []
    if len(group.readings) <= FEWEST:
        return out
    for k, odd in enumerate(group.readings):
        rest = calibrate([group.of([*group.readings[:k], *group.readings[k + 1 :]])])
        if rest.chi_square_ratio < ODD_RATIO and not rest.refused:
            out.append(say(SUSPECT_WORDS[Suspect.ODD_ONE], end=odd.end.value, after_s=odd.after_stop_s))
    return out


def wheel_at_stop(group: HeatGroup, end: End) -> WheelAtStop:
    """One wheel by its own readings: the rotor at the stop, or the suspects where they are no single decay."""
    own = group.of([r for r in group.readings if r.end is end])
    if len(own.readings) < FEWEST:
        words = say(
            "{readings:reading|readings} that count; {least} are needed", readings=len(own.readings), least=FEWEST
        )
        return WheelAtStop(end, len(own.readings), None, words, ())
    if end not in group.setups:
        return WheelAtStop(end, len(own.readings), None, say("the parts of this wheel are not known"), ())
    found, rising = calibrate([own]), _rising(own.readings)
    if not found.refused and not rising:
        return WheelAtStop(end, len(own.readings), at_stop(found, own, end), NOTHING, ())
    suspects = rising or _odd_ones(own) or [say(SUSPECT_WORDS[Suspect.SURFACE])]
    return WheelAtStop(end, len(own.readings), None, say("no single decay: not worked back"), tuple(suspects))


@dataclass(frozen=True)
class HeatStudy:
    """A set of readings with everything that is told of it. ``group`` is None where the ride or the setup has no
    figures, and ``problem`` says why."""

    heat_set: HeatSet
    corrected: tuple[CorrectedReading, ...]
    group: HeatGroup | None
    problem: Words
    wheels: Mapping[End, WheelAtStop]

    @property
    def suspects(self) -> tuple[Words, ...]:
        mirrors = [
            say(SUSPECT_WORDS[Suspect.MIRRORS], end=c.reading.end.value, after_s=c.reading.after_s)
            for c in self.corrected
            if c.says_nothing and not c.reading.left_out
        ]
        return (*mirrors, *self._wide_spots(), *(s for w in self.wheels.values() for s in w.suspects))

    def _wide_spots(self) -> list[Words]:
        """Wheels whose track is narrower than what the thermometer sees."""
        spot_mm, setups = self.heat_set.spot_mm, {} if self.group is None else self.group.setups
        if spot_mm is None:
            return []
        words = SUSPECT_WORDS[Suspect.SPOT]
        return [
            say(words, spot_mm=spot_mm, track_mm=s.rotor.track_mm, end=end.value)
            for end, s in setups.items()
            if s.rotor.track_mm < spot_mm and _read(self.heat_set, end)
        ]

    @property
    def may_calibrate(self) -> bool:
        """Its readings are decays, and there are some."""
        return self.group is not None and bool(self.group.readings) and not self.suspects


def uncalibrated(job: Job) -> Job:
    """The job as the model has it before any calibration: readings are always held against that."""
    return job.model_copy(update={"calibration": None})


def group_of(job: Job, heat_set: HeatSet, side: SidePrediction, found: Sequence[CorrectedReading]) -> HeatGroup | None:
    """The set as the fit takes it; None where the ride has no load, or no wheel is known."""
    air = around_c(job, heat_set)
    readings = [r for c in found if (r := _heat_reading(c, air)) is not None]
    if side.setup is None or side.setup.load is None or side.situation is None:
        return None
    setups = {end: w.setup for end, w in side.setup.wheels.items()}
    known = tuple(r for r in readings if r.end in setups)
    return HeatGroup(with_ambient(side.situation, air), side.setup.load, setups, known) if setups else None


def heat_study(job: Job, heat_set: HeatSet, catalogue: Catalogue, tracks: Mapping[str, Track]) -> HeatStudy:
    """A set of readings, held against the uncalibrated model of the ride before it."""
    plain = uncalibrated(job)
    side = side_on_ride(plain, heat_set.ride_id, heat_set.setup, catalogue, tracks)
    found = corrected_readings(job, heat_set)
    group = group_of(job, heat_set, side, found)
    wheels = {} if group is None else {end: wheel_at_stop(group, end) for end in End if _read(heat_set, end)}
    return HeatStudy(heat_set, found, group, side.problem, wheels)


def _read(heat_set: HeatSet, end: End) -> bool:
    return any(r.end is end for r in heat_set.readings)


def exchanged(groups: Sequence[HeatGroup], found: Calibration) -> Words:
    """Whether refused readings would agree with front and rear exchanged: asked, never assumed."""
    other = {End.FRONT: End.REAR, End.REAR: End.FRONT}
    if not found.refused:
        return NOTHING
    swapped = [
        g.of([HeatReading(other[r.end], r.after_stop_s, r.rotor_c, r.sigma_k, r.band_k) for r in g.readings])
        for g in groups
    ]
    try:
        again = calibrate(swapped)
    except ClavisError:
        return NOTHING
    better = not again.refused and again.chi_square_ratio < found.chi_square_ratio / 2
    return say(SUSPECT_WORDS[Suspect.SWAPPED]) if better else NOTHING


@dataclass(frozen=True)
class CoolingFrom:
    """How one rotor cools from a given temperature: time s, rotor °C, and when it is back at COOL_C."""

    clock_s: Array
    rotor_c: Array
    cool_s: float | None
    stored_kj: float
    """of rotor and carrier above the air, at the start"""

    @property
    def cool_min(self) -> float | None:
        return None if self.cool_s is None else self.cool_s / 60


SAME_START_C = 150.0
LEAST_RISE_K = 5.0


def cooling_from(w: WheelResult, rotor_c: float, air_c: float) -> CoolingFrom | None:
    """One wheel's rotor cooling from a temperature that is not its ride's own; None where its ride hardly warms it."""
    if w.heat.end_c[Node.ROTOR] - air_c < LEAST_RISE_K:
        return None
    clock, course = cooling_course(w.nodes, w.heat.end_c, rotor_c, air_c)
    ratio = (rotor_c - air_c) / (w.heat.end_c[Node.ROTOR] - air_c)
    kept = w.node("rotor_capacity") * (w.heat.end_c[Node.ROTOR] - air_c)
    kept += w.node("carrier_capacity") * (w.heat.end_c[Node.CARRIER] - air_c)
    return CoolingFrom(clock, course, cooled_s(course, air_c), ratio * kept / 1000)
