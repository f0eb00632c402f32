"""Why: the working of one headline figure, opened beside the page."""

from fastapi import HTTPException
from starlette.responses import Response

from clavis.core.evaluation.evaluate import SetupName
from clavis.core.evaluation.sheet import wheel_figures
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import standing_figures
from clavis.core.sentences import Sentence, say
from clavis.web.shell import routes
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import VisitDep

router = routes.router()
NOT_YET = "This figure cannot be worked out yet."


@router.get("/jobs/{job_id}/why/bike/{key}", dependencies=APPRENTICE)
def why_bike(v: VisitDep, key: str) -> Response:
    situation = v.bench.evaluation.situation
    figures = (
        {f.key: f for f in standing_figures(situation.bike, situation.grip, situation.rear_grip_ratio)}
        if situation
        else {}
    )
    if key not in figures:
        raise HTTPException(404, NOT_YET)
    return v.piece("job/why.html", figure=figures[key], where="Bike and rider")


@router.get("/jobs/{job_id}/why/{setup}/{end}/bolt/{index}", dependencies=APPRENTICE)
def why_bolt(v: VisitDep, setup: SetupName, end: End, index: int) -> Response:
    fit = v.bench.evaluation.cases[setup][end].fit
    if fit is None or not 0 <= index < len(fit.bolts):
        raise HTTPException(404, "This bolt cannot be worked out yet.")
    return v.piece("job/why.html", figure=fit.bolts[index].figure, where=_where(end, setup))


@router.get("/jobs/{job_id}/why/{setup}/{end}/{key}", dependencies=APPRENTICE)
def why_wheel(v: VisitDep, setup: SetupName, end: End, key: str) -> Response:
    evaluation = v.bench.seen.evaluation
    situation, result = evaluation.situation, evaluation.setups.get(setup)
    wheel = result.wheels.get(end) if result else None
    if situation is None or wheel is None:
        raise HTTPException(404, NOT_YET)
    figures = wheel_figures(wheel, situation)
    if key not in figures:
        raise HTTPException(404, "There is no such figure.")
    return v.piece("job/why.html", figure=figures[key], where=_where(end, setup))


def _where(end: End, setup: SetupName) -> Sentence:
    return say("{end:cap}, {setup}", end=end, setup=setup)
