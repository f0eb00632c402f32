"""Verdicts: what a margin makes of its value, the worst of several, and their words."""

from clavis.core.verdicts import Margin, Verdict, worst
from tests.bikes import plain


def margin(value: float | None, needed: float = 0.25) -> Margin:
    return Margin("k", "l", value, "ratio", needed, value)


def test_verdict_words() -> None:
    assert [margin(v).verdict for v in (0.25, 0.2499, 0.0, -0.001, None)] == [
        Verdict.HOLDS, Verdict.TIGHT, Verdict.TIGHT, Verdict.FAILS, Verdict.UNKNOWN,
    ]  # fmt: skip
    assert worst([Verdict.HOLDS, Verdict.TIGHT, Verdict.UNKNOWN]) is Verdict.UNKNOWN
    assert worst([Verdict.UNKNOWN, Verdict.FAILS]) is Verdict.FAILS
    assert worst([Verdict.HOLDS, Verdict.TIGHT]) is Verdict.TIGHT
    assert worst([]) is Verdict.UNKNOWN


def test_margins_in_words() -> None:
    assert plain(margin(-0.29).words()) == "−29 % l"
    assert plain(margin(0.31).words("force in reserve")) == "+31 % force in reserve"
    assert plain(Margin("k", "rotor below fade", -12.4, "k", 30, -0.1).words()) == "−12 K rotor below fade"
    assert plain(Margin("k", "l", None, "k", 30, None, "age not known").words()) == "age not known"
