"""Between jobs and bikes: what a job found and put on a bike goes into the bike's own record, and a returning bike's
job begins with what stands there."""

from collections.abc import Callable, Mapping

from sqlalchemy import update
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.core.job.renewal import Renewals
from clavis.core.keeping.bike import KeptBike
from clavis.core.keeping.carry_over import Paces, VisitNote, fitted_anew, taken_stock, without_visit
from clavis.core.keeping.returning import next_job
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.wording.labels import choice_word
from clavis.store import bikes, history, jobs
from clavis.store.database import writing
from clavis.store.tables import ChangeRow, JobRow


def visit_of(opened: jobs.Opened, who: str) -> VisitNote:
    """A job's visit, today: the name by which its entries are found again."""
    km = opened.job.stay.odometer_km
    return VisitNote(f"job-{opened.id}", opened.id, bikes.today().isoformat(), who, km)


def signing(opened: jobs.Opened, who: str) -> VisitNote:
    """The visit at which an order is signed: another for each signing, so that one can be taken back alone."""
    visit = visit_of(opened, who)
    return VisitNote(f"job-{opened.id}-{opened.version + 1}", visit.job, visit.day, visit.who, visit.km)


def take_stock(session: Session, opened: jobs.Opened, catalogue: Catalogue, paces: Paces, who: str) -> None:
    """What a job found on its bike, and read there, into the bike's record. Raises RefusedError."""
    if opened.bike_id is not None:
        visit = visit_of(opened, who)
        act = _stock(opened.job, catalogue, paces, visit)
        bikes.change(session, opened.bike_id, act, who, "parts and readings taken over from the job")


def _stock(job: Job, catalogue: Catalogue, paces: Paces, visit: VisitNote) -> Callable[[KeptBike], KeptBike]:
    return lambda bike: taken_stock(bike, job, catalogue, paces, visit)


def sign_off(
    session: Session, opened: jobs.Opened, author: jobs.Author, after: Job, catalogue: Catalogue,
    paces: tuple[Paces, Paces], came: Mapping[End, Renewals],
) -> jobs.Opened:  # fmt: skip
    """A job's order is signed off, and what it put on the bike moves into the bike's record: both are kept, or neither.
    ``paces`` are those of the bike as it was, and as it is. Raises what ``jobs.sign_off`` raises."""
    before = opened.job
    why = ", ".join(choice_word(complaint) for complaint in before.complaints)

    def act(bike: KeptBike) -> KeptBike:
        # what was found stays found when the signing is taken back: it bears the job's name, not the signing's
        stocked = taken_stock(bike, before, catalogue, paces[0], visit_of(opened, author.who))
        visit = signing(opened, author.who)
        return fitted_anew(stocked, after, catalogue, paces[1], visit, came, why, before.complaints)

    if opened.bike_id is not None:
        bikes.changed(session, opened.bike_id, act, author.who, f"order of job {opened.id} signed off")
    return jobs.sign_off(session, opened, author, after)


def undo(session: Session, job_id: int, author: jobs.Author, *, anybodys: bool = False) -> ChangeRow | None:
    """Take the newest step of a job back; where that is a sign-off, what it put on the bike is off it again. Raises
    what ``history.undo`` raises."""
    with writing(session):
        last = history.offered(session, job_id).undo
        opened = jobs.open_job(session, job_id)
        signed = last is not None and last.path == jobs.SIGN_OFF and opened.job.signed_off is not None
        if last is not None and signed and opened.bike_id and (anybodys or last.who == author.who):
            name = f"job-{job_id}-{last.version}"
            bikes.changed(
                session, opened.bike_id, lambda bike: without_visit(bike, name), author.who, "sign-off undone"
            )
        return history.undo(session, job_id, author, anybodys=anybodys)


def begin_again(session: Session, bike_id: int, author: jobs.Author) -> int:
    """A new job about a bike that comes back; its number. Raises NotThereError."""
    kept, last = bikes.with_last_job(session, [bike_id])[0]
    return jobs.create_job(session, next_job(kept.bike, last, bikes.today()), author, bike_id=bike_id)


def about_another(session: Session, job_id: int, bike_id: int) -> None:
    """A job turns out to be about a bike that is known already. Raises NotThereError."""
    with writing(session):
        bikes.open_bike(session, bike_id)
        session.execute(update(JobRow).where(JobRow.id == job_id).values(bike_id=bike_id))
