"""Shared: an empty database, one with the demo world, a client that behaves like a browser."""

import gc
import re
import shutil
from collections.abc import Generator, Iterator
from pathlib import Path

import httpx
import pytest
from _pytest.doctest import DoctestModule
from argon2 import PasswordHasher
from hypothesis import settings
from sqlalchemy.orm import Session
from starlette.testclient import TestClient

from clavis.demo import world
from clavis.store import accounts, database
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings


@pytest.hookimpl(wrapper=True)
def pytest_collect_file(file_path: Path) -> Generator[None, list[pytest.Collector], list[pytest.Collector]]:
    """Worked values stand in the program, none in the tests: they are not looked through for them."""
    found = yield
    return [collector for collector in found if not isinstance(collector, DoctestModule)] if found else found


settings.register_profile("clavis", deadline=None, derandomize=True, print_blob=True)
settings.load_profile("clavis")


# tests make much and hold it for long: looking through it again and again is a tenth of them
gc.set_threshold(50_000, 20, 20)


@pytest.fixture
def quick_hash(monkeypatch: pytest.MonkeyPatch) -> None:
    """Passwords hashed with little work."""
    monkeypatch.setattr(accounts, "HASHER", PasswordHasher(time_cost=1, memory_cost=8, parallelism=1))
    monkeypatch.setattr(accounts, "_nobodys_hash", [])


@pytest.fixture(scope="session")
def new_database(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A database as it is made, with nothing in it; copied by who writes to it."""
    path = tmp_path_factory.mktemp("new") / "new.db"
    database.open_engine(path).dispose()
    return path


@pytest.fixture
def session(tmp_path: Path, new_database: Path) -> Iterator[Session]:
    """An empty database."""
    engine = database.open_engine(Path(shutil.copy(new_database, tmp_path / "clavis.db")))
    with database.sessions(engine)() as opened:
        yield opened
    engine.dispose()


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo world in a file, laid once; copied by who writes to it."""
    path = tmp_path_factory.mktemp("demo") / "demo.db"
    engine = database.open_engine(path)
    with database.sessions(engine)() as opened:
        world.fill_if_empty(opened)
    engine.dispose()
    app = create_app(Settings(database=path, allowed_hosts=["testserver"], background=False))
    app.state.rows.catch_up()  # once, so that no test waits for what it did not change
    app.state.engine.dispose()
    return path


@pytest.fixture
def demo_session(tmp_path: Path, demo_database: Path) -> Iterator[Session]:
    """A database of its own with the demo world in it."""
    copy = tmp_path / "of-the-demo.db"
    shutil.copy(demo_database, copy)
    engine = database.open_engine(copy)
    with database.sessions(engine)() as opened:
        yield opened
    engine.dispose()


BLOCKS = (
    "html head body div p section table caption thead tbody tfoot tr td th ul ol li h1 h2 h3 figure figcaption form nav "
    "dl dt dd svg g path rect circle line polyline polygon text title details summary dialog header main aside select "
    "option script link meta br"
)
AROUND_BLOCKS = re.compile(rf" ?(</?(?:{BLOCKS.replace(' ', '|')})(?=[\s>/])[^>]*>) ?")


def unfold(response: httpx.Response) -> None:
    """A page as it is read: without the line breaks of its template, which a browser does not show either."""
    response.read()
    if response.headers.get("content-type", "").startswith("text/html"):
        text = AROUND_BLOCKS.sub(r"\1", re.sub(r"[ \n]+", " ", response.text))
        response._text = re.sub(r" (</(?:button|label|a|small|b|span)>)", r"\1", text)


def browserlike(path: Path) -> TestClient:
    """A client that sends what a browser sends from one of our own pages, with a name given."""
    app = create_app(Settings(database=path, allowed_hosts=["testserver"], upload_limit_mb=3, background=False))
    client = TestClient(app, headers={"sec-fetch-site": "same-origin"}, follow_redirects=False)
    client.cookies.set("clavis_who", "Tess%20Bench")
    client.event_hooks = {"request": [], "response": [unfold]}
    return client


@pytest.fixture
def client(tmp_path: Path, demo_database: Path) -> Iterator[TestClient]:
    """The application over its own copy of the demo world."""
    copy = tmp_path / "copy.db"
    shutil.copy(demo_database, copy)
    with browserlike(copy) as opened:
        yield opened


@pytest.fixture
def empty_client(tmp_path: Path, new_database: Path) -> Iterator[TestClient]:
    with browserlike(Path(shutil.copy(new_database, tmp_path / "empty.db"))) as opened:
        yield opened
