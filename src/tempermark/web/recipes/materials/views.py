"""The library: materials and kinds of blank, shipped values and the shop's own above them."""

import json
from dataclasses import asdict
from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.thermal.library.materials import GROUPS, LIMITS, materials
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.fields import LengthField, NumberField, TemperatureField, choice_field
from tempermark.web.kit.forms.units import form_units
from tempermark.web.recipes.cards import actions
from tempermark.web.recipes.materials.library import (
    OWN_FIELDS,
    VALUES,
    newest_own,
    provenance,
    shop_materials,
)
from tempermark.web.recipes.models import OwnMaterial

FORMAT = "tempermark.library/1"


class MaterialForm(EditForm):
    """A shop's own values; what is left empty is as shipped."""

    label = forms.CharField(label="Name", max_length=60, required=False)
    group = forms.ChoiceField(
        label="For", required=False, choices=[("", "as shipped"), *GROUPS.items()]
    )
    conductivity_w_mk = NumberField(
        label="Conductivity", required=False, min_value=0.005, max_value=1000, suffix="W/mK"
    )
    density_kg_m3 = NumberField(
        label="Density, dry", required=False, min_value=5, max_value=25_000, suffix="kg/m³"
    )
    specific_heat_j_kgk = NumberField(
        label="Specific heat, dry", required=False, min_value=100, max_value=10_000, suffix="J/kgK"
    )
    thickness_mm = LengthField(label="Usual thickness", required=False, low=0.005, high=100)
    regain = NumberField(
        label="Water at 65 % humidity",
        required=False,
        min_value=0,
        max_value=1,
        suffix="kg/kg",
        help_text="per kg dry",
    )
    scorch_c = TemperatureField(
        label="Yellows or glazes at", required=False, low=80, high=400, help_text="in a minute"
    )
    softens_c = TemperatureField(
        label="Softens at", required=False, low=30, high=400, help_text="under load"
    )
    flows_c = TemperatureField(
        label="Adhesive flows from", required=False, low=50, high=250, help_text="at the interface"
    )
    most_c = TemperatureField(label="Never hotter than", required=False, low=50, high=400)
    source = forms.CharField(
        label="Where the values come from",
        max_length=300,
        help_text="leaflet, measured with what, when",
    )

    def __init__(self, *args: Any, is_new: bool, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.is_new = is_new
        if is_new:
            choice_field(self, "group").choices = [("", "choose"), *GROUPS.items()]
            for name in ("label", "group", *VALUES):
                self.fields[name].required = True

    def clean(self) -> dict[str, Any]:
        """Own values are at least one."""
        super().clean()
        data = self.cleaned_data
        if not self.errors and all(data.get(name) in (None, "") for name in OWN_FIELDS):
            self.add_error("source", "Fill in at least one value.")
        return data

    def show_shipped(self, held: dict[str, Any]) -> None:
        """The shipped value behind each empty field."""
        for name, value in held.items():
            if value.shipped is not None and not self.is_new:
                field: Any = self.fields[name]
                shown = field.prepare_value(float(value.shipped))
                field.help_text = f"shipped: {shown} {field.suffix}"


@require_GET
def library(request: Request) -> HttpResponse:
    """Every material by what it is for, and every kind of blank."""
    query = request.GET.get("q", "").strip()[:60].lower()
    own = newest_own()
    found = [m for m in shop_materials().values() if query in m.label.lower()]
    groups = [(label, [m for m in found if m.group == g]) for g, label in GROUPS.items()]
    context = {
        "groups": [(label, rows) for label, rows in groups if rows],
        "own": own,
        "query": query,
        "kinds": [k for k in blank_types().values() if query in k.label.lower()],
        "materials": shop_materials(),
    }
    return render(request, "recipes/library.html", context)


@require_http_methods(["GET", "POST"])
def material(request: Request, code: str | None = None) -> HttpResponse:
    """One material: its values with their sources, and the shop's own above them."""
    known = shop_materials().get(code) if code else None
    if code and known is None:
        raise Http404("The library has no such material.")
    own = newest_own().get(code) if code else None
    initial = {name: getattr(own, name) for name in (*OWN_FIELDS, "source")} if own else {}
    form = MaterialForm(
        request.POST or None,
        initial=initial,
        units=form_units(request),
        is_new=code is None or code not in materials(),
        record=own,
    )
    held = provenance(code) if code else {}
    form.show_shipped(held)
    if request.method == "POST":
        must_lead(request.user)
        if form.is_valid():
            kept = _keep(request, code, form)
            if kept is not None:
                messages.success(
                    request, f"The shop’s own values of {kept.label or known.label} are kept."
                )
                return redirect("recipes:material", kept.code)
    context = {
        "code": code,
        "material": known,
        "own": own,
        "form": form,
        "held": [(form.fields[name], name, value) for name, value in held.items()],
        "history": OwnMaterial.objects.filter(code=code).select_related("by") if code else [],
        "limits": LIMITS,
    }
    return render(request, "recipes/material.html", context, status=422 if form.errors else 200)


def _keep(request: Request, code: str | None, form: MaterialForm) -> OwnMaterial | None:
    data = form.cleaned_data
    result = code or slugify(data["label"]).replace("-", "_")[:40]
    if code is None and (not result or result in shop_materials()):
        form.add_error("label", f"There is a material named {data['label']} already.")
        return None
    return actions.keep_material(request.user, result, data)


@require_POST
def withdraw(request: Request, code: str) -> HttpResponse:
    """Take the newest own values back."""
    row = newest_own().get(code)
    if row is None:
        raise Http404("There are no own values of this material.")
    actions.withdraw_material(request.user, row)
    messages.success(request, "Undone: the earlier values are back.")
    if code in shop_materials():
        return redirect("recipes:material", code)
    return redirect("recipes:library")


@require_GET
def library_file(request: Request) -> HttpResponse:
    """All materials and kinds of blank that hold here, each value's source beside it."""
    own = newest_own()
    rows = [
        {
            **{name: getattr(m, name) for name in ("name", *OWN_FIELDS)},
            "source": m.source,
            "limit_source": m.limit_source,
            "own": m.name in own and own[m.name].source,
        }
        for m in shop_materials().values()
    ]
    document = {
        "format": FORMAT,
        "materials": rows,
        "blank_kinds": [asdict(kind) for kind in blank_types().values()],
    }
    text = json.dumps(document, ensure_ascii=False)
    return attachment(text, "application/json", "tempermark-library.json")
