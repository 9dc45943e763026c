"""How far presses of a kind differ: the newest whole map of each of the others."""

from collections.abc import Iterable
from datetime import datetime
from functools import lru_cache
from typing import Any

import numpy as np

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.memory.learning import FoundShape, unevenness
from tempermark.core.metrology.survey import plane_tilt
from tempermark.web.measure.known.rates import of_kind
from tempermark.web.measure.models import Method, Reading, Survey
from tempermark.web.measure.surveys.grids import KNOWN, SPOT
from tempermark.web.presses.models import Element

MOST_ELEMENTS = 60
# A map of so many places covers the whole element; fewer tell no fall.
FEWEST_IN_WHOLE = 9
MM_PER_STEP = 100.0


def shapes_of_kind(element: Element, when: datetime) -> list[FoundShape]:
    """What the newest whole maps of the other elements of its kind found before a moment (two
    queries).
    """
    maps = of_kind(Survey.objects.exclude(mean_true_c=None), element, when)
    maps = maps.exclude(element=element)
    maps = maps.exclude(grid__in=(KNOWN, SPOT)).exclude(method=Method.STRIP)
    newest = maps.order_by("element_id", "-taken_at", "-pk")
    newest = newest.select_related("element").distinct("element_id")
    surveys = {s.pk: s for s in newest[:MOST_ELEMENTS]}
    live = Reading.objects.filter(station__survey__in=surveys, taken_back_at=None).order_by()
    read: dict[int, list[tuple[float, float, float]]] = {}
    names = ("station__survey_id", "station__x_mm", "station__y_mm", "shown_c")
    for pk, *row in live.values_list(*names):
        read.setdefault(pk, []).append((row[0], row[1], row[2]))
    found = (_shape(surveys[pk], rows) for pk, rows in read.items())
    return [shape for shape in found if shape is not None]


def _shape(survey: Any, rows: Iterable[tuple[float, float, float]]) -> FoundShape | None:
    """Of one map; None where its places are too few. What a reading shows falls as what is true:
    its corrections are those of all the others.
    """
    table = np.array(list(rows), float)
    place_mm = np.unique(table[:, :2], axis=0)
    fall = plane_tilt(table[:, :2], table[:, 2])
    if len(place_mm) < FEWEST_IN_WHOLE or fall is None:
        return None
    reach_mm = (table[:, :2] - table[:, :2].mean(axis=0)).std(axis=0).min() * len(table) ** 0.5
    return FoundShape(
        survey.mean_true_c - survey.set_c,
        (survey.mean_uncertainty_c or 0.0) / COVERAGE_FACTOR,
        (fall.x_per_100mm, fall.y_per_100mm),
        float(survey.repeatability_c * MM_PER_STEP / reach_mm),
        _unevenness(
            tuple(sorted(map(tuple, (table - [0.0, 0.0, survey.set_c]).tolist()))),
            survey.repeatability_c,
            (survey.element.width_mm, survey.element.height_mm),
        ),
    )


@lru_cache(maxsize=4 * MOST_ELEMENTS)
def _unevenness(
    rows: tuple[tuple[float, float, float], ...],
    repeatability_c: float,
    size_mm: tuple[float, float],
) -> tuple[float, ...]:
    """How uneven readings (x, y, K from the target) show an element to be; every survey of its kind
    asks for the same.
    """
    table = np.array(rows)
    return unevenness(table[:, :2], table[:, 2], repeatability_c, size_mm)
