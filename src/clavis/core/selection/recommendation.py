"""The answer to a job: which pair to take, or that what is on it stays, or that nothing holds and what comes nearest.

A wheel that holds as it stands is not touched, whatever a school would rather have; nor is one that is tight, within
every limit, where the rider complains of nothing. The others take the school's pick. The budget is for both wheels
together.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.open_points import OpenPoint
from clavis.core.evaluation.parts_list import over_budget
from clavis.core.job.document import Proposal, School
from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import Choice
from clavis.core.selection.schools import Candidate, SchoolRow, Standing, reason_of, row_of_school, together
from clavis.core.sentences import Value, Words, joined, say
from clavis.core.verdicts import RANK, Severity, Verdict


class Advice(StrEnum):
    """What the answer comes to."""

    KEEP = "keep"
    """what is on both wheels holds: buy nothing"""
    TAKE = "take"
    UNTOLD = "untold"
    """nothing that is known to do; this rests on what is not known"""
    NEAREST = "nearest"
    """nothing in the catalogue holds; this comes nearest"""


@dataclass(frozen=True)
class ForMore:
    """What more money than the budget would bring: how much more, and the verdict."""

    price: float
    verdict: Verdict


@dataclass(frozen=True)
class Recommendation:
    """One school's answer for both wheels. ``over`` is by how much it passes the budget, 0 within it or without one;
    ``for_more`` what a larger one would bring."""

    row: SchoolRow
    advice: Advice
    picks: Mapping[End, Candidate]
    standing: Standing
    budget: float | None
    for_more: ForMore | None
    why: Words
    better: "Recommendation | None" = None
    """what would do more, where what is on it stays although it is tight"""

    @property
    def over(self) -> float:
        return over_budget(self.standing.price, self.budget)

    def stays(self, end: End) -> bool:
        """Nothing on this wheel is changed."""
        return self.picks[end].untouched

    @property
    def unknown(self) -> tuple[OpenPoint, ...]:
        """What is not known of the wheels that change, and decides."""
        changed = [c for c in self.picks.values() if not c.untouched]
        return tuple(p for c in changed for p in c.points if p.severity is Severity.UNKNOWN)

    def proposal(self, bedded: bool) -> Proposal:
        """What is proposed when it is taken: a wheel that stays is left as it is."""
        front, rear = (Pick() if self.stays(end) else self.picks[end].ids for end in End)
        return Proposal(front=front, rear=rear, bedded=bedded)


def as_it_stands(choice: Choice) -> Candidate | None:
    """The brake that is on the wheel, weighed as it stands; None where it cannot be ridden or judged."""
    return next((c for c in choice.candidates if c.untouched), None)


def _kept(choice: Choice, content: bool) -> Candidate | None:
    """What is on the wheel, where it holds; or where it is tight and the rider is ``content``."""
    found = as_it_stands(choice)
    enough = (Verdict.HOLDS, Verdict.TIGHT) if content else (Verdict.HOLDS,)
    return found if found is not None and found.verdict in enough else None


def _by_price(choice: Choice, row: SchoolRow, content: bool) -> list[Candidate]:
    """Candidates of which each is better to the school than everything cheaper; what stays as it is alone."""
    if (kept := _kept(choice, content)) is not None:
        return [kept]

    def place(candidate: Candidate) -> tuple[float, ...]:
        return row.key(candidate.standing)

    out: list[Candidate] = []
    best: tuple[float, ...] | None = None
    for candidate in sorted(choice.candidates, key=lambda c: (c.price, place(c))):
        key = place(candidate)
        if best is None or key < best:
            out.append(candidate)
            best = key
    return out


def _better(row: SchoolRow, pairs: Iterable[tuple[Candidate, Candidate]]) -> tuple[Candidate, Candidate] | None:
    """The pair whose two wheels together stand first: the worse verdict, then the school's key."""

    def place(pair: tuple[Candidate, Candidate]) -> tuple[float, ...]:
        both = _together(pair)
        return (RANK[both.verdict], *row.key(both))

    return min(pairs, key=place, default=None)


ADVICE_OF = {Verdict.FAILS: Advice.NEAREST, Verdict.UNKNOWN: Advice.UNTOLD}


def recommended(
    front: Choice, rear: Choice, school: School, budget: float | None, *, content: bool = False
) -> Recommendation | None:
    """One school's answer; None where no brake at all can be fitted on one of the wheels. ``content``: the rider
    complains of nothing.

    Within the budget where a pair there does not fail, with what more would bring; else the pair that stands first, and
    by how much it passes.
    """
    row = row_of_school(school)
    fronts, rears = (_by_price(choice, row, content) for choice in (front, rear))
    if not fronts or not rears:
        return None
    first = (fronts[-1], rears[-1])  # each the school's best, whatever it costs
    pair, standing, for_more = first, _together(first), None
    if budget is not None and standing.price > budget:
        within = _better(row, ((f, r) for f in fronts for r in rears if f.price + r.price <= budget))
        if within is not None and (there := _together(within)).verdict is not Verdict.FAILS:
            dearer, pair, standing = standing, within, there
            if RANK[dearer.verdict] < RANK[standing.verdict]:
                for_more = ForMore(dearer.price - budget, dearer.verdict)
    picks = dict(zip(End, pair, strict=True))
    advice = Advice.KEEP if all(c.untouched for c in pair) else ADVICE_OF.get(standing.verdict, Advice.TAKE)
    why = _why(row, picks, {End.FRONT: front, End.REAR: rear})
    better = None
    if content and advice is Advice.KEEP and standing.verdict is not Verdict.HOLDS:
        other = recommended(front, rear, school, budget)
        better = other if other is not None and RANK[other.standing.verdict] < RANK[standing.verdict] else None
    return Recommendation(row, advice, picks, standing, budget, for_more, why, better)


def one_step_beside(
    front: Choice, rear: Choice, school: School, price: float
) -> tuple[tuple[Candidate, Candidate] | None, tuple[Candidate, Candidate] | None]:
    """The best pair that is cheaper than what is quoted, and the cheapest dearer one that stands better than all that
    costs no more; None where there is none."""
    row = row_of_school(school)
    fronts, rears = (_by_price(choice, row, content=False) for choice in (front, rear))
    pairs = [(f, r) for f in fronts for r in rears]

    def place(pair: tuple[Candidate, Candidate]) -> tuple[float, ...]:
        both = _together(pair)
        return (RANK[both.verdict], *row.key(both))

    def costs(pair: tuple[Candidate, Candidate]) -> float:
        return sum(c.price for c in pair)

    cheaper = [pair for pair in pairs if costs(pair) < price - SAME_PRICE]
    dearer = [pair for pair in pairs if costs(pair) > price + SAME_PRICE]
    within = min((place(pair) for pair in pairs if costs(pair) <= price + SAME_PRICE), default=None)
    better = [pair for pair in dearer if within is None or place(pair) < within]
    return min(cheaper, key=place, default=None), min(better, key=costs, default=None)


SAME_PRICE = 0.5
"""prices that differ by less are one"""


def _together(pair: tuple[Candidate, Candidate]) -> Standing:
    return together([c.standing for c in pair])


def _why(row: SchoolRow, picks: Mapping[End, Candidate], choices: Mapping[End, Choice]) -> Words:
    """Why this and not the next, of each wheel that changes."""
    if all(c.untouched for c in picks.values()):
        return joined([say("{end}: {why}", end=end, why=c.why) for end, c in picks.items()], "; ")
    told = []
    for end, candidate in picks.items():
        if candidate.untouched:
            continue
        choice = choices[end]
        ranked = choice.ranked(row.school, 2, apart=True)
        following = next((c for c in ranked if c.heat_ids != candidate.heat_ids), None)
        why = reason_of(row, candidate, following)
        told.append(_against(end, candidate, following, why.unlike, why.by, why.unit, why.better))
    return joined(told, "; ")


def _against(
    end: End, pick: Candidate, other: Candidate | None, unlike: bool, by: float, unit: str, better: str
) -> Words:
    if pick.verdict is not Verdict.HOLDS:
        return say("{end}: {why}", end=end, why=pick.why)
    if other is None:
        return say("{end}: nothing else fits", end=end)
    values: dict[str, Value] = {"end": end, "rotor": other.rotor.name, "pad": other.pad.name}
    if unlike:
        return say("{end}: the next, {rotor} with {pad}, is {verdict}", verdict=other.verdict, **values)
    if round(by) > 0:
        return say(f"{{end}}: {{by_{unit}:.0}} {{better}} than {{rotor}} with {{pad}}", better=better, **values,
                   **{f"by_{unit}": by})  # fmt: skip
    return say("{end}: {rotor} with {pad} would do as well", **values)
