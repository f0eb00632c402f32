"""Bike, rider and ground of a job, resolved: what was entered, what the kind brings, what is missing; and its ride."""

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import partial
from math import exp, isfinite

from clavis.core.errors import ProfileError
from clavis.core.job.document import HandSize, Job, Ride, ShareBy, Skill, SpeedFrom
from clavis.core.job.trials import Calibrated
from clavis.core.parameters import NINETY_PERCENT_Z, ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.physics import bike as bikes
from clavis.core.physics.bike import GroundLimits, LoadedBike, PlacedMass, Tread
from clavis.core.physics.descent import (
    BrakeLoad,
    MostForce,
    Sharing,
    Style,
    Weather,
    joined,
    load_of_recording,
    plan_ride,
)
from clavis.core.physics.forces import (
    Hand,
    Pull,
    hand_of,
)
from clavis.core.physics.road import Road, Track, ensure_ride, road_of_sections, road_of_track
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Thresholds

RIDE_FRONT_SHARE = 0.55
BETWEEN_PIECES_S = 60.0
"""rest between two pieces of a track whose own times are not used"""


@dataclass(frozen=True)
class Lack:
    """Something that is missing: the field of the job in which it is entered, and in words."""

    path: str
    words: Words


@dataclass(frozen=True)
class Sourced:
    """A value with where it came from."""

    value: float
    source: str


@dataclass(frozen=True)
class Extremes:
    """The steepest slope, and the greatest speed m/s, of the rides beside the decisive one."""

    steepest: float = 0.0
    top_ms: float = 0.0


@dataclass(frozen=True)
class Situation:
    """Bike, rider and ground of a job, resolved from what was entered and the defaults of the kind."""

    bike: LoadedBike
    sources: Mapping[str, Sourced]
    hand: Hand
    tread: Tread
    grip: float
    """of the front tyre on the job's ground"""
    wet: bool
    weather: Weather
    sharing: Sharing
    style: Style
    parameters: ModelParameters
    thresholds: Thresholds
    rear_grip_ratio: float = 1.0
    """grip of the rear tyre over the front's"""
    elsewhere: Extremes = Extremes()
    speed_ratio: float = 1.0
    """how fast the rides are ridden against what is planned, where that is drawn"""
    pull: Pull = Pull.WARM
    """at which friction the finger forces are told"""
    calibrated: Calibrated | None = None
    """what was learnt on the road and is in the parameters and the front's share already"""

    @property
    def narrowed(self) -> Mapping[str, float]:
        """Half-widths of the doubts that the calibration made smaller, by their keys, as 90 % of a lognormal, of the
        share in its own unit. What it leaves to choose between two of them is not drawn together: they are drawn wider
        than they are known."""
        if self.calibrated is None:
            return {}
        c = self.calibrated
        by = {
            "convection_ratio": c.convection_ratio, "rotor_to_carrier_ratio": c.rotor_to_carrier_ratio,
            "airflow_front_ratio": c.airflow_ratio, "airflow_rear_ratio": c.airflow_ratio,
        }  # fmt: skip
        widths = {key: exp(NINETY_PERCENT_Z * learnt.sigma) - 1 for key, learnt in by.items()}
        return widths | {"front_share": NINETY_PERCENT_Z * c.front_share.sigma}


DEFAULT_TEXT = "default of the kind"
TYRE_TEXT = "by the tyre's size"
ENTERED_TEXT = "entered"


def bike_defaults(job: Job) -> dict[str, float]:
    """What the kind of bike brings, keyed by the field of ``job.bike`` it stands for; empty without a kind."""
    if job.bike.kind is None:
        return {}
    kind = bikes.KINDS[job.bike.kind]
    return {
        "mass_kg": kind.bike_mass_kg + (bikes.ASSIST_MASS_KG if job.bike.assisted else 0.0),
        "wheelbase_m": kind.wheelbase_m,
        "rear_to_cg_m": kind.rear_to_cg_m,
        "cg_height_m": kind.cg_height_m,
        "drag_area_m2": kind.drag_area_m2,
        "rolling_ratio": kind.rolling_ratio,
        "wheel_radius_mm": (bikes.rolling_radius_m(job.bike.tyre_size) or kind.wheel_radius_m) * 1000,
    }


def default_of(job: Job, path: str) -> float | None:
    """What stands in for a field that was not entered, or None where nothing may."""
    if path.startswith("bike."):
        return bike_defaults(job).get(path.removeprefix("bike."))
    base = {name: getattr(job.bike, name) or value for name, value in bike_defaults(job).items()}
    stand_in = {
        "rider.front_share_pct": RIDE_FRONT_SHARE * 100,
        "rider.kit_mass_kg": 0.0,
        "load.luggage_ahead_m": base.get("rear_to_cg_m"),
        "load.passengers_ahead_m": base.get("rear_to_cg_m"),
        "load.luggage_height_m": base.get("cg_height_m"),
        "load.passengers_height_m": base.get("cg_height_m"),
        "load.luggage_kg": 0.0,
        "load.passengers_kg": 0.0,
        "load.trailer_kg": 0.0,
    }
    return stand_in.get(path)


_OF_LOAD = {"ahead_m": "at the centre of gravity", "height_m": "at the height of the centre of gravity"}


def default_words(job: Job, path: str) -> Words:
    """Where the value that stands in for a field comes from; nothing where nothing may stand in."""
    if default_of(job, path) is None:
        return NOTHING
    if path.startswith("bike."):
        return say("usual of its kind: {kind}", kind=job.bike.kind)
    if path == "rider.front_share_pct":
        return "usual share in riding"
    return next((words for name, words in _OF_LOAD.items() if path.endswith(name)), "none, until one is entered")


def situation_of(job: Job) -> Situation | list[Lack]:
    """Resolve bike and rider; a list of what is missing where that cannot be done.

    Raises QuantityError where the entries contradict each other (a centre of gravity outside the axles).
    """
    lacks = []
    if job.bike.kind is None:
        lacks.append(Lack("bike.kind", "bike kind"))
    if job.rider.mass_kg is None:
        lacks.append(Lack("rider.mass_kg", "rider mass"))
    if lacks or job.rider.mass_kg is None:
        return lacks
    sources: dict[str, Sourced] = {}
    for name, default in bike_defaults(job).items():
        entered = getattr(job.bike, name)
        stands_in = TYRE_TEXT if name == "wheel_radius_mm" and job.bike.tyre_size else DEFAULT_TEXT
        sources[name] = Sourced(default, stands_in) if entered is None else Sourced(entered, ENTERED_TEXT)
    value = {name: s.value for name, s in sources.items()}
    load, wheelbase = job.load, value["wheelbase_m"]
    places = [
        PlacedMass(
            name,
            mass,
            value["rear_to_cg_m"] if ahead is None else ahead,
            value["cg_height_m"] if height is None else height,
        )
        for name, mass, ahead, height in (
            ("luggage", load.luggage_kg, load.luggage_ahead_m, load.luggage_height_m),
            ("passengers", load.passengers_kg, load.passengers_ahead_m, load.passengers_height_m),
        )
        if mass
    ]
    unladen_kg = value["mass_kg"] + job.rider.mass_kg + (job.rider.kit_mass_kg or 0.0)
    unladen = PlacedMass("bike and rider", unladen_kg, value["rear_to_cg_m"], value["cg_height_m"])
    together = bikes.centre_of((unladen, *places))
    bike = LoadedBike(
        mass_kg=together.mass_kg,
        wheelbase_m=wheelbase,
        rear_to_cg_m=together.ahead_m,
        cg_height_m=together.height_m,
        drag_area_m2=value["drag_area_m2"],
        rolling_ratio=value["rolling_ratio"],
        wheel_radius_m=value["wheel_radius_mm"] / 1000,
        trailer_kg=load.trailer_kg or 0.0,
    )
    sharing = Sharing(
        front_share=stated_front_share(job) if job.learnt is None else job.learnt.front_share.value,
        by_axle_of=bike if job.rider.share_by is ShareBy.AXLE_LOAD else None,
        third_share=(job.bike.third_brake_share_pct or 0.0) / 100,
        regen_end=job.bike.regen_end,
        regen_share=(job.bike.regen_share_pct or 0.0) / 100,
        regen_limit_w=job.bike.regen_limit_w or 0.0,
    )
    surface = job.conditions.surface
    return Situation(
        bike=bike,
        sources=sources,
        hand=hand_of(
            job.parameters, job.rider.fingers, job.rider.hands is HandSize.SMALL, job.rider.skill is Skill.NOVICE
        ),
        tread=job.bike.tread,
        grip=_grip_of(job, End.FRONT),
        rear_grip_ratio=_grip_of(job, End.REAR) / _grip_of(job, End.FRONT),
        wet=job.conditions.rain or surface in bikes.WET_SURFACES,
        weather=Weather(job.conditions.ambient_c, job.conditions.head_wind_kmh / KMH_PER_MS),
        sharing=sharing,
        style=job.rider.style,
        parameters=parameters_of(job),
        thresholds=job.thresholds,
        calibrated=job.learnt,
    )


def stated_front_share(job: Job) -> float:
    """The front's share of the braking as it was entered, or as is usual, 0 to 1; before any calibration."""
    share = job.rider.front_share_pct
    return RIDE_FRONT_SHARE if share is None else share / 100


def parameters_of(job: Job) -> ModelParameters:
    """The job's parameters with what was learnt on the road."""
    base, learnt = job.parameters, job.learnt
    if learnt is None:
        return base
    return base.model_copy(
        update={
            "convection_ratio": base.convection_ratio * learnt.convection_ratio.value,
            "rotor_to_carrier_ratio": base.rotor_to_carrier_ratio * learnt.rotor_to_carrier_ratio.value,
            "airflow_front_ratio": base.airflow_front_ratio * learnt.airflow_ratio.value,
            "airflow_rear_ratio": base.airflow_rear_ratio * learnt.airflow_ratio.value,
        }
    )


def _grip_of(job: Job, end: End) -> float:
    """Of one wheel's tyre on the job's ground: its own tread, or the bike's where none is told of it."""
    wheel = job.wheel(end)
    return bikes.tyre_grip(
        job.conditions.surface, wheel.tyre_tread or job.bike.tread, wheel.tyre_left or bikes.TreadLeft.FULL
    )


def with_other_rides(job: Job, situation: Situation, tracks: Mapping[str, Track]) -> Situation:
    """The situation with what the rides beside the decisive one ask of an emergency stop and of parking: they always
    count. A ride that cannot be read asks nothing; it says so where it is shown."""
    steepest = top = 0.0
    for ride in job.rides:
        if ride is not job.ride:
            with suppress(ProfileError):
                load = load_of_ride(ride, tracks, situation)
                steepest, top = max(steepest, load.steepest), max(top, float(load.speed_ms.max()))
    return replace(situation, elsewhere=Extremes(steepest, top))


def track_of_ride(ride: Ride, tracks: Mapping[str, Track]) -> Track | None:
    """The stretch of its track that a ride is; None for a typed one. Raises ProfileError."""
    if ride.track_id is None:
        return None
    track = tracks[ride.track_id]
    if ride.from_m is None and ride.to_m is None:
        return track
    return track.between(ride.from_m or 0.0, float("inf") if ride.to_m is None else ride.to_m)


def roads_of_ride(ride: Ride, tracks: Mapping[str, Track], tread: Tread = Tread.MIXED) -> list[Road]:
    """The roads to be planned, from sections or from the pieces of the track. Raises ProfileError."""
    track = track_of_ride(ride, tracks)
    if track is None:
        return [road_of_sections(ride.sections, ride.start_elevation_m, tread=tread)]
    pieces = track.pieces if track.starts else (track,)
    return [road_of_track(piece, ride.hold_kmh, ride.smoothing) for piece in pieces]


def ground_at(situation: Situation, grip: float, gradient: float) -> GroundLimits:
    """What the ground takes at a gradient; an infinite grip stands for the job's own."""
    told = grip if isfinite(grip) else situation.grip
    return bikes.ground_limits(situation.bike, told, gradient, situation.rear_grip_ratio)


def _ground_force_n(situation: Situation, grip: float, gradient: float) -> float:
    return ground_at(situation, grip, gradient).both_n


def _length_m(ride: Ride, track: Track | None) -> float:
    if track is None:
        return sum(section.length_m for section in ride.sections)
    return float(track.distance_m[-1] - track.distance_m[0])


def load_of_ride(
    ride: Ride, tracks: Mapping[str, Track], situation: Situation, most_force_n: MostForce | None = None
) -> BrakeLoad:
    """The braking load of a ride for this bike and rider, all its laps with their rests; where it is planned, never
    braked harder than ``most_force_n``, or than the ground takes where no brake is known."""
    most_force_n = most_force_n or partial(_ground_force_n, situation)
    track = track_of_ride(ride, tracks)
    bike, weather = situation.bike, situation.weather
    ensure_ride(ride.laps * _length_m(ride, track), 60.0 * ride.rest_min * (ride.laps - 1))
    if track is not None and ride.speed_from is SpeedFrom.RECORDED:
        lap = load_of_recording(track, bike, weather, ride.smoothing)
    else:
        planned = [
            plan_ride(road, bike, weather, situation.style, situation.parameters, most_force_n)
            for road in roads_of_ride(ride, tracks, situation.tread)
        ]
        lap = joined(planned, [BETWEEN_PIECES_S] * (len(planned) - 1))
    return joined([lap] * ride.laps, [ride.rest_min * 60] * (ride.laps - 1))
