"""Plans of the day: asked for, watched, put in force."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.wording import error_text
from tempermark.web.planning import actions
from tempermark.web.planning.forms import PlanForm
from tempermark.web.planning.models import Plan
from tempermark.web.planning.plans.export import as_calendar, as_csv, as_json
from tempermark.web.planning.plans.sheets import as_pdf as job_sheets
from tempermark.web.planning.plans.shown import shown_plan
from tempermark.web.planning.plans.wall import wall as wall_rows
from tempermark.web.planning.queries import jobs_left, plan_in_force
from tempermark.web.planning.stock.queries import blanks_of, shortages, stock
from tempermark.web.presses.models import Press

MOST_LISTED = 20


@require_http_methods(["GET", "POST"])
def plans(request: Request) -> HttpResponse:
    """The plan in force on its day band, and another one asked for."""
    found = plan_in_force()
    usual = {"without": found.given.get("away", []), "objective": found.objective} if found else {}
    form = PlanForm(request.POST or None, initial=usual)
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            try:
                return redirect(_ask(request, form))
            except InputError as error:
                form.add_error(None, error_text(error, form_units(request)))
    jobs, left = jobs_left()
    others = Plan.objects.exclude(pk=found.pk if found else None)
    earlier = page_of(others, request.GET, "created_at", MOST_LISTED)
    context = {
        "form": form,
        "in_force": found,
        "shown": shown_plan(found, request.user.units) if found else None,
        "waiting": len(jobs),
        "shortages": shortages(blanks_of(jobs, left), stock()),
        "page": earlier,
        "earlier": earlier.rows,
    }
    status = 422 if form.errors else 200
    return render(request, "planning/plans.html", context, status=status)


@require_POST
def again(request: Request) -> HttpResponse:
    """The day planned again from now in one tap: for the same end, without the presses that are
    away already, without the one that is said to be down, with the one that is up again.
    """
    must_work(request.user)
    found = plan_in_force()
    if found is None:
        return redirect("planning:plans")
    away = set(found.given.get("away", []))
    down, up = request.POST.get("down", ""), request.POST.get("up", "")
    away |= set(Press.objects.filter(slug=down).values_list("pk", flat=True))
    away -= set(Press.objects.filter(slug=up).values_list("pk", flat=True))
    now = timezone.now().replace(second=0, microsecond=0)
    with refusal_shown(request):
        key = form_key(request)
        return redirect(
            actions.ask_for_plan(request.user, found.objective, now, key, sorted(away), found)
        )
    return redirect("planning:plans")


def _ask(request: Request, form: PlanForm) -> Plan:
    data = form.cleaned_data
    begins = (data["begins_at"] or timezone.now()).replace(second=0, microsecond=0)
    without = [press.pk for press in data["without"]]
    return actions.ask_for_plan(
        request.user, data["objective"], begins, form_key(request), without, plan_in_force()
    )


@require_GET
def plan(request: Request, pk: int) -> HttpResponse:
    """A plan, or how far its search is."""
    return render(request, "planning/plan.html", _context(request, pk))


@require_GET
def progress(request: Request, pk: int) -> HttpResponse:
    """The part of a plan's page that changes while it is searched."""
    return render(request, "planning/_plan.html", _context(request, pk))


def _context(request: Request, pk: int) -> dict[str, Any]:
    found = get_object_or_404(Plan.objects.select_related("created_by"), pk=pk)
    return {"plan": found, "shown": shown_plan(found, request.user.units)}


@require_GET
def export(request: Request, pk: int, kind: str) -> HttpResponse:
    """A plan as a file."""
    found = get_object_or_404(Plan, pk=pk)
    name = f"plan-{timezone.localtime(found.begins_at):%Y-%m-%d-%H%M}.{kind}"
    if kind == "csv":
        return attachment(as_csv(found), "text/csv", name)
    if kind == "json":
        return attachment(as_json(found), "application/json", name)
    if kind == "pdf":
        shown = shown_plan(found, request.user.units)
        body = job_sheets(found, shown, request.user.units, request.build_absolute_uri)
        return attachment(body, "application/pdf", name.replace("plan-", "job-sheets-"))
    if kind == "ics":
        return attachment(as_calendar(found, timezone.now()), "text/calendar", name)
    raise Http404("There is no such file.")


@require_GET
def wall(request: Request) -> HttpResponse:
    """What each press does now and next, for all to see; it renews itself."""
    found, now = plan_in_force(), timezone.localtime()
    context: dict[str, Any] = {"plan": found, "at": now, "rows": []}
    if found is not None:
        shown = shown_plan(found, request.user.units)
        context |= {"rows": wall_rows(shown), "shown": shown}
    template = "planning/_wall.html" if request.htmx else "planning/wall.html"
    return render(request, template, context)


@require_GET
def next_here(request: Request, slug: str) -> HttpResponse:
    """What the plan in force has for a press, for the page at its bench; empty without a plan."""
    found, rows = plan_in_force(), []
    if found is not None:
        shown = shown_plan(found, request.user.units)
        rows = next((rows for press, _, rows in shown.presses if press == slug), [])
    return render(request, "planning/_next.html", {"rows": rows})


@require_POST
def enough(request: Request, pk: int) -> HttpResponse:
    """The best so far is enough."""
    found = get_object_or_404(Plan, pk=pk)
    actions.end_search(request.user, found)
    return redirect(found)


@require_POST
def search_again(request: Request, pk: int) -> HttpResponse:
    """A search that nobody goes on with is begun anew."""
    found = get_object_or_404(Plan, pk=pk)
    actions.search_again(request.user, found)
    return redirect(found)


@require_POST
def in_force(request: Request, pk: int) -> HttpResponse:
    """The room works by this plan."""
    found = get_object_or_404(Plan, pk=pk)
    with refusal_shown(request):
        actions.put_in_force(request.user, found)
        return redirect("planning:plans")
    return redirect(found)
