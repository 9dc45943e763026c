"""What a search found, as it is kept with its plan."""

from typing import Any

from tempermark.core.planning.day import DayPlan, PlannedRun


def as_found(found: DayPlan) -> dict[str, Any]:
    """What was found as JSON."""
    return {
        "runs": [vars(run) for run in found.runs],
        "unplaced": [list(pair) for pair in found.unplaced],
        "makespan_min": found.makespan_min,
        "lateness_min": found.lateness_min,
        "bound_min": found.lower_bound_min,
        "is_proved": found.is_proved,
    }


def plan_found(found: dict[str, Any]) -> DayPlan:
    """What was found and kept, as core/planning has it."""
    return DayPlan(
        runs=tuple(runs_found(found)),
        unplaced=tuple((job, why) for job, why in found["unplaced"]),
        makespan_min=found["makespan_min"],
        lateness_min=found["lateness_min"],
        lower_bound_min=found["bound_min"],
        is_proved=found["is_proved"],
    )


def runs_found(found: dict[str, Any], which: str = "runs") -> list[PlannedRun]:
    """The runs of a plan that was kept; ``came``: those in the order of arrival."""
    return [PlannedRun(**row) for row in found.get(which, [])]
