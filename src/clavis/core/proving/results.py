"""What the runs of a trial show: every run as a point, one of three verdicts, and the figures behind it."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import sqrt

from clavis.core.errors import QuantityError
from clavis.core.job.document import Job
from clavis.core.job.trials import OrderOfRuns, Side, Trial, TrialKind, TrialRun
from clavis.core.physics.infrared import SURFACES, true_temperature_c
from clavis.core.proving.confounders import ConfounderState, TrialCase, confounders_of
from clavis.core.proving.prediction import Prediction, same_speed_m, told_difference
from clavis.core.proving.questions import QUESTIONS, TrialQuestion
from clavis.core.proving.statistics import (
    BLOCK,
    CONFIDENCE,
    Compared,
    TrialVerdict,
    balanced_order,
    block_contrasts,
    compare_blocks,
    compare_loose,
    randomised_order,
)
from clavis.core.sentences import NOTHING, Words, joined, say


def order_of(trial: Trial) -> str:
    """The order of the runs as its lot draws it."""
    draw = balanced_order if trial.order is OrderOfRuns.BALANCED else randomised_order
    return draw(trial.blocks, trial.seed)


def next_place(trial: Trial) -> int | None:
    """The first place of the order that has no run that counts; None where all have."""
    ridden = {run.place for run in trial.counted}
    return next((k for k in range(len(order_of(trial))) if k not in ridden), None)


def rotor_of_run_c(trial: Trial, job: Job, run: TrialRun) -> float | None:
    """The rotor behind the spots that were read, by the emissivity of what was looked at; None without a reading, or
    where a reading says nothing."""
    surface = SURFACES[trial.read_on]
    around_c = run.air_c if run.air_c is not None else job.conditions.ambient_c
    relative = surface.emissivity / trial.set_to_ratio
    found = [true_temperature_c(read_c, relative, around_c) for read_c in run.spots_c]
    known = [c for c in found if c is not None]
    return sum(known) / len(known) if known and len(known) == len(found) else None


def value_of_run(trial: Trial, job: Job, run: TrialRun, mark: int | None = None) -> float | None:
    """The figure of one run in the question's unit: a stop brought to the planned speed where the speed at the line
    stands with it, a reading corrected for what it looked at, a time to the end or to one mark."""
    if mark is not None:
        return run.mark_s[mark] if mark < len(run.mark_s) else None
    measured = QUESTIONS[trial.question].measured
    if measured == "spots_c":
        return rotor_of_run_c(trial, job, run)
    value: float | None = getattr(run, measured)
    if value is not None and trial.kind is TrialKind.STOP and measured == "distance_m" and run.speed_kmh is not None:
        return same_speed_m(value, run.speed_kmh, trial.speed_kmh)
    return value


@dataclass(frozen=True)
class RunPoint:
    """One run as a point. ``value`` is None where it has no figure; ``why_not`` says why it is not counted."""

    run: TrialRun
    number: int
    value: float | None
    why_not: Words = NOTHING

    @property
    def counted(self) -> bool:
        return self.value is not None and not self.why_not


@dataclass(frozen=True)
class SideMean:
    """The counted runs of one side: their mean with its 95 % interval; None where one run tells no scatter."""

    runs: int
    mean: float | None
    low: float | None
    high: float | None


def _mean_of(values: Sequence[float]) -> SideMean:
    from scipy.special import stdtrit

    n = len(values)
    if not n:
        return SideMean(0, None, None, None)
    mean = sum(values) / n
    if n < 2:
        return SideMean(n, mean, None, None)
    error = sqrt(sum((v - mean) ** 2 for v in values) / (n - 1) / n)
    reach = float(stdtrit(n - 1, 0.5 + CONFIDENCE / 2)) * error
    return SideMean(n, mean, mean - reach, mean + reach)


@dataclass(frozen=True)
class TrialResult:
    """All that a trial shows so far. ``compared`` is None while there is nothing to compare; ``pending`` says what is
    missing."""

    trial: Trial
    mark: int | None
    points: tuple[RunPoint, ...]
    means: dict[Side, SideMean]
    compared: Compared | None
    loose: Compared | None
    """the same runs without their blocks, beside a balanced trial: Welch"""
    blocks: int
    """complete ones"""
    pending: Words
    confounders: tuple[ConfounderState, ...]

    @property
    def row(self) -> TrialQuestion:
        return QUESTIONS[self.trial.question]

    @cached_property
    def spoiled_by(self) -> tuple[ConfounderState, ...]:
        return tuple(c for c in self.confounders if c.spoils)

    @property
    def verdict(self) -> TrialVerdict | None:
        """None before there is anything to compare, or to be spoiled."""
        if self.spoiled_by:
            return TrialVerdict.CANNOT_TELL
        return None if self.compared is None else self.compared.verdict

    @property
    def headline(self) -> Words:
        """The answer in a sentence."""
        found, unit = self.compared, self.row.difference_unit
        if self.spoiled_by:
            return say("spoiled: {why}", why=joined([c.row.words for c in self.spoiled_by], "; "))
        if found is None:
            return self.pending
        if self.verdict is TrialVerdict.REAL:
            low, high = sorted((abs(found.low), abs(found.high)))
            low_word, high_word = (f"{{{edge}_{unit}:.{self.row.decimals}}}" for edge in ("low", "high"))
            words = f"{{what}}, at 95 % between {low_word} and {high_word}"
            told = told_difference(self.row, found.difference)
            return say(words, what=told, **{f"low_{unit}": low, f"high_{unit}": high})
        if self.verdict is TrialVerdict.NONE_THAT_MATTERS:
            words = f"the two differ by less than the {{matters_{unit}}} that would matter"
            return say(words, **{f"matters_{unit}": self.trial.matters})
        return found.words()


def _points(trial: Trial, job: Job, mark: int | None) -> tuple[RunPoint, ...]:
    out = []
    for number, run in enumerate(trial.runs, 1):
        value, why = value_of_run(trial, job, run, mark), run.left_out or NOTHING
        if not why and value is None:
            why = say("no figure")
            if mark is None and any(run.mark_s):
                last = max(k for k, s in enumerate(run.mark_s) if s is not None)
                name = trial.marks[last] if last < len(trial.marks) else "a mark"
                why = say("cut at {mark}: it counts as far as there", mark=name)
        out.append(RunPoint(run, number, value, why))
    return tuple(out)


def _complete_blocks(trial: Trial, points: Sequence[RunPoint]) -> tuple[str, list[float]]:
    """Order and values of the blocks whose four places have a run that counts."""
    by_place = {p.run.place: p for p in points if p.counted}
    order, values = "", []
    for start in range(0, BLOCK * trial.blocks, BLOCK):
        block = [by_place.get(k) for k in range(start, start + BLOCK)]
        found = [(p.run.side.value, p.value) for p in block if p is not None and p.value is not None]
        if len(found) == BLOCK and sorted(side for side, _ in found) == ["A", "A", "B", "B"]:
            order += "".join(side for side, _ in found)
            values += [value for _, value in found]
    return order, values


def _values(points: Sequence[RunPoint], side: Side) -> list[float]:
    return [p.value for p in points if p.counted and p.run.side is side and p.value is not None]


def _compare(trial: Trial, points: Sequence[RunPoint]) -> tuple[Compared | None, Compared | None, int, Words]:
    sides = {side: _values(points, side) for side in Side}
    order, values = _complete_blocks(trial, points)
    blocks, loose = len(order) // BLOCK, None
    pending: Words = NOTHING
    try:
        if min(len(v) for v in sides.values()) >= 2:
            loose = compare_loose(sides[Side.A], sides[Side.B], trial.matters, trial.seed)
        if trial.order is OrderOfRuns.RANDOMISED:
            return loose, None, blocks, NOTHING if loose else say("two runs of each setup are needed at the least")
        if blocks >= 2:
            return compare_blocks(block_contrasts(order, values), trial.matters, trial.seed), loose, blocks, NOTHING
        pending = say("two complete blocks of four runs are needed at the least")
    except QuantityError as error:
        pending = error.said
    return None, loose, blocks, pending


def result_of(prediction: Prediction, mark: int | None = None) -> TrialResult:
    """What a trial's runs show, at the end or at one of its marks."""
    trial, job = prediction.trial, prediction.job
    points = _points(trial, job, mark)
    compared, loose, blocks, pending = _compare(trial, points)
    means = {side: _mean_of(_values(points, side)) for side in Side}
    found = confounders_of(TrialCase.of(prediction))
    return TrialResult(trial, mark, points, means, compared, loose, blocks, pending, found)
