"""The work order: parts, torques, steps and cautions, the bedding-in plan, and what is open before it may begin.

What is open comes from the one list of open points; parts and their prices from the one parts list.
"""

from dataclasses import dataclass

from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.evaluation.open_points import Matter, OpenPoint
from clavis.core.evaluation.parts_list import PartLine, price_of
from clavis.core.fit.plate_release import SPECIAL_CAUTIONS
from clavis.core.job.document import Job
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Verdict
from clavis.core.workshop.bedding import BeddingPlan, bedding_plan
from clavis.core.workshop.steps import CAUTIONS, OrderedStep, steps_of
from clavis.core.workshop.torques import TorqueLine, torques_of
from clavis.core.workshop.wheel_work import WheelWork, works_of


@dataclass(frozen=True)
class WheelOrder:
    work: WheelWork
    steps: tuple[OrderedStep, ...]
    torques: tuple[TorqueLine, ...]
    bedding: BeddingPlan | None


@dataclass(frozen=True)
class WorkOrder:
    """The whole order. ``blocks`` are the reasons why it must not be carried out yet, ``warnings`` what the setup does
    not do once it is carried out, ``trial`` what can only be read at the trial fit: the order is not signed off before
    it is."""

    wheels: tuple[WheelOrder, ...]
    cautions: tuple[str, ...]
    blocks: tuple[OpenPoint, ...]
    warnings: tuple[OpenPoint, ...]
    trial: tuple[OpenPoint, ...]

    @property
    def lines(self) -> tuple[PartLine, ...]:
        return tuple(line for wheel in self.wheels for line in wheel.work.lines)

    @property
    def total(self) -> float:
        return price_of(self.lines)

    @property
    def unpriced(self) -> int:
        """Lines without a price: the total is without them."""
        return sum(line.cost is None for line in self.lines)


def _blocks(point: OpenPoint) -> bool:
    """Parts that do not go together or are not known to, and a kept part that is wrong, come before any work."""
    if point.matter is Matter.TOGETHER:
        return point.verdict in (Verdict.FAILS, Verdict.UNKNOWN)
    return point.matter is Matter.CONDITION and point.grave


def work_order(job: Job, evaluation: Evaluation) -> WorkOrder:
    """The order for the proposed setup: only wheels on which something is done have steps."""
    situation, wheels = evaluation.situation, []
    for work in works_of(job, evaluation):
        beds = bool(work.changes.parts & {Axis.PAD, Axis.ROTOR})
        plan = bedding_plan(work.result, situation) if beds and work.result and situation else None
        wheels.append(WheelOrder(work, steps_of(work), torques_of(work), plan))
    ends: set[End | None] = {w.work.end for w in wheels}
    points = evaluation.points(SetupName.PROPOSED)
    here = [p for p in points if p.end in ends]
    special = any(w.work.fit.plate is not None for w in wheels)
    return WorkOrder(
        wheels=tuple(wheels),
        cautions=CAUTIONS + (SPECIAL_CAUTIONS if special else ()),
        blocks=tuple(p for p in here if _blocks(p)),
        warnings=tuple(p for p in points if p.matter is Matter.RIDE and p.grave),
        trial=tuple(p for p in here if p.matter is Matter.TRIAL),
    )
