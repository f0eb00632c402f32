"""The shelf: pieces go from it to a job and back, never more than lie there."""

import pytest
from sqlalchemy.orm import Session

from clavis.core.workshop.supply import Need, Supplied, SupplyLine
from clavis.store import jobs, shelf
from tests.bikes import CATALOGUE

BOLT, PAD = "m6-18", "u-k2-resin"


def needing(session: Session, **pieces: int) -> list[SupplyLine]:
    ids = {name.replace("_", "-"): n for name, n in pieces.items()}
    lying, had = shelf.stock(session), shelf.supplied(session, 7)
    return [SupplyLine(Need(p, p, n, 1.0), had.get(p, Supplied()), lying.get(p, 0)) for p, n in ids.items()]


def test_what_is_set_aside_is_off_the_shelf_and_comes_back(demo_session: Session) -> None:
    shelf.count(demo_session, BOLT, 3, "Tess")
    assert shelf.set_aside(demo_session, 7, needing(demo_session, m6_18=4), "Tess") == 3
    assert shelf.stock(demo_session, [BOLT]) == {BOLT: 0}
    assert shelf.supplied(demo_session, 7)[BOLT] == Supplied(taken=3)
    assert shelf.set_aside(demo_session, 7, needing(demo_session, m6_18=4), "Tess") == 0
    assert shelf.put_back(demo_session, 7, {BOLT: 1}, "Tess") == 2
    assert shelf.stock(demo_session, [BOLT]) == {BOLT: 2}
    assert shelf.supplied(demo_session, 7)[BOLT].taken == 1


def test_what_was_ordered_arrives_once(demo_session: Session) -> None:
    shelf.ordered(demo_session, 7, "S-1", [(PAD, 2, 9.5, 3)], "Tess")
    had = shelf.supplied(demo_session, 7)[PAD]
    assert (had.ordered, had.arrived, had.price, len(had.promised)) == (2, 0, 9.5, 10)
    shelf.arrived(demo_session, 7, PAD, "Tess")
    assert shelf.supplied(demo_session, 7)[PAD].in_hand == 2
    with pytest.raises(jobs.NotThereError):
        shelf.arrived(demo_session, 7, PAD, "Tess")
    shelf.put_back(demo_session, 7, {}, "Tess")  # the order needs them no more
    assert PAD not in shelf.supplied(demo_session, 7)
    assert shelf.stock(demo_session, [PAD])[PAD] >= 2


@pytest.mark.parametrize("pieces", [-1, 10**9])
def test_nonsense_is_not_counted(demo_session: Session, pieces: int) -> None:
    with pytest.raises(jobs.RefusedError):
        shelf.count(demo_session, BOLT, pieces, "Tess")
    with pytest.raises(jobs.NotThereError):
        shelf.count(demo_session, "no-such-part", 1, "Tess")
    assert BOLT in CATALOGUE.bolts


def test_what_is_on_the_bike_does_not_go_back_to_the_shelf(demo_session: Session) -> None:
    """Two ordered pads arrived and one more was set aside; the order needed two: one is left in hand."""
    shelf.count(demo_session, PAD, 1, "Tess")
    shelf.set_aside(demo_session, 7, needing(demo_session, u_k2_resin=1), "Tess")
    shelf.ordered(demo_session, 7, "S-1", [(PAD, 2, 9.5, 3)], "Tess")
    shelf.arrived(demo_session, 7, PAD, "Tess")
    shelf.used(demo_session, 7, {PAD: 2}, "Tess")
    assert shelf.supplied(demo_session, 7)[PAD].in_hand == 1
    shelf.used(demo_session, 7, {PAD: 1}, "Tess")
    assert PAD not in shelf.supplied(demo_session, 7)
    assert shelf.stock(demo_session, [PAD])[PAD] == 0
