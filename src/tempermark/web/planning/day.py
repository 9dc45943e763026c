"""The shop's day as core/planning has it: presses as they stand, open jobs in their stages."""

from collections.abc import Mapping, Sequence
from dataclasses import astuple, dataclass, replace
from datetime import datetime
from typing import Any

from django.utils import timezone

from tempermark.core.metrology.press.state import ElementState
from tempermark.core.planning.day import AfterJob, PlanJob, PlanPress
from tempermark.core.planning.duty import DutySpan, Hands
from tempermark.core.planning.stages import Stage, StagedRecipe, stages_of
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.jobs.models import Job
from tempermark.web.measure.press.states import measured_states
from tempermark.web.planning.hours.queries import hands_of, rules
from tempermark.web.planning.models import OverdueRule
from tempermark.web.planning.queries import jobs_left, load_seconds
from tempermark.web.planning.stock.queries import blanks_of
from tempermark.web.prepare.tools.platen import STILL_SET, platen_now_c, rates_of
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.queries import fitted_first
from tempermark.web.recipes.blanks.takes import takes
from tempermark.web.run.models import Run
from tempermark.web.run.pieces.placing import usable_rectangle

# A knob is turned, and the pull tried, in about a minute: the planning example of
# formats/commands.md.
PRESSURE_STEP_S = 60.0
# A day of more runs is not searched.
MOST_STAGES = 200
SECONDS_PER_MINUTE = 60.0


@dataclass(frozen=True)
class DayPress:
    """A press of the day: how it stands, and what is to be said of it; ``within`` are the factors
    that its heating and its cooling are known to.
    """

    press: Press
    element: Element
    plan: PlanPress
    warning: str = ""
    is_guess: bool = False
    within: tuple[float, float] = (1.0, 1.0)


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
    begins_at: datetime, without: Sequence[int] = (), was_on: Mapping[str, str] | None = None
) -> ShopDay:
    """The open jobs and the presses that are there, but those ``without`` (by their keys);
    ``was_on``: stage → its press in the plan before.
    """
    presses = _there(begins_at, without)
    under_way = {
        run.job_id: run.element_id for run in Run.objects.filter(ended_at=None, planned_press=None)
    }
    stages: list[DayStage] = []
    left_out: list[tuple[Job, str]] = []
    # Test presses are pressed from their ladder sheet.
    jobs, still = jobs_left()
    paces = load_seconds(under_way)
    blanks = {need.job.pk: need.expected for need in blanks_of(jobs, still)}
    for job in sorted(jobs, key=lambda job: (job.created_at, job.pk)):
        left = still[job.pk]
        recipe = stages_of(job.recipe.sheet)
        fitting = [p for p in presses if takes(p.element, job.recipe.recipe.blank_kind)]
        why = _why_not(left, recipe, fitting)
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


def _why_not(left: int, recipe: StagedRecipe, fitting: Sequence[DayPress]) -> str:
    if left <= 0:
        return "all its pieces are logged"
    if not recipe.stages:
        return "its recipe has no heated step"
    return "" if fitting else "no press takes this blank"


def day_presses(begins_at: datetime, without: Sequence[int] = ()) -> list[DayPress]:
    """The presses with an upper platen or sleeve fitted, as they stand."""
    upper: dict[int, Element] = {}
    for element in fitted_first().select_related("press"):
        upper.setdefault(element.press_id, element)
    elements = [e for e in upper.values() if e.press_id not in without]
    elements.sort(key=lambda e: (e.press.place, e.press.name))
    states = measured_states([e.press for e in elements], begins_at.date())
    # Later on they have gone cold.
    is_soon = begins_at - timezone.now() < STILL_SET
    return [
        _day_press(element, _warning(state.state), is_soon)
        for element, state in zip(elements, states, strict=True)
    ]


def _there(begins_at: datetime, without: Sequence[int]) -> list[DayPress]:
    """The presses to plan on: by the shop's rule, those whose survey is overdue are not."""
    found = day_presses(begins_at, without)
    if rules().overdue == OverdueRule.BAR:
        return [day for day in found if not day.warning]
    return found


def _warning(state: ElementState) -> str:
    if state.surveyed_on is None:
        return "never surveyed"
    return "its survey is overdue" if state.overdue_days > 0 else ""


def _day_press(element: Element, warning: str, is_soon: bool) -> DayPress:
    rates, usable = rates_of(element), usable_rectangle(element)
    width, height = element.width_mm, element.height_mm
    if usable is not None:
        width, height = usable.width_mm, usable.height_mm
    return DayPress(
        press=element.press,
        element=element,
        plan=PlanPress(
            name=element.press.slug,
            kind=element.press.kind,
            width_mm=width,
            height_mm=height,
            start_c=platen_now_c(element) if is_soon else ROOM_C,
            heats_c_per_min=rates.heats_k_min,
            cools_c_per_min=rates.cools_k_min,
            pressure=_pressure_now(element),
            pressure_step_s=PRESSURE_STEP_S,
            whole_mm2=element.width_mm * element.height_mm,
        ),
        warning=warning,
        is_guess=not (rates.timed_up or rates.timed_down),
        within=(rates.heats_within, rates.cools_within),
    )


def _pressure_now(element: Element) -> str:
    """The class of pressure that was pressed last, else medium."""
    last = element.test_presses.filter(withdrawn_at=None, pressure__in=PRESSURE_CLASSES).first()
    return last.pressure if last else "medium"


def _stages(
    job: Job,
    left: int,
    recipe: StagedRecipe,
    fitting: Sequence[DayPress],
    begins_at: datetime,
    under_way: int | None,
) -> list[DayStage]:
    here = frozenset(p.plan.name for p in fitting)
    running = next((p.plan.name for p in fitting if p.element.pk == under_way), None)
    due_min = None
    if job.order is not None and job.order.due_at is not None:
        until = (job.order.due_at - begins_at).total_seconds() - recipe.after_s
        due_min = until / SECONDS_PER_MINUTE
    found: list[DayStage] = []
    for number, stage in enumerate(recipe.stages):
        wait_min = stage.wait_s / SECONDS_PER_MINUTE
        before = found[-1].plan.name if found else None
        is_last = number == len(recipe.stages) - 1
        plan = PlanJob(
            name=stage_name(job.pk, number),
            quantity=left,
            per_load=job.per_load,
            low_c=stage.low_c,
            high_c=stage.high_c,
            dwell_s=stage.dwell_s,
            handling_s=stage.handling_s,
            pressure=stage.pressure or job.recipe.pressure,
            width_mm=job.art_width_mm,
            height_mm=job.art_height_mm,
            due_min=due_min if is_last else None,
            presses=frozenset({running}) if running and number == 0 else here,
            release_min=wait_min if before is None and not running else 0.0,
            after=(AfterJob(before, wait_min),) if before else (),
            behind="" if running is not None and number == 0 else None,
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
        "presses": [vars(p.plan) for p in day.presses],
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
    return [PlanPress(**row) for row in given["presses"]]


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
        }
        found.append(PlanJob(**fields))
    return found
