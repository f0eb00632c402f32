"""Steps of a job's history in words: where, from what to what; and what an undo or a redo would do."""

from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from clavis.core import units
from clavis.core.errors import QuantityError
from clavis.core.job.document import Job
from clavis.core.parts.catalogue import Catalogue
from clavis.core.sentences import Words, joined, say
from clavis.core.wording.labels import field_word, place_word
from clavis.store import history, jobs
from clavis.store.tables import ChangeRow
from clavis.web.shell.form_fields import spec_at

MOST_NAMED = 5
"""fields of one step that are named; of more it is said how many"""
LONGEST = 60


def value_words(path: str, value: Any, catalogue: Catalogue) -> Words:
    """A value of a field in words: parts by name, quantities with their units, choices by their labels."""
    last = path.rpartition(".")[2]
    if value is None or value in ("", [], {}):
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        unit = units.unit_of(last)
        return f"{value:g}" if unit is None else say(f"{{told_{unit}:g}}", **{f"told_{unit}": value})
    if isinstance(value, str):
        return _text_words(path, last, value, catalogue)
    if isinstance(value, list):
        if all(isinstance(item, int | float) for item in value):
            return joined([value_words(path, item, catalogue) for item in value], ", ")
        if all(isinstance(item, str) for item in value):
            return joined([_text_words(path, last, item, catalogue) for item in value], ", ")
        return say("{entries:entry|entries}", entries=len(value))
    return "set"


def _text_words(path: str, last: str, value: str, catalogue: Catalogue) -> str:
    if last.endswith("_id"):
        part = catalogue.by_id(value)
        return part.name if part else value
    try:
        options = {option.value: option.label for option in spec_at(Job, path).options}
    except QuantityError:
        options = {}
    return options.get(value, value if len(value) <= LONGEST else f"{value[:LONGEST]}…")


def step_words(row: ChangeRow, catalogue: Catalogue) -> Words:
    """What a step changed: where, from what to what."""
    if not row.path:
        return "job laid down"
    if row.path.startswith(jobs.RESTORED):
        return f"brought back to no. {row.path.removeprefix(jobs.RESTORED)}"
    place = place_word(row.path)
    before, after = row.before, row.after
    if row.path in (jobs.SIGN_OFF, jobs.TAKEN_BACK):
        return place
    if isinstance(before, dict) and isinstance(after, dict):
        names = [name for name in after if before.get(name) != after[name]]
        told = [_changed(f"{row.path}.{name}", before.get(name), after[name], catalogue) for name in names[:MOST_NAMED]]
        more = say("{others} more", others=len(names) - MOST_NAMED) if len(names) > MOST_NAMED else ""
        return say("{place}: {told}", place=place, told=joined([*told, more], ", "))
    if isinstance(before, dict) or isinstance(after, dict):
        return f"{place}: {'added' if before is None else 'taken out' if after is None else 'changed'}"
    was, then = (value_words(row.path, value, catalogue) for value in (before, after))
    return say("{place}: {was} → {then}", place=place, was=was, then=then)


def _changed(path: str, before: Any, after: Any, catalogue: Catalogue) -> Words:
    word = field_word(path).lower()
    was, then = (value_words(path, value, catalogue) for value in (before, after))
    return say("{word} {was} → {then}", word=word, was=was, then=then)


@dataclass(frozen=True)
class UndoOffer:
    """What the buttons of a job's head would do now; nothing where there is nothing to do."""

    undo: Words
    whose: str
    redo: Words


def undo_offer(session: Session, job_id: int, catalogue: Catalogue) -> UndoOffer:
    """What an undo and a redo would do, in words."""
    found = history.offered(session, job_id)
    return UndoOffer(
        step_words(found.undo, catalogue) if found.undo else "",
        found.undo.who if found.undo else "",
        step_words(found.redo, catalogue) if found.redo else "",
    )
