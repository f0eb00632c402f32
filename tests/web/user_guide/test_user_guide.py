"""The user's guide inside the application: every chapter opens, every link and picture leads somewhere, every page has
its chapter, and the glossary explains fields that there are."""

import re

import pytest
from starlette.testclient import TestClient

from clavis import __version__
from clavis.core.job.document import Job
from clavis.core.parts.models import PARTS
from clavis.core.wording.glossary import TERM_OF_FIELD, TERMS
from clavis.web.shell.help_pages import CHAPTER_OF, help_of
from clavis.web.shell.rooms import Room
from clavis.web.user_guide.chapters import GUIDE, chapters
from tests.web.test_words import refused
from tests.web.told import told_at

TANDEM = 7


def test_the_guide_opens_at_its_first_chapter(client: TestClient) -> None:
    answer = client.get("/guide")
    assert answer.status_code == 303 and answer.headers["location"] == "/guide/first-day"
    page = told_at(client, "/guide/first-day")
    assert "First day" in page and f"Clavis {__version__}" in page
    assert client.get("/guide/nothing").status_code == 404
    assert client.get("/guide/terms/nothing").status_code == 404


@pytest.mark.parametrize("key", list(chapters()))
def test_every_link_and_picture_of_a_chapter_leads_somewhere(client: TestClient, key: str) -> None:
    page = client.get(f"/guide/{key}").text
    text = page[page.index('<article class="guide-text">') :]
    assert re.search(r"<h1>[^<]+</h1>", text)
    links = re.findall(r'(?:href|src)="([^"]+)"', text[: text.index("</article>")])
    for link in links:
        path, _, place = link.partition("#")
        assert path.startswith("/"), link
        answer = client.get(path)
        assert answer.status_code in (200, 303), link
        assert not place or f'id="{place}"' in answer.text, link
    for image in re.findall(r"<img [^>]+>", text):
        assert re.search(r'alt="[^"]{5,}"', image), image


def test_every_page_has_its_chapter(client: TestClient) -> None:
    assert set(CHAPTER_OF.values()) | {"first-day"} <= set(chapters())
    for room in Room:
        assert help_of(f"/jobs/{TANDEM}/{room.value}?x=1").removeprefix("/guide/") in chapters(), room
    page = client.get(f"/jobs/{TANDEM}/fit").text
    assert re.search(r'href="/guide/fit" data-help', page)


def test_the_guide_says_the_houses_words() -> None:
    for path in GUIDE.glob("*.md"):
        text = re.sub(r"\]\([^)]*\)", "]", path.read_text(encoding="utf-8")).lower().replace("school gate", "")
        assert [word for word in refused() if re.search(rf"\b{re.escape(word)}s?\b", text)] == [], path.name


def fields_of(model: type) -> set[str]:
    return set(re.findall(r"'(\w+)'", str(model.model_json_schema())))  # type: ignore[attr-defined]


def test_terms_explain_fields_that_there_are(client: TestClient) -> None:
    known = fields_of(Job).union(*(fields_of(part) for part in PARTS.values()))
    assert set(TERM_OF_FIELD) <= known
    assert sum(len(term.fields) for term in TERMS.values()) == len(TERM_OF_FIELD)  # no field has two
    page = client.get(f"/jobs/{TANDEM}/measure?place=rotor").text
    assert "/guide/terms/run-out" in page and "/guide/terms/minimum-thickness" in page
    assert "wanders sideways" in client.get("/guide/terms/run-out").text
    glossary = client.get("/guide/glossary").text
    assert all(f'id="{key}"' in glossary for key in TERMS)


def test_a_picture_is_one_of_the_guides(client: TestClient) -> None:
    answer = client.get("/guide/pictures/choose.png")
    assert answer.status_code == 200 and answer.content.startswith(b"\x89PNG")
    for name in ("nothing.png", "..%2Fmodel.md", "%2e%2e%2fguide%2f01-first-day.md", "choose.PNG"):
        assert client.get(f"/guide/pictures/{name}").status_code == 404, name
