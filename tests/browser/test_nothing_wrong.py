"""Two tabs, two editors, ten clicks, and a database that goes away: nothing wrong is kept."""

import pytest
from django.db import OperationalError, connection
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tempermark.web.kit.postgresql.base import DatabaseWrapper
from tempermark.web.measure.models import Reading, Survey
from tempermark.web.presses import register
from tempermark.web.presses.models import Press
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces import actions as runs
from tests.support import room

pytestmark = pytest.mark.browser
CLICKS = "for (let n = 0; n < 10; n++) arguments[0].click();"


class Tabs:
    """Two tabs of one browser."""

    def __init__(self, person):
        self.person, self.driver = person, person.driver
        self.first = self.driver.current_window_handle
        self.driver.switch_to.new_window("tab")
        self.second = self.driver.current_window_handle
        self.to_first()

    def to_first(self):
        self.driver.switch_to.window(self.first)

    def to_second(self):
        self.driver.switch_to.window(self.second)


@pytest.fixture
def tabs(signed_in):
    two = Tabs(signed_in)
    yield two
    two.to_second()
    two.driver.close()
    two.to_first()


def switch_units(isla, tabs):
    """To °F, in the other tab."""
    tabs.to_second()
    isla.go("/")
    isla.driver.find_element(By.CSS_SELECTOR, "form[action='/me/units/'] button").click()
    isla.wait(lambda: "°F" in isla.text("header"))
    tabs.to_first()


def test_a_reading_keeps_its_unit_when_another_tab_switches(signed_in, tabs):
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "3 × 3, quick look")
    isla.press("Start reading")
    isla.wait(lambda: isla.station() == "A1")
    switch_units(isla, tabs)
    isla.enter("190")
    assert Reading.objects.get().shown_c == pytest.approx(190.0)
    # The next field was drawn after the switch, and says so.
    assert "°F" in isla.text("#entry")
    isla.enter("374")
    assert Reading.objects.last().shown_c == pytest.approx(190.0)


def test_a_survey_is_set_as_it_was_drawn(signed_in, tabs):
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.fill("set_c", "195")
    switch_units(isla, tabs)
    isla.press("Start reading")
    isla.wait(isla.station)
    survey = Survey.objects.get()
    assert (survey.set_c, survey.target_c) == (pytest.approx(195), pytest.approx(195))
    assert survey.tolerance_c == pytest.approx(5)


def log_form(isla):
    who = room.person("maren", "lead")
    room.survey(who, Press.objects.get().elements.get())
    room.blank()
    room.piece(who, Press.objects.get().elements.get(), days_ago=2)
    isla.go("/presses/heron/test-presses/new/")
    isla.follow("Dye on a polyester vest")
    isla.fill("dwell_s", "47")


def test_ten_clicks_log_one_piece(signed_in):
    log_form(signed_in)
    before = TestPress.objects.count()
    button = signed_in.find("#log button.go")
    signed_in.driver.execute_script(CLICKS, button)
    signed_in.sees("how did it come out?")
    assert TestPress.objects.count() == before + 1


def test_ten_clicks_start_one_survey(signed_in):
    signed_in.go("/presses/heron/surveys/new/")
    signed_in.driver.execute_script(CLICKS, signed_in.find("main form button.go"))
    signed_in.wait(signed_in.station)
    assert Survey.objects.count() == 1


def test_a_database_that_is_away_loses_nothing_of_a_long_form(signed_in, monkeypatch):
    isla = signed_in
    log_form(isla)
    logged, away = runs.log_test_press, iter((True, True))

    def falling(*args, **more):
        if next(away, False):
            raise OperationalError("the server closed the connection")
        return logged(*args, **more)

    monkeypatch.setattr(runs, "log_test_press", falling)
    before = TestPress.objects.count()
    isla.press("Save the test press")
    isla.sees("The server does not answer. What you typed is kept here and sent again")
    assert "closed the connection" not in isla.text()
    assert isla.value("[name=dwell_s]") == "47"
    isla.wait(lambda: "how did it come out?" in isla.text())
    assert TestPress.objects.count() == before + 1
    assert TestPress.objects.order_by("-pk").first().dwell_s == 47


class Database:
    """The database of the test, as the application reaches it: killed, and back."""

    def __init__(self, monkeypatch):
        self.is_away, connect = False, DatabaseWrapper.get_new_connection

        def reached(wrapper, parameters):
            if self.is_away:
                raise OperationalError("connection refused")
            return connect(wrapper, parameters)

        monkeypatch.setattr(DatabaseWrapper, "get_new_connection", reached)

    def kill(self):
        """Every connection but the test's own ends, and none can be had."""
        self.is_away = True
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
                " WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )

    def start(self):
        self.is_away = False


def test_a_database_killed_and_back_while_a_reading_is_typed(signed_in, monkeypatch):
    isla, database = signed_in, Database(monkeypatch)
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "3 × 3, quick look")
    isla.press("Start reading")
    isla.wait(lambda: isla.station() == "A1")
    isla.find("#typed").send_keys("191")
    database.kill()
    isla.type(",5", Keys.ENTER)
    isla.sees("The server does not answer. What you typed is kept here and sent again")
    assert isla.value("#typed") == "191,5"
    assert isla.station() == "A1"
    assert "refused" not in isla.text()
    database.start()
    isla.wait(lambda: isla.station() == "B1")
    assert [r.typed for r in Reading.objects.all()] == ["191,5"]


def test_a_page_opened_while_the_database_is_away_says_so(signed_in, monkeypatch):
    isla, database = signed_in, Database(monkeypatch)
    database.kill()
    isla.go("/presses/heron/")
    isla.sees("The database does not answer.")
    database.start()
    isla.go("/presses/heron/")
    isla.sees("Heron")


def test_what_was_never_sent_is_there_again_after_a_reload(signed_in):
    isla = signed_in
    log_form(isla)
    address = isla.driver.current_url
    isla.offline()
    isla.press("Save the test press")
    isla.sees("No connection. What you typed is kept here")
    isla.online()
    isla.driver.get("about:blank")
    isla.driver.get(address)
    isla.wait(lambda: "how did it come out?" in isla.text() or "was never sent" in isla.text())
    if "was never sent" in isla.text():
        assert isla.value("[name=dwell_s]") == "47"
        isla.press("Save the test press")
        isla.sees("how did it come out?")
    assert TestPress.objects.filter(dwell_s=47).count() == 1


def test_a_refused_form_keeps_what_was_typed(signed_in):
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.fill("set_c", "9000")
    isla.press("Start reading")
    isla.sees("9000 is out of range")
    assert isla.value("[name=set_c]") == "9000"


def test_two_editors(isla):
    """The second is shown what the first saved, and undoes nothing."""
    lead = room.person("maren", "lead")
    isla.sign_in("maren")
    isla.go("/presses/heron/change/")
    isla.fill("note", "pad looks thin")
    press = Press.objects.get()
    register.change_press(lead, press, {"name": press.name, "target_c": 200.0})
    isla.press("Save the changes")
    isla.sees("saved this after you opened it")
    isla.sees("Usual target")
    assert isla.value("[name=note]") == "pad looks thin"
    assert isla.value("[name=target_c]") == "200"
    isla.press("Save the changes")
    isla.sees("Heron is changed")
    press.refresh_from_db()
    assert (press.target_c, press.note) == (200.0, "pad looks thin")


def test_a_correction_from_the_page_to_the_record(signed_in):
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "spot check, the middle")
    isla.press("Start reading")
    isla.wait(isla.station)
    isla.find("#typed").send_keys("109", Keys.ENTER)
    isla.sees("stations are read")
    isla.press("Finish the survey")
    isla.sees("Add readings")
    isla.open_details("All readings as a table")
    isla.follow("109")
    isla.fill("typed", "190")
    isla.fill("why", "turned two figures round")
    isla.press("Save the correction")
    isla.sees("its mean is now 193.9 °C true, it was 111.2 °C")
    isla.sees("turned two figures round")
    assert [r.typed for r in Reading.objects.filter(taken_back_at=None)] == ["190"]


def test_what_was_typed_but_not_sent_is_there_after_going_back(signed_in):
    signed_in.go("/presses/heron/surveys/new/")
    signed_in.fill("note", "the left rim looks dull")
    signed_in.go("/")
    signed_in.driver.back()
    signed_in.wait(lambda: signed_in.unfolded("note").get_attribute("value"))
    assert signed_in.unfolded("note").get_attribute("value") == "the left rim looks dull"
