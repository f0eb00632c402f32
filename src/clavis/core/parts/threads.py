"""Metric threads of brake bolts: one row each, with the holes that go with them."""

from dataclasses import dataclass
from typing import Literal

from clavis.core.records import figure

Thread = Literal["M5", "M6", "M8"]


@dataclass(frozen=True, kw_only=True)
class ThreadRow:
    diameter_mm: float = figure("mm", "ISO 261", "diameter")
    typical_depth_mm: float = figure("mm", "typical of mounts, measure yours", "full thread where not measured")
    head_mm: float = figure("mm", "cap screw, ISO 4762", "diameter of the head")
    clearance_hole_mm: float = figure("mm", "ISO 273, medium", "clearance hole")
    tap_drill_mm: float = figure("mm", "ISO 2306", "tap drill")
    counterbore_mm: float = figure("mm", "DIN 974-1", "counterbore")


THREADS: dict[Thread, ThreadRow] = {
    "M5": ThreadRow(
        diameter_mm=5.0, typical_depth_mm=10.0, head_mm=8.5, clearance_hole_mm=5.5, tap_drill_mm=4.2,
        counterbore_mm=10.0,
    ),
    "M6": ThreadRow(
        diameter_mm=6.0, typical_depth_mm=15.0, head_mm=10.0, clearance_hole_mm=6.6, tap_drill_mm=5.0,
        counterbore_mm=11.0,
    ),
    "M8": ThreadRow(
        diameter_mm=8.0, typical_depth_mm=18.0, head_mm=13.0, clearance_hole_mm=9.0, tap_drill_mm=6.8,
        counterbore_mm=15.0,
    ),
}  # fmt: skip
