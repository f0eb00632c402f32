"""Every compound on one wheel: its friction cold, wet, at the ride's hottest and far above, and where its heat goes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.situation import Situation
from clavis.core.parts.compounds import COMPOUNDS, CompoundRow
from clavis.core.physics.friction import dry_mu
from clavis.core.physics.heat import Node, rotor_geometry, rotor_share

FAR_ABOVE_C = (300.0, 400.0)
CURVE_TO_C, CURVE_STEP_C = 500.0, 5.0
Array = NDArray[np.float64]


@dataclass(frozen=True)
class CompoundLine:
    """One compound: friction cold, cold and wet, at the rotor's peak of this ride (None without one), and at each of
    FAR_ABOVE_C; the share of the heat that it leaves to this rotor (None without one); whether the peak is beyond its
    onset of fade."""

    row: CompoundRow
    cold: float
    wet: float
    at_peak: float | None
    far_above: tuple[float, ...]
    rotor_share: float | None
    fades: bool
    fitted: bool

    @property
    def share_pct(self) -> float | None:
        return None if self.rotor_share is None else 100 * self.rotor_share


def compound_table(w: WheelResult | None = None, situation: Situation | None = None) -> tuple[CompoundLine, ...]:
    """Every compound, in the table's order; with ``w`` on that wheel's brake over its ride, bedded in and sound."""
    lines = []
    for key, row in COMPOUNDS.items():
        peak_c = None if w is None else w.heat.peak_c[Node.ROTOR]
        share = None
        if w is not None and situation is not None:
            geometry = rotor_geometry(w.setup.rotor, w.setup.thickness_mm, situation.parameters)
            share = rotor_share(geometry, w.setup.pad.model_copy(update={"compound": key}), w.setup.caliper)
        lines.append(
            CompoundLine(
                row=row,
                cold=row.mu_cold,
                wet=row.mu_cold * row.wet_ratio,
                at_peak=None if peak_c is None else float(dry_mu(row, peak_c)),
                far_above=tuple(float(dry_mu(row, t)) for t in FAR_ABOVE_C),
                rotor_share=share,
                fades=peak_c is not None and peak_c > row.fade_c,
                fitted=w is not None and w.setup.pad.compound == key,
            )
        )
    return tuple(lines)


def friction_curves() -> tuple[Array, dict[str, Array]]:
    """Rotor temperatures °C, and the friction of each compound at them, dry and bedded in."""
    rotor_c = np.arange(0.0, CURVE_TO_C + 1, CURVE_STEP_C)
    return rotor_c, {key: dry_mu(row, rotor_c) for key, row in COMPOUNDS.items()}


def conclusions(lines: Sequence[CompoundLine]) -> tuple[CompoundLine, CompoundLine]:
    """The compound with the most friction at the ride's hottest, and the one with the most at a first pull in the
    wet."""
    return max(lines, key=lambda x: x.at_peak or 0.0), max(lines, key=lambda x: x.wet)
