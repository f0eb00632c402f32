"""Station 3: a job's rides side by side, the picture of one of them, worst speeds, drag against pulse."""

import json
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import HTTPException
from numpy.typing import NDArray
from starlette.responses import Response

from clavis.core import entries, units
from clavis.core.errors import ClavisError, ProfileError, QuantityError
from clavis.core.evaluation.descents import Descent, descents_of
from clavis.core.evaluation.evaluate import SetupResult
from clavis.core.evaluation.regeneration import sharing_with_regeneration
from clavis.core.evaluation.rides import (
    RideFigures,
    always_of,
    as_begun,
    gradient_at,
    hotter_than_decisive,
    rides_of,
    slow_points,
    styles_of,
)
from clavis.core.evaluation.situation import Situation, load_of_ride, track_of_ride
from clavis.core.evaluation.worst_speed import (
    SUSTAINED_M,
    Stretch,
    WorstSpeeds,
    speed_advice,
    speed_on,
    worst_on_ride,
    worst_on_slope,
)
from clavis.core.job.document import Ride
from clavis.core.job.ride_profile import section_points
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad, wheel_energy_j
from clavis.core.sentences import Words
from clavis.core.units import KMH_PER_MS, System
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import VisitDep, station_page

router = routes.router()
CHART_POINTS, PLACES_TOLD = 600, 4
WITH_FIELDS = (
    "rider.mass_kg",
    "rider.style",
    "rider.front_share_pct",
    "conditions.head_wind_kmh",
    "conditions.surface",
    "conditions.ambient_c",
    "bike.regen_end",
    "bike.regen_share_pct",
    "bike.third_brake_share_pct",
)
"""what a ride's load answers to beside the ride itself"""


def _setup(b: Bench) -> SetupResult | None:
    """The setup whose temperatures are shown: as fitted, or the proposal where nothing that is fitted can be told."""
    fitted, proposed = b.evaluation.fitted, b.evaluation.proposed
    return proposed if fitted is not None and not fitted.wheels and proposed and proposed.wheels else fitted


def shown_ride(b: Bench) -> Ride | None:
    """The ride that the page asks for, or the decisive one."""
    return next((r for r in b.job.rides if r.id == b.asked.get("ride")), b.job.ride)


def ride_or_404(b: Bench, ride_id: str) -> Ride:
    ride = next((r for r in b.job.rides if r.id == ride_id), None)
    if ride is None:
        raise HTTPException(404, "There is no such ride on this job.")
    return ride


def _figures(b: Bench) -> tuple[RideFigures, ...]:
    return b.kept("rides", lambda: rides_of(b.job, b.evaluation, b.tracks, _setup(b)))


def one_lap(ride: Ride, b: Bench, situation: Situation) -> BrakeLoad:
    """The ride ridden once, as the picture shows it. Raises ClavisError."""
    setup = _setup(b)
    if ride is b.job.ride and ride.laps == 1 and setup is not None and setup.load is not None:
        return setup.load
    return load_of_ride(ride.model_copy(update={"laps": 1}), b.tracks, situation)


def _chart(ride: Ride, load: BrakeLoad, descents: list[Descent], b: Bench, situation: Situation) -> str:
    """What the picture draws, in the reader's units, as JSON text. Powers are means over each drawn stretch, so that
    the picture holds the same energy as the load."""
    system, n = b.reading.system, len(load.dt_s)
    cuts = np.unique(np.linspace(0, n, min(n, CHART_POINTS) + 1).astype(np.int64))
    time = np.diff(load.time_s[cuts])

    def plain(values: NDArray[np.float64], kind: str, places: int) -> list[float]:
        return [round(units.convert(float(v), kind, system), places) for v in values]

    def mean(energy_j: NDArray[np.float64]) -> list[float]:
        running = np.concatenate([[0.0], np.cumsum(energy_j)])
        power = np.diff(running[cuts]) / np.maximum(time, 1e-9)
        return [round(float(v)) for v in np.append(power, power[-1])]

    km = load.distance_m / 1000
    way = np.diff(load.distance_m[cuts])
    fall = np.diff(np.concatenate([[0.0], np.cumsum(load.ds_m * load.gradient)])[cuts])
    gradient = np.where(way > 0.1, 100 * fall / np.maximum(way, 0.1), 0.0)
    sharing = sharing_with_regeneration(situation.sharing, b.job.bike) or situation.sharing
    shares = {end: wheel_energy_j(load, sharing, end) for end in End}
    regen = shares[End.FRONT][1] + shares[End.REAR][1]
    drawn: dict[str, Any] = {
        "km": plain(km[cuts], "km", 3),
        "elevation": plain(load.elevation_m[cuts], "m", 1),
        "speed": plain(load.speed_ms[cuts] * KMH_PER_MS, "kmh", 1),
        "gradient": [round(float(v), 1) for v in gradient],
        "front": mean(shares[End.FRONT][0]),
        "rear": mean(shares[End.REAR][0]),
        "regen": mean(regen) if regen.any() else None,
        "slow": [
            [
                round(units.convert(p.at_m / 1000, "km", system), 3),
                round(units.convert(p.speed_ms * KMH_PER_MS, "kmh", system)),
                p.is_stop,
            ]
            for p in slow_points(load)
        ],
        "units": {kind: units.sign(kind, system) for kind in ("km", "m", "kmh", "w")},
        "recorded": load.recorded,
        "mended": [
            [round(units.convert((m - (ride.from_m or 0.0)) / 1000, "km", system), 3) for m in place]
            for note in ride.mended
            for place in note.places_m
        ],
    }
    drawn["descents"] = [
        [round(units.convert(m / 1000, "km", system), 3) for m in (d.from_m, d.to_m)] for d in descents
    ]
    if ride.sections:
        points = section_points(ride.sections, ride.start_elevation_m)
        drawn["handles"] = [[units.convert(w / 1000, "km", system), units.convert(z, "m", system)] for w, z in points]
        drawn["per_km"] = units.convert(1.0, "km", system) / 1000
        drawn["per_m"] = units.convert(1.0, "m", system)
    return json.dumps(drawn)


def _descents(ride: Ride, b: Bench, situation: Situation) -> list[Descent]:
    """Of a whole recording only: a stretch cut out is its own descent."""
    track = track_of_ride(ride, b.tracks)
    if track is None:
        return []
    found = descents_of(ride, b.tracks, track, situation)
    whole = float(track.distance_m[-1] - track.distance_m[0])
    return [] if len(found) == 1 and found[0].length_m > 0.8 * whole else found


def _picture(b: Bench, ride: Ride, situation: Situation) -> dict[str, Any]:
    load = one_lap(ride, b, situation)
    descents = b.kept("descents", lambda: _descents(ride, b, situation), ride.id)
    return {
        "load": load,
        "chart": _chart(ride, load, descents, b, situation),
        "descents": descents,
        "top": float(load.speed_ms.max()) * KMH_PER_MS,
        "slow": len(slow_points(load)),
    }


@dataclass(frozen=True)
class MendedView:
    """One note on a recording with the first places it speaks of, km along the ride."""

    words: Words
    at_km: tuple[float, ...]
    more: int


def _mended(ride: Ride) -> list[MendedView]:
    out = []
    for note in ride.mended:
        at = [(a - (ride.from_m or 0.0)) / 1000 for a, _ in note.places_m]
        out.append(MendedView(note.said, tuple(at[:PLACES_TOLD]), max(len(at) - PLACES_TOLD, 0)))
    return out


@station_page(router, Station.RIDE)
def context(b: Bench) -> dict[str, Any]:
    """All rides as loads, and the picture of the one that is shown."""
    ride, situation, setup = shown_ride(b), b.evaluation.situation, _setup(b)
    figures = _figures(b)
    picture: dict[str, Any] = {"load": None, "chart": "", "descents": [], "top": 0.0, "slow": 0}
    problem: Words = ""
    if ride and situation:
        try:
            picture = _picture(b, ride, situation)
        except ClavisError as error:
            problem = error.said
    return {
        "ride": ride,
        "shown": next((f for f in figures if ride is not None and f.ride.id == ride.id), None),
        "figures": figures,
        "hotter": hotter_than_decisive(figures),
        "always": always_of(b.evaluation, setup),
        "of_setup": setup.name if setup and setup.wheels else "",
        "yearly_mj": sum(f.yearly_mj for f in figures),
        "with_fields": WITH_FIELDS,
        "as_begun": as_begun,
        "problem": problem,
        "mended": _mended(ride) if ride else [],
        "sections": enumerate(ride.sections) if ride else (),
        **picture,
    }


def _worst(b: Bench, ride: Ride, gradient: float | None, over_m: float) -> tuple[Stretch | None, WorstSpeeds]:
    """On the steepest slope that the ride sustains over a length, or on a picked one; both over its greatest fall.
    Raises QuantityError, ProfileError."""
    situation, setup = b.evaluation.situation, _setup(b)
    wheel = setup.wheels.get(End.FRONT) or setup.wheels.get(End.REAR) if setup else None
    if situation is None or setup is None or wheel is None or setup.demand is None:
        raise ProfileError("bike, rider and a measured wheel are needed")
    load = one_lap(ride, b, situation)
    if gradient is None:
        return worst_on_ride(wheel, situation, load, setup.demand, over_m)
    return None, worst_on_slope(wheel, situation, load, setup.demand, gradient)


def _advice(b: Bench, ride: Ride, stretch: Stretch | None, found: WorstSpeeds | None) -> Words:
    """The speed that the steepest slope is ridden at beside the worst one; nothing of a slope that was picked."""
    if stretch is None or found is None or b.evaluation.situation is None:
        return ""
    return speed_advice(found, speed_on(one_lap(ride, b, b.evaluation.situation), stretch))


@router.get("/jobs/{job_id}/rides/{ride_id}/worst", dependencies=APPRENTICE)
def worst(
    v: VisitDep, ride_id: str, at: float | None = None, gradient: str = "", over: float = SUSTAINED_M[0]
) -> Response:
    """Worst-speed curve for the steepest slope sustained over a length, for the slope at a place of the profile (in the
    reader's km), or for one that was typed in per cent."""
    b, system = v.bench, v.system
    ride = ride_or_404(b, ride_id)
    words: Words = ""
    if over not in SUSTAINED_M:
        raise HTTPException(422, "A slope is asked for over one of the lengths offered.")
    found = stretch = picked = None
    typed = gradient
    try:
        if at is not None and b.evaluation.situation is not None:
            at_km = units.stored(at, "km", system)
            picked = gradient_at(one_lap(ride, b, b.evaluation.situation), at_km * 1000)
            typed = ""
        elif gradient.strip():
            picked = entries.parse(gradient, "pct", system, "slope") / 100
        stretch, found = _worst(b, ride, picked, over)
    except (QuantityError, ProfileError) as error:
        words = error.said
    setup = _setup(b)
    end = End.FRONT if setup and End.FRONT in setup.wheels else End.REAR
    return v.piece(
        "ride/ride_worst.html", advice=_advice(b, ride, stretch, found), ride=ride,
        found=found, words=words, chart=_worst_chart(found, system) if found else "",
        at=at, typed=typed, picked=picked, stretch=stretch, over=over, lengths=SUSTAINED_M,
        end=end, of_setup=setup.name if setup else "",
    )  # fmt: skip


def _worst_chart(found: WorstSpeeds, system: System) -> str:
    """The curve over the speeds, in the reader's units, as JSON text."""

    def degrees(values: NDArray[np.float64]) -> list[float]:
        return [round(units.convert(float(v), "c", system), 1) for v in values]

    return json.dumps(
        {
            "speed": [round(units.convert(float(v), "kmh", system), 1) for v in found.speeds_kmh],
            "power": [round(float(v)) for v in found.power_w],
            "rotor": degrees(found.rotor_c),
            "fluid": degrees(found.fluid_c) if found.fluid_kmh else None,
            "units": {kind: units.sign(kind, system) for kind in ("kmh", "c", "w")},
        }
    )


@router.get("/jobs/{job_id}/styles", dependencies=APPRENTICE)
def styles(v: VisitDep) -> Response:
    """The decisive ride dragged and pulsed, side by side."""
    b = v.bench
    try:
        found = b.kept("styles", lambda: styles_of(b.job, b.evaluation, b.tracks, _setup(b)))
    except ClavisError:
        found = ()
    return v.piece("ride/ride_styles.html", found=found, ride=b.job.ride)
