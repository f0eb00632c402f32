"""Findings: what was found at a wheel, of five kinds, each with reason, source and consequence.

They are of two sorts: conditions of its parts, and what does not go together on the bike as it stands. An unsafe
finding follows the job until it is mended.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from clavis.core.evaluation.conditions import FindingKind, conditions_of
from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.fit.checks import CheckResult
from clavis.core.job.places import Place
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.sentences import Words
from clavis.core.verdicts import Verdict


@dataclass(frozen=True)
class Finding:
    """What was found at one wheel, be it a condition of a part or parts that do not go together."""

    end: End
    code: str
    place: Place
    kind: FindingKind
    about: str
    reason: Words
    consequence: Words
    source: str

    @property
    def key(self) -> str:
        return f"{self.end.value}:{self.code}"

    @property
    def unsafe(self) -> bool:
        return self.kind is FindingKind.STOP


_ORDER = list(FindingKind)


def _of_check(end: End, result: CheckResult) -> Finding | None:
    """What a check says of the bike as it stands; None where it holds, or waits for a trial fit."""
    row = result.row
    kinds = {
        Verdict.FAILS: FindingKind.STOP if row.unsafe else FindingKind.REPLACE,
        Verdict.UNKNOWN: FindingKind.MEASURE,
    }
    if result.verdict not in kinds or result.at_trial:
        return None
    kind = kinds[result.verdict]
    cure = row.cure if kind is not FindingKind.MEASURE else "measure, or ask its maker"
    return Finding(end, row.key, row.place, kind, row.label, result.words, cure, row.source)


def findings_of_wheel(wheel: ResolvedWheel, new: frozenset[Axis], checks: Sequence[CheckResult]) -> tuple[Finding, ...]:
    """Every finding of one wheel, gravest first: conditions of its parts, and of ``checks`` of the bike as it stands
    those that fail or cannot be told."""
    found = [
        Finding(
            wheel.end, c.row.key, c.row.place, c.row.kind, c.row.about, c.reason, c.row.consequence, c.row.source
        )
        for c in conditions_of(wheel, new)
    ]  # fmt: skip
    found += [f for result in checks if (f := _of_check(wheel.end, result)) is not None]
    return tuple(sorted(found, key=lambda f: _ORDER.index(f.kind)))


def findings_of(evaluation: Evaluation) -> tuple[Finding, ...]:
    """Every finding of both wheels of the bike as it stands, gravest first."""
    found: list[Finding] = []
    for end, case in evaluation.cases[SetupName.FITTED].items():
        proposed = evaluation.cases.get(SetupName.PROPOSED, {}).get(end, case)
        found += findings_of_wheel(case.wheel, proposed.fit_case.new, case.checks)
    return tuple(sorted(found, key=lambda f: _ORDER.index(f.kind)))


def open_stops(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """What makes the bike unsafe to ride as it stands. Nobody can answer for it: it is mended, or read again."""
    return tuple(f for f in findings if f.unsafe)
