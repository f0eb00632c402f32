"""The setups that a trial or a set of readings may be about."""

from dataclasses import dataclass

from clavis.core.job.document import Job
from clavis.core.job.trials import SetupFrom, TrialSide

AS_FITTED, PROPOSED = "fitted", "proposed"


@dataclass(frozen=True)
class SideChoice:
    """A setup that may be one side of a trial."""

    key: str
    name: str
    side: TrialSide


def side_choices(job: Job) -> tuple[SideChoice, ...]:
    """What is on the bike, what is proposed, and what is pinned."""
    out = [SideChoice(AS_FITTED, "as fitted", TrialSide(name="as fitted"))]
    if job.proposes:
        side = TrialSide(name="as proposed", source=SetupFrom.PICKED, front=job.proposal.front, rear=job.proposal.rear)
        out.append(SideChoice(PROPOSED, "as proposed", side))
    for pin in job.pins:
        side = TrialSide(name=pin.name, source=SetupFrom.PICKED, front=pin.front, rear=pin.rear)
        out.append(SideChoice(pin.id, pin.name, side))
    return tuple(out)
