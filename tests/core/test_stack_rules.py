"""Wrong stacks are caught with the reason, right ones are left in peace."""

from dataclasses import replace

import pytest

from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.stack_rules import RULES, Stacked, faults

VEST = Stacked(
    ("parchment", "transfer_paper", "polyester_jersey", "plain_paper inside", "silicone_pad"),
    "dye_sublimation",
)
PANEL = Stacked(
    ("wicking_cloth", "plain_paper", "transfer_paper", "aluminium_panel", "plain_paper"),
    "dye_sublimation",
    blank_kind="panel",
    coating="factory",
    width_mm=600,
    height_mm=400,
    relative_humidity=0.7,
)
COAT = Stacked(("parchment", "cotton_jersey", "wicking_cloth"), "spray_coating", step="cure")
HOVER = Stacked(("film_carrier",), "powder_film", step="hover")


def codes(stack, **changes):
    return [f.code for f in faults(replace(stack, **changes))]


@pytest.mark.parametrize("stack", [VEST, PANEL, COAT])
def test_right_stacks_have_no_fault(stack):
    assert faults(stack) == []


@pytest.mark.parametrize(
    ("stack", "changes", "code"),
    [
        (VEST, {"layers": VEST.layers[1:]}, "no_cover"),
        (VEST, {"layers": (*VEST.layers[:3], "silicone_pad")}, "no_inside_sheet"),
        (VEST, {"layers": ("parchment", "transfer_paper face up", *VEST.layers[2:])}, "face_up"),
        (VEST, {"fixed_cover": "ptfe"}, "fixed_ptfe_for_dye"),
        (VEST, {"features": ("zip",)}, "trim_in_heat"),
        (PANEL, {"layers": PANEL.layers[1:]}, "no_wicking"),
        (PANEL, {"layers": (*PANEL.layers[:3], "aluminium_panel uncoated side")}, "bare_side"),
        (COAT, {"layers": ("plain_paper", "cotton_jersey")}, "paper_on_wet_coat"),
        (HOVER, {"layers": ("ptfe_sheet", "film_carrier")}, "ptfe_while_hovering"),
        (HOVER, {"fixed_cover": "ptfe"}, "ptfe_while_hovering"),
    ],
)
def test_each_wrong_stack_is_caught_for_its_reason(stack, changes, code):
    assert code in codes(stack, **changes)


@pytest.mark.parametrize(
    ("stack", "changes", "code"),
    [
        (PANEL, {"layers": PANEL.layers[1:], "relative_humidity": 0.4}, "no_wicking"),
        (PANEL, {"layers": PANEL.layers[1:], "relative_humidity": None}, "no_wicking"),
        (PANEL, {"layers": PANEL.layers[1:], "width_mm": 200, "height_mm": 200}, "no_wicking"),
        (VEST, {"features": ("zip",), "layers": (*VEST.layers, "foam_pillow")}, "trim_in_heat"),
        (VEST, {"step": "cure", "layers": VEST.layers[:3]}, "no_inside_sheet"),
        (HOVER, {"step": "press", "fixed_cover": "ptfe"}, "no_cover"),
    ],
)
def test_what_is_no_fault_is_none(stack, changes, code):
    assert code not in codes(stack, **changes)


def test_every_rule_can_speak_and_says_what_is_right():
    assert len(RULES) == 11
    for fault in faults(replace(VEST, layers=("transfer_paper face up", "x"), fixed_cover="ptfe")):
        assert fault.because
        assert fault.right


FILM = Stacked(
    ("parchment", "film_carrier", "film_pu", "cotton_jersey", "silicone_pad"), "heat_transfer_film"
)


def test_what_lies_wrong_way_round_or_between_is_caught():
    assert codes(FILM) == []
    turned = ("parchment", "film_pu", "film_carrier", "cotton_jersey", "silicone_pad")
    assert codes(FILM, layers=turned) == ["film_upside_down"]
    between = (*VEST.layers[:2], "plain_paper", *VEST.layers[2:])
    assert codes(VEST, layers=between) == ["sheet_between"]


def test_shipped_stacks_are_right_ones():
    for sheet in shipped_recipes():
        mains = [school.applied(sheet.main) for school in sheet.schools]
        for step in (*sheet.steps, *mains):
            if step.stack:
                stack = Stacked(
                    step.stack, sheet.method, step=step.kind, blank_kind=sheet.blank_kind
                )
                assert faults(stack) == [], (sheet.name, step)
