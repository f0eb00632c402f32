"""What is done to one wheel: the answers that decide which steps and torques stand in the order."""

from dataclasses import dataclass

from clavis.core.evaluation.evaluate import Evaluation, SetupName, WheelResult
from clavis.core.evaluation.parts_list import Changes, PartLine
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.fit.fit import Fit
from clavis.core.job.document import Job
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Axis, HubInterface
from clavis.core.parts.mounts import End
from clavis.core.records import digest


@dataclass(frozen=True)
class WheelWork:
    """One wheel whose brake is whole and on which something is changed. ``result`` is None where the ride cannot be
    computed."""

    end: End
    setup: WheelSetup
    fit: Fit
    changes: Changes
    lines: tuple[PartLine, ...]
    result: WheelResult | None
    assisted: bool
    cutoff: bool
    """the lever carries the motor's cut-off switch"""

    @property
    def wheel(self) -> Wheel:
        return self.setup.wheel.measured

    def new(self, axis: Axis) -> bool:
        return axis in self.changes.parts

    @property
    def stamp(self) -> str:
        """What a tick belongs to: with other parts, or other work, the step has to be done again."""
        told = [f"{line.what}|{line.part_id}|{line.name}|{line.quantity}" for line in self.lines]
        return digest("\n".join([*told, *sorted(self.setup.renew)]))

    @property
    def caliper_moves(self) -> bool:
        """The caliper is unbolted: it, what it stands on, or its bolts are new."""
        return self.changes.bolts

    @property
    def friction(self) -> bool:
        """Pads or rotor are new."""
        return bool(self.changes.parts & {Axis.PAD, Axis.ROTOR})

    @property
    def set_anew(self) -> bool:
        """The caliper has to be set to the rotor again."""
        return self.caliper_moves or self.friction

    @property
    def hydraulic(self) -> bool:
        return not self.changes.cable

    @property
    def one_pad_moves(self) -> bool:
        """A cable caliper with a fixed pad."""
        return self.changes.cable and self.setup.caliper.moving_pads == 1

    @property
    def splined(self) -> bool:
        return self.wheel.hub is HubInterface.SPLINED


def works_of(job: Job, evaluation: Evaluation) -> tuple[WheelWork, ...]:
    """The wheels on which the proposed setup changes something."""
    results = evaluation.proposed.wheels if evaluation.proposed else {}
    works = []
    for end, case in evaluation.cases.get(SetupName.PROPOSED, {}).items():
        setup, fit, changes = case.setup, case.fit, case.changes
        if setup is None or fit is None or changes is None or not changes.anything:
            continue
        assisted, cutoff = job.bike.assisted, job.bike.cutoff_switches
        works.append(WheelWork(end, setup, fit, changes, case.lines, results.get(end), assisted, cutoff))
    return tuple(works)
