"""Mapping pressure: strips kept and taken back, prints read or refused, and what follows."""

import io
import json
from datetime import timedelta
from uuid import uuid4

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from tempermark.files import survey as survey_files
from tempermark.stand_ins.carbon_print import PressedPad, scanned_print
from tempermark.web.certificates import actions as certificates
from tempermark.web.certificates.pdf import as_pdf
from tempermark.web.kit.units import METRIC
from tempermark.web.measure.surveys.grids import grid_places
from tempermark.web.pressure import mapping
from tempermark.web.pressure.maps import actions
from tempermark.web.pressure.models import PressureState, PressureSurvey, Pull
from tempermark.web.trace.board import actions as traces
from tempermark.web.trace.board.mapping import build_case
from tests.support import room

PAGE = "/presses/heron/pressure/"
LEFT_WEAK = {"A": "drags", "B": "holds", "C": "tears"}


@pytest.fixture
def opened(browse, element):
    browse.post(f"{PAGE}strips/", {"grid": "3x3", "stack_mm": "1.1"})
    return PressureSurvey.objects.get()


def enter(browse, survey, typed, **changes):
    form = room.soup(browse.get(f"/pressure-maps/{survey.pk}/")).select_one("form#entry")
    data = {f["name"]: f.get("value", "") for f in form.select("input")} | {"typed": typed}
    return browse.post(f"/pressure-maps/{survey.pk}/strips/", data | changes)


def strips(who, element, pull_of, grid="3x3", when=None):
    """A finished map by strips; `pull_of(label)` tells each."""
    places = grid_places(grid, element.width_mm, element.height_mm)
    fields = {"stack_mm": 1.1, "taken_at": when or timezone.now(), "note": ""}
    survey = actions.start_pulls(who, element, grid, places, fields)
    for station in survey.stations.all():
        actions.enter_pull(who, station, pull_of(station.label), uuid4())
    return actions.finish(who, survey)


def left_weak(label):
    return LEFT_WEAK[label[0]]


@pytest.mark.parametrize(
    ("typed", "pull"), [("0", "free"), ("D", "drags"), ("holds", "holds"), (" 3 ", "tears")]
)
def test_a_strip_is_typed_in_one_key(browse, opened, typed, pull):
    enter(browse, opened, typed)
    assert Pull.objects.get().pull == pull
    text = room.words(browse.get(f"/pressure-maps/{opened.pk}/"))
    assert "1 of 9 pulled" in text


def test_a_button_is_a_strip_too(browse, opened):
    enter(browse, opened, "", pull="tears")
    assert Pull.objects.get().pull == "tears"


def test_what_tells_no_strip_is_said_and_kept(browse, opened):
    response = enter(browse, opened, "hard")
    assert response.status_code == 422
    assert "“hard” describes no strip: 0 or f slides free" in room.words(response)
    assert "Nothing was typed: 0 or f slides free" in room.words(enter(browse, opened, " "))
    assert room.soup(response).select_one("#typed")["value"] == "hard"
    assert not Pull.objects.exists()


def test_few_strips_do_not_claim_a_level(browse, opened):
    for _ in range(4):
        enter(browse, opened, "2")
    text = room.words(browse.get(f"/pressure-maps/{opened.pk}/"))
    assert "Heron presses evenly, as far as these strips show." in text


def test_a_strip_taken_back_is_pulled_again(browse, opened):
    enter(browse, opened, "2")
    pull = Pull.objects.get()
    browse.post(f"/pressure-maps/{opened.pk}/take-back/", {"taken": pull.pk})
    assert "0 of 9 pulled" in room.words(browse.get(f"/pressure-maps/{opened.pk}/"))
    assert browse.post(f"/pressure-maps/{opened.pk}/take-back/", {"taken": 999}).status_code == 404


def test_a_map_says_its_weak_side_and_what_to_shim(browse, technician, element):
    survey = strips(technician, element, left_weak)
    text = room.words(browse.get(survey.get_absolute_url()))
    assert "Heron has less pressure on the left." in text
    assert "Shim under the pad at the left by" in text
    assert "Lines of contact pressure in kPa. Dotted where less than light" in text
    assert "maker’s manual" in text
    survey.refresh_from_db()
    assert survey.verdict == "fail"
    assert survey.right_mm > 2 * survey.right_sd_mm


def test_an_even_map_passes_and_a_hollow_one_does_not(browse, technician, element):
    even = strips(technician, element, lambda label: "holds")
    said = room.words(browse.get(even.get_absolute_url()))
    assert "Heron presses evenly." in said
    # What the picture does not show is not explained.
    assert "no line of equal pressure crosses the platen" in said
    assert "Lines of contact" not in said
    assert "Dotted" not in said
    hollow = strips(technician, element, lambda label: "drags" if label == "B2" else "holds")
    text = room.words(browse.get(hollow.get_absolute_url()))
    assert "Heron has a hollow in its pad." in text
    free = strips(technician, element, lambda label: "free" if label == "C1" else "tears", "4x4")
    assert "does not press everywhere" in room.words(browse.get(free.get_absolute_url()))
    # Beyond the classes none is said to be sure.
    none = strips(technician, element, lambda _: "free", "3x3")
    said = room.words(browse.get(none.get_absolute_url()))
    assert ": less than resting." in said
    assert "less than resting, " not in said


def test_a_finished_map_takes_no_strip_until_it_is_opened(browse, technician, element):
    survey = strips(technician, element, left_weak)
    station = survey.stations.first()
    data = {"station": station.pk, "typed": "3"}
    response = browse.post(f"/pressure-maps/{survey.pk}/strips/", data)
    assert response.status_code == 422
    browse.post(f"/pressure-maps/{survey.pk}/reopen/")
    assert browse.post(f"/pressure-maps/{survey.pk}/strips/", data).status_code == 302


def test_an_export_is_what_the_command_takes(browse, technician, element):
    survey = strips(technician, element, left_weak)
    document = json.loads(browse.get(f"/pressure-maps/{survey.pk}/map.json").content)
    answer = survey_files.answer(document)
    assert answer["weak_side"] == "left"
    assert answer["verdict"] == "fail"
    rows = browse.get(f"/pressure-maps/{survey.pk}/map.csv").content.decode().splitlines()
    assert rows[0] == "x_mm,y_mm,pull"
    assert len(rows) == 10


def png(pad=None, size=(400.0, 500.0), **scan):
    picture = scanned_print(pad or PressedPad(1.5, 0.8), size, np.random.default_rng(2), **scan)
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    return out.getvalue()


def send(browse, raw, **fields):
    data = {"bar_mm": "100", "stack_mm": "1", "known_mean_kpa": "", "note": ""} | fields
    return browse.post(f"{PAGE}print/", data | {"file": SimpleUploadedFile("scan.png", raw)})


def test_a_scan_becomes_a_map(browse, element):
    assert send(browse, png(turned_deg=1.2)).status_code == 302
    survey = PressureSurvey.objects.get()
    assert survey.right_mm == pytest.approx(0.8, rel=0.1)
    assert survey.print.turned_deg == pytest.approx(1.2, abs=0.05)
    text = room.words(browse.get(survey.get_absolute_url()))
    assert "Heron has less pressure on the left." in text
    kept = browse.get(f"/pressure-maps/{survey.pk}/print.jpg")
    assert Image.open(io.BytesIO(kept.content)).format == "JPEG"
    cells = json.loads(browse.get(f"/pressure-maps/{survey.pk}/map.json").content)
    assert len(cells["contact_kpa"]) == 30


def test_a_known_mean_sets_the_level_and_leaves_the_tilt_nearly(browse, element):
    send(browse, png(), known_mean_kpa="60")
    survey = PressureSurvey.objects.get()
    assert survey.mean_kpa == pytest.approx(60, rel=0.02)


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"", "This is not a picture"),
        (b"%PDF-1.4 not a picture", "This is not a picture"),
        (png()[:4000], "damaged"),
        (b"0" * (12 * 1024 * 1024 + 1), "at most 12 MB"),
        (png(size=(150.0, 150.0)), "scan all of the print"),
    ],
)
def test_pictures_that_are_none_are_refused_with_the_reason(browse, element, raw, said):
    response = send(browse, raw)
    assert response.status_code == 422
    assert said in room.words(response)
    assert room.soup(response).select_one("[name=bar_mm]")["value"] == "100"
    assert not PressureSurvey.objects.exists()


def test_both_maps_mark_where_both_hold(browse, technician, element):
    page = room.words(browse.get(f"{PAGE}combined-map/"))
    assert "neither a temperature nor a pressure map yet" in page
    room.survey(technician, element)
    strips(technician, element, left_weak)
    page = browse.get(f"{PAGE}combined-map/")
    text = room.words(page)
    assert "Keep prints inside the marked" in text
    drawing = room.soup(page).select_one("svg.chart")
    assert drawing.select("path.pressure")
    assert drawing.select("path.target")
    assert drawing.select("path.corner")


def test_a_weak_side_is_an_alert_on_the_floor_until_it_is_mended(browse, technician, element):
    strips(technician, element, left_weak, when=timezone.now() - timedelta(days=2))
    assert "Heron has less pressure on the left." in room.words(browse.get("/"))
    strips(technician, element, lambda label: "holds")
    assert "presses weaker" not in room.words(browse.get("/"))
    page = room.words(browse.get("/presses/heron/"))
    assert "Level of the pressure" in page


def test_a_changed_pad_makes_the_map_history(browse, technician, element):
    strips(technician, element, left_weak)
    browse.post("/presses/heron/events/", {"kind": "pad", "note": ""})
    assert "presses weaker" not in room.words(browse.get("/"))


def test_the_certificate_holds_the_pressure_map(lead, element):
    survey = room.survey(lead, element)
    without = certificates.sign(lead, survey)
    assert without.content["pressure"] is None
    strips(lead, element, left_weak)
    made = certificates.sign(lead, survey)
    assert made.version == 2
    assert made.content["pressure"]["words"] == "has less pressure on the left"
    assert as_pdf(made, METRIC).startswith(b"%PDF")


def case_of(who, element, **fields):
    piece = room.piece(who, element, **{"art_x_mm": 10, "art_width_mm": 80, **fields})
    room.mark(who, piece)
    return traces.open_case(who, piece)


def test_a_diagnosis_knows_the_contact_at_the_prints_place(technician, element):
    strips(technician, element, left_weak, when=timezone.now() - timedelta(days=1))
    case = build_case(case_of(technician, element, pressure="firm")).case
    assert case.actual.pressure == "light"
    assert "one_side_weaker_pull" in case.facts


def test_once_set_anew_only_the_level_counts(technician, element):
    strips(technician, element, left_weak, when=timezone.now() - timedelta(days=2))
    blank = room.blank(name="Thick", thickness_mm=3.0)
    PressureState.objects.create(
        press=element.press,
        entry_key=uuid4(),
        by=technician,
        blank=blank,
        stack_mm=3.3,
        wanted="medium",
        at=timezone.now() - timedelta(days=1),
    )
    thin = room.blank(name="Thin", thickness_mm=0.5)
    record = case_of(technician, element, pressure="firm", blank=thin)
    case = build_case(record).case
    assert case.actual.pressure == "firm"
    assert {"one_side_weaker_pull", "thickness_changed_since_set"} <= case.facts
    assert case.press.thickness_when_set_mm == 3.0


def test_a_persons_word_leads_over_the_map(technician, element):
    strips(technician, element, left_weak, when=timezone.now() - timedelta(days=1))
    record = case_of(technician, element)
    record.not_facts = ["one_side_weaker_pull"]
    case = build_case(record).case
    assert "one_side_weaker_pull" not in case.facts


def test_strips_and_prints_agree_on_a_tilt(technician, element):
    deep = {"A": 0.6, "B": 1.25, "C": 1.9}
    names = np.array(["free", "drags", "holds", "tears"])

    def pull(label):
        kpa = 144 * deep[label[0]] / 8 / (1 - deep[label[0]] / 8)
        return str(names[np.searchsorted([2.0, 15.0, 70.0], kpa, side="right")])

    told = mapping.compute(strips(technician, element, pull))
    scan = actions.keep_print(
        technician, element, png(PressedPad(1.25, 1.48)), 100.0, None, {"stack_mm": 1.0, "note": ""}
    )
    read = mapping.compute(scan)
    assert abs(told.right_mm - read.right_mm) < 2 * told.right_sd_mm
    assert told.weak_side == read.weak_side == "left"


def test_strips_on_a_hand_plate_know_more_than_a_weight(browse, technician, element):
    element.press.mechanism = "hand"
    element.press.save()
    room.blank(thickness_mm=0.5)
    assert "at a guess" in room.words(browse.get(PAGE))
    strips(technician, element, lambda label: "drags")
    assert "light by its strips" in room.words(browse.get(PAGE))
