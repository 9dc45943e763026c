"""How each press stands by the surveys of its element: what its display is off, when it is due."""

from collections import OrderedDict, defaultdict
from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from threading import Lock
from typing import Any

import numpy as np
from django.db import connection
from django.db.models import F, Q
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.metrology.press.calibration import LEAST_SETTING_SPAN_C, anchored_line
from tempermark.core.metrology.press.state import ElementState, PastSurvey, element_state
from tempermark.web.measure.models import Survey, SurveyVersion
from tempermark.web.measure.surveys.grids import SPOT
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.queries import fitted_first

# Older surveys say nothing about a press as it is now.
STATE_LOOK_BACK_DAYS = 720


@dataclass(frozen=True)
class MeasuredState:
    """A press, the element that leads in it, its state, and the survey that is under way; `offsets`
    are day, offset in K and fullness of each survey, oldest first.
    """

    press: Press
    element: Element | None
    state: ElementState
    open_survey_pk: int | None
    offsets: tuple[tuple[date, float, bool], ...]


def measured_states(
    presses: list[Press], today: date | None = None, chosen: dict[int, Element] | None = None
) -> list[MeasuredState]:
    """The state of each of some presses: four queries, however many.

    The state is that of the element leading in a press, or of the one `chosen` for it (by the
    press's key).
    """
    today = today or timezone.localdate()
    elements = {e.press_id: e for e in fitted_first().reverse()} | (chosen or {})
    opened = _open_surveys()
    histories = _histories([elements[p.pk] for p in presses if p.pk in elements], today)
    return [_state(p, elements.get(p.pk), histories, opened, today) for p in presses]


def state_of(press: Press, element: Element | None = None) -> ElementState:
    """The state of one press, or of one element in it."""
    chosen = {press.pk: element} if element is not None else None
    return measured_states([press], chosen=chosen)[0].state


@dataclass(frozen=True)
class _History:
    """What the surveys of an element tell, with what was charted."""

    past: tuple[PastSurvey, ...]
    states: dict[tuple[int, float], ElementState]


# Every page shows every press: what an element's surveys tell is computed once for each of their
# versions, day and beginning of the maps. The oldest goes where there are too many.
_KEPT: OrderedDict[Hashable, _History] = OrderedDict()
_KEPT_LOCK = Lock()
_MOST_KEPT = 512


def _histories(elements: list[Element], today: date) -> dict[int, _History]:
    """What the surveys of some elements tell, by their keys."""
    since = today - timedelta(days=STATE_LOOK_BACK_DAYS)
    versions = dict(
        SurveyVersion.objects.filter(pk__in=[e.pk for e in elements]).values_list("pk", "number")
    )
    keys = {
        e.pk: (connection.settings_dict["NAME"], e.pk, e.map_since, today, versions.get(e.pk))
        for e in elements
    }
    with _KEPT_LOCK:
        found = {pk: _KEPT[key] for pk, key in keys.items() if key in _KEPT}
    missing = keys.keys() - found.keys()
    if not missing:
        return found
    surveys = _surveys(missing, since, today)
    fresh = {pk: _History(_past(surveys[pk]), {}) for pk in missing}
    with _KEPT_LOCK:
        _KEPT.update({keys[pk]: history for pk, history in fresh.items()})
        while len(_KEPT) > _MOST_KEPT:
            _KEPT.popitem(last=False)
    return found | fresh


def _surveys(elements: Collection[int], since: date, today: date) -> dict[int, list[Any]]:
    rows = (
        Survey.objects.exclude(finished_at=None)
        .exclude(mean_true_c=None)
        .filter(element__in=elements, taken_at__date__range=(since, today))
        .filter(Q(element__map_since=None) | Q(taken_at__gte=F("element__map_since")))
        .order_by("taken_at", "pk")
        .values(
            "pk",
            "element_id",
            "taken_at",
            "set_c",
            "mean_true_c",
            "mean_uncertainty_c",
            "common_uncertainty_c",
            "grid",
            "method",
            "instrument__name",
            "comparison_id",
        )
    )
    found = defaultdict(list)
    for row in rows:
        found[row["element_id"]].append(row)
    return found


def _open_surveys() -> dict[int, int]:
    rows = Survey.objects.filter(finished_at=None).order_by("taken_at")
    return dict(rows.values_list("element_id", "pk"))


def _state(
    press: Press,
    element: Element | None,
    histories: dict[int, _History],
    opened: dict[int, int],
    today: date,
) -> MeasuredState:
    history = histories[element.pk] if element else _History((), {})
    rule = press.survey_every_days, press.tolerance_c
    if rule not in history.states:
        history.states[rule] = element_state(
            list(history.past), press.survey_every_days, today, press.tolerance_c
        )
    return MeasuredState(
        press=press,
        element=element,
        state=history.states[rule],
        open_survey_pk=opened.get(element.pk) if element else None,
        offsets=_as_charted(history.past),
    )


def _past(rows: list[dict[str, Any]]) -> tuple[PastSurvey, ...]:
    """Surveys, oldest first, their offsets at the setting of the newest."""
    stretch = _gain(rows) - 1
    return tuple(
        PastSurvey(
            timezone.localtime(r["taken_at"]).date(),
            r["mean_true_c"] - r["set_c"] - stretch * (r["set_c"] - rows[-1]["set_c"]),
            r["mean_uncertainty_c"] or 0.0,
            r["grid"] != SPOT,
            _read_with(r),
            r["common_uncertainty_c"] or 0.0,
        )
        for r in rows
    )


def _gain(rows: list[dict[str, Any]]) -> float:
    """True degrees for one on the dial: surveys at other settings are no drift."""
    settings = np.array([r["set_c"] for r in rows])
    if len(rows) < 2 or np.ptp(settings) < LEAST_SETTING_SPAN_C:
        return 1.0
    means = np.array([r["mean_true_c"] for r in rows])
    spread = np.array([(r["mean_uncertainty_c"] or 0.0) / COVERAGE_FACTOR for r in rows])
    common = np.array([r["common_uncertainty_c"] or 0.0 for r in rows])
    own = np.sqrt(np.maximum(spread**2 - common**2, 0.0))
    return anchored_line(settings, means, own, float(spread[-1])).gain


def _read_with(row: dict[str, Any]) -> str:
    """What shares one common error: instrument, way of reading, and comparison."""
    compared = f", compared {row['comparison_id']}" if row["comparison_id"] else ""
    return f"{row['instrument__name'] or row['method']}{compared}"


def _as_charted(past: Sequence[PastSurvey]) -> tuple[tuple[date, float, bool], ...]:
    """Day, offset and fullness of each survey, oldest first."""
    return tuple((p.day, p.offset_c, p.full) for p in sorted(past, key=lambda p: p.day))
