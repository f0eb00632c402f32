"""The one door for changes of a job.

Every change goes through ``change``: it checks the version the change was based on, applies and validates it,
and records who, when and what, before and after. History, undo and the warning that two people work on one job
rest on that record.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session
from sqlalchemy.orm.exc import StaleDataError

from clavis.core.errors import ClavisError
from clavis.core.job import paths
from clavis.core.job.document import BESIDE_THE_SETUP, MOST_VOIDED, Job, Ride, StayState, VoidedSignOff
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import AnyPart, parse_part
from clavis.core.physics.road import Track
from clavis.core.records import Tick, describe
from clavis.core.sentences import Words
from clavis.formats import tracks
from clavis.store.tables import BikeRow, BoardRow, ChangeRow, JobPartRow, JobRow, JobTrackRow, PartRow, TrackRow


class NotThereError(ClavisError):
    """No such job or part."""


class RefusedError(ClavisError):
    """A change that cannot be made; ``path`` is the field it belongs to."""

    def __init__(self, path: str, said: Words) -> None:
        self.path = path
        super().__init__(said)


class ConflictError(ClavisError):
    """Somebody changed the same place since this page was opened. Nothing was overwritten."""

    def __init__(self, path: str, who: str, theirs: Any) -> None:
        self.path, self.who, self.theirs = path, who, theirs
        super().__init__(f"{who} changed this in the meantime")


@dataclass(frozen=True)
class Opened:
    """A job as read: its document, version, the bike it is about, and who changed it last."""

    id: int
    version: int
    job: Job
    demo: bool
    changed_at: datetime
    bike_id: int | None = None


def _opened(row: JobRow, job: Job) -> Opened:
    return Opened(row.id, row.version, job, row.demo, row.changed_at, row.bike_id)


@dataclass(frozen=True)
class Author:
    """Who makes a change, and from which opened page."""

    who: str
    page: str

    def tick(self) -> Tick:
        """The author's word, now."""
        return Tick(who=self.who, at=moment())


def now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


def moment() -> str:
    """Now, to the minute, as it stands in documents."""
    return now().isoformat(timespec="minutes")


def open_job(session: Session, job_id: int) -> Opened:
    row = session.get(JobRow, job_id)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    return _opened(row, Job.model_validate(row.document))


def version_of(session: Session, job_id: int) -> int | None:
    """None where there is no such job."""
    return session.scalar(select(JobRow.version).where(JobRow.id == job_id))


def all_jobs(session: Session) -> list[Opened]:
    rows = session.scalars(select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id))
    return [_opened(r, Job.model_validate(r.document)) for r in rows]


def create_job(session: Session, job: Job, author: Author, *, demo: bool = False, bike_id: int | None = None) -> int:
    """Keep a new job about a bike; its first change is the whole document. Without ``bike_id`` it is about a bike that
    nobody has seen before, which gets the job's name."""
    number = lay_down(session, job, author, demo=demo, bike_id=bike_id)
    session.commit()
    return number


def lay_down(session: Session, job: Job, author: Author, *, demo: bool = False, bike_id: int | None = None) -> int:
    """The same as part of a larger step, not yet committed."""
    document = job.model_dump(mode="json")
    if bike_id is None:
        bike_id = _new_bike(session, job)
    row = JobRow(version=1, document=document, demo=demo, bike_id=bike_id, created_at=now(), changed_at=now())
    session.add(row)
    session.flush()
    session.add(BoardRow(job_id=row.id, shown={}, **_on_the_board(row, job)))
    session.add(_record(row, author, "", None, {"title": job.title}))
    _note_use(session, row.id, job)
    return row.id


def _new_bike(session: Session, job: Job) -> int:
    kept = KeptBike(name=job.title, kind=job.bike.kind)
    row = BikeRow(document=kept.model_dump(mode="json"), name=job.title, created_at=now(), changed_at=now())
    session.add(row)
    session.flush()
    return row.id


def _on_the_board(row: JobRow, job: Job) -> dict[str, Any]:
    """What the board's row repeats of the document, to be filtered and sorted by."""
    stay = job.stay
    return {
        "state": stay.state.value,
        "promised_on": stay.promised_on or "",
        "mechanic": stay.mechanic,
        "title": job.title,
        "changed_at": row.changed_at,
    }


def _record(row: JobRow, author: Author, path: str, before: Any, after: Any, undoes: int | None = None) -> ChangeRow:
    return ChangeRow(
        job_id=row.id,
        version=row.version,
        who=author.who,
        page=author.page,
        at=now(),
        path=path,
        before=before,
        after=after,
        undoes=undoes,
    )


def _note_use(session: Session, job_id: int, job: Job) -> None:
    known_parts = set(session.scalars(select(PartRow.id).where(PartRow.id.in_(job.part_ids()))))
    session.execute(delete(JobPartRow).where(JobPartRow.job_id == job_id))
    session.add_all(JobPartRow(job_id=job_id, part_id=part) for part in sorted(known_parts))
    session.execute(delete(JobTrackRow).where(JobTrackRow.job_id == job_id))
    used = sorted({ride.track_id for ride in job.rides if ride.track_id})
    session.add_all(JobTrackRow(job_id=job_id, track_sha256=track) for track in used)


def since(session: Session, job_id: int, version: int, page: str) -> list[ChangeRow]:
    """Changes that other pages made after ``version``."""
    query = select(ChangeRow).where(ChangeRow.job_id == job_id, ChangeRow.version > version, ChangeRow.page != page)
    return list(session.scalars(query.order_by(ChangeRow.version)))


def _overlap(a: str, b: str) -> bool:
    if SIGN_OFF in (a, b) or a.startswith(RESTORED) or b.startswith(RESTORED):  # it is the whole page
        return True
    return a == b or a.startswith(f"{b}.") or b.startswith(f"{a}.")


def validated(document: dict[str, Any], path: str) -> Job:
    """A document as a job. Raises RefusedError for the place that was changed."""
    try:
        return Job.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        raise RefusedError(path, describe(first)) from None


NO_PARTS = frozenset({"track_id", "ride_id", "data_id"})
"""ids that name no part of the catalogue"""


def _check_parts(session: Session, path: str, value: Any) -> None:
    last = path.rpartition(".")[2]
    named = value if isinstance(value, dict) else {last: value}
    wanted = {v for k, v in named.items() if k.endswith("_id") and isinstance(v, str) and k not in NO_PARTS}
    missing = wanted - set(session.scalars(select(PartRow.id).where(PartRow.id.in_(wanted))))
    if missing and not path.startswith("rides"):
        raise RefusedError(path, f"no part “{min(missing)}” in the catalogue")


@dataclass(frozen=True)
class Also:
    """What else is known of a change: the step of the history that it undoes, and how its value was typed, where that
    is shown again."""

    undoes: int | None = None
    typed: str | None = None


def change(
    session: Session,
    job_id: int,
    base_version: int,
    author: Author,
    path: str,
    value: Any,
    beside: Mapping[str, Any] | None = None,
    also: Also | None = None,
) -> Opened:
    """Set ``path`` to ``value`` in a job that was read at ``base_version``. ``beside`` holds values of other fields
    of the same parent, by name, that follow from it: one step of the history, one undo.

    A change of anything that a sign-off rests on voids it, and keeps it in the job's record. Raises ConflictError when
    another page has changed the same place since, RefusedError when the result would not be a valid job or the place
    is not changed by itself, NotThereError without such a job. Nothing is kept in any of these cases.
    """
    if path.partition(".")[0] in SIGNED:
        raise RefusedError(path, "a sign-off is not changed: it is given, or undone")
    row = session.get(JobRow, job_id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    # a document that was kept before a field was thought of gets it here
    current = Job.model_validate(row.document).model_dump(mode="json")
    before = paths.read(current, path)
    parent = path.rpartition(".")[0]
    touched = [path, *(f"{parent}.{name}" for name in beside or ())]
    for other in since(session, job_id, base_version, author.page):
        if any(_overlap(other.path, place) for place in touched) and before != value:
            raise ConflictError(path, other.who, before)
    _check_parts(session, path, value)
    document = paths.write(current, path, value)
    for name, follows in (beside or {}).items():
        document = paths.write(document, f"{parent}.{name}", follows)
    also = also or Also()
    if also.typed is not None or path in document["typed"]:
        others = {place: text for place, text in document["typed"].items() if place != path}
        document["typed"] = others | ({path: also.typed} if also.typed else {})
    job = validated(document, path)
    if beside:
        path, before = parent, paths.read(current, parent)
    kept = job.model_dump(mode="json")
    if kept == current:
        return _opened(row, job)
    after = paths.read(kept, path)
    if path.partition(".")[0] not in BESIDE_THE_SETUP:
        job = without_sign_off(job, author.who, path, before, after)
        kept = job.model_dump(mode="json")
    try:
        return _written(session, row, author, job, kept, _Step(path, before, after, also.undoes))
    except StaleDataError:
        session.rollback()
        return change(session, job_id, base_version, author, touched[0], value, beside, also)


@dataclass(frozen=True)
class _Step:
    """One step of the history."""

    path: str
    before: Any
    after: Any
    undoes: int | None = None


def _written(session: Session, row: JobRow, author: Author, job: Job, document: dict[str, Any], step: _Step) -> Opened:
    """The document kept as the job's next version, with its step of the history."""
    row.document = document
    row.version += 1
    row.changed_at = now()
    session.flush()  # written against the version that was read, before anything else is
    session.add(_record(row, author, step.path, step.before, step.after, step.undoes))
    session.execute(update(BoardRow).where(BoardRow.job_id == row.id).values(_on_the_board(row, job)))
    _note_use(session, row.id, job)
    session.commit()
    return _opened(row, job)


SIGNED = frozenset({"signed_off", "signed_before"})
SIGN_OFF, TAKEN_BACK, RESTORED = "sign_off", "taken_back", "restored."
"""steps of the history that stand for several places of a job at once; the last with the version brought back"""
_LONGEST_TOLD = 200


def _told(value: Any) -> str:
    return "" if value is None else str(value)[:_LONGEST_TOLD]


def without_sign_off(job: Job, who: str, path: str, before: Any = None, after: Any = None) -> Job:
    """The job with its sign-off, where it has one, among those that stand no more, and what voided it."""
    if job.signed_off is None:
        return job
    void = VoidedSignOff(
        who=who, at=moment(), signed=job.signed_off, path=path, before=_told(before),
        after=_told(after),
    )  # fmt: skip
    earlier = (*job.signed_before, void)[-MOST_VOIDED:]
    return job.model_copy(update={"signed_off": None, "signed_before": earlier})


def sign_off(session: Session, opened: Opened, author: Author, after: Job) -> Opened:
    """Keep ``after``, which is the job as ``opened`` with its order signed off. One step of the history. Raises
    NotThereError without such a job, ConflictError where it was changed since it was opened."""
    row = session.get(JobRow, opened.id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {opened.id}")
    before = Job.model_validate(row.document)
    if row.version != opened.version:
        raise ConflictError(SIGN_OFF, "somebody", None)
    documents = before.model_dump(mode="json"), after.model_dump(mode="json")
    places = [place for place in documents[1] if documents[0][place] != documents[1][place]]
    was, then = ({place: document[place] for place in places} for document in documents)
    return _written(session, row, author, after, documents[1], _Step(SIGN_OFF, was, then))


def erase(session: Session, job_id: int) -> None:
    """Erase a job with its history. Raises NotThereError, and RefusedError for one that was not archived before: what
    is still worked on is not lost by one press."""
    row = session.get(JobRow, job_id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    if row.document.get("stay", {}).get("state") != StayState.ARCHIVED.value:
        raise RefusedError("stay.state", "archive the job first: only what is archived is erased")
    session.execute(delete(ChangeRow).where(ChangeRow.job_id == job_id))
    session.delete(row)
    session.commit()


def set_places(
    session: Session, job_id: int, base_version: int, author: Author, places: dict[str, Any], path: str,
    undoes: int | None = None,
) -> Opened:  # fmt: skip
    """Several places of a job at once, as one step of the history. Raises RefusedError, NotThereError, ConflictError
    where it was changed since ``base_version``."""
    row = session.get(JobRow, job_id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    if row.version != base_version:
        raise ConflictError(path, "somebody", None)
    if set(places) & SIGNED:
        raise RefusedError(path, "a sign-off is not changed: it is given, or undone")
    before = Job.model_validate(row.document)
    was = before.model_dump(mode="json")
    job = validated(was | places, path)
    if set(places) - BESIDE_THE_SETUP:
        job = without_sign_off(job, author.who, path)
    document = job.model_dump(mode="json")
    step = _Step(path, {place: was[place] for place in places}, {place: document[place] for place in places}, undoes)
    return _written(session, row, author, job, document, step)


def take_back(session: Session, job_id: int, author: Author, undoes: ChangeRow | None = None) -> Opened:
    """Take a sign-off back: it stands no more and is kept on record. With ``undoes`` the step that signed it, all that
    it changed is as it was before. Raises NotThereError, RefusedError where there is none."""
    row = session.get(JobRow, job_id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    signed = Job.model_validate(row.document)
    if signed.signed_off is None:
        raise RefusedError("signed_off", "there is no sign-off to undo")
    job = without_sign_off(signed, author.who, TAKEN_BACK)
    document = job.model_dump(mode="json")
    if undoes is not None:
        document |= {place: value for place, value in undoes.before.items() if place not in SIGNED}
        job = Job.model_validate(document)
    step = _Step(TAKEN_BACK, None, None, undoes.id if undoes is not None else None)
    return _written(session, row, author, job, document, step)


def history(session: Session, job_id: int) -> list[ChangeRow]:
    return list(session.scalars(select(ChangeRow).where(ChangeRow.job_id == job_id).order_by(ChangeRow.version.desc())))


def keep_track(session: Session, track: Track) -> str:
    """Keep a track under its checksum; keeping it twice is keeping it once."""
    name = tracks.checksum(track)
    if session.get(TrackRow, name) is None:
        session.add(TrackRow(sha256=name, points=tracks.pack(track)))
        session.flush()
    return name


def tracks_of(session: Session, rides: Iterable[Ride]) -> dict[str, Track]:
    """The tracks that rides use, under their checksums."""
    wanted = {ride.track_id for ride in rides if ride.track_id}
    rows = session.scalars(select(TrackRow).where(TrackRow.sha256.in_(wanted)))
    return {row.sha256: tracks.unpack(row.points) for row in rows}


def _part_row(part: AnyPart) -> PartRow:
    document = part.model_dump(mode="json")
    return PartRow(id=part.id, kind=part.kind, retired=part.retired, document=document, changed_at=now())


def keep_part(session: Session, part: AnyPart) -> None:
    """Add or replace one catalogue line."""
    session.merge(_part_row(part))


def keep_new_parts(session: Session, parts: Iterable[AnyPart]) -> None:
    """Add many lines that are known to be new, in one step."""
    session.add_all(_part_row(part) for part in parts)
    session.flush()


def read_catalogue(session: Session) -> Catalogue:
    return Catalogue.of(parse_part(row.document) for row in session.scalars(select(PartRow)))


def catalogue_stamp(session: Session) -> tuple[int, str]:
    """Something that changes whenever a part does."""
    count, newest = session.execute(select(func.count(), func.max(PartRow.changed_at)).select_from(PartRow)).one()
    return int(count), str(newest)
