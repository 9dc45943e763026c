"""The units of a form: those it was drawn with, whatever its reader has chosen since."""

from typing import Any

from tempermark.web.kit.templatetags.figures import unit_of

UNITS_FIELD = "units"
KNOWN_UNITS = ("c", "f")


def form_units(request: Any) -> str:
    """The units of the form that was sent, which it carries itself; else the reader's own.

    A form drawn in °C keeps its figures when another tab has switched to °F meanwhile.
    """
    sent = request.POST if request.method == "POST" else request.GET
    carried = sent.get(UNITS_FIELD, "")
    return carried if carried in KNOWN_UNITS else unit_of(request.user)
