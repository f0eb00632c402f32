"""The cases worked by hand in docs/keeping.md, the forecast's coverage, and what must hold of any wear."""

from datetime import date
from math import exp, pi

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, Moment, OdometerReading, PartLife, WearReading
from clavis.core.keeping.distance import distance_on, weekly_distance
from clavis.core.keeping.size_life import life_by_size
from clavis.core.keeping.wear_estimate import (
    PRIOR_SIGMA,
    Belief,
    ExpectedWear,
    Read,
    WearPace,
    estimate,
    sigma_of,
)
from clavis.core.keeping.wear_state import Lines, WearNeed, wear_state
from clavis.core.parts.mounts import End
from tests.bikes import CATALOGUE

PADS = ExpectedWear((WearPace(0, 0.25e-3),))
NEW = Read(0, 2.0, sigma_of(0.08))
READ = Read(2000, 1.2, sigma_of(0.1))
TODAY = date(2026, 11, 29)


def test_case_1_nothing_read() -> None:
    found = estimate(PADS, 0, NEW, [])
    assert found is not None
    crossing = found.crossing(1.0)
    assert crossing.middle_km == pytest.approx(4000, rel=0.01)
    assert (crossing.low_km, crossing.high_km) == pytest.approx((2850, 5610), rel=0.01)


def test_case_2_one_reading() -> None:
    found = estimate(PADS, 0, NEW, [READ])
    assert found is not None
    assert found.ratio == pytest.approx(1.42, rel=0.03)
    assert float(found.weight @ found.thickness_mm) == pytest.approx(1.226, abs=0.01)
    assert found.crossing(1.0).middle_km == pytest.approx(2635, rel=0.015)


def test_case_3_a_vernier_moves_nothing_and_may_condemn() -> None:
    def rotor(mm: float, gauge: str) -> KeptBike:
        life = PartLife(
            id="life-1",
            end=End.FRONT,
            what=Renewal.ROTOR,
            new_mm=1.8,
            replace_mm=1.5,
            expected_mm_per_km=0.02e-3,
            fitted=Moment(day="2026-01-01", km=0),
        )
        read = WearReading(id="read-1", life="life-1", day="2026-06-01", km=5000, mm=mm, gauge=gauge)
        return KeptBike(lives=(life,), readings=(read,))

    plain = rotor(1.58, "vernier").model_copy(update={"readings": ()})
    kept, alone = (wear_state(bike, bike.lives[0], TODAY) for bike in (rotor(1.58, "vernier"), plain))
    assert kept.replace == alone.replace and kept.need is WearNeed.ASK and alone.need is WearNeed.WATCH
    measured = wear_state(rotor(1.58, "micrometer"), rotor(1.58, "micrometer").lives[0], TODAY)
    assert measured.replace != alone.replace
    low = rotor(1.45, "vernier")
    assert wear_state(low, low.lives[0], TODAY).need is WearNeed.UNSAFE


def test_case_4_a_rotor_under_two_sets_of_pads() -> None:
    expected = ExpectedWear((WearPace(0, 0.020e-3), WearPace(3000, 0.050e-3)))
    assert expected.between(0, 4000) == pytest.approx(0.11)
    assert expected.between(2900, 3100) == pytest.approx(0.002 + 0.005)
    found = estimate(expected, 0, Read(0, 1.8, 0.001), [Read(4000, 1.69, 0.001)])
    resin = estimate(ExpectedWear((WearPace(0, 0.020e-3),)), 0, Read(0, 1.8, 0.001), [])
    assert found is not None and resin is not None
    assert found.crossing(1.5).middle_km == pytest.approx(7800, rel=0.02)
    assert resin.crossing(1.5).middle_km == pytest.approx(15000, rel=0.02)


def test_case_5_what_goes_on_to_the_next_pads() -> None:
    learnt = Belief(0.354, 0.01505)
    other = learnt.carried(same=False)
    assert exp(other.mean) == pytest.approx(1.19, abs=0.006)
    assert other.variance == pytest.approx(0.0190 + 0.0304, abs=0.0002)
    assert learnt.carried(same=True) == learnt
    nothing_learnt = Belief().carried(same=False)
    assert nothing_learnt.mean == 0 and nothing_learnt.variance == pytest.approx(PRIOR_SIGMA**2)


def test_case_6_life_goes_with_the_swept_ring() -> None:
    rotor = next(r for r in CATALOGUE.rotors.values() if r.id == "u-line-160")
    lives = {life.diameter_mm: life.ratio for life in life_by_size(rotor, (160.0, 180.0, 203.0))}
    assert (pi * (80**2 - 65.5**2), pi * (101.5**2 - 87**2)) == pytest.approx((6628, 8587), abs=1)
    assert lives[160.0] == 1 and lives[203.0] == pytest.approx(8587 / 6628, abs=0.005)
    assert lives[203.0] < (203 / 160) ** 2 - 0.25  # not with the diameter squared


def pads(weekly_km: float | None = None, odometer: tuple[OdometerReading, ...] = ()) -> KeptBike:
    life = PartLife(
        id="life-1",
        end=End.FRONT,
        what=Renewal.PAD,
        new_mm=2.0,
        expected_mm_per_km=0.25e-3,
        compound="resin",
        fitted=Moment(day="2026-04-01", km=0),
    )
    read = WearReading(id="read-1", life="life-1", day="2026-11-29", km=2000, mm=1.2, gauge="pad_gauge")
    return KeptBike(lives=(life,), readings=(read,), weekly_km=weekly_km, odometer=odometer)


def test_case_7_a_date_only_where_a_weekly_distance_is_known() -> None:
    stated = wear_state(pads(60), pads().lives[0], TODAY)
    assert stated.replace_by is not None
    assert abs((stated.replace_by.middle - date(2027, 2, 10)).days) <= 7
    assert stated.replace_by.low < stated.replace_by.middle < stated.replace_by.high
    two_readings = wear_state(pads(), pads().lives[0], TODAY)
    assert two_readings.replace is not None and two_readings.replace_by is None


def test_three_readings_over_eight_weeks_tell_a_week() -> None:
    def read(*at: tuple[str, float]) -> KeptBike:
        return KeptBike(odometer=tuple(OdometerReading(id=f"o-{k}", day=d, km=km) for k, (d, km) in enumerate(at)))

    told = weekly_distance(read(("2026-01-05", 100), ("2026-02-02", 340), ("2026-03-30", 820)))
    assert told is not None and told.km == pytest.approx(60) and not told.stated
    assert weekly_distance(read(("2026-01-05", 100), ("2026-03-30", 820))) is None
    assert weekly_distance(read(("2026-01-05", 100), ("2026-01-12", 160), ("2026-01-19", 220))) is None
    assert weekly_distance(read(("2026-01-05", 900), ("2026-02-02", 340), ("2026-03-30", 1820))) is None
    bike = read(("2026-01-05", 100), ("2026-02-02", 340))
    assert distance_on(bike, date(2026, 1, 19), None) == pytest.approx(220)
    assert distance_on(bike, date(2026, 2, 3), None) is None


def test_the_workshop_chooses_its_lines_and_a_makers_limit_stands_above_them() -> None:
    bike = pads()
    usual = wear_state(bike, bike.lives[0], TODAY)
    early = wear_state(bike, bike.lives[0], TODAY, Lines(plan_mm=2.0, replace_mm=1.5))
    assert usual.need is WearNeed.PLAN and early.need is WearNeed.REPLACE
    made = bike.lives[0].model_copy(update={"replace_mm": 1.3})
    assert wear_state(bike.model_copy(update={"lives": (made,)}), made, TODAY).need is WearNeed.REPLACE


def _lived(rng: np.random.Generator) -> tuple[list[Read], float, float]:
    """A hidden life: a ratio of its own, uneven stretches of 50 km drawn from a gamma, a winter that wears more; readings
    rounded by their gauge at odd distances; where it truly reaches 1.0 mm."""
    ratio = exp(rng.normal(0, PRIOR_SIGMA))
    start = 2.0 + rng.normal(0, 0.05)
    step = 50.0
    km = np.arange(1, 1200) * step
    season = 1 + 0.2 * np.sin(2 * pi * km / 3000 + rng.uniform(0, 2 * pi))
    shape = 1 / (0.45**2 * 2)
    wear = np.cumsum(ratio * season * 0.25 * step / 1000 * rng.gamma(shape, 1 / shape, len(km)))
    thickness = start - wear
    end_km = float(np.interp(-1.0, -thickness, km))
    stop = rng.uniform(0.25, 0.85) * end_km
    places = np.sort(rng.uniform(0.1 * stop, stop, rng.integers(0, 5)))
    reads = [
        Read(float(x), round(float(np.interp(x, km, thickness) + rng.normal(0, sigma_of(0.1))), 1), sigma_of(0.1))
        for x in places
    ]
    return reads, end_km, start


def test_the_forecast_holds_what_it_says() -> None:
    """Of simulated lives, four in five end within the interval, though they differ from the model in structure."""
    rng = np.random.default_rng(18)
    inside = []
    for _ in range(600):
        reads, end_km, _ = _lived(rng)
        found = estimate(PADS, 0, Read(0, 2.0, sigma_of(0.08)), reads)
        assert found is not None
        crossing = found.crossing(1.0)
        inside.append(crossing.low_km <= end_km <= crossing.high_km)
    assert 0.75 <= np.mean(inside) <= 0.85, np.mean(inside)


def test_what_was_learnt_narrows() -> None:
    """With readings the interval is narrower than without, on the mean of many lives."""
    rng = np.random.default_rng(5)
    widths = []
    for _ in range(60):
        reads, _, _ = _lived(rng)
        for used in ([], reads):
            found = estimate(PADS, 0, NEW, used)
            assert found is not None
            crossing = found.crossing(1.0)
            widths.append((len(used), (crossing.high_km - crossing.low_km) / crossing.middle_km))
    plain = np.mean([w for n, w in widths if n == 0])
    read = np.mean([w for n, w in widths if n >= 3])
    assert read < 0.6 * plain


THIN = st.floats(0.4, 1.9)


@given(THIN, THIN, st.floats(200, 6000), st.floats(100, 4000))
def test_a_thinner_reading_never_lasts_longer(a_mm: float, b_mm: float, km: float, further_km: float) -> None:
    thin, thick = sorted((a_mm, b_mm))
    found = [estimate(PADS, 0, NEW, [Read(km, mm, 0.06)]) for mm in (thin, thick)]
    assert found[0] is not None and found[1] is not None
    assert found[0].chance_below(1.0, km + further_km) >= found[1].chance_below(1.0, km + further_km) - 1e-9


@given(THIN, st.floats(200, 6000))
def test_chances_only_grow_with_the_distance(mm: float, km: float) -> None:
    found = estimate(PADS, 0, NEW, [Read(km, mm, 0.06)])
    assert found is not None
    chances = found.chances_below(1.0, km + np.linspace(0, 8000, 30))
    assert np.all(np.diff(chances) >= -0.02) and abs(float(found.weight.sum()) - 1) < 1e-9
    crossing = found.crossing(1.0)
    assert km <= crossing.low_km <= crossing.middle_km <= crossing.high_km


def test_nothing_known_is_nothing_told() -> None:
    assert estimate(PADS, 0, None, []) is None
    life = PartLife(id="life-1", end=End.REAR, what=Renewal.PAD)
    state = wear_state(KeptBike(lives=(life,)), life, TODAY)
    assert state.need is WearNeed.ASK and state.replace is None and state.now_mm is None and not state.modelled
    with pytest.raises(ValueError, match="no thickness"):
        wear_state(KeptBike(), PartLife(id="life-1", end=End.REAR, what=Renewal.BLEED), TODAY)
