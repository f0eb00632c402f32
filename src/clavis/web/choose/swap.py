"""Parts swapped on the sheet: one size up or down, one found by typing, or a whole candidate."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form, Query
from starlette.responses import Response

from clavis.core.evaluation.evaluate import SetupName
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.job.document import Pick
from clavis.core.parts.models import AnyPart, Axis, Brake
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import neighbours
from clavis.core.sentences import NOTHING, Words
from clavis.core.wording.labels import part_words
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room
from clavis.web.shell.visit import ChangeDep, VisitDep

router = APIRouter()
MOST_OFFERS = 12


@dataclass(frozen=True)
class Offer:
    """A part that could go on a place of the sheet, and why it does not go with the rest; empty where it does."""

    part: AnyPart
    words: str
    refused: Words
    current: bool


def offers_of(b: Bench, end: End, axis: Axis, typed: str) -> tuple[list[Offer], int]:
    """Parts of one kind whose name or figures have every word, those that go first; and how many more there are."""
    words = typed.lower().split()[:6]
    mounting, brake = b.evaluation.mountings[end], b.evaluation.cases[SetupName.PROPOSED][end].brake
    order = {p.id: k for k, p in enumerate(neighbours(mounting, axis, Brake()))}
    current = brake.of(axis)
    offers = []
    for part in b.catalogue.of_kind(axis.value).values():
        told = part_words(part)
        if part.retired or not all(word in f"{part.name} {told}".lower() for word in words):
            continue
        refused = part_refusals(mounting, brake, part) or ()
        offers.append(Offer(part, told, refused[0] if refused else NOTHING, part == current))
    offers.sort(key=lambda o: (bool(o.refused), order.get(o.part.id, len(order)), o.part.id))
    return offers[:MOST_OFFERS], max(len(offers) - MOST_OFFERS, 0)


@router.get("/jobs/{job_id}/offers/{end}/{axis}")
def offers(v: VisitDep, end: End, axis: Axis, typed: Annotated[str, Query(max_length=80)] = "") -> Response:
    """What can be put on a place of the sheet, found by typing."""
    found, more = offers_of(v.bench, end, axis, typed)
    fitted = v.bench.evaluation.mountings[end].wheel.on_it.of(axis)
    return v.piece("choose/offers.html", offers=found, more=more, fitted=fitted, axis=axis)


@router.post("/jobs/{job_id}/swap")
def swap(
    c: ChangeDep,
    end: Annotated[End, Form()],
    axis: Annotated[Axis, Form()],
    part_id: Annotated[str, Form(max_length=60)] = "",
) -> Response:
    """Propose one part; none keeps what is fitted."""
    return c.answered(c.keep(f"proposal.{end.value}.{axis.value}_id", part_id or None), Room.CHOOSE)


@router.post("/jobs/{job_id}/step")
def step(
    c: ChangeDep,
    end: Annotated[End, Form()],
    kind: Annotated[Axis, Form()],
    by: Annotated[int, Form(ge=-1, le=1)],
    room: Annotated[Room, Form()] = Room.CHOOSE,
) -> Response:
    """One size up or down from what is proposed (or fitted) on one wheel; a key does it."""
    evaluation = c.bench.evaluation
    brake = evaluation.cases[SetupName.PROPOSED][end].brake
    options = [part.id for part in neighbours(evaluation.mountings[end], kind, brake)]
    if not options:
        raise c.refused(422, f"The catalogue has no {kind.value}.")
    current = brake.of(kind)
    at = options.index(current.id) + by if current is not None and current.id in options else 0
    chosen = options[min(max(at, 0), len(options) - 1)]
    return c.answered(c.keep(f"proposal.{end.value}.{kind.value}_id", chosen), room)


@router.post("/jobs/{job_id}/pick")
def pick(
    c: ChangeDep,
    end: Annotated[End, Form()],
    rotor_id: Annotated[str, Form()] = "",
    caliper_id: Annotated[str, Form()] = "",
    lever_id: Annotated[str, Form()] = "",
    pad_id: Annotated[str, Form()] = "",
) -> Response:
    """Propose a whole candidate for one wheel; nothing given keeps what is fitted."""
    chosen = Pick(
        rotor_id=rotor_id or None, caliper_id=caliper_id or None, lever_id=lever_id or None, pad_id=pad_id or None
    )
    return c.answered(c.keep(f"proposal.{end.value}", chosen.model_dump()), Room.CHOOSE)
