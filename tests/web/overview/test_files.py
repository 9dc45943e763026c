"""Instruments as tables, and many surveys at once: folders and archives."""

import io
import zipfile
from datetime import date

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.measure.exchange import bulk
from tempermark.web.measure.models import Instrument, PadComparison, Survey
from tempermark.web.presses.models import Element, PressEvent
from tempermark.web.presses.register import record_event
from tests.support import room
from tests.web.measure import test_comparison
from tests.web.presses.test_register_files import out, take_in


def tools():
    Instrument.objects.create(
        name="Gun 1",
        kind="infrared",
        emissivity_setting=0.95,
        corrections=[[0.3, -0.3], [99.2, 0.8]],
        checked_on=date(2026, 5, 1),
    )
    Instrument.objects.create(name="Strips", kind="strip", fields_c=[182.0, 188.5], retired=True)
    return [f.name for f in Instrument._meta.fields if f.name != "id"]


@pytest.mark.parametrize("kind", ["csv", "json"])
def test_instruments_go_out_and_come_in_unchanged(browse, kind):
    names = tools()
    before = list(Instrument.objects.order_by("name").values_list(*names))
    text = out(browse, kind, "instruments")
    Instrument.objects.all().delete()
    assert "2 instruments added" in room.words(take_in(browse, text, "instruments"))
    assert list(Instrument.objects.order_by("name").values_list(*names)) == before
    assert "2 known ones" in room.words(take_in(browse, text, "instruments"))


@pytest.mark.parametrize(
    ("change", "told"),
    [
        (("0.3:-0.3", "0.3;-0.3"), "is not a pair"),
        (("infrared", "crystal"), "“crystal” is unknown; known are infrared"),
        (("Strips", "Gun 1"), "is in the file twice"),
    ],
)
def test_wrong_instruments_change_nothing(browse, change, told):
    tools()
    text = out(browse, "csv", "instruments").replace(*change)
    Instrument.objects.all().delete()
    answer = take_in(browse, text, "instruments")
    assert answer.status_code == 422
    assert told in room.words(answer)
    assert not Instrument.objects.exists()


def many(browse, *files, field="files"):
    uploads = [SimpleUploadedFile(name, raw) for name, raw in files]
    return browse.post("/files/surveys/", {field: uploads})


def archive(browse, query=""):
    return browse.get(f"/files/surveys.zip{query}").content


def members(raw):
    with zipfile.ZipFile(io.BytesIO(raw)) as opened:
        return [(name, opened.read(name)) for name in opened.namelist()]


def figures():
    rows = Survey.objects.order_by("taken_at")
    return [(s.element.press.name, s.set_c, round(s.mean_true_c, 6)) for s in rows]


@pytest.fixture
def two_presses(technician, element):
    room.survey(technician, element, grid="3x3", days_ago=9)
    room.survey(technician, element, grid="3x3", days_ago=2, set_c=200.0)
    room.survey(technician, room.element("Grebe"), grid="3x3", days_ago=5)


def test_an_archive_goes_out_and_its_folder_comes_in(browse, two_presses):
    raw, before = archive(browse), figures()
    assert sorted({n.split("/")[0] for n, _ in members(raw)}) == ["grebe", "heron"]
    Survey.objects.all().delete()
    answer = many(browse, *members(raw), field="folder")
    assert "3 of 3 files imported" in room.words(answer)
    assert figures() == before


def test_an_archive_comes_in_as_it_is_and_twice_makes_no_more(browse, two_presses):
    raw = archive(browse, "?press=heron")
    Survey.objects.all().delete()
    assert "2 of 2 files imported" in room.words(many(browse, ("all.zip", raw)))
    again = room.words(many(browse, ("all.zip", raw)))
    assert "0 of 2 files imported" in again
    assert "is here already" in again
    assert Survey.objects.count() == 2


def test_a_file_of_a_survey_that_is_here_makes_no_second_one(browse, two_presses):
    told = room.words(many(browse, ("all.zip", archive(browse))))
    assert "0 of 3 files imported" in told
    assert Survey.objects.count() == 3


def test_a_file_without_a_moment_is_known_by_its_content(browse, element):
    head = b"# press: Heron\n# set_c: 195\n# target_c: 195\n# tolerance_c: 5\n"
    plain = head + b"x_mm,y_mm,value_c\n1,2,190\n"
    many(browse, ("a.csv", plain))
    assert "was imported before" in room.words(many(browse, ("b.csv", plain)))
    assert Survey.objects.count() == 1


def test_files_are_taken_all_or_none_each_with_its_line(browse, element):
    head = b"# press: heron\n# set_c: 195\n# target_c: 195\n# tolerance_c: 5\n"
    good = head + b"x_mm,y_mm,value_c\n1,2,190\n"
    answer = many(
        browse,
        ("a good one.csv", good),
        ("nameless.csv", good.replace(b"# press: heron\n", b"")),
        ("elsewhere.csv", good.replace(b"heron", b"Swan")),
        ("off.csv", good.replace(b"1,2,190", b"900,2,190")),
        ("noise.bin", bytes(range(256))),
        ("no setting.csv", good.replace(b"# set_c: 195\n", b"")),
    )
    told = room.words(answer)
    assert answer.status_code == 422
    assert "Nothing was imported: 5 of 6 files cannot be" in told
    assert "a good one.csv not imported fine, but not imported because another file is not" in told
    assert "It does not name its press" in told
    assert "No press here is called Swan. Known: Heron." in told
    assert "x_mm 900 is off the platen" in told
    assert "The file does not give the setting" in told
    assert not Survey.objects.exists()
    assert "1 of 1 file imported" in room.words(many(browse, ("a good one.csv", good)))


def test_an_archive_with_one_bad_file_changes_nothing(browse, two_presses):
    raw = archive(browse)
    Survey.objects.all().delete()
    spoiled = zipped(*members(raw), ("heron/broken.json", b"{"))
    told = room.words(many(browse, ("all.zip", spoiled)))
    assert "Nothing was imported: 1 of 4 files cannot be" in told
    assert told.count("fine, but not imported") == 3
    assert not Survey.objects.exists()


def zipped(*files):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as opened:
        for name, raw in files:
            opened.writestr(name, raw)
    return made.getvalue()


def test_archives_are_bounded_whatever_they_say(browse, element, monkeypatch):
    monkeypatch.setattr(bulk, "LARGEST_SUM_BYTES", 2 * 2**20)
    bomb = zipped(*[(f"{i}.csv", b"0" * 2**20) for i in range(4)])
    assert len(bomb) < 10_000
    assert "unpacked" in room.words(many(browse, ("bomb.zip", bomb)))
    monkeypatch.setattr(bulk, "MOST_FILES", 3)
    assert "over 3 files" in room.words(many(browse, ("many.zip", bomb)))
    broken = many(browse, ("broken.zip", zipped(("a", b"b"))[:40]))
    assert "not a readable archive" in room.words(broken)


def test_names_in_an_archive_are_only_shown(browse, element):
    told = many(browse, ("x.zip", zipped(("../../<b>etc</b>/passwd", b"x"))))
    assert "&lt;b&gt;etc" in told.content.decode()


def test_nothing_chosen_is_said(browse, element):
    answer = browse.post("/files/surveys/", {})
    assert answer.status_code == 422
    assert "Choose at least one file" in room.words(answer)


def test_a_clerk_takes_out_and_puts_nothing_in(client, clerk, element):
    client.force_login(clerk)
    assert client.get("/files/").status_code == 200
    assert client.get("/files/register.json").status_code == 200
    assert many(client, ("a.csv", b"x")).status_code == 403


@pytest.mark.parametrize("kind", ["csv", "json"])
def test_comparisons_go_out_and_are_learned_anew(browse, element, kind):
    gun, probe = test_comparison.tools()
    test_comparison.compare(browse, gun, probe)
    kept = PadComparison.objects.get()
    text = out(browse, kind, "comparisons")
    PadComparison.objects.all().delete()
    assert "1 comparisons added" in room.words(take_in(browse, text, "comparisons"))
    again = PadComparison.objects.get()
    assert again.covariance == kept.covariance
    assert (again.taken_at, again.correction_c) == (kept.taken_at, kept.correction_c)
    assert "1 were there already" in room.words(take_in(browse, text, "comparisons"))
    spoiled = text.replace("Probe 2", "Probe 9")
    assert take_in(browse, spoiled, "comparisons").status_code == 422


def test_events_go_out_and_in_and_make_older_maps_history(client, lead, element):
    client.force_login(lead)
    record_event(lead, element.press, "pad", "new sponge")
    text = out(client, "csv", "events")
    PressEvent.objects.all().delete()
    Element.objects.update(map_since=None)
    assert "1 events added" in room.words(take_in(client, text, "events"))
    assert PressEvent.objects.get().note == "new sponge"
    element.refresh_from_db()
    assert element.map_since == PressEvent.objects.get().at
