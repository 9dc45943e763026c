"""Files in and out: understood whole, or refused with every reason."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.files.survey import answer
from tempermark.web.measure.models import Reading, Survey
from tests.support import room

GOOD = "x_mm,y_mm,value_c\n20,20,188.4\n380,20,190.1\n20,480,181.0\n380,480,189.9\n200,250,191.2\n"


def send(browse, raw, name="survey.csv", **fields):
    raw = raw.encode() if isinstance(raw, str) else raw
    key = room.soup(browse.get("/presses/heron/surveys/import/")).select_one("[name=once]")["value"]
    data = {"set_c": "195", "target_c": "195", "tolerance_c": "5", "once": key, **fields}
    return browse.post(
        "/presses/heron/surveys/import/", data | {"file": SimpleUploadedFile(name, raw)}
    )


def test_csv(browse, element):
    response = send(browse, GOOD)
    survey = Survey.objects.get()
    assert response.url == survey.get_absolute_url()
    assert Reading.objects.count() == 5
    assert survey.mean_true_c == pytest.approx(188.12)


def test_fahrenheit_semicolons_commas(browse, element):
    send(browse, "x_mm;y_mm;value_f\n20,5;20;383,0\n380;20;374\n20;480;372\n")
    shown = Reading.objects.values_list("shown_c", flat=True)
    assert sorted(round(v, 2) for v in shown) == [188.89, 190.0, 195.0]


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        ("", "empty"),
        ("x_mm,y_mm\n1,2\n", "value_c"),
        (GOOD + "1,2,hot\n", "Line 7: value_c “hot” is no number"),
        (GOOD + "1,2,=SUM(A1)\n", "formulas are not read"),
        (GOOD + "1,2,600.5\n", "600"),
        (GOOD + "1,2,-300\n", "-300"),
        (GOOD + "401,2,190\n", "x_mm 401 is off the platen; right is 0 to 400"),
        (GOOD + "20,20,190\n", "stands already on line 2"),
        (GOOD.encode("utf-16-le"), "no text file"),
        (b"\xff\xd8\xff\xe0\x00\x10JFIF", "Line 1"),
        ('{"format":"tempermark.survey/1"}', "missing"),
        ('{"format":"tempermark.case/1"}', "tempermark.survey/1"),
        ("{", "Not JSON"),
    ],
)
def test_bad_files_import_nothing_and_say_why(browse, element, raw, said):
    response = send(browse, raw, tolerance_c="4,5")
    assert response.status_code == 422
    assert said in room.words(response)
    assert not Survey.objects.exists()
    assert room.soup(response).select_one("[name=tolerance_c]")["value"] == "4,5"


def test_fifty_megabytes_are_refused_with_the_limit(browse, element):
    response = send(browse, b"x" * 50_000_000)
    assert "50 MB; right is at most 4 MB" in room.words(response)
    assert not Survey.objects.exists()


def test_a_body_beyond_all_measure_is_not_even_read(browse, element, settings):
    settings.REQUEST_LIMIT_BYTES = 1000
    assert send(browse, b"x" * 2000).status_code == 413


def test_the_same_form_twice_is_one_survey(browse, element):
    key = "5f2c1c9e-6d0e-4e55-9a53-1d9a3a2f9a10"
    send(browse, GOOD, once=key)
    send(browse, GOOD, once=key)
    assert Survey.objects.count() == 1


def test_what_the_file_does_not_say_must_be_typed(browse, element):
    response = send(browse, GOOD, set_c="", target_c="", tolerance_c="")
    assert "does not give the setting" in room.words(response)
    send(
        browse,
        "# set_c: 195\n# target_c: 195\n# tolerance_c: 5\n" + GOOD,
        set_c="",
        target_c="",
        tolerance_c="",
    )
    assert Survey.objects.get().set_c == 195


def without_when(document):
    return {**document, "survey": {**document["survey"]}}


def test_json_goes_out_and_comes_in_unchanged(browse, technician, element):
    first = room.survey(technician, element, method="pad", delay_s=3.0, note="after the new pad")
    station = first.stations.first()
    Reading.objects.filter(station=station).update(seconds_after_opening=2.0)
    out = browse.get(f"/surveys/{first.pk}/survey.json")
    send(browse, out.content, "survey.json", set_c="", target_c="", tolerance_c="")
    second = Survey.objects.exclude(pk=first.pk).get()
    again = browse.get(f"/surveys/{second.pk}/survey.json")
    assert json.loads(again.content) == json.loads(out.content)
    assert second.mean_true_c == pytest.approx(first.mean_true_c)


def test_an_unfinished_survey_keeps_its_unread_stations(browse, technician, element):
    first = room.survey(technician, element, finish=False, grid="3x3")
    Reading.objects.filter(station__label__in=["B2", "C3"]).delete()
    out = browse.get(f"/surveys/{first.pk}/survey.json")
    send(browse, out.content, "survey.json", set_c="", target_c="", tolerance_c="")
    second = Survey.objects.exclude(pk=first.pk).get()
    assert second.finished_at is None
    assert list(second.stations.values_list("label", flat=True)) == list(
        first.stations.values_list("label", flat=True)
    )


def test_csv_goes_out_and_comes_in_unchanged(browse, technician, element):
    first = room.survey(technician, element)
    out = browse.get(f"/surveys/{first.pk}/survey.csv")
    send(browse, out.content, set_c="", target_c="", tolerance_c="")
    second = Survey.objects.exclude(pk=first.pk).get()
    assert browse.get(f"/surveys/{second.pk}/survey.csv").content == out.content


def test_an_export_is_a_valid_document_of_the_command(browse, technician, element):
    made = room.survey(technician, element)
    document = json.loads(browse.get(f"/surveys/{made.pk}/survey.json").content)
    assert answer(document)["mean_c"] == pytest.approx(made.mean_true_c, abs=1e-3)


def test_another_press_s_platen_is_refused(browse, technician, element):
    made = room.survey(technician, element)
    raw = browse.get(f"/surveys/{made.pk}/survey.json").content.replace(
        b'"width_mm": 400.0', b'"width_mm": 380.0'
    )
    assert "Choose the press it was taken on" in room.words(send(browse, raw, "s.json"))
