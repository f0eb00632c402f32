"""What cured a complaint: told only where it can be told."""

from dataclasses import dataclass

from clavis.core.errors import ClavisError
from clavis.core.job.document import Complaint
from clavis.core.keeping.bike import BikeVisit, KeptBike, LogEntry, Outcome
from clavis.core.records import next_id
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


class AnswerError(ClavisError):
    """An answer about a complaint that cannot be kept."""


def answered(
    bike: KeptBike, visit_id: str, outcome: Outcome, cured_by: str | None, shown_by: str, who: str
) -> KeptBike:
    """The bike with what became of a visit's complaint, and the entry that was shown to be its cure. Raises AnswerError
    for a visit or an entry that is not there, and for one of several without what shows it."""
    if not any(v.id == visit_id for v in bike.visits):
        raise AnswerError("There is no such visit in this bike’s log.")
    entries = bike.of_visit(visit_id)
    if cured_by is not None and cured_by not in {entry.id for entry in entries}:
        raise AnswerError("This was not done at that visit.")
    if cured_by is not None and not shown_by and len(entries) > 1:
        raise AnswerError("What shows that it was this one? A trial, or one change undone.")
    told = {"outcome": outcome, "cured_by": cured_by, "shown_by": shown_by, "who": who}
    visits = tuple(v.model_copy(update=told) if v.id == visit_id else v for v in bike.visits)
    return bike.model_copy(update={"visits": visits})


def written(bike: KeptBike, entry: LogEntry, complaint: Complaint | None = None) -> KeptBike:
    """The bike with one more entry, under the day on which it was done; what it was done against is asked about
    afterwards, for all that was done that day together."""
    visit = f"day-{entry.day}"
    name = next_id("entry-", (e.id for e in bike.entries))
    kept = entry.model_copy(update={"id": name, "visit": visit})
    bike = bike.model_copy(update={"entries": (*bike.entries, kept)})
    if complaint is None:
        return bike
    there = next((v for v in bike.visits if v.id == visit), None)
    if there is None:
        noted = BikeVisit(id=visit, day=entry.day, complaints=(complaint,), who=entry.who)
        return bike.model_copy(update={"visits": (*bike.visits, noted)})
    all_ = tuple(dict.fromkeys((*there.complaints, complaint)))
    visits = tuple(v.model_copy(update={"complaints": all_}) if v.id == visit else v for v in bike.visits)
    return bike.model_copy(update={"visits": visits})


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
