"""Lots and marked sheets: described, aged, counted, retired; on the log and in files."""

from datetime import date, timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from tempermark.web.run.lots import lots
from tempermark.web.run.models import Lot, LotKind, TestPress
from tests.support import room


def coat(days_ago=0, keeps_months=6, **fields):
    since = timezone.localdate() - timedelta(days=days_ago)
    return Lot.objects.create(
        **{"kind": LotKind.COAT, "code": "C-1", "since": since, "keeps_months": keeps_months}
        | fields
    )


@pytest.mark.parametrize(
    ("since", "months", "last"),
    [
        (date(2026, 1, 31), 1, date(2026, 2, 28)),
        (date(2026, 3, 15), 6, date(2026, 9, 15)),
        (date(2026, 12, 31), 2, date(2027, 2, 28)),
        (date(2027, 12, 31), 2, date(2028, 2, 29)),
        (date(2026, 5, 1), 24, date(2028, 5, 1)),
    ],
)
def test_a_lot_keeps_to_the_same_day_of_a_later_month(since, months, last):
    assert Lot(since=since, keeps_months=months).use_by == last


@given(st.dates(date(2000, 1, 1), date(2100, 1, 1)), st.integers(1, 240))
def test_a_lot_never_keeps_into_the_month_after(since, months):
    last = Lot(since=since, keeps_months=months).use_by
    assert (last.year - since.year) * 12 + last.month - since.month == months
    assert last.day <= since.day


def test_a_coat_is_described_found_past_its_date_and_retired(browse):
    then = timezone.localdate() - timedelta(days=230)
    data = {"kind": "coat", "code": " C-2 ", "since": then.isoformat(), "keeps_months": "6"}
    assert browse.post("/lots/", data).status_code == 302
    page = room.soup(browse.get("/lots/"))
    assert page.h1.text.startswith("Coat C-2 has been past its date")
    lot = Lot.objects.get()
    browse.post(f"/lots/{lot.pk}/retire/")
    page = room.soup(browse.get("/lots/"))
    assert "Nothing in use is past its date" in page.h1.text
    browse.post(f"/lots/{lot.pk}/retire/", {"back": "1"})
    assert Lot.objects.get().retired_on is None


def test_a_known_name_is_brought_up_to_date(browse):
    coat(days_ago=20, keeps_months=None)
    page = room.soup(browse.get("/lots/?kind=coat&code=C-1"))
    assert page.select_one("[name=code]")["value"] == "C-1"
    since = page.select_one("[name=since]")["value"]
    browse.post("/lots/", {"kind": "coat", "code": "C-1", "since": since, "keeps_months": "3"})
    assert Lot.objects.get().keeps_months == 3


@pytest.mark.parametrize(
    ("field", "typed", "said"),
    [
        ("since", (timezone.localdate() + timedelta(days=2)).isoformat(), "not come yet"),
        ("since", "soon", "valid date"),
        ("keeps_months", "999", "240"),
        ("kind", "glue", "Select a valid choice"),
        ("code", "x" * 41, "40"),
    ],
)
def test_wrong_input_is_kept_and_said(browse, field, typed, said):
    data = {"kind": "film", "code": "F-1", "since": "2026-01-05", "keeps_months": "12"}
    answer = browse.post("/lots/", data | {field: typed})
    page = room.soup(answer)
    assert answer.status_code == 422
    assert said in page.select_one("#describe").text
    if field != "kind":
        assert page.select_one(f"[name={field}]")["value"] == typed
    assert not Lot.objects.exists()


def test_a_clerk_only_looks(browse_as, clerk):
    lot = coat()
    browse = browse_as(clerk)
    page = room.soup(browse.get("/lots/"))
    assert "C-1" in page.text and page.select_one("#describe") is None
    assert browse.post("/lots/", {}).status_code == 403
    assert browse.post(f"/lots/{lot.pk}/retire/").status_code == 403


def test_uses_of_a_sheet_and_faulty_pieces_of_a_lot_are_counted(browse, technician, element):
    for age in (5, 4, 3):
        made = room.piece(technician, element, age, cover_sheet="P-4", film_lot="F-9")
    made.outcome = "faulty"
    made.save()
    assert lots.uses_before(made) == 2
    rows = {(r.kind, r.code): r for r in lots.overview()}
    sheet, film = rows["sheet", "P-4"], rows["film", "F-9"]
    assert (sheet.pieces, sheet.faulty, film.pieces) == (3, 1, 3)
    assert film.state == "not described"
    page = room.soup(browse.get(made.get_absolute_url()))
    assert "used 2 times before" in page.text


def test_the_log_offers_lots_with_their_state(browse, element):
    room.piece(room.person("ada", "technician"), element)
    coat(days_ago=400)
    coat(code="C-0", retired_on=timezone.localdate())
    recipe = TestPress.objects.get().recipe_id
    page = room.soup(browse.get(f"/presses/heron/test-presses/new/?recipe={recipe}"))
    offered = page.select("#known_coat_lot option")
    assert [o["value"] for o in offered] == ["C-1"]
    assert "past its date since" in offered[0].text
    assert page.select_one("[name=coat_lot]")["list"] == "known_coat_lot"


@pytest.mark.parametrize("kind", ["csv", "json"])
def test_lots_go_out_and_come_in_again(browse_as, lead, kind):
    coat(days_ago=10, note="1 to 4")
    browse = browse_as(lead)
    raw = browse.get(f"/files/lots.{kind}").content
    Lot.objects.all().delete()
    form = {"table": "lots", "file": SimpleUploadedFile(f"lots.{kind}", raw)}
    assert "1 lots imported" in room.soup(browse.post("/files/table/", form)).text
    lot = Lot.objects.get()
    assert (lot.code, lot.keeps_months, lot.note) == ("C-1", 6, "1 to 4")


def test_a_name_on_a_new_sheet_counts_from_its_first_day(technician, element):
    for age in (40, 30, 2):
        room.piece(technician, element, age, cover_sheet="P-4")
    last = room.piece(technician, element, 1, cover_sheet="P-4")
    assert lots.uses_before(last) == 3
    coat(days_ago=5, kind=LotKind.SHEET, code="P-4")
    assert lots.uses_before(last) == 1
