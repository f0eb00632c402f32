"""Infrared thermometers: what a rotor's temperature really is behind a reading (docs/model.md, section 8).

Common instruments look at 8 to 14 µm. The radiance in that band is integrated from Planck's law; the law of the
fourth power would be wrong here by tens of degrees on bright steel.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ensure
from clavis.core.records import key_of
from clavis.core.units import KELVIN_AT_0_C

BAND_UM = (8.0, 14.0)
RELATIVE = (0.05, 10.0)
"""emissivity of a surface over that which the instrument is set to"""
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
SurfaceKey = key_of(SURFACES)


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
    """Radiance of a black body in the band of common instruments, 8 to 14 µm.

    Parameters
    ----------
    celsius : float
        −60 to 1600 °C.

    Returns
    -------
    float
        W/m² sr.

    Raises
    ------
    QuantityError
        Outside that range.

    Source: Planck's law integrated over the wavelength, constants of CODATA 2018; Incropera and others, Fundamentals of
    Heat and Mass Transfer, 6th ed., Wiley 2007, section 12.3.1.

    >>> round(band_radiance(20.0), 1)
    49.4
    """
    ensure("temperature", _COLDEST_C, _HOTTEST_C, surface_c=celsius)
    temperatures, radiances = _table()
    return float(np.interp(celsius, temperatures, radiances))


def true_temperature_c(read_c: float, emissivity: float, surroundings_c: float) -> float | None:
    """Temperature behind a reading: L(T) = (L(T_read) − (1 − ε) L(T_surroundings))/ε.

    Parameters
    ----------
    read_c : float
        What the instrument shows, °C.
    emissivity : float
        Of the surface in the band, over the instrument's own setting: 0.05 to 10, above 1 where it is set lower.
    surroundings_c : float
        What the surface mirrors, and the instrument takes for it, °C.

    Returns
    -------
    float or None
        °C; None where the reading lies below what the surroundings alone would give, or beyond what can be.

    Raises
    ------
    QuantityError
        For an emissivity or temperature out of range.

    Source: a grey, opaque surface mirrors what it does not emit (Kirchhoff); Incropera and others, section 12.6.

    >>> round(true_temperature_c(60.0, emissivity=0.25, surroundings_c=20.0))
    141
    """
    ensure("emissivity", *RELATIVE, emissivity_ratio=emissivity)
    radiance = (band_radiance(read_c) - (1 - emissivity) * band_radiance(surroundings_c)) / emissivity
    temperatures, radiances = _table()
    if not radiances[0] < radiance < radiances[-1]:
        return None
    return float(np.interp(radiance, radiances, temperatures))


def shown_temperature_c(true_c: float, emissivity: float, surroundings_c: float) -> float:
    """What an instrument shows of a surface: L(T_shown) = ε L(T) + (1 − ε) L(T_surroundings).

    Parameters
    ----------
    true_c : float
        Of the surface, °C, −60 to 1600.
    emissivity : float
        Of the surface in the band, over the instrument's own setting: 0.05 to 10, above 1 where it is set lower.
    surroundings_c : float
        What the surface mirrors, °C.

    Returns
    -------
    float
        °C.

    Raises
    ------
    QuantityError
        For an emissivity or temperature out of range.

    Source: as ``true_temperature_c``, which is its inverse.

    >>> round(shown_temperature_c(141.0, emissivity=0.25, surroundings_c=20.0))
    60
    """
    ensure("emissivity", *RELATIVE, emissivity_ratio=emissivity)
    radiance = emissivity * band_radiance(true_c) + (1 - emissivity) * band_radiance(surroundings_c)
    temperatures, radiances = _table()
    return float(np.interp(radiance, radiances, temperatures))


@dataclass(frozen=True)
class Corrected:
    """A reading worked back: the best figure and the range its emissivity allows, °C; None where it says nothing."""

    true_c: float | None
    low_c: float | None
    high_c: float | None


def corrected(read_c: float, surface: TrackSurface, surroundings_c: float, set_to_ratio: float = 1.0) -> Corrected:
    """A reading of a known kind of surface, with the range of its emissivity carried through, °C; the emissivity counts
    over what the instrument is set to.

    >>> found = corrected(60.0, SURFACES["bright"], 20.0)
    >>> round(found.low_c), round(found.true_c), round(found.high_c)
    (125, 141, 162)
    """
    best, high, low = (
        true_temperature_c(read_c, e / set_to_ratio, surroundings_c)
        for e in (surface.emissivity, surface.low, surface.high)
    )
    return Corrected(best, low, high)
