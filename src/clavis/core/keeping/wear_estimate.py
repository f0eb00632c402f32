"""How a part wears: what the model expects and what was read, weighed together (docs/keeping.md).

The model expects a wear w(x) by the distance x; the wear is u·w(x), with ln u normal. Wear is uneven along the way: a
stretch of expected wear Δw adds the variance c² u² Δw g, with g the expected wear of 100 km. On a grid over ln u the
thickness is followed through the readings (a Kalman filter each), which gives every u its weight.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import log, sqrt

import numpy as np
from numpy.typing import NDArray

from clavis.core.job.renewal import Renewal
from clavis.core.parameters import NINETY_PERCENT_Z

Array = NDArray[np.float64]

MODEL_HALF_WIDTH = 0.50
"""how well the model knows the wear of a part: ± 50 % (docs/model.md, section 7)"""
PRIOR_SIGMA = log(1 + MODEL_HALF_WIDTH) / NINETY_PERCENT_Z
NO_MODEL_SIGMA = 1.0
"""where no model speaks: a part wears as parts do, within a factor of five; judged"""
TYPICAL_MM_PER_KM = {Renewal.PAD: 0.30e-3, Renewal.ROTOR: 0.03e-3}
"""what parts do, where no model speaks; judged"""
OF_THE_BIKE = 0.5
"""share of the doubt's variance that is the bike's, its rider's and its way's, and not the compound's; judged"""
UNEVEN = 0.50
"""from one stretch of 100 km to the next; judged"""
STRETCH_KM = 100.0
GRID, GRID_SIGMAS = 97, 4.5
LOW, HIGH = 0.10, 0.90
"""what is told lies between in four cases of five"""
FARTHEST_KM = 400_000.0


@dataclass(frozen=True)
class Belief:
    """What is believed of ln u: normal, with its mean and variance."""

    mean: float = 0.0
    variance: float = PRIOR_SIGMA**2

    def carried(self, same: bool) -> "Belief":
        """What it says of the next part in the same place: all of it where that is the ``same`` model, otherwise what
        belongs to the bike, with a doubt of its own for the new compound.

        >>> next_pads = Belief(0.354, 0.01505).carried(same=False)
        >>> round(next_pads.mean, 3), round(next_pads.variance, 4)
        (0.177, 0.0493)
        """
        if same:
            return self
        whole = PRIOR_SIGMA**2
        of_bike = OF_THE_BIKE * whole
        gain = of_bike / whole
        variance = of_bike - gain * of_bike + gain**2 * min(self.variance, whole)
        return Belief(gain * self.mean, variance + whole - of_bike)


NO_MODEL = Belief(0.0, NO_MODEL_SIGMA**2)


@dataclass(frozen=True)
class WearPace:
    """From a distance on, km: what the model expects, mm in one km. None: no model speaks of it."""

    from_km: float
    mm_per_km: float


@dataclass(frozen=True)
class ExpectedWear:
    """The expected wear of a part along its way: stretches in order, the last one open. A rotor's change with the pads
    on it."""

    stretches: tuple[WearPace, ...]

    def between(self, from_km: float, to_km: float) -> float:
        """ExpectedWear wear between two distances, mm.

        >>> round(ExpectedWear((WearPace(0, 0.020e-3), WearPace(3000, 0.050e-3))).between(0, 4000), 3)
        0.11
        """
        wear = 0.0
        for k, stretch in enumerate(self.stretches):
            ends = self.stretches[k + 1].from_km if k + 1 < len(self.stretches) else FARTHEST_KM
            begins = stretch.from_km if k else min(stretch.from_km, from_km)
            length = min(to_km, ends) - max(from_km, begins)
            wear += max(length, 0.0) * stretch.mm_per_km
        return wear

    @property
    def now_mm_per_km(self) -> float:
        return self.stretches[-1].mm_per_km


@dataclass(frozen=True)
class Read:
    """A thickness at a distance, with σ of its reading, mm."""

    km: float
    mm: float
    sigma_mm: float


def sigma_of(half_width_mm: float) -> float:
    """σ of a reading from its 90 % half-width."""
    return half_width_mm / NINETY_PERCENT_Z


@dataclass(frozen=True)
class Crossing:
    """At which distance a line is crossed, km: middle, and between which in four cases of five."""

    low_km: float
    middle_km: float
    high_km: float


@dataclass(frozen=True)
class WearEstimate:
    """What is known of a part at the distance ``at_km``: for every u of the grid (n,) its weight, the thickness and its
    variance."""

    expected: ExpectedWear
    at_km: float
    u: Array
    weight: Array
    thickness_mm: Array
    variance_mm2: Array
    readings: int

    @cached_property
    def belief(self) -> Belief:
        """ln u, as a normal."""
        ln = np.log(self.u)
        mean = float(self.weight @ ln)
        return Belief(mean, float(self.weight @ (ln - mean) ** 2))

    @property
    def ratio(self) -> float:
        """How many times what the model expects it wears: the middle."""
        return float(np.exp(self.belief.mean))

    def rate_mm_per_km(self, z: float = 0.0) -> float:
        """Wear in one km, mm, at a standard normal quantile of ln u."""
        belief = self.belief
        return self.expected.now_mm_per_km * float(np.exp(belief.mean + z * sqrt(belief.variance)))

    def chance_of_ratio_above(self, ratio: float) -> float:
        return float(self.weight[self.u > ratio].sum())

    def _at(self, km: Array) -> tuple[Array, Array]:
        """Mean and σ of the thickness at distances (m,), for every u: both (m, n)."""
        rate = self.expected.now_mm_per_km
        wear = np.maximum(km - self.at_km, 0.0)[:, None] * rate
        grain = UNEVEN**2 * rate * STRETCH_KM
        mean = self.thickness_mm - self.u * wear
        return mean, np.sqrt(self.variance_mm2 + grain * self.u**2 * wear)

    def chance_below(self, line_mm: float, km: float) -> float:
        """The chance that the part is at or below a line at a distance."""
        return float(self.chances_below(line_mm, np.array([km]))[0])

    def chances_below(self, line_mm: float, km: Array) -> Array:
        """The same at several distances (m,): (m,)."""
        from scipy.special import ndtr

        mean, sigma = self._at(km)
        found: Array = ndtr((line_mm - mean) / sigma) @ self.weight
        return found

    def crossing(self, line_mm: float) -> Crossing:
        """When a line is crossed; from the last reading on, so that what is crossed already is crossed there."""
        return Crossing(*(self._when(line_mm, share) for share in (LOW, 0.5, HIGH)))

    def _when(self, line_mm: float, share: float) -> float:
        low, step = self.at_km, 64.0
        if self.chance_below(line_mm, low) >= share:
            return low
        while self.chance_below(line_mm, low + step) < share:
            low, step = low + step, step * 2
            if low > FARTHEST_KM:
                return FARTHEST_KM
        km = low + np.linspace(0.0, step, 65)
        return float(np.interp(share, self.chances_below(line_mm, km), km))

    def band_mm(self, km: Array, shares: Sequence[float] = (LOW, 0.5, HIGH)) -> Array:
        """Quantiles of the thickness at distances (m,): (len(shares), m)."""
        mean, sigma = self._at(km)
        offsets = _OFFSETS[None, None, :] * sigma[:, :, None]
        values = (mean[:, :, None] + offsets).reshape(len(km), -1)
        weights = np.repeat(self.weight, len(_OFFSETS)) / len(_OFFSETS)
        order = np.argsort(values, axis=1)
        ranked = np.take_along_axis(values, order, axis=1)
        below = np.cumsum(weights[order], axis=1)
        rows = [[float(np.interp(share, below[k], ranked[k])) for k in range(len(km))] for share in shares]
        return np.array(rows)


_OFFSETS: Array = np.array([-1.6449, -1.0364, -0.6745, -0.3853, -0.1257, 0.1257, 0.3853, 0.6745, 1.0364, 1.6449])
"""standard normal quantiles at 0.05, 0.15 … 0.95, each standing for a tenth"""


def estimate(
    expected: ExpectedWear, from_km: float, start: Read | None, readings: Sequence[Read], prior: Belief = Belief()
) -> WearEstimate | None:
    """What is known of a part after its readings.

    Parameters
    ----------
    expected : ExpectedWear
        What the model expects along its way.
    from_km : float
        Where it was fitted, or first seen.
    start : Read or None
        Its thickness there; None where it is not known: the first reading is then where it starts.
    readings : sequence of Read
        In the order of distance. Those that may not be counted are left out before.
    prior : Belief
        Of ln u.

    Returns
    -------
    WearEstimate or None
        None where neither a start nor a reading tells a thickness.

    Source: Bayes' rule over a grid of u; a Kalman filter with the stated variances for the thickness at each u.
    """
    left = list(readings)
    if start is None:
        if not left:
            return None
        start = left.pop(0)
        from_km = start.km
    spread = sqrt(prior.variance)
    ln = prior.mean + np.linspace(-GRID_SIGMAS, GRID_SIGMAS, GRID) * spread
    u = np.exp(ln)
    score = -((ln - prior.mean) ** 2) / (2 * prior.variance)
    mean, variance = np.full(GRID, start.mm), np.full(GRID, start.sigma_mm**2)
    at_km = from_km
    for read in left:
        wear, length = expected.between(at_km, read.km), read.km - at_km
        grain = wear / length * STRETCH_KM if length > 0 else 0.0
        mean = mean - u * wear
        variance = variance + UNEVEN**2 * u**2 * wear * grain
        total = variance + read.sigma_mm**2
        score = score - (read.mm - mean) ** 2 / (2 * total) - np.log(total) / 2
        gain = variance / total
        mean, variance = mean + gain * (read.mm - mean), (1 - gain) * variance
        at_km = read.km
    weight = np.exp(score - score.max())
    return WearEstimate(expected, at_km, u, weight / weight.sum(), mean, variance, len(readings))
