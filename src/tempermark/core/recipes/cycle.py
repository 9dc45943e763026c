"""Which of a recipe's steps each piece goes through at the press, and which come before or after.

Source: handbook 1 §4 and §5: what is checked, mixed and prepared is done once for a job; resting
and washing need neither press nor operator.
"""

from tempermark.core.recipes.steps import RecipeStep, Sheet

ONCE_FOR_A_JOB = ("check", "mix", "prepare")
AFTERWARDS = ("rest", "wash_test")
HEAT_CAUTION = "Platen and piece burn at a touch: gloves."
PEEL_CAUTION = "The piece is hot: gloves, and a tool for the tape."


def cycle_steps(sheet: Sheet) -> list[tuple[int, RecipeStep]]:
    """The steps of every load with their numbers in the recipe, counted from 0."""
    left_out = ONCE_FOR_A_JOB + AFTERWARDS
    return [(n, step) for n, step in enumerate(sheet.steps) if step.kind not in left_out]


def steps_afterwards(sheet: Sheet) -> list[tuple[int, RecipeStep]]:
    """What is waited for once a piece has left the bench."""
    return [(n, step) for n, step in enumerate(sheet.steps) if step.kind in AFTERWARDS]


def caution_of(step: RecipeStep) -> str:
    """What to beware of in a step: the recipe's own words, else the usual ones."""
    if step.cautions:
        return " ".join(step.cautions)
    if step.is_heated:
        return HEAT_CAUTION
    return PEEL_CAUTION if step.kind == "peel" else ""
