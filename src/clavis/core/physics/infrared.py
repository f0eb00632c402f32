"""Infrared thermometers: what a rotor's temperature really is behind a reading (model, section 8).

Common instruments look at 8 to 14 µm. The radiance in that band is integrated from Planck's law; the law of the
fourth power would be wrong here by tens of degrees on bright steel.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ensure
from clavis.core.units import KELVIN_AT_0_C

BAND_UM = (8.0, 14.0)
# First and second radiation constants for radiance: 2 h c² (W µm⁴/m² sr) and h c/k (µm K), CODATA 2018.
_C1, _C2 = 1.191042972e8, 1.438776877e4
_COLDEST_C, _HOTTEST_C = -60.0, 1600.0


@dataclass(frozen=True)
class TrackSurface:
    """A surface as an infrared thermometer meets it: emissivity in the band, with a plausible range."""

    words: str
    emissivity: float
    low: float
    high: float


SURFACES: dict[str, TrackSurface] = {
    "bright": TrackSurface("bright rotor", 0.25, 0.20, 0.30),
    "oxidised": TrackSurface("oxidised rotor", 0.70, 0.60, 0.80),
    "paint": TrackSurface("dab of matt paint or tape", 0.95, 0.93, 0.97),
}


@lru_cache(maxsize=1)
def _table() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Temperatures (°C) and their radiance in the band (W/m² sr), by Gauss–Legendre over the wavelength."""
    nodes, weights = np.polynomial.legendre.leggauss(48)
    low, high = BAND_UM
    wavelength = 0.5 * (high - low) * nodes + 0.5 * (high + low)
    celsius = np.linspace(_COLDEST_C, _HOTTEST_C, 3321)
    kelvin = (celsius + KELVIN_AT_0_C)[:, None]
    spectral = _C1 / wavelength**5 / np.expm1(_C2 / (wavelength * kelvin))
    return celsius, 0.5 * (high - low) * (spectral * weights).sum(axis=1)


def band_radiance(celsius: float) -> float:
    """Planck radiance of a black body over 8–14 µm, W/m² sr. Raises QuantityError outside −60 to 1600 °C."""
    ensure("temperature", _COLDEST_C, _HOTTEST_C, surface_c=celsius)
    temperatures, radiances = _table()
    return float(np.interp(celsius, temperatures, radiances))


def true_temperature_c(read_c: float, emissivity: float, surroundings_c: float) -> float | None:
    """TrackSurface temperature behind a reading: L(T) = (L(T_read) − (1 − ε) L(T_surr))/ε.

    ``emissivity`` is relative to the instrument's own setting. None where the reading lies below what the
    surroundings alone would give, or beyond what can be: then it says nothing of the rotor.
    """
    ensure("emissivity", 0.05, 1, emissivity_ratio=emissivity)
    radiance = (band_radiance(read_c) - (1 - emissivity) * band_radiance(surroundings_c)) / emissivity
    temperatures, radiances = _table()
    if not radiances[0] < radiance < radiances[-1]:
        return None
    return float(np.interp(radiance, radiances, temperatures))


@dataclass(frozen=True)
class Corrected:
    """A reading worked back: the best figure and the range its emissivity allows, °C; None where it says nothing."""

    true_c: float | None
    low_c: float | None
    high_c: float | None


def corrected(read_c: float, surface: TrackSurface, surroundings_c: float) -> Corrected:
    """A reading of a known kind of surface, with the range of its emissivity carried through."""
    best, high, low = (
        true_temperature_c(read_c, e, surroundings_c) for e in (surface.emissivity, surface.low, surface.high)
    )
    return Corrected(best, low, high)
