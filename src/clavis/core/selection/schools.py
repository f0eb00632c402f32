"""Schools: what practitioners rank a wheel's candidates by, each a documented objective (docs/model.md, section 6).

SCHOOLS is the table. Every objective is monotone: of two candidates that differ in one thing that the school looks
at, the one that is better in it never ranks behind.
"""

from collections.abc import Callable, Collection, Sequence
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
from clavis.core.job.document import School, Wish
from clavis.core.job.pick import Pick
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.models import Axis, Caliper, Lever, Pad, Rotor
from clavis.core.physics.forces import Hand, WheelForces
from clavis.core.sentences import Words
from clavis.core.verdicts import RANK, Margin, Verdict, worst


@dataclass(frozen=True)
class Standing:
    """All that the schools look at. ``smallest`` is the least relative margin, ``coolest`` the least of those that heat
    is held against, ``tiring_n`` what the finger gives at target above what it does with ease, ``quiet`` the pads'
    score, ``unwished`` how far it is from what the rider wishes besides, ``steps_down`` a cable brake in the place of a
    hydraulic one. Less is better in everything but the margins."""

    verdict: Verdict
    smallest: float
    coolest: float
    mass_g: float
    price: float
    grabby: bool
    finger_target_n: float
    tiring_n: float
    quiet: float
    unwished: float = 0.0
    steps_down: bool = False


def together(standings: Sequence[Standing]) -> Standing:
    """Several wheels as one: the worst verdict and margin, the heavier hand, masses, prices and scores summed."""
    return Standing(
        worst(s.verdict for s in standings),
        min(s.smallest for s in standings),
        min(s.coolest for s in standings),
        sum(s.mass_g for s in standings),
        sum(s.price for s in standings),
        any(s.grabby for s in standings),
        max(s.finger_target_n for s in standings),
        max(s.tiring_n for s in standings),
        sum(s.quiet for s in standings),
        sum(s.unwished for s in standings),
        any(s.steps_down for s in standings),
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
    def untouched(self) -> bool:
        """It is what is on the wheel, and nothing is done on it."""
        return self.fit_case.stays and not self.setup.renew

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
            renew=tuple(sorted(self.setup.renew)), wheel_id=wheel.id if (wheel := self.fit_case.new_wheel) else None,
        )  # fmt: skip

    @property
    def heat_ids(self) -> tuple[str, str, str]:
        """All but the lever: candidates that share these differ in the hand alone."""
        return self.rotor.id, self.caliper.id, self.pad.id


Objective = Callable[[Standing], float]


@dataclass(frozen=True)
class SchoolRow:
    """A school: what it asks for in words; what a candidate comes to for it in the shop's money, the less the better:
    its price and what it is worth to the school to have more of what it looks for; what differs by less than ``step``
    is as good, and wishes decide. What it measures is a figure, its unit, and what more of the winner's side of it is
    called."""

    school: School
    title: str
    words: str
    comes_to: Objective
    step: float
    measure: Objective
    unit: str
    better: str
    holds_first: bool = True
    """what holds before what is tight, whatever it costs"""
    grabs_last: bool = False

    def key(self, s: Standing) -> tuple[float, ...]:
        """Where a candidate stands, least first. What fails is never wanted for its mass or its price: of those the
        nearest stands first in every school. Nobody is sold a cable brake for a hydraulic one that would do."""
        if s.verdict is Verdict.FAILS:
            return RANK[Verdict.FAILS], -s.smallest, s.mass_g
        told = RANK[s.verdict] if self.holds_first else float(s.verdict is Verdict.UNKNOWN)
        money = self.comes_to(s)
        grabs = float(self.grabs_last and s.grabby)
        return float(s.steps_down), told, grabs, round(money / self.step), s.unwished, money, -s.smallest, s.mass_g


def quiet_score(pad: Pad) -> float:
    """Noise, wet manners and cold bite of a pad (least is best)."""
    row = COMPOUNDS[pad.compound]
    return row.noise_score + row.wet_score + row.cold_score


@dataclass(frozen=True)
class WishRow:
    """What a wish weighs among what is as good to a school: in words, and a setup's distance from it, each step of
    which weighs about as much as one of the others."""

    wish: Wish
    words: str
    measure: Callable[[WheelSetup], float]


_MAKERS = (Axis.ROTOR, Axis.CALIPER, Axis.LEVER)
WISHES: tuple[WishRow, ...] = (
    WishRow(Wish.LIGHT, "the lighter", lambda s: s.mass_g / 50),
    WishRow(Wish.QUIET, "the quieter", lambda s: COMPOUNDS[s.pad.compound].noise_score),
    WishRow(Wish.WET_DAYS, "the better in the wet", lambda s: COMPOUNDS[s.pad.compound].wet_score),
    WishRow(Wish.KEEP_PARTS, "the one that keeps more", lambda s: len(s.new - {Axis.PAD})),
    WishRow(Wish.LOOKS, "the one of fewer makers", lambda s: len({s.brake.maker_of(axis) for axis in _MAKERS}) - 1),
)


def unwished(setup: WheelSetup, wants: Collection[Wish]) -> float:
    """How far a setup is from all that is wished."""
    return float(sum(row.measure(setup) for row in WISHES if row.wish in wants))


HEAT_MARGINS = frozenset({"rotor", "fade", "boil", "sandwich"})
"""keys of the margins that heat is held against"""
COOL_ENOUGH = 0.5
"""more heat margin than that nobody is sold: half way to every limit (judged)"""
TIGHT_LEAVES_RATIO = 0.2


@dataclass(frozen=True)
class Rates:
    """What more of what a school looks for is worth, in the shop's money (judged)."""

    gram: float = 3.0
    """to the lean: a gram off"""
    margin: float = 500.0
    """to the cool: the whole of a limit as heat margin; a tenth of it a tenth"""
    newton: float = 5.0
    """to a light hand: a newton less above what the finger does with ease"""
    tight: float = 60.0
    """to the thrifty: that a wheel holds and is not just tight, and half as much again where next to nothing is left"""
    score: float = 25.0
    """to the quiet: one step of a pad's scores"""


RATES = Rates()


def _cool(s: Standing) -> float:
    return s.price - RATES.margin * min(s.coolest, COOL_ENOUGH)


def _light_hand(s: Standing) -> float:
    # what grabs is the better, the less it does; what is done with ease is light enough
    return s.price + RATES.newton * (-s.finger_target_n if s.grabby else s.tiring_n)


def _thrift(s: Standing) -> float:
    if s.verdict is Verdict.HOLDS:
        return s.price
    left = min(max(s.smallest, 0.0), TIGHT_LEAVES_RATIO) / TIGHT_LEAVES_RATIO
    return s.price + RATES.tight * (1.5 - 0.5 * left)


SCHOOLS: tuple[SchoolRow, ...] = (
    SchoolRow(
        school=School.LEAN,
        title="Lightest",
        words="of what holds, the lightest, as far as the mass saved is worth its price",
        comes_to=lambda s: s.price + RATES.gram * s.mass_g,
        step=50.0,
        measure=lambda s: s.mass_g,
        unit="g",
        better="lighter",
    ),
    SchoolRow(
        school=School.COOL,
        title="Most heat margin",
        words="of what holds, the most heat margin for its price, until there is enough",
        comes_to=_cool,
        step=15.0,
        measure=lambda s: 100 * min(s.coolest, COOL_ENOUGH),
        unit="pct",
        better="more heat margin",
    ),
    SchoolRow(
        school=School.LIGHT_HAND,
        title="Lightest lever",
        words="of what holds and does not grab, the least finger force for its price, until it is easy",
        comes_to=_light_hand,
        step=15.0,
        measure=lambda s: s.finger_target_n,
        unit="n",
        better="less at the finger",
        grabs_last=True,
    ),
    SchoolRow(
        school=School.THRIFT,
        title="Best value",
        words="the lowest price; what is only tight counts as dearer than it is",
        comes_to=_thrift,
        step=10.0,
        measure=lambda s: s.price,
        unit="price",
        better="cheaper",
        holds_first=False,
    ),
    SchoolRow(
        school=School.QUIET,
        title="Quietest",
        words="of what holds, the pads with the least noise and best manners wet and cold, for their price",
        comes_to=lambda s: s.price + RATES.score * s.quiet,
        step=10.0,
        measure=lambda s: s.quiet,
        unit="ratio",
        better="better in noise, wet and cold",
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


def reason_of(row: SchoolRow, best: Candidate, runner_up: Candidate | None) -> Reason:
    known = [m for m in best.margins if m.relative is not None]
    least = min(known, key=lambda m: m.relative or 0.0, default=best.margins[0])
    holding = sum(m.verdict is Verdict.HOLDS for m in best.margins)
    by = 0.0
    unlike = False
    if runner_up is not None:
        here, there = best.standing, runner_up.standing
        apart = abs(row.measure(here) - row.measure(there))
        by = apart if apart >= AS_GOOD else 0.0
        unlike = here.verdict is not there.verdict
    return Reason(holding, len(best.margins), least, runner_up, by, row.unit, row.better, unlike)
