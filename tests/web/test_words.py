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
HOUSE = Path(__file__).parents[2] / "src" / "clavis" / "web"
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


SPOKEN = re.compile(r'(?:aria-label|title|placeholder|hx-confirm|alt)="([^"]*)"')
LITERAL = re.compile(r'"([^"]*)"|\'([^\']*)\'')


def words_of(template: str) -> str:
    """What a template can say, in every state of its page: its text, its spoken names, and the literals in its
    expressions."""
    text = re.sub(r"\{#.*?#\}|\{%.*?%\}", " ", template, flags=re.S)
    text = re.sub(r"\{\{.*?\}\}", lambda m: " ".join(a or b for a, b in LITERAL.findall(m[0])), text, flags=re.S)
    named = " ".join(SPOKEN.findall(text))
    return " ".join((re.sub(r"<[^>]*>", " ", text, flags=re.S) + " " + named).split()).lower()


TEMPLATES = sorted(HOUSE.rglob("*.html"))


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda path: path.name)
def test_a_piece_that_comes_later_says_them_too(template: Path) -> None:
    told = words_of(template.read_text(encoding="utf-8"))
    assert [word for word in refused() if re.search(rf"\b{re.escape(word)}s?\b", told)] == []


BUTTON = re.compile(r"<button\b[^>]*>\s*(?:\{%-? *\w[^%]*%\}\s*)?(Keep|Take|Read|Lay)\b(?! as)")


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda path: path.name)
def test_buttons_say_what_they_do(template: Path) -> None:
    """Save, Import, Use, Undo, Remove: not what the hand does with it."""
    assert BUTTON.findall(template.read_text(encoding="utf-8")) == []
