"""What a swap changes, and what goes from a job into a bike's book: properties over bikes by the dice."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import YearOfWear, year_of_wear
from clavis.core.job.document import Job
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, next_id
from clavis.core.keeping.carry_over import TRACKED, VisitNote, fitted_anew, taken_stock, without_visit
from clavis.core.keeping.swaps import life_from_new, new_lives
from clavis.core.keeping.wear_estimate import Belief
from clavis.core.keeping.wear_state import Lines, wear_states
from clavis.core.parts.mounts import End
from clavis.store import bikes
from tests.bikes import CATALOGUE
from tests.generated import DEMO_JOBS, TRACKS

FIRST, SECOND = VisitNote("v-1", 1, "2025-05-01", "Tess", 1000), VisitNote("v-2", 2, "2026-05-01", "Rolf", 4000)
CAME = st.dictionaries(st.sampled_from(list(End)), st.frozensets(st.sampled_from(TRACKED)))
JOB = st.sampled_from(DEMO_JOBS)


def paces(job: Job) -> dict[End, YearOfWear]:
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    setup = evaluation.fitted
    if setup is None or evaluation.situation is None:
        return {}
    rides = rides_of(job, evaluation, TRACKS, setup)
    return {end: year_of_wear(w, rides, evaluation.situation.parameters) for end, w in setup.wheels.items()}


@settings(max_examples=30)
@given(JOB, CAME)
def test_a_visit_taken_out_leaves_the_book_as_it_was(job: Job, came: dict[End, frozenset[Renewal]]) -> None:
    before = taken_stock(KeptBike(), job, CATALOGUE, {}, FIRST)
    after = fitted_anew(before, job, CATALOGUE, {}, SECOND, came, "service")
    assert without_visit(after, SECOND.name) == before
    assert after.visits[-1].id == SECOND.name


@settings(max_examples=30)
@given(JOB, CAME)
def test_every_wheel_has_one_part_of_a_kind_and_every_life_an_end(
    job: Job, came: dict[End, frozenset[Renewal]]
) -> None:
    bike = fitted_anew(taken_stock(KeptBike(), job, CATALOGUE, {}, FIRST), job, CATALOGUE, {}, SECOND, came)
    for end in End:
        for what in Renewal:
            open_ = [life for life in bike.lives if (life.end, life.what) == (end, what) and life.open]
            assert len(open_) <= 1
            if what in came.get(end, frozenset()) and what is not Renewal.ADAPTER and what in TRACKED:
                assert open_ and open_[0].fitted is not None and open_[0].fitted.day == SECOND.day
    assert len(bike.entries) == sum(len(names) for names in came.values())
    closed = [life for life in bike.lives if not life.open]
    assert all(life.removed is not None and life.removed.visit == SECOND.name for life in closed)


@settings(max_examples=30)
@given(JOB)
def test_taking_stock_again_adds_nothing(job: Job) -> None:
    once = taken_stock(KeptBike(), job, CATALOGUE, {}, FIRST)
    assert taken_stock(once, job, CATALOGUE, {}, FIRST) == once


@pytest.mark.parametrize("job", [job for job in DEMO_JOBS if "tandem" in job.title.lower() or "Hire" in job.title])
def test_what_a_job_read_is_in_the_book_with_the_models_pace(job: Job) -> None:
    year = paces(job)
    bike = taken_stock(KeptBike(), job, CATALOGUE, year, FIRST)
    for end in End:
        pad = bike.on_it(end, Renewal.PAD)
        assert pad is not None and pad.expected_mm_per_km == year[end].pad_mm_per_km
        assert year[end].pad_mm_per_km == pytest.approx(year[end].pad_mm / year[end].km)
        wheel = job.wheel(end)
        if wheel.pad_material_mm is not None:
            assert [r.mm for r in bike.read_of(pad)] == [wheel.pad_material_mm]
        rotor = bike.on_it(end, Renewal.ROTOR)
        if rotor is not None and wheel.rotor_thinnest_mm is not None:
            assert bike.read_of(rotor)[0].mm == wheel.rotor_thinnest_mm
    assert len(wear_states(bike, bikes.today())) >= 2


@given(st.floats(0.3, 3.0), st.floats(-0.8, 0.8))
def test_a_part_that_wears_more_lasts_less(scale: float, mean: float) -> None:
    plain = life_from_new(Renewal.PAD, 2.0, 1.0, 0.25e-3, Belief(mean))
    other = life_from_new(Renewal.PAD, 2.0, 1.0, 0.25e-3 * scale, Belief(mean))
    assert plain is not None and other is not None
    assert plain.low_km < plain.middle_km < plain.high_km
    assert (other.middle_km < plain.middle_km) == (scale > 1) or abs(scale - 1) < 0.02
    assert other.middle_km == pytest.approx(plain.middle_km / scale, rel=0.12)


def test_what_is_not_known_is_not_told() -> None:
    assert life_from_new(Renewal.ROTOR, 1.8, None, 0.02e-3, Belief()) is None
    assert life_from_new(Renewal.PAD, 2.0, 1.0, None, Belief()) is None
    assert life_from_new(Renewal.PAD, 0.9, 1.0, 0.2e-3, Belief()) is None


def test_a_stronger_compound_lasts_longer_on_the_same_bike() -> None:
    job = next(job for job in DEMO_JOBS if job.title.startswith("Tandem"))
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    assert evaluation.fitted is not None and evaluation.proposed is not None and evaluation.situation is not None
    found = {}
    for name, setup in (("fitted", evaluation.fitted), ("proposed", evaluation.proposed)):
        rides = rides_of(job, evaluation, TRACKS, setup)
        year = {end: year_of_wear(w, rides, evaluation.situation.parameters) for end, w in setup.wheels.items()}
        lives = new_lives({end: w.setup for end, w in setup.wheels.items()}, year, (), Lines())
        found[name] = {(life.end, life.what): life for life in lives}
    for end in End:
        resin, sintered = (found[name][end, Renewal.PAD].life for name in ("fitted", "proposed"))
        assert resin is not None and sintered is not None and sintered.middle_km > 1.5 * resin.middle_km
        assert not found["fitted"][end, Renewal.PAD].learnt


def test_names_are_never_given_twice() -> None:
    bike = taken_stock(KeptBike(), DEMO_JOBS[0], CATALOGUE, {}, FIRST)
    fewer = bike.lives[1:]
    assert next_id("life", fewer) not in {life.id for life in fewer}
