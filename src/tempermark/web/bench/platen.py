"""Whether the platen is there: by a live logger, else by how long its change takes."""

from dataclasses import dataclass

from django.utils import timezone

from tempermark.core.phrases import rough_wait_text
from tempermark.core.preparing.heat.changeover import change_time
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.web.jobs.models import PlatenChange
from tempermark.web.kit.figures import difference_text, temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.live.page.queries import LiveView, live
from tempermark.web.live.page.words import summary
from tempermark.web.measure.press.press_temperature import press_temperature
from tempermark.web.prepare.tools.platen import rates_of
from tempermark.web.presses.models import Element

# A mean within this of what the setting gives is there: a controller swings by as much, K.
THERE_K = 1.5


@dataclass(frozen=True)
class PlatenState:
    """What is known of the platen now, and whether it is at its setting."""

    text: str
    ready: bool


def platen_state(element: Element, set_c: float, units: Units) -> PlatenState:
    """Where a platen is on its way to a setting, °C on the dial."""
    view = live(element, timezone.now())
    if view is None or view.silent or view.state is None or view.state.mean_c is None:
        return PlatenState(_by_time(element, units), ready=False)
    return _by_logger(view, set_c, units)


def _by_logger(view: LiveView, set_c: float, units: Units) -> PlatenState:
    element, state = view.element, view.state
    shown = summary(view, units, timezone.now())
    known = press_temperature(element, timezone.now())
    if state.open_dip is not None or known is None:
        return PlatenState(f"{shown.headline} {shown.rest}".strip(), ready=False)
    aim_c = float(known.line.true_c(set_c))
    off_k = state.mean_c - aim_c
    if abs(off_k) <= THERE_K:
        return PlatenState(f"{shown.headline} It is where this setting puts it.", ready=True)
    gap = difference_text(off_k, units, 0, sign=False)
    side = "below" if off_k < 0 else "above"
    aim = temperature_text(aim_c, units)
    return PlatenState(f"{shown.headline} That is {gap} {side} the {aim} to wait for.", False)


def _by_time(element: Element, units: Units) -> str:
    """Without a logger: how long a change that is under way takes from its start."""
    change = PlatenChange.objects.filter(element=element, there_at=None, given_up_at=None).first()
    if change is None:
        return ""
    needs = change_time(change.from_c, change.to_c, rates_of(element), ROOM_C)
    gone_s = (timezone.now() - change.started_at).total_seconds()
    if needs is None:
        return ""
    left_s = needs.seconds - gone_s
    to = temperature_text(change.to_c, units)
    if left_s > 0:
        return f"{element.press.name} needs about {rough_wait_text(left_s)} more to {to} true."
    return f"{element.press.name} should be at {to} true by now: look at its display."
