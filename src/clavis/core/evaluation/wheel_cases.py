"""One wheel of one setup before any ride: its brake, how it fits, what is missing, what it costs, what is open."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from clavis.core.evaluation.open_points import (
    Matter,
    OpenPoint,
    conditions_open,
    distinct,
    missing_points,
    point_of_check,
)
from clavis.core.evaluation.parts_list import Changes, PartLine, changes_of, parts_list
from clavis.core.evaluation.setups import WheelSetup, brake_of, lacks_of, setup_with
from clavis.core.evaluation.situation import Lack
from clavis.core.evaluation.view_conditions import Age, aged
from clavis.core.fit.checks import CheckResult, results_of
from clavis.core.fit.fit import Fit, fit_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Job
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import NONE
from clavis.core.job.resolved_wheel import ResolvedWheel, resolve_wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.links import Link
from clavis.core.parts.models import Brake
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Severity

Mountings = Mapping[End, Mounting]


def mountings_of(job: Job, catalogue: Catalogue) -> Mountings:
    """Both wheels of a job, resolved, with the shelf beside them."""
    return {end: Mounting(resolve_wheel(job, end, catalogue), catalogue) for end in End}


@dataclass(frozen=True)
class WheelCase:
    """One wheel of one setup. ``setup`` is None where its brake is not whole, and ``lacks`` say what is missing."""

    fit_case: FitCase
    setup: WheelSetup | None
    lacks: tuple[Lack, ...]
    checks: tuple[CheckResult, ...]
    changes: Changes | None
    lines: tuple[PartLine, ...]
    points: tuple[OpenPoint, ...]

    @property
    def wheel(self) -> ResolvedWheel:
        return self.fit_case.wheel

    @property
    def brake(self) -> Brake:
        return self.fit_case.brake

    @property
    def fit(self) -> Fit | None:
        """None while rotor or caliper is not known."""
        return fit_of(self.fit_case, self.checks)

    @property
    def rideable(self) -> bool:
        """It is whole, and may have figures: nothing is open that leaves them to guessing."""
        return self.setup is not None and self.setup.rideable and not any(p.voids for p in self.points)


def points_of_checks(end: End, checks: Iterable[CheckResult]) -> tuple[OpenPoint, ...]:
    return tuple(p for c in checks if (p := point_of_check(end, c)) is not None)


def _worn_beyond_telling(setup: WheelSetup, age: Age | None) -> list[OpenPoint]:
    """A new rotor seen worn whose minimum nobody knows; of the one that is on it the conditions tell."""
    if age is not Age.WORN or setup.rotor == setup.wheel.on_it.rotor or setup.minimum_mm is not None:
        return []
    words = "minimum thickness neither marked nor known"
    return [
        OpenPoint("no_minimum", setup.end, Link.ROTOR, Severity.UNKNOWN, Matter.CONDITION, "worn rotor", words)
    ]  # fmt: skip


def wheel_case(mounting: Mounting, pick: Pick | None, *, bedded: bool = True, age: Age | None = None) -> WheelCase:
    """The brake that is on a wheel (``pick`` None), or what is picked with the rest as it is, judged as ``bedded`` in
    or not; seen at another ``age`` where one is given."""
    new_wheel = mounting.catalogue.wheels.get(pick.wheel_id or "") if pick is not None else None
    if new_wheel is not None and mounting.new_wheel is None:
        mounting = mounting.with_wheel(new_wheel)
    wheel, catalogue = mounting.wheel, mounting.catalogue
    brake = brake_of(wheel, pick, catalogue)
    case = FitCase.of(mounting, brake, frozenset(pick.renew) if pick else NONE, pick.adapter_id if pick else None)
    checks = results_of(case)
    lacks = tuple(lacks_of(wheel, pick, brake))
    setup: WheelSetup | None = None
    changes: Changes | None = None
    lines: tuple[PartLine, ...] = ()
    points = [*points_of_checks(wheel.end, checks), *missing_points(lacks, wheel.end)]
    if not lacks:
        whole = setup_with(
            wheel, brake, mounting.bottle_for, bedded=bedded, opens_line=case.opens_line, renew=case.renew
        )
        setup = aged(whole, age)
        changes = changes_of(setup, case)
        lines = parts_list(setup, case, changes)
        points += _worn_beyond_telling(setup, age)
    points += conditions_open(case, setup.passes_over if setup else frozenset())
    return WheelCase(case, setup, lacks, checks, changes, lines, distinct(points))
