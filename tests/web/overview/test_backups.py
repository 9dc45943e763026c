"""What the floor says of backups, and their list."""

import json
from datetime import timedelta

import pytest
from django.core.management import CommandError, call_command
from django.utils import timezone

from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.records.backups import KEPT_ROWS, Backup
from tests.support import room

pytestmark = pytest.mark.django_db


def note(hours_ago=0.0, **more):
    at = timezone.now() - timedelta(hours=hours_ago)
    made = {"at_s": at.timestamp(), "where": "/mnt/disk/a.tar", "bytes": 2048, "rows": 598}
    call_command("note_backup", json.dumps(made | more))


def test_a_room_of_its_own_says_that_it_is_not_backed_up(browse, element, settings):
    settings.DEMO = False
    assert "Not backed up yet" in room.words(browse.get("/"))
    settings.DEMO = True
    assert "ackup" not in room.words(browse.get("/"))


def test_the_floor_says_when_the_last_good_one_was(browse, element):
    note()
    page = browse.get("/")
    assert "Last good backup: today" in room.words(page)
    assert not room.soup(page).select(".note.watch")


def test_an_old_one_and_one_that_failed_are_said_where_people_look(
    browse, browse_as, lead, element
):
    note(hours_ago=72)
    assert "Last good backup" in room.words(browse.get("/"), ".note.watch")
    note(why="The folder /mnt/disk is not there.")
    for browser in (browse, browse_as(lead)):
        text = room.words(browser.get("/"), ".note.watch")
        assert "failed: The folder /mnt/disk is not there. Last good backup" in text
    note()
    assert not room.soup(browse.get("/")).select(".note.watch")


def test_the_list_is_for_leads_and_says_how_one_comes_back(browse, browse_as, lead):
    note()
    assert browse.get("/backups/").status_code == 403
    text = room.words(browse_as(lead).get("/backups/"))
    assert "598" in text
    assert "/mnt/disk/a.tar" in text
    assert "./tempermark restore FILE" in text


def test_what_is_no_backup_is_not_noted(db):
    for wrong in ("[]", "{}"):
        with pytest.raises(CommandError):
            call_command("note_backup", wrong)
    assert not Backup.objects.exists()


def test_rows_of_years_ago_are_forgotten(db):
    Backup.objects.bulk_create(
        Backup(at=timezone.now() - timedelta(days=n + 1)) for n in range(KEPT_ROWS)
    )
    note()
    assert Backup.objects.count() == KEPT_ROWS


def test_data_that_came_back_say_so(db):
    call_command("note_return")
    note()
    call_command("note_return")
    last, first = AuditEntry.objects.all()
    assert (first.did, first.who) == ("brought data back", None)
    assert last.detail["last_backup_in_them"] == Backup.objects.get().at.isoformat()
