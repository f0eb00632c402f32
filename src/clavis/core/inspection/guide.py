"""The complaint guide: ranks the causes of the complaints by what is known, says which question separates best, and
when parts are the answer.

Scoring: every cause starts with the points its complaints give it, and each known question adds its own. Points are
doublings of the odds, so a cause at p points has the odds 2^p to 1. Causes are judged each on its own: several may be
true at once. A question is worth what it is expected to take off the doubt (binary entropy, bits) of all causes
together.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import log2

from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.inspection.complaints import (
    CAUSE_ROWS,
    COMPLAINTS,
    QUESTIONS,
    Cause,
    CauseRow,
    Known,
    QuestionRow,
)
from clavis.core.inspection.findings import Finding, findings_of, open_stops
from clavis.core.job.document import Job, Reply
from clavis.core.job.wheel import FittedBrake
from clavis.core.parts.mounts import End
from clavis.core.sentences import NOTHING, Words, joined, say
from clavis.core.verdicts import Severity


class Likelihood(StrEnum):
    """How a cause stands, by its points."""

    LIKELY = "likely"
    OPEN = "open"
    UNLIKELY = "unlikely"
    EXCLUDED = "excluded"


LIKELY_POINTS, OPEN_POINTS, EXCLUDED_POINTS = 2, -1, -4
WITHOUT_DISC = frozenset({Cause.LONG_DRAGS, Cause.DABS, Cause.REAR_ALONE, Cause.REACH, Cause.TYRE})
WORTH_ASKING_BITS = 0.02
LEAST_POINTS = 0.3
"""stands in for the silent side of a question that speaks one way only"""
NAMED = 3
"""so many cheaper causes are named, the others counted"""
SHARED_POINTS = 1
"""for each further complaint that one cause explains as well"""


def likelihood_of(points: int) -> Likelihood:
    """From 4 to 1 on likely; below 1 to 2 unlikely; at 1 to 16 and less excluded."""
    if points >= LIKELY_POINTS:
        return Likelihood.LIKELY
    if points >= OPEN_POINTS:
        return Likelihood.OPEN
    return Likelihood.UNLIKELY if points > EXCLUDED_POINTS else Likelihood.EXCLUDED


@dataclass(frozen=True)
class Evidence:
    """One known question and what it did to one cause."""

    question: QuestionRow
    reply: Reply
    points: int


@dataclass(frozen=True)
class Ranked:
    """A cause with its points, where they come from, and the cheaper causes that hold its part back."""

    row: CauseRow
    points: int
    base: int
    evidence: tuple[Evidence, ...]
    held_by: tuple[CauseRow, ...]
    due: bool = False
    """the part was found worn out: it is due whatever the cause"""

    @property
    def likelihood(self) -> Likelihood:
        return likelihood_of(self.points)

    @property
    def chance(self) -> float:
        return _chance(self.points)

    @property
    def part_advised(self) -> bool:
        """A part only where the cause is likely and nothing cheaper is left."""
        return self.row.remedy.is_part and self.likelihood is Likelihood.LIKELY and not self.held_by and not self.due


@dataclass(frozen=True)
class OpenQuestion:
    """A question that is not known yet: bits of doubt it is expected to take, and the causes that it parts."""

    row: QuestionRow
    gain_bits: float
    parts: tuple[CauseRow, ...]
    skipped: bool
    """the answer was "not known": asked again only after the others"""


@dataclass(frozen=True)
class Guide:
    """The whole answer: unsafe findings first, then the ranking, the next questions, and what is known."""

    stops: tuple[Finding, ...]
    ranked: tuple[Ranked, ...]
    questions: tuple[OpenQuestion, ...]
    replies: Mapping[str, Reply]

    @property
    def next_question(self) -> OpenQuestion | None:
        return self.questions[0] if self.questions else None

    @property
    def free_first(self) -> tuple[Ranked, ...]:
        """What can be done at once and costs nothing, best first."""
        return tuple(
            r for r in self.ranked if r.row.remedy == 0 and r.likelihood in (Likelihood.LIKELY, Likelihood.OPEN)
        )

    @property
    def advises_parts(self) -> bool:
        return any(r.part_advised for r in self.ranked)

    @property
    def sentence(self) -> Words:
        """When parts are the answer, and when not yet."""
        if not self.ranked:
            return NOTHING
        advised = next((r for r in self.ranked if r.part_advised), None)
        if advised is not None:
            return say("Parts are the answer: {cure}", cure=advised.row.cure)
        likely = [r for r in self.ranked if r.likelihood is Likelihood.LIKELY and not r.due]
        held = [r for r in likely if r.row.remedy.is_part]
        if held:
            first = [row.name for row in held[0].held_by[:NAMED]]
            more = len(held[0].held_by) - NAMED
            names = joined([*first, say("{others} more", others=more)] if more > 0 else first, ", ", " and ")
            words = "No part yet for “{name}”: not excluded, and cheaper, are {names}"
            return say(words, name=held[0].row.name, names=names)
        if likely:
            return say("No part: {cure}", cure=likely[0].row.cure)
        return "No part yet: no cause is likely enough"


def cheaper_first(guide: Guide, end: End | None) -> OpenPoint | None:
    """Where the guide says that no part is the answer yet, as a point that is open about any order of parts; None where
    nobody complains, or parts are the answer."""
    if not guide.ranked or guide.advises_parts:
        return None
    return OpenPoint("cause", end, None, Severity.NOTE, Matter.CONDITION, "cause of the complaint", guide.sentence)


def _chance(points: float) -> float:
    return float(1 / (1 + 2.0**-points))


def _doubt_bits(p: float) -> float:
    return 0.0 if p <= 0 or p >= 1 else float(-p * log2(p) - (1 - p) * log2(1 - p))


def expected_gain_bits(points: float, yes: float, no: float) -> float:
    """Bits of doubt about one cause that a question is expected to take.

    With likelihood ratios 2^yes and 2^no the chance of *yes* is P1 where the cause is true and P0 where it is not:
    P1 = 2^yes P0 and 1 − P1 = 2^no (1 − P0), so P0 = (1 − 2^no)/(2^yes − 2^no).
    """
    if yes == no == 0:
        return 0.0
    sign = 1.0 if (yes or -no) > 0 else -1.0
    up, down = (max(abs(side), LEAST_POINTS) for side in (yes, no))
    ratio_yes, ratio_no = 2.0 ** (sign * up), 2.0 ** (-sign * down)
    p0 = (1 - ratio_no) / (ratio_yes - ratio_no)
    p1 = ratio_yes * p0
    p = _chance(points)
    says_yes = p * p1 + (1 - p) * p0
    after = says_yes * _doubt_bits(_chance(points + sign * up))
    after += (1 - says_yes) * _doubt_bits(_chance(points - sign * down))
    return max(0.0, float(_doubt_bits(p) - after))


def _base_points(job: Job, known: Known) -> dict[Cause, int]:
    """What the complaints give each cause; of a brake without a disc only what rider and tyre do is asked."""
    disc = any(c.wheel.measured.fitted_brake in (None, FittedBrake.DISC) for c in known.cases)
    base: dict[Cause, int] = {}
    for complaint in job.complaints:
        for cause, points in COMPLAINTS[complaint].items():
            if disc or cause in WITHOUT_DISC:
                base[cause] = max(base[cause], points) + SHARED_POINTS if cause in base else points
    return base


def known_of(job: Job, evaluation: Evaluation) -> Known:
    """What is known of the wheels complained of; both where none is named."""
    ends = [job.complaint_end] if job.complaint_end else list(End)
    fitted, cases = evaluation.fitted.wheels if evaluation.fitted else {}, evaluation.cases[SetupName.FITTED]
    results = tuple(fitted[end] for end in ends if end in fitted)
    missing = any(p.matter is Matter.MISSING for p in evaluation.points(SetupName.FITTED))
    return Known(job, tuple(cases[end] for end in ends), results, not missing and evaluation.fitted is not None)


def guide_of(job: Job, evaluation: Evaluation) -> Guide:
    """Rank the causes of all complaints of a job. What was measured is not asked."""
    known = known_of(job, evaluation)
    base = _base_points(job, known)
    asked_about = set(job.complaints)
    questions = [
        c for c in QUESTIONS if (not c.about or c.about & asked_about) and any(cause in base for cause in c.points)
    ]
    replies: dict[str, Reply] = {}
    for question in questions:
        reply = question.fact(known) if question.fact else job.replies.get(question.key)
        if reply is not None:
            replies[question.key] = reply
    points = dict(base)
    evidence: dict[Cause, list[Evidence]] = {cause: [] for cause in base}
    for question in questions:
        answer = replies.get(question.key)
        if answer in (None, Reply.NOT_KNOWN):
            continue
        for cause, (yes, no) in question.points.items():
            gives = yes if answer is Reply.YES else no
            if cause in points and gives:
                points[cause] += gives
                evidence[cause].append(Evidence(question, answer or Reply.NO, gives))
    ranked = [_ranked(cause, points, base, evidence, known.findings) for cause in base]
    ranked.sort(key=lambda r: (-r.points, r.row.remedy, r.row.cause))
    stops = open_stops(findings_of(evaluation))
    return Guide(stops, tuple(ranked), _open_questions(questions, points, replies), replies)


def _ranked(
    cause: Cause,
    points: Mapping[Cause, int],
    base: Mapping[Cause, int],
    evidence: Mapping[Cause, list[Evidence]],
    findings: frozenset[str],
) -> Ranked:
    row = CAUSE_ROWS[cause]
    held = [
        CAUSE_ROWS[other]
        for other, p in sorted(points.items(), key=lambda item: -item[1])
        if CAUSE_ROWS[other].remedy < row.remedy and likelihood_of(p) is not Likelihood.EXCLUDED
    ]
    order = sorted(evidence[cause], key=lambda e: -abs(e.points))
    return Ranked(
        row,
        points[cause],
        base[cause],
        tuple(order),
        tuple(held) if row.remedy.is_part else (),
        bool(findings & set(row.due_by)),
    )


def _open_questions(
    questions: list[QuestionRow], points: Mapping[Cause, int], replies: Mapping[str, Reply]
) -> tuple[OpenQuestion, ...]:
    found = []
    for question in questions:
        reply = replies.get(question.key)
        if reply in (Reply.YES, Reply.NO) or (reply is Reply.NOT_KNOWN and not question.asked):
            continue
        gains = {
            cause: expected_gain_bits(points[cause], yes, no)
            for cause, (yes, no) in question.points.items()
            if cause in points
        }
        total = sum(gains.values())
        if total < WORTH_ASKING_BITS:
            continue
        best = sorted(gains, key=lambda cause: -gains[cause])
        parts = tuple(CAUSE_ROWS[cause] for cause in best[:3] if gains[cause] >= WORTH_ASKING_BITS)
        found.append(OpenQuestion(question, total, parts, reply is Reply.NOT_KNOWN))
    return tuple(sorted(found, key=lambda c: (c.skipped, -c.gain_bits)))


def moves(before: Guide, after: Guide) -> dict[Cause, int]:
    """How many places each cause moved between two rankings: above zero up."""
    places = {r.row.cause: n for n, r in enumerate(before.ranked)}
    return {r.row.cause: places.get(r.row.cause, n) - n for n, r in enumerate(after.ranked)}
