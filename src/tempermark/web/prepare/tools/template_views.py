"""Vessel templates: their figures, the drawing, and files at 1:1."""

import math
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from tempermark.core.preparing.template import FlatTemplate, flat_template, widest_straight_mm
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.files.preparing.template_pdf import template_pdf
from tempermark.files.preparing.template_svg import template_svg
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import named
from tempermark.web.kit.forms.fields import LengthField, UnitForm, as_typed
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.recipes.models import Blank

# A vessel of the trade's usual size, where none is chosen.
USUAL = {"top_diameter_mm": 82.0, "bottom_diameter_mm": 82.0, "height_mm": 95.0}
USUAL_OVERLAP_MM, USUAL_TOLERANCE_MM = 3.0, 1.0


class TemplateForm(UnitForm):
    """Diameters, or circumferences measured with a paper strip; height; seam or handle."""

    top_diameter_mm = LengthField(label="Diameter at the top", required=False, low=5, high=2000)
    bottom_diameter_mm = LengthField(
        label="Diameter at the bottom", required=False, low=5, high=2000
    )
    top_round_mm = LengthField(
        label="or round the top", required=False, low=15, high=6500, help_text="by a paper strip"
    )
    bottom_round_mm = LengthField(
        label="or round the bottom", required=False, low=15, high=6500, help_text="by a paper strip"
    )
    height_mm = LengthField(label="Height, straight up", low=5, high=2000)
    overlap_mm = LengthField(label="Overlap at the seam", low=0, high=200)
    gap_mm = LengthField(label="Gap for a handle", low=0, high=1000, help_text="0 without a handle")
    tolerance_mm = LengthField(label="Straight art may bow by", low=0, high=50)

    def clean(self) -> dict[str, Any]:
        """A circumference wins over a diameter; the gap must leave something."""
        super().clean()
        data = self.cleaned_data
        for end in ("top", "bottom"):
            if data.get(f"{end}_round_mm"):
                data[f"{end}_diameter_mm"] = data[f"{end}_round_mm"] / math.pi
            elif not data.get(f"{end}_diameter_mm") and f"{end}_diameter_mm" not in self.errors:
                self.add_error(f"{end}_diameter_mm", "Give the diameter, or what goes round it.")
        ends = [data.get("top_diameter_mm"), data.get("bottom_diameter_mm")]
        gap = data.get("gap_mm")
        if all(ends) and gap is not None and gap >= math.pi * min(e for e in ends if e):
            self.add_error("gap_mm", "The gap is as wide as the vessel: nothing is left to print.")
        return data

    def template(self) -> FlatTemplate:
        """The template, once the form is valid."""
        data = self.cleaned_data
        sides = (data["top_diameter_mm"], data["bottom_diameter_mm"], data["height_mm"])
        return flat_template(*sides)


@dataclass(frozen=True)
class TemplateAnswer:
    """What the page says of a template; lengths in mm."""

    template: FlatTemplate
    widest_mm: float
    width_mm: float
    drawing: str

    @property
    def is_bent(self) -> bool:
        """Whether art as wide as the wrap must follow the arc."""
        return self.widest_mm < self.width_mm


@require_GET
def page(request: Request) -> HttpResponse:
    """The template of a vessel, drawn; by itself or of one of the shop's blanks."""
    form, blank = _form(request)
    context: dict[str, Any] = {"form": form, "blank": blank, "vessels": _vessels()}
    if form.is_valid():
        context |= {"found": _answer(form), "query": request.GET.urlencode() or _query(form)}
    return render(request, "prepare/template.html", context)


@require_GET
def file(request: Request, kind: str) -> HttpResponse:
    """The template as SVG or PDF at 1:1."""
    form, blank = _form(request)
    if not form.is_valid():
        context = {"form": form, "blank": blank, "vessels": _vessels()}
        return render(request, "prepare/template.html", context, status=422)
    template, data = form.template(), form.cleaned_data
    seam = (data["overlap_mm"], data["gap_mm"])
    if kind == "svg":
        content: str | bytes = template_svg(template, *seam)
        answer = HttpResponse(content, content_type="image/svg+xml")
    else:
        answer = HttpResponse(template_pdf(template, *seam), content_type="application/pdf")
    name = slugify(blank.name) if blank else "vessel"
    return named(answer, f"template-{name}.{kind}")


def _form(request: Request) -> tuple[TemplateForm, Blank | None]:
    units = form_units(request)
    blank = _vessels().filter(pk=row_key(request.GET.get("blank", ""))).first()
    if "height_mm" in request.GET:
        return TemplateForm(request.GET, units=units), blank
    given = USUAL | {name: getattr(blank, name) for name in USUAL if blank and getattr(blank, name)}
    given |= {"overlap_mm": USUAL_OVERLAP_MM, "gap_mm": 0.0, "tolerance_mm": USUAL_TOLERANCE_MM}
    return TemplateForm(as_typed(TemplateForm, given, units), units=units), blank


def _vessels() -> Any:
    return Blank.objects.filter(kind__in=VESSEL_KINDS)


def _answer(form: TemplateForm) -> TemplateAnswer:
    template, data = form.template(), form.cleaned_data
    widest = widest_straight_mm(template, data["tolerance_mm"])
    width = template.circumferences_mm[0] - data["gap_mm"]
    drawing = template_svg(template, data["overlap_mm"], data["gap_mm"], in_words=False)
    return TemplateAnswer(template, widest, width, drawing)


def _query(form: TemplateForm) -> str:
    return urlencode({"units": form.units.code} | {k: v for k, v in form.data.items() if v})
