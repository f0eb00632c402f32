"""Parts swapped on the spine sheet: one size up or down, one found by typing, or a whole candidate."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Query, Request
from starlette.responses import Response

from clavis.core.evaluation.rules import against_wheel
from clavis.core.evaluation.setups import WheelSetup, setup_of
from clavis.core.job.document import Axis, Pick
from clavis.core.parts.models import AnyPart
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import neighbours
from clavis.core.wording.labels import part_words
from clavis.store import jobs
from clavis.web.choose.choose import answer
from clavis.web.shell.context import AuthorDep, Bench, ReaderDep, SessionDep, bench, bench_of, render
from clavis.web.shell.stations import Room

router = APIRouter()
MOST_OFFERS = 12


@dataclass(frozen=True)
class Offer:
    """A part that could go on a place of the sheet, and why it does not go with the rest; empty where it does."""

    part: AnyPart
    words: str
    refused: str
    current: bool


def offers_of(b: Bench, end: End, axis: Axis, typed: str) -> tuple[list[Offer], int]:
    """Parts of one kind whose name or figures have every word, those that go first; and how many more there are."""
    words = typed.lower().split()[:6]
    found = setup_of(b.job, end, b.job.proposal.of(end), b.catalogue)
    order = {p.id: k for k, p in enumerate(neighbours(b.job, end, axis.value, None, b.catalogue))}
    current = getattr(found, axis.value).id if isinstance(found, WheelSetup) else None
    offers = []
    for part in b.catalogue.of_kind(axis.value).values():
        told = part_words(part)
        if part.retired or not all(word in f"{part.name} {told}".lower() for word in words):
            continue
        refused = against_wheel(b.job, end, part, b.catalogue) or ()
        offers.append(Offer(part, told, refused[0] if refused else "", part.id == current))
    offers.sort(key=lambda o: (bool(o.refused), order.get(o.part.id, len(order)), o.part.id))
    return offers[:MOST_OFFERS], max(len(offers) - MOST_OFFERS, 0)


@router.get("/jobs/{job_id}/offers/{end}/{axis}")
def offers(
    request: Request,
    session: SessionDep,
    reading: ReaderDep,
    job_id: int,
    end: End,
    axis: Axis,
    typed: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """What can be put on a place of the sheet, found by typing."""
    b = bench(request, session, reading, job_id)
    found, more = offers_of(b, end, axis, typed)
    fitted = b.catalogue.of_kind(axis.value).get(getattr(b.job.wheel(end), f"{axis.value}_id") or "")
    return render(request, reading, "choose/offers.html", offers=found, more=more, fitted=fitted, axis=axis)


@router.post("/jobs/{job_id}/swap")
def swap(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    end: Annotated[End, Form()],
    axis: Annotated[Axis, Form()],
    base: Annotated[int, Form()],
    part_id: Annotated[str, Form(max_length=60)] = "",
) -> Response:
    """Propose one part; none keeps what is fitted."""
    opened = jobs.change(session, job_id, base, author, f"proposal.{end.value}.{axis.value}_id", part_id or None)
    return answer(request, session, bench_of(request, session, reading, opened), author.page, base)


@router.post("/jobs/{job_id}/step")
def step(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    end: Annotated[End, Form()],
    kind: Annotated[str, Form(pattern="^(rotor|caliper|lever|pad)$")],
    by: Annotated[int, Form(ge=-1, le=1)],
    base: Annotated[int, Form()],
    room: Annotated[Room, Form()] = Room.CHOOSE,
) -> Response:
    """One size up or down from what is proposed (or fitted) on one wheel; a key does it."""
    b = bench(request, session, reading, job_id)
    current = getattr(b.job.proposal.of(end), f"{kind}_id") or getattr(b.job.wheel(end), f"{kind}_id")
    found = setup_of(b.job, end, b.job.proposal.of(end), b.catalogue)
    setup = found if isinstance(found, WheelSetup) else None
    options = [p.id for p in neighbours(b.job, end, kind, setup, b.catalogue)]
    if not options:
        raise HTTPException(422, f"The catalogue has no {kind}.")
    at = options.index(current) + by if current in options else 0
    chosen = options[min(max(at, 0), len(options) - 1)]
    opened = jobs.change(session, job_id, base, author, f"proposal.{end.value}.{kind}_id", chosen)
    return answer(request, session, bench_of(request, session, reading, opened), author.page, base, room)


@router.post("/jobs/{job_id}/pick")
def pick(
    request: Request,
    session: SessionDep,
    author: AuthorDep,
    reading: ReaderDep,
    job_id: int,
    end: Annotated[End, Form()],
    base: Annotated[int, Form()],
    rotor_id: Annotated[str, Form()] = "",
    caliper_id: Annotated[str, Form()] = "",
    lever_id: Annotated[str, Form()] = "",
    pad_id: Annotated[str, Form()] = "",
) -> Response:
    """Propose a whole candidate for one wheel; nothing given keeps what is fitted."""
    chosen = Pick(
        rotor_id=rotor_id or None, caliper_id=caliper_id or None, lever_id=lever_id or None, pad_id=pad_id or None
    )
    opened = jobs.change(session, job_id, base, author, f"proposal.{end.value}", chosen.model_dump())
    return answer(request, session, bench_of(request, session, reading, opened), author.page, base)
