"""Schools: what practitioners rank a wheel's candidates by, each a documented objective (docs/model.md, section 6).

SCHOOLS is the table. Every objective is monotone: of two candidates that differ in one thing that the school looks
at, the one that is better in it never ranks behind.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from clavis.core.evaluation.margins import Judged, Peaks
from clavis.core.evaluation.open_points import (
    OpenPoint,
    conditions_open,
    distinct,
    points_of_ride,
    why_words,
)
from clavis.core.evaluation.parts_list import Changes, PartLine, changes_of, parts_list
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.evaluation.wheel_cases import points_of_checks
from clavis.core.fit.checks import results_of
from clavis.core.fit.mounting import FitCase
from clavis.core.job.document import Pick, School
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.models import Caliper, Construction, Lever, Pad, Rotor
from clavis.core.physics.forces import Hand, WheelForces
from clavis.core.sentences import Words
from clavis.core.verdicts import RANK, Margin, Verdict, worst


@dataclass(frozen=True)
class Standing:
    """All that the schools look at. ``smallest`` is the least relative margin, ``quiet`` the pads' and rotor's score;
    less is better in everything but that margin."""

    verdict: Verdict
    smallest: float
    mass_g: float
    price: float
    grabby: bool
    finger_target_n: float
    quiet: float


def together(standings: Sequence[Standing]) -> Standing:
    """Several wheels as one: the worst verdict and margin, the heavier hand, masses, prices and scores summed."""
    return Standing(
        worst(s.verdict for s in standings),
        min(s.smallest for s in standings),
        sum(s.mass_g for s in standings),
        sum(s.price for s in standings),
        any(s.grabby for s in standings),
        max(s.finger_target_n for s in standings),
        sum(s.quiet for s in standings),
    )


@dataclass(frozen=True)
class Candidate:
    """One feasible combination, held against the ride. ``open_before`` is the worst that is open about it whatever the
    ride; ``points`` has it in full. ``fails`` are the keys of the margins that it fails; what its figures are in full
    is worked out when it is looked at."""

    setup: WheelSetup
    fit_case: FitCase
    hand: Hand
    peaks: Peaks
    open_before: Verdict
    standing: Standing
    fails: frozenset[str]
    judge_it: Callable[[], Judged] = field(repr=False, compare=False)

    @cached_property
    def judged(self) -> Judged:
        return self.judge_it()

    @property
    def rotor(self) -> Rotor:
        return self.setup.rotor

    @property
    def caliper(self) -> Caliper:
        return self.setup.caliper

    @property
    def lever(self) -> Lever:
        return self.setup.lever

    @property
    def pad(self) -> Pad:
        return self.setup.pad

    @property
    def forces(self) -> WheelForces:
        return self.judged.forces

    @property
    def rotor_c(self) -> float:
        return self.peaks.rotor_c

    @property
    def fluid_c(self) -> float | None:
        return self.peaks.fluid_c

    @property
    def margins(self) -> tuple[Margin, ...]:
        return self.judged.margins

    @property
    def mass_g(self) -> float:
        return self.standing.mass_g

    @property
    def verdict(self) -> Verdict:
        return self.standing.verdict

    @property
    def smallest(self) -> float:
        """The least relative margin; −1 where something else is wrong."""
        return self.standing.smallest

    @property
    def price(self) -> float:
        return self.standing.price

    @property
    def changes(self) -> Changes:
        return changes_of(self.setup, self.fit_case)

    @property
    def lines(self) -> tuple[PartLine, ...]:
        """What has to be bought for it."""
        return parts_list(self.setup, self.fit_case, self.changes)

    @cached_property
    def points(self) -> tuple[OpenPoint, ...]:
        """Everything that is open about it, gravest first."""
        setup = self.setup
        checks = points_of_checks(setup.end, results_of(self.fit_case))
        conditions = conditions_open(self.fit_case, setup.passes_over)
        return distinct([*checks, *conditions, *points_of_ride(setup.end, self.judged, self.hand)])

    @property
    def why(self) -> Words:
        """What sets its verdict: the gravest of what is open, or where it holds its least margin."""
        return why_words(self.points, self.margins)

    @property
    def ids(self) -> Pick:
        return Pick(
            rotor_id=self.rotor.id, caliper_id=self.caliper.id, lever_id=self.lever.id, pad_id=self.pad.id,
            renew=tuple(sorted(self.setup.renew)),
        )  # fmt: skip

    @property
    def heat_ids(self) -> tuple[str, str, str]:
        """All but the lever: candidates that share these differ in the hand alone."""
        return self.rotor.id, self.caliper.id, self.pad.id


Key = Callable[[Standing, float | None], tuple[float, ...]]
Objective = Callable[[Standing, float | None], float]


@dataclass(frozen=True)
class SchoolRow:
    """A school's objective: what it asks for in words, the key it sorts by (least first; the second argument is the
    least margin of what is fitted), and what it measures: a figure, its unit, and what more of the winner's side of
    it is called."""

    school: School
    title: str
    words: str
    objective: Key
    measure: Objective
    unit: str
    better: str

    def key(self, s: Standing, fitted: float | None) -> tuple[float, ...]:
        """Where a candidate stands, least first. What fails is never wanted for its mass or its price: of those the
        nearest stands first in every school."""
        if s.verdict is Verdict.FAILS:
            return RANK[Verdict.FAILS], -s.smallest, s.mass_g
        return self.objective(s, fitted)


def quiet_score(pad: Pad, rotor: Rotor) -> float:
    """Noise, wet manners and cold bite of a pad (least is best); a floating rotor is quieter."""
    row = COMPOUNDS[pad.compound]
    floating = rotor.construction is Construction.FLOATING
    return row.noise_score + row.wet_score + row.cold_score - (0.5 if floating else 0.0)


def gain_per_money(smallest: float, price: float, fitted: float | None) -> float:
    """Change of the least relative margin per unit of money. A loss counts the more, the more it costs."""
    gain, money = smallest - (fitted or 0.0), max(price, 1.0)
    return gain / money if gain >= 0 else gain * money


def _untold(s: Standing) -> float:
    """What cannot be told is nobody's first pick while something else is known to do."""
    return float(s.verdict is Verdict.UNKNOWN)


SCHOOLS: tuple[SchoolRow, ...] = (
    SchoolRow(
        School.LEAN,
        "Lean",
        "least mass of those that hold every margin",
        lambda s, _f: (RANK[s.verdict], s.mass_g, -s.smallest),
        lambda s, _f: s.mass_g,
        "g",
        "lighter",
    ),
    SchoolRow(
        School.COOL,
        "Cool",
        "greatest smallest margin",
        lambda s, _f: (_untold(s), -round(s.smallest, 3), s.mass_g),
        lambda s, _f: 100 * s.smallest,
        "pct",
        "more margin",
    ),
    SchoolRow(
        School.LIGHT_HAND,
        "Light hand",
        "least finger force at target that is not grabby",
        lambda s, _f: (_untold(s), float(s.grabby), s.finger_target_n),
        lambda s, _f: s.finger_target_n,
        "n",
        "less at the finger",
    ),
    SchoolRow(
        School.THRIFT,
        "Thrift",
        "greatest gain of the worst margin per money",
        lambda s, f: (RANK[s.verdict], -gain_per_money(s.smallest, s.price, f), s.price),
        lambda s, f: 10_000 * gain_per_money(s.smallest, s.price, f),
        "pct",
        "more margin per 100 of money",
    ),
    SchoolRow(
        School.QUIET,
        "Quiet",
        "least noise, best wet manners and cold bite",
        lambda s, _f: (_untold(s), s.quiet, -round(s.smallest, 3)),
        lambda s, _f: s.quiet,
        "ratio",
        "better in noise, wet and cold",
    ),
)


def row_of_school(school: School) -> SchoolRow:
    return next(row for row in SCHOOLS if row.school is school)


@dataclass(frozen=True)
class Reason:
    """Why a school's pick stands first: how many of its limits hold, the least of them, and by how much it beats the
    next by the school's own measure; ``unlike`` where the next loses for its verdict instead."""

    holding: int
    limits: int
    least: Margin
    next: Candidate | None
    by: float
    unit: str
    better: str
    unlike: bool


AS_GOOD = 0.05
"""what differs by less in a school's measure would read as nothing"""


def reason_of(row: SchoolRow, best: Candidate, runner_up: Candidate | None, fitted: float | None) -> Reason:
    known = [m for m in best.margins if m.relative is not None]
    least = min(known, key=lambda m: m.relative or 0.0, default=best.margins[0])
    holding = sum(m.verdict is Verdict.HOLDS for m in best.margins)
    by = 0.0
    unlike = False
    if runner_up is not None:
        here, there = best.standing, runner_up.standing
        apart = abs(row.measure(here, fitted) - row.measure(there, fitted))
        by = apart if apart >= AS_GOOD else 0.0
        unlike = row.key(here, fitted)[0] != row.key(there, fitted)[0]
    return Reason(holding, len(best.margins), least, runner_up, by, row.unit, row.better, unlike)
