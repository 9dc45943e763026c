"""Clocks: started together, ringing again and again, bounded, alive whatever shows them."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.jobs import actions
from tempermark.web.jobs.models import Clock
from tests.support import room


def start(browse, names, seconds, **more):
    data = {"name": names, "seconds": seconds, "once": str(uuid4())} | more
    return browse.post("/clocks/start/", data)


def test_one_tap_starts_all_that_run_together_and_twice_is_once(browse, db):
    key = str(uuid4())
    for _ in range(2):
        start(browse, ["Turn", "Take out"], ["60", "120"], once=key)
    found = list(Clock.objects.values_list("name", flat=True))
    assert found == ["Turn", "Take out"]


def test_a_clock_that_repeats_keeps_its_own_time(browse, technician):
    clock = actions.start_clock(technician, "Look", 60, uuid4(), repeats=True)
    late = timezone.now() - timedelta(seconds=150)
    Clock.objects.update(started_at=late, ends_at=late + timedelta(seconds=60))
    actions.hear(technician, clock)
    clock.refresh_from_db()
    # Heard 90 s late: it rings at the next whole minute of its own, not a minute from now.
    assert (clock.ends_at - late).total_seconds() == pytest.approx(180, abs=1)
    assert clock.rung_at is None
    assert "Look" in browse.get("/clocks/strip/").content.decode()
    actions.stop(technician, clock)
    assert "Look" not in browse.get("/clocks/strip/").content.decode()


def test_heard_before_it_rings_a_repeating_clock_stays(technician):
    clock = actions.start_clock(technician, "Look", 60, uuid4(), repeats=True)
    ends = clock.ends_at
    actions.hear(technician, clock)
    clock.refresh_from_db()
    assert clock.ends_at == ends


@pytest.mark.parametrize("seconds", ["0", "-5", "1000000000", "1e6x", "nan", ""])
def test_a_wait_that_is_none_starts_nothing(browse, db, seconds):
    start(browse, ["Cure"], [seconds])
    assert not Clock.objects.exists()


def test_a_million_seconds_are_within_a_fortnight(browse, db):
    start(browse, ["Rest"], ["1000000"])
    assert Clock.objects.get().left_s == pytest.approx(1_000_000, abs=5)
    start(browse, ["Rest"], ["1300000"])
    assert Clock.objects.count() == 1


def test_no_more_than_a_dozen_start_at_once(browse, db):
    start(browse, [f"c{n}" for n in range(40)], ["60"] * 40)
    assert Clock.objects.count() == 12


def test_a_clerk_starts_none(browse_as, clerk):
    assert start(browse_as(clerk), ["Cure"], ["60"]).status_code == 403
    assert not Clock.objects.exists()


def test_the_page_of_clocks_says_what_is_wrong_and_keeps_it(browse, db):
    response = browse.post("/clocks/", {"name": "Cure", "seconds": "soon"})
    assert response.status_code == 422
    assert 'value="soon"' in response.content.decode()
    assert "is not a" in room.words(response)
