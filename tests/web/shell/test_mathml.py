"""Equations as MathML: what is divided, what stands below, and that no sign of the line is lost."""

import re
from html import unescape
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.web.shell.mathml import mathml

LINES = (
    "C_K dK/dt = G_PK (P − K) − h_K A_K (K − T_a) − radiation − G_KF (K − F)",
    "F_i = F_b N_i / (m g cosθ)",
    "P = E / t of the hardest step of integration",
    "reserve = (F_hand (gain/μ) μ_stop / F_i − 1) · 100 %",
    "x = i (A_side · 2 · gap + c p + V_0 p/(p_0 + p)) / A_mc",
    "N_f = (m g l_r + F_b h) / L",
    "a = min(μ m g, m g l_f / h) / m_r",
    "L_stack + n·d ≤ L ≤ L_stack + depth − free",
    "μ(T_hot) × state × wet",
    "an hour standing still",
)


def tree(line: str) -> ElementTree.Element:
    return ElementTree.fromstring(
        unescape(mathml(line).replace("&lt;", "‹").replace("&amp;", "+").replace("&gt;", "›"))
    )


def signs(text: str) -> list[str]:
    return sorted(re.sub(r"[\s_/()\u00a0]", "", text))


@pytest.mark.parametrize("line", LINES)
def test_nothing_of_a_line_is_lost(line: str) -> None:
    assert signs("".join(tree(line).itertext())) == signs(line)


def test_the_whole_product_is_divided_where_the_slash_has_spaces() -> None:
    above, below = tree("F_i = F_b N_i / (m g cosθ)").find("mfrac") or ()
    assert len(above.findall("msub")) == 2
    assert "".join(below.itertext()) == "mgcosθ"
    assert [e.tag for e in tree("V_0 p/(p_0 + p)")] == ["msub", "mfrac"]


def test_a_subscript_stands_below_and_words_are_words() -> None:
    sub = tree("T_fade of the compound").find("msub")
    assert sub is not None and [e.tag for e in sub] == ["mi", "mtext"]
    assert "\u00a0of the compound\u00a0" in "".join(tree("T_fade of the compound").itertext())


@given(st.text(alphabet='abTμ_ /()=+−·1<&"x', max_size=40))
def test_any_line_is_well_formed(line: str) -> None:
    ElementTree.fromstring(mathml(line).replace("&#160;", " "))
