"""What a request works with: the session, the reader's units and name, templates, and a job with its answers."""

import secrets
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from pathlib import Path
from threading import Lock
from typing import Annotated, Any
from urllib.parse import parse_qsl, unquote, urlsplit

from fastapi import Depends, Form, HTTPException, Request
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse

from clavis.core import units, verdicts
from clavis.core.evaluation.evaluate import Evaluation, SetupName, evaluate, with_proposed
from clavis.core.evaluation.view_conditions import CLEAR, Age, Lens, Wetness, through
from clavis.core.inspection.findings import Finding, findings_of, open_stops
from clavis.core.job.document import Job
from clavis.core.parts.models import Catalogue
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Pull
from clavis.core.physics.road import Track
from clavis.core.units import System
from clavis.core.wording.job_summary import Station, complaint_sentence, rider_sentence, setup_sentence, station_views
from clavis.core.wording.labels import END_WORDS, choice_word, field_word, place_word
from clavis.store import jobs
from clavis.web.shell import fields
from clavis.web.shell.long_work import Courtesy
from clavis.web.shell.settings import Settings

WHO_COOKIE, UNITS_COOKIE = "clavis_who", "clavis_units"


def _environment() -> Environment:
    env = Environment(
        loader=FileSystemLoader(Path(__file__).parents[1]), autoescape=True, undefined=StrictUndefined,
        trim_blocks=True, lstrip_blocks=True,
    )  # fmt: skip
    env.globals.update(
        End=End, Station=Station, END_WORDS=END_WORDS, SHAPES=verdicts.SHAPES, MEANINGS=verdicts.MEANINGS
    )
    env.filters.update(word=choice_word, field_word=field_word, place_word=place_word)
    return env


TEMPLATES = _environment()


def database(request: Request) -> Iterator[Session]:
    with request.app.state.sessions() as session:
        yield session


SessionDep = Annotated[Session, Depends(database)]


@dataclass(frozen=True)
class Reader:
    """Who reads, in which units."""

    who: str
    system: System


def reader(request: Request) -> Reader:
    chosen = request.cookies.get(UNITS_COOKIE, System.METRIC.value)
    system = System(chosen) if chosen in {s.value for s in System} else System.METRIC
    return Reader(unquote(request.cookies.get(WHO_COOKIE, ""))[:40].strip(), system)


ReaderDep = Annotated[Reader, Depends(reader)]


def author(reading: ReaderDep, page: Annotated[str, Form(max_length=32)] = "") -> jobs.Author:
    """Who makes a change; asked for once per browser."""
    if not reading.who:
        raise HTTPException(428, "Say your name first: it stands on the history, ticks and sign-offs.")
    return jobs.Author(reading.who, page or "none")


AuthorDep = Annotated[jobs.Author, Depends(author)]


class Answers:
    """Evaluations of the newest jobs, kept while neither the job nor the catalogue changes."""

    def __init__(self, most: int = 64) -> None:
        self._kept: OrderedDict[Any, Any] = OrderedDict()
        self._most, self._lock = most, Lock()
        self._making: dict[Any, Lock] = {}
        self.courtesy = Courtesy()
        self._far: dict[tuple[int, str, str], tuple[int, int]] = {}

    def get(self, key: Any, make: Any) -> Any:
        """The answer under ``key``; made once, however many ask for it at the same time."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                if key in self._kept:
                    return self._kept[key]
            try:
                value = make()
            finally:
                with self._lock:
                    self._making.pop(key, None)
            with self._lock:
                self._kept[key] = value
                while len(self._kept) > self._most:
                    self._kept.popitem(last=False)
        return value

    def progress(self, job_id: int, what: str, end: str) -> Callable[[int, int], None]:
        """Where long work says how far it is; between its steps it gives way to changes."""
        give_way = self.courtesy.pause()

        def report(done: int, total: int) -> None:
            give_way()
            with self._lock:
                self._far[job_id, what, end] = (done, total)
                while len(self._far) > self._most:
                    del self._far[next(iter(self._far))]

        return report

    def how_far(self, job_id: int, what: str, end: str) -> tuple[int, int]:
        """Done and total of long work; (0, 0) where nothing was begun."""
        with self._lock:
            return self._far.get((job_id, what, end), (0, 0))


@dataclass(frozen=True)
class Bench:
    """One job on the bench as a page sees it."""

    opened: jobs.Opened
    catalogue: Catalogue
    tracks: dict[str, Track]
    evaluation: Evaluation
    reading: Reader
    answers: Answers
    asked: Mapping[str, str]
    """what the address of the opened page asks for (``place``, ``show``), also in the answer to a change on it"""

    @property
    def job(self) -> Job:
        return self.opened.job

    def pause(self) -> Callable[[], None]:
        """What long work on this version of the job calls between its steps."""
        return self.answers.courtesy.pause(self.opened.id, self.opened.version)

    @cached_property
    def lens(self) -> Lens:
        return lens_asked(self.asked)

    @cached_property
    def seen(self) -> "Bench":
        """The same bench with job and answers as the sheet looks at them; nothing is kept through it."""
        if self.lens.clear:
            return self
        key = ("seen", self.opened.id, self.opened.version, id(self.catalogue), self.lens)
        args = (self.answers, self.job, self.catalogue, self.tracks, self.lens)
        found = self.answers.get(key, lambda: evaluation_of(*args))
        return replace(self, opened=replace(self.opened, job=through(self.job, self.lens)), evaluation=found)

    @cached_property
    def head(self) -> dict[str, Any]:
        setup = self.evaluation.proposed if self.has_proposal else self.evaluation.fitted
        return {
            "rider": rider_sentence(self.job),
            "complaint": complaint_sentence(self.job),
            "fitted": self.evaluation.fitted,
            "fitted_words": self.evaluation.problem or setup_sentence(self.evaluation.fitted),
            "setup": setup,
            "setup_words": self.evaluation.problem or setup_sentence(setup),
        }

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        return findings_of(self.job, self.catalogue)

    @cached_property
    def stops(self) -> tuple[Finding, ...]:
        """Unsafe findings that nobody has answered for."""
        return open_stops(self.job, self.findings)

    @property
    def has_proposal(self) -> bool:
        return any(self.job.proposal.front.model_dump().values()) or any(self.job.proposal.rear.model_dump().values())

    def stations(self) -> Any:
        return station_views(self.job, self.evaluation, self.catalogue)

    def field(self, path: str) -> fields.FieldView:
        return fields.field_view(self.job, path, self.catalogue, self.reading.system)


def lens_asked(asked: Mapping[str, str]) -> Lens:
    """How the page that is open looks at the job: what of its address is a word of the lens."""

    def word(name: str, words: type[StrEnum]) -> Any:
        return words(asked[name]) if asked.get(name) in {w.value for w in words} else None

    return Lens(word("weather", Wetness), word("pull", Pull), word("age", Age), asked.get("regeneration") != "off")


def catalogue_of(request: Request, session: Session) -> Catalogue:
    """The catalogue, parsed once until a part changes."""
    stamp = jobs.catalogue_stamp(session)
    catalogue: Catalogue = request.app.state.answers.get(("catalogue", stamp), lambda: jobs.read_catalogue(session))
    return catalogue


def bench(request: Request, session: Session, reading: Reader, job_id: int) -> Bench:
    """A job with its answers; 404 where there is none."""
    try:
        opened = jobs.open_job(session, job_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, str(error)) from None
    return bench_of(request, session, reading, opened)


def page_address(request: Request) -> str:
    """Path and query of the page that is open: the one asked for, or the one on which a change was made."""
    opened = urlsplit(request.headers.get("hx-current-url") or str(request.url))
    return f"{opened.path}?{opened.query}" if opened.query else opened.path


def _asked(request: Request) -> dict[str, str]:
    return dict(parse_qsl(urlsplit(page_address(request)).query))


NOT_FITTED: dict[str, Any] = {
    "proposal": True, "special": True,
    **dict.fromkeys(("title", "pins", "ticks", "cleared", "replies", "signed_off", "keeps"), True),
}  # fmt: skip
"""what of a job does not touch the setup that is fitted"""


def evaluation_of(
    answers: Answers, job: Job, catalogue: Catalogue, tracks: Mapping[str, Track], lens: Lens = CLEAR
) -> Evaluation:
    """Both setups; the fitted one is worked out once and kept while only the proposal changes."""
    key = ("fitted", job.model_dump_json(exclude=NOT_FITTED), id(catalogue), lens)
    base: Evaluation = answers.get(key, lambda: evaluate(job, catalogue, tracks, lens, (SetupName.FITTED,)))
    return with_proposed(job, base, catalogue, tracks, lens)


def bench_of(request: Request, session: Session, reading: Reader, opened: jobs.Opened) -> Bench:
    answers: Answers = request.app.state.answers
    catalogue = catalogue_of(request, session)
    wanted = sorted({ride.track_id for ride in opened.job.rides if ride.track_id})
    tracks = answers.get(("tracks", *wanted), lambda: jobs.tracks_of(session, opened.job.rides))
    answers.courtesy.seen(opened.id, opened.version)
    key = ("job", opened.id, opened.version, id(catalogue))
    evaluation: Evaluation = answers.get(key, lambda: evaluation_of(answers, opened.job, catalogue, tracks))
    return Bench(opened, catalogue, tracks, evaluation, reading, answers, _asked(request))


def _context(request: Request, reading: Reader, more: dict[str, Any]) -> dict[str, Any]:
    system = reading.system
    settings: Settings = request.app.state.settings
    return {
        "request": request, "here": page_address(request), "reading": reading, "system": system, "settings": settings,
        "show": lambda v, kind, decimals=None: units.show(v, kind, system, decimals),
        "number": lambda v, kind, decimals=None: units.number(v, kind, system, decimals),
        "sign": lambda kind: units.sign(kind, system),
        "signed": lambda v, kind, decimals=None: units.signed(v, kind, system, decimals),
        # what is bolted and drawn is sold and made in millimetres, whatever the reader's units
        "mm_show": lambda v, decimals=None: units.show(v, "mm", System.METRIC, decimals),
        "mm_number": lambda v, decimals=None: units.number(v, "mm", System.METRIC, decimals),
        "mm_signed": lambda v, decimals=None: units.signed(v, "mm", System.METRIC, decimals),
        "currency": settings.currency,
        "field_oob": False, **more,
    }  # fmt: skip


def render(request: Request, reading: Reader, template: str, status: int = 200, **more: Any) -> HTMLResponse:
    return HTMLResponse(TEMPLATES.get_template(template).render(_context(request, reading, more)), status)


def new_page() -> str:
    """A name for one opened page, so that a page is never in conflict with itself."""
    return secrets.token_hex(8)
