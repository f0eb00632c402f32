"""Every hint speaks where it should and is silent where it should not; how far a bike has gone; words that are kept."""

from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, Moment, OdometerReading, PartLife, WearReading
from clavis.core.keeping.cures import counted
from clavis.core.keeping.distance import distance_on, odometer_points, week_quantile, weekly_distance
from clavis.core.keeping.due import Urgency, due_of
from clavis.core.keeping.gauges import GAUGES
from clavis.core.keeping.hints import HINTS, hints_of
from clavis.core.keeping.wear_state import WearNeed, condemned_by, passes, wear_states
from clavis.core.parts.mounts import End
from clavis.core.sentences import packed, say, unpacked
from clavis.core.units import System
from clavis.core.wording.job_summary import setup_sentence
from clavis.core.wording.labels import choice_word
from clavis.core.wording.sentences import render
from tests.bikes import CATALOGUE
from tests.generated import DEMO_JOBS, TRACKS

TODAY = date(2026, 11, 29)


def wheel(pads: tuple[tuple[float, float, float | None], ...], rotor: tuple[tuple[float, float], ...] = ()) -> KeptBike:
    """A front wheel with new pads of 2.0 mm and a rotor of 1.8, at 0 km; what was read of each: km, mm, the other pad."""
    fitted = Moment(day="2025-11-29", km=0)
    lives = (
        PartLife(id="pads", end=End.FRONT, what=Renewal.PAD, fitted=fitted, new_mm=2.0, compound="resin",
                 expected_mm_per_km=0.25e-3, rotor_mm_per_km=0.05e-3),
        PartLife(id="rotor", end=End.FRONT, what=Renewal.ROTOR, fitted=fitted, new_mm=1.8, replace_mm=1.5,
                 expected_mm_per_km=0.05e-3),
    )  # fmt: skip

    def day(k: int) -> str:
        return (date(2026, 1, 1) + timedelta(days=30 * k)).isoformat()

    reads = [
        WearReading(id=f"p-{k}", life="pads", day=day(k), km=km, mm=mm, other_mm=other, gauge="micrometer")
        for k, (km, mm, other) in enumerate(pads)
    ] + [
        WearReading(id=f"r-{k}", life="rotor", day=day(k), km=km, mm=mm, gauge="micrometer")
        for k, (km, mm) in enumerate(rotor)
    ]
    return KeptBike(lives=lives, readings=tuple(reads))


AS_EXPECTED = wheel(((1000, 1.75, 1.8), (2000, 1.5, 1.55)), ((1000, 1.75), (2000, 1.70)))
SPEAKS: dict[str, KeptBike] = {
    "thicker_than_before": wheel(((1000, 1.4, None), (1500, 1.9, None))),
    "one_pad_alone": wheel(((1000, 1.2, 1.9),)),
    "faster_than_explained": wheel(((800, 1.5, None), (1500, 1.05, None))),
    "slower_than_explained": wheel(((3000, 1.75, None), (5000, 1.6, None))),
    "out_of_proportion": wheel(((800, 1.5, None), (1500, 1.05, None)), ((800, 1.77), (1500, 1.74))),
    "rotor_out_of_proportion": wheel(((2000, 1.6, None), (3000, 1.4, None)), ((1000, 1.68), (2000, 1.55))),
    "sets_of_pads": wheel(((1000, 1.5, None), (1900, 1.05, None)), ((3000, 1.797), (6000, 1.795))),
}


def keys(bike: KeptBike) -> list[str]:
    return [hint.key for hint in hints_of(wear_states(bike, TODAY))]


def test_every_row_has_a_case() -> None:
    assert set(SPEAKS) == {row.key for row in HINTS} and len({row.key for row in HINTS}) == len(HINTS)


@pytest.mark.parametrize("key", list(SPEAKS))
def test_a_hint_speaks_where_it_should_with_something_to_ask(key: str) -> None:
    hint = next(h for h in hints_of(wear_states(SPEAKS[key], TODAY)) if h.key == key)
    assert hint.end is End.FRONT and str(hint.words) and len(hint.ask) >= 2


def test_no_hint_speaks_of_a_wheel_that_wears_as_expected() -> None:
    assert keys(AS_EXPECTED) == []
    assert keys(wheel(())) == []  # nor of one that nobody has read


@pytest.mark.parametrize("key", ["faster_than_explained", "slower_than_explained", "out_of_proportion", "sets_of_pads"])
def test_no_hint_compares_with_a_model_that_does_not_speak(key: str) -> None:
    lives = tuple(
        life.model_copy(update={"expected_mm_per_km": None, "rotor_mm_per_km": None}) for life in SPEAKS[key].lives
    )
    assert key not in keys(SPEAKS[key].model_copy(update={"lives": lives}))


def test_what_condemns_stands_until_one_that_may_pass_says_otherwise() -> None:
    def read(number: int, mm: float, gauge: str) -> WearReading:
        return WearReading(id=f"r-{number}", life="rotor", day="2026-06-01", km=2000 + number, mm=mm, gauge=gauge)

    low, high = read(1, 1.45, "vernier"), read(2, 1.6, "vernier")
    rotor = AS_EXPECTED.lives[1]
    assert condemned_by((low, high), rotor) == low  # a vernier passes nothing, not even another vernier
    assert condemned_by((low, read(3, 1.55, "micrometer")), rotor) is None
    assert condemned_by((read(3, 1.55, "micrometer"), low), rotor) == low
    unsafe = AS_EXPECTED.model_copy(update={"readings": (*AS_EXPECTED.readings, low, high)})
    assert due_of(unsafe, TODAY)[0].urgency is Urgency.UNSAFE


def test_a_vernier_moves_nothing_neither_up_nor_down() -> None:
    """Worn out by the forecast, and then read with a vernier: it is to be replaced all the same."""
    worn = wheel((), ((4000, 1.56), (5000, 1.52)))
    later = OdometerReading(id="odo-1", day="2026-06-01", km=7500)
    reading = WearReading(id="v", life="rotor", day="2026-06-02", km=7500, mm=1.6, gauge="vernier")
    bike = worn.model_copy(update={"odometer": (later,)})
    with_vernier = bike.model_copy(update={"readings": (*bike.readings, reading)})
    needs = [next(s.need for s in wear_states(b, TODAY) if s.life.what is Renewal.ROTOR) for b in (bike, with_vernier)]
    assert needs[0] is needs[1] is WearNeed.REPLACE


def test_an_odometer_that_goes_back_is_asked_about() -> None:
    rows = tuple(
        OdometerReading(id=f"o-{k}", day=day, km=km)
        for k, (day, km) in enumerate((("2026-01-01", 3000.0), ("2026-06-01", 310.0)))
    )
    bike = AS_EXPECTED.model_copy(update={"odometer": rows, "readings": AS_EXPECTED.readings[:1]})
    asked = [str(d.why) for d in due_of(bike, TODAY)]
    assert weekly_distance(bike) is None
    assert any("310 km on 2026-06-01" in why.replace("\xa0", " ") and "mistyped" in why for why in asked)


@pytest.mark.parametrize("gauge", list(GAUGES))
@pytest.mark.parametrize("what", [Renewal.PAD, Renewal.ROTOR])
def test_what_a_gauge_may_pass(gauge: str, what: Renewal) -> None:
    life = AS_EXPECTED.lives[0 if what is Renewal.PAD else 1]
    reading = WearReading(id="x", life=life.id, day="2026-06-01", mm=1.6, gauge=gauge)
    assert passes(reading, life) == (not (what is Renewal.ROTOR and gauge == "vernier"))


DAYS = st.lists(
    st.tuples(st.integers(0, 900), st.floats(0, 20_000)), min_size=2, max_size=8, unique_by=lambda pair: pair[0]
)


def ridden(pairs: list[tuple[int, float]]) -> KeptBike:
    """A bike whose odometer only goes forward."""
    days = sorted(day for day, _ in pairs)
    distances = sorted(km for _, km in pairs)
    rows = tuple(
        OdometerReading(id=f"o-{k}", day=(date(2024, 1, 1) + timedelta(days=day)).isoformat(), km=km)
        for k, (day, km) in enumerate(zip(days, distances, strict=True))
    )
    return KeptBike(odometer=rows)


@given(DAYS, st.integers(0, 900), st.integers(0, 900))
def test_a_bike_never_goes_backwards(pairs: list[tuple[int, float]], a: int, b: int) -> None:
    bike = ridden(pairs)
    weekly = weekly_distance(bike)
    early, late = sorted(date(2024, 1, 1) + timedelta(days=d) for d in (a, b))
    here, there = distance_on(bike, early, weekly), distance_on(bike, late, weekly)
    if here is not None and there is not None:
        assert here <= there + 1e-6
    points = odometer_points(bike)
    assert [km for _, km in points] == sorted(km for _, km in points)


@given(DAYS)
def test_what_was_read_is_what_is_told_on_that_day(pairs: list[tuple[int, float]]) -> None:
    bike = ridden(pairs)
    for day, km in odometer_points(bike):
        assert distance_on(bike, day, weekly_distance(bike)) == pytest.approx(km)


@given(st.floats(1, 1000))
def test_a_stated_week_is_its_own_middle(km: float) -> None:
    weekly = weekly_distance(KeptBike(weekly_km=km))
    assert weekly is not None and weekly.stated
    assert week_quantile(weekly, 0) == pytest.approx(km)
    assert week_quantile(weekly, 1.6448536) == pytest.approx(1.2 * km)


def test_small_numbers_are_words() -> None:
    assert [counted(n) for n in (1, 2, 3, 10, 11)] == ["one", "two", "three", "ten", "11"]


@pytest.mark.parametrize("job", DEMO_JOBS, ids=lambda job: job.title[:12])
@pytest.mark.parametrize("system", list(System))
def test_kept_words_are_told_as_they_were_said(job: Any, system: System) -> None:
    """A row of the board is kept as data and told later, in any reader's units, to the letter."""
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    for setup in (evaluation.fitted, evaluation.proposed):
        words = setup_sentence(setup)
        again = unpacked(packed(words, choice_word))
        assert render(again, system) == render(words, system)
        for point in setup.points if setup else ():
            assert render(unpacked(packed(point.words, choice_word)), system) == render(point.words, system)


def test_what_is_no_words_is_refused() -> None:
    assert unpacked("plain") == "plain" and str(unpacked(packed(None))) == ""
    with pytest.raises(KeyError):
        unpacked({"say": "of {what}", "with": {}})
    assert str(unpacked(packed(say("")))) == ""
