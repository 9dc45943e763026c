"""The plan in force as the day goes: what is done where it was done, the rest moved on from now."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from django.db.models import Max, Min

from tempermark.core.planning.day import SECONDS_PER_MINUTE, PlannedRun, SequencedDay
from tempermark.core.planning.first_come import nearest_setting
from tempermark.core.planning.timing import timed_runs
from tempermark.web.jobs.models import Job
from tempermark.web.planning.day import ALL_LOGGED, job_of, shop_day
from tempermark.web.planning.found import runs_found
from tempermark.web.planning.models import Plan
from tempermark.web.run.models import TestPress

# A plan of longer ago is no longer moved on.
STILL_GOES = timedelta(hours=24)


@dataclass(frozen=True)
class MovedOn:
    """The runs of a plan as they went and as they will go, in min from its beginning; how many jobs
    came after it; the presses that runs wait for in vain, by their slugs.
    """

    runs: list[PlannedRun]
    done: set[str]
    came_since: int
    later_min: float
    lost: list[str]


def moved_on(plan: Plan, now: datetime) -> MovedOn | None:
    """The plan moved on to now; None before it begins, long after it, or where its order cannot be
    kept any more.
    """
    planned = runs_found(plan.found)
    elapsed = now - plan.begins_at
    if not planned or not timedelta(0) <= elapsed <= STILL_GOES:
        return None
    now_min = elapsed.total_seconds() / SECONDS_PER_MINUTE
    in_plan = {job_of(run.job) for run in planned}
    presses_in_plan = {run.press for run in planned}
    away = plan.given.get("away", [])
    today = shop_day(now, away, only=in_plan, named=presses_in_plan)
    jobs = {stage.plan.name: stage.plan for stage in today.stages}
    presses = {press.plan.name: press.plan for press in today.presses}
    left = [run for run in planned if run.job in jobs and run.press in presses]
    open_still = {stage.job.pk for stage in today.stages}
    open_still |= {job.pk for job, why in today.left_out if why != ALL_LOGGED}
    went = _went(plan, [run for run in planned if job_of(run.job) not in open_still])
    # Its press is gone: it is where it was planned, until somebody plans again.
    lost = [run for run in planned if run not in left and job_of(run.job) in open_still]
    order = {name: [run.job for run in left if run.press == name] for name in presses}
    # What is under way comes first on its press.
    for names in order.values():
        names.sort(key=lambda name: jobs[name].behind != "")
    settings = {run.job: nearest_setting(jobs[run.job], run.set_c) for run in left}
    named = {run.job: jobs[run.job] for run in left}
    wanted = [run.job for run in left]
    try:
        day = SequencedDay(presses, named, order, today.hands, wanted)
        rest = [_later(run, now_min) for run in timed_runs(day, settings)]
    except ValueError:
        return None
    runs = sorted([*went, *lost, *rest], key=lambda run: (run.start_min, run.press))
    ends = max((run.end_min for run in runs), default=0.0)
    later = ends - max(run.end_min for run in planned) if rest else 0.0
    names = sorted({run.press for run in lost})
    return MovedOn(runs, {run.job for run in went}, _came_since(plan), later, names)


def _came_since(plan: Plan) -> int:
    rows = Job.objects.filter(closed_at=None, experiment=None, created_at__gt=plan.created_at)
    known = {job_of(job["name"]) for job in plan.given["jobs"]}
    known |= {pk for pk, _ in plan.given["left_out"]}
    return len(set(rows.values_list("pk", flat=True)) - known)


def _later(run: PlannedRun, by_min: float) -> PlannedRun:
    return replace(run, start_min=run.start_min + by_min, end_min=run.end_min + by_min)


def _went(plan: Plan, done: Sequence[PlannedRun]) -> list[PlannedRun]:
    """Runs that are over, when their pieces were pressed; where none was logged, as planned."""
    pressed = _pressed({job_of(run.job) for run in done})
    found = []
    for run in done:
        times = pressed.get(job_of(run.job))
        if times is None:
            found.append(run)
            continue
        start, end = ((at - plan.begins_at).total_seconds() / SECONDS_PER_MINUTE for at in times)
        # The first moment is that of the first closing: it began a load sooner.
        start = max(min(start, end), 0.0)
        if end <= 0:
            continue
        found.append(PlannedRun(run.job, run.press, run.set_c, 0.0, start, max(end, start + 0.5)))
    return found


def _pressed(jobs: set[int]) -> Mapping[int, tuple[datetime, datetime]]:
    rows = TestPress.objects.filter(job__in=jobs, step_number=None, withdrawn_at=None).order_by()
    found = rows.values("job").annotate(first=Min("pressed_at"), last=Max("pressed_at"))
    return {row["job"]: (row["first"], row["last"]) for row in found}
