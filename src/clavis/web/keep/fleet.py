"""One proposal for every equal bike of a fleet: looked at first, then a job for each that was chosen."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Form
from starlette.responses import RedirectResponse, Response

from clavis.core.job.document import Job
from clavis.core.keeping.copies import Alike, alike, same_proposal
from clavis.store import bikes, jobs
from clavis.store.database import writing
from clavis.web.shell import routes
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep, Visit, VisitDep

router = routes.router()
MOST = 200


@dataclass(frozen=True)
class FleetLine:
    """One other bike of the fleet, its last job, and how it compares."""

    opened: bikes.OpenedBike
    last: Job | None
    alike: Alike


def _others(v: Visit) -> list[FleetLine]:
    own = v.bench.opened.bike_id
    fleet = bikes.open_bike(v.session, own).bike.fleet if own is not None else ""
    numbers = [number for number in bikes.of_fleet(v.session, fleet, MOST) if number != own] if fleet else []
    found = bikes.with_last_job(v.session, numbers)
    return [FleetLine(opened, last, alike(v.bench.job, opened.bike, last)) for opened, last in found]


@router.get("/jobs/{job_id}/fleet", dependencies=APPRENTICE)
def look(v: VisitDep) -> Response:
    """Which bikes of the fleet are like this one, before anything is done."""
    return v.page(None, "keep/fleet.html", lines=_others(v), proposes=v.bench.job.proposes)


@router.post("/jobs/{job_id}/fleet", dependencies=APPRENTICE)
def carry_over(c: ChangeDep, bike: Annotated[list[int], Form()]) -> Response:
    """A job with the same proposal for every bike that was chosen and is equal, all of them or none."""
    if not c.bench.job.proposes:
        raise c.refused(409, "This job proposes nothing that could be carried over.")
    equal = {line.opened.id: line for line in _others(c) if line.alike.equal}
    chosen = [equal[number] for number in dict.fromkeys(bike) if number in equal]
    if len(chosen) != len(set(bike)):
        raise c.refused(409, "A bike that was chosen is not equal any more: look again.")
    with writing(c.session):
        for line in chosen:
            job = same_proposal(c.bench.job, line.opened.bike, line.last, bikes.today())
            jobs.lay_down(c.session, job, c.author, bike_id=line.opened.id)
    return RedirectResponse("/", 303)
