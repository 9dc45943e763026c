"""bleed, wrap and mix: the contract, refusals that name their key, and a template at 1:1."""

import json
import math
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tempermark.cli.__main__ import main
from tempermark.core.errors import InputError
from tempermark.files.preparing import bleed, mix, wrap

BLEED = {
    "format": "tempermark.bleed/1",
    "material": "aluminium",
    "width_mm": 1500,
    "height_mm": 500,
    "from_c": 22,
    "to_c": 195,
    "placement_mm": 0.5,
}
WRAP = {
    "format": "tempermark.wrap/1",
    "top_diameter_mm": 88,
    "bottom_diameter_mm": 60,
    "height_mm": 110,
    "tolerance_mm": 1,
    "overlap_mm": 3,
}
MIX = {
    "format": "tempermark.mix/1",
    "concentrate_parts": 2,
    "water_parts": 5,
    "bottle_ml": 350,
    "mixed_on": "2026-03-31",
    "shelf_months": 6,
}
ASKED = {"bleed": (bleed, BLEED), "wrap": (wrap, WRAP), "mix": (mix, MIX)}


def test_the_contract_s_examples():
    assert bleed.answer(BLEED) == {
        "growth_per_side_mm": {"width": pytest.approx(2.997, abs=1e-3), "height": 0.9991},
        "bleed_mm": {"width": pytest.approx(3.497, abs=1e-3), "height": 1.4991},
        "art_mm": {"width": pytest.approx(1506.994, abs=1e-3), "height": 502.9982},
        "taping": "all_corners",
    }
    assert mix.answer(MIX) == {"concentrate_ml": 100, "water_ml": 250, "use_by": "2026-09-30"}


def test_equal_diameters_have_neither_radius_nor_angle():
    found = wrap.answer(WRAP | {"bottom_diameter_mm": 88})
    assert (found["slant_mm"], found["max_straight_width_mm"]) == (110, round(math.pi * 88, 4))
    assert [found[k] for k in ("outer_radius_mm", "inner_radius_mm", "angle_deg")] == [None] * 3


def test_a_material_s_own_expansion_may_be_given():
    own = {k: v for k, v in BLEED.items() if k != "material"} | {"expansion_per_k": 23.1e-6}
    assert bleed.answer(own) == bleed.answer(BLEED)


@pytest.mark.parametrize(("name", "key"), [(n, k) for n, (_, d) in ASKED.items() for k in d])
def test_a_missing_key_is_named(name, key):
    module, document = ASKED[name]
    with pytest.raises(InputError) as refused:
        module.answer({k: v for k, v in document.items() if k != key})
    assert refused.value.problems[0].path == key
    assert refused.value.problems[0].code == "missing_key"


@pytest.mark.parametrize(
    ("name", "changes", "path"),
    [
        ("bleed", {"material": "cheese"}, "material"),
        ("bleed", {"width_mm": 0}, "width_mm"),
        ("bleed", {"height_mm": -5}, "height_mm"),
        ("bleed", {"to_c": 900}, "to_c"),
        ("bleed", {"placement_mm": True}, "placement_mm"),
        ("bleed", {"expansion_per_k": 1}, "expansion_per_k"),
        ("wrap", {"top_diameter_mm": "88"}, "top_diameter_mm"),
        ("wrap", {"height_mm": 0}, "height_mm"),
        ("wrap", {"bottom_diameter_mm": float("inf")}, "bottom_diameter_mm"),
        ("wrap", {"overlap_mm": -1}, "overlap_mm"),
        ("mix", {"concentrate_parts": 0, "water_parts": 0}, "concentrate_parts"),
        ("mix", {"bottle_ml": 0}, "bottle_ml"),
        ("mix", {"mixed_on": "31.3.2026"}, "mixed_on"),
        ("mix", {"mixed_on": "2026-02-30"}, "mixed_on"),
        ("mix", {"mixed_on": "1926-03-31"}, "mixed_on"),
        ("mix", {"shelf_months": 1.5}, "shelf_months"),
        ("mix", {"shelf_months": 100000}, "shelf_months"),
    ],
)
def test_wrong_input_names_its_key(name, changes, path):
    module, document = ASKED[name]
    with pytest.raises(InputError) as refused:
        module.answer(document | changes)
    assert refused.value.problems[0].path == path


@given(
    st.floats(5, 400), st.floats(5, 400), st.floats(5, 400), st.floats(0, 30).map(lambda v: v + 0.0)
)
def test_a_drawing_holds_its_template_whole_and_at_full_size(top, bottom, height, overlap):
    """Every point of the outline lies on the sheet, and its edges are as long as the vessel's."""
    sides = {"top_diameter_mm": top, "bottom_diameter_mm": bottom, "height_mm": height}
    svg = wrap.drawing(WRAP | sides | {"overlap_mm": overlap})
    width, tall = map(float, re.search(r'viewBox="0 0 (\S+) (\S+)"', svg).groups())
    assert f'width="{width:g}'[:9] in svg
    left, up = map(float, re.search(r"translate\((\S+) (\S+)\)", svg).groups())
    outline = re.search(r'id="outline" d="([^"]+)"', svg).group(1)
    points = [tuple(map(float, p)) for p in re.findall(r"[ML](-?[\d.]+) (-?[\d.]+)", outline)]
    points += [tuple(map(float, p)) for p in re.findall(r"A\S+ \S+ 0 \d \d (\S+) (\S+)", outline)]
    assert all(0 <= left + x <= width and 0 <= up + y <= tall for x, y in points)
    middle = re.search(r'id="middle" d="M(\S+) (\S+) L(\S+) (\S+)"', svg)
    x0, y0, x1, y1 = map(float, middle.groups())
    slant = wrap.answer(WRAP | sides)["slant_mm"]
    assert math.dist((x0, y0), (x1, y1)) == pytest.approx(slant, abs=1e-3)


def test_the_command_writes_the_drawing(tmp_path, capsys):
    asked, out = tmp_path / "wrap.json", tmp_path / "wrap.svg"
    asked.write_text(json.dumps(WRAP))
    assert main(["wrap", str(asked), "--svg", str(out)]) == 0
    assert json.loads(capsys.readouterr().out)["slant_mm"] == 110.8873
    assert out.read_text().startswith("<svg")


@pytest.mark.parametrize(
    "arguments",
    [
        ["wrap", "FILE", "--svg"],
        ["mix", "FILE", "--svg", "x.svg"],
        ["wrap", "FILE", "--batch", "--svg", "x.svg"],
        ["wrap", "FILE", "--svg", "/nowhere/at/all.svg"],
    ],
)
def test_a_drawing_that_cannot_be_is_refused_and_nothing_printed(tmp_path, capsys, arguments):
    asked = tmp_path / "asked.json"
    asked.write_text(json.dumps(MIX if arguments[0] == "mix" else WRAP))
    assert main([str(asked) if a == "FILE" else a for a in arguments]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert json.loads(printed.err)["error"]["code"] in ("usage", "no_file")
