"""Instruments: checked, overdue, and what they bring into a survey."""

import json
from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions
from tests.support import room
from tests.web.measure.test_exchange import send
from tests.web.measure.test_survey import start


def probe(**fields):
    plain = {"name": "Probe 2", "kind": "contact", "expanded_uncertainty_c": 1.0}
    return Instrument.objects.create(**{**plain, "checked_on": timezone.localdate(), **fields})


def test_added_changed_and_named_once(browse):
    data = {
        "name": "Gun 1",
        "kind": "infrared",
        "expanded_uncertainty_c": "1,5",
        "emissivity_setting": "0.95",
        "check_every_days": "90",
    }
    browse.post("/instruments/new/", data)
    gun = Instrument.objects.get()
    assert (gun.expanded_uncertainty_c, gun.emissivity_setting) == (1.5, 0.95)
    again = browse.post("/instruments/new/", data)
    assert again.status_code == 422
    assert "of that name already" in room.words(again)
    browse.post(f"/instruments/{gun.pk}/", data | {"check_every_days": "30"})
    gun.refresh_from_db()
    assert gun.check_every_days == 30
    assert "check it first" in room.words(browse.get("/instruments/"))


def test_emissivity_of_nothing_is_refused(browse):
    data = {"name": "G", "kind": "infrared", "expanded_uncertainty_c": "1", "check_every_days": "9"}
    response = browse.post("/instruments/new/", data | {"emissivity_setting": "0"})
    assert response.status_code == 422
    assert "0.01" in room.words(response)
    assert not Instrument.objects.exists()


def test_ice_and_boiling_points_give_the_correction(browse):
    tool = probe(checked_on=None)
    path = f"/instruments/{tool.pk}/check/"
    browse.post(path, {"ice_c": "0,4", "boil_c": "96.1", "pressure_kpa": "90"})
    tool.refresh_from_db()
    (ice, first), (boil, second) = tool.corrections
    assert (ice, first, boil) == (0.4, -0.4, 96.1)
    assert second == pytest.approx(96.71 - 96.1, abs=0.1)
    assert tool.checked_on == timezone.localdate()
    text = room.words(browse.get("/instruments/"))
    assert "−0.4 K at 0 °C" in text


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ({}, "Give the reading in melting ice"),
        ({"boil_c": "97"}, "Water boils at less the higher you are"),
        ({"ice_c": "55"}, "read again"),
        ({"boil_c": "97", "altitude_m": "90000"}, "5500"),
    ],
)
def test_a_check_that_tells_nothing_is_refused_and_kept(browse, data, said):
    tool = probe(checked_on=None)
    response = browse.post(f"/instruments/{tool.pk}/check/", data)
    assert response.status_code == 422
    assert said in room.words(response)
    tool.refresh_from_db()
    assert tool.corrections == []
    for value in data.values():
        assert f'value="{value}"' in response.content.decode()


def read_all(who, survey, figure):
    for station in survey.stations.all():
        room.actions.enter_reading(who, station, figure, uuid4())


def test_a_survey_carries_the_instrument_s_corrections(browse, technician, element):
    tool = probe(corrections=[[100.0, 1.0], [200.0, 3.0]])
    start(browse, grid="3x3", method="contact", instrument=str(tool.pk))
    survey = Survey.objects.get()
    read_all(technician, survey, "150")
    assert compute_survey(survey).result.mean_c == pytest.approx(152.0)
    tool.corrections = [[100.0, 9.0]]
    tool.save()
    survey.refresh_from_db()
    assert compute_survey(survey).result.mean_c == pytest.approx(152.0)


def test_an_overdue_instrument_counts_double_and_says_so(browse, technician, element):
    long_ago = timezone.localdate() - timedelta(days=220)
    tool = probe(checked_on=long_ago, check_every_days=180, corrections=[[0.0, 0.5], [100.0, 0.5]])
    start(browse, grid="3x3", method="contact", instrument=str(tool.pk), soak_min="2")
    survey = Survey.objects.get()
    assert survey.instrument_uncertainty_c == 2.0
    read_all(technician, survey, "190")
    text = room.words(browse.get(f"/surveys/{survey.pk}/"))
    assert "Probe 2 was 40 days past its check: its uncertainty is counted double, ± 2.0 K." in text
    assert "soaked for only 2 min" in text
    assert "was only checked from 0 °C to 100 °C" in text


def test_a_bright_surface_has_its_honest_interval(browse, technician, element):
    survey = room.survey(technician, element, grid="3x3", method="pad", surface_emissivity=0.1)
    text = room.words(browse.get(f"/surveys/{survey.pk}/"))
    assert "A surface of emissivity 0.1 is bright" in text
    worst = max(v.true.expanded_uncertainty_c for v in compute_survey(survey).read)
    assert worst > 20


def test_a_gun_does_not_touch(browse, element):
    gun = probe(name="Gun 1", kind="infrared")
    response = start(browse, grid="3x3", method="contact", instrument=str(gun.pk))
    assert "Gun 1 is a “infrared gun”" in room.words(response)
    assert not Survey.objects.exists()


def test_corrections_travel_with_the_file(browse, technician, element):
    tool = probe(corrections=[[100.0, 1.0], [200.0, 3.0]])
    first = room.survey(
        technician,
        element,
        grid="3x3",
        method="contact",
        instrument=tool,
        corrections=tool.corrections,
    )
    out = browse.get(f"/surveys/{first.pk}/survey.json")
    send(browse, out.content, "survey.json", set_c="", target_c="", tolerance_c="")
    second = Survey.objects.exclude(pk=first.pk).get()
    assert second.instrument == tool
    again = browse.get(f"/surveys/{second.pk}/survey.json")
    assert json.loads(again.content) == json.loads(out.content)


def test_a_figure_outside_its_range_is_said_with_what_it_does_to_the_verdict(
    browse, element, technician
):
    tool = probe(low_c=0.0, high_c=185.0)
    start(browse, method="contact", instrument=tool.pk, grid="3x3")
    survey = Survey.objects.get()
    for i, station in enumerate(survey.stations.all()):
        actions.enter_reading(technician, station, "190" if i == 4 else "180", uuid4())
    told = room.words(browse.get(survey.get_absolute_url()))
    assert "Probe 2 reads from 0 °C to 185 °C: B2 is outside" in told
    assert "The verdict still uses them" in told


def test_a_range_that_runs_down_is_refused(browse):
    data = {
        "name": "Gun 1",
        "kind": "infrared",
        "expanded_uncertainty_c": "1.5",
        "check_every_days": "90",
        "low_c": "300",
        "high_c": "20",
    }
    answer = browse.post("/instruments/new/", data)
    assert "must be above its start" in room.words(answer)


@pytest.mark.parametrize(("typed", "told"), [("0", "a perfect mirror"), ("1.2", "a black one")])
def test_impossible_emissivities_say_why(browse, element, typed, told):
    answer = start(browse, method="pad", surface="", surface_emissivity=typed)
    assert told in room.words(answer)
    assert room.soup(answer).select_one("[name=surface_emissivity]")["value"] == typed
    assert not Survey.objects.exists()
