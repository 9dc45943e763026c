"""Recipes as stages: which steps one setting serves, what is waited for between."""

import pytest

from tempermark.core.planning.stages import LOADING_S, stages_of
from tempermark.core.recipes.cycle import cycle_steps
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import RecipeStep, Sheet


def sheet(*steps):
    return Sheet("x", "dye", "garment", tuple(steps))


def press(low, high, kind="press", time_s=(40.0, 50.0), pressure="medium"):
    return RecipeStep(kind, temperature_c=(low, high), time_s=time_s, pressure=pressure)


def test_steps_whose_windows_overlap_are_one_stage_at_the_main_press_s_pressure():
    found = stages_of(
        sheet(
            press(180, 205, "pre_press", (5.0, 7.0), "light"),
            RecipeStep("place"),
            press(195, 210, pressure="firm"),
            RecipeStep("peel"),
        )
    )
    (stage,) = found.stages
    assert (stage.low_c, stage.high_c, stage.pressure) == (195, 205, "firm")
    assert stage.dwell_s == 6 + 45
    assert stage.handling_s == 2 * LOADING_S + 20 + 8
    assert stage.steps == (0, 2)


def test_windows_apart_a_dial_to_change_and_a_long_wait_begin_a_new_stage():
    apart = stages_of(sheet(press(150, 160, "cure"), press(195, 205)))
    assert [(s.low_c, s.wait_s) for s in apart.stages] == [(150, 0), (195, 0)]
    dial = stages_of(sheet(press(150, 200, "cure"), RecipeStep("set"), press(195, 205)))
    assert len(dial.stages) == 2
    wait = RecipeStep("cool", time_s=(600.0, 1200.0))
    cooled = stages_of(sheet(press(190, 200), wait, press(190, 200, "second_press")))
    assert [s.wait_s for s in cooled.stages] == [0, 900]
    short = RecipeStep("cool", time_s=(10.0, 30.0))
    assert (
        len(stages_of(sheet(press(190, 200), short, press(190, 200, "second_press"))).stages) == 1
    )


def test_what_is_waited_for_first_and_last_is_kept_apart():
    found = stages_of(
        sheet(
            RecipeStep("coat", time_s=(1800.0, 1800.0)),
            RecipeStep("dry", time_s=(600.0, 600.0)),
            press(190, 200),
            RecipeStep("cool", time_s=(600.0, 600.0)),
            RecipeStep("rest", time_s=(3600.0, 3600.0)),
        )
    )
    assert found.stages[0].wait_s == 2400
    assert found.after_s == 4200


@pytest.mark.parametrize("recipe", shipped_recipes(), ids=lambda r: r.code)
def test_every_shipped_recipe_has_stages_for_all_its_heated_steps(recipe):
    found = stages_of(recipe)
    heated = [n for n, s in cycle_steps(recipe) if s.is_heated and s.temperature_c]
    assert [n for stage in found.stages for n in stage.steps] == heated
    assert all(stage.low_c <= stage.high_c and stage.dwell_s > 0 for stage in found.stages)
