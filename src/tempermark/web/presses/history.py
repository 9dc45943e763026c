"""From when on what was measured of an element describes it, at any moment."""

from datetime import datetime

from tempermark.web.presses.models import Element, EventKind, PressEvent

# What is done to a press that makes the maps of every element in it history.
MAPS_END = (EventKind.PAD, EventKind.REPAIR, EventKind.MOVED, EventKind.NEW_MAP)


def map_since(element: Element, when: datetime | None = None) -> datetime:
    """From when on maps described an element at a moment (now): since it was fitted, or what was
    done to its press before then; None where nothing was.
    """
    if when is None or element.map_since is None or when >= element.map_since:
        return element.map_since
    earlier = PressEvent.objects.filter(press=element.press_id, kind__in=MAPS_END, at__lte=when)
    return earlier.order_by("-at").values_list("at", flat=True).first()
