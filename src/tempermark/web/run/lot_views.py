"""The page of lots and marked sheets."""

from django import forms
from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.moments import DayField
from tempermark.web.run import lots
from tempermark.web.run.models import Lot, LotKind

DATE = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")


class LotForm(forms.Form):
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
    note = forms.CharField(label="Note", required=False, max_length=300)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, label_suffix="", **kwargs)


@require_http_methods(["GET", "POST"])
def overview(request):
    """Every lot with its age and how its pieces came out, and a form for one more."""
    initial = {"since": timezone.localdate(), **_asked(request)}
    form = LotForm(request.POST or None, initial=initial)
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


def _asked(request) -> dict:
    """A lot named in the link: one to change, or a name on a piece that nobody described."""
    kind, code = request.GET.get("kind", ""), request.GET.get("code", "")[:40]
    if kind not in LotKind.values or not code:
        return {}
    known = Lot.objects.filter(kind=kind, code=code).values(*LotForm.base_fields).first()
    return known or {"kind": kind, "code": code}


@require_POST
def retire(request, pk):
    """Out of use, or back."""
    lots.retire(request.user, get_object_or_404(Lot, pk=pk))
    return redirect("run:lots")
