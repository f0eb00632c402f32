"""The tables. A job is one document with a version; its history is one row per change; tracks are immutable and
kept under their checksum; parts are one row each, with the document that the core reads."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Float, ForeignKey, Index, LargeBinary, MetaData, String, UniqueConstraint
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class PartRow(Base):
    __tablename__ = "part"

    id: Mapped[str] = mapped_column(String(60), primary_key=True)
    kind: Mapped[str] = mapped_column(String(12), index=True)
    retired: Mapped[bool] = mapped_column(default=False)
    changed_at: Mapped[datetime]
    document: Mapped[dict[str, Any]] = mapped_column(JSON)


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
