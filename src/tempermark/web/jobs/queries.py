"""Reading jobs and clocks."""

from django.db.models import Count, Q, QuerySet

from tempermark.web.jobs.models import Clock, Job, Tick
from tempermark.web.kit.records.prepared import Prepared

# So many clocks are shown; a shop has no more hands.
MOST_SHOWN = 12


def open_jobs() -> QuerySet[Job]:
    """Jobs that are not finished with, newest first, each with how many lines are `ticked`."""
    found = Job.objects.filter(closed_at=None)
    found = found.annotate(ticked=Count("ticks", filter=Q(ticks__undone_at=None)))
    return found.select_related("recipe__recipe", "blank", "press", "created_by")


def jobs_in_full() -> QuerySet[Job]:
    """Jobs with all that their pages name; the bytes of their art are left where they are."""
    named = ("recipe__recipe", "blank", "press", "created_by", "art", "guide")
    printed = "print_settings__settings"
    return Job.objects.select_related(*named, printed).defer("art__data", "art__preview")


def running() -> QuerySet[Clock]:
    """Clocks that run or ring, the next to end first."""
    found = Clock.objects.filter(stopped_at=None, rung_at=None).select_related("job")
    return found[:MOST_SHOWN]


TICKED = Prepared(
    lambda job: Tick.objects.filter(job=job, undone_at=None).values_list("line"), job=int
)


def ticked(job: Job) -> set[str]:
    """Codes of the lines that are done."""
    return {line for (line,) in TICKED.rows(job=job.pk)}
