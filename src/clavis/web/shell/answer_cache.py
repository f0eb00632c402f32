"""AnswerCache that took work, kept while what they rest on does not change; and how far long work has come."""

from collections.abc import Callable, Hashable
from threading import Condition, Lock
from typing import TypeVar

from cachetools import LRUCache, cached

from clavis.web.shell.long_work import Courtesy

T = TypeVar("T")
MOST_KEPT = 64
"""answers in memory; a whole evaluation with its courses is about a megabyte"""
MOST_LARGE = 12
"""large ones: all candidates of a wheel take about ten megabytes"""


class AnswerCache:
    """The newest answers of one running program. A key names everything that its answer rests on."""

    def __init__(self, most: int = MOST_KEPT, large: int = MOST_LARGE) -> None:
        self.courtesy = Courtesy()
        self._far: LRUCache[tuple[int, str, str], tuple[int, int]] = LRUCache(most)
        self._far_lock = Lock()
        # the condition lets one make an answer while others who ask for it wait
        self._shelves: list[LRUCache[Hashable, object]] = [LRUCache(most), LRUCache(large)]
        self._made, self._made_large = (
            cached(shelf, key=lambda key, _make: key, condition=Condition())(lambda _key, make: make())
            for shelf in self._shelves
        )

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The answer under ``key``; made once, however many ask for it at the same time."""
        found: T = self._made(key, make)
        return found

    def get_large(self, key: Hashable, make: Callable[[], T]) -> T:
        """The same of an answer so large that only a few are kept."""
        found: T = self._made_large(key, make)
        return found

    def forget(self) -> None:
        """Nothing is kept any more."""
        for shelf in self._shelves:
            shelf.clear()

    @property
    def kept(self) -> int:
        """How many answers are in memory."""
        return sum(len(shelf) for shelf in self._shelves)

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
