"""The upgrade ladder: what each rung, from service to a whole brake, gains this wheel, and what it costs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from clavis.core.evaluation.evaluate import Evaluation, SetupName, evaluate_setup
from clavis.core.evaluation.wheel_cases import mountings_of
from clavis.core.job.document import Job
from clavis.core.job.wheel import LeverFeel
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Choice
from clavis.core.selection.schools import Candidate
from clavis.core.verdicts import RANK, Verdict

CANNOT_BE_JUDGED = "what is fitted cannot be judged"


class Rung(StrEnum):
    SERVICE = "service"
    PADS = "pads"
    ROTOR = "rotor"
    LEVER = "lever"
    CALIPER = "caliper"
    BRAKE = "whole brake"


@dataclass(frozen=True)
class RungRow:
    """What a rung must change and what may change with it."""

    rung: Rung
    words: str
    must: frozenset[Axis]
    may: frozenset[Axis]


RUNGS: tuple[RungRow, ...] = (
    RungRow(Rung.SERVICE, "bleed with fresh fluid, clean, sand the pads, bed in again", frozenset(), frozenset()),
    RungRow(Rung.PADS, "other pads", frozenset({Axis.PAD}), frozenset({Axis.PAD})),
    RungRow(Rung.ROTOR, "another rotor, with its adapter", frozenset({Axis.ROTOR}), frozenset({Axis.ROTOR})),
    RungRow(Rung.LEVER, "another lever on the same caliper", frozenset({Axis.LEVER}), frozenset({Axis.LEVER})),
    RungRow(
        Rung.CALIPER, "another caliper with its pads", frozenset({Axis.CALIPER}), frozenset({Axis.CALIPER, Axis.PAD})
    ),
    RungRow(Rung.BRAKE, "lever, caliper, pads and rotor", frozenset({Axis.CALIPER, Axis.LEVER}), frozenset(Axis)),
)


@dataclass(frozen=True)
class Rise:
    """What one rung brings. ``gain`` is of the least relative margin, None where what is fitted has none; ``per_100``
    is the gain per hundred of money, None where it costs no parts. ``why_not`` says why there is nothing to show."""

    row: RungRow
    candidate: Candidate | None
    verdict: Verdict
    smallest: float
    gain: float | None
    price: float
    why_not: str = ""

    @property
    def smallest_pct(self) -> float:
        return self.smallest * 100

    @property
    def gain_pct(self) -> float | None:
        return None if self.gain is None else self.gain * 100

    @property
    def per_100(self) -> float | None:
        return None if self.gain is None or self.price <= 0 else self.gain * 100 / self.price

    @property
    def per_100_pct(self) -> float | None:
        return None if self.per_100 is None else self.per_100 * 100


@dataclass(frozen=True)
class Ladder:
    """Rungs in the order of what they gain per money; service, which costs no parts, first."""

    before: float | None
    before_verdict: Verdict
    rises: tuple[Rise, ...]

    @property
    def before_pct(self) -> float | None:
        return None if self.before is None else self.before * 100


def serviced(job: Job, end: End) -> Job | None:
    """The job with this wheel's brake serviced; None where its pads are past it: oil and metal are never revived."""
    wheel = job.wheel(end)
    if wheel.pad_state in (PadState.OILED, PadState.METAL):
        return None
    other = wheel.model_copy(
        update={
            "pad_state": PadState.GOOD if wheel.pad_state is PadState.GLAZED else wheel.pad_state,
            "lever_feel": LeverFeel.FIRM,
            "water_seen": False,
            "fluid_age_y": 0.0,
        }
    )
    return job.model_copy(update={end.value: other})


def _service(
    row: RungRow, job: Job, end: End, evaluation: Evaluation, tracks: Mapping[str, Track], before: float | None
) -> Rise:
    nothing = Rise(row, None, Verdict.UNKNOWN, 0.0, None, 0.0)
    other = serviced(job, end)
    if other is None:
        return replace(nothing, why_not="the pads are past service: replace them")
    if evaluation.situation is None:
        return replace(nothing, why_not=CANNOT_BE_JUDGED)
    mountings = mountings_of(other, evaluation.mountings[end].catalogue)
    wheels = evaluate_setup(other, SetupName.FITTED, mountings, evaluation.situation, tracks).wheels
    if end not in wheels:
        return replace(nothing, why_not=CANNOT_BE_JUDGED)
    smallest = wheels[end].smallest
    return Rise(row, None, wheels[end].verdict, smallest, None if before is None else smallest - before, 0.0)


def ladder_of(job: Job, end: End, evaluation: Evaluation, choice: Choice, tracks: Mapping[str, Track]) -> Ladder:
    """Each rung's best: the best verdict, then the greatest least margin, then the least money."""
    now = evaluation.fitted.wheels.get(end) if evaluation.fitted else None
    before = now.smallest if now else None
    first = _service(RUNGS[0], job, end, evaluation, tracks, before)
    rest = []
    for row in RUNGS[1:]:
        on_rung = [c for c in choice.candidates if row.must <= c.setup.new <= row.may]
        best = min(on_rung, key=lambda c: (RANK[c.verdict], -round(c.smallest, 3), c.price), default=None)
        if best is None:
            why = "nothing in the catalogue goes with what stays"
            rest.append(Rise(row, None, Verdict.UNKNOWN, 0.0, None, 0.0, why))
            continue
        gain = None if before is None else best.smallest - before
        rest.append(Rise(row, best, best.verdict, best.smallest, gain, best.price))
    rest.sort(key=lambda s: (s.candidate is None, -(s.per_100 or 0.0) if s.gain is not None else 0.0))
    return Ladder(before, now.verdict if now else Verdict.UNKNOWN, (first, *rest))
