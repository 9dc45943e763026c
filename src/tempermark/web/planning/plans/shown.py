"""A plan as its pages show it: a sentence, figures beside the order of arrival, the day band."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.urls import reverse
from django.utils import timezone

from tempermark.core.planning.day import PlanJob, PlannedRun
from tempermark.core.planning.power import power_kwh
from tempermark.web.jobs.models import Job
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_words
from tempermark.web.planning.day import hands_given, job_of, jobs_given, presses_given
from tempermark.web.planning.found import runs_found
from tempermark.web.planning.models import Plan, PlanState
from tempermark.web.planning.plans.band import Band, BandDay, BandJob, draw
from tempermark.web.planning.plans.live import MovedOn, moved_on
from tempermark.web.planning.plans.warnings import warnings
from tempermark.web.planning.plans.wishes import cost_of_wish
from tempermark.web.presses.models import Press

# So many jobs that are left out are named.
MOST_LEFT_OUT = 60
# From here on a plan is behind, or ahead, minutes.
BEHIND_MIN = 5.0
WAIT_FOR_EACH_OTHER = "This day cannot be planned so: its runs wait for each other."


@dataclass(frozen=True)
class PlanFigures:
    """A way of doing the day in figures: minutes until it is done, of changes, late in all, how
    many changes, and the kWh that keep its platens hot.
    """

    name: str
    minutes: float
    change_min: float
    late_min: float
    changes: int
    ends_at: datetime
    kwh: float


@dataclass(frozen=True)
class NextRun:
    """A run in the list of its press."""

    job: Job
    run: PlannedRun
    begins_at: datetime
    ends_at: datetime
    set_text: str
    is_late: bool
    behind_min: float = 0.0


@dataclass(frozen=True)
class ShownPlan:
    """What a plan's page shows."""

    headline: str
    figures: list[PlanFigures]
    band: Band | None
    presses: list[tuple[str, str, list[NextRun]]]
    left_out: list[tuple[str, str, str]]
    warnings: list[str]
    cost: str = ""
    saved: str = ""
    so_far: str = ""
    is_behind: bool = False
    not_shown: int = 0
    away: Sequence[Press] = ()


# Objective → what the best so far and the bound are said of.
SO_FAR = {
    "makespan": "the best so far takes {best:.0f} min, none can take less than {bound:.0f}",
    "lateness": "the best so far is {best:.0f} min late in all, none is less than {bound:.0f}",
    "changes": "the best so far changes for {best:.0f} min, none for less than {bound:.0f}",
    "power": "the best so far takes {best:.1f} kWh, none can take less than {bound:.1f}",
}


def shown_plan(plan: Plan, units: Units) -> ShownPlan:
    """A plan in its reader's units; the one in force as the day goes."""
    is_in_force = plan.in_force_since is not None and plan.replaced_at is None
    moved = moved_on(plan, timezone.now()) if is_in_force else None
    planned, came = runs_found(plan.found), runs_found(plan.found, "came")
    runs, done = (planned, set()) if moved is None else (moved.runs, moved.done)
    stages = {job.name: job for job in jobs_given(plan.given)}
    keys = {job_of(name) for name in stages} | {
        pk for pk, _ in plan.given["left_out"][:MOST_LEFT_OUT]
    }
    rows = Job.objects.filter(pk__in=keys).select_related("recipe__recipe", "blank", "order")
    jobs = {job.pk: job for job in rows}
    names = dict(Press.objects.values_list("slug", "name"))
    figures = [
        _figures(plan, name, found, stages)
        for name, found in (("this plan", planned), ("as the orders came", came))
        if found
    ]
    return ShownPlan(
        headline=_headline(plan, figures) if moved is None else _going(plan, moved, stages),
        figures=figures,
        band=_band(plan, runs, stages, jobs, names, units, done) if runs else None,
        presses=_lists(
            plan, [run for run in runs if run.job not in done], stages, jobs, names, units
        ),
        left_out=_left_out(plan, jobs),
        not_shown=_not_shown(plan),
        warnings=warnings(plan, planned, moved, names),
        is_behind=moved is not None
        and (moved.later_min >= BEHIND_MIN or bool(moved.came_since or moved.lost)),
        cost=_cost(plan, jobs),
        saved=_saved(figures),
        so_far=_so_far(plan),
        away=list(Press.objects.filter(pk__in=plan.given.get("away", []))),
    )


def _going(plan: Plan, moved: MovedOn, stages: dict[str, PlanJob]) -> str:
    """When the day will be done, as it goes."""
    left = [run for run in moved.runs if run.job not in moved.done]
    if not left:
        return "All that was planned is done."
    ends = plan.begins_at_local(max(run.end_min for run in moved.runs))
    late = _late_min(moved.runs, stages)
    said = f"{late:.0f} min late in all" if late >= 0.5 else "nothing late"
    behind = ""
    if moved.later_min >= BEHIND_MIN:
        behind = f"; {moved.later_min:.0f} min behind the plan"
    elif moved.later_min <= -BEHIND_MIN:
        behind = f"; {-moved.later_min:.0f} min ahead of the plan"
    return f"Done at {ends:%H:%M}, {said}{behind}."


def _late_min(runs: Sequence[PlannedRun], stages: dict[str, PlanJob]) -> float:
    due = [(run, stages[run.job].due_min) for run in runs if run.job in stages]
    return sum(max(run.end_min - at, 0.0) for run, at in due if at is not None)


def _saved(figures: Sequence[PlanFigures]) -> str:
    """What the plan saves beside the order in which the orders came."""
    if len(figures) < 2:
        return ""
    plan, came = figures
    parts = [
        f"{came.minutes - plan.minutes:.0f} min" if came.minutes - plan.minutes >= 0.5 else "",
        f"{came.change_min - plan.change_min:.0f} min of changes"
        if came.change_min - plan.change_min >= 0.5
        else "",
        f"{came.late_min - plan.late_min:.0f} min late"
        if came.late_min - plan.late_min >= 0.5
        else "",
        f"{came.kwh - plan.kwh:.1f} kWh" if came.kwh - plan.kwh >= 0.05 else "",
    ]
    saved = [part for part in parts if part]
    return f"{in_words(saved)} less than as the orders came." if saved else ""


def _so_far(plan: Plan) -> str:
    if "best_min" not in plan.found:
        return ""
    best, bound = plan.found["best_min"], plan.found["bound_min"]
    return SO_FAR[plan.objective].format(best=best, bound=bound)


def _headline(plan: Plan, figures: Sequence[PlanFigures]) -> str:
    if not plan.is_done or not figures:
        return WAIT_FOR_EACH_OTHER if plan.state == PlanState.FAILED else "Planning the day."
    best = figures[0]
    late = f"{best.late_min:.0f} min late in all" if best.late_min >= 0.5 else "nothing late"
    bound = plan.found["bound_min"]
    if plan.found["is_proved"]:
        sure = "no order does better"
    elif plan.objective == "power":
        sure = f"it takes {best.kwh:.1f} kWh, no order less than {bound:.1f}"
    elif plan.objective == "changes":
        sure = f"it changes for {best.change_min:.0f} min, no order for less than {bound:.0f}"
    elif plan.objective == "lateness":
        sure = f"no order is less than {bound:.0f} min late"
    else:
        sure = f"no order is done before {plan.begins_at_local(bound):%H:%M}"
    return f"Done at {timezone.localtime(best.ends_at):%H:%M}, {late}; {sure}."


def _figures(
    plan: Plan, name: str, runs: Sequence[PlannedRun], stages: dict[str, PlanJob]
) -> PlanFigures:
    minutes = max(run.end_min for run in runs)
    return PlanFigures(
        name=name,
        minutes=minutes,
        change_min=sum(run.change_min for run in runs),
        late_min=_late_min(runs, stages),
        changes=sum(run.change_min > 0 for run in runs),
        kwh=power_kwh(presses_given(plan.given), stages, runs),
        ends_at=plan.begins_at + timedelta(minutes=minutes),
    )


def _said(plan: Plan, stage: PlanJob, job: Job, count: int) -> BandJob:
    order = job.order.reference if job.order else ""
    number = int(stage.name.partition(".")[2]) + 1
    part = f", setting {number} of {count}" if count > 1 else ""
    label = f"{order}: {job.blank.name}" if order else job.blank.name
    detail = f"{stage.quantity} blanks, {job.recipe.recipe.name}{part}"
    address = reverse("planning:planned-run", args=[plan.pk, stage.name])
    return BandJob(label, detail, address, order)


def _band(
    plan: Plan,
    runs: Sequence[PlannedRun],
    stages: dict[str, PlanJob],
    jobs: dict[int, Job],
    names: dict[str, str],
    units: Units,
    done: set[str],
) -> Band:
    counts: dict[int, int] = {}
    for name in stages:
        counts[job_of(name)] = counts.get(job_of(name), 0) + 1
    presses = presses_given(plan.given)
    day = BandDay(
        begins_at=timezone.localtime(plan.begins_at),
        presses=presses,
        names={p.name: names.get(p.name, p.name) for p in presses},
        notes=plan.given["warnings"],
        jobs=stages,
        said={n: _said(plan, s, jobs[job_of(n)], counts[job_of(n)]) for n, s in stages.items()},
        runs=runs,
        within=plan.given.get("within", {}),
        hands=hands_given(plan.given),
        done=done,
    )
    degrees = {run.set_c: temperature_text(run.set_c, units) for run in runs}
    return draw(day, timezone.localtime(), degrees)


def _lists(
    plan: Plan,
    runs: Sequence[PlannedRun],
    stages: dict[str, PlanJob],
    jobs: dict[int, Job],
    names: dict[str, str],
    units: Units,
) -> list[tuple[str, str, list[NextRun]]]:
    # In the order of the floor.
    found: dict[str, list[NextRun]] = {p.name: [] for p in presses_given(plan.given)}
    planned = {run.job: run.end_min for run in runs_found(plan.found)}
    for run in runs:
        due = stages[run.job].due_min
        behind = run.end_min - planned[run.job]
        row = NextRun(
            job=jobs[job_of(run.job)],
            run=run,
            begins_at=plan.begins_at_local(run.start_min),
            ends_at=plan.begins_at_local(run.end_min),
            set_text=temperature_text(run.set_c, units),
            is_late=due is not None and run.end_min > due,
            behind_min=behind if behind >= BEHIND_MIN else 0.0,
        )
        found[run.press].append(row)
    return [(slug, names.get(slug, slug), rows) for slug, rows in found.items() if rows]


def _left_out(plan: Plan, jobs: dict[int, Job]) -> list[tuple[str, str, str]]:
    """Job, why it is not planned, and its address."""
    given = [(pk, why) for pk, why in plan.given["left_out"][:MOST_LEFT_OUT]]
    given += [(job_of(name), why) for name, why in plan.found.get("unplaced", [])]
    return [(str(jobs[pk]), why, jobs[pk].get_absolute_url()) for pk, why in given if pk in jobs]


def _not_shown(plan: Plan) -> int:
    """How many jobs that are left out are not named."""
    return max(len(plan.given["left_out"]) - MOST_LEFT_OUT, 0)


def _cost(plan: Plan, jobs: dict[int, Job]) -> str:
    """What a wish costs, in a sentence."""
    cost = cost_of_wish(plan)
    if cost is None:
        return ""
    parts = []
    if abs(cost.longer_min) >= 0.5:
        parts.append(f"{'adds' if cost.longer_min > 0 else 'saves'} {abs(cost.longer_min):.0f} min")
    for pk, by in cost.late_now:
        order = jobs[pk].order
        parts.append(f"{order.reference if order else jobs[pk]} is late by {by:.0f} min")
    if not cost.late_now and cost.later_min >= 0.5:
        parts.append(f"{cost.later_min:.0f} min more late in all")
    return f"This move: {', '.join(parts) or 'costs nothing'}."
