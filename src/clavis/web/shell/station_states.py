"""What each station says of itself on the way through a job: done, what it lacks, or a conflict."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.conditions import FindingKind
from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.inspection.findings import Finding
from clavis.core.job.document import Job
from clavis.core.job.places import Place, Task
from clavis.core.keeping.due import Urgency
from clavis.core.proving.statistics import BLOCK
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict
from clavis.core.workshop.sign_off import SignedState, Validity
from clavis.core.workshop.work_order import WorkOrder
from clavis.web.shell.rooms import Station, station_of


class StationState(StrEnum):
    DONE = "done"
    LACKS = "lacks"
    CONFLICT = "conflict"
    OPEN = "open"


@dataclass(frozen=True)
class StationView:
    station: Station
    state: StationState
    words: Words
    at: Place | Task | str = ""
    """where what it lacks is entered or done; empty: the station's own page"""


def _done(station: Station, done: bool, open_words: Words) -> StationView:
    return StationView(station, StationState.DONE if done else StationState.OPEN, "done" if done else open_words)


def _lacking(station: Station, missing: Sequence[OpenPoint]) -> StationView:
    words = "lacks {first} +{others}" if len(missing) > 1 else "lacks {first}"
    told = say(words, first=missing[0].words, others=len(missing) - 1)
    return StationView(station, StationState.LACKS, told, missing[0].settles)


def _measure(findings: Sequence[Finding], missing: Sequence[OpenPoint]) -> StationView:
    """A stop first, then evidence that disagrees, then what is missing."""
    for kind, words in ((FindingKind.STOP, "stop: {about}"), (FindingKind.MEASURE, "{end}: {about}")):
        found = next((f for f in findings if f.kind is kind), None)
        if found is not None and (kind is FindingKind.STOP or not missing):
            told = say(words, about=found.about, end=found.end)
            state = StationState.CONFLICT if kind is FindingKind.STOP else StationState.LACKS
            return StationView(Station.MEASURE, state, told, found.place)
    return _lacking(Station.MEASURE, missing) if missing else _done(Station.MEASURE, True, "")


def _fit(points: Sequence[OpenPoint]) -> StationView | None:
    """What does not go together of the setup that is shown; None where nothing speaks against it."""
    together = [p for p in points if p.matter is Matter.TOGETHER]
    for verdict, state in ((Verdict.FAILS, StationState.CONFLICT), (Verdict.UNKNOWN, StationState.LACKS)):
        found = next((p for p in together if p.verdict is verdict), None)
        if found is not None:
            return StationView(Station.FIT, state, found.told, found.settles)
    return None


def _build(job: Job, order: WorkOrder, signed: SignedState, waits: Words) -> StationView | None:
    """What bars the order, or how far it is; None where there is none and never was."""
    if signed.validity is Validity.VOID:
        return StationView(Station.BUILD, StationState.CONFLICT, say("sign-off void: {why}", why=signed.why))
    if order.wheels and not order.gate.may_work:
        return StationView(Station.BUILD, StationState.CONFLICT, order.gate.why)
    if order.wheels:
        done = len(order.ticked(job))
        words = waits or (say("{done} of {steps} ticked", done=done, steps=len(order.steps)) if done else "not begun")
        return StationView(Station.BUILD, StationState.OPEN, words)
    return _done(Station.BUILD, True, "") if signed.validity is Validity.STANDS else None


def _prove(job: Job) -> StationView:
    """How far the trials are; done where all that was planned is ridden, or the model is calibrated."""
    ridden = {trial.id: len({run.place for run in trial.counted}) for trial in job.trials}
    planned = sum(BLOCK * trial.blocks for trial in job.trials)
    if job.learnt is not None:
        return StationView(Station.PROVE, StationState.DONE, "calibrated")
    if not job.trials:
        words = "readings, not accepted" if job.heat_sets else "no runs"
        return StationView(Station.PROVE, StationState.OPEN, words)
    done = sum(ridden.values())
    state = StationState.DONE if done >= planned else StationState.OPEN
    return StationView(Station.PROVE, state, say("{done} of {planned} runs", done=done, planned=planned))


def _keep(due: Sequence[tuple[Urgency, str]]) -> StationView:
    """The gravest thing that is due of the bike, and how many more there are."""
    if not due:
        return StationView(Station.KEEP, StationState.OPEN, "nothing due")
    urgency, about = due[0]
    state = StationState.CONFLICT if urgency is Urgency.UNSAFE else StationState.OPEN
    words = "{urgency} {about} +{others}" if len(due) > 1 else "{urgency} {about}"
    return StationView(Station.KEEP, state, say(words, urgency=urgency, about=about, others=len(due) - 1))


def _missing(evaluation: Evaluation, proposes: bool) -> Iterator[OpenPoint]:
    """What is missing of the setup that is fitted; what a proposal settles, of the proposal."""
    for name in (SetupName.FITTED, SetupName.PROPOSED) if proposes else (SetupName.FITTED,):
        for point in evaluation.points(name):
            of_proposal = point.settles.startswith("proposal.")
            if point.matter is Matter.MISSING and (not proposes or of_proposal == (name is SetupName.PROPOSED)):
                yield point


def station_views(
    job: Job,
    evaluation: Evaluation,
    findings: Sequence[Finding],
    order: WorkOrder,
    signed: SignedState,
    waits: Words = "",
    due: Sequence[tuple[Urgency, str]] = (),
) -> tuple[StationView, ...]:
    """Every station in order; ``waits`` is for which parts the job waits, ``due`` what its bike needs, the gravest
    first."""
    missing: dict[Station, list[OpenPoint]] = {station: [] for station in Station}
    proposes = job.proposes
    for point in _missing(evaluation, proposes):
        missing[station_of(point.settles)].append(point)

    def plain(station: Station, done: bool = True, open_words: Words = "") -> StationView:
        return _lacking(station, missing[station]) if missing[station] else _done(station, done, open_words)

    intake = plain(Station.INTAKE, bool(job.complaints), "no complaint")
    if evaluation.problem:
        intake = StationView(Station.INTAKE, StationState.CONFLICT, evaluation.problem)
    return (
        intake,
        _measure(findings, missing[Station.MEASURE]),
        plain(Station.RIDE, bool(job.rides), "no ride yet"),
        plain(Station.CHOOSE, proposes, "no proposal"),
        _fit(evaluation.points(SetupName.PROPOSED)) or plain(Station.FIT, proposes, "no proposal"),
        _build(job, order, signed, waits) or plain(Station.BUILD, False, "no order"),
        _prove(job),
        _keep(due),
    )
