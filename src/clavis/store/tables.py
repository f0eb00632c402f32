"""The tables. A job is one document with a version; its history is one row per change; tracks are immutable and
kept under their checksum; parts are one row each, with the document that the core reads."""

from collections.abc import Callable
from datetime import datetime
from typing import Any

from sqlalchemy import (
    JSON,
    DateTime,
    Dialect,
    Float,
    ForeignKey,
    Index,
    LargeBinary,
    MetaData,
    String,
    Text,
    TypeDecorator,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

LOST = datetime(1900, 1, 1)
"""a moment that can be read no more: it keeps nothing else of its row from being read"""


def told_moment(at: datetime, form: str = "%Y-%m-%d %H:%M") -> str:
    """A moment as it is shown.

    >>> told_moment(datetime(2026, 12, 2, 8, 5)), told_moment(LOST)
    ('2026-12-02 08:05', 'date unreadable')
    """
    return "date unreadable" if at == LOST else at.strftime(form)


class StoredMoment(TypeDecorator[datetime]):
    """A date with time; ``LOST`` where what stands in the file is none."""

    impl = DateTime
    cache_ok = True

    def result_processor(self, dialect: Dialect, coltype: object) -> Callable[[Any], datetime | None]:
        read = self.impl_instance.result_processor(dialect, coltype)

        def moment(stored: Any) -> datetime | None:
            try:
                found: datetime | None = stored if read is None else read(stored)
            except (ValueError, TypeError):
                return LOST
            return found

        return moment


class Base(DeclarativeBase):
    type_annotation_map = {datetime: StoredMoment}  # noqa: RUF012
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


TRIGGERS = frozenset(
    f"{name}_{what}"
    for name, acts in (
        ("bike_search", ("gone", "new", "set")),
        ("job_search", ("gone", "new", "set")),
        ("part_search", ("gone", "new", "set")),
        ("person_search", ("gone", "new", "set")),
        ("search_entry", ("gone", "new", "set")),
        ("part_counted", ("delete", "insert", "update")),
        ("supply_board", ("delete", "insert", "update")),
    )
    for what in acts
)
"""what the migrations made the database do by itself"""


class PartRow(Base):
    __tablename__ = "part"

    id: Mapped[str] = mapped_column(String(60), primary_key=True)
    kind: Mapped[str] = mapped_column(String(12), index=True)
    retired: Mapped[bool] = mapped_column(default=False)
    changed_at: Mapped[datetime]
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    version: Mapped[int] = mapped_column(default=1, server_default="1")

    __mapper_args__ = {"version_id_col": version, "version_id_generator": False}  # noqa: RUF012


class CounterRow(Base):
    """What moves with every change, whatever the clock says: ``catalogue`` counts changes of parts, by triggers of the
    database (migration 0009)."""

    __tablename__ = "counter"

    name: Mapped[str] = mapped_column(String(20), primary_key=True)
    value: Mapped[int]


class TrackRow(Base):
    """A track's points, compressed; ``sha256`` is over the uncompressed array."""

    __tablename__ = "track"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    points: Mapped[bytes] = mapped_column(LargeBinary)


class JobRow(Base):
    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=0)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    demo: Mapped[bool] = mapped_column(default=False)
    bike_id: Mapped[int | None] = mapped_column(ForeignKey("bike.id"), index=True)
    created_at: Mapped[datetime]
    changed_at: Mapped[datetime]
    changes: Mapped[list["ChangeRow"]] = relationship(back_populates="job", order_by="ChangeRow.version")

    # a write against a version that has moved on fails instead of overwriting
    __mapper_args__ = {"version_id_col": version, "version_id_generator": False}  # noqa: RUF012


class ChangeRow(Base):
    """Who changed what, when, from what to what. ``version`` is the job's version after the change; ``page`` the
    opened page it came from, so that a page is never in conflict with itself."""

    __tablename__ = "change"
    __table_args__ = (UniqueConstraint("job_id", "version"), Index("ix_change_job_id_path", "job_id", "path"))

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    version: Mapped[int]
    who: Mapped[str] = mapped_column(String(40))
    page: Mapped[str] = mapped_column(String(32))
    at: Mapped[datetime]
    path: Mapped[str] = mapped_column(String(120))
    before: Mapped[Any] = mapped_column(JSON)
    after: Mapped[Any] = mapped_column(JSON)
    undoes: Mapped[int | None]
    job: Mapped[JobRow] = relationship(back_populates="changes")


class StockRow(Base):
    """Pieces of a part on the workshop's own shelf; no row: none."""

    __tablename__ = "stock"

    part_id: Mapped[str] = mapped_column(ForeignKey("part.id", ondelete="CASCADE"), primary_key=True)
    pieces: Mapped[int]
    who: Mapped[str] = mapped_column(String(40))
    changed_at: Mapped[datetime]


class SupplyRow(Base):
    """What was done about one part of one job: set aside from the shelf, ordered, arrived. Beside the job, not in it:
    an undo of the job brings nothing back to a shelf."""

    __tablename__ = "supply"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(ForeignKey("part.id", ondelete="CASCADE"), primary_key=True)
    taken: Mapped[int] = mapped_column(default=0)
    ordered: Mapped[int] = mapped_column(default=0)
    arrived: Mapped[int] = mapped_column(default=0)
    price: Mapped[float | None] = mapped_column(Float)
    promised: Mapped[str] = mapped_column(String(10), default="")
    number: Mapped[str] = mapped_column(String(40), default="")
    who: Mapped[str] = mapped_column(String(40))
    changed_at: Mapped[datetime]


class WorkshopRow(Base):
    """What the workshop sets for itself: its name, its hour, its minutes. One row."""

    __tablename__ = "workshop"

    id: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    who: Mapped[str] = mapped_column(String(40))
    changed_at: Mapped[datetime]


class CalibrationRow(Base):
    """What a job learnt on the road, for bikes like it: found by their likeness."""

    __tablename__ = "calibration"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    likeness: Mapped[str] = mapped_column(String(16), index=True)
    title: Mapped[str] = mapped_column(String(80), default="")
    document: Mapped[dict[str, Any]] = mapped_column(JSON)


class RideLogRow(Base):
    """A logged ride's columns, compressed; ``sha256`` is over the columns."""

    __tablename__ = "ride_log"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    columns: Mapped[bytes] = mapped_column(LargeBinary)


class JobPartRow(Base):
    """Which parts a job uses, so that none of them is ever deleted."""

    __tablename__ = "job_part"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    part_id: Mapped[str] = mapped_column(ForeignKey("part.id", ondelete="RESTRICT"), primary_key=True)


class JobTrackRow(Base):
    """Which tracks a job uses."""

    __tablename__ = "job_track"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    track_sha256: Mapped[str] = mapped_column(ForeignKey("track.sha256", ondelete="RESTRICT"), primary_key=True)


class LibraryRideRow(Base):
    """A ride kept for other jobs: a descent, a stop cycle, a day of laps. A job that takes it gets a copy."""

    __tablename__ = "library_ride"

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    track_sha256: Mapped[str | None] = mapped_column(ForeignKey("track.sha256", ondelete="RESTRICT"))
    who: Mapped[str] = mapped_column(String(40))
    kept_at: Mapped[datetime]


class PartChangeRow(Base):
    """Who changed a line of the catalogue, when, from what to what; ``before`` is null where it was new."""

    __tablename__ = "part_change"

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[str] = mapped_column(ForeignKey("part.id", ondelete="CASCADE"), index=True)
    who: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]
    before: Mapped[Any | None] = mapped_column(JSON)
    after: Mapped[Any | None] = mapped_column(JSON)


class PartImportRow(Base):
    """A file of parts on its way into the catalogue, some lines at a time; one that was broken off stays here until it
    was told. ``lines`` are its good ones, packed; ``broken_at`` how many were taken when the program ended."""

    __tablename__ = "part_import"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    who: Mapped[str] = mapped_column(String(40))
    moved_at: Mapped[datetime]
    total: Mapped[int]
    taken: Mapped[int] = mapped_column(default=0)
    lines: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    broken_at: Mapped[int | None] = mapped_column(default=None)
    trouble: Mapped[str] = mapped_column(String(300), default="")


class PersonRow(Base):
    """Whose bikes they are: only what was entered."""

    __tablename__ = "person"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), default="")
    phone: Mapped[str] = mapped_column(String(40), default="")
    email: Mapped[str] = mapped_column(String(120), default="")
    who: Mapped[str] = mapped_column(String(40))
    changed_at: Mapped[datetime]


class BikeRow(Base):
    """A bike is one document with a version, as a job is; name, frame number and fleet stand beside it for lists.
    ``due_stamp`` says on what its rows of ``due`` rest."""

    __tablename__ = "bike"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id", ondelete="SET NULL"), index=True)
    name: Mapped[str] = mapped_column(String(80), default="")
    frame_number: Mapped[str] = mapped_column(String(40), default="", index=True)
    fleet: Mapped[str] = mapped_column(String(40), default="", index=True)
    archived: Mapped[bool] = mapped_column(default=False)
    due_stamp: Mapped[str] = mapped_column(String(80), default="", index=True)
    created_at: Mapped[datetime]
    changed_at: Mapped[datetime]

    __mapper_args__ = {"version_id_col": version, "version_id_generator": False}  # noqa: RUF012


class BikeChangeRow(Base):
    """One act on a bike: in words, and what of the document was another before."""

    __tablename__ = "bike_change"
    __table_args__ = (UniqueConstraint("bike_id", "version"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    bike_id: Mapped[int] = mapped_column(ForeignKey("bike.id", ondelete="CASCADE"))
    version: Mapped[int]
    who: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]
    words: Mapped[str] = mapped_column(String(200))
    before: Mapped[Any] = mapped_column(JSON)
    after: Mapped[Any] = mapped_column(JSON)
    undoes: Mapped[int | None]


class BoardRow(Base):
    """What the board shows of a job, kept so that no job is computed to be listed. ``version`` is the job's version
    that ``shown`` was made of, ``stamp`` the rules and the catalogue; where either has moved on, it is made anew."""

    __tablename__ = "board_row"
    __table_args__ = (
        Index("ix_board_row_state_changed_at", "state", "changed_at"),
        Index("ix_board_row_state_title", "state", "title"),
    )

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    version: Mapped[int] = mapped_column(default=0)
    stamp: Mapped[str] = mapped_column(String(80), default="", index=True)
    state: Mapped[str] = mapped_column(String(20))
    promised_on: Mapped[str] = mapped_column(String(10), default="")
    mechanic: Mapped[str] = mapped_column(String(40), default="")
    title: Mapped[str] = mapped_column(String(80), default="")
    grade: Mapped[int] = mapped_column(default=0)
    changed_at: Mapped[datetime]
    shown: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)


class DueRow(Base):
    """One thing that a bike needs, as it was worked out on a day."""

    __tablename__ = "due"

    bike_id: Mapped[int] = mapped_column(ForeignKey("bike.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str] = mapped_column(String(60), primary_key=True)
    rank: Mapped[int] = mapped_column(index=True)
    end: Mapped[str] = mapped_column(String(5), default="")
    about: Mapped[str] = mapped_column(String(40))
    shown: Mapped[dict[str, Any]] = mapped_column(JSON)
    left_km: Mapped[float | None] = mapped_column(Float)
    by: Mapped[str] = mapped_column(String(10), default="")
    order_id: Mapped[str] = mapped_column(String(60), default="")


class PhotoRow(Base):
    """A photograph of a bike, re-encoded: nothing of the file that came in is kept but its picture."""

    __tablename__ = "photo"

    id: Mapped[int] = mapped_column(primary_key=True)
    bike_id: Mapped[int] = mapped_column(ForeignKey("bike.id", ondelete="CASCADE"), index=True)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    sha256: Mapped[str] = mapped_column(String(64))
    picture: Mapped[bytes] = mapped_column(LargeBinary)
    small: Mapped[bytes] = mapped_column(LargeBinary)
    width_px: Mapped[int]
    height_px: Mapped[int]
    caption: Mapped[str] = mapped_column(String(120), default="")
    who: Mapped[str] = mapped_column(String(40))
    at: Mapped[datetime]


class SearchEntryRow(Base):
    """What is found by its words: a job, a bike, a person or a part. Kept by triggers of the database, with SQLite's
    full-text index ``search_index`` over it (migration 0008)."""

    __tablename__ = "search_entry"
    __table_args__ = (UniqueConstraint("kind", "ref"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    ref: Mapped[str] = mapped_column(String(60))
    title: Mapped[str] = mapped_column(String(200))
    body: Mapped[str] = mapped_column(Text)


class AccountRow(Base):
    """Somebody who may come in over the network. Switched off, never deleted: the name stands on histories."""

    __tablename__ = "account"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(40), unique=True)
    folded: Mapped[str] = mapped_column(String(200), unique=True)
    """the name as it is looked for"""
    password_hash: Mapped[str] = mapped_column(String(200))
    role: Mapped[str] = mapped_column(String(12))
    active: Mapped[bool] = mapped_column(default=True)
    who: Mapped[str] = mapped_column(String(40))
    changed_at: Mapped[datetime]


class DeviceRow(Base):
    """A browser that has signed in with an account before, by the mark of the token that it keeps."""

    __tablename__ = "device"

    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True)
    token_mark: Mapped[str] = mapped_column(String(64), primary_key=True)
    seen_at: Mapped[datetime]


class SessionRow(Base):
    """One browser that signed in; ``token_mark`` is the hash of the token that it holds."""

    __tablename__ = "session"

    token_mark: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), index=True)
    begun_at: Mapped[datetime]
    seen_at: Mapped[datetime]
