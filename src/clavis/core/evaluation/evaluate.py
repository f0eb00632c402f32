"""The whole answer for one job: fitted and proposed setup, both wheels, forces, heat, margins, verdicts.

``evaluate`` is the one entry that pages, the command line and tests share. It never guesses: what is missing
is listed in ``lacks`` and what rests on it is unknown.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.margins import Demand, demand_of, drag_force_n, fixed_of, judge
from clavis.core.evaluation.rules import refusals_of, wheel_context
from clavis.core.evaluation.setups import (
    WheelSetup,
    contradiction,
    friction_state,
    row_of,
    setup_of,
)
from clavis.core.evaluation.situation import (
    Lack,
    Situation,
    load_of_ride,
    situation_of,
    with_other_rides,
)
from clavis.core.evaluation.view_conditions import CLEAR, Age, Lens, aged, through
from clavis.core.job.document import Job, Ride
from clavis.core.parts.models import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.physics import bike as bikes
from clavis.core.physics import heat_kernel
from clavis.core.physics.bike import ground_limits
from clavis.core.physics.descent import BrakeLoad, HeatSteps, Style, heat_steps
from clavis.core.physics.forces import (
    Linkage,
    Pull,
    Stop,
    WheelForces,
    linkage,
    reached_stop,
)
from clavis.core.physics.friction import COMPOUNDS, state_ratio
from clavis.core.physics.heat import (
    BoilingPoint,
    HeatResult,
    Node,
    heat_of,
)
from clavis.core.physics.road import Track
from clavis.core.verdicts import Margin, Verdict, deciding_margin, worst


@dataclass(frozen=True)
class WheelResult:
    """One wheel of one setup: forces, heat, margins, verdict."""

    end: End
    setup: WheelSetup
    link: Linkage
    forces: WheelForces
    heat: HeatResult
    steps: HeatSteps
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    ring_share: float
    hot_c: float
    style: Style
    ride_braked_kj: float
    """energy that all brakes together turn into heat on the ride"""
    brake_share: float
    """this wheel's share of it over the ride, before regeneration"""
    nodes: NDArray[np.float64]
    """the row that was integrated, in the order of ``heat_kernel.COLUMNS``"""

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
        return worst(m.verdict for m in self.margins)

    @property
    def deciding(self) -> Margin:
        """The margin that sets the verdict."""
        return deciding_margin(self.margins)


class SetupName(StrEnum):
    FITTED = "fitted"
    PROPOSED = "proposed"


@dataclass(frozen=True)
class SetupResult:
    """One setup of the whole bike. A wheel that lacks something is absent and ``lacks`` says why."""

    name: SetupName
    wheels: Mapping[End, WheelResult]
    lacks: tuple[Lack, ...]
    load: BrakeLoad | None
    demand: "Demand | None"
    stop_flat: Stop | None
    stop_steep: Stop | None
    price: float
    mass_g: float
    unsafe: tuple[str, ...] = ()
    """why a wheel may not be ridden at all and gets no figures, in words"""

    @property
    def verdict(self) -> Verdict:
        if self.unsafe:
            return Verdict.FAILS
        parts = [w.verdict for w in self.wheels.values()]
        return worst(parts + [Verdict.UNKNOWN] * (2 - len(parts)))


@dataclass(frozen=True)
class Evaluation:
    """Everything that is known of a job. ``problem`` is an error of the entries, in words."""

    situation: Situation | None
    lacks: tuple[Lack, ...]
    setups: Mapping[SetupName, SetupResult]
    problem: str = ""

    @cached_property
    def fitted(self) -> SetupResult | None:
        return self.setups.get(SetupName.FITTED)

    @cached_property
    def proposed(self) -> SetupResult | None:
        return self.setups.get(SetupName.PROPOSED)


def wheel_result(
    job: Job, situation: Situation, demand: Demand, load: BrakeLoad, end: End, setup: WheelSetup
) -> WheelResult:
    """Forces and heat of one wheel over the ride."""
    steps = heat_steps(load, situation.sharing, end)
    nodes = row_of(setup, end, situation)
    heat = heat_of(nodes[None, :], steps, situation.weather.ambient_c)[0]
    j = judge(
        job,
        situation,
        demand,
        load,
        end,
        setup,
        fixed_of(setup, situation),
        drag_force_n(steps),
        heat.peak_c[Node.RING],
        heat.fluid_peak_c,
        heat.least_mu_per_n,
    )
    taken = heat.ledger.friction_in_kj + steps.regen_j / 1000
    return WheelResult(
        end=end,
        setup=setup,
        link=j.link,
        forces=j.forces,
        heat=heat,
        steps=steps,
        boiling=j.boiling,
        margins=j.margins,
        ring_share=j.ring_share,
        hot_c=j.hot_c,
        style=situation.style,
        ride_braked_kj=load.braked_kj,
        brake_share=taken / load.braked_kj if load.braked_kj > 0 else 0.0,
        nodes=nodes,
    )


def _reached(
    situation: Situation,
    limits: bikes.GroundLimits,
    setups: Mapping[End, WheelSetup],
    mu: Callable[[WheelSetup], float],
    speed_ms: float,
) -> Stop | None:
    p = situation.parameters
    available, hold_back = dict.fromkeys(End, 0.0), dict.fromkeys(End, 0.0)
    for end, setup in setups.items():
        link = linkage(setup.rotor, setup.caliper, setup.lever, setup.pad, situation.bike.wheel_radius_m, p)
        gain = link.gain_per_mu * mu(setup) * friction_state(setup)
        available[end] = situation.hand.greatest_n * gain
        hold_back[end] = situation.hand.scatter_n * gain
    return reached_stop(situation.bike, limits, available, hold_back, speed_ms, p)


def _cold_mu(situation: Situation) -> Callable[[WheelSetup], float]:
    def mu(setup: WheelSetup) -> float:
        row = COMPOUNDS[setup.pad.compound]
        return row.mu_cold * (row.wet_ratio if situation.wet else 1.0)

    return mu


def planned_load(
    ride: Ride, situation: Situation, tracks: Mapping[str, Track], setups: Mapping[End, WheelSetup]
) -> BrakeLoad:
    """A ride as this setup can brake it: the planned deceleration is never above the reached one, cold."""
    brake = None
    if len(setups) == len(End):
        flat = ground_limits(situation.bike, situation.grip, 0.0)
        stop = _reached(situation, flat, setups, _cold_mu(situation), 8.0)
        brake = stop.decel_ms2 if stop else 0.3
    return load_of_ride(ride, tracks, situation, brake)


CATALOGUE_RULES = frozenset({"chain", "bolts"})
"""what a catalogue lacks is no fault of what is on the bike already"""


def _with_refusals(w: WheelResult, name: SetupName, job: Job, catalogue: Catalogue) -> WheelResult:
    """Parts that do not go together are never shown as if they did: each hard rule that refuses is a limit passed."""
    s = w.setup
    found = refusals_of(wheel_context(job, w.end, catalogue), s.rotor, s.caliper, s.lever, s.pad)
    refused = tuple(
        Margin(f"rule_{rule.key}", reason, -1.0, "count", 0.0, -1.0)
        for rule, reason in found
        if name is SetupName.PROPOSED or rule.key not in CATALOGUE_RULES
    )
    return replace(w, margins=(*w.margins, *refused)) if refused else w


def evaluate_setup(
    job: Job,
    name: SetupName,
    situation: Situation,
    catalogue: Catalogue,
    tracks: Mapping[str, Track],
    age: Age | None = None,
) -> SetupResult:
    """One setup: both wheels over the decisive ride, its parts as they are or at another ``age``."""
    lacks: list[Lack] = []
    setups: dict[End, WheelSetup] = {}
    for end in End:
        found = setup_of(job, end, job.proposal.of(end) if name is SetupName.PROPOSED else None, catalogue)
        if isinstance(found, WheelSetup):
            setups[end] = aged(found, age)
        else:
            lacks += found
    unsafe = tuple(f"{end.value}: {s.worn_out}" for end, s in setups.items() if state_ratio(s.pad_state) is None)
    setups = {end: s for end, s in setups.items() if state_ratio(s.pad_state) is not None}
    for end, odd in [(end, contradiction(s)) for end, s in setups.items()]:
        if odd:
            station = "choose" if name is SetupName.PROPOSED else "measure"
            lacks.append(Lack(station, f"{end.value}.pad_id", f"{end.value}: {odd}"))
            del setups[end]
    price, mass = (
        _new_parts(job, setups),
        sum(s.rotor.mass_g + s.caliper.mass_g + s.lever.mass_g + s.pad.mass_g for s in setups.values()),
    )
    if job.ride is None:
        lacks.append(Lack("ride", "rides", "a ride"))
        return SetupResult(name, {}, tuple(lacks), None, None, None, None, price, mass, unsafe)
    load = planned_load(job.ride, situation, tracks, setups)
    demand = demand_of(job, situation, load)
    wheels = {
        end: _with_refusals(wheel_result(job, situation, demand, load, end, setup), name, job, catalogue)
        for end, setup in setups.items()
    }
    hot = {id(w.setup): w.forces.mu_hot / friction_state(w.setup) for w in wheels.values()}
    cold = _cold_mu(situation)
    stops = [
        _reached(
            situation,
            limits,
            setups,
            cold if situation.pull is Pull.COLD else lambda s: hot[id(s)],
            demand.top_speed.value,
        )
        if len(setups) == len(End)
        else None
        for limits in (demand.flat, demand.steep)
    ]
    return SetupResult(name, wheels, tuple(lacks), load, demand, stops[0], stops[1], price, mass, unsafe)


def _new_parts(job: Job, setups: Mapping[End, WheelSetup]) -> float:
    total = 0.0
    for end, setup in setups.items():
        wheel = job.wheel(end)
        for kind in ("rotor", "caliper", "lever", "pad"):
            part = getattr(setup, kind)
            total += part.price if part.id != getattr(wheel, f"{kind}_id") else 0.0
    return total


def evaluate(
    job: Job,
    catalogue: Catalogue,
    tracks: Mapping[str, Track],
    lens: Lens = CLEAR,
    names: Sequence[SetupName] = tuple(SetupName),
) -> Evaluation:
    """Fitted and proposed setup of a job, looked at through ``lens``; ``tracks`` by checksum. Never raises for what a
    person entered: contradictions come back as ``problem``."""
    job = through(job, lens)
    try:
        situation = situation_of(job)
        if not isinstance(situation, Situation):
            return Evaluation(None, tuple(situation), {})
        situation = replace(with_other_rides(job, situation, tracks), pull=lens.pull or Pull.WARM)
        setups = {name: evaluate_setup(job, name, situation, catalogue, tracks, lens.age) for name in names}
    except ClavisError as error:
        return Evaluation(None, (), {}, problem=str(error))
    lacks = dict.fromkeys(lack for s in setups.values() if s.name is SetupName.FITTED for lack in s.lacks)
    return Evaluation(situation, tuple(lacks), setups)


def with_proposed(
    job: Job, fitted: Evaluation, catalogue: Catalogue, tracks: Mapping[str, Track], lens: Lens = CLEAR
) -> Evaluation:
    """The evaluation of the same job with the fitted setup alone, and the proposed one beside it."""
    if fitted.situation is None:
        return fitted
    try:
        args = (through(job, lens), SetupName.PROPOSED, fitted.situation, catalogue, tracks, lens.age)
        proposed = evaluate_setup(*args)
    except ClavisError as error:
        return Evaluation(None, (), {}, problem=str(error))
    return Evaluation(fitted.situation, fitted.lacks, {**fitted.setups, SetupName.PROPOSED: proposed})
