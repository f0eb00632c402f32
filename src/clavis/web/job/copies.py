"""One wheel's entries for the other, and a job copied."""

from starlette.responses import Response

from clavis.core.keeping.copies import copied_job, copied_wheel
from clavis.core.parts.mounts import End
from clavis.store import jobs
from clavis.web.shell import routes
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep

router = routes.router()


@router.post("/jobs/{job_id}/copy-wheel/{source}", dependencies=APPRENTICE)
def copy_wheel(c: ChangeDep, source: End) -> Response:
    """What is entered of one wheel, for the other: only where nothing is entered there yet. One step of the history."""
    told = copied_wheel(c.bench.job, source)
    if not told:
        raise c.refused(409, "Nothing to copy: what is alike on both wheels is entered there already.")
    target = End.REAR if source is End.FRONT else End.FRONT
    first, *others = told.items()
    c.or_refused(lambda: c.keep(f"{target.value}.{first[0]}", first[1], dict(others)))
    return Response(headers={"HX-Refresh": "true"})


@router.post("/jobs/{job_id}/copy", dependencies=APPRENTICE)
def copy_job(c: ChangeDep) -> Response:
    """A new job like this one, about another bike."""
    number = jobs.create_job(c.session, copied_job(c.bench.job), c.author)
    return Response(headers={"HX-Redirect": f"/jobs/{number}/intake"})
