"""What the figures of a catalogue line rest on, and how widely they are doubted: one row each.

A maker's own figures are taken as they stand. Usual ones are drawn anew in every sample of ``evaluation.sampling``, so
that a verdict that rests on them says how sure it is.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.records import figure


class Figures(StrEnum):
    STATED = "stated"
    """as the maker says, or a standard"""
    TYPICAL = "typical"
    """as parts of this kind usually are; may be put on an order"""
    STAND_IN = "stand_in"
    """usual figures for a part on a bike that nobody can name; never offered"""


_JUDGED = "judged by us over parts of one kind, as a 90 % half-width"


@dataclass(frozen=True, kw_only=True)
class FiguresRow:
    """What one of them means. ``force_ratio`` doubts what lever or caliper makes of the finger's force (bores, arms,
    ratios), and with it the lever's travel; ``friction_ratio`` doubts the friction of pads in the place of a named
    compound's own ± 12 %."""

    words: str
    offered: bool
    force_ratio: float = figure("", _JUDGED, "force, of each of lever and caliper")
    friction_ratio: float | None = figure("", _JUDGED, "friction of pads")


FIGURES: Mapping[Figures, FiguresRow] = {
    Figures.STATED: FiguresRow(words="as its maker states", offered=True, force_ratio=0.0, friction_ratio=None),
    Figures.TYPICAL: FiguresRow(words="typical, check the part", offered=True, force_ratio=0.12, friction_ratio=0.2),
    Figures.STAND_IN: FiguresRow(
        words="stands for a part not named", offered=False, force_ratio=0.3, friction_ratio=0.3
    ),
}
