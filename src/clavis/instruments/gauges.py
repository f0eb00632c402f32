"""Hand gauges that send a reading: a micrometer and a caliper gauge.

``Gauge`` is the interface. ``SimulatedGauge`` stands in for a device: it reads a hidden truth with a realistic
resolution, scatter and, over a worn hollow, the caliper gauge's own error. The core never sees that truth.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from math import pi, sin
from typing import Protocol

import numpy as np

from clavis.core.errors import ClavisError
from clavis.core.fit.mount_geometry import seat_of
from clavis.core.job.document import Job
from clavis.core.job.resolved_wheel import resolve_wheel
from clavis.core.job.wheel import ROTOR_POINTS, Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import MOUNT_ROWS, End


class GaugeKind(StrEnum):
    MICROMETER = "micrometer"
    CALIPER_GAUGE = "caliper_gauge"


class Feature(StrEnum):
    """What a gauge can be put on; each is a field of a wheel."""

    ROTOR = "rotor_points_mm"
    BOLT_SPACING = "mount_spacing_mm"
    HOLE_DEPTH = "hole_depth_mm"
    TAB = "tab_mm"
    INNER_PAD = "pad_inner_mm"
    OUTER_PAD = "pad_outer_mm"
    BORE = "bore_read_mm"
    SLOT = "slot_read_mm"
    UPPER_HOLE = "upper_hole_mm"
    LOWER_HOLE = "lower_hole_mm"
    UPPER_BOLT = "upper_bolt_mm"
    LOWER_BOLT = "lower_bolt_mm"
    SPOKE_GAP = "spoke_gap_mm"


class GaugeError(ClavisError):
    """This gauge cannot read this, in words."""


@dataclass(frozen=True)
class Reading:
    """One reading, already rounded to the gauge's resolution, mm."""

    value_mm: float
    kind: GaugeKind


class Gauge(Protocol):
    """A gauge that is put on a feature of one wheel and sends what it reads."""

    kind: GaugeKind

    def read(self, end: End, feature: Feature, point: int) -> Reading:
        """``point`` counts round the rotor; it says nothing for other features. Raises GaugeError."""
        ...


@dataclass(frozen=True)
class GaugeRow:
    """A kind of gauge: smallest step, scatter of one reading (standard deviation) and what it can be put on."""

    kind: GaugeKind
    words: str
    step_mm: float
    scatter_mm: float
    reads: frozenset[Feature]


GAUGES: Mapping[GaugeKind, GaugeRow] = {
    GaugeKind.MICROMETER: GaugeRow(GaugeKind.MICROMETER, "micrometer", 0.01, 0.003, frozenset({Feature.ROTOR})),
    GaugeKind.CALIPER_GAUGE: GaugeRow(GaugeKind.CALIPER_GAUGE, "caliper gauge", 0.01, 0.02, frozenset(Feature)),
}


class GaugeBench(Protocol):
    """The bike that a simulated gauge is put on: its true dimensions, mm, and how far jaws bridge a worn hollow."""

    def true_mm(self, end: End, feature: Feature, point: int) -> float | None: ...

    def hollow_mm(self, end: End) -> float: ...


@dataclass(frozen=True)
class SimulatedGauge:
    """Reads a bench with scatter. ``draw`` makes each press its own draw, and the same press the same."""

    kind: GaugeKind
    bench: GaugeBench
    draw: int

    def read(self, end: End, feature: Feature, point: int) -> Reading:
        row = GAUGES[self.kind]
        if feature not in row.reads:
            raise GaugeError(f"a {row.words} does not reach this: use another gauge, or type it")
        true = self.bench.true_mm(end, feature, point)
        if true is None:
            raise GaugeError("nothing is there to read: name the part or the mount first")
        bridged = self.bench.hollow_mm(end) if (feature, self.kind) == (Feature.ROTOR, GaugeKind.CALIPER_GAUGE) else 0.0
        scatter = float(np.random.default_rng(self.draw).normal(0.0, row.scatter_mm))
        steps = round((true + bridged + scatter) / row.step_mm)
        return Reading(round(max(steps, 1) * row.step_mm, 4), self.kind)


@dataclass(frozen=True)
class DemoBench:
    """A hidden truth for the stand-ins, drawn from the job's seed: a rotor worn unevenly and hollow, parts near their
    nominal size. It stays where it is while readings come and go."""

    job: Job
    catalogue: Catalogue

    def _rng(self, end: End, what: int) -> np.random.Generator:
        return np.random.default_rng([self.job.seed, list(End).index(end), what])

    def hollow_mm(self, end: End) -> float:
        return float(self._rng(end, 1).uniform(0.03, 0.12))

    def _rotor_mm(self, end: End, point: int) -> float | None:
        rotor = self.catalogue.rotors.get(self.job.wheel(end).rotor_id or "")
        if rotor is None:
            return None
        rng = self._rng(end, 2)
        worn, uneven, phase = rng.uniform(0.05, 0.28), rng.uniform(0.004, 0.03), rng.uniform(0, 2 * pi)
        return float(rotor.thickness_mm - worn + uneven * sin(2 * pi * point / ROTOR_POINTS + phase))

    def true_mm(self, end: End, feature: Feature, point: int) -> float | None:
        wheel = self.job.wheel(end)
        caliper = self.catalogue.calipers.get(wheel.caliper_id or "")
        pad = self.catalogue.pads.get(wheel.pad_id or "")
        resolved = resolve_wheel(self.job, end, self.catalogue)
        told, native = resolved.mount.kind, resolved.native.mm
        by_direction = (row for row in MOUNT_ROWS.values() if row.direction is wheel.bolt_direction)
        row = MOUNT_ROWS[told] if told else next(by_direction, None)
        if feature is Feature.ROTOR:
            return self._rotor_mm(end, point)
        seat = seat_of(told, end, native, Wheel()) if told and native is not None else None
        nominal: dict[Feature, tuple[float | None, float]] = {
            Feature.BOLT_SPACING: (row.spacing_mm if row else None, 0.15),
            Feature.HOLE_DEPTH: (15.0 if row else None, 1.2),
            Feature.TAB: (5.0 if row else None, 0.3),
            Feature.INNER_PAD: (pad.material_mm * 0.7 if pad else None, 0.3),
            Feature.OUTER_PAD: (pad.material_mm * 0.7 if pad else None, 0.3),
            Feature.BORE: (max(caliper.bores_mm, default=None) if caliper else None, 0.02),
            Feature.SLOT: (caliper.slot_mm if caliper else None, 0.03),
            Feature.UPPER_HOLE: (abs(seat.upper) if seat else None, 0.2),
            Feature.LOWER_HOLE: (abs(seat.lower) if seat else None, 0.2),
            Feature.UPPER_BOLT: (18.0 if caliper else None, 0.05),
            Feature.LOWER_BOLT: (18.0 if caliper else None, 0.05),
            Feature.SPOKE_GAP: (4.5 if caliper else None, 1.2),
        }
        size, spread = nominal[feature]
        if size is None:
            return None
        return float(size + self._rng(end, 3 + list(Feature).index(feature)).uniform(-spread, spread))
