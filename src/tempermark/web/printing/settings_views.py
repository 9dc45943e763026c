"""Print settings: the list, one with its versions, a new version."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.units import form_units
from tempermark.web.printing import actions, queries
from tempermark.web.printing.forms import USUAL_DRYING_S, PrintSettingsForm, settings_values
from tempermark.web.printing.models import PrintSettings

USUAL = {"side": "the brighter one", "quality": "high", "dries_s": USUAL_DRYING_S}


@require_GET
def all_settings(request: Request) -> HttpResponse:
    """Every printer's settings as they are today; further down those no longer used."""
    retired = PrintSettings.objects.exclude(retired_at=None)
    context = {"rows": queries.current_settings(), "retired": retired}
    return render(request, "printing/settings.html", context)


@require_GET
def one(request: Request, pk: int) -> HttpResponse:
    """Print settings, and what each version changed."""
    settings = get_object_or_404(PrintSettings, pk=pk)
    versions = list(queries.versions_of(settings))
    changes = [
        (version, queries.differences(before, version))
        for version, before in zip(versions, [*versions[1:], None], strict=True)
    ]
    context = {"settings": settings, "now": versions[0], "changes": changes}
    return render(request, "printing/settings_one.html", context)


@require_http_methods(["GET", "POST"])
def edit(request: Request, pk: int | None = None) -> HttpResponse:
    """New print settings, or the next version of some."""
    must_work(request.user)
    held = for_change(request, PrintSettings.objects.all(), pk=pk) if pk else None
    latest = queries.versions_of(held).first() if held else None
    form = PrintSettingsForm(
        request.POST or None,
        initial=settings_values(latest) if latest else USUAL,
        record=latest,
        units=form_units(request),
    )
    if request.method == "POST" and form.is_valid():
        try:
            return redirect(actions.save_settings(request.user, form.cleaned_data, held))
        except InputError as error:
            form.add_error("printer", str(error))
    context = {"form": form, "settings": held}
    status = 422 if form.errors else 200
    return render(request, "printing/settings_edit.html", context, status=status)


@require_POST
def retire(request: Request, pk: int) -> HttpResponse:
    """Out of the list, or back."""
    settings = get_object_or_404(PrintSettings, pk=pk)
    actions.retire_settings(request.user, settings, request.POST.get("back") != "1")
    return redirect(settings)
