"""A job's answers as plain data: what ``clavis evaluate`` prints (docs/formats.md)."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from clavis import __version__
from clavis.core.errors import QuantityError
from clavis.core.evaluation.evaluate import (
    Evaluation,
    SetupName,
    SetupResult,
    WheelResult,
    boil_distance_m,
    evaluate,
)
from clavis.core.evaluation.gate import Gate, GateLevel, gate_of
from clavis.core.evaluation.open_points import OpenPoint
from clavis.core.evaluation.parts_list import PartLine
from clavis.core.evaluation.regeneration import spared_words
from clavis.core.evaluation.rides import AlwaysCounts, RideFigures, always_of, rides_of
from clavis.core.evaluation.sampling import Band, Certainty, Drawn, certainty, draws_of
from clavis.core.evaluation.sheet import limit_words
from clavis.core.evaluation.situation import Situation, parameters_of
from clavis.core.evaluation.wear import wear_life, year_of_wear
from clavis.core.evaluation.worst_speed import worst_on_ride
from clavis.core.fit.fit import Fit
from clavis.core.fit.mount_geometry import PAD_HALF_LENGTH_MM
from clavis.core.job.document import Bike, Job, Ride
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import GroundLimits
from clavis.core.physics.heat import NODE_NAMES, Node
from clavis.core.wording.job_summary import setup_sentence
from clavis.core.wording.sentences import render
from clavis.core.workshop.sign_off import SignedState, signed_state
from clavis.formats.answer_models import (
    AlwaysAnswer,
    Answers,
    BandAnswer,
    BoltAnswer,
    CheckAnswer,
    FitAnswer,
    GateAnswer,
    GatePointAnswer,
    GroundAnswer,
    MarginAnswer,
    OpenPointAnswer,
    PartLineAnswer,
    RideAnswer,
    RideHeatAnswer,
    RideLoadAnswer,
    SampledAnswer,
    SetupAnswer,
    SignOffAnswer,
    WheelAnswer,
    WorstAnswer,
    YearAnswer,
)
from clavis.formats.job_file import JobFile

VERSION = 2


def _fit(fit: Fit) -> FitAnswer:
    stand, mount = fit.stand, fit.wheel.mount.kind
    return FitAnswer(
        mount=mount.value if mount else None,
        possible=fit.chain.possible,
        reason=render(fit.chain.reason),
        adapter_id=fit.chain.adapter.id if fit.chain.adapter else None,
        plate_id=fit.chain.plate.id if fit.chain.plate else None,
        look_for=render(fit.chain.look_for),
        position_mm=stand.position_mm if stand else None,
        pad_edge_mm=fit.pad_edge_mm,
        arc_error_mm=stand.arc_error_mm(PAD_HALF_LENGTH_MM[fit.caliper.four_pistons]) if stand else None,
        proud_mm=fit.seat.proud_mm if fit.seat else None,
        checks=[
            CheckAnswer(key=c.key, label=c.label, value_mm=c.value_mm, verdict=c.verdict, words=render(c.words))
            for c in fit.checks
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
                lacks=render(b.lacks),
            )
            for fitted in fit.fitted_bolts
            for b in [fitted.choice]
        ],
        verdict=fit.verdict,
    )


def _point(point: OpenPoint) -> OpenPointAnswer:
    return OpenPointAnswer(
        code=point.code,
        end=point.end,
        link=point.link,
        severity=point.severity,
        matter=point.matter,
        words=render(point.words),
        settles=point.settles,
    )


def _line(line: PartLine) -> PartLineAnswer:
    return PartLineAnswer(
        end=line.end,
        what=line.what,
        part_id=line.part_id,
        name=render(line.name),
        quantity=line.quantity,
        price=line.price,
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


def _bands(bands: Mapping[str, Band]) -> dict[str, BandAnswer]:
    return {name: BandAnswer(p10=b.low, p50=b.middle, p90=b.high) for name, b in bands.items()}


def _sampled(found: Certainty) -> SampledAnswer:
    return SampledAnswer(
        samples=found.samples,
        bands=_bands(found.bands),
        own_bands=_bands(found.own_bands),
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
        problem=render(r.problem),
    )


def _ride_heat(r: RideFigures, end: End) -> RideHeatAnswer | None:
    if r.rotor_c is None or r.friction_kj is None or r.fluid_c is None or end not in r.rotor_c:
        return None
    return RideHeatAnswer(friction_kj=r.friction_kj[end], rotor_peak_c=r.rotor_c[end], fluid_peak_c=r.fluid_c.get(end))


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
    year = year_of_wear(w, rides, situation.parameters)
    return YearAnswer(
        friction_mj=year.energy_mj,
        pad_wear_mm=year.pad_mm,
        rotor_wear_mm=year.rotor_mm,
        pad_life_years=year.pad_years,
        rotor_life_years=year.rotor_years,
    )


@dataclass(frozen=True)
class _Rides:
    """The job's rides for one setup, and what always counts."""

    figures: tuple[RideFigures, ...]
    always: AlwaysCounts | None

    @property
    def decisive(self) -> Ride | None:
        return next((r.ride for r in self.figures if r.decisive), None)


def _wheel(
    w: WheelResult,
    setup: SetupResult,
    rides: _Rides,
    situation: Situation,
    sampled: SampledAnswer | None,
) -> WheelAnswer:
    f, life = w.forces, wear_life(w, rides.decisive, situation.parameters)
    return WheelAnswer(
        parts={kind: getattr(w.setup, kind).id for kind in ("rotor", "caliper", "lever", "pad")},
        verdict=w.verdict,
        limit=render(limit_words(setup, w.end)),
        margins=[
            MarginAnswer(
                key=m.key,
                label=render(m.label),
                value=m.value if m.value is None or math.isfinite(m.value) else None,
                unit=m.unit,
                needed=m.needed,
                verdict=m.verdict,
                why_unknown=render(m.why_unknown),
            )
            for m in w.margins
        ],
        gain_road_n_per_finger_n=f.gain,
        finger_target_n=f.finger_target_n,
        finger_lock_n=f.finger_lock_n,
        finger_lock_while_front_brakes_n=f.finger_lock_braked_n,
        finger_drag_n=f.finger_drag_n,
        needed_n=f.needed_n,
        needed_for=render(f.target_name),
        available_hot_n=f.available_hot_n,
        usable_n=f.usable_n,
        reserve_ratio=f.reserve,
        must_ratio=f.must,
        must_alone_ratio=f.must_alone,
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
        boils_at_m=boil_distance_m(w.heat, w.boiling),
        cool_to_50_c_s=w.heat.cool_s,
        rotor_above_fade_s=w.time_above_s(Node.ROTOR, COMPOUNDS[w.setup.pad.compound].fade_c),
        fluid_above_boiling_s=w.time_above_s(Node.FLUID, w.boiling.boiling_c),
        friction_energy_kj=w.steps.energy_kj,
        regeneration_kj=w.steps.regen_j / 1000,
        ledger_kj=_ledger(w),
        ledger_open_ratio=w.heat.ledger.closure,
        pad_wear_mm_per_ride=life.pad_mm_per_ride,
        rotor_wear_mm_per_ride=life.rotor_mm_per_ride,
        pad_life_rides=life.pad_rides,
        rotor_life_rides=life.rotor_rides,
        ride_km=life.ride_km,
        lever_travel_air_mm=f.travel.air_mm,
        slide_force_n=f.slide_force_n,
        worst_speed=_worst(w, setup, situation),
        rides={r.ride.id: heat for r in rides.figures if (heat := _ride_heat(r, w.end)) is not None},
        year=_year(w, rides.figures, situation),
        emergency_rotor_rise_k=rides.always.rotor_rise_k.get(w.end) if rides.always else None,
        sampled=sampled,
    )


def _worst(w: WheelResult, setup: SetupResult, situation: Situation) -> WorstAnswer | None:
    """None where the ride is no descent."""
    if setup.load is None or setup.demand is None:
        return None
    try:
        stretch, found = worst_on_ride(w, situation, setup.load, setup.demand)
    except QuantityError:
        return None
    return WorstAnswer(
        from_m=stretch.from_m,
        to_m=stretch.to_m,
        gradient_ratio=found.gradient,
        drop_m=found.drop_m,
        power_kmh=found.power_kmh,
        rotor_kmh=found.rotor_kmh,
        rotor_peak_c=found.rotor_worst_c,
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
    situation: Situation,
    sampled: dict[End, SampledAnswer],
    bike: Bike,
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
        sentence=render(setup_sentence(setup)),
        regeneration=render(spared_words(setup, situation, bike)),
        open_points=[_point(p) for p in setup.points],
        parts=[_line(line) for line in setup.lines],
        price=setup.price,
        mass_g=setup.mass_g,
        fits={end: _fit(case.fit) for end, case in setup.cases.items() if case.fit is not None},
        ride=ride,
        rides={r.ride.id: _ride_load(r) for r in rides.figures},
        always=_always(rides.always),
        ground_flat=_ground(demand.flat) if demand else None,
        ground_steepest=_ground(demand.steep) if demand else None,
        stop_flat_m=flat.distance_m if flat else None,
        stop_flat_ms2=flat.decel_ms2 if flat else None,
        stop_flat_locked_m=flat.slid_m if flat else None,
        stop_steepest_m=steep.distance_m if steep else None,
        stop_steepest_ms2=steep.decel_ms2 if steep else None,
        stop_steepest_locked_m=steep.slid_m if steep else None,
        wheels={end: _wheel(w, setup, rides, situation, sampled.get(end)) for end, w in setup.wheels.items()},
    )


def _gate(gate: Gate) -> GateAnswer:
    levels = ((GateLevel.WORK, gate.work), (GateLevel.SIGNING, gate.signing), (GateLevel.NAME, gate.name))
    points = [(level, p, "") for level, found in levels for p in found]
    points += [(GateLevel.NAME, a.point, a.by.who) for a in gate.answered]
    return GateAnswer(
        may_work=gate.may_work,
        may_sign=gate.may_sign,
        words=render(gate.words),
        points=[
            GatePointAnswer(code=p.code, end=p.end, level=level, words=render(p.words), answered_by=who)
            for level, p, who in points
        ],
    )


def _signed_off(job: Job, state: SignedState) -> SignOffAnswer:
    who = job.signed_off.who if job.signed_off else ""
    return SignOffAnswer(validity=state.validity, who=who, why=render(state.why))


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
        draws = draws_of(situation.parameters, file.job.seed, samples, narrowed=situation.narrowed)
        for name, setup in evaluation.setups.items():
            if setup.load is None or setup.demand is None:
                continue
            drawn = Drawn(file.job, situation, setup.load, setup.demand, draws)
            sampled[name] = {end: _sampled(certainty(w, drawn)) for end, w in setup.wheels.items()}
    bike = situation.bike if situation else None
    answers = Answers(
        format="clavis-answers",
        version=VERSION,
        clavis=__version__,
        problem=render(evaluation.problem),
        lacks=[render(lack.words) for lack in evaluation.lacks],
        total_mass_kg=bike.rolling_mass_kg if bike else None,
        rear_to_cg_m=bike.rear_to_cg_m if bike else None,
        cg_height_m=bike.cg_height_m if bike else None,
        grip_ratio=situation.grip if situation else None,
        parameters=parameters_of(file.job),
        seed=file.job.seed,
        gate=_gate(gate_of(file.job, evaluation)),
        signed_off=_signed_off(file.job, signed_state(file.job, evaluation, catalogue)),
        setups={
            name.value: _setup(
                setup,
                _Rides(rides_of(file.job, evaluation, tracks, setup), always_of(evaluation, setup)),
                situation,
                sampled.get(name, {}),
                file.job.bike,
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
