"""A query whose text is worked out once finds what the query itself finds."""

import sys
from datetime import UTC, datetime, timedelta
from importlib import import_module
from pkgutil import walk_packages
from uuid import UUID, uuid4

import pytest
from django.contrib.sessions.models import Session
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

import tempermark.web
from tempermark.web.accounts.models import PERSON, User
from tempermark.web.kit.records.prepared import Prepared, by_key
from tempermark.web.run.models import LogEntry, TestPress
from tests.support import bench, room

pytestmark = pytest.mark.django_db


def values_of(row):
    return {field.attname: getattr(row, field.attname) for field in row._meta.concrete_fields}


def every_prepared():
    """Each one that a module of the application names."""
    for module in walk_packages(tempermark.web.__path__, "tempermark.web."):
        if ".settings." not in module.name and ".migrations." not in module.name:
            import_module(module.name)
    modules = [m for name, m in sorted(sys.modules.items()) if name.startswith("tempermark.web")]
    return {
        f"{module.__name__}.{name}": value
        for module in modules
        for name, value in vars(module).items()
        if isinstance(value, Prepared)
    }


def test_every_one_finds_what_its_query_finds(browse, technician, element):
    run = bench.run(technician, element)
    bench.send(browse, run, bench.pressed(run))
    (piece,) = TestPress.objects.all()
    known = {"pk": run.pk, "run": run.pk, "number": 1, "press": piece.pk, "job": run.job_id}
    known |= {"key": piece.entry_key, "code": piece.piece.code, "now": timezone.now()}
    known |= {"element": element.pk, "recipe": run.job.recipe.recipe_id, "blank": run.job.blank_id}
    known |= {"when": timezone.now(), "since": datetime(1, 1, 2, tzinfo=UTC)}
    known["survey"] = room.survey(technician, element).pk
    found = every_prepared()
    assert len(found) > 10
    for name, prepared in found.items():
        values = {key: known[key] for key in prepared._kinds}
        if prepared._kinds.get("key") is str:
            values["key"] = Session.objects.values_list("session_key", flat=True)[0]
        query = prepared._build(**values)
        if query.query.values_select:
            expected = [list(row) for row in query]
            assert prepared.rows(**values) == expected, name
        else:
            rows = prepared.all(**values)
            assert [values_of(row) for row in rows] == [values_of(row) for row in query], name


def test_a_row_has_lists_documents_and_times_as_the_query_has_them(browse, technician, element):
    run = bench.run(technician, element)
    bench.send(browse, run, bench.pressed(run))
    (expected,) = TestPress.every.all()
    row = by_key(TestPress).only(pk=expected.pk)
    assert values_of(row) == values_of(expected)
    assert isinstance(row.stack, list)
    assert isinstance(row.scores, dict)
    assert row.pk is not None
    assert not row._state.adding
    row.note = "changed"
    row.save(update_fields=["note"])
    expected.refresh_from_db()
    assert expected.note == "changed"


def test_two_values_of_a_kind_are_not_mixed_up(technician):
    since, until = (timezone.now() + timedelta(days=days) for days in (-1, 1))
    # Named in the order that the text does not have.
    query = Prepared(
        lambda until, since: User.objects.filter(date_joined__gt=since, date_joined__lt=until),
        until=datetime,
        since=datetime,
    )
    assert query.first(since=since, until=until) == technician
    assert query.first(since=until, until=since) is None


def test_what_a_query_always_says_stays(technician):
    query = Prepared(
        lambda name: User.objects.filter(username=name, is_active=True, pk__gt=0)[:1], name=str
    )
    assert query.first(name=technician.username) == technician
    User.objects.filter(pk=technician.pk).update(is_active=False)
    assert query.first(name=technician.username) is None
    assert not query.exists(name=technician.username)


def test_its_text_is_worked_out_once_and_kept(technician):
    built = []

    def build(pk):
        built.append(pk)
        return User.objects.filter(pk=pk)

    query = Prepared(build, pk=int)
    assert [query.first(pk=pk) for pk in (technician.pk, -1, technician.pk)][::2] == [
        technician
    ] * 2
    # Once for each of two examples.
    assert len(built) == 2


def test_a_value_that_is_not_in_the_text_is_refused(technician):
    query = Prepared(lambda pk, other: User.objects.filter(pk=pk), pk=int, other=UUID)
    with pytest.raises(ValueError, match="other"):
        query.first(pk=technician.pk, other=uuid4())


def test_it_reads_only_the_columns_that_it_names(technician):
    query = Prepared(lambda pk: User.objects.filter(pk=pk).values_list("username", "pk"), pk=int)
    assert query.rows(pk=technician.pk) == [[technician.username, technician.pk]]


def test_one_that_must_be_there_and_is_not_is_an_error():
    with pytest.raises(ValueError, match="unpack"):
        by_key(LogEntry).only(pk=1)


def test_a_person_is_found_by_key_at_every_request_with_one_query(technician):
    PERSON.first(pk=technician.pk)
    with CaptureQueriesContext(
        connection,
    ) as sent:
        assert User.objects.get(pk=technician.pk) == technician
    assert len(sent) == 1
    with pytest.raises(User.DoesNotExist):
        User.objects.get(pk=2**40)
    assert User.objects.get(pk=str(technician.pk)) == technician
    assert User.objects.get(username=technician.username, pk=technician.pk) == technician


def test_a_session_that_is_over_or_was_ended_is_nobody_s(client, technician):
    client.force_login(technician)
    assert client.get("/").status_code == 200
    Session.objects.update(expire_date=datetime(2020, 1, 1, tzinfo=UTC))
    assert client.get("/").status_code == 302
    client.force_login(technician)
    assert client.get("/").status_code == 200
    Session.objects.all().delete()
    assert client.get("/").status_code == 302
