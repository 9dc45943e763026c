"""tempermark.pressure/1: the contract's figures and its refusals."""

import pytest

from tempermark.core.errors import InputError
from tempermark.files.pressure import answer

PNEUMATIC = {
    "format": "tempermark.pressure/1",
    "mechanism": "pneumatic",
    "line_kpa": 550,
    "cylinder_diameter_mm": 100,
    "cylinders": 1,
    "platen": {"width_mm": 400, "height_mm": 500},
}
KNOB = {
    "format": "tempermark.pressure/1",
    "mechanism": "knob",
    "lift_mm_per_turn": 1.5,
    "tightens": "clockwise",
    "from_thickness_mm": 1.0,
    "to_thickness_mm": 3.4,
}


def test_a_soft_blank_is_pressed_by_the_platen_and_a_rigid_one_alone():
    soft = answer(PNEUMATIC | {"blank": {"width_mm": 300, "height_mm": 300}})
    assert soft["force_n"] == pytest.approx(4319.69, abs=0.01)
    assert soft["contact_kpa"] == pytest.approx(21.598, abs=0.001)
    assert soft["class"] == "medium"
    assert soft["notes"] == []
    rigid = answer(PNEUMATIC | {"blank": {"width_mm": 300, "height_mm": 300, "rigid": True}})
    assert rigid["contact_kpa"] == pytest.approx(4319.69 / 0.09 / 1000, rel=1e-5)
    assert rigid["class"] == "firm"
    assert any("takes all of the force" in n for n in rigid["notes"])


@pytest.mark.parametrize(("line", "word"), [(100, "below light"), (1999, None), (2000, None)])
def test_outside_the_classes_a_note_says_so(line, word):
    told = answer(PNEUMATIC | {"line_kpa": line})
    assert bool(told["notes"]) == (told["contact_kpa"] < 7 or told["contact_kpa"] > 80)
    if word:
        assert word in told["notes"][0]


@pytest.mark.parametrize(
    ("tightens", "to", "action", "rotate"),
    [
        ("clockwise", 3.4, "loosen", "counterclockwise"),
        ("counterclockwise", 3.4, "loosen", "clockwise"),
        ("counterclockwise", 0.4, "tighten", "counterclockwise"),
        ("clockwise", 1.0, "none", "none"),
    ],
)
def test_thicker_means_loosen_in_the_presss_own_sense(tightens, to, action, rotate):
    told = answer(KNOB | {"tightens": tightens, "to_thickness_mm": to})
    assert (told["action"], told["rotate"]) == (action, rotate)
    assert told["turns"] == pytest.approx(abs(to - 1.0) / 1.5, abs=1e-4)


@pytest.mark.parametrize(
    ("document", "path", "code"),
    [
        (KNOB | {"lift_mm_per_turn": 0}, "lift_mm_per_turn", "out_of_range"),
        (KNOB | {"to_thickness_mm": -1}, "to_thickness_mm", "out_of_range"),
        (KNOB | {"tightens": "left"}, "tightens", "unknown_code"),
        (KNOB | {"from_thickness_mm": True}, "from_thickness_mm", "wrong_type"),
        (KNOB | {"mechanism": "steam"}, "mechanism", "unknown_code"),
        (PNEUMATIC | {"line_kpa": 900, "max_line_kpa": 700}, "line_kpa", "above_rating"),
        (PNEUMATIC | {"cylinders": 1.5}, "cylinders", "bad_value"),
        (PNEUMATIC | {"blank": {"width_mm": 0, "height_mm": 3}}, "blank.width_mm", "out_of_range"),
        (PNEUMATIC | {"platen": {"width_mm": 400}}, "platen.height_mm", "missing_key"),
    ],
)
def test_wrong_documents_name_the_key(document, path, code):
    with pytest.raises(InputError) as caught:
        answer(document)
    assert caught.value.problems[0].path == path
    assert caught.value.problems[0].code == code
