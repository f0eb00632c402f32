"""Sentences: a template with named quantities, put into words in one place, in the reader's units.

No room of the house writes a unit into its words. It writes ``say("thinnest {thinnest_mm:.2}", thinnest_mm=1.47)``: a
quantity carries its unit in its name, as everywhere, and whoever reads decides in which unit it is told.

What may stand behind the colon of a place:

=============  =======================================================================================
``.2``         so many decimals in the metric unit; other units get as many as tell the same
``+`` ``+.1``  the sign is always written
``g``          no more decimals than the value has: 1.8 mm, 2 years
``size``       the number alone: sizes by which parts are sold ("a 203 on a 200 position")
``point|points``  a count and its word, one or many
``cap``        the words with a capital letter
``a``          the words with their article: a six-bolt hub, an international standard mount
=============  =======================================================================================
"""

import re
import string
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache
from typing import Any, Union

from clavis.core import units
from clavis.core.units import System

Value = Union[float, int, str, Enum, "Sentence", None]
Words = Union[str, "Sentence"]
"""plain words without a quantity in them, or a sentence"""


@dataclass(frozen=True)
class Sentence:
    """A template and the values of its places. Without a template it says nothing, and is false."""

    template: str = ""
    values: tuple[tuple[str, Value], ...] = ()

    def __bool__(self) -> bool:
        return bool(self.template)

    def __str__(self) -> str:
        """In metric units and plain words: for the log, the command line and the tests. Pages use ``wording``."""
        return render(self)

    def __contains__(self, words: str) -> bool:
        return words.replace(units.NBSP, " ") in str(self).replace(units.NBSP, " ")


NOTHING = Sentence()


def say(template: str, **values: Value) -> Sentence:
    """A sentence. Raises KeyError where a place of the template has no value.

    >>> str(say("thinnest {thinnest_mm:.2}, minimum {minimum_mm:.2}", thinnest_mm=1.47, minimum_mm=1.5))
    'thinnest 1.47\\xa0mm, minimum 1.50\\xa0mm'
    """
    missing = _places(template) - values.keys()
    if missing:
        raise KeyError(f"no value for {', '.join(sorted(missing))} in “{template}”")
    return Sentence(template, tuple(values.items()))


@lru_cache(maxsize=2048)
def _places(template: str) -> frozenset[str]:
    return frozenset(name for _, name, _, _ in string.Formatter().parse(template) if name)


def joined(parts: Iterable[Words], between: str = "; ", last: str | None = None) -> Sentence:
    """Several sentences as one; ``last`` stands before the last of them where it differs. Empty ones are left out.

    >>> str(joined(["lever", "line", "pads"], ", ", " and "))
    'lever, line and pads'
    """
    said = [part for part in parts if part]
    if not said:
        return NOTHING
    places = [f"{{p{k}}}" for k in range(len(said))]
    if last is None or len(places) < 2:
        template = between.join(places)
    else:
        template = f"{between.join(places[:-1])}{last}{places[-1]}"
    return Sentence(template, tuple((f"p{k}", part) for k, part in enumerate(said)))


def plain_word(value: Enum) -> str:
    """An enumerated value without a table of labels: its own value."""
    return str(value.value).replace("_", " ")


Labels = Callable[[Enum], str]
_DECIMALS = re.compile(r"^\+?(?:\.(\d))?$")
_SOUNDS_LIKE_A_CONSONANT = ("one", "uni", "use", "usual", "european")


def with_article(words: str) -> str:
    """Words with *a* or *an* before them, by their sound.

    >>> with_article("IS mount"), with_article("one-piece rotor")
    ('an IS mount', 'a one-piece rotor')
    """
    first = words.lstrip("“").lower()
    vowel = first[:1] in "aeiou" and not first.startswith(_SOUNDS_LIKE_A_CONSONANT)
    return f"{'an' if vowel else 'a'} {words}"


class _Renderer(string.Formatter):
    """The one place where a template becomes words."""

    def __init__(self, system: System, label: Labels) -> None:
        self.system, self.label = system, label

    def get_field(self, field_name: str, args: Sequence[Any], kwargs: Mapping[str, Any]) -> tuple[Any, str]:
        return (field_name, kwargs[field_name]), field_name

    def format_field(self, value: tuple[str, Value], format_spec: str) -> str:
        name, inner = value
        if isinstance(inner, Sentence):
            text = render(inner, self.system, self.label)
        elif isinstance(inner, Enum):
            text = self.label(inner)
        elif isinstance(inner, str):
            text = inner
        else:
            return self._quantity(name, inner, format_spec)
        if format_spec == "cap":
            return text[:1].upper() + text[1:]
        return with_article(text) if format_spec == "a" else text

    def _quantity(self, name: str, value: float | None, spec: str) -> str:
        if "|" in spec and value is not None:
            one, many = spec.split("|")
            return f"{value:g}{units.NBSP}{one if value == 1 else many}"
        if spec == "size":
            return "unknown" if value is None else f"{value:g}"
        kind = units.unit_of(name)
        if spec == "g" and kind is not None:
            return units.show_short(value, kind, self.system)
        found = _DECIMALS.match(spec)
        if found is None:
            raise ValueError(f"“{spec}” says nothing of {name}")
        if kind is None:
            return "unknown" if value is None else f"{value:.{found[1]}f}" if found[1] else f"{value:g}"
        decimals = None if found[1] is None else units.as_exact(kind, self.system, int(found[1]))
        if spec.startswith("+") and value is not None:
            return units.show_signed(value, kind, self.system, decimals)
        return units.show(value, kind, self.system, decimals)


def render(words: Words | None, system: System = System.METRIC, label: Labels = plain_word) -> str:
    """Words in the reader's units; ``label`` gives the words of enumerated values."""
    if words is None:
        return ""
    if isinstance(words, str):
        return words
    return _Renderer(system, label).vformat(words.template, (), dict(words.values))


def packed(words: Words | None, label: Labels = plain_word) -> Any:
    """Words as plain data that can be kept, and told later in any reader's units; enumerated values as their words.

    >>> packed(say("thinnest {thinnest_mm:.2}", thinnest_mm=1.47))
    {'say': 'thinnest {thinnest_mm:.2}', 'with': {'thinnest_mm': 1.47}}
    """
    if words is None or isinstance(words, str):
        return words or ""
    return {"say": words.template, "with": {name: _packed_value(value, label) for name, value in words.values}}


def _packed_value(value: Value, label: Labels) -> Any:
    if isinstance(value, Sentence):
        return packed(value, label)
    return label(value) if isinstance(value, Enum) else value


def unpacked(data: Any) -> Words:
    """Words that were kept as plain data. Raises KeyError or ValueError for what is none.

    >>> str(unpacked({"say": "thinnest {thinnest_mm:.2}", "with": {"thinnest_mm": 1.47}}))
    'thinnest 1.47\\xa0mm'
    """
    if isinstance(data, str):
        return data
    values = {name: unpacked(v) if isinstance(v, dict) else v for name, v in data["with"].items()}
    return say(data["say"], **values) if data["say"] else NOTHING
