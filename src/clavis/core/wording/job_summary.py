"""The head line of a job: rider and bike in one sentence, the complaint, the verdict; and the state of its stations."""

from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.evaluate import Evaluation, SetupResult
from clavis.core.evaluation.sheet import boil_distance_m, limit_words
from clavis.core.inspection.findings import FindingKind, findings_of
from clavis.core.job.document import HandSize, Job
from clavis.core.parts.models import Catalogue
from clavis.core.parts.mounts import End, tell_mount
from clavis.core.physics.bike import WET_SURFACES
from clavis.core.verdicts import Verdict
from clavis.core.wording.labels import END_WORDS, choice_word
from clavis.core.workshop.work_order import fits_of


class Station(StrEnum):
    """The eight stations in their order."""

    INTAKE = "intake"
    MEASURE = "measure"
    RIDE = "ride"
    CHOOSE = "choose"
    FIT = "fit"
    BUILD = "build"
    PROVE = "prove"
    KEEP = "keep"


def rider_sentence(job: Job) -> str:
    """Rider and bike in one sentence, from what is entered; says what is not."""
    kind = "bike of unknown kind" if job.bike.kind is None else f"{choice_word(job.bike.kind)} bike"
    if job.bike.kind is not None and job.bike.kind.value == "tandem":
        kind = "tandem"
    name = job.rider.name or "Rider"
    what = f"assisted {kind}" if job.bike.assisted else kind
    with_what = [
        words
        for words, mass in (
            ("passengers", job.load.passengers_kg),
            ("luggage", job.load.luggage_kg),
            ("a trailer", job.load.trailer_kg),
        )
        if mass
    ]
    loads = ", ".join(with_what[:-1]) + " and " + with_what[-1] if len(with_what) > 1 else "".join(with_what)
    hands = ", small hands," if job.rider.hands is HandSize.SMALL else ""
    use = (
        ""
        if job.bike.use is None or job.bike.use.value == (job.bike.kind or "")
        else f" for {choice_word(job.bike.use)}"
    )
    wet = ", in the wet" if job.conditions.surface in WET_SURFACES else ""
    article = "an" if what[0] in "aeiou" else "a"
    return f"{name}{hands} on {article} {what}{use}{' with ' + loads if loads else ''}{wet}"


def complaint_sentence(job: Job) -> str:
    words = ", ".join(choice_word(c) for c in job.complaints)
    return words[:1].upper() + words[1:] if words else "No complaint entered"


def setup_sentence(setup: SetupResult | None) -> str:
    """What the verdict rests on, wheel by wheel, in words with the distance at which the fluid boils."""
    if setup is None or not (setup.wheels or setup.unsafe):
        nothing_yet = setup is not None and setup.lacks and all(lack.station == "choose" for lack in setup.lacks)
        return "no disc brake on it yet" if nothing_yet else "not enough entered to judge"
    parts = list(setup.unsafe)
    for end, wheel in setup.wheels.items():
        if wheel.verdict is Verdict.HOLDS:
            continue
        where = END_WORDS[end].lower()
        refused = [m.label for m in wheel.margins if m.key.startswith("rule_")]
        boils = boil_distance_m(wheel) if not refused else None
        if wheel.verdict is Verdict.FAILS and boils is not None:
            parts.append(f"{where}: the fluid boils at km {boils / 1000:.1f}")
        elif wheel.verdict is Verdict.UNKNOWN:
            parts.append(f"{where}: {wheel.deciding.why_unknown or wheel.deciding.label}")
        elif wheel.verdict is Verdict.FAILS:
            parts.append(f"{where}: {wheel.setup.worn_out or limit_words(wheel)}")
        else:
            parts.append(f"{where}: {wheel.deciding.label} is tight")
    if len(setup.wheels) + len(setup.unsafe) < len(End):
        parts.append(f"{' and '.join(e.value for e in End if e not in setup.wheels)}: not enough entered")
    return "; ".join(parts) if parts else "both wheels hold with the margins asked for"


class StationState(StrEnum):
    DONE = "done"
    LACKS = "lacks"
    CONFLICT = "conflict"
    OPEN = "open"


@dataclass(frozen=True)
class StationView:
    station: Station
    state: StationState
    words: str


def _fit_words(job: Job, evaluation: Evaluation, catalogue: Catalogue) -> StationView | None:
    """What does not fit of the setup that is proposed, or of the one on the bike; None where nothing speaks against it
    or nothing is known yet."""
    setup = evaluation.proposed or evaluation.fitted
    fits = fits_of(job, setup, catalogue)
    for verdict, state in ((Verdict.FAILS, StationState.CONFLICT), (Verdict.UNKNOWN, StationState.LACKS)):
        for end, fit in fits.items():
            if fit.verdict is verdict:
                return StationView(Station.FIT, state, f"{end.value}: {fit.because}")
    return None


def station_views(job: Job, evaluation: Evaluation, catalogue: Catalogue) -> tuple[StationView, ...]:
    """What each station says of itself: done, what it lacks, or a conflict."""
    lacks: dict[str, list[str]] = {}
    for lack in evaluation.lacks:
        lacks.setdefault(lack.station, []).append(lack.words)
    conflicts = []
    for end in End:
        telling = tell_mount(job.wheel(end).mount_spacing_mm, job.wheel(end).bolt_direction, end)
        if telling.conflict:
            conflicts.append(f"{end.value} mount: conflict")
        elif telling.kind is None:
            lacks.setdefault("measure", []).append(f"{end.value} mount")
        if job.wheel(end).largest_rotor_mm is None:
            lacks.setdefault("measure", []).append(f"{end.value} rotor limit")
    if not job.rides:
        lacks.setdefault("ride", ["a ride"])
    stops = [f for f in findings_of(job, catalogue) if f.row.kind is FindingKind.STOP]

    def view(station: Station, done: bool = True, open_words: str = "") -> StationView:
        missing = list(dict.fromkeys(lacks.get(station.value, [])))
        if station is Station.INTAKE and evaluation.problem:
            return StationView(station, StationState.CONFLICT, evaluation.problem)
        if station is Station.MEASURE and conflicts:
            return StationView(station, StationState.CONFLICT, conflicts[0])
        if station is Station.MEASURE and stops:
            return StationView(station, StationState.CONFLICT, f"stop: {stops[0].row.about}")
        if missing:
            more = f" +{len(missing) - 1}" if len(missing) > 1 else ""
            return StationView(station, StationState.LACKS, f"lacks {missing[0]}{more}")
        return StationView(station, StationState.DONE if done else StationState.OPEN, "done" if done else open_words)

    proposes = job.proposal.front != job.proposal.rear or any(job.proposal.front.model_dump().values())
    ticked = len(job.ticks)
    fit_words = _fit_words(job, evaluation, catalogue)
    return (
        view(Station.INTAKE, bool(job.complaints), "no complaint"),
        view(Station.MEASURE),
        view(Station.RIDE),
        view(Station.CHOOSE, proposes, "no proposal"),
        fit_words or view(Station.FIT, proposes, "no proposal"),
        view(Station.BUILD, job.signed_off is not None, f"{ticked} ticked" if ticked else "not begun"),
        view(Station.PROVE, False, "no runs"),
        view(Station.KEEP, False, "no readings"),
    )
