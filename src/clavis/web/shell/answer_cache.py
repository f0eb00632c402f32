"""Answers that took work, kept in a bounded part of memory while what they rest on does not change; and how far long
work has come."""

import logging
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from threading import Condition, Event, Lock, Thread
from time import monotonic
from typing import TypeVar

from cachetools import LRUCache, cached

from clavis.web.shell.held_bytes import give_back, held_bytes
from clavis.web.shell.long_work import Courtesy, NoLongerAskedError

log = logging.getLogger("clavis.answers")
T = TypeVar("T")
MOST_BYTES = 48_000_000
"""held by all answers together; those asked for longest ago go first"""
USUAL_BYTES, LARGE_BYTES = 2_000_000, 10_000_000
"""what an answer counts as until it is weighed: an evaluation with its courses, all candidates of a wheel"""
SETTLES_S, LATEST_S = 1.0, 10.0
"""answers are weighed once nobody has asked for anything for so long, at the latest so long after they came: an
evaluation grows while candidates are asked of it, and a hand that steps through parts does not wait for the scales"""
MOST_REPORTS = 64


@dataclass(frozen=True)
class _Held:
    answer: object
    bytes_: int
    weighed: bool = False


class AnswerCache:
    """The newest answers of one running program. A key names everything that its answer rests on."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.courtesy = Courtesy()
        self._far: LRUCache[tuple[int, str, str], tuple[int, int]] = LRUCache(MOST_REPORTS)
        self._far_lock = Lock()
        # the condition lets one make an answer while others who ask for it wait
        self._free = Condition()
        self._shelf: LRUCache[Hashable, _Held] = LRUCache(most_bytes, getsizeof=lambda kept: kept.bytes_)
        self._made = cached(self._shelf, key=lambda key, _make: key, condition=self._free)(lambda _key, make: make())
        self._came, self._ended = Event(), Event()
        self._scales: Thread | None = None

    def get(self, key: Hashable, make: Callable[[], T], about_bytes: int = USUAL_BYTES) -> T:
        """The answer under ``key``; made once, however many ask for it at the same time."""
        fresh = False

        def made() -> _Held:
            nonlocal fresh
            fresh = True
            return _Held(make(), about_bytes)

        kept: _Held = self._made(key, made)
        if fresh:
            self._came.set()
        found: T = kept.answer  # type: ignore[assignment]
        return found

    def get_large(self, key: Hashable, make: Callable[[], T]) -> T:
        """The same of an answer that is large until it is weighed."""
        return self.get(key, make, LARGE_BYTES)

    def forget(self) -> None:
        """Nothing is kept any more."""
        with self._free:
            self._shelf.clear()

    @property
    def kept(self) -> int:
        """How many answers are in memory."""
        return len(self._shelf)

    @property
    def held_bytes(self) -> int:
        """What they hold, as far as they are weighed."""
        return int(self._shelf.currsize)

    def weigh(self) -> int:
        """Weigh what came since; how many answers that was. What is larger than it counted as may push others out."""
        with self._free:
            light = [(key, kept) for key, kept in self._shelf.items() if not kept.weighed]
        for key, kept in light:
            self.courtesy.pause()()
            weighed = _Held(kept.answer, held_bytes(kept.answer), weighed=True)
            with self._free:
                if self._shelf.get(key) is not kept:
                    continue  # gone in the meantime
                del self._shelf[key]
                if weighed.bytes_ <= self._shelf.maxsize:
                    self._shelf[key] = weighed
        return len(light)

    def start(self) -> None:
        """Weigh beside the pages."""
        self._scales = Thread(target=self._run, name="answers weighed", daemon=True)
        self._scales.start()

    def stop(self) -> None:
        self._ended.set()
        self._came.set()
        if self._scales is not None:
            self._scales.join(timeout=5)

    def _run(self) -> None:
        while not self._ended.is_set():
            self._came.wait()
            self._came.clear()
            latest = monotonic() + LATEST_S
            while True:
                if self._ended.wait(SETTLES_S):
                    return
                if self.courtesy.quiet_s() >= SETTLES_S or monotonic() >= latest:
                    break
            try:
                self.weigh()
            except NoLongerAskedError:  # the program ends
                return
            except Exception:  # what cannot be weighed counts as usual; the scales go on
                log.exception("answers could not be weighed")
            give_back()

    def progress(self, job_id: int, what: str, end: str) -> Callable[[int, int], None]:
        """Where long work says how far it is; between its steps it gives way to changes."""
        give_way = self.courtesy.pause()

        def report(done: int, total: int) -> None:
            give_way()
            with self._far_lock:
                self._far[job_id, what, end] = (done, total)

        return report

    def how_far(self, job_id: int, what: str, end: str) -> tuple[int, int]:
        """Done and total of long work; (0, 0) where nothing was begun."""
        with self._far_lock:
            far: tuple[int, int] = self._far.get((job_id, what, end), (0, 0))
        return far
