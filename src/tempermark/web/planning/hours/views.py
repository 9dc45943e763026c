"""The page of hours, and of how the shop plans."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.planning.hours import actions
from tempermark.web.planning.hours.forms import HoursForm, RulesForm
from tempermark.web.planning.hours.queries import rules
from tempermark.web.planning.models import WorkHours


@require_http_methods(["GET", "POST"])
def hours(request: Request) -> HttpResponse:
    """Who tends presses when; more hours are added here."""
    form = HoursForm(request.POST or None)
    if request.method == "POST":
        must_lead(request.user)
        if form.is_valid():
            actions.add_hours(request.user, form.cleaned_data, form_key(request))
            return redirect("planning:hours")
    context = {
        "form": form,
        "rows": WorkHours.objects.select_related("person"),
        "rules_form": RulesForm(initial={"overdue": rules().overdue}),
        "rules": rules(),
    }
    status = 422 if form.errors else 200
    return render(request, "planning/hours.html", context, status=status)


@require_POST
def remove_hours(request: Request, pk: int) -> HttpResponse:
    """These hours are no more."""
    actions.remove_hours(request.user, get_object_or_404(WorkHours, pk=pk))
    return redirect("planning:hours")


@require_POST
def change_rules(request: Request) -> HttpResponse:
    """What is done with presses that are overdue."""
    form = RulesForm(request.POST)
    must_lead(request.user)
    if form.is_valid():
        actions.change_rules(request.user, form.cleaned_data["overdue"])
    return redirect("planning:hours")
