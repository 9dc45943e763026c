"""The room's presses with their state, in a bounded number of queries."""

from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db.models import Count

from tempermark.core.metrology.press.state import ElementState
from tempermark.web.measure.press.states import measured_states
from tempermark.web.presses.models import Element, Press
from tempermark.web.pressure.queries import newest_maps
from tempermark.web.trace.models import FaultCase


@dataclass(frozen=True)
class PressState:
    """A press, its element in use, the element's state and its open faults."""

    press: Press
    element: Element | None
    state: ElementState
    open_cases: int
    open_survey_pk: int | None
    offsets: tuple[tuple[date, float, bool], ...] = ()
    # What its newest pressure map found wrong, in words; empty when nothing or unknown.
    weak_words: str = ""

    @property
    def measured_before(self) -> bool:
        """Whether there was a map that became history."""
        return self.element is not None and self.element.map_since is not None


def floor(today: date | None = None, chosen: dict[int, Element] | None = None) -> list[PressState]:
    """Every press with its state: five queries, however many presses.

    The state is that of the element leading in a press, or of the one `chosen` for it (by the
    press's key).
    """
    opened = open_cases()
    presses = list(Press.objects.all())
    pressed = newest_maps()
    return [
        PressState(
            found.press,
            found.element,
            found.state,
            opened.get(found.press.pk, 0),
            found.open_survey_pk,
            found.offsets,
            _weak_words(found.element, pressed),
        )
        for found in measured_states(presses, today, chosen)
    ]


def open_cases() -> dict[int, int]:
    """Press → its open faults, for presses that have any. Cases are few, however many pieces."""
    found = FaultCase.objects.filter(
        closed_at=None, seems_normal=False, test_press__withdrawn_at=None
    )
    rows = found.values_list("test_press__element__press").annotate(count=Count("pk"))
    return dict(rows.order_by())


def _weak_words(element: Element | None, pressed: dict[int, Any]) -> str:
    newest = pressed.get(element.pk) if element else None
    return newest.weak_words if newest else ""
