"""Parts swapped on the sheet: one size up or down, one found by typing, or a whole candidate."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import Form, Query
from starlette.responses import Response

from clavis.core.evaluation.evaluate import SetupName
from clavis.core.evaluation.setups import brake_of
from clavis.core.fit.mounting import Mounting
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.job.pick import Pick
from clavis.core.parts.models import AnyPart, Axis, Brake
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import Stepped, brought, in_step_order, refusal_of, stepped
from clavis.core.sentences import NOTHING, Words, joined, say
from clavis.core.wording.labels import called, part_words
from clavis.store import jobs
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.choices import pick_or_422
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep, VisitDep

router = routes.router()
MOST_OFFERS = 12


@dataclass(frozen=True)
class Offer:
    """A part that could go on a place of the sheet, and why it does not go with the rest; empty where it does."""

    part: AnyPart
    words: str
    refused: Words
    along: str
    """what it brings along, by name"""
    current: bool


def offers_of(b: Bench, end: End, axis: Axis, typed: str) -> tuple[list[Offer], int]:
    """Parts of one kind whose name or figures have every word, those that go first; and how many more there are."""
    mounting, brake = b.evaluation.place_for(end), b.evaluation.cases[SetupName.PROPOSED][end].brake
    current = brake.of(axis)
    matching = [part for part in in_step_order(mounting, axis, current) if called(part, typed)]
    matching.sort(key=lambda part: bool(part_refusals(mounting, brake, part)))
    shown = [_offer(mounting, brake, axis, part, current) for part in matching[:MOST_OFFERS]]
    return sorted(shown, key=lambda o: bool(o.refused)), max(len(matching) - MOST_OFFERS, 0)


def _offer(mounting: Mounting, brake: Brake, axis: Axis, part: AnyPart, current: object) -> Offer:
    found = brought(mounting, brake, axis, part)
    along = [p.name for a in found.along if (p := found.brake.of(a)) is not None]
    return Offer(part, part_words(part), found.refused, " and ".join(along), part == current)


@router.get("/jobs/{job_id}/offers/{end}/{axis}", dependencies=APPRENTICE)
def offers(v: VisitDep, end: End, axis: Axis, typed: Annotated[str, Query(max_length=80)] = "") -> Response:
    """What can be put on a place of the sheet, found by typing."""
    found, more = offers_of(v.bench, end, axis, typed)
    fitted = v.bench.evaluation.place_for(end).wheel.on_it.of(axis)
    adds = f"/jobs/{v.job_id}/quick/proposal.{end.value}.{axis.value}_id"
    return v.piece("choose/offers.html", offers=found, more=more, fitted=fitted, axis=axis, adds=adds)


def _picked(pick: Pick, fitted: Brake, brake: Brake, axes: Sequence[Axis]) -> dict[str, object]:
    """What is picked once these kinds of part are those of a brake: the one that is on the wheel is kept, not
    picked."""
    told = pick.model_dump(mode="json")
    for axis in axes:
        part, on_it = brake.of(axis), fitted.of(axis)
        told[f"{axis.value}_id"] = None if part is None or part == on_it else part.id
    return told


def _put(c: ChangeDep, end: End, axis: Axis, part_id: str) -> Bench:
    """One part proposed with what it brings along. Raises RefusedError where it does not go with the rest."""
    mounting = c.bench.evaluation.place_for(end)
    path, on_it = f"proposal.{end.value}", mounting.wheel.on_it
    part = c.bench.catalogue.of_kind(axis.value).get(part_id) if part_id else on_it.of(axis)
    if part_id and part is None:
        raise jobs.RefusedError(f"{path}.{axis.value}_id", f"no part “{part_id[:60]}” in the catalogue")
    if part is None:
        return c.keep(f"{path}.{axis.value}_id", None)
    found = brought(mounting, c.bench.evaluation.cases[SetupName.PROPOSED][end].brake, axis, part)
    if found.refused:
        raise jobs.RefusedError(f"{path}.{axis.value}_id", say("{part}: {why}", part=part.name, why=found.refused))
    if not found.along:
        return c.keep(f"{path}.{axis.value}_id", part_id or None)
    return c.keep(path, _picked(c.bench.job.proposal.of(end), on_it, found.brake, (axis, *found.along)))


@router.post("/jobs/{job_id}/swap", dependencies=APPRENTICE)
def swap(
    c: ChangeDep,
    end: Annotated[End, Form()],
    axis: Annotated[Axis, Form()],
    part_id: Annotated[str, Form(max_length=60)] = "",
    room: Annotated[Room, Form()] = Room.CHOOSE,
) -> Response:
    """Propose one part; none keeps what is fitted. What cannot go with it comes along; what cannot go at all is
    refused, with the reason."""
    return c.answered(c.or_refused(lambda: _put(c, end, axis, part_id)), room)


MOST_REASONS = 2


def _skipped(found: Stepped, kind: Axis) -> Words:
    """Why a step went further than the next part, or nowhere."""
    why = joined(list(found.why[:MOST_REASONS]), "; ")
    if found.part is None:
        return say("no further {kind}: {why}", kind=kind, why=why) if why else say("no further {kind}", kind=kind)
    return say("{count} skipped: {why}", count=found.skipped, why=why) if why else NOTHING


@router.post("/jobs/{job_id}/step", dependencies=APPRENTICE)
def step(
    c: ChangeDep,
    end: Annotated[End, Form()],
    kind: Annotated[Axis, Form()],
    by: Annotated[int, Form(ge=-1, le=1)],
    room: Annotated[Room, Form()] = Room.CHOOSE,
) -> Response:
    """One size up or down from what is proposed (or fitted) on one wheel; a key does it. What does not go is skipped,
    and the page says why."""
    evaluation = c.bench.evaluation
    brake = evaluation.cases[SetupName.PROPOSED][end].brake
    if not c.bench.catalogue.of_kind(kind.value):
        raise c.refused(422, f"The catalogue has no {kind.value}.")
    found = stepped(evaluation.place_for(end), kind, brake, by)
    if found.part is None:
        raise c.refused(422, say("{why:cap}.", why=_skipped(found, kind)))
    now = c.keep(f"proposal.{end.value}.{kind.value}_id", found.part.id)
    return c.answered(now, room, said=_skipped(found, kind))


@router.post("/jobs/{job_id}/pick", dependencies=APPRENTICE)
def pick(
    c: ChangeDep,
    end: Annotated[End, Form()],
    rotor_id: Annotated[str, Form()] = "",
    caliper_id: Annotated[str, Form()] = "",
    lever_id: Annotated[str, Form()] = "",
    pad_id: Annotated[str, Form()] = "",
    renew: Annotated[str, Form(max_length=120)] = "",
) -> Response:
    """Propose a whole candidate for one wheel; nothing given keeps what is fitted. ``renew`` is what comes new of the
    same, parted by spaces. A candidate that does not go together is refused."""
    chosen = pick_or_422(
        renew, rotor_id=rotor_id or None, caliper_id=caliper_id or None, lever_id=lever_id or None,
        pad_id=pad_id or None, wheel_id=c.bench.job.proposal.of(end).wheel_id,
    )  # fmt: skip
    mounting = c.bench.evaluation.place_for(end)
    brake = brake_of(mounting.wheel, chosen, c.bench.catalogue)
    refused = next((r for axis in Axis if (r := refusal_of(mounting, brake, axis))), NOTHING)
    if refused and brake != mounting.wheel.on_it:
        raise c.refused(422, say("{why:cap}.", why=refused))
    kept = chosen.model_dump(mode="json")
    return c.answered(c.or_refused(lambda: c.keep(f"proposal.{end.value}", kept)), Room.CHOOSE)
