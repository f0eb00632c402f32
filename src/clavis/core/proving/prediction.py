"""What the model expects of the two setups of a trial, before anybody rides.

Each side is evaluated on a job that rides nothing but the trial: the one way in which all figures come about."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from clavis.core.evaluation.evaluate import SetupName, SetupResult, WheelResult, evaluate
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Job, Proposal, Ride, SpeedFrom
from clavis.core.job.trials import Question, Side, Trial, TrialKind, TrialSide
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import Style
from clavis.core.physics.forces import Limiter
from clavis.core.physics.heat import cooled_s, standing_course
from clavis.core.physics.road import Section, Track
from clavis.core.proving.questions import QUESTIONS, TrialQuestion
from clavis.core.proving.statistics import deceleration_ms2
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Severity

STOP_ROAD_M = 250.0
"""road before the stop: none of it is braked"""
STANDS_S = 10.0
ALIKE_RATIO = 0.005
"""figures that differ by less of themselves are the same"""
CLEAR_EFFECT, LEAST_EFFECT = 1.0, 0.5
"""differences over the spread that eleven blocks of runs tell, and below which no day is long enough"""
MOST_TOLD = 2
_GRAVE = frozenset({Severity.STOP, Severity.FAILS, Severity.UNKNOWN})
GROUND = frozenset({Limiter.GRIP, Limiter.CONTROL, Limiter.PITCH_OVER})
"""what limits a stop and is not the brake's"""


def ride_of(job: Job, ride_id: str | None) -> Ride | None:
    """The named ride of a job, or its decisive one."""
    return next((ride for ride in job.rides if ride.id == ride_id), job.ride)


def _stop_ride(trial: Trial) -> Ride:
    section = Section(
        length_m=STOP_ROAD_M, gradient_pct=trial.gradient_pct, speed_kmh=trial.speed_kmh, stand_s=STANDS_S
    )
    return Ride(id="trial", name=trial.name, sections=(section,), laps=1)


def _dragged(ride: Ride, speed_kmh: float) -> Ride:
    """The same way at one steady speed."""
    sections = tuple(s.model_copy(update={"speed_kmh": speed_kmh, "corner_kmh": None}) for s in ride.sections)
    return ride.model_copy(update={"sections": sections, "speed_from": SpeedFrom.PLANNED, "hold_kmh": speed_kmh})


def trial_job(job: Job, trial: Trial) -> Job:
    """The job as one run of the trial rides it: its ride alone, its ground, its speed. Regeneration counts for nothing
    here: it is switched off for a trial."""
    conditions, rider = job.conditions, job.rider
    if trial.surface is not None:
        conditions = conditions.model_copy(update={"surface": trial.surface})
    ride, top_kmh = ride_of(job, trial.ride_id), job.bike.top_speed_kmh
    if trial.kind is TrialKind.STOP:
        ride, top_kmh = _stop_ride(trial), trial.speed_kmh
    elif ride is not None:
        ride = ride.model_copy(update={"laps": 1})
        if trial.kind is TrialKind.DRAG_DESCENT:
            ride, rider = _dragged(ride, trial.speed_kmh), rider.model_copy(update={"style": Style.DRAG})
    bike = job.bike.model_copy(update={"top_speed_kmh": top_kmh, "regen_share_pct": 0.0})
    rides = () if ride is None else (ride,)
    return job.model_copy(
        update={"conditions": conditions, "rider": rider, "bike": bike, "rides": rides, "decisive_ride": None}
    )


@dataclass(frozen=True)
class SidePrediction:
    """One setup in one run of the trial. ``setup`` is None where nothing can be told, and ``problem`` says why."""

    setup: SetupResult | None
    situation: Situation | None
    problem: Words = NOTHING

    @property
    def whole(self) -> bool:
        """Both wheels have figures."""
        return self.setup is not None and len(self.setup.wheels) == len(End)

    def wheel(self, end: End) -> WheelResult | None:
        return None if self.setup is None else self.setup.wheels.get(end)

    @property
    def pause_s(self) -> float | None:
        """Until both rotors are back at COOL_C, s; None where the hour does not bring them there, or nothing is
        known."""
        if self.setup is None or not self.setup.wheels:
            return None
        cool = [w.heat.cool_s for w in self.setup.wheels.values()]
        return None if any(s is None for s in cool) else max(s for s in cool if s is not None)


def predict_side(
    job: Job, trial: Trial, side: TrialSide, catalogue: Catalogue, tracks: Mapping[str, Track]
) -> SidePrediction:
    """One side of a trial, evaluated."""
    return _evaluated(trial_job(job, trial), side, catalogue, tracks)


def side_on_ride(
    job: Job, ride_id: str | None, side: TrialSide, catalogue: Catalogue, tracks: Mapping[str, Track]
) -> SidePrediction:
    """One setup on one of the job's rides as it is, or on the decisive one."""
    ride = ride_of(job, ride_id)
    own = job.model_copy(update={"rides": () if ride is None else (ride,), "decisive_ride": None})
    return _evaluated(own, side, catalogue, tracks)


def _evaluated(own: Job, side: TrialSide, catalogue: Catalogue, tracks: Mapping[str, Track]) -> SidePrediction:
    name = SetupName.FITTED
    if any(pick is not None for pick in side.picks.values()):
        name = SetupName.PROPOSED
        proposal = Proposal(front=side.front, rear=side.rear, bedded=True)
        own = own.model_copy(update={"proposal": proposal})
    found = evaluate(own, catalogue, tracks, names=(name,))
    setup = found.setups.get(name)
    if setup is None:
        lacks = joined([lack.words for lack in found.lacks], ", ")
        return SidePrediction(None, None, found.problem or say("still needed: {lacks}", lacks=lacks))
    if len(setup.wheels) < len(End):
        grave = [p.told for end in End if end not in setup.wheels for p in setup.points_of(end) if p.severity in _GRAVE]
        return SidePrediction(setup, found.situation, joined(grave[:MOST_TOLD], "; ") or say("a wheel is not known"))
    return SidePrediction(setup, found.situation)


def _cooling_s(w: WheelResult, situation: Situation, trial: Trial) -> float | None:
    """From the first reading to the second, standing still after the ride, s; None where the ride does not heat the
    rotor to the first, or the hour does not cool it to the second."""
    air_c = situation.weather.ambient_c
    _, rotor_c = standing_course(w.nodes, w.steps, air_c)
    if rotor_c[0] < trial.from_c:
        return None
    first, second = (cooled_s(rotor_c, air_c, c) for c in (trial.from_c, trial.to_c))
    return None if first is None or second is None else second - first


def _read_c(w: WheelResult, situation: Situation, trial: Trial) -> float:
    """The rotor when it is read, standing still since the stop, °C."""
    clock, rotor_c = standing_course(w.nodes, w.steps, situation.weather.ambient_c)
    return float(np.interp(trial.after_s, clock, rotor_c))


def _value(question: Question, trial: Trial, side: SidePrediction) -> float | None:
    """What one run of this side should read; None where the model does not know."""
    if not side.whole or side.setup is None or side.situation is None:
        return None
    setup, end = side.setup, trial.end or End.FRONT
    if question is Question.STOPS_SHORTER:
        stop = setup.stop_steep if trial.gradient_pct else setup.stop_flat
        return None if stop is None else (trial.speed_kmh / KMH_PER_MS) ** 2 / (2 * stop.decel_ms2)
    if question is Question.RUNS_COOLER:
        return _read_c(setup.wheels[end], side.situation, trial)
    if question is Question.COOLS_FASTER:
        return _cooling_s(setup.wheels[end], side.situation, trial)
    if question is Question.LESS_HAND:
        forces = setup.wheels[end].forces
        return forces.finger_target_n if trial.kind is TrialKind.STOP else forces.finger_drag_n
    return None if setup.load is None else float(setup.load.time_s[-1])


@dataclass(frozen=True)
class Expected:
    """What the model expects of one question: both figures, and what is to be said of them."""

    row: TrialQuestion
    a: float | None
    b: float | None
    blind: bool
    """the model knows the figure and nothing of a difference"""
    why_alike: Words
    spread: float | None
    """of one run to the next, in the unit of the figure"""

    @property
    def difference(self) -> float | None:
        """B less A; None where the model does not know."""
        return None if self.blind or self.a is None or self.b is None else self.b - self.a

    @property
    def effect(self) -> float:
        """Difference over spread: how well a test could show it."""
        if self.difference is None or not self.spread or self.why_alike:
            return 0.0
        return abs(self.difference) / self.spread

    @property
    def matters(self) -> float | None:
        """A smallest difference that matters, to begin with."""
        mean = _mean(self.a, self.b)
        return None if mean is None else self.row.matters_ratio * mean


def _mean(a: float | None, b: float | None) -> float | None:
    known = [v for v in (a, b) if v is not None]
    return sum(known) / len(known) if known else None


def told_difference(row: TrialQuestion, difference: float) -> Sentence:
    """A difference B less A in the question's words.

    >>> str(told_difference(QUESTIONS[Question.STOPS_SHORTER], -1.25)).replace(chr(160), " ")
    'B stops 1.25 m shorter'
    """
    return say(row.less if difference <= 0 else row.more, **{f"by_{row.difference_unit}": abs(difference)})


@dataclass(frozen=True)
class Prediction:
    """Both sides of a trial as the model sees them."""

    job: Job
    trial: Trial
    sides: Mapping[Side, SidePrediction]

    @property
    def problem(self) -> Words:
        """Why nothing can be told, of the first side of which that is so."""
        for side, found in self.sides.items():
            if found.problem:
                return say(
                    "{side}, {name}: {problem}", side=side.value, name=self.trial.of(side).name, problem=found.problem
                )
        return NOTHING

    def expected(self, question: Question) -> Expected:
        """What is expected of a question when one run is ridden as this trial has it."""
        row = QUESTIONS[question]
        a, b = (_value(question, self.trial, self.sides[side]) for side in Side)
        mean = _mean(a, b)
        if question is Question.RUNS_COOLER and mean is not None:
            mean -= self.job.conditions.ambient_c
        spread = self.trial.spread if question is self.trial.question else None
        if spread is None and mean is not None:
            spread = max(row.spread_ratio * abs(mean), row.least_spread)
        return Expected(row, a, b, question is Question.GOES_QUICKER, self._why_alike(question, a, b), spread)

    @cached_property
    def of_question(self) -> Expected:
        return self.expected(self.trial.question)

    def limited_by(self, side: Side) -> Mapping[End, Limiter]:
        """What gives first in the stop, wheel by wheel; nothing where there is none."""
        setup = self.sides[side].setup
        stop = None if setup is None else setup.stop_steep if self.trial.gradient_pct else setup.stop_flat
        return {} if stop is None else stop.limited_by

    def _why_alike(self, question: Question, a: float | None, b: float | None) -> Words:
        """Why no number of runs would show a difference; nothing where one is expected, or not known."""
        if a is None or b is None or question is Question.GOES_QUICKER:
            return NOTHING
        limits = [limiter for side in Side for limiter in self.limited_by(side).values()]
        if question is Question.STOPS_SHORTER and limits and all(limiter in GROUND for limiter in limits):
            words = "tyre and ground limit the stop with both: no number of stops will show a difference"
            return say(words)
        if abs(a - b) <= ALIKE_RATIO * max(abs(a), abs(b)):
            return say("the model expects the same of both: no number of runs will show a difference")
        return NOTHING

    @cached_property
    def instead(self) -> Expected | None:
        """A question of the same runs that would tell the two apart better, where the one that is asked hardly does."""
        own = self.of_question
        if own.effect > CLEAR_EFFECT:
            return None
        others = [
            self.expected(key) for key, row in QUESTIONS.items()
            if key is not self.trial.question and self.trial.kind in row.kinds
        ]  # fmt: skip
        best = max(others, key=lambda e: e.effect, default=None)
        return best if best is not None and best.effect > max(2 * own.effect, LEAST_EFFECT) else None


def predict(job: Job, trial: Trial, catalogue: Catalogue, tracks: Mapping[str, Track]) -> Prediction:
    """Both sides of a trial."""
    sides = {side: predict_side(job, trial, trial.of(side), catalogue, tracks) for side in Side}
    return Prediction(job, trial, sides)


def same_speed_m(distance_m: float, speed_kmh: float, wanted_kmh: float) -> float:
    """A stopping distance brought to the speed that was wanted at the line: the deceleration stays, d = v²/(2 a).

    >>> round(same_speed_m(6.0, 26.0, 25.0), 2)
    5.55
    """
    decel_ms2 = deceleration_ms2(speed_kmh / KMH_PER_MS, distance_m)
    return (wanted_kmh / KMH_PER_MS) ** 2 / (2 * decel_ms2)


def with_ambient(situation: Situation, ambient_c: float) -> Situation:
    """The same in other air, °C."""
    return replace(situation, weather=replace(situation.weather, ambient_c=ambient_c))
