"""Sign-in, throttling, roles, headers."""

import pytest
from django.conf import settings
from django.test import Client
from django.urls import URLPattern, URLResolver, reverse

from tempermark.web.accounts.throttle import MOST_FAILURES_OF_ADDRESS
from tests.support import room


def test_every_page_but_sign_in_needs_a_person(client, db):
    for path in ("/", "/surveys/", "/recipes/", "/test-presses/", "/cases/", "/presses/heron/"):
        response = client.get(path)
        assert response.status_code == 302
        assert response.url.startswith("/sign-in/")


def test_sign_in_and_out(client, technician):
    response = client.post("/sign-in/", {"username": "isla", "password": room.PASSWORD})
    assert response.url == "/"
    client.post("/sign-out/")
    assert client.get("/").status_code == 302


def test_wrong_password_is_throttled_and_then_even_the_right_one_waits(client, technician):
    for _ in range(settings.AXES_FAILURE_LIMIT):
        client.post("/sign-in/", {"username": "isla", "password": "wrong"})
    response = client.post("/sign-in/", {"username": "isla", "password": room.PASSWORD})
    assert response.status_code == 429
    assert "Too many tries" in room.words(response)


def test_strict_headers(browse):
    response = browse.get("/")
    policy = response["Content-Security-Policy"]
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy
    assert "http" not in policy
    assert response["X-Frame-Options"] == "DENY"
    assert response["X-Content-Type-Options"] == "nosniff"


def test_no_page_holds_inline_script_or_style(browse, technician, element):
    room.survey(technician, element)
    piece = room.piece(technician, element)
    room.mark(technician, piece)
    for path in (
        "/",
        "/presses/heron/",
        "/surveys/",
        f"/test-presses/{piece.pk}/",
        "/presses/heron/surveys/new/",
    ):
        page = room.soup(browse.get(path))
        assert not page.select("[style], style, script:not([src])"), path
        assert not [t for t in page.find_all(True) if any(a.startswith("on") for a in t.attrs)]


def paths(patterns, prefix=""):
    for entry in patterns:
        if isinstance(entry, URLResolver):
            yield from paths(entry.url_patterns, prefix + str(entry.pattern))
        elif isinstance(entry, URLPattern):
            yield prefix + str(entry.pattern)


def test_a_clerk_changes_nothing(client, clerk, technician, element):
    """Every POST of the application is refused for a person who only looks."""
    made = room.survey(technician, element, finish=False)
    piece = room.piece(technician, element)
    found = room.mark(technician, piece)
    client.force_login(clerk)
    station = made.stations.first()
    posts = {
        f"/surveys/{made.pk}/readings/": {"station": station.pk, "typed": "195"},
        f"/surveys/{made.pk}/take-back/": {"reading": station.readings.first().pk},
        f"/surveys/{made.pk}/finish/": {},
        f"/surveys/{made.pk}/reopen/": {},
        "/presses/heron/surveys/new/": {},
        "/presses/heron/surveys/import/": {},
        "/presses/heron/setting/": {"set_c": "200"},
        "/presses/heron/test-presses/new/": {},
        f"/test-presses/{piece.pk}/marks/": {
            "symptom": "ghosting",
            "where": "all",
            "when": "on_opening",
            "severity": 2,
        },
        f"/marks/{found.pk}/withdraw/": {"why": "x"},
        f"/test-presses/{piece.pk}/withdraw/": {"why": "x"},
        f"/test-presses/{piece.pk}/outcome/": {"outcome": "good"},
        f"/test-presses/{piece.pk}/trace/": {},
    }
    for path, data in posts.items():
        assert client.post(path, data).status_code == 403, path
    assert client.get("/presses/heron/").status_code == 200


def test_a_form_without_its_token_is_refused(technician, element):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(technician)
    assert strict.post("/presses/heron/setting/", {"set_c": "200"}).status_code == 403


def test_unit_is_the_person_s_own(browse, technician, element):
    room.survey(technician, element)
    assert "°C" in room.words(browse.get("/presses/heron/"))
    browse.post(reverse("accounts:units"), {"temperature": "f", "back": "/presses/heron/"})
    assert "°C" not in room.words(browse.get("/presses/heron/"), "h1")
    assert "°F" in room.words(browse.get("/presses/heron/"), "h1")


@pytest.mark.parametrize("back", ["https://elsewhere.invalid/", "//elsewhere.invalid"])
def test_unit_does_not_send_people_elsewhere(browse, back):
    assert browse.post(reverse("accounts:units"), {"temperature": "f", "back": back}).url == "/"


def test_forty_names_from_one_address_are_slowed_and_another_address_is_not(client, technician):
    for number in range(MOST_FAILURES_OF_ADDRESS):
        client.post("/sign-in/", {"username": f"somebody{number}", "password": "wrong"})
    right = {"username": "isla", "password": room.PASSWORD}
    assert client.post("/sign-in/", right).status_code == 429
    assert client.post("/sign-in/", right, REMOTE_ADDR="10.0.0.9").status_code == 302
