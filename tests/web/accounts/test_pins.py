"""Change of hands on a shared tablet: PINs, short sessions, no lead's acts."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.conf import settings
from django.test import Client
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import BenchPin, SharedTablet
from tempermark.web.accounts.pins import actions, short_sessions
from tests.support import room

pytestmark = pytest.mark.django_db
PIN = "2719"


@pytest.fixture
def tablet(lead, technician):
    """A shared tablet, signed out, whose room has two PINs."""
    browser = Client()
    browser.force_login(lead)
    sent(browser, "/shared-tablets/", name="bench 2")
    browser.post("/sign-out/")
    actions.set_pin(technician, PIN)
    actions.set_pin(lead, "8405")
    return browser


def sent(browser, address, **fields):
    return browser.post(address, {"once": str(uuid4()), **fields})


def take_over(browser, person, pin, **more):
    return browser.post("/hands/", {"person": person.pk, "pin": pin, **more})


def test_a_pin_is_set_with_the_password_and_used_on_a_shared_tablet(tablet, browse, technician):
    wrong = sent(browse, "/me/pin/", pin="3141", pin_password="no")
    assert "not your password" in room.words(wrong)
    assert sent(browse, "/me/pin/", pin="3141", pin_password=room.PASSWORD).url == "/me/"
    assert "3141" not in BenchPin.objects.get(person=technician).digest
    # The device asks for a name and a PIN before it asks for a password.
    assert (
        tablet.get("/surveys/", follow=True).redirect_chain[-1][0] == "/hands/?back=%2Fsurveys%2F"
    )
    assert take_over(tablet, technician, "3141", back="/surveys/").url == "/surveys/"
    page = room.words(tablet.get("/surveys/"), "header")
    assert "Change hands" in page
    assert "isla, by PIN" in page


def test_a_device_that_is_not_shared_knows_no_pin(tablet, client, technician):
    assert client.get("/hands/").url == "/sign-in/"
    assert take_over(client, technician, PIN).url == "/sign-in/"
    assert client.get("/").status_code == 302
    assert "Change hands" not in room.words(client.get("/sign-in/"))


def test_a_form_that_a_script_sends_shares_the_tablet_too(browse_as, lead):
    browser, fields = browse_as(lead), {"name": "bench 3", "once": str(uuid4())}
    answer = browser.post("/shared-tablets/", fields, headers={"X-By-Script": "1"})
    assert answer["X-Go-To"] == "/shared-tablets/"
    assert "this one" in room.words(browser.get("/shared-tablets/"))


def test_a_tablet_that_a_lead_ended_knows_no_pin_any_more(tablet, browse_as, lead, technician):
    sent(browse_as(lead), f"/shared-tablets/{SharedTablet.objects.get().pk}/end/")
    assert take_over(tablet, technician, PIN).url == "/sign-in/"


def test_a_lead_by_pin_works_but_does_not_lead(tablet, lead, technician, element):
    take_over(tablet, lead, "8405")
    assert tablet.get("/presses/heron/surveys/new/").status_code == 200
    refused = tablet.get("/people/")
    assert refused.status_code == 403
    assert "sign in with your password" in room.words(refused)
    assert sent(tablet, f"/people/{technician.pk}/role/", role="clerk").status_code == 403
    # Then the password, on the same tablet.
    assert tablet.get("/sign-in/?password=1").status_code == 200
    tablet.post("/sign-in/", {"username": "maren", "password": room.PASSWORD})
    assert tablet.get("/people/").status_code == 200


def test_hands_change_without_signing_out(tablet, lead, technician):
    take_over(tablet, technician, PIN)
    take_over(tablet, lead, "8405")
    assert "maren, by PIN" in room.words(tablet.get("/"), "header")


def test_five_wrong_pins_close_it_until_the_password_is_given(tablet, technician):
    for left in ("4 tries", "3 tries", "2 tries", "1 try"):
        assert left in room.words(take_over(tablet, technician, "0000"))
    assert "closed" in room.words(take_over(tablet, technician, "0000"))
    assert "closed" in room.words(take_over(tablet, technician, PIN))
    tablet.post("/sign-in/", {"username": "isla", "password": room.PASSWORD})
    assert take_over(tablet, technician, PIN).status_code == 302


def test_a_tablet_that_was_tried_too_often_wants_a_password(tablet, technician, lead):
    people = [room.person(f"hand{number}", "technician") for number in range(4)]
    for person in people:
        actions.set_pin(person, "6072")
    for number in range(actions.MOST_WRONG_OF_TABLET):
        take_over(tablet, people[number % 4], "0000")
    assert "Too many wrong PINs" in room.words(take_over(tablet, technician, PIN))
    tablet.post("/sign-in/", {"username": "isla", "password": room.PASSWORD})
    assert take_over(tablet, technician, PIN).status_code == 302


def test_a_session_by_pin_ends_without_a_tap_and_after_a_shift(tablet, technician, monkeypatch):
    begun = timezone.now()

    def at(minutes):
        monkeypatch.setattr(timezone, "now", lambda: begun + timedelta(minutes=minutes))
        return tablet.get("/").status_code

    take_over(tablet, technician, PIN)
    assert [at(minutes) for minutes in (15, 30, 45)] == [200, 200, 200]
    assert at(45 + short_sessions.IDLE_S / 60 + 1) == 302
    begun = begun + timedelta(days=1)
    at(0)
    take_over(tablet, technician, PIN)
    taps = [at(minutes) for minutes in range(0, int(short_sessions.LONGEST_S / 60), 15)]
    assert set(taps) == {200}
    assert at(short_sessions.LONGEST_S / 60 + 1) == 302


def test_a_clock_that_is_set_back_ends_a_session_by_pin(tablet, technician, monkeypatch):
    take_over(tablet, technician, PIN)
    assert tablet.get("/").status_code == 200
    right = timezone.now
    monkeypatch.setattr(timezone, "now", lambda: right() - timedelta(days=30))
    assert tablet.get("/").status_code == 302


def test_what_a_page_fetches_by_itself_keeps_no_session(tablet, technician, monkeypatch):
    begun = timezone.now()
    take_over(tablet, technician, PIN)
    for minutes in (8, 16):
        monkeypatch.setattr(timezone, "now", lambda m=minutes: begun + timedelta(minutes=m))
        tablet.get("/", headers={"HX-Request": "true"})
    monkeypatch.setattr(timezone, "now", lambda: begun + timedelta(minutes=21))
    assert tablet.get("/").status_code == 302


def test_another_password_by_a_link_removes_the_pin(tablet, browse_as, lead, technician):
    sent(browse_as(lead), f"/people/{technician.pk}/active/", active="0")
    assert "has no PIN" in room.words(take_over(tablet, technician, PIN))
    assert "isla" not in room.words(tablet.get("/hands/"), "form")


@pytest.mark.parametrize("pin", ["123", "123456789", "4444", "1234", "9876", "٣٤٥٦", "12a4", ""])
def test_pins_that_are_none_or_guessed_first(technician, pin):
    with pytest.raises(InputError):
        actions.set_pin(technician, pin)


def test_a_clerk_has_no_pin(browse_as, clerk):
    assert browse_as(clerk).get("/me/pin/").status_code == 403


@pytest.mark.parametrize("person", ["", "x", "9" * 40, "-1", "٣"])
def test_junk_takes_nobody_over(tablet, person):
    assert tablet.post("/hands/", {"person": person, "pin": "1"}).status_code == 422


def test_a_late_response_to_the_hands_before_signs_nobody_out(tablet, technician, lead):
    take_over(tablet, technician, PIN)
    before = tablet.cookies[settings.SESSION_COOKIE_NAME].value
    taken = take_over(tablet, lead, "8405")
    assert taken.cookies[settings.SESSION_COOKIE_NAME].value != before
    late = Client()
    late.cookies[settings.SESSION_COOKIE_NAME] = before
    response = late.get("/runs/")
    assert response.status_code == 302
    assert settings.SESSION_COOKIE_NAME not in response.cookies


def test_a_tap_puts_a_session_s_end_off_without_a_cookie(tablet, technician, monkeypatch):
    begun = timezone.now()
    taken = take_over(tablet, technician, PIN)
    assert taken.cookies[settings.SESSION_COOKIE_NAME]["max-age"] == settings.SESSION_COOKIE_AGE
    monkeypatch.setattr(timezone, "now", lambda: begun + timedelta(minutes=15))
    assert settings.SESSION_COOKIE_NAME not in tablet.get("/").cookies
    monkeypatch.setattr(timezone, "now", lambda: begun + timedelta(minutes=30))
    assert tablet.get("/").status_code == 200


def test_who_signs_out_has_no_cookie_any_more(browse):
    ended = browse.post("/sign-out/")
    assert ended.cookies[settings.SESSION_COOKIE_NAME].value == ""
    assert ended.cookies[settings.SESSION_COOKIE_NAME]["max-age"] == 0
