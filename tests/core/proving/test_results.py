"""What runs show: the demo's four trials, runs left out and ridden again, marks, speeds, thermometers; and what spoils."""

import pytest

from clavis.core.job.document import Job
from clavis.core.job.trials import OrderOfRuns, Question, Side, Trial, TrialKind, TrialRun, TrialSide
from clavis.core.parts.mounts import End
from clavis.core.physics.infrared import SURFACES, corrected, shown_temperature_c
from clavis.core.proving.confounders import CONFOUNDERS, Disturbance, TrialCase, confounders_of
from clavis.core.proving.prediction import predict
from clavis.core.proving.results import TrialResult, next_place, order_of, result_of, value_of_run
from clavis.core.proving.statistics import TrialVerdict
from clavis.core.records import Tick
from clavis.demo.proving import tried
from tests.bikes import CATALOGUE, own_job
from tests.generated import DEMO_JOBS, TRACKS

JOB = own_job()
A = TrialSide(name="as it is")
B = TrialSide(name="other", source="picked", front=JOB.proposal.front, rear=JOB.proposal.rear)
BASE = Trial(
    id="t", name="t", question=Question.STOPS_SHORTER, kind=TrialKind.STOP, a=A, b=B, matters=0.3, blocks=6, seed=4
)
WHO = {"who": "Tess", "at": "2026-05-02T10:00"}


def runs_of(trial: Trial, a: float, b: float, field: str = "distance_m", **more: object) -> tuple[TrialRun, ...]:
    """Runs that scatter a little, B less than A by so much."""
    wobble = (0.03, -0.05, 0.02, 0.04, -0.03, 0.01)
    out = []
    for k, side in enumerate(order_of(trial)):
        value = round((a if side == "A" else b) * (1 + wobble[k % 6] + 0.004 * (k // 6)), 2)
        figure = {field: (value,) * 3 if field == "spots_c" else value}
        out.append(TrialRun(id=f"r{k}", place=k, side=side, **{**WHO, **figure, **more}))
    return tuple(out)


def with_runs(runs: tuple[TrialRun, ...], trial: Trial = BASE) -> Trial:
    return Trial.model_validate(trial.model_copy(update={"runs": runs}).model_dump())


def result(trial: Trial, job: Job = JOB, mark: int | None = None) -> TrialResult:
    return result_of(predict(job, trial, CATALOGUE, TRACKS), mark)


def state(trial: Trial, key: str, job: Job = JOB) -> Disturbance:
    found = confounders_of(TrialCase.of(predict(job, trial, CATALOGUE, TRACKS)))
    return next(c.presence for c in found if c.row.key == key)


@pytest.mark.parametrize(
    ("title", "verdict", "says"),
    [
        ("Hire", TrialVerdict.REAL, "B stops 1.21 m shorter, at 95 % between 0.69 m and 1.73 m"),
        ("Longtail", TrialVerdict.CANNOT_TELL, "more runs would"),
        ("Gravel", TrialVerdict.NONE_THAT_MATTERS, "less than the 1.00 m that would matter"),
        (
            "Commuter",
            TrialVerdict.CANNOT_TELL,
            "spoiled: all runs of one setup before all of the other; each setup on a day of its own; one",
        ),
    ],
)
def test_the_trials_of_the_demo_world(title: str, verdict: TrialVerdict, says: str) -> None:
    job = tried(next(j for j in DEMO_JOBS if title in j.title))
    found = result(job.trials[0], job)
    assert found.verdict is verdict
    assert says in str(found.headline).replace("\u00a0", " ")


def test_before_two_blocks_there_is_no_answer() -> None:
    found = result(with_runs(runs_of(BASE, 6.0, 5.0)[:7]))
    assert found.verdict is None
    assert found.blocks == 1
    assert "two complete blocks" in str(found.headline)


def test_a_run_left_out_is_kept_and_its_place_is_ridden_again() -> None:
    runs = list(runs_of(BASE, 6.0, 5.0))
    runs[9] = runs[9].model_copy(update={"left_out": "a dog on the line", "distance_m": 11.0})
    trial = with_runs(tuple(runs))
    assert next_place(trial) == 9
    found = result(trial)
    assert found.blocks == 5
    assert str(found.points[9].why_not) == "a dog on the line"
    assert found.points[9].value == 11.0
    again = with_runs((*runs, TrialRun(id="again", place=9, side=order_of(trial)[9], distance_m=5.9, **WHO)))
    assert next_place(again) is None
    assert result(again).blocks == 6


def test_a_stop_is_brought_to_the_planned_speed() -> None:
    run = TrialRun(id="r", place=0, side=Side.A, distance_m=6.0, speed_kmh=26, **WHO)
    assert value_of_run(BASE, JOB, run) == pytest.approx(6.0 * (25 / 26) ** 2)
    assert value_of_run(BASE, JOB, run.model_copy(update={"speed_kmh": None})) == 6.0


TIMED = Trial(
    id="t", name="t", question=Question.GOES_QUICKER, kind=TrialKind.FREE_DESCENT, a=A, b=B, matters=1.5, blocks=6, seed=4,
    marks=("bridge", "barn"),
)  # fmt: skip


def test_a_run_cut_at_a_mark_counts_as_far_as_there() -> None:
    runs = [r.model_copy(update={"mark_s": (r.time_s / 2, r.time_s * 0.8)}) for r in runs_of(TIMED, 120, 112, "time_s")]
    runs[5] = runs[5].model_copy(update={"mark_s": (60.0, None), "time_s": None})
    trial = with_runs(tuple(runs), TIMED)
    end, bridge = result(trial), result(trial, JOB, 0)
    assert end.blocks == 5
    assert str(end.points[5].why_not) == "cut at bridge: it counts as far as there"
    assert bridge.blocks == 6
    assert bridge.points[5].counted
    assert bridge.compared is not None
    assert bridge.compared.difference == pytest.approx(-4, abs=1.5)


READ = Trial(
    id="t", name="t", question=Question.RUNS_COOLER, kind=TrialKind.DRAG_DESCENT, a=A, b=B, end=End.FRONT, matters=10,
    blocks=6, seed=4, read_on="bright",
)  # fmt: skip


def test_what_a_thermometer_shows_is_never_taken_for_the_rotor() -> None:
    run = TrialRun(id="r", place=0, side=Side.A, spots_c=(60.0, 60.0), air_c=20, **WHO)
    assert value_of_run(READ, JOB, run) == pytest.approx(corrected(60.0, SURFACES["bright"], 20.0, 0.95).true_c)
    assert value_of_run(READ, JOB, run) > 100
    low = run.model_copy(update={"spots_c": (-35.0,)})
    assert value_of_run(READ, JOB, low) is None
    true = 180.0
    shown = shown_temperature_c(true, SURFACES["bright"].emissivity / 0.95, 20.0)
    assert value_of_run(READ, JOB, run.model_copy(update={"spots_c": (shown,)})) == pytest.approx(true, abs=0.5)


def test_an_emissivity_set_too_low_reads_too_hot() -> None:
    paint = READ.model_copy(update={"read_on": "paint", "set_to_ratio": 0.5})
    run = TrialRun(id="r", place=0, side=Side.A, spots_c=(200.0,), air_c=20, **WHO)
    assert value_of_run(paint, JOB, run) < 160


def test_loose_runs_are_compared_by_lot() -> None:
    trial = BASE.model_copy(update={"order": OrderOfRuns.RANDOMISED})
    found = result(with_runs(runs_of(trial, 6.0, 5.0), trial))
    assert found.compared is not None
    assert found.loose is None
    assert found.verdict is TrialVerdict.REAL
    assert "two runs of each" in str(result(with_runs(runs_of(trial, 6.0, 5.0)[:1], trial)).headline)


def test_runs_that_all_agree_are_no_readings() -> None:
    same = tuple(r.model_copy(update={"distance_m": 5.0}) for r in runs_of(BASE, 6.0, 5.0))
    assert "no readings" in str(result(with_runs(same)).headline)


def test_a_spoiled_trial_tells_nothing_whatever_its_runs_show() -> None:
    runs = runs_of(BASE, 6.0, 4.0, wet=False)
    wet = tuple(r.model_copy(update={"wet": r.side is Side.B}) for r in runs)
    assert result(with_runs(runs)).verdict is TrialVerdict.REAL
    assert result(with_runs(wet)).verdict is TrialVerdict.CANNOT_TELL
    days = tuple(r.model_copy(update={"at": f"2026-05-0{1 if r.side is Side.A else 2}T10:00"}) for r in runs)
    assert state(with_runs(days), "day_is_setup") is Disturbance.THERE


def _changed(**by_side: dict[str, float]) -> Trial:
    return with_runs(tuple(r.model_copy(update=by_side[r.side.value]) for r in runs_of(BASE, 6.0, 5.0)))


@pytest.mark.parametrize(
    ("key", "a", "b", "there"),
    [
        ("pressure", {"tyre_bar": 3.0}, {"tyre_bar": 3.4}, True),
        ("pressure", {"tyre_bar": 3.0}, {"tyre_bar": 3.05}, False),
        ("speed", {"speed_kmh": 25.0}, {"speed_kmh": 26.5}, True),
        ("speed", {"speed_kmh": 25.0}, {"speed_kmh": 25.2}, False),
    ],
)
def test_what_is_written_with_the_runs_tells(key: str, a: dict[str, float], b: dict[str, float], there: bool) -> None:
    assert (state(_changed(A=a, B=b), key) is Disturbance.THERE) is there
    assert state(with_runs(runs_of(BASE, 6.0, 5.0)), key) is Disturbance.ASK


@pytest.mark.parametrize(
    ("key", "a", "b"),
    [
        ("air", {"air_c": 8.0}, {"air_c": 16.0}),
        ("warm_start", {"start_c": 60.0}, {"start_c": 20.0}),
        ("reading_time", {"after_s": 20.0}, {"after_s": 45.0}),
        ("spots", {"spots_c": (90.0,)}, {"spots_c": (90.0, 91.0, 92.0)}),
    ],
)
def test_what_is_written_with_readings_tells(key: str, a: dict[str, object], b: dict[str, object]) -> None:
    runs = runs_of(READ, 90.0, 80.0, "spots_c", air_c=15.0, start_c=15.0, after_s=20.0)
    assert state(with_runs(runs, READ), key) is Disturbance.ABSENT
    changed = tuple(r.model_copy(update=a if r.side is Side.A else b) for r in runs)
    assert state(with_runs(changed, READ), key) is Disturbance.THERE


def test_what_was_attended_to_stands_no_more_in_the_way() -> None:
    said = BASE.model_copy(update={"attended": {"same_rider": Tick(who="Tess", at="2026-05-02T10:00")}})
    found = confounders_of(TrialCase.of(predict(JOB, said, CATALOGUE, TRACKS)))
    open_ = {c.row.key: c.open for c in found}
    assert not open_["same_rider"]
    assert open_["nothing_else"]


def test_every_confounder_says_what_to_do_and_none_stands_twice() -> None:
    assert len({row.key for row in CONFOUNDERS}) == len(CONFOUNDERS)
    assert all(len(row.do) > 20 and row.do.endswith(".") for row in CONFOUNDERS)
