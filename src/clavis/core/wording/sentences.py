"""Sentences in a reader's units and in the trade's words for every choice: the one place where words are made."""

from clavis.core import sentences
from clavis.core.sentences import Words
from clavis.core.units import System
from clavis.core.wording.labels import choice_word


def render(words: Words | None, system: System = System.METRIC) -> str:
    """Words as a reader of ``system`` is told them; empty where there are none."""
    return sentences.render(words, system, choice_word)
