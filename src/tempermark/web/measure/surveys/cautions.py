"""What weakens a survey's verdict, each with its consequence."""

from tempermark.core.metrology.reading.fixed_points import correction_table
from tempermark.web.kit.figures import difference_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.models import Method, Survey
from tempermark.web.measure.surveys.mapping import Measured

# Handbook 1 §2: 15 to 20 min from cold, 5 min after a change.
SHORTEST_SOAK_MIN = 5.0
# Below this a gun sees more of the room than of the surface (handbook 3).
BRIGHT_EMISSIVITY = 0.5


def cautions(computed: Measured, units: Units) -> list[str]:
    """Sentences to show beside the verdict; empty when nothing weakens it."""
    survey = computed.survey
    found = [_overdue(survey, units), _soak(survey), _bright(computed, units)]
    found += [_outside(computed, units), _beyond(computed, units)]
    return [text for text in found if text]


def _name(survey: Survey) -> str:
    return survey.instrument.name if survey.instrument else "The instrument"


def _overdue(survey: Survey, units: Units) -> str:
    if not survey.instrument_overdue_days:
        return ""
    reach = difference_text(survey.instrument_uncertainty_c, units, 1, sign=False)
    return (
        f"{_name(survey)} was {survey.instrument_overdue_days} days past its check: "
        f"its uncertainty is counted double, ± {reach}. Check it before you trust the setting."
    )


def _soak(survey: Survey) -> str:
    if survey.soak_min >= SHORTEST_SOAK_MIN:
        return ""
    return (
        f"The platen soaked for only {survey.soak_min:g} min and may not have been steady: the "
        "setting may be further off than stated. Survey again after 15 min."
    )


def _bright(computed: Measured, units: Units) -> str:
    survey = computed.survey
    infrared = survey.method in (Method.PAD, Method.PATCH)
    if not infrared or survey.surface_emissivity >= BRIGHT_EMISSIVITY or not computed.read:
        return ""
    worst = max(v.true.expanded_uncertainty_c for v in computed.read)
    reach = difference_text(worst, units, sign=False)
    return (
        f"A surface of emissivity {survey.surface_emissivity:g} is bright: the gun sees mostly "
        f"the room, and each value is only known to ± {reach}. Read the pad or a matte patch."
    )


def _outside(computed: Measured, units: Units) -> str:
    tool = computed.survey.instrument
    if tool is None:
        return ""
    outside = [
        v.station.label for v in computed.read if not all(tool.reads(r.shown_c) for r in v.readings)
    ]
    if not outside:
        return ""
    low, high = (temperature_text(v, units) for v in (tool.low_c, tool.high_c))
    return (
        f"{tool.name} reads from {low} to {high}: {', '.join(outside[:8])} "
        f"{'is' if len(outside) == 1 else 'are'} outside, where its error is not known. The "
        "verdict still uses them: read them again with another instrument."
    )


def _beyond(computed: Measured, units: Units) -> str:
    survey = computed.survey
    if not survey.corrections or not computed.read:
        return ""
    table = correction_table([tuple(row) for row in survey.corrections])
    shown = [r.shown_c for v in computed.read for r in v.readings]
    if all(table.covers(v) for v in shown):
        return ""
    low, high = (temperature_text(table.shown_c[i], units) for i in (0, -1))
    return (
        f"{_name(survey)} was only checked from {low} to {high}: outside that its nearest "
        "correction is used, which is not proven."
    )
