"""A soft check: the rotor sizes that riders off the road usually live with (the lean school).

It decides nothing. Where a computed pick departs from it, that is said, with the margin that explains it.
"""

from dataclasses import dataclass

from clavis.core.job.document import Job, Use
from clavis.core.parts.mounts import End
from clavis.core.selection.rotor_steps import size_of
from clavis.core.selection.schools import Candidate
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict

LIGHT_RIDER_KG = 70.0
RIDDEN_HARD = frozenset({Use.ENDURO, Use.DOWNHILL})
OFF_ROAD = frozenset({Use.CROSS_COUNTRY, Use.TRAIL}) | RIDDEN_HARD


@dataclass(frozen=True)
class UsualRow:
    """Sizes from and to that are usual at one end for these riders, mm."""

    end: End
    light: bool
    hard: bool
    low_mm: float
    high_mm: float


USUAL: tuple[UsualRow, ...] = (
    UsualRow(End.FRONT, True, False, 160, 180),
    UsualRow(End.REAR, True, False, 160, 160),
    UsualRow(End.FRONT, True, True, 180, 200),
    UsualRow(End.REAR, True, True, 160, 180),
    UsualRow(End.FRONT, False, False, 180, 200),
    UsualRow(End.REAR, False, False, 180, 180),
    UsualRow(End.FRONT, False, True, 180, 200),
    UsualRow(End.REAR, False, True, 180, 200),
)


def departure(job: Job, end: End, pick: Candidate) -> Words:
    """How a pick departs from what is usual, and which margin explains it; empty where it does not, or where practice
    has no rule: on the road, or without the rider's mass."""
    if job.bike.use not in OFF_ROAD or job.rider.mass_kg is None:
        return ""
    light, hard = job.rider.mass_kg < LIGHT_RIDER_KG, job.bike.use in RIDDEN_HARD
    row = next(r for r in USUAL if (r.end, r.light, r.hard) == (end, light, hard))
    size, low, high = size_of(pick.rotor.diameter_mm), size_of(row.low_mm), size_of(row.high_mm)
    if low <= size <= high:
        return ""
    usual = "{low_mm:size}" if row.low_mm == row.high_mm else "{low_mm:size} to {high_mm:size}"
    known = [m for m in pick.margins if m.relative is not None]
    least = min(known, key=lambda m: m.relative or 0.0)
    why = "the ride asks for more: even so its least margin is {least}"
    if size < low and pick.verdict is Verdict.HOLDS:
        why = "the ride asks for less: its least margin is {least}"
    elif pick.verdict is Verdict.FAILS:
        why = "nothing that can be fitted holds: its least margin is {least}"
    words = f"Usual for such a rider is {usual} at the {{end}}; {why}."
    return say(words, low_mm=row.low_mm, high_mm=row.high_mm, end=end, least=least.words())
