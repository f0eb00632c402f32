"""Brake fluids by grade: one row each, everything that is known of it. A new grade is a new row.

Fluid that takes up water boils lower with age; in mineral fluid water stays a drop, sinks to the caliper and boils by
itself.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.records import figure, key_of

_STANDARD = "FMVSS 116 and SAE J1703: least boiling points of the grade"
AGES_OVER_Y = 2.0
"""a fluid that takes up water is wet after so long (usual service interval)"""


class Fluid(StrEnum):
    """Fluid family; a cable brake has none."""

    MINERAL = "mineral"
    DOT = "dot"
    NONE = "none"


LINE_WORDS: Mapping[Fluid, str] = {Fluid.MINERAL: "mineral fluid", Fluid.DOT: "DOT fluid", Fluid.NONE: "cable"}
"""what is in a line, in words"""


@dataclass(frozen=True, kw_only=True)
class FluidGradeRow:
    """One grade. Within a family the lesser stands first."""

    words: str
    family: Fluid
    dry_c: float | None = figure("c", _STANDARD, "boils, fresh")
    wet_c: float | None = figure("c", _STANDARD, "boils, wet")

    @property
    def takes_up_water(self) -> bool:
        """Ages from its dry to its wet boiling point."""
        return self.wet_c is not None


FLUID_GRADES: dict[str, FluidGradeRow] = {
    "dot4": FluidGradeRow(words="DOT 4", family=Fluid.DOT, dry_c=230.0, wet_c=155.0),
    "dot51": FluidGradeRow(words="DOT 5.1", family=Fluid.DOT, dry_c=260.0, wet_c=180.0),
    "mineral": FluidGradeRow(words="mineral", family=Fluid.MINERAL, dry_c=None, wet_c=None),
}
FluidGradeKey = key_of(FLUID_GRADES)
GRADES_OF: Mapping[Fluid, tuple[str, ...]] = {
    family: tuple(key for key, row in FLUID_GRADES.items() if row.family is family) for family in Fluid
}
"""the grades that a line of each family may hold, the lesser first"""


def gathers_water(grade: str | None) -> str:
    """Where the water of years is, in words; empty for a grade that is not known."""
    if grade is None:
        return ""
    return "it has taken up water" if FLUID_GRADES[grade].takes_up_water else "water may lie at the caliper"
