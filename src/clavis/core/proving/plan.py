"""The plan of a trial: how many runs, in which order, with which pauses, and what is expected."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from clavis.core.job.document import Job
from clavis.core.job.trials import OrderOfRuns, Question, Side, Trial, TrialKind, TrialSide
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.road import Track
from clavis.core.proving.confounders import ConfounderState, TrialCase, confounders_of
from clavis.core.proving.prediction import Expected, Prediction, predict
from clavis.core.proving.questions import BEST_KIND, KINDS, QUESTIONS, TrialKindRow, TrialQuestion
from clavis.core.proving.results import next_place, order_of
from clavis.core.proving.statistics import BLOCK, blocks_needed, power
from clavis.core.sentences import Words, say
from clavis.core.workshop.bedding import BeddingPlan, bedding_plan

WARM_UP_STOPS = 3
"""stops that are not measured, so that pads and rider are where they stay (judged)"""
SHORTEST_PAUSE_S = 60.0
"""between two stops, also where the rotor is cool at once: the way back to the line"""


@dataclass(frozen=True)
class PlannedRun:
    """A run of the sheet: its number, its block, which setup, whether the bike is changed before it, and how long the
    brake rests before it, s (None: not known)."""

    place: int
    block: int
    side: Side
    change: bool
    pause_s: float | None

    @property
    def number(self) -> int:
        return self.place + 1

    @property
    def pause_min(self) -> float | None:
        return None if self.pause_s is None else self.pause_s / 60


@dataclass(frozen=True)
class TrialPlan:
    """All that is said before the first run."""

    prediction: Prediction
    confounders: tuple[ConfounderState, ...]
    bed_in: tuple[tuple[Side, BeddingPlan], ...]

    @property
    def trial(self) -> Trial:
        return self.prediction.trial

    @property
    def row(self) -> TrialQuestion:
        return QUESTIONS[self.trial.question]

    @property
    def kind(self) -> TrialKindRow:
        return KINDS[self.trial.kind]

    @property
    def how(self) -> Words:
        """How a run is measured."""
        return say(self.row.how, after_s=self.trial.after_s)

    @property
    def expected(self) -> Expected:
        return self.prediction.of_question

    @property
    def blocked(self) -> bool:
        return self.trial.order is OrderOfRuns.BALANCED

    def _needed(self, difference: float | None) -> int | None:
        spread = self.expected.spread
        return None if difference is None or not spread else blocks_needed(difference, spread, blocked=self.blocked)

    @cached_property
    def for_expected(self) -> int | None:
        """Blocks that show the difference the model expects; None where none would, or it does not know."""
        return None if self.expected.why_alike else self._needed(self.expected.difference)

    @cached_property
    def for_matters(self) -> int | None:
        """Blocks that show the smallest difference that matters; None where none would."""
        return self._needed(self.trial.matters)

    def _promised(self, difference: float | None) -> float | None:
        spread = self.expected.spread
        if difference is None or not spread:
            return None
        return power(self.trial.blocks, difference, spread, blocked=self.blocked)

    @cached_property
    def promised(self) -> float | None:
        """Chance that the planned runs show the difference the model expects."""
        return None if self.expected.why_alike else self._promised(self.expected.difference)

    @cached_property
    def promised_matters(self) -> float | None:
        """Chance that they show a difference that just matters."""
        return self._promised(self.trial.matters)

    @property
    def promised_pct(self) -> float | None:
        return None if self.promised is None else 100 * self.promised

    @property
    def promised_matters_pct(self) -> float | None:
        return None if self.promised_matters is None else 100 * self.promised_matters

    @property
    def runs_for_expected(self) -> int | None:
        return None if self.for_expected is None else BLOCK * self.for_expected

    @property
    def runs_for_matters(self) -> int | None:
        return None if self.for_matters is None else BLOCK * self.for_matters

    @cached_property
    def pauses_s(self) -> Mapping[Side, float | None]:
        """How long the brake rests after a run of each side."""
        found = {side: p.pause_s for side, p in self.prediction.sides.items()}
        return {side: None if s is None else max(s, SHORTEST_PAUSE_S) for side, s in found.items()}

    @cached_property
    def runs(self) -> tuple[PlannedRun, ...]:
        """The sheet, in order."""
        out: list[PlannedRun] = []
        for place, letter in enumerate(order_of(self.trial)):
            before = out[-1].side if out else None
            side = Side(letter)
            pause = None if before is None else self.pauses_s[before]
            rests = 0.0 if before is None else pause
            out.append(PlannedRun(place, place // BLOCK + 1, side, before is not None and side is not before, rests))
        return tuple(out)

    @property
    def changes(self) -> int:
        return sum(run.change for run in self.runs)

    @property
    def resting_s(self) -> float | None:
        """All pauses together; None where one is not known."""
        pauses = [run.pause_s for run in self.runs]
        return None if any(s is None for s in pauses) else sum(s for s in pauses if s is not None)

    @property
    def resting_min(self) -> float | None:
        return None if self.resting_s is None else self.resting_s / 60

    @property
    def pauses_min(self) -> Mapping[Side, float | None]:
        return {side: None if s is None else s / 60 for side, s in self.pauses_s.items()}

    @property
    def warm_up(self) -> Words:
        """What is ridden before the first run and is not measured."""
        if self.trial.kind is TrialKind.STOP:
            words = "{stops} stops from {speed_kmh:.0} that are not measured, with each setup after every change"
            return say(words, stops=WARM_UP_STOPS, speed_kmh=self.trial.speed_kmh)
        return say("none: each run starts with a cool rotor")

    @property
    def next_run(self) -> PlannedRun | None:
        """What is ridden next; None where all is ridden."""
        place = next_place(self.trial)
        return None if place is None else self.runs[place]

    @property
    def advice(self) -> Words:
        """What the model would test instead, or that it is no use; nothing where the plan stands as it is."""
        instead, why = self.prediction.instead, self.expected.why_alike
        if instead is None or instead.difference is None:
            return why
        words = "B {short} by {by}: test that" if instead.difference < 0 else "A {short} by {by}: test that"
        unit = instead.row.difference_unit
        by = say(f"{{by_{unit}:.{instead.row.decimals}}}", **{f"by_{unit}": abs(instead.difference)})
        told = say(words, short=instead.row.short, by=by)
        return say("{why}; {told}", why=why, told=told) if why else told


def _bedding(prediction: Prediction) -> tuple[tuple[Side, BeddingPlan], ...]:
    """Wheels of either side with a new rotor or new pads."""
    out = []
    for side, found in prediction.sides.items():
        if found.setup is None or found.situation is None:
            continue
        for wheel in found.setup.wheels.values():
            if wheel.setup.new & {Axis.ROTOR, Axis.PAD}:
                out.append((side, bedding_plan(wheel, found.situation)))
    return tuple(out)


def plan_of(job: Job, trial: Trial, catalogue: Catalogue, tracks: Mapping[str, Track]) -> TrialPlan:
    """A trial's plan as it stands, with what the model expects."""
    return planned(predict(job, trial, catalogue, tracks))


def planned(prediction: Prediction) -> TrialPlan:
    """The plan of a trial of which is known what to expect."""
    return TrialPlan(prediction, confounders_of(TrialCase.of(prediction)), _bedding(prediction))


def begun(
    trial_id: str, question: Question, a: TrialSide, b: TrialSide, job: Job, catalogue: Catalogue,
    tracks: Mapping[str, Track],
) -> Trial:  # fmt: skip
    """A trial to begin with: its usual kind, the wheel that changes most, what usually matters, and as many blocks as
    show what is expected, where that can be had."""
    row = QUESTIONS[question]
    end = End.FRONT if a.front != b.front or a.picks[End.FRONT] != b.picks[End.FRONT] else End.REAR
    trial = Trial(
        id=trial_id, name=row.words.rstrip("?"), question=question, kind=BEST_KIND[question], a=a, b=b,
        end=end if row.of_wheel else None, matters=1.0, seed=job.seed,
    )  # fmt: skip
    expected = predict(job, trial, catalogue, tracks).of_question
    matters = expected.matters
    if matters is None or matters <= 0:
        return trial
    trial = trial.model_copy(update={"matters": float(f"{matters:.2g}")})
    wanted = trial.matters if expected.why_alike else max(abs(expected.difference or 0.0), trial.matters)
    blocks = blocks_needed(wanted, expected.spread or 0.0)
    return trial if blocks is None else trial.model_copy(update={"blocks": max(blocks, 2)})
