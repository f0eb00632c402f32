"""A job on the bench: as read, with its answers, as the page that is open looks at them."""

import logging
import zlib
from collections.abc import Callable, Hashable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from types import MappingProxyType
from typing import Annotated, Any, TypeVar
from urllib.parse import parse_qsl, urlsplit

from fastapi import Depends, HTTPException, Request
from sqlalchemy.orm import Session
from starlette.datastructures import State

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import Evaluation, SetupName, SetupResult, evaluate, with_proposed
from clavis.core.evaluation.open_points import OpenPoint
from clavis.core.evaluation.view_conditions import AS_ENTERED, Age, ViewConditions, Wetness, under
from clavis.core.inspection.findings import Finding, findings_of, open_stops
from clavis.core.inspection.guide import Guide, cheaper_first, guide_of
from clavis.core.job.document import BESIDE_THE_SETUP, Job
from clavis.core.parts.catalogue import Catalogue
from clavis.core.physics.forces import Pull
from clavis.core.physics.road import Track
from clavis.core.sentences import Words
from clavis.core.wording.job_summary import complaint_sentence, rider_sentence, setup_sentence
from clavis.core.workshop.sign_off import SignedState, signed_state
from clavis.core.workshop.supply import SupplyLine, needs_of, supply_of, waits_for
from clavis.core.workshop.work_order import WorkOrder, work_order
from clavis.instruments.line_ports import InstrumentPorts
from clavis.store import due_list, jobs, shelf
from clavis.store.database import rest
from clavis.web.shell.answer_cache import AnswerCache
from clavis.web.shell.form_fields import FieldView
from clavis.web.shell.history_words import UndoOffer, undo_offer
from clavis.web.shell.job_fields import field_view
from clavis.web.shell.readers import Reader
from clavis.web.shell.station_states import StationView, station_views
from clavis.web.shell.templates import page_address

log = logging.getLogger("clavis.pages")
T = TypeVar("T")
Stamp = int


def database(request: Request) -> Iterator[Session]:
    with request.app.state.sessions() as session:
        request.state.session = session
        yield session


SessionDep = Annotated[Session, Depends(database)]


@dataclass(frozen=True)
class Head:
    """What stands over every page of a job."""

    rider: Words
    complaint: Words
    fitted: SetupResult | None
    fitted_words: Words
    setup: SetupResult | None
    """the proposed setup where there is one, otherwise the fitted one"""
    setup_words: Words


@dataclass(frozen=True)
class Bench:
    """One job on the bench as a page sees it."""

    opened: jobs.Opened
    catalogue: Catalogue
    stamp: Stamp
    """changes whenever a part of the catalogue does"""
    tracks: dict[str, Track]
    evaluation: Evaluation
    reading: Reader
    answers: AnswerCache
    stand_ins: bool
    """invented gauge readings may be sent into this job"""
    session: Session
    instruments: InstrumentPorts
    asked: Mapping[str, str]
    """what the address of the opened page asks for (``place``, ``show``), also in the answer to a change on it"""

    @property
    def job(self) -> Job:
        return self.opened.job

    def kept(self, name: str, make: Callable[[], T], *more: Hashable) -> T:
        """An answer that rests on this version of the job, the catalogue and ``more``; made once."""
        return self.answer((name, self.opened.id, self.opened.version, self.stamp, *more), make)

    def answer(self, key: Hashable, make: Callable[[], T]) -> T:
        """An answer that rests on all that ``key`` names; made once. No connection is held while it is worked out."""
        rest(self.session)
        return self.answers.get(key, make)

    def answer_large(self, key: Hashable, make: Callable[[], T]) -> T:
        """The same of an answer that is large until it is weighed."""
        rest(self.session)
        return self.answers.get_large(key, make)

    def pause(self) -> Callable[[], None]:
        """What long work on this version of the job calls between its steps."""
        return self.answers.courtesy.pause(self.opened.id, (self.stamp, self.opened.version))

    @cached_property
    def view(self) -> ViewConditions:
        return view_asked(self.asked)

    @cached_property
    def seen(self) -> "Bench":
        """The same bench with job and answers as the sheet looks at them; nothing is kept through it."""
        if self.view.as_entered:
            return self
        found = self.kept(
            "seen", lambda: evaluation_of(self.answers, self.job, self.catalogue, self.stamp, self.tracks, self.view),
            self.view,
        )  # fmt: skip
        return replace(self, opened=replace(self.opened, job=under(self.job, self.view)), evaluation=found)

    @cached_property
    def head(self) -> Head:
        fitted, problem = self.evaluation.fitted, self.evaluation.problem
        setup = self.evaluation.proposed if self.has_proposal else fitted
        return Head(
            rider_sentence(self.job), complaint_sentence(self.job), fitted, problem or setup_sentence(fitted), setup,
            problem or setup_sentence(setup),
        )  # fmt: skip

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        return findings_of(self.evaluation)

    @cached_property
    def stops(self) -> tuple[Finding, ...]:
        """What makes the bike unsafe to ride as it stands."""
        return open_stops(self.findings)

    @cached_property
    def cheaper_first(self) -> OpenPoint | None:
        """What the complaint guide says before any part is bought."""
        return cheaper_first(self.guide, self.job.complaint_end)

    @cached_property
    def guide(self) -> Guide:
        """The complaint guide; of what is proposed it rests on the kinds of part alone that are new."""
        proposed = self.evaluation.cases.get(SetupName.PROPOSED, {})
        new = tuple((end, case.fit_case.new) for end, case in proposed.items())
        key = ("guide", self.job.model_dump_json(exclude={"proposal", "pins"}), self.stamp, new)
        return self.answer(key, lambda: guide_of(self.job, self.evaluation))

    @cached_property
    def order(self) -> WorkOrder:
        """The work order of the proposed setup, with the gate that it has to pass."""
        return work_order(self.job, self.evaluation)

    @cached_property
    def supply(self) -> tuple[SupplyLine, ...]:
        """What the order needs, and what of it is in hand."""
        needs = needs_of(self.order)
        lying = shelf.stock(self.session, [need.part_id for need in needs])
        return supply_of(needs, shelf.supplied(self.session, self.opened.id), lying)

    @cached_property
    def signed(self) -> SignedState:
        return signed_state(self.job, self.evaluation, self.catalogue)

    @cached_property
    def undo(self) -> UndoOffer:
        """What the buttons of the head would take back, or do again."""
        return undo_offer(self.session, self.opened.id, self.catalogue)

    @property
    def has_proposal(self) -> bool:
        return self.job.proposes

    @property
    def shown(self) -> SetupName:
        """The setup that pages are about: the proposed one where there is one."""
        return SetupName.PROPOSED if self.has_proposal else SetupName.FITTED

    @cached_property
    def stations(self) -> tuple[StationView, ...]:
        due = due_list.of_bike(self.session, self.opened.bike_id)
        waits = waits_for(self.supply)
        return station_views(self.job, self.evaluation, self.findings, self.order, self.signed, waits, due)

    def field(self, path: str, typed: str = "") -> FieldView:
        """A field as it is shown; of its parts those that have every word ``typed``."""
        return field_view(self.job, path, self.catalogue, self.reading.system, typed)


def view_asked(asked: Mapping[str, str]) -> ViewConditions:
    """How the page that is open looks at the job: what of its address says so."""

    def word(name: str, words: type[StrEnum]) -> Any:
        return words(asked[name]) if asked.get(name) in {w.value for w in words} else None

    return ViewConditions(
        word("weather", Wetness), word("pull", Pull), word("age", Age), asked.get("regeneration") == "on"
    )


def catalogue_of(request: Request, session: Session) -> tuple[Catalogue, Stamp]:
    """The catalogue, parsed once until a part changes, and what changes with it."""
    return catalogue_in(request.app.state.answers, session)


def catalogue_in(answers: AnswerCache, session: Session) -> tuple[Catalogue, Stamp]:
    """The same without a request."""
    stamp = jobs.catalogue_stamp(session)

    def read() -> Catalogue:
        answers.forget()  # what rests on another catalogue is not asked for again, and would hold that one in memory
        return jobs.read_catalogue(session)

    return answers.get(("catalogue", stamp), read), stamp


NOTHING_ASKED: Mapping[str, str] = MappingProxyType({})
NOT_FITTED = dict.fromkeys((*BESIDE_THE_SETUP, "proposal"), True)
"""what of a job does not touch the setup that is fitted"""


def evaluation_of(
    answers: AnswerCache,
    job: Job,
    catalogue: Catalogue,
    stamp: Stamp,
    tracks: Mapping[str, Track],
    view: ViewConditions = AS_ENTERED,
) -> Evaluation:
    """Both setups; the fitted one is worked out once and kept while only the proposal changes."""
    key = ("fitted", job.model_dump_json(exclude=NOT_FITTED), stamp, view)
    base = answers.get(key, lambda: evaluate(job, catalogue, tracks, view, (SetupName.FITTED,)))
    return with_proposed(job, base, tracks, view)


def _worked_out(
    answers: AnswerCache, opened: jobs.Opened, catalogue: Catalogue, stamp: Stamp, tracks: Mapping[str, Track]
) -> Evaluation:
    """The answers of a job. Whatever goes wrong in one job is told of that job and holds up nothing else: raises
    UncomputableError."""
    try:
        return evaluation_of(answers, opened.job, catalogue, stamp, tracks)
    except ClavisError as error:
        raise jobs.UncomputableError("job", f"{opened.id}", error.said) from error
    except (ArithmeticError, LookupError, TypeError, ValueError, MemoryError, AttributeError) as error:
        log.exception("job %s cannot be computed", opened.id)
        raise jobs.UncomputableError("job", f"{opened.id}", "its figures cannot be computed") from error


def bench_of(request: Request, session: Session, reading: Reader, opened: jobs.Opened) -> Bench:
    """A job as read, with its answers, as the page that is open looks at it."""
    asked = dict(parse_qsl(urlsplit(page_address(request)).query))
    return bench_in(request.app.state, session, reading, opened, asked)


def bench_in(
    state: State, session: Session, reading: Reader, opened: jobs.Opened, asked: Mapping[str, str] = NOTHING_ASKED
) -> Bench:
    """A job as read, with its answers, for no page in particular."""
    answers: AnswerCache = state.answers
    catalogue, stamp = catalogue_in(answers, session)
    wanted = sorted({ride.track_id for ride in opened.job.rides if ride.track_id})
    try:
        tracks = answers.get(("tracks", *wanted), lambda: jobs.tracks_of(session, opened.job.rides))
    except (ClavisError, ValueError, zlib.error) as error:
        said = error.said if isinstance(error, ClavisError) else "the points of its track are damaged"
        raise jobs.UncomputableError("job", f"{opened.id}", said) from error
    rest(session)
    answers.courtesy.seen(opened.id, (stamp, opened.version))
    key = ("job", opened.id, opened.version, stamp)
    evaluation = answers.get(key, lambda: _worked_out(answers, opened, catalogue, stamp, tracks))
    ports: InstrumentPorts = state.instruments
    stand_ins = opened.demo or state.settings.stand_in_gauges
    return Bench(opened, catalogue, stamp, tracks, evaluation, reading, answers, stand_ins, session, ports, asked)


def bench(request: Request, session: Session, reading: Reader, job_id: int) -> Bench:
    """A job with its answers; 404 where there is none."""
    try:
        opened = jobs.open_job(session, job_id)
    except jobs.NotThereError as error:
        raise HTTPException(404, reading.told(error.said)) from None
    return bench_of(request, session, reading, opened)
