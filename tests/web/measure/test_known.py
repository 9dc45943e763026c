"""A press that is known: a short survey that says whether it is as before, and what rests on it."""

from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.test import Client
from django.utils import timezone

from tempermark.core.metrology.memory.looks import Rates
from tempermark.core.metrology.memory.recall import Recalled
from tempermark.web.certificates import actions as certificates
from tempermark.web.certificates.content import facts
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.units import IMPERIAL, METRIC
from tempermark.web.measure.known.noting import note_survey
from tempermark.web.measure.known.open_verdict import open_text, outlook_of
from tempermark.web.measure.known.remembered import earlier, is_known, rates_of, remembered
from tempermark.web.measure.models import Instrument, Reading, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions
from tempermark.web.measure.surveys.views import memory_text
from tempermark.web.presses.models import Press
from tests.support import room

pytestmark = pytest.mark.django_db


def known(who, on, truth=room.true_platen, level=0.0, seed=1, finish=True, **changes):
    """A short survey, read where it asks, until it asks no more."""
    rng = np.random.default_rng(seed)
    survey = actions.start_survey(who, on, room.header(grid="known", **changes), [])
    while survey.stations.filter(readings=None).exists():
        station = survey.stations.filter(readings=None).get()
        shown = truth(station.x_mm, station.y_mm) + level + 0.3 * rng.standard_normal()
        actions.enter_reading(who, station, f"{shown:.1f}", uuid4())
    return actions.finish(who, survey) if finish else survey


@pytest.fixture
def surveyed(technician, element):
    """Two full surveys, two and one months ago."""
    return [room.survey(technician, element, days_ago=days) for days in (60, 30)]


def fallen(x_mm, y_mm):
    """The front left has fallen."""
    corner = ((x_mm - 0) ** 2 + (y_mm - 0) ** 2) / 2 / 75**2
    return room.true_platen(x_mm, y_mm) - 9 * np.exp(-corner)


def text_of(survey, units=METRIC):
    return memory_text(compute_survey(survey), units).replace("\u00a0", " ")


def test_a_press_that_is_as_before_needs_few_readings(technician, element, surveyed):
    survey = known(technician, element, level=-1.8)
    count = Reading.objects.filter(station__survey=survey).count()
    assert count <= 9
    day = timezone.localtime(surveyed[-1].taken_at)
    assert text_of(survey).startswith(f"As on {day.day} {day:%B}, 1 K lower: {count} readings")
    assert "2 °F lower" in text_of(survey, IMPERIAL)
    assert survey.memory["unchanged"] > 0.85
    assert {row["survey"] for row in survey.memory["rests_on"]} == {s.pk for s in surveyed}
    # Its mean is that of the map, not that of a few places.
    full = np.mean([room.true_platen(x, y) for x in (60, 200, 340) for y in (60, 250, 440)])
    assert survey.mean_true_c == pytest.approx(full - 1.8, abs=2.0)


@pytest.mark.parametrize(
    ("large_left", "words"),
    [
        (0.05, "Nothing large has happened since 30 days ago, 1 K lower; 70 % sure that nothing"),
        (0.3, "So far as on 30 days ago, 1 K lower, 70 % sure after"),
    ],
)
def test_something_small_that_changes_no_verdict_is_said_to_be_small(
    technician, element, surveyed, monkeypatch, large_left, words
):
    survey = known(technician, element, level=-1.8)
    monkeypatch.setattr(Recalled, "unchanged", 0.7)
    monkeypatch.setattr(Recalled, "large_left", large_left)
    day = timezone.localtime(surveyed[-1].taken_at)
    assert text_of(survey).startswith(words.replace("30 days ago", f"{day.day} {day:%B}"))


def test_what_has_fallen_is_found_and_read_on(technician, element, surveyed):
    survey = known(technician, element, truth=fallen)
    assert text_of(survey).startswith("Not as before: the front left corner has fallen by about")
    assert survey.memory["unchanged"] < 0.1
    # The next survey knows it so.
    after = known(technician, element, truth=fallen, seed=4)
    assert text_of(after).startswith("As on")


def test_one_figure_far_off_settles_nothing(browse, technician, element, surveyed):
    survey = actions.start_survey(technician, element, room.header(grid="known"), [])
    actions.enter_reading(technician, survey.stations.get(), "222", uuid4())
    assert survey.stations.filter(readings=None).count() == 1
    said = text_of(survey)
    assert said == "Not as before: what has happened is not clear yet; reading on."
    page = room.words(browse.get(survey.get_absolute_url()))
    assert "1 station is still to be read." in page


def test_the_form_offers_it_only_where_something_is_known(browse, technician, element):
    page = room.soup(browse.get("/presses/heron/surveys/new/"))
    assert page.select_one("[name=grid] option[value=known]") is None
    room.survey(technician, element, days_ago=10)
    page = room.soup(browse.get("/presses/heron/surveys/new/"))
    assert page.select_one("[name=grid] option[value=known]") is not None


def test_from_the_form_to_the_first_station(browse, technician, element, surveyed):
    page = room.soup(browse.get("/presses/heron/surveys/new/"))
    drawn = page.select_one("main form")
    left = "[type=radio]:not([checked])"
    form = {f["name"]: f.get("value", "") for f in drawn.select(f"input:not({left})")}
    form |= {
        s["name"]: (s.select_one("[selected]") or s.option)["value"] for s in drawn.select("select")
    }
    answer = browse.post("/presses/heron/surveys/new/", form | {"grid": "known"}, follow=True)
    assert answer.redirect_chain, [e.text for e in room.soup(answer).select(".wrong, .errors")]
    survey = Survey.objects.get(grid="known")
    assert survey.stations.count() == 1
    assert "is remembered. A change would show best" in room.words(answer)
    assert "As remembered, until you read: contours in" in room.words(answer)
    chart = room.soup(answer).select_one("#map svg")
    assert chart.select("path.below, path.above, path.target")
    assert chart["aria-label"] == "Platen without readings yet, as it is remembered."
    # The remembered map is no verdict: no corner marks, nothing to set.
    assert not chart.select("path.corner")
    assert survey.mean_true_c is None


def test_a_known_survey_of_an_unknown_press_is_refused(browse, technician, element):
    form = {"grid": "known", "set_c": "195", "target_c": "195", "tolerance_c": "5", "method": "pad"}
    answer = browse.post("/presses/heron/surveys/new/", form)
    assert answer.status_code == 422
    assert not Survey.objects.exists()


def test_nothing_is_known_after_a_repair_or_by_strips_or_few_places(technician, element):
    room.survey(technician, element, grid="spot", days_ago=9)
    assert not is_known(element)
    room.survey(technician, element, days_ago=8)
    assert is_known(element)
    element.map_since = timezone.now() - timedelta(days=1)
    element.save()
    assert not is_known(element)


def test_what_rests_on_a_changed_survey_is_computed_again_and_says_so(
    technician, element, surveyed
):
    survey = known(technician, element)
    before = survey.memory
    actions.reopen(technician, surveyed[-1])
    survey.refresh_from_db()
    assert len(survey.memory["rests_on"]) == 1
    assert survey.memory["change"] != before["change"]
    assert "was changed on" in text_of(survey)
    assert AuditEntry.objects.filter(did="computed survey again").exists()
    actions.finish(technician, surveyed[-1])


def test_a_reading_taken_back_in_an_earlier_survey_changes_what_rests_on_it(
    technician, element, surveyed
):
    survey = known(technician, element)
    reading = surveyed[0].stations.first().readings.get()
    actions.take_back(technician, surveyed[0], reading.pk)
    survey.refresh_from_db()
    assert "changed_on" in survey.memory


def test_an_element_of_another_size_is_read_without_what_does_not_lie_on_it(
    technician, element, surveyed
):
    element.width_mm = 300.0
    element.save()
    survey = known(technician, element)
    assert compute_survey(survey).recalled.kept.past.place_mm[:, 0].max() <= 300.0


def rests_on(certificate):
    return dict(facts(certificate, METRIC))["Rests also on"].replace("\u00a0", " ")


def test_the_certificate_says_what_it_rests_on(technician, lead, element, surveyed):
    survey = known(technician, element)
    signed = certificates.sign(lead, Survey.objects.get(pk=survey.pk))
    memory = signed.content["memory"]
    assert [row["number"] for row in memory["surveys"]] == [s.pk for s in reversed(surveyed)]
    assert "would not have been seen" in memory["assumption"]
    assert f"as then, {round(100 * memory['unchanged'])} % sure" in rests_on(signed)
    fell = known(technician, element, truth=fallen)
    assert "not as then" in rests_on(certificates.sign(lead, Survey.objects.get(pk=fell.pk)))
    full = certificates.sign(lead, surveyed[-1])
    assert full.content["memory"] is None


def test_rates_are_learned_from_presses_of_the_kind(technician, element):
    for days in range(10, 360, 30):
        room.survey(technician, element, grid="3x3", days_ago=days)
    quiet = rates_of(element, timezone.now())
    for survey in Survey.objects.order_by("taken_at")[::2]:
        Survey.objects.filter(pk=survey.pk).update(mean_true_c=survey.mean_true_c + 3.0)
    assert rates_of(element, timezone.now()).level_c > quiet.level_c + 0.5


def test_how_far_presses_of_a_kind_differ_is_learned_from_their_newest_maps(technician, element):
    def falling(x_mm, y_mm):
        return 195.0 + (x_mm - 200.0) / 100.0

    assert rates_of(element, timezone.now()).kind_level_c == Rates().kind_level_c
    presses = [room.element(name) for name in ("Teal", "Ruff", "Knot", "Smew")]
    for one in (element, *presses):
        room.survey(technician, one, grid="3x3", days_ago=20, truth=lambda x, y: 215.0)
        room.survey(technician, one, grid="3x3", days_ago=3, truth=falling)
    # A few places, a spot, another kind: none of them tells of a kind.
    room.survey(technician, element, grid="spot", days_ago=1, truth=lambda x, y: 230.0)
    rates = rates_of(element, timezone.now())
    assert rates.kind_level_c < 6.0
    assert 1.0 < rates.kind_fall_c_per_100mm < Rates().kind_fall_c_per_100mm
    # They fall evenly: the next is likelier to be even too.
    assert rates.rest_chance[0] > Rates().rest_chance[0]
    assert sum(rates.rest_chance) == pytest.approx(1.0, abs=0.002)
    before = rates_of(element, timezone.now() - timedelta(days=10))
    assert before.kind_level_c > 20.0
    other = room.element("Auk")
    Press.objects.filter(pk=other.press.pk).update(kind="auto")
    other.press.refresh_from_db()
    assert rates_of(other, timezone.now()).kind_level_c == Rates().kind_level_c


def test_a_dial_that_is_set_apart_from_the_target_says_nothing_of_the_level(
    technician, element, surveyed
):
    short = known(technician, element)
    short.memory["rates"]["kind_level_c"] = 3.0
    near = remembered(compute_survey(short)).rates
    short.set_c = short.target_c + 40.0
    apart = remembered(compute_survey(short)).rates
    assert near.kind_level_c == 3.0
    assert apart == replace(near, kind_level_c=float(np.hypot(3.0, 40.0)))


def test_rates_are_kept_with_the_survey_as_they_were(technician, element, surveyed):
    """Those of surveys from before how uneven presses are was learned, too."""
    short = known(technician, element)
    short.refresh_from_db()
    rates = remembered(compute_survey(short)).rates
    assert rates.rest_chance == tuple(short.memory["rates"]["rest_chance"])
    del short.memory["rates"]["rest_chance"]
    assert remembered(compute_survey(short)).rates.rest_chance == Rates().rest_chance


def test_many_short_surveys_do_not_push_out_the_one_that_they_rest_on(
    technician, element, surveyed
):
    for seed in range(6):
        known(technician, element, seed=seed)
    found = earlier(element)
    assert len(found) == 5
    assert found[-1] == surveyed[-1]
    assert is_known(element)


def test_only_the_newest_are_read(technician, element):
    for days in range(1, 9):
        room.survey(technician, element, grid="3x3", days_ago=days)
    assert len(earlier(element)) == 5


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"method": "pad", "instrument_uncertainty_c": 3.0}, "Open by what all readings share"),
        ({"method": "contact", "instrument_uncertainty_c": 0.2}, "It keeps ±"),
    ],
)
def test_an_open_verdict_is_never_the_end(technician, element, changes, words):
    def edge(x_mm, y_mm):
        return 195.0 + (4.9 if (x_mm, y_mm) == (200.0, 250.0) else 0.0)

    survey = room.survey(technician, element, truth=edge, tolerance_c=5.0, **changes)
    computed = compute_survey(survey)
    assert words in open_text(computed, METRIC).replace("\u00a0", " ")
    assert outlook_of(computed).keeps_c > 3.0
    browser = Client()
    browser.force_login(technician)
    page = room.words(browser.get(survey.get_absolute_url()))
    assert ("As it was set:" in page) == (computed.result.verdict == "undecided")


def test_strips_are_no_survey_of_a_known_press(browse, element, surveyed):
    form = {"grid": "known", "set_c": "195", "target_c": "195", "tolerance_c": "5"}
    answer = browse.post("/presses/heron/surveys/new/", form | {"method": "strip"})
    assert answer.status_code == 422
    assert not Survey.objects.filter(grid="known").exists()


def test_a_lead_declares_a_new_beginning(browse, browse_as, lead, element, surveyed):
    assert "map begun anew" not in room.words(browse.get("/presses/heron/elements/"))
    assert browse.post("/presses/heron/events/", {"kind": "new_map"}).status_code == 403
    leads = browse_as(lead)
    assert "map begun anew" in room.words(leads.get("/presses/heron/elements/"))
    assert (
        leads.post("/presses/heron/events/", {"kind": "new_map", "note": "doubted"}).status_code
        == 302
    )
    element.refresh_from_db()
    assert not is_known(element)


def test_two_guns_that_disagree_are_told_from_a_press_that_changed(technician, element):
    guns = [
        Instrument.objects.create(name=f"Gun {n}", kind="infrared", expanded_uncertainty_c=3.0)
        for n in (1, 2)
    ]
    shared = {"instrument_uncertainty_c": 3.0}
    room.survey(technician, element, days_ago=30, instrument=guns[0], **shared)
    survey = known(technician, element, level=2.5, instrument=guns[1], **shared)
    assert "higher by another gun" in text_of(survey)
    assert survey.memory["unchanged"] > 0.85


def test_a_full_survey_that_disagrees_is_noted_by_the_worker(technician, element, surveyed):
    full = room.survey(technician, element, truth=fallen)
    assert full.memory == {}
    note_survey(full.pk)
    full.refresh_from_db()
    assert full.memory["unchanged"] < 0.1
    after = known(technician, element, truth=fallen)
    assert text_of(after).startswith("As on")
