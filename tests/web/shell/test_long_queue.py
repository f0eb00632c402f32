"""The queue of long work: so many run, so many wait, more are told when to ask again; who leaves holds no place."""

import asyncio
from typing import Any

import pytest

from clavis.web.shell import long_queue, long_work
from clavis.web.shell.long_queue import LongQueue
from clavis.web.shell.long_work import Courtesy, NoLongerAskedError, reader_is_there

LONG = "/jobs/7/answer"


class Reader:
    """One request, as a server hands it on; it can leave."""

    def __init__(self, path: str = LONG, *, piece: bool = False) -> None:
        headers = [(b"hx-request", b"true")] if piece else []
        self.scope = {"type": "http", "method": "GET", "path": path, "query_string": b"a=1&b=2", "headers": headers}
        self.left = asyncio.Event()
        self.asked = False
        self.sent: list[dict[str, Any]] = []

    async def receive(self) -> dict[str, Any]:
        if not self.asked:
            self.asked = True
            return {"type": "http.request", "body": b"", "more_body": False}
        await self.left.wait()
        return {"type": "http.disconnect"}

    async def send(self, part: dict[str, Any]) -> None:
        self.sent.append(part)

    @property
    def status(self) -> int | None:
        return self.sent[0]["status"] if self.sent else None

    @property
    def words(self) -> str:
        return b"".join(part.get("body", b"") for part in self.sent).decode()


class Work:
    """An application whose long work ends when it is let."""

    def __init__(self) -> None:
        self.begun, self.let = 0, asyncio.Event()

    async def __call__(self, scope: Any, _receive: Any, send: Any) -> None:
        self.begun += 1
        if scope["path"] == LONG:
            await self.let.wait()
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b"done"})


async def settled() -> None:
    for _ in range(20):
        await asyncio.sleep(0)


async def three_ask() -> tuple[Work, LongQueue, list[Reader], list["asyncio.Future[None]"]]:
    work, readers = Work(), [Reader() for _ in range(3)]
    queue = LongQueue()
    tasks = [asyncio.ensure_future(queue.answer(work, r.scope, r.receive, r.send)) for r in readers]
    await settled()
    return work, queue, readers, tasks


async def goes_on(work: Work, queue: LongQueue, first: Reader, task: "asyncio.Future[None]") -> None:
    """Who is being answered is answered, and so is who comes after."""
    work.let.set()
    await asyncio.wait_for(task, 5)
    after = Reader()
    await asyncio.wait_for(queue.answer(work, after.scope, after.receive, after.send), 5)
    assert (first.status, after.status) == (200, 200)


def test_so_many_run_so_many_wait_and_more_are_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(long_queue, "AT_A_TIME", 2)
    monkeypatch.setattr(long_queue, "MOST_WAITING", 1)

    async def crowd() -> None:
        work, queue, readers, tasks = await three_ask()
        assert (work.begun, queue.waiting) == (2, 1)
        late = Reader(piece=True)
        await queue.answer(work, late.scope, late.receive, late.send)
        headers = dict(late.sent[0]["headers"])
        assert late.status == 503 and headers[b"retry-after"] == b"5"
        assert 'hx-get="/jobs/7/answer?a=1&amp;b=2"' in late.words and "asked again in 5 s" in late.words
        whole = Reader()
        await queue.answer(work, whole.scope, whole.receive, whole.send)
        assert whole.status == 503 and "hx-get" not in whole.words
        work.let.set()
        await asyncio.gather(*tasks)
        assert [r.status for r in readers] == [200, 200, 200] and queue.waiting == 0

    asyncio.run(crowd())


def test_who_waits_too_long_is_told_and_its_connection_is_free(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(long_queue, "AT_A_TIME", 1)
    monkeypatch.setattr(long_queue, "MOST_WAIT_S", 0.05)

    async def crowd() -> None:
        work, queue, readers, tasks = await three_ask()
        await asyncio.wait_for(asyncio.gather(*tasks[1:]), 5)
        assert [r.status for r in readers] == [None, 503, 503] and (work.begun, queue.waiting) == (1, 0)
        await goes_on(work, queue, readers[0], tasks[0])

    asyncio.run(crowd())


def test_who_leaves_while_waiting_holds_no_place(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(long_queue, "AT_A_TIME", 1)

    async def crowd() -> None:
        work, queue, readers, tasks = await three_ask()
        readers[1].left.set()
        await asyncio.wait_for(tasks[1], 5)
        tasks[2].cancel()
        await asyncio.wait({tasks[2]}, timeout=5)
        assert readers[1].sent == [] and work.begun == 1 and queue.waiting == 0
        await goes_on(work, queue, readers[0], tasks[0])

    asyncio.run(crowd())


def test_work_ends_at_its_next_pause_when_its_reader_has_gone() -> None:
    manners = Courtesy()
    with reader_is_there() as left:
        pause = manners.pause()
        pause()
        left.set()
        with pytest.raises(NoLongerAskedError):
            pause()
    pause()  # nobody's in particular goes on


def test_work_ends_with_the_program(monkeypatch: pytest.MonkeyPatch) -> None:
    pause = Courtesy().pause()
    long_work.ENDING.set()
    try:
        with pytest.raises(NoLongerAskedError):
            pause()
    finally:
        long_work.ENDING.clear()
