"""A job's answers as plain data with units in the names: what ``clavis evaluate`` prints (docs/formats.md)."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict

from clavis import __version__
from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import Evaluation, SetupName, SetupResult, WheelResult, evaluate
from clavis.core.evaluation.rides import AlwaysCounts, RideFigures, always_of, rides_of
from clavis.core.evaluation.sampling import Certainty, certainty, draws_of, samples_of
from clavis.core.evaluation.sheet import boil_distance_m, limit_words
from clavis.core.evaluation.situation import Situation
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.evaluation.worst_speed import worst_on_ride
from clavis.core.fit.fit import Fit
from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM
from clavis.core.parameters import ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import GroundLimits
from clavis.core.physics.friction import COMPOUNDS
from clavis.core.physics.heat import NODE_NAMES, Node
from clavis.core.verdicts import Verdict
from clavis.core.wording.job_summary import setup_sentence
from clavis.core.workshop.work_order import fits_of
from clavis.formats.job_file import JobFile


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class MarginAnswer(_Plain):
    key: str
    label: str
    value: float | None
    unit: str
    needed: float
    verdict: Verdict
    why_unknown: str


class BoltAnswer(_Plain):
    place: str
    thread: str
    stack_mm: float | None
    minimum_mm: float | None
    maximum_mm: float | None
    length_mm: float | None
    head: str | None
    engagement_mm: float | None
    bottom_mm: float | None
    old_bolt: Verdict | None
    lacks: str


class BandAnswer(_Plain):
    """10, 50 and 90 % of the samples."""

    p10: float
    p50: float
    p90: float


class SampledAnswer(_Plain):
    """How sure: bands by figure (unit in the name), the chance of each verdict per margin and of the whole."""

    samples: int
    bands: dict[str, BandAnswer]
    margin_chances: dict[str, dict[Verdict, float]]
    chances: dict[Verdict, float]


class WorstAnswer(_Plain):
    """Worst steady speeds on the ride's mean slope over its whole drop, capped by the top speed."""

    gradient_ratio: float
    drop_m: float
    power_kmh: float | None
    ring_kmh: float
    ring_peak_c: float
    fluid_kmh: float | None
    fluid_peak_c: float | None


class RideHeatAnswer(_Plain):
    """What one of the job's rides does to a wheel."""

    friction_kj: float
    ring_peak_c: float
    fluid_peak_c: float | None


class YearAnswer(_Plain):
    """A year of all rides, each as often as it is ridden."""

    friction_mj: float
    pad_wear_mm: float
    ring_wear_mm: float
    pad_life_years: float | None
    ring_life_years: float | None


class ClearanceAnswer(_Plain):
    key: str
    label: str
    value_mm: float | None
    verdict: Verdict
    words: str


class FitAnswer(_Plain):
    """``position_mm`` is the rotor size for which the caliper stands, ``arc_error_mm`` how far the ends of its pads are
    off the track's circle, ``proud_mm`` how far the mount's faces stand outside the standard's place."""

    mount: str | None
    possible: bool
    reason: str
    adapter_id: str | None
    plate_id: str | None
    look_for: str
    position_mm: float | None
    pad_edge_mm: float | None
    arc_error_mm: float | None
    proud_mm: float | None
    clearances: list[ClearanceAnswer]
    bolts: list[BoltAnswer]
    verdict: Verdict


class WheelAnswer(_Plain):
    """One wheel. Temperatures °C, forces N at the road unless named."""

    parts: dict[str, str]
    verdict: Verdict
    limit: str
    margins: list[MarginAnswer]
    gain_road_n_per_finger_n: float
    finger_target_n: float
    finger_lock_n: float
    finger_lock_while_front_brakes_n: float | None
    finger_drag_n: float
    needed_n: float
    needed_for: str
    available_hot_n: float
    usable_n: float
    reserve_ratio: float
    feel: str
    clamp_target_n: float
    pressure_target_bar: float
    torque_target_nm: float
    lever_travel_mm: float
    mu_cold: float
    mu_work: float
    mu_hot: float
    peak_c: dict[str, float]
    end_c: dict[str, float]
    fluid_peak_with_soak_c: float | None
    boiling_point_c: float | None
    boils_at_m: float | None
    cool_to_50_c_s: float | None
    ring_above_fade_s: float | None
    fluid_above_boiling_s: float | None
    friction_energy_kj: float
    regeneration_kj: float
    ledger_kj: dict[str, float]
    ledger_open_ratio: float
    lever_travel_air_mm: float
    pad_wear_mm_per_ride: float
    ring_wear_mm_per_ride: float
    pad_life_rides: float | None
    ring_life_rides: float | None
    ride_km: float
    worst_speed: WorstAnswer | None
    rides: dict[str, RideHeatAnswer]
    year: YearAnswer
    emergency_ring_rise_k: float | None
    fit: FitAnswer | None
    sampled: SampledAnswer | None


class GroundAnswer(_Plain):
    """What the ground takes on one slope."""

    gradient_ratio: float
    pitch_over_n: float
    both_n: float
    front_alone_n: float
    rear_alone_n: float
    decel_ms2: float


class RideAnswer(_Plain):
    length_m: float
    drop_m: float
    duration_s: float
    steepest_ratio: float
    budget_kj: dict[str, float]


class RideLoadAnswer(_Plain):
    """One of the job's rides as a braking load; ``problem`` says why there are no figures."""

    kind: str
    decisive: bool
    times_a_year: float
    length_m: float
    drop_m: float
    steepest_ratio: float
    duration_s: float
    braked_kj: float
    yearly_mj: float
    problem: str


class AlwaysAnswer(_Plain):
    """An emergency stop and parking on the steepest slope of all rides."""

    gradient_ratio: float
    top_speed_kmh: float
    stop_kj: float | None
    stop_n: float | None
    stop_m: float | None
    parking_n: float
    parking_held_by: list[End]


class SetupAnswer(_Plain):
    verdict: Verdict
    sentence: str
    lacks: list[str]
    price: float
    mass_g: float
    ride: RideAnswer | None
    rides: dict[str, RideLoadAnswer]
    always: AlwaysAnswer | None
    ground_flat: GroundAnswer | None
    ground_steepest: GroundAnswer | None
    stop_flat_m: float | None
    stop_flat_ms2: float | None
    stop_steepest_m: float | None
    stop_steepest_ms2: float | None
    wheels: dict[End, WheelAnswer]


class Answers(_Plain):
    """What ``clavis evaluate`` prints, version 1."""

    format: str
    version: int
    clavis: str
    problem: str
    lacks: list[str]
    total_mass_kg: float | None
    rear_to_cg_m: float | None
    cg_height_m: float | None
    grip_ratio: float | None
    parameters: ModelParameters
    seed: int
    setups: dict[str, SetupAnswer]


def _fit(fit: Fit | None) -> FitAnswer | None:
    if fit is None:
        return None
    stand = fit.held.stand
    return FitAnswer(
        mount=fit.telling.kind.value if fit.telling.kind else None,
        possible=fit.chain.possible,
        reason=fit.chain.reason,
        adapter_id=fit.chain.adapter.id if fit.chain.adapter else None,
        plate_id=fit.chain.plate.id if fit.chain.plate else None,
        look_for=fit.chain.look_for,
        position_mm=stand.position_mm if stand else None,
        pad_edge_mm=fit.pad_edge_mm,
        arc_error_mm=stand.arc_error_mm(PAD_HALF_LENGTH_MM[fit.held.caliper.four_pistons]) if stand else None,
        proud_mm=fit.held.seat.proud_mm if fit.held.seat else None,
        clearances=[
            ClearanceAnswer(key=c.key, label=c.label, value_mm=c.value_mm, verdict=c.verdict, words=c.words)
            for c in fit.clearances
        ],
        bolts=[
            BoltAnswer(
                place=b.stack.place,
                thread=b.stack.thread,
                stack_mm=None if b.stack.unmeasured else b.stack.stack_mm,
                minimum_mm=b.minimum_mm,
                maximum_mm=b.maximum_mm,
                length_mm=b.bolt.length_mm if b.bolt else None,
                head=b.bolt.head if b.bolt else None,
                engagement_mm=b.engagement_mm,
                bottom_mm=b.bottom_mm,
                old_bolt=fitted.old.verdict if fitted.old else None,
                lacks=b.lacks,
            )
            for fitted in fit.fitted_bolts
            for b in [fitted.choice]
        ],
        verdict=fit.verdict,
    )


def _ledger(w: WheelResult) -> dict[str, float]:
    ledger = w.heat.ledger
    out = {"friction_in": ledger.friction_in_kj}
    for name, nodes in (
        ("stored", ledger.stored_kj),
        ("convected", ledger.convected_kj),
        ("radiated", ledger.radiated_kj),
    ):
        out |= {f"{name}_{NODE_NAMES[node]}": value for node, value in nodes.items()}
    return out


def _by_name(values: dict[Node, float]) -> dict[str, float]:
    return {NODE_NAMES[node]: value for node, value in values.items()}


def _sampled(found: Certainty) -> SampledAnswer:
    return SampledAnswer(
        samples=found.samples,
        bands={name: BandAnswer(p10=b.low, p50=b.middle, p90=b.high) for name, b in found.bands.items()},
        margin_chances={key: dict(chances) for key, chances in found.margin_chances.items()},
        chances=dict(found.chances),
    )


def _ride_load(r: RideFigures) -> RideLoadAnswer:
    return RideLoadAnswer(
        kind=r.kind.value,
        decisive=r.decisive,
        times_a_year=r.ride.times_a_year,
        length_m=r.length_m,
        drop_m=r.drop_m,
        steepest_ratio=r.steepest,
        duration_s=r.duration_s,
        braked_kj=r.braked_kj,
        yearly_mj=r.yearly_mj,
        problem=r.problem,
    )


def _ride_heat(r: RideFigures, end: End) -> RideHeatAnswer | None:
    if r.ring_c is None or r.friction_kj is None or r.fluid_c is None or end not in r.ring_c:
        return None
    return RideHeatAnswer(friction_kj=r.friction_kj[end], ring_peak_c=r.ring_c[end], fluid_peak_c=r.fluid_c.get(end))


def _always(a: AlwaysCounts | None) -> AlwaysAnswer | None:
    if a is None:
        return None
    return AlwaysAnswer(
        gradient_ratio=a.gradient,
        top_speed_kmh=a.top_kmh,
        stop_kj=a.stop_kj,
        stop_n=a.stop_n,
        stop_m=a.stop_m,
        parking_n=a.park_n,
        parking_held_by=list(a.park_by),
    )


def _year(w: WheelResult, rides: Sequence[RideFigures], situation: Situation) -> YearAnswer:
    year = year_of_wear(w, rides, situation.parameters, situation.wet)
    return YearAnswer(
        friction_mj=year.energy_mj,
        pad_wear_mm=year.pad_mm,
        ring_wear_mm=year.ring_mm,
        pad_life_years=year.pad_years,
        ring_life_years=year.ring_years,
    )


@dataclass(frozen=True)
class _Rides:
    """The job's rides for one setup, and what always counts."""

    figures: tuple[RideFigures, ...]
    always: AlwaysCounts | None


def _wheel(
    w: WheelResult,
    setup: SetupResult,
    rides: _Rides,
    fit: Fit | None,
    situation: Situation,
    sampled: SampledAnswer | None,
) -> WheelAnswer:
    f, life = w.forces, wear_life(w, situation.parameters, situation.wet)
    return WheelAnswer(
        parts={kind: getattr(w.setup, kind).id for kind in ("rotor", "caliper", "lever", "pad")},
        verdict=w.verdict,
        limit=limit_words(w),
        margins=[
            MarginAnswer(
                key=m.key,
                label=m.label,
                value=m.value if m.value is None or math.isfinite(m.value) else None,
                unit=m.unit,
                needed=m.needed,
                verdict=m.verdict,
                why_unknown=m.why_unknown,
            )
            for m in w.margins
        ],
        gain_road_n_per_finger_n=f.gain,
        finger_target_n=f.finger_target_n,
        finger_lock_n=f.finger_lock_n,
        finger_lock_while_front_brakes_n=f.finger_lock_braked_n,
        finger_drag_n=f.finger_drag_n,
        needed_n=f.needed_n,
        needed_for=f.target_name,
        available_hot_n=f.available_hot_n,
        usable_n=f.usable_n,
        reserve_ratio=f.reserve,
        feel=f.feel.value,
        clamp_target_n=f.clamp_target_n,
        pressure_target_bar=f.pressure_target_bar,
        torque_target_nm=f.torque_target_nm,
        lever_travel_mm=f.travel.total_mm,
        mu_cold=f.mu_cold,
        mu_work=f.mu_work,
        mu_hot=f.mu_hot,
        peak_c=_by_name(w.heat.peak_c),
        end_c=_by_name(w.heat.end_c),
        fluid_peak_with_soak_c=w.heat.fluid_peak_c,
        boiling_point_c=w.boiling.boiling_c,
        boils_at_m=boil_distance_m(w),
        cool_to_50_c_s=w.heat.cool_s,
        ring_above_fade_s=w.time_above_s(Node.RING, COMPOUNDS[w.setup.pad.compound].fade_c),
        fluid_above_boiling_s=w.time_above_s(Node.FLUID, w.boiling.boiling_c),
        friction_energy_kj=w.steps.energy_kj,
        regeneration_kj=w.steps.regen_j / 1000,
        ledger_kj=_ledger(w),
        ledger_open_ratio=w.heat.ledger.closure,
        pad_wear_mm_per_ride=life.pad_mm_per_ride,
        ring_wear_mm_per_ride=life.ring_mm_per_ride,
        pad_life_rides=life.pad_rides,
        ring_life_rides=life.ring_rides,
        ride_km=life.ride_km,
        lever_travel_air_mm=f.travel.air_mm,
        worst_speed=_worst(w, setup, situation),
        rides={r.ride.id: heat for r in rides.figures if (heat := _ride_heat(r, w.end)) is not None},
        year=_year(w, rides.figures, situation),
        emergency_ring_rise_k=rides.always.ring_rise_k.get(w.end) if rides.always else None,
        fit=_fit(fit),
        sampled=sampled,
    )


def _worst(w: WheelResult, setup: SetupResult, situation: Situation) -> WorstAnswer | None:
    """None where the ride is no descent."""
    if setup.load is None or setup.demand is None:
        return None
    try:
        found = worst_on_ride(w, situation, setup.load, setup.demand)
    except QuantityError:
        return None
    return WorstAnswer(
        gradient_ratio=found.gradient,
        drop_m=found.drop_m,
        power_kmh=found.power_kmh,
        ring_kmh=found.ring_kmh,
        ring_peak_c=found.ring_worst_c,
        fluid_kmh=found.fluid_kmh,
        fluid_peak_c=found.fluid_worst_c,
    )


def _ground(limits: GroundLimits) -> GroundAnswer:
    return GroundAnswer(
        gradient_ratio=limits.gradient,
        pitch_over_n=limits.pitch_over_n,
        both_n=limits.both_n,
        front_alone_n=limits.front_alone_n,
        rear_alone_n=limits.rear_alone_n,
        decel_ms2=limits.decel_ms2,
    )


def _setup(
    setup: SetupResult,
    rides: _Rides,
    fits: dict[End, Fit],
    situation: Situation,
    sampled: dict[End, SampledAnswer],
) -> SetupAnswer:
    load = setup.load
    ride = None
    if load is not None:
        ride = RideAnswer(
            length_m=float(load.distance_m[-1]),
            drop_m=load.drop_m,
            duration_s=float(load.time_s[-1]),
            steepest_ratio=load.steepest,
            budget_kj={name: value / 1000 for name, value in load.budget_j.items()},
        )
    flat, steep = setup.stop_flat, setup.stop_steep
    demand = setup.demand
    return SetupAnswer(
        verdict=setup.verdict,
        sentence=setup_sentence(setup),
        lacks=[lack.words for lack in setup.lacks],
        price=setup.price,
        mass_g=setup.mass_g,
        ride=ride,
        rides={r.ride.id: _ride_load(r) for r in rides.figures},
        always=_always(rides.always),
        ground_flat=_ground(demand.flat) if demand else None,
        ground_steepest=_ground(demand.steep) if demand else None,
        stop_flat_m=flat.distance_m if flat else None,
        stop_flat_ms2=flat.decel_ms2 if flat else None,
        stop_steepest_m=steep.distance_m if steep else None,
        stop_steepest_ms2=steep.decel_ms2 if steep else None,
        wheels={
            end: _wheel(w, setup, rides, fits.get(end), situation, sampled.get(end)) for end, w in setup.wheels.items()
        },
    )


def evaluation_of(file: JobFile) -> Evaluation:
    return evaluate(file.job, file.catalogue(), file.core_tracks())


def answers_of(file: JobFile, samples: int = 0) -> dict[str, Any]:
    """Everything Clavis says of a job file, as JSON-ready data; also the parameters it used. With ``samples`` the
    bands and chances of every wheel too."""
    catalogue, tracks = file.catalogue(), file.core_tracks()
    evaluation = evaluate(file.job, catalogue, tracks)
    situation = evaluation.situation
    sampled: dict[SetupName, dict[End, SampledAnswer]] = {}
    if samples and situation is not None:
        draws = draws_of(situation.parameters, file.job.seed, samples)
        for name, setup in evaluation.setups.items():
            if setup.load is None:
                continue
            drawn = samples_of(file.job, situation, setup.load, draws)
            sampled[name] = {
                end: _sampled(certainty(file.job, situation, setup.load, w, draws, drawn))
                for end, w in setup.wheels.items()
            }
    bike = situation.bike if situation else None
    answers = Answers(
        format="clavis-answers",
        version=1,
        clavis=__version__,
        problem=evaluation.problem,
        lacks=[lack.words for lack in evaluation.lacks],
        total_mass_kg=bike.rolling_mass_kg if bike else None,
        rear_to_cg_m=bike.rear_to_cg_m if bike else None,
        cg_height_m=bike.cg_height_m if bike else None,
        grip_ratio=situation.grip if situation else None,
        parameters=file.job.parameters,
        seed=file.job.seed,
        setups={
            name.value: _setup(
                setup,
                _Rides(rides_of(file.job, evaluation, tracks, setup), always_of(evaluation, setup)),
                fits_of(file.job, setup, catalogue),
                situation,
                sampled.get(name, {}),
            )
            for name, setup in evaluation.setups.items()
        }
        if situation is not None
        else {},
    )
    rounded: dict[str, Any] = _rounded(answers.model_dump(mode="json"))
    return rounded


DIGITS, LEAST = 10, 12


def _rounded(value: Any) -> Any:
    """Ten digits, nothing below 1e-12: the last bits of a sum depend on where its array lies in memory, and the same
    job shall give the same answers."""
    if isinstance(value, dict):
        return {key: _rounded(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_rounded(inner) for inner in value]
    return float(f"{round(value, LEAST):.{DIGITS}g}") if isinstance(value, float) else value


TRACE_HEAD = (
    "setup",
    "wheel",
    "time_s",
    "distance_m",
    *(f"{NODE_NAMES[node]}_c" for node in Node),
    "power_w",
    "speed_ms",
)


def trace_rows(file: JobFile) -> Iterator[tuple[str | float, ...]]:
    """The course of every wheel for ``--trace``: one row per integration step, in the columns of TRACE_HEAD. Power
    and speed are those of the step that ends there; the fluid of a cable brake stays empty."""
    for name, setup in evaluation_of(file).setups.items():
        for end, w in setup.wheels.items():
            power = np.concatenate([[0.0], w.steps.power_w])
            speed = np.concatenate([w.steps.speed_ms[:1], w.steps.speed_ms])
            for k, time in enumerate(w.heat.time_s):
                course = [
                    ""
                    if node is Node.FLUID and w.heat.fluid_peak_c is None
                    else round(float(w.heat.course_c[k, node]), 3)
                    for node in Node
                ]
                yield (
                    name.value,
                    end.value,
                    round(float(time), 3),
                    round(float(w.heat.distance_m[k]), 2),
                    *course,
                    round(float(power[k]), 2),
                    round(float(speed[k]), 4),
                )
