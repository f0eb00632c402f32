"""The pitch of a flat-mount fork against the plate that is to sit on it."""

from dataclasses import dataclass

from clavis.core.parts.models import Adapter
from clavis.core.parts.mounts import SpacingTool
from clavis.core.parts.threads import THREADS
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict

GAUGE_DOUBT_MM = 0.1
"""a pitch read with a caliper gauge is sure to a tenth: what is nearer to the limit is tight"""


@dataclass(frozen=True)
class Pitch:
    """Whether a plate's holes and counterbores take the measured pitch of a flat-mount fork."""

    adapter: Adapter
    error_mm: float | None
    permitted_mm: float | None
    verdict: Verdict
    words: Words


def judge_pitch(spacing_mm: float | None, tool: SpacingTool | None, adapter: Adapter) -> Pitch:
    """Bolt centres may stand off the plate's by the play of both holes, half each way at each, or by that of both
    counterbores; the smaller one counts, wide or narrow.

    Parameters
    ----------
    spacing_mm : float or None
        Pitch of the fork's holes as read, mm.
    tool : SpacingTool or None
        What it was read with: a tape is not good enough, and leaves it unknown.
    adapter : Adapter
        The plate: pitch, hole and counterbore, mm; unknown where its maker states none.

    Returns
    -------
    Pitch
        Error and what is permitted, mm, with the verdict.

    Source: e ≤ hole − bolt and e ≤ counterbore − head, both ends together (geometry; docs/mounts.md).
    """
    bolt = THREADS["M5"]
    if adapter.pitch_mm is None or adapter.hole_mm is None:
        return Pitch(adapter, None, None, Verdict.UNKNOWN, "its maker states no pitch and hole for it: ask")
    play, sets = adapter.hole_mm - bolt.diameter_mm, "its holes"
    if adapter.counterbore_mm is not None and adapter.counterbore_mm - bolt.head_mm < play:
        play, sets = adapter.counterbore_mm - bolt.head_mm, "its counterbores"
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
    if abs(error) > play + 1e-9:
        words = "{off}. Do not force or drill it: choose another plate"
        return Pitch(adapter, error, play, Verdict.FAILS, say(words, off=off))
    tight = abs(error) + GAUGE_DOUBT_MM > play + 1e-9
    return Pitch(adapter, error, play, Verdict.TIGHT if tight else Verdict.HOLDS, off)
