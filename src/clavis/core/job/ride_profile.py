"""Typed sections as points on a profile, and what dragging a point or cutting a section makes of them."""

from collections.abc import Sequence
from math import atan, sin, sqrt

from clavis.core.errors import ProfileError
from clavis.core.job.document import Ride
from clavis.core.physics.road import Section
from clavis.core.sentences import say

LEAST_SECTION_M = 10.0
STEEPEST_SECTION_PCT = 35.0


def section_points(sections: Sequence[Section], start_elevation_m: float) -> list[tuple[float, float]]:
    """Distance and elevation, m, of the bounds of typed sections, the start first."""
    points = [(0.0, start_elevation_m)]
    for s in sections:
        way, height = points[-1]
        points.append((way + s.length_m, height - s.length_m * sin(atan(s.gradient_pct / 100))))
    return points


def _between(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    """Length m and gradient % from one point of a profile to the next. Raises ProfileError where no section fits."""
    length = round(b[0] - a[0], 1)
    if length < LEAST_SECTION_M:
        raise ProfileError(say("a section is at least {least_m:g} long", least_m=LEAST_SECTION_M))
    sine = (a[1] - b[1]) / length
    gradient = round(100 * sine / sqrt(1 - sine**2), 2) if abs(sine) < 1 else 100.0
    if abs(gradient) > STEEPEST_SECTION_PCT:
        raise ProfileError(say("a section is at most {most_pct:g} steep", most_pct=STEEPEST_SECTION_PCT))
    return length, gradient


def move_point(ride: Ride, index: int, at_m: float, elevation_m: float) -> tuple[Section, ...]:
    """The sections of a typed ride with the end of section ``index`` at another place of the profile. The other points
    stay; the last one may move freely. Raises ProfileError where a section would become too short or too steep."""
    points = section_points(ride.sections, ride.start_elevation_m)
    if not 0 <= index < len(ride.sections):
        raise ProfileError("there is no such point on the profile")
    points[index + 1] = (at_m, elevation_m)
    sections = list(ride.sections)
    for k in (index, index + 1):
        if k < len(sections):
            length, gradient = _between(points[k], points[k + 1])
            sections[k] = sections[k].model_copy(update={"length_m": length, "gradient_pct": gradient})
    return tuple(Section.model_validate(s.model_dump()) for s in sections)


def split_section(ride: Ride, at_m: float) -> tuple[Section, ...]:
    """The sections with the one at ``at_m`` cut in two; a corner or stop stays at its end. Raises ProfileError."""
    points = section_points(ride.sections, ride.start_elevation_m)
    for k, section in enumerate(ride.sections):
        start, end = points[k][0], points[k + 1][0]
        if start < at_m < end:
            if min(at_m - start, end - at_m) < LEAST_SECTION_M:
                raise ProfileError(
                    say("too near to a point: a section is at least {least_m:g} long", least_m=LEAST_SECTION_M)
                )
            first = section.model_copy(update={"length_m": round(at_m - start, 1), "corner_kmh": None, "stand_s": 0.0})
            second = section.model_copy(update={"length_m": round(end - at_m, 1)})
            return (*ride.sections[:k], first, second, *ride.sections[k + 1 :])
    raise ProfileError("that place is not on the profile")
