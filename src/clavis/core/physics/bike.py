"""Bike, rider and load: kinds with their defaults, axle loads, what the ground allows (docs/model.md, section 1)."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import atan, cos, inf, sin
from typing import Any

import numpy as np

from clavis.core.errors import QuantityError, ensure
from clavis.core.parameters import GRAVITY_MS2, doubt_words
from clavis.core.parts.mounts import End
from clavis.core.sentences import say
from clavis.core.working import Figure, Given


class BikeKind(StrEnum):
    CITY = "city"
    ROAD = "road"
    GRAVEL = "gravel"
    TRAIL = "trail"
    ENDURO = "enduro"
    FOLDING = "folding"
    CARGO = "cargo"
    TANDEM = "tandem"
    TOURING = "touring"
    CROSS_COUNTRY = "cross_country"


@dataclass(frozen=True)
class KindDefaults:
    """Typical figures of a kind of bike; each can be overridden."""

    wheelbase_m: float
    rear_to_cg_m: float
    cg_height_m: float
    bike_mass_kg: float
    drag_area_m2: float
    rolling_ratio: float
    wheel_radius_m: float


KINDS: dict[BikeKind, KindDefaults] = {
    BikeKind.CITY: KindDefaults(1.08, 0.42, 1.10, 16, 0.55, 0.007, 0.345),
    BikeKind.ROAD: KindDefaults(0.99, 0.44, 1.02, 9, 0.40, 0.005, 0.335),
    BikeKind.GRAVEL: KindDefaults(1.03, 0.45, 1.05, 10, 0.45, 0.007, 0.345),
    BikeKind.TRAIL: KindDefaults(1.20, 0.50, 1.10, 14, 0.55, 0.010, 0.345),
    BikeKind.ENDURO: KindDefaults(1.25, 0.52, 1.08, 16.5, 0.60, 0.012, 0.350),
    BikeKind.FOLDING: KindDefaults(1.00, 0.42, 1.08, 12, 0.55, 0.008, 0.225),
    BikeKind.CARGO: KindDefaults(1.90, 0.85, 0.95, 35, 0.75, 0.008, 0.270),
    BikeKind.TANDEM: KindDefaults(1.75, 0.80, 1.05, 20, 0.60, 0.006, 0.335),
    BikeKind.TOURING: KindDefaults(1.06, 0.45, 1.08, 15, 0.50, 0.007, 0.345),
    BikeKind.CROSS_COUNTRY: KindDefaults(1.15, 0.49, 1.06, 12, 0.50, 0.010, 0.355),
}
ASSIST_MASS_KG = 10.0
"""added to the kind's mass for motor and battery, 8 to 12 kg (docs/model.md, section 1)"""


TYRE_LOADED_RATIO = 0.9
"""height of a loaded tyre over its width: a tenth is pressed flat (judged)"""


def rolling_radius_m(tyre_size: str) -> float | None:
    """Loaded rolling radius of a tyre by its marked size, width-bead seat in mm: half the bead seat and nine tenths
    of the width. None where no size is given.

    >>> rolling_radius_m("37-622")
    0.3443
    """
    if not tyre_size:
        return None
    width_mm, seat_mm = (float(figure) for figure in tyre_size.split("-"))
    return (seat_mm / 2 + TYRE_LOADED_RATIO * width_mm) / 1000


class Surface(StrEnum):
    DRY_ASPHALT = "dry_asphalt"
    WET_ASPHALT = "wet_asphalt"
    WET_COBBLES = "wet_cobbles"
    HARDPACK = "hardpack"
    GRAVEL = "gravel"
    LOOSE = "loose"


class Tread(StrEnum):
    SLICK = "slick"
    MIXED = "mixed"
    KNOBBY = "knobby"


class TreadLeft(StrEnum):
    """How much of its tread a tyre has left."""

    FULL = "full"
    HALF = "half"
    WORN = "worn"


# What a worn tread leaves of the grip where it matters: on ground that gives way, and on a wet road (judged). A dry
# road does not ask for tread.
LEFT_ON_LOOSE: dict[TreadLeft, float] = {TreadLeft.FULL: 1.0, TreadLeft.HALF: 0.95, TreadLeft.WORN: 0.85}
LEFT_IN_WET: dict[TreadLeft, float] = {TreadLeft.FULL: 1.0, TreadLeft.HALF: 0.97, TreadLeft.WORN: 0.90}

GRIP: dict[Surface, float] = {
    Surface.DRY_ASPHALT: 0.80,
    Surface.WET_ASPHALT: 0.55,
    Surface.WET_COBBLES: 0.40,
    Surface.HARDPACK: 0.60,
    Surface.GRAVEL: 0.45,
    Surface.LOOSE: 0.35,
}
WET_SURFACES = frozenset({Surface.WET_ASPHALT, Surface.WET_COBBLES})
_LOOSE_GROUND = frozenset({Surface.GRAVEL, Surface.LOOSE, Surface.HARDPACK})
_SEALED_GROUND = frozenset({Surface.DRY_ASPHALT, Surface.WET_ASPHALT, Surface.WET_COBBLES})


def tyre_grip(surface: Surface, tread: Tread, left: TreadLeft = TreadLeft.FULL) -> float:
    """Peak grip of a tyre on a ground.

    Parameters
    ----------
    surface : Surface
        The ground; its figure is known to ± 15 %.
    tread : Tread
        Slick, mixed or knobby.
    left : TreadLeft
        What is left of the tread; a slick has none to lose.

    Returns
    -------
    float
        Peak friction over load, 0.3 to 0.9: the surface's figure, × 0.85 for a slick tread on loose ground, × 0.9 for
        knobs on sealed ground.

    Source: judged, within what is published for bicycle tyres (docs/model.md, section 1).

    >>> round(tyre_grip(Surface.DRY_ASPHALT, Tread.KNOBBY), 2)
    0.72
    """
    factor = 1.0
    if tread is Tread.SLICK and surface in _LOOSE_GROUND:
        factor = 0.85
    elif tread is Tread.KNOBBY and surface in _SEALED_GROUND:
        factor = 0.9
    if tread is not Tread.SLICK:
        by = LEFT_ON_LOOSE if surface in _LOOSE_GROUND else LEFT_IN_WET if surface in WET_SURFACES else {}
        factor *= by.get(left, 1.0)
    return GRIP[surface] * factor


@dataclass(frozen=True)
class PlacedMass:
    """A mass with its place: distance ahead of the rear contact and height above ground, m."""

    name: str
    mass_kg: float
    ahead_m: float
    height_m: float


@dataclass(frozen=True)
class LoadedBike:
    """Bike, rider and everything on it. Lengths in m, masses in kg.

    ``trailer_kg`` is an unbraked trailer: it pushes and has inertia, but loads no axle of the bike.
    """

    mass_kg: float
    wheelbase_m: float
    rear_to_cg_m: float
    cg_height_m: float
    drag_area_m2: float
    rolling_ratio: float
    wheel_radius_m: float
    trailer_kg: float = 0.0

    def __post_init__(self) -> None:
        ensure("total mass", 15, 600, mass_kg=self.mass_kg)
        ensure("wheelbase", 0.5, 3.5, wheelbase_m=self.wheelbase_m)
        ensure("height of the centre of gravity", 0.2, 2.0, height_m=self.cg_height_m)
        ensure("drag area", 0.05, 3.0, area_m2=self.drag_area_m2)
        ensure("rolling resistance", 0.001, 0.1, rolling_ratio=self.rolling_ratio)
        ensure("rolling radius", 0.1, 0.5, radius_m=self.wheel_radius_m)
        ensure("trailer mass", 0, 300, trailer_kg=self.trailer_kg)
        if not 0 < self.rear_to_cg_m < self.wheelbase_m:
            raise QuantityError(
                "centre of gravity ahead of the rear contact",
                say("{ahead_m:.2}", ahead_m=self.rear_to_cg_m),
                say("between the axles, {wheelbase_m:.2} apart", wheelbase_m=self.wheelbase_m),
            )

    @property
    def front_to_cg_m(self) -> float:
        return self.wheelbase_m - self.rear_to_cg_m

    @property
    def rolling_mass_kg(self) -> float:
        """Mass that has to be held and stopped, the trailer included."""
        return self.mass_kg + self.trailer_kg


def centre_of(masses: Sequence[PlacedMass]) -> PlacedMass:
    """All masses as one at their common centre of gravity.

    Parameters
    ----------
    masses : sequence of PlacedMass
        kg, with their places in m ahead of the rear contact and above the ground.

    Returns
    -------
    PlacedMass
        Their sum at the mass-weighted mean of their places.

    Raises
    ------
    QuantityError
        Where they weigh nothing together.

    Source: x̄ = Σ m x/Σ m (statics).

    >>> both = centre_of([PlacedMass("bike and rider", 90, 0.45, 1.08), PlacedMass("bags", 10, 0.05, 0.5)])
    >>> both.mass_kg, round(both.ahead_m, 3), round(both.height_m, 3)
    (100, 0.41, 1.022)
    """
    total = sum(p.mass_kg for p in masses)
    if total <= 0:
        raise QuantityError("mass of bike and rider", say("{mass_kg:g}", mass_kg=total), "above zero")
    ahead = sum(p.mass_kg * p.ahead_m for p in masses) / total
    height = sum(p.mass_kg * p.height_m for p in masses) / total
    return PlacedMass("together", total, ahead, height)


def one(amount: Any) -> float:
    """What came of arithmetic: a number as one, draws as they are.

    In ``bike`` and ``forces`` an array of draws may stand wherever a number stands; every equation is the same for
    both, and what it gives is as long as what was put in.

    >>> one(np.float64(2.0)), one(np.array([1.0, 2.0])).tolist()
    (2.0, [1.0, 2.0])
    """
    drawn: Any = amount if isinstance(amount, np.ndarray) and amount.ndim else float(amount)
    return drawn  # type: ignore[no-any-return]


def slope_angle(gradient: float) -> float:
    """The angle of a slope: θ = atan(rise per horizontal run).

    Parameters
    ----------
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.

    Returns
    -------
    float
        rad.

    Raises
    ------
    QuantityError
        Beyond 60 %.

    >>> round(slope_angle(0.10), 4)
    0.0997
    """
    ensure("gradient", -60, 60, gradient_pct=100 * gradient)
    return atan(gradient)


def axle_loads_n(bike: LoadedBike, brake_force_n: float, gradient: float) -> tuple[float, float]:
    """What the two axles carry while a bike brakes.

    N_f = (m g cosθ · l_r + F_b h)/L, N_r = m g cosθ − N_f; air drag is neglected.

    Parameters
    ----------
    bike : LoadedBike
    brake_force_n : float
        Force of all brakes together at the road, N, 0 or more.
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.

    Returns
    -------
    tuple of float
        Front and rear, N; together m g cosθ. The rear's is below zero where the bike pitches over.

    Raises
    ------
    QuantityError
        For a gradient beyond 60 %.

    Source: moments about the rear contact; Wilson and Schmidt, Bicycling Science, 4th ed., MIT Press 2020, chapter 7
    (braking).

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> [round(load_n) for load_n in axle_loads_n(bike, 400.0, 0.0)]
    [768, 115]
    """
    weight = bike.mass_kg * GRAVITY_MS2 * cos(slope_angle(gradient))
    front = (weight * bike.rear_to_cg_m + brake_force_n * bike.cg_height_m) / bike.wheelbase_m
    return front, weight - front


@dataclass(frozen=True)
class GroundLimits:
    """The most brake force the ground takes on one slope and surface, N. ``grip`` is the front tyre's,
    ``rear_grip`` the rear's."""

    grip: float
    rear_grip: float
    gradient: float
    pitch_over_n: float
    both_n: float
    front_alone_n: float
    rear_alone_n: float
    front_pitches_first: bool
    decel_ms2: float
    """along the road with both wheels at the limit; below zero the bike cannot be held"""


def ground_limits(bike: LoadedBike, grip: float, gradient: float, rear_ratio: float = 1.0) -> GroundLimits:
    """The most brake force that the ground takes: with both wheels, with either alone, and before pitch-over.

    Pitch-over: m g cosθ · l_f/h. Front alone: pitch-over where μ_f ≥ l_f/h, otherwise the smaller of pitch-over and
    μ_f m g cosθ · l_r/(L − μ_f h). Rear alone: μ_r m g cosθ · l_f/(L + μ_r h). Both: the smaller of pitch-over and
    m g cosθ (μ_r L + Δ l_r)/(L − Δ h), Δ = μ_f − μ_r; with the same tyres that is μ m g cosθ.

    Parameters
    ----------
    bike : LoadedBike
    grip : float
        Friction of the tyres on this ground, above 0, as ``tyre_grip`` gives it.
    gradient : float
        Rise over run, −0.6 to 0.6; downhill positive.
    rear_ratio : float
        Friction of the rear tyre over the front's, above 0.

    Returns
    -------
    GroundLimits
        Forces in N, and the deceleration along the road with both wheels at the limit, m/s².

    Raises
    ------
    QuantityError
        For a gradient beyond 60 %.

    Source: moments at the point of lift-off and of sliding; Wilson and Schmidt, Bicycling Science, 4th ed., MIT Press
    2020, chapter 7 (braking).

    >>> limits = ground_limits(LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345), 0.85, 0.0)
    >>> round(limits.pitch_over_n), round(limits.rear_alone_n), round(limits.decel_ms2, 2)
    (515, 237, 5.72)
    """
    theta = slope_angle(gradient)
    weight = bike.mass_kg * GRAVITY_MS2 * cos(theta)
    h, length, l_f, l_r = bike.cg_height_m, bike.wheelbase_m, bike.front_to_cg_m, bike.rear_to_cg_m
    pitch = weight * l_f / h
    pitches = grip >= l_f / h
    lifts = length - grip * h
    slide = np.where(lifts <= 0, inf, grip * weight * l_r / np.where(lifts <= 0, 1.0, lifts))
    front = one(np.where(pitches, pitch, np.minimum(pitch, slide)))
    rear_grip = grip * rear_ratio
    apart = grip - rear_grip
    both = one(np.minimum(weight * (rear_grip * length + apart * l_r) / (length - apart * h), pitch))
    decel = both / bike.rolling_mass_kg - GRAVITY_MS2 * sin(theta)
    rear = rear_grip * weight * l_f / (length + rear_grip * h)
    return GroundLimits(grip, rear_grip, gradient, pitch, both, front, rear, pitches, decel)


def limit_alone_n(limits: GroundLimits, end: End) -> float:
    """The most brake force that the ground takes from one wheel alone, N.

    >>> limits = ground_limits(LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345), 0.85, 0.0)
    >>> round(limit_alone_n(limits, End.REAR))
    237
    """
    return limits.front_alone_n if end is End.FRONT else limits.rear_alone_n


UNLIKE_TYRES = "a = min(m g (μ_r L + (μ − μ_r) l_r)/(L − (μ − μ_r) h), m g l_f / h) / m_r"


def standing_figures(bike: LoadedBike, grip: float, rear_ratio: float = 1.0) -> tuple[Figure, ...]:
    """What a bike carries and can do, each figure with its working.

    Parameters
    ----------
    bike : LoadedBike
    grip : float
        Friction of the front tyre on the ground, above 0.
    rear_ratio : float
        Friction of the rear tyre over the front's, above 0.

    Returns
    -------
    tuple of Figure
        Axle loads standing and at the limit of the flat, N; the deceleration of that limit, m/s².

    Source: ``axle_loads_n`` and ``ground_limits``.

    >>> bike = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
    >>> [(figure.key, round(figure.value)) for figure in standing_figures(bike, 0.85)][:2]
    [('axle_front', 368), ('axle_rear', 515)]
    """
    limits = ground_limits(bike, grip, 0.0, rear_ratio)
    front, rear = axle_loads_n(bike, 0.0, 0.0)
    hard_front, hard_rear = axle_loads_n(bike, limits.both_n, 0.0)
    given = (
        Given("m", "total mass on the wheels", bike.mass_kg, "kg", "rider, bike and load"),
        Given("L", "wheelbase", bike.wheelbase_m, "m", "entered, or default of the kind"),
        Given(
            "l_r",
            "centre of gravity ahead of the rear contact",
            bike.rear_to_cg_m,
            "m",
            "as above, shifted by loads",
            3,
        ),
        Given("h", "height of the centre of gravity", bike.cg_height_m, "m", "as above, shifted by loads", 3),
        Given("g", "gravity", GRAVITY_MS2, "ms2", "standard gravity", 3),
    )
    moment = "moment balance about the rear contact, textbook"
    sets = "pitch-over" if limits.pitch_over_n <= limits.both_n else "grip"
    return (
        Figure("axle_front", "Front axle, standing", front, "n", "N_f = m g l_r / L", given, moment, "± 3 %"),
        Figure("axle_rear", "Rear axle, standing", rear, "n", "N_r = m g − N_f", given, moment, "± 3 %"),
        Figure(
            "axle_front_hard",
            "Front axle, hard stop",
            hard_front,
            "n",
            "N_f = (m g l_r + F_b h) / L",
            (*given, Given("F_b", f"brake force at the limit ({sets})", limits.both_n, "n", "ground limit")),
            moment,
            "± 5 %",
        ),
        Figure(
            "axle_rear_hard",
            "Rear axle, hard stop",
            hard_rear,
            "n",
            "N_r = m g − N_f",
            (*given, Given("F_b", f"brake force at the limit ({sets})", limits.both_n, "n", "ground limit")),
            moment,
            "± 5 %",
        ),
        Figure(
            "decel_limit",
            "Deceleration limit",
            limits.decel_ms2,
            "ms2",
            "a = min(μ m g, m g l_f / h) / m_r" if rear_ratio == 1.0 else UNLIKE_TYRES,
            (
                *given,
                Given("m_r", "mass with the trailer", bike.rolling_mass_kg, "kg", "as above"),
                Given("μ", "tyre–road grip", grip, "ratio", f"surface and tread, {doubt_words('grip')}"),
                *(
                    [Given("μ_r", "of the rear tyre", limits.rear_grip, "ratio", "its own tread")]
                    if rear_ratio != 1
                    else []
                ),
            ),
            "grip and pitch-over limits, textbook",
            "± 15 %",
            steps=(f"set by {sets}",),
        ),
    )
