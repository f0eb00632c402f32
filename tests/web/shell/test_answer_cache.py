"""What is kept is bounded in bytes, and what holds of another catalogue or another file is let go."""

import shutil
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from starlette.testclient import TestClient

from clavis.store import catalogue
from clavis.store.database import open_engine, writing
from clavis.web.shell.answer_cache import LARGE_BYTES, USUAL_BYTES, AnswerCache
from clavis.web.shell.held_bytes import held_bytes
from tests.bikes import CATALOGUE
from tests.conftest import browserlike
from tests.web.told import told_at

MEGABYTE = 1_000_000


def block(megabytes: float) -> np.ndarray:
    return np.zeros(int(megabytes * MEGABYTE), dtype=np.uint8)


def test_until_it_is_weighed_an_answer_counts_as_usual() -> None:
    answers, made = AnswerCache(3 * USUAL_BYTES), []
    for key in ("a", "b", "c", "d"):
        answers.get(key, lambda: made.append(1))
    assert answers.kept == 3 and answers.held_bytes == 3 * USUAL_BYTES
    answers.get("d", lambda: made.append(1))
    assert len(made) == 4  # still kept
    answers.get("a", lambda: made.append(1))
    assert len(made) == 5  # the oldest went


def test_of_large_answers_fewer_are_kept() -> None:
    answers = AnswerCache(2 * LARGE_BYTES)
    for key in ("a", "b", "c"):
        answers.get_large(key, lambda: 1)
    assert answers.kept == 2
    assert answers.get_large("c", lambda: 9) == 1
    assert answers.get_large("a", lambda: 9) == 9


def test_once_weighed_it_counts_for_what_it_holds() -> None:
    answers = AnswerCache(10 * MEGABYTE)
    answers.get("small", lambda: [1, 2, 3])
    answers.get("large", lambda: block(5))
    assert answers.weigh() == 2 and answers.weigh() == 0
    assert 5 * MEGABYTE < answers.held_bytes < 5.01 * MEGABYTE
    answers.get("larger", lambda: block(8))  # fits as a usual one, and pushes the others out when it is weighed
    assert answers.kept == 3
    answers.weigh()
    assert answers.kept == 1 and answers.held_bytes <= 10 * MEGABYTE
    assert answers.get("larger", lambda: None) is not None


def test_what_is_too_large_is_answered_and_not_kept() -> None:
    answers = AnswerCache(10 * MEGABYTE)
    assert len(answers.get("huge", lambda: block(30))) == 30 * MEGABYTE
    answers.weigh()
    assert answers.kept == 0 and answers.held_bytes == 0
    assert AnswerCache(MEGABYTE).get("any", lambda: 7) == 7


def test_they_are_weighed_beside_the_pages(monkeypatch: Any) -> None:
    monkeypatch.setattr("clavis.web.shell.answer_cache.SETTLES_S", 0.01)
    answers, weighed = AnswerCache(), threading.Event()
    true_weigh = answers.weigh

    def weigh() -> int:
        found = true_weigh()
        weighed.set()
        return found

    monkeypatch.setattr(answers, "weigh", weigh)
    answers.start()
    answers.get("a", lambda: block(3))
    assert weighed.wait(10)
    assert answers.held_bytes >= 3 * MEGABYTE
    answers.stop()
    assert not answers._scales.is_alive()


def test_the_scales_wait_while_people_are_answered_but_not_for_ever(monkeypatch: Any) -> None:
    monkeypatch.setattr("clavis.web.shell.answer_cache.SETTLES_S", 0.05)
    monkeypatch.setattr("clavis.web.shell.answer_cache.LATEST_S", 0.6)
    answers, weighed = AnswerCache(), threading.Event()
    monkeypatch.setattr(answers, "weigh", lambda: weighed.set() or 0)
    answers.start()
    with answers.courtesy.answering(changes=False):  # somebody waits all the time
        answers.get("a", lambda: 1)
        assert answers.courtesy.quiet_s() == 0
        assert not weighed.wait(0.3)
        assert weighed.wait(10)
    answers.stop()


def test_the_scales_go_on_where_something_cannot_be_weighed(monkeypatch: Any) -> None:
    monkeypatch.setattr("clavis.web.shell.answer_cache.SETTLES_S", 0.01)
    answers, tried, again = AnswerCache(), threading.Event(), threading.Event()

    def weigh() -> int:
        if not tried.is_set():
            tried.set()
            raise ReferenceError("gone")
        again.set()
        return 0

    monkeypatch.setattr(answers, "weigh", weigh)
    answers.start()
    answers.get("a", lambda: 1)
    assert tried.wait(10)
    answers.get("b", lambda: 2)
    assert again.wait(10)
    answers.stop()


@dataclass
class Bundle:
    what: list[Any]
    also: dict[str, Any]


def test_everything_an_answer_leads_to_is_weighed_once() -> None:
    one = block(2)
    assert held_bytes(one) == 2 * MEGABYTE
    alone = held_bytes(Bundle([one], {}))
    assert 2 * MEGABYTE < alone < 2.01 * MEGABYTE
    assert held_bytes(Bundle([one, one], {"same": one})) < alone + 1000
    assert held_bytes(Bundle([one, block(1)], {"words": "x" * MEGABYTE})) > 4 * MEGABYTE


def test_a_catalogue_counts_where_it_is_the_answer_and_not_where_it_is_named() -> None:
    assert held_bytes(CATALOGUE) > 100_000
    assert held_bytes(Bundle([CATALOGUE], {})) < 5_000


def test_with_another_catalogue_what_rests_on_the_older_one_is_let_go(client: TestClient) -> None:
    """Each is as large as the workshop's shelf: kept side by side they would fill the memory."""
    answers = client.app.state.answers
    stamps = []
    for price in (61.0, 62.0, 63.0):
        client.get("/jobs/7/choose")
        assert answers.kept > 2
        with client.app.state.sessions() as session, writing(session):
            part, version = catalogue.find(session, "u-two-22")
            catalogue.keep(session, part.model_copy(update={"price": price}), "Tess", version)
        client.get("/parts")
        stamps += [key[1] for key in answers._shelf if key[0] == "catalogue"]
        assert not [key for key in answers._shelf if key[0] in ("job", "fitted")]
    assert len(stamps) == 3 and len(set(stamps)) == 3


def test_another_file_in_the_place_of_the_database_is_not_answered_from_memory(
    client: TestClient, tmp_path: Path, demo_database: Path
) -> None:
    """A copy of another day holds the same jobs under the same versions, and something else in them."""
    other = Path(shutil.copy(demo_database, tmp_path / "other.db"))
    engine = open_engine(other)
    with engine.begin() as connection:
        connection.exec_driver_sql(
            "update job set document = replace(document, '\"mass_kg\": 49.0', '\"mass_kg\": 93.0')"
        )
    engine.dispose()
    fresh = browserlike(Path(shutil.copy(other, tmp_path / "fresh.db")))
    wanted, before = told_at(fresh, "/jobs/5/choose"), told_at(client, "/jobs/5/choose")
    assert wanted != before
    client.app.state.engine.dispose()
    other.replace(client.app.state.settings.database)
    assert told_at(client, "/jobs/5/choose") == wanted
