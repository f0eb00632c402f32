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


def _alike(ride: Ride) -> str:
    """The same of two rides that differ in nothing but their number."""
    return ride.model_dump_json(exclude={"id"})


def keep(session: Session, ride: Ride, who: str) -> str:
    """Keep a copy under a name of its own; the name. The same ride kept twice stays once. Not yet committed."""
    return keep_all(session, [ride], who)[0]


def keep_all(session: Session, rides: Iterable[Ride], who: str) -> list[str]:
    """The same of several."""
    alone(session)
    known = {_alike(entry.ride): entry.ride.id for entry in entries(session)}
    taken = set(session.scalars(select(LibraryRideRow.id)))
    names = []
    for ride in rides:
        alike = _alike(ride)
        if alike not in known:
            name = free_id(ride.name, taken)
            taken.add(name)
            kept = ride.model_copy(update={"id": name}).model_dump(mode="json")
            session.add(
                LibraryRideRow(id=name, document=kept, track_sha256=ride.track_id, who=who[:40], kept_at=jobs.now())
            )
            known[alike] = name
        names.append(known[alike])
    session.flush()
    return names


def remove(session: Session, ride_id: str) -> None:
    """Take a ride out; jobs that use a copy keep it. Raises NotThereError."""
    row = session.get(LibraryRideRow, ride_id)
    if row is None:
        raise jobs.NotThereError("there is no such ride in the library")
    session.delete(row)
    session.flush()


def keep_file(session: Session, file: RidesFile, who: str) -> list[str]:
    """Keep every ride of a file with its track; their names. All or nothing."""
    found = [points.track() for points in file.tracks.values()]  # read before anybody has to wait
    alone(session)
    for track in found:
        jobs.keep_track(session, track)
    return keep_all(session, file.rides, who)
