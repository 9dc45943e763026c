"""Sheets, tape and pillows that are used again: counted by tap, retired by what going on costs."""

from datetime import date

import pytest

from tempermark.web.run.lots.lots import Money, wear_text
from tempermark.web.run.models import Lot
from tempermark.web.supplies.models import Price
from tests.support import room


@pytest.fixture
def sheet(db):
    return Lot.objects.create(
        kind="sheet", code="P7", since=date(2026, 11, 1), material="parchment"
    )


def tap(browse, lot, what):
    return browse.post(f"/lots/{lot.pk}/wear/", {"wear": what})


def test_uses_ink_and_browning_are_tapped_and_taken_back(browse, sheet):
    for what in ("used", "used", "not_used", "ink", "browner", "browner", "paler"):
        tap(browse, sheet, what)
    sheet.refresh_from_db()
    assert (sheet.taps, sheet.browning) == (1, 1)
    assert sheet.ink_seen_on is not None
    text = room.words(browse.get("/lots/"))
    assert "1 use; wear shows from 15 on: retire this one." in text
    assert "Browned, step 1 of 3." in text
    tap(browse, sheet, "ink")
    sheet.refresh_from_db()
    assert sheet.ink_seen_on is None


def test_counts_never_fall_below_none_nor_browning_beyond_brown(browse, sheet):
    tap(browse, sheet, "not_used")
    for _ in range(5):
        tap(browse, sheet, "browner")
    tap(browse, sheet, "nonsense")
    sheet.refresh_from_db()
    assert (sheet.taps, sheet.browning) == (0, 3)


def test_with_prices_going_on_is_told_in_money(browse, sheet):
    vest = room.blank(name="Vest", kind="garment", polyester=1.0)
    Price.objects.create(code="blank", blank=vest, amount=6)
    Price.objects.create(code="parchment", amount="0.3")
    sheet.taps = 40
    sheet.save()
    text = room.words(browse.get("/lots/"))
    assert (
        "40 uses: going on costs about 0.43 € a piece, a new one 0.02 €: retire this one." in text
    )


def test_a_tape_and_a_pillow_are_kept_without_a_field_of_the_log(browse, element):
    fields = {"since": "2026-11-01", "keeps_months": "", "note": "", "material": "foam_pillow"}
    browse.post("/lots/", fields | {"kind": "pillow", "code": "Big pillow"})
    assert Lot.objects.get().material == "foam_pillow"
    assert "Big pillow" in room.words(browse.get("/lots/"))
    assert browse.get("/presses/heron/test-presses/new/").status_code in (200, 302)


def test_blanks_do_not_wear(db):
    lot = Lot(kind="blanks", code="B1", since=date(2026, 11, 1), material="parchment")
    assert wear_text(lot, 3, Money("€", {}, None)) is None


def test_a_clerk_taps_nothing(browse_as, clerk, sheet):
    assert tap(browse_as(clerk), sheet, "used").status_code == 403
