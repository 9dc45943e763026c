"""The shop's day as core/planning has it: presses as they stand, open jobs in their stages."""

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, astuple, dataclass, replace
from datetime import datetime
from typing import Any

from tempermark.core.planning.day import (
    SECONDS_PER_MINUTE,
    AfterJob,
    PlanJob,
    PlanPress,
    SpareElement,
)
from tempermark.core.planning.duty import DutySpan, Hands
from tempermark.core.planning.stages import Stage, StagedRecipe, stages_of
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.jobs.models import Job
from tempermark.web.planning.hours.queries import hands_of
from tempermark.web.planning.presses import DayPress, there
from tempermark.web.planning.queries import jobs_left, load_seconds
from tempermark.web.planning.stock.queries import blanks_of
from tempermark.web.recipes.blanks.takes import takes
from tempermark.web.run.models import Run

# A day of more runs is not searched.
MOST_STAGES = 200
# Why a job is not planned that is done.
ALL_LOGGED = "all its pieces are logged"


@dataclass(frozen=True)
class DayStage:
    """A job's stage in the day."""

    job: Job
    plan: PlanJob


@dataclass(frozen=True)
class ShopDay:
    """All that is to be planned from a moment on; ``left_out``: jobs that cannot be, with why."""

    begins_at: datetime
    presses: list[DayPress]
    stages: list[DayStage]
    left_out: list[tuple[Job, str]]
    hands: Hands | None = None
    away: Sequence[int] = ()


def shop_day(
    begins_at: datetime,
    without: Sequence[int] = (),
    was_on: Mapping[str, str] | None = None,
    only: Collection[int] | None = None,
    named: Collection[str] | None = None,
) -> ShopDay:
    """The open jobs and the presses that are there, but those ``without`` (by their keys);
    ``was_on``: stage → its press in the plan before; ``only``: of the jobs with these keys;
    ``named``: on the presses of these slugs.
    """
    presses = there(begins_at, without, named)
    under_way = {
        run.job_id: run.element_id for run in Run.objects.filter(ended_at=None, planned_press=None)
    }
    stages: list[DayStage] = []
    left_out: list[tuple[Job, str]] = []
    # Test presses are pressed from their ladder sheet.
    jobs, still = jobs_left(only)
    recipes: dict[int, StagedRecipe] = {}
    paces = load_seconds(job.pk for job in jobs if job.pk in under_way)
    blanks = {need.job.pk: need.expected for need in blanks_of(jobs, still)}
    for job in sorted(jobs, key=lambda job: (job.created_at, job.pk)):
        left = still[job.pk]
        if job.recipe_id not in recipes:
            recipes[job.recipe_id] = stages_of(job.recipe.sheet)
        recipe = recipes[job.recipe_id]
        fitting = [place for p in presses for place in _places(p, job)]
        why = _why_not(left, recipe, fitting, job.recipe.pressure)
        if not why and len(stages) + len(recipe.stages) > MOST_STAGES:
            why = f"over {MOST_STAGES} runs are planned already: close some first"
        if why:
            left_out.append((job, why))
            continue
        found = _stages(job, blanks[job.pk], recipe, fitting, begins_at, under_way.get(job.pk))
        if job.pk in paces and found:
            found[-1] = _at_pace(found[-1], paces[job.pk])
        stages += [
            replace(stage, plan=replace(stage.plan, was_on=(was_on or {}).get(stage.plan.name)))
            for stage in found
        ]
    return ShopDay(begins_at, presses, stages, left_out, hands_of(begins_at), without)


@dataclass(frozen=True)
class _Place:
    """Where a job can be pressed: a press with the element that it takes there."""

    press: DayPress
    spare: str

    @property
    def element_pk(self) -> int:
        """The element's key."""
        return int(self.spare) if self.spare else self.press.element.pk

    def range_c(self) -> tuple[float, float]:
        """What the press's controller can be set to."""
        low, high = self.press.press.control_low_c, self.press.press.control_high_c
        return (-math.inf if low is None else low, math.inf if high is None else high)


def _places(press: DayPress, job: Job) -> list[_Place]:
    """With the element that is fitted if it takes the job, else the first in store that does."""
    kind, art = job.recipe.recipe.blank_kind, (job.art_width_mm, job.art_height_mm)
    sizes = [(press.element, "", press.plan.width_mm, press.plan.height_mm)]
    sizes += [(e, str(e.pk), e.width_mm, e.height_mm) for e in press.stored]
    for element, name, *size in sizes:
        lies_on = all(a <= b for a, b in zip(sorted(art), sorted(size), strict=True))
        if takes(element, kind) and lies_on:
            return [_Place(press, name)]
    # Too small, which the planner says.
    return [_Place(press, "")] if takes(press.element, kind) else []


def _why_not(left: int, recipe: StagedRecipe, fitting: Sequence[_Place], pressure: str) -> str:
    if left <= 0:
        return ALL_LOGGED
    if not recipe.stages:
        return "its recipe has no heated step"
    if not fitting:
        return "no press takes this blank"
    for stage in recipe.stages:
        window = f"{stage.low_c:.0f} to {stage.high_c:.0f} °C"
        if not any(_reaches_window(place, stage) for place in fitting):
            return f"its window, {window}, is outside every press's range"
        if not _able(stage, fitting, pressure):
            return f"no press reaches {window} under {stage.pressure or pressure} pressure"
    return ""


def _reaches_window(place: _Place, stage: Stage) -> bool:
    """Whether a press can be set to the middle of a stage's window."""
    low, high = place.range_c()
    return low <= (stage.low_c + stage.high_c) / 2 <= high


def _able(stage: Stage, fitting: Sequence[_Place], pressure: str) -> list[_Place]:
    """The places whose press reaches a stage's window and pressure; that of the recipe where the
    stage has none of its own.
    """
    level = PRESSURE_CLASSES.index(stage.pressure or pressure)
    return [
        place
        for place in fitting
        if _reaches_window(place, stage) and level <= PRESSURE_CLASSES.index(place.press.firmest)
    ]


def _stages(
    job: Job,
    left: int,
    recipe: StagedRecipe,
    fitting: Sequence[_Place],
    begins_at: datetime,
    under_way: int | None,
) -> list[DayStage]:
    due_min = None
    if job.order is not None and job.order.due_at is not None:
        until = (job.order.due_at - begins_at).total_seconds() - recipe.after_s
        due_min = until / SECONDS_PER_MINUTE
    found: list[DayStage] = []
    for number, stage in enumerate(recipe.stages):
        here = _able(stage, fitting, job.recipe.pressure)
        # One window for all its presses: what each of them can be set to.
        ranges = [place.range_c() for place in here]
        running = [place for place in here if place.element_pk == under_way and number == 0]
        wait_min = stage.wait_s / SECONDS_PER_MINUTE
        before = found[-1].plan.name if found else None
        is_last = number == len(recipe.stages) - 1
        plan = PlanJob(
            name=stage_name(job.pk, number),
            quantity=left,
            per_load=job.per_load,
            low_c=max(stage.low_c, *(low for low, _ in ranges)),
            high_c=min(stage.high_c, *(high for _, high in ranges)),
            dwell_s=stage.dwell_s,
            handling_s=stage.handling_s,
            pressure=stage.pressure or job.recipe.pressure,
            cover=stage.cover,
            width_mm=job.art_width_mm,
            height_mm=job.art_height_mm,
            due_min=due_min if is_last else None,
            presses=frozenset(place.press.plan.name for place in running or here),
            release_min=wait_min if before is None and not running else 0.0,
            after=(AfterJob(before, wait_min),) if before else (),
            behind="" if running else None,
            spare_on=tuple((p.press.plan.name, p.spare) for p in here if p.spare),
        )
        found.append(DayStage(job, plan))
    return found


def _at_pace(stage: DayStage, load_s: float) -> DayStage:
    """A stage that goes slower or quicker than planned: its loads take what the last ones did."""
    handling_s = max(load_s - stage.plan.dwell_s, 0.0)
    return replace(stage, plan=replace(stage.plan, handling_s=handling_s))


def stage_name(job: int, number: int) -> str:
    """A stage's name within a plan."""
    return f"{job}.{number}"


def stage_of(job: Job, name: str) -> Stage | None:
    """The stage of a job's recipe by its name within a plan; None once the recipe has none such."""
    stages = stages_of(job.recipe.sheet).stages
    number = int(name.partition(".")[2])
    return stages[number] if number < len(stages) else None


def job_of(name: str) -> int:
    """The key of the job that a stage belongs to."""
    return int(name.partition(".")[0])


def as_given(day: ShopDay) -> dict[str, Any]:
    """A day as JSON."""
    return {
        "presses": [asdict(p.plan) for p in day.presses],
        "guesses": [p.plan.name for p in day.presses if p.is_guess],
        "within": {p.plan.name: list(p.within) for p in day.presses},
        "warnings": {p.plan.name: p.warning for p in day.presses if p.warning},
        "jobs": [_job_as_given(stage.plan) for stage in day.stages],
        "under_way": [stage.plan.name for stage in day.stages if stage.plan.behind is not None],
        "left_out": [[job.pk, why] for job, why in day.left_out],
        "away": list(day.away),
        "hands": None if day.hands is None else [astuple(span) for span in day.hands.spans],
    }


def _job_as_given(job: PlanJob) -> dict[str, Any]:
    presses = None if job.presses is None else sorted(job.presses)
    kinds = None if job.press_kinds is None else sorted(job.press_kinds)
    waits = [[wait.job, wait.minutes] for wait in job.after]
    return {**vars(job), "presses": presses, "press_kinds": kinds, "after": waits}


def presses_given(given: dict[str, Any]) -> list[PlanPress]:
    """The presses of a day that was kept."""
    return [
        PlanPress(**{**row, "spares": tuple(SpareElement(**s) for s in row.get("spares", []))})
        for row in given["presses"]
    ]


def hands_given(given: dict[str, Any]) -> Hands | None:
    """The hands of a day that was kept; None where as many as are needed were taken."""
    spans = given.get("hands")
    return None if spans is None else Hands(tuple(DutySpan(*span) for span in spans))


def jobs_given(given: dict[str, Any], with_wishes: bool = True) -> list[PlanJob]:
    """The stages of a day that was kept; each where it is ``pinned`` by a wish, else wherever it
    may run.
    """
    found = []
    for row in given["jobs"]:
        fields = {name: value for name, value in row.items() if name != "pinned"}
        pinned = row.get("pinned") if with_wishes else None
        presses, kinds = [pinned] if pinned else row["presses"], row["press_kinds"]
        fields |= {
            "presses": None if presses is None else frozenset(presses),
            "press_kinds": None if kinds is None else frozenset(kinds),
            "after": tuple(AfterJob(name, minutes) for name, minutes in row["after"]),
            "spare_on": tuple((press, spare) for press, spare in row.get("spare_on", [])),
        }
        found.append(PlanJob(**fields))
    return found
