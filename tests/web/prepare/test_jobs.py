"""Jobs: begun, ticked, taken on to the log; and clocks that outlive what shows them."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.jobs import actions, queries
from tempermark.web.jobs.models import Clock, Job
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tempermark.web.run.lots.in_use import coats_text
from tempermark.web.run.models import Lot, TestPress
from tests.support import room

PANEL = "dye-on-a-large-coated-aluminium-panel"


@pytest.fixture
def board(element):
    load_shipped_recipes()
    return room.board()


@pytest.fixture
def job(browse, board):
    page = room.soup(browse.get(f"/recipes/{PANEL}/prepare/"))
    response = browse.post(f"/recipes/{PANEL}/prepare/", sent(page.select_one("main form")))
    found = Job.objects.get()
    assert response.url == f"/jobs/{found.pk}/"
    return found


def sent(form, **changes):
    data = {i["name"]: i.get("value", "") for i in form.select("input[name]")}
    data |= {
        s["name"]: (s.select_one("[selected]") or s.option).get("value", "")
        for s in form.select("select")
    }
    return data | changes


def test_a_job_takes_its_blank_s_size_and_fills_the_list(browse, technician, element, job):
    assert (job.art_width_mm, job.art_height_mm) == (380, 300)
    text = room.words(browse.get(f"/jobs/{job.pk}/"))
    assert "0 of 12 done" in text
    assert "Print the art 383.6 mm × 303.2 mm." in text
    assert "Set Heron to 201 °C and wait until it is steady." in text
    room.survey(technician, element)
    assert "by its survey" in room.words(browse.get(f"/jobs/{job.pk}/"))


def test_a_line_is_ticked_once_and_undone(browse, job):
    address = f"/jobs/{job.pk}/lines/clean/"
    for _ in range(2):
        browse.post(address, {"done": "1"})
    assert queries.ticked(job) == {"clean"}
    assert job.ticks.count() == 1
    browse.post(address, {"done": "0"})
    assert queries.ticked(job) == set()
    assert job.ticks.get().undone_at is not None
    assert browse.post(f"/jobs/{job.pk}/lines/nonsense/", {"done": "1"}).status_code == 404


def test_what_is_ticked_is_known_to_the_log_and_the_rest_stays_open(browse, job):
    for line in ("clean", "fix"):
        browse.post(f"/jobs/{job.pk}/lines/{line}/", {"done": "1"})
    page = room.soup(browse.get(f"/jobs/{job.pk}/"))
    address = page.find("a", string="Log one by hand")["href"]
    form = room.soup(browse.get(address)).select_one("form#log")
    chosen = {s["name"]: s.select_one("[selected]") for s in form.select("select")}
    assert chosen["either_wiped"]["value"] == "blank_wiped"
    assert chosen["either_transfer"]["value"] == "transfer_fixed"
    assert chosen["either_print"] is None or not chosen["either_print"]["value"]
    browse.post(address.partition("?")[0], sent(form, confirmed="x"))
    browse.post(address.partition("?")[0], sent(form))
    piece = TestPress.objects.first()
    if piece is not None:
        assert piece.job == job
        assert {"blank_wiped", "transfer_fixed"} <= set(piece.facts)


def test_a_closed_job_takes_no_ticks(browse, job):
    browse.post(f"/jobs/{job.pk}/close/", {"closed": "1"})
    page = room.soup(browse.get(f"/jobs/{job.pk}/"))
    assert all(button.has_attr("disabled") for button in page.select("button.tick"))
    browse.post(f"/jobs/{job.pk}/lines/clean/", {"done": "1"})
    assert queries.ticked(job) == set()
    assert "This job is closed" in room.words(browse.get(f"/jobs/{job.pk}/"))
    assert "No job is under way" in room.words(browse.get("/jobs/"))
    browse.post(f"/jobs/{job.pk}/close/", {"closed": "0"})
    assert "1 job under way" in room.words(browse.get("/jobs/"))


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"quantity": "0"}, "greater than or equal to 1"),
        ({"art_width_mm": "wide"}, "is not a"),
        ({"blank": ""}, "required"),
        ({"humidity": "140"}, "less than or equal to 100"),
    ],
)
def test_wrong_entries_are_said_and_kept(browse, board, changes, said):
    page = room.soup(browse.get(f"/recipes/{PANEL}/prepare/"))
    data = sent(page.select_one("main form"), note="for the regatta") | changes
    response = browse.post(f"/recipes/{PANEL}/prepare/", data)
    assert response.status_code == 422
    assert said in room.words(response)
    assert "for the regatta" in response.content.decode()
    assert not Job.objects.exists()


def test_a_job_in_inches_is_the_same_job(browse, board):
    User.objects.update(length_unit="in")
    page = room.soup(browse.get(f"/recipes/{PANEL}/prepare/"))
    form = sent(page.select_one("main form"), art_width_mm="15", art_height_mm="12 1/2")
    browse.post(f"/recipes/{PANEL}/prepare/", form)
    assert Job.objects.get().art_width_mm == pytest.approx(381)
    assert Job.objects.get().art_height_mm == pytest.approx(317.5)


def test_a_clock_starts_from_its_line_and_shows_everywhere(browse, job):
    page = room.soup(browse.get(f"/jobs/{job.pk}/"))
    form = page.select_one("form:has([name=seconds])")
    for _ in range(2):
        browse.post("/clocks/start/", sent(form))
    clock = Clock.objects.get()
    assert (clock.ends_at - clock.started_at) == timedelta(minutes=12)
    assert "print dry" in room.soup(browse.get("/")).select_one("#clocks").text


def test_a_clock_outlives_the_server_and_rings_once(browse, technician):
    """It is a row with an end: whoever asks later sees what is left of it."""
    clock = actions.start_clock(technician, "hover", 60, uuid4())
    Clock.objects.update(
        started_at=timezone.now() - timedelta(minutes=2),
        ends_at=timezone.now() - timedelta(minutes=1),
    )
    strip = room.soup(browse.get("/")).select_one("#clocks [data-clock]")
    assert float(strip["data-left-s"]) == pytest.approx(-60, abs=5)
    browse.post(f"/clocks/{clock.pk}/heard/")
    assert not room.soup(browse.get("/")).select_one("#clocks [data-clock]")


def test_a_clock_is_lengthened_and_rings_again(browse, technician):
    clock = actions.start_clock(technician, "coat side A", 600, uuid4())
    before = clock.ends_at
    browse.post(f"/clocks/{clock.pk}/longer/")
    clock.refresh_from_db()
    assert clock.ends_at - before == timedelta(minutes=1)
    actions.hear(technician, clock)
    assert actions.lengthen(technician, clock, 60).rung_at is None
    browse.post(f"/clocks/{clock.pk}/stop/")
    assert not queries.running()


@pytest.mark.parametrize("seconds", [0, -5, 1e6 * 2, float("inf")])
def test_a_wait_that_is_none_is_refused(technician, seconds):
    with pytest.raises(InputError, match="14 days"):
        actions.start_clock(technician, "x", seconds, uuid4())


def test_a_clock_of_one_s_own_reads_minutes(browse, db):
    browse.post("/clocks/", {"name": "look", "seconds": "1:30", "once": str(uuid4())})
    clock = Clock.objects.get()
    assert (clock.ends_at - clock.started_at).total_seconds() == 90


def test_a_clerk_looks_and_changes_nothing(client, job):
    client.force_login(room.person("tomke", "clerk"))
    assert client.get(f"/jobs/{job.pk}/").status_code == 200
    assert client.post(f"/jobs/{job.pk}/lines/clean/", {"done": "1"}).status_code == 403
    assert client.post("/clocks/start/", {"seconds": "60"}).status_code == 403
    assert client.post("/clocks/", {"name": "x", "seconds": "60"}).status_code == 403


def test_the_list_names_lots_in_use_and_sheets_to_retire(browse, technician, element, job):
    day = timezone.localdate()
    Lot.objects.create(kind="sheet", code="P9", since=day, material="parchment", browning=3)
    assert "To be retired: P9." in room.words(browse.get(f"/jobs/{job.pk}/"))
    Lot.objects.create(kind="coat", code="C1", since=day - timedelta(days=400), keeps_months=6)
    assert coats_text() == "Past their date: C1. Mix afresh."
    Lot.objects.create(kind="coat", code="C2", since=day, keeps_months=6)
    assert coats_text().startswith("In use: C2, until ")
