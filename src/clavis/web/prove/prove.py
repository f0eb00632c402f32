"""Station 7: trials, from the question to the answer."""

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Form, HTTPException
from starlette.responses import Response

from clavis.core import entries
from clavis.core.errors import QuantityError
from clavis.core.job.trials import (
    MOST_MARKS,
    MOST_TRIALS,
    OrderOfRuns,
    Question,
    Side,
    Trial,
    TrialKind,
    TrialSide,
)
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import COOL_C
from clavis.core.physics.infrared import SURFACES
from clavis.core.proving.confounders import BY_KEY
from clavis.core.proving.plan import TrialPlan, begun, plan_of
from clavis.core.proving.prediction import told_difference
from clavis.core.proving.questions import KINDS, QUESTIONS
from clavis.core.proving.results import TrialResult, order_of
from clavis.core.proving.statistics import BLOCK, POWER
from clavis.core.sentences import Words, say
from clavis.store import ride_library
from clavis.web.prove import heat, logs, runs
from clavis.web.prove.kept import plan_kept, result_kept, trial_named
from clavis.web.prove.run_picture import run_picture
from clavis.web.prove.sides import AS_FITTED, PROPOSED, side_choices
from clavis.web.prove.views import OF_ONE_TRIAL, ProveView, tabs, trial_of, view_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep, VisitDep, station_page

router = routes.router()


@dataclass(frozen=True)
class TrialChip:
    """A trial in the strip over the page, with what it has come to."""

    trial: Trial
    result: TrialResult
    current: bool

    @property
    def words(self) -> Words:
        """What it has come to."""
        runs = len(self.result.points)
        return self.result.verdict or (say("{runs:run|runs}", runs=runs) if runs else "planned")


def _mark_asked(b: Bench, trial: Trial) -> int | None:
    return entries.place_in(b.asked.get("mark", ""), len(trial.marks))


@station_page(router, Station.PROVE)
def context(b: Bench) -> dict[str, Any]:
    view, trial = view_of(b), trial_of(b)
    found: dict[str, Any] = {
        "view": view, "tabs": tabs(b, view), "trial": trial, "KINDS": KINDS, "QUESTIONS": QUESTIONS, "BLOCK": BLOCK,
        "Side": Side, "sides": side_choices(b.job),
        "cool_c": COOL_C, "power_pct": round(100 * POWER), "told_difference": told_difference, "SURFACES": SURFACES,
        "chips": [TrialChip(t, result_kept(b, t), trial is not None and t.id == trial.id) for t in b.job.trials],
    }  # fmt: skip
    if view is ProveView.LOG:
        return found | logs.shown(b)
    if view not in OF_ONE_TRIAL:
        return found | heat.shown(b, view)
    if trial is None:
        return found
    mark = _mark_asked(b, trial)
    plan, result = plan_kept(b, trial), result_kept(b, trial, mark)
    kinds = [(kind.value, KINDS[kind].words) for kind in QUESTIONS[trial.question].kinds]
    found |= {"plan": plan, "result": result, "mark": mark, "order": order_of(trial), "kind_choices": kinds}
    if view is ProveView.RUNS:
        found |= runs.shown(b, plan, result)
    if view is ProveView.RESULT:
        found |= {"picture": run_picture(result, b.reading.system)}
    return found


@dataclass(frozen=True)
class TrialOffer:
    """A question with what the model expects of it."""

    trial: Trial
    plan: TrialPlan


def offers_of(b: Bench, a: TrialSide, other: TrialSide) -> tuple[TrialOffer, ...]:
    """Every question about two setups, each as it would be begun."""
    out = []
    for question in Question:
        trial = begun("new", question, a, other, b.job, b.catalogue, b.tracks)
        out.append(TrialOffer(trial, plan_of(b.job, trial, b.catalogue, b.tracks)))
    return tuple(out)


def _sides(b: Bench, a: str, other: str) -> tuple[TrialSide, TrialSide]:
    by = {choice.key: choice.side for choice in side_choices(b.job)}
    if a not in by or other not in by:
        raise HTTPException(404, "There is no such setup on this job any more. Reload to see it.")
    if a == other:
        raise HTTPException(422, "A and B are the same: nothing is to be told apart.")
    return by[a], by[other]


@router.get("/jobs/{job_id}/trials/expected", dependencies=APPRENTICE)
def expected(v: VisitDep, a: str = AS_FITTED, b: str = PROPOSED) -> Response:
    """What the model expects of every question about two setups."""
    sides = _sides(v.bench, a, b)
    offers = v.bench.kept("trial offers", lambda: offers_of(v.bench, *sides), a, b)
    return v.piece(
        "prove/offers.html", offers=offers, QUESTIONS=QUESTIONS, KINDS=KINDS, a=a, other=b,
        told_difference=told_difference, BLOCK=BLOCK,
    )  # fmt: skip


@router.post("/jobs/{job_id}/trials", dependencies=APPRENTICE)
def begin(
    c: ChangeDep, question: Annotated[Question, Form()], a: Annotated[str, Form()], b: Annotated[str, Form()]
) -> Response:
    """Begin a trial with what is usual; everything of it may be changed until the first run."""
    if len(c.bench.job.trials) >= MOST_TRIALS:
        raise HTTPException(422, f"A job keeps {MOST_TRIALS} trials; remove one first.")
    sides = _sides(c.bench, a, b)
    trial_id = ride_library.free_id(question.value.replace("_", "-"), (t.id for t in c.bench.job.trials))
    trial = begun(trial_id, question, *sides, c.bench.job, c.bench.catalogue, c.bench.tracks)
    c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}", trial.model_dump(mode="json")))
    return c.gone_to(f"prove?trial={trial_id}&view=plan")


@router.post("/jobs/{job_id}/trials/{trial_id}/remove", dependencies=APPRENTICE)
def remove(c: ChangeDep, trial_id: str) -> Response:
    trial_named(c.bench, trial_id)
    c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}", None))
    return c.gone_to("prove")


_CHOSEN: dict[str, Any] = {"kind": TrialKind, "order": OrderOfRuns, "end": End}


@router.post("/jobs/{job_id}/trials/{trial_id}/set", dependencies=APPRENTICE)
def set_choice(
    c: ChangeDep,
    trial_id: str,
    what: Annotated[str, Form(pattern="^(kind|order|end|seed|ride_id|read_on)$")],
    value: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """One choice of the plan. The order is not drawn anew once runs are ridden: they would lose their places."""
    trial = trial_named(c.bench, trial_id)
    if trial.runs and what in ("order", "seed", "kind"):
        raise HTTPException(409, "Runs are ridden already: their order stands. Begin another trial for another order.")
    kept: Any = value
    if what == "seed":
        kept = trial.seed + 1
    elif what in _CHOSEN and value not in {member.value for member in _CHOSEN[what]}:
        raise HTTPException(422, "There is no such choice.")
    elif what == "ride_id":
        kept = value or None
    c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}.{what}", kept))
    return c.gone_to(f"prove?trial={trial_id}&view=plan")


@router.post("/jobs/{job_id}/trials/{trial_id}/difference", dependencies=APPRENTICE)
def set_difference(
    c: ChangeDep,
    trial_id: str,
    what: Annotated[str, Form(pattern="^(matters|spread)$")],
    value: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """What matters, or how runs scatter, in the unit of the question; an empty spread takes the usual one."""
    row = QUESTIONS[trial_named(c.bench, trial_id).question]
    kept: float | None = None
    if value.strip() or what == "matters":
        try:
            kept = entries.parse(value, row.difference_unit, c.system, "difference", low=0.0, high=10_000.0)
        except QuantityError as error:
            raise c.refused(422, error.said) from None
        if kept <= 0:
            raise HTTPException(422, "It must be above zero: no number of runs tells a difference of nothing.")
    return c.answered(c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}.{what}", kept)), Room.PROVE)


@router.post("/jobs/{job_id}/trials/{trial_id}/marks", dependencies=APPRENTICE)
def set_marks(c: ChangeDep, trial_id: str, value: Annotated[str, Form(max_length=300)] = "") -> Response:
    """The marks along a descent, parted by commas, in their order."""
    trial = trial_named(c.bench, trial_id)
    names = [name.strip() for name in value.split(",") if name.strip()]
    if len(names) > MOST_MARKS:
        raise HTTPException(422, f"{MOST_MARKS} marks at most.")
    if any(len(run.mark_s) > len(names) for run in trial.runs):
        raise HTTPException(409, "Runs have times at these marks already: they may be renamed and more may follow.")
    return c.answered(c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}.marks", names)), Room.PROVE)


@router.post("/jobs/{job_id}/trials/{trial_id}/attended/{key}", dependencies=APPRENTICE)
def attended(c: ChangeDep, trial_id: str, key: str, back: Annotated[bool, Form()] = False) -> Response:
    """Somebody says by name that a confounder was attended to, or takes that back."""
    trial_named(c.bench, trial_id)
    if key not in BY_KEY:
        raise HTTPException(404, "There is no such point.")
    word = None if back else c.author.tick().model_dump()
    return c.answered(c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}.attended.{key}", word)), Room.PROVE)
