"""What a swap changes, and what goes from a job into a bike's book: properties over bikes by the dice."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import YearOfWear, year_of_wear
from clavis.core.job.document import Job
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike
from clavis.core.keeping.carry_over import TRACKED, VisitNote, fitted_anew, taken_stock, without_visit
from clavis.core.keeping.distance import WeeklyDistance, wear_per_km
from clavis.core.keeping.due import Urgency, due_of
from clavis.core.keeping.swaps import life_from_new, new_lives
from clavis.core.keeping.wear_estimate import Belief
from clavis.core.keeping.wear_state import Lines, wear_states
from clavis.core.parts.mounts import End
from clavis.core.records import next_id
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
        assert pad is not None and pad.expected_mm_per_km == wear_per_km(year[end], None).pad_mm
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
        years = {end: year_of_wear(w, rides, evaluation.situation.parameters) for end, w in setup.wheels.items()}
        year = {end: wear_per_km(worn, None) for end, worn in years.items()}
        lives = new_lives({end: w.setup for end, w in setup.wheels.items()}, year, (), Lines())
        found[name] = {(life.end, life.what): life for life in lives}
    for end in End:
        resin, sintered = (found[name][end, Renewal.PAD].life for name in ("fitted", "proposed"))
        assert resin is not None and sintered is not None and sintered.middle_km > 1.5 * resin.middle_km
        assert not found["fitted"][end, Renewal.PAD].learnt


def test_names_are_never_given_twice() -> None:
    bike = taken_stock(KeptBike(), DEMO_JOBS[0], CATALOGUE, {}, FIRST)
    for taken in ([life.id for life in bike.lives[1:]], ["life-9", "life-x", "other-12"], []):
        assert next_id("life-", taken) not in taken


def test_wear_goes_by_the_distance_of_the_odometer_where_the_week_is_known() -> None:
    """A job's rides are often its descents alone: 200 km of them in a year of 3,000 km."""
    year = YearOfWear(10.0, 200.0, 0.6, 0.06, None, None)
    weekly = WeeklyDistance(3000 * 7 / 365.25, 0.1, True)
    assert wear_per_km(year, None).pad_mm == pytest.approx(0.003)
    assert wear_per_km(year, weekly).pad_mm == pytest.approx(0.0002)
    assert wear_per_km(year, weekly).rotor_mm == pytest.approx(0.00002)
    nothing = wear_per_km(YearOfWear(0.0, 0.0, 0.0, 0.0, None, None), None)
    assert (nothing.pad_mm, nothing.rotor_mm) == (None, None)


def test_a_fillings_age_that_a_job_states_is_known_in_the_book() -> None:
    wheel = DEMO_JOBS[0].front.model_copy(update={"fluid_grade": "dot4", "fluid_age_y": 1.0, "water_seen": False})
    job = DEMO_JOBS[0].model_copy(update={"front": wheel})
    bike = taken_stock(KeptBike(), job, CATALOGUE, {}, FIRST)
    life = bike.on_it(End.FRONT, Renewal.BLEED)
    assert life is not None and life.fitted is not None and life.fitted.day == "2024-05-01"
    wet = job.model_copy(update={"front": wheel.model_copy(update={"water_seen": True})})
    seen = taken_stock(bike, wet, CATALOGUE, {}, SECOND).on_it(End.FRONT, Renewal.BLEED)
    assert seen is not None and seen.water_seen and seen.id == life.id
    due = due_of(KeptBike(lives=(seen,)), bikes.today())
    assert due[0].urgency is Urgency.REPLACE and "100" in str(due[0].why)


@settings(max_examples=30)
@given(JOB, CAME)
def test_what_was_found_in_a_parts_place_stays_found_when_the_signing_is_taken_back(
    job: Job, came: dict[End, frozenset[Renewal]]
) -> None:
    """The book knew other pads; the job found these, and its order put new ones on: without the order these are on it,
    and no two are on one wheel."""
    other = next(p.id for p in CATALOGUE.pads.values() if p.id not in (job.front.pad_id, job.rear.pad_id))
    known = job.model_copy(update={end.value: job.wheel(end).model_copy(update={"pad_id": other}) for end in End})
    stock, sign = VisitNote("job-7", 7, "2026-05-01", "Rolf", 4000), VisitNote("job-7-3", 7, "2026-05-01", "Rolf", 4000)
    found = taken_stock(taken_stock(KeptBike(), known, CATALOGUE, {}, FIRST), job, CATALOGUE, {}, stock)
    back = without_visit(fitted_anew(found, job, CATALOGUE, {}, sign, came), sign.name)
    assert back == found
    for end in End:
        open_ = [x for x in back.lives if x.end is end and x.what is Renewal.PAD and x.open]
        assert [x.part_id for x in open_] == [job.wheel(end).pad_id or other]
