"""The library of rides: descents, stop cycles and days of laps that jobs share.

A job that takes a ride gets a copy: changing one does not change the other.
"""

import re
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis.core.job.document import Ride
from clavis.core.records import described
from clavis.formats.rides_file import RidesFile
from clavis.store import jobs
from clavis.store.database import alone
from clavis.store.tables import LibraryRideRow


@dataclass(frozen=True)
class Entry:
    """A ride in the library; who kept it and when."""

    ride: Ride
    who: str
    kept_at: datetime


def entries(session: Session) -> list[Entry]:
    """By name."""
    rows = session.scalars(select(LibraryRideRow))
    found = []
    for row in rows:
        with suppress(ValidationError):  # one that cannot be read keeps no other from being taken
            found.append(Entry(Ride.model_validate(row.document), row.who, row.kept_at))
    return sorted(found, key=lambda e: e.ride.name.lower())


def find(session: Session, ride_id: str) -> Ride:
    """Raises NotThereError."""
    row = session.get(LibraryRideRow, ride_id)
    if row is None:
        raise jobs.NotThereError("there is no such ride in the library")
    try:
        return Ride.model_validate(row.document)
    except ValidationError as error:
        raise jobs.UnreadableError("ride", row.id, described(error)) from None


def free_id(wish: str, taken: Iterable[str]) -> str:
    """A name of letters, digits and dashes that is not taken yet."""
    used = set(taken)
    stem = re.sub(r"[^a-z0-9]+", "-", wish.lower()).strip("-")[:30] or "ride"
    return next(name for name in (stem, *(f"{stem}-{k}" for k in range(2, 10_000))) if name not in used)


def keep(session: Session, ride: Ride, who: str) -> str:
    """Keep a copy under a name of its own; the name. The same ride kept twice stays once."""
    alone(session)
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
            kept_at=jobs.now(),
        )
    )
    session.flush()
    return name


def remove(session: Session, ride_id: str) -> None:
    """Take a ride out; jobs that use a copy keep it. Raises NotThereError."""
    row = session.get(LibraryRideRow, ride_id)
    if row is None:
        raise jobs.NotThereError("there is no such ride in the library")
    session.delete(row)
    session.flush()


def keep_file(session: Session, file: RidesFile, who: str) -> list[str]:
    """Keep every ride of a file with its track; their names. All or nothing."""
    for points in file.tracks.values():
        jobs.keep_track(session, points.track())
    return [keep(session, ride, who) for ride in file.rides]
