"""People: invited by a link, their roles, disabled, reset; one's own password and sessions."""

import re
from uuid import uuid4

import pytest
from django.contrib.sessions.models import Session
from django.test import Client

from tempermark.web.accounts.models import Role, SignUpLink, User
from tempermark.web.kit.forms.once import SentForm
from tests.support import room

pytestmark = pytest.mark.django_db
NEW = "quiet-harbour-lantern"


def sent(browser, address, **fields):
    return browser.post(address, {"once": str(uuid4()), **fields})


def link_by(browser, address, **fields):
    """The link that the page of people shows once after a form."""
    answer = sent(browser, address, **fields)
    assert answer.url == "/people/"
    shown = room.words(browser.get(answer.url))
    assert "/sign-up/" not in room.words(browser.get(answer.url))
    return re.search(r"http://testserver(/sign-up/[\w-]+/)", shown).group(1)


def test_a_lead_invites_and_the_link_works_once(browse_as, lead, client):
    address = link_by(browse_as(lead), "/people/", role="technician")
    assert "maren invites you as technician" in room.words(client.get(address))
    person = {"name": "Bente", "password": NEW, "units": "metric"}
    assert client.post(address, person).status_code == 302
    assert User.objects.get(username="Bente").role == Role.TECHNICIAN
    assert Client().get(address).status_code == 410


def test_what_is_shown_once_is_kept_nowhere(browse_as, lead):
    browser, fields = browse_as(lead), {"role": "clerk", "once": str(uuid4())}
    token = link_by(browser, "/people/", **fields).split("/")[2]
    kept = [*SentForm.objects.values_list("page", "headers"), *SignUpLink.objects.values_list()]
    kept += [session.get_decoded() for session in Session.objects.all()]
    assert token not in str(kept)
    assert browser.post("/people/", fields).status_code == 302
    assert SignUpLink.objects.count() == 1


def test_a_link_that_was_withdrawn_no_longer_works(browse_as, lead, client):
    browser = browse_as(lead)
    address = link_by(browser, "/people/", role="lead")
    sent(browser, f"/sign-up-links/{SignUpLink.objects.get().pk}/withdraw/")
    assert client.get(address).status_code == 410


def test_a_reset_link_gives_another_password_and_ends_every_session(browse_as, lead, technician):
    theirs = browse_as(technician)
    assert theirs.get("/").status_code == 200
    address = link_by(browse_as(lead), f"/people/{technician.pk}/reset/")
    anybody = Client()
    assert "isla, choose a new password" in room.words(anybody.get(address))
    assert anybody.post(address, {"password": "short"}).status_code == 422
    assert anybody.post(address, {"password": NEW}).status_code == 302
    assert anybody.get("/").status_code == 200
    assert theirs.get("/").status_code == 302
    technician.refresh_from_db()
    assert technician.check_password(NEW)
    assert Client().get(address).status_code == 410


def test_a_disabled_person_is_out_at_once_and_a_reset_link_lets_nobody_in(
    browse_as, lead, technician
):
    theirs, leads = browse_as(technician), browse_as(lead)
    address = link_by(leads, f"/people/{technician.pk}/reset/")
    sent(leads, f"/people/{technician.pk}/active/", active="0")
    assert theirs.get("/").status_code == 302
    assert Client().post(address, {"password": NEW}).status_code == 410
    sent(leads, f"/people/{technician.pk}/active/", active="1")
    assert Client().post("/sign-in/", {"username": "isla", "password": room.PASSWORD}).url == "/"


def test_the_only_lead_stays_one(browse_as, lead, technician):
    browser = browse_as(lead)
    sent(browser, f"/people/{lead.pk}/role/", role="clerk")
    sent(browser, f"/people/{lead.pk}/active/", active="0")
    lead.refresh_from_db()
    assert (lead.role, lead.is_active) == (Role.LEAD, True)
    assert "only lead" in room.words(browser.get("/people/"))
    sent(browser, f"/people/{technician.pk}/role/", role="lead")
    sent(browser, f"/people/{lead.pk}/role/", role="clerk")
    lead.refresh_from_db()
    assert lead.role == Role.CLERK
    assert browser.get("/people/").status_code == 403


def test_no_role_but_those_there_are(browse_as, lead, technician):
    sent(browse_as(lead), f"/people/{technician.pk}/role/", role="owner")
    technician.refresh_from_db()
    assert technician.role == Role.TECHNICIAN


def test_only_leads_see_and_change_people(browse, browse_as, clerk, lead, technician):
    for browser in (browse, browse_as(clerk)):
        assert browser.get("/people/").status_code == 403
        for address in ("role", "active", "reset"):
            assert sent(browser, f"/people/{lead.pk}/{address}/").status_code == 403
        assert "People" not in room.words(browser.get("/me/"))


def test_one_s_own_password_ends_the_other_sessions(technician):
    devices = []
    for agent in ("Tablet", "Desk"):
        device = Client(HTTP_USER_AGENT=agent)
        device.post("/sign-in/", {"username": "isla", "password": room.PASSWORD})
        devices.append(device)
    tablet, desk = devices
    text = room.words(desk.get("/me/"))
    assert "signed in on 2 devices" in text
    assert "Tablet" in text
    wrong = sent(desk, "/me/", old="not mine", password=NEW)
    assert "This is not your password." in room.words(wrong)
    assert sent(desk, "/me/", old=room.PASSWORD, password=NEW).status_code == 302
    assert desk.get("/").status_code == 200
    assert tablet.get("/").status_code == 302


def test_a_session_is_ended_from_another_device_and_only_one_s_own(technician, lead):
    tablet, desk, other = Client(), Client(), Client()
    for device, name in ((tablet, "isla"), (desk, "isla"), (other, "maren")):
        device.post("/sign-in/", {"username": name, "password": room.PASSWORD})
    theirs = lead.signed_in.get()
    sent(desk, "/me/sessions/", which=str(theirs.pk))
    assert other.get("/").status_code == 200
    first = technician.signed_in.order_by("pk").first()
    sent(desk, "/me/sessions/", which=str(first.pk))
    assert tablet.get("/").status_code == 302
    assert desk.get("/").status_code == 200
    sent(desk, "/me/sessions/", which="9" * 40)
    assert desk.get("/").status_code == 200
