"""What is asked of each wheel and how it is judged: target stops, limits, every margin."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from clavis.core.evaluation.setups import WheelSetup, friction_state, keeps_fluid
from clavis.core.evaluation.situation import ENTERED_TEXT, Situation, Sourced
from clavis.core.job.document import Job
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Caliper, Construction, FluidPart
from clavis.core.parts.mounts import End
from clavis.core.physics import bike as bikes
from clavis.core.physics.bike import ground_limits
from clavis.core.physics.descent import (
    BrakeLoad,
    HeatSteps,
)
from clavis.core.physics.forces import (
    TRAVEL_TIGHT_RATIO,
    Linkage,
    StopTarget,
    WheelForces,
    holding_force_n,
    linkage,
    stop_target,
    wheel_forces,
)
from clavis.core.physics.friction import COMPOUNDS, dry_mu_at
from clavis.core.physics.heat import (
    SANDWICH_LIMIT_C,
    BoilingPoint,
    boiling_point,
    ring_figures,
    ring_share,
)
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Margin, Thresholds


@dataclass(frozen=True)
class Demand:
    """What the ground and the ride ask of each wheel, whatever brake is on it."""

    flat: bikes.GroundLimits
    steep: bikes.GroundLimits
    targets: tuple[StopTarget, ...]
    holding_n: Mapping[End, float]
    top_speed: Sourced
    unstoppable: str = ""


def demand_of(job: Job, situation: Situation, load: BrakeLoad) -> Demand:
    """Target stops on the flat and on the steepest slope of all rides, holding still there, top speed, its source."""
    bike, p = situation.bike, situation.parameters
    if job.bike.top_speed_kmh is not None:
        top = Sourced(job.bike.top_speed_kmh / KMH_PER_MS, ENTERED_TEXT)
    else:
        top_ms = max(float(load.speed_ms.max()), situation.elsewhere.top_ms)
        top = Sourced(top_ms, "greatest speed of the job's rides")
    steepest = max(load.steepest, situation.elsewhere.steepest)
    flat, steep = (ground_limits(bike, situation.grip, g) for g in (0.0, steepest))
    named = [(flat, "target stop on the flat"), (steep, "target stop on the steepest slope")]
    targets = [stop_target(bike, limits, top.value, p, name, job.target_decel_g) for limits, name in named]
    unstoppable = (
        "" if all(targets) else "this ground does not hold this bike on the steepest slope, whatever the brake"
    )
    return Demand(flat, steep, tuple(t for t in targets if t), holding_force_n(bike, steepest), top, unstoppable)


def boiling_of(
    wheel: Wheel, caliper: Caliper, keeps_fluid: bool, elevation_m: float, filled_with: FluidPart | None = None
) -> BoilingPoint:
    """Boiling point of the wheel's fluid; a line that is opened gets fresh fluid of the caliper's family: that of the
    bottle, or where none is known the lesser grade, or the figure entered for the line."""
    grade = wheel.fluid_grade.value if wheel.fluid_grade else None
    if keeps_fluid:
        return boiling_point(
            caliper.fluid, grade, wheel.fluid_age_y, wheel.water_seen, wheel.fluid_boils_c, elevation_m
        )
    if filled_with is not None and filled_with.dry_c is not None:
        return BoilingPoint(filled_with.dry_c, f"{filled_with.name}, fresh, its maker's figure")
    fresh = "dot4" if grade in (None, "mineral") else grade
    return boiling_point(caliper.fluid, fresh, 0.0, False, wheel.fluid_boils_c, elevation_m)


def drag_force_n(steps: HeatSteps) -> float:
    """Greatest force that the ride asks of this wheel in steady braking: the 95th percentile over braked steps."""
    braked = steps.force_n[steps.force_n > 1.0]
    return float(np.percentile(braked, 95)) if len(braked) else 0.0


def margins_of(
    setup: WheelSetup,
    wheel: Wheel,
    forces: WheelForces,
    ring_c: float,
    fade_ratio: float,
    fluid_c: float | None,
    boiling: BoilingPoint,
    ambient_c: float,
    t: Thresholds,
    unstoppable: str,
) -> tuple[Margin, ...]:
    """Every limit this wheel is held against, in the order they are shown."""
    row = COMPOUNDS[setup.pad.compound]
    margins = [
        Margin("reserve", "force in reserve", forces.reserve, "ratio", t.reserve_ratio, forces.reserve),
        Margin("fade", "force along the way", fade_ratio, "ratio", t.fade_ratio, fade_ratio),
        Margin(
            "ring",
            "ring below fade",
            row.fade_c - ring_c,
            "k",
            row.fade_c * (1 - t.ring_of_fade_ratio),
            (row.fade_c - ring_c) / (row.fade_c - ambient_c),
        ),
    ]
    if setup.rotor.construction in (Construction.SANDWICH, Construction.VANED):
        left = SANDWICH_LIMIT_C - ring_c
        margins.append(
            Margin("sandwich", "sandwich ring below its limit", left, "k", 25.0, left / (SANDWICH_LIMIT_C - ambient_c))
        )
    if fluid_c is not None:
        left_k = None if boiling.boiling_c is None else boiling.boiling_c - fluid_c
        relative = None if left_k is None or boiling.boiling_c is None else left_k / (boiling.boiling_c - ambient_c)
        margins.append(Margin("boil", "fluid below boiling", left_k, "k", t.boil_margin_k, relative, boiling.note))
    travel = forces.travel.limit_mm - forces.travel.total_mm
    margins.append(
        Margin(
            "travel",
            "lever short of the bar",
            travel,
            "mm",
            forces.travel.limit_mm * (1 - TRAVEL_TIGHT_RATIO),
            travel / forces.travel.limit_mm,
        )
    )
    room = None if wheel.largest_rotor_mm is None else wheel.largest_rotor_mm - setup.rotor.diameter_mm
    margins.append(
        Margin(
            "rotor_limit",
            "within the rotor limit",
            room,
            "mm",
            0.0,
            None if room is None else (1.0 if room >= 0 else room / setup.rotor.diameter_mm),
            "largest rotor that fork or frame allows is not known: ask its maker",
        )
    )
    if setup.worn_out or setup.unmeasured:
        margins.append(
            Margin(
                "condition",
                setup.worn_out or "condition",
                -1.0 if setup.worn_out else None,
                "count",
                0.0,
                -1.0 if setup.worn_out else None,
                "; ".join(setup.unmeasured),
            )
        )
    if unstoppable:
        margins.append(Margin("ground", unstoppable, -1.0, "count", 0.0, -1.0))
    return tuple(margins)


@dataclass(frozen=True)
class Judged:
    """What a setup's peaks mean: forces at that heat, and every margin."""

    link: Linkage
    forces: WheelForces
    boiling: BoilingPoint
    margins: tuple[Margin, ...]
    ring_share: float
    hot_c: float


@dataclass(frozen=True)
class Fixed:
    """What of a setup no doubt changes: its linkage, the ring's capacity J/K, the ring's share of the heat."""

    link: Linkage
    capacity_j_k: float
    ring_share: float


def fixed_of(setup: WheelSetup, situation: Situation) -> Fixed:
    p = situation.parameters
    ring = ring_figures(setup.rotor, setup.thickness_mm, p)
    link = linkage(setup.rotor, setup.caliper, setup.lever, setup.pad, situation.bike.wheel_radius_m, p)
    return Fixed(link, ring.capacity_j_k, ring_share(ring, setup.pad, setup.caliper))


def judge(
    job: Job,
    situation: Situation,
    demand: Demand,
    load: BrakeLoad,
    end: End,
    setup: WheelSetup,
    fixed: Fixed,
    drag_n: float,
    ring_c: float,
    fluid_c: float | None,
    least_mu_per_n: float,
    friction_ratio: float = 1.0,
) -> Judged:
    """Forces and margins of one wheel from its ring and fluid peaks (°C) and its least μ over force (1/N), which
    holds the same ``friction_ratio`` that multiplies the table's friction here."""
    p, bike, wheel = situation.parameters, situation.bike, job.wheel(end)
    row = COMPOUNDS[setup.pad.compound]
    link = fixed.link
    energy = max((t.wheel_energy_j[end] for t in demand.targets), default=0.0)
    hot = ring_c + fixed.ring_share * energy / fixed.capacity_j_k
    state = friction_state(setup)
    lead = max((t.wheel_force_n[End.FRONT] for t in demand.targets[:1]), default=0.0)
    forces = wheel_forces(
        link,
        end,
        bike,
        demand.flat,
        list(demand.targets),
        demand.holding_n[end],
        drag_n,
        situation.hand,
        dry_mu_at(row, hot),
        state * friction_ratio,
        row.wet_ratio if situation.wet else 1.0,
        p,
        lead,
        setup.air_mm3,
        setup.to_bar_mm,
        situation.pull,
    )
    fade = situation.hand.greatest_n * link.gain_per_mu * state * least_mu_per_n - 1
    boiling = boiling_of(
        wheel, setup.caliper, keeps_fluid(job, end, setup), float(load.elevation_m[-1]), setup.filled_with
    )
    margins = margins_of(
        setup,
        wheel,
        forces,
        ring_c,
        fade,
        fluid_c,
        boiling,
        situation.weather.ambient_c,
        situation.thresholds,
        demand.unstoppable,
    )
    return Judged(link, forces, boiling, margins, fixed.ring_share, hot)
