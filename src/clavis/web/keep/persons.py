"""A person's data: all that is kept of somebody, taken out as a file, and erased."""

import json

from fastapi import HTTPException, Request
from starlette.responses import Response

from clavis.store import bikes, jobs, people
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.readers import AuthorDep, ReaderDep
from clavis.web.shell.routes import APPRENTICE, owner
from clavis.web.shell.templates import render

router = routes.router()


@router.get("/people/{person_id}", dependencies=APPRENTICE)
def one_person(request: Request, session: SessionDep, reading: ReaderDep, person_id: int) -> Response:
    try:
        person, owned = people.open_person(session, person_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None
    of_bike = {bike.id: bikes.jobs_of(session, bike.id) for bike in owned}
    return render(request, reading, "keep/person.html", person=person, owned=owned, of_bike=of_bike)


@router.get("/people/{person_id}/export", dependencies=APPRENTICE)
def take_out(session: SessionDep, reading: ReaderDep, person_id: int) -> Response:
    """Everything that is kept of a person, as one file: theirs to have."""
    try:
        person, owned = people.open_person(session, person_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None
    told = {
        "format": "clavis-person", "version": 1, "name": person.name, "phone": person.phone, "email": person.email,
        "bikes": [
            {
                "bike": bike.document,
                "jobs": [
                    {"number": row.id, "job": jobs.open_job(session, row.id).job.model_dump(mode="json")}
                    for row in bikes.jobs_of(session, bike.id)
                ],
            }
            for bike in owned
        ],
    }  # fmt: skip
    headers = {"Content-Disposition": f'attachment; filename="clavis-person-{person_id}.json"'}
    return Response(json.dumps(told, ensure_ascii=False, indent=1), media_type="application/json", headers=headers)


@router.post("/people/{person_id}/erase", dependencies=owner("the owner erases"))
def erase(session: SessionDep, reading: ReaderDep, author: AuthorDep, person_id: int) -> Response:
    """Erase name, telephone and e-mail, and the rider's name in the jobs of their bikes; the bikes stay, and are
    nobody's."""
    try:
        people.erase(session, person_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None
    return Response(headers={"HX-Redirect": "/bikes"})
