"""A shared tablet in the browser: hands change by PIN, and what somebody logged stays theirs."""

import pytest
from django.test import Client

from tempermark.web.accounts.models import SharedTablet, User
from tempermark.web.accounts.pins.actions import set_pin
from tempermark.web.presses.models import Element
from tempermark.web.run.models import LogEntry
from tests.browser.test_run_mode import all_sent, headline, tap
from tests.support import bench, room

ISLA_PIN, OMAR_PIN = "482915", "730264"


@pytest.fixture
def tablet(isla):
    """A tablet that a lead has shared; two people with a PIN; a run on its press."""
    room.person("maren", "lead")
    isla_, omar = User.objects.get(username="isla"), room.person("omar", "technician")
    set_pin(isla_, ISLA_PIN)
    set_pin(omar, OMAR_PIN)
    element = Element.objects.get()
    room.survey(isla_, element)
    found = bench.run(isla_, element, quantity=3)
    found.settings = {"dwell_s": 2.0, "set_c": 205.0}
    found.save()
    isla.sign_in("maren")
    isla.go("/shared-tablets/")
    isla.fill("name", "Bench 2")
    isla.press("Share it")
    isla.sees("1 shared tablet")
    isla.driver.execute_script("localStorage.clear()")
    return found


def take_over(person, name, pin):
    person.go("/hands/")
    person.wait(lambda: chosen(person, name))
    person.fill("pin", pin)
    person.press("Take over")


def chosen(person, name):
    """Tap a name; whether it is the one that is marked. While a page comes what is under a finger
    may still move.
    """
    label = next((at for at in person.find_all(".names label") if at.text.strip() == name), None)
    if label is None:
        return False
    label.click()
    return label.find_element("css selector", "input").is_selected()


def in_front(person):
    return person.text("header")


def entries_wait(person, blocked):
    """The room's address for entries answers no more, or again."""
    person.driver.execute_cdp_cmd("Network.enable", {})
    urls = ["*/entries/"] if blocked else []
    person.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": urls})


def test_what_one_person_logged_is_sent_under_nobody_else_s_name(isla, tablet):
    page = f"/runs/{tablet.pk}/"
    take_over(isla, "isla", ISLA_PIN)
    isla.wait(lambda: "by PIN" in in_front(isla))
    isla.go(page)
    headline(isla, "Set Heron to 205 °C")
    entries_wait(isla, blocked=True)
    try:
        tap(isla, "Done: it is set")
        headline(isla, "Wait until Heron is steady")
        isla.sees("will be sent in order")
        take_over(isla, "omar", OMAR_PIN)
        isla.wait(lambda: "omar" in in_front(isla))
    finally:
        entries_wait(isla, blocked=False)
    isla.go(page)
    isla.sees("by isla not sent yet: it is sent when isla takes over here again")
    before = LogEntry.objects.count()
    tap(isla, "Steady at")
    isla.wait(lambda: LogEntry.objects.count() > before)
    assert set(LogEntry.objects.values_list("by__username", flat=True)) == {"omar"}
    take_over(isla, "isla", ISLA_PIN)
    isla.wait(lambda: "isla" in in_front(isla))
    isla.go(page)
    all_sent(isla)
    of_whom = dict(LogEntry.objects.values_list("kind", "by__username"))
    assert of_whom["set"] == "isla"
    assert of_whom["ready"] == "omar"


def test_a_wrong_pin_changes_no_hands_and_a_lead_s_act_asks_for_the_password(isla, tablet):
    take_over(isla, "omar", ISLA_PIN)
    isla.sees("PIN")
    assert "omar" not in in_front(isla)
    take_over(isla, "omar", OMAR_PIN)
    isla.wait(lambda: "omar" in in_front(isla))
    isla.go("/people/")
    isla.sees("role does not allow")


def test_an_ended_tablet_is_one_like_any_other(isla, tablet):
    browser = Client()
    browser.force_login(User.objects.get(username="maren"))
    assert browser.post(f"/shared-tablets/{SharedTablet.objects.get().pk}/end/").status_code == 302
    isla.go("/hands/")
    isla.wait(lambda: not isla.find_all(".names"))
