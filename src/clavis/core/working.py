"""Figures that can show their working: equation, values put in, where each came from, how sure it is."""

from dataclasses import dataclass, field

from clavis.core.sentences import Words


@dataclass(frozen=True)
class Given:
    """One value put into an equation. ``unit`` is a key of ``units.KINDS``."""

    symbol: str
    meaning: Words
    value: float | None
    unit: str
    source: Words
    decimals: int | None = None


@dataclass(frozen=True)
class Figure:
    """A headline figure with its trace. ``value`` None is shown as unknown with ``lacks`` as the reason; where it is
    known that there is none, ``instead`` says so."""

    key: str
    label: str
    value: float | None
    unit: str
    equation: str = ""
    given: tuple[Given, ...] = ()
    source: Words = ""
    uncertainty: Words = ""
    steps: tuple[Words, ...] = field(default=())
    lacks: Words = ""
    instead: Words = ""
    decimals: int | None = None
