"""How far closed presses of a kind differ: the newest whole map of each of the others."""

from datetime import datetime
from typing import Any

from django.db.models import Count, Q

from tempermark.core.pressure.memory.learning import FoundClosing
from tempermark.web.measure.known.kinds import FEWEST_IN_WHOLE
from tempermark.web.measure.known.rates import MOST_OF_KIND, of_kind
from tempermark.web.measure.surveys.grids import KNOWN
from tempermark.web.presses.models import Element
from tempermark.web.pressure.maps.prints import pad_then
from tempermark.web.pressure.models import MapKind, PressureSurvey


def closings_of_kind(element: Element, when: datetime) -> list[FoundClosing]:
    """What the newest whole maps of the other elements of its kind found before a moment (one
    query).
    """
    live = Q(stations__pulls__isnull=False, stations__pulls__taken_back_at=None)
    figures = Q(mean_kpa=None) | Q(right_sd_mm=None) | Q(back_sd_mm=None)
    maps = of_kind(PressureSurvey.objects.exclude(figures), element, when)
    maps = maps.exclude(Q(element=element) | Q(grid=KNOWN))
    maps = maps.annotate(places=Count("stations", filter=live, distinct=True))
    # A print covers the whole element too.
    whole = maps.filter(Q(kind=MapKind.PRINT) | Q(places__gte=FEWEST_IN_WHOLE))
    found: dict[int, FoundClosing] = {}
    for survey in whole.order_by("-taken_at", "-pk")[:MOST_OF_KIND]:
        found.setdefault(survey.element_id, _closing(survey))
    return list(found.values())


def _closing(survey: Any) -> FoundClosing:
    return FoundClosing(
        float(pad_then(survey).compression_mm(survey.mean_kpa)),
        (survey.right_mm, survey.back_mm),
        (survey.right_sd_mm, survey.back_sd_mm),
        survey.middle_mm,
        survey.middle_sd_mm or 0.0,
    )
