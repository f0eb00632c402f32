"""A ride moment by moment: what each link of a brake is at any place on it, and what a stop begun there asks."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult, boil_distance_m
from clavis.core.evaluation.margins import wanted_ms2
from clavis.core.evaluation.situation import Situation
from clavis.core.job.document import Job
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import ground_limits
from clavis.core.physics.descent import BrakeLoad
from clavis.core.physics.forces import StopTarget, part_of, stop_target
from clavis.core.physics.friction import dry_mu, friction_shape, stop_mu
from clavis.core.physics.heat import LAYERED, SANDWICH_LIMIT_C, Node
from clavis.core.physics.heat_kernel import WET_UNTIL_C
from clavis.core.sentences import Words, say

Array = NDArray[np.float64]
EVEN_PLACES = 241
"""places at even distances along a ride at which it is looked at"""
LEAST_SPEED_MS = 1.0
"""slower than this nobody has to stop"""


class Mark(StrEnum):
    """A moment worth jumping to."""

    HOTTEST = "hottest"
    WEAKEST = "weakest"
    FAILING = "first failing"


@dataclass(frozen=True)
class Marked:
    """A moment of one wheel: where, and what it is there."""

    mark: Mark
    end: End
    at_m: float
    words: Words


@dataclass(frozen=True)
class Places:
    """Where a ride is looked at, (n,) each: distance m, time s, height m, speed m/s, gradient; ``stops`` is the target
    stop begun there, None where nothing has to be stopped or the ground does not stop it."""

    at_m: Array
    time_s: Array
    elevation_m: Array
    speed_ms: Array
    gradient: Array
    stops: tuple[StopTarget | None, ...]

    def nearest(self, at_m: float) -> int:
        return int(np.abs(self.at_m - at_m).argmin())


@dataclass(frozen=True)
class Moments:
    """One wheel at the places of its ride, (n,) each: braking power W, temperatures °C (n, nodes), friction with state
    and water, finger force in the drag there N, finger force of the target stop begun there N, what this hand gives
    above it as a share, and the way from there to where the fluid first boils m. What there is not is nan."""

    power_w: Array
    node_c: Array
    mu: Array
    drag_finger_n: Array
    stop_finger_n: Array
    above: Array
    boils_in_m: Array


def marked_places_m(wheels: Iterable[WheelResult]) -> list[float]:
    """Distances that no even grid may miss: where each wheel is hottest, weakest in the drag, or fails first."""
    out = []
    for w in wheels:
        out += [w.heat.peak_at_m[Node.ROTOR], w.heat.least_at_m]
        failing = first_failing(w)
        out += [failing.at_m] if failing else []
    return out


def places_of(job: Job, situation: Situation, load: BrakeLoad, wheels: Iterable[WheelResult]) -> Places:
    """The ride at even distances, and at every mark."""
    end_m = float(load.distance_m[-1])
    grid = np.linspace(0.0, end_m, EVEN_PLACES)
    at_m = np.unique(np.clip(np.concatenate([grid, marked_places_m(wheels)]), 0.0, end_m))
    stretch = np.clip(np.searchsorted(load.distance_m, at_m, side="right") - 1, 0, len(load.gradient) - 1)
    speed, gradient = np.interp(at_m, load.distance_m, load.speed_ms), load.gradient[stretch]
    wanted, p, known = wanted_ms2(job, situation), situation.parameters, {}
    stops: list[StopTarget | None] = []
    for v, g in zip(speed.tolist(), gradient.tolist(), strict=True):
        slope = round(g, 4)
        if slope not in known:
            known[slope] = ground_limits(situation.bike, situation.grip, slope, situation.rear_grip_ratio)
        fast = v >= LEAST_SPEED_MS
        stops.append(stop_target(situation.bike, known[slope], v, p, "a stop begun here", wanted) if fast else None)
    return Places(
        at_m,
        np.interp(at_m, load.distance_m, load.time_s),
        np.interp(at_m, load.distance_m, load.elevation_m),
        speed,
        gradient,
        tuple(stops),
    )


def moments_of(w: WheelResult, places: Places, situation: Situation) -> Moments:
    """One wheel at every place of its ride."""
    steps, heat, n = w.steps, w.heat, len(places.at_m)
    row, state = COMPOUNDS[w.setup.pad.compound], w.forces.mu_work / COMPOUNDS[w.setup.pad.compound].mu_work
    step = np.clip(np.searchsorted(steps.distance_m, places.at_m, side="right") - 1, 0, len(steps.dt_s) - 1)
    node_c = np.array([np.interp(places.at_m, heat.distance_m, heat.course_c[:, node]) for node in Node]).T
    if heat.fluid_peak_c is None:
        node_c[:, Node.FLUID] = np.nan
    rotor_c = np.ascontiguousarray(node_c[:, Node.ROTOR])
    wet = row.wet_ratio if situation.wet else 1.0
    mu = dry_mu(row, rotor_c) * state * np.where(rotor_c < WET_UNTIL_C, wet, 1.0)
    gain = w.link.gain_per_mu
    asked = [part_of(stop, w.end) if stop else None for stop in places.stops]
    force = np.array([a.force_n if a and a.force_n > 0 else np.nan for a in asked])
    energy = np.array([a.energy_j if a else 0.0 for a in asked])
    rises = w.rotor_share * energy / w.node("rotor_capacity")
    over = stop_mu(np.tile(friction_shape(row), (n, 1)), np.full(n, wet), rotor_c, rises[:, None])[:, 0] * state
    finger = force / (gain * over)
    boils_at_m = boil_distance_m(heat, w.boiling)
    ahead = np.full(n, np.nan) if boils_at_m is None else np.maximum(boils_at_m - places.at_m, 0.0)
    return Moments(
        power_w=steps.power_w[step],
        node_c=node_c,
        mu=mu,
        drag_finger_n=steps.force_n[step] / (gain * mu),
        stop_finger_n=finger,
        above=situation.hand.greatest_n / finger - 1,
        boils_in_m=ahead,
    )


def _first_above(w: WheelResult, node: Node, limit_c: float) -> float | None:
    above = np.nonzero(w.heat.course_c[:, node] > limit_c)[0]
    return float(w.heat.distance_m[above[0]]) if len(above) else None


def first_failing(w: WheelResult) -> Marked | None:
    """Where on the ride the first of a wheel's limits is passed; None where none is."""
    fails = {m.key for m in w.margins if m.verdict == "fails"}
    found: list[tuple[float, Words]] = []
    boils_at_m = boil_distance_m(w.heat, w.boiling)
    if boils_at_m is not None:
        found.append((boils_at_m, "the fluid boils"))
    fade_at_m = _first_above(w, Node.ROTOR, COMPOUNDS[w.setup.pad.compound].fade_c)
    if fade_at_m is not None:
        found.append((fade_at_m, "the rotor passes the onset of fade"))
    layers_at_m = _first_above(w, Node.ROTOR, SANDWICH_LIMIT_C) if w.setup.rotor.construction in LAYERED else None
    if layers_at_m is not None:
        found.append((layers_at_m, "the layered rotor passes its limit"))
    if "fade" in fails:
        found.append((w.heat.least_at_m, "this hand holds the drag no longer"))
    if not found:
        return None
    at_m, words = min(found, key=lambda f: f[0])
    return Marked(Mark.FAILING, w.end, at_m, words)


def marks_of(wheels: Mapping[End, WheelResult], moments: Mapping[End, Moments], places: Places) -> tuple[Marked, ...]:
    """The moments worth jumping to, wheel by wheel."""
    out = []
    for end, w in wheels.items():
        peak_c, above = w.heat.peak_c[Node.ROTOR], moments[end].above
        out.append(
            Marked(Mark.HOTTEST, end, w.heat.peak_at_m[Node.ROTOR], say("rotor {peak_c:.0}", peak_c=peak_c))
        )  # fmt: skip
        if np.isfinite(above).any():
            k = int(np.nanargmin(above))
            finger = float(moments[end].stop_finger_n[k])
            words = say("a stop begun here asks {finger_n:.0} of the finger", finger_n=finger)
            out.append(Marked(Mark.WEAKEST, end, float(places.at_m[k]), words))
        failing = first_failing(w)
        out += [failing] if failing else []
    return tuple(out)
