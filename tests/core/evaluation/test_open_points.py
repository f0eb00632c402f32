"""Points that are told beside the margins: a bike faster than it is marked, a ring that may warp."""

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.document import Proposal
from clavis.core.job.renewal import Renewal
from clavis.core.parts.models import Construction
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.generated import DEMO_JOBS, TRACKS


def test_a_bike_that_is_faster_than_marked_is_told_and_nothing_fails_for_it() -> None:
    job = with_value(own_job(), "bike.top_speed_kmh", 45.0)
    marked = with_value(job, "bike.rated_speed_kmh", 25.0)
    before, after = (evaluate(j, CATALOGUE, {}).fitted for j in (job, marked))
    found = [p for p in after.points if p.code == "rated_speed"]
    assert len(found) == 1
    assert "3.2 times the energy" in plain(found[0].words)
    assert "insurance" in plain(found[0].words)
    assert not [p for p in before.points if p.code == "rated_speed"]
    assert before.verdict is after.verdict
    slow = with_value(marked, "bike.rated_speed_kmh", 45.0)
    assert not [p for p in evaluate(slow, CATALOGUE, {}).fitted.points if p.code == "rated_speed"]


def test_a_ring_far_hotter_than_its_arms_may_warp_in_one_piece_and_not_floating() -> None:
    job = next(j for j in DEMO_JOBS if "Tandem" in j.title)
    found = evaluate(job, CATALOGUE, TRACKS)
    w = found.fitted.wheels[End.FRONT]
    hotter = w.heat.peak_c[Node.ROTOR] - w.heat.peak_c[Node.CARRIER]
    assert w.setup.rotor.construction is Construction.ONE_PIECE
    told = [plain(p.words) for p in w.points if p.code == "warp"]
    assert len(told) == 1
    assert f"{hotter:.0f}" in told[0]
    floating = with_value(with_value(job, "proposal.front.rotor_id", "h-fell-200"), "proposal.front.pad_id", None)
    other = evaluate(floating, CATALOGUE, TRACKS).proposed.wheels[End.FRONT]
    assert not [p for p in other.points if p.code == "warp"]


def test_another_compounds_film_holds_back_until_it_is_bedded_in() -> None:
    """Six tenths of the friction, told with its cure; nothing of it where the pads are of the film's own compound."""
    job = own_job(proposal=Proposal())
    own = evaluate(job, CATALOGUE, {}).fitted.wheels[End.FRONT]
    other = evaluate(with_value(job, "front.film_compound", "sintered"), CATALOGUE, {}).fitted.wheels[End.FRONT]
    assert other.forces.mu_work == pytest.approx(0.6 * own.forces.mu_work)
    point = next(p for p in other.points if p.code == "other_film")
    assert point.cure is Renewal.BED_IN
    same = with_value(job, "front.film_compound", own.setup.pad.compound)
    assert evaluate(same, CATALOGUE, {}).fitted.wheels[End.FRONT].forces.mu_work == own.forces.mu_work
    bedded = with_value(with_value(job, "front.film_compound", "sintered"), "proposal.front.renew", ("bed_in",))
    done = evaluate(bedded, CATALOGUE, {}).proposed.wheels[End.FRONT]
    assert done.forces.mu_work == pytest.approx(own.forces.mu_work)
    assert not [p for p in done.points if p.code == "other_film"]
