"""Everything of a workshop as one open archive (a ZIP of JSON files and pictures), out and in again."""

import io
import json
import lzma
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import IO, Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.catalogue import Catalogue
from clavis.core.records import described
from clavis.formats import job_file, parts_file, rides_file
from clavis.formats.photographs import Photograph
from clavis.formats.plain_json import parse_json
from clavis.store import bikes, job_transfer, jobs, people, photos, rescue, ride_library, workshop
from clavis.store.database import writing
from clavis.store.tables import (
    BikeChangeRow,
    BikeRow,
    ChangeRow,
    JobRow,
    PartRow,
    PersonRow,
    PhotoRow,
    StockRow,
)

FORMAT, VERSION = "clavis-archive", 1
MOST_FILES, LARGEST_FILE, LARGEST_IN_ALL = 200_000, 64_000_000, 8_000_000_000
PLAIN_BYTES, MOST_PACKED = 2_000_000, 60
"""a file beyond so many bytes is not packed tighter than so many times: what is says one thing over and over"""


UNPACKING = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError, NotImplementedError, RuntimeError, OSError, ValueError,
)  # fmt: skip
"""what unpacking a damaged, encrypted or oddly packed file raises"""
T = TypeVar("T", dict[str, Any], list[Any])


class ArchiveError(ClavisError):
    """An archive that cannot be read; nothing of it was kept."""


class PersonFile(BaseModel):
    """Somebody whose bikes they are."""

    model_config = ConfigDict(extra="forbid")

    id: int
    name: str = Field("", max_length=80)
    phone: str = Field("", max_length=40)
    email: str = Field("", max_length=120)


class PictureFile(BaseModel):
    """A photograph of a bike: the name of its file in the archive, and what stands beside it."""

    model_config = ConfigDict(extra="forbid")

    file: str = Field(pattern=r"^photos/[0-9a-f]{64}\.jpg$")
    caption: str = Field("", max_length=120)
    who: str = Field("", max_length=40)


class BikeFile(BaseModel):
    """A bike with whose it is, the numbers of its jobs in the archive, and its photographs."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["clavis-bike"]
    version: Literal[1]
    bike: KeptBike
    person: int | None = None
    archived: bool = False
    jobs: list[int] = Field(default_factory=list, max_length=10_000)
    photos: list[PictureFile] = Field(default_factory=list, max_length=2_000)
    history: list[dict[str, Any]] = Field(default_factory=list, max_length=100_000)


def _dumped(data: Any) -> bytes:
    return json.dumps(data, ensure_ascii=False, indent=1).encode()


def write(session: Session, out: IO[bytes]) -> int:
    """Everything as one archive; how many files stand in it."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        count = 0
        for name, data in _files(session):
            archive.writestr(name, data)
            count += 1
    return count


def _files(session: Session) -> Iterator[tuple[str, bytes]]:
    yield "manifest.json", _dumped({"format": FORMAT, "version": VERSION, "clavis": __version__})
    yield "workshop.json", _dumped(workshop.terms(session).model_dump(mode="json"))
    people_ = session.scalars(select(PersonRow).order_by(PersonRow.id))
    yield "people.json", _dumped([{"id": p.id, "name": p.name, "phone": p.phone, "email": p.email} for p in people_])
    catalogue = jobs.read_catalogue(session)
    yield "parts.json", parts_file.write_json(catalogue.every()).encode()
    stock = session.execute(select(StockRow.part_id, StockRow.pieces).order_by(StockRow.part_id))
    yield "stock.json", _dumped(dict(stock.all()))
    for part_id, _why in rescue.unread_parts(session):
        yield f"unread/part-{part_id}.json", rescue.text_of(session, rescue.Sort.PART, part_id).encode()
    rides = [entry.ride for entry in ride_library.entries(session)]
    if rides:
        yield "rides.json", rides_file.write(rides, jobs.tracks_of(session, rides)).encode()
    for number in session.scalars(select(JobRow.id).order_by(JobRow.id)):
        try:
            job = jobs.open_job(session, number).job
        except jobs.UnreadableError:
            yield f"unread/job-{number}.json", rescue.text_of(session, rescue.Sort.JOB, f"{number}").encode()
            continue
        own = Catalogue.of(part for part in map(catalogue.by_id, sorted(job.part_ids())) if part is not None)
        file = job_file.file_of(job, jobs.tracks_of(session, job.rides), own)
        yield f"jobs/{number}.json", job_file.to_json(file).encode()
        yield f"history/{number}.json", _dumped([_told(row) for row in jobs.history(session, number)])
        session.expire_all()
    written: set[str] = set()
    for number in session.scalars(select(BikeRow.id).order_by(BikeRow.id)):
        folder = "unread/bike-" if rescue.why_unread(rescue.Sort.BIKE, _document(session, number)) else "bikes/"
        yield f"{folder}{number}.json", _dumped(_bike(session, number))
        for row in session.scalars(select(PhotoRow).where(PhotoRow.bike_id == number)):
            if row.sha256 not in written:
                written.add(row.sha256)
                yield f"photos/{row.sha256}.jpg", row.picture
        session.expire_all()


def _told(row: ChangeRow) -> dict[str, Any]:
    return {
        "version": row.version, "who": row.who, "at": row.at.isoformat(), "path": row.path, "before": row.before,
        "after": row.after, "undoes": row.undoes is not None,
    }  # fmt: skip


def _document(session: Session, number: int) -> Any:
    return session.scalar(select(BikeRow.document).where(BikeRow.id == number))


def _bike(session: Session, number: int) -> dict[str, Any]:
    row = session.get(BikeRow, number)
    if row is None:
        raise jobs.NotThereError(f"there is no bike {number}")
    changes = session.scalars(select(BikeChangeRow).where(BikeChangeRow.bike_id == number).order_by(BikeChangeRow.id))
    pictures = session.scalars(select(PhotoRow).where(PhotoRow.bike_id == number).order_by(PhotoRow.id))
    return {
        "format": "clavis-bike", "version": 1, "bike": row.document, "person": row.person_id, "archived": row.archived,
        "jobs": list(session.scalars(select(JobRow.id).where(JobRow.bike_id == number).order_by(JobRow.id))),
        "photos": [{"file": f"photos/{p.sha256}.jpg", "caption": p.caption, "who": p.who} for p in pictures],
        "history": [
            {"version": c.version, "who": c.who, "at": c.at.isoformat(), "words": c.words} for c in changes
        ],
    }  # fmt: skip


@dataclass(frozen=True)
class TakenIn:
    """What of an archive was kept."""

    people: int
    parts: int
    bikes: int
    jobs: int
    photos: int


class _Pictures:
    """Pictures as they were decoded, on disc until they are kept: a workshop's of some years fill no memory."""

    def __init__(self) -> None:
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 -- gone with the pictures
        self._places: dict[str, tuple[int, int, int, tuple[int, int]]] = {}

    def __contains__(self, name: str) -> bool:
        return name in self._places

    def add(self, name: str, found: Photograph) -> None:
        at = self._file.seek(0, io.SEEK_END)
        self._file.write(found.picture + found.small)
        self._places[name] = at, len(found.picture), len(found.small), (found.width_px, found.height_px)

    def of(self, name: str) -> Photograph:
        at, picture, small, (width_px, height_px) = self._places[name]
        self._file.seek(at)
        return Photograph(self._file.read(picture), self._file.read(small), width_px, height_px)


@dataclass(frozen=True)
class _Read:
    """An archive as it was read and checked, before anything of it is kept. Jobs are read anew one by one: with their
    rides they are too large to be held together."""

    people: list[PersonFile]
    parts: bytes | None
    rides: rides_file.RidesFile | None
    stock: dict[str, int]
    jobs: tuple[int, ...]
    job: Callable[[int], job_file.JobFile]
    bikes: dict[int, BikeFile]
    pictures: _Pictures


def _read(stream: IO[bytes]) -> _Read:
    try:
        archive = zipfile.ZipFile(stream)
    except zipfile.BadZipFile:
        raise ArchiveError("not a ZIP file") from None
    infos = archive.infolist()
    if len(infos) > MOST_FILES or sum(info.file_size for info in infos) > LARGEST_IN_ALL:
        raise ArchiveError("larger than an archive may be")
    names = {info.filename: info for info in infos}

    def data(name: str) -> bytes:
        info = names[name]
        if info.file_size > LARGEST_FILE:
            raise ArchiveError(f"{name} is larger than a file of an archive may be")
        if info.file_size > max(PLAIN_BYTES, MOST_PACKED * info.compress_size):
            raise ArchiveError(f"{name} unpacks to far more than a file of an archive does")
        try:
            return archive.read(name)
        except UNPACKING as error:
            raise ArchiveError(f"{name} cannot be unpacked: {error}"[:300]) from None

    def plain(name: str, kind: type[T]) -> T:
        """What stands in one JSON file; nothing where it is not there."""
        if name not in names:
            return kind()
        try:
            found = parse_json(data(name))
        except ValueError as error:
            raise ArchiveError(f"{name}: {error}") from None
        if not isinstance(found, kind):
            raise ArchiveError(f"{name} holds something else than it should")
        return found

    manifest: dict[str, Any] = plain("manifest.json", dict)
    if manifest.get("format") != FORMAT or manifest.get("version") != VERSION:
        raise ArchiveError(f"not a Clavis archive of version {VERSION}")
    try:
        people_ = [PersonFile.model_validate(row) for row in plain("people.json", list)]
        found_bikes = {n: BikeFile.model_validate(plain(name, dict)) for n, name in _numbered(names, "bikes")}
        found_jobs = dict(_numbered(names, "jobs"))
        for name in found_jobs.values():
            job_file.parse(data(name))
        rides = rides_file.parse(data("rides.json")) if "rides.json" in names else None
    except ValidationError as error:
        raise ArchiveError(described(error)) from None
    except (job_file.JobFileError, rides_file.RidesFileError) as error:
        raise ArchiveError(error.said) from None
    stock: dict[str, Any] = plain("stock.json", dict)
    pieces = {k: v for k, v in stock.items() if isinstance(v, int) and 0 <= v <= 100_000}
    wanted = {p.file for bike in found_bikes.values() for p in bike.photos}
    pictures = _Pictures()
    try:
        for name in sorted(wanted):
            if name in names:
                pictures.add(name, photos.decoded(data(name)))
    except jobs.RefusedError as error:
        raise ArchiveError(error.said) from None
    parts = data("parts.json") if "parts.json" in names else None
    return _Read(
        people_, parts, rides, pieces, tuple(found_jobs), lambda number: job_file.parse(data(found_jobs[number])),
        found_bikes, pictures,
    )  # fmt: skip


def _numbered(names: dict[str, Any], folder: str) -> list[tuple[int, str]]:
    found = []
    for name in names:
        head, _, rest = name.partition("/")
        number = rest.removesuffix(".json")
        if head == folder and rest.endswith(".json") and number.isdecimal() and len(number) < 10:
            found.append((int(number), name))
    return sorted(found)


def take(session: Session, stream: IO[bytes], author: jobs.Author) -> TakenIn:
    """Keep everything of an archive beside what is there: people, parts, rides, bikes with their photographs, jobs. It
    is read and checked whole before anything is kept, and kept as one. Raises ArchiveError."""
    read = _read(stream)
    with writing(session):
        new_people = {
            p.id: people.add(session, people.PersonData(p.name, p.phone, p.email), author.who) for p in read.people
        }
        taken_parts = _parts(session, read, author.who)
        if read.rides is not None:
            ride_library.keep_file(session, read.rides, author.who)
        bike_of_job: dict[int, int] = {}
        pictures = 0
        for file in read.bikes.values():
            number = bikes.add(
                session, file.bike, author.who, new_people.get(file.person or -1), archived=file.archived
            )
            bike_of_job |= dict.fromkeys(file.jobs, number)
            for picture in file.photos:
                if picture.file in read.pictures:
                    photos.add(session, number, None, read.pictures.of(picture.file), picture.caption, picture.who)
                    pictures += 1
                    session.flush()
                    session.expire_all()
        for number in read.jobs:
            job_transfer.lay_down(session, read.job(number), author, bike_id=bike_of_job.get(number))
            session.flush()
            session.expire_all()  # nor are they held once they are laid down
        return TakenIn(len(read.people), taken_parts, len(read.bikes), len(read.jobs), pictures)


def _parts(session: Session, read: _Read, who: str) -> int:
    """Parts of the archive's catalogue that are not here yet, with what lay on the shelf."""
    if read.parts is None:
        return 0
    try:
        found, bad = parts_file.read_rows(read.parts, "")
    except parts_file.PartsFileError as error:
        raise ArchiveError(error.said) from None
    if bad:
        raise ArchiveError(f"parts.json, {bad[0].place}: {bad[0].reason}")
    known = set(session.scalars(select(PartRow.id)))
    new = [part for _, part in found if part.id not in known]
    jobs.keep_new_parts(session, new)
    for part in new:
        if read.stock.get(part.id):
            session.add(StockRow(part_id=part.id, pieces=read.stock[part.id], who=who[:40], changed_at=jobs.now()))
    session.flush()
    return len(new)


def written(session: Session) -> bytes:
    """The archive in memory, for small workshops and tests."""
    out = io.BytesIO()
    write(session, out)
    return out.getvalue()
