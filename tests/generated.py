"""Jobs by the dice: the demo's and our own bike with readings, parts and proposals drawn at random, many of them
impossible, worn or half measured."""

import random
from contextlib import suppress
from functools import cache
from typing import Any

import numpy as np
from pydantic import ValidationError

from clavis.core.job.document import Job
from clavis.core.job.wheel import FittedBrake, LeverFeel, LineState, PistonState, Wheel
from clavis.core.parts.models import Axle, HubInterface
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from clavis.core.physics.road import Section, Track
from clavis.demo.roads import RIDES
from clavis.demo.world import JOBS
from clavis.formats.recordings_xml import read_gpx
from clavis.formats.tracks import checksum
from tests.bikes import CATALOGUE, own_job

_BY_NAME: dict[str, Track] = {}
for _path in sorted(RIDES.glob("*.gpx")):
    with _path.open("rb") as _stream:
        _BY_NAME[_path.stem] = read_gpx(_stream).track
TRACKS: dict[str, Track] = {checksum(track): track for track in _BY_NAME.values()}
DEMO_JOBS: tuple[Job, ...] = tuple(make({name: checksum(t) for name, t in _BY_NAME.items()}) for make in JOBS)


def _ids(kind: str) -> list[str | None]:
    return sorted(CATALOGUE.of_kind(kind))


def _wheel(dice: random.Random) -> dict[str, Any]:
    """Changes of one wheel, each drawn now and then."""
    thick = round(dice.uniform(1.3, 1.95), 2)
    draws: dict[str, Any] = {
        "rotor_id": dice.choice(_ids("rotor")),
        "caliper_id": dice.choice(_ids("caliper")),
        "lever_id": dice.choice(_ids("lever")),
        "pad_id": dice.choice(_ids("pad")),
        "adapter_id": dice.choice([None, *_ids("adapter")]),
        "carrying_id": dice.choice([None, *_ids("fork")]),
        "native_rotor_mm": dice.choice([None, 140.0, 160.0, 180.0, 203.0]),
        "max_rotor_mm": dice.choice([None, 160.0, 180.0, 203.0]),
        "mount_spacing_mm": dice.choice([None, 34.0, 51.0, 70.0, 74.0, 74.3]),
        "hole_depth_mm": dice.choice([None, 8.0, 16.0]),
        "hub": dice.choice([None, *HubInterface]),
        "axle": dice.choice([None, *Axle]),
        "rotor_points_mm": dice.choice([(), (thick,), tuple(round(thick + 0.01 * k, 2) for k in range(6))]),
        "rotor_runout_mm": dice.choice([None, 0.05, 0.6]),
        "pad_inner_mm": dice.choice([None, 0.2, 0.7, 1.8]),
        "pad_outer_mm": dice.choice([None, 0.2, 0.9, 1.8]),
        "pad_state": dice.choice(list(PadState)),
        "pistons": dice.choice(list(PistonState)),
        "line_state": dice.choice(list(LineState)),
        "lever_feel": dice.choice(list(LeverFeel)),
        "lever_reach_mm": dice.choice([None, 30.0, 70.0]),
        "fluid_grade": dice.choice([None, "mineral", "dot4", "dot51"]),
        "fluid_age_y": dice.choice([None, 0.5, 3.0]),
        "water_seen": dice.choice([True, False]),
        "hose_slack_mm": dice.choice([None, 0.0, 40.0]),
        "fitted_brake": dice.choice([None, FittedBrake.DISC]),
    }
    return {field: value for field, value in draws.items() if dice.random() < 0.2}


def _pick(dice: random.Random) -> dict[str, Any]:
    draws = {f"{kind}_id": dice.choice(_ids(kind)) for kind in ("rotor", "caliper", "lever", "pad")}
    return {field: value for field, value in draws.items() if dice.random() < 0.4}


def _drawn(dice: random.Random) -> Job:
    """One job; what contradicts itself at the door is drawn again."""
    while True:
        with suppress(ValidationError):
            return _tried(dice)


def _tried(dice: random.Random) -> Job:
    job = dice.choice([*DEMO_JOBS, own_job()])
    wheels = {}
    for end in End:
        document = job.wheel(end).model_dump(mode="json") | _wheel(dice)
        wheels[end.value] = Wheel.model_validate(document)
    proposal = {"bedded": dice.random() < 0.5} | {end.value: _pick(dice) for end in End}
    descent = Section(
        length_m=dice.choice([900, 2500]), gradient_pct=dice.choice([4.0, 9.0, 14.0]), speed_kmh=dice.choice([25, 40])
    )
    ride = own_job().rides[0].model_copy(update={"sections": (descent,)})
    rides = {"rides": (ride,), "decisive_ride": ride.id} if dice.random() < 0.7 else {}
    rider = job.rider.model_copy(update={"mass_kg": dice.choice([job.rider.mass_kg, 55.0, 120.0])})
    changed = job.model_copy(update=wheels | rides | {"rider": rider})
    return Job.model_validate(changed.model_dump(mode="json") | {"proposal": proposal})


@cache
def drawn_jobs(count: int, seed: int = 12) -> tuple[Job, ...]:
    dice = random.Random(seed)
    return tuple(_drawn(dice) for _ in range(count))


def gpx_of(points: int, seed: int) -> bytes:
    """A GPX of a ride over hills, a point a second."""
    time = np.arange(points)
    way = np.cumsum(6 + 2 * np.sin(time / 300))
    height = 800 + 500 * np.sin(way / 9000) + np.random.default_rng(seed).normal(0, 0.3, points)
    written = (
        f'<trkpt lat="{-40 + w / 111195:.7f}" lon="-20.0"><ele>{z:.1f}</ele>'
        f"<time>2026-05-01T{k // 3600 + 6:02d}:{k // 60 % 60:02d}:{k % 60:02d}Z</time></trkpt>"
        for k, (w, z) in enumerate(zip(way, height, strict=True))
    )
    return f'<gpx version="1.1"><trk><trkseg>{"".join(written)}</trkseg></trk></gpx>'.encode()
