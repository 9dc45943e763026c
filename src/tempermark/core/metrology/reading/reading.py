"""One spot: from what the instrument showed to the true temperature at opening.

Order (formats/commands.md, "reading"): the instrument's correction is added to each
value, emissivity is corrected, then the opening is extrapolated. Uncertainty by
JCGM 100: each input moved a little, its effect on the result squared and summed.
"""

from dataclasses import dataclass, replace

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.reading.opening import Opening, at_opening
from tempermark.core.metrology.reading.radiometry import true_surface_temperature
from tempermark.core.phrases import Text, duration, phrase

# Bright metal: the gun sees the room more than the platen (handbook 1 §2).
BRIGHT_SURFACE_EMISSIVITY = 0.5
# A drop back to the opening larger than this rests on the curve, not on readings.
LONG_EXTRAPOLATION_C = 20.0
# Components that move all readings of a survey alike.
COMMON = ("instrument", "emissivity", "comparison")


@dataclass(frozen=True)
class InstrumentProperties:
    """What was held in the hand; correction and expanded uncertainty in °C (k = 2)."""

    kind: str
    correction_c: float = 0.0
    expanded_uncertainty_c: float = 0.0
    emissivity_setting: float = 1.0


@dataclass(frozen=True)
class SpotReadings:
    """Readings of one place: values as shown (n,) in °C and seconds after opening.

    Emissivities count for an infrared instrument only. `common_covariance` (2, 2) of the
    instrument's error (°C) and the emissivity, where a comparison has learned them together;
    it replaces their separate uncertainties.
    """

    instrument: InstrumentProperties
    value_c: np.ndarray
    seconds: np.ndarray
    ambient_c: float
    surface_emissivity: float = 1.0
    surface_emissivity_uncertainty: float = 0.0
    repeatability_c: float = 0.0
    common_covariance: np.ndarray | None = None


@dataclass(frozen=True)
class TrueReading:
    """True temperature at opening with its budget of standard uncertainties in °C."""

    true_c: float
    components: dict[str, float]
    time_constant_s: float | None
    notes: tuple[Text, ...]

    @property
    def expanded_uncertainty_c(self) -> float:
        """Twice the root sum of squares of the components, K (k = 2)."""
        return COVERAGE_FACTOR * float(np.sqrt(sum(u * u for u in self.components.values())))

    @property
    def common_c(self) -> float:
        """Standard uncertainty in K shared by every reading with this instrument and surface."""
        return float(np.sqrt(sum(self.components.get(name, 0.0) ** 2 for name in COMMON)))


def true_reading(spot: SpotReadings) -> TrueReading:
    """The spot's true temperature at opening.

    Example: 168 °C shown at setting 0.95, correction −0.4, ε 0.85 ± 0.03 (standard),
    ambient 22 °C gives 179.72 °C ± 8.13 K (k = 2).
    """
    opening = _opening(spot)
    components = {
        **_common_parts(spot),
        "repeatability": _repeatability_part(spot),
        "extrapolation": opening.fit_standard_uncertainty_c,
    }
    return TrueReading(
        opening.temperature_c, components, opening.time_constant_s, _notes(spot, opening)
    )


def surface_temperatures(spot: SpotReadings) -> np.ndarray:
    """Each reading corrected for instrument and emissivity, in °C, not yet for delay."""
    corrected = spot.value_c + spot.instrument.correction_c
    if spot.instrument.kind == "contact":
        return corrected
    return true_surface_temperature(
        corrected, spot.instrument.emissivity_setting, spot.surface_emissivity, spot.ambient_c
    )


def _opening(spot: SpotReadings) -> Opening:
    return at_opening(surface_temperatures(spot), spot.seconds, spot.ambient_c)


def _sensitivity(plus: SpotReadings, minus: SpotReadings, width: float) -> float:
    """Central difference of the result, per unit of the input moved."""
    return (_opening(plus).temperature_c - _opening(minus).temperature_c) / width


def _common_parts(spot: SpotReadings) -> dict[str, float]:
    """What every reading with this instrument and surface shares."""
    by_instrument, by_emissivity = _instrument_slope(spot), _emissivity_slope(spot)
    if spot.common_covariance is not None:
        slope = np.array([by_instrument, by_emissivity])
        joint = float(np.sqrt(max(0.0, slope @ spot.common_covariance @ slope)))
        return {"instrument": 0.0, "emissivity": 0.0, "comparison": joint}
    instrument_c = spot.instrument.expanded_uncertainty_c / COVERAGE_FACTOR
    return {
        "instrument": abs(by_instrument) * instrument_c,
        "emissivity": abs(by_emissivity) * spot.surface_emissivity_uncertainty,
    }


def _instrument_slope(spot: SpotReadings) -> float:
    step = 0.01
    up, down = (replace(spot, value_c=spot.value_c + d) for d in (step, -step))
    return _sensitivity(up, down, 2 * step)


def _emissivity_slope(spot: SpotReadings) -> float:
    learned = spot.common_covariance is not None
    if spot.instrument.kind == "contact" or not (learned or spot.surface_emissivity_uncertainty):
        return 0.0
    step = min(1e-4, spot.surface_emissivity / 10)
    here = spot.surface_emissivity
    up, down = (replace(spot, surface_emissivity=here + d) for d in (step, -step))
    return _sensitivity(up, down, 2 * step)


def _repeatability_part(spot: SpotReadings) -> float:
    if not spot.repeatability_c:
        return 0.0
    step, total = 0.01, 0.0
    for index in range(len(spot.value_c)):
        up, down = spot.value_c.copy(), spot.value_c.copy()
        up[index] += step
        down[index] -= step
        slope = _sensitivity(replace(spot, value_c=up), replace(spot, value_c=down), 2 * step)
        total += (slope * spot.repeatability_c) ** 2
    return float(np.sqrt(total))


def _notes(spot: SpotReadings, opening: Opening) -> tuple[Text, ...]:
    notes: list[Text] = []
    if opening.time_constant_s is None:
        notes.append(_why_not_extrapolated(spot))
    elif opening.temperature_c - surface_temperatures(spot).max() > LONG_EXTRAPOLATION_C:
        notes.append(
            "The temperature at opening is over {20 K} above the first reading: outside the "
            "validated range. Read sooner after opening."
        )
    if spot.instrument.kind == "infrared" and spot.surface_emissivity < BRIGHT_SURFACE_EMISSIVITY:
        notes.append(
            "A bright surface shows the room, not the platen: outside the validated range. "
            "Read the pad or a matte patch."
        )
    return tuple(notes)


def _why_not_extrapolated(spot: SpotReadings) -> Text:
    if len(spot.value_c) == 1:
        delay = float(spot.seconds[0])
        if delay > 0:
            return phrase(
                "One reading, {delay} after opening: not drawn back to the opening, so the true "
                "figure is a little higher. A second reading would tell.",
                delay=duration(delay),
            )
        return "One reading at opening: used as it is."
    if np.ptp(spot.seconds) <= 0:
        return "All readings at the same time after opening: their mean is given."
    return "The readings do not fall towards ambient: their mean is given, not extrapolated."
