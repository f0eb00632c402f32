"""Calibrations that were accepted, for bikes of the same kind with the same parts: offered, never applied by
themselves."""

import json
from contextlib import suppress
from dataclasses import dataclass

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.core.job.trials import Calibrated, TrialSide
from clavis.core.parts.mounts import End
from clavis.core.records import digest
from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import CalibrationRow, JobRow

MOST_OFFERED = 5
_PARTS = ("rotor_id", "caliper_id", "pad_id")


@dataclass(frozen=True)
class Offered:
    """What was learnt on another job."""

    job_id: int
    title: str
    calibrated: Calibrated


def likeness(job: Job, setup: TrialSide) -> str:
    """The same of two bikes where kind, assistance, rotors, calipers and pads are the same: the parts as they were
    ridden."""
    told: list[object] = [job.bike.kind, job.bike.assisted]
    for end in End:
        wheel, pick = job.wheel(end), setup.picks[end]
        told += [(None if pick is None else getattr(pick, name)) or getattr(wheel, name) for name in _PARTS]
    return digest(json.dumps(told, default=str))


def offer(session: Session, job_id: int, job: Job, setup: TrialSide) -> None:
    """Keep what a job accepted, for its likes; a newer one takes the place of an older. Raises nothing where it has
    accepted none."""
    if job.learnt is None:
        return
    with writing(session):
        row = session.get(CalibrationRow, job_id) or CalibrationRow(job_id=job_id)
        row.likeness, row.title = likeness(job, setup), job.title
        row.document = job.learnt.model_dump(mode="json")
        session.add(row)


def withdraw(session: Session, job_id: int) -> None:
    """It is offered no more."""
    with writing(session):
        row = session.get(CalibrationRow, job_id)
        if row is not None:
            session.delete(row)


def offered(session: Session, job_id: int, job: Job) -> tuple[Offered, ...]:
    """What was learnt on other bikes like this one, as it is fitted or as it is proposed; the newest first."""
    keys = {likeness(job, TrialSide(name="as fitted"))}
    if job.proposes:
        keys.add(
            likeness(
                job, TrialSide(name="as proposed", source="picked", front=job.proposal.front, rear=job.proposal.rear)
            )
        )
    rows = session.scalars(
        select(CalibrationRow)
        .where(CalibrationRow.likeness.in_(keys), CalibrationRow.job_id != job_id)
        .order_by(CalibrationRow.job_id.desc())
        .limit(MOST_OFFERED)
    )
    found = []
    for row in rows:
        with suppress(ValidationError):  # what cannot be read is not offered
            found.append(Offered(row.job_id, row.title, Calibrated.model_validate(row.document)))
    return tuple(o for o in found if _stands(session, o))


def _stands(session: Session, offered: Offered) -> bool:
    """The job still has it: an undo takes it back there, and is told nowhere else."""
    row = session.get(JobRow, offered.job_id)
    with suppress(jobs.UnreadableError):
        return row is not None and jobs.read_job(row).learnt == offered.calibrated
    return False
