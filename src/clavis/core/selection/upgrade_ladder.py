"""The upgrade ladder: what each rung, from what costs no parts to a whole brake, gains this wheel, and its price."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from clavis.core.evaluation.evaluate import Evaluation, SetupName, evaluate_setup
from clavis.core.evaluation.situation import Situation, situation_of
from clavis.core.evaluation.wheel_cases import mountings_of
from clavis.core.job.document import Job, Proposal
from clavis.core.job.wheel import LeverFeel, LineState
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Tread, tyre_grip
from clavis.core.physics.descent import Style
from clavis.core.physics.friction import PadState
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Choice
from clavis.core.selection.schools import Candidate
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.verdicts import RANK, Verdict

CANNOT_BE_JUDGED = "what is fitted cannot be judged"
REACH_STEP_MM = 5.0
"""how much further out a lever's screw usually sets it (judged)"""


class Rung(StrEnum):
    SERVICE = "service"
    TECHNIQUE = "technique"
    FINGERS = "two fingers"
    REACH = "lever reach"
    TYRE = "tyre"
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
    is the gain per hundred of money, None where it costs no parts. ``stop_by_m`` is what it makes of the stop on the
    flat. ``why_not`` says why there is nothing to show."""

    rung: Rung
    words: Words
    candidate: Candidate | None
    verdict: Verdict
    smallest: float
    gain: float | None
    price: float
    why_not: Words = ""
    stop_by_m: float | None = None

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
    """Rungs in the order of what they gain per money; those that cost no parts first."""

    before: float | None
    before_verdict: Verdict
    rises: tuple[Rise, ...]

    @property
    def before_pct(self) -> float | None:
        return None if self.before is None else self.before * 100


@dataclass(frozen=True)
class FreeRow:
    """A rung that costs no parts of the brake: what is done, from the job and the wheel; and the job with it done.
    ``why_not`` says where there is nothing to be done so."""

    rung: Rung
    words: Callable[[Job, End, Evaluation], Words]
    why_not: Callable[[Job, End, Evaluation], Words]
    done: Callable[[Job, End, Evaluation], Job]


def _on(job: Job, end: End, **update: object) -> Job:
    return job.model_copy(update={end.value: job.wheel(end).model_copy(update=update)})


def _rider(job: Job, **update: object) -> Job:
    return job.model_copy(update={"rider": job.rider.model_copy(update=update)})


def _hydraulic(end: End, evaluation: Evaluation) -> bool:
    caliper = evaluation.mountings[end].wheel.on_it.caliper
    return caliper is not None and caliper.fluid is not Fluid.NONE


def serviced(job: Job, end: End, evaluation: Evaluation) -> Job:
    """This wheel's brake serviced: pads sanded where they are glazed, the line firm; fresh fluid where it has any."""
    wheel = job.wheel(end)
    state = PadState.GOOD if wheel.pad_state is PadState.GLAZED else wheel.pad_state
    fresh = {"water_seen": False, "fluid_age_y": 0.0} if _hydraulic(end, evaluation) else {}
    line = {} if fresh else {"line_state": LineState.GOOD}
    return _on(job, end, pad_state=state, lever_feel=LeverFeel.FIRM, **fresh, **line)


def _service_words(job: Job, end: End, evaluation: Evaluation) -> Words:
    if _hydraulic(end, evaluation):
        return "bleed with fresh fluid, clean, sand the pads, bed in again"
    return "new cable and housing where it is stiff, pads set close, cleaned and sanded, bedded in again"


def _past_service(job: Job, end: End, evaluation: Evaluation) -> Words:
    """Oil and metal are never revived."""
    past = job.wheel(end).pad_state in (PadState.OILED, PadState.METAL)
    return "the pads are past service: replace them" if past else NOTHING


def _no_pulse(job: Job, end: End, evaluation: Evaluation) -> Words:
    if job.rider.style is not Style.DRAG:
        return "this rider pulses already"
    recorded = evaluation.fitted is not None and evaluation.fitted.load is not None and evaluation.fitted.load.recorded
    return "the ride is as recorded: its own speeds decide" if recorded else NOTHING


def best_tread(job: Job) -> Tread:
    """The tread that grips most on the ground of the job."""
    return max(Tread, key=lambda tread: tyre_grip(job.conditions.surface, tread))


def _no_tyre(job: Job, end: End, evaluation: Evaluation) -> Words:
    best, now = (tyre_grip(job.conditions.surface, tread) for tread in (best_tread(job), job.bike.tread))
    return "its tread grips as well as any on this ground" if best <= now else NOTHING


def _to_bar_mm(job: Job, end: End) -> float:
    reach = job.wheel(end).lever_reach_mm
    return job.parameters.lever_to_bar_mm if reach is None else reach


def _no_reach(job: Job, end: End, evaluation: Evaluation) -> Words:
    w = evaluation.fitted.wheels.get(end) if evaluation.fitted else None
    travel = next((m for m in w.margins if m.key == "travel"), None) if w else None
    return "the lever has way enough" if travel is not None and travel.verdict is Verdict.HOLDS else NOTHING


FREE: tuple[FreeRow, ...] = (
    FreeRow(Rung.SERVICE, _service_words, _past_service, serviced),
    FreeRow(
        Rung.TECHNIQUE,
        lambda _j, _e, _v: "brake hard and let go, in place of dragging",
        _no_pulse,
        lambda job, _e, _v: _rider(job, style=Style.PULSE),
    ),
    FreeRow(
        Rung.FINGERS,
        lambda _j, _e, _v: "two fingers on the lever",
        lambda job, _e, _v: "two are on it already" if job.rider.fingers > 1 else NOTHING,
        lambda job, _e, _v: _rider(job, fingers=2),
    ),
    FreeRow(
        Rung.REACH,
        lambda _j, _e, _v: say("the lever set {step_mm:.0} further out, if it has a screw", step_mm=REACH_STEP_MM),
        _no_reach,
        lambda job, end, _v: _on(job, end, lever_reach_mm=_to_bar_mm(job, end) + REACH_STEP_MM),
    ),
    FreeRow(
        Rung.TYRE,
        lambda job, _e, _v: say("tyres with another tread: {tread}", tread=best_tread(job)),
        _no_tyre,
        lambda job, _e, _v: job.model_copy(update={"bike": job.bike.model_copy(update={"tread": best_tread(job)})}),
    ),
)


def _free(row: FreeRow, job: Job, end: End, evaluation: Evaluation, tracks: Mapping[str, Track]) -> Rise:
    """What one rung that costs no parts is worth on this job."""
    words = row.words(job, end, evaluation)
    nothing = Rise(row.rung, words, None, Verdict.UNKNOWN, 0.0, None, 0.0)
    if why_not := row.why_not(job, end, evaluation):
        return replace(nothing, why_not=why_not)
    other = row.done(job, end, evaluation)
    situation, stated, fitted = situation_of(other), evaluation.situation, evaluation.fitted
    if not isinstance(situation, Situation) or stated is None or fitted is None:
        return replace(nothing, why_not=CANNOT_BE_JUDGED)
    situation = replace(situation, elsewhere=stated.elsewhere)
    mountings = mountings_of(other, evaluation.mountings[end].catalogue)
    found = evaluate_setup(other, SetupName.FITTED, mountings, situation, tracks)
    if end not in found.wheels:
        return replace(nothing, why_not=CANNOT_BE_JUDGED)
    after, before = found.wheels[end], fitted.wheels.get(end)
    stop, was = found.stop_flat, fitted.stop_flat
    return replace(
        nothing,
        verdict=after.verdict,
        smallest=after.smallest,
        gain=None if before is None else after.smallest - before.smallest,
        stop_by_m=None if stop is None or was is None else stop.distance_m - was.distance_m,
    )


def _stop_by_m(
    job: Job, end: End, evaluation: Evaluation, rung: Candidate, tracks: Mapping[str, Track]
) -> float | None:
    """What a rung of parts on one wheel, the other as it is, makes of the stop on the flat."""
    was = evaluation.fitted.stop_flat if evaluation.fitted else None
    if evaluation.situation is None or was is None:
        return None
    proposal = Proposal(**{end.value: rung.ids})
    other = job.model_copy(update={"proposal": proposal})
    found = evaluate_setup(other, SetupName.PROPOSED, evaluation.mountings, evaluation.situation, tracks)
    return None if found.stop_flat is None else found.stop_flat.distance_m - was.distance_m


def ladder_of(job: Job, end: End, evaluation: Evaluation, choice: Choice, tracks: Mapping[str, Track]) -> Ladder:
    """What is free first; of each rung of parts the best verdict, then the greatest least margin, then the least
    money."""
    now = evaluation.fitted.wheels.get(end) if evaluation.fitted else None
    before = now.smallest if now else None
    free = [_free(row, job, end, evaluation, tracks) for row in FREE]
    rest = []
    for row in RUNGS:
        on_rung = [c for c in choice.candidates if row.must <= c.setup.new <= row.may]
        best = min(on_rung, key=lambda c: (RANK[c.verdict], -round(c.smallest, 3), c.price), default=None)
        if best is None:
            why = "nothing in the catalogue goes with what stays"
            rest.append(Rise(row.rung, row.words, None, Verdict.UNKNOWN, 0.0, None, 0.0, why))
            continue
        gain = None if before is None else best.smallest - before
        stop_by_m = _stop_by_m(job, end, evaluation, best, tracks)
        rest.append(Rise(row.rung, row.words, best, best.verdict, best.smallest, gain, best.price, stop_by_m=stop_by_m))
    rest.sort(key=lambda s: (s.candidate is None, -(s.per_100 or 0.0) if s.gain is not None else 0.0))
    return Ladder(before, now.verdict if now else Verdict.UNKNOWN, (*free, *rest))
