"""How sure an outcome is: the same closing with its parameters drawn from what is known of them."""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.thermal.result.dye import UNTAUGHT, LawKnown
from tempermark.core.thermal.result.outcome import (
    Piece,
    PressOutcome,
    Reached,
    outcome,
    reached,
    shifted,
)
from tempermark.core.thermal.solver.closing import Closing, press
from tempermark.core.thermal.solver.stack import Layer, contact_m2k_w

# Standard, as shares (of logarithms): handbook values are honest to ± 20 % (k = 2); contacts of
# rough cloth and paper and the water in a room's cloth are known worse. Limits of a blank and of an
# adhesive are known to some K. Starting values until a shop's own pieces teach better ones.
PROPERTY_SHARE, CONTACT_SHARE, WATER_SHARE, FLOW_SHARE, LIMIT_K = 0.10, 0.30, 0.25, 0.35, 4.0
DRAWS, SEED = 40, 11
INTERVAL = (0.05, 0.95)


@dataclass(frozen=True)
class Sampled:
    """Draws (n,) of what is reached and of the outcome, at one place."""

    reached: Reached
    outcome: PressOutcome

    def interval(self, values: np.ndarray) -> tuple[float, float]:
        """The middle 90 % of draws."""
        low, high = np.quantile(values, INTERVAL)
        return float(low), float(high)


def sample(
    closing: Closing,
    piece: Piece,
    upper_sd_c: float,
    known: LawKnown = UNTAUGHT,
    draws: int = DRAWS,
    seed: int = SEED,
) -> Sampled:
    """Outcomes of a closing at its first place, `upper_sd_c` being what its temperature is known to
    (standard, K). The same draws every time.
    """
    rng = np.random.default_rng(seed)
    pressure = np.full(1, np.nan) if closing.pressure_kpa is None else closing.pressure_kpa[:1]
    result = []
    for _ in range(draws):
        course = press(_drawn(closing, upper_sd_c, rng))
        drawn = shifted(piece, known.drawn(piece.law, rng), LIMIT_K * rng.standard_normal())
        one = reached(course, drawn, pressure)
        flows = one.flow_kpa_s * np.exp(FLOW_SHARE * rng.standard_normal())
        result.append(replace(one, flow_kpa_s=flows))
    joined = Reached(
        **{name: np.concatenate([getattr(m, name) for m in result]) for name in vars(result[0])}
    )
    return Sampled(joined, outcome(joined, piece, np.full(draws, pressure[0])))


def _drawn(closing: Closing, upper_sd_c: float, rng: np.random.Generator) -> Closing:
    contacts, pressure = closing.contacts, closing.pressure_kpa
    if contacts is None and pressure is not None:
        contacts = np.full(
            len(closing.layers) - 1, closing.contact_factor * contact_m2k_w(pressure[0])
        )
    if contacts is None:
        raise ValueError("A closing needs contacts, or a pressure that gives them.")
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
