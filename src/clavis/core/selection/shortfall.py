"""What would hold where nothing in the catalogue does: a third brake, pulse braking, stops to cool, two fingers, less
luggage, a lower top speed."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from clavis.core.evaluation.evaluate import planned_load, wheel_result
from clavis.core.evaluation.margins import demand_of
from clavis.core.evaluation.open_points import Matter
from clavis.core.evaluation.situation import Situation, load_of_ride, situation_of
from clavis.core.job.document import HandSize, Job, Skill
from clavis.core.physics.bike import BikeKind
from clavis.core.physics.descent import BrakeLoad, Style, rested
from clavis.core.physics.forces import hand_of
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Choice
from clavis.core.selection.schools import HEAT_MARGINS, Candidate
from clavis.core.sentences import Words
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import RANK, Verdict

COOLABLE = HEAT_MARGINS | {"reserve"}
"""margins that less heat widens"""
THIRD_SHARES = tuple(k / 20 for k in range(2, 17))
MOST_STOPS, REST_S = 6, 600.0
BOTH_FINGERS = 2
BY_KMH = 5
LIGHTER_KG = tuple(float(k) for k in range(5, 65, 5))


class RemedyKind(StrEnum):
    THIRD_BRAKE = "a third brake"
    PULSE = "pulse braking"
    STOPS = "stops to cool"
    FINGERS = "two fingers on the lever"
    LIGHTER = "less luggage"
    SLOWER = "never faster than"
    TOGETHER = "all of it together"


@dataclass(frozen=True)
class Remedy:
    """One thing that is not a part of this wheel, and what it brings the best candidate to. ``amount`` is a share of
    the braking %, a number of stops, kg left at home, or km/h; ``power_w`` what a third brake has to turn into heat."""

    kind: RemedyKind
    verdict: Verdict
    smallest: float
    amount: float | None = None
    power_w: float | None = None

    @property
    def smallest_pct(self) -> float:
        return self.smallest * 100


@dataclass(frozen=True)
class Shortfall:
    """No candidate holds: the best there is, what it lacks, and what would help. ``uncoolable`` names what less heat
    does not mend: another limit, or something that is not known."""

    best: Candidate
    tight: int
    remedies: tuple[Remedy, ...]
    uncoolable: Words = ""

    @property
    def enough(self) -> bool:
        return any(r.verdict is Verdict.HOLDS for r in self.remedies)


def _fails_beside_heat(candidate: Candidate) -> bool:
    """Whether anything fails that less heat does not mend."""
    return bool(candidate.fails - COOLABLE) or candidate.open_before is Verdict.FAILS


def _uncoolable(candidate: Candidate) -> Words:
    """The gravest thing about it that less heat does not mend; empty where there is none."""
    failing = (p for p in candidate.points if p.grave and not (p.matter is Matter.RIDE and p.code in COOLABLE))
    return next((p.words for p in failing), "")


def shortfall_of(
    job: Job,
    situation: Situation,
    load: BrakeLoad,
    choice: Choice,
    tracks: Mapping[str, Track],
    pause: Callable[[], None] = lambda: None,
) -> Shortfall | None:
    """None where a candidate holds, or where there is none at all."""
    if not choice.candidates or any(c.verdict is Verdict.HOLDS for c in choice.candidates):
        return None
    best = min(choice.candidates, key=lambda c: (_fails_beside_heat(c), RANK[c.verdict], -c.smallest, c.price))
    tight = sum(c.verdict is Verdict.TIGHT for c in choice.candidates)
    hard = best.why if best.verdict is Verdict.UNKNOWN else _uncoolable(best)
    if hard:
        return Shortfall(best, tight, (), hard)
    case = _RemedyCase(job, best, tracks, situation, load, pause)
    return Shortfall(best, tight, tuple(_remedies(case)))


@dataclass(frozen=True)
class _RemedyCase:
    """One candidate under a situation and over a way, and the job they come from."""

    job: Job
    candidate: Candidate
    tracks: Mapping[str, Track]
    situation: Situation
    load: BrakeLoad
    pause: Callable[[], None]

    def told(self, kind: RemedyKind, amount: float | None = None, power_w: float | None = None) -> Remedy:
        self.pause()
        demand = demand_of(self.job, self.situation, self.load)
        standing = [p for p in self.candidate.points if p.matter is not Matter.RIDE]
        found = wheel_result(self.candidate.setup, self.situation, demand, self.load, standing)
        return Remedy(kind, found.verdict, found.smallest, amount, power_w)


CARRIES_A_THIRD = frozenset({BikeKind.TANDEM, BikeKind.CARGO, BikeKind.TOURING})
"""kinds on which a drag brake beside those of the wheels is built at all"""


def _third_shares(case: "_RemedyCase") -> list[float]:
    """Shares of the braking that a third brake may take over; none on a bike that carries none."""
    if case.job.bike.kind not in CARRIES_A_THIRD:
        return []
    return [s for s in THIRD_SHARES if s > case.situation.sharing.third_share]


def _third_brake(case: _RemedyCase, share: float) -> _RemedyCase:
    sharing = replace(case.situation.sharing, third_share=share)
    return replace(case, situation=replace(case.situation, sharing=sharing))


def _pulsed(case: _RemedyCase) -> _RemedyCase | None:
    """None where the rider pulses already, or where the speed is as recorded."""
    if case.situation.style is not Style.DRAG or case.load.recorded or case.job.ride is None:
        return None
    situation = replace(case.situation, style=Style.PULSE)
    return replace(case, situation=situation, load=planned_load(case.job.ride, situation, case.tracks, {}))


def _two_fingers(case: _RemedyCase) -> _RemedyCase | None:
    rider = case.job.rider
    if rider.fingers == BOTH_FINGERS:
        return None
    hand = hand_of(case.job.parameters, BOTH_FINGERS, rider.hands is HandSize.SMALL, rider.skill is Skill.NOVICE)
    return replace(case, situation=replace(case.situation, hand=hand))


def _lighter(case: _RemedyCase, kg: float) -> _RemedyCase | None:
    """The same ride with so much luggage left at home; None where there is not so much."""
    luggage, ride = case.job.load.luggage_kg or 0.0, case.job.ride
    if kg > luggage or ride is None:
        return None
    job = case.job.model_copy(update={"load": case.job.load.model_copy(update={"luggage_kg": luggage - kg})})
    situation = situation_of(job)
    if not isinstance(situation, Situation):
        return None
    situation = replace(situation, elsewhere=case.situation.elsewhere)
    return replace(case, job=job, situation=situation, load=load_of_ride(ride, case.tracks, situation))


def _slower(case: _RemedyCase, top_kmh: float) -> _RemedyCase:
    bike = case.job.bike.model_copy(update={"top_speed_kmh": top_kmh})
    return replace(case, job=case.job.model_copy(update={"bike": bike}))


def _top_speeds(case: _RemedyCase) -> list[float]:
    """Top speeds to try, km/h: from just below the present one down to what the rides are ridden at."""
    ridden = max(float(case.load.speed_ms.max()), case.situation.elsewhere.top_ms) * KMH_PER_MS
    present = case.job.bike.top_speed_kmh or ridden
    least = int(-(-ridden // BY_KMH) * BY_KMH)
    return [float(v) for v in range(int(present - 1) // BY_KMH * BY_KMH, least - 1, -BY_KMH)]


def _remedies(case: _RemedyCase) -> list[Remedy]:
    out = []
    for share in _third_shares(case):
        power = share * case.load.braked_kj * 1000 / float(case.load.time_s[-1])
        found = _third_brake(case, share).told(RemedyKind.THIRD_BRAKE, share * 100, power)
        if found.verdict is Verdict.HOLDS or share == THIRD_SHARES[-1]:
            out.append(found)
            break
    pulsed, fingers = _pulsed(case), _two_fingers(case)
    if pulsed:
        out.append(pulsed.told(RemedyKind.PULSE))
    for stops in range(1, MOST_STOPS + 1):
        found = replace(case, load=rested(case.load, stops, REST_S)).told(RemedyKind.STOPS, float(stops))
        if found.verdict is Verdict.HOLDS or stops == MOST_STOPS:
            out.append(found)
            break
    if fingers:
        out.append(fingers.told(RemedyKind.FINGERS))
    luggage = case.job.load.luggage_kg or 0.0
    for kg in (k for k in LIGHTER_KG if k <= luggage):
        lighter = _lighter(case, kg)
        if lighter:
            found = lighter.told(RemedyKind.LIGHTER, kg)
            if found.verdict is Verdict.HOLDS or kg + LIGHTER_KG[0] > luggage:
                out.append(found)
                break
    slower = _top_speeds(case)
    for kmh in slower:
        found = _slower(case, kmh).told(RemedyKind.SLOWER, kmh)
        if found.verdict is Verdict.HOLDS or kmh == slower[-1]:
            out.append(found)
            break
    if not any(r.verdict is Verdict.HOLDS for r in out):
        out += _together(case)
    return out


def _together(case: _RemedyCase) -> list[Remedy]:
    """Two fingers, pulse braking and no more speed than the rides', with a third brake where the bike carries one: the
    least share that holds, where one alone is not enough."""
    slowest = _top_speeds(case)[-1:]
    for share in _third_shares(case) or [case.situation.sharing.third_share]:
        other = _third_brake(case, share)
        other = _two_fingers(other) or other
        other = _pulsed(other) or other
        other = _slower(other, slowest[0]) if slowest else other
        found = other.told(RemedyKind.TOGETHER, share * 100 if share else None)
        if found.verdict is Verdict.HOLDS or share in (THIRD_SHARES[-1], case.situation.sharing.third_share):
            return [found]
    return []
