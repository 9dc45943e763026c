"""A plan as a table, a document and a calendar."""

from datetime import datetime
from typing import Any

from django.utils import timezone
from icalendar import Calendar, Event

from tempermark.core.planning.day import PlannedRun
from tempermark.web.jobs.models import Job
from tempermark.web.kit.forms import tables
from tempermark.web.planning.day import job_of
from tempermark.web.planning.found import runs_found
from tempermark.web.planning.models import Plan
from tempermark.web.presses.models import Press

FORMAT, KEY = "tempermark.day/1", "runs"
COLUMNS = (
    "begins_at",
    "ends_at",
    "press",
    "order",
    "customer",
    "recipe",
    "blank",
    "pieces",
    "true_c",
    "change_min",
)


def rows(plan: Plan) -> list[dict[str, Any]]:
    """A row for every run, in the order of their start."""
    names = dict(Press.objects.values_list("slug", "name"))
    jobs = _jobs(plan)
    return [
        _row(plan, run, jobs[job_of(run.job)], names)
        for run in runs_found(plan.found)
        if job_of(run.job) in jobs
    ]


def _jobs(plan: Plan) -> dict[int, Job]:
    keys = {job_of(run.job) for run in runs_found(plan.found)}
    found = Job.objects.filter(pk__in=keys).select_related("recipe__recipe", "blank", "order")
    return {job.pk: job for job in found}


def _row(plan: Plan, run: PlannedRun, job: Job, names: dict[str, str]) -> dict[str, Any]:
    return {
        "begins_at": plan.begins_at_local(run.start_min).isoformat(timespec="minutes"),
        "ends_at": plan.begins_at_local(run.end_min).isoformat(timespec="minutes"),
        "press": names.get(run.press, run.press),
        "order": job.order.reference if job.order else "",
        "customer": job.order.customer if job.order else "",
        "recipe": job.recipe.recipe.name,
        "blank": job.blank.name,
        "pieces": job.quantity,
        "true_c": round(run.set_c, 1),
        "change_min": round(run.change_min, 1),
    }


def as_csv(plan: Plan) -> str:
    """The runs as CSV."""
    return tables.to_csv(COLUMNS, rows(plan))


def as_json(plan: Plan) -> str:
    """The runs as a document."""
    return tables.to_json(FORMAT, KEY, rows(plan))


def as_calendar(plan: Plan, now: datetime) -> bytes:
    """The runs as a calendar (RFC 5545)."""
    calendar = Calendar()
    calendar.add("prodid", "-//Tempermark//The plan of a day//EN")
    calendar.add("version", "2.0")
    jobs, names = _jobs(plan), dict(Press.objects.values_list("slug", "name"))
    for run in runs_found(plan.found):
        job = jobs.get(job_of(run.job))
        if job is None:
            continue
        event = Event()
        event.add("uid", f"plan-{plan.pk}-{run.job}@tempermark.local")
        event.add("dtstamp", now)
        event.add("dtstart", timezone.localtime(plan.begins_at_local(run.start_min)))
        event.add("dtend", timezone.localtime(plan.begins_at_local(run.end_min)))
        order = f"{job.order.reference}: " if job.order else ""
        event.add("summary", f"{names.get(run.press, run.press)}: {order}{job.blank.name}")
        event.add("description", f"{job.quantity} pieces, {job.recipe.recipe.name}")
        calendar.add_component(event)
    return bytes(calendar.to_ical())
