"""What instruments of the road say over a line: one reading, one line of text (docs/formats.md, Instruments).

``thermometer 143.2 C; set=0.95`` is a kind, a number with its unit, and what else belongs to it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core import entries
from clavis.core.errors import ClavisError, QuantityError
from clavis.core.sentences import say


class RoadInstrument(StrEnum):
    THERMOMETER = "thermometer"
    TAPE = "tape"
    STOPWATCH = "stopwatch"
    FORCE = "force"
    LOGGER = "logger"


QUANTITY: Mapping[RoadInstrument, str] = {
    RoadInstrument.THERMOMETER: "c",
    RoadInstrument.TAPE: "m",
    RoadInstrument.STOPWATCH: "s",
    RoadInstrument.FORCE: "n",
}
"""what a reading of each is; a logger has no single one"""
ALSO: Mapping[str, str] = {"speed": "kmh", "set": "ratio"}
"""what may stand with a reading, and which quantity it is"""
LONGEST_LINE = 200


class InstrumentError(ClavisError):
    """This instrument has no reading, in words."""


class NotHeldError(Exception):
    """The instrument is held at nothing that it could read; in words that it sends."""


@dataclass(frozen=True)
class LineReading:
    """One reading in the stored unit of its quantity, with what else stood in the line."""

    kind: RoadInstrument
    value: float
    also: Mapping[str, float]


def parse_line(text: str, kind: RoadInstrument) -> LineReading:
    """A line of an instrument. Raises InstrumentError for one that is no reading of this kind.

    >>> parse_line("tape 5.83 m; speed=25.3 km/h", RoadInstrument.TAPE)
    LineReading(kind=<RoadInstrument.TAPE: 'tape'>, value=5.83, also={'speed': 25.3})
    """
    head, *rest = [part.strip() for part in text[:LONGEST_LINE].strip().split(";")]
    word, _, told = head.partition(" ")
    if word != kind.value or kind not in QUANTITY:
        raise InstrumentError(
            say("the {kind} sent “{text}”, which is no reading", kind=kind.value, text=text[:40].strip())
        )
    also: dict[str, float] = {}
    try:
        value = entries.parse(told, QUANTITY[kind], name=kind.value)
        for part in rest:
            name, _, text_of = part.partition("=")
            if name in ALSO:
                also[name] = entries.parse(text_of, ALSO[name], name=name)
    except QuantityError as error:
        raise InstrumentError(error.said) from None
    return LineReading(kind, value, also)


def about_line(told: Mapping[str, str]) -> str:
    """What the page knows of the reading that is wanted. A real instrument passes it over; a stand-in needs it.

    >>> about_line({"job": "7", "end": "front"})
    'about job=7 end=front'
    """
    words = (f"{key}={''.join(c for c in value if c.isalnum() or c in '-_.')}" for key, value in told.items() if value)
    return " ".join(("about", *words))


def read_about(line: str) -> dict[str, str]:
    """The other way round; empty for any other line.

    >>> read_about("about job=7 end=front")
    {'job': '7', 'end': 'front'}
    """
    word, *pairs = line.split()
    if word != "about":
        return {}
    return dict(pair.split("=", 1) for pair in pairs if "=" in pair)
