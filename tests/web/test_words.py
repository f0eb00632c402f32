"""The house's words (docs/words.md): no page of the demo world says what stands there as not to be said."""

import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from tests.web.told import told_at

WORDS = Path(__file__).parents[2] / "docs" / "words.md"
PAGES = (
    "/", "/due", "/bikes", "/bikes/1", "/parts", "/parts/new/rotor", "/parts/line/u-two-22", "/rides", "/rules", "/keys",
    *(f"/jobs/{job}/{page}" for job in (3, 7) for page in (
        "intake", "guide", "measure", "ride", "choose", "choose?view=candidates", "fit", "build", "prove", "keep", "history",
        "compare",
    )),
)  # fmt: skip
MEANT_OTHERWISE = frozenset({"axle", "case", "end", "keep", "pass", "tab"})
"""words that a page may say where it means another thing by them: four cases in five, the station Keep, a mount's tab"""


def refused() -> list[str]:
    """The last column of the first two tables."""
    rows = re.findall(r"^\|[^|]+\|[^|]+\| ([^|]+) \|$", WORDS.read_text(encoding="utf-8"), re.M)
    words = [word.strip() for row in rows for word in row.split(",")]
    return [word for word in words if word and word not in ("not", "---") and word not in MEANT_OTHERWISE]


def test_the_table_is_read() -> None:
    assert {"school", "in reserve", "take away", "what flips it"} <= set(refused())


@pytest.mark.parametrize("path", PAGES)
def test_a_page_says_the_houses_words(client: TestClient, path: str) -> None:
    told = told_at(client, path).lower().replace("school run", "morning run")  # where a bike of the demo goes
    said = [word for word in refused() if re.search(rf"\b{re.escape(word)}s?\b", told)]
    assert said == []
