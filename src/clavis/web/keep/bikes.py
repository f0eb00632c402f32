"""Bikes: the list of them, and each one's book with what is done there. The same book is what Keep shows of a job."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Any, Literal, TypeVar

from fastapi import Depends, Form, HTTPException, Request
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.responses import RedirectResponse, Response

from clavis.core import entries
from clavis.core.errors import QuantityError
from clavis.core.job.document import Complaint
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, LogEntry, OdometerReading, Outcome, WearReading
from clavis.core.keeping.cures import AnswerError, answered, written
from clavis.core.keeping.due import about
from clavis.core.keeping.gauges import GAUGES
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import BikeKind
from clavis.core.records import Record, describe, next_id
from clavis.core.sentences import Words, say
from clavis.formats.photographs import LARGEST_BYTES
from clavis.store import bikes, jobs, keeping, people
from clavis.web.keep.book import OUTCOMES, READ_WITH, Book, book_of, weekly_words
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep, catalogue_of
from clavis.web.shell.form_fields import FieldSpec
from clavis.web.shell.readers import AuthorDep, FormDep, Reader, ReaderDep
from clavis.web.shell.routes import APPRENTICE, owner
from clavis.web.shell.templates import render

router = routes.router()
PAGE = 60
E = TypeVar("E", bound=StrEnum)


@dataclass(frozen=True)
class AtBike:
    """One request to one bike."""

    request: Request
    session: Session
    reading: Reader
    opened: bikes.OpenedBike

    @property
    def book(self) -> Book:
        catalogue, _ = catalogue_of(self.request, self.session)
        return book_of(self.session, self.opened, self.reading.system, catalogue)

    def shown(self, template: str, status: int = 200, **more: Any) -> Response:
        return render(self.request, self.reading, template, status, **shown_of(self.book), **more)


def shown_of(book: Book) -> dict[str, Any]:
    """What the templates of a bike's book are given."""
    return {
        "book": book, "bike": book.opened.bike, "read_with": READ_WITH, "gauges": GAUGES, "outcomes": OUTCOMES,
        "bike_kinds": tuple(BikeKind), "complaints": tuple(Complaint), "weekly_words": weekly_words(book.weekly),
        "refused": "", "typed": {}, "anybodys": False, "photo_limit": photo_limit(),
    }  # fmt: skip


def photo_limit() -> int:
    """Megabytes that a photograph may have, as it is told and checked before it is sent."""
    return LARGEST_BYTES // 1_000_000


def at_bike(request: Request, session: SessionDep, reading: ReaderDep, bike_id: int) -> AtBike:
    try:
        return AtBike(request, session, reading, bikes.open_bike(session, bike_id))
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None


AtBikeDep = Annotated[AtBike, Depends(at_bike)]


@router.get("/bikes", dependencies=APPRENTICE)
def all_bikes(request: Request, session: SessionDep, reading: ReaderDep, search: str = "", page: int = 0) -> Response:
    """Every bike, those that were changed last first; found by name, frame number, fleet or whose it is."""
    page = min(max(page, 0), 100_000)
    rows, total = bikes.listed(session, search[:80], PAGE, page)
    return render(
        request, reading, "keep/bikes.html", rows=rows, total=total, search=search[:80], page=page,
        more=total > (page + 1) * PAGE, later=page + 1,
    )  # fmt: skip


@router.get("/bikes/{bike_id}", dependencies=APPRENTICE)
def one_bike(at: AtBikeDep) -> Response:
    return at.shown("keep/bike.html")


@dataclass(frozen=True)
class Typed:
    """What a form of the book was sent with. What it is read as and the range it must lie in are the record's own; each
    reader raises QuantityError with the reason."""

    words: dict[str, str]
    reading: Reader

    def text(self, name: str) -> str:
        return self.words.get(name, "").strip()

    def read(self, name: str, record: type[Record], field: str, label: str) -> Any:
        """One entry as a field of a record; None where it is empty."""
        text = self.text(name)
        if not text:
            return None
        return FieldSpec.of(field, record.model_fields[field]).read(text, self.reading.system, label)

    def thickness_mm(self, name: str, label: str) -> float | None:
        found: float | None = self.read(name, WearReading, "other_mm", label)
        return found

    def km(self) -> float | None:
        found: float | None = self.read("km", WearReading, "km", "Odometer")
        return found

    def day(self) -> str:
        """Today where none was typed; never a day that is still to come."""
        today = bikes.today().isoformat()
        day = entries.day(self.text("day") or today, "Day")
        if day > today:
            raise QuantityError("Day", day, "a day that has been")
        return day

    def choice(self, name: str, words: type[E]) -> E | None:
        word = self.text(name)
        return words(word) if word in {w.value for w in words} else None


@dataclass(frozen=True)
class ActAtBike(AtBike):
    """A request that changes a bike."""

    author: jobs.Author
    typed: Typed

    def done(self, act: bikes.Act, words: str) -> Response:
        """The book after an act. Refusals come back with the form's words."""
        try:
            opened = bikes.change(self.session, self.opened.id, act, self.author.who, words)
        except jobs.RefusedError as error:
            return self.refused(error.said)
        return AtBike(self.request, self.session, self.reading, opened).shown("keep/book.html")

    def refused(self, words: Words, *, anybodys: bool = False) -> Response:
        """The book as it is, with the reason and what was typed; ``anybodys`` offers to take another's act back."""
        self.session.rollback()
        told = {"refused": self.reading.told(words), "typed": self.typed.words, "anybodys": anybodys}
        return render(self.request, self.reading, "keep/book.html", 422, **(shown_of(self.book) | told))

    def redrawn(self) -> Response:
        """The book as it is now."""
        opened = bikes.open_bike(self.session, self.opened.id)
        return AtBike(self.request, self.session, self.reading, opened).shown("keep/book.html")


def act_at_bike(at: AtBikeDep, author: AuthorDep, form: FormDep) -> ActAtBike:
    words = {name: value for name, value in form.items() if isinstance(value, str)}
    return ActAtBike(at.request, at.session, at.reading, at.opened, author, Typed(words, at.reading))


ActDep = Annotated[ActAtBike, Depends(act_at_bike)]


def with_odometer(bike: KeptBike, day: str, km: float | None, who: str) -> KeptBike:
    """The bike with its odometer as it was read on a day, where it was."""
    if km is None or any(r.day == day and r.km == km for r in bike.odometer):
        return bike
    row = OdometerReading(id=next_id("odo-", (r.id for r in bike.odometer)), day=day, km=km, who=who)
    return bike.model_copy(update={"odometer": (*bike.odometer, row)})


@router.post("/bikes/{bike_id}/readings", dependencies=APPRENTICE)
def read_parts(c: ActDep) -> Response:
    """What was read today: the odometer, and of every part that is on the bike its thickness, as far as typed."""
    who = c.author.who
    try:
        day, km = c.typed.day(), c.typed.km()
        rows = []
        for life in c.book.readable:
            label = about(life)
            mm = c.typed.thickness_mm(f"mm-{life.id}", label)
            if mm is None:
                continue
            other = c.typed.thickness_mm(f"other-{life.id}", f"{label}, the other one")
            thin, thick = (mm, None) if other is None else (min(mm, other), max(mm, other))
            offered = [key for key, _ in READ_WITH[life.what]]
            gauge = c.typed.text(f"gauge-{life.id}")
            rows.append({
                "life": life.id, "day": day, "km": km, "mm": thin, "other_mm": thick, "who": who,
                "gauge": gauge if gauge in offered else offered[0],
            })  # fmt: skip
    except QuantityError as error:
        return c.refused(error.said)
    if not rows and km is None:
        return c.refused("Nothing was typed: the odometer, or a thickness.")

    def act(bike: KeptBike) -> KeptBike:
        for row in rows:
            read = WearReading(id=next_id("read-", (r.id for r in bike.readings)), **row)
            bike = bike.model_copy(update={"readings": (*bike.readings, read)})
        return with_odometer(bike, day, km, who)

    told = ([f"{len(rows)} read"] if rows else []) + (["odometer"] if km is not None else [])
    return c.done(act, "readings: " + ", ".join(told))


@router.post("/bikes/{bike_id}/readings/{reading_id}/remove", dependencies=APPRENTICE)
def drop_reading(c: ActDep, reading_id: str) -> Response:
    """A reading was a mistake; the history keeps it."""

    def act(bike: KeptBike) -> KeptBike:
        return bike.model_copy(update={"readings": tuple(r for r in bike.readings if r.id != reading_id)})

    return c.done(act, "a reading taken out")


@router.post("/bikes/{bike_id}/entries", dependencies=APPRENTICE)
def write_entry(c: ActDep) -> Response:
    """One thing that was done, in words; against which complaint, where there was one."""
    what, why = c.typed.text("what"), c.typed.text("why")
    if not what:
        return c.refused("What was done? One thing for each entry.")
    end, complaint = c.typed.choice("end", End), c.typed.choice("complaint", Complaint)
    try:
        day, km = c.typed.day(), c.typed.km()
        entry = LogEntry(id="new", day=day, km=km, end=end, what=what, why=why, who=c.author.who)
    except QuantityError as error:
        return c.refused(error.said)
    except ValidationError as error:
        return c.refused(describe(error.errors()[0]))
    return c.done(lambda bike: with_odometer(written(bike, entry, complaint), day, km, c.author.who), f"entry: {what}")


@router.post("/bikes/{bike_id}/tightened/{end}", dependencies=APPRENTICE)
def tighten(c: ActDep, end: End) -> Response:
    """The bolts of a wheel were tightened once more, after the first ride."""
    what = f"{end.value} bolts tightened once more"
    entry = LogEntry(
        id="new", day=bikes.today().isoformat(), end=end, what=what, renewal=Renewal.BOLTS, tightened=True,
        who=c.author.who,
    )  # fmt: skip
    return c.done(lambda bike: written(bike, entry), what)


@router.post("/bikes/{bike_id}/visits/{visit_id}", dependencies=APPRENTICE)
def answer_for_visit(c: ActDep, visit_id: str) -> Response:
    """What became of a complaint, and which of the things that were done is shown to be its cure."""
    outcome = c.typed.choice("outcome", Outcome) or Outcome.NOT_SAID
    cured_by, shown_by = c.typed.text("cured_by") or None, c.typed.text("shown_by")
    try:
        return c.done(
            lambda bike: answered(bike, visit_id, outcome, cured_by, shown_by, c.author.who),
            f"complaint: {OUTCOMES[outcome]}",
        )
    except AnswerError as error:
        return c.refused(error.said)


FIELD_WORDS = {
    "kind": "Kind", "name": "Name", "frame_number": "Frame number", "fleet": "Fleet", "weekly_km": "Distance a week",
    "note": "Note",
}  # fmt: skip


TEXTS = frozenset({"name", "frame_number", "fleet", "note"})
"""fields that are empty where nothing is typed; of the others nothing is known then"""


@router.post("/bikes/{bike_id}/field/{name}", dependencies=APPRENTICE)
def set_field(
    c: ActDep, name: Literal["name", "kind", "frame_number", "fleet", "weekly_km", "note"],
    base: Annotated[int, Form(ge=0, le=2**31 - 1)],
) -> Response:  # fmt: skip
    """One field of the bike; refused where somebody else has changed it since the page was opened."""
    try:
        kept = c.typed.read("value", KeptBike, name, FIELD_WORDS[name])
        if kept is None and name in TEXTS:
            kept = ""
        bikes.change_field(c.session, c.opened.id, base, c.author.who, name, kept, FIELD_WORDS[name])
    except QuantityError as error:
        return c.refused(error.said)
    except jobs.ConflictError as error:
        words = "{who} changed this in the meantime: it is “{theirs}” now. Type yours again to put it in its place."
        return c.refused(say(words, who=error.who, theirs=str(error.theirs)))
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return c.redrawn()


@router.post("/bikes/{bike_id}/person", dependencies=APPRENTICE)
def whose(c: ActDep) -> Response:
    """Whose bike it is: name, telephone, e-mail, only what is entered."""
    try:
        person = people.read(*(c.typed.text(name) for name in ("name", "phone", "email")))
        people.of_bike(c.session, c.opened.id, person, c.author.who)
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return c.redrawn()


@router.post("/bikes/{bike_id}/undo", dependencies=APPRENTICE)
def undo(c: ActDep) -> Response:
    """Take the newest act on this bike back; another person's is not taken back by accident."""
    try:
        bikes.undo(c.session, c.opened.id, c.author.who, anybodys=c.typed.text("anybodys") == "on")
    except jobs.RefusedError as error:
        return c.refused(error.said, anybodys=error.path == "anybodys")
    return c.redrawn()


@router.post("/bikes/{bike_id}/archive", dependencies=APPRENTICE)
def put_away(c: ActDep) -> Response:
    """Put the bike away, or take it out again."""
    bikes.archive(c.session, c.opened.id, c.author.who, archived=not c.opened.archived)
    return c.redrawn()


@router.post("/bikes/{bike_id}/erase", dependencies=owner("the owner erases"))
def erase(c: ActDep) -> Response:
    """Erase the bike with its book, for good; not while there are jobs about it."""
    try:
        bikes.erase(c.session, c.opened.id)
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return Response(headers={"HX-Redirect": "/bikes"})


@router.post("/bikes/{bike_id}/jobs", dependencies=APPRENTICE)
def begin_job(c: ActDep) -> Response:
    """A bike that comes back: its new job begins with what is known."""
    number = keeping.begin_again(c.session, c.opened.id, c.author)
    address = f"/jobs/{number}/intake"
    if c.request.headers.get("hx-request"):
        return Response(headers={"HX-Redirect": address})
    return RedirectResponse(address, 303)
