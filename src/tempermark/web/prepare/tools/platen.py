"""A platen as it is now, and how fast it heats and cools."""

from datetime import timedelta

import numpy as np
from django.db.models import Q
from django.utils import timezone

from tempermark.core.preparing.heat.changeover import (
    PlatenRates,
    TimedChange,
    changes_in,
    filled_by_kind,
    learned_rates,
)
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.web.jobs.models import PlatenChange
from tempermark.web.live.models import Minute
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.measure.press.press_temperature import true_temperature
from tempermark.web.presses.models import Element
from tempermark.web.run.models import TestPress

# The last changes say what a platen does today; a logger is read this far back.
MOST_CHANGES, MINUTES_BACK = 12, 2000
# A press that was set within this long still holds it.
STILL_SET = timedelta(hours=4)


def platen_now_c(element: Element, history: SurveyHistory | None = None) -> float:
    """Where the platen is, true °C, as far as is known: as it was last changed or pressed, else
    the room.
    """
    since = timezone.now() - STILL_SET
    changed = PlatenChange.objects.filter(element=element, there_at__gte=since).first()
    piece = element.test_presses.filter(pressed_at__gte=since, withdrawn_at=None).first()
    if changed and (piece is None or piece.pressed_at <= changed.there_at):
        return changed.to_c
    return ROOM_C if piece is None else _true_c(element, piece, history)


def _true_c(element: Element, piece: TestPress, history: SurveyHistory | None) -> float:
    middle = np.array([[element.width_mm / 2, element.height_mm / 2]])
    known = true_temperature(element, middle, piece.set_c, timezone.now(), history)
    return piece.set_c if known is None else float(known.value_c[0])


def rates_of(element: Element) -> PlatenRates:
    """How fast this platen heats and cools: by changes that were timed and that a logger saw; where
    it was never timed, by those of other presses of its kind.
    """
    timed = _timed(Q(element=element))
    rates = learned_rates([*timed, *_seen_by_logger(element)][:MOST_CHANGES], ROOM_C)
    if rates.timed_up and rates.timed_down:
        return rates
    others = Q(element__press__kind=element.press.kind) & ~Q(element=element)
    return filled_by_kind(rates, learned_rates(_timed(others), ROOM_C))


def _timed(which: Q) -> list[TimedChange]:
    """The last changes that somebody timed."""
    rows = PlatenChange.objects.filter(which, given_up_at=None).exclude(there_at=None)
    return [TimedChange(c.from_c, c.to_c, c.seconds or 0.0) for c in rows[:MOST_CHANGES]]


def _seen_by_logger(element: Element) -> list[TimedChange]:
    """Changes in the minutes of the element's last recording."""
    last = Minute.objects.filter(recording__key__element=element).order_by("-at").first()
    if last is None:
        return []
    rows = Minute.objects.filter(recording=last.recording).order_by("-at")[:MINUTES_BACK]
    minutes = [(row.at, [v for v in row.mean_c if v is not None]) for row in reversed(rows)]
    minutes = [(at, values) for at, values in minutes if values]
    if not minutes:
        return []
    begin = minutes[0][0]
    times = np.array([(at - begin).total_seconds() for at, _ in minutes])
    return changes_in(times, np.array([float(np.mean(values)) for _, values in minutes]))
