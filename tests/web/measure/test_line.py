"""The calibration line: any temperature, anywhere, with its band."""

import numpy as np
import pytest

from tempermark.web.measure.press.press_temperature import press_temperature, true_temperature
from tempermark.web.overview.queries import floor
from tests.support import room

PATH = "/presses/heron/calibration/"


def flat(value):
    return lambda x, y: value


def test_one_setting_says_what_it_takes_for_granted(browse, technician, element):
    room.survey(technician, element, truth=flat(190.0))
    told = room.words(browse.get(PATH))
    assert "For 195 °C true, set Heron to 200 °C" in told
    assert "Surveyed only at 195 °C: the gain is assumed to be 1.00 ± 0.10" in told


def test_two_settings_give_the_gain_and_a_narrower_band(browse, technician, element):
    room.survey(technician, element, days_ago=9, set_c=150.0, target_c=150.0, truth=flat(147.0))
    room.survey(technician, element, days_ago=1, truth=flat(190.0))
    line = press_temperature(element, None).line
    assert line.gain == pytest.approx(43 / 45, abs=0.01)
    told = room.words(browse.get(f"{PATH}?target_c=170"))
    # 20 K below 190 need 21 on the dial at a gain of 0.957.
    assert "For 170 °C true, set Heron to 174 °C" in told
    assert "2 surveys from 150 °C to 195 °C on the dial give a gain of 0.9" in told
    before = press_temperature(element, None).line.standard_uncertainty_c(150.0)
    alone = room.element("Teal")
    room.survey(technician, alone, truth=flat(190.0))
    assert before < press_temperature(alone, None).line.standard_uncertainty_c(150.0) / 2


def test_true_at_is_vaguer_far_from_the_surveyed_dial(technician, element):
    room.survey(technician, element, truth=flat(190.0))
    place = [[200.0, 250.0]]

    near, far = (true_temperature(element, np.array(place), s, None) for s in (195.0, 155.0))
    assert far.value_c[0] == pytest.approx(near.value_c[0] - 40)
    grown = far.standard_uncertainty_c[0] ** 2 - near.standard_uncertainty_c[0] ** 2
    assert grown == pytest.approx((0.05 * 40) ** 2, rel=0.01)


def test_each_place_has_its_own_setting(browse, technician, element):
    room.survey(technician, element)
    page = room.soup(browse.get(PATH))
    rows = [[c.text for c in r.select("td")] for r in page.select("table")[0].select("tr")[1:]]
    assert len(rows) == 9
    settings = {place: setting.strip() for place, _, setting in rows}
    usual = int(page.select_one("h1").text.split("to ")[1].split("\u00a0")[0])
    assert int(settings["back left corner"].split("\u00a0")[0]) > usual + 2
    # Only what is another setting is said.
    assert "the same" in settings.values()
    assert not any(text.startswith(f"{usual}\u00a0") for text in settings.values())


def test_a_dial_far_from_any_survey_is_called_a_guess(browse, technician, element):
    room.survey(technician, element, truth=flat(190.0))
    assert "A guess: no survey was within 15 K of that setting" in room.words(
        browse.get(f"{PATH}?target_c=150")
    )


def test_wrong_targets_and_an_unmeasured_press(browse, element):
    assert "Heron has no calibration line yet" in room.words(browse.get(PATH))
    answer = browse.get(f"{PATH}?target_c=9000")
    assert answer.status_code == 422
    assert "9000 is out of range" in room.words(answer)


def test_a_survey_at_another_setting_is_no_drift(technician, element):
    """Gain 1.05: 2 K of offset more at 40 K more on the dial, and the chart stays quiet."""
    for age in range(60, 0, -10):
        room.survey(technician, element, grid="3x3", days_ago=age, truth=flat(190.0 + age % 3 / 5))
    room.survey(technician, element, grid="3x3", set_c=235.0, target_c=235.0, truth=flat(232.0))
    room.survey(technician, element, grid="3x3", truth=flat(190.0))
    state = floor()[0].state
    assert not state.drifting
    assert state.chart.speaks_now == ()
    assert max(state.charted_c) - min(state.charted_c) < 1.0


def test_fahrenheit(browse, technician, element):
    room.survey(technician, element, truth=flat(190.0))
    technician.temperature_unit = "f"
    technician.save()
    assert "For 383 °F true, set Heron to 392 °F" in room.words(browse.get(f"{PATH}?target_c=383"))


def test_a_spot_check_that_jumped_moves_the_setting_everywhere(browse, technician, element):
    room.survey(technician, element, days_ago=9, truth=flat(190.0))
    place = np.array([[100.0, 100.0]])
    before = true_temperature(element, place, 195.0, None).value_c[0]
    room.survey(technician, element, grid="spot", truth=flat(184.0))
    after = true_temperature(element, place, 195.0, None)
    assert after.value_c[0] == pytest.approx(before - 6, abs=0.5)
    page = room.words(browse.get("/presses/heron/"))
    assert "Set Heron to 206 °C" in page
    assert "K colder than the map: the setting above allows for that" in page
    assert "For 195 °C true, set Heron to 206 °C" in room.words(browse.get(PATH))
    told = browse.get("/presses/heron/place/", {"x_mm": "100", "y_mm": "100"}).content.decode()
    assert "dial at 206" in told.replace("\u00a0", " ")


def test_a_spot_check_that_agrees_changes_nothing(browse, technician, element):
    room.survey(technician, element, days_ago=9, truth=flat(190.0))
    room.survey(technician, element, grid="spot", truth=flat(190.4))
    assert press_temperature(element, None).moved.shift_c == pytest.approx(0.1, abs=0.1)
    page = room.words(browse.get("/presses/heron/"))
    assert "Set Heron to 200 °C" in page
    assert "than its map" not in page


def test_a_spot_check_counts_from_its_own_moment(technician, element):
    survey = room.survey(technician, element, days_ago=9, truth=flat(190.0))
    spot = room.survey(technician, element, grid="spot", days_ago=2, truth=flat(184.0))
    place = np.array([[200.0, 250.0]])
    earlier = true_temperature(element, place, 195.0, survey.taken_at)
    later = true_temperature(element, place, 195.0, spot.taken_at)
    assert earlier.value_c[0] - later.value_c[0] == pytest.approx(6, abs=0.5)
