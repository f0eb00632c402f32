"""The rides file: rides with their tracks as one open JSON document (docs/formats.md)."""

import json
from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from clavis import __version__
from clavis.core.errors import ClavisError
from clavis.core.job.document import Ride, TrackId
from clavis.core.physics.road import Track
from clavis.core.records import described
from clavis.formats.job_file import TrackFile, check_tracks
from clavis.formats.plain_json import parse_json

FORMAT = "clavis-rides"
VERSION = 1
MOST_RIDES = 500


class RidesFile(BaseModel):
    """A Clavis rides file, version 1."""

    model_config = ConfigDict(frozen=True, extra="forbid", title="Clavis rides file, version 1")

    format: Literal["clavis-rides"]
    version: Literal[1]
    clavis: str = Field(max_length=20, description="version of the program that wrote it")
    rides: list[Ride] = Field(min_length=1, max_length=MOST_RIDES)
    tracks: dict[TrackId, TrackFile]

    @model_validator(mode="after")
    def _whole(self) -> "RidesFile":
        check_tracks(self.rides, self.tracks)
        return self


class RidesFileError(ClavisError):
    """A rides file that cannot be read; the message names the field."""


def write(rides: Sequence[Ride], tracks: Mapping[str, Track]) -> str:
    """Rides with their tracks as an open JSON file."""
    carried = {name: TrackFile.of(track) for name, track in tracks.items()}
    file = RidesFile(format=FORMAT, version=VERSION, clavis=__version__, rides=list(rides), tracks=carried)
    return json.dumps(file.model_dump(mode="json"), ensure_ascii=False, indent=1)


def parse(data: bytes) -> RidesFile:
    """Read a rides file from outside. Raises RidesFileError that names the field and what is wrong with it."""
    try:
        raw = parse_json(data)
    except ValueError as error:
        raise RidesFileError(str(error)) from None
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise RidesFileError(f"format: not a Clavis rides file (“{FORMAT}” is missing)")
    try:
        return RidesFile.model_validate(raw)
    except ValidationError as error:
        raise RidesFileError(described(error)) from None
