"""The pitch of a flat-mount fork against the plate that is to sit on it."""

from dataclasses import dataclass

from clavis.core.parts.models import Adapter
from clavis.core.parts.mounts import SpacingTool
from clavis.core.parts.threads import THREADS
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict

TIGHT_FROM_RATIO = 0.5
"""of the room that a bolt has in its own hole and counterbore: from half of it on it is tight (judged)"""


@dataclass(frozen=True)
class Pitch:
    """Whether a plate's holes and counterbores take the measured pitch of a flat-mount fork."""

    adapter: Adapter
    error_mm: float | None
    permitted_mm: float | None
    verdict: Verdict
    words: Words


def judge_pitch(
    spacing_mm: float | None, tool: SpacingTool | None, adapter: Adapter, head_mm: float | None = None
) -> Pitch:
    """Each bolt stands off its hole's middle by half of what the pitches differ, wide or narrow; it has half of the play
    of that hole, and half of that of the counterbore round its head. The smaller one counts.

    Parameters
    ----------
    spacing_mm : float or None
        Pitch of the fork's holes as read, mm.
    tool : SpacingTool or None
        What it was read with: a tape is not good enough, and leaves it unknown.
    adapter : Adapter
        The plate: pitch, hole and counterbore, mm; unknown where its maker states none.
    head_mm : float or None
        Diameter of the bolts' heads, mm; None takes that of a usual cap screw.

    Returns
    -------
    Pitch
        Error and what is permitted, mm, with the verdict: below half of the room it holds, from half of it on it is
        tight, and where it takes all of it or more it fails.

    Source: e/2 < (hole − bolt)/2 and e/2 < (counterbore − head)/2 (geometry; docs/mounts.md).
    """
    bolt = THREADS["M5"]
    if adapter.pitch_mm is None or adapter.hole_mm is None:
        return Pitch(adapter, None, None, Verdict.UNKNOWN, "its maker states no pitch and hole for it: ask")
    play, sets = adapter.hole_mm - bolt.diameter_mm, "its holes"
    head = bolt.head_mm if head_mm is None else head_mm
    if adapter.counterbore_mm is not None and adapter.counterbore_mm - head < play:
        play, sets = adapter.counterbore_mm - head, "its counterbores"
    words = "{sets} allow {least_mm:.1} to {most_mm:.1}"
    allows = say(words, sets=sets, least_mm=adapter.pitch_mm - play, most_mm=adapter.pitch_mm + play)
    if spacing_mm is None:
        return Pitch(adapter, None, play, Verdict.UNKNOWN, say("{allows}; pitch not measured", allows=allows))
    if tool is not SpacingTool.GAUGE:
        words = "{allows}; a tape is not good enough: use a caliper gauge"
        return Pitch(adapter, None, play, Verdict.UNKNOWN, say(words, allows=allows))
    error = round(spacing_mm - adapter.pitch_mm, 3)
    words = "{off_mm:.1} {way} than the plate's {pitch_mm:.1}; {allows}"
    way = "wider" if error > 0 else "narrower"
    off = say(words, off_mm=abs(error), way=way, pitch_mm=adapter.pitch_mm, allows=allows)
    if abs(error) >= play - _SLACK_MM:
        words = "{off}. Do not force or drill it: choose another plate"
        return Pitch(adapter, error, play, Verdict.FAILS, say(words, off=off))
    tight = abs(error) >= TIGHT_FROM_RATIO * play - _SLACK_MM
    return Pitch(adapter, error, play, Verdict.TIGHT if tight else Verdict.HOLDS, off)


_SLACK_MM = 1e-9
