"""The preparation list of a piece: what it asks for, in an order that undoes nothing."""

from dataclasses import replace

import pytest

from tempermark.core.preparing.after import body_constant_s, touch_safe_s
from tempermark.core.preparing.checklist import PieceToPrepare, preparation
from tempermark.core.pressing.request import shipped_blank
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.thermal.library.materials import materials

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
    assert all(line.wait_for for line in lines if line.wait_s)


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


def test_a_thicker_body_stays_hot_longer_and_a_hot_room_never_lets_it_cool():
    tile = materials()["ceramic_tile"]
    assert body_constant_s(tile, 12) == pytest.approx(2 * body_constant_s(tile, 6))
    assert touch_safe_s(tile, 6, 195, 22) > touch_safe_s(tile, 3, 195, 22) > 60
    assert touch_safe_s(tile, 6, 195, 50) is None
    assert touch_safe_s(tile, 6, 40, 22) == 0
