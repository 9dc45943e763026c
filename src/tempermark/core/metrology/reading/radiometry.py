"""Infrared gun: from the figure shown to the surface's true temperature.

Source: handbook 3, "Radiation thermometry". A gun for 8–14 µm sees
S = ε·L(T) + (1 − ε)·L(T_ambient) and shows the T_r for which
ε_set·L(T_r) + (1 − ε_set)·L(T_ambient) = S, with L the Planck radiance over the band.

Equation: ε·L(T_true) + (1 − ε)·L(T_ambient) = ε_set·L(T_shown) + (1 − ε_set)·L(T_ambient), L the
Planck radiance over 8–14 µm.
Range: ε 0.5 to 1, −50 to 600 °C; a brighter surface shows the room.
Source: Planck's law; CODATA 2018 constants.
"""

import numpy as np

from tempermark.core.constants import (
    BOLTZMANN_J_K,
    INFRARED_BAND_M,
    LIGHT_SPEED_M_S,
    PLANCK_J_S,
    ZERO_CELSIUS_K,
)
from tempermark.core.errors import InputError

# 24 Gauss–Legendre nodes give the band integral to 1e-12 between 200 and 3000 K.
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)
_LOW_M, _HIGH_M = INFRARED_BAND_M
_WAVELENGTH_M = 0.5 * (_HIGH_M - _LOW_M) * _NODES + 0.5 * (_HIGH_M + _LOW_M)
_WEIGHT_M = 0.5 * (_HIGH_M - _LOW_M) * _WEIGHTS
_PREFACTOR = 2 * PLANCK_J_S * LIGHT_SPEED_M_S**2 / _WAVELENGTH_M**5
_EXPONENT_K = PLANCK_J_S * LIGHT_SPEED_M_S / (_WAVELENGTH_M * BOLTZMANN_J_K)

# Brackets of the inversion: beyond these a figure is no press reading.
_COLDEST_K, _HOTTEST_K = 50.0, 5000.0


def band_radiance(temperature_c: np.ndarray) -> np.ndarray:
    """Planck radiance over 8–14 µm in W/(m² sr); any shape of °C above −273."""
    kelvin = np.asarray(temperature_c, float)[..., None] + ZERO_CELSIUS_K
    return np.asarray((_WEIGHT_M * _PREFACTOR / np.expm1(_EXPONENT_K / kelvin)).sum(axis=-1))


def _log_slope(temperature_c: np.ndarray) -> np.ndarray:
    """d ln L / dT of the band radiance, in 1/K."""
    kelvin = temperature_c[..., None] + ZERO_CELSIUS_K
    x = _EXPONENT_K / kelvin
    weighted = _WEIGHT_M * _PREFACTOR / np.expm1(x)
    # d/dT of 1/(e^x − 1) is x/T · e^x/(e^x − 1)² = x/T · 1/(e^x − 1) · 1/(1 − e^−x).
    return np.asarray((weighted * x / -np.expm1(-x) / kelvin).sum(axis=-1) / weighted.sum(axis=-1))


def temperature_of_radiance(radiance: np.ndarray) -> np.ndarray:
    """Inverse of `band_radiance` in °C: from a table, then Newton in log radiance."""
    wanted = np.log(np.asarray(radiance, float))
    guess = np.interp(wanted, _TABLE_LOG_RADIANCE, _TABLE_C)
    for _ in range(4):
        guess = guess + (wanted - np.log(band_radiance(guess))) / _log_slope(guess)
    return np.asarray(guess)


# Starting values of the inversion: log radiance is smooth, so that few points do.
_TABLE_C = np.geomspace(_COLDEST_K, _HOTTEST_K, 160) - ZERO_CELSIUS_K
_TABLE_LOG_RADIANCE = np.log(band_radiance(_TABLE_C))


def true_surface_temperature(
    shown_c: np.ndarray, emissivity_setting: float, emissivity: float, ambient_c: float
) -> np.ndarray:
    """True surface temperature in °C behind what the gun shows.

    Any shape of `shown_c`. Shows 150 °C at setting 1.0, ε 0.90, ambient 22 °C:
    160.24 °C. Raises InputError when no surface could give that figure.
    """
    room = band_radiance(np.asarray(ambient_c))
    seen = emissivity_setting * band_radiance(shown_c) + (1 - emissivity_setting) * room
    emitted = (seen - (1 - emissivity) * room) / emissivity
    coldest = band_radiance(np.asarray(_COLDEST_K - ZERO_CELSIUS_K))
    hottest = band_radiance(np.asarray(_HOTTEST_K - ZERO_CELSIUS_K))
    if np.any(emitted <= coldest) or np.any(emitted >= hottest):
        raise InputError.single(
            "surface_emissivity",
            "No surface of this emissivity can read like that in this room: "
            "check the emissivity, its setting on the gun, and the ambient temperature.",
        )
    return temperature_of_radiance(emitted)
