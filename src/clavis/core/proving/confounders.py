"""What else could make the difference: one table, looked up before the runs and again when they are in.

A confounder is *there*, *not there*, or *to be asked*: nobody has said yet. What is there and spoils a trial leaves
nothing to be told from it; the rest stands beside the answer. Somebody may say, by name, that one was attended to."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.setups import WheelSetup
from clavis.core.job.document import Job
from clavis.core.job.trials import Question, Side, Trial, TrialKind, TrialRun
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.infrared import SURFACES
from clavis.core.proving.prediction import Prediction
from clavis.core.proving.statistics import BLOCK, parted
from clavis.core.records import Tick

AIR_K = 5.0
"""air may differ by so much between the sides' means (judged: a tenth of a usual rise)"""
PRESSURE_RATIO = 0.05
SPEED_RATIO = 0.03
"""2 × 3 % of a stop's length: as much as a difference that matters"""
WARM_START_K = 15.0
READING_S = 10.0
"""spread of the seconds between stop and reading (judged: some per cent of the rise)"""
FEWEST_SPOTS = 3
LEAST_EMISSIVITY = 0.5
"""a surface below it mirrors more than it shows"""
WET_RATIO = 0.5
"""difference of the shares of wet runs from which the ground is mixed up with the setup"""


class Disturbance(StrEnum):
    THERE = "there"
    ABSENT = "absent"
    ASK = "ask"


@dataclass(frozen=True)
class TrialCase:
    """What a confounder is looked for in: the trial, what is known of both sides, and the runs that count."""

    job: Job
    trial: Trial
    setups: Mapping[Side, Mapping[End, WheelSetup]]
    runs: Sequence[TrialRun]

    @classmethod
    def of(cls, prediction: Prediction) -> "TrialCase":
        setups = {
            side: {} if found.setup is None else {end: w.setup for end, w in found.setup.wheels.items()}
            for side, found in prediction.sides.items()
        }
        return cls(prediction.job, prediction.trial, setups, prediction.trial.counted)

    @property
    def order(self) -> str:
        return "".join(run.side.value for run in self.runs)

    def pairs(self) -> list[tuple[WheelSetup, WheelSetup]]:
        """A and B of each wheel that is known of both."""
        a, b = self.setups[Side.A], self.setups[Side.B]
        return [(a[end], b[end]) for end in End if end in a and end in b]

    def by_side(self, what: Callable[[TrialRun], float | None]) -> dict[Side, list[float]]:
        """A figure of the counted runs, side by side; runs without it are left out."""
        return {side: [v for run in self.runs if run.side is side and (v := what(run)) is not None] for side in Side}

    def apart(self, what: Callable[[TrialRun], float | None]) -> float | None:
        """How far the sides' means of a figure lie apart; None where a side has none."""
        found = self.by_side(what)
        if not all(found.values()):
            return None
        a, b = (sum(v) / len(v) for v in found.values())
        return abs(b - a)

    def unwritten(self, what: Callable[[TrialRun], float | None]) -> bool:
        """Some counted runs have no such figure, or there are no runs yet."""
        return not self.runs or any(what(run) is None for run in self.runs)


Look = Callable[[TrialCase], Disturbance]


@dataclass(frozen=True, kw_only=True)
class Confounder:
    """One of them: what it is, what to do about it, and where it is seen. ``of`` are the questions it bears on."""

    key: str
    words: str
    do: str
    look: Look
    spoils: bool = False
    """where it is there, nothing can be told"""
    of: frozenset[Question] = frozenset(Question)


def _there(yes: bool) -> Disturbance:
    return Disturbance.THERE if yes else Disturbance.ABSENT


def _changed_axes(c: TrialCase) -> set[Axis]:
    return {axis for a, b in c.pairs() for axis in b.brake.changed_from(a.brake)}


def _two_changes(c: TrialCase) -> Disturbance:
    return _there(len(_changed_axes(c)) > 1)


def _new_against_old(c: TrialCase) -> Disturbance:
    wears = {Axis.ROTOR, Axis.PAD}
    return _there(any((a.new & wears) != (b.new & wears) for a, b in c.pairs()))


def _unbedded(c: TrialCase) -> Disturbance:
    new = any(s.new & {Axis.ROTOR, Axis.PAD} or s.bedding < 1 for pair in c.pairs() for s in pair)
    return Disturbance.ASK if new else Disturbance.ABSENT


def _film(c: TrialCase) -> Disturbance:
    return _there(any(a.rotor == b.rotor and a.pad.compound != b.pad.compound for a, b in c.pairs()))


def _order(c: TrialCase) -> Disturbance:
    return _there(len(c.runs) >= BLOCK and parted(c.order))


def _day(run: TrialRun) -> str:
    return run.at[:10]


def _day_is_setup(c: TrialCase) -> Disturbance:
    """No day has runs of both."""
    days = {_day(run) for run in c.runs}
    both = [day for day in days if len({run.side for run in c.runs if _day(run) == day}) == len(Side)]
    return _there(len(days) > 1 and not both)


def _day_within_block(c: TrialCase) -> Disturbance:
    blocks: dict[int, set[str]] = {}
    for run in c.runs:
        blocks.setdefault(run.place // BLOCK, set()).add(_day(run))
    return _there(any(len(days) > 1 for days in blocks.values()))


def _wet_is_setup(c: TrialCase) -> Disturbance:
    shares = c.by_side(lambda run: float(run.wet))
    if not all(shares.values()):
        return Disturbance.ABSENT
    a, b = (sum(v) / len(v) for v in shares.values())
    return _there(abs(a - b) >= WET_RATIO)


def _some_wet(c: TrialCase) -> Disturbance:
    return _there(len({run.wet for run in c.runs}) > 1)


def _far_apart(what: Callable[[TrialRun], float | None], most: float) -> Look:
    def look(c: TrialCase) -> Disturbance:
        apart = c.apart(what)
        if apart is not None and apart > most:
            return Disturbance.THERE
        return Disturbance.ASK if c.unwritten(what) else Disturbance.ABSENT

    return look


def _pressure(c: TrialCase) -> Disturbance:
    found = [v for side in c.by_side(lambda run: run.tyre_bar).values() for v in side]
    if found and max(found) - min(found) > PRESSURE_RATIO * max(found):
        return Disturbance.THERE
    return Disturbance.ASK if c.unwritten(lambda run: run.tyre_bar) else Disturbance.ABSENT


def _speed(c: TrialCase) -> Disturbance:
    if c.trial.kind is not TrialKind.STOP:
        return Disturbance.ABSENT
    apart = c.apart(lambda run: run.speed_kmh)
    if apart is not None and apart > SPEED_RATIO * c.trial.speed_kmh:
        return Disturbance.THERE
    return Disturbance.ASK if c.unwritten(lambda run: run.speed_kmh) else Disturbance.ABSENT


def _warm_start(c: TrialCase) -> Disturbance:
    started = [run.start_c for run in c.runs if run.start_c is not None]
    if any(start > (c.job.conditions.ambient_c + WARM_START_K) for start in started):
        return Disturbance.THERE
    return Disturbance.ASK if c.unwritten(lambda run: run.start_c) else Disturbance.ABSENT


def _reading_time(c: TrialCase) -> Disturbance:
    found = [run.after_s for run in c.runs if run.after_s is not None]
    if found and max(found) - min(found) > READING_S:
        return Disturbance.THERE
    return Disturbance.ASK if c.unwritten(lambda run: run.after_s) else Disturbance.ABSENT


def _bright(c: TrialCase) -> Disturbance:
    return _there(SURFACES[c.trial.read_on].emissivity < LEAST_EMISSIVITY)


def _few_spots(c: TrialCase) -> Disturbance:
    if not c.runs:
        return Disturbance.ASK
    return _there(any(0 < len(run.spots_c) < FEWEST_SPOTS for run in c.runs))


def _regeneration(c: TrialCase) -> Disturbance:
    return _there(bool(c.job.bike.regen_share_pct))


def _ask(_c: TrialCase) -> Disturbance:
    return Disturbance.ASK


_HEAT = frozenset({Question.RUNS_COOLER, Question.COOLS_FASTER})
_READ = frozenset({Question.RUNS_COOLER})
_ON_TYRES = frozenset({Question.STOPS_SHORTER, Question.GOES_QUICKER, Question.LESS_HAND})
_STOPS = frozenset({Question.STOPS_SHORTER, Question.LESS_HAND})

CONFOUNDERS: tuple[Confounder, ...] = (
    Confounder(
        key="order", words="all runs of one setup before all of the other", spoils=True, look=_order,
        do="Whatever changed in the meantime is mixed up with the setup: ride again in the order of the sheet.",
    ),
    Confounder(
        key="day_is_setup", words="each setup on a day of its own", spoils=True, look=_day_is_setup,
        do="Another day is another road. Ride both on each day, a block of four at least.",
    ),
    Confounder(
        key="wet_is_setup", words="one setup on wet ground, the other on dry", spoils=True, look=_wet_is_setup,
        do="Nothing can be told of the brake: ride both on the same ground.",
    ),
    Confounder(
        key="two_changes", words="more than one kind of part differs", look=_two_changes,
        do="What comes out belongs to all of it together. To tell which part it was, change one at a time.",
    ),
    Confounder(
        key="new_against_old", words="new rotor or pads against worn ones", look=_new_against_old,
        do="New stores more heat and bites otherwise. Fit both new, or both worn alike.",
    ),
    Confounder(
        key="bedding", words="not said that both are bedded in", look=_unbedded,
        do="Bed in each with its own pads on its own rotor before the first run; say so here.",
    ),
    Confounder(
        key="film", words="two compounds on one rotor", look=_film,
        do="The other compound’s film is still on it: clean the rotor and bed in again after every change, or give "
           "each a rotor of its own.",
    ),
    Confounder(
        key="day_within_block", words="a block of four went over two days", look=_day_within_block,
        do="Finish a block on the day it was begun; ride that block again.",
    ),
    Confounder(
        key="air", words="air of another temperature", look=_far_apart(lambda run: run.air_c, AIR_K), of=_HEAT,
        do="Write the air’s temperature with every run; ride where it hardly differs.",
    ),
    Confounder(
        key="wet", words="some runs on wet ground", look=_some_wet,
        do="Wait until the ground is one or the other; leave out the runs that were not.",
    ),
    Confounder(
        key="pressure", words="tyre pressure not the same", look=_pressure, of=_ON_TYRES,
        do="Set it before every block with the same gauge, and write it down.",
    ),
    Confounder(
        key="speed", words="speed at the line not the same", look=_speed, of=_STOPS,
        do="Write it with every run: distances are brought to the planned speed by its square.",
    ),
    Confounder(
        key="warm_start", words="rotor not cool at the start", look=_warm_start, of=_HEAT,
        do="Take the pause of the sheet, and read the rotor before each run.",
    ),
    Confounder(
        key="reading_time", words="read at different times after the stop", look=_reading_time, of=_READ,
        do="A rotor cools fastest at first: read after the same seconds every time, and write them.",
    ),
    Confounder(
        key="bright", words="thermometer on bright steel", look=_bright, of=_HEAT,
        do="Bright steel reads far too cold, and not by the same on two rotors: a dab of matt paint or tape on both.",
    ),
    Confounder(
        key="spots", words="fewer than three spots read", look=_few_spots, of=_READ,
        do="Holes and an uneven ring scatter the readings: read three spots or more, always the same ones.",
    ),
    Confounder(
        key="regeneration", words="the motor brakes too", look=_regeneration,
        do="Switch regeneration off for the trial: it takes another share on every run.",
    ),
    Confounder(
        key="same_rider", words="same rider, same fingers, same brake used", look=_ask,
        do="One rider rides all of it and is not told which setup is on, where that can be done.",
    ),
    Confounder(
        key="nothing_else", words="nothing else changed: tyres, suspension, load, line", look=_ask,
        do="Look them over between blocks; say so here when it was so.",
    ),
)  # fmt: skip
BY_KEY: Mapping[str, Confounder] = {row.key: row for row in CONFOUNDERS}


@dataclass(frozen=True)
class ConfounderState:
    """A confounder of one trial: whether it is there, and who attended to it."""

    row: Confounder
    presence: Disturbance
    attended: Tick | None

    @property
    def open(self) -> bool:
        """It stands beside the answer: it is there, or nobody has said."""
        return self.presence is Disturbance.THERE or (self.presence is Disturbance.ASK and self.attended is None)

    @property
    def spoils(self) -> bool:
        return self.row.spoils and self.presence is Disturbance.THERE


def confounders_of(case: TrialCase) -> tuple[ConfounderState, ...]:
    """Every confounder of a trial's question: what is there first, then what is to be asked."""
    found = [
        ConfounderState(row, row.look(case), case.trial.attended.get(row.key))
        for row in CONFOUNDERS
        if case.trial.question in row.of
    ]
    places = list(Disturbance)
    rank = {Disturbance.THERE: 0, Disturbance.ASK: 1, Disturbance.ABSENT: 2}
    assert set(rank) == set(places)
    return tuple(sorted(found, key=lambda state: (not state.spoils, rank[state.presence], not state.open)))
