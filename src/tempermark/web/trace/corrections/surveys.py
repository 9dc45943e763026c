"""Corrections of readings and checks, with what was built on the surveys computed again."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction

from tempermark.web.accounts.models import User
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.models import InstrumentCheck, Reading, Survey
from tempermark.web.measure.press.states import state_of
from tempermark.web.measure.surveys import corrections as readings
from tempermark.web.presses.models import Element
from tempermark.web.trace.corrections.consequences import Resting, after_surveys, resting_on_element


@transaction.atomic
def correct_reading(
    user: User, reading: Reading, typed: str, why: str, units: Units, shown_in: Units
) -> list[str]:
    """Another figure in place of a reading, typed in `unit`; what was computed again, in sentences
    with figures in `shown_in`.
    """
    was = _still_holds(reading.station.survey)
    survey = readings.correct_reading(user, reading, typed, why, units)
    return _after_surveys(user, [was], f"a reading of survey {survey.pk} was corrected", shown_in)


@transaction.atomic
def withdraw_reading(user: User, reading: Reading, why: str, units: Units) -> list[str]:
    """A reading that counts no more; what was computed again, in sentences."""
    was = _still_holds(reading.station.survey)
    survey = readings.withdraw_reading(user, reading, why)
    return _after_surveys(user, [was], f"a reading of survey {survey.pk} was withdrawn", units)


@transaction.atomic
def correct_check(
    user: User, check: InstrumentCheck, data: dict[str, Any], units: Units
) -> list[str]:
    """Another outcome of an instrument's check; what was computed again, in sentences."""
    was = _hold_with(check)
    on = data["on"] or check.on
    readings.correct_check(user, check, data["table"], on, data, data["why"])
    return _after_surveys(user, was, f"a check of {check.instrument.name} was corrected", units)


@transaction.atomic
def withdraw_check(user: User, check: InstrumentCheck, why: str, units: Units) -> list[str]:
    """A check that counts no more; what was computed again, in sentences."""
    was = _hold_with(check)
    readings.withdraw_check(user, check, why)
    return _after_surveys(user, was, f"a check of {check.instrument.name} was withdrawn", units)


@dataclass(frozen=True)
class Stood:
    """A survey as it stood: its mean, what the floor told of its press, and what rested on it."""

    survey: Survey
    mean_true_c: float | None
    leaves_in_days: float | None
    resting: Resting


def _still_holds(survey: Survey) -> Stood:
    survey.refresh_from_db()
    return Stood(
        survey, survey.mean_true_c, _leaves(survey.element), resting_on_element(survey.element)
    )


def _hold_with(check: InstrumentCheck) -> list[Stood]:
    """Surveys that carry what a check gave."""
    carrying = readings.resting_on_check(check)
    return [_still_holds(survey) for survey in carrying]


def _leaves(element: Element) -> float | None:
    """In how many days a steady drift takes a press out of its tolerance."""
    state = state_of(element.press, element)
    return state.leaves_in_days[0] if state.leaves_in_days else None


def _after_surveys(user: User, stood: list[Stood], why: str, units: Units) -> list[str]:
    sentences = []
    for was in stood:
        was.survey.refresh_from_db()
        sentences += _survey_words(was, units)
    elements = {was.survey.element_id: was for was in stood}
    return sentences + after_surveys(
        user,
        [was.survey.element for was in elements.values()],
        [was.resting for was in elements.values()],
        why,
        units,
    )


def _survey_words(was: Stood, units: Units) -> list[str]:
    survey, sentences = was.survey, []
    name = f"Survey of {survey.element.press.name} on {survey.taken_at:%Y-%m-%d}"
    if survey.mean_true_c != was.mean_true_c:
        now, before = (temperature_text(v, units, 1) for v in (survey.mean_true_c, was.mean_true_c))
        sentences.append(f"{name}: its mean is now {now} true, it was {before}.")
    days = _leaves(survey.element)
    if (days is None) != (was.leaves_in_days is None):
        summary = "no longer drifts" if days is None else "drifts"
        sentences.append(f"Drift computed again: {survey.element.press.name} {summary}.")
    elif (
        days is not None and was.leaves_in_days is not None and abs(days - was.leaves_in_days) >= 1
    ):
        sentences.append(
            f"Drift computed again: {survey.element.press.name} is out of tolerance in about "
            f"{days:.0f} days, before it was {was.leaves_in_days:.0f}."
        )
    for signed in survey.certificates.all()[:1]:
        sentences.append(
            f"Certificate {signed.title} still says what was signed: sign the survey again."
        )
    return sentences
