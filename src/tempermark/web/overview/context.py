"""The strip of presses under the navigation of every page."""

from collections.abc import Iterator
from typing import Any

from django.conf import settings

from tempermark.web.accounts.pins.tablets import may_be_shared
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.queries import running
from tempermark.web.kit.clock import clock_fault
from tempermark.web.kit.units import Units
from tempermark.web.overview import queries, words
from tempermark.web.overview.first_steps import first_steps

# App → the step of the work it belongs to.
WAYS = {
    "overview": "floor",
    "presses": "floor",
    "measure": "measure",
    "certificates": "measure",
    "recipes": "setup",
    "heat": "setup",
    "pressure": "setup",
    "prepare": "press",
    "run": "press",
    "bench": "press",
    "experiments": "press",
    "logbook": "press",
    "planning": "plan",
    "trace": "trace",
}


def presses(request: Request) -> dict[str, Any]:
    """`strip`: presses with their state in words, `clock_fault`: what is wrong with the clock,
    `guide`: the first steps of a new room, `practice_of`: the room a practice room belongs to,
    `clocks`: those that run or ring;
    read only when a page shows them.
    """
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated or getattr(request, "htmx", False):
        return {}
    match = request.resolver_match
    return {
        "strip": _Strip(user.units),
        "clock_fault": clock_fault,
        "clocks": running,
        "is_demo": settings.DEMO,
        "is_shared_tablet": may_be_shared(request),
        "practice_of": settings.PRACTICE_OF,
        "guide": first_steps if user.may_work else None,
        "way": WAYS.get(match.app_name if match else ""),
    }


class _Strip:
    """Iterates lazily: pages without the strip pay no query."""

    def __init__(self, units: Units) -> None:
        self.units = units

    def __iter__(self) -> Iterator[Any]:
        for entry in queries.floor():
            yield {
                "press": entry.press,
                "words": words.short_state(entry, self.units),
                "sign": words.sign_of(entry),
            }
