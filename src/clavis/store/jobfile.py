"""The job file: one open JSON document that carries a job with everything its answers rest on (docs/formats.md)."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator
from sqlalchemy.orm import Session

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.job import Job, Ride, TrackId
from clavis.core.parts import AnyPart, Catalogue
from clavis.core.road import Track
from clavis.store import door, tracks
from clavis.store.tables import PartRow
from clavis.store.upgrade import job_from_1_to_2

FORMAT = "clavis-job"
VERSION = 2
UPGRADES = {1: job_from_1_to_2}
"""what brings the job of an older file to the next version"""


class TrackFile(BaseModel):
    """A track's points; distance and elevation in m, time in s or null."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    distance_m: list[float] = Field(min_length=3, max_length=tracks.MOST_POINTS)
    elevation_m: list[float] = Field(min_length=3, max_length=tracks.MOST_POINTS)
    time_s: list[float] | None = None
    starts: list[int] = Field(default_factory=list, max_length=10_000, description="where a new piece begins")

    def track(self) -> Track:
        """Raises ProfileError where the points make no track."""
        time = None if self.time_s is None else np.array(self.time_s, dtype=np.float64)
        return Track(
            np.array(self.distance_m, dtype=np.float64),
            np.array(self.elevation_m, dtype=np.float64),
            time,
            tuple(self.starts),
        )

    @classmethod
    def of(cls, track: Track) -> "TrackFile":
        time = None if track.time_s is None else track.time_s.tolist()
        return cls(
            distance_m=track.distance_m.tolist(),
            elevation_m=track.elevation_m.tolist(),
            time_s=time,
            starts=list(track.starts),
        )


def check_tracks(rides: Iterable[Ride], carried: Mapping[str, TrackFile]) -> None:
    """Raises ValueError where a ride's track is not carried, or a track is not what its name says."""
    for ride in rides:
        if ride.track_id and ride.track_id not in carried:
            raise ValueError(f"ride {ride.id} uses a track that the file does not carry")
    for name, points in carried.items():
        if tracks.checksum(points.track()) != name:
            raise ValueError(f"track {name[:8]}… does not match its checksum")


class JobFile(BaseModel):
    """A Clavis job file, version 2."""

    model_config = ConfigDict(frozen=True, extra="forbid", title="Clavis job file, version 2")

    format: Literal["clavis-job"]
    version: Literal[2]
    clavis: str = Field(max_length=20, description="version of the program that wrote it")
    job: Job
    tracks: dict[TrackId, TrackFile]
    parts: list[AnyPart] = Field(max_length=20_000)

    @model_validator(mode="after")
    def _whole(self) -> "JobFile":
        ids = [part.id for part in self.parts]
        if len(ids) != len(set(ids)):
            raise ValueError("two parts have the same id")
        missing = self.job.part_ids() - set(ids)
        if missing:
            raise ValueError(f"the job uses part {min(missing)}, which the file does not carry")
        check_tracks(self.job.rides, self.tracks)
        return self

    def catalogue(self) -> Catalogue:
        return Catalogue.of(self.parts)

    def core_tracks(self) -> dict[str, Track]:
        return {name: points.track() for name, points in self.tracks.items()}


class JobFileError(ClavisError):
    """A job file that cannot be read; the message names the field."""


def write_job(session: Session, job_id: int) -> JobFile:
    """Everything the job's answers rest on: the job with parameters and seed, its tracks, and the catalogue from
    which its candidates come."""
    job = door.open_job(session, job_id).job
    catalogue = door.read_catalogue(session)
    used = job.part_ids()
    parts = [part for part in catalogue.every() if not part.retired or part.id in used]
    found = {name: TrackFile.of(track) for name, track in door.tracks_of(session, job.rides).items()}
    return JobFile(format=FORMAT, version=VERSION, clavis=__version__, job=job, tracks=found, parts=parts)


def to_json(file: JobFile) -> str:
    return json.dumps(file.model_dump(mode="json"), ensure_ascii=False, indent=1)


def _no_constants(name: str) -> float:
    raise ValueError(f"{name} is not a number that JSON knows")


def _brought_up(raw: dict[str, Any]) -> dict[str, Any]:
    version = raw.get("version")
    while isinstance(version, int) and version in UPGRADES and isinstance(raw.get("job"), dict):
        raw = {**raw, "job": UPGRADES[version](raw["job"]), "version": version + 1}
        version += 1
    if version != VERSION:
        raise JobFileError(f"version: {version!r:.40} is not known to this program; it reads 1 to {VERSION}")
    return raw


def parse_json(data: bytes) -> Any:
    """JSON from outside. Raises ValueError in plain words."""
    try:
        return json.loads(data, parse_constant=_no_constants)
    except RecursionError:
        raise ValueError("not readable: nested too deeply") from None
    except UnicodeDecodeError:
        raise ValueError("not readable: the text is not UTF-8") from None
    except json.JSONDecodeError as error:
        raise ValueError(f"not JSON: line {error.lineno}, column {error.colno}: {error.msg}") from None
    except ValueError as error:
        raise ValueError(f"not JSON: {error}") from None


def parse(data: bytes) -> JobFile:
    """Read a job file from outside. Raises JobFileError that names the field and what is wrong with it."""
    try:
        raw = parse_json(data)
    except ValueError as error:
        raise JobFileError(str(error)) from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise JobFileError(f"format: not a Clavis job file (“{FORMAT}” is missing)")
    raw = _brought_up(raw)
    try:
        return JobFile.model_validate(raw)
    except ValidationError as error:
        errors = error.errors()
        first = errors[0]
        place = ".".join(str(step) for step in first["loc"]) or "file"
        more = f" (and {len(errors) - 1} more)" if len(errors) > 1 else ""
        raise JobFileError(f"{place}: {door.describe(first)}{more}") from None


def _renamed(session: Session, file: JobFile) -> dict[str, str]:
    """Parts that stand in the database under the same id with other figures get a new id of their own."""
    new = {}
    for part in file.parts:
        row = session.get(PartRow, part.id)
        document = part.model_dump(mode="json")
        if row is not None and {**row.document, "retired": part.retired} != document:
            mark = hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()[:6]
            new[part.id] = f"{part.id[:52]}~{mark}"
    return new


def _with_new_ids(job: Job, new: dict[str, str]) -> Job:
    document = job.model_dump(mode="json")
    setups = [document["proposal"], *document["pins"]]
    for place in (document["front"], document["rear"], *(setup[end] for setup in setups for end in ("front", "rear"))):
        for key, value in place.items():
            if key.endswith("_id") and value in new:
                place[key] = new[value]
    return Job.model_validate(document)


def keep(session: Session, file: JobFile, author: door.Author) -> int:
    """Keep the job of a file with its tracks and parts; the new job's number. All or nothing."""
    new = _renamed(session, file)
    for part in file.parts:
        if part.id in new:
            door.keep_part(session, part.model_copy(update={"id": new[part.id]}))
        elif session.get(PartRow, part.id) is None:
            door.keep_part(session, part)
    session.flush()
    for points in file.tracks.values():
        door.keep_track(session, points.track())
    return door.create_job(session, _with_new_ids(file.job, new), author)
