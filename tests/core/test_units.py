"""Units: what is typed in any unit arrives right, comes back right, and nonsense is refused by name."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core import entries, units
from clavis.core.errors import QuantityError
from clavis.core.units import KINDS, System


@pytest.mark.parametrize(
    ("text", "kind", "stored"),
    [
        ("165 lb", "kg", 74.8427),
        ("165lbs", "kg", 74.8427),
        ("82", "kg", 82),
        ("82,5", "kg", 82.5),
        ("1,250.5", "kg", 1250.5),
        ("900 g", "kg", 0.9),
        ("11.5 st", "kg", 73.0284),
        ("7 in", "mm", 177.8),
        ("1.8 cm", "mm", 18),
        ("20 mph", "kmh", 32.18688),
        ("10 m/s", "kmh", 36),
        ("212 F", "c", 100),
        ("212 °F", "c", 100),
        ("-4", "c", -4),
        ("53 lbf·in", "nm", 5.98820),
        ("60 MPa", "bar", 600),
        ("18 months", "y", 1.5),
        ("12 %", "pct", 12),
        ("1.200,50", "n", 1200.5),
        ("1 200", "n", 1200),
        ("1'200.5", "n", 1200.5),
        ("1,234,567", "n", 1234567),
        ("−4,5", "c", -4.5),
        ("5'10", "mm", 1778),
        ("5'10", "m", 1.778),
        ("6 ft", "m", 1.8288),
        ("1/8 in", "mm", 3.175),
        ('1 1/8"', "mm", 28.575),
    ],
)
def test_typed_values_arrive_in_the_stored_unit(text: str, kind: str, stored: float) -> None:
    assert entries.parse(text, kind) == pytest.approx(stored, rel=1e-4)


def test_a_bare_number_is_in_the_readers_own_units() -> None:
    assert entries.parse("165", "kg", System.IMPERIAL) == pytest.approx(74.8427, rel=1e-4)
    assert entries.parse("165", "kg", System.METRIC) == 165
    assert entries.parse("75 kg", "kg", System.IMPERIAL) == 75


def test_a_comma_that_can_mean_two_things_is_asked_for() -> None:
    """2,100 is 2.1 where that lies within the field's range and 2100 does not, and the other way round."""
    assert entries.parse("2,100", "mm", low=1, high=8) == pytest.approx(2.1)
    assert entries.parse("2,100", "n", low=500, high=5000) == 2100
    for low, high in ((1, 5000), (10, 20), (None, None)):
        with pytest.raises(QuantityError, match=r"2\.1 or 2100"):
            entries.parse("2,100", "n", low=low, high=high)


@pytest.mark.parametrize(
    ("text", "kind", "words"),
    [("1/8", "mm", "inches with their sign: 0.125 in"), ("1/2", "kg", "a decimal number"), ("1 2 3", "kg", "a number"),
     ("3/0", "mm", "a decimal"), ("500 kr", "kg", "a number"), ("500 eur", "price", "a number")],
)  # fmt: skip
def test_what_is_not_understood_says_what_would_be(text: str, kind: str, words: str) -> None:
    with pytest.raises(QuantityError) as refused:
        entries.parse(text, kind, currency="kr")
    assert words in str(refused.value.allowed)


def test_who_reads_inches_types_fractions_of_them_and_a_sum_may_carry_its_currency() -> None:
    assert entries.parse("1/8", "mm", System.IMPERIAL) == pytest.approx(3.175)
    assert entries.parse("500 kr", "price", currency="kr") == 500
    assert entries.parse("1 500 KR.", "price", currency="kr") == 1500


@pytest.mark.parametrize(
    ("text", "iso"),
    [("47-622", "47-622"), (" 40 - 355 ", "40-355"), ("28x1.75", "44-622"), ("700x40c", "40-622"), ("26 × 2,1", "53-559"),
     ('27.5x2.4"', "61-584"), ("650B x 47", "47-584"), ("", "")],
)  # fmt: skip
def test_a_tyre_size_is_read_as_it_is_marked(text: str, iso: str) -> None:
    assert entries.tyre_size(text) == iso


@pytest.mark.parametrize("text", ["28 x 1 1/2", "31x2", "big", "28"])
def test_a_size_that_can_mean_several_asks_for_the_tyres_wall(text: str) -> None:
    with pytest.raises(QuantityError, match="such as 47-622"):
        entries.tyre_size(text)


@pytest.mark.parametrize("text", ["", "heavy", "12 km", "--4", "1.2.3", "kg"])
def test_what_is_no_quantity_is_refused_with_its_name(text: str) -> None:
    with pytest.raises(QuantityError, match="Rider's mass"):
        entries.parse(text, "kg", name="Rider's mass")


@given(st.sampled_from(sorted(KINDS)), st.sampled_from(list(System)), st.floats(-5000, 5000))
def test_what_stands_in_an_entry_box_reads_back_as_itself(kind: str, system: System, value: float) -> None:
    text = units.entry(value, kind, system)
    scale = KINDS[kind].unit(system).factor
    assert entries.parse(text, kind, system) == pytest.approx(value, abs=1e-4 * scale + 1e-5 * abs(value) + 1e-9)


def test_every_field_knows_its_unit_by_its_name() -> None:
    assert units.kind_of("rider.mass_kg") == "kg"
    assert units.kind_of("front.max_rotor_mm") == "mm"
    assert units.kind_of("rides.pass.hold_kmh") == "kmh"
    assert units.kind_of("front.rotor_id") == "ratio"


def test_numbers_are_written_as_the_measurement_bears() -> None:
    assert units.show(74.8427, "kg") == "74.8\u00a0kg"
    assert units.show(74.8427, "kg", System.IMPERIAL) == "165.0\u00a0lb"
    assert units.show(None, "kg") == "unknown"
    assert units.number(12345.6, "n") == "12\u202f346"
    assert units.number(-0.2, "n") == "0"
    assert units.signed(-12.4, "n") == "−12"
    assert units.signed(0.3, "n") == ""
    assert units.signed(10, "c", System.IMPERIAL) == "+18"  # a difference: no offset of 32


@given(st.sampled_from(sorted(units.KINDS)), st.sampled_from(list(System)), st.floats(-500, 5000))
def test_a_number_goes_to_the_readers_unit_and_back(kind: str, system: System, value: float) -> None:
    assert units.stored(units.convert(value, kind, system), kind, system) == pytest.approx(value, abs=1e-9)
    assert units.stored(50.0, "c", System.IMPERIAL) == pytest.approx(10.0)
    assert units.stored(2.0, "km", System.IMPERIAL) == pytest.approx(3.218688)
