"""Undo, redo, and any moment of a job brought back. Each is a step of the history itself: nothing is ever taken out."""

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any, Protocol

from sqlalchemy import JSON, select
from sqlalchemy.orm import Session

from clavis.core.errors import QuantityError
from clavis.core.job import paths
from clavis.core.job.by_name import holds_acts_alone
from clavis.core.job.document import Job
from clavis.core.sentences import say
from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.jobs import RESTORED, SIGN_OFF, SIGNED, TAKEN_BACK, Also, Author, RefusedError
from clavis.store.tables import ChangeRow

LOOKED_BACK = 400
"""so many of the newest steps are looked at for what may be undone or done again"""


class OthersError(RefusedError):
    """The newest step is another person's, and it was not said that it may be taken back."""

    def __init__(self, step: ChangeRow) -> None:
        self.step = step
        super().__init__(step.path, say("the newest change is {who}’s", who=step.who))


def steps(session: Session, job_id: int, most: int = LOOKED_BACK, page: int = 0) -> list[ChangeRow]:
    """The newest first."""
    query = select(ChangeRow).where(ChangeRow.job_id == job_id).order_by(ChangeRow.version.desc())
    return list(session.scalars(query.limit(most).offset(most * page)))


class Undoable(Protocol):
    """A step that may have been undone, or is an undo itself."""

    @property
    def id(self) -> Any: ...
    @property
    def undoes(self) -> Any: ...


def in_effect(rows: Sequence[Undoable]) -> dict[int, bool]:
    """Which of the newest steps still stand: one that was undone does not, until the undo itself was undone."""
    undone_by: dict[int, list[int]] = {}
    for row in rows:
        if row.undoes is not None:
            undone_by.setdefault(row.undoes, []).append(row.id)
    stands: dict[int, bool] = {}
    for row in sorted(rows, key=lambda r: int(r.id), reverse=True):  # what undoes a step came after it
        stands[row.id] = not any(stands.get(later, True) for later in undone_by.get(row.id, ()))
    return stands


@dataclass(frozen=True)
class StepsOffered:
    """What an undo would take back, and what a redo would do again, with the undo that it takes back; None where there
    is nothing."""

    undo: ChangeRow | None
    redo: ChangeRow | None
    undone_by: ChangeRow | None


def offered(session: Session, job_id: int) -> StepsOffered:
    """Undo takes back the newest step that stands and is itself no undo. Redo does again what the newest undo took
    back, where nothing else was done since; what somebody does by name, a sign-off, an answer, a tick, is not done
    again, it is given anew. The steps' values are read of those alone."""
    narrow = select(ChangeRow.id, ChangeRow.undoes, ChangeRow.path).where(ChangeRow.job_id == job_id)
    rows = session.execute(narrow.order_by(ChangeRow.version.desc()).limit(LOOKED_BACK)).all()
    stands = in_effect(rows)
    last = _to_undo(rows, stands, _acts_made(session, job_id))
    again, by = _to_redo(rows, stands)
    wanted = [number for number in (last, again, by) if number is not None]
    found = {row.id: row for row in session.scalars(select(ChangeRow).where(ChangeRow.id.in_(wanted)))}
    return StepsOffered(*(found.get(number or 0) for number in (last, again, by)))


def _acts_made(session: Session, job_id: int) -> set[int]:
    """Steps at which somebody did or answered for something by name that nobody had before: those can be undone. One
    that was withdrawn or given anew is not brought back for who gave it."""
    nothing = ChangeRow.before.is_(None) | (ChangeRow.before == JSON.NULL)
    query = select(ChangeRow.id).where(ChangeRow.job_id == job_id, nothing)
    return set(session.scalars(query.order_by(ChangeRow.version.desc()).limit(LOOKED_BACK)))


def _to_undo(rows: Sequence[Any], stands: Mapping[int, bool], made: Set[int]) -> int | None:
    given = set()
    for row in rows:
        if row.undoes is not None or row.path in ("", TAKEN_BACK) or not stands[row.id]:
            continue
        if holds_acts_alone(row.path):
            newer = row.path in given
            given.add(row.path)
            if newer or row.id not in made:
                continue
        return int(row.id)
    return None


def _to_redo(rows: Sequence[Any], stands: Mapping[int, bool]) -> tuple[int | None, int | None]:
    by_id = {row.id: row for row in rows}
    for row in rows:
        if row.undoes is None:
            break  # something new was done since
        step = by_id.get(row.undoes)
        if step is not None and step.undoes is None and stands[row.id]:
            by_name = step.path in (SIGN_OFF, TAKEN_BACK) or row.path == TAKEN_BACK or holds_acts_alone(step.path)
            return (None, None) if by_name else (step.id, row.id)
    return None, None


def undo(session: Session, job_id: int, author: Author, *, anybodys: bool = False) -> ChangeRow | None:
    """Take back the newest step that stands; None where nothing is left to undo. Raises OthersError, RefusedError."""
    with writing(session):
        last = offered(session, job_id).undo
        if last is None:
            return None
        if last.who != author.who and not anybodys:
            raise OthersError(last)
        if last.path == SIGN_OFF:
            if jobs.open_job(session, job_id).job.signed_off is None:
                raise RefusedError(SIGN_OFF, "the sign-off stands no more: change what is to be changed")
            jobs.take_back(session, job_id, author, last)
        else:
            _set(session, job_id, author, last.path, last.before, last.id)
        return last


def redo(session: Session, job_id: int, author: Author) -> ChangeRow | None:
    """Do again what was undone last; None where there is nothing, or something else was done since."""
    with writing(session):
        found = offered(session, job_id)
        if found.redo is None or found.undone_by is None:
            return None
        _set(session, job_id, author, found.redo.path, found.redo.after, found.undone_by.id)
        return found.redo


def _set(session: Session, job_id: int, author: Author, path: str, value: Any, undoes: int) -> None:
    version = jobs.version_of(session, job_id) or 0
    if path.startswith(RESTORED):
        jobs.set_places(session, job_id, version, author, value, path, undoes)
    else:
        jobs.change(session, job_id, version, author, path, value, also=Also(undoes=undoes))


def moment(session: Session, job_id: int, version: int) -> Job:
    """The job as it was at a version; its sign-offs as they are today. Raises RefusedError where that cannot be
    told."""
    opened = jobs.open_job(session, job_id)
    document = opened.job.model_dump(mode="json")
    signed = {name: document[name] for name in SIGNED}
    query = select(ChangeRow).where(ChangeRow.job_id == job_id, ChangeRow.version > version)
    for row in session.scalars(query.order_by(ChangeRow.version.desc())):
        if row.path == "":
            raise RefusedError("version", "the job was not there then")
        if row.path == TAKEN_BACK:
            continue
        if row.path == SIGN_OFF or row.path.startswith(RESTORED):
            document |= row.before
            continue
        try:
            document = paths.write(document, row.path, row.before)
        except QuantityError as error:
            raise RefusedError("version", error.said) from None
    return jobs.validated(document | signed, "version")


def restore(session: Session, job_id: int, version: int, author: Author) -> None:
    """Bring a job back to what it was at a version, as one step of its history. Raises RefusedError."""
    with writing(session):
        opened = jobs.open_job(session, job_id)
        then = moment(session, job_id, version).model_dump(mode="json")
        now = opened.job.model_dump(mode="json")
        places = {name: then[name] for name in then if then[name] != now[name] and name not in SIGNED}
        if places:
            jobs.set_places(session, job_id, opened.version, author, places, f"{RESTORED}{version}")
