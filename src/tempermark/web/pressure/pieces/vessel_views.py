"""What fits: vessels in sleeves, and caps."""

from typing import Any

import numpy as np
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.errors import InputError
from tempermark.core.pressure.pieces import cap as caps
from tempermark.core.pressure.pieces import vessel as vessels
from tempermark.core.pressure.press.spring import usual_pad
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text, say
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.measure.surveys import queries as temperatures
from tempermark.web.presses.models import Element, Press, PressKind
from tempermark.web.pressure import queries
from tempermark.web.pressure.forms import CapForm, VesselForm
from tempermark.web.pressure.pieces.views import MIDDLE_KPA
from tempermark.web.recipes.blanks.sleeves import tube_of
from tempermark.web.recipes.models import Blank

# Sleeve ends lie open to the room; they are warmed by what they touch. Starting value.
OPENING_SHARE = 0.65


@require_GET
def vessel(request: Request, pk: int | None = None) -> HttpResponse:
    """Which sleeve holds a vessel without a gap, where its rims stay cool, the second press."""
    blank = get_object_or_404(Blank, pk=pk) if pk else None
    query = request.GET if "top_mm" in request.GET else None
    units = form_units(request)
    form = VesselForm(query or as_typed(VesselForm, _usual_vessel(blank), units), units=units)
    context = {"form": form, "blank": blank, "vessels": _vessels()}
    context["ask"] = query is None and blank is not None and tube_of(blank) is None
    if context["ask"]:
        return render(request, "pressure/vessel.html", context)
    if form.is_valid():
        data = form.cleaned_data
        tube = vessels.Tube(data["top_mm"], data["bottom_mm"], data["height_mm"])
        rows = [_sleeve_row(s, tube, data["art_mm"], request.user.units) for s in queries.sleeves()]
        rows.sort(key=lambda r: (not r["fits"], r["widest"]))
        context |= {"rows": rows, "best": rows[0] if rows and rows[0]["fits"] else None}
    return render(request, "pressure/vessel.html", context, status=422 if form.errors else 200)


def _vessels() -> QuerySet[Blank]:
    return Blank.objects.filter(kind__in=VESSEL_KINDS)


def _usual_vessel(blank: Blank | None) -> dict[str, Any]:
    """A vessel as noted; of a blank whose diameters nobody noted nothing is guessed."""
    given: dict[str, Any] = {"top_mm": 82, "bottom_mm": 82, "height_mm": 95, "art_mm": 200}
    if blank is None:
        return given
    if tube_of(blank) is None:
        given = dict.fromkeys(given, "")
    noted = {
        "top_mm": blank.top_diameter_mm,
        "bottom_mm": blank.bottom_diameter_mm,
        "height_mm": blank.height_mm,
        "art_mm": blank.width_mm,
    }
    return given | {name: value for name, value in noted.items() if value}


def _sleeve_row(
    element: Element, tube: vessels.Tube, art_mm: float, units: Units
) -> dict[str, Any]:
    top = element.top_diameter_mm or element.bottom_diameter_mm
    bottom = element.bottom_diameter_mm or element.top_diameter_mm
    sleeve = vessels.Tube(top, bottom, element.height_mm)
    row = {"element": element, "in_use": element.taken_out_on is None}
    try:
        seat = vessels.seat(tube, sleeve, element.closes_by_mm or vessels.CLOSES_BY_MM)
    except InputError as error:
        return row | {
            "fits": False,
            "widest": 1e9,
            "reason": error_text(error, units),
            "seat": None,
        }
    reason = say(seat.reason, units)
    row |= {"fits": seat.fits, "widest": seat.widest_mm, "reason": reason, "seat": seat}
    return row | _warmth(element, tube, art_mm) if seat.fits else row


def _warmth(element: Element, tube: vessels.Tube, art_mm: float) -> dict[str, Any]:
    """The second short press and cool rims by the sleeve's temperature map; nothing without one."""
    survey = temperatures.latest_survey(element)
    computed = compute_survey(survey) if survey else None
    mapped = computed.result.map if computed and computed.result else None
    if mapped is None:
        return {"unmapped": True}
    around = float(np.pi * (tube.top_mm + tube.bottom_mm) / 2)
    columns, rows = mapped.map_c.mean(axis=0), mapped.map_c.mean(axis=1)
    room = survey.ambient_c
    opening = room + OPENING_SHARE * (float(columns.mean()) - room)
    second = vessels.second_press(columns, element.width_mm, around, art_mm, opening)
    low = survey.target_c + (float(mapped.map_c.mean()) - survey.target_c) - survey.tolerance_c
    lower, upper = vessels.rim_zone_mm(rows, element.height_mm, low)
    return {"second": second, "rims": (lower, upper), "around": around, "surveyed": survey}


@require_GET
def cap(request: Request, pk: int | None = None) -> HttpResponse:
    """A cap's seam, and the thinnest stroke that may cross it."""
    blank = get_object_or_404(Blank, pk=pk) if pk else None
    query = request.GET if "panels" in request.GET else None
    units = form_units(request)
    form = CapForm(query or as_typed(CapForm, _usual_cap(blank), units), units=units)
    context = {"form": form, "blank": blank, "presses": _cap_presses()}
    if form.is_valid():
        data = form.cleaned_data
        front = caps.CapFront.of(data["panels"], data["seam_at_mm"])
        found = caps.crossing(
            front,
            data["art_width_mm"],
            data["art_off_mm"],
            usual_pad("silicone"),
            data["contact_kpa"],
            data["seam_height_mm"],
        )
        context |= {
            "found": found,
            "front": front,
            "stroke": data["stroke_mm"],
            "too_thin": found.crosses and data["stroke_mm"] < found.thinnest_stroke_mm,
        }
    return render(request, "pressure/cap.html", context, status=422 if form.errors else 200)


def _usual_cap(blank: Blank | None) -> dict[str, Any]:
    return {
        "panels": str(blank.panels if blank and blank.panels else 6),
        "seam_at_mm": "",
        "seam_height_mm": caps.SEAM_HEIGHT_MM,
        "art_width_mm": 90,
        "art_off_mm": 0,
        "stroke_mm": 3,
        "contact_kpa": MIDDLE_KPA,
    }


def _cap_presses() -> list[dict[str, Any]]:
    """Cap presses with the dial of each heated element that has its own."""
    found = []
    for press in Press.objects.filter(kind=PressKind.CAP):
        fitted = press.elements.filter(taken_out_on=None).select_related("press").order_by("pk")
        rows = [
            {
                "element": e,
                "advice": advised_dial(e, press.target_c, timezone.now()),
                "own": e.own_setting,
            }
            for e in fitted
        ]
        found.append({"press": press, "rows": rows})
    return found
