"""The art of a job: chosen, laid under the blank's outline, printed mirrored at 1:1."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods

from tempermark.core.errors import InputError
from tempermark.core.preparing.checklist import PRINTED_AS_READ
from tempermark.core.preparing.size.growth import taping
from tempermark.core.preparing.size.placed_art import covering
from tempermark.core.preparing.size.sheets import SHEETS_MM, fit
from tempermark.files.art.limits import LONGEST_MM
from tempermark.files.art.printed import art_pdf, printed_picture
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs import actions, queries
from tempermark.web.jobs.models import Job
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.fields import LengthField, UnitForm
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.prepare.jobs.lines import piece_of
from tempermark.web.prepare.jobs.placing import (
    first_size_mm,
    is_wrap,
    placement,
    sharpness,
    verdict,
)
from tempermark.web.printing.art_views import added
from tempermark.web.printing.forms import ArtForm
from tempermark.web.printing.models import Art
from tempermark.web.printing.queries import offered_art

# So many of the newest are offered at a glance; the rest by name on the page of all art.
MOST_OFFERED = 12
# What lies outside the bleed is veiled: farther than any art reaches, mm.
FAR_MM = 2 * LONGEST_MM
# A strip of tape as drawn, by the longer side.
TAPE_SHARE = 0.05


class PlaceForm(UnitForm):
    """The art's printed width, and where the outline lies on it."""

    width_mm = LengthField(label="Art printed, across", low=1, high=LONGEST_MM)
    left_mm = LengthField(label="Outline from its left", low=-LONGEST_MM, high=LONGEST_MM)
    top_mm = LengthField(label="Outline from its top", low=-LONGEST_MM, high=LONGEST_MM)


@require_http_methods(["GET", "POST"])
def art(request: Request, pk: int) -> HttpResponse:
    """A job's art; what is chosen, dragged or typed is kept at once."""
    job = _job(pk)
    upload = ArtForm(request.POST or None, request.FILES or None, units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        act = request.POST.get("act", "")
        if act in ACTS:
            return ACTS[act](request, job)
        found = added(request, upload)
        if found is not None:
            return _take(request, job, found)
    else:
        upload = ArtForm(units=form_units(request))
    context = _context(request, job) | {"form": upload}
    return render(request, "prepare/art.html", context, status=422 if upload.errors else 200)


def _choose(request: Request, job: Job) -> HttpResponse:
    found = get_object_or_404(offered_art(), pk=row_key(request.POST.get("art", "")))
    return _take(request, job, found)


def _take(request: Request, job: Job, found: Art) -> HttpResponse:
    with refusal_shown(request):
        actions.choose_art(request.user, job, found, first_size_mm(job, found))
    return redirect("prepare:art", job.pk)


def _remove(request: Request, job: Job) -> HttpResponse:
    with refusal_shown(request):
        actions.choose_art(request.user, job, None)
    return redirect("prepare:art", job.pk)


def _place(request: Request, job: Job) -> HttpResponse:
    form = PlaceForm(request.POST, units=form_units(request))
    if job.art is not None and form.is_valid():
        data = form.cleaned_data
        size = (data["width_mm"], data["width_mm"] * job.art.ratio)
        with refusal_shown(request):
            actions.place_outline(request.user, job, size, (data["left_mm"], data["top_mm"]))
        return _placed(request, _job(job.pk))
    return _placed(request, job, form)


def _cover(request: Request, job: Job) -> HttpResponse:
    here = placement(job)
    if job.art is not None and here.covers:
        size = covering(job.art.ratio, here.placed.outline_mm, here.placed.bleed_mm).art_mm
        with refusal_shown(request):
            actions.place_outline(request.user, job, size, None)
    return _placed(request, _job(job.pk))


ACTS = {"choose": _choose, "remove": _remove, "place": _place, "cover": _cover}


def _placed(request: Request, job: Job, form: PlaceForm | None = None) -> HttpResponse:
    """The part that follows what is dragged or typed; the whole page without scripts."""
    context = _context(request, job)
    if form is not None:
        context["place_form"] = form
    status = 422 if form is not None else 200
    if request.htmx:
        return render(request, "prepare/_placed.html", context)
    context["form"] = ArtForm(units=form_units(request))
    return render(request, "prepare/art.html", context, status=status)


def _context(request: Request, job: Job) -> dict[str, Any]:
    context: dict[str, Any] = {
        "job": job,
        "offered": offered_art()[:MOST_OFFERED],
        "is_wrap": is_wrap(job),
        "mirrored": job.recipe.recipe.method not in PRINTED_AS_READ,
    }
    if job.art is None:
        return context
    here, units = placement(job), request.user.units
    placed = here.placed
    fields = {
        "width_mm": round(placed.art_mm[0], 1),
        "left_mm": round(placed.corner_mm[0], 1),
        "top_mm": round(placed.corner_mm[1], 1),
    }
    bent = "The template bends it onto the vessel."
    return context | {
        "here": here,
        "placed": placed,
        "white": bool(here.covers and placed.white),
        "verdict": bent if is_wrap(job) else verdict(here, units),
        "sharpness": sharpness(job.art, placed.art_mm[0]),
        "place_form": PlaceForm(initial=fields, units=units),
        "outline_path": _rectangle(placed.outline_mm, (0.0, 0.0)),
        "bleed_path": _rectangle(placed.outline_mm, placed.bleed_mm),
        "veil": _rectangle(placed.outline_mm, (FAR_MM, FAR_MM))
        + _rectangle(placed.outline_mm, placed.bleed_mm),
        "tapes": _tapes(job, placed.outline_mm, placed.bleed_mm),
        "corner": " ".join(f"{side:.2f}" for side in placed.corner_mm),
        "box": _box(placed.art_mm, placed.outline_mm, placed.corner_mm),
        "sheets": [name for name, sheet in SHEETS_MM.items() if _on(placed.page_mm, sheet)],
    }


def _rectangle(size: tuple[float, float], beyond: tuple[float, float]) -> str:
    """A rectangle about an outline at 0, 0, so far beyond it on each side, mm, as a path."""
    (wide, high), (x, y) = size, beyond
    return f"M{-x:.2f} {-y:.2f}h{wide + 2 * x:.2f}v{high + 2 * y:.2f}h{-wide - 2 * x:.2f}z"


def _tapes(
    job: Job, outline: tuple[float, float], bleed: tuple[float, float]
) -> list[dict[str, str]]:
    """Where the transfer is taped: strips over its corners, as the list asks for them."""
    if not piece_of(job).is_taped:
        return []
    (wide, high), (x, y) = outline, bleed
    corners = [(-x, -y), (wide + x, high + y), (wide + x, -y), (-x, high + y)]
    count = 4 if taping((wide + 2 * x, high + 2 * y)) == "all_corners" else 2
    size = TAPE_SHARE * max(wide, high)
    half = size / 2
    return [
        {"x": f"{cx - half:.1f}", "y": f"{cy - half:.1f}", "size": f"{size:.1f}"}
        for cx, cy in corners[:count]
    ]


def _box(art: tuple[float, ...], outline: tuple[float, ...], corner: tuple[float, ...]) -> str:
    """The drawing's view box in mm: the art and the outline with some air."""
    low = [min(0.0, corner[i]) for i in (0, 1)]
    high = [max(art[i], corner[i] + outline[i]) for i in (0, 1)]
    air = 0.03 * max(high[0] - low[0], high[1] - low[1])
    sides = (low[0] - air, low[1] - air, high[0] - low[0] + 2 * air, high[1] - low[1] + 2 * air)
    return " ".join(f"{side:.2f}" for side in sides)


def _on(page: tuple[float, float], sheet: tuple[float, float]) -> bool:
    """Whether a sheet takes a page, one way round or the other."""
    return fit(page, sheet, 0.0) is not None


@require_GET
def printed(request: Request, pk: int) -> HttpResponse:
    """The job's art as a PDF at 1:1: outline and bleed, mirrored, alone or on a sheet."""
    job = get_object_or_404(queries.jobs_in_full().defer(None), pk=pk)
    if job.art is None or is_wrap(job):
        raise Http404("This job has no art to print flat.")
    placed, artwork = placement(job).placed, job.art.artwork
    sheet = SHEETS_MM.get(request.GET.get("sheet", ""))
    if sheet is not None and not _on(placed.page_mm, sheet):
        sheet = None
    mirrored = job.recipe.recipe.method not in PRINTED_AS_READ
    try:
        picture = printed_picture(artwork, placed, mirrored)
    except InputError as error:
        context = _context(request, job) | {"form": ArtForm(units=form_units(request))}
        context["fault"] = str(error)
        return render(request, "prepare/art.html", context, status=422)
    content = art_pdf(picture, placed.page_mm, placed.bleed_mm, sheet)
    return attachment(content, "application/pdf", f"{slugify(job.art.name)}-{job.pk}.pdf")


def _job(pk: int) -> Job:
    return get_object_or_404(queries.jobs_in_full(), pk=pk)
