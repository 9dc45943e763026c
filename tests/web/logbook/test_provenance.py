"""From a piece to the instrument and back; pieces pressed while a press was off."""

import csv
import io
from datetime import timedelta

import pytest
from django.utils import timezone

from tempermark.web.kit.units import METRIC
from tempermark.web.logbook.filters import survey_window
from tempermark.web.logbook.off import BETWEEN, FOUND, pressed_while_off
from tempermark.web.logbook.provenance import chain
from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.presses.models import PressEvent
from tempermark.web.run.models import TestPress
from tests.support import room

pytestmark = pytest.mark.django_db


def level(offset_k):
    return lambda x, y: 195.0 + offset_k


@pytest.fixture
def drifted(technician, element):
    """True 40 days ago, 8 K low 10 days ago; pieces before, between and after."""
    gun = Instrument.objects.create(name="Gun 1", kind="infrared")
    right = room.survey(technician, element, days_ago=40, truth=level(0.0))
    low = room.survey(technician, element, days_ago=10, truth=level(-8.0))
    Survey.objects.update(instrument=gun)
    ages = {"before": 50, "soon after": 35, "late": 12, "after": 3}
    return {
        "surveys": (right, low),
        "pieces": {n: room.piece(technician, element, days_ago=d) for n, d in ages.items()},
    }


def test_the_chain_leads_from_the_piece_to_the_instrument(drifted):
    links = {link.label: link for link in chain(drifted["pieces"]["after"], METRIC)}
    assert list(links) == ["Recipe", "Calibration", "Survey", "Readings", "Instrument"]
    assert "dial 205 °C gave" in links["Calibration"].text.replace("\u00a0", " ")
    assert links["Readings"].text.startswith("25,")
    assert links["Instrument"].text == "Gun 1"
    assert all(link.address for link in links.values())


def test_a_piece_from_before_the_first_survey_says_so(drifted):
    last = chain(drifted["pieces"]["before"], METRIC)[-1]
    assert "had no survey then" in last.text


def test_the_chain_is_walked_back_from_survey_and_instrument(browse, drifted):
    right, low = drifted["surveys"]
    pieces = drifted["pieces"]
    assert list(TestPress.objects.filter(survey_window(right)).order_by("pressed_at")) == [
        pieces["soon after"],
        pieces["late"],
    ]
    text = room.words(browse.get(f"/surveys/{low.pk}/pieces/"))
    assert "1 press rests on" in text
    assert pieces["after"].piece.code in text
    gun = Instrument.objects.get()
    assert "3 presses rest on Gun 1" in room.words(browse.get(f"/instruments/{gun.pk}/pieces/"))
    assert "Pieces that rest on it" in room.words(browse.get(f"/instruments/{gun.pk}/"))


def test_pieces_pressed_while_a_press_was_low_are_found_and_carried_between_surveys(
    drifted, element
):
    pieces = drifted["pieces"]
    rows = {
        row.press.pk: row for row in pressed_while_off(element, TestPress.objects.all(), 6.0, "low")
    }
    assert set(rows) == {pieces["late"].pk, pieces["after"].pk}
    late, after = rows[pieces["late"].pk], rows[pieces["after"].pk]
    assert (late.how, after.how) == (BETWEEN, FOUND)
    # 28 of 30 days on the way from 0 to 8 K low.
    assert late.offset_k == pytest.approx(-8 * 28 / 30, abs=0.3)
    assert after.offset_k == pytest.approx(-8, abs=0.3)
    assert after.true_c == pytest.approx(197, abs=0.3)
    assert after.outside_k == 0


def test_a_press_that_was_high_is_not_low(drifted, element):
    assert not list(pressed_while_off(element, TestPress.objects.all(), 6.0, "high"))
    assert len(list(pressed_while_off(element, TestPress.objects.all(), 6.0, "either"))) == 2


def test_a_repair_in_between_ends_what_a_survey_tells(drifted, element, technician):
    at = timezone.now() - timedelta(days=20)
    PressEvent.objects.create(press=element.press, kind="repair", at=at, by=technician)
    rows = {
        row.press.pk: row.offset_k
        for row in pressed_while_off(element, TestPress.objects.all(), 6.0, "low")
    }
    # What was found after the repair holds back to it, not beyond.
    assert rows[drifted["pieces"]["late"].pk] == pytest.approx(-8, abs=0.3)
    assert drifted["pieces"]["soon after"].pk not in rows


def test_the_question_is_asked_on_a_page_and_its_answer_is_a_file(browse, drifted, element):
    query = {"press": element.press_id, "by_k": "6", "side": "low"}
    text = room.words(browse.get("/logbook/while-off/", query))
    assert "2 pieces were pressed while Heron was at least 6 K low." in text
    assert "found later" in text
    raw = browse.get("/logbook/while-off/pieces.csv", query).content.decode()
    rows = list(csv.DictReader(io.StringIO(raw)))
    assert [row["known"] for row in rows] == ["found", "between"]
    assert (
        browse.get("/logbook/while-off/pieces.json", query).json()["pieces"][0]["press"] == "Heron"
    )


@pytest.mark.parametrize(
    "query",
    [
        {"press": "x", "by_k": "5", "side": "low"},
        {"press": "1", "by_k": "0", "side": "low"},
        {"press": "1", "by_k": "5", "side": "sideways"},
        {"press": "1", "by_k": "5", "side": "low", "since": "2026-11-02", "until": "2026-11-01"},
    ],
)
def test_a_question_that_is_none_keeps_what_was_typed(browse, drifted, query):
    answer = browse.get("/logbook/while-off/", query)
    assert answer.status_code == 422
    assert browse.get("/logbook/while-off/pieces.csv", query).status_code == 404
