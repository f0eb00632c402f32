"""The library of rides: descents, stop cycles and days of laps that jobs share, and its open file (docs/formats.md).

A job that takes a ride gets a copy: changing one does not change the other.
"""

import json
import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator
from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.job import Ride, TrackId
from clavis.store import door
from clavis.store.jobfile import TrackFile, check_tracks, parse_json
from clavis.store.tables import LibraryRideRow

FORMAT = "clavis-rides"
VERSION = 1
MOST_RIDES = 500


@dataclass(frozen=True)
class Entry:
    """A ride in the library; who kept it and when."""

    ride: Ride
    who: str
    kept_at: datetime


class RidesFile(BaseModel):
    """A Clavis rides file, version 1."""

    model_config = ConfigDict(frozen=True, extra="forbid", title="Clavis rides file, version 1")

    format: Literal["clavis-rides"]
    version: Literal[1]
    clavis: str = Field(max_length=20, description="version of the program that wrote it")
    rides: list[Ride] = Field(min_length=1, max_length=MOST_RIDES)
    tracks: dict[TrackId, TrackFile]

    @model_validator(mode="after")
    def _whole(self) -> "RidesFile":
        check_tracks(self.rides, self.tracks)
        return self


class RidesFileError(ClavisError):
    """A rides file that cannot be read; the message names the field."""


def entries(session: Session) -> list[Entry]:
    """By name."""
    rows = session.scalars(select(LibraryRideRow))
    found = [Entry(Ride.model_validate(r.document), r.who, r.kept_at) for r in rows]
    return sorted(found, key=lambda e: e.ride.name.lower())


def find(session: Session, ride_id: str) -> Ride:
    """Raises NotThereError."""
    row = session.get(LibraryRideRow, ride_id)
    if row is None:
        raise door.NotThereError("there is no such ride in the library")
    return Ride.model_validate(row.document)


def free_id(wish: str, taken: Iterable[str]) -> str:
    """A name of letters, digits and dashes that is not taken yet."""
    used = set(taken)
    stem = re.sub(r"[^a-z0-9]+", "-", wish.lower()).strip("-")[:30] or "ride"
    return next(name for name in (stem, *(f"{stem}-{k}" for k in range(2, 10_000))) if name not in used)


def keep(session: Session, ride: Ride, who: str) -> str:
    """Keep a copy under a name of its own; the name. The same ride kept twice stays once."""
    same = [e for e in entries(session) if e.ride.model_copy(update={"id": ride.id}) == ride]
    if same:
        return same[0].ride.id
    name = free_id(ride.name, session.scalars(select(LibraryRideRow.id)))
    kept = ride.model_copy(update={"id": name})
    session.add(
        LibraryRideRow(
            id=name,
            document=kept.model_dump(mode="json"),
            track_sha256=ride.track_id,
            who=who[:40],
            kept_at=door.now(),
        )
    )
    session.flush()
    return name


def remove(session: Session, ride_id: str) -> None:
    """Take a ride out; jobs that use a copy keep it. Raises NotThereError."""
    row = session.get(LibraryRideRow, ride_id)
    if row is None:
        raise door.NotThereError("there is no such ride in the library")
    session.delete(row)
    session.flush()


def write(session: Session, rides: list[Ride]) -> str:
    """Rides with their tracks as an open JSON file."""
    carried = {name: TrackFile.of(track) for name, track in door.tracks_of(session, rides).items()}
    file = RidesFile(format=FORMAT, version=VERSION, clavis=__version__, rides=rides, tracks=carried)
    return json.dumps(file.model_dump(mode="json"), ensure_ascii=False, indent=1)


def parse(data: bytes) -> RidesFile:
    """Read a rides file from outside. Raises RidesFileError that names the field and what is wrong with it."""
    try:
        raw = parse_json(data)
    except ValueError as error:
        raise RidesFileError(str(error)) from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise RidesFileError(f"format: not a Clavis rides file (“{FORMAT}” is missing)")
    try:
        return RidesFile.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(step) for step in first["loc"]) or "file"
        raise RidesFileError(f"{place}: {door.describe(first)}") from None


def keep_file(session: Session, file: RidesFile, who: str) -> list[str]:
    """Keep every ride of a file with its track; their names. All or nothing."""
    for points in file.tracks.values():
        door.keep_track(session, points.track())
    return [keep(session, ride, who) for ride in file.rides]
