"""The verdict words, how they combine, and the thresholds that part them (design: the model, section 6)."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from pydantic import BaseModel, ConfigDict, Field


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


class Thresholds(BaseModel):
    """What *holds* asks for. Settings of a job; starting values from the model, section 6."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    reserve_ratio: float = Field(0.25, ge=0, le=2, description="force in reserve over what is needed")
    fade_ratio: float = Field(0.25, ge=0, le=2, description="force in reserve along the braked way")
    boil_margin_k: float = Field(30.0, ge=0, le=150, description="fluid below its boiling point")
    ring_of_fade_ratio: float = Field(0.85, gt=0, le=1, description="ring peak as a share of fade onset, °C")


UNIT_SIGNS = {"k": "K", "mm": "mm"}


@dataclass(frozen=True)
class Margin:
    """One limit held against one figure. ``value`` None means that it cannot be known yet."""

    key: str
    label: str
    value: float | None
    unit: str
    needed: float
    """at or above this it holds, in the unit of ``value``"""
    relative: float | None
    """the margin as a dimensionless share of its limit, to compare unlike margins"""
    why_unknown: str = ""

    def words(self, label: str = "") -> str:
        """The margin with its number and sign, or why it is unknown; ``label`` in place of its own."""
        label = label or self.label
        if self.value is None:
            return self.why_unknown
        if self.unit == "count":
            return label
        if self.unit == "ratio":
            return f"{self.value:+.0%} {label}".replace("-", "−", 1).replace("%", "\u202f%", 1)
        return f"{self.value:+.0f}\u00a0{UNIT_SIGNS[self.unit]} {label}".replace("-", "−", 1)

    @property
    def verdict(self) -> Verdict:
        if self.value is None:
            return Verdict.UNKNOWN
        if self.value < 0:
            return Verdict.FAILS
        return Verdict.HOLDS if self.value >= self.needed - 1e-12 else Verdict.TIGHT


def deciding_margin(margins: Sequence[Margin]) -> Margin:
    """The margin that sets the verdict of the whole: among those of the worst verdict, the smallest."""
    verdict = worst(m.verdict for m in margins)
    return min(
        (m for m in margins if m.verdict is verdict), key=lambda m: m.relative if m.relative is not None else 0.0
    )
