"""What a good mechanic would do for twelve riders (docs/twelve-riders.md) is what Clavis answers."""

from functools import cache

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.renewal import Renewal
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.selection.pairing import size_of
from clavis.core.selection.recommendation import Advice, Recommendation, recommended
from clavis.core.selection.schools import SCHOOLS
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, plain
from tests.choices import choice_of
from tests.twelve_riders import RIDERS

pytestmark = pytest.mark.long

PADS = frozenset({Axis.PAD})
ROTOR_AND_PADS = frozenset({Axis.ROTOR, Axis.PAD})


@cache
def answers(number: int) -> dict[str, Recommendation]:
    job = RIDERS[number - 1]
    found = evaluate(job, CATALOGUE, {})
    both = [choice_of(job, found, end) for end in End]
    return {row.school: recommended(*both, row.school, None, content=True) for row in SCHOOLS}


def own(number: int) -> Recommendation:
    return answers(number)[RIDERS[number - 1].wishes.school]


@pytest.mark.parametrize("number", [1, 2, 3, 6, 7, 9, 12])
def test_these_buy_nothing(number: int) -> None:
    for school, answer in answers(number).items():
        assert answer.advice is Advice.KEEP, school
        assert answer.standing.price == 0
        assert answer.standing.verdict in (Verdict.HOLDS, Verdict.TIGHT)


def test_a_sound_brake_that_is_tight_is_told_what_more_would_cost() -> None:
    assert [n for n in (1, 2, 3, 6, 7, 9, 12) if own(n).better] == [3, 6, 7, 9]
    for number in (3, 6, 7, 9):
        assert own(number).better.standing.verdict is Verdict.HOLDS
        assert own(number).better.standing.price > 0


def test_the_pass_on_the_road_asks_for_other_pads_and_no_larger_rotor() -> None:
    assert {frozenset(c.setup.new) for c in own(3).better.picks.values()} == {PADS}


def test_luggage_in_the_alps_takes_a_larger_rotor_in_front_and_pads_behind() -> None:
    front, rear = own(4).picks[End.FRONT], own(4).picks[End.REAR]
    assert own(4).standing.verdict is Verdict.HOLDS
    assert front.setup.new <= ROTOR_AND_PADS
    assert size_of(front.rotor.diameter_mm) > size_of(rear.rotor.diameter_mm) == size_of(160)
    assert rear.setup.new == PADS
    assert front.pad.compound in ("semi_metallic", "sintered")


def test_worn_pads_in_town_are_pads() -> None:
    for end in End:
        assert own(5).picks[end].setup.new == PADS
        assert own(5).picks[end].caliper.fluid is Fluid.NONE
    assert own(5).standing.price < 30


def test_a_heavy_rider_who_drags_keeps_the_calipers_and_gets_pads_that_do_not_fade_and_size_behind() -> None:
    front, rear = own(8).picks[End.FRONT], own(8).picks[End.REAR]
    for pick in (front, rear):
        assert pick.setup.new <= ROTOR_AND_PADS
        assert pick.pad.compound in ("semi_metallic", "sintered")
        assert Renewal.BLEED in pick.setup.renew
    assert rear.rotor.diameter_mm >= 200


def test_a_hand_that_is_short_gets_area_and_radius() -> None:
    front, rear = own(10).picks[End.FRONT], own(10).picks[End.REAR]
    assert front.rotor.diameter_mm == 203
    assert front.caliper.four_pistons
    assert front.pad.compound == "sintered"
    assert not rear.caliper.four_pistons  # its finger force is light already
    assert own(10).standing.verdict is Verdict.HOLDS


def test_the_tandem_is_bled_and_buys_nothing_for_power() -> None:
    for pick in own(11).picks.values():
        assert pick.setup.renew == {Renewal.BLEED}
        assert pick.setup.new == frozenset()
    assert own(11).standing.verdict is Verdict.TIGHT


@pytest.mark.parametrize("number", range(1, 13))
def test_nobody_is_sold_a_cable_brake_or_the_largest_rotor_for_its_own_sake(number: int) -> None:
    for school, answer in answers(number).items():
        for pick in answer.picks.values():
            assert not pick.standing.steps_down, school
            if answer.standing.verdict is Verdict.HOLDS and RIDERS[number - 1].rider.mass_kg < 75:
                assert pick.rotor.diameter_mm <= 180
        assert plain(answer.why)
