"""The one gate between a setup and its sign-off, over the one list of open points.

What does not go together or is unsafe is neither ordered nor ticked nor signed. What is not known is settled, or where
no stated limit hangs on it answered for by a named person with a reason; so is what the ride asks beyond the brake.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.conditions import CONDITIONS, conditions_of
from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.evaluation.open_points import Matter, OpenPoint, kept_by
from clavis.core.evaluation.wheel_cases import WheelCase
from clavis.core.job.document import MOST_EVIDENCE, Clearance, Job
from clavis.core.parts.mounts import End
from clavis.core.records import digest
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.verdicts import Severity, Verdict


class GateLevel(StrEnum):
    """How far an open point lets the work go."""

    WORK = "work"
    """neither ordered nor ticked nor signed"""
    SIGNING = "signing"
    """not signed before it is settled"""
    NAME = "name"
    """not signed before it is settled, or a named person answers for it"""
    NOTHING = "nothing"


LEVELS: Mapping[tuple[Matter, Severity], GateLevel] = {
    **{(matter, Severity.STOP): GateLevel.WORK for matter in Matter},
    (Matter.TOGETHER, Severity.FAILS): GateLevel.WORK,
    (Matter.CONDITION, Severity.FAILS): GateLevel.WORK,
    (Matter.RIDE, Severity.FAILS): GateLevel.NAME,
    (Matter.TOGETHER, Severity.UNKNOWN): GateLevel.SIGNING,
    (Matter.CONDITION, Severity.UNKNOWN): GateLevel.SIGNING,
    (Matter.MISSING, Severity.UNKNOWN): GateLevel.SIGNING,
    (Matter.RIDE, Severity.UNKNOWN): GateLevel.NAME,
    (Matter.CONDITION, Severity.UNSEEN): GateLevel.NAME,
    (Matter.TRIAL, Severity.NOTE): GateLevel.SIGNING,
}
"""the rest bars nothing. A fork's limit, a thread, a minimum thickness that is not known is settled, never waived"""


def level_of(point: OpenPoint, worked_on: frozenset[End]) -> GateLevel:
    """How far one point lets the work go. On a wheel that the order leaves alone it bars the signing alone: the bike
    leaves the workshop whole. Such a wheel may be one that has no disc brake, or that nobody was asked to look at."""
    level = LEVELS.get((point.matter, point.severity), GateLevel.NOTHING)
    elsewhere = point.end is not None and point.end not in worked_on
    if level is GateLevel.WORK and elsewhere:
        return GateLevel.SIGNING
    waived = point.waivable or (elsewhere and point.matter is Matter.MISSING)
    return GateLevel.NAME if level is GateLevel.SIGNING and waived and not point.grave else level


_NUMBERS = frozenset("0123456789.,")


def evidence_of(words: Words) -> str:
    """The words of a point as an answer keeps them; of long ones the beginning, and a digest of them all.

    >>> evidence_of("12 % short"), len(evidence_of("so " * 200))
    ('12 % short', 300)
    """
    told = str(words)
    whole = f"#{digest(told)}"
    return told if len(told) <= MOST_EVIDENCE else told[: MOST_EVIDENCE - len(whole)] + whole


def same_evidence(kept: str, words: Words) -> bool:
    """Whether a point is still the one that was answered for: the same words, or the same figures in the words of
    another version of the program.

    >>> same_evidence("force is 12 % short", "force is 12 % short"), same_evidence("12 % short", "force: 14 % short")
    (True, False)
    """
    now = evidence_of(words)
    return kept == now or (bool(_figures(now)) and _figures(kept) == _figures(now))


def _figures(text: str) -> list[str]:
    kept = "".join(c if c in _NUMBERS else " " for c in text)
    return [word.strip(".,") for word in kept.split() if any(c.isdigit() for c in word)]


@dataclass(frozen=True)
class Answered:
    """A point that a named person answers for."""

    point: OpenPoint
    by: Clearance


@dataclass(frozen=True)
class Gate:
    """What stands between a setup and its sign-off, by how far it lets the work go."""

    work: tuple[OpenPoint, ...]
    signing: tuple[OpenPoint, ...]
    name: tuple[OpenPoint, ...]
    answered: tuple[Answered, ...]
    problem: Words = NOTHING
    """entries that contradict each other, so that nothing could be judged"""

    @property
    def may_work(self) -> bool:
        return not self.work and not self.problem

    @property
    def may_sign(self) -> bool:
        return self.may_work and not self.signing and not self.name

    @property
    def why(self) -> Words:
        """The gravest reason why it may not be signed; nothing where it may."""
        first = next(iter((*self.work, *self.signing, *self.name)), None)
        return self.problem or (first.told if first else NOTHING)

    @property
    def words(self) -> Words:
        """How it stands, in one line."""
        if self.problem:
            return self.problem
        if self.work:
            return say("not to be carried out: {why}", why=self.why)
        if self.signing:
            return say("not to be signed yet: {why}", why=self.why)
        if self.name:
            return say("to be settled or answered for: {why}", why=self.why)
        return "may be signed"


def in_order(case: WheelCase) -> tuple[str, ...]:
    """What the verdict of one wheel rests on, by name: checks that hold, and what was looked at and is in order."""
    kept = kept_by(case.fit_case)
    speak = {c.row.key for c in conditions_of(case.wheel, case.fit_case.new)}
    looked = [row.about for row in CONDITIONS if row.asks and row.on in kept and row.key not in speak]
    return tuple(dict.fromkeys([*(c.label for c in case.checks if c.verdict is Verdict.HOLDS), *looked]))


def worked_on(evaluation: Evaluation) -> frozenset[End]:
    """The wheels on which the proposed setup changes something."""
    cases = evaluation.cases.get(SetupName.PROPOSED, {})
    return frozenset(end for end, case in cases.items() if case.changes is not None and case.changes.anything)


def answer_for(job: Job, point: OpenPoint) -> Clearance | None:
    """Who answers for a point; None where nobody here does, or where its evidence has changed since."""
    kept = job.cleared.get(point.key)
    stands = kept is not None and kept.given_here and same_evidence(kept.evidence, point.words)
    return kept if stands else None


def gate_of(job: Job, evaluation: Evaluation) -> Gate:
    """The gate of the proposed setup: what is proposed, and all that stays beside it."""
    ends = worked_on(evaluation)
    found: dict[GateLevel, list[OpenPoint]] = {level: [] for level in GateLevel}
    answered: list[Answered] = []
    for point in evaluation.points(SetupName.PROPOSED):
        level = level_of(point, ends)
        by = answer_for(job, point) if level is GateLevel.NAME else None
        if by is not None:
            answered.append(Answered(point, by))
        else:
            found[level].append(point)
    work, signing, name = (tuple(found[level]) for level in (GateLevel.WORK, GateLevel.SIGNING, GateLevel.NAME))
    return Gate(work, signing, name, tuple(answered), evaluation.problem)
