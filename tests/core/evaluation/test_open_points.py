"""Points that are told beside the margins: a bike faster than it is marked, a ring that may warp."""

from clavis.core.evaluation.evaluate import evaluate
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
    hotter = (w.heat.course_c[:, Node.ROTOR] - w.heat.course_c[:, Node.CARRIER]).max()
    assert w.setup.rotor.construction is Construction.ONE_PIECE
    told = [plain(p.words) for p in w.points if p.code == "warp"]
    assert len(told) == 1
    assert f"{hotter:.0f}" in told[0]
    floating = with_value(with_value(job, "proposal.front.rotor_id", "h-fell-200"), "proposal.front.pad_id", None)
    other = evaluate(floating, CATALOGUE, TRACKS).proposed.wheels[End.FRONT]
    assert not [p for p in other.points if p.code == "warp"]
