"""Reading surveys."""

from datetime import datetime
from typing import Any

from django.db.models import F, QuerySet
from django.utils import timezone

from tempermark.core.metrology.press.calibration import AnchoredLine
from tempermark.web.kit.forms.moments import CLOCK_SKEW
from tempermark.web.measure.models import Reading, Survey
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.measure.surveys.grids import SPOT
from tempermark.web.presses.history import map_since
from tempermark.web.presses.models import Element


def all_surveys() -> QuerySet[Survey]:
    """Every survey, those under way first, then newest first."""
    return with_names(Survey.objects).order_by(F("finished_at").desc(nulls_first=True), "-taken_at")


def change_count(survey: Survey) -> int:
    """Grows with every reading entered or taken back; tells pages whether to redraw."""
    readings = Reading.objects.filter(station__survey=survey)
    return readings.count() + readings.exclude(taken_back_at=None).count()


def finished(element: Element) -> QuerySet[Survey]:
    """Finished surveys of an element, newest first."""
    return element.surveys.exclude(finished_at=None).order_by("-taken_at", "-pk")


def latest_survey(element: Element, before: datetime | None = None) -> Survey | None:
    """The newest finished survey, or the newest at a moment."""
    return with_names(holding(element, before)).first()


def dated_ahead(element: Element) -> QuerySet[Survey]:
    """Surveys of an element whose day has not come: kept by a clock that was wrong."""
    return element.surveys.filter(taken_at__gt=timezone.now() + CLOCK_SKEW)


def with_names(surveys: Any) -> QuerySet[Survey]:
    """Surveys with press, person and instrument in the same query."""
    return surveys.select_related("element__press", "taken_by", "instrument")


def holding(element: Element, when: datetime | None = None) -> QuerySet[Survey]:
    """Finished surveys that describe the element at a moment (now), newest first.

    Those from before an exchange, a repair or a changed pad are history once that happened.
    """
    surveys = finished(element).exclude(grid=SPOT)
    surveys = surveys.filter(taken_at__lte=when or timezone.now() + CLOCK_SKEW)
    since = map_since(element, when)
    return surveys if since is None else surveys.filter(taken_at__gte=since)


def before(survey: Survey) -> Survey | None:
    """The survey of the element before one, with nothing done to the press between them."""
    earlier = holding(survey.element, survey.taken_at).exclude(pk=survey.pk)
    return earlier.exclude(mean_true_c=None).filter(taken_at__lt=survey.taken_at).first()


def calibration(element: Element, survey: Survey) -> AnchoredLine | None:
    """A finished survey carried to other settings by the gain of it and those before it."""
    return SurveyHistory(element, survey.taken_at).calibration(survey)


def of_line(element: Element, survey: Survey) -> list[Survey]:
    """Surveys that a calibration line rests on, the one it goes through last."""
    return SurveyHistory(element, survey.taken_at).of_line(survey)
