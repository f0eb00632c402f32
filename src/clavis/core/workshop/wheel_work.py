"""What is done to one wheel: the answers that decide which steps and torques stand in the order."""

from dataclasses import dataclass

from clavis.core.evaluation.evaluate import Evaluation, SetupName, WheelResult
from clavis.core.evaluation.parts_list import Changes, PartLine
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.fit.fit import Fit
from clavis.core.fit.mounting import FittedBolt
from clavis.core.fit.stacks import Run
from clavis.core.job.document import BikeHeld, Job
from clavis.core.job.renewal import Renewal
from clavis.core.job.wheel import FittedBrake, LineRuns, Wheel
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
    inverted: bool
    """the bike stands on saddle and bars while it is worked on"""

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
    def was_disc(self) -> bool:
        """A disc brake is on the wheel already."""
        return self.setup.wheel.on_it.caliper is not None

    @property
    def opened(self) -> bool:
        """Something is taken apart or filled anew; a brake that is only bedded in stays as it is."""
        changes = self.changes
        return self.set_anew or changes.opens_line or changes.hose or changes.wheel or bool(changes.parts)

    @property
    def converts(self) -> bool:
        """A brake of another kind comes off."""
        return self.wheel.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER)

    @property
    def caliper_moves(self) -> bool:
        """The caliper is unbolted: it, what it stands on, or its bolts are new."""
        return self.changes.bolts

    @property
    def on_adapter(self) -> bool:
        """The caliper is unbolted and goes on an adapter."""
        return self.caliper_moves and self.fit.chain.adapter is not None

    @property
    def friction(self) -> bool:
        """Pads or rotor are new."""
        return bool(self.changes.parts & {Axis.PAD, Axis.ROTOR})

    @property
    def beds_in(self) -> bool:
        return self.changes.beds_in

    @property
    def set_anew(self) -> bool:
        """The caliper has to be set to the rotor again."""
        return self.caliper_moves or self.friction

    @property
    def tightened(self) -> tuple[FittedBolt, ...]:
        """The bolts of caliper and adapter that are tightened: all where the caliper is unbolted; where it is only set
        anew those that it is centred by, which is not what holds an adapter."""
        laid = self.fit.fitted_bolts
        if self.caliper_moves:
            return laid
        own = tuple(bolt for bolt in laid if bolt.run is Run.CALIPER_TO_PART)
        return (own or laid) if self.set_anew else ()

    @property
    def hydraulic(self) -> bool:
        return not self.changes.cable

    @property
    def inside(self) -> bool | None:
        """The line runs through frame or fork; None where nobody has noted it."""
        return None if self.wheel.line_runs is None else self.wheel.line_runs is LineRuns.INSIDE

    @property
    def line_parted(self) -> bool:
        """The line is taken off lever or caliper."""
        return bool(self.changes.parts & {Axis.LEVER, Axis.CALIPER})

    @property
    def lever_end_only(self) -> bool:
        """Of the line nothing but its end at a front lever was open. At the rear the line is long and runs up and down:
        it is filled whole."""
        other = self.new(Axis.CALIPER) or self.changes.hose or Renewal.BLEED in self.setup.renew
        return self.end is End.FRONT and self.new(Axis.LEVER) and not other

    @property
    def one_pad_moves(self) -> bool:
        """A cable caliper with a fixed pad."""
        return self.changes.cable and self.setup.caliper.moving_pads == 1

    @property
    def hub(self) -> HubInterface | None:
        return self.wheel.hub

    @property
    def splined(self) -> bool:
        return self.hub is HubInterface.SPLINED

    @property
    def bolted_rotor(self) -> bool:
        return self.setup.rotor.interface is HubInterface.SIX_BOLT

    @property
    def six_bolt_on_splined(self) -> bool:
        """A six-bolt rotor comes on a splined hub where none was before: with the hub's adapter."""
        was = self.setup.wheel.on_it.rotor
        other = was is None or was.interface is not HubInterface.SIX_BOLT
        return self.splined and self.bolted_rotor and self.new(Axis.ROTOR) and other


def works_of(job: Job, evaluation: Evaluation) -> tuple[WheelWork, ...]:
    """The wheels on which the proposed setup changes something."""
    results = evaluation.proposed.wheels if evaluation.proposed else {}
    works = []
    for end, case in evaluation.cases.get(SetupName.PROPOSED, {}).items():
        setup, fit, changes = case.setup, case.fit, case.changes
        if setup is None or fit is None or changes is None or not changes.anything:
            continue
        works.append(
            WheelWork(
                end=end,
                setup=setup,
                fit=fit,
                changes=changes,
                lines=case.lines,
                result=results.get(end),
                assisted=job.bike.assisted,
                cutoff=job.bike.cutoff_switches,
                inverted=job.held is BikeHeld.INVERTED,
            )
        )
    return tuple(works)
