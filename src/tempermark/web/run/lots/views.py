"""The page of lots and marked sheets."""

from typing import Any
from urllib.parse import urlencode

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.drawing.codes import code_response
from tempermark.web.kit.forms.editing import EditForm
from tempermark.web.kit.forms.moments import DayField
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.run.lots import lots
from tempermark.web.run.models import REUSED_MATERIALS, Lot, LotKind

DATE = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")


class LotForm(EditForm):
    """One lot; a known name is brought up to date."""

    kind = forms.ChoiceField(label="What", choices=LotKind.choices)
    code = forms.CharField(label="Name written on it", max_length=40)
    since = DayField(label="Received, mixed or first used", widget=DATE)
    keeps_months = forms.IntegerField(
        label="Keeps, months",
        required=False,
        min_value=1,
        max_value=240,
        help_text="as its label says; empty: not said",
    )
    material = forms.ChoiceField(
        label="Of",
        choices=[("", "not a reused sheet"), *REUSED_MATERIALS],
        required=False,
        help_text="of what is used again",
    )
    note = forms.CharField(label="Note", required=False, max_length=300)


@require_http_methods(["GET", "POST"])
def overview(request: Request) -> HttpResponse:
    """Every lot with its age and how its pieces came out, and a form for one more."""
    record = _named(request)
    form = LotForm(request.POST or None, initial=_initial(request, record), record=record)
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            lot = lots.describe(request.user, form.cleaned_data)
            messages.success(request, f"{lot}: {lots.state_words(lot, timezone.localdate())}.")
            return redirect("run:lots")
    rows = lots.overview()
    context = {"rows": rows, "past": [r for r in rows if r.is_past and not r.lot.retired_on]}
    status = 422 if form.errors else 200
    return render(request, "run/lots.html", {**context, "form": form}, status=status)


def _requested(request: Request) -> tuple[str, str]:
    """Kind and name of the lot in the form or the link; empty where none is meant."""
    query = request.POST if request.method == "POST" else request.GET
    kind, code = query.get("kind", ""), query.get("code", "").strip()[:40]
    return (kind, code) if kind in LotKind.values and code else ("", "")


def _named(request: Request) -> Lot | None:
    """The lot to change."""
    kind, code = _requested(request)
    return Lot.objects.filter(kind=kind, code=code).first()


def _initial(request: Request, record: Lot | None) -> dict[str, Any]:
    """The lot as it is, or a name on a piece that nobody described."""
    if record is not None:
        return {name: getattr(record, name) for name in LotForm.base_fields}
    kind, code = _requested(request)
    return {"since": timezone.localdate(), **({"kind": kind, "code": code} if code else {})}


@require_POST
def retire(request: Request, pk: int) -> HttpResponse:
    """Out of use, or back."""
    retired = request.POST.get("back") != "1"
    lots.retire(request.user, get_object_or_404(Lot, pk=pk), retired)
    return redirect("run:lots")


@require_POST
def wear(request: Request, pk: int) -> HttpResponse:
    """A use, ink or browning, by one tap."""
    with refusal_shown(request):
        lots.wear_on(request.user, get_object_or_404(Lot, pk=pk), request.POST.get("wear", ""))
    return redirect("run:lots")


@require_GET
def label(request: Request, pk: int) -> HttpResponse:
    """The label of a bottle, a roll or a sheet, to print and stick on."""
    return render(request, "run/lot_label.html", {"lot": get_object_or_404(Lot, pk=pk)})


@require_GET
def label_code(request: Request, pk: int) -> HttpResponse:
    """The label's QR code: it opens the lot."""
    lot = get_object_or_404(Lot, pk=pk)
    query = urlencode({"kind": lot.kind, "code": lot.code})
    return code_response(request.build_absolute_uri(f"{reverse('run:lots')}?{query}"))
