"""How often a page asks the database, and that a board is worked out once."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tempermark.core.diagnosis import engine
from tempermark.web.run.pieces import queries as pieces
from tempermark.web.trace.board import diagnosis, mapping
from tempermark.web.trace.models import FaultCase
from tests.support import room

# Page → the most it may ask, with one survey, three pieces and one case; the session, the person
# and the strip of presses are some ten of each.
MOST = {
    "/": 20,
    "/presses/heron/": 40,
    "/presses/heron/calibration/": 30,
    "/presses/heron/pressure/": 40,
    "/presses/heron/test-presses/new/": 45,
    "/logbook/": 30,
    "/recipes/": 25,
    "/cases/": 20,
    "/knowledge/": 20,
    "/instruments/": 20,
}


@pytest.fixture
def busy(browse, technician, element):
    """A surveyed press with pieces, one of them traced."""
    room.survey(technician, element, days_ago=1)
    made = [room.piece(technician, element) for _ in range(3)]
    room.mark(technician, made[-1])
    browse.post(f"/test-presses/{made[-1].pk}/trace/")
    return FaultCase.objects.get()


def count(browse, path):
    with CaptureQueriesContext(connection) as queries:
        assert browse.get(path).status_code == 200
    return len(queries)


@pytest.mark.parametrize("path", MOST)
def test_a_page_asks_the_database_no_more_than_it_needs(browse, busy, path):
    browse.get(path)
    assert count(browse, path) <= MOST[path]


def test_a_list_asks_no_more_for_more_rows(browse, busy, technician, element):
    # What surveys tell is read once and kept.
    browse.get("/logbook/")
    before = count(browse, "/logbook/")
    for _ in range(10):
        room.piece(technician, element)
    assert count(browse, "/logbook/") == before


@pytest.fixture
def calls(monkeypatch):
    """How often each of the costly questions is asked."""
    found = dict.fromkeys(("diagnose", "same_marks", "worked_before", "build_case"), 0)

    def counted(owner, name):
        real = getattr(owner, name)

        def once_more(*args, **kwargs):
            found[name] += 1
            return real(*args, **kwargs)

        monkeypatch.setattr(owner, name, once_more)

    counted(diagnosis, "diagnose")
    counted(diagnosis, "build_case")
    counted(mapping, "same_marks")
    counted(pieces, "worked_before")
    return found


def test_a_board_is_built_once_and_asks_each_thing_once(browse, busy, calls):
    diagnosis._diagnosis.cache_clear()
    assert browse.get(busy.get_absolute_url()).status_code == 200
    assert calls == {"diagnose": 1, "same_marks": 1, "worked_before": 1, "build_case": 1}


def test_the_page_after_an_act_does_not_diagnose_again(browse, busy, calls):
    diagnosis._diagnosis.cache_clear()
    browse.get(busy.get_absolute_url())
    path = f"{busy.get_absolute_url()}answer/"
    assert browse.post(path, {"fact": "steam_seen", "answer": "yes"}).status_code == 302
    # The board's own, and that of the case as answered.
    assert calls["diagnose"] == 2
    browse.get(busy.get_absolute_url())
    assert calls["diagnose"] == 2


def test_the_kept_diagnosis_is_that_of_the_engine(browse, busy):
    found = diagnosis.diagnose_case(busy)
    assert found.diagnosis == engine.diagnose(found.built.case, found.knowledge.base)
