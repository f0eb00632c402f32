"""Photographs of bikes: kept re-encoded, one row each; the same picture of a bike is kept once."""

import hashlib
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from clavis.formats import photographs
from clavis.formats.photographs import Photograph
from clavis.store import jobs
from clavis.store.database import alone, writing
from clavis.store.tables import BikeRow, PhotoRow

MOST_OF_A_BIKE = 200


@dataclass(frozen=True)
class KeptPhoto:
    """A photograph without its picture."""

    id: int
    caption: str
    who: str
    at: datetime
    width_px: int
    height_px: int
    job_id: int | None


def of_bike(session: Session, bike_id: int) -> list[KeptPhoto]:
    """The newest first."""
    columns = (
        PhotoRow.id, PhotoRow.caption, PhotoRow.who, PhotoRow.at, PhotoRow.width_px, PhotoRow.height_px,
        PhotoRow.job_id,
    )  # fmt: skip
    query = select(*columns).where(PhotoRow.bike_id == bike_id).order_by(PhotoRow.id.desc())
    return [KeptPhoto(*row) for row in session.execute(query)]


def decoded(data: bytes) -> Photograph:
    """A file as the photograph that is kept; done before anything is written, which nobody waits for then. Raises
    RefusedError."""
    try:
        return photographs.read(data)
    except photographs.PhotographError as error:
        raise jobs.RefusedError("photo", error.said) from None


def add(session: Session, bike_id: int, job_id: int | None, found: Photograph, caption: str, who: str) -> int:
    """Keep a photograph; its number. Raises RefusedError for one too many, NotThereError."""
    alone(session)
    if session.get(BikeRow, bike_id) is None:
        raise jobs.NotThereError(f"there is no bike {bike_id}")
    there = session.scalar(select(func.count()).select_from(PhotoRow).where(PhotoRow.bike_id == bike_id)) or 0
    if there >= MOST_OF_A_BIKE:
        raise jobs.RefusedError("photo", f"a bike has at most {MOST_OF_A_BIKE} photographs: take one out first")
    name = hashlib.sha256(found.picture).hexdigest()
    same = session.scalar(select(PhotoRow.id).where(PhotoRow.bike_id == bike_id, PhotoRow.sha256 == name))
    if same is not None:
        return same
    row = PhotoRow(
        bike_id=bike_id, job_id=job_id, sha256=name, picture=found.picture, small=found.small, width_px=found.width_px,
        height_px=found.height_px, caption=caption.strip()[:120], who=who[:40], at=jobs.now(),
    )  # fmt: skip
    session.add(row)
    session.flush()
    return row.id


def picture(session: Session, bike_id: int, photo_id: int, *, small: bool) -> bytes:
    """Raises NotThereError."""
    column = PhotoRow.small if small else PhotoRow.picture
    found = session.scalar(select(column).where(PhotoRow.id == photo_id, PhotoRow.bike_id == bike_id))
    if found is None:
        raise jobs.NotThereError("there is no such photograph")
    return found


def remove(session: Session, bike_id: int, photo_id: int) -> None:
    """Take one out for good. Raises NotThereError."""
    with writing(session):
        row = session.get(PhotoRow, photo_id)
        if row is None or row.bike_id != bike_id:
            raise jobs.NotThereError("there is no such photograph")
        session.delete(row)
