"""The hours of people: kept, refused, counted in a plan, also past midnight and in a break."""

from datetime import datetime, time, timedelta
from uuid import uuid4
from zoneinfo import ZoneInfo

import pytest
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tempermark.core.planning.duty import Hands
from tempermark.web.planning import actions
from tempermark.web.planning.hours.queries import hands_of
from tempermark.web.planning.models import Plan, WorkHours
from tempermark.web.planning.search import search
from tests.support import bench, room

pytestmark = pytest.mark.django_db
MONDAY = datetime(2026, 11, 23, tzinfo=ZoneInfo("UTC"))


def at(hour, minute=0, days=0):
    moment = MONDAY + timedelta(days=days, hours=hour, minutes=minute)
    return timezone.make_aware(moment.replace(tzinfo=None))


def hours(person, begins, ends, away=None, back=None, weekdays=(0, 1, 2, 3, 4)):
    return WorkHours.objects.create(
        person=person,
        weekdays=list(weekdays),
        begins=begins,
        ends=ends,
        break_begins=away,
        break_ends=back,
        entry_key=uuid4(),
    )


def spans(hands):
    return [(span.from_min, span.to_min, span.people) for span in hands.spans]


def test_a_morning_with_two_people_and_a_break_apart(technician, lead):
    hours(technician, time(7), time(15), time(11), time(11, 30))
    hours(lead, time(8), time(16))
    assert spans(hands_of(at(7))) == [
        (0, 60, 1),
        (60, 240, 2),
        (240, 270, 1),
        (270, 480, 2),
        (480, 540, 1),
    ]


def test_who_plans_late_at_night_waits_for_the_shift_after_midnight(technician):
    hours(technician, time(0, 5), time(6), weekdays=range(7))
    assert spans(hands_of(at(23, 35))) == [(0, 30, 0), (30, 385, 1)]
    # In the evening whoever plans is there, and the next shift is that of another plan.
    assert hands_of(at(18)) is None


def test_nobody_before_the_hours_and_in_a_break_of_all(technician):
    hours(technician, time(7), time(15), time(11), time(11, 30))
    hands = hands_of(at(6, 30))
    assert spans(hands) == [(0, 30, 0), (30, 270, 1), (270, 300, 0), (300, 510, 1)]
    assert hands.opens_min == 30
    assert [(p.from_min, p.to_min) for p in hands.pauses] == [(270, 300)]


def test_a_night_goes_on_past_midnight(technician):
    hours(technician, time(22), time(6), time(1), time(2), weekdays=[0])
    assert spans(hands_of(at(23))) == [(0, 120, 1), (120, 180, 0), (180, 420, 1)]
    assert spans(hands_of(at(3, days=1))) == [(0, 180, 1)]


def test_days_without_hours_take_as_many_hands_as_needed(technician):
    assert hands_of(at(9)) is None
    hours(technician, time(7), time(15))
    assert hands_of(at(9, days=5)) is None
    assert hands_of(at(16)) is None
    technician.is_active = False
    technician.save()
    assert hands_of(at(9)) is None


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.times(), st.times(), st.integers(0, 24 * 60 - 1))
def test_spans_follow_each_other_from_the_beginning(db, begins, ends, minute):
    if begins.replace(second=0, microsecond=0) == ends.replace(second=0, microsecond=0):
        return
    person = room.person(f"p{uuid4().hex[:8]}", "technician")
    row = hours(person, begins, ends, weekdays=range(7))
    found = hands_of(at(0) + timedelta(minutes=minute))
    row.delete()
    if found is None:
        return
    assert isinstance(found, Hands)
    assert found.spans[0].from_min == 0
    for one, other in zip(found.spans, found.spans[1:], strict=False):
        assert one.to_min == other.from_min
    assert all(span.to_min > span.from_min for span in found.spans)


def typed(person, **fields):
    usual = {
        "person": person.pk,
        "weekdays": ["0", "1"],
        "begins": "07:00",
        "ends": "15:30",
        "break_begins": "11:00",
        "break_ends": "11:30",
        "once": str(uuid4()),
    }
    return usual | fields


def test_a_lead_keeps_and_removes_hours(browse_as, technician, lead):
    browse = browse_as(lead)
    fields = typed(technician)
    assert browse.post("/plans/hours/", fields).status_code == 302
    assert browse.post("/plans/hours/", fields).status_code == 302
    row = WorkHours.objects.get()
    assert "Monday, Tuesday" in room.words(browse.get("/plans/hours/"))
    browse.post(f"/plans/hours/{row.pk}/remove/", {"once": str(uuid4())})
    assert not WorkHours.objects.exists()


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"ends": "07:00"}, "The hours end when they begin."),
        ({"break_ends": ""}, "A break needs both times, or none."),
        ({"break_begins": "16:00", "break_ends": "16:30"}, "does not lie within the hours"),
        ({"weekdays": []}, "required"),
        ({"begins": "25:99"}, "valid time"),
    ],
)
def test_hours_that_cannot_be_are_said(browse_as, technician, lead, fields, words):
    answer = browse_as(lead).post("/plans/hours/", typed(technician, **fields))
    assert answer.status_code == 422
    assert words in room.words(answer)
    assert not WorkHours.objects.exists()


def test_a_technician_does_not_change_hours(browse, technician):
    assert browse.post("/plans/hours/", typed(technician)).status_code == 403


def test_a_plan_waits_for_the_first_person_and_shows_when_nobody_is_there(
    browse, technician, element, monkeypatch
):
    monkeypatch.setattr("tempermark.web.planning.tasks.search_plan.defer", lambda plan: None)
    begins = timezone.localtime().replace(second=0, microsecond=0) + timedelta(hours=1)
    come = (begins + timedelta(minutes=30)).time()
    hours(technician, come, (begins + timedelta(minutes=60)).time(), weekdays=range(7))
    bench.job(technician, element, quantity=40)
    actions.ask_for_plan(technician, "makespan", begins, uuid4())
    plan = Plan.objects.get()
    search(plan.pk)
    plan.refresh_from_db()
    assert min(run["start_min"] for run in plan.found["runs"]) >= 30
    page = browse.get(plan.get_absolute_url())
    assert room.soup(page).select("svg.band .nobody")
    text = room.words(page)
    assert "when the last person leaves" in text
    assert "kWh" in text
    assert "is as slow as it may be" in text
