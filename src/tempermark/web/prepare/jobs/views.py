"""Jobs: begun from a recipe, ticked line by line, taken on to the press."""

from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.recipe.presses import on_chosen_press
from tempermark.web.jobs import actions, queries
from tempermark.web.jobs.models import Job
from tempermark.web.kit.addresses import back_address
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.prepare.jobs import lines
from tempermark.web.prepare.jobs.comparing import job_differences
from tempermark.web.prepare.jobs.forms import JobForm
from tempermark.web.presses.models import Element
from tempermark.web.printing.models import PrintSettingsVersion
from tempermark.web.printing.queries import current_settings
from tempermark.web.recipes.blanks.art_size import art_size_mm
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.models import RecipeVersion

USUAL_ART_MM = (200.0, 240.0)
# So many of the newest jobs are offered for comparing.
MOST_COMPARED = 200


@require_GET
def jobs(request: Request) -> HttpResponse:
    """Jobs that are not finished with; further down the last ones that are."""
    closed = Job.objects.exclude(closed_at=None).select_related("recipe__recipe", "blank", "press")
    context = {"jobs": queries.open_jobs()[:50], "closed": closed[:20]}
    return render(request, "prepare/list.html", context)


@require_http_methods(["GET", "POST"])
def new_job(request: Request, slug: str) -> HttpResponse:
    """Prepare a piece of a recipe: which blank, how many, what art, on which press."""
    must_work(request.user)
    chosen = on_chosen_press(slug, request.POST.get("press") or request.GET.get("press"))
    version, offered, element = chosen.version, chosen.offered, chosen.element
    form = JobForm(
        request.POST or None,
        initial=initial_job(version, element),
        units=form_units(request),
        version=version,
        element=element,
    )
    if request.method == "POST" and form.is_valid():
        fields = form.fields_of_job() | {"recipe": version, "press": element.press}
        return redirect(actions.begin(request.user, fields, form_key(request)))
    context = {
        "form": form,
        "version": version,
        "element": element,
        "offered": offered,
        "ask_blank": not suitable(version),
        "back": f"{request.path}?press={element.press.slug}",
    }
    return render(request, "prepare/new.html", context, status=422 if form.errors else 200)


def initial_job(version: RecipeVersion, element: Element) -> dict[str, Any]:
    """What a new job of a recipe on an element begins with."""
    own = suitable(version)
    size = (art_size_mm(own[0], element) if own else None) or USUAL_ART_MM
    return {
        "blank": own[0] if own else None,
        "quantity": 1,
        "art_width_mm": size[0],
        "art_height_mm": size[1],
    }


@require_GET
def job(request: Request, pk: int) -> HttpResponse:
    """A job's preparation list."""
    found = _job(pk)
    before = lines.lines_before(found, request.user.units)
    return render(request, "prepare/job.html", _context(request, found, before))


@require_POST
def tick(request: Request, pk: int, line: str) -> HttpResponse:
    """A line is done, or not after all."""
    found = _job(pk)
    before = lines.lines_before(found, request.user.units)
    if line not in {row.code for row in before}:
        raise Http404("There is no such line.")
    with refusal_shown(request):
        actions.tick(request.user, found, line, request.POST.get("done") == "1")
    if request.htmx:
        return render(request, "prepare/_lines.html", _context(request, found, before))
    return redirect(back_address(request, found.get_absolute_url()))


@require_POST
def print_settings(request: Request, pk: int) -> HttpResponse:
    """How the job is printed: a version of some print settings, or not recorded."""
    found = _job(pk)
    key = row_key(request.POST.get("version", ""))
    version = PrintSettingsVersion.objects.filter(pk=key).first() if key else None
    with refusal_shown(request):
        actions.choose_print_settings(request.user, found, version)
    return redirect(found)


@require_GET
def compare(request: Request) -> HttpResponse:
    """Two jobs side by side: what differs, the print first."""
    keys = [row_key(request.GET.get(name, "")) for name in ("first", "second")]
    rows = queries.jobs_in_full()
    chosen = [rows.filter(pk=key).first() if key else None for key in keys]
    context: dict[str, Any] = {"jobs": rows[:MOST_COMPARED], "chosen": chosen}
    if all(chosen):
        context["pair"] = chosen
        context["found"] = job_differences(chosen[0], chosen[1], request.user.units)
    return render(request, "prepare/compare.html", context)


@require_POST
def close(request: Request, pk: int) -> HttpResponse:
    """Finished with, or taken up again."""
    found = _job(pk)
    closed = request.POST.get("closed") == "1"
    actions.close(request.user, found, closed)
    if closed:
        messages.success(request, "The job is closed; its ticks and pieces stay on record.")
        return redirect("prepare:jobs")
    return redirect(found)


def _job(pk: int) -> Job:
    return get_object_or_404(queries.jobs_in_full(), pk=pk)


def _context(request: Request, found: Job, before: list[lines.JobLine]) -> dict[str, Any]:
    done = queries.ticked(found)
    left = [row for row in before if row.code not in done]
    return {
        "job": found,
        "press": found.press,
        "before": [{"line": row, "done": row.code in done} for row in before],
        "after": lines.lines_after(found, request.user.units),
        "left": left,
        "next": left[0] if left else None,
        "ready": len(before) - len(left),
        "press_address": _press_address(found, before, done),
        "print_choices": _print_choices(found),
    }


def _print_choices(found: Job) -> list[PrintSettingsVersion]:
    """The current versions, and the job's own where that is an older one."""
    choices = list(current_settings())
    own = found.print_settings
    return choices if own is None or own in choices else [own, *choices]


def _press_address(found: Job, before: list[lines.JobLine], done: set[str]) -> str:
    """The log of the press with what is known of the piece already in it: ticks are facts."""
    facts = [row.fact for row in before if row.fact and row.code in done]
    query: list[tuple[str, Any]] = [("recipe", found.recipe.pk), ("job", found.pk)]
    query += [("fact", fact) for fact in facts]
    return f"{reverse('run:new', args=[found.press.slug])}?{urlencode(query)}"
