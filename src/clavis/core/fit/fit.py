"""Fit: one brake on one wheel, with its chain, its bolts and every check, all from the same numbers (docs/model.md, section 10;
``mount_geometry`` has the coordinates, ``drawing`` the shapes)."""

from dataclasses import dataclass

from clavis.core.fit.adapters import ChainAnswer
from clavis.core.fit.bolts import BoltChoice
from clavis.core.fit.checks import CheckResult
from clavis.core.fit.mount_geometry import Seat, Stand
from clavis.core.fit.mounting import FitCase, FittedBolt
from clavis.core.fit.special_plate import Plate
from clavis.core.fit.stacks import TO_MOUNT
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.parts.models import Caliper, Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Verdict, worst


@dataclass(frozen=True)
class Fit:
    """The fit of one whole brake on one wheel."""

    case: FitCase
    rotor: Rotor
    caliper: Caliper
    pad: Pad | None
    chain: ChainAnswer
    checks: tuple[CheckResult, ...]

    @property
    def wheel(self) -> ResolvedWheel:
        return self.case.wheel

    @property
    def end(self) -> End:
        return self.case.wheel.end

    @property
    def plate(self) -> Plate | None:
        """The special plate that an engineer has released for it."""
        return self.case.plate

    @property
    def seat(self) -> Seat | None:
        return None if self.plate is not None else self.case.on.seat

    @property
    def stand(self) -> Stand | None:
        return self.case.stand

    @property
    def fitted_bolts(self) -> tuple[FittedBolt, ...]:
        return self.case.bolts

    @property
    def to_mount(self) -> tuple[FittedBolt, ...]:
        """The bolts that take the place of those that are at the mount now, as far as one was found."""
        return tuple(b for b in self.fitted_bolts if b.run in TO_MOUNT and b.choice.bolt is not None)

    @property
    def bolts(self) -> tuple[BoltChoice, ...]:
        return tuple(b.choice for b in self.fitted_bolts)

    @property
    def pad_edge_mm(self) -> float | None:
        return None if self.stand is None else self.stand.edge_error_mm(self.rotor.diameter_mm)

    @property
    def clearances(self) -> tuple[CheckResult, ...]:
        """What has to clear what, and where the pads stand: the checks that the drawing shows."""
        return tuple(c for c in self.checks if c.row.drawn)

    @property
    def verdict(self) -> Verdict:
        """The worst of its checks; what only the trial fit can tell waits for it."""
        found = [c.verdict for c in self.checks if not c.at_trial]
        return worst([*found, Verdict.UNKNOWN] if self.chain.unknown else found)


def fit_of(case: FitCase, checks: tuple[CheckResult, ...]) -> Fit | None:
    """The fit of a brake, with what the checks say of it; None while its rotor or caliper is not known."""
    if case.rotor is None or case.caliper is None or case.chain is None:
        return None
    return Fit(case, case.rotor, case.caliper, case.pad, case.chain, checks)
