"""The whole answer for one job: fitted and proposed setup, both wheels, how they fit, forces, heat, margins, verdicts.

``evaluate`` is the one entry that pages, the command line and tests share. It never guesses: what is missing is listed
in ``lacks`` and what rests on it is unknown.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.margins import (
    Demand,
    Judged,
    Peaks,
    WheelRide,
    demand_of,
    drag_force_n,
    fixed_of,
    judge,
    linkage_of,
    wheel_ride,
)
from clavis.core.evaluation.open_points import (
    OpenPoint,
    cannot_stop,
    distinct,
    faster_than_rated,
    least_margin,
    missing_points,
    points_of_ride,
    verdict_of,
    why_words,
    wrong_beside_ride,
)
from clavis.core.evaluation.parts_list import PartLine, price_of
from clavis.core.evaluation.setups import WheelSetup, friction_state, row_of
from clavis.core.evaluation.situation import (
    Lack,
    Situation,
    ground_at,
    load_of_ride,
    situation_of,
    with_other_rides,
)
from clavis.core.evaluation.view_conditions import AS_ENTERED, Age, ViewConditions, under
from clavis.core.evaluation.wheel_cases import Mountings, WheelCase, mountings_of, wheel_case
from clavis.core.fit.mounting import Mounting
from clavis.core.job.document import Job, Ride
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics import bike as bikes
from clavis.core.physics import heat_kernel
from clavis.core.physics.descent import BrakeLoad, HeatSteps, heat_steps
from clavis.core.physics.forces import Linkage, Pull, Stop, WheelForces, reached_forces, reached_stop
from clavis.core.physics.heat import BoilingPoint, HeatResult, Node, heat_of
from clavis.core.physics.road import Track
from clavis.core.sentences import Words
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Margin, Verdict


@dataclass(frozen=True)
class WheelResult:
    """One wheel of one setup over the ride: forces, heat, margins, and every point that is open about it."""

    end: End
    setup: WheelSetup
    link: Linkage
    forces: WheelForces
    heat: HeatResult
    steps: HeatSteps
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    points: tuple[OpenPoint, ...]
    rotor_share: float
    hot_c: float
    ride_braked_kj: float
    """energy that all brakes together turn into heat on the ride"""
    brake_share: float
    """this wheel's share of it over the ride, before regeneration"""
    nodes: NDArray[np.float64]
    """the row that was integrated, in the order of ``heat_kernel.COLUMNS``"""
    ride: WheelRide
    """what was asked of it"""

    def time_above_s(self, node: Node, limit_c: float | None) -> float | None:
        """Time of the ride that one node spends above a limit, s; None where the limit is not known."""
        if limit_c is None:
            return None
        course = self.heat.course_c[:, node]
        middle = 0.5 * (course[1:] + course[:-1])
        return float(self.steps.dt_s[middle > limit_c].sum())

    def node(self, name: str) -> float:
        """One figure of the row by its column's name."""
        return float(self.nodes[heat_kernel.COLUMNS.index(name)])

    @property
    def verdict(self) -> Verdict:
        return verdict_of(self.points)

    @property
    def smallest(self) -> float:
        """The least relative margin; −1 where something else is wrong."""
        return least_margin(self.margins, wrong=wrong_beside_ride(self.points))


class SetupName(StrEnum):
    FITTED = "fitted"
    PROPOSED = "proposed"


@dataclass(frozen=True)
class SetupResult:
    """One setup of the whole bike. A wheel that lacks something, or may not be ridden at all, has no figures: it is
    absent from ``wheels``, and ``points`` say why."""

    name: SetupName
    cases: Mapping[End, WheelCase]
    wheels: Mapping[End, WheelResult]
    lacks: tuple[Lack, ...]
    points: tuple[OpenPoint, ...]
    load: BrakeLoad | None
    demand: Demand | None
    stop_flat: Stop | None
    stop_steep: Stop | None

    @property
    def verdict(self) -> Verdict:
        return verdict_of(self.points)

    def points_of(self, end: End) -> tuple[OpenPoint, ...]:
        return tuple(p for p in self.points if p.end is end)

    def verdict_at(self, end: End) -> Verdict:
        """Of one wheel, with figures or without."""
        return verdict_of(self.points_of(end))

    def why(self, end: End) -> Words:
        """What sets the verdict of one wheel: the gravest of what is open, or where it holds its least margin."""
        return why_words(self.points_of(end), self.wheels[end].margins if end in self.wheels else ())

    @cached_property
    def lines(self) -> tuple[PartLine, ...]:
        """Everything that has to be bought for it."""
        return tuple(line for case in self.cases.values() for line in case.lines)

    @property
    def price(self) -> float:
        return price_of(self.lines)

    @property
    def mass_g(self) -> float:
        """Of the brakes that have figures."""
        return sum(case.setup.mass_g for case in self.cases.values() if case.setup and case.rideable)


@dataclass(frozen=True)
class Evaluation:
    """Everything that is known of a job. ``problem`` is an error of the entries, in words; ``cases`` are there whatever
    is missing of bike, rider and ride."""

    situation: Situation | None
    lacks: tuple[Lack, ...]
    mountings: Mountings
    cases: Mapping[SetupName, Mapping[End, WheelCase]]
    setups: Mapping[SetupName, SetupResult]
    problem: Words = ""

    @property
    def fitted(self) -> SetupResult | None:
        return self.setups.get(SetupName.FITTED)

    @property
    def proposed(self) -> SetupResult | None:
        return self.setups.get(SetupName.PROPOSED)

    def place_for(self, end: End) -> Mounting:
        """The wheel that parts are proposed for: the one that is on it, or another that is proposed itself."""
        case = self.cases.get(SetupName.PROPOSED, {}).get(end)
        return self.mountings[end] if case is None else case.fit_case.on

    def points(self, name: SetupName) -> tuple[OpenPoint, ...]:
        """Everything open about one setup, whatever is missing."""
        if name in self.setups:
            return self.setups[name].points
        of_wheels = [p for case in self.cases[name].values() for p in case.points]
        return distinct([*of_wheels, *missing_points(self.lacks, None)])


def wheel_result(
    setup: WheelSetup, situation: Situation, demand: Demand, load: BrakeLoad, open_before: Sequence[OpenPoint] = ()
) -> WheelResult:
    """Forces and heat of one wheel over the ride; ``open_before`` is what is open whatever the ride."""
    end = setup.end
    steps = heat_steps(load, situation.sharing, end)
    nodes = row_of(setup, situation)
    heat = heat_of(nodes[None, :], steps, situation.weather.ambient_c)[0]
    taken = heat.ledger.friction_in_kj + steps.regen_j / 1000
    ride = wheel_ride(situation.bike, demand, end, drag_force_n(situation, load, end), load)
    j = _judged(setup, situation, ride, heat)
    return WheelResult(
        end=end,
        setup=setup,
        link=j.link,
        forces=j.forces,
        heat=heat,
        steps=steps,
        boiling=j.boiling,
        margins=j.margins,
        points=_points(end, j, situation, heat, open_before),
        rotor_share=j.rotor_share,
        hot_c=j.hot_c,
        ride_braked_kj=load.braked_kj,
        brake_share=taken / load.braked_kj if load.braked_kj > 0 else 0.0,
        nodes=nodes,
        ride=ride,
    )


def _judged(setup: WheelSetup, situation: Situation, ride: WheelRide, heat: HeatResult) -> Judged:
    peaks = Peaks(heat.peak_c[Node.ROTOR], heat.peak_c[Node.CARRIER], heat.fluid_peak_c, heat.least_mu_per_n)
    return judge(fixed_of(setup, situation, ride.ends_at_m), situation, ride, peaks)


def _points(
    end: End, judged: Judged, situation: Situation, heat: HeatResult, open_before: Sequence[OpenPoint]
) -> tuple[OpenPoint, ...]:
    boils_at_m = boil_distance_m(heat, judged.boiling)
    return distinct([*open_before, *points_of_ride(end, judged, situation.hand, boils_at_m)])


def _helped(
    w: WheelResult, situation: Situation, made_up_n: tuple[float, ...], open_before: Sequence[OpenPoint]
) -> WheelResult:
    """The same wheel with what the other one makes up for; its heat stays."""
    ride = replace(w.ride, asked=replace(w.ride.asked, made_up_n=made_up_n))
    j = _judged(w.setup, situation, ride, w.heat)
    points = _points(w.end, j, situation, w.heat, open_before)
    return replace(w, forces=j.forces, margins=j.margins, points=points, ride=ride)


def boil_distance_m(heat: HeatResult, boiling: BoilingPoint) -> float | None:
    """Where along the ride the fluid first reaches its boiling point, m; None where it does not."""
    if boiling.boiling_c is None or heat.fluid_peak_c is None:
        return None
    above = (heat.course_c[:, Node.FLUID] >= boiling.boiling_c).nonzero()[0]
    return float(heat.distance_m[above[0]]) if len(above) else None


def _given(
    situation: Situation, setups: Mapping[End, WheelSetup], mu: Mapping[End, float]
) -> tuple[dict[End, float], dict[End, float]]:
    """What hand and friction give at the road, wheel by wheel, and what the finger's scatter takes, N; ``mu`` with the
    pads' state and water."""
    available, hold_back = dict.fromkeys(End, 0.0), dict.fromkeys(End, 0.0)
    for end, setup in setups.items():
        gain = linkage_of(setup, situation).gain_per_mu * mu[end]
        available[end] = situation.hand.greatest_n * gain
        hold_back[end] = situation.hand.scatter_n * gain
    return available, hold_back


def _reached(
    situation: Situation,
    limits: bikes.GroundLimits,
    setups: Mapping[End, WheelSetup],
    mu: Mapping[End, float],
    speed_ms: float,
) -> Stop | None:
    available, hold_back = _given(situation, setups, mu)
    return reached_stop(situation.bike, limits, available, hold_back, speed_ms, situation.parameters)


def _not_stopped(
    situation: Situation, demand: Demand, setups: Mapping[End, WheelSetup], mu: Mapping[End, float]
) -> OpenPoint:
    """That this rider cannot stop the bike on the steepest slope of its rides: what is reached against what gravity
    asks there."""
    reached = reached_forces(situation.bike, demand.steep, *_given(situation, setups, mu))
    return cannot_stop(demand.steep.gradient, reached, sum(demand.holding_n.values()))


def _cold_mu(situation: Situation, setups: Mapping[End, WheelSetup]) -> dict[End, float]:
    rows = {end: COMPOUNDS[setup.pad.compound] for end, setup in setups.items()}
    return {
        end: row.mu_cold * (row.wet_ratio if situation.wet else 1.0) * friction_state(setups[end])
        for end, row in rows.items()
    }


def _mu_of_stop(demand: Demand, limits: bikes.GroundLimits, wheels: Mapping[End, WheelResult]) -> dict[End, float]:
    """Friction over the target stop on one slope; at its end where the ground takes no stop there."""
    which = next((k for k, t in enumerate(demand.targets) if t.gradient == limits.gradient), None)
    if which is None:
        return {end: w.forces.mu_hot for end, w in wheels.items()}
    return {end: float(w.forces.mu_over_stops[which]) for end, w in wheels.items()}


def _made_up(demand: Demand, wheels: Mapping[End, WheelResult]) -> dict[End, tuple[float, ...]]:
    """What the other wheel gives above its part in each stop that every bicycle must make, as far as its tyre holds."""
    out = {}
    for end, other in ((End.FRONT, End.REAR), (End.REAR, End.FRONT)):
        parts = [t.wheel_force_n[other] for t in demand.musts]
        grip = [part * limits.both_n / t.force_n for part, t, limits in
                zip(parts, demand.musts, _grounds(demand), strict=True)]  # fmt: skip
        given = wheels[other].forces.given_in_musts_n
        out[end] = tuple(max(0.0, min(float(n), most) - part) for n, most, part in zip(given, grip, parts, strict=True))
    return out


def _grounds(demand: Demand) -> list[bikes.GroundLimits]:
    return [demand.flat if t.gradient == demand.flat.gradient else demand.steep for t in demand.musts]


def planned_load(
    ride: Ride, situation: Situation, tracks: Mapping[str, Track], setups: Mapping[End, WheelSetup]
) -> BrakeLoad:
    """A ride as this setup and rider can brake it: nowhere planned harder than is reached there, cold."""
    if len(setups) < len(End):
        return load_of_ride(ride, tracks, situation)
    available, hold_back = _given(situation, setups, _cold_mu(situation, setups))

    def most_force_n(grip: float, gradient: float) -> float:
        return reached_forces(situation.bike, ground_at(situation, grip, gradient), available, hold_back).total_n

    return load_of_ride(ride, tracks, situation, most_force_n)


def _cases_of(job: Job, name: SetupName, mountings: Mountings, age: Age | None) -> dict[End, WheelCase]:
    picks = {end: job.proposal.of(end) if name is SetupName.PROPOSED else None for end in End}
    return {end: wheel_case(mountings[end], picks[end], bedded=job.proposal.bedded, age=age) for end in End}


def setup_result(
    job: Job, name: SetupName, cases: Mapping[End, WheelCase], situation: Situation, tracks: Mapping[str, Track]
) -> SetupResult:
    """One setup over the decisive ride."""
    setups = {end: case.setup for end, case in cases.items() if case.setup is not None and case.rideable}
    lacks = [lack for case in cases.values() for lack in case.lacks]
    standing = [p for case in cases.values() for p in case.points]
    if job.ride is None:
        lack = Lack("rides", "a ride")
        points = distinct([*standing, *missing_points([lack], None)])
        return SetupResult(name, cases, {}, (*lacks, lack), points, None, None, None, None)
    load = planned_load(job.ride, situation, tracks, setups)
    demand = demand_of(job, situation, load)
    wheels = {end: wheel_result(s, situation, demand, load, cases[end].points) for end, s in setups.items()}
    flat = steep = None
    runs_away: list[OpenPoint] = []
    if len(setups) == len(End):
        demand = replace(demand, made_up_n=_made_up(demand, wheels))
        made_up = demand.made_up_n
        wheels = {end: _helped(w, situation, made_up[end], cases[end].points) for end, w in wheels.items()}
        flat, steep = (
            _reached(situation, limits, setups, _mu_of_stop(demand, limits, wheels), demand.top_speed.value)
            for limits in (demand.flat, demand.steep)
        )
        if steep is None:
            runs_away = [_not_stopped(situation, demand, setups, _mu_of_stop(demand, demand.steep, wheels))]
    unridden = [p for end, case in cases.items() if end not in wheels for p in case.points]
    faster = faster_than_rated(demand.top_speed.value * KMH_PER_MS, job.bike.rated_speed_kmh)
    of_bike = [*runs_away, *([faster] if faster else [])]
    points = distinct([*of_bike, *(p for w in wheels.values() for p in w.points), *unridden])
    return SetupResult(name, cases, wheels, tuple(lacks), points, load, demand, flat, steep)


def evaluate_setup(
    job: Job, name: SetupName, mountings: Mountings, situation: Situation, tracks: Mapping[str, Track]
) -> SetupResult:
    """One setup of a job over its decisive ride, on wheels that are resolved already."""
    return setup_result(job, name, _cases_of(job, name, mountings, None), situation, tracks)


def evaluate(
    job: Job,
    catalogue: Catalogue,
    tracks: Mapping[str, Track],
    view: ViewConditions = AS_ENTERED,
    names: Sequence[SetupName] = tuple(SetupName),
) -> Evaluation:
    """Fitted and proposed setup of a job, seen under ``view``; ``tracks`` by checksum. Never raises for what a person
    entered: contradictions come back as ``problem``."""
    job = under(job, view)
    mountings = mountings_of(job, catalogue)
    cases = {name: _cases_of(job, name, mountings, view.age) for name in names}
    try:
        situation = situation_of(job)
        if not isinstance(situation, Situation):
            return Evaluation(None, tuple(situation), mountings, cases, {})
        situation = replace(with_other_rides(job, situation, tracks), pull=view.pull or Pull.WARM)
        setups = {name: setup_result(job, name, cases[name], situation, tracks) for name in names}
    except ClavisError as error:
        return Evaluation(None, (), mountings, cases, {}, problem=error.said)
    lacks = dict.fromkeys(lack for s in setups.values() if s.name is SetupName.FITTED for lack in s.lacks)
    return Evaluation(situation, tuple(lacks), mountings, cases, setups)


def with_proposed(
    job: Job, fitted: Evaluation, tracks: Mapping[str, Track], view: ViewConditions = AS_ENTERED
) -> Evaluation:
    """The evaluation of the same job with the fitted setup alone, and the proposed one beside it."""
    job, name = under(job, view), SetupName.PROPOSED
    cases = {**fitted.cases, name: _cases_of(job, name, fitted.mountings, view.age)}
    if fitted.situation is None:
        return replace(fitted, cases=cases)
    try:
        proposed = setup_result(job, name, cases[name], fitted.situation, tracks)
    except ClavisError as error:
        return replace(fitted, situation=None, lacks=(), cases=cases, setups={}, problem=error.said)
    return replace(fitted, cases=cases, setups={**fitted.setups, name: proposed})
