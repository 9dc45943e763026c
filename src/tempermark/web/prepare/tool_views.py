"""Helpers that a line of the list leads to, and that can be opened by themselves: mixes, sheets."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.preparing.mix import use_by, volumes_ml
from tempermark.core.preparing.sheets import SHEETS_MM, fit, smallest
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import size_text, volume_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.prepare.forms import MixForm, SheetForm

USUAL_MIX = {
    "concentrate_parts": 1.0,
    "water_parts": 4.0,
    "bottle_ml": 500.0,
    "shelf_months": 6,
}
USUAL_ART = {
    "art_width_mm": 200.0,
    "art_height_mm": 240.0,
    "quantity": 1,
    "margin_mm": 5.0,
    "apart_mm": 5.0,
}


@require_GET
def mix(request: Request) -> HttpResponse:
    """How much of each goes into a bottle, and until when it is good."""
    units = form_units(request)
    usual = as_typed(MixForm, USUAL_MIX, units) | {"mixed_on": timezone.localdate().isoformat()}
    form = MixForm(request.GET if "bottle_ml" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data = form.cleaned_data
        concentrate, water = volumes_ml(
            data["concentrate_parts"], data["water_parts"], data["bottle_ml"]
        )
        context |= {
            "concentrate": volume_text(concentrate, request.user.units),
            "water": volume_text(water, request.user.units),
            "use_by": use_by(data["mixed_on"], data["shelf_months"]),
            "data": data,
        }
    return render(request, "prepare/mix.html", context)


@require_GET
def sheets(request: Request) -> HttpResponse:
    """Which sheet takes the art, which way round, how many to it and how many sheets."""
    units = form_units(request)
    usual = as_typed(SheetForm, USUAL_ART, units) | {
        name: request.GET[name] for name in USUAL_ART if name in request.GET
    }
    form = SheetForm(request.GET if "margin_mm" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data = form.cleaned_data
        art = (data["art_width_mm"], data["art_height_mm"])
        context |= {
            "rows": _rows(data, art, request.user.units),
            "smallest": smallest(art, data["margin_mm"]),
            "art": size_text(art, request.user.units),
        }
    return render(request, "prepare/sheets.html", context)


def _rows(data: dict[str, Any], art: tuple[float, float], units: Units) -> list[dict[str, Any]]:
    """Each sheet, and a piece of the roll as long as it is wide, with what it takes."""
    offered = dict(SHEETS_MM)
    if data["roll_mm"]:
        longest = max(art) + 2 * data["margin_mm"]
        offered["Roll"] = (data["roll_mm"], longest)
    found = []
    for name, size in offered.items():
        way = fit(art, size, data["margin_mm"], data["apart_mm"])
        found.append(
            {
                "name": name,
                "size": size_text(size, units),
                "way": way,
                "needed": way.sheets_for(data["quantity"]) if way else None,
            }
        )
    return found
