"""Print settings: versions, what differs, what a job takes from them, what a fault learns."""

from types import SimpleNamespace

import pytest

from tempermark.web.printing.models import PrintSettings, PrintSettingsVersion
from tempermark.web.printing.queries import differences
from tempermark.web.trace.facts.print import print_facts
from tests.support import room

FIELDS = {
    "printer": "Desk printer",
    "paper": "smooth paper",
    "inks": "dye set A",
    "side": "the brighter one",
    "mirrored_by": "program",
    "quality": "high",
    "colours": "profile",
    "profile": "smooth A",
    "ink_limit": "280",
    "dries_s": "10 min",
    "note": "",
}


@pytest.fixture
def settings_page(browse):
    browse.post("/print-settings/new/", FIELDS)
    return PrintSettings.objects.get().get_absolute_url()


def test_the_first_version_is_kept_as_typed(browse, settings_page):
    version = PrintSettingsVersion.objects.get()
    assert (version.number, version.dries_s, version.ink_limit) == (1, 600, 280)
    text = room.words(browse.get(settings_page))
    assert "Dries 10 min" in text
    assert "280 %" in text


def test_a_change_becomes_a_version_and_says_what_differs(browse, settings_page):
    browse.post(f"{settings_page}change/", FIELDS | {"quality": "draft", "is_fast": "on"})
    new, old = PrintSettingsVersion.objects.all()
    assert (new.number, old.number) == (2, 1)
    found = [(d.label, str(d.before), str(d.now)) for d in differences(old, new)]
    assert found == [("quality", "high", "draft"), ("fast mode on", "no", "yes")]
    assert "quality high → draft" in room.words(browse.get(settings_page))


def test_saving_what_is_there_makes_no_version(browse, settings_page):
    browse.post(f"{settings_page}change/", FIELDS)
    assert PrintSettingsVersion.objects.count() == 1


def test_another_of_the_same_printer_paper_and_inks_is_refused(browse, settings_page):
    response = browse.post("/print-settings/new/", FIELDS | {"note": "typed once more"})
    assert response.status_code == 422
    assert "exist already" in room.words(response)
    assert "typed once more" in response.content.decode()


def test_a_profile_is_named_where_the_program_uses_one(browse, db):
    response = browse.post("/print-settings/new/", FIELDS | {"profile": ""})
    assert "Name the profile" in room.words(response)


def test_settings_no_longer_used_leave_the_choice(browse, settings_page):
    browse.post(f"{settings_page}retire/")
    text = room.words(browse.get("/print-settings/"))
    assert "No print settings yet." in text
    assert "No longer offered" in text


@pytest.mark.parametrize(
    ("changes", "facts"),
    [
        ({}, {"draft_print_mode": False}),
        ({"quality": "draft"}, {"draft_print_mode": True}),
        ({"is_fast": True}, {"draft_print_mode": True}),
        ({"mirrored_by": "nobody"}, {"draft_print_mode": False, "not_mirrored": True}),
    ],
)
def test_a_fault_learns_from_them(changes, facts):
    version = PrintSettingsVersion(mirrored_by="driver", quality="best", is_fast=False)
    for name, value in changes.items():
        setattr(version, name, value)
    piece = SimpleNamespace(job=SimpleNamespace(print_settings=version))
    assert print_facts(piece) == facts
    assert print_facts(SimpleNamespace(job=None)) == {}
