"""A database as a file: opened to be read alone, and copied whole while it is in use."""

import contextlib
import os
import sqlite3
from collections.abc import Callable
from pathlib import Path

ONLY_OWNER = 0o600
"""what is kept is read by its owner alone"""


def reading(path: Path) -> sqlite3.Connection:
    """An existing database, read only: opening never makes a file."""
    return sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True, check_same_thread=False)


def make_empty(path: Path) -> None:
    """A new, empty file that its owner alone may read. Raises OSError, also where there is one."""
    os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, ONLY_OWNER))


def copy_into(source: Path, target: Path) -> None:
    """Copy a database into a file that is made for it, as one snapshot: who writes meanwhile waits for nothing. Raises
    OSError, sqlite3.Error."""
    make_empty(target)
    with contextlib.closing(reading(source)) as there, contextlib.closing(sqlite3.connect(target)) as here:
        there.backup(here)
        here.execute("pragma journal_mode = delete")  # one file, without a log beside it
    with target.open("rb+") as written:
        os.fsync(written.fileno())


def copy_whole(source: Path, target: Path, wrong: Callable[[Path], str] = lambda _: "") -> str:
    """The same under the target's own name, once it is whole and nothing is ``wrong`` with it; what that is, and then
    there is no target."""
    half = target.with_name(f"{target.name}.part")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        half.unlink(missing_ok=True)
        copy_into(source, half)
        found = wrong(half)
        if not found:
            half.replace(target)
        return found
    finally:
        half.unlink(missing_ok=True)
