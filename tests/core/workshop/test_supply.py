"""What an order needs, and for what a job waits: by hand, and by the dice."""

from hypothesis import given
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.workshop.supply import Need, Supplied, SupplyLine, needs_of, supply_of, waits_for
from clavis.core.workshop.work_order import work_order
from tests.bikes import CATALOGUE, own_job, plain


def line(pieces: int = 6, taken: int = 0, ordered: int = 0, arrived: int = 0, on_shelf: int = 0) -> SupplyLine:
    return SupplyLine(Need("x", "bolts", pieces, 1.5), Supplied(taken, ordered, arrived), on_shelf)


def test_by_hand() -> None:
    """Six needed: two set aside, two on the shelf, one on its way: one is to be ordered."""
    found = line(6, taken=2, ordered=1, on_shelf=2)
    assert (found.lacks, found.from_shelf, found.to_order, found.waits) == (4, 2, 1, True)
    assert not line(6, taken=4, ordered=2, arrived=2).waits


@given(*(st.integers(0, 9) for _ in range(5)))
def test_nothing_is_ordered_twice_and_nothing_is_forgotten(pieces, taken, ordered, arrived, on_shelf) -> None:
    arrived = min(arrived, ordered)
    found = line(pieces, taken, ordered, arrived, on_shelf)
    covered = found.supplied.in_hand + found.supplied.on_its_way + found.on_shelf + found.to_order
    assert covered >= pieces
    assert found.to_order == 0 or covered == pieces
    assert found.from_shelf <= on_shelf
    assert found.waits == (taken + arrived < pieces)


def test_both_wheels_need_their_pieces_together() -> None:
    needs = {n.part_id: n.pieces for n in needs_of(work_order(own_job(), evaluate(own_job(), CATALOGUE, {})))}
    assert needs["m5-10-low"] == 12
    assert needs["s-washer-m6"] == 4
    assert needs["q-disc-203"] == 1


def test_a_job_says_for_what_it_waits_once_something_is_on_its_way() -> None:
    needs = tuple(Need(f"p{k}", f"part {k}", 1, 1.0) for k in range(5))
    assert plain(waits_for(supply_of(needs, {}, {}))) == ""
    some = {"p0": Supplied(taken=1), "p1": Supplied(ordered=1, promised="2026-12-03")}
    assert plain(waits_for(supply_of(needs, some, {}))) == (
        "waits for part 1, part 2, part 3 and 1 more, promised for 2026-12-03"
    )
    two = {f"p{k}": Supplied(taken=1) for k in range(3)}
    assert plain(waits_for(supply_of(needs, two, {}))) == "waits for part 3 and part 4"
    assert plain(waits_for(supply_of(needs, {f"p{k}": Supplied(taken=1) for k in range(5)}, {}))) == ""
