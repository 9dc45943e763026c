"""A verdict that stays open is never the end: the act that would decide it, or what is kept."""

import numpy as np

from tempermark.core.metrology.map.outlook import Act, Outlook, outlook
from tempermark.web.kit.figures import chance_text, difference_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.models import Method, Survey
from tempermark.web.measure.surveys.mapping import Measured

# What a contact probe on the plate leaves open (handbook 1 §2: a good probe within 1 K, k = 2).
CONTACT_LEAVES_C = 0.5
# How long each takes, in minutes.
CONTACT_MIN, PATCH_MIN, SECOND_MIN, CHECK_MIN = 3.0, 6.0, 10.0, 30.0
ACT_WORDS = {
    "contact": "one contact reading",
    "patch": "a black patch, read again",
    "second": "the same places with a second gun",
    "check": "a check of the instrument at a fixed point",
}


def acts_of(computed: Measured) -> list[Act]:
    """What can be done about the error that all readings share, the least trouble first."""
    survey, common_c = computed.survey, computed.common_standard_uncertainty_c
    if survey.method not in (Method.PAD, Method.PATCH):
        return [Act("check", CHECK_MIN, common_c / 2)]
    parts = [v.true.components for v in computed.read]
    emissivity = float(np.mean([p.get("emissivity", 0.0) for p in parts])) if parts else 0.0
    without = float(np.sqrt(max(common_c**2 - emissivity**2, 0.0)))
    found = [Act("contact", CONTACT_MIN, min(CONTACT_LEAVES_C, common_c))]
    if survey.method == Method.PAD:
        found.append(Act("patch", PATCH_MIN, without))
    return [*found, Act("second", SECOND_MIN, common_c / np.sqrt(2))]


def outlook_of(computed: Measured) -> Outlook | None:
    """What becomes of an open verdict; None without a map."""
    mapped = computed.result.map if computed.result else None
    if mapped is None:
        return None
    common_c = computed.common_standard_uncertainty_c
    return outlook(mapped.extremes, common_c, computed.survey.tolerance_c, acts_of(computed))


def open_text(computed: Measured, units: Units) -> str:
    """An undecided verdict in words; empty without a map."""
    found = outlook_of(computed)
    if found is None:
        return ""
    kept = difference_text(found.keeps_c, units, 1, sign=False)
    keeps = f"It keeps ± {kept} as set, 95 % sure."
    if found.act is not None:
        what, chance = ACT_WORDS[found.act.code], chance_text(found.decides)
        return (
            f"Open by what all readings share: {what} decides it, {chance} likely, in about "
            f"{found.act.minutes:g} minutes. {keeps}"
        )
    if found.is_limit:
        return f"At the limit of ± {_tolerance(computed.survey, units)}. {keeps}"
    return f"Too open for a verdict: a full grid would tell more. {keeps}"


def _tolerance(survey: Survey, units: Units) -> str:
    return difference_text(survey.tolerance_c, units, sign=False)
