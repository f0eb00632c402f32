"""Why: the working of one headline figure, opened beside the page."""

from fastapi import APIRouter, HTTPException, Request
from starlette.responses import Response

from clavis.core.evaluation.evaluate import SetupName
from clavis.core.evaluation.figures import wheel_figures
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import standing_figures
from clavis.core.wording.labels import END_WORDS
from clavis.core.workshop.work_order import fits_of
from clavis.web.shell.context import ReaderDep, SessionDep, bench, render

router = APIRouter()


@router.get("/jobs/{job_id}/why/bike/{key}")
def why_bike(request: Request, session: SessionDep, reading: ReaderDep, job_id: int, key: str) -> Response:
    b = bench(request, session, reading, job_id)
    situation = b.evaluation.situation
    figures = {f.key: f for f in standing_figures(situation.bike, situation.grip)} if situation else {}
    if key not in figures:
        raise HTTPException(404, "This figure cannot be worked out yet.")
    return render(request, reading, "job/why.html", figure=figures[key], where="Bike and rider")


@router.get("/jobs/{job_id}/why/{setup}/{end}/bolt/{index}")
def why_bolt(
    request: Request, session: SessionDep, reading: ReaderDep, job_id: int, setup: SetupName, end: End, index: int
) -> Response:
    b = bench(request, session, reading, job_id)
    fit = fits_of(b.job, b.evaluation.setups.get(setup), b.catalogue).get(end)
    if fit is None or not 0 <= index < len(fit.bolts):
        raise HTTPException(404, "This bolt cannot be worked out yet.")
    return render(
        request, reading, "job/why.html", figure=fit.bolts[index].figure, where=f"{END_WORDS[end]}, {setup.value}"
    )


@router.get("/jobs/{job_id}/why/{setup}/{end}/{key}")
def why_wheel(
    request: Request, session: SessionDep, reading: ReaderDep, job_id: int, setup: SetupName, end: End, key: str
) -> Response:
    b = bench(request, session, reading, job_id).seen
    situation, result = b.evaluation.situation, b.evaluation.setups.get(setup)
    wheel = result.wheels.get(end) if result else None
    if situation is None or wheel is None:
        raise HTTPException(404, "This figure cannot be worked out yet.")
    figures = wheel_figures(wheel, situation.parameters, situation.weather.ambient_c)
    if key not in figures:
        raise HTTPException(404, "There is no such figure.")
    return render(request, reading, "job/why.html", figure=figures[key], where=f"{END_WORDS[end]}, {setup.value}")
