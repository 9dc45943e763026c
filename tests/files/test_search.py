"""tempermark.search/1: the contract's example, and refusals that name their key."""

import pytest

from tempermark.core.errors import InputError
from tempermark.files.experiments.search import answer

DOCUMENT = {
    "format": "tempermark.search/1",
    "receiver": "cloth",
    "polyester": 1.0,
    "temperature_c": [180, 210],
    "time_s": [20, 120],
    "pressure": "medium",
    "display_uncertainty_c": 6,
    "tested": [{"set_c": 195, "time_s": 40, "density_score": 3, "overdone_score": 5}],
}


def test_the_contract_s_example_is_answered():
    found = answer(DOCUMENT)
    assert set(found) == {"next", "best", "stop", "region", "notes"}
    assert set(found["best"]) == {"set_c", "time_s", "probability_good"}
    assert set(found["next"]) == {"set_c", "time_s", "because"}
    if found["stop"]:
        assert found["next"]["set_c"] == found["best"]["set_c"]
        assert "not worth it" in found["next"]["because"]
    assert len(found["region"]) == 169
    assert found["best"]["time_s"] > 40, "a pale piece asks for more"


def test_before_the_first_press_it_says_which_and_why():
    found = answer(DOCUMENT | {"tested": []})
    assert not found["stop"]
    assert "likely to come out well" in found["next"]["because"]
    assert "  " not in found["next"]["because"]


def test_weak_cloth_and_a_window_outside_are_noted():
    notes = answer(DOCUMENT | {"polyester": 0.5, "temperature_c": [90, 210]})["notes"]
    assert any("polyester" in note for note in notes)
    assert any("validated range" in note for note in notes)


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"receiver": "water"}, "receiver"),
        ({"temperature_c": [210, 180]}, "temperature_c"),
        ({"time_s": [20]}, "time_s"),
        ({"pressure": "hard"}, "pressure"),
        ({"display_uncertainty_c": -1}, "display_uncertainty_c"),
        ({"tested": [{"set_c": 195, "time_s": 0}]}, "tested[0].time_s"),
        (
            {"tested": [{"set_c": 195, "time_s": 40, "density_score": 6}]},
            "tested[0].density_score",
        ),
        (
            {"tested": [{"set_c": 195, "time_s": 40, "overdone_score": 2.5}]},
            "tested[0].overdone_score",
        ),
    ],
)
def test_a_wrong_value_names_its_key(changes, path):
    with pytest.raises(InputError) as refused:
        answer(DOCUMENT | changes)
    assert refused.value.problems[0].path == path
