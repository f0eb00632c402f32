"""Sizes and compounds: what each size of rotor would do on both wheels, what the hand can, and the pads' friction."""

from dataclasses import dataclass

from fastapi import HTTPException
from starlette.responses import Response

from clavis.core.evaluation.compound_table import FAR_ABOVE_C, compound_table, conclusions
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Hand
from clavis.core.physics.heat import Node
from clavis.core.selection.rotor_sizes import SizeLadder, SizeStep, against_speed, sizes_of
from clavis.core.units import KMH_PER_MS
from clavis.web.choose.bars import HandBar, HeatBar, hand_bar, heat_bar
from clavis.web.shell import routes
from clavis.web.shell.plots import friction_picture
from clavis.web.shell.routes import APPRENTICE, LONG
from clavis.web.shell.visit import VisitDep

router = routes.router()


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


@router.get("/jobs/{job_id}/compounds", dependencies=(*APPRENTICE, LONG))
def compounds(v: VisitDep) -> Response:
    """Friction of every compound on both wheels' brakes over the ride."""
    b = v.bench.seen
    situation, setup = b.evaluation.situation, b.evaluation.proposed
    if situation is None or setup is None or not setup.wheels:
        raise HTTPException(422, "Compounds need a rider, a bike and a ride first, and a whole brake.")
    tables = [(end, w.heat.peak_c[Node.ROTOR], compound_table(w, situation)) for end, w in setup.wheels.items()]
    peaks = [(f"{end} at its hottest", peak_c) for end, peak_c, _ in tables]
    return v.piece(
        "choose/compounds.html",
        tables=[(end, peak_c, lines, conclusions(lines)) for end, peak_c, lines in tables],
        picture=friction_picture(peaks, v.system),
        far_above=FAR_ABOVE_C,
    )


@router.get("/jobs/{job_id}/sizes", dependencies=(*APPRENTICE, LONG))
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
    proposed = b.evaluation.proposed
    top_kmh = proposed.demand.top_speed.value * KMH_PER_MS if proposed and proposed.demand else 0.0
    of_speed = {end: against_speed(it, top_kmh, b.job.bike.rated_speed_kmh) for end, it in found.items() if it}
    return v.piece(
        "choose/sizes.html",
        of_speed=of_speed,
        ladders=[
            (end, ladder, [_shown(s, hand) for s in ladder.steps] if ladder else []) for end, ladder in found.items()
        ],
        hand=hand,
    )
