"""The one door for changes of a job.

Every change goes through ``change``: it checks the version the change was based on, applies and validates it,
and records who, when and what, before and after. History, undo and the warning that two people work on one job
rest on that record.
"""

from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import delete, insert, select, update
from sqlalchemy.orm import Session

from clavis.core.errors import ClavisError
from clavis.core.job import paths
from clavis.core.job.by_name import without_returning
from clavis.core.job.document import BESIDE_THE_SETUP, MOST_VOIDED, Job, Ride, StayState, VoidedSignOff
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import AnyPart, parse_part
from clavis.core.physics.road import Track
from clavis.core.records import Tick, describe, described
from clavis.core.sentences import Words, say
from clavis.core.wording.labels import place_word
from clavis.formats import tracks
from clavis.store.database import writing
from clavis.store.tables import (
    BikeRow,
    BoardRow,
    ChangeRow,
    CounterRow,
    JobPartRow,
    JobRow,
    JobTrackRow,
    PartRow,
    TrackRow,
)


class NotThereError(ClavisError):
    """No such job or part."""


class UnreadableError(ClavisError):
    """Something that is there and cannot be read: the ``sort`` of thing, its number, and ``why``."""

    def __init__(self, sort: str, ref: str, why: Words) -> None:
        self.sort, self.ref, self.why = sort, ref, why
        super().__init__(say("{sort} {ref} cannot be read: {why}", sort=sort, ref=ref, why=why))


class UncomputableError(UnreadableError):
    """A job that can be read, and of which no answer can be computed."""


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
    return _opened(row, read_job(row))


def read_job(row: JobRow) -> Job:
    """A row's document as a job. Raises UnreadableError."""
    try:
        return Job.model_validate(row.document)
    except ValidationError as error:
        raise UnreadableError("job", f"{row.id}", why_no_job(error)) from None


def why_no_job(error: ValidationError) -> str:
    """What of a document makes it no job, by the label of its place."""
    first = error.errors(include_url=False)[0]
    place = ".".join(map(str, first["loc"]))
    return f"{place_word(place)}: {describe(first)}" if place else describe(first)


def version_of(session: Session, job_id: int) -> int | None:
    """None where there is no such job."""
    return session.scalar(select(JobRow.version).where(JobRow.id == job_id))


def all_jobs(session: Session) -> list[Opened]:
    rows = session.scalars(select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id))
    return [_opened(r, read_job(r)) for r in rows]


def create_job(session: Session, job: Job, author: Author, *, demo: bool = False, bike_id: int | None = None) -> int:
    """Keep a new job about a bike; its first change is the whole document. Without ``bike_id`` it is about a bike that
    nobody has seen before, which gets the job's name."""
    with writing(session):
        return lay_down(session, job, author, demo=demo, bike_id=bike_id)


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
    with writing(session):
        row = _row(session, job_id)
        # a document that was kept before a field was thought of gets it here
        current = read_job(row).model_dump(mode="json")
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
        if also.undoes is not None:
            document = without_returning(document, current) | {name: current[name] for name in SIGNED}
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
        return _written(session, row, author, job, kept, _Step(path, before, after, also.undoes))


def _row(session: Session, job_id: int) -> JobRow:
    """A job's row as it is in the database. Raises NotThereError."""
    row = session.get(JobRow, job_id, populate_existing=True)
    if row is None:
        raise NotThereError(f"there is no job {job_id}")
    return row


@dataclass(frozen=True)
class _Step:
    """One step of the history."""

    path: str
    before: Any
    after: Any
    undoes: int | None = None


def _written(session: Session, row: JobRow, author: Author, job: Job, document: dict[str, Any], step: _Step) -> Opened:
    """The document as the job's next version, with its step of the history."""
    row.document = document
    row.version += 1
    row.changed_at = now()
    session.flush()  # written against the version that was read, before anything else is
    session.add(_record(row, author, step.path, step.before, step.after, step.undoes))
    session.execute(update(BoardRow).where(BoardRow.job_id == row.id).values(_on_the_board(row, job)))
    _note_use(session, row.id, job)
    session.flush()
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
    with writing(session):
        row = _row(session, opened.id)
        before = read_job(row)
        if row.version != opened.version:
            raise ConflictError(SIGN_OFF, "somebody", None)
        documents = before.model_dump(mode="json"), after.model_dump(mode="json")
        places = [place for place in documents[1] if documents[0][place] != documents[1][place]]
        was, then = ({place: document[place] for place in places} for document in documents)
        return _written(session, row, author, after, documents[1], _Step(SIGN_OFF, was, then))


def erase(session: Session, job_id: int) -> None:
    """Erase a job with its history. Raises NotThereError, and RefusedError for one that was not archived before: what
    is still worked on is not lost by one press."""
    with writing(session):
        row = _row(session, job_id)
        listed = session.scalar(select(BoardRow.state).where(BoardRow.job_id == job_id))
        if listed != StayState.ARCHIVED.value:
            raise RefusedError("stay.state", "archive the job first: only what is archived is erased")
        session.execute(delete(ChangeRow).where(ChangeRow.job_id == job_id))
        session.delete(row)


def set_places(
    session: Session, job_id: int, base_version: int, author: Author, places: dict[str, Any], path: str,
    undoes: int | None = None,
) -> Opened:  # fmt: skip
    """Several places of a job at once, as one step of the history. Raises RefusedError, NotThereError, ConflictError
    where it was changed since ``base_version``."""
    with writing(session):
        row = _row(session, job_id)
        if row.version != base_version:
            raise ConflictError(path, "somebody", None)
        if set(places) & SIGNED:
            raise RefusedError(path, "a sign-off is not changed: it is given, or undone")
        before = read_job(row)
        was = before.model_dump(mode="json")
        job = validated(was | without_returning(places, was), path)
        if set(places) - BESIDE_THE_SETUP:
            job = without_sign_off(job, author.who, path)
        document = job.model_dump(mode="json")
        step = _Step(
            path, {place: was[place] for place in places}, {place: document[place] for place in places}, undoes
        )
        return _written(session, row, author, job, document, step)


def take_back(session: Session, job_id: int, author: Author, undoes: ChangeRow | None = None) -> Opened:
    """Take a sign-off back: it stands no more and is kept on record. With ``undoes`` the step that signed it, all that
    it changed is as it was before. Raises NotThereError, RefusedError where there is none."""
    with writing(session):
        row = _row(session, job_id)
        signed = read_job(row)
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


def _line(part: AnyPart) -> dict[str, Any]:
    """A part as its row keeps it, without number and version."""
    document = part.model_dump(mode="json")
    return {"kind": part.kind, "retired": part.retired, "document": document, "changed_at": now()}


def keep_part(session: Session, part: AnyPart) -> None:
    """Add or replace one catalogue line."""
    row = session.get(PartRow, part.id)
    if row is None:
        keep_new_parts(session, [part])
        return
    for name, value in _line(part).items():
        setattr(row, name, value)
    row.version += 1


def keep_new_parts(session: Session, parts: Iterable[AnyPart]) -> None:
    """Add many lines that are known to be new, in one step."""
    rows = [_line(part) | {"id": part.id, "version": 1} for part in parts]
    if rows:
        session.execute(insert(PartRow), rows)


def read_catalogue(session: Session) -> Catalogue:
    """Every line that can be read; one that cannot keeps nothing else from being chosen."""
    found = []
    for document in session.scalars(select(PartRow.document).execution_options(yield_per=500)):
        with suppress(ValueError, TypeError, KeyError, AttributeError):
            found.append(parse_part(document))
    return Catalogue.of(found)


def read_part(row: PartRow) -> AnyPart:
    """A row's document as a part. Raises UnreadableError."""
    try:
        return parse_part(row.document)
    except ValidationError as error:
        raise UnreadableError("part", row.id, described(error)) from None
    except (ValueError, TypeError, KeyError, AttributeError) as error:
        raise UnreadableError("part", row.id, str(error)[:160]) from None


def catalogue_stamp(session: Session) -> int:
    """A count that moves whenever a part changes."""
    return session.scalar(select(CounterRow.value).where(CounterRow.name == "catalogue")) or 0


def move_count(session: Session, beyond: int) -> None:
    """Move the count of the catalogue's changes beyond one that was told before: what was kept in memory of another
    catalogue is not taken for this one's. Not yet committed."""
    count = max(catalogue_stamp(session), beyond) + 1
    session.execute(update(CounterRow).where(CounterRow.name == "catalogue").values(value=count))
