"""The presses of a day as core/planning has them: how they stand, what is to be said of them."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db.models import QuerySet
from django.utils import timezone

from tempermark.core.metrology.press.state import ElementState
from tempermark.core.planning.day import PlanPress, SpareElement
from tempermark.core.planning.stages import cover_of
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.pressure.press.contact import (
    class_of,
    contact_kpa,
    cylinder_force_n,
    loaded_area_m2,
)
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.measure.press.history import SurveyHistory
from tempermark.web.measure.press.states import measured_states
from tempermark.web.planning.hours.queries import rules
from tempermark.web.planning.models import OverdueRule
from tempermark.web.prepare.tools.platen import STILL_SET, platen_now_c, rates_of
from tempermark.web.presses.models import Element, ElementRole, Mechanism, Press
from tempermark.web.presses.queries import fitted_first
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.placing import usable_rectangle

# A knob is turned, and the pull tried, in about a minute: the planning example of
# formats/commands.md.
PRESSURE_STEP_S = 60.0


@dataclass(frozen=True)
class DayPress:
    """A press of the day: how it stands, and what is to be said of it; ``within`` are the factors
    that its heating and its cooling are known to.
    """

    press: Press
    element: Element
    plan: PlanPress
    warning: str = ""
    is_guess: bool = False
    stored: Sequence[Element] = ()
    firmest: str = PRESSURE_CLASSES[-1]
    within: tuple[float, float] = (1.0, 1.0)


def there(
    begins_at: datetime, without: Sequence[int], named: Collection[str] | None = None
) -> list[DayPress]:
    """The presses to plan on, all or those ``named`` by their slugs; not those whose survey is
    overdue, by the shop's rule.
    """
    found = day_presses(begins_at, without, named)
    if rules().overdue == OverdueRule.BAR:
        return [day for day in found if not day.warning]
    return found


def day_presses(
    begins_at: datetime, without: Sequence[int] = (), named: Collection[str] | None = None
) -> list[DayPress]:
    """The presses with an upper platen or sleeve fitted, as they stand; of all or of those that are
    ``named`` by their slugs.
    """
    upper: dict[int, Element] = {}
    fitted = fitted_first().select_related("press")
    for element in fitted if named is None else fitted.filter(press__slug__in=named):
        upper.setdefault(element.press_id, element)
    elements = [e for e in upper.values() if e.press_id not in without]
    elements.sort(key=lambda e: (e.press.place, e.press.name))
    stored: dict[int, list[Element]] = {}
    for element in Element.objects.exclude(taken_out_on=None).exclude(role=ElementRole.LOWER):
        stored.setdefault(element.press_id, []).append(element)
    states = measured_states([e.press for e in elements], begins_at.date())
    # Later on they have gone cold.
    is_soon = begins_at - timezone.now() < STILL_SET
    return [
        _day_press(element, _warning(state.state), is_soon, stored.get(element.press_id, []))
        for element, state in zip(elements, states, strict=True)
    ]


def _warning(state: ElementState) -> str:
    if state.surveyed_on is None:
        return "never surveyed"
    return "its survey is overdue" if state.overdue_days > 0 else ""


def _day_press(
    element: Element, warning: str, is_soon: bool, stored: Sequence[Element]
) -> DayPress:
    # Read once for its usable part and its temperature.
    surveys = SurveyHistory(element)
    rates, usable = rates_of(element), usable_rectangle(element, surveys)
    # What was pressed under last, and how: nothing before the first piece.
    pressed = element.test_presses.filter(withdrawn_at=None)
    last = pressed.values("stack", "pressure").first() or {"stack": [], "pressure": ""}
    width, height = element.width_mm, element.height_mm
    if usable is not None:
        width, height = usable.width_mm, usable.height_mm
    return DayPress(
        press=element.press,
        element=element,
        plan=PlanPress(
            name=element.press.slug,
            kind=element.press.kind,
            width_mm=width,
            height_mm=height,
            start_c=platen_now_c(element, surveys) if is_soon else ROOM_C,
            heats_c_per_min=rates.heats_k_min,
            cools_c_per_min=rates.cools_k_min,
            pressure=_pressure_now(pressed, last["pressure"]),
            cover=cover_of(last["stack"]),
            pressure_step_s=PRESSURE_STEP_S,
            whole_mm2=element.width_mm * element.height_mm,
            spares=tuple(SpareElement(str(e.pk), e.width_mm, e.height_mm) for e in stored),
        ),
        stored=stored,
        firmest=_firmest(element),
        warning=warning,
        is_guess=not (rates.timed_up or rates.timed_down),
        within=(rates.heats_within, rates.cools_within),
    )


def _firmest(element: Element) -> str:
    """The firmest class of pressure that a press reaches on its whole platen: by air, at its
    rating; of others nobody knows a limit.
    """
    press = element.press
    if press.mechanism != Mechanism.PNEUMATIC or not (press.max_line_kpa and press.cylinder_mm):
        return PRESSURE_CLASSES[-1]
    force_n = cylinder_force_n(press.max_line_kpa, press.cylinder_mm, press.cylinders or 1)
    area_m2 = loaded_area_m2((element.width_mm, element.height_mm), None, rigid=False)
    return class_of(contact_kpa(force_n, area_m2))


def _pressure_now(pressed: QuerySet[TestPress], last: str) -> str:
    """The class of pressure that was pressed ``last``, or of the last piece that has one, else
    medium.
    """
    if last in PRESSURE_CLASSES:
        return last
    with_class = pressed.filter(pressure__in=PRESSURE_CLASSES)
    return with_class.values_list("pressure", flat=True).first() or "medium"
