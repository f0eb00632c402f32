"""What the stand-ins for the instruments of the road read: a hidden truth (``road_truth``). Which bike, which run and
which wheel they are held at they learn from the ``about`` line, which a real instrument passes over."""

import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from threading import Lock
from zlib import crc32

import numpy as np

from clavis.core.evaluation.evaluate import SetupResult
from clavis.core.job.document import Job
from clavis.core.job.trials import Question, Side, Trial, TrialSide
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.physics.road import Track
from clavis.core.proving.prediction import predict, predict_side, side_on_ride
from clavis.core.proving.questions import QUESTIONS
from clavis.core.units import KMH_PER_MS
from clavis.instruments.line_protocol import NotHeldError, RoadInstrument
from clavis.instruments.road_truth import CoolingBike, RoadTruth, SimulatedThermometer

SPEED_KMH = 0.5
"""scatter of the speed at the line"""
USUAL_AFTER_S = 20.0
LOG_HZ = 2.0
LOGGED_BAR = 0.15
LOGGED_K = 1.5


@dataclass(frozen=True)
class World:
    """What a stand-in may look at: a job by its number, with its tracks; and the catalogue."""

    job: Callable[[int], tuple[Job, Mapping[str, Track]]]
    catalogue: Catalogue


class StandIn:
    """The readings of one bike's hidden truth."""

    def __init__(self, world: World) -> None:
        self.world = world
        self._lock = Lock()
        self._draw = 0

    def _job(self, about: Mapping[str, str]) -> tuple[Job, Mapping[str, Track]]:
        if not about.get("job", "").isdecimal():
            raise NotHeldError("no bike is said")
        return self.world.job(int(about["job"]))

    def _next(self, about: Mapping[str, str]) -> int:
        """A draw of its own for every reading of one bike."""
        with self._lock:
            self._draw += 1
            return crc32(f"{about.get('job')}{about.get('place')}{self._draw}".encode())

    def _trial(self, job: Job, about: Mapping[str, str]) -> tuple[Trial, Side]:
        trial = next((t for t in job.trials if t.id == about.get("trial")), None)
        if trial is None or about.get("side") not in {s.value for s in Side}:
            raise NotHeldError("no run is said")
        return trial, Side(about["side"])

    def figure(self, about: Mapping[str, str]) -> tuple[Trial, float, np.random.Generator]:
        """The true figure of one run with its scatter, in the question's unit."""
        job, tracks = self._job(about)
        trial, side = self._trial(job, about)
        truth = predict(RoadTruth.of(job.seed).job(job), trial, self.world.catalogue, tracks).of_question
        value = truth.a if side is Side.A else truth.b
        if value is None:
            raise NotHeldError("this run has no such figure")
        # one run has one figure, however often it is read
        rng = np.random.default_rng(crc32(f"{job.seed}{trial.id}{side}{about.get('place')}".encode()))
        return trial, max(value + float(rng.normal(0, truth.spread or 0.0)), 0.3), rng

    def rotor_line(self, about: Mapping[str, str]) -> str:
        """What the thermometer shows of one rotor."""
        job, tracks = self._job(about)
        end = End(about["end"]) if about.get("end") in {e.value for e in End} else End.FRONT
        after = float(about["after"]) if about.get("after", "").replace(".", "", 1).isdecimal() else USUAL_AFTER_S
        heat_set = next((s for s in job.heat_sets if s.id == about.get("set")), None)
        trial = next((t for t in job.trials if t.id == about.get("trial")), None)
        read_on, set_to = "paint", 0.95
        if heat_set is not None:
            read_on, set_to = heat_set.read_on, heat_set.set_to_ratio
        elif trial is not None:
            read_on, set_to = trial.read_on, trial.set_to_ratio
        truth = RoadTruth.of(job.seed)
        true, catalogue = truth.job(job), self.world.catalogue
        if heat_set is None and trial is not None:
            # what was ridden is the run, not the ride as it is
            found = predict_side(true, trial, trial.of(Side(about.get("side", "A"))), catalogue, tracks)
        else:
            ride, side = (None, TrialSide(name="as fitted")) if heat_set is None else (heat_set.ride_id, heat_set.setup)
            found = side_on_ride(true, ride, side, catalogue, tracks)
        bike = CoolingBike.after(found, job.conditions.ambient_c)
        wheel = found.wheel(end)
        spot_mm = heat_set.spot_mm if heat_set is not None else None
        seen = min(wheel.setup.rotor.track_mm / spot_mm, 1.0) if wheel is not None and spot_mm else 1.0
        shown = SimulatedThermometer(truth, read_on, set_to, seen).read(bike, end, after, self._next(about))
        if shown is None:
            raise NotHeldError("there is no rotor to look at")
        return f"thermometer {shown:.1f} C; set={set_to:g}"

    def line(self, kind: RoadInstrument, about: Mapping[str, str]) -> str:
        """One reading as the instrument sends it. Raises NotHeldError."""
        if kind is RoadInstrument.THERMOMETER:
            return self.rotor_line(about)
        trial, value, rng = self.figure(about)
        question = QUESTIONS[trial.question].key
        if kind is RoadInstrument.TAPE and question is Question.STOPS_SHORTER:
            speed = float(rng.normal(trial.speed_kmh, SPEED_KMH))
            return f"tape {value * (speed / trial.speed_kmh) ** 2:.2f} m; speed={speed:.1f} km/h"
        if kind is RoadInstrument.STOPWATCH and question in (Question.COOLS_FASTER, Question.GOES_QUICKER):
            return f"stopwatch {value:.1f} s"
        if kind is RoadInstrument.FORCE and question is Question.LESS_HAND:
            return f"force {value:.0f} N"
        raise NotHeldError("this run is not measured with it")

    def table(self, about: Mapping[str, str]) -> bytes:
        """A logged ride: time, speed, height, pressures and temperatures, as CSV."""
        job, tracks = self._job(about)
        truth = RoadTruth.of(job.seed)
        found = side_on_ride(truth.job(job), None, TrialSide(name="as fitted"), self.world.catalogue, tracks)
        if found.setup is None or not found.whole:
            raise NotHeldError("this bike has logged nothing")
        return logged(found.setup, self._next(about))


def logged(setup: SetupResult, draw: int) -> bytes:
    """One ride of a bike as its logger keeps it."""
    load, rng = setup.load, np.random.default_rng(draw)
    assert load is not None
    clock = np.arange(0.0, float(load.time_s[-1]), 1 / LOG_HZ)
    speed = np.maximum(np.interp(clock, load.time_s, load.speed_ms) + rng.normal(0, 0.05, len(clock)), 0.0)
    height = np.interp(clock, load.time_s, load.elevation_m) + rng.normal(0, 0.2, len(clock))
    columns = [clock, speed * KMH_PER_MS, height]
    rotors = []
    for wheel in setup.wheels.values():
        steps, f = wheel.steps, wheel.forces
        rolling = np.maximum(steps.speed_ms, 0.5)
        force = np.where(steps.braking > 0, steps.power_w / np.maximum(steps.braking, 0.05) / rolling, 0.0)
        at = np.clip(np.searchsorted(steps.time_s, clock, side="right") - 1, 0, len(steps.dt_s) - 1)
        per_bar = f.needed_n / f.pressure_target_bar if f.pressure_target_bar else 1.0
        pressure = np.maximum(force[at] / per_bar + rng.normal(0, LOGGED_BAR, len(clock)), 0.0)
        columns.append(pressure)
        course = np.interp(clock, wheel.heat.time_s, wheel.heat.course_c[:, Node.ROTOR])
        rotors.append(course + rng.normal(0, LOGGED_K, len(clock)))
    columns += rotors
    out = io.StringIO()
    out.write(
        "time (s),speed (km/h),elevation (m),front brake (bar),rear brake (bar),front rotor (°C),rear rotor (°C)\n"
    )
    for row in zip(*columns, strict=True):
        out.write(",".join(f"{value:.2f}" for value in row) + "\n")
    return out.getvalue().encode()
