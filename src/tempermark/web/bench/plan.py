"""The steps of a run as its strip shows them: what to set, how long over which closings, what to
do, what to beware of.
"""

from dataclasses import asdict, dataclass
from typing import Any

from django.urls import reverse
from django.utils import timezone

from tempermark.core.recipes.cycle import caution_of, cycle_steps, steps_afterwards
from tempermark.core.recipes.steps import RecipeStep
from tempermark.core.recipes.windows import closings
from tempermark.web.bench.known import main_pressure
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import PressTemperature, press_temperature
from tempermark.web.run.models import Run
from tempermark.web.run.pieces.proven import Proven, proven_on

# A step's own dwell is read to the second on a press's timer.
LEAST_DWELL_S = 1.0


@dataclass(frozen=True)
class StripStep:
    """A step of the strip in its reader's units; `closings_s` is empty where no heat presses, and
    `waits` are [name, s] of clocks that it starts.
    """

    number: int
    kind: str
    name: str
    do: str
    look_for: str
    caution: str
    is_heated: bool
    is_main: bool
    set_c: float | None
    dial: str
    aim: str
    dwell_s: float
    closings_s: list[float]
    pressure: str
    waits: list[list[Any]]
    is_guess: bool = False


def strip_steps(run: Run, units: Units) -> list[StripStep]:
    """Every step that each load of a run goes through."""
    known = press_temperature(run.element, timezone.now())
    main = _main_setting(run, known)
    return [
        _step(run, number, step, _setting(run, number, step, main, known), units)
        for number, step in cycle_steps(run.job.recipe.sheet)
    ]


@dataclass(frozen=True)
class StepSetting:
    """What to set for a step: the dial, the true temperature it gives where that is known, the
    dwell in s; a guess where the dial was never surveyed.
    """

    set_c: float | None
    aim_c: float | None
    dwell_s: float
    is_guess: bool = False


def _main_setting(run: Run, known: PressTemperature | None) -> StepSetting:
    """The main press's: what a test press plans, what is proven here, else the window's middle."""
    pressed = run.job.recipe.pressed(None)
    aim_c, dwell_s = pressed.middle_c, float(round((pressed.low_s + pressed.high_s) / 2))
    proven = _proven(run)
    if proven is not None:
        aim_c, dwell_s = proven.true_c, float(round(proven.dwell_s))
    dwell_s = run.settings.get("dwell_s", dwell_s)
    if "set_c" in run.settings:
        set_c = run.settings["set_c"]
        true_c = float(known.line.true_c(set_c)) if known else None
        return StepSetting(set_c, true_c, dwell_s, known is None or known.is_far(set_c))
    return _dial(aim_c, dwell_s, known)


def _dial(aim_c: float, dwell_s: float, known: PressTemperature | None) -> StepSetting:
    if known is None:
        return StepSetting(aim_c, None, dwell_s, is_guess=True)
    set_c = known.dial_for(aim_c).set_c
    return StepSetting(set_c, aim_c, dwell_s, known.is_far(set_c))


def _setting(
    run: Run,
    number: int,
    step: RecipeStep,
    main: StepSetting,
    known: PressTemperature | None,
) -> StepSetting:
    """A step's setting: the main press's own dial wherever it lies in the step's window, so that
    nobody turns the dial between two steps without need.
    """
    version = run.job.recipe
    if step == version.sheet.main:
        return main
    if not step.is_heated or step.temperature_c is None:
        return StepSetting(None, None, _dwell(step))
    pressed = version.pressed(number)
    dwell_s = float(round((pressed.low_s + pressed.high_s) / 2))
    true_c = main.aim_c if main.aim_c is not None else main.set_c
    if true_c is not None and pressed.low_c <= true_c <= pressed.high_c:
        return StepSetting(main.set_c, main.aim_c, dwell_s, main.is_guess)
    return _dial(pressed.middle_c, dwell_s, known)


def _proven(run: Run) -> Proven | None:
    """What has come out well on this element, where that is inside the recipe's window."""
    found = proven_on(run.job.recipe).get(run.element_id)
    return found if found is not None and (found.inside or found.chosen) else None


def _step(run: Run, number: int, step: RecipeStep, setting: StepSetting, units: Units) -> StripStep:
    is_main = step == run.job.recipe.sheet.main
    heated = setting.set_c is not None
    timer_s = run.element.press.timer_max_s
    return StripStep(
        number,
        step.kind,
        step.name.capitalize(),
        step.do,
        step.look_for,
        caution_of(step),
        heated,
        is_main,
        setting.set_c,
        temperature_text(setting.set_c, units) if heated else "",
        temperature_text(setting.aim_c, units) if setting.aim_c is not None else "",
        setting.dwell_s,
        closings(max(setting.dwell_s, LEAST_DWELL_S), timer_s) if heated else [],
        main_pressure(run) if is_main else step.pressure,
        [] if heated or not step.time_s else [[step.name, sum(step.time_s) / 2]],
        setting.is_guess,
    )


def _dwell(step: RecipeStep) -> float:
    return round(sum(step.time_s) / 2) if step.time_s else 0.0


def run_document(run: Run, units: Units) -> dict[str, Any]:
    """All that the strip needs to work without the server."""
    entries, last = entries_after(run, 0)
    return {
        "run": run.pk,
        "address": reverse("bench:entries", args=[run.pk]),
        "platen": reverse("bench:platen", args=[run.pk]),
        "clock": reverse("prepare:clock-start"),
        "job": run.job_id,
        "press": run.element.press.name,
        "quantity": run.job.quantity,
        "per_load": run.per_load,
        "placings": run.placings,
        "steps": [asdict(step) for step in strip_steps(run, units)],
        "afterwards": [
            [step.name, sum(step.time_s) / 2]
            for _, step in steps_afterwards(run.job.recipe.sheet)
            if step.time_s
        ],
        "ended": run.ended_at is not None,
        "now_s": timezone.now().timestamp(),
        "entries": entries,
        "last": last,
    }


def entries_after(run: Run, pk: int) -> tuple[list[dict[str, Any]], int]:
    """The bench's own entries of a run after one of them, and the key of the last."""
    rows = run.entries.filter(test_press=None, pk__gt=pk).order_by("pk")
    found, last = [], pk
    for row in rows.values("pk", "entry_key", "kind", "at", "detail"):
        last = row["pk"]
        at_s = row["at"].timestamp()
        found.append(
            {"key": str(row["entry_key"]), "kind": row["kind"], "at_s": at_s, **row["detail"]}
        )
    return found, last
