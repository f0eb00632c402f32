"""The work order: parts, torques, steps and cautions, the bedding-in plan, and what is open before it may begin.

What is open comes from the one list of open points; parts and their prices from the one parts list.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from clavis.core.evaluation.evaluate import Evaluation
from clavis.core.evaluation.gate import Gate, gate_of
from clavis.core.evaluation.parts_list import PartLine, price_of
from clavis.core.evaluation.situation import Situation
from clavis.core.fit.bolts import BoltChoice
from clavis.core.fit.plate_release import SPECIAL_CAUTIONS
from clavis.core.job.document import Job, StepTick
from clavis.core.parts.mounts import End
from clavis.core.records import digest
from clavis.core.workshop.bedding import BeddingPlan, bedding_plan
from clavis.core.workshop.steps import CAUTIONS, LAYS_BOLTS, ONCE_FOR_THE_BIKE, STEPS, StepRow, Topic
from clavis.core.workshop.torques import TorqueLine, torques_of
from clavis.core.workshop.wheel_work import WheelWork, works_of

OF_THE_BIKE = "bike"
"""in the key of a step that is done once"""


@dataclass(frozen=True)
class OrderedStep:
    """A step as it stands in this order. ``key`` is what a tick is kept under, ``stamp`` the work that a tick belongs
    to; ``end`` is None where it is done once for the bike."""

    key: str
    row: StepRow
    number: int
    end: End | None
    torques: tuple[TorqueLine, ...]
    stamp: str


@dataclass(frozen=True)
class OrderSection:
    """Steps that follow each other: of the bike, or of one wheel."""

    end: End | None
    topics: tuple[Topic, ...]
    steps: tuple[OrderedStep, ...]


@dataclass(frozen=True)
class WheelOrder:
    work: WheelWork
    torques: tuple[TorqueLine, ...]
    situation: Situation | None

    @cached_property
    def bedding(self) -> BeddingPlan | None:
        """Worked out when it is looked at: a hundred short rides by the heat model. None where nothing is bedded in, or
        the ride cannot be computed."""
        work = self.work
        if not work.beds_in or work.result is None or self.situation is None:
            return None
        return bedding_plan(work.result, self.situation)


@dataclass(frozen=True)
class WorkOrder:
    """The whole order, and the gate that it has to pass: before it is begun, and before it is signed."""

    wheels: tuple[WheelOrder, ...]
    sections: tuple[OrderSection, ...]
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
    def stamp(self) -> str:
        """What was quoted and accepted: with other parts, or other work, it is another order."""
        return digest("|".join(wheel.work.stamp for wheel in self.wheels))

    @property
    def steps(self) -> tuple[OrderedStep, ...]:
        return tuple(step for section in self.sections for step in section.steps)

    @property
    def torques(self) -> tuple[TorqueLine, ...]:
        return tuple(line for wheel in self.wheels for line in wheel.torques)

    def ticked(self, job: Job) -> dict[str, StepTick]:
        """The steps that are done, or skipped for a reason, by their keys. A step that was done for other parts, to
        another torque, or in another workshop, is not."""
        return {
            step.key: tick
            for step in self.steps
            if (tick := job.ticks.get(step.key)) is not None and tick.work == step.stamp and tick.given_here
        }

    def accepted_by(self, job: Job) -> bool:
        """Whether the customer accepted this very order."""
        return job.accepted is not None and job.accepted.given_here and job.accepted.work == self.stamp

    def next_step(self, job: Job) -> OrderedStep | None:
        """The first that is neither done nor skipped."""
        done = self.ticked(job)
        return next((step for step in self.steps if step.key not in done), None)

    def step_of(self, key: str) -> OrderedStep | None:
        """None where the order has no such step."""
        return next((step for step in self.steps if step.key == key), None)

    def bolts_of(self, step: OrderedStep) -> tuple[BoltChoice, ...]:
        """The bolts that a step lays, place by place; none where it lays none."""
        if step.row.key != LAYS_BOLTS:
            return ()
        return next((w.work.fit.bolts for w in self.wheels if w.work.end is step.end), ())

    def may_be_signed(self, job: Job) -> bool:
        """Every step is done and nothing is open that bars it."""
        return bool(self.steps) and len(self.ticked(job)) == len(self.steps) and self.gate.may_sign


BENCH_TOPICS = (Topic.OFF, Topic.ROTOR, Topic.MOUNT, Topic.LINE, Topic.PADS, Topic.CENTRE, Topic.SET)
"""what is done at one wheel before the other is begun"""
_RUN: tuple[tuple[Topic, ...], ...] = ((Topic.PREPARE,), BENCH_TOPICS, (Topic.CHECKS,), (Topic.ROAD,), (Topic.AFTER,))


def _rows(topics: tuple[Topic, ...]) -> list[StepRow]:
    return [row for topic in topics for row in STEPS if row.topic is topic]


def _sections(wheels: tuple[WheelOrder, ...]) -> Iterator[OrderSection]:
    """Once for the bike, then wheel by wheel, the checks once, bedding in wheel by wheel, and what comes after."""
    number = 0
    everything = digest("|".join(wheel.work.stamp for wheel in wheels))

    def step(row: StepRow, end: End | None, torques: tuple[TorqueLine, ...], stamp: str) -> OrderedStep:
        nonlocal number
        number += 1
        own = tuple(line for line in torques if line.kind in row.fastens)
        figures = "|".join(f"{line.key}{line.figures}" for line in own)
        place = OF_THE_BIKE if end is None else end.value
        return OrderedStep(f"{place}:{row.key}", row, number, end, own, digest(stamp + figures))

    for topics in _RUN:
        rows = _rows(topics)
        if topics[0] in ONCE_FOR_THE_BIKE:
            torques = tuple(line for wheel in wheels for line in wheel.torques)
            found = [step(r, None, torques, everything) for r in rows if any(r.when(w.work) for w in wheels)]
            yield OrderSection(None, topics, tuple(found))
            continue
        for wheel in wheels:
            work = wheel.work
            yield OrderSection(
                work.end, topics, tuple(step(r, work.end, wheel.torques, work.stamp) for r in rows if r.when(work))
            )


def work_order(job: Job, evaluation: Evaluation) -> WorkOrder:
    """The order for the proposed setup: only wheels on which something is done have steps."""
    works = works_of(job, evaluation)
    wheels = tuple(WheelOrder(work, torques_of(job, work), evaluation.situation) for work in works)
    special = any(work.fit.plate is not None for work in works)
    sections = tuple(section for section in _sections(wheels) if section.steps)
    return WorkOrder(wheels, sections, CAUTIONS + (SPECIAL_CAUTIONS if special else ()), gate_of(job, evaluation))
