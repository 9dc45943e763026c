"""Art: added, shown large, taken out of the list."""

from pathlib import PurePath
from typing import Any

from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import size_text
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.printing import actions
from tempermark.web.printing.forms import ArtForm
from tempermark.web.printing.models import Art
from tempermark.web.printing.queries import MOST_SHOWN, offered_art


@require_http_methods(["GET", "POST"])
def arts(request: Request) -> HttpResponse:
    """All art, and adding one."""
    form = ArtForm(request.POST or None, request.FILES or None, units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        art = added(request, form)
        if art is not None:
            return redirect(art)
    text = request.GET.get("find", "").strip()[:80]
    rows = offered_art().filter(name__icontains=text) if text else offered_art()
    context = {"form": form, "arts": rows[:MOST_SHOWN], "find": text}
    return render(request, "printing/arts.html", context, status=422 if form.errors else 200)


def added(request: Request, form: ArtForm) -> Art | None:
    """The art of a form that was sent; None where the form now says what is wrong."""
    if not form.is_valid():
        return None
    data = form.cleaned_data
    file = data["file"]
    name = data["name"].strip() or PurePath(file.name).stem
    try:
        return actions.add_art(
            request.user, file.read(), name, data["page"] or 1, form_key(request)
        )
    except InputError as error:
        form.add_error("file", str(error))
        return None


@require_GET
def art(request: Request, pk: int) -> HttpResponse:
    """One piece of art, large."""
    found = _art(Art.objects.defer("data", "preview"), pk)
    context: dict[str, Any] = {"art": found, "size": own_size(found, request.user.units)}
    return render(request, "printing/art.html", context)


def own_size(art: Art, units: Units) -> str:
    """What it is by itself: pixels, or the size that it says it has."""
    if art.width_px:
        return f"{art.width_px} × {art.height_px} pixels"
    return size_text((art.width_mm, art.height_mm), units)


@require_GET
def preview(request: Request, pk: int) -> HttpResponse:
    """The picture that pages show: always a PNG of our own making."""
    data = Art.objects.filter(pk=pk).values_list("preview", flat=True).first()
    if data is None:
        raise Http404("There is no such art.")
    response = HttpResponse(bytes(data), content_type="image/png")
    response["Cache-Control"] = "private, max-age=86400, immutable"
    return response


@require_POST
def retire(request: Request, pk: int) -> HttpResponse:
    """Out of the list, or back."""
    found = _art(Art.objects.defer("data", "preview"), pk)
    actions.retire_art(request.user, found, request.POST.get("back") != "1")
    return redirect(found)


def _art(rows: QuerySet[Art], pk: int) -> Art:
    return get_object_or_404(rows.select_related("added_by"), pk=pk)
