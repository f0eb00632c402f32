"""Some kills of each kind; ``python -m tests.kills`` does a hundred."""

import shutil
from pathlib import Path

import pytest

from tests.kills import ACTS, wrong_after
from tests.store.old_databases import old_database


@pytest.mark.parametrize("after_s", [0.15])
@pytest.mark.parametrize("act", ACTS)
def test_killed_in_the_middle_nothing_acknowledged_is_lost(
    tmp_path: Path, demo_database: Path, act: str, after_s: float
) -> None:
    path = tmp_path / "a.db"
    if act == "migration":
        old_database(path, "0007", demo_database)
        path.with_suffix(".new.db").unlink()
    else:
        shutil.copy(demo_database, path)
    assert wrong_after(act, path, after_s) == ""
