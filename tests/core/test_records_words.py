"""What is wrong with a record is told in plain words: what is wanted and what was given, never a pattern."""

from typing import Any

import pytest
from pydantic import ValidationError

from clavis.core.parts.models import parse_part
from clavis.core.records import describe

GOOD: dict[str, Any] = {
    "kind": "rotor", "id": "r-1", "maker": "Own", "model": "One", "price": 1, "mass_g": 100, "diameter_mm": 160,
    "thickness_mm": 1.8, "interface": "six_bolt", "construction": "one_piece",
}  # fmt: skip


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("id", "A B", "it holds letters or signs that cannot stand here (given: A B)"),
        ("maker", "", "it is empty"),
        ("model", "x" * 61, "wanted: at most 60 letters (given: " + "x" * 40 + ")"),
        ("price", -1, "wanted: at least 0 (given: -1)"),
        ("mass_g", "heavy", "wanted: a number (given: heavy)"),
        ("diameter_mm", 50, "wanted: at least 120 (given: 50)"),
        ("thickness_mm", 1.0, "wanted: more than 1 (given: 1.0)"),
        ("interface", "round", "wanted: six_bolt or splined (given: round)"),
        ("resin_only", "maybe", "wanted: yes or no (given: maybe)"),
        ("strange", 1, "there is no such field (given: 1)"),
        ("minimum_mm", 2.5, "the minimum thickness must be below the thickness when new"),
    ],
)
def test_a_wrong_figure_says_what_is_wanted(field: str, value: object, said: str) -> None:
    with pytest.raises(ValidationError) as caught:
        parse_part(GOOD | {field: value})
    assert describe(caught.value.errors()[0]) == said


def test_a_missing_one_says_so() -> None:
    with pytest.raises(ValidationError) as caught:
        parse_part({k: v for k, v in GOOD.items() if k != "mass_g"})
    assert describe(caught.value.errors()[0]) == "it is missing"
