"""What a piece of a job costs, what a spoiled one costs, and what the shop keeps."""

from decimal import Decimal
from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from tempermark.core.preparing.costs.piece_cost import CostLine, PieceCost
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs import actions, queries
from tempermark.web.jobs.models import Job
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.prepare.jobs.costs import minutes_of, piece_cost
from tempermark.web.supplies.queries import currency, money_text


class ChargeForm(forms.Form):
    """What is charged for a piece, and how long it takes."""

    charge = forms.DecimalField(
        label="Charged for one piece",
        min_value=0,
        max_value=Decimal(1_000_000),
        max_digits=10,
        decimal_places=2,
        required=False,
    )
    minutes = forms.FloatField(
        label="Work on one piece, min",
        min_value=0,
        max_value=1440,
        required=False,
        help_text="empty: dwell and handling",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)


@require_http_methods(["GET", "POST"])
def cost(request: Request, pk: int) -> HttpResponse:
    """The cost of a job, line by line."""
    job = get_object_or_404(queries.jobs_in_full(), pk=pk)
    form = ChargeForm(
        request.POST if request.method == "POST" else None,
        initial={"charge": job.charge, "minutes": job.minutes},
    )
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            data = form.cleaned_data
            with refusal_shown(request):
                actions.set_charge(request.user, job, data["charge"], data["minutes"])
            return redirect("prepare:cost", job.pk)
    found, sign = piece_cost(job), currency()
    context = {
        "job": job,
        "form": form,
        "found": found,
        "headline": _headline(found, sign),
        "total": money_text(found.total, sign),
        "spoiled": money_text(found.spoiled, sign),
        "whole": money_text(found.total * job.quantity, sign),
        "rows": [_row(line, job, sign) for line in found.lines],
        "keeps": None if found.keeps is None else money_text(found.keeps, sign),
        "loses": found.keeps is not None and found.keeps < 0,
        "minutes": f"{minutes_of(job):.1f}",
    }
    status = 422 if form.errors else 200
    return render(request, "prepare/cost.html", context, status=status)


def _headline(found: PieceCost, sign: str) -> str:
    """The cost of a good and of a spoiled piece, and what is kept."""
    one = money_text(found.total, sign)
    known = "at least " if found.missing else ""
    if found.keeps is None:
        return f"One piece costs {known}{one}; a spoiled one as much again."
    if found.keeps < 0:
        return (
            f"One piece costs {known}{one}: {money_text(-found.keeps, sign)} more than it brings."
        )
    share = f"{found.share or 0:.0%}".replace("%", "\u00a0%")
    return f"One piece costs {known}{one}; the shop keeps {money_text(found.keeps, sign)}, {share}."


def _row(line: CostLine, job: Job, sign: str) -> dict[str, Any]:
    return {
        "name": line.name.capitalize(),
        "one": _amount(line, 1),
        "all": _amount(line, job.quantity),
        "cost": None if line.cost is None else money_text(line.cost, sign),
    }


def _amount(line: CostLine, pieces: int) -> str:
    """An amount with as many digits as it needs: 3 digits that count."""
    value = line.amount * pieces
    return (
        f"{value:.3g}\u00a0{line.unit}".strip() if value < 1000 else f"{value:.0f}\u00a0{line.unit}"
    )
