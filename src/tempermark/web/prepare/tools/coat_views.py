"""Coats: how much a spray takes, and brushed pieces that dry side by side."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from tempermark.core.preparing.coating.coats import SPRAYED_ML_M2, sprayed_ml, staggered
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import volume_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.units import form_units
from tempermark.web.prepare.tools.heat_forms import BrushForm, SprayForm

USUAL_SPRAY = {
    "width_mm": 300.0,
    "height_mm": 350.0,
    "pieces": 1,
    "coats": 2,
    "square_ml": SPRAYED_ML_M2,
}
USUAL_BRUSH = {"number": 4, "sides": 2, "times": 1, "brush_s": 120.0, "dries_s": 2400.0}


@require_GET
def spray(request: Request) -> HttpResponse:
    """How much of the bottle the coats take."""
    units = form_units(request)
    usual = as_typed(SprayForm, USUAL_SPRAY, units) | {
        name: request.GET[name] for name in USUAL_SPRAY if name in request.GET
    }
    form = SprayForm(request.GET if "square_ml" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data, mine = form.cleaned_data, request.user.units
        area = data["width_mm"] * data["height_mm"] * 1e-6
        one = sprayed_ml(area, 1, data["square_ml"])
        whole = one * data["coats"] * data["pieces"]
        context |= {
            "one": volume_text(one, mine),
            "whole": volume_text(whole, mine),
            "data": data,
        }
    return render(request, "prepare/spray.html", context)


@require_GET
def brush(request: Request) -> HttpResponse:
    """When each side of each piece is brushed, turned and dry."""
    units = form_units(request)
    usual = as_typed(BrushForm, USUAL_BRUSH, units)
    form = BrushForm(request.GET if "brush_s" in request.GET else usual, units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data = form.cleaned_data
        rows = staggered(
            data["number"], data["sides"], data["times"], data["brush_s"], data["dries_s"]
        )
        alone = data["number"] * data["sides"] * data["times"] * (data["brush_s"] + data["dries_s"])
        context |= {
            "rows": rows,
            "whole_s": max(row.dry_s for row in rows),
            "alone_s": alone,
            "data": data,
        }
    return render(request, "prepare/brush.html", context)
