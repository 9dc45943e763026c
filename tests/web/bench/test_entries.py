"""What a bench sends is kept once, in order, and becomes pieces."""

import random
import time
from datetime import timedelta

import pytest
from django.db import connection, transaction
from django.db.utils import ProgrammingError
from django.utils import timezone

from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import PlatenChange
from tempermark.web.presses.models import Press
from tempermark.web.run.models import LogEntry, Lot, Mark, PressedPiece, Run, TestPress
from tests.support import bench, room

pytestmark = pytest.mark.django_db


@pytest.fixture
def run(technician, element):
    return bench.run(technician, element)


def test_a_closing_and_an_opening_are_a_piece_with_all_that_is_known(browse, technician, element):
    Lot.objects.create(kind="sheet", code="P-9", since="2026-10-01", material="plain_paper")
    run = bench.run(technician, element, relative_humidity=0.6)
    jobs.tick(technician, run.job, "place", True)
    receipts = bench.send(browse, run, bench.pressed(run))
    assert bench.states(receipts) == ["kept", "kept"]
    (piece,) = TestPress.objects.all()
    assert (piece.set_c, piece.dwell_s, piece.closures) == (201.0, 52.0, 1)
    assert piece.step_number is None
    assert piece.pressed_by == technician
    assert piece.job == run.job
    assert piece.relative_humidity == 0.6
    assert piece.cover_sheet == "P-9"
    assert piece.pressure == run.job.recipe.pressure
    assert piece.stack == list(run.job.recipe.sheet.main.stack)
    assert timezone.now() - piece.pressed_at == pytest.approx(
        timedelta(minutes=5), abs=timedelta(seconds=5)
    )
    assert piece.art_x_mm == pytest.approx((400 - 150) / 2, abs=1)


def test_a_split_dwell_is_added_up_with_the_time_it_lay_open(browse, run):
    bench.send(browse, run, bench.pressed(run, spans=[(0, 90), (97, 187), (192, 212)]))
    piece = TestPress.objects.get()
    assert (piece.dwell_s, piece.closures, piece.open_s) == (200.0, 3, 12.0)


def test_two_pieces_of_a_load_are_logged_at_their_places(browse, technician, element):
    run = bench.run(technician, element, per_load=2)
    bench.send(browse, run, bench.pressed(run, pieces=(1, 2)))
    first, second = TestPress.objects.order_by("piece__number")
    assert (first.piece.number, second.piece.number) == (1, 2)
    assert second.art_x_mm - first.art_x_mm == pytest.approx(165)
    assert first.art_y_mm == second.art_y_mm
    assert first.piece.code != second.piece.code


def test_every_heated_step_and_every_placing_is_logged_as_itself(browse, technician, element):
    run = bench.run(technician, element, placings=("front", "side"))
    pre_press = next(
        n for n, step in enumerate(run.job.recipe.sheet.steps) if step.kind == "pre_press"
    )
    rows = bench.pressed(run, step=pre_press, spans=[(0, 4)], ago_s=900)
    rows += bench.pressed(run, ago_s=600, placing=0) + bench.pressed(run, ago_s=400, placing=1)
    bench.send(browse, run, rows)
    found = TestPress.objects.order_by("pressed_at")
    assert [p.step_number for p in found] == [pre_press, None, None]
    assert [p.placing for p in found] == ["front", "front", "side"]
    assert PressedPiece.objects.count() == 1


def test_a_piece_that_goes_back_is_the_same_piece_pressed_again(browse, run):
    rows = bench.pressed(run, ago_s=600) + bench.pressed(run, ago_s=300, spans=[(0, 20)])
    bench.send(browse, run, [*rows, bench.entry("outcome", pieces=[1], outcome="good")])
    first, second = TestPress.objects.order_by("pressed_at")
    assert first.piece == second.piece
    assert (first.outcome, second.outcome) == ("open", "good")


def test_the_same_entry_sent_five_times_is_one(browse, run):
    rows = [*bench.pressed(run), bench.entry("outcome", pieces=[1], outcome="good")]
    for n in range(5):
        expected = "kept" if n == 0 else "again"
        assert set(bench.states(bench.send(browse, run, rows))) == {expected}
    assert TestPress.objects.count() == 1
    assert LogEntry.objects.filter(run=run, test_press=None).count() == 3


def test_a_batch_that_is_cut_anywhere_and_sent_again_loses_and_doubles_nothing(browse, run):
    rows = []
    for piece in range(1, 5):
        rows += bench.pressed(run, pieces=(piece,), ago_s=900 - 60 * piece)
        rows.append(bench.entry("outcome", pieces=[piece], outcome="good"))
    rng = random.Random(4)
    at = 0
    while at < len(rows):
        cut = at + rng.randint(1, 4)
        bench.send(browse, run, rows[at:cut])
        # The answer was lost on the way: some of it is sent once more with the rest.
        at = max(0, cut - rng.randint(0, 3)) if cut < len(rows) else cut
    assert sorted(TestPress.objects.values_list("piece__number", flat=True)) == [1, 2, 3, 4]
    assert set(TestPress.objects.values_list("outcome", flat=True)) == {"good"}


@pytest.mark.parametrize("off_s", [-7200, 7200])
def test_a_bench_whose_clock_is_wrong_is_logged_by_the_server_s(browse, run, off_s):
    now = time.time()
    rows = bench.pressed(run, ago_s=100)
    shifted = [row | {"at_s": row["at_s"] + off_s} for row in rows]
    bench.send(browse, run, shifted, sent_at_s=now + off_s)
    piece = TestPress.objects.get()
    assert piece.dwell_s == 52.0
    assert abs(timezone.now().timestamp() - 100 - piece.pressed_at.timestamp()) < 5
    shift = LogEntry.objects.filter(run=run).first().clock_shift_s
    assert shift == pytest.approx(-off_s, abs=5)


def jump(monkeypatch, seconds):
    """The server's clock is set, by so much."""
    right = timezone.now
    monkeypatch.setattr(timezone, "now", lambda: right() + timedelta(seconds=seconds))


@pytest.mark.parametrize("jump_s", [-86400, -3600, -300, -45, 45, 300, 3600, 86400])
@pytest.mark.parametrize("spans", [[(0.0, 52.0)], [(0.0, 30.0), (34.0, 56.0)]])
def test_the_server_s_clock_is_set_in_the_middle_of_a_dwell(
    browse, run, monkeypatch, jump_s, spans
):
    rows = bench.pressed(run, spans=spans, ago_s=60)
    bench.send(browse, run, rows[:-1])
    jump(monkeypatch, jump_s)
    bench.send(browse, run, rows[-1:])
    piece = TestPress.objects.get()
    assert (piece.dwell_s, piece.closures) == (52.0, len(spans))
    assert piece.pressed_at <= timezone.now()


@pytest.mark.parametrize("jump_s", [-86400, -300, 45, 300, 86400])
def test_a_bench_s_clock_is_set_in_the_middle_of_a_dwell(browse, run, jump_s):
    closed, opened = bench.pressed(run, ago_s=60)
    bench.send(browse, run, [closed])
    opened["at_s"] += jump_s
    bench.send(browse, run, [opened], sent_at_s=time.time() + jump_s)
    assert TestPress.objects.get().dwell_s == pytest.approx(52.0, abs=0.5)


@pytest.mark.parametrize("jump_s", [-86400, 86400])
def test_a_clock_that_is_set_between_presses_costs_no_entry(browse, run, monkeypatch, jump_s):
    bench.send(browse, run, bench.pressed(run, pieces=(1,)))
    jump(monkeypatch, jump_s)
    rows = [*bench.pressed(run, pieces=(2,)), bench.entry("outcome", pieces=[1], outcome="good")]
    bench.send(browse, run, rows)
    assert {p.piece.number: p.outcome for p in TestPress.objects.all()} == {1: "good", 2: "open"}


def test_nothing_is_ever_logged_later_than_now(browse, run):
    bench.send(browse, run, [bench.entry("note", at_s=time.time() + 5000, text="from tomorrow")])
    assert LogEntry.objects.get(run=run).at <= timezone.now()


def test_a_refused_entry_says_why_and_the_rest_is_kept(browse, run):
    rows = [
        bench.entry("opened", press=str(bench.as_uuid("0" * 32)), is_last=True),
        bench.entry("outcome", pieces=[3], outcome="good"),
        bench.entry("closed", step=99, press=str(bench.as_uuid("1" * 32)), pieces=[1], set_c=200),
        bench.entry("outcome", pieces=[1], outcome="nice"),
        *bench.pressed(run),
    ]
    receipts = list(bench.send(browse, run, rows).values())
    assert [r["state"] for r in receipts] == ["refused"] * 4 + ["kept"] * 2
    assert "log it by hand" in receipts[0]["why"]
    assert "Piece 3 was not pressed" in receipts[1]["why"]
    assert "not pressed" in receipts[2]["why"]
    assert "unknown" in receipts[3]["why"]
    assert TestPress.objects.count() == 1


def test_an_outcome_grades_marks_and_is_taken_back_by_an_entry_that_names_it(browse, run):
    spoiled = bench.entry(
        "outcome", pieces=[1], outcome="spoiled", symptom="ghosting", x=0.25, y=0.75
    )
    bench.send(browse, run, [*bench.pressed(run), spoiled])
    piece = TestPress.objects.get()
    assert (piece.outcome, piece.grade) == ("faulty", "spoiled")
    mark = Mark.objects.get()
    assert (mark.symptom, mark.where) == ("ghosting", "corner_back_left")
    back = bench.entry("outcome", pieces=[1], outcome="open", corrects=spoiled["key"])
    bench.send(browse, run, [back])
    piece.refresh_from_db()
    assert (piece.outcome, piece.grade) == ("open", "")
    row = LogEntry.objects.get(entry_key=back["key"])
    assert str(row.corrects.entry_key) == spoiled["key"]
    # The piece's own log says the same.
    own = LogEntry.objects.filter(test_press=piece, kind="outcome").order_by("pk")
    assert own[1].corrects == own[0]


def test_the_log_cannot_be_changed_or_deleted(browse, run):
    bench.send(browse, run, bench.pressed(run))
    for change in (
        lambda: LogEntry.objects.update(kind="note"),
        lambda: LogEntry.objects.all().delete(),
    ):
        with pytest.raises(ProgrammingError, match="append-only"), transaction.atomic():
            change()
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM run_logentry")
        assert cursor.fetchone()[0] >= 3


def test_a_dial_that_is_set_is_known_and_its_change_is_timed(browse, technician, element):
    room.survey(technician, element)
    Press.objects.update(dial_c=180.0)
    run = bench.run(technician, element)
    now = time.time()
    bench.send(browse, run, [bench.entry("set", now - 600, set_c=205.0, step=0)])
    element.press.refresh_from_db()
    assert element.press.dial_c == 205.0
    change = PlatenChange.objects.get()
    assert change.there_at is None
    bench.send(browse, run, [bench.entry("ready", now - 300, set_c=205.0, step=0)])
    change.refresh_from_db()
    assert change.seconds == pytest.approx(300, abs=1)


@pytest.mark.parametrize(("took_s", "expected_s"), [(240, 240), (2, None), (5 * 3600, None)])
def test_a_change_that_was_queued_is_timed_by_its_taps_or_given_up(
    browse, technician, element, took_s, expected_s
):
    room.survey(technician, element)
    Press.objects.update(dial_c=180.0)
    run = bench.run(technician, element)
    start = time.time() - 6 * 3600
    rows = [
        bench.entry("set", start, set_c=205.0, step=0),
        bench.entry("ready", start + took_s, set_c=205.0, step=0),
    ]
    assert bench.states(bench.send(browse, run, rows)) == ["kept", "kept"]
    change = PlatenChange.objects.get()
    assert change.seconds == (expected_s and pytest.approx(expected_s, abs=1))
    assert (change.given_up_at is None) == (expected_s is not None)


def test_an_end_ends_the_run(browse, run):
    bench.send(browse, run, [bench.entry("ended")])
    assert Run.objects.get().ended_at is not None


def test_a_clerk_logs_nothing(browse_as, clerk, run):
    answer = browse_as(clerk).post(f"/runs/{run.pk}/entries/", {}, content_type="application/json")
    assert answer.status_code == 403


@pytest.mark.parametrize("body", ["", "[", '{"format": "x"}', "[1]", "\x00"])
def test_what_is_no_document_is_refused_with_its_error(browse, run, body):
    answer = browse.post(f"/runs/{run.pk}/entries/", body, content_type="application/json")
    assert answer.status_code == 400
    assert answer.json()["error"]["message"]
