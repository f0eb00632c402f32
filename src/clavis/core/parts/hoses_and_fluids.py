"""What lies between lever and caliper: the hose that joins their fittings, and the fluid a line is filled with."""

from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.parts.figures import Figures
from clavis.core.parts.fluids import GRADES_OF, Fluid
from clavis.core.parts.models import Caliper, FluidPart, Hose, Lever


@dataclass(frozen=True)
class HoseAnswer:
    """The hose that joins a lever and a caliper. Without one, ``look_for`` says what to look for."""

    hose: Hose | None
    look_for: str = ""


def hose_between(lever: Lever, caliper: Caliper, hoses: Iterable[Hose]) -> HoseAnswer:
    """The longest of the hoses in stock that have both ends: a hose is cut to length, never stretched."""
    joining = [
        h
        for h in hoses
        if h.offered
        and h.fluid is caliper.fluid
        and (h.lever_fitting, h.caliper_fitting) == (lever.fitting, caliper.fitting)
    ]
    best = max(joining, key=lambda h: (h.length_mm, -h.price, h.id), default=None)
    if best is not None:
        return HoseAnswer(best)
    words = "DOT" if caliper.fluid is Fluid.DOT else "mineral"
    return HoseAnswer(None, f"a {words} hose, {lever.fitting} at the lever, {caliper.fitting} at the caliper")


def needs_new_hose(old_lever: Lever | None, old_caliper: Caliper | None, lever: Lever | None, caliper: Caliper) -> bool:
    """Whether the line gets a new hose: its ends change, or both of them are new. Without a lever, the one that is
    on the bike stays."""
    lever = lever or old_lever
    if caliper.fluid is Fluid.NONE or old_lever is None or old_caliper is None or lever is None:
        return old_caliper is None
    ends = (old_lever.fitting, old_caliper.fitting, old_caliper.fluid) != (
        lever.fitting,
        caliper.fitting,
        caliper.fluid,
    )
    return ends or (old_lever.id != lever.id and old_caliper.id != caliper.id)


def may_fill(bottle: FluidPart, caliper: Caliper) -> bool:
    """Whether a mineral fluid may go into a line: its caliper's own maker's, or for a caliper that nobody can name a
    bottle that leaves the maker open."""
    open_maker = caliper.figures is Figures.STAND_IN and bottle.figures is not Figures.STATED
    return bottle.maker == caliper.maker or open_maker


def fluid_for(caliper: Caliper, grade: str | None, fluids: Iterable[FluidPart]) -> FluidPart | None:
    """The bottle an opened line is filled from: of the caliper's family; the caliper's own maker first, then the
    grade that was in it, then the lower grade. Mineral fluids differ from maker to maker: no other maker's is taken."""
    usable = [f for f in fluids if f.offered and f.grade in GRADES_OF[caliper.fluid]]
    if caliper.fluid is Fluid.MINERAL:
        usable = [f for f in usable if may_fill(f, caliper)]
    return min(
        usable,
        key=lambda f: (
            f.grade != grade,
            f.maker != caliper.maker,
            GRADES_OF[caliper.fluid].index(f.grade),
            f.price,
            f.id,
        ),
        default=None,
    )
