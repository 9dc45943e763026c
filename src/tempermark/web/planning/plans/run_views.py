"""A run of a plan: why it is where it is, and another place for it."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from tempermark.core.errors import InputError
from tempermark.core.planning.reasons import OtherPlace, WhyHere, why_here
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.models import Job
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text
from tempermark.web.planning import actions
from tempermark.web.planning.day import hands_given, job_of, jobs_given, presses_given
from tempermark.web.planning.found import plan_found
from tempermark.web.planning.models import Plan
from tempermark.web.planning.plans.wishes import Wish
from tempermark.web.presses.models import Press


@require_http_methods(["GET", "POST"])
def planned_run(request: Request, pk: int, stage: str) -> HttpResponse:
    """Why a run is where it is; moved to another place it is planned anew."""
    plan = get_object_or_404(Plan, pk=pk)
    runs = {run["job"]: run for run in plan.found.get("runs", [])} if plan.is_done else {}
    if stage not in runs:
        raise Http404("This plan has no such run.")
    problem = ""
    if request.method == "POST":
        must_work(request.user)
        press, _, behind = request.POST.get("place", "").partition(" ")
        try:
            wish = Wish(stage, press, behind)
            return redirect(actions.move_run(request.user, plan, wish, form_key(request)))
        except InputError as error:
            problem = error_text(error, form_units(request))
    context = _context(plan, stage) | {"problem": problem}
    return render(request, "planning/run.html", context, status=422 if problem else 200)


def _context(plan: Plan, stage: str) -> dict[str, Any]:
    found, jobs = plan_found(plan.found), jobs_given(plan.given, with_wishes=False)
    presses = presses_given(plan.given)
    names = dict(Press.objects.values_list("slug", "name"))
    rows = Job.objects.filter(pk__in={job_of(job.name) for job in jobs})
    said = {job.pk: str(job) for job in rows.select_related("recipe__recipe", "blank")}
    run = next(run for run in found.runs if run.job == stage)
    why = why_here(found, presses, jobs, stage, plan.objective, hands_given(plan.given))
    return {
        "plan": plan,
        "run": run,
        "name": said.get(job_of(stage), ""),
        "press": names.get(run.press, run.press),
        "begins_at": plan.begins_at_local(run.start_min),
        "reasons": _reasons(why, names.get(run.press, run.press), said, names),
        "places": _places(plan, stage, names, said, why),
    }


def _reasons(why: WhyHere, press: str, said: dict[int, str], names: dict[str, str]) -> list[str]:
    found = []
    if why.is_only_press:
        found.append(f"Only {press} takes it.")
    if why.waits_for:
        found.append(f"It waits for {said.get(job_of(why.waits_for), 'the step before')}.")
    if why.change_min >= 0.5:
        found.append(f"{press} needs {why.change_min:.0f} min to change for it.")
    else:
        found.append(f"{press} needs no change for it.")
    return found + [_elsewhere(other, names.get(other.press, other.press)) for other in why.others]


def _elsewhere(other: OtherPlace, name: str) -> str:
    parts = []
    if abs(other.later_min) >= 0.5:
        later = "more" if other.later_min > 0 else "less"
        parts.append(f"{abs(other.later_min):.0f} min {later} late in all")
    if abs(other.longer_min) >= 0.5:
        done = "later" if other.longer_min > 0 else "sooner"
        parts.append(f"the day done {abs(other.longer_min):.0f} min {done}")
    return f"On {name}, with the rest as it is: {', '.join(parts) or 'no difference'}."


def _places(
    plan: Plan, stage: str, names: dict[str, str], said: dict[int, str], why: WhyHere
) -> list[tuple[str, str]]:
    """Every place that it can be moved to: what is sent, and its name."""
    run = next(run for run in plan.found["runs"] if run["job"] == stage)
    places = []
    for press in [run["press"], *(other.press for other in why.others)]:
        name = names.get(press, press)
        places.append((f"{press} ", f"{name}, first"))
        for other in plan.found["runs"]:
            if other["press"] == press and other["job"] != stage:
                label = f"{name}, after {said.get(job_of(other['job']), '')}"
                places.append((f"{press} {other['job']}", label))
    return places
