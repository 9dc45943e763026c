"""The demo's room: the story it tells, and that it is the same each time."""

from datetime import timedelta
from io import StringIO

import pytest
from django.core.management import call_command
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.measure.models import Survey
from tempermark.web.presses.models import Press
from tempermark.web.run.models import TestPress
from tempermark.web.trace.models import FaultCase
from tests.support import room
from tests.support.kept import kept

# The whole room is built, as by the demo.
pytestmark = [pytest.mark.django_db, pytest.mark.long]


def build(**options):
    call_command("demo_data", stdout=StringIO(), **options)


@pytest.fixture(scope="module")
def built(django_db_setup, django_db_blocker):
    with kept(django_db_blocker, build):
        yield


@pytest.fixture
def demo(db, built):
    """The room as it is built."""


def test_demo_room_tells_its_story(demo, client):
    client.force_login(User.objects.get(username="isla"))
    text = room.words(client.get("/"))
    assert "Heron has an open fault." in text
    assert "Coot is drifting." in text
    assert "Plover is overdue" in text
    assert "Wren has never been surveyed." in text
    case = FaultCase.objects.get(closed_at=None)
    assert "back left: cold zone" in room.words(client.get(case.get_absolute_url()), "h1")


def test_demo_room_is_as_asked(demo):
    assert Press.objects.count() >= 5
    assert len(set(Press.objects.values_list("kind", flat=True))) >= 5
    assert TestPress.objects.count() >= 36
    assert FaultCase.objects.filter(closed_at=None).count() == 1
    assert FaultCase.objects.exclude(closed_at=None).count() == 1
    ages = [timezone.now() - s.taken_at for s in Survey.objects.filter(element__press__name="Coot")]
    assert max(ages) > timedelta(days=330)
    assert not Survey.objects.filter(element__press__name="Wren").exists()


def test_demo_data_again_touches_nothing_typed_and_reset_rebuilds_the_same(demo):
    figures = list(
        Survey.objects.order_by("taken_at", "element_id").values_list("mean_true_c", flat=True)
    )
    Press.objects.filter(name="Heron").update(note="typed by a person")
    build()
    assert Press.objects.get(name="Heron").note == "typed by a person"
    build(reset=True)
    again = Survey.objects.order_by("taken_at", "element_id").values_list("mean_true_c", flat=True)
    assert list(again) == figures
