"""Vessel templates: their figures, the drawing with art bent onto it, and files at 1:1."""

import io
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET
from PIL import Image

from tempermark.core.errors import InputError
from tempermark.core.preparing.vessels.template import FlatTemplate, widest_straight_mm
from tempermark.core.preparing.vessels.template_marks import COOL_RIM_MM
from tempermark.core.vocabulary.things import VESSEL_KINDS
from tempermark.files.art.arc import WARP_DPI, WrapArt, warped
from tempermark.files.art.artwork import MM_PER_IN, drawn
from tempermark.files.preparing.template_pdf import template_pdf
from tempermark.files.preparing.template_svg import template_svg
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment, named
from tempermark.web.kit.figures import length_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.prepare.jobs.placing import sharpness
from tempermark.web.prepare.tools.template_forms import TemplateForm
from tempermark.web.printing.models import Art
from tempermark.web.printing.queries import offered_art
from tempermark.web.recipes.models import Blank

# A vessel of the trade's usual size, where none is chosen.
USUAL = {"top_diameter_mm": 82.0, "bottom_diameter_mm": 82.0, "height_mm": 95.0}
USUAL_OVERLAP_MM, USUAL_TOLERANCE_MM = 3.0, 1.0
# The page's own picture is coarser than the file.
PREVIEW_DPI = 60.0
# Art reaches into a rim from here on, mm: less is rounding.
INTO_RIM_MM = 0.1
MOST_OFFERED = 12


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
    """The template of a vessel, drawn; by itself or of one of the shop's blanks, art on it."""
    form, blank = _form(request)
    art = _art(request)
    context: dict[str, Any] = {
        "form": form,
        "blank": blank,
        "vessels": _vessels(),
        "art": art,
        "offered": offered_art()[:MOST_OFFERED],
    }
    if form.is_valid():
        query = _query(request, form)
        context |= {"found": _answer(form, art, query), "query": query}
        if art is not None:
            on_wall = form.wrap_art(art.ratio)
            context |= {
                "on_wall": on_wall,
                "sharpness": sharpness(art, on_wall.size_mm[0]),
                "rims": _into_rims(form, on_wall, request.user.units),
            }
    return render(request, "prepare/template.html", context)


@require_GET
def file(request: Request, kind: str) -> HttpResponse:
    """The template as SVG or PDF at 1:1; with art also as a PNG of 300 dpi."""
    form, blank = _form(request)
    art = _art(request)
    if not form.is_valid():
        context = {"form": form, "blank": blank, "vessels": _vessels()}
        return render(request, "prepare/template.html", context, status=422)
    template, data = form.template(), form.cleaned_data
    rim = data.get("rim_mm") or 0.0
    seam = (data["overlap_mm"], data["gap_mm"])
    name = f"template-{slugify(blank.name) if blank else 'vessel'}"
    if kind == "svg":
        drawing = template_svg(template, *seam, rim_mm=rim)
        return named(HttpResponse(drawing, content_type="image/svg+xml"), f"{name}.svg")
    if kind not in ("pdf", "png") or (kind == "png" and art is None):
        raise Http404("There is no such file.")
    is_preview = "preview" in request.GET
    try:
        bent = _bent(form, art, PREVIEW_DPI if is_preview else WARP_DPI) if art else None
    except InputError as error:
        return HttpResponse(str(error), content_type="text/plain; charset=utf-8", status=422)
    mirrored = "mirrored" in request.GET
    if kind == "pdf":
        content = template_pdf(template, *seam, rim_mm=rim, bent=bent, mirrored=mirrored)
        return attachment(content, "application/pdf", f"{name}.pdf")
    return _png(bent, mirrored, is_preview, f"{name}.png")


def _png(bent: Image.Image, mirrored: bool, is_preview: bool, name: str) -> HttpResponse:
    if mirrored:
        bent = bent.transpose(Image.Transpose.FLIP_LEFT_RIGHT)
    out = io.BytesIO()
    dpi = PREVIEW_DPI if is_preview else WARP_DPI
    bent.save(out, "PNG", dpi=(dpi, dpi))
    response = HttpResponse(out.getvalue(), content_type="image/png")
    return response if is_preview else named(response, name)


def _bent(form: TemplateForm, art: Art, dpi: float) -> Image.Image:
    """The art on the template's box."""
    template, data = form.template(), form.cleaned_data
    on_wall = form.wrap_art(art.ratio)
    per_mm = dpi / MM_PER_IN
    size = [max(1, round(side * per_mm)) for side in on_wall.size_mm]
    picture = drawn(art.kind, bytes(art.data), size[0], size[1])
    return warped(picture, template, on_wall, data["overlap_mm"], data["gap_mm"], dpi)


def _art(request: Request) -> Art | None:
    key = row_key(request.GET.get("art", ""))
    return Art.objects.filter(pk=key).first() if key else None


def _form(request: Request) -> tuple[TemplateForm, Blank | None]:
    units = form_units(request)
    blank = _vessels().filter(pk=row_key(request.GET.get("blank", ""))).first()
    if "height_mm" in request.GET:
        return TemplateForm(request.GET, units=units), blank
    given = USUAL | {name: getattr(blank, name) for name in USUAL if blank and getattr(blank, name)}
    given |= {
        "overlap_mm": USUAL_OVERLAP_MM,
        "gap_mm": 0.0,
        "tolerance_mm": USUAL_TOLERANCE_MM,
        "rim_mm": COOL_RIM_MM,
    }
    return TemplateForm(as_typed(TemplateForm, given, units), units=units), blank


def _vessels() -> Any:
    return Blank.objects.filter(kind__in=VESSEL_KINDS)


def _answer(form: TemplateForm, art: Art | None, query: str) -> TemplateAnswer:
    template, data = form.template(), form.cleaned_data
    widest = widest_straight_mm(template, data["tolerance_mm"])
    width = template.circumferences_mm[0] - data["gap_mm"]
    address = f"{reverse('prepare:template-file', args=['png'])}?{query}&preview=1"
    drawing = template_svg(
        template,
        data["overlap_mm"],
        data["gap_mm"],
        in_words=False,
        rim_mm=data.get("rim_mm") or 0.0,
        picture=address if art else "",
    )
    return TemplateAnswer(template, widest, width, drawing)


def _into_rims(form: TemplateForm, art: WrapArt, units: Units) -> str:
    """Where the art reaches into a cool rim, or past the wall; empty where it does not."""
    rim = form.cleaned_data.get("rim_mm") or 0.0
    top = form.template().slant_mm - rim
    reach = {
        "at the foot": rim - art.above_foot_mm,
        "at the rim": art.above_foot_mm + art.size_mm[1] - top,
    }
    found = [
        f"{length_text(mm, units, 1)} {where}" for where, mm in reach.items() if mm > INTO_RIM_MM
    ]
    return " and ".join(found)


def _query(request: Request, form: TemplateForm) -> str:
    """What the files of this page need to know."""
    if "height_mm" in request.GET:
        return request.GET.urlencode()
    known = {k: v for k, v in form.data.items() if v}
    extra = {k: request.GET[k] for k in ("blank", "art") if k in request.GET}
    return urlencode({"units": form.units.code} | known | extra)
