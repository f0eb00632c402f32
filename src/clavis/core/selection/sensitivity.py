"""Where a school's pick flips: at which rider's mass, at how much more or less slope, and whether rain does it.

Each question is asked of the whole catalogue again.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import planned_load
from clavis.core.evaluation.margins import demand_of
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.evaluation.situation import Extremes, Situation, situation_of
from clavis.core.evaluation.view_conditions import ViewConditions, Wetness, is_wet, under
from clavis.core.fit.mounting import Mounting
from clavis.core.job.document import Job, School
from clavis.core.parts.mounts import End
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Prepared, Stack, prepare, scales_of, stacks_of
from clavis.core.selection.schools import Candidate, SchoolRow, row_of_school

Array = NDArray[np.float64]


class Turn(StrEnum):
    """What is turned until the pick flips."""

    MASS = "rider's mass"
    SLOPE = "slope of the ride"
    RAIN = "rain"


@dataclass(frozen=True)
class TurnRow:
    """How far one thing is turned either way of what it is, in which steps, and how finely a flip is found."""

    turn: Turn
    down: float
    up: float
    step: float
    fine: float


TURNS: tuple[TurnRow, ...] = (
    TurnRow(Turn.MASS, -40.0, 60.0, 10.0, 1.0),  # kg
    TurnRow(Turn.SLOPE, -0.5, 0.6, 0.1, 0.01),  # share of every gradient
)
LIGHTEST_RIDER_KG = 25.0


@dataclass(frozen=True)
class Flip:
    """From ``at`` on (kg of the rider, or the steepest slope of the ride in percent) the school takes ``after``; for
    rain there is no number. ``more`` says which way."""

    turn: Turn
    at: float | None
    more: bool
    after: Candidate


@dataclass(frozen=True)
class Stays:
    """So far the pick was looked for and stays, in the unit of the turn; None where rain changes nothing."""

    turn: Turn
    at: float | None
    more: bool


@dataclass(frozen=True)
class Flips:
    """A school's pick for one wheel as things are, and what changes it."""

    school: SchoolRow
    pick: Candidate
    now: Mapping[Turn, float]
    flips: tuple[Flip, ...]
    stays: tuple[Stays, ...]


@dataclass(frozen=True)
class _Turning:
    """A job with its tracks, and what does not turn with them."""

    job: Job
    tracks: Mapping[str, Track]
    prepared: Prepared
    stacks: tuple[Stack, ...]
    setups: Mapping[End, WheelSetup]
    elsewhere: Extremes

    def pick(self, job: Job, tracks: Mapping[str, Track], row: SchoolRow) -> Candidate | None:
        """The school's pick for this job; None where it cannot be computed."""
        try:
            situation = situation_of(job)
            if not isinstance(situation, Situation) or job.ride is None:
                return None
            situation = replace(situation, elsewhere=self.elsewhere)
            load = planned_load(job.ride, situation, tracks, self.setups)
            demand = demand_of(job, situation, load)
            scales = scales_of(self.prepared, situation, demand, load, job.wishes.wants, self.stacks)
            standings = scales.standings()
            first = min(range(len(standings)), key=lambda k: row.key(standings[k]))
            return scales.candidate(first, standings[first], frozenset())
        except ClavisError:
            return None


def heavier(job: Job, tracks: Mapping[str, Track], by_kg: float) -> tuple[Job, Mapping[str, Track]]:
    mass = (job.rider.mass_kg or 0.0) + by_kg
    return job.model_copy(update={"rider": job.rider.model_copy(update={"mass_kg": mass})}), tracks


def steeper(job: Job, tracks: Mapping[str, Track], by_ratio: float) -> tuple[Job, Mapping[str, Track]]:
    """The decisive ride with every gradient that much greater; its length and speeds stay."""
    ride, factor = job.ride, 1 + by_ratio
    if ride is None:
        return job, tracks
    if ride.track_id is not None:
        track = tracks[ride.track_id]
        top = track.elevation_m[0]
        raised = replace(track, elevation_m=top + (track.elevation_m - top) * factor)
        return job, {**tracks, ride.track_id: raised}
    sections = tuple(s.model_copy(update={"gradient_pct": s.gradient_pct * factor}) for s in ride.sections)
    other = ride.model_copy(update={"sections": sections})
    return job.model_copy(update={"rides": tuple(other if r is ride else r for r in job.rides)}), tracks


_TURNED: dict[Turn, Callable[[Job, Mapping[str, Track], float], tuple[Job, Mapping[str, Track]]]] = {
    Turn.MASS: heavier,
    Turn.SLOPE: steeper,
}


def flips_of(
    job: Job,
    mounting: Mounting,
    school: School,
    setups: Mapping[End, WheelSetup],
    elsewhere: Extremes,
    tracks: Mapping[str, Track],
    report: Callable[[int, int], None] = lambda _done, _total: None,
) -> Flips | None:
    """Where the pick of one school flips. ``setups`` are what the ride is planned with. None without a candidate."""
    row = row_of_school(school)
    situation = situation_of(job)
    prepared = prepare(job, mounting)
    if not isinstance(situation, Situation) or not prepared.setups:
        return None
    case = _Turning(job, tracks, prepared, stacks_of(prepared, situation), setups, elsewhere)
    pick = case.pick(job, tracks, row)
    if pick is None:
        return None
    most = sum(round((t.up - t.down) / t.step) + 2 * 4 for t in TURNS) + 1
    asked = 0

    def differs(turn: Turn, by: float) -> Candidate | None:
        """Another pick than the present one when turned ``by``; None where it is the same. Raises ClavisError where it
        cannot be told."""
        nonlocal asked
        asked += 1
        report(min(asked, most), most)
        found = case.pick(*_TURNED[turn](job, tracks, by), row)
        if found is None:
            raise ClavisError("this cannot be computed")
        return found if found.heat_ids != pick.heat_ids else None

    now = {Turn.MASS: job.rider.mass_kg or 0.0, Turn.SLOPE: steepest_pct(job, case)}
    flips: list[Flip] = []
    stays: list[Stays] = []
    for t in TURNS:
        for reach in (t.down, t.up):
            at, after = _first_flip(partial(differs, t.turn), _within(t.turn, reach, now), t.step, t.fine)
            told = now[t.turn] + at if t.turn is Turn.MASS else now[t.turn] * (1 + at)
            if after is None:
                stays.append(Stays(t.turn, told, reach > 0))
            else:
                flips.append(Flip(t.turn, told, reach > 0, after))
    wet = is_wet(job)
    other = case.pick(under(job, ViewConditions(Wetness.DRY if wet else Wetness.WET)), tracks, row)
    if other is not None and other.heat_ids != pick.heat_ids:
        flips.append(Flip(Turn.RAIN, None, not wet, other))
    elif other is not None:
        stays.append(Stays(Turn.RAIN, None, not wet))
    return Flips(row, pick, now, tuple(flips), tuple(stays))


def _within(turn: Turn, reach: float, now: Mapping[Turn, float]) -> float:
    """As far as a turn may go: no rider is made lighter than any rides."""
    return max(reach, LIGHTEST_RIDER_KG - now[turn]) if turn is Turn.MASS and reach < 0 else reach


def _first_flip(
    differs: Callable[[float], Candidate | None], reach: float, step: float, fine: float
) -> tuple[float, Candidate | None]:
    """The least turn towards ``reach`` at which the pick differs, to ``fine``, and what it is then; or how far it was
    found to be the same, and None. The search ends where nothing can be told any more."""
    way = 1.0 if reach > 0 else -1.0
    same = 0.0
    try:
        while abs(same) < abs(reach) - 1e-9:
            at = way * min(abs(same) + step, abs(reach))
            found = differs(at)
            if found is not None:
                while abs(at - same) > fine + 1e-9:
                    middle = (at + same) / 2
                    nearer = differs(middle)
                    if nearer is None:
                        same = middle
                    else:
                        at, found = middle, nearer
                return at, found
            same = at
    except ClavisError:
        return same, None
    return same, None


def steepest_pct(job: Job, case: _Turning) -> float:
    """The steepest slope of the decisive ride, %."""
    situation = situation_of(job)
    if job.ride is None or not isinstance(situation, Situation):
        return 0.0
    return planned_load(job.ride, situation, case.tracks, case.setups).steepest * 100
