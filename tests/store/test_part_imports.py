"""Files of parts that are broken off between two pieces: nothing stays half."""

import os
import subprocess
import sys
from datetime import timedelta
from pathlib import Path

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from clavis.core.parts.models import Rotor
from clavis.demo.catalogue import demo_parts
from clavis.store import catalogue, database, jobs, part_imports
from clavis.store.tables import PartChangeRow, PartImportRow, PartRow

PLAIN = next(part for part in demo_parts() if isinstance(part, Rotor))


def rotors(count: int) -> list[Rotor]:
    return [PLAIN.model_copy(update={"id": f"n-{k}", "model": f"No. {k}"}) for k in range(count)]


def plan(session: Session, count: int) -> catalogue.Plan:
    return catalogue.plan_of(session, [(f"line {k}", part) for k, part in enumerate(rotors(count))], [])


def lines(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(PartRow)) or 0


def broken_off(monkeypatch: pytest.MonkeyPatch, session: Session, pieces: int, count: int = 1500) -> None:
    """A file whose taking ends with the program after some pieces."""

    class Ended(BaseException):
        """What a killed program leaves is what was committed."""

    turns = iter(range(pieces))

    def turn(_seconds: float) -> None:
        if next(turns) == pieces - 1:
            raise Ended

    with monkeypatch.context() as patch:
        patch.setattr(part_imports, "sleep", turn)
        with pytest.raises(Ended):
            part_imports.take(session, plan(session, count), "rotors of spring.csv", "Tess")


def later(monkeypatch: pytest.MonkeyPatch) -> None:
    at = jobs.now() + 2 * part_imports.STANDS_AFTER
    monkeypatch.setattr(jobs, "now", lambda: at)


def test_a_file_that_was_broken_off_is_taken_to_its_end_and_told(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    broken_off(monkeypatch, session, 2)
    assert lines(session) == 2 * catalogue.AT_ONCE
    assert part_imports.go_on_with_broken(session) == 0  # it may still be on its way
    later(monkeypatch)
    assert part_imports.go_on_with_broken(session) == 1
    assert lines(session) == 1500
    assert session.scalar(select(func.count(PartChangeRow.id)).where(PartChangeRow.who == "Tess")) == 1500
    (row,) = part_imports.told(session)
    assert (row.name, row.taken, row.total, row.broken_at) == ("rotors of spring.csv", 1500, 1500, 1000)
    part_imports.dismiss(session, row.id)
    assert part_imports.told(session) == []


def test_a_whole_one_leaves_nothing_behind(session: Session) -> None:
    assert part_imports.take(session, plan(session, 1200), "a.csv", "Tess") == 1200
    assert part_imports.told(session) == []
    assert lines(session) == 1200


def test_what_was_told_goes_after_two_days(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    broken_off(monkeypatch, session, 1)
    later(monkeypatch)
    part_imports.go_on_with_broken(session)
    at = jobs.now() + part_imports.TOLD_FOR + timedelta(hours=1)
    monkeypatch.setattr(jobs, "now", lambda: at)
    part_imports.go_on_with_broken(session)
    assert part_imports.told(session) == []


def test_one_that_can_go_on_is_not_dismissed(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    broken_off(monkeypatch, session, 1)
    (row,) = part_imports.told(session)
    part_imports.dismiss(session, row.id)
    assert len(part_imports.told(session)) == 1


def test_what_cannot_be_taken_further_says_why(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    broken_off(monkeypatch, session, 2)
    pad = next(part for part in demo_parts() if part.kind == "pad").model_copy(update={"id": "n-1200"})
    with database.writing(session):
        catalogue.keep(session, pad, "Ute")
    later(monkeypatch)
    part_imports.go_on_with_broken(session)
    (row,) = part_imports.told(session)
    assert "“n-1200” is a pad" in row.trouble
    assert row.taken == 1000
    assert part_imports.go_on_with_broken(session) == 0  # and it is not tried for ever
    part_imports.dismiss(session, row.id)
    assert part_imports.told(session) == []


def test_a_killed_program_loses_none(tmp_path: Path, new_database: Path) -> None:
    """With a real SIGKILL between two pieces, and another program that goes on."""
    path = tmp_path / "clavis.db"
    path.write_bytes(new_database.read_bytes())
    code = (
        "import os, signal\n"
        "from pathlib import Path\n"
        "from clavis.store import database, part_imports\n"
        "from tests.store.test_part_imports import plan\n"
        "def end(seconds): os.kill(os.getpid(), signal.SIGKILL)\n"
        "part_imports.sleep = end\n"
        f"engine = database.open_engine(Path({str(path)!r}))\n"
        "with database.sessions(engine)() as session:\n"
        "    part_imports.take(session, plan(session, 1500), 'k.csv', 'Tess')\n"
    )
    ended = subprocess.run(
        [sys.executable, "-c", code], env=os.environ | {"PYTHONPATH": str(Path(__file__).parents[2])}, check=False
    )
    assert ended.returncode == -9
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        row = session.scalar(select(PartImportRow))
        assert row is not None and (row.taken, lines(session)) == (500, 500)
        with database.writing(session):
            row.moved_at -= timedelta(hours=1)
        assert part_imports.go_on_with_broken(session) == 1
        assert lines(session) == 1500
    engine.dispose()
