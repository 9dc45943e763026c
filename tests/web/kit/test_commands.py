"""The shop's own room: people and presses by command, data brought up to date."""

import io

import pytest
from django.core.management import CommandError, call_command

from tempermark.web.accounts.models import User
from tempermark.web.presses.models import Element, Press
from tempermark.web.recipes.models import Recipe


def say(monkeypatch, text):
    monkeypatch.setattr("sys.stdin", io.StringIO(text))


def test_a_person_is_added_with_role_and_may_sign_in(db, monkeypatch):
    say(monkeypatch, "boat-house-door\n")
    call_command("add_person", "runa", role="lead", stdout=io.StringIO())
    assert User.objects.get(username="runa").role == "lead"
    assert User.objects.get(username="runa").check_password("boat-house-door")


@pytest.mark.parametrize("password", ["short", "password1234", ""])
def test_a_weak_password_adds_nobody(db, monkeypatch, password):
    say(monkeypatch, password + "\n")
    with pytest.raises(CommandError):
        call_command("add_person", "runa", role="lead", stdout=io.StringIO())
    assert not User.objects.exists()


def test_a_name_is_given_once(db, monkeypatch, technician):
    say(monkeypatch, "boat-house-door\n")
    with pytest.raises(CommandError, match="isla is there already"):
        call_command("add_person", "isla", role="lead", stdout=io.StringIO())


def test_a_press_is_added_with_its_element(db):
    call_command("add_press", "Teal", "draw", "600", "400", stdout=io.StringIO())
    element = Element.objects.get(press__slug="teal")
    assert (element.width_mm, element.height_mm, element.press.kind) == (600, 400, "draw")


@pytest.mark.parametrize("size", [("6", "400"), ("600", "5001")])
def test_a_press_of_no_possible_size_is_refused_whole(db, size):
    with pytest.raises(CommandError):
        call_command("add_press", "Teal", "draw", *size, stdout=io.StringIO())
    assert not Press.objects.exists()


def test_preparing_a_room_twice_changes_nothing(db, tmp_path, settings):
    settings.STATIC_ROOT = str(tmp_path / "static")
    (tmp_path / "static").mkdir()
    call_command("prepare_room", stdout=io.StringIO())
    assert Recipe.objects.count() >= 8
    assert not Press.objects.exists()
    made = (tmp_path / "static" / "tempermark" / "app.css").stat().st_mtime_ns
    names = list(Recipe.objects.values_list("pk", "name"))
    call_command("prepare_room", stdout=io.StringIO())
    assert list(Recipe.objects.values_list("pk", "name")) == names
    assert (tmp_path / "static" / "tempermark" / "app.css").stat().st_mtime_ns == made
