"""What could be taken in the place of one proposed part, with the rest as it is: it goes together as before, and holds
no worse."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from clavis.core.evaluation.evaluate import Evaluation, SetupName, wheel_result
from clavis.core.evaluation.parts_list import price_of
from clavis.core.evaluation.wheel_cases import wheel_case
from clavis.core.fit.bolts import BoltChoice, Rack, also_do
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.job.document import Job
from clavis.core.parts.models import AnyPart, Axis, Bolt
from clavis.core.parts.mounts import End
from clavis.core.verdicts import RANK, Verdict


@dataclass(frozen=True)
class Substitute:
    """A part that would do: the verdict of its wheel, and what the wheel's parts list then costs more."""

    part: AnyPart
    verdict: Verdict
    dearer: float


MOST_SUBSTITUTES = 4


def other_bolts(choices: Iterable[BoltChoice], part_id: str, stock: Sequence[Bolt]) -> tuple[Bolt, ...]:
    """Other stock bolts that would do at every place where one bolt was chosen."""
    places = [choice for choice in choices if choice.bolt is not None and choice.bolt.id == part_id]
    if not places:
        return ()
    rack = Rack.of(stock)
    ways = [{bolt.id for bolt in also_do(choice, rack)} for choice in places]
    return tuple(bolt for bolt in also_do(places[0], rack) if all(bolt.id in way for way in ways))


def substitutes_of(
    job: Job, evaluation: Evaluation, end: End, axis: Axis, most: int = MOST_SUBSTITUTES
) -> tuple[Substitute, ...]:
    """Parts of the kind against which nothing speaks that did not speak before, whose wheel is judged no worse; the
    nearest in price first. None at all while the wheel cannot be judged."""
    proposed, situation = evaluation.proposed, evaluation.situation
    now = proposed.wheels.get(end) if proposed else None
    if proposed is None or situation is None or now is None or proposed.load is None or proposed.demand is None:
        return ()
    case, on = evaluation.cases[SetupName.PROPOSED][end], evaluation.place_for(end)
    present, known = case.brake.of(axis), {(p.code, p.severity) for p in case.points}
    found: list[Substitute] = []
    for part in on.catalogue.of_kind(axis.value).values():
        if not part.offered or part == present or part_refusals(on, case.brake, part):
            continue
        pick = job.proposal.of(end).model_copy(update={f"{axis.value}_id": part.id, "adapter_id": None})
        other = wheel_case(on, pick, bedded=job.proposal.bedded)
        if other.setup is None or not other.rideable or {(p.code, p.severity) for p in other.points} - known:
            continue
        result = wheel_result(other.setup, situation, proposed.demand.alone, proposed.load, other.points)
        if RANK[result.verdict] <= RANK[now.verdict]:
            found.append(Substitute(part, result.verdict, price_of(other.lines) - price_of(case.lines)))
    found.sort(key=lambda s: (abs(s.dearer), s.part.id))
    return tuple(found[:most])
