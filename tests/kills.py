"""Killed in the middle: a process that edits, imports, migrates or copies is killed at some instant, again and again; what
it had acknowledged is there afterwards, whole, and nothing half done. ``python -m tests.kills 100`` does it a hundred
times."""

import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path

from sqlalchemy import func, select, update

from clavis.demo import world
from clavis.store import database, jobs, looking_after, part_imports
from clavis.store.catalogue import AT_ONCE
from clavis.store.tables import PartChangeRow, PartImportRow
from tests.store.old_databases import old_database

HEAD = """
import sys
from pathlib import Path
from clavis.store import catalogue, database, jobs, looking_after, part_imports
path = Path(sys.argv[1])
def say(words):
    print(words, flush=True)
"""
LINES = 1944
"""that an import has: six of every part of the standard shelf"""
ACTS: dict[str, str] = {
    "edit": """
engine = database.open_engine(path)
say("begin")
with database.sessions(engine)() as session:
    while True:
        opened = jobs.open_job(session, 1)
        value = 40.0 + opened.version % 150
        now = jobs.change(session, 1, opened.version, jobs.Author("K", "k"), "rider.mass_kg", value)
        say(f"kept {now.version} {value}")
""",
    "import": """
from clavis.core.parts.standard_shelf import standard_shelf
engine = database.open_engine(path)
rows = [part.model_copy(update={"id": f"kill-{k}-{part.id}"[:60]}) for k in range(6) for part in standard_shelf()]
part_imports.sleep = lambda _seconds: say("kept a piece")
say("begin")
with database.sessions(engine)() as session:
    plan = catalogue.plan_of(session, [("", row) for row in rows], [])
    part_imports.take(session, plan, "kill.csv", "K")
""",
    "migration": """
say("begin")
database.open_engine(path)
say("kept 1")
""",
    "backup": """
say("begin")
for k in range(1000):
    looking_after.copy(path, path.with_name(f"copy-{k}.db"))
    say(f"kept {k}")
""",
}


def demo_at(path: Path) -> Path:
    """A database with the demo world."""
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        world.fill_if_empty(session)
    engine.dispose()
    return path


def killed(act: str, path: Path, after_s: float) -> list[str]:
    """What the process had said before it was killed so long after it began."""
    with subprocess.Popen(
        [sys.executable, "-c", HEAD + ACTS[act], str(path)],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    ) as process:
        assert process.stdout is not None
        first = process.stdout.readline()
        time.sleep(after_s)
        process.send_signal(signal.SIGKILL)
        return [first.strip(), *(line.strip() for line in process.stdout.read().splitlines())]


def _of_edit(path: Path, kept: list[str]) -> str:
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        opened, steps = jobs.open_job(session, 1), jobs.history(session, 1)
    engine.dispose()
    if len(steps) != opened.version or steps[0].version != opened.version:
        return f"{len(steps)} steps of version {opened.version}"
    last = kept[-1].split() if kept else ["kept", "0", "0"]
    if opened.version < int(last[1]):
        return f"version {opened.version} is there, {last[1]} was acknowledged"
    at_last = next((s for s in steps if s.version == int(last[1])), None)
    return "" if not kept or (at_last is not None and at_last.after == float(last[2])) else "another value"


def _of_import(path: Path, kept: list[str]) -> str:
    """What began is taken to its end by whoever comes next, and once."""
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:

        def there() -> int:
            return sum(part.id.startswith("kill-") for part in jobs.read_catalogue(session).every())

        before = there()
        with database.writing(session):
            begun = session.execute(update(PartImportRow).values(moved_at=jobs.now() - timedelta(hours=1))).rowcount
        part_imports.go_on_with_broken(session)
        after, steps = there(), session.scalar(select(func.count(PartChangeRow.id)).where(PartChangeRow.who == "K"))
    engine.dispose()
    if before < min(len(kept) * AT_ONCE, LINES):
        return f"{before} lines are there, {len(kept)} pieces were said"
    wanted = LINES if begun or before else 0
    return "" if after == steps == wanted else f"{after} lines are there in {steps} steps, of {wanted}"


def _of_migration(path: Path, _kept: list[str]) -> str:
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        count = len(jobs.all_jobs(session))
    engine.dispose()
    return "" if count == len(world.JOBS) + 1 else f"{count} jobs"


def _of_backup(path: Path, kept: list[str]) -> str:
    copies = sorted(path.parent.glob("copy-*.db"))
    wrong = [copy.name for copy in copies if looking_after.check(copy)]
    if len(copies) < len(kept):
        wrong.append(f"{len(copies)} of {len(kept)}")
    for copy in copies:
        copy.unlink()
    return ", ".join(wrong)


CHECKS: dict[str, Callable[[Path, list[str]], str]] = {
    "edit": _of_edit, "import": _of_import, "migration": _of_migration, "backup": _of_backup,
}  # fmt: skip


def wrong_after(act: str, path: Path, after_s: float) -> str:
    """What is wrong after one kill; nothing where all is well."""
    said = killed(act, path, after_s)
    kept = [line for line in said if line.startswith("kept")]
    found = CHECKS[act](path, kept)
    troubles = [f"{t.where}: {t.what}" for t in looking_after.check(path)]
    return "; ".join([*([found] if found else []), *troubles])


def main(count: int) -> int:
    """So many kills of each kind."""
    dice, folder = random.Random(1), Path(tempfile.mkdtemp())
    demo, failed = demo_at(folder / "demo.db"), 0
    old_database(folder / "old.db", "0007", demo)
    for act in ACTS:
        wrong = []
        for k in range(count):
            inside = Path(tempfile.mkdtemp(dir=folder))
            path = inside / "a.db"
            shutil.copy(folder / "old.db" if act == "migration" else demo, path)
            if told := wrong_after(act, path, dice.uniform(0.0, 0.6)):
                wrong.append(f"{k}: {told}")
            shutil.rmtree(inside)
        failed += len(wrong)
        sys.stdout.write(f"{act}: {count} kills, {len(wrong)} wrong {wrong[:3]}\n")
        sys.stdout.flush()
    shutil.rmtree(folder)
    return min(failed, 100)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 100))
