"""A pressure map of a press that is known: few strips, what they rest on, and what ends it."""

import io
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.utils import timezone
from PIL import Image

from tempermark.stand_ins.carbon_print import PressedPad, scanned_print
from tempermark.web.kit.figures import day_text
from tempermark.web.measure.known import shared
from tempermark.web.measure.surveys.grids import KNOWN, grid_places
from tempermark.web.presses.models import Element, EventKind, Press
from tempermark.web.presses.register import record_event
from tempermark.web.pressure import mapping
from tempermark.web.pressure.maps import actions, remembered
from tempermark.web.pressure.maps.kinds import closings_of_kind
from tempermark.web.pressure.models import PressureSurvey
from tests.support import room

PAGE = "/presses/heron/pressure/"
LEFT_WEAK = {"A": "free", "B": "drags", "C": "holds"}


def left_weak(label):
    return LEFT_WEAK[label[0]]


def even(label):
    return "holds"


def strips(who, element, pull_of, days, grid="3x3", stack_mm=1.1):
    """A finished map by strips so many days ago."""
    survey = begun(who, element, days, grid, stack_mm)
    for station in survey.stations.all():
        actions.enter_pull(who, station, pull_of(station.label), uuid4())
    return actions.finish(who, survey)


def printed(who, element, deep_mm):
    size = (element.width_mm, element.height_mm)
    pad = PressedPad(deep_mm, 0.0, 0.0, ())
    picture = scanned_print(pad, size, np.random.default_rng(2), 0.6, bar_mm=100.0)
    raw = io.BytesIO()
    Image.fromarray(picture).save(raw, "PNG")
    fields = {"stack_mm": 1.1, "taken_at": timezone.now(), "note": ""}
    return actions.keep_print(who, element, raw.getvalue(), 100.0, None, fields)


def begun(who, element, days=0, grid=KNOWN, stack_mm=1.1):
    places = grid_places("3x3", element.width_mm, element.height_mm)
    when = timezone.now() - timedelta(days=days)
    fields = {"stack_mm": stack_mm, "taken_at": when, "note": ""}
    return actions.start_pulls(who, element, grid, places, fields)


def pulled(who, survey, pull_of):
    """Strips at the stations that a known press is to be pulled at, to the end."""
    while True:
        stations = mapping.queries.stations(survey)
        standing = remembered.standing(survey, stations)
        if standing.next_station is None:
            return standing
        station = stations[standing.next_station]
        actions.enter_pull(who, station, pull_of(station.label), uuid4())


def page(browse, survey):
    return room.soup(browse.get(f"/pressure-maps/{survey.pk}/"))


def choices(browse):
    form = room.soup(browse.get(f"{PAGE}strips/"))
    return [option["value"] for option in form.select("[name=grid] option")]


def test_a_press_is_known_from_its_first_whole_map_on(browse, technician, element):
    assert KNOWN not in choices(browse)
    survey = begun(technician, element, 20, "3x3")
    for station in survey.stations.all()[:5]:
        actions.enter_pull(technician, station, "holds", uuid4())
    actions.finish(technician, survey)
    assert KNOWN not in choices(browse)
    strips(technician, element, even, 10)
    assert choices(browse)[0] == KNOWN


def test_a_map_of_an_unknown_press_cannot_be_begun_as_known(browse, element):
    answer = browse.post(f"{PAGE}strips/", {"grid": KNOWN, "stack_mm": "1.1"})
    assert answer.status_code == 422
    assert not PressureSurvey.objects.exists()


def test_as_before_in_fewer_strips_than_nine(browse, technician, element):
    for days in (120, 60):
        strips(technician, element, even, days)
    browse.post(f"{PAGE}strips/", {"grid": KNOWN, "stack_mm": "1.1"})
    survey = PressureSurvey.objects.get(grid=KNOWN)
    seen = page(browse, survey)
    assert "is remembered" in seen.select_one("#summary").text
    assert seen.select_one("#entry input[name=station]")
    standing = pulled(technician, survey, even)
    count = standing.count
    assert count < 9
    seen = page(browse, survey)
    assert f"{count} strips are enough." in seen.text
    assert "Tap a station to pull it too." in seen.text
    browse.post(f"/pressure-maps/{survey.pk}/finish/")
    survey.refresh_from_db()
    assert survey.verdict == "pass"
    assert survey.memory["unchanged"] > 0.85
    assert len(survey.memory["rests_on"]) == 2
    text = page(browse, survey).text
    assert "as far as strips show" in text
    assert "presses evenly." in text
    assert "Rests also on" in text


def test_each_strip_leads_to_the_next_place(browse, technician, element):
    strips(technician, element, even, 60)
    survey = begun(technician, element)
    first = page(browse, survey).select_one("#entry input[name=station]")["value"]
    form = page(browse, survey).select_one("form#entry")
    data = {f["name"]: f.get("value", "") for f in form.select("input")} | {"typed": "2"}
    browse.post(f"/pressure-maps/{survey.pk}/strips/", data)
    second = page(browse, survey).select_one("#entry input[name=station]")["value"]
    assert second != first
    assert "So far as on" in page(browse, survey).text


def test_another_worker_finds_what_the_first_computed(monkeypatch, tmp_path, technician, element):
    monkeypatch.setenv(shared.FOLDER, str(tmp_path))
    for days in (90, 60):
        strips(technician, element, even, days)
    survey = begun(technician, element)
    places = list(survey.stations.all())
    actions.enter_pull(technician, places[0], "holds", uuid4())
    stations = mapping.queries.stations(survey)
    remembered._kept.cache_clear()
    first = remembered.standing(survey, stations)
    assert list(tmp_path.iterdir())
    computed = []
    # Another worker has nothing of its own and must not compute it anew.
    remembered._kept.cache_clear()
    monkeypatch.setattr(remembered, "keep_pressure", lambda *of: computed.append(of))
    again = remembered.standing(survey, stations)
    assert computed == []
    assert again.recalled.kept is not first.recalled.kept
    assert again.recalled.weight.tolist() == first.recalled.weight.tolist()
    assert again.next_station == first.next_station


def test_a_map_that_is_finished_too_soon_passes_nothing(browse, technician, element):
    strips(technician, element, even, 60)
    survey = begun(technician, element)
    actions.enter_pull(technician, survey.stations.first(), "holds", uuid4())
    actions.finish(technician, survey)
    assert survey.verdict == "undecided"
    assert "Too few strips to tell whether Heron is as before." in page(browse, survey).text


def test_nothing_is_named_from_one_corner(browse, technician, element):
    """The left, the back or the corner may have given way: it is pulled on before one is named."""
    for days in (120, 60, 30):
        strips(technician, element, even, days)
    survey = begun(technician, element)
    for label, pull in (("A3", "free"), ("C1", "tears")):
        station = survey.stations.get(label=label)
        actions.enter_pull(technician, station, pull, uuid4())
    text = page(browse, survey).select_one("#summary").text
    assert "Not as before: what has happened is not clear yet; pull on." in text
    assert "Too few strips to tell whether Heron is as before." in text
    assert "Shim" not in text
    actions.finish(technician, survey)
    # A strip that slides free fails whatever else there is.
    assert survey.verdict == "fail"


@pytest.mark.parametrize("deep_mm", [1.5, 6.0])
def test_a_print_is_remembered_as_strips_are(browse, technician, element, deep_mm):
    """Six millimetres and more fill the film: its cells only bound the pressure."""
    printed(technician, element, deep_mm)
    assert choices(browse)[0] == KNOWN
    survey = begun(technician, element)
    standing = pulled(technician, survey, even if deep_mm < 3 else lambda label: "tears")
    assert standing.count < 9
    assert standing.recalled.unchanged > 0.5
    again = printed(technician, element, deep_mm)
    assert again.memory["unchanged"] > 0.5
    assert page(browse, again).select_one("#summary")


def test_a_sleeve_is_remembered_as_a_platen_is(browse, technician):
    press = Press.objects.create(name="Plover", slug="plover", kind="wrap")
    sleeve = Element.objects.create(press=press, role="sleeve", width_mm=240.0, height_mm=120.0)
    strips(technician, sleeve, even, 60)
    survey = begun(technician, sleeve)
    standing = pulled(technician, survey, even)
    assert standing.is_enough
    assert standing.pull.verdict == "pass"
    room.survey(technician, sleeve, days_ago=10)
    form = room.soup(browse.get("/presses/plover/surveys/new/"))
    assert form.select_one("[name=grid] option[value=known]")


def test_not_as_before_is_pulled_to_the_end_and_named(browse, technician, element):
    for days in (120, 60):
        strips(technician, element, even, days)
    survey = begun(technician, element)
    standing = pulled(technician, survey, left_weak)
    assert standing.count == 9
    assert "Not as before: the left is pressed less" in page(browse, survey).text
    actions.finish(technician, survey)
    survey.refresh_from_db()
    assert survey.verdict == "fail"
    assert survey.memory["unchanged"] < 0.5
    assert "Heron has less pressure on the left." in page(browse, survey).text


def test_a_whole_map_notes_what_it_found_too(technician, element):
    strips(technician, element, even, 120)
    strips(technician, element, even, 60)
    found = strips(technician, element, left_weak, 1)
    assert found.memory["unchanged"] < 0.5
    # The next short one takes the press as it is now.
    survey = begun(technician, element)
    standing = pulled(technician, survey, left_weak)
    assert standing.recalled.unchanged > 0.5
    assert standing.pull.verdict == "fail"


def test_what_rests_on_a_map_that_is_changed_is_computed_again(browse, technician, element):
    first = strips(technician, element, even, 60)
    survey = begun(technician, element)
    pulled(technician, survey, even)
    actions.finish(technician, survey)
    before = PressureSurvey.objects.get(pk=survey.pk)
    actions.reopen(technician, first)
    for station in first.stations.all():
        actions.enter_pull(technician, station, left_weak(station.label), uuid4())
    actions.finish(technician, first)
    after = PressureSurvey.objects.get(pk=survey.pk)
    assert after.memory["changed_on"]
    assert after.right_mm > before.right_mm
    assert "was computed again" in page(browse, survey).text


def test_nothing_changes_where_a_map_is_only_opened_and_closed(technician, element):
    first = strips(technician, element, even, 60)
    survey = begun(technician, element)
    pulled(technician, survey, even)
    actions.finish(technician, survey)
    actions.finish(technician, actions.reopen(technician, first))
    assert "changed_on" not in PressureSurvey.objects.get(pk=survey.pk).memory


def test_a_map_whose_past_is_open_again_is_one_by_strips_alone(browse, technician, element):
    first = strips(technician, element, even, 60)
    survey = begun(technician, element)
    actions.enter_pull(technician, survey.stations.first(), "holds", uuid4())
    actions.reopen(technician, first)
    assert mapping.compute(survey).standing is None
    assert "Too few strips" in page(browse, survey).text


@pytest.mark.parametrize("kind", [EventKind.PAD, EventKind.REPAIR])
def test_another_pad_or_a_repair_ends_what_is_remembered(browse, lead, technician, element, kind):
    strips(technician, element, even, 60)
    assert remembered.is_known(element)
    record_event(lead, element.press, kind, "")
    assert not remembered.is_known(Element.objects.get(pk=element.pk))
    assert KNOWN not in choices(browse)


def test_short_maps_do_not_push_out_the_whole_one(technician, element):
    whole = strips(technician, element, even, 60)
    short = []
    for days in (5, 4, 3, 2, 1):
        survey = begun(technician, element, days)
        pulled(technician, survey, even)
        short.append(actions.finish(technician, survey))
    assert remembered.earlier(element) == [*short[:-4:-1], whole]


def test_the_newest_map_is_the_one_that_it_is_compared_with(browse, technician, element):
    for days in (120, 60, 30):
        last = strips(technician, element, even, days)
    survey = begun(technician, element)
    pulled(technician, survey, even)
    assert f"As on {day_text(last.taken_at)} as far" in page(browse, survey).text


def test_another_stack_in_a_hinged_press_is_carried(technician, element):
    Press.objects.update(kind="clamshell")
    element = Element.objects.get()
    strips(technician, element, even, 60, stack_mm=4.1)
    survey = begun(technician, element, stack_mm=1.1)
    look = remembered.kept(survey, remembered.earlier(element)).looks[0]
    assert look.pinch_mm > 2.0


def test_how_presses_of_a_kind_move_is_learned(technician, element):
    for days in (90, 60):
        strips(technician, element, even, days)
    usual = remembered.rates_of(element, timezone.now())
    strips(technician, element, left_weak, 30)
    assert remembered.rates_of(element, timezone.now()).new_chance > usual.new_chance


def test_a_kind_is_the_newest_whole_maps_of_its_other_presses(technician, element):
    """Neither of its own, nor of few strips, nor of another kind of press."""
    now = timezone.now()
    usual = remembered.rates_of(element, now)
    strips(technician, element, left_weak, 90)
    others = [another(element.press.kind, number) for number in range(4)]
    for other in others:
        strips(technician, other, left_weak, 60)
        strips(technician, other, even, 30)
    strips(technician, another("wrap", 9), left_weak, 20)
    short = begun(technician, others[0], 10)
    pulled(technician, short, even)
    actions.finish(technician, short)
    found = closings_of_kind(element, timezone.now())
    assert len(found) == 4
    assert all(abs(fall) < 0.2 for one in found for fall in one.fall_mm)
    # Nine strips that hold tell that the middle is no deeper than the rims, within half a mm.
    assert all(abs(one.hollow_mm) < 0.2 < one.hollow_uncertainty_mm < 0.6 for one in found)
    rates = remembered.rates_of(element, timezone.now())
    assert rates.kind_fall_mm < usual.kind_fall_mm
    assert rates.kind_level_mm < usual.kind_level_mm


def another(kind, number):
    press = Press.objects.create(name=f"Teal {number}", slug=f"teal-{number}", kind=kind)
    return Element.objects.create(press=press, role="upper", width_mm=400.0, height_mm=500.0)
