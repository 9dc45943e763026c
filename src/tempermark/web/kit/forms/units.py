"""The units of a form: those it was drawn with, whatever its reader has chosen since."""

from typing import Any

from tempermark.web.kit.units import Units, units_from_code, units_of

UNITS_FIELD = "units"


def form_units(request: Any) -> Units:
    """The units of the form that was sent, which it carries itself; else the reader's own.

    A form drawn in °C keeps its figures when another tab has switched to °F meanwhile.
    """
    sent = request.POST if request.method == "POST" else request.GET
    return units_from_code(sent.get(UNITS_FIELD, ""), units_of(request.user))
