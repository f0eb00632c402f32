"""The candidates of a job on the bench, laid out and weighed once for all who ask."""

from hashlib import sha256
from typing import Any

import numpy as np
from fastapi import HTTPException
from pydantic import ValidationError

from clavis.core.job.document import BESIDE_THE_PARTS, BESIDE_THE_SETUP
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import renewals_in
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad
from clavis.core.selection.candidates import Choice, Prepared, Stack, chosen, prepare, stacks_of
from clavis.web.shell.bench import Bench

NOT_ASKED: dict[str, Any] = {
    "proposal": {"front", "rear"},
    **dict.fromkeys(BESIDE_THE_SETUP - {"wishes", "keeps"}, True),
}
"""what of a job no candidate rests on"""


NOT_LAID_OUT = dict.fromkeys(BESIDE_THE_PARTS, True) | NOT_ASKED
"""what of a job does not bear on which parts can be fitted"""


def asked_of(b: Bench, load: BrakeLoad) -> tuple[Any, ...]:
    """What the candidates rest on: the job without what is proposed or pinned, and the ride as it is planned. A part
    that is swapped on the sheet asks for none of them anew."""
    # to a thousandth: the last bits of a sum differ with where its numbers lie in memory
    told = [np.round(values, 3) + 0.0 for values in (load.power_w, load.speed_ms)]
    ridden = sha256(b"".join(values.tobytes() for values in told)).hexdigest()
    return b.job.model_dump_json(exclude=NOT_ASKED), new_wheels(b), ridden, b.stamp


def new_wheels(b: Bench) -> tuple[str | None, ...]:
    return tuple(b.job.proposal.of(end).wheel_id for end in End)


def choice_of(b: Bench, end: End) -> Choice | None:
    """The candidates of one wheel over the proposed setup's ride."""
    situation, setup = b.evaluation.situation, b.evaluation.proposed
    if situation is None or setup is None or setup.load is None or setup.demand is None:
        return None
    load, demand = setup.load, setup.demand
    key = ("choice", *asked_of(b, load), end)
    report = b.answers.progress(b.opened.id, "candidates", end)

    laid_out = ("laid out", b.job.model_dump_json(exclude=NOT_LAID_OUT), new_wheels(b), b.stamp, end)

    def lay_out() -> tuple[Prepared, tuple[Stack, ...]]:
        prepared = prepare(b.job, b.evaluation.place_for(end), report)
        return prepared, stacks_of(prepared, situation)

    def rank() -> Choice:
        with b.answers.courtesy.one_at_a_time:
            prepared, stacks = b.answer_large(laid_out, lay_out)
            pause = b.answers.courtesy.pause()
            return chosen(prepared, situation, demand, load, b.job.wishes.wants, stacks, pause)

    return b.answer_large(key, rank)


def pick_or_422(renew: str, **part_ids: str | None) -> Pick:
    """Parts of one wheel as a form names them; ``renew`` is what comes new of the same, parted by spaces."""
    try:
        return Pick.model_validate({**part_ids, "renew": tuple(sorted(renewals_in(renew)))})
    except ValidationError:
        raise HTTPException(422, "These are no part numbers.") from None
