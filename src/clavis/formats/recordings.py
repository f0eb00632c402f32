"""Recorded rides from outside: what kind a file is, and who reads it.

Every reader gives the points as they stand in the file (``RawTrack``); ``core.physics.recording`` makes the track of
them. Every refusal names its place in the file.
"""

from collections.abc import Callable
from enum import StrEnum
from typing import IO

from clavis.core.errors import ProfileError
from clavis.core.physics.recording import Recording
from clavis.formats.recordings_fit import read_fit
from clavis.formats.recordings_xml import read_gpx, read_tcx


class FileKind(StrEnum):
    GPX = "gpx"
    TCX = "tcx"
    FIT = "fit"
    CSV = "csv"


def kind_of_file(name: str, head: bytes) -> FileKind:
    """What a file is, by what it holds rather than by its name. Raises ProfileError for anything else."""
    start = head.lstrip(b"\xef\xbb\xbf \r\n\t")
    if head[8:12] == b".FIT":
        return FileKind.FIT
    if start.startswith(b"<"):
        return FileKind.TCX if b"TrainingCenterDatabase" in head or name.lower().endswith(".tcx") else FileKind.GPX
    if b"\0" in head:
        raise ProfileError("this is no GPX, TCX, FIT or CSV file")
    if name.lower().endswith((".csv", ".txt", ".tsv")):
        return FileKind.CSV
    return FileKind.GPX


READERS: dict[FileKind, Callable[[IO[bytes]], Recording]] = {
    FileKind.GPX: read_gpx,
    FileKind.TCX: read_tcx,
    FileKind.FIT: read_fit,
}
"""of the kinds that need no choice of columns"""
