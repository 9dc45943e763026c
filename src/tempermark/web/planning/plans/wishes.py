"""Where somebody wants a run: the day with that wish in it, and what the wish costs."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from tempermark.core.errors import InputError
from tempermark.core.planning.day import PlannedRun
from tempermark.core.planning.fits import why_not
from tempermark.web.planning.day import job_of, jobs_given, presses_given
from tempermark.web.planning.found import runs_found
from tempermark.web.planning.models import Plan


@dataclass(frozen=True)
class Wish:
    """A stage on a press behind another stage; ``behind`` empty: first of its press."""

    stage: str
    press: str
    behind: str


def moved_jobs(
    given: dict[str, Any], planned: Sequence[PlannedRun], wish: Wish
) -> list[dict[str, Any]]:
    """The stages of a day with a wish, as the day's document has them; ``planned`` is the plan that
    the wish changes. Raises InputError for what cannot be.
    """
    jobs = {job.name: job for job in jobs_given(given, with_wishes=False)}
    presses = {press.name: press for press in presses_given(given)}
    runs = {run.job: run for run in planned if run.job in jobs}
    if wish.stage not in runs or wish.press not in presses:
        raise InputError.single("press", "This run or press is not in the plan any more.")
    if wish.stage in given["under_way"]:
        raise InputError.single("press", "It is under way: end its run first.")
    why = why_not(jobs[wish.stage], presses[wish.press])
    if why:
        raise InputError.single("press", f"It cannot run there: {why}.")
    behind = runs.get(wish.behind)
    if wish.behind and (behind is None or behind.press != wish.press or wish.behind == wish.stage):
        raise InputError.single("behind", "What it should follow is not on that press.")
    begun = [n for n in given["under_way"] if runs.get(n) and runs[n].press == wish.press]
    if not wish.behind and begun:
        wish = replace(wish, behind=begun[0])
    return [_with_wish(row, wish, runs) for row in given["jobs"]]


def _with_wish(row: dict[str, Any], wish: Wish, runs: dict[str, PlannedRun]) -> dict[str, Any]:
    was_on = runs[row["name"]].press if row["name"] in runs else None
    row = {**row, "was_on": was_on}
    if row["name"] == wish.stage:
        return {**row, "pinned": wish.press, "behind": wish.behind}
    if row["name"] == wish.behind:
        return {**row, "pinned": wish.press}
    # What followed it follows nothing now.
    if row["behind"] == wish.stage:
        return {**row, "behind": None}
    # Two that follow the same one, or begin the same press, cannot both: the newer wish counts.
    if row["behind"] is not None and row["behind"] == wish.behind and was_on == wish.press:
        return {**row, "behind": None}
    return row


@dataclass(frozen=True)
class WishCost:
    """What a plan with a wish costs beside the plan before: min more, and what becomes late."""

    longer_min: float
    later_min: float
    late_now: list[tuple[int, float]]


def cost_of_wish(plan: Plan) -> WishCost | None:
    """The cost of a plan's wish; None for a plan without one, one that is still searched, or one
    of another day than the plan that it changes.
    """
    before_it = plan.after
    if before_it is None or "wish" not in plan.given or plan.begins_at != before_it.begins_at:
        return None
    if "runs" not in plan.found or "runs" not in before_it.found:
        return None
    now, before = plan.found, before_it.found
    due = {job.name: job.due_min for job in jobs_given(plan.given)}
    was_late = _late(runs_found(before), due)
    late = {name: by for name, by in _late(runs_found(now), due).items() if name not in was_late}
    return WishCost(
        longer_min=now["makespan_min"] - before["makespan_min"],
        later_min=now["lateness_min"] - before["lateness_min"],
        late_now=[(job_of(name), by) for name, by in late.items()],
    )


def _late(runs: Sequence[PlannedRun], due: dict[str, float | None]) -> dict[str, float]:
    """Late stages with by how many minutes."""
    late = {run.job: run.end_min - at for run in runs if (at := due[run.job]) is not None}
    return {name: by for name, by in late.items() if by > 0}
