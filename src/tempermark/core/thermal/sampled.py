"""How sure an outcome is: the same closing with its parameters drawn from what is known of them."""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.thermal import dye
from tempermark.core.thermal.press import Closing, dose, press
from tempermark.core.thermal.stack import Layer, contact_m2k_w

# Standard, as shares (of logarithms): handbook values are honest to ± 20 % (k = 2); contacts of
# rough cloth and paper, water in a room's cloth and the dye's own rate are known worse. Starting
# values until a shop's own pieces teach better ones.
PROPERTY_SHARE, CONTACT_SHARE, WATER_SHARE, DYE_SHARE = 0.10, 0.30, 0.25, 0.15
DRAWS, SEED = 40, 11


@dataclass(frozen=True)
class Sampled:
    """Draws (n,) of the dose, the density on full polyester, and the interface's last °C."""

    dose: np.ndarray
    density: np.ndarray
    interface_c: np.ndarray

    def interval(self, values: np.ndarray) -> tuple[float, float]:
        """The middle 90 % of the draws."""
        low, high = np.quantile(values, (0.05, 0.95))
        return float(low), float(high)


def sample(
    closing: Closing, interface: int, upper_sd_c: float, draws: int = DRAWS, seed: int = SEED
) -> Sampled:
    """Outcomes of a closing at its first place, `upper_sd_c` being what its temperature is known to
    (standard, K). The same draws every time.
    """
    rng = np.random.default_rng(seed)
    doses, faces = np.empty(draws), np.empty(draws)
    for n in range(draws):
        course = press(_drawn(closing, upper_sd_c, rng))
        doses[n] = dose(course, interface)[0] * np.exp(DYE_SHARE * rng.standard_normal())
        faces[n] = course.below_c[-1, 0, interface]
    return Sampled(doses, dye.density(doses), faces)


def _drawn(closing: Closing, upper_sd_c: float, rng: np.random.Generator) -> Closing:
    contacts, pressure = closing.contacts, closing.pressure_kpa
    if contacts is None and pressure is not None:
        contacts = np.full(len(closing.layers) - 1, contact_m2k_w(pressure[0]))
    if contacts is None:
        raise ValueError("A closing needs contacts, or a pressure that tells them.")
    factor = np.exp(CONTACT_SHARE * rng.standard_normal(len(contacts)))
    return replace(
        closing,
        layers=[_layer(layer, rng) for layer in closing.layers],
        contacts=contacts * factor,
        upper_c=closing.upper_c[:1] + upper_sd_c * rng.standard_normal(),
        lower_c=None if closing.lower_c is None else closing.lower_c[:1],
    )


def _layer(layer: Layer, rng: np.random.Generator) -> Layer:
    conducts, holds, damp = rng.standard_normal(3)
    return replace(
        layer,
        conductivity_w_mk=layer.conductivity_w_mk * np.exp(PROPERTY_SHARE * conducts),
        specific_heat_j_kgk=layer.specific_heat_j_kgk * np.exp(PROPERTY_SHARE * holds),
        moisture_fraction=layer.moisture_fraction * np.exp(WATER_SHARE * damp),
    )
