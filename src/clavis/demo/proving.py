"""What the demo workshop tried on the road: a trial that is real, one that cannot tell, one without a difference that
matters, one that is spoiled; and readings of two bikes. All of it was recorded with the stand-ins of
``instruments.road_truth``."""

from collections.abc import Sequence

from clavis.core.job.document import Job
from clavis.core.job.trials import (
    HeatSet,
    Question,
    RunFrom,
    SetupFrom,
    Side,
    TimedReading,
    Trial,
    TrialKind,
    TrialRun,
    TrialSide,
)
from clavis.core.parts.mounts import End
from clavis.core.proving.results import order_of
from clavis.core.records import Tick

WHO = "Demo bench"
Run = tuple[float, float]
"""stopped after m, speed at the line km/h"""


def _sides(job: Job) -> dict[str, TrialSide]:
    proposal = job.proposal
    picked = TrialSide(name="as proposed", source=SetupFrom.PICKED, front=proposal.front, rear=proposal.rear)
    return {"a": TrialSide(name="as fitted"), "b": picked}


def _stops(job: Job, name: str, seed: int, matters: float, blocks: int) -> Trial:
    return Trial(
        id="stops-shorter", name=name, question=Question.STOPS_SHORTER, kind=TrialKind.STOP, matters=matters, blocks=blocks,
        seed=seed, **_sides(job),
    )  # fmt: skip


def _at(day: str, minute: int) -> str:
    return f"{day}T{9 + minute // 60:02d}:{minute % 60:02d}"


def _runs(order: Sequence[str], figures: Sequence[Run], day: str, bar: float) -> list[TrialRun]:
    return [
        TrialRun(
            id=f"r{k + 1}", place=k, side=Side(side), who=WHO, at=_at(day, 6 * k), distance_m=distance_m,
            speed_kmh=speed_kmh, tyre_bar=bar, source=RunFrom.TAPE,
        )
        for k, (side, (distance_m, speed_kmh)) in enumerate(zip(order, figures, strict=True))
    ]  # fmt: skip


def _seen_to(*keys: str, day: str) -> dict[str, Tick]:
    return {key: Tick(who=WHO, at=_at(day, 0)) for key in keys}


def _hire(job: Job) -> Job:
    """Larger rotors and four pistons on the hire bike: a real difference. One run met a walker and was ridden again."""
    figures = (
        (4.83, 25.3), (6.41, 24.2), (6.83, 24.8), (5.31, 25.0), (6.34, 25.5), (5.28, 26.3), (5.30, 25.2), (6.47, 24.9),
        (5.15, 24.7), (6.18, 23.9), (7.00, 25.8), (5.23, 24.9), (5.29, 25.2), (6.00, 25.3), (6.36, 25.3), (5.30, 25.4),
        (4.92, 24.5), (6.62, 24.5), (6.83, 25.0), (5.56, 24.4), (5.65, 24.8), (6.28, 25.4), (6.38, 25.2), (5.85, 25.2),
    )  # fmt: skip
    trial = _stops(job, "New brakes against old", 14, 0.3, 6)
    runs = _runs(order_of(trial), figures, "2026-10-17", 1.9)
    walker = runs[9].model_copy(
        update={"id": "r25", "distance_m": 8.9, "left_out": "a walker stepped out behind the line, let go"}
    )
    said = _seen_to("bedding", "pressure", "speed", "same_rider", "nothing_else", day="2026-10-17")
    trial = trial.model_copy(update={"runs": (*runs[:9], walker, *runs[9:]), "attended": said})
    return job.model_copy(update={"trials": (trial,)})


def _cargo(job: Job) -> Job:
    """Six blocks on the longtail where twenty would be needed: cannot tell. And a set of readings on bright steel."""
    figures = (
        (4.83, 24.3), (5.59, 25.2), (6.24, 25.3), (5.67, 24.3), (6.54, 24.7), (5.48, 25.4), (5.71, 25.1), (6.48, 25.2),
        (6.46, 25.3), (5.84, 25.3), (4.77, 24.2), (5.95, 25.1), (5.63, 25.7), (5.44, 25.0), (4.69, 24.8), (5.43, 25.4),
        (5.79, 25.0), (5.28, 25.2), (6.53, 25.8), (5.43, 25.3), (4.58, 24.2), (5.85, 24.9), (6.47, 24.6), (6.16, 25.2),
    )  # fmt: skip
    trial = _stops(job, "Does the new pair stop shorter in the wet", 12, 0.28, 6)
    trial = trial.model_copy(update={"runs": tuple(_runs(order_of(trial), figures, "2026-11-07", 2.6))})
    shown = (
        (End.FRONT, 30, 87.8), (End.REAR, 30, 76.1), (End.FRONT, 60, 67.2), (End.REAR, 60, 60.3), (End.FRONT, 120, 79.5),
        (End.REAR, 120, 45.2), (End.FRONT, 200, 37.3), (End.REAR, 200, 34.6),
    )  # fmt: skip
    readings = _heat_set("after-the-hill", "At the school gate", "2026-11-07", "bright", shown)
    return job.model_copy(update={"trials": (trial,), "heat_sets": (readings,)})


def _gravel(job: Job) -> Job:
    """The gravel rider asked for no more than a metre: no difference that matters."""
    figures = (
        (8.54, 24.7), (9.69, 25.5), (9.23, 25.9), (8.44, 25.3), (7.64, 24.3), (8.39, 25.1), (9.29, 24.9), (8.95, 25.3),
        (8.49, 25.2), (8.63, 24.1), (8.4, 24.2), (8.51, 24.9), (8.75, 25.1), (8.13, 25.5), (7.89, 25.4), (9.0, 25.6),
        (9.74, 25.2), (7.64, 23.9), (9.16, 25.3), (9.67, 25.7), (8.74, 25.3), (9.0, 25.1), (9.31, 25.5), (9.59, 25.3),
        (8.75, 25.6), (9.21, 24.9), (7.77, 24.7), (8.46, 24.5), (8.64, 24.9), (8.27, 25.4), (9.36, 26.1), (9.8, 24.8),
    )  # fmt: skip
    trial = _stops(job, "Smaller rotor behind: does it cost way", 13, 1.0, 8)
    said = _seen_to("bedding", "same_rider", "nothing_else", day="2026-09-26")
    runs = tuple(_runs(order_of(trial), figures, "2026-09-26", 2.9))
    return job.model_copy(update={"trials": (trial.model_copy(update={"runs": runs, "attended": said}),)})


def _commuter(job: Job) -> Job:
    """Old pads on a dry Saturday, new ones on a wet Sunday: spoiled."""
    dry = (
        (5.61, 25.2),
        (5.32, 24.8),
        (5.18, 25.1),
        (5.72, 25.5),
        (5.27, 24.6),
        (5.49, 25.0),
        (5.36, 24.9),
        (5.58, 25.3),
    )
    wet = (
        (6.94, 25.1),
        (7.21, 25.4),
        (6.63, 24.7),
        (7.02, 25.0),
        (6.88, 24.9),
        (7.35, 25.6),
        (6.71, 24.8),
        (6.97, 25.2),
    )
    trial = _stops(job, "New pads, as it came about", 15, 0.3, 4)
    first = _runs("A" * len(dry), dry, "2026-11-14", 4.5)
    second = [
        run.model_copy(update={"id": f"r{k}", "place": k - 1, "wet": True})
        for k, run in enumerate(_runs("B" * len(wet), wet, "2026-11-15", 4.5), len(dry) + 1)
    ]
    return job.model_copy(update={"trials": (trial.model_copy(update={"runs": (*first, *second)}),)})


def _heat_set(set_id: str, name: str, day: str, read_on: str, shown: Sequence[tuple[End, float, float]]) -> HeatSet:
    readings = tuple(
        TimedReading(id=f"t{k}", end=end, after_s=after_s, read_c=read_c)
        for k, (end, after_s, read_c) in enumerate(shown, 1)
    )
    return HeatSet(id=set_id, name=name, who=WHO, at=_at(day, 0), read_on=read_on, readings=readings)


def _tandem(job: Job) -> Job:
    """Readings at the foot of the pass, on a dab of matt paint: the front does less than was thought."""
    shown = (
        (End.FRONT, 20, 206.0), (End.REAR, 20, 270.0), (End.FRONT, 45, 174.5), (End.REAR, 45, 231.6), (End.FRONT, 90, 132.4),
        (End.REAR, 90, 176.5), (End.FRONT, 150, 110.6), (End.REAR, 150, 135.1), (End.FRONT, 240, 90.9),
        (End.REAR, 240, 111.3),
    )  # fmt: skip
    return job.model_copy(
        update={"heat_sets": (_heat_set("foot-of-the-pass", "At the foot of the pass", "2026-08-22", "paint", shown),)}
    )


_TRIED = {
    "Hire bike no. 14": _hire,
    "Longtail for the school run": _cargo,
    "Gravel bike that grabs": _gravel,
    "Commuter on cable discs": _commuter,
    "Tandem for the long pass": _tandem,
}


def tried(job: Job) -> Job:
    """The job with what was tried on the road; as it is where nothing was."""
    with_runs = _TRIED.get(job.title)
    return job if with_runs is None else Job.model_validate(with_runs(job).model_dump())
