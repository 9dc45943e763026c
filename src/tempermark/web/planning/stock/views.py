"""The page of blanks: how many are there, how many are taken, what is short."""

from uuid import UUID

from django import forms
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.models import MOST_PIECES
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.records.audit import record
from tempermark.web.planning.models import StockEntry, StockKind
from tempermark.web.planning.queries import jobs_left
from tempermark.web.planning.stock.queries import blanks_of, shortages, stock
from tempermark.web.recipes.models import Blank

MOST_LISTED = 50


class StockForm(forms.Form):
    """Blanks that came in, or were counted."""

    blank = forms.ModelChoiceField(
        queryset=Blank.objects.all(), label="Blank", empty_label="choose"
    )
    kind = forms.ChoiceField(label="What", choices=StockKind.choices)
    pieces = forms.IntegerField(label="Pieces", min_value=0, max_value=MOST_PIECES)
    lot = forms.CharField(label="Lot", max_length=40, required=False)
    note = forms.CharField(label="Note", max_length=200, required=False)


@require_http_methods(["GET", "POST"])
def blank_stock(request: Request) -> HttpResponse:
    """What is there and what the open jobs take of it; what came in is entered here."""
    form = StockForm(request.POST or None, initial={"blank": request.GET.get("blank")})
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            _enter(request.user, form, form_key(request))
            return redirect("planning:stock")
    jobs, left = jobs_left()
    needs = blanks_of(jobs, left)
    taken: dict[int, int] = {}
    for need in needs:
        taken[need.job.blank_id] = taken.get(need.job.blank_id, 0) + need.needed
    there = stock()
    every = StockEntry.objects.select_related("blank", "by")
    entered = page_of(every, request.GET, "at", MOST_LISTED)
    context = {
        "form": form,
        "rows": sorted(
            ((held, taken.get(pk, 0)) for pk, held in there.items()),
            key=lambda row: row[0].blank.name,
        ),
        "unknown": sorted({n.job.blank.name for n in needs if n.job.blank_id not in there}),
        "short": shortages(needs, there),
        "page": entered,
        "entries": entered.rows,
    }
    status = 422 if form.errors else 200
    return render(request, "planning/stock.html", context, status=status)


@transaction.atomic
def _enter(user: User, form: StockForm, key: UUID) -> None:
    fields = form.cleaned_data
    if StockEntry.objects.filter(entry_key=key).exists():
        return
    entry = StockEntry.objects.create(**fields, by=user, entry_key=key)
    record(user, "entered stock", entry)
