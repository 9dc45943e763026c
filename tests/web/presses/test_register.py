"""The register: presses, elements, events; what they do to maps."""

import io
from datetime import timedelta
from uuid import uuid4

import pytest
import segno
from django.db import IntegrityError, transaction
from django.utils import timezone

from tempermark.web.measure.surveys import queries
from tempermark.web.presses import register
from tempermark.web.presses.models import Element, Press, PressEvent
from tests.support import room


@pytest.fixture
def leading(client, lead):
    client.force_login(lead)
    return client


def fields(page, **changes):
    """What the form would send, with changes."""
    form = next(f for f in page.select("main form") if f.select("input[name=name]"))
    data = {i["name"]: i.get("value", "") for i in form.select("input[name]")}
    data |= {
        s["name"]: (s.select_one("[selected]") or s.option).get("value", "")
        for s in form.select("select")
    }
    data.pop("own_setting", None)
    return data | changes


def test_a_lead_adds_a_press(leading):
    page = room.soup(leading.get("/presses/new/"))
    data = fields(page, name="Teal", width_mm="15.75 in", height_mm="500", tolerance_c="4")
    response = leading.post("/presses/new/", data)
    press = Press.objects.get()
    assert response.url == "/presses/teal/"
    assert press.tolerance_c == 4
    assert press.elements.get().width_mm == pytest.approx(400.05)
    assert "Teal has never been surveyed" in room.words(leading.get("/"))


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"name": ""}, "required"),
        ({"name": "heron"}, "There is a press named heron already."),
        ({"name": "Labels"}, "cannot be the name of a press"),
        ({"width_mm": "9"}, "9 is out of range. Right is 20 to 5000 mm."),
        ({"control_low_c": "220", "control_high_c": "100"}, "must be above its start"),
        ({"kind": "toaster"}, "valid choice"),
        ({"line_kpa": "80 s"}, "not a unit of pressure"),
    ],
)
def test_wrong_entries_are_said_and_kept(leading, element, changes, said):
    page = room.soup(leading.get("/presses/new/"))
    good = {"name": "Teal", "width_mm": "400", "height_mm": "500", "note": "by the door"}
    response = leading.post("/presses/new/", fields(page, **good) | changes)
    assert response.status_code == 422
    assert said in room.words(response)
    assert 'value="by the door"' in response.content.decode()
    assert Press.objects.count() == 1


def test_a_change_is_kept_and_on_record(leading, element):
    page = room.soup(leading.get("/presses/heron/change/"))
    response = leading.post("/presses/heron/change/", fields(page, line_kpa="80 psi", pad="felt"))
    element.press.refresh_from_db()
    assert response.url == "/presses/heron/"
    assert element.press.line_kpa == pytest.approx(551.6, abs=0.1)
    assert element.press.get_pad_display() == "aramid felt"
    again = fields(room.soup(leading.get("/presses/heron/change/")))
    assert (again["name"], again["pad"]) == ("Heron", "felt")


def test_only_a_lead_changes_presses(browse, element):
    for path in ("/presses/new/", "/presses/heron/change/"):
        assert browse.get(path).status_code == 403
        assert browse.post(path, {"name": "x"}).status_code == 403


def sleeve(**changes):
    plain = {"role": "upper", "label": "Sleeve 90", "shape": "straight"}
    return {**plain, "width_mm": 240.0, "height_mm": 120.0, **changes}


def test_an_exchange_makes_the_old_map_history(browse, technician, element):
    """What was pressed before keeps its map; from the exchange on there is none."""
    room.survey(technician, element, days_ago=3)
    before = timezone.now() - timedelta(days=1)
    browse.post("/presses/heron/elements/", sleeve())
    element.refresh_from_db()
    fitted = Element.objects.get(taken_out_on=None)
    assert fitted.label == "Sleeve 90"
    assert element.taken_out_on
    assert "Heron needs a new survey" in room.words(browse.get("/presses/heron/"))
    assert "Heron needs a new survey." in room.words(browse.get("/"))
    assert "Sleeve 90 in, upper platen out" in room.words(browse.get("/presses/heron/elements/"))
    response = browse.post("/presses/heron/elements/refit/", {"element": element.pk})
    assert response.url == "/presses/heron/"
    element.refresh_from_db()
    assert element.taken_out_on is None
    assert queries.latest_survey(element) is None
    assert queries.latest_survey(element, before=before) is not None
    room.survey(technician, element)
    Element.objects.filter(pk=element.pk).update(map_since=before)
    element.refresh_from_db()
    assert queries.latest_survey(element) is not None


def test_an_element_in_use_cannot_be_put_in_again(browse, element):
    response = browse.post("/presses/heron/elements/refit/", {"element": element.pk}, follow=True)
    assert "not in store" in room.words(response)
    assert not PressEvent.objects.exists()


def test_a_changed_pad_asks_for_a_survey(browse, technician, element):
    room.survey(technician, element, days_ago=3)
    browse.post("/presses/heron/events/", {"kind": "pad", "note": "felt, 6 mm"})
    element.press.refresh_from_db()
    assert element.press.pad_since == timezone.localdate()
    assert "Heron needs a new survey" in room.words(browse.get("/presses/heron/"))
    assert "pad changed felt, 6 mm" in room.words(browse.get("/presses/heron/elements/"))


@pytest.mark.parametrize("kind", ["", "element", "painted"])
def test_no_event_without_a_kind(browse, element, kind):
    browse.post("/presses/heron/events/", {"kind": kind})
    assert not PressEvent.objects.exists()


def test_a_lower_platen_is_surveyed_on_its_own(browse, lead, element):
    lower = register.fit_element(lead, element.press, None, sleeve(role="lower", label=""))
    assert Element.objects.filter(taken_out_on=None).count() == 2
    page = room.soup(browse.get(f"/presses/heron/surveys/new/?element={lower.pk}"))
    assert page.h1
    assert browse.get("/presses/heron/surveys/new/?element=99999").status_code == 404
    room.survey(lead, lower, grid="3x3")
    assert queries.latest_survey(element) is None
    assert queries.latest_survey(lower) is not None


def test_labels_carry_codes_that_open_the_press(browse, element):
    page = room.soup(browse.get("/presses/labels/"))
    image = page.select_one(".label img")
    code = browse.get(image["src"])
    assert code["Content-Type"] == "image/svg+xml"
    assert code.content.startswith(b"<svg")
    assert "Heron" in image["alt"]


def test_codes_open_the_address_tablets_use(browse, element):
    local = browse.get("/presses/labels/", headers={"host": "127.0.0.1"})
    assert "which only works on this machine" in room.words(local)
    page = browse.get("/presses/labels/?base=http://10.1.2.3:8640/")
    assert "which only works on this machine" not in room.words(page)
    source = room.soup(page).select_one(".label img")["src"]
    assert browse.get(source).content == _code("http://10.1.2.3:8640/presses/heron/")


def _code(text):
    out = io.BytesIO()
    segno.make(text, error="m").save(out, kind="svg", scale=4, border=2, xmldecl=False)
    return out.getvalue()


@pytest.mark.parametrize("base", ["javascript:alert(1)", "ftp://a", "http://a/b?c=d", "x" * 300])
def test_codes_open_no_other_kind_of_address(browse, element, base):
    answer = browse.get("/presses/labels/", {"base": base})
    assert answer.status_code == 422
    source = room.soup(answer).select_one(".label img")["src"]
    assert browse.get(source).content == _code("http://testserver/presses/heron/")


def test_everything_noted_is_on_the_presses_page(browse, technician):
    today = timezone.localdate()
    room.element(
        "Heron",
        control_low_c=20,
        control_high_c=225,
        timer_max_s=90,
        timer_starts="button",
        mechanism="pneumatic",
        line_kpa=550,
        cylinders=2,
        cylinder_mm=63,
        pad="felt",
        pad_mm=8,
        pad_condition="hard",
        pad_since=today - timedelta(days=400),
        cover="ptfe",
        cover_condition="torn",
        cover_since=today - timedelta(days=20),
    )
    told = room.words(browse.get("/presses/heron/"))
    for words in (
        "20 °C to 225 °C, steps of 1 K, shows °C",
        "goes up to 90 s, started by a button",
        "pneumatic, air at 550 kPa, 2 cylinders of 63 mm",
        "aramid felt, 8.0 mm, hardened, fitted 13 months ago",
        "PTFE sheet, creased or torn, fitted 20 days ago",
        "flat, 400 × 500 mm",
    ):
        assert words in told


def test_each_heated_element_has_a_page_of_its_own(browse, technician, element):
    lower = Element.objects.create(
        press=element.press, role="lower", width_mm=300, height_mm=300, own_setting=True
    )
    room.survey(technician, element, truth=lambda x, y: 190.0)
    room.survey(technician, lower, set_c=120.0, target_c=120.0, truth=lambda x, y: 117.0)
    first = room.soup(browse.get("/presses/heron/"))
    assert "Set Heron to 200 °C" in first.h1.text.replace("\u00a0", " ")
    path = next(a["href"] for a in first.select("a[href*=element]") if "lower" in a.text)
    page = browse.get("/presses/heron/" + path)
    told = room.words(page)
    assert "Set Heron's lower platen to 123 °C" in told
    assert "Use 123" not in told
    assert "300 × 300 mm" in told
    place = {"x_mm": "150", "y_mm": "150", "element": lower.pk}
    text = browse.get("/presses/heron/place/", place).content.decode().replace("\u00a0", " ")
    assert "with the dial at 123 °C. The dial cannot come nearer to 120 °C" in text
    line = room.words(browse.get(f"/presses/heron/calibration/?element={lower.pk}&target_c=120"))
    assert "to 123 °C" in line
    assert browse.get("/presses/heron/?element=999").status_code == 200


def test_one_upper_element_is_fitted_at_a_time(element):
    """The database itself refuses a second one in the same place."""
    fields = {"press": element.press, "width_mm": 300.0, "height_mm": 300.0}
    with pytest.raises(IntegrityError, match="element_fitted_once"), transaction.atomic():
        Element.objects.create(**fields)
    Element.objects.create(**fields, taken_out_on=timezone.localdate())
    Element.objects.create(**fields, role="lower")


def test_a_race_that_is_lost_ends_in_a_sentence(browse, element, monkeypatch):
    """Two at once: what the database refuses is told, not thrown."""

    def lost(*args, **more):
        return Element.objects.create(press=element.press, width_mm=300.0, height_mm=300.0)

    monkeypatch.setattr(register, "fit_element", lost)
    form = {"role": "upper", "shape": "flat", "width_mm": "300", "height_mm": "300"}
    answer = browse.post("/presses/heron/elements/", form | {"once": str(uuid4())})
    assert answer.status_code == 409
    assert "Somebody else saved the same thing at the same moment" in room.words(answer)
    assert Element.objects.count() == 1
