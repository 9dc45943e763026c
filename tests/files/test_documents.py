"""Documents: strict, bounded, every problem with its path."""

import copy
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tempermark.core.errors import InputError
from tempermark.files import case, reading, setpoint, survey
from tempermark.files.document import parse_json
from tests.support import examples

SURVEY = examples.load(examples.COMMANDS / "survey.input.json")
READING = examples.load(examples.COMMANDS / "reading.input.json")
SETPOINT = examples.load(examples.COMMANDS / "setpoint.input.json")


def changed(document, path, value):
    made = copy.deepcopy(document)
    target = made
    *parents, last = path
    for key in parents:
        target = target[key]
    if value is KeyError:
        del target[last]
    else:
        target[last] = value
    return made


BAD = [
    (SURVEY, ("format",), "tempermark.survey/2", "format"),
    (SURVEY, ("format",), KeyError, "format"),
    (SURVEY, ("quantity",), "weight", "quantity"),
    (SURVEY, ("platen", "width_mm"), 19, "platen.width_mm"),
    (SURVEY, ("platen", "width_mm"), KeyError, "platen.width_mm"),
    (SURVEY, ("platen",), [], "platen"),
    (SURVEY, ("set_c",), True, "set_c"),
    (SURVEY, ("set_c",), "195", "set_c"),
    (SURVEY, ("target_c",), 601, "target_c"),
    (SURVEY, ("tolerance_c",), 0, "tolerance_c"),
    (SURVEY, ("readings",), [], "readings"),
    (SURVEY, ("readings",), {}, "readings"),
    (SURVEY, ("readings", 3, "value_c"), None, "readings[3].value_c"),
    (SURVEY, ("readings", 3, "value_c"), -300, "readings[3].value_c"),
    (SURVEY, ("readings", 0, "x_mm"), 401, "readings[0].x_mm"),
    (SURVEY, ("readings", 2), 7, "readings[2]"),
    (READING, ("instrument", "kind"), "nose", "instrument.kind"),
    (READING, ("instrument", "emissivity_setting"), KeyError, "instrument.emissivity_setting"),
    (READING, ("surface_emissivity",), 0.0, "surface_emissivity"),
    (READING, ("readings", 0, "seconds_after_opening"), -1, "readings[0].seconds_after_opening"),
    (READING, ("readings",), READING["readings"] * 501, "readings"),
    (SETPOINT, ("points",), [], "points"),
    (SETPOINT, ("points", 0, "set_c"), 10**400, "points[0].set_c"),
]
ANSWERS = {
    "tempermark.reading/1": reading,
    "tempermark.survey/1": survey,
    "tempermark.setpoint/1": setpoint,
}


@pytest.mark.parametrize(("document", "path", "value", "named"), BAD)
def test_bad_input_is_named(document, path, value, named):
    with pytest.raises(InputError) as caught:
        ANSWERS[document["format"]].answer(changed(document, path, value))
    error = caught.value.as_document()["error"]
    assert error["path"] == named
    assert error["message"]
    assert error["code"]


def test_every_problem_is_told_at_once():
    document = changed(changed(SURVEY, ("set_c",), "x"), ("tolerance_c",), -1)
    with pytest.raises(InputError) as caught:
        survey.answer(document)
    error = caught.value.as_document()["error"]
    assert [error["path"], *[e["path"] for e in error["also"]]] == ["set_c", "tolerance_c"]


@pytest.mark.parametrize(
    "text", ["", "{", "[1,", '{"a": NaN}', "[" * 100_000, b"\xff\xfe\x00", '{"a":1e400}x']
)
def test_text_that_is_no_json(text):
    with pytest.raises(InputError):
        parse_json(text)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
    lambda inner: (
        st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner, max_size=3)
    ),
    max_leaves=8,
)


@settings(max_examples=150, deadline=None)
@given(st.sampled_from([SURVEY, READING, SETPOINT]), st.data())
def test_no_value_anywhere_breaks_a_command(document, data):
    """Anything in place of any key gives an answer or an error with a message."""
    key = data.draw(st.sampled_from(sorted(document)))
    broken = {**document, key: data.draw(JSON)}
    module = ANSWERS[document["format"]]
    try:
        json.dumps(module.answer(broken), allow_nan=False)
    except InputError as error:
        assert error.as_document()["error"]["message"]


def test_csv_in_the_document_is_the_same_survey():
    lines = ["# a comment", "x_mm;y_mm;value_f"]
    for row in SURVEY["readings"]:
        fahrenheit = row["value_c"] * 1.8 + 32
        lines.append(f"{row['x_mm']};{row['y_mm']};{fahrenheit:.6f}".replace(".", ","))
    document = {k: v for k, v in SURVEY.items() if k != "readings"} | {
        "readings_csv": "\n".join(lines)
    }
    assert survey.answer(document)["mean_c"] == survey.answer(SURVEY)["mean_c"]


def test_the_largest_survey_is_answered():
    rng = np.random.default_rng(0)
    x, y = rng.uniform(0, 400, 20_000), rng.uniform(0, 500, 20_000)
    rows = [
        {"x_mm": a, "y_mm": b, "value_c": 195 + a / 200}
        for a, b in zip(x.tolist(), y.tolist(), strict=True)
    ]
    found = survey.answer({**SURVEY, "readings": rows})
    assert found["tilt"]["x_c_per_100mm"] == pytest.approx(0.5)


def test_same_document_same_answer():
    assert survey.answer(SURVEY) == survey.answer(SURVEY)


def test_pull_document():
    rows = [
        {"x_mm": x, "y_mm": y, "pull": p}
        for x, y, p in ((0, 0, "drags"), (400, 0, "holds"), (0, 500, "tears"), (400, 500, "tears"))
    ]
    found = survey.answer(
        {
            "format": "tempermark.survey/1",
            "quantity": "pull",
            "platen": SURVEY["platen"],
            "readings": rows,
        }
    )
    assert found["weak_side"] == "front"
    assert found["verdict"] == "fail"


def test_unknown_keys_are_ignored():
    assert case.answer(
        {
            "format": "tempermark.case/1",
            "method": "patch",
            "weather": 1,
            "observations": [{"symptom": "peeling", "x": 2}],
        }
    )["causes"]


def test_a_named_surface_brings_its_emissivity_and_a_figure_leads():
    plain = {k: v for k, v in READING.items() if not k.startswith("surface_")}
    named = reading.answer(plain | {"surface": "silicone_sponge"})
    typed = plain | {"surface_emissivity": 0.92, "surface_emissivity_uncertainty": 0.02}
    assert named == reading.answer(typed)
    lead = reading.answer(plain | {"surface": "bare_aluminium", "surface_emissivity": 0.9})
    assert lead == reading.answer(plain | {"surface_emissivity": 0.9})
    with pytest.raises(InputError, match="surface is “velvet”"):
        reading.answer(plain | {"surface": "velvet"})


BOUNDED = {"x_mm": 200, "y_mm": 250, "at_least_c": 188, "below_c": 199}


@pytest.mark.parametrize(
    ("change", "named"),
    [
        ({"below_c": 188}, "readings[0].below_c"),
        ({"at_least_c": 900}, "readings[0].at_least_c"),
        ({"at_least_c": None, "below_c": None}, "readings[0].value_c"),
    ],
)
def test_bad_bounds_are_named(change, named):
    rows = [BOUNDED | change, *SURVEY["readings"]]
    with pytest.raises(InputError) as caught:
        survey.answer(SURVEY | {"readings": rows})
    assert caught.value.problems[0].path == named


def test_a_bound_that_says_what_is_known_hardly_moves_the_answer():
    plain = survey.answer(SURVEY)
    vague = {"x_mm": 200, "y_mm": 250, "at_least_c": 100, "below_c": 300}
    told = survey.answer(SURVEY | {"readings": [*SURVEY["readings"], vague]})
    assert told["usable"]["area_fraction"] == pytest.approx(
        plain["usable"]["area_fraction"], abs=0.02
    )
    assert told["verdict"] == plain["verdict"]
