"""The logbook: every filter finds what it should; pages, yield, comparison, files, pieces."""

import csv
import io
import json
from datetime import timedelta
from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.kit.units import METRIC
from tempermark.web.logbook.comparing import compared, headline
from tempermark.web.logbook.filters import LogbookForm, matching, page_of
from tempermark.web.logbook.yields import yields_of
from tempermark.web.run.models import PiecePhoto, TestPress
from tempermark.web.run.pieces import actions as runs
from tests.support import room

pytestmark = pytest.mark.django_db


@pytest.fixture
def pieces(technician, lead, element):
    """A good one, a spoiled one with a mark on another press and blank, and a pre-press."""
    good = room.piece(technician, element, days_ago=10, note="first of the week", film_lot="F-7")
    runs.score(technician, good, runs.Scored("good", scores={"black": 5}))
    other = room.element("Grebe")
    mug = room.blank(name="Oar tag", kind="plastic")
    spoiled = room.piece(lead, other, days_ago=2, blank=mug, cover_sheet="P-9")
    room.mark(lead, spoiled, symptom="ghosting")
    runs.score(lead, spoiled, runs.Scored("faulty", "spoiled"))
    pre = room.piece(technician, element, days_ago=1, step_number=1)
    return {"good": good, "spoiled": spoiled, "pre": pre}


def found(**query):
    return list(matching(LogbookForm(query)))


def day(days_ago):
    return timezone.localdate(timezone.now() - timedelta(days=days_ago)).isoformat()


@pytest.mark.parametrize(
    ("query", "expected"),
    [
        ({}, ["spoiled", "good"]),
        ({"steps": "on"}, ["pre", "spoiled", "good"]),
        ({"q": "heron"}, ["good"]),
        ({"q": "grebe oar"}, ["spoiled"]),
        ({"q": "week"}, ["good"]),
        ({"q": "vest"}, ["spoiled", "good"]),
        ({"q": "F-7"}, ["good"]),
        ({"q": "nothing-like-it"}, []),
        ({"outcome": "good"}, ["good"]),
        ({"outcome": "spoiled"}, ["spoiled"]),
        ({"outcome": "second"}, []),
        ({"symptom": "ghosting"}, ["spoiled"]),
        ({"lot": "P-9"}, ["spoiled"]),
        ({"lot": "P"}, []),
        ({"since": day(3)}, ["spoiled"]),
        ({"until": day(3)}, ["good"]),
        ({"since": day(3), "until": day(4)}, []),
        ({"since": "soon"}, ["spoiled", "good"]),
        ({"press": "9999"}, ["spoiled", "good"]),
    ],
)
def test_a_filter_finds_what_it_should(pieces, query, expected):
    assert found(**query) == [pieces[name] for name in expected]


def test_press_recipe_blank_and_operator_are_chosen_by_key(pieces, technician):
    spoiled, good = pieces["spoiled"], pieces["good"]
    assert found(press=spoiled.element.press_id) == [spoiled]
    assert found(blank=spoiled.blank_id) == [spoiled]
    assert found(operator=technician.pk) == [good]
    assert found(recipe=good.recipe.recipe_id) == [spoiled, good]
    assert found(q=good.piece.code.lower()) == [good]


def test_pages_go_on_where_the_last_one_ended_even_at_the_same_moment(technician, element):
    first = room.piece(technician, element)
    for _ in range(6):
        room.piece(technician, element)
    TestPress.objects.update(pressed_at=first.pressed_at)
    seen, after = [], ""
    while True:
        page = page_of(matching(LogbookForm({})), after, 3)
        seen += [row.pk for row in page.rows]
        after = page.after
        if not after:
            break
    assert len(seen) == len(set(seen)) == 7


@pytest.mark.parametrize("after", ["x", "1", "1.", ".", "9" * 40 + ".1", "99999999999999999.3"])
def test_a_cursor_that_is_none_shows_the_newest(browse, pieces, after):
    assert pieces["good"].piece.code in room.words(browse.get("/logbook/", {"after": after}))


def test_the_old_address_leads_to_the_logbook_with_what_was_asked(browse, pieces):
    answer = browse.get("/test-presses/", {"q": "heron"}, follow=True)
    assert answer.redirect_chain[0][0] == "/logbook/?q=heron"
    text = room.words(answer)
    assert "1 press found" in text
    assert pieces["spoiled"].piece.code not in text


def test_the_yield_counts_what_was_judged_by_press_recipe_and_place(browse, pieces):
    counted = yields_of(LogbookForm({}))
    assert [(r.label, r.good, r.judged, r.spoiled) for r in counted.by_press] == [
        ("Grebe", 0, 1, 1),
        ("Heron", 1, 1, 0),
    ]
    (place,) = counted.by_place
    assert (place.label, place.judged) == ("back", 2)
    low, high = counted.by_press[1].interval
    assert 0 < low < high <= 1
    assert "1 of 2 pieces came out good" in room.words(browse.get("/logbook/yield/"))


def test_a_comparison_names_the_one_thing_that_differs(browse, technician, element, pieces):
    good = pieces["good"]
    other = room.piece(technician, element, set_c=195.0, film_lot="F-7", note="first of the week")
    runs.score(technician, other, runs.Scored("faulty", "second"))
    pair = [TestPress.objects.get(pk=p.pk) for p in (good, other)]
    found_rows = compared(pair, METRIC)
    assert headline(found_rows, pair).replace("\u00a0", " ") == (
        "Only the dial differs: 205 °C against 195 °C."
    )
    assert found_rows.done[0].label == "dial"
    page = browse.get("/logbook/compare/", {"press": [good.pk, other.pk]})
    assert "Only the dial differs" in room.words(page)


def test_pieces_that_are_alike_say_so(technician, element):
    pair = [room.piece(technician, element) for _ in range(2)]
    assert headline(compared(pair, METRIC), pair).startswith("Nothing that was recorded differs")


def test_one_press_alone_is_not_compared_and_more_than_four_are_cut(browse, technician, element):
    many = [room.piece(technician, element).pk for _ in range(6)]
    assert "Choose two to four" in room.words(browse.get("/logbook/compare/", {"press": many[:1]}))
    page = room.soup(browse.get("/logbook/compare/", {"press": many}))
    assert len(page.select(".compared tr:first-child th a.figure")) == 4


def test_files_hold_the_rows_of_the_filter_and_run_nothing_in_a_spreadsheet(browse, pieces):
    TestPress.objects.filter(pk=pieces["good"].pk).update(note="=1+1")
    raw = b"".join(browse.get("/logbook/logbook.csv", {"q": "heron"}).streaming_content).decode()
    (row,) = csv.DictReader(io.StringIO(raw))
    assert row["piece"] == pieces["good"].piece.code
    assert row["note"] == "'=1+1"
    assert row["score_black"] == "5"
    raw = b"".join(browse.get("/logbook/logbook.json").streaming_content)
    document = json.loads(raw)
    assert document["format"] == "tempermark.logbook/1"
    assert [p["outcome"] for p in document["presses"]] == ["faulty", "good"]
    assert document["presses"][0]["symptoms"] == "ghosting"
    assert browse.get("/logbook/logbook.xls").status_code == 404


def test_a_piece_is_opened_by_its_label_with_everything_about_it(browse, technician, pieces):
    piece = pieces["good"].piece
    assert browse.get("/piece/", {"code": f" {piece.code.lower()} "}).url == f"/piece/{piece.code}/"
    assert browse.get("/piece/", {"code": "NOSUCH"}).status_code == 404
    text = room.words(browse.get(f"/piece/{piece.code}/"))
    for part in ("good", "Dye on a polyester vest", "What its setting rests on", "logged"):
        assert part in text


def test_a_photograph_is_added_to_a_piece_and_withdrawn_with_a_reason(browse, pieces):
    from tests.web.bench.test_runs import picture  # noqa: PLC0415

    piece = pieces["good"].piece
    upload = io.BytesIO(picture())
    upload.name = "a.jpg"
    browse.post(
        f"/piece/{piece.code}/photos/",
        {"file": upload, "washes": "2", "caption": "front", "once": str(uuid4())},
    )
    photo = PiecePhoto.objects.get()
    assert (photo.washes, photo.caption) == (2, "front")
    assert browse.get(f"/piece-photos/{photo.pk}/small.jpg")["Content-Type"] == "image/jpeg"
    browse.post(f"/piece-photos/{photo.pk}/withdraw/", {"why": ""})
    assert PiecePhoto.objects.exists()
    browse.post(f"/piece-photos/{photo.pk}/withdraw/", {"why": "another piece"})
    assert not PiecePhoto.objects.exists()
    assert PiecePhoto.every.exists()
    assert browse.get(f"/piece-photos/{photo.pk}/large.jpg").status_code == 404


def test_a_correction_is_a_new_entry_that_names_the_old(
    browse, lead, technician, pieces, browse_as
):
    from tests.support.forms import fields_of  # noqa: PLC0415

    piece = pieces["good"]
    path = f"/test-presses/{piece.pk}/correct/"
    form = room.soup(browse.get(path)).select_one("main form[method=post]")
    browse.post(path, fields_of(form) | {"set_c": "198", "why": "misread"})
    rows = list(piece.entries.order_by("pk"))
    assert [r.kind for r in rows] == ["logged", "outcome", "corrected"]
    assert rows[2].corrects == rows[0]
    assert rows[2].detail["why"] == "misread"
