"""simulate, window and cool: refusals name their key; limits are answered; contracts hold."""

import pytest

from tempermark.core.errors import InputError
from tempermark.files import cool, press, window

PRESS = {
    "format": "tempermark.press/1",
    "initial_c": 22,
    "time_s": 45,
    "pressure_kpa": 30,
    "relative_humidity": 0.5,
    "upper": {"temperature_c": 200},
    "lower": {"temperature_c": 22},
    "layers": [
        {"material": "parchment"},
        {"material": "transfer_paper"},
        {"material": "polyester_jersey", "thickness_mm": 0.5},
        {"material": "silicone_pad", "thickness_mm": 8},
    ],
    "dye_interface": 1,
    "samples_s": [5, 10, 20, 45],
    "above_c": [180],
}
WINDOW = {
    "format": "tempermark.window/1",
    "windows": [{"name": "A", "temperature_c": [165, 175], "time_s": [10, 15]}],
}
COOL = {"format": "tempermark.cool/1", "from_c": 190, "ambient_c": 22, "to_c": [60, 48, 20, 200]}


def without(document, *keys):
    return {k: v for k, v in document.items() if k not in keys}


def layered(**changes):
    return PRESS | {"layers": [{"material": "parchment"} | changes, {"material": "silicone_pad"}]}


def test_a_vest_is_answered_whole():
    told = press.answer(PRESS)
    assert [i["between"] for i in told["interfaces"]] == [[0, 1], [1, 2], [2, 3]]
    face = told["interfaces"][1]
    assert [s["t_s"] for s in face["samples"]] == [5, 10, 20, 45]
    assert face["samples"][-1]["c"] == pytest.approx(face["final_c"], abs=0.01)
    assert face["samples"][0]["c_above"] > face["samples"][0]["c"]
    assert 0 < face["seconds_above_c"]["180"] < 45
    energy = told["energy_j_m2"]
    assert energy["in"] == pytest.approx(energy["out"] + energy["stored"] + energy["evaporated"])
    assert 0.6 < told["density"] < 1
    assert set(told["risks"]) == {"scorch", "blowout", "squeeze_out"}
    assert press.answer(PRESS | {"polyester": 0.5})["density"] == pytest.approx(
        told["density"] / 2, abs=1e-6
    )


def test_without_humidity_or_dye_nothing_evaporates_and_nothing_is_dosed():
    told = press.answer(without(PRESS, "relative_humidity", "dye_interface"))
    assert told["energy_j_m2"]["evaporated"] == 0
    assert told["dose"] is None
    assert told["density"] is None


def test_a_heater_dips_in_the_answer():
    heater = {"power_w_m2": 8000, "heat_capacity_j_m2k": 25000, "set_c": 200}
    told = press.answer(PRESS | {"upper": {"temperature_c": 200, "heater": heater}})
    assert told["upper_min_c"] < told["upper_final_c"] <= 200.01
    assert "upper_min_c" not in press.answer(PRESS)


def test_an_insulated_lower_side_lets_nothing_out():
    told = press.answer(PRESS | {"lower": {"insulated": True}})
    assert told["energy_j_m2"]["out"] == 0


@pytest.mark.parametrize(
    ("document", "path", "code"),
    [
        (layered(thickness_mm=-0.1), "layers[0].thickness_mm", "out_of_range"),
        (layered(material="gold"), "layers[0].material", "unknown_code"),
        (layered(initial_c=900), "layers[0].initial_c", "out_of_range"),
        (PRESS | {"layers": [{"thickness_mm": 1}]}, "layers[0].conductivity_w_mk", "missing_key"),
        (PRESS | {"layers": []}, "layers", "too_few"),
        (PRESS | {"layers": [{"material": "glass"}] * 21}, "layers", "too_many"),
        (PRESS | {"time_s": 0}, "time_s", "out_of_range"),
        (PRESS | {"time_s": 7201}, "time_s", "out_of_range"),
        (PRESS | {"samples_s": [46]}, "samples_s[0]", "out_of_range"),
        (PRESS | {"samples_s": [1] * 1001}, "samples_s", "too_many"),
        (PRESS | {"dye_interface": 3}, "dye_interface", "out_of_range"),
        (PRESS | {"dye_interface": 0.5}, "dye_interface", "bad_value"),
        (PRESS | {"contacts_m2k_per_w": [0, 0]}, "contacts_m2k_per_w", "too_few"),
        (PRESS | {"contacts_m2k_per_w": [0, -1, 0]}, "contacts_m2k_per_w[1]", "out_of_range"),
        (PRESS | {"relative_humidity": 50}, "relative_humidity", "out_of_range"),
        (PRESS | {"upper": {"temperature_c": True}}, "upper.temperature_c", "wrong_type"),
        (without(PRESS, "pressure_kpa"), "pressure_kpa", "missing_key"),
        (without(PRESS, "upper"), "upper", "missing_key"),
        (without(PRESS, "lower"), "lower", "missing_key"),
    ],
)
def test_a_wrong_closing_names_its_key(document, path, code):
    with pytest.raises(InputError) as caught:
        press.answer(document)
    assert (path, code) in {(p.path, p.code) for p in caught.value.problems}


def test_a_closing_at_its_limits_is_answered():
    layers = [{"material": "silicone_pad", "thickness_mm": 200}] * 20
    told = press.answer(PRESS | {"layers": layers, "time_s": 7200, "samples_s": [0.0, 7200]})
    assert len(told["interfaces"]) == 19


@pytest.mark.parametrize(
    ("dwell", "timer", "closings", "remaining"),
    [
        (200, 90, [90, 90, 20], 70),
        (180, 90, [90, 90], 0),
        (60, 90, [60], 30),
        (200, None, [200], None),
    ],
)
def test_a_dwell_over_a_timers_ceiling(dwell, timer, closings, remaining):
    document = {"format": "tempermark.window/1", "dwell_s": dwell, "timer_max_s": timer}
    told = window.answer(document)
    assert told["closings_s"] == closings
    assert told["open_last_at_remaining_s"] == remaining
    assert "overlap" not in told


def test_touching_windows_share_one_value_and_say_so():
    other = {"name": "B", "temperature_c": [175, 180], "time_s": [15, 20]}
    told = window.answer(WINDOW | {"windows": [*WINDOW["windows"], other]})
    assert told["overlap"] == {"temperature_c": [175, 175], "time_s": [15, 15]}
    assert told["shared_setting"] == {"temperature_c": 175, "time_s": 15}
    assert told["gap"] == {"temperature_c": 0, "time_s": 0}
    assert "One setting serves all" in told["advice"]


def test_windows_that_miss_say_by_how_much_and_in_which_order():
    other = {"name": "B", "temperature_c": [190, 200], "time_s": [10, 15]}
    told = window.answer(WINDOW | {"windows": [other, *WINDOW["windows"]]})
    assert told["gap"]["temperature_c"] == 15
    assert told["shared_setting"] is None
    assert "A, then B" in told["advice"]


@pytest.mark.parametrize(
    ("document", "path"),
    [
        ({"format": "tempermark.window/1"}, "windows"),
        (WINDOW | {"windows": []}, "windows"),
        (
            WINDOW | {"windows": [{"temperature_c": [175, 165], "time_s": [1, 2]}]},
            "windows[0].temperature_c",
        ),
        (WINDOW | {"dwell_s": -1}, "dwell_s"),
        (WINDOW | {"timer_max_s": 0}, "timer_max_s"),
        (
            WINDOW | {"equal_dose": {"temperature_c": 200, "time_s": 45}},
            "equal_dose.to_temperature_c",
        ),
    ],
)
def test_wrong_windows_name_their_key(document, path):
    with pytest.raises(InputError) as caught:
        window.answer(document)
    assert path in {p.path for p in caught.value.problems}


def test_cooling_by_time_constant_or_by_a_body():
    told = cool.answer(COOL | {"time_constant_s": 600})
    assert told["seconds"][0] == pytest.approx(600 * 1.4863, rel=1e-3)
    assert told["seconds"][1] == told["touch_after_s"]
    assert told["seconds"][2:] == [None, 0]
    body = {"mass_kg": 1.2, "specific_heat_j_kgk": 850, "area_m2": 0.1, "surface_w_m2k": 17}
    assert cool.answer(COOL | body)["time_constant_s"] == pytest.approx(600)


@pytest.mark.parametrize(
    ("document", "path"),
    [
        (COOL, "mass_kg"),
        (COOL | {"time_constant_s": 0}, "time_constant_s"),
        (COOL | {"time_constant_s": 600, "to_c": []}, "to_c"),
        (COOL | {"time_constant_s": 600, "to_c": [48, "warm"]}, "to_c[1]"),
        (without(COOL, "from_c") | {"time_constant_s": 600}, "from_c"),
    ],
)
def test_wrong_cooling_names_its_key(document, path):
    with pytest.raises(InputError) as caught:
        cool.answer(document)
    assert path in {p.path for p in caught.value.problems}
