"""Long work gives way: while a page or a change is being answered, the ranking of candidates and its like stand still;
and what is not asked for any more is dropped."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Condition, Event, RLock
from time import monotonic

from cachetools import LRUCache

from clavis.core.errors import ClavisError

ONCE_S, IN_ALL_S = 0.5, 3.0
"""how long a piece of long work waits for one answer, and for all of them together: it must end as well"""
PAINTING_S = 0.12
"""after the answer to a change the browser draws it: long work leaves it the machine for so long"""

Age = tuple[int, int]
"""how new a job is, as it was opened: the count of the catalogue, which also moves when an older copy of the database
is brought back, then the job's version"""
MOST_JOBS = 1000
"""jobs whose newest age is remembered"""

_left: ContextVar[Event | None] = ContextVar("left", default=None)
ENDING = Event()
"""the program ends: what is under way is given up"""


@contextmanager
def reader_is_there() -> Iterator[Event]:
    """Around one answer of long work. The event is set when its reader has gone: the work ends at its next pause."""
    left = Event()
    token = _left.set(left)
    try:
        yield left
    finally:
        _left.reset(token)


_waited_for: ContextVar[bool] = ContextVar("waited_for", default=False)


class NoLongerAskedError(ClavisError):
    """Nobody waits for this any more: the job has changed since, its reader has gone, or the program ends."""


class Courtesy:
    """Counts the answers that somebody waits for, and knows the newest version of every job."""

    def __init__(self) -> None:
        self._waiting = 0
        self._painted_at = 0.0
        self._answered_at = 0.0
        self._newest: LRUCache[int, Age] = LRUCache(MOST_JOBS)
        self._free = Condition()
        self.one_at_a_time = RLock()
        """long work that nobody waits for in particular is done one after the other"""

    @contextmanager
    def answering(self, *, changes: bool) -> Iterator[None]:
        """Around every answer that somebody waits for, which is no long work: it gives way to nobody, itself and what
        it calls."""
        token = _waited_for.set(True)
        with self._free:
            self._waiting += 1
        try:
            yield
        finally:
            with self._free:
                self._waiting -= 1
                self._answered_at = monotonic()
                if changes:
                    self._painted_at = monotonic() + PAINTING_S
                self._free.notify_all()
            _waited_for.reset(token)

    def quiet_s(self) -> float:
        """For how long nobody has been answered who waits; 0 while somebody does."""
        with self._free:
            return 0.0 if self._waiting else monotonic() - self._answered_at

    def seen(self, job_id: int, age: Age) -> None:
        with self._free:
            self._newest[job_id] = max(age, self._newest.get(job_id, age))

    def pause(self, job_id: int | None = None, age: Age = (0, 0)) -> Callable[[], None]:
        """For one piece of long work: what it calls between its steps. Work on a job of one age ends with
        NoLongerAskedError once there is a newer one."""
        left = IN_ALL_S

        def give_way() -> None:
            nonlocal left
            left_alone = _left.get()
            if ENDING.is_set() or (left_alone is not None and left_alone.is_set()):
                raise NoLongerAskedError("nobody waits for this any more")
            if job_id is not None and self._newest.get(job_id, age) > age:
                raise NoLongerAskedError("the job has changed since")
            if left <= 0 or _waited_for.get():
                return
            begun = monotonic()
            with self._free:
                self._free.wait_for(lambda: self._waiting == 0, min(ONCE_S, left))
                painting_s = self._painted_at - monotonic()
                if painting_s > 0:  # or until somebody waits again, which the next pause sees
                    self._free.wait(min(painting_s, left))
            left -= monotonic() - begun

        return give_way
