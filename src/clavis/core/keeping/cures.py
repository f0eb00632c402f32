"""What cured a complaint: told only where it can be told."""

from dataclasses import dataclass

from clavis.core.keeping.bike import BikeVisit, KeptBike, LogEntry, Outcome
from clavis.core.sentences import NOTHING, Words, say

_COUNTED = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def counted(number: int) -> str:
    """A small number as a word.

    >>> counted(3), counted(14)
    ('three', '14')
    """
    return _COUNTED[number] if number < len(_COUNTED) else str(number)


@dataclass(frozen=True)
class Cure:
    """Whether it is known what cured a visit's complaint, and the words for it. ``open`` where it is gone and nobody
    can say by what."""

    open: bool
    words: Words
    entry: LogEntry | None = None


def cure_of(bike: KeptBike, visit: BikeVisit) -> Cure:
    """Several things that changed at once leave the cure open, unless one is shown to be it."""
    if not visit.complaints:
        return Cure(False, NOTHING)
    if visit.outcome is Outcome.NOT_SAID:
        return Cure(True, "not said yet whether it is gone")
    if visit.outcome is Outcome.STAYS:
        return Cure(False, "it stays")
    entries = bike.of_visit(visit.id)
    gone = "gone" if visit.outcome is Outcome.GONE else "better"
    shown = next((entry for entry in entries if entry.id == visit.cured_by), None)
    if shown is not None:
        words = "{gone} by: {what} (shown by {how})" if visit.shown_by else "{gone} by: {what}"
        return Cure(False, say(words, gone=gone, what=shown.what, how=visit.shown_by), shown)
    if not entries:
        return Cure(True, say("{gone}, and nothing was changed", gone=gone))
    if len(entries) == 1:
        return Cure(False, say("{gone} by: {what}", gone=gone, what=entries[0].what), entries[0])
    return Cure(True, say("{gone}; open: {things} things changed at once", gone=gone, things=counted(len(entries))))
