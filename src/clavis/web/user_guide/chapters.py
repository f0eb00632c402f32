"""The chapters of the user's guide: files of docs/guide, read once, in the order of their numbers."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from markdown_it import MarkdownIt
from markdown_it.token import Token

DOCS = Path(__file__).parents[4] / "docs"
GUIDE, PICTURES = DOCS / "guide", DOCS / "screenshots"
_NUMBERED = re.compile(r"^\d+-(?P<key>[a-z-]+)$")


@dataclass(frozen=True)
class Chapter:
    """One chapter as a page: its key in addresses, its title, the headings in it with their places, and its HTML."""

    key: str
    title: str
    headings: tuple[tuple[str, str], ...]
    html: str


def place_of(heading: str) -> str:
    """The place of a heading in its chapter's address.

    >>> place_of("What it won't tell you")
    'what-it-wont-tell-you'
    """
    return re.sub(r"[^a-z0-9]+", "-", heading.lower().replace("’", "").replace("'", "")).strip("-")


def _address(link: str) -> str:
    """Where a link of the files leads inside the application: chapters and pictures have addresses of their own."""
    path, mark, place = link.partition("#")
    stem = _NUMBERED.match(Path(path).stem)
    if path.endswith(".md") and stem and "/" not in path:
        return f"/guide/{stem['key']}{mark}{place}"
    if path.startswith("../screenshots/"):
        return f"/guide/pictures/{Path(path).name}"
    return link


def _tokens(text: str) -> tuple[list[Token], MarkdownIt]:
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    return reader.parse(text), reader


def _chapter(key: str, text: str) -> Chapter:
    tokens, reader = _tokens(text)
    title, headings = "", []
    for at, token in enumerate(tokens):
        if token.type == "heading_open":
            words = tokens[at + 1].content
            if token.tag == "h1":
                title = words
            else:
                token.attrSet("id", place_of(words))
                headings += [(place_of(words), words)] if token.tag == "h2" else []
        for inner in token.children or ():
            if inner.type == "link_open":
                inner.attrSet("href", _address(str(inner.attrGet("href"))))
            if inner.type == "image":
                inner.attrSet("src", _address(str(inner.attrGet("src"))))
                inner.attrSet("loading", "lazy")
    html = reader.renderer.render(tokens, reader.options, {})
    return Chapter(key, title, tuple(headings), str(html))


@lru_cache(maxsize=1)
def chapters() -> Mapping[str, Chapter]:
    """Every chapter by its key, in order; none where the guide was not installed beside the program."""
    found = {}
    for path in sorted(GUIDE.glob("*.md")):
        named = _NUMBERED.match(path.stem)
        if named:
            found[named["key"]] = _chapter(named["key"], path.read_text(encoding="utf-8"))
    return found


def picture(name: str) -> Path | None:
    """A picture of the guide by its file name; None where there is none."""
    path = PICTURES / name
    return path if re.fullmatch(r"[a-z-]+\.png", name) and path.is_file() else None
