"""The verdict words, how they combine, and the thresholds that part them (docs/model.md, section 6)."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from clavis.core.sentences import Sentence, Words, say


class Verdict(StrEnum):
    """The four words used everywhere, from best to worst."""

    HOLDS = "holds"
    TIGHT = "tight"
    UNKNOWN = "unknown"
    FAILS = "fails"


_ORDER = list(Verdict)

RANK: dict[Verdict, float] = {Verdict.HOLDS: 0.0, Verdict.TIGHT: 1.0, Verdict.UNKNOWN: 1.5, Verdict.FAILS: 3.0}
"""how verdicts order what is ranked, best first"""

# Shape first, then the word, then a number: colour is never the only sign.
SHAPES: dict[Verdict, str] = {
    Verdict.HOLDS: "circle",
    Verdict.TIGHT: "triangle",
    Verdict.FAILS: "cross",
    Verdict.UNKNOWN: "ring",
}

MEANINGS: dict[Verdict, str] = {
    Verdict.HOLDS: "at or above the margin asked for",
    Verdict.TIGHT: "above the limit, below the margin asked for",
    Verdict.FAILS: "beyond the limit",
    Verdict.UNKNOWN: "something that decides it is missing or not measured",
}


def worst(verdicts: Iterable[Verdict]) -> Verdict:
    """The worst of the parts is the verdict of the whole, with unknown above tight; none gives unknown."""
    return max(verdicts, key=_ORDER.index, default=Verdict.UNKNOWN)


def place_of(verdict: Verdict) -> int:
    """A verdict's place in their order, best first."""
    return _ORDER.index(verdict)


def verdict_at(place: int) -> Verdict:
    """The verdict at a place of their order."""
    return _ORDER[place]


class Severity(StrEnum):
    """How grave an open point is, gravest first. *Stop*: not ridden, not ordered. *Unseen*: nobody has looked yet; what
    holds, holds if it is in order. *Note*: to be watched."""

    STOP = "stop"
    FAILS = "fails"
    UNKNOWN = "unknown"
    TIGHT = "tight"
    UNSEEN = "unseen"
    NOTE = "note"

    @property
    def verdict(self) -> Verdict:
        """What it makes of a setup's verdict."""
        told = {Severity.STOP: Verdict.FAILS, Severity.UNSEEN: Verdict.HOLDS, Severity.NOTE: Verdict.HOLDS}
        return told.get(self) or Verdict(self.value)


class Thresholds(BaseModel):
    """What *holds* asks for. Settings of a job; starting values from the docs/model.md, section 6."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    reserve_ratio: float = Field(0.25, ge=0, le=2, description="force in reserve over what is needed")
    fade_ratio: float = Field(0.25, ge=0, le=2, description="force in reserve along the braked way")
    boil_margin_k: float = Field(30.0, ge=0, le=150, description="fluid below its boiling point")
    rotor_of_fade_ratio: float = Field(0.85, gt=0, le=1, description="rotor's peak as a share of fade onset, °C")
    sandwich_margin_k: float = Field(25.0, ge=0, le=150, description="sandwich rotor below its own limit")


@dataclass(frozen=True)
class Margin:
    """One limit held against one figure. ``value`` None means that it cannot be known yet."""

    key: str
    label: Words
    value: float | None
    unit: str
    needed: float
    """at or above this it holds, in the unit of ``value``"""
    relative: float | None
    """the margin as a dimensionless share of its limit, to compare unlike margins"""
    why_unknown: Words = ""
    must: float | None = None
    """where a limit stands below zero of ``value``, how far it is above that limit, as a share of it: below it fails"""

    def words(self, label: Words = "") -> Sentence:
        """The margin with its number and sign, or why it is unknown; ``label`` in place of its own."""
        label = label or self.label
        if self.value is None:
            return say("{why}", why=self.why_unknown)
        if self.unit == "count":
            return say("{label}", label=label)
        if self.unit == "ratio":
            return say("{by_pct:+.0} {label}", by_pct=100 * self.value, label=label)
        return say(f"{{by_{self.unit}:+.0}} {{label}}", **{f"by_{self.unit}": self.value, "label": label})

    def grades(self, draws: int) -> NDArray[np.int64]:
        """Of a margin whose value is so many draws, the verdict of each by its place among the words, (draws,)."""
        if self.value is None:
            return np.full(draws, place_of(Verdict.UNKNOWN))
        value, must = (np.broadcast_to(x, draws) for x in (self.value, self.value if self.must is None else self.must))
        tight = np.where(value >= self.needed - 1e-12, place_of(Verdict.HOLDS), place_of(Verdict.TIGHT))
        return np.where(must < 0, place_of(Verdict.FAILS), tight)

    @property
    def verdict(self) -> Verdict:
        if self.value is None:
            return Verdict.UNKNOWN
        if (self.value if self.must is None else self.must) < 0:
            return Verdict.FAILS
        return Verdict.HOLDS if self.value >= self.needed - 1e-12 else Verdict.TIGHT
