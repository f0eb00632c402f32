"""The trials of a job on the bench, planned and read once: what the model expects rests on no run, and is not worked
out again for each."""

from dataclasses import replace

from fastapi import HTTPException

from clavis.core.job.document import BESIDE_THE_SETUP, SHORTEST_REASON
from clavis.core.job.trials import Trial
from clavis.core.proving.plan import TrialPlan, planned
from clavis.core.proving.prediction import Prediction, predict
from clavis.core.proving.results import TrialResult, result_of
from clavis.web.shell.bench import Bench

NOT_EXPECTED = dict.fromkeys((*BESIDE_THE_SETUP, "proposal"), True)
"""what of a job no trial's sides rest on: they hold their own parts"""


def trial_named(b: Bench, trial_id: str) -> Trial:
    """Raises 404 for one that is no more."""
    found = next((t for t in b.job.trials if t.id == trial_id), None)
    if found is None:
        raise HTTPException(404, "There is no such trial on this job any more. Reload to see it.")
    return found


def _predicted(b: Bench, trial: Trial) -> Prediction:
    bare = trial.model_copy(update={"runs": (), "attended": {}, "name": "trial"})
    key = ("trial", b.job.model_dump_json(exclude=NOT_EXPECTED), bare.model_dump_json(), b.stamp)
    found = b.answer(key, lambda: predict(b.job, bare, b.catalogue, b.tracks))
    return replace(found, job=b.job, trial=trial)


def plan_kept(b: Bench, trial: Trial) -> TrialPlan:
    return b.kept("trial", lambda: planned(_predicted(b, trial)), trial.id)


def result_kept(b: Bench, trial: Trial, mark: int | None = None) -> TrialResult:
    """At the end, or at one of its marks."""
    return b.kept("trial result", lambda: result_of(_predicted(b, trial), mark), trial.id, mark)


def left_out_for(reason: str) -> str:
    """Why something is not counted, as it is kept; empty counts it again. Raises 422 where it says nothing."""
    words = reason.strip()
    if words and len(words) < SHORTEST_REASON:
        raise HTTPException(422, "Say in a few words why it is not counted.")
    return words
