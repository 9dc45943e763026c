"""The card beside a press: today's figures, in both degrees, and until when they hold."""

from datetime import timedelta

import pytest
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.presses.models import Press
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.support import room

CARD = "/presses/heron/cards/dye-on-a-polyester-vest/"


@pytest.fixture
def vest(element):
    load_shipped_recipes()
    return room.blank(name="Vest", thickness_mm=0.5)


def test_the_dial_stands_in_both_degrees_and_goes_stale_with_the_survey(
    browse, technician, element, vest
):
    room.survey(technician, element)
    text = room.words(browse.get(CARD))
    assert "Heron: Dye on a polyester vest" in text
    assert "206 °C (403 °F)" in text
    assert "True 200 °C (392 °F)" in text
    day = timezone.localdate() + timedelta(days=30)
    assert f"Stale from {day.day} {day:%b %Y}" in text


def test_a_fahrenheit_person_reads_theirs_first(browse, technician, element, vest):
    room.survey(technician, element)
    User.objects.update(temperature_unit="f")
    assert "True 392 °F (200 °C)" in room.words(browse.get(CARD))


def test_a_press_without_a_survey_says_so(browse, vest):
    text = room.words(browse.get(CARD))
    assert "not known: Heron has no survey" in text
    assert "Stale from" not in text


def test_a_timer_that_ends_splits_the_dwell(browse, vest):
    Press.objects.update(timer_max_s=20)
    assert "52 s in 3 closings: 20 + 20 + 12 s" in room.words(browse.get(CARD))


def test_the_pressure_is_for_the_shop_s_own_blank(browse, vest):
    assert "Set Heron by feel for Vest: medium." in room.words(browse.get(CARD))


def test_the_code_opens_the_recipe_and_unknown_ones_are_not_found(browse, vest):
    assert browse.get(f"{CARD[:-1]}.svg")["Content-Type"] == "image/svg+xml"
    assert browse.get("/presses/heron/cards/nothing/").status_code == 404
    assert browse.get("/presses/nothing/cards/dye-on-a-polyester-vest/").status_code == 404
