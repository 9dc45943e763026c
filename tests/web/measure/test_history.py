"""Surveys are read as far back as somebody asks, and tell the same as if all had been read; what
every page shows of them is computed once for each of their versions.
"""

import random
from datetime import timedelta

import pytest
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from tempermark.web.measure.models import Instrument, Survey
from tempermark.web.measure.press.history import LINE_REACH, SurveyHistory
from tempermark.web.measure.press.states import measured_states, state_of
from tempermark.web.presses.models import Element, ElementRole
from tests.support import room

pytestmark = pytest.mark.django_db


@pytest.fixture
def surveys(technician, element):
    """Sixty surveys and spot checks of three years, oldest first."""
    dice, first = random.Random(4), room.survey(technician, element)
    rows = [
        Survey(
            element=element,
            taken_at=timezone.now() - timedelta(days=dice.uniform(1, 1000)),
            finished_at=timezone.now(),
            taken_by=technician,
            grid=dice.choice(("5x5", "5x5", "spot")),
            set_c=dice.choice((180.0, 195.0)),
            target_c=195.0,
            mean_true_c=190.0 + dice.random(),
            mean_uncertainty_c=1.0,
            common_uncertainty_c=0.3,
        )
        for _ in range(60)
    ]
    Survey.objects.bulk_create(rows)
    return [*sorted(rows, key=lambda s: s.taken_at), first]


def test_it_tells_the_same_as_if_all_had_been_read(surveys, element):
    dice, history = random.Random(9), SurveyHistory(element)
    moments = [None, *(timezone.now() - timedelta(days=dice.uniform(0, 1100)) for _ in range(40))]
    dice.shuffle(moments)
    for when in moments:
        maps = [s for s in surveys if s.grid != "spot" and (when is None or s.taken_at <= when)]
        newest = history.newest(when)
        assert newest == (maps[-1] if maps else None)
        if newest is None:
            continue
        reach = newest.taken_at - LINE_REACH
        assert history.of_line(newest) == [s for s in maps if s.taken_at >= reach]
        until = SurveyHistory(element, newest.taken_at)
        assert until.of_line(newest) == history.of_line(newest)
        assert until.newest() == newest
        spots = [s for s in surveys if s.grid == "spot" and s.taken_at > newest.taken_at]
        spots = [s for s in spots if when is None or s.taken_at <= when]
        moved = history.level_since(history.calibration(newest), newest, when)
        assert (moved.spot if moved else None) == (spots[-1] if spots else None)


def test_it_reads_no_more_than_the_last_months_for_today(surveys, element):
    history = SurveyHistory(element)
    history.newest()
    assert len(history._rows) < 20


def test_many_moments_ask_few_questions(surveys, element):
    history = SurveyHistory(element)
    with CaptureQueriesContext(connection) as asked:
        for days in range(0, 1100, 5):
            history.newest(timezone.now() - timedelta(days=days))
    assert len(asked) < 30


def test_a_state_is_computed_once_until_a_survey_changes(technician, element):
    survey = room.survey(technician, element)
    before = state_of(element.press)
    with CaptureQueriesContext(connection) as asked:
        assert state_of(element.press) is before
    assert len(asked) <= 3
    # Twice in one transaction: each is another version.
    for mean_c in (188.0, 186.0):
        Survey.objects.filter(pk=survey.pk).update(mean_true_c=mean_c)
        assert state_of(element.press).reads_high_c == pytest.approx(195.0 - mean_c)
    Survey.objects.filter(pk=survey.pk).update(finished_at=None)
    assert state_of(element.press).surveyed_on is None


def test_a_gun_that_is_renamed_and_a_rule_that_changes_are_seen(technician, element):
    gun = Instrument.objects.create(name="gun 1", kind="infrared")
    room.survey(technician, element, instrument=gun)
    assert state_of(element.press).instruments == ("gun 1",)
    Instrument.objects.update(name="gun A")
    assert state_of(element.press).instruments == ("gun A",)
    due = state_of(element.press).due_on
    element.press.survey_every_days += 10
    assert state_of(element.press).due_on == due + timedelta(days=10)


def test_what_was_rolled_back_is_never_taken_for_what_came_after(technician, element):
    survey = room.survey(technician, element)
    press = element.press
    kept_c = state_of(press).reads_high_c
    row = Survey.objects.filter(pk=survey.pk)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        row.update(mean_true_c=190.0)
        assert state_of(press).reads_high_c != pytest.approx(kept_c)
        raise ZeroDivisionError
    assert state_of(press).reads_high_c == pytest.approx(kept_c)
    row.update(mean_true_c=180.0)
    assert state_of(press).reads_high_c == pytest.approx(survey.set_c - 180.0)


def test_a_survey_that_moves_to_another_element_is_missed_by_the_first(technician, element):
    survey = room.survey(technician, element)
    other = Element.objects.create(
        press=element.press, role=ElementRole.LOWER, width_mm=400, height_mm=300
    )
    assert state_of(element.press, element).surveyed_on is not None
    Survey.objects.filter(pk=survey.pk).update(element=other)
    assert state_of(element.press, element).surveyed_on is None
    assert state_of(element.press, other).surveyed_on is not None


def test_maps_that_ended_tell_nothing_more(technician, element):
    room.survey(technician, element, days_ago=3)
    assert state_of(element.press).surveyed_on is not None
    element.map_since = timezone.now() - timedelta(days=1)
    element.save()
    (found,) = measured_states([element.press])
    assert found.state.surveyed_on is None
