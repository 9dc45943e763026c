"""Helpers about heat: cooling, hovering, changes of the dial; sprayed and brushed coats."""

from datetime import timedelta
from uuid import uuid4

import pytest
from django.core.exceptions import PermissionDenied
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.jobs import actions
from tempermark.web.jobs.models import PlatenChange
from tempermark.web.prepare.tools.platen import platen_now_c, rates_of
from tempermark.web.recipes.cards.actions import load_shipped_recipes
from tests.support import room
from tests.web.prepare.test_job_art import begun, board, vest  # noqa: F401  fixtures


def test_cooling_names_the_two_usual_places(browse, db):
    text = room.words(browse.get("/cooling/"))
    assert "From 190 °C: touch it after 3 min on a cold metal table, after 4:30 on a rack." in text
    assert "below 48 °C a bare hand may hold it" in text


def test_cooling_of_a_job_begins_where_its_press_leaves_it(browse, board):  # noqa: F811
    page = room.soup(browse.get(f"/cooling/?job={board.pk}"))
    assert page.select_one("[name=material] [selected]")["value"] == "aluminium_panel"
    assert 175 < float(page.select_one("[name=start_c]")["value"]) < 200


def test_cooling_in_a_hot_room_and_wrong_figures(browse, db):
    fields = {"material": "glass", "thickness_mm": "3", "start_c": "190", "room_c": "49"}
    assert "never gets cool enough" in room.words(browse.get("/cooling/", fields))
    wrong = browse.get("/cooling/", fields | {"thickness_mm": "0"})
    assert "0 is out of range" in room.words(wrong)


def test_cooling_in_fahrenheit(browse, db):
    User.objects.update(temperature_unit="f", length_unit="in")
    text = room.words(browse.get("/cooling/"))
    assert "From 374 °F" in text
    assert "118 °F" in text


@pytest.fixture
def recipes(element):
    load_shipped_recipes()
    return element


def test_a_hover_is_planned_for_the_press(browse, recipes):
    page = room.soup(browse.get("/hover/"))
    assert page.h1.text.startswith("Hover ")
    assert "Do not leave a hovering press alone." in page.text
    chosen = {
        s["name"]: s.select_one("[selected]")["value"] for s in page.select("main select[name]")
    }
    powder = page.find("option", string="Powder film on cotton")["value"]
    wide = {"gap_mm": "100", "true_c": "120", "seconds": "60", "humidity": "50"}
    fields = chosen | wide | {"recipe": powder}
    assert "go closer or hotter" in room.words(browse.get("/hover/", fields))
    assert "is out of range" in room.words(browse.get("/hover/", fields | {"gap_mm": "0"}))


def test_without_a_recipe_that_hovers_the_page_says_so(browse, db):
    assert browse.get("/hover/").status_code == 200


def change(browse, **fields):
    data = {"from_c": "170", "to_c": "200", "once": str(uuid4())} | fields
    return browse.post("/presses/heron/change-setting/", data)


def test_a_change_is_a_guess_until_somebody_timed_one(browse, element):
    text = room.words(browse.get("/presses/heron/change-setting/?from_c=170&to_c=200"))
    assert "Heron needs about 2:30 from 170 °C to 200 °C." in text
    assert "a guess: nobody has timed it" in text
    change(browse)
    assert "Heron is changing: 170 °C to 200 °C." in room.words(
        browse.get("/presses/heron/change-setting/")
    )
    begun_at = timezone.now() - timedelta(minutes=5)
    PlatenChange.objects.update(started_at=begun_at)
    browse.post(f"/setting-changes/{PlatenChange.objects.get().pk}/end/", {"there": "1"})
    rates = rates_of(element)
    assert rates.heats_k_min == pytest.approx(6, rel=0.01)
    assert rates.timed_up == 1
    assert platen_now_c(element) == 200
    text = room.words(browse.get("/presses/heron/change-setting/?from_c=170&to_c=200"))
    assert "about 5 min" in text.replace("5:00", "5 min")


def test_a_change_given_up_or_forgotten_over_night_says_nothing(browse, element):
    change(browse)
    first = PlatenChange.objects.get()
    browse.post(f"/setting-changes/{first.pk}/end/", {"there": "0"})
    change(browse)
    PlatenChange.objects.filter(there_at=None, given_up_at=None).update(
        started_at=timezone.now() - timedelta(hours=9)
    )
    second = PlatenChange.objects.exclude(pk=first.pk).get()
    browse.post(f"/setting-changes/{second.pk}/end/", {"there": "1"})
    assert rates_of(element).timed_up == 0


def test_a_change_that_was_there_before_it_was_begun_is_not_counted(browse, element):
    change(browse)
    address = f"/setting-changes/{PlatenChange.objects.get().pk}/end/"
    answer = browse.post(address, {"there": "1"}, follow=True)
    assert "too long or too short for one change" in room.words(answer)
    assert rates_of(element).timed_up == 0


def test_a_change_of_nothing_is_refused(browse, element):
    response = change(browse, to_c="171")
    assert "says nothing of how fast it is" in room.words(response)
    assert not PlatenChange.objects.exists()


def test_no_room_cools_a_platen_below_itself(browse, element):
    text = room.words(browse.get("/presses/heron/change-setting/?from_c=170&to_c=30"))
    assert "Heron needs about" in text
    assert browse.get("/presses/heron/change-setting/?from_c=170&to_c=hot").status_code == 422


def test_today_s_jobs_are_put_in_the_order_that_waits_least(browse, board, vest):  # noqa: F811
    text = room.words(browse.get("/presses/heron/change-setting/"))
    assert "In this order it waits least" in text
    assert "Board: press" in text
    assert "Vest: press" in text


def test_a_spray_takes_so_much_of_the_bottle(browse, db):
    fields = {"width_mm": "300", "height_mm": "350", "pieces": "4", "coats": "2", "square_ml": "65"}
    text = room.words(browse.get("/spray/", fields))
    # 0.105 m² · 65 ml/m² ÷ 0.65 = 10.5 ml for one coat.
    assert "2 coats take 84 ml out of the bottle." in text
    assert "The mist burns" in text


def test_brushed_pieces_dry_side_by_side(browse, db):
    fields = {"number": "4", "sides": "2", "times": "1", "brush_s": "2 min", "dries_s": "40 min"}
    text = room.words(browse.get("/brush/", fields))
    assert "All dry after 1 h 30 min." in text
    assert "it would take 5 h 36 min" in text
    assert "less than or equal to 60" in room.words(
        browse.get("/brush/", fields | {"number": "99"})
    )


def test_a_technician_alone_times_changes(browse_as, clerk, element):
    browser = browse_as(clerk)
    assert change(browser).status_code == 403
    with pytest.raises(PermissionDenied, match="clerk can look"):
        actions.begin_change(clerk, element, 170, 200, uuid4())


def test_a_press_takes_the_rates_of_others_of_its_kind_until_it_is_timed(technician, element):
    other = room.element("Grebe", place=2)
    now = timezone.now()
    usual = rates_of(element).heats_k_min
    PlatenChange.objects.create(
        element=other,
        from_c=100.0,
        to_c=200.0,
        started_at=now - timedelta(minutes=5),
        there_at=now,
        by=technician,
        entry_key=uuid4(),
    )
    assert rates_of(element).heats_k_min == pytest.approx(20)
    assert rates_of(element).timed_up == 0
    other.press.kind = "clamshell"
    other.press.save()
    assert rates_of(element).heats_k_min == usual
