"""Pages of the register: add and change a press, exchange an element, labels."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.units import to_si
from tempermark.web.accounts.models import TemperatureUnit, User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.addresses import opens_only_here
from tempermark.web.kit.drawing.codes import code_response
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.fields import row_field
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.wording import error_text
from tempermark.web.presses import register
from tempermark.web.presses.forms import (
    AddressForm,
    ElementForm,
    EventForm,
    FirstElementForm,
    PressForm,
)
from tempermark.web.presses.models import Element, Press

PRESS_FIELDS = tuple(PressForm.base_fields)


@require_http_methods(["GET", "POST"])
def new_press(request: Request) -> HttpResponse:
    """Add a press with the element in it."""
    must_lead(request.user)
    units = form_units(request)
    form = PressForm(request.POST or None, initial=_defaults(request.user), units=units)
    element = FirstElementForm(request.POST or None, units=units)
    if request.method == "POST" and form.is_valid() and element.is_valid():
        fields = form.cleaned_data
        try:
            press = register.add_press(request.user, fields, element.of_kind(fields["kind"]))
        except InputError as error:
            form.add_error("name", error_text(error, form_units(request)))
        else:
            return redirect(press)
    context = {"form": form, "element_form": element}
    wrong = form.errors or element.errors
    return render(request, "presses/register.html", context, status=422 if wrong else 200)


def _defaults(user: User) -> dict[str, Any]:
    named = ("place", "target_c", "tolerance_c", "survey_every_days", "resolution_c")
    usual = {name: row_field(Press, name).default for name in named}
    if user.temperature_unit == TemperatureUnit.FAHRENHEIT:
        # Its controller counts in °F: a step is one of those.
        usual["resolution_c"] = to_si(1, "difference", "f")
    return usual | {
        "display_unit": user.temperature_unit,
        "kind": "swing_away",
    }


@require_http_methods(["GET", "POST"])
def change_press(request: Request, slug: str) -> HttpResponse:
    """Change a press's properties."""
    must_lead(request.user)
    press = for_change(request, Press.objects, slug=slug)
    initial = {name: getattr(press, name) for name in PRESS_FIELDS}
    form = PressForm(request.POST or None, initial=initial, units=form_units(request), record=press)
    if request.method == "POST" and form.is_valid():
        try:
            register.change_press(request.user, press, form.cleaned_data)
        except InputError as error:
            form.add_error("name", error_text(error, form_units(request)))
            press.refresh_from_db()
        else:
            messages.success(request, f"{press.name} is changed.")
            return redirect(press)
    context = {"form": form, "press": press}
    return render(request, "presses/register.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def elements(request: Request, slug: str) -> HttpResponse:
    """The elements of a press: what is in, what is in store, and the exchange."""
    press = get_object_or_404(Press, slug=slug)
    form = ElementForm(
        request.POST or None, initial={"role": "upper", "shape": "flat"}, units=form_units(request)
    )
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            fitted = register.fit_element(request.user, press, None, form.cleaned_data)
            return _fitted(request, press, fitted)
    return _elements_page(request, press, form)


def _elements_page(
    request: Request, press: Press, form: ElementForm, status: Any = None
) -> HttpResponse:
    ordered = press.elements.order_by("taken_out_on", "pk")
    context = {
        "press": press,
        "fitted": [e for e in ordered if e.taken_out_on is None],
        "stored": [e for e in ordered if e.taken_out_on is not None],
        "events": press.events.select_related("by")[:20],
        "form": form,
        "event_form": EventForm(leads=request.user.may_lead),
    }
    status = status or (422 if form.errors else 200)
    return render(request, "presses/elements.html", context, status=status)


@require_POST
def refit(request: Request, slug: str) -> HttpResponse:
    """A stored element goes back in."""
    press = get_object_or_404(Press, slug=slug)
    text = request.POST.get("element", "")
    stored = get_object_or_404(Element, pk=row_key(text), press=press)
    with refusal_shown(request):
        fitted = register.fit_element(request.user, press, stored, {})
        return _fitted(request, press, fitted)
    return redirect("presses:elements", press.slug)


def _fitted(request: Request, press: Press, fitted: Element) -> HttpResponse:
    messages.success(
        request,
        f"{fitted.name} is in {press.name}. Its old map no longer counts: survey it first.",
    )
    return redirect(press)


@require_POST
def event(request: Request, slug: str) -> HttpResponse:
    """Note a repair, a changed pad, a move."""
    press = get_object_or_404(Press, slug=slug)
    form = EventForm(request.POST)
    if not form.is_valid():
        must_work(request.user)
        messages.error(request, "Choose what was done.")
        return redirect("presses:elements", press.slug)
    data = form.cleaned_data
    register.record_event(request.user, press, data["kind"], data["note"])
    messages.success(
        request, f"Recorded. The map of {press.name} no longer counts: survey it again."
    )
    return redirect(press)


@require_GET
def labels(request: Request) -> HttpResponse:
    """A sheet of labels to print: each opens its press's page."""
    form = AddressForm(request.GET if "base" in request.GET else None)
    here = request.build_absolute_uri("/").rstrip("/")
    base = form.cleaned_data["base"].rstrip("/") if form.is_valid() else here
    context = {
        "presses": Press.objects.all(),
        "form": form,
        "base": base,
        "only_here": opens_only_here(base),
    }
    return render(request, "presses/labels.html", context, status=422 if form.errors else 200)


@require_GET
def label_code(request: Request, slug: str) -> HttpResponse:
    """The label's QR code as SVG."""
    press = get_object_or_404(Press, slug=slug)
    form = AddressForm(request.GET)
    base = form.cleaned_data["base"].rstrip("/") if form.is_valid() else ""
    path = press.get_absolute_url()
    address = f"{base}{path}" if base else request.build_absolute_uri(path)
    return code_response(address)
