"""Blanks to add and change."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from tempermark.core.errors import InputError
from tempermark.core.recipes.blank_types import BlankType, blank_types
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.addresses import back_address
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text
from tempermark.web.pressure.actions import add_usual_raised
from tempermark.web.recipes.blanks.choice import COPIED
from tempermark.web.recipes.blanks.forms import BlankForm
from tempermark.web.recipes.cards import actions
from tempermark.web.recipes.materials.library import INHERITED
from tempermark.web.recipes.models import Blank


@require_http_methods(["GET", "POST"])
def blank(request: Request, pk: int | None = None) -> HttpResponse:
    """Add a blank, or change one."""
    must_work(request.user)
    record = for_change(request, Blank.objects, pk=pk) if pk else None
    like = request.POST.get("like") or request.GET.get("like") or (record.like if record else "")
    kind = blank_types().get(like)
    form = BlankForm(
        request.POST or None,
        initial=_initial(record, kind),
        units=form_units(request),
        record=record,
    )
    form.show_inherited(kind)
    if request.method == "POST" and form.is_valid():
        try:
            kept = actions.keep_blank(request.user, form.cleaned_data, record)
        except InputError as error:
            form.add_error("name", error_text(error, form_units(request)))
        else:
            drawn = add_usual_raised(request.user, kept) if record is None else 0
            parts = (
                f" Its {drawn} raised parts are drawn at their usual places: check them."
                if drawn
                else ""
            )
            messages.success(request, f"{kept.name} is saved.{parts}")
            return redirect(back_address(request, reverse("pressure:pieces")))
    context = {"form": form, "blank": record, "kind": kind, "inherited": INHERITED}
    context["back"] = back_address(request, "")
    return render(request, "pressure/blank.html", context, status=422 if form.errors else 200)


def _initial(record: Blank | None, kind: BlankType | None) -> dict[str, Any]:
    if record is not None:
        return {name: getattr(record, name) for name in BlankForm.base_fields}
    if kind is None:
        return {"kind": "garment"}
    return {name: getattr(kind, name) for name in COPIED} | {"like": kind.code}
