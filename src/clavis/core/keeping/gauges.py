"""What a thickness is read with: one row each. A new gauge is a new row."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.records import figure, key_of

_JUDGED = "engineering judgement, as the 90 % half-width of one careful reading"


@dataclass(frozen=True, kw_only=True)
class ThicknessGauge:
    """One way of reading; what it says is so, plus or minus ``half_width_mm``. One that ``bridges`` rests on the
    rims of a worn hollow: on a rotor it reads too thick, so that it may condemn and never pass."""

    words: str
    half_width_mm: float = figure("mm", _JUDGED, "half-width")
    bridges: bool = False
    of_rotors: bool = True
    """fine enough for a rotor at all"""


GAUGES: Mapping[str, ThicknessGauge] = {
    "micrometer": ThicknessGauge(words="micrometer", half_width_mm=0.02),
    "vernier": ThicknessGauge(words="vernier caliper", half_width_mm=0.05, bridges=True),
    "pad_gauge": ThicknessGauge(words="pad gauge", half_width_mm=0.1, of_rotors=False),
    "ruler": ThicknessGauge(words="ruler", half_width_mm=0.3, of_rotors=False),
    "new": ThicknessGauge(words="as it left its maker", half_width_mm=0.08),
}
GaugeKey = key_of(GAUGES)
