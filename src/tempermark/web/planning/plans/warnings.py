"""What is to be said beside a plan: guesses, presses that are gone, hours that are not enough."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.utils import timezone

from tempermark.core.planning.day import PlannedRun, SequencedDay, order_of
from tempermark.core.planning.timing import timed_runs
from tempermark.web.kit.wording import in_words
from tempermark.web.planning.day import hands_given, jobs_given, presses_given
from tempermark.web.planning.models import Plan, WorkHours
from tempermark.web.planning.plans.live import MovedOn

# Less is not worth a sentence, minutes.
LEAST_LATER_MIN = 2.0


def warnings(
    plan: Plan, planned: Sequence[PlannedRun], moved: MovedOn | None, names: dict[str, str]
) -> list[str]:
    """Sentences about a plan with its runs as they were planned, and moved on where it is in
    force; ``names``: press by its slug.
    """
    return [
        *_since(moved, names),
        *_of_presses(plan, planned, names),
        *_of_slowest(plan, planned),
        *_of_hours(plan, planned if moved is None else moved.runs),
    ]


def _since(moved: MovedOn | None, names: dict[str, str]) -> list[str]:
    if moved is None:
        return []
    lost = [
        f"{names.get(slug, slug)} cannot take what is planned on it any more: plan again."
        for slug in moved.lost
    ]
    if not moved.came_since:
        return lost
    many = moved.came_since
    came = "1 job came" if many == 1 else f"{many} jobs came"
    them = "it" if many == 1 else "them"
    return [*lost, f"{came} after this plan: plan again to have {them} in it."]


def _of_presses(plan: Plan, runs: Sequence[PlannedRun], names: dict[str, str]) -> list[str]:
    used = {run.press for run in runs}
    said_of: dict[str, Any] = plan.given["warnings"]
    said = [f"{names.get(p, p)}: {why}." for p, why in said_of.items() if p in used]
    guesses = [names.get(p, p) for p in plan.given["guesses"] if p in used]
    if guesses:
        heats = "heats and cools" if len(guesses) == 1 else "heat and cool"
        said.append(
            f"How fast {in_words(guesses)} {heats} was never timed: those changes are a guess."
        )
    return said


def _of_slowest(plan: Plan, runs: Sequence[PlannedRun]) -> list[str]:
    """How much later the same plan ends if its platens are as slow as they may be."""
    within: dict[str, list[float]] = plan.given.get("within", {})
    presses = presses_given(plan.given)
    if not within or not runs:
        return []
    slow = {
        p.name: replace(
            p,
            heats_c_per_min=p.heats_c_per_min / within[p.name][0],
            cools_c_per_min=p.cools_c_per_min / within[p.name][1],
        )
        for p in presses
    }
    jobs = {job.name: job for job in jobs_given(plan.given)}
    order = order_of(presses, runs)
    day = SequencedDay(slow, jobs, order, hands_given(plan.given), [run.job for run in runs])
    ends = max(run.end_min for run in timed_runs(day, {run.job: run.set_c for run in runs}))
    later = ends - max(run.end_min for run in runs)
    if later < LEAST_LATER_MIN:
        return []
    return [f"If every platen is as slow as it may be, it is done {later:.0f} min later."]


def _of_hours(plan: Plan, runs: Sequence[PlannedRun]) -> list[str]:
    """Runs past the hours; and that nobody's hours are known."""
    hands = hands_given(plan.given)
    if hands is None:
        if "hands" in plan.given and WorkHours.objects.exists():
            return ["Nobody's hours cover this time: it takes as many hands as it needs."]
        return []
    late = [run for run in runs if run.end_min > hands.closes_min + LEAST_LATER_MIN]
    if not late:
        return []
    ends = timezone.localtime(plan.begins_at + timedelta(minutes=hands.closes_min))
    many = "1 run goes" if len(late) == 1 else f"{len(late)} runs go"
    return [f"{many} on after {ends:%H:%M}, when the last person leaves."]
