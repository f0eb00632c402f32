"""How far a bike has gone by a day, and how far it goes in a week: as stated, or as its odometer tells."""

from dataclasses import dataclass
from itertools import pairwise
from math import exp, log, sqrt

from clavis.core.dates import DAYS_A_WEEK, WEEKS_A_YEAR, as_date, date
from clavis.core.evaluation.wear import YearOfWear
from clavis.core.keeping.bike import KeptBike
from clavis.core.parameters import NINETY_PERCENT_Z

STATED_HALF_WIDTH = 0.20
"""how well a rider knows the week, as a 90 % half-width; judged"""
FEWEST_READINGS, SHORTEST_DAYS = 3, 56
"""what an odometer must show before it tells a weekly distance: three readings over eight weeks; judged"""
LEAST_SPREAD = 0.10
"""of the week, however even the readings; judged: the season"""


@dataclass(frozen=True)
class WeeklyDistance:
    """Kilometres a week: the middle, σ of its logarithm, and whether someone stated it."""

    km: float
    sigma: float
    stated: bool


def odometer_points(bike: KeptBike) -> tuple[tuple[date, float], ...]:
    """Every day at which the distance is known, oldest first, one for each day: the farthest."""
    known: dict[date, float] = {}
    rows = [(r.day, r.km) for r in bike.odometer]
    rows += [(r.day, r.km) for r in bike.readings if r.km is not None]
    moments = [m for life in bike.lives for m in (life.fitted, life.removed) if m is not None]
    rows += [(m.day, m.km) for m in moments if m.km is not None]
    for day, km in rows:
        known[as_date(day)] = max(km, known.get(as_date(day), 0.0))
    return tuple(sorted(known.items()))


def weekly_distance(bike: KeptBike) -> WeeklyDistance | None:
    """As stated; else from the odometer where it was read at least three times over eight weeks; else None: two
    readings tell no week.

    The spread is that of the stretches' own weekly figures, each weighted by its length.
    """
    if bike.weekly_km is not None:
        return WeeklyDistance(bike.weekly_km, log(1 + STATED_HALF_WIDTH) / NINETY_PERCENT_Z, True)
    points = odometer_points(bike)
    if len(points) < FEWEST_READINGS or (points[-1][0] - points[0][0]).days < SHORTEST_DAYS:
        return None
    weeks = [(b[0] - a[0]).days / DAYS_A_WEEK for a, b in pairwise(points)]
    rates = [(b[1] - a[1]) / w for a, b, w in ((a, b, w) for (a, b), w in zip(pairwise(points), weeks, strict=True))]
    total_weeks = sum(weeks)
    mean = (points[-1][1] - points[0][1]) / total_weeks
    if mean <= 0 or min(rates) < 0:
        return None  # an odometer that goes backwards tells nothing
    spread = sqrt(sum(w * (r / mean - 1) ** 2 for r, w in zip(rates, weeks, strict=True)) / total_weeks)
    sigma = max(spread / sqrt(len(rates)), LEAST_SPREAD)
    return WeeklyDistance(mean, sigma, False)


def distance_on(bike: KeptBike, day: date, weekly: WeeklyDistance | None) -> float | None:
    """How far it had gone on a day, km: between two readings in a line, beyond them by the week; None where neither
    tells."""
    points = odometer_points(bike)
    if not points:
        return None
    for (d0, km0), (d1, km1) in pairwise(points):
        if d0 <= day <= d1:
            return km0 + (km1 - km0) * (day - d0).days / max((d1 - d0).days, 1)
    nearest = points[0] if day < points[0][0] else points[-1]
    if day == nearest[0]:
        return nearest[1]
    if weekly is None:
        return None
    return max(nearest[1] + weekly.km * (day - nearest[0]).days / DAYS_A_WEEK, 0.0)


@dataclass(frozen=True)
class WearPerKm:
    """What the model expects pads and rotor of a wheel to lose, mm for each km of the odometer; None where nothing is
    ridden."""

    pad_mm: float | None = None
    rotor_mm: float | None = None


def wear_per_km(year: YearOfWear, weekly: WeeklyDistance | None) -> WearPerKm:
    """A year's wear over the distance that the bike goes in a year. A job's rides are often its descents alone: where
    the week is known, its distance counts; otherwise that of the rides, which lets parts wear earlier than they do."""
    km = year.km if weekly is None else weekly.km * WEEKS_A_YEAR
    if km <= 0:
        return WearPerKm()
    return WearPerKm(*(worn / km if worn > 0 else None for worn in (year.pad_mm, year.rotor_mm)))


def week_quantile(weekly: WeeklyDistance, z: float) -> float:
    """Kilometres a week at a standard normal quantile."""
    return weekly.km * exp(weekly.sigma * z)
