"""Pressure out and in: tables, strips from files, and the made-up scan."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.pressure import actions, queries
from tempermark.web.pressure.models import ContactReading, KnobLesson, PressureSurvey, RaisedPart
from tests.support import room
from tests.web.pressure.test_maps import left_weak, strips

PAGE = "/presses/heron/pressure/"
TABLES = {"knobs": KnobLesson, "contacts": ContactReading, "raised": RaisedPart}


@pytest.fixture
def known(technician, element):
    """A room with a learned knob, two readings and a drawn seam."""
    actions.learn(technician, element.press, [(0.0, 2.0), (1.0, 2.75), (4.0, 5.25)])
    reading = {"means": "load_cell", "contact_kpa": 31.5, "stack_mm": 1.2, "position_turns": 0.25}
    actions.add_reading(technician, element.press, reading)
    actions.add_reading(
        technician, element.press, {"means": "film", "contact_kpa": 20.0, "figure": 4.0}
    )
    part = {"kind": "seam", "x_mm": 1.5, "y_mm": 2, "width_mm": 30, "depth_mm": 4, "rises_mm": 2.5}
    RaisedPart.objects.create(blank=room.blank(), on_back=True, **part)


def rows_of(name):
    left_out = ("id", "press", "by", "blank")
    fields = [f.name for f in TABLES[name]._meta.fields if f.name not in left_out]
    return list(TABLES[name].objects.order_by("pk").values_list(*fields))


def take_in(browse, name, raw):
    form = {"table": name, "file": SimpleUploadedFile("table", raw)}
    return browse.post("/files/table/", form)


@pytest.mark.parametrize("kind", ["csv", "json"])
@pytest.mark.parametrize("name", list(TABLES))
def test_a_table_comes_in_again_as_it_went_out(browse, known, name, kind):
    raw, before = browse.get(f"/files/{name}.{kind}").content, rows_of(name)
    assert "0 rows added" in room.words(take_in(browse, name, raw))
    TABLES[name].objects.all().delete()
    assert f"{len(before)} rows added" in room.words(take_in(browse, name, raw))
    assert rows_of(name) == before


def test_a_wrong_row_changes_nothing(browse, known):
    raw = b"press,at,shims\nHeron,2026-01-01T10:00,0:1 1:1\n"
    assert "no lift per turn follows" in room.words(take_in(browse, "knobs", raw))
    raw = b"press,at,shims\nHeron,2026-01-01T10:00,0:1 thin\n"
    assert "is not a pair" in room.words(take_in(browse, "knobs", raw))
    assert KnobLesson.objects.count() == 1


def send(browse, raw):
    return browse.post(f"{PAGE}strips/file/", {"file": SimpleUploadedFile("strips", raw)})


def test_a_map_comes_in_again_and_only_once(browse, technician, element):
    made = strips(technician, element, left_weak)
    raw = browse.get(f"/pressure-maps/{made.pk}/map.json").content
    assert send(browse, raw).url == made.get_absolute_url()
    made.delete()
    assert send(browse, raw).status_code == 302
    again = PressureSurvey.objects.get()
    assert (again.verdict, again.right_mm) == (made.verdict, pytest.approx(made.right_mm))
    assert [s.label for s in queries.stations(again)][:2] == ["A1", "B1"]


def test_strips_as_csv(browse, element):
    raw = "x_mm;y_mm;pull\n20,5;20;holds\n380;20;tears\n20;480;free\n380;480;holds\n"
    assert send(browse, raw.encode()).status_code == 302
    assert PressureSurvey.objects.get().verdict == "fail"


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"x_mm,y_mm,pull\n20,20,hard\n", "is unknown"),
        (b"x_mm,y_mm,pull\n900,20,free\n", "right is 0 to 400 mm"),
        (b"x_mm,y_mm,pull\n20,20,free\n20,20,holds\n", "same place"),
        (b"x_mm,y_mm,value_c\n20,20,190\n", "Unknown here: value_c"),
        (b"", "empty"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"{", "Not JSON"),
        (b"0" * (1024 * 1024 + 1), "at most 1 MB"),
    ],
)
def test_files_that_hold_no_strips_are_refused(browse, element, raw, said):
    response = send(browse, raw)
    assert response.status_code == 422
    assert said in room.words(response)
    assert not PressureSurvey.objects.exists()


def test_temperatures_are_no_strips_and_strips_no_temperatures(browse, technician, element):
    survey = room.survey(technician, element)
    raw = browse.get(f"/surveys/{survey.pk}/survey.json").content
    assert "holds no strips" in room.words(send(browse, raw))
    pulls = browse.get(f"/pressure-maps/{strips(technician, element, left_weak).pk}/map.json")
    upload = SimpleUploadedFile("s.json", pulls.content)
    response = browse.post("/presses/heron/surveys/import/", {"file": upload})
    assert "import it where strips are pulled" in room.words(response)


def test_another_platens_strips_are_refused(browse, technician, element):
    document = json.loads(
        browse.get(f"/pressure-maps/{strips(technician, element, left_weak).pk}/map.json").content
    )
    document["platen"]["width_mm"] = 500
    text = room.words(send(browse, json.dumps(document).encode()))
    assert "platen is 500 × 500 mm, this one 400 × 500 mm" in text


def test_the_made_up_scan_is_read_as_it_was_made(browse, element):
    scan = browse.get(f"{PAGE}made-up-print.png").content
    data = {"bar_mm": "100", "stack_mm": "1", "file": SimpleUploadedFile("s.png", scan)}
    browse.post(f"{PAGE}print/", data)
    survey = PressureSurvey.objects.get()
    assert survey.right_mm == pytest.approx(0.6, rel=0.1)
    assert survey.hollow_mm == pytest.approx(0.5, rel=0.1)
