"""A room's first lead signs up with a link that works once."""

import io
from datetime import timedelta

import pytest
from django.core.management import call_command
from django.utils import timezone

from tempermark.web.accounts import sign_up
from tempermark.web.accounts.models import SignUpLink, User
from tempermark.web.kit.units import IMPERIAL
from tests.support import room

GOOD = {"name": "sunna", "password": "first-light-42", "units": "imperial"}


def printed(base="http://127.0.0.1:8640"):
    out = io.StringIO()
    call_command("first_link", base=base, stdout=out)
    return out.getvalue()


def path_in(text):
    line = next(line for line in text.splitlines() if "/sign-up/" in line)
    return line.partition("8640")[2]


def test_the_first_start_prints_a_link_and_its_code(db):
    text = printed()
    assert "Open this to begin: http://127.0.0.1:8640/sign-up/" in text
    assert "█" in text


def test_a_room_with_a_lead_prints_none(lead):
    assert printed() == ""


def test_the_first_lead_signs_up_and_is_in(client, db):
    path = path_in(printed())
    assert "Who are you?" in room.words(client.get(path))
    response = client.post(path, GOOD)
    assert response.url == "/"
    user = User.objects.get()
    assert (user.username, user.role, user.units) == ("sunna", "lead", IMPERIAL)
    assert user.check_password(GOOD["password"])
    assert "Add your first press" in room.words(client.get("/"))


def test_a_link_works_once(client, db):
    path = path_in(printed())
    client.post(path, GOOD)
    client.logout()
    again = client.post(path, GOOD | {"name": "brae"})
    assert again.status_code == 410
    assert "has been used" in room.words(again)
    assert User.objects.count() == 1


def test_an_older_link_ends_when_a_new_one_is_printed(client, db):
    old, new = path_in(printed()), path_in(printed())
    assert client.get(old).status_code == 410
    assert client.get(new).status_code == 200


def test_a_link_ends_after_its_day(client, db):
    path = path_in(printed())
    SignUpLink.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    assert client.get(path).status_code == 410
    assert client.post(path, GOOD).status_code == 410
    assert not User.objects.exists()


def test_a_link_held_open_by_two_serves_the_quicker(db):
    token = sign_up.first_lead_token()
    first, second = sign_up.open_link(token), sign_up.open_link(token)
    assert sign_up.sign_up(first, "sunna", "first-light-42", {}) is not None
    assert sign_up.sign_up(second, "brae", "first-light-42", {}) is None


def test_the_token_itself_is_not_kept(db):
    token = sign_up.first_lead_token()
    assert token not in str(SignUpLink.objects.values())


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"name": ""}, "required"),
        ({"name": "a b"}, "valid username"),
        ({"password": "short"}, "at least 10 characters"),
        ({"password": "password1234"}, "too common"),
        ({"units": "cubits"}, "valid choice"),
    ],
)
def test_wrong_entries_are_said_and_kept(client, db, changes, said):
    response = client.post(path_in(printed()), GOOD | changes)
    assert response.status_code == 422
    assert said in room.words(response)
    assert not User.objects.exists()


def test_the_sign_in_page_says_where_to_begin(client, db, settings):
    settings.DEMO = False
    assert "Nobody has signed up here yet" in room.words(client.get("/sign-in/"))
    room.person("maren", "lead")
    assert "Nobody has signed up" not in room.words(client.get("/sign-in/"))
