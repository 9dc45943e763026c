"""A recipe as the stages of a job: what runs at one setting, and what is waited for in between.

Source: handbook 1 §4, §5 and §9; the hands' times are starting values that add up to the 30 to
40 s of a load of the trade's planning example (formats/commands.md, “plan”).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from tempermark.core.recipes.cycle import cycle_steps, steps_afterwards
from tempermark.core.recipes.layers import code_of
from tempermark.core.recipes.stack_rules import COVERS
from tempermark.core.recipes.steps import RecipeStep, Sheet

# Seconds of hands for a piece's way under the platen and out again, and for what needs no heat.
LOADING_S = 12.0
HANDS_S = {"place": 20.0, "peel": 8.0, "powder": 20.0, "trim": 20.0, "coat": 30.0}
# What takes longer than this without the press is done for all pieces before the next setting.
LONG_WAIT_S = 120.0
WAITS = ("coat", "dry", "cool", "rest")


@dataclass(frozen=True)
class Stage:
    """Heated steps of a recipe, by their numbers counted from 0, that one setting serves; all
    pieces of a job go through them. `wait_s` is waited for before it, without press or hands;
    `cover` lies under the platen, by its code, empty: none.
    """

    steps: tuple[int, ...]
    low_c: float
    high_c: float
    dwell_s: float
    handling_s: float
    pressure: str
    wait_s: float = 0.0
    cover: str = ""


@dataclass(frozen=True)
class StagedRecipe:
    """The stages of a recipe in order, and s of cooling and resting after the last of them."""

    stages: tuple[Stage, ...]
    after_s: float


def stages_of(sheet: Sheet) -> StagedRecipe:
    """The stages of a recipe. Heated steps go on in one stage while their windows overlap and
    nothing long is waited for between them; a step that changes the dial begins a new one.
    """
    stages: list[Stage] = []
    wait_s, hands_s, is_new = 0.0, 0.0, True
    for number, step in cycle_steps(sheet):
        if not step.is_heated or step.temperature_c is None:
            long_s = _middle(step.time_s)
            if step.kind in WAITS and long_s > LONG_WAIT_S:
                wait_s, is_new = wait_s + long_s, True
            else:
                hands_s += HANDS_S.get(step.kind, 0.0)
            is_new = is_new or step.kind == "set"
            continue
        stage = Stage(
            steps=(number,),
            low_c=step.temperature_c[0],
            high_c=step.temperature_c[1],
            dwell_s=_middle(step.time_s),
            handling_s=LOADING_S + hands_s,
            pressure=step.pressure,
            wait_s=wait_s,
            cover=cover_of(step.stack),
        )
        joined = None if is_new or not stages else _joined(stages[-1], stage, step)
        if joined is None:
            stages.append(stage)
        else:
            stages[-1] = joined
        wait_s, hands_s, is_new = 0.0, 0.0, False
    after_s = wait_s + sum(_middle(step.time_s) for _, step in steps_afterwards(sheet))
    if stages:
        # Peeling and trimming after the last closing.
        stages[-1] = replace(stages[-1], handling_s=stages[-1].handling_s + hands_s)
    return StagedRecipe(tuple(stages), after_s)


def _middle(time_s: Sequence[float] | None) -> float:
    return sum(time_s) / 2 if time_s else 0.0


def cover_of(stack: Sequence[str]) -> str:
    """The code of the uppermost cover of a stack; empty without one."""
    return next((code_of(entry) for entry in stack if code_of(entry) in COVERS), "")


def _joined(stage: Stage, more: Stage, step: RecipeStep) -> Stage | None:
    """Two stages as one; None where no setting serves both. The main press sets the pressure."""
    low_c, high_c = max(stage.low_c, more.low_c), min(stage.high_c, more.high_c)
    if low_c > high_c:
        return None
    return Stage(
        steps=stage.steps + more.steps,
        low_c=low_c,
        high_c=high_c,
        dwell_s=stage.dwell_s + more.dwell_s,
        handling_s=stage.handling_s + more.handling_s,
        pressure=step.pressure if step.kind == "press" else stage.pressure,
        wait_s=stage.wait_s,
        cover=more.cover if step.kind == "press" else stage.cover,
    )
