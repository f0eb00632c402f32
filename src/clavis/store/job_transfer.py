"""Jobs out of the database as open files, and files into it."""

import hashlib
import json
from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis.core.parts.models import AnyPart
from clavis.formats.job_file import JobFile, file_of, marked_as_imported, with_new_ids
from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import PartRow

FROM_FILE = "from_file"
"""a sign-off that comes in a file is a name that nobody here has given: it is kept on record, and stands no more"""


def write_job(session: Session, job_id: int) -> JobFile:
    """A job as a file with everything its answers rest on. Raises NotThereError."""
    job = jobs.open_job(session, job_id).job
    return file_of(job, jobs.tracks_of(session, job.rides), jobs.read_catalogue(session))


def _there(session: Session, parts: Sequence[AnyPart]) -> dict[str, AnyPart]:
    """Those of the catalogue that have the ids of these parts."""
    rows = session.scalars(select(PartRow).where(PartRow.id.in_([part.id for part in parts])))
    return {row.id: jobs.read_part(row) for row in rows}


def _renamed(there: Mapping[str, AnyPart], file: JobFile) -> dict[str, str]:
    """Parts that stand in the database under the same id with other figures get a new id of their own."""
    new = {}
    for part in file.parts:
        mine = there.get(part.id)
        if mine is not None and mine.model_copy(update={"retired": part.retired}) != part:
            document = part.model_dump(mode="json")
            mark = hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()[:6]
            new[part.id] = f"{part.id[:52]}~{mark}"
    return new


def keep(session: Session, file: JobFile, author: jobs.Author, *, bike_id: int | None = None) -> int:
    """Keep the job of a file with its tracks and parts; the new job's number. All or nothing."""
    with writing(session):
        return lay_down(session, file, author, bike_id=bike_id)


def lay_down(session: Session, file: JobFile, author: jobs.Author, *, bike_id: int | None = None) -> int:
    """The same as part of a larger step, not yet committed. ``bike_id`` is the bike that it is about, where that is
    known."""
    there = _there(session, file.parts)
    new = _renamed(there, file)
    jobs.keep_new_parts(session, [part for part in file.parts if part.id not in there])
    for part in (part for part in file.parts if part.id in new):
        jobs.keep_part(session, part.model_copy(update={"id": new[part.id]}))
    session.flush()
    for points in file.tracks.values():
        jobs.keep_track(session, points.track())
    job = marked_as_imported(jobs.without_sign_off(with_new_ids(file.job, new), author.who, FROM_FILE))
    return jobs.lay_down(session, job, author, bike_id=bike_id)
