"""Bikes: the list of them, and each one's book with what is done there. The same book is what Keep shows of a job."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Form, HTTPException, Request
from sqlalchemy.orm import Session
from starlette.responses import RedirectResponse, Response

from clavis.core import entries, units
from clavis.core.dates import as_date
from clavis.core.errors import QuantityError
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, LogEntry, OdometerReading, Outcome, WearReading, next_id
from clavis.core.keeping.due import RETORQUED
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import BikeKind
from clavis.core.sentences import Words, say
from clavis.formats.photographs import LARGEST_BYTES
from clavis.store import bikes, jobs, keeping, people
from clavis.web.keep.book import OUTCOMES, READ_WITH, Book, book_of, weekly_words
from clavis.web.shell.bench import SessionDep, catalogue_of
from clavis.web.shell.readers import AuthorDep, FormDep, Reader, ReaderDep
from clavis.web.shell.templates import render

router = APIRouter()
PAGE = 60


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
        "book": book, "bike": book.opened.bike, "read_with": READ_WITH, "outcomes": OUTCOMES,
        "bike_kinds": tuple(BikeKind), "weekly_words": weekly_words(book.weekly), "refused": "", "typed": {},
        "photo_limit": photo_limit(),
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


@router.get("/bikes")
def all_bikes(request: Request, session: SessionDep, reading: ReaderDep, search: str = "", page: int = 0) -> Response:
    """Every bike, those that were changed last first; found by name, frame number, fleet or whose it is."""
    page = min(max(page, 0), 100_000)
    rows, total = bikes.listed(session, search[:80], PAGE, page)
    return render(
        request, reading, "keep/bikes.html", rows=rows, total=total, search=search[:80], page=page,
        more=total > (page + 1) * PAGE, later=page + 1,
    )  # fmt: skip


@router.get("/bikes/{bike_id}")
def one_bike(at: AtBikeDep) -> Response:
    return at.shown("keep/bike.html")


@dataclass(frozen=True)
class Typed:
    """What a form of the book was sent with. Each reader raises QuantityError with the reason."""

    words: dict[str, str]
    reading: Reader

    def text(self, name: str, most: int) -> str:
        return self.words.get(name, "").strip()[:most]

    def quantity(self, name: str, kind: str, label: str, low: float, high: float) -> float | None:
        """None for an empty entry."""
        text = self.words.get(name, "").strip()
        if not text:
            return None
        number = round(entries.parse(text, kind, self.reading.system, label, low=low, high=high), 6)
        if not low <= number <= high:
            given = units.show_short(number, kind, self.reading.system)
            words = f"{{low_{kind}:g}} to {{high_{kind}:g}}"
            raise QuantityError(label, given, say(words, **{f"low_{kind}": low, f"high_{kind}": high}))
        return number

    def thickness_mm(self, name: str, label: str) -> float | None:
        return self.quantity(name, "mm", label, 0, 12)

    def km(self) -> float | None:
        return self.quantity("km", "km", "Odometer", 0, 500_000)

    def day(self) -> str:
        """Today where none was typed; never a day that is still to come."""
        text = self.words.get("day", "").strip()
        if not text:
            return bikes.today().isoformat()
        try:
            day = as_date(text)
        except ValueError:
            raise QuantityError("Day", f"“{text[:20]}”", "a day, as 2026-11-29") from None
        if day > bikes.today():
            raise QuantityError("Day", day.isoformat(), "a day that has been")
        return day.isoformat()

    def end(self) -> End | None:
        word = self.words.get("end", "")
        return End(word) if word in set(End) else None


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

    def refused(self, words: Words) -> Response:
        """The book as it is, with the reason and what was typed."""
        self.session.rollback()
        told = self.reading.told(words)
        return render(
            self.request, self.reading, "keep/book.html", 422,
            **(shown_of(self.book) | {"refused": told, "typed": self.typed.words}),
        )  # fmt: skip


def act_at_bike(at: AtBikeDep, author: AuthorDep, form: FormDep) -> ActAtBike:
    words = {name: value for name, value in form.items() if isinstance(value, str)}
    return ActAtBike(at.request, at.session, at.reading, at.opened, author, Typed(words, at.reading))


ActDep = Annotated[ActAtBike, Depends(act_at_bike)]


def _with_odometer(bike: KeptBike, day: str, km: float | None, who: str) -> KeptBike:
    if km is None or any(r.day == day and r.km == km for r in bike.odometer):
        return bike
    row = OdometerReading(id=next_id("odo", bike.odometer), day=day, km=km, who=who)
    return bike.model_copy(update={"odometer": (*bike.odometer, row)})


@router.post("/bikes/{bike_id}/readings")
def read_parts(c: ActDep) -> Response:
    """What was read today: the odometer, and of every part that is on the bike its thickness, as far as typed."""
    who = c.author.who
    try:
        day, km = c.typed.day(), c.typed.km()
        rows = []
        for life in c.book.readable:
            label = f"{life.end.value} {'pads' if life.what is Renewal.PAD else 'rotor'}"
            mm = c.typed.thickness_mm(f"mm-{life.id}", label)
            if mm is None:
                continue
            other = c.typed.thickness_mm(f"other-{life.id}", f"{label}, the other one")
            thin, thick = (mm, None) if other is None else (min(mm, other), max(mm, other))
            offered = [key for key, _ in READ_WITH[life.what]]
            gauge = c.typed.text(f"gauge-{life.id}", 20)
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
            read = WearReading(id=next_id("read", bike.readings), **row)
            bike = bike.model_copy(update={"readings": (*bike.readings, read)})
        return _with_odometer(bike, day, km, who)

    told = ([f"{len(rows)} read"] if rows else []) + (["odometer"] if km is not None else [])
    return c.done(act, "readings: " + ", ".join(told))


@router.post("/bikes/{bike_id}/readings/{reading_id}/remove")
def drop_reading(c: ActDep, reading_id: str) -> Response:
    """A reading was a mistake; the history keeps it."""

    def act(bike: KeptBike) -> KeptBike:
        return bike.model_copy(update={"readings": tuple(r for r in bike.readings if r.id != reading_id)})

    return c.done(act, "a reading taken out")


@router.post("/bikes/{bike_id}/entries")
def write_entry(c: ActDep) -> Response:
    """One thing that was done, in words."""
    what = c.typed.text("what", 200)
    if not what:
        return c.refused("What was done? One thing for each entry.")
    try:
        day, km = c.typed.day(), c.typed.km()
    except QuantityError as error:
        return c.refused(error.said)
    why, end, who = c.typed.text("why", 300), c.typed.end(), c.author.who

    def act(bike: KeptBike) -> KeptBike:
        row = LogEntry(
            id=next_id("entry", bike.entries), day=day, km=km, end=end, what=what, why=why, who=who,
            visit=f"day-{day}",
        )  # fmt: skip
        return _with_odometer(bike.model_copy(update={"entries": (*bike.entries, row)}), day, km, who)

    return c.done(act, f"entry: {what}")


@router.post("/bikes/{bike_id}/tightened/{end}")
def tighten(c: ActDep, end: End) -> Response:
    """The bolts of a wheel were tightened once more, after the first ride."""
    day, who = bikes.today().isoformat(), c.author.who

    def act(bike: KeptBike) -> KeptBike:
        row = LogEntry(
            id=next_id(RETORQUED, bike.entries), day=day, end=end, what=f"{end.value} bolts tightened once more",
            renewal=Renewal.BOLTS, who=who,
        )  # fmt: skip
        return bike.model_copy(update={"entries": (*bike.entries, row)})

    return c.done(act, f"{end.value} bolts tightened once more")


@router.post("/bikes/{bike_id}/visits/{visit_id}")
def answer_for_visit(c: ActDep, visit_id: str) -> Response:
    """What became of a complaint, and which of the things that were done is shown to be its cure."""
    word = c.typed.text("outcome", 20)
    cured_by, shown_by = c.typed.text("cured_by", 40) or None, c.typed.text("shown_by", 300)
    if cured_by and not shown_by and len(c.opened.bike.of_visit(visit_id)) > 1:
        return c.refused("What shows that it was this one? A trial, or one change undone.")
    outcome = Outcome(word) if word in set(Outcome) else Outcome.NOT_SAID

    def act(bike: KeptBike) -> KeptBike:
        told = {"outcome": outcome, "cured_by": cured_by, "shown_by": shown_by, "who": c.author.who}
        visits = tuple(v.model_copy(update=told) if v.id == visit_id else v for v in bike.visits)
        return bike.model_copy(update={"visits": visits})

    return c.done(act, f"complaint: {OUTCOMES[outcome]}")


FIELD_WORDS = {
    "kind": "Kind", "name": "Name", "frame_number": "Frame number", "fleet": "Fleet", "weekly_km": "Distance a week",
    "note": "Note",
}  # fmt: skip


@router.post("/bikes/{bike_id}/field/{name}")
def set_field(
    c: ActDep, name: Literal["name", "kind", "frame_number", "fleet", "weekly_km", "note"],
    base: Annotated[int, Form(ge=0, le=2**31 - 1)], value: Annotated[str, Form(max_length=2000)] = "",
) -> Response:  # fmt: skip
    """One field of the bike; refused where somebody else has changed it since the page was opened."""
    most = {"name": 80, "frame_number": 40, "fleet": 40, "note": 2000}
    try:
        kept: Any = value.strip()[: most.get(name, 40)]
        if name == "kind":
            kept = BikeKind(kept) if kept in set(BikeKind) else None
        if name == "weekly_km":
            kept = c.typed.quantity("value", "km", "Distance a week", 0.1, 3000)
        opened = bikes.change_field(c.session, c.opened.id, base, c.author.who, name, kept, FIELD_WORDS[name])
    except QuantityError as error:
        return c.refused(error.said)
    except jobs.ConflictError as error:
        words = "{who} changed this in the meantime: it is “{theirs}” now. Type yours again to put it in its place."
        return c.refused(say(words, who=error.who, theirs=str(error.theirs)))
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return AtBike(c.request, c.session, c.reading, opened).shown("keep/book.html")


@router.post("/bikes/{bike_id}/person")
def whose(c: ActDep) -> Response:
    """Whose bike it is: name, telephone, e-mail, only what is entered."""
    try:
        person = people.read(c.typed.text("name", 200), c.typed.text("phone", 200), c.typed.text("email", 200))
        people.of_bike(c.session, c.opened.id, person, c.author.who)
    except jobs.RefusedError as error:
        return c.refused(error.said)
    opened = bikes.open_bike(c.session, c.opened.id)
    return AtBike(c.request, c.session, c.reading, opened).shown("keep/book.html")


@router.post("/bikes/{bike_id}/undo")
def undo(c: ActDep) -> Response:
    """Take the newest act on this bike back; another person's is not taken back by accident."""
    try:
        opened = bikes.undo(c.session, c.opened.id, c.author.who, anybodys=c.typed.text("anybodys", 3) == "on")
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return AtBike(c.request, c.session, c.reading, opened).shown("keep/book.html")


@router.post("/bikes/{bike_id}/archive")
def put_away(c: ActDep) -> Response:
    """Put the bike away, or take it out again."""
    bikes.archive(c.session, c.opened.id, c.author.who, archived=not c.opened.archived)
    opened = bikes.open_bike(c.session, c.opened.id)
    return AtBike(c.request, c.session, c.reading, opened).shown("keep/book.html")


@router.post("/bikes/{bike_id}/erase")
def erase(c: ActDep) -> Response:
    """Erase the bike with its book, for good; not while there are jobs about it."""
    try:
        bikes.erase(c.session, c.opened.id)
    except jobs.RefusedError as error:
        return c.refused(error.said)
    return Response(headers={"HX-Redirect": "/bikes"})


@router.post("/bikes/{bike_id}/jobs")
def begin_job(c: ActDep) -> Response:
    """A bike that comes back: its new job begins with what is known."""
    number = keeping.begin_again(c.session, c.opened.id, c.author)
    address = f"/jobs/{number}/intake"
    if c.request.headers.get("hx-request"):
        return Response(headers={"HX-Redirect": address})
    return RedirectResponse(address, 303)
