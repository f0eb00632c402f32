"""Sizes of rotor side by side: each is what that rotor would be on the wheel, and what may not be there says so."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.job.pick import Pick
from clavis.core.parameters import ModelParameters
from clavis.core.parts.models import Construction
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node, equal_mass_thickness_mm, rotor_geometry
from clavis.core.selection.rotor_sizes import against_speed, sizes_of
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, own_job, plain, rotor, with_value
from tests.generated import DEMO_JOBS, TRACKS

P = ModelParameters()
JUDGED = [job for job in DEMO_JOBS if sizes_of(job, End.FRONT, evaluate(job, CATALOGUE, TRACKS)) is not None]


@pytest.mark.parametrize("job", JUDGED, ids=lambda j: j.title)
@pytest.mark.parametrize("end", End)
def test_each_step_is_what_proposing_that_rotor_would_be(job, end) -> None:
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    ladder = sizes_of(job, end, evaluation)
    assert [s.rotor.diameter_mm for s in ladder.steps] == sorted(s.rotor.diameter_mm for s in ladder.steps)
    assert sum(s.present for s in ladder.steps) == 1
    tried = 0
    for step in (s for s in ladder.steps if not s.refused and s.result is not None and not s.present):
        pick = job.proposal.of(end).model_copy(update={"rotor_id": step.rotor.id, "adapter_id": None})
        proposal = job.proposal.model_copy(update={end.value: pick})
        found = evaluate(job.model_copy(update={"proposal": proposal}), CATALOGUE, TRACKS).setups[SetupName.PROPOSED]
        other = found.wheels[end]
        assert step.rotor_c == pytest.approx(other.heat.peak_c[Node.ROTOR], rel=0.02)  # the ride is planned anew there
        assert step.result.forces.gain == pytest.approx(other.forces.gain)
        assert step.price == pytest.approx(sum(line.cost or 0 for line in found.cases[end].lines))
        tried += 1
    assert tried or all(s.refused or s.present for s in ladder.steps)


def test_a_larger_rotor_asks_less_of_the_finger_and_stays_cooler() -> None:
    ladder = sizes_of(own_job(), End.FRONT, evaluate(own_job(), CATALOGUE, {}))
    like = [s for s in ladder.steps if s.result and s.rotor.thickness_mm == ladder.steps[-1].rotor.thickness_mm]
    fingers = [s.result.forces.finger_target_n for s in like]
    assert len(like) > 2
    assert fingers == sorted(fingers, reverse=True)
    assert [s.rotor_c for s in like] == sorted((s.rotor_c for s in like), reverse=True)


def test_what_the_fork_does_not_allow_is_refused_in_its_words_and_has_no_price() -> None:
    job = with_value(own_job(), "front.max_rotor_mm", 180)
    ladder = sizes_of(job, End.FRONT, evaluate(job, CATALOGUE, {}))
    assert all(s.verdict is Verdict.FAILS for s in ladder.steps if s.rotor.diameter_mm > 185)
    large = [s for s in ladder.steps if s.rotor.diameter_mm > 185 and not s.present]
    assert large
    for step in large:
        assert "the largest that the fork allows" in plain(step.refused)
        assert step.price is None
    assert ladder.largest_mm == 180


def test_the_native_size_is_marked() -> None:
    ladder = sizes_of(own_job(), End.FRONT, evaluate(own_job(), CATALOGUE, {}))
    assert [s.rotor.diameter_mm for s in ladder.steps if s.native] == [ladder.native_mm]


def test_without_a_ride_or_a_whole_brake_there_are_no_sizes() -> None:
    empty = own_job(rides=())
    assert sizes_of(empty, End.FRONT, evaluate(empty, CATALOGUE, {})) is None
    bare = own_job()
    bare = bare.model_copy(
        update={
            "front": bare.front.model_copy(update={"pad_id": None}),
            "proposal": bare.proposal.model_copy(update={"front": Pick()}),
        }
    )
    assert sizes_of(bare, End.FRONT, evaluate(bare, CATALOGUE, {})) is None


def test_the_same_mass_in_thickness() -> None:
    """By hand: in one piece all of it grows; with an aluminium carrier the steel track alone."""
    assert equal_mass_thickness_mm(rotor(mass_g=120, thickness_mm=1.8), 160, P) == pytest.approx(2.4)
    two_piece = rotor(mass_g=140, thickness_mm=1.8, construction=Construction.FLOATING, carrier_material="aluminium")
    track_g = 1000 * rotor_geometry(two_piece, 1.8, P).mass_kg
    thick = equal_mass_thickness_mm(two_piece, 180, P)
    assert thick == pytest.approx(1.8 * (track_g + 40) / track_g)
    assert equal_mass_thickness_mm(two_piece, 20, P) is None


def test_speed_above_the_marked_stands_beside_what_a_larger_rotor_stores() -> None:
    """45 for 25: (45/25)² = 3.24 times; the capacity of the two rotors by their nodes."""
    job = own_job()
    ladder = sizes_of(job, End.FRONT, evaluate(job, CATALOGUE, {}))
    k = next(k for k, s in enumerate(ladder.steps) if s.present)
    told = plain(against_speed(ladder, 45.0, 25.0)).replace("\u202f", " ").replace("\u00a0", " ")
    if k + 1 < len(ladder.steps):
        more = ladder.steps[k + 1].result.node("rotor_capacity") / ladder.steps[k].result.node("rotor_capacity") - 1
        assert "3.2 times" in told
        assert f"{100 * more:.0f}% more" in told.replace(" %", "%")
    assert not against_speed(ladder, 25.0, 25.0)
    assert not against_speed(ladder, 45.0, None)
