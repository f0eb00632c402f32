"""Long work gives way to what somebody waits for, ends all the same, and drops what is no longer asked."""

import threading
from time import monotonic
from typing import Any

import pytest
from starlette.routing import Match
from starlette.testclient import TestClient

from clavis.web.shell import long_work
from clavis.web.shell.answer_cache import AnswerCache
from clavis.web.shell.long_work import Courtesy, NoLongerAskedError
from clavis.web.shell.routes import HouseRoute
from tests.web.measure.test_measure import post
from tests.web.test_pages import TANDEM


def in_thread(work) -> threading.Thread:
    thread = threading.Thread(target=work)
    thread.start()
    return thread


def test_long_work_stands_still_while_a_change_is_answered() -> None:
    manners, order = Courtesy(), []
    begun = threading.Event()

    def rank() -> None:
        give_way = manners.pause()
        begun.wait(5)
        give_way()
        order.append("ranked")

    thread = in_thread(rank)
    with manners.answering(changes=True):
        begun.set()
        thread.join(0.05)
        order.append("changed")
    thread.join(5)
    assert order == ["changed", "ranked"]


def test_it_waits_for_so_long_and_no_longer(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(long_work, "ONCE_S", 0.02)
    monkeypatch.setattr(long_work, "IN_ALL_S", 0.05)
    manners, ended = Courtesy(), []

    def rank() -> None:
        give_way = manners.pause()
        for _ in range(20):
            give_way()
        ended.append(monotonic())

    with manners.answering(changes=True):
        in_thread(rank).join(5)
    assert ended


def test_the_browser_is_left_the_machine_while_it_draws_a_change(monkeypatch: pytest.MonkeyPatch) -> None:
    """After a change, not after a page that was only read; and never longer than long work waits in all."""
    manners, waited = Courtesy(), list[float]()
    monkeypatch.setattr(manners._free, "wait", waited.append)
    with manners.answering(changes=False):
        pass
    manners.pause()()
    assert waited == []
    monkeypatch.setattr(long_work, "PAINTING_S", 60.0)
    monkeypatch.setattr(long_work, "IN_ALL_S", 100.0)
    with manners.answering(changes=True):
        pass
    manners.pause()()
    assert len(waited) == 1
    assert 0 < waited[0] <= 60.0
    monkeypatch.setattr(long_work, "IN_ALL_S", 2.0)
    manners.pause()()
    assert waited[1] == 2.0


def test_what_somebody_waits_for_never_waits_for_itself() -> None:
    manners = Courtesy()
    with manners.answering(changes=True):
        manners.pause()()


def test_work_on_an_older_version_ends() -> None:
    manners = Courtesy()
    pause = manners.pause(7, (0, 3))
    manners.seen(7, (0, 3))
    pause()
    manners.seen(8, (0, 9))
    pause()
    manners.seen(7, (0, 4))
    with pytest.raises(NoLongerAskedError):
        pause()


def route_of(client: TestClient, path: str) -> HouseRoute:
    scope = {"type": "http", "method": "GET", "path": path, "headers": []}
    return next(r for r in client.app.routes if isinstance(r, HouseRoute) and r.matches(scope)[0] is Match.FULL)


@pytest.mark.parametrize(
    ("path", "long"),
    [("/jobs/7/candidates/front", True), ("/jobs/7/sure/proposed/rear/chance", True), ("/jobs/7/choose", False),
     ("/jobs/7/compare", False), ("/jobs/7/compare/fitted/rear/band", True), ("/jobs/7/pairing", True),
     ("/jobs/7/progress/answer/front", False), ("/parts", False)],
)  # fmt: skip
def test_which_addresses_are_long_work(client: TestClient, path: str, long: bool) -> None:
    assert route_of(client, path).long is long


def test_long_work_stands_in_the_queue_and_nobody_waits_for_it(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A change and a page are waited for; the ranking is not, and takes a place of the queue."""
    state, seen = client.app.state, []
    real = state.long_queue._answered

    async def answered(app: Any, scope: Any, *more: Any) -> None:
        seen.append((scope["path"], state.answers.courtesy._waiting))
        await real(app, scope, *more)

    monkeypatch.setattr(state.long_queue, "_answered", answered)
    for path in ("/jobs/7/choose", "/jobs/7/sizes", "/jobs/7/progress/answer/front"):
        assert client.get(path).status_code == 200
    assert seen == [("/jobs/7/sizes", 0)]


def test_an_answer_that_is_no_longer_asked_for_is_empty(client: TestClient) -> None:
    manners = client.app.state.answers.courtesy
    manners.seen(TANDEM, (10_000, 0))
    assert client.get(f"/jobs/{TANDEM}/sure/proposed/front/bands").status_code == 204


def test_an_answer_is_made_once_however_many_ask() -> None:
    answers, made, ready = AnswerCache(), [], threading.Barrier(4)

    def make() -> int:
        made.append(1)
        threading.Event().wait(0.05)
        return 5

    def ask() -> None:
        ready.wait(5)
        assert answers.get("key", make) == 5

    for thread in [in_thread(ask) for _ in range(4)]:
        thread.join(5)
    assert len(made) == 1


def test_an_answer_that_could_not_be_made_is_asked_for_again() -> None:
    answers = AnswerCache()
    with pytest.raises(ZeroDivisionError):
        answers.get("key", lambda: 1 / 0)
    assert answers.get("key", lambda: 3) == 3


def test_the_fitted_setup_is_worked_out_once_while_parts_are_swapped(client: TestClient) -> None:
    kept = client.app.state.answers._shelf

    def fitted() -> set:
        return {k for k in kept if k[0] == "fitted"}

    client.get(f"/jobs/{TANDEM}/choose")
    before = fitted()
    page = post(client, TANDEM, "step", end="front", kind="rotor", by="-1")
    assert page.status_code == 200
    assert fitted() == before
    post(client, TANDEM, "field", path="rider.mass_kg", value="70", room="choose")
    client.get(f"/jobs/{TANDEM}/choose")
    assert fitted() != before
