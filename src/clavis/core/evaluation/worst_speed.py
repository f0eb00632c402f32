"""The worst steady speed of a slope: for power, for the rotor, for the fluid (docs/model.md, section 4).

For power it has a closed form. Rotor and fluid are worst at lower speeds, where the air is slower and the time longer;
they are found by running the heat model over the speeds.
"""

from dataclasses import dataclass
from math import asin, atan, sin, tan

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ensure
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.margins import Demand
from clavis.core.evaluation.situation import Situation
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import BrakeLoad, HeatSteps, steady_power_w, worst_speed_ms
from clavis.core.physics.heat import Node, peaks_of
from clavis.core.sentences import Value, Words, say
from clavis.core.units import KMH_PER_MS

Array = NDArray[np.float64]

SLOWEST_KMH, FASTEST_KMH, BY_KMH = 6.0, 90.0, 2.0
LONGEST_STEP_S = 10.0
LEAST_GRADIENT, MOST_GRADIENT = 0.01, 0.45


@dataclass(frozen=True)
class WorstSpeeds:
    """Speeds km/h (n,); at each the power of all brakes W and the peaks of rotor and fluid °C (n,); the worst of each.
    ``power_kmh`` is None where the road does not push; ``fluid_kmh`` where there is no fluid."""

    gradient: float
    drop_m: float
    speeds_kmh: Array
    power_w: Array
    rotor_c: Array
    fluid_c: Array
    power_kmh: float | None
    rotor_kmh: float
    rotor_worst_c: float
    fluid_kmh: float | None
    fluid_worst_c: float | None

    @property
    def gradient_pct(self) -> float:
        return self.gradient * 100


def steady_steps(power_w: float, speed_ms: float, length_m: float, pressure_pa: float) -> HeatSteps:
    """Steps of one steady drag: short at its beginning, then up to ten seconds."""
    duration = length_m / speed_ms
    bounds, span = [0.0], 0.5
    while bounds[-1] < duration:
        bounds.append(min(bounds[-1] + span, duration))
        span = min(span * 1.25, LONGEST_STEP_S)
    time = np.array(bounds)
    one = np.ones(len(time) - 1)
    on = 1.0 if power_w > 1.0 else 0.0
    return HeatSteps(
        dt_s=np.diff(time),
        power_w=one * power_w,
        speed_ms=one * speed_ms,
        braking=one * on,
        force_n=one * (power_w / speed_ms),
        pressure_pa=one * pressure_pa,
        distance_m=time * speed_ms,
        time_s=time,
        regen_j=0.0,
    )


SUSTAINED_M: tuple[float, ...] = (500.0, 1000.0, 2000.0, 5000.0)
"""lengths over which a slope may be asked for; the first where nothing is said"""


@dataclass(frozen=True)
class Stretch:
    """A stretch of a ride, m from its start, and its mean slope (downhill positive)."""

    from_m: float
    to_m: float
    gradient: float

    @property
    def from_km(self) -> float:
        return self.from_m / 1000

    @property
    def to_km(self) -> float:
        return self.to_m / 1000

    @property
    def gradient_pct(self) -> float:
        return self.gradient * 100


def steepest_stretch(load: BrakeLoad, over_m: float = SUSTAINED_M[0]) -> Stretch:
    """The stretch of a ride that falls most over a length; the whole ride where it is shorter.

    >>> from clavis.core.physics.samples import LOAD
    >>> round(steepest_stretch(LOAD).gradient, 3)
    0.08
    """
    way, fallen = load.distance_m, np.concatenate([[0.0], np.cumsum(load.ds_m * np.sin(np.arctan(load.gradient)))])
    begins = way[way + over_m <= way[-1] + 1e-6]
    if not len(begins):
        begins, over_m = way[:1], float(way[-1])
    rides = np.concatenate([[True], np.diff(way) > 0])  # standing has no length
    falls = np.interp(begins + over_m, way[rides], fallen[rides]) - np.interp(begins, way[rides], fallen[rides])
    k = int(falls.argmax())
    rise = float(falls[k]) / max(over_m, 1e-9)
    return Stretch(float(begins[k]), float(begins[k]) + over_m, tan(asin(min(max(rise, -0.5), 0.5))))


def greatest_fall_m(load: BrakeLoad) -> float:
    """The most height that a ride loses between any two places of it, what it climbs between taken off."""
    height = -np.concatenate([[0.0], np.cumsum(load.ds_m * np.sin(np.arctan(load.gradient)))])
    return float((np.maximum.accumulate(height) - height).max())


def worst_on_ride(
    w: WheelResult, situation: Situation, load: BrakeLoad, demand: Demand, over_m: float = SUSTAINED_M[0]
) -> tuple[Stretch, WorstSpeeds]:
    """Worst speeds on the steepest slope that a ride sustains over a length, held over its greatest fall, up to the top
    speed; and which stretch that is. Raises QuantityError where the ride is no descent."""
    stretch, top_kmh = steepest_stretch(load, over_m), demand.top_speed.value * KMH_PER_MS
    fall, height = greatest_fall_m(load), float(load.elevation_m.mean())
    return stretch, worst_speeds(w, situation, stretch.gradient, fall, height, top_kmh)


LEAST_FALL_M = 10.0
"""a picked slope is held over at least this"""


def worst_on_slope(
    w: WheelResult, situation: Situation, load: BrakeLoad, demand: Demand, gradient: float
) -> WorstSpeeds:
    """The same on a slope that was picked, held over the ride's greatest fall. Raises QuantityError for a slope that is
    no descent."""
    fall, height = max(greatest_fall_m(load), LEAST_FALL_M), float(load.elevation_m.mean())
    return worst_speeds(w, situation, gradient, fall, height, demand.top_speed.value * KMH_PER_MS)


def speed_on(load: BrakeLoad, stretch: Stretch) -> float:
    """How fast a stretch is ridden as planned, km/h: its length over its time."""
    times = np.interp([stretch.from_m, stretch.to_m], load.distance_m, load.time_s)
    took_s = float(times[1] - times[0])
    return (stretch.to_m - stretch.from_m) / max(took_s, 1e-9) * KMH_PER_MS


AS_HOT_K = 5.0
"""a speed whose peak is within this of the worst one is as bad"""


def at_speed(worst: WorstSpeeds, kmh: float) -> float:
    """The rotor's peak at a steady speed on that slope, °C, between the speeds that were tried."""
    return float(np.interp(kmh, worst.speeds_kmh, worst.rotor_c))


def speed_advice(worst: WorstSpeeds, present_kmh: float) -> Words:
    """The speed that a slope is ridden at beside the one that is worst for the rotor, and what would be cooler."""
    here_c = at_speed(worst, present_kmh)
    told: dict[str, Value] = {
        "slope_pct": worst.gradient_pct, "present_kmh": present_kmh, "here_c": here_c, "worst_kmh": worst.rotor_kmh,
        "worst_c": worst.rotor_worst_c,
    }  # fmt: skip
    words = (
        "{slope_pct:.1} held at {present_kmh:.0} brings the rotor to {here_c:.0}; worst is {worst_kmh:.0} with "
        "{worst_c:.0}"
    )
    if here_c > worst.rotor_worst_c - AS_HOT_K:
        return say(words + ": slower is cooler, and faster where the road allows it, for the air brakes then", **told)
    if present_kmh < worst.rotor_kmh:
        return say(words + ": faster would be hotter, slower is cooler still", **told)
    return say(words + ": the air brakes at this speed; slowing down towards the worst would be hotter", **told)


def worst_speeds(
    w: WheelResult, situation: Situation, gradient: float, drop_m: float, elevation_m: float, limit_kmh: float
) -> WorstSpeeds:
    """Peaks over steady speeds up to the road's limit on a slope of ``gradient`` that loses ``drop_m`` of height.

    Raises QuantityError for a slope or drop that makes no descent.
    """
    ensure("gradient", 100 * LEAST_GRADIENT, 100 * MOST_GRADIENT, gradient_pct=100 * gradient)
    ensure("height lost", 1, 5000, drop_m=drop_m)
    place = np.array([elevation_m])
    rho, pressure = (float(f(place)[0]) for f in (situation.weather.density_kg_m3, situation.weather.pressure_pa))
    share = situation.sharing.front_share if w.end is End.FRONT else 1 - situation.sharing.front_share
    share *= 1 - situation.sharing.third_share
    length = drop_m / sin(atan(gradient))
    speeds = np.arange(SLOWEST_KMH, max(min(limit_kmh, FASTEST_KMH), SLOWEST_KMH + BY_KMH) + 0.1, BY_KMH)
    total, rotor, fluid = (np.empty(len(speeds)) for _ in range(3))
    for k, kmh in enumerate(speeds):
        v = float(kmh) / KMH_PER_MS
        total[k] = steady_power_w(situation.bike, gradient, v, rho)
        power = share * total[k]
        table = peaks_of(w.nodes[None, :], steady_steps(power, v, length, pressure), situation.weather.ambient_c)
        rotor[k], fluid[k] = table.peak_c[0, Node.ROTOR], table.fluid_peak_c[0]
    has_fluid = w.heat.fluid_peak_c is not None
    top = worst_speed_ms(situation.bike, gradient, rho)
    hottest, boiling = int(rotor.argmax()), int(fluid.argmax())
    return WorstSpeeds(
        gradient,
        drop_m,
        speeds,
        total,
        rotor,
        fluid,
        None if top is None else min(top * KMH_PER_MS, limit_kmh),
        float(speeds[hottest]),
        float(rotor[hottest]),
        float(speeds[boiling]) if has_fluid else None,
        float(fluid[boiling]) if has_fluid else None,
    )
