"""The answer: what holds stays, the budget is for both wheels, nothing recommends the lightest failing brake."""

from functools import cache

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.document import School, Wish
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import Renewal
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.selection.recommendation import Advice, as_it_stands, one_step_beside, recommended
from clavis.core.selection.schools import COOL_ENOUGH, SCHOOLS, WISHES, row_of_school, together
from clavis.core.verdicts import RANK, Verdict
from clavis.demo.world import gravel
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.choices import choice_of
from tests.generated import DEMO_JOBS, TRACKS

pytestmark = pytest.mark.long


def choices(job):
    found = evaluate(job, CATALOGUE, {})
    return tuple(choice_of(job, found, end) for end in End)


@cache
def own():
    return choices(own_job())


@cache
def heavy():
    """On walls of a hill with all that can be put on it: nothing of the catalogue holds."""
    job = with_value(with_value(own_job(), "load.passengers_kg", 150.0), "load.luggage_kg", 60.0)
    for k, gradient in enumerate((26.0, 30.0, 24.0)):
        job = with_value(job, f"rides.descent.sections.{k}.gradient_pct", gradient)
    return choices(job)


@pytest.mark.parametrize("school", list(School))
def test_what_holds_on_both_wheels_is_kept_by_every_school(school: School) -> None:
    answer = recommended(*choices(gravel({})), school, None)
    assert answer.advice is Advice.KEEP
    assert answer.standing.price == 0
    assert answer.standing.verdict is Verdict.HOLDS
    assert answer.proposal(True).front == answer.proposal(True).rear == Pick()


@pytest.mark.parametrize("school", list(School))
def test_a_wheel_that_holds_stays_and_the_other_takes_the_schools_pick(school: School) -> None:
    front, rear = own()
    answer = recommended(front, rear, school, None)
    for choice in (front, rear):
        there = as_it_stands(choice)
        holds = there is not None and there.verdict is Verdict.HOLDS
        assert answer.stays(choice.end) or not holds
        if not answer.stays(choice.end):
            row, first = row_of_school(school), choice.ranked(school, 1)[0]
            place = [row.key(c.standing) for c in (answer.picks[choice.end], first)]
            assert place[0] == place[1]
            assert answer.picks[choice.end].price <= first.price


@pytest.mark.parametrize("school", list(School))
@pytest.mark.parametrize("budget", [60.0, 120.0, 250.0, 500.0])
def test_the_budget_is_for_both_wheels_or_passed_and_said(school: School, budget: float) -> None:
    front, rear = own()
    free, bound = recommended(front, rear, school, None), recommended(front, rear, school, budget)
    price = sum(c.price for c in bound.picks.values())
    assert bound.standing.price == pytest.approx(price)
    assert bound.over == pytest.approx(max(price - budget, 0.0))
    assert free.over == 0
    if bound.over > 0:  # nothing within it that does not fail
        cheap = [c for c in front.candidates if c.price <= budget and c.verdict is not Verdict.FAILS]
        behind = [c for c in rear.candidates if c.price <= budget and c.verdict is not Verdict.FAILS]
        least = min((a.price for a in cheap), default=1e9) + min((b.price for b in behind), default=1e9)
        assert least > budget or free.standing.price == bound.standing.price
    if bound.for_more is not None:
        assert RANK[bound.for_more.verdict] < RANK[bound.standing.verdict]
        assert bound.for_more.price == pytest.approx(free.standing.price - budget)


@pytest.mark.parametrize("row", SCHOOLS, ids=lambda r: r.school.value)
def test_where_all_fail_the_nearest_stands_first_in_every_school(row) -> None:
    front, _ = heavy()
    assert all(c.verdict is Verdict.FAILS for c in front.candidates)
    first = front.ranked(row.school, 1)[0]
    assert first.smallest == pytest.approx(max(c.smallest for c in front.candidates))
    answer = recommended(*heavy(), row.school, None)
    assert answer.advice is Advice.NEAREST


def test_the_reason_names_the_next_or_what_is_open() -> None:
    front, rear = own()
    said = plain(recommended(front, rear, School.LEAN, None).why)
    assert "front:" in said or "rear:" in said
    assert row_of_school(School.LEAN).words


@pytest.mark.parametrize("school", list(School))
def test_with_the_limit_unknown_no_larger_rotor_is_anybodys_first_pick(school: School) -> None:
    """The native size is known to be allowed; beyond it nobody knows, and nothing unknown stands before what does."""
    front, _ = choices(with_value(own_job(), "front.max_rotor_mm", None))
    native = 160
    assert any(c.rotor.diameter_mm > native + 1 for c in front.candidates)
    assert any(c.verdict in (Verdict.HOLDS, Verdict.TIGHT) for c in front.candidates)
    assert front.ranked(school, 1)[0].rotor.diameter_mm <= native + 1


def test_what_rests_on_something_unknown_is_not_simply_taken() -> None:
    """Nothing is known of the front's largest rotor nor of its native size: it is said what settles it."""
    job = with_value(own_job(), "front.max_rotor_mm", None)
    job = with_value(with_value(job, "front.native_rotor_mm", None), "front.adapter_id", None)
    answer = recommended(*choices(job), School.COOL, None)
    assert answer.advice is Advice.UNTOLD
    assert answer.standing.verdict is Verdict.UNKNOWN
    assert {"front.max_rotor_mm", "front.native_rotor_mm"} & {p.settles for p in answer.unknown}


def test_fresh_fluid_is_a_choice_wherever_the_line_stays_and_costs_its_bottle() -> None:
    """The same parts bled: only the boiling point is another, and the bottle is what it costs more."""
    looked, advised = 0, 0
    for job in DEMO_JOBS[::3]:
        found = evaluate(job, CATALOGUE, TRACKS)
        setup = found.proposed
        if setup is None or setup.load is None or setup.demand is None:
            continue
        both = [choice_of(job, found, end) for end in End]
        for choice in both:
            by_ids = {(c.ids, frozenset(c.setup.renew)): c for c in choice.candidates}
            for c in choice.candidates[::3]:
                if Renewal.BLEED not in c.setup.renew:
                    continue
                without = c.ids.model_copy(update={"renew": tuple(r for r in c.ids.renew if r is not Renewal.BLEED)})
                dry = by_ids.get((without, c.setup.renew - {Renewal.BLEED}))
                if dry is None:  # it must be bled to be ridden at all
                    continue
                looked += 1
                old, new = dry.judged.boiling.boiling_c, c.judged.boiling.boiling_c
                assert new is not None
                assert old is None or new > old
                assert c.forces.gain == dry.forces.gain
                bottle = [line for line in c.lines if line.what == "fluid"]
                assert c.price == pytest.approx(dry.price + sum(line.cost or 0 for line in bottle))
        answers = [recommended(*both, row.school, None) for row in SCHOOLS]
        advised += sum(Renewal.BLEED in a.picks[end].setup.renew for a in answers if a for end in End)
    assert looked > 50
    assert advised > 0


def test_an_uneven_rotor_comes_new_in_its_own_size() -> None:
    """What is only tight for its rotor is cured by the same rotor, not by a larger one."""
    job = with_value(gravel({}), "front.rotor_points_mm", (1.80, 1.74, 1.80, 1.76, 1.80, 1.75))
    job = with_value(job, "proposal.rear.rotor_id", None)
    front, rear = choices(job)
    assert {p.code for p in as_it_stands(front).points} >= {"variation_high"}
    answer = recommended(front, rear, School.COOL, None)
    pick = answer.picks[End.FRONT]
    assert pick.verdict is Verdict.HOLDS
    assert Renewal.ROTOR in pick.setup.renew
    assert pick.rotor.id == job.front.rotor_id
    assert Renewal.ROTOR in answer.proposal(True).front.renew


def test_wishes_order_what_is_as_good_and_no_more() -> None:
    """Quiet as a wish: of what is as cool for about the money, quieter pads; what is cooler still comes first."""
    plain_job = own_job()
    wished = with_value(plain_job, "wishes.wants", (Wish.QUIET,))
    before, after = (choices(job)[0] for job in (plain_job, wished))
    noisy, quiet = (choice.ranked(School.COOL, 1)[0] for choice in (before, after))
    noise = [COMPOUNDS[c.pad.compound].noise_score for c in (noisy, quiet)]
    assert noise[1] <= noise[0]
    assert quiet.verdict is noisy.verdict
    enough = [min(c.standing.coolest, COOL_ENOUGH) for c in (noisy, quiet)]
    assert enough[0] == pytest.approx(enough[1], abs=0.051)
    for row in WISHES:
        assert row.measure(quiet.setup) >= 0
    assert {row.wish for row in WISHES} == set(Wish)


def test_one_step_cheaper_and_dearer_than_a_quote() -> None:
    """By all pairs of what each school's frontier has: the cheaper is the best of the cheaper ones, the dearer costs
    least of those that stand better than all that costs no more."""
    front, rear = own()
    for price in (0.0, 30.0, 90.0, 400.0, 5000.0):
        cheaper, dearer = one_step_beside(front, rear, School.COOL, price)
        assert cheaper is None or sum(c.price for c in cheaper) < price
        assert dearer is None or sum(c.price for c in dearer) > price
        if cheaper is not None and dearer is not None:
            worse, better = (together([c.standing for c in pair]) for pair in (cheaper, dearer))
            assert RANK[better.verdict] <= RANK[worse.verdict]
    assert one_step_beside(front, rear, School.COOL, 0.0)[0] is None
    assert one_step_beside(front, rear, School.COOL, 1e6)[1] is None
