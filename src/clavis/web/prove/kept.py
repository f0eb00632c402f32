"""The trials of a job on the bench, planned and read once for a version of the job."""

from fastapi import HTTPException

from clavis.core.job.trials import Trial
from clavis.core.proving.plan import TrialPlan, plan_of
from clavis.core.proving.results import TrialResult, result_of
from clavis.web.shell.bench import Bench


def trial_named(b: Bench, trial_id: str) -> Trial:
    """Raises 404 for one that is no more."""
    found = next((t for t in b.job.trials if t.id == trial_id), None)
    if found is None:
        raise HTTPException(404, "There is no such trial on this job any more. Reload to see it.")
    return found


def plan_kept(b: Bench, trial: Trial) -> TrialPlan:
    return b.kept("trial", lambda: plan_of(b.job, trial, b.catalogue, b.tracks), trial.id)


def result_kept(b: Bench, trial: Trial, mark: int | None = None) -> TrialResult:
    """At the end, or at one of its marks."""
    return b.kept("trial result", lambda: result_of(plan_kept(b, trial).prediction, mark), trial.id, mark)
