"""The head line of a job: rider and bike in one sentence, the complaint, and what its verdict rests on."""

from clavis.core.evaluation.evaluate import SetupResult
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.job.document import HandSize, Job
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import WET_SURFACES, BikeKind
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say
from clavis.core.verdicts import Severity


def rider_sentence(job: Job) -> Sentence:
    """Rider and bike in one sentence, from what is entered; says what is not."""
    bike, load = job.bike, job.load
    kind: Words = "bike of unknown kind"
    if bike.kind is not None:
        kind = "tandem" if bike.kind is BikeKind.TANDEM else say("{kind} bike", kind=bike.kind)
    carried = [
        words
        for words, mass_kg in (
            ("passengers", load.passengers_kg),
            ("luggage", load.luggage_kg),
            ("a trailer", load.trailer_kg),
        )
        if mass_kg
    ]
    loads = joined(carried, ", ", " and ")
    use = bike.use if bike.use is not None and bike.use.value != (bike.kind or "") else None
    return say(
        "{name}{hands} on {bike:a}{use}{loads}{wet}",
        name=job.rider.name or "Rider",
        hands=", small hands," if job.rider.hands is HandSize.SMALL else "",
        bike=say("assisted {kind}", kind=kind) if bike.assisted else say("{kind}", kind=kind),
        use=say(" for {use}", use=use) if use else "",
        loads=say(" with {loads}", loads=loads) if loads else "",
        wet=", in the wet" if job.conditions.surface in WET_SURFACES else "",
    )


def complaint_sentence(job: Job) -> Sentence:
    if not job.complaints:
        return say("No complaint entered")
    listed = joined([say("{complaint}", complaint=c) for c in job.complaints], ", ")
    return say("{listed:cap}", listed=listed)


def setup_sentence(setup: SetupResult | None) -> Sentence:
    """What the verdict rests on: of each wheel the gravest thing that is open, and how many more there are."""
    if setup is None:
        return say("not enough entered to judge")
    open_points = [p for p in setup.points if p.severity not in (Severity.NOTE, Severity.UNSEEN)]
    unseen = _unseen(setup)
    if not open_points:
        if unseen:
            return say("both wheels hold, if in order: {unseen}, not yet checked", unseen=unseen)
        return say("both wheels hold with the margins asked for")
    nothing_yet = all(p.matter is Matter.MISSING and p.settles.startswith("proposal.") for p in open_points)
    if nothing_yet:
        return say("no disc brake on it yet")
    of_wheels = [_of_wheel(end, [p for p in open_points if p.end is end]) for end in End]
    of_bike = [p.words for p in open_points if p.end is None and p.matter is not Matter.MISSING]
    of_job = [p.words for p in open_points if p.end is None and p.matter is Matter.MISSING]
    needed = say("still needed: {what}", what=joined(of_job, ", ")) if of_job else NOTHING
    settled = all(p.severity is Severity.TIGHT for p in open_points)
    condition = say("if in order: {unseen}, not yet checked", unseen=unseen) if settled and unseen else NOTHING
    return joined([*of_bike, *of_wheels, needed, condition])


MOST_UNSEEN = 3


def _unseen(setup: SetupResult) -> Sentence:
    """What a verdict rests on that nobody has looked at yet; nothing where all was looked at."""
    by_end = {end: [p.label for p in setup.points_of(end) if p.severity is Severity.UNSEEN] for end in End}
    front, rear = (by_end[end] for end in End)
    if front == rear:
        return _named(front)
    told = [say("{what} ({end})", what=_named(labels), end=end) for end, labels in by_end.items() if labels]
    return joined(told, ", ")


def _named(labels: list[Words]) -> Sentence:
    """The first few by name, and how many more there are."""
    if len(labels) <= MOST_UNSEEN + 1:
        return joined(labels, ", ", " and ")
    more = say("{others} more", others=len(labels) - MOST_UNSEEN)
    return joined([*labels[:MOST_UNSEEN], more], ", ", " and ")


def _of_wheel(end: End, points: list[OpenPoint]) -> Sentence:
    """The gravest of one wheel's points, in words."""
    told = [p for p in points if p.matter is not Matter.MISSING]
    missing = [p for p in points if p.matter is Matter.MISSING]
    if missing and not any(p.grave for p in told):
        return say("{end}: not enough entered", end=end)
    if not told:
        return NOTHING
    more = say(" (and {others} more)", others=len(told) - 1) if len(told) > 1 else NOTHING
    return say("{end}: {words}{more}", end=end, words=told[0].words, more=more)
