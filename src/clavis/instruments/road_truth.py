"""The road as the stand-ins find it: a hidden truth about one bike, drawn from a seed.

It differs from the model in its parameters (within their doubt) and in what the model leaves out: an uneven ring, a
surface of its own emissivity, scatter, a display that lags, a hand that is late. The core never sees it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import cos, exp, log, pi

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.situation import stated_front_share
from clavis.core.job.document import Job
from clavis.core.job.trials import Calibrated, Learnt
from clavis.core.parameters import NINETY_PERCENT_Z
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import standing_course
from clavis.core.physics.infrared import SURFACES, shown_temperature_c
from clavis.core.proving.calibration import SHARE_PRIOR, UNKNOWNS
from clavis.core.proving.prediction import SidePrediction

Array = NDArray[np.float64]

UNEVEN_RATIO = 0.03
"""by how much one side of a ring is hotter than the other, of its rise above the air"""
DISPLAY_K = 1.0
LATE_S = (0.5, 3.0)
"""how much later than he says a person reads"""


@dataclass(frozen=True)
class RoadTruth:
    """What is true of one bike and nobody knows. ``emissivity`` is where in its range that of the surface lies, −1 to
    1 of its 90 %."""

    convection: float
    carrier: float
    airflow: float
    share_more: float
    emissivity: float

    @classmethod
    def of(cls, seed: int) -> "RoadTruth":
        """Drawn within the model's doubt."""
        rng = np.random.default_rng([seed, 71])
        normal = rng.normal(size=len(UNKNOWNS) + 1) / NINETY_PERCENT_Z
        logs = [exp(log(1 + u.half_width) * z) for u, z in zip(UNKNOWNS[:-1], normal, strict=False)]
        return cls(logs[0], logs[1], logs[2], SHARE_PRIOR * float(normal[3]), float(normal[4]))

    def job(self, job: Job) -> Job:
        """The true bike, to be evaluated."""
        share = stated_front_share(job) + self.share_more
        true = {
            "convection_ratio": self.convection,
            "rotor_to_carrier_ratio": self.carrier,
            "airflow_ratio": self.airflow,
        }
        learnt = {key: _surely(value) for key, value in true.items()}
        front = _surely(min(max(share, 0.05), 0.95))
        known = Calibrated(
            who="nobody",
            at="2000-01-01T00:00",
            readings=1,
            missed_before_k=0,
            missed_after_k=0,
            front_share=front,
            **learnt,
        )
        return job.model_copy(update={"calibration": known})


def _surely(value: float) -> Learnt:
    return Learnt(value=value, sigma=1e-6)


@dataclass(frozen=True)
class CoolingBike:
    """A bike that has stopped after its ride: its true rotors over the time since then."""

    courses: Mapping[End, tuple[Array, Array]]
    air_c: float

    @classmethod
    def after(cls, side: SidePrediction, air_c: float) -> "CoolingBike":
        """``side`` is the true bike on its ride."""
        if side.setup is None:
            return cls({}, air_c)
        return cls({end: standing_course(w.nodes, w.steps, air_c) for end, w in side.setup.wheels.items()}, air_c)

    def rotor_c(self, end: End, after_s: float, angle: float = 0.0) -> float | None:
        """Of one spot of the ring, by its angle; None of a wheel without a disc."""
        if end not in self.courses:
            return None
        clock, rotor_c = self.courses[end]
        mean = float(np.interp(after_s, clock, rotor_c))
        return mean + UNEVEN_RATIO * (mean - self.air_c) * cos(angle)


@dataclass(frozen=True)
class SimulatedThermometer:
    """An infrared thermometer in a person's hand, on one kind of surface."""

    truth: RoadTruth
    read_on: str
    set_to_ratio: float
    seen_ratio: float = 1.0
    """share of its spot that the ring fills; the rest looks past it, at the air"""

    @property
    def emissivity(self) -> float:
        row = SURFACES[self.read_on]
        half = (row.high - row.low) / 2
        return min(max(row.emissivity + half * self.truth.emissivity, 0.05), 1.0)

    def read(self, bike: CoolingBike, end: End, after_s: float, draw: int) -> float | None:
        """One reading, whole tenths; ``draw`` makes each its own and the same one the same. None of a wheel without a
        disc."""
        rng = np.random.default_rng([draw, 53])
        true = bike.rotor_c(end, after_s + float(rng.uniform(*LATE_S)), float(rng.uniform(0, 2 * pi)))
        if true is None:
            return None
        shown = shown_temperature_c(true, self.seen_ratio * self.emissivity / self.set_to_ratio, bike.air_c)
        return round(shown + float(rng.normal(0, DISPLAY_K)), 1)
