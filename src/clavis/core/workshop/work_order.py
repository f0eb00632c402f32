"""The work order: parts, torques, steps and cautions, the bedding-in plan, and what is open before it may begin.

What is open comes from the one list of open points; parts and their prices from the one parts list.
"""

from dataclasses import dataclass

from clavis.core.evaluation.evaluate import Evaluation
from clavis.core.evaluation.gate import Gate, gate_of
from clavis.core.evaluation.parts_list import PartLine, price_of
from clavis.core.fit.plate_release import SPECIAL_CAUTIONS
from clavis.core.job.document import Job, StepTick
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
    """The whole order, and the gate that it has to pass: before it is begun, and before it is signed."""

    wheels: tuple[WheelOrder, ...]
    cautions: tuple[str, ...]
    gate: Gate

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

    @property
    def steps(self) -> int:
        return sum(len(wheel.steps) for wheel in self.wheels)

    def ticked(self, job: Job) -> dict[str, StepTick]:
        """The steps that are done, by their keys. A step that was done for other parts is not."""
        return {
            step.key: tick
            for wheel in self.wheels
            for step in wheel.steps
            if (tick := job.ticks.get(step.key)) is not None and tick.work == wheel.work.stamp
        }

    def step_of(self, key: str) -> WheelOrder | None:
        """The wheel that a step belongs to; None where the order has no such step."""
        return next((wheel for wheel in self.wheels if key in {step.key for step in wheel.steps}), None)

    def may_be_signed(self, job: Job) -> bool:
        """Every step is done and nothing is open that bars it."""
        return self.steps > 0 and len(self.ticked(job)) == self.steps and self.gate.may_sign


def work_order(job: Job, evaluation: Evaluation) -> WorkOrder:
    """The order for the proposed setup: only wheels on which something is done have steps."""
    situation, wheels = evaluation.situation, []
    for work in works_of(job, evaluation):
        plan = bedding_plan(work.result, situation) if work.changes.beds_in and work.result and situation else None
        wheels.append(WheelOrder(work, steps_of(work), torques_of(work), plan))
    special = any(w.work.fit.plate is not None for w in wheels)
    return WorkOrder(tuple(wheels), CAUTIONS + (SPECIAL_CAUTIONS if special else ()), gate_of(job, evaluation))
