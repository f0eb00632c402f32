"""Labour: minutes by the table or the workshop's own, money by its hour."""

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.document import Proposal
from clavis.core.job.pick import Pick
from clavis.core.workshop.labour import WorkshopTerms, known_steps, labour_of
from clavis.core.workshop.steps import STEPS
from clavis.core.workshop.work_order import work_order
from tests.bikes import CATALOGUE, own_job

PADS = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))


def order():
    return work_order(PADS, evaluate(PADS, CATALOGUE, {}))


def test_minutes_are_those_of_the_steps_by_hand() -> None:
    """Pads in front: held 2, cool 1, clean 4; out 2, pistons 4, pads out 2, track 2, pads in 3, wheel in 2, centre 5,
    pump 2, lever 3; on the ground 3, torques 4, walking 4; bedding in 20, lever again 4."""
    by_hand = 2 + 1 + 4 + 2 + 4 + 2 + 2 + 3 + 2 + 5 + 2 + 3 + 3 + 4 + 4 + 20 + 4
    assert labour_of(order(), WorkshopTerms()).minutes == by_hand
    assert labour_of(order(), WorkshopTerms(hourly_price=60.0)).price == pytest.approx(by_hand)


def test_without_an_hour_the_price_is_not_known() -> None:
    assert labour_of(order(), WorkshopTerms()).price is None


def test_the_workshops_own_minutes_win() -> None:
    usual, own = (labour_of(order(), WorkshopTerms(minutes=m)).minutes for m in ({}, {"bed_in": 35.0, "no_such": 9.0}))
    assert own - usual == 15


def test_only_what_differs_from_the_table_is_kept() -> None:
    assert known_steps({"bed_in": 20.0, "pump": 3.0, "no_such": 9.0}, STEPS) == {"pump": 3.0}
