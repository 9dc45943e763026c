"""What was entered is corrected or withdrawn with a reason; what rested on it is computed again."""

from datetime import timedelta

import pytest
from django.core.exceptions import PermissionDenied
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.fixed_points import checked
from tempermark.web.heat.lessons import held, lessons, trials
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.kit.units import IMPERIAL, METRIC
from tempermark.web.measure.instruments.instruments import note_check
from tempermark.web.measure.models import Instrument, InstrumentCheck, Reading
from tempermark.web.overview.queries import floor
from tempermark.web.pressure import actions as fit
from tempermark.web.pressure.models import KnobLesson, PressureState
from tempermark.web.run.models import Mark, TestPress
from tempermark.web.run.pieces import actions as runs
from tempermark.web.run.pieces.proven import proven_on
from tempermark.web.trace.board import actions
from tempermark.web.trace.board.queries import all_cases
from tempermark.web.trace.corrections import pieces as corrections
from tempermark.web.trace.corrections import surveys as survey_corrections
from tempermark.web.trace.knowledge.shop import shop_knowledge
from tests.support import people, room
from tests.support.forms import Drawn

pytestmark = pytest.mark.django_db


def typed_form(form):
    return form.select_one("[name=typed]")


@pytest.fixture
def vest(technician, element):
    room.survey(technician, element, truth=lambda x, y: 195.0, days_ago=30)
    return room.blank(thickness_mm=0.5)


def good(who, element, days_ago, **fields):
    piece = room.piece(who, element, days_ago=days_ago, **fields)
    return runs.score(who, piece, runs.Scored("good", scores={"black": 5}))


def draw(browse, piece):
    return Drawn(browse, f"/test-presses/{piece.pk}/correct/", lambda f: f.get("id") == "log")


def test_a_corrected_piece_keeps_what_was_there_and_moves_what_is_proven(
    browse, technician, element, vest
):
    piece = good(technician, element, 3, set_c=200.0, dwell_s=52.0)
    answer = draw(browse, piece).send(browse, set_c="205", why="read the wrong dial")
    assert answer.status_code == 302
    told = room.words(browse.get(answer.url))
    assert "Proven setting of Dye on a polyester vest on Heron: now 205.0 °C true for 52 s" in told
    assert "It was 200.0 °C true for 52 s, from 1 good piece." in told
    assert "setting on the dial 205 °C, was 200 °C. Reason: read the wrong dial" in told
    assert proven_on(piece.recipe)[element.pk].true_c == pytest.approx(205.0, abs=0.2)


def test_a_withdrawn_piece_proves_nothing_and_stays_on_record(browse, technician, element, vest):
    piece = good(technician, element, 3)
    page = Drawn(browse, piece.get_absolute_url(), lambda f: "/withdraw/" in f.get("action", ""))
    told = room.words(browse.get(page.send(browse, why="that was another press").url))
    assert "none any longer" in told
    assert "that was another press This piece no longer counts" in told
    assert not TestPress.objects.exists()
    assert TestPress.every.get().withdrawn_why == "that was another press"
    assert proven_on(piece.recipe) == {}
    assert "Every piece will appear here" in room.words(browse.get("/logbook/"))


def test_only_the_author_or_a_lead_changes_it_with_a_reason(technician, lead, element, vest):
    other = room.person("odd", "technician")
    piece = good(technician, element, 3)
    with pytest.raises(PermissionDenied):
        corrections.withdraw_piece(other, piece, "mine", METRIC)
    with pytest.raises(InputError, match="Give a reason"):
        corrections.withdraw_piece(technician, piece, "  ", METRIC)
    assert corrections.withdraw_piece(lead, piece, "seen by a lead", METRIC)
    assert corrections.withdraw_piece(lead, piece, "again", METRIC) == []


def test_a_lesson_is_computed_again_without_the_piece(technician, lead, element, vest):
    pieces = [good(technician, element, d, dwell_s=s) for d, s in ((5, 25.0), (4, 52.0))]
    surface = trials.surface_of_piece(pieces[0])
    taught = lessons.accept_lesson(lead, surface)
    said = corrections.withdraw_piece(technician, pieces[0], "a wet blank", METRIC)
    assert f"The lesson on {taught.label} was computed again, from 1 piece." in said
    again = held.holding(surface)
    assert again.pk != taught.pk and again.pieces == 1
    assert again.values != taught.values
    assert again.before == taught.values
    said = corrections.withdraw_piece(technician, pieces[1], "a wet blank too", METRIC)
    assert any("no longer counts" in text for text in said)
    assert held.holding(surface) is None


def closed_case(technician, lead, element):
    faulty = room.piece(technician, element, days_ago=6)
    room.mark(technician, faulty)
    case = actions.open_case(technician, faulty)
    proof = good(technician, element, 0)
    return actions.close_case(lead, case, "cold_zone", proof, "moved the art"), proof


def test_a_case_whose_proof_is_withdrawn_is_open_again(technician, lead, element, vest):
    case, proof = closed_case(technician, lead, element)
    before = shop_knowledge().base.causes["cold_zone"].prior
    said = corrections.withdraw_piece(technician, proof, "logged on the wrong press", METRIC)
    assert f"Case {case.pk} was closed with this piece as its proof: it is open again." in said
    assert any("The rates of causes were computed again" in text for text in said)
    case.refresh_from_db()
    assert case.closed_at is None
    assert shop_knowledge().base.causes["cold_zone"].prior != before


def test_a_piece_scored_again_says_what_that_moves(browse, technician, lead, element, vest):
    case, proof = closed_case(technician, lead, element)
    answer = browse.post(f"/test-presses/{proof.pk}/outcome/", {"outcome": "faulty"})
    assert f"Case {case.pk} was closed with this piece" in room.words(browse.get(answer.url))


def test_a_case_of_a_withdrawn_piece_is_no_open_fault(technician, element, vest):
    piece = room.piece(technician, element, days_ago=1)
    room.mark(technician, piece)
    actions.open_case(technician, piece)
    assert floor()[0].open_cases == 1
    corrections.withdraw_piece(technician, piece, "not ours", METRIC)
    assert floor()[0].open_cases == 0
    assert not all_cases().exists()


def test_a_mark_is_corrected_and_withdrawn(browse, technician, element, vest):
    piece = room.piece(technician, element, days_ago=1)
    first, second = room.mark(technician, piece), room.mark(technician, piece, symptom="ghosting")
    page = Drawn(browse, f"/marks/{first.pk}/correct/", lambda f: f.select_one("[name=symptom]"))
    answer = page.send(browse, symptom="low_density", why="looked again")
    told = room.words(browse.get(answer.url))
    assert "looked again" in told and "was Fades towards a margin" in told
    browse.post(f"/marks/{second.pk}/withdraw/", {"why": "a crease"})
    assert [m.symptom for m in piece.marks.all()] == ["low_density"]
    assert Mark.every.count() == 2


def test_the_last_mark_of_a_case_is_not_withdrawn(technician, element, vest):
    piece = room.piece(technician, element)
    mark = room.mark(technician, piece)
    actions.open_case(technician, piece)
    with pytest.raises(InputError, match="last mark of a case"):
        corrections.withdraw_mark(technician, mark, "no", METRIC)


def test_a_reading_is_corrected_and_the_map_follows(browse, technician, element):
    made = room.survey(technician, element, truth=lambda x, y: 190.0)
    reading = Reading.objects.filter(station__survey=made).first()
    page = f"/readings/{reading.pk}/correct/"
    answer = Drawn(browse, page, typed_form).send(
        browse, typed="165", why="two figures turned round"
    )
    told = room.words(browse.get(answer.url))
    assert "its mean is now 189.0 °C true, it was 190.0 °C" in told
    assert "A1".lower() in told.lower() and "two figures turned round" in told
    live = Reading.objects.filter(station=reading.station, taken_back_at=None).get()
    assert (live.typed, live.read_at) == ("165", reading.read_at)
    reading.refresh_from_db()
    assert (reading.typed, reading.taken_back_why) == ("190.0", "two figures turned round")


def test_a_wrong_figure_is_refused_and_changes_nothing(browse, technician, element):
    made = room.survey(technician, element, grid="3x3")
    reading = Reading.objects.filter(station__survey=made).first()
    answer = Drawn(browse, f"/readings/{reading.pk}/correct/", typed_form).send(
        browse, typed="hot", why="x"
    )
    assert answer.status_code == 422
    assert "“hot” is not a number" in room.words(answer)
    reading.refresh_from_db()
    assert reading.taken_back_at is None


def test_what_rests_on_a_survey_is_computed_again(technician, element, vest):
    piece = good(technician, element, 1)
    survey = element.surveys.get()
    under = Reading.objects.filter(
        station__survey=survey, station__x_mm__lt=200, station__y_mm__gt=300
    ).first()
    said = survey_corrections.correct_reading(technician, under, "150", "misread", METRIC, METRIC)
    assert any(text.startswith("Proven setting of Dye on a polyester vest") for text in said)
    assert proven_on(piece.recipe)


def test_a_spot_check_follows_the_map_it_rests_on(technician, element):
    full = room.survey(technician, element, truth=lambda x, y: 190.0, days_ago=2)
    spot = room.survey(technician, element, grid="spot", truth=lambda x, y: 191.0)
    before = spot.mean_true_c
    middle = Reading.objects.get(station__survey=full, station__x_mm=200, station__y_mm=250)
    survey_corrections.correct_reading(technician, middle, "186", "misread", METRIC, METRIC)
    spot.refresh_from_db()
    assert spot.mean_true_c > before + 1


def test_a_drift_that_rested_on_a_slip_ends_with_it(technician, element):
    for days_ago, true in ((60, 195.0), (40, 194.0), (20, 193.0), (0, 192.0)):
        room.survey(technician, element, "3x3", True, days_ago, lambda x, y, t=true: t)
    assert floor()[0].state.drifting
    readings = Reading.objects.filter(station__survey__in=element.surveys.all()[:3])
    said = []
    for reading in list(readings):
        said += survey_corrections.correct_reading(
            technician, reading, "195", "wrong emissivity", METRIC, METRIC
        )
    assert not floor()[0].state.drifting
    assert f"Drift computed again: {element.press.name} no longer drifts." in said


def gun(lead, ice_c=0.0):
    made = Instrument.objects.create(name="Probe 2", kind="contact", expanded_uncertainty_c=0.8)
    day = timezone.localdate() - timedelta(days=9)
    read = {"ice_c": ice_c, "boil_c": 100.0, "pressure_kpa": 101.325}
    return made, note_check(lead, made, checked(ice_c, 100.0, 100.0), day, read)


def test_a_corrected_check_corrects_the_surveys_read_with_it(browse_as, lead, element):
    probe, check = gun(lead, ice_c=2.0)
    header = {"instrument": probe, "corrections": probe.corrections, "method": "contact"}
    survey = room.survey(lead, element, truth=lambda x, y: 190.0, **header)
    leads = browse_as(lead)
    page = Drawn(leads, f"/checks/{check.pk}/correct/", lambda f: f.select_one("[name=ice_c]"))
    assert page.data["ice_c"] == "2"
    answer = page.send(leads, ice_c="0", boil_c="98", why="the two were swapped")
    told = room.words(leads.get(answer.url))
    before = survey.mean_true_c
    survey.refresh_from_db()
    probe.refresh_from_db()
    assert probe.corrections == survey.corrections != []
    assert survey.mean_true_c > before + 1
    assert "its mean is now" in told and "the two were swapped" in told


def test_a_withdrawn_check_leaves_the_one_before(technician, lead, element):
    probe, check = gun(lead)
    later = note_check(lead, probe, checked(1.0, None, 100.0))
    survey_corrections.withdraw_check(lead, later, "no ice left", METRIC)
    probe.refresh_from_db()
    assert (probe.checked_on, probe.corrections) == (check.on, check.corrections)
    survey_corrections.withdraw_check(lead, check, "no ice at all", METRIC)
    probe.refresh_from_db()
    assert (probe.checked_on, probe.corrections) == (None, [])
    with pytest.raises(PermissionDenied):
        survey_corrections.withdraw_check(technician, later, "x", METRIC)
    assert InstrumentCheck.every.count() == 2


SHIMS = [(0.0, 0.0), (2.0, 1.35), (4.0, 2.66)]


def test_a_knob_session_is_corrected_and_says_what_counts_now(browse, technician, element):
    press = element.press
    session = fit.learn(technician, press, SHIMS)
    page = Drawn(
        browse,
        f"/presses/heron/pressure/learn/?correct={session.pk}",
        lambda f: f.select_one("[name=correct]"),
    )
    assert page.data["form-1-turns"] == "1.35"
    changes = {"form-1-turns": "1", "form-2-turns": "2", "why": "counted an eighth too many"}
    answer = page.send(browse, **changes)
    told = room.words(browse.get(answer.url))
    assert "a turn lifts 2.00 mm, before 1.50 mm" in told
    assert "counted an eighth too many" in told
    session.refresh_from_db()
    assert session.lift_mm_per_turn == pytest.approx(2.0)
    assert KnobLesson.objects.count() == 1
    assert AuditEntry.objects.filter(
        did="corrected", subject__startswith="pressure.knoblesson"
    ).exists()


def test_a_session_needs_a_reason_to_be_withdrawn(browse, technician, element):
    session = fit.learn(technician, element.press, SHIMS)
    answer = browse.post(f"/knob-lessons/{session.pk}/withdraw/", {"why": ""})
    assert "Give a reason" in room.words(browse.get(answer.url))
    assert KnobLesson.objects.exists()
    browse.post(f"/knob-lessons/{session.pk}/withdraw/", {"why": "not this press"})
    assert not KnobLesson.objects.exists()
    assert not PressureState.objects.filter(taken_back_at=None).exists()


def test_a_second_correction_of_a_session_undoes_nothing(browse, technician, element):
    session = fit.learn(technician, element.press, SHIMS)
    page = f"/presses/heron/pressure/learn/?correct={session.pk}"
    first, second = (Drawn(browse, page, lambda f: f.select_one("[name=correct]")) for _ in "ab")
    changes = {"form-1-turns": "1", "form-2-turns": "2", "why": "an eighth too many"}
    assert first.send(browse, **changes).status_code == 302
    answer = second.send(browse, why="a shim misread")
    assert answer.status_code == 422
    assert "corrected this session after you opened it" in room.words(answer)
    session.refresh_from_db()
    assert session.lift_mm_per_turn == pytest.approx(2.0)


def test_a_reading_typed_in_one_unit_is_shown_in_the_readers_own(browse, technician, element):
    """Saved as it stands, by somebody who reads °F, it is the same temperature."""
    made = room.survey(technician, element, truth=lambda x, y: 190.0)
    reading = Reading.objects.filter(station__survey=made).first()
    people.choose(technician, IMPERIAL)
    page = Drawn(browse, f"/readings/{reading.pk}/correct/", typed_form)
    assert page.data["typed"] == "374"
    page.send(browse, why="looked once more")
    live = Reading.objects.get(station=reading.station, taken_back_at=None)
    assert live.shown_c == pytest.approx(190.0)
