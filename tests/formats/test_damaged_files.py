"""Real files, damaged in every way that the dice know: each is read, or refused in a line of plain words."""

from pathlib import Path

import pytest

from tests.damage import Reader, fault_of, readers

SLOW = {"archive": 30, "copy of a database": 60, "photograph WEBP": 60}
"""what is read whole into a workshop, or decoded pixel by pixel; of all others so many are read:"""
USUAL = 80
KINDS = (
    "gpx", "tcx", "fit", "way as a table", "logged ride", "readings", "log of a bike", "parts as JSON",
    "parts as a table", "rides", "job", "archive", "copy of a database", "photograph JPEG", "photograph PNG",
    "photograph WEBP",
)  # fmt: skip


@pytest.fixture(scope="module")
def every(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Reader]:
    return readers(tmp_path_factory.mktemp("damaged"))


def test_every_kind_is_read_here(every: dict[str, Reader]) -> None:
    assert set(every) == set(KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_what_is_damaged_is_read_or_refused_in_words(every: dict[str, Reader], kind: str) -> None:
    reader = every[kind]
    assert fault_of(reader, reader.real) == ""
    reader.read(reader.real)  # whole it is read
    wrong = {s: fault for s in range(SLOW.get(kind, USUAL)) if (fault := fault_of(reader, reader.damaged(s)))}
    assert not wrong


def test_a_reader_that_stumbles_is_seen(tmp_path: Path) -> None:
    stumbles = Reader(b"0123456789", int)
    assert any(fault_of(stumbles, stumbles.damaged(seed)) for seed in range(20))
