"""A survey by indicator strips: typed as people say it, told with its vagueness, out and in."""

import json
from uuid import uuid4

import pytest

from tempermark.core.errors import InputError
from tempermark.web.measure.exchange import reading as exchange
from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions
from tempermark.web.measure.surveys.grids import grid_places
from tests.support import room
from tests.web.measure.test_exchange import send
from tests.web.measure.test_survey import start

FIELDS = [171.0, 177.0, 182.0, 188.0, 193.0, 199.0]


def strips(**fields):
    plain = {"name": "Strips", "kind": "strip", "fields_c": FIELDS, "expanded_uncertainty_c": 2.0}
    return Instrument.objects.create(**plain | fields)


def strip_survey(who, on, shows="188", **changes):
    head = room.header(grid="3x3", method="strip", instrument=strips(), **changes)
    survey = actions.start_survey(who, on, head, grid_places("3x3", 400, 500))
    for station in survey.stations.all():
        actions.enter_reading(who, station, shows, uuid4())
    return survey


def test_the_last_field_that_turned_bounds_from_both_sides(technician, element):
    survey = strip_survey(technician, element)
    reading = survey.stations.first().readings.get()
    assert (reading.at_least_c, reading.below_c) == (188.0, 193.0)
    computed = compute_survey(survey)
    assert 188 < computed.result.mean_c < 193
    assert computed.read[0].true.expanded_uncertainty_c > 2
    assert computed.mean_uncertainty_c > 2


def test_the_page_shows_what_strips_leave_open(browse, technician, element):
    survey = actions.finish(technician, strip_survey(technician, element))
    page = room.soup(browse.get(survey.get_absolute_url()))
    figures = [t.text for t in page.select(".station-figure")]
    assert len(figures) == 9
    assert all("–" in f for f in figures)
    assert "indicator strips" in room.words(browse.get(survey.get_absolute_url()))


def test_contradicting_strips_at_one_place_are_refused_and_kept_typed(browse, technician, element):
    survey = strip_survey(technician, element)
    station = survey.stations.first()
    form = {"station": station.pk, "typed": "below 182", "once": uuid4()}
    answer = browse.post(f"/surveys/{survey.pk}/readings/", form, headers={"HX-Request": "true"})
    assert answer.status_code == 422
    assert "A1 cannot be at least 188 °C and below 182 °C: undo one first" in room.words(
        answer, "#entry-box"
    )
    assert room.soup(answer).select_one("#typed")["value"] == "below 182"
    actions.enter_reading(technician, station, "at least 190", uuid4())
    computed = compute_survey(survey)
    assert computed.stations[0].bounds_c == (190.0, 193.0)


def test_only_strips_go_with_the_method(browse, element):
    tool = strips()
    answer = start(browse, method="strip", instrument=tool.pk, grid="3x3")
    assert answer.status_code == 302
    assert Survey.objects.get().method == "strip"
    gun = Instrument.objects.create(name="Gun 1", kind="infrared")
    answer = start(browse, method="strip", instrument=gun.pk)
    assert "Gun 1 is a “infrared gun”" in room.words(answer)
    assert Survey.objects.count() == 1


def test_corrections_move_both_bounds(technician, element):
    survey = strip_survey(technician, element)
    Survey.objects.filter(pk=survey.pk).update(corrections=[[150.0, 1.5], [250.0, 1.5]])
    survey.refresh_from_db()
    assert compute_survey(survey).read[0].bounds_c == (189.5, 194.5)


@pytest.mark.parametrize("shows", ["188", "below 199", "at least 182"])
def test_json_and_csv_give_the_bounds_back(browse, technician, element, shows):
    survey = actions.finish(technician, strip_survey(technician, element, shows))
    before = compute_survey(survey)
    text = browse.get(f"/surveys/{survey.pk}/survey.json").content
    send(browse, text)
    again = compute_survey(Survey.objects.latest("pk"))
    assert [v.bounds_c for v in again.stations] == [v.bounds_c for v in before.stations]
    assert again.result.mean_c == before.result.mean_c
    plain = browse.get(f"/surveys/{survey.pk}/survey.csv").content
    assert b"at_least_c,below_c" in plain
    send(browse, plain)
    last = Survey.objects.latest("pk")
    assert last.method == "strip"
    assert [v.bounds_c for v in compute_survey(last).stations] == [
        v.bounds_c for v in before.stations
    ]


def test_a_foreign_document_may_mix_figures_and_bounds(element):
    rows = [{"x_mm": 20 + 90 * i, "y_mm": 30 + 100 * (i % 3), "value_c": 190} for i in range(5)]
    rows[2] = {"x_mm": 200, "y_mm": 400, "at_least_c": 188, "below_c": 193}
    rows[3] = {"x_mm": 300, "y_mm": 450, "below_c": 182}
    document = {
        "format": "tempermark.survey/1",
        "platen": {"width_mm": 400, "height_mm": 500},
        "set_c": 195,
        "target_c": 195,
        "tolerance_c": 5,
        "readings": rows,
    }
    imported = exchange.read_file(json.dumps(document).encode(), element)
    assert imported.header["method"] == "strip"
    assert imported.stations[2].shown[0].typed == "188-193 c"
    document["readings"][2]["below_c"] = 180
    with pytest.raises(InputError, match="not above at_least_c 188"):
        exchange.read_file(json.dumps(document).encode(), element)


def test_bad_csv_bounds_name_their_lines(element):
    text = "x_mm,y_mm,at_least_c,below_c\n10,10,190,180\n20,20,,\n30,30,188,193\n40,40,x,\n"
    with pytest.raises(InputError) as caught:
        exchange.read_file(text.encode(), element)
    told = [p.message for p in caught.value.problems]
    assert told == [
        "Line 2: below_c 180 is not above at_least_c 190.",
        "Line 3: neither of at_least_c and below_c is given.",
        "Line 5: at_least_c “x” is no number; a figure like 188.4 is needed.",
    ]


def test_the_fields_of_strips_are_typed_and_shown_in_the_persons_unit(browse, technician):
    technician.temperature_unit = "f"
    technician.save()
    data = {
        "name": "Strips",
        "kind": "strip",
        "expanded_uncertainty_c": "3,6",
        "check_every_days": "365",
        "fields_c": "360 370; 380f 182c",
    }
    assert browse.post("/instruments/new/", data).status_code == 302
    tool = Instrument.objects.get()
    assert tool.fields_c == pytest.approx([182.0, 182.222, 187.778, 193.333], abs=0.001)
    page = room.soup(browse.get(f"/instruments/{tool.pk}/"))
    assert page.select_one("[name=fields_c]")["value"] == "359.6 360 370 380"
