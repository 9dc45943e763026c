"""What every form on every page carries, and what it does when it is sent twice, by two people, or
after the units were switched.
"""

import re
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4
from zlib import crc32

import pytest
from django.apps import apps
from django.db import connection, models, transaction
from django.test import Client

from tempermark.web.kit.forms.once import ONCE_FIELD, SentForm
from tempermark.web.kit.forms.units import UNITS_FIELD
from tempermark.web.kit.units import IMPERIAL, METRIC
from tempermark.web.measure.models import Instrument, InstrumentCheck, Survey
from tempermark.web.presses.models import Press
from tempermark.web.recipes.models import Blank
from tempermark.web.run.models import Mark, TestPress
from tests.support import people, room
from tests.support.forms import Drawn, fields_of, forms_of
from tests.web.test_every_address import all_addresses, rows  # noqa: F401

pytestmark = pytest.mark.django_db
# The way in and out, the switch of units, and the one answer that shows a secret.
WITHOUT_KEY = re.compile(r"/(sign-in|sign-out|me/units)/|/live/keys?/")
# What a page leaves to be typed, by name; the rest is sent as it stands.
TYPED = {
    "why": "a slip of the pen",
    "typed": "187",
    "name": "Something new",
    "label": "Something new",
    "source": "a leaflet",
    "change": "a trial",
    "value": "0.2",
    "kg": "12",
    "code": "B-1",
    "hardness": "32",
    "ice_c": "0.4",
    "thickness_mm": "0.6",
    "conductivity_w_mk": "0.2",
    "density_kg_m3": "900",
    "specific_heat_j_kgk": "1400",
    "x_mm": "120",
    "y_mm": "130",
    "width_mm": "150",
    "depth_mm": "20",
    "height_mm": "160",
    "rises_mm": "3",
    "set_c": "196",
    "target_c": "197",
    "low_c": "180",
    "high_c": "190",
    "low_s": "40",
    "high_s": "50",
    "gun_1": "178",
    "probe_1": "186",
    "gun_2": "179",
    "probe_2": "187",
    "gun_3": "178.5",
    "probe_3": "186.4",
    "form-0-shim_mm": "0",
    "form-0-turns": "0",
    "form-1-shim_mm": "2",
    "form-1-turns": "1.3",
    "do": "press it",
    "stack": "printed transfer\npolyester jersey\nsilicone pad",
    "trace": "0 22\n10 90\n20 140\n30 170\n40 185",
}
SAMPLE = (models.FloatField, models.CharField, models.TextField, models.JSONField)


@pytest.fixture
def shop(rows, technician, lead):  # noqa: F811
    """A room with a row of everything that pages show."""
    Press.objects.update(control_low_c=30.0, control_high_c=230.0)
    Blank.objects.update(scorch_c=230.0, migrates_c=180.0)
    return rows


def pages(browse, rows, half=None):  # noqa: F811
    """Every page that opens, with its forms; the same form of two pages once. Tests that send all
    that they find take a half each: what one leaves out, another sends.
    """
    seen = set()
    for address in all_addresses(rows):
        if "sign-out" in address or (half is not None and crc32(address.encode()) % 2 != half):
            continue
        answer = browse.get(address)
        if answer.status_code != 200 or "html" not in answer.get("Content-Type", ""):
            continue
        for number, form in enumerate(forms_of(answer)):
            sent = (form.get("action") or address, tuple(sorted(fields_of(form))))
            if sent not in seen:
                seen.add(sent)
                yield address, number, form


def snapshot():
    """What every table of ours holds, without keys and times."""
    held = {}
    for model in apps.get_models():
        if not model.__module__.startswith("tempermark") or model is SentForm:
            continue
        names = [f.name for f in model._meta.fields if isinstance(f, SAMPLE)]
        table = model._base_manager.values_list(*names)
        held[model.__name__] = sorted(map(repr, (_rounded(row) for row in table)))
    return held


def _rounded(row):
    return [round(value, 6) if isinstance(value, float) else value for value in row]


def sent(form, **changes):
    """What is sent of a form by its first button, with something typed where all is empty."""
    data = fields_of(form)
    data.pop("csrfmiddlewaretoken", None)
    for field in form.select("input[name], textarea[name], select[name], button[name]"):
        name = field["name"]
        short = name if name in TYPED else re.split(r"-\d+-", name)[-1]
        if data.get(name) or field.get("type") in ("hidden", "checkbox", "file"):
            continue
        if field.name == "select":
            data[name] = next((o["value"] for o in field.select("option[value]") if o["value"]), "")
        elif field.get("type") == "radio" or field.name == "button":
            data.setdefault(name, field.get("value", ""))
        elif short in TYPED:
            data[name] = TYPED[short]
    return data | changes


def test_every_form_carries_its_token_its_key_and_its_units(browse_as, lead, shop):
    found, wrong = 0, []
    for address, _, form in pages(browse_as(lead), shop):
        found += 1
        data, action = fields_of(form), form.get("action") or address
        needed = ["csrfmiddlewaretoken"]
        if not WITHOUT_KEY.search(action):
            needed += [ONCE_FIELD, UNITS_FIELD]
        missing = [name for name in needed if not data.get(name)]
        if missing:
            wrong.append(f"{action} on {address} lacks {missing}")
    assert found > 50
    assert not wrong, "\n".join(wrong)


def test_every_form_that_is_looked_up_with_figures_carries_its_units(browse_as, lead, shop):
    """Whatever a page draws otherwise in °F, inches and psi lies in a form that says so."""
    leads, wrong, differ = browse_as(lead), [], 0
    for address in all_addresses(shop):
        if "sign-out" in address:
            continue
        drawn = {}
        for units in (METRIC, IMPERIAL):
            people.choose(lead, units)
            answer = leads.get(address)
            if answer.status_code == 200 and "html" in answer.get("Content-Type", ""):
                drawn[units] = room.soup(answer).select("form")
        for one, other in zip(drawn.get(METRIC, ()), drawn.get(IMPERIAL, ()), strict=False):
            first, second = (
                {k: v for k, v in fields_of(f).items() if k != ONCE_FIELD} for f in (one, other)
            )
            for data in (first, second):
                data.pop("csrfmiddlewaretoken", None)
            if {k for k in first if first[k] != second.get(k)} - {UNITS_FIELD}:
                differ += 1
                if (first.get(UNITS_FIELD), second.get(UNITS_FIELD)) != (
                    METRIC.code,
                    IMPERIAL.code,
                ):
                    wrong.append(f"{address}: {sorted(first)[:6]}")
    assert differ >= 12
    assert not wrong, "\n".join(wrong)


def test_a_form_means_what_it_meant_when_it_was_drawn(browse_as, lead, shop):
    """Drawn in metric units, sent after another tab switched to others: the same is kept."""
    leads, compared, wrong = browse_as(lead), set(), []
    for address, _, form in list(pages(leads, shop, half=0)):
        action = form.get("action") or address
        if WITHOUT_KEY.search(action):
            continue
        kept = []
        for units in (METRIC, IMPERIAL):
            with transaction.atomic():
                people.choose(lead, units)
                answer = leads.post(action, sent(form, **{ONCE_FIELD: str(uuid4())}))
                held = snapshot()
                # Who reads in which unit, and names of rows by their keys, differ of themselves.
                for name in ("User", "AuditEntry", "Certificate", "PressedPiece"):
                    held.pop(name)
                kept.append((answer.status_code, held))
                transaction.set_rollback(True)
        if kept[0] != kept[1]:
            wrong.append(f"{action} on {address}: {kept[0][0]}, {kept[1][0]}")
        if kept[0][0] in (200, 204, 302):
            compared.add(action)
    assert not wrong, "\n".join(wrong)
    for word in (
        "/readings/",
        "/surveys/new/",
        "/change/",
        "/instruments/",
        "/blanks/",
        "/correct/",
    ):
        assert any(word in action for action in compared), (word, sorted(compared))


def test_several_clicks_are_one(browse_as, lead, shop):
    leads, made, wrong = browse_as(lead), set(), []
    for address, _, form in list(pages(leads, shop, half=1)):
        action = form.get("action") or address
        if WITHOUT_KEY.search(action):
            continue
        data = sent(form)
        with transaction.atomic():
            before = snapshot()
            answers = [leads.post(action, data)]
            first = snapshot()
            answers += [leads.post(action, data) for _ in range(3)]
            if snapshot() != first:
                wrong.append(f"{action} on {address}")
            if first != before:
                made.add(action)
            if answers[0].status_code < 400:
                said = {(a.status_code, a.get("Location"), a.content) for a in answers}
                assert len(said) == 1, action
            transaction.set_rollback(True)
    assert not wrong, "\n".join(wrong)
    assert len(made) > 25, sorted(made)


def test_the_same_key_with_other_content_is_another_act(browse, element):
    """Back, another figure, and sent again: that is meant."""
    page = Drawn(browse, "/presses/heron/surveys/new/", lambda f: f.select_one("[name=grid]"))
    page.send(browse, grid="3x3")
    page.send(browse, grid="3x3")
    page.send(browse, grid="4x4")
    assert sorted(Survey.objects.values_list("grid", flat=True)) == ["3x3", "4x4"]


def test_what_was_refused_can_be_sent_again(browse, element):
    page = Drawn(browse, "/presses/heron/surveys/new/", lambda f: f.select_one("[name=grid]"))
    assert "out of range" in room.words(page.send(browse, set_c="9000"))
    assert page.send(browse, set_c="195").status_code == 302
    assert Survey.objects.count() == 1


@pytest.mark.django_db(transaction=True)
def test_ten_clicks_at_the_same_time_are_one(technician, element):
    """Ten threads, each with its own connection, send one form at once."""
    browser = Client()
    browser.force_login(technician)
    page = Drawn(browser, "/presses/heron/surveys/new/", lambda f: f.select_one("[name=grid]"))

    def click(_):
        try:
            answer = page.send(browser, grid="3x3")
        finally:
            connection.close()
        return answer.status_code, answer.get("Location")

    with ThreadPoolExecutor(5) as clicks:
        answers = list(clicks.map(click, range(10)))
    assert Survey.objects.count() == 1
    assert set(answers) == {(302, Survey.objects.get().get_absolute_url())}


EDITS = (
    # Page, what one changes, what the other changes, what the row has of both at the end.
    ("/presses/heron/change/", ("note", "moved"), ("target_c", "200"), Press),
    ("/instruments/1/", ("note", "drops"), ("check_every_days", "90"), Instrument),
    ("/blanks/1/", ("thickness_mm", "0.8"), ("scorch_c", "225"), Blank),
    ("/test-presses/1/", ("outcome", "good"), ("density", "0.9"), TestPress),
    ("/test-presses/1/correct/", ("dwell_s", "47"), ("set_c", "201"), TestPress),
    ("/marks/1/correct/", ("severity", "3"), ("when", "on_peel"), Mark),
    ("/checks/1/correct/", ("ice_c", "0.9"), ("on", "2026-10-02"), InstrumentCheck),
)


@pytest.mark.parametrize(("page", "mine", "theirs", "model"), EDITS)
def test_a_second_editor_is_shown_what_the_first_one_changed(
    browse_as, lead, technician, shop, page, mine, theirs, model
):
    row = model.objects.first()
    page = re.sub(r"/1/", f"/{row.pk}/", page)
    leads = browse_as(lead)
    drawn = [Drawn(leads, page, lambda f: f.select_one("[name=drawn]")) for _ in range(2)]
    more = {"why": "checked"} if "correct" in page else {}
    if model is TestPress and "correct" not in page:
        drawn[1].data["outcome"] = "good"
    assert drawn[0].send(leads, **{mine[0]: mine[1]}, **more).status_code in (200, 302)
    answer = drawn[1].send(leads, **{theirs[0]: theirs[1]}, **more)
    if model is not TestPress or "correct" in page:
        assert answer.status_code == 422
        said = room.words(answer)
        assert "saved this after you opened it" in said
        assert "When you opened it" in said
        row.refresh_from_db()
        assert str(getattr(row, mine[0])).removesuffix(".0") == mine[1]
        again = next(f for f in forms_of(answer) if f.select_one("[name=drawn]"))
        data = sent(again, **more)
        assert data[theirs[0]] == theirs[1]
        answer = leads.post(drawn[1].address, data)
    assert answer.status_code == 302
    row.refresh_from_db()
    for name, value in (mine, theirs):
        assert str(getattr(row, name)).removesuffix(".0") == value


# What may stand in one field among others that are right.
WRONG = ("-1", "x", "9" * 5000, "1e400", "nan", "9999-12-31T23:59", "a" * 50_000, "\0", "<b>’😀")


def test_one_wrong_value_among_right_ones_is_answered(browse_as, lead, shop):
    """Fields of every form: refused or taken, never a failure. Each second field meets one of the
    wrong values, its neighbours another one of theirs.
    """
    leads, failed, sent_ones = browse_as(lead), [], 0
    leads.raise_request_exception = False
    for address, _, form in list(pages(leads, shop, half=0)):
        action = form.get("action") or address
        if WITHOUT_KEY.search(action):
            continue
        data = sent(form)
        fields = sorted(data.keys() - {ONCE_FIELD})
        for name in fields[crc32(action.encode()) % 2 :: 2] or fields:
            wrong = WRONG[crc32(f"{action} {name}".encode()) % len(WRONG)]
            sent_ones += 1
            with transaction.atomic():
                answer = leads.post(action, {**data, name: wrong, ONCE_FIELD: str(uuid4())})
                if answer.status_code >= 500:
                    failed.append(f"{action} {name}: {answer.exc_info[1]!r:.150}")
                transaction.set_rollback(True)
    assert sent_ones > 250
    assert not failed, "\n".join(failed)


def test_a_link_with_figures_keeps_its_units(browse, technician, element):
    """A page looked up in °C and opened by somebody who reads °F means the same."""
    room.survey(technician, element)
    people.choose(technician, IMPERIAL)
    told = room.words(browse.get("/presses/heron/calibration/?target_c=195&units=c"))
    assert "383 °F" in told.replace("\u00a0", " ")
    assert "195 °F" not in told.replace("\u00a0", " ")
    told = browse.get("/presses/heron/calibration/?target_c=383")
    assert "383 °F" in room.words(told).replace("\u00a0", " ")
