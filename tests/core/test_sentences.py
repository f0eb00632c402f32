"""Sentences: quantities in the reader's units, plurals, articles, signs; nothing put together from fragments."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core import units
from clavis.core.parts.models import HubInterface
from clavis.core.sentences import NOTHING, Sentence, joined, render, say, with_article
from clavis.core.units import System


def plain(text: str) -> str:
    return text.replace("\xa0", " ").replace("\u202f", " ")


def test_a_quantity_is_told_in_the_reader_s_units() -> None:
    words = say("thinnest {thinnest_mm:.2}, at {peak_c} after {way_km:.1}", thinnest_mm=1.47, peak_c=231.0, way_km=3.2)
    assert plain(str(words)) == "thinnest 1.47 mm, at 231 °C after 3.2 km"
    assert plain(render(words, System.IMPERIAL)) == "thinnest 0.0579 in, at 448 °F after 2.0 mi"


@pytest.mark.parametrize(("n", "told"), [(0, "0 points"), (1, "1 point"), (2, "2 points")])
def test_a_count_has_its_plural(n: int, told: str) -> None:
    assert plain(str(say("{n:point|points}", n=n))) == told


def test_signs_sizes_and_unknowns() -> None:
    assert plain(str(say("{off_mm:+.1}", off_mm=-1.5))) == "−1.5 mm"
    assert plain(str(say("{off_mm:+.1}", off_mm=0.01))) == "0 mm"
    assert (
        str(say("a {rotor_mm:size} on a {position_mm:size} position", rotor_mm=203.0, position_mm=200.0))
        == "a 203 on a 200 position"
    )
    assert str(say("{age_y}", age_y=None)) == "unknown"
    assert "inf" not in str(say("{reserve_pct:+.0}", reserve_pct=float("inf")))
    assert plain(str(say("{share_pct:.0}", share_pct=25.0))) == "25%"


def test_words_inside_words_and_enumerations() -> None:
    inner = say("{n:rotor|rotors}", n=1)
    outer = say("{what} on {hub:a} hub", what=inner, hub=HubInterface.SIX_BOLT)
    assert plain(str(outer)) == "1 rotor on a six bolt hub"
    assert render(outer, label=lambda member: f"<{member.value}>").endswith("a <six_bolt> hub")
    assert "six bolt" in outer


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ("international standard", "an international standard"),
        ("one-piece rotor", "a one-piece rotor"),
        ("IS tab", "an IS tab"),
        ("usual lever", "a usual lever"),
    ],
)
def test_articles(words: str, told: str) -> None:
    assert with_article(words) == told


def test_joined_leaves_out_what_says_nothing() -> None:
    assert str(joined(["a", NOTHING, say("b"), ""], ", ", " and ")) == "a and b"
    assert not joined([]) and not NOTHING and say("x")


def test_a_template_without_its_value_is_refused() -> None:
    with pytest.raises(KeyError, match="thinnest_mm"):
        say("thinnest {thinnest_mm}", minimum_mm=1.5)
    with pytest.raises(ValueError, match="says nothing"):
        str(say("{wide_mm:wide}", wide_mm=1.0))


METRIC_SIGN = re.compile(r"\b(mm|cm|km|km/h|kg|°C|K|N|bar|m/s²|N·m|m)\b")


@given(st.sampled_from(sorted(units.KINDS)), st.floats(-500, 500), st.integers(0, 3))
def test_no_imperial_reader_meets_a_metric_unit(kind: str, value: float, decimals: int) -> None:
    told = plain(render(Sentence(f"{{x_{kind}:.{decimals}}}", ((f"x_{kind}", value),)), System.IMPERIAL))
    shared = {"W", "kJ", "MJ", "J/K", "W/K", "W/m²K", "s", "min", "years", "weeks", "%", "°", ""}
    assert units.sign(kind, System.IMPERIAL) in shared or not METRIC_SIGN.search(told), told
