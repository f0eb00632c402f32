"""Logged rides, kept under their checksum; keeping one twice is keeping it once."""

from sqlalchemy.orm import Session

from clavis.core.proving.ride_log import LogData
from clavis.formats import ride_logs
from clavis.store import jobs
from clavis.store.tables import RideLogRow


def keep(session: Session, data: LogData) -> str:
    """Its name in a job."""
    name = ride_logs.checksum(data)
    if session.get(RideLogRow, name) is None:
        session.add(RideLogRow(sha256=name, columns=ride_logs.pack(data)))
        session.flush()
    return name


def read(session: Session, name: str) -> LogData:
    """Raises NotThereError."""
    row = session.get(RideLogRow, name)
    if row is None:
        raise jobs.NotThereError("the data of this logged ride are not here: they did not come with its job")
    return ride_logs.unpack(row.columns)
