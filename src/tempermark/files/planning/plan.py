"""tempermark.plan/1: which job on which press, when, at which setting."""

from typing import Any

from tempermark.core.constants import DWELL_LIMIT_S, PLATEN_RANGE_MM, TEMPERATURE_RANGE_C
from tempermark.core.planning.day import DayPlan, PlanJob, PlannedRun, PlanPress
from tempermark.core.planning.search.solve import OBJECTIVES, plan_day
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.core.vocabulary.things import PRESS_KINDS
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.plan/1"
MOST_PRESSES, MOST_JOBS = 50, 200
MOST_PIECES = 1_000_000
RATE_RANGE_C_PER_MIN = (0.01, 1000.0)
DAYS_LIMIT_MIN = 100_000.0
# Larger than any platen: such a job is read, and said to fit nowhere.
LARGEST_JOB_MM = 100_000.0
MOST_NAME = 200
# The command answers within 20 s; reading, starting and setting right take the rest.
SEARCH_S = 14.0


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    objective = fields.choice("objective", OBJECTIVES, default="makespan")
    rows = fields.objects("presses", 1, MOST_PRESSES)
    presses = [_press(row) for row in rows]
    _without_twins(rows)
    rows = fields.objects("jobs", 1, MOST_JOBS)
    jobs = [_job(row) for row in rows]
    _without_twins(rows)
    fields.done()
    return _document(plan_day(presses, jobs, objective, SEARCH_S))


def _without_twins(rows: list[Fields]) -> None:
    seen = set()
    for row in rows:
        name = row.data.get("id")
        if isinstance(name, str) and name in seen:
            row.problem("id", f"is “{name[:60]}”, which another one has", "duplicate_id")
        if isinstance(name, str):
            seen.add(name)


def _press(row: Fields) -> PlanPress:
    return PlanPress(
        name=row.text("id", limit=MOST_NAME),
        kind=row.choice("kind", PRESS_KINDS),
        width_mm=row.number("width_mm", *PLATEN_RANGE_MM, unit=" mm"),
        height_mm=row.number("height_mm", *PLATEN_RANGE_MM, unit=" mm"),
        start_c=row.temperature("start_c"),
        heats_c_per_min=row.number("heat_c_per_min", *RATE_RANGE_C_PER_MIN, unit=" °C/min"),
        cools_c_per_min=row.number("cool_c_per_min", *RATE_RANGE_C_PER_MIN, unit=" °C/min"),
        pressure=row.choice("pressure", PRESSURE_CLASSES),
        pressure_step_s=row.number("pressure_step_s", 0, DWELL_LIMIT_S, unit=" s"),
    )


def _job(row: Fields) -> PlanJob:
    low_c, high_c = row.window("temperature_c", *TEMPERATURE_RANGE_C, unit=" °C") or (0.0, 0.0)
    kinds = None
    if row.has("press_kinds"):
        row.items("press_kinds", 1, len(PRESS_KINDS))
        kinds = frozenset(row.codes("press_kinds", PRESS_KINDS))
    return PlanJob(
        name=row.text("id", limit=MOST_NAME),
        quantity=_pieces(row, "quantity"),
        per_load=_pieces(row, "per_load"),
        low_c=low_c,
        high_c=high_c,
        dwell_s=row.number("dwell_s", 0, DWELL_LIMIT_S, unit=" s", above=True),
        handling_s=row.number("handling_s", 0, DWELL_LIMIT_S, unit=" s"),
        pressure=row.choice("pressure", PRESSURE_CLASSES),
        width_mm=row.number("width_mm", 0, LARGEST_JOB_MM, unit=" mm", above=True),
        height_mm=row.number("height_mm", 0, LARGEST_JOB_MM, unit=" mm", above=True),
        press_kinds=kinds,
        due_min=row.number("due_min", -DAYS_LIMIT_MIN, DAYS_LIMIT_MIN, default=None, unit=" min"),
    )


def _pieces(row: Fields, key: str) -> int:
    """A whole number of pieces, at least one."""
    value = row.number(key, 1, MOST_PIECES)
    if value is not None and value != int(value):
        row.problem(key, f"is {value:g}; a whole number of pieces is needed")
    return int(value or 1)


def _document(plan: DayPlan) -> dict[str, Any]:
    notes = []
    if not plan.is_proved:
        notes.append("Not proved the best: the time for it was over. No plan is below the bound.")
    return {
        "schedule": [_run(run) for run in plan.runs],
        "makespan_min": round(plan.makespan_min, 4),
        "total_lateness_min": round(plan.lateness_min, 4),
        "unplaced": [{"job": job, "reason": reason} for job, reason in plan.unplaced],
        "proved_optimal": plan.is_proved,
        "lower_bound_min": round(plan.lower_bound_min, 4),
        "notes": notes,
    }


def _run(run: PlannedRun) -> dict[str, Any]:
    return {
        "job": run.job,
        "press": run.press,
        "set_c": round(run.set_c, 4),
        "changeover_min": round(run.change_min, 4),
        "start_min": round(run.start_min, 4),
        "end_min": round(run.end_min, 4),
    }
