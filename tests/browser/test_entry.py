"""Entry at the bench: keyboard only, wrong input, files, a lost connection."""

import pytest
from django.db import OperationalError
from selenium.webdriver.common.keys import Keys

from tempermark.web.measure.models import Reading, Survey
from tempermark.web.measure.surveys import actions
from tempermark.web.presses.models import Element
from tests.support import room

pytestmark = pytest.mark.browser
CSV = "# dial at 195\nx_mm;y_mm;value_f\n20,5;20;383,0\n380;20;374\n20;480;372\n380;480;377,5\n"


@pytest.fixture
def survey(signed_in):
    who = room.person("maren", "lead")
    return room.survey(
        who, Element.objects.get(), grid="3x3", truth=lambda x, y: 190.0, finish=False
    )


def start(isla):
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "3 × 3, quick look")
    isla.press("Start reading")
    isla.wait(lambda: isla.station() == "A1")


def test_keyboard_only(signed_in):
    """Sign-in done, everything else without a pointer: the field has the focus throughout."""
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.find("main select[name=grid]").send_keys("3")
    isla.type(Keys.ENTER)
    isla.find("main input[name=set_c]").send_keys(Keys.ENTER)
    isla.wait(lambda: isla.station() == "A1")
    for number in range(9):
        before = isla.station()
        isla.type(f"19{number},5", Keys.ENTER)
        isla.wait(lambda before=before: isla.station() != before)
    isla.sees("All 9 stations are read")
    while (
        isla.wait(lambda: isla.driver.switch_to.active_element.text or "-") != "Finish the survey"
    ):
        isla.type(Keys.TAB)
    isla.type(Keys.ENTER)
    isla.sees("Add readings")
    isla.sees("% sure")
    assert Survey.objects.get().finished_at


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("hot", "“hot” is not a number"),
        ("700", "not a platen temperature"),
        ("=1+1", "not a number"),
    ],
)
def test_wrong_input_is_said_and_kept(signed_in, typed, said):
    start(signed_in)
    signed_in.find("#typed").send_keys(typed, Keys.ENTER)
    signed_in.sees(said)
    assert signed_in.station() == "A1"
    assert signed_in.value("#typed") == typed
    assert not Reading.objects.exists()
    signed_in.wait(lambda: signed_in.marked() == typed)
    signed_in.type("191", Keys.ENTER)
    signed_in.wait(lambda: signed_in.station() != "A1")
    assert Reading.objects.count() == 1


def test_figures_typed_while_one_is_on_its_way_go_to_the_stations_that_follow(signed_in):
    start(signed_in)
    first = ("191", "191", "192,5")
    keys = [key for figure in first for key in (figure, Keys.ENTER)]
    signed_in.far_off(400)
    signed_in.find("#typed").send_keys(*keys, "18")
    signed_in.wait(lambda: signed_in.station() == "C2")
    signed_in.online()
    assert signed_in.value("#typed") == "18"
    signed_in.type("9", Keys.ENTER)
    signed_in.wait(lambda: signed_in.station() == "B2")
    read = Reading.objects.order_by("pk").values_list("station__label", "typed")
    assert list(read) == [("A1", "191"), ("B1", "191"), ("C1", "192,5"), ("C2", "189")]


def test_where_each_place_follows_from_the_reading_before_nothing_is_entered_ahead(signed_in):
    signed_in.go("/presses/heron/surveys/new/")
    signed_in.press("Start reading")
    first = signed_in.wait(signed_in.station)
    signed_in.far_off()
    signed_in.find("#typed").send_keys("191", Keys.ENTER, "190", Keys.ENTER)
    signed_in.wait(lambda: signed_in.station() != first)
    signed_in.online()
    signed_in.wait(lambda: signed_in.value("#typed") == "190")
    assert Reading.objects.count() == 1


def test_what_follows_a_refused_figure_is_not_entered(signed_in):
    start(signed_in)
    signed_in.far_off()
    signed_in.find("#typed").send_keys("700", Keys.ENTER, "191", Keys.ENTER)
    signed_in.sees("not a platen temperature")
    signed_in.online()
    signed_in.wait(lambda: signed_in.marked() == "700")
    assert not Reading.objects.exists()


def test_back_button_and_double_enter_count_once(signed_in):
    start(signed_in)
    signed_in.find("#typed").send_keys("191", Keys.ENTER, Keys.ENTER)
    signed_in.wait(lambda: signed_in.station() == "B1")
    signed_in.driver.back()
    signed_in.driver.forward()
    signed_in.wait(lambda: signed_in.station() == "B1")
    assert Reading.objects.count() == 1


def test_a_lost_connection_keeps_the_figure_and_sends_it_once(signed_in):
    start(signed_in)
    signed_in.offline()
    signed_in.find("#typed").send_keys("191,5", Keys.ENTER)
    signed_in.sees("What you typed is kept here and sent again")
    assert not Reading.objects.exists()
    signed_in.online()
    signed_in.wait(lambda: signed_in.station() == "B1")
    assert [r.typed for r in Reading.objects.all()] == ["191,5"]


def test_figures_entered_after_one_that_could_not_be_sent_follow_it(signed_in):
    start(signed_in)
    signed_in.offline()
    keys = [key for figure in ("191", "192", "193") for key in (figure, Keys.ENTER)]
    signed_in.find("#typed").send_keys(*keys, "19")
    signed_in.sees("After it: 192, 193.")
    assert signed_in.value("#typed") == "191"
    signed_in.online()
    signed_in.wait(lambda: signed_in.station() == "C2")
    assert signed_in.value("#typed") == "19"
    read = Reading.objects.order_by("pk").values_list("station__label", "typed")
    assert list(read) == [("A1", "191"), ("B1", "192"), ("C1", "193")]


def test_a_database_that_is_away_loses_no_figure(signed_in, monkeypatch):
    start(signed_in)
    entered, away = actions.enter_reading, iter((True, True))

    def falling(*args):
        if next(away, False):
            raise OperationalError("the server closed the connection")
        return entered(*args)

    monkeypatch.setattr(actions, "enter_reading", falling)
    signed_in.find("#typed").send_keys("191,5", Keys.ENTER)
    signed_in.sees("The server does not answer. What you typed is kept here and sent again")
    assert signed_in.value("#typed") == "191,5"
    signed_in.wait(lambda: signed_in.station() == "B1")
    assert [r.typed for r in Reading.objects.all()] == ["191,5"]


def test_a_dead_tablet_brings_the_figure_back(signed_in):
    start(signed_in)
    signed_in.offline()
    signed_in.find("#typed").send_keys("188", Keys.ENTER)
    signed_in.sees("kept here")
    signed_in.online()
    signed_in.go(Survey.objects.get().get_absolute_url())
    signed_in.wait(lambda: signed_in.station() == "B1" or signed_in.value("#typed") == "188")


def test_import_and_a_refused_file(signed_in, tmp_path):
    bad, good = tmp_path / "bad.csv", tmp_path / "good.csv"
    bad.write_text(CSV + "500;20;380\n20;20;warm\n")
    good.write_text(CSV)
    signed_in.go("/presses/heron/surveys/import/")
    signed_in.find("[name=file]").send_keys(str(bad))
    for name, value in (("set_c", "195"), ("target_c", "383f"), ("tolerance_c", "5")):
        signed_in.fill(name, value)
    signed_in.press("Import")
    signed_in.sees("Nothing was imported.")
    assert "Line 7: x_mm 500 is off the platen" in signed_in.text()
    assert "Line 8: value_f “warm” is no number" in signed_in.text()
    assert signed_in.value("[name=target_c]") == "383f"
    assert not Survey.objects.exists()
    signed_in.find("[name=file]").send_keys(str(good))
    signed_in.press("Import")
    signed_in.sees("4 readings imported.")
    assert Survey.objects.get().target_c == pytest.approx(195)


def test_another_person_s_figure_appears(signed_in, survey):
    signed_in.go(survey.get_absolute_url())
    before = len(signed_in.find_all("#map .station-figure"))
    station = survey.stations.first()
    Reading.objects.filter(station=station).first()
    Reading.objects.create(
        station=station,
        entry_key="5f2c1c9e-6d0e-4e55-9a53-1d9a3a2f9a11",
        typed="210",
        shown_c=210.0,
        read_by=survey.taken_by,
    )
    assert before == 9
    signed_in.wait(lambda: "200.0" in signed_in.text("#map"))


def test_as_few_readings_as_needed_ends_by_itself(signed_in):
    isla = signed_in
    isla.go("/presses/heron/surveys/new/")
    isla.choose("grid", "as few as needed, 5 to 17")
    isla.choose("method", "contact probe")
    isla.press("Start reading")
    isla.wait(lambda: isla.station() == "N1")
    for _ in range(4):
        isla.enter("186")
    isla.find("#typed").send_keys("186", Keys.ENTER)
    isla.sees("5 readings are enough.")
    isla.sees("Decided: the platen is not all within")


def test_a_tap_on_the_chart_tells_what_to_set_there(signed_in, survey):
    isla = signed_in
    isla.go(survey.get_absolute_url())
    isla.press("Finish the survey")
    isla.sees("Add readings")
    isla.go("/presses/heron/")
    isla.tap("svg[data-tap=place]", 0.5, 0.5)
    isla.wait(lambda: "true with the dial at 200" in isla.text("#place-summary"))
