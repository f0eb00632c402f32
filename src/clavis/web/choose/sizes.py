"""Sizes: what each size of rotor would do on both wheels, and what the hand can."""

from dataclasses import dataclass

from fastapi import APIRouter, HTTPException
from starlette.responses import Response

from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Hand
from clavis.core.selection.rotor_sizes import SizeLadder, SizeStep, sizes_of
from clavis.web.choose.bars import HandBar, HeatBar, hand_bar, heat_bar
from clavis.web.shell.visit import VisitDep

router = APIRouter()


@dataclass(frozen=True)
class StepShown:
    """A size with its bars; none where it has no figures."""

    step: SizeStep
    hand: HandBar | None
    rotor: HeatBar | None


def _shown(step: SizeStep, hand: Hand) -> StepShown:
    w = step.result
    if w is None or step.rotor_c is None:
        return StepShown(step, None, None)
    fade_c = COMPOUNDS[w.setup.pad.compound].fade_c
    return StepShown(step, hand_bar(w.forces, hand), heat_bar(step.rotor_c, fade_c))


@router.get("/jobs/{job_id}/sizes")
def sizes(v: VisitDep) -> Response:
    """Both wheels' sizes, the rest of each brake as it is proposed."""
    b = v.bench.seen
    situation = b.evaluation.situation

    def work_out() -> dict[End, SizeLadder | None]:
        return {end: sizes_of(b.job, end, b.evaluation) for end in End}

    found = b.kept("sizes", work_out, v.bench.view)
    if situation is None or not any(found.values()):
        raise HTTPException(422, "Sizes need a rider, a bike and a ride first, and a whole brake.")
    hand = situation.hand
    return v.piece(
        "choose/sizes.html",
        ladders=[
            (end, ladder, [_shown(s, hand) for s in ladder.steps] if ladder else []) for end, ladder in found.items()
        ],
        hand=hand,
    )
