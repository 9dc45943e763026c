"""A plan's search: its progress is kept as it goes, so that every page can show it."""

import time
from dataclasses import replace

from django.utils import timezone

from tempermark.core.planning.first_come import as_they_came
from tempermark.core.planning.search.kept import PlanProgress
from tempermark.core.planning.search.solve import plan_day
from tempermark.web.planning.day import hands_given, jobs_given, presses_given
from tempermark.web.planning.found import as_found
from tempermark.web.planning.models import Plan, PlanState

# A day is searched no longer than this; most are proved within a second.
SEARCH_S = 30.0
# Progress is kept this often.
KEPT_EVERY_S = 0.5


def search(pk: int) -> None:
    """Search a plan to its end and keep what was found; a plan that is done is left as it is."""
    plan = Plan.objects.get(pk=pk)
    if plan.is_done:
        return
    Plan.objects.filter(pk=pk).update(state=PlanState.SEARCHING, looked_at=timezone.now())
    presses, jobs = presses_given(plan.given), jobs_given(plan.given)
    hands = hands_given(plan.given)
    begun = time.monotonic()
    try:
        found = plan_day(presses, jobs, plan.objective, SEARCH_S, _Watch(pk), hands)
        came = as_they_came([replace(job, behind=None) for job in jobs], presses, hands)
    except Exception as error:
        Plan.objects.filter(pk=pk).update(state=PlanState.FAILED)
        # Wishes that contradict each other are no fault of ours; anything else is.
        if not isinstance(error, ValueError):
            raise
        return
    Plan.objects.filter(pk=pk).update(
        state=PlanState.READY,
        found=as_found(found) | {"came": [vars(run) for run in came]},
        seconds=time.monotonic() - begun,
    )


class _Watch:
    """Keeps the progress, and ends the search when somebody says so."""

    def __init__(self, pk: int) -> None:
        self.pk, self.kept_at = pk, 0.0

    def __call__(self, progress: PlanProgress) -> bool:
        if progress.seconds - self.kept_at >= KEPT_EVERY_S:
            self.kept_at = progress.seconds
            so_far = {"best_min": progress.best_min, "bound_min": progress.bound_min}
            Plan.objects.filter(pk=self.pk).update(
                seconds=progress.seconds, found=so_far, looked_at=timezone.now()
            )
        return not Plan.objects.filter(pk=self.pk, is_to_end=True).exists()
