"""The job file: one open JSON document that carries a job with everything its answers rest on (docs/formats.md)."""

import json
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.job.document import Job, Ride, TrackId
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.likeness import cheapest_of_each
from clavis.core.parts.models import AnyPart
from clavis.core.physics.road import Track
from clavis.core.records import FROM_FILE, LONGEST_NAME, MOST_ERRORS, described
from clavis.formats import tracks
from clavis.formats.plain_json import MOST_PARTS, parse_json
from clavis.formats.upgrade import job_from_1_to_2, job_from_2_to_3

FORMAT = "clavis-job"
VERSION = 3
CHOSEN_FOR_OTHERS = ("adapter", "bolt", "hub", "fluid", "hose", "small")
"""kinds of part that nobody names: they follow from those that a job names, and from the shelf"""
UPGRADES = {1: job_from_1_to_2, 2: job_from_2_to_3}
"""what brings the job of an older file to the next version"""


PointsOfTrack = Annotated[list[float], Field(min_length=3, max_length=tracks.MOST_POINTS, fail_fast=True)]
"""of a file from outside: the first that is no number tells enough"""


class TrackFile(BaseModel):
    """A track's points; distance and elevation in m, time in s or null."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    distance_m: PointsOfTrack
    elevation_m: PointsOfTrack
    time_s: PointsOfTrack | None = None
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
    """A Clavis job file, version 3."""

    model_config = ConfigDict(frozen=True, extra="forbid", title="Clavis job file, version 3")

    format: Literal["clavis-job"]
    version: Literal[3]
    clavis: str = Field(max_length=20, description="version of the program that wrote it")
    job: Job
    tracks: dict[TrackId, TrackFile]
    parts: list[AnyPart] = Field(max_length=MOST_PARTS)

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


def to_json(file: JobFile) -> str:
    return json.dumps(file.model_dump(mode="json"), ensure_ascii=False, indent=1)


def _brought_up(raw: dict[str, Any]) -> dict[str, Any]:
    version = raw.get("version")
    while isinstance(version, int) and version in UPGRADES and isinstance(raw.get("job"), dict):
        raw = {**raw, "job": UPGRADES[version](raw["job"]), "version": version + 1}
        version += 1
    if version != VERSION:
        raise JobFileError(f"version: {version!r:.40} is not known to this program; it reads 1 to {VERSION}")
    return raw


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
        more = f" (and {error.error_count() - 1} more)" if 1 < error.error_count() <= MOST_ERRORS else ""
        raise JobFileError(described(error) + more) from None


def with_new_ids(job: Job, new: Mapping[str, str]) -> Job:
    """The job with parts under other ids, by their old ones."""
    document = job.model_dump(mode="json")
    setups = [
        document["proposal"],
        *document["pins"],
        *(record["setup"] for name in ("heat_sets", "logs") for record in document[name]),
    ]
    setups += [trial[side] for trial in document["trials"] for side in ("a", "b")]
    for place in (document["front"], document["rear"], *(setup[end] for setup in setups for end in ("front", "rear"))):
        for key, value in place.items():
            if key.endswith("_id") and value in new:
                place[key] = new[value]
    return Job.model_validate(document)


def marked_as_imported(job: Job) -> Job:
    """The job with everything that somebody did or answered for by name under that name and that it came from a file:
    it is on record, and counts for nothing here (``Tick.given_here``). Sign-offs are on record as void already."""

    def marked(value: Any) -> Any:
        if isinstance(value, list):
            return [marked(item) for item in value]
        if not isinstance(value, dict):
            return value
        told = {name: item if name == "signed_before" else marked(item) for name, item in value.items()}
        who = told.get("who")
        if isinstance(who, str) and "at" in told and not who.startswith(FROM_FILE):
            told["who"] = f"{FROM_FILE}{who}"[:LONGEST_NAME]
        return told

    document = marked(job.model_dump(mode="json"))
    for mount in document["special"].values():
        if mount["released"] is not None:
            mount["released"]["elsewhere"] = True
    return Job.model_validate(document)


def file_of(job: Job, tracks: Mapping[str, Track], catalogue: Catalogue) -> JobFile:
    """Everything the job's answers rest on: the job with parameters and seed, its tracks, the parts that it names, and
    those of which one is chosen for them (``CHOSEN_FOR_OTHERS``), of parts that are alike the cheapest. What else the
    catalogue holds is not the job's."""
    used = job.part_ids()
    parts = [part for part in catalogue.every() if part.id in used]
    for kind in CHOSEN_FOR_OTHERS:
        offered = (part for part in catalogue.of_kind(kind).values() if part.offered)
        parts += [part for part in cheapest_of_each(offered) if part.id not in used]
    parts = parts[:MOST_PARTS]
    carried = {name: TrackFile.of(track) for name, track in tracks.items()}
    return JobFile(format=FORMAT, version=VERSION, clavis=__version__, job=job, tracks=carried, parts=parts)
