"""The register as a table: out and in unchanged, changed whole or not at all."""

import csv
import io
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.presses.models import Element, Press
from tests.support import room


@pytest.fixture
def leading(client, lead):
    client.force_login(lead)
    return client


def press(name="Heron", **fields):
    made = room.element(name, **fields)
    Element.objects.create(
        press=made.press, role="lower", width_mm=400, height_mm=500, own_setting=True
    )
    return made.press


def out(browse, kind="csv", name="register"):
    return browse.get(f"/files/{name}.{kind}").content.decode()


def take_in(browse, raw, table="register", name="register.csv"):
    raw = raw if isinstance(raw, bytes) else raw.encode()
    form = {"table": table, "file": SimpleUploadedFile(name, raw)}
    return browse.post("/files/table/", form)


def state():
    own = [f.name for f in Press._meta.fields if f.name != "id"]
    parts = [f.name for f in Element._meta.fields if f.name not in ("id", "press", "fitted_on")]
    presses = list(Press.objects.order_by("name").values_list(*own))
    return presses, list(Element.objects.order_by("press__name", "role").values_list(*parts))


@pytest.mark.parametrize("kind", ["csv", "json"])
def test_a_room_goes_out_and_comes_into_an_empty_one(leading, kind):
    press(
        note="=1+1; it's “odd”",
        control_low_c=20.5,
        timer_max_s=99,
        pad="silicone",
        pad_since="2026-02-01",
        tightens="clockwise",
        lift_mm_per_turn=1.25,
    )
    press("Grebe")
    Element.objects.filter(press__name="Grebe", role="lower").update(taken_out_on="2026-01-05")
    text, before = out(leading, kind), state()
    Element.objects.all().delete()
    Press.objects.all().delete()
    answer = take_in(leading, text)
    assert "2 presses added" in room.words(answer)
    presses, elements = state()
    assert presses == before[0]
    assert [e[:-2] for e in elements] == [e[:-2] for e in before[1]]
    assert Element.objects.exclude(taken_out_on=None).count() == 1


def test_a_spreadsheet_runs_nothing_of_it(leading):
    press(note="=HYPERLINK(1)")
    rows = list(csv.DictReader(io.StringIO(out(leading))))
    assert rows[0]["note"] == "'=HYPERLINK(1)"
    assert json.loads(out(leading, "json"))["presses"][0]["note"] == "=HYPERLINK(1)"


def test_known_presses_are_brought_up_to_date(leading):
    press()
    text = out(leading).replace("swing_away", "clamshell")
    assert "0 presses added, 1 known ones updated" in room.words(take_in(leading, text))
    assert Press.objects.get().kind == "clamshell"
    assert Element.objects.count() == 2


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (
            ("swing_away", "waffle"),
            "Line 2, kind: “waffle” is unknown; known are clamshell, swing_away",
        ),
        (("400", "5"), "element_width_mm: 5 is out of range"),
        (("195", "hot"), "Line 2, target_c: “hot” is not a number"),
        (("400", "410"), "Exchange it on its page"),
        (("name,kind", "name,colour"), "Unknown here: colour"),
    ],
)
def test_a_file_with_anything_wrong_changes_nothing(leading, change, told):
    press()
    before = state()
    answer = take_in(leading, out(leading).replace(*change))
    assert answer.status_code == 422
    assert told in room.words(answer)
    assert state() == before


@pytest.mark.parametrize(
    ("raw", "told"),
    [
        (b"", "The file is empty"),
        (b"name,kind\n", "no rows"),
        (b"\xff\xd8\xff", "not UTF-8"),
        (b"{", "Not JSON"),
        (b'{"format": "tempermark.survey/1"}', "tempermark.register/1"),
    ],
)
def test_foreign_files_say_what_is_needed(leading, raw, told):
    answer = take_in(leading, raw)
    assert answer.status_code == 422
    assert told in room.words(answer)


def test_the_register_is_a_leads(browse, element):
    assert take_in(browse, out(browse)).status_code == 403
    assert browse.get("/files/register.csv").status_code == 200
    assert browse.get("/files/people.csv").status_code == 404
