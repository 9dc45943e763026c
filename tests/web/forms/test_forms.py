"""A form sent again, at the same time, by two people, or read in other units."""

import re
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection
from django.test import Client

from tempermark.web.kit.units import IMPERIAL
from tempermark.web.measure.models import Instrument, InstrumentCheck, Survey
from tempermark.web.presses.models import Press
from tempermark.web.recipes.models import Blank
from tempermark.web.run.models import Mark, TestPress
from tests.support import people, room
from tests.support.addresses import rows_of
from tests.support.forms import Drawn, forms_of
from tests.support.shop import sent

pytestmark = pytest.mark.django_db


@pytest.fixture
def shop(technician, element):
    """A room with a row of everything that pages show."""
    rows_of(technician, element)


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


def test_a_link_with_figures_keeps_its_units(browse, technician, element):
    """A page looked up in °C and opened by somebody who reads °F means the same."""
    room.survey(technician, element)
    people.choose(technician, IMPERIAL)
    told = room.words(browse.get("/presses/heron/calibration/?target_c=195&units=c"))
    assert "383 °F" in told.replace("\u00a0", " ")
    assert "195 °F" not in told.replace("\u00a0", " ")
    told = browse.get("/presses/heron/calibration/?target_c=383")
    assert "383 °F" in room.words(told).replace("\u00a0", " ")
