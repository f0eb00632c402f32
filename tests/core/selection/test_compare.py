"""Setups side by side: the figures are the sheet's, the best of a row is the best, the winner is the school's."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.job.document import Pin, School
from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.selection.compare import FITTED, PROPOSED, compare, pin_name
from clavis.core.selection.schools import row_of_school
from tests.bikes import CATALOGUE, own_job, plain, with_value

BIG = Pin(
    id="big", name="Big", front=Pick(rotor_id="b-load-203", pad_id="u-k2-sinter"),
    rear=Pick(rotor_id="b-load-203", pad_id="u-k2-sinter"),
)  # fmt: skip
SMALL = Pin(id="small", name="Small", front=Pick(pad_id="u-k2-resin"), rear=Pick(pad_id="u-k2-resin"))


def compared(*pins: Pin, school: School = School.COOL):
    job = own_job(pins=pins)
    job = job.model_copy(update={"wishes": job.wishes.model_copy(update={"school": school})})
    return compare(job, evaluate(job, CATALOGUE, {}), {}), job


def row(found, label: str):
    return next(r for r in found.rows if r.label == label)


def test_columns_are_what_is_fitted_proposed_and_pinned() -> None:
    found, job = compared(BIG, SMALL)
    assert [c.key for c in found.columns] == [FITTED, PROPOSED, "big", "small"]
    # a proposal that is pinned stands once
    same = Pin(id="same", name="Same", front=job.proposal.front, rear=job.proposal.rear)
    assert [c.key for c in compared(same)[0].columns] == [FITTED, "same"]


def test_figures_are_those_of_the_setup_proposed_alone() -> None:
    found, job = compared(BIG)
    proposal = {"front": BIG.front.model_dump(), "rear": BIG.rear.model_dump(), "bedded": True}
    alone = with_value(job, "proposal", proposal)
    setup = evaluate(alone, CATALOGUE, {}).setups[SetupName.PROPOSED]
    at = [c.key for c in found.columns].index("big")
    rotor = row(found, "Rotor, peak")
    for place, end in enumerate(End):
        assert rotor.values[place][at] == pytest.approx(setup.wheels[end].heat.peak_c[Node.ROTOR])
    assert row(found, "Brakes weigh").values[0][at] == setup.mass_g
    assert row(found, "New parts").values[0][at] == pytest.approx(setup.price)
    assert found.columns[at].least == pytest.approx(min(w.smallest for w in setup.wheels.values()))


def test_the_best_of_a_row_is_the_best_and_equals_are_not_marked() -> None:
    found, _ = compared(BIG, SMALL)
    rotor = row(found, "Rotor, peak")
    for values, best in zip(rotor.values, rotor.best, strict=True):
        assert best == {k for k, v in enumerate(values) if v <= min(values) * 1.005}
    weigh = row(found, "Brakes weigh")
    assert weigh.best[0] == {k for k, v in enumerate(weigh.values[0]) if v <= min(weigh.values[0]) * 1.005}
    last = row(found, "Pads last")
    assert all(max(v) in {v[k] for k in best} for v, best in zip(last.values, last.best, strict=True) if best)
    twins = compared(BIG, BIG.model_copy(update={"id": "twin"}))[0]
    first, second = (k for k, c in enumerate(twins.columns) if c.key in ("big", "twin"))
    for r in twins.rows:
        for values, best in zip(r.values, r.best, strict=True):
            assert values[first] == values[second]
            assert (first in best) == (second in best)


@pytest.mark.parametrize("school", list(School))
def test_the_winner_is_the_schools(school: School) -> None:
    found, _ = compared(BIG, SMALL, school=school)
    keys = [row_of_school(school).key(c.standing()) for c in found.columns]
    assert keys[found.winner] == min(keys)
    assert found.columns[found.winner].name in plain(found.why[1])
    assert len(found.why) == 1 + len(found.columns)


def test_lean_takes_the_lighter_of_two_that_hold_alike_and_says_by_how_much() -> None:
    found, _ = compared(BIG, school=School.LEAN)
    won = found.columns[found.winner]
    other = next(c for c in found.columns if c is not won and c.setup.verdict is won.setup.verdict)
    assert won.setup.mass_g <= other.setup.mass_g
    apart = other.setup.mass_g - won.setup.mass_g
    assert any(f"{apart:.0f} g heavier" in line for line in map(plain, found.why) if line.startswith(other.name))


def test_nothing_wins_where_too_little_is_known() -> None:
    job = own_job(pins=(BIG,))
    bare = with_value(with_value(job, "front.lever_id", None), "rear.lever_id", None)
    found = compare(bare, evaluate(bare, CATALOGUE, {}), {})
    assert found.winner is None
    assert found.why == ()
    nobody = with_value(job, "rider.mass_kg", None)
    assert compare(nobody, evaluate(nobody, CATALOGUE, {}), {}).columns == ()


def test_a_pin_is_named_after_its_parts() -> None:
    found, _ = compared(BIG)
    setup = next(c.setup for c in found.columns if c.key == "big")
    assert pin_name(setup, "x") == "Load 203 / Load 203, Pair 22"
