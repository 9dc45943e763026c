"""The preparation list of a piece: what it asks for, in an order that undoes nothing."""

from dataclasses import replace

import pytest

from tempermark.core.preparing.checklist import PieceToPrepare, needed_bleed, preparation
from tempermark.core.pressing.request import shipped_blank
from tempermark.core.recipes.shipped import shipped_recipes

SHEETS = {sheet.name: sheet for sheet in shipped_recipes()}


def piece(code, art=(200.0, 200.0), humidity=None, **blank):
    sheet = SHEETS[code]
    return PieceToPrepare(sheet, replace(shipped_blank(sheet.blank), **blank), art, humidity)


def codes(asked):
    return [line.code for line in preparation(asked)]


@pytest.mark.parametrize("code", sorted(SHEETS))
def test_every_shipped_recipe_has_a_list_without_doubles(code):
    lines = preparation(piece(code))
    assert len({line.code for line in lines}) == len(lines)
    assert all(str(line.do).endswith(".") and line.because for line in lines)
    assert all(wait.name and wait.seconds > 0 for line in lines for wait in line.waits)


def test_a_panel_is_cleaned_and_sized_before_its_transfer_is_taped():
    panel = piece(
        "Dye on a large coated aluminium panel", (1500, 500), width_mm=1500, height_mm=500
    )
    found = codes(panel)
    assert found.index("film_off") < found.index("clean") < found.index("size")
    assert found.index("size") < found.index("dry") < found.index("fix")
    lines = {line.code: line for line in preparation(panel)}
    assert "1508.2 mm" in str(lines["size"].do)
    assert "all four corners" in str(lines["fix"].do)


def test_art_smaller_than_its_panel_needs_no_bleed():
    small = piece("Dye on a large coated aluminium panel", (100, 100), width_mm=400, height_mm=300)
    assert "size" not in codes(small)


def test_cloth_is_rolled_and_pressed_dry_and_never_wiped():
    found = codes(piece("Dye on a polyester vest"))
    assert {"lint", "trim", "dry"} <= set(found)
    assert not {"clean", "film_off", "size"} & set(found)


def test_a_humid_room_asks_for_a_wicking_cloth():
    dry = piece("Dye on a factory-coated tile", humidity=0.4)
    damp = replace(dry, humidity=0.8)
    assert "wicking" not in codes(dry)
    assert {"wicking", "dry"} <= set(codes(damp))


def test_a_sprayed_coat_is_mixed_first():
    assert codes(piece("Cotton shirt: sprayed coat, then dye"))[0] == "mix"


def test_film_is_neither_dried_nor_taped():
    film = next(code for code, sheet in SHEETS.items() if sheet.method == "heat_transfer_film")
    assert not {"dry_print", "fix"} & set(codes(piece(film)))


def test_the_recipe_s_own_steps_come_in_its_order_with_their_waits():
    lines = preparation(piece("Cotton shirt: sprayed coat, then dye"))
    own = [line for line in lines if line.code.startswith("step-")]
    assert [line.code for line in own] == ["step-2", "step-3", "step-4", "step-5", "step-6"]
    cure = own[1]
    assert [(w.name, w.seconds) for w in cure.waits] == [("cure", 32.0)]
    assert cure.window_c is not None
    assert "burn" in str(cure.caution)
    assert all("lammable" in str(line.caution) for line in own[:1])


def test_a_hover_is_turned_half_way():
    lines = preparation(piece("Powder film on cotton"))
    hover = next(line for line in lines if len(line.waits) == 2)
    assert [w.seconds for w in hover.waits] == [120.0, 240.0]


def test_a_printed_sheet_is_neither_mirrored_nor_laid_face_down():
    lines = preparation(piece("Printed sheet on dark cotton, quick paper"))
    assert "mirror" not in [line.code for line in lines]
    place = next(line for line in lines if line.code == "place")
    assert str(place.do) == "Peel the backing off, place it, not mirrored."


def test_print_settings_say_how_long_it_dries_and_who_mirrors():
    own = replace(piece("Dye on a polyester vest"), dries_s=300.0, mirrored_by="the program")
    lines = {line.code: line for line in preparation(own)}
    assert str(lines["dry_print"].do) == "Let the print dry 5 min."
    assert lines["dry_print"].waits[0].seconds == 300
    assert "Here the program does it." in str(lines["mirror"].do)


def test_a_fold_to_the_back_makes_the_art_larger_by_it_and_the_thickness():
    plain = piece("Dye on a hardboard plate", (150, 150), width_mm=150, height_mm=150)
    folded = replace(plain, fold_mm=10.0)
    thick = plain.blank.thickness_mm
    wide = needed_bleed(folded).art_mm[0] - needed_bleed(plain).art_mm[0]
    assert wide == pytest.approx(2 * (10 + thick))
    assert "folds to the back" in str(
        next(line for line in preparation(folded) if line.code == "size").because
    )
