"""People whose bikes they are: only what is entered; a person's data can be taken out and erased."""

import re
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from clavis.core.sentences import say
from clavis.store import jobs
from clavis.store.database import alone, writing
from clavis.store.tables import BikeRow, ChangeRow, JobRow, PersonRow

_PHONE = re.compile(r"^[0-9+()/ .-]{3,40}$")
_EMAIL = re.compile(r"^[^@\s]{1,64}@[^@\s.]+(\.[^@\s.]+)+$")


@dataclass(frozen=True)
class PersonData:
    """What was entered of a person."""

    name: str = ""
    phone: str = ""
    email: str = ""

    @property
    def anything(self) -> bool:
        return bool(self.name or self.phone or self.email)


def read(name: str, phone: str, email: str) -> PersonData:
    """What was typed. Raises RefusedError for what is no telephone number or no address."""
    if len(name) > 80:
        raise jobs.RefusedError("name", "Name: at most 80 letters")
    if phone and not _PHONE.match(phone):
        raise jobs.RefusedError("phone", say("Telephone: “{given}” is no number", given=phone[:40]))
    if email and (len(email) > 120 or not _EMAIL.match(email)):
        raise jobs.RefusedError("email", say("E-mail: “{given}” is no address", given=email[:60]))
    return PersonData(name, phone, email)


def add(session: Session, person: PersonData, who: str) -> int:
    """Somebody, or the one who is known by this name and telephone or e-mail; their number. Not yet committed."""
    alone(session)
    row = _known(session, person) or PersonRow()
    row.name, row.phone, row.email = person.name, person.phone, person.email
    row.who, row.changed_at = who[:40], jobs.now()
    session.add(row)
    session.flush()
    return row.id


def of_bike(session: Session, bike_id: int, person: PersonData, who: str) -> None:
    """Set whose bike it is. A person who is known by the same telephone or e-mail, and the same name, is that one;
    nothing entered leaves the bike without."""
    with writing(session):
        row = session.get(BikeRow, bike_id)
        if row is None:
            raise jobs.NotThereError(f"there is no bike {bike_id}")
        if not person.anything:
            row.person_id = None
            return
        known = session.get(PersonRow, row.person_id) if row.person_id is not None else None
        if known is None or known.name != person.name:
            row.person_id = add(session, person, who)
        else:
            known.phone, known.email = person.phone, person.email
            known.who, known.changed_at = who[:40], jobs.now()


def _known(session: Session, person: PersonData) -> PersonRow | None:
    """Somebody of this name with the same telephone or e-mail."""
    if not (person.phone or person.email):
        return None
    query = select(PersonRow).where(PersonRow.name == person.name)
    rows = session.scalars(query)
    return next(
        (r for r in rows if (person.phone and r.phone == person.phone) or (person.email and r.email == person.email)),
        None,
    )


def _without_name(value: Any) -> Any:
    """A rider's name out of a step of the history: the name itself, or a rider's record."""
    if isinstance(value, dict):
        return {**value, "name": ""} if "name" in value else value
    return "" if isinstance(value, str) else value


def open_person(session: Session, person_id: int) -> tuple[PersonRow, list[BikeRow]]:
    """A person with their bikes. Raises NotThereError."""
    row = session.get(PersonRow, person_id)
    if row is None:
        raise jobs.NotThereError(f"there is no person {person_id}")
    owned = select(BikeRow).where(BikeRow.person_id == person_id).order_by(BikeRow.changed_at.desc())
    return row, list(session.scalars(owned))


def erase(session: Session, person_id: int) -> int:
    """Erase a person for good: name, telephone, e-mail, and their name as a rider in the jobs of their bikes and in
    those jobs' histories. The bikes stay, and are nobody's. How many there were. Raises NotThereError."""
    with writing(session):
        row, owned = open_person(session, person_id)
        of_their_bikes = select(JobRow).where(JobRow.bike_id.in_([bike.id for bike in owned]))
        for job in session.scalars(of_their_bikes).all():
            rider = job.document.get("rider", {}) if isinstance(job.document, dict) else {}
            if row.name and rider.get("name", "") == row.name:
                job.document = {**job.document, "rider": {**rider, "name": ""}}
                job.version += 1
            steps = select(ChangeRow).where(ChangeRow.job_id == job.id, ChangeRow.path.in_(("rider.name", "rider")))
            for step in session.scalars(steps).all():
                step.before, step.after = _without_name(step.before), _without_name(step.after)
        session.execute(update(BikeRow).where(BikeRow.person_id == person_id).values(person_id=None))
        session.delete(row)
        return len(owned)
