"""Keeps what lists show up to date, beside the pages: rows of the board after every change of a job, and of all that
are here when the rules or the catalogue change; what is due of every bike, once a day; and takes files of
parts to their end that were broken off."""

import logging
import threading

from sqlalchemy.orm import Session, sessionmaker
from starlette.datastructures import State

from clavis.core.units import System
from clavis.store import bikes, board, jobs, looking_after, part_imports
from clavis.store.database import trouble_of
from clavis.store.rules import rules_mark
from clavis.web.board.rows import NOTHING_SHOWN, UNSAFE, grade_of, shown_of
from clavis.web.shell.bench import bench_in
from clavis.web.shell.long_work import NoLongerAskedError
from clavis.web.shell.readers import Reader

log = logging.getLogger("clavis.board")
AT_ONCE = 20
"""jobs, or bikes, that are looked up at a time"""
LOOKS_EVERY_S = 60.0
"""and sooner where a change wakes it"""
NOBODY = Reader("", System.METRIC)


def _problem(error: Exception) -> str:
    """Why a job has no row, in words."""
    if isinstance(error, jobs.UncomputableError):
        return f"This job cannot be computed: {NOBODY.told(error.why)}"
    if isinstance(error, jobs.UnreadableError):
        return f"This job cannot be read: {NOBODY.told(error.why)}"
    return f"This job cannot be computed: {type(error).__name__}"


class RowKeeper:
    """One thread beside the pages; without it ``catch_up`` does the same when it is called."""

    def __init__(self, state: State) -> None:
        self._state = state
        self._woken = threading.Event()
        self._ended = threading.Event()
        self._thread: threading.Thread | None = None
        self.clock_trouble = ""
        """what the copies say against the clock, for the board"""

    @property
    def sessions(self) -> sessionmaker[Session]:
        found: sessionmaker[Session] = self._state.sessions
        return found

    def stamp(self, session: Session) -> str:
        """On what the rows rest beside their jobs."""
        return f"{rules_mark()} {jobs.catalogue_stamp(session)}"

    def start(self) -> None:
        self._thread = threading.Thread(target=self._run, name="board rows", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """Something was changed."""
        self._woken.set()

    def stop(self) -> None:
        self._ended.set()
        self._woken.set()
        if self._thread is not None:
            self._thread.join(timeout=5)

    def _run(self) -> None:
        while not self._ended.is_set():
            for look in (self.copy_of_the_day, self.broken_imports, self.catch_up):
                try:
                    look()
                except NoLongerAskedError:  # the program ends
                    return
                except Exception as error:  # the thread must go on: the next look tries again
                    trouble = trouble_of(error)
                    if trouble is None:
                        log.exception("%s failed", look.__name__)
                    else:
                        log.warning("%s: %s", look.__name__, trouble)
            self._woken.wait(LOOKS_EVERY_S)
            self._woken.clear()

    def copy_of_the_day(self) -> None:
        """A copy of the database, once a day."""
        settings = self._state.settings
        folder = settings.backups or settings.database.parent / "backups"
        made = looking_after.daily(settings.database, folder, bikes.today(), settings.backup_days)
        if made is not None:
            self.clock_trouble = looking_after.clock_trouble(folder, bikes.today())
            if self.clock_trouble:
                log.warning("%s", self.clock_trouble)

    def broken_imports(self) -> None:
        """The rest of files of parts that were broken off."""
        with self.sessions() as session:
            part_imports.go_on_with_broken(session)

    def catch_up(self) -> int:
        """Bring every row up to date; how many were made anew. Between two of them it gives way to who waits for a
        page."""
        return self._jobs() + self._bikes()

    def _jobs(self) -> int:
        made: set[int] = set()
        while not self._ended.is_set():
            with self.sessions() as session:
                stamp = self.stamp(session)
                stale = [number for number in board.stale(session, stamp, AT_ONCE + len(made)) if number not in made]
            if not stale:
                break  # what changed again while it was made waits for the next look
            for job_id in stale:
                self._state.answers.courtesy.pause()()
                self._made(job_id, stamp)
                made.add(job_id)
                if self._ended.is_set():
                    break
        return len(made)

    def _made(self, job_id: int, stamp: str) -> None:
        with self.sessions() as session:
            version = jobs.version_of(session, job_id)
            if version is None:
                return  # removed in the meantime
            try:
                opened = jobs.open_job(session, job_id)
                b = bench_in(self._state, session, NOBODY, opened)
                version, grade, shown = opened.version, grade_of(b), shown_of(b)
            except Exception as error:  # one job that cannot be answered must not keep the others from it
                log.warning("job %s cannot be shown on the board: %s", job_id, error)
                grade, shown = UNSAFE, NOTHING_SHOWN | {"problem": _problem(error)}
            board.keep(session, job_id, version, stamp, grade, shown)

    def _bikes(self) -> int:
        done = 0
        while not self._ended.is_set():
            with self.sessions() as session:
                stale = bikes.stale_due(session, AT_ONCE)
                for bike_id in stale:
                    self._state.answers.courtesy.pause()()
                    bikes.work_out_due(session, bike_id)
                    done += 1
            if not stale:
                break
        return done
