"""Jobs, bikes, people and parts by their words, as one types (SQLite's full-text index)."""

import re
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Integer, cast, select, text
from sqlalchemy.orm import Session

from clavis.store.tables import SearchEntryRow

MOST_WORDS, LONGEST_WORD = 8, 40
_WORD = re.compile(r"[^\W_]+")

RANKED_LETTERS = 3
"""words shorter than this are in too many titles for an order of worth: what is newest stands first"""
_FIND = (
    "select e.kind, e.ref, e.title, e.body from search_index join search_entry e on e.id = search_index.rowid "
    "where search_index match :asked and e.kind = :kind order by "
)
_BEST, _NEWEST = text(_FIND + "bm25(search_index, 4.0, 1.0), e.id limit :most"), text(_FIND + "e.id desc limit :most")


@dataclass(frozen=True)
class Hit:
    """Something that was found: of which kind, its number or id, its title, and the text beside it."""

    kind: str
    ref: str
    title: str
    body: str


def asked_for(typed: str) -> str:
    """What is asked of the index: every word that was typed, each as the beginning of a word. Nothing of what was typed
    is read as a sign of the index's own language.

    >>> asked_for('tand "pass* OR')
    '"tand"* "pass"* "OR"*'
    """
    words = [word[:LONGEST_WORD] for word in _WORD.findall(typed)][:MOST_WORDS]
    return " ".join(f'"{word}"*' for word in words)


def _short(typed: str) -> bool:
    return max((len(word) for word in _WORD.findall(typed)), default=0) < RANKED_LETTERS


def found(session: Session, typed: str, most: int, kind: str) -> list[Hit]:
    """What of a kind (job, bike, person, part) has these words, the best first; none where nothing was typed."""
    asked = asked_for(typed)
    if not asked:
        return []
    which = _NEWEST if _short(typed) else _BEST
    return [Hit(*row) for row in session.execute(which, {"asked": asked, "kind": kind, "most": most})]


def matching(kind: str, words: str) -> Any:
    """Numbers of what has these words."""
    matching = text("select rowid from search_index where search_index match :asked").bindparams(asked=asked_for(words))
    return select(cast(SearchEntryRow.ref, Integer)).where(
        SearchEntryRow.kind == kind, SearchEntryRow.id.in_(matching)
    )  # fmt: skip
