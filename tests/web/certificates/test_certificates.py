"""Certificates: signed by a lead, frozen, numbered, and only then trusted."""

import hashlib
import json
from uuid import uuid4

import pytest
from django.db import IntegrityError, transaction

from tempermark.web.certificates import actions as certificates
from tempermark.web.certificates.models import Certificate
from tempermark.web.certificates.pdf import as_pdf
from tempermark.web.kit.drawing.pdf import plain
from tempermark.web.kit.units import METRIC
from tempermark.web.measure.surveys import actions
from tempermark.web.pressure.maps import actions as map_actions
from tempermark.web.pressure.models import PressureSurvey, Pull
from tests.support import room
from tests.web.pressure.test_known_press import begun, even, pulled, strips


@pytest.fixture
def survey(technician, element):
    return room.survey(technician, element)


@pytest.fixture
def signed(lead, survey):
    return certificates.sign(lead, survey)


def test_only_a_lead_signs(browse, survey):
    assert browse.post(f"/surveys/{survey.pk}/sign/").status_code == 403
    assert not Certificate.objects.exists()


def test_signed_twice_unchanged_is_one_certificate(client, lead, survey):
    client.force_login(lead)
    first = client.post(f"/surveys/{survey.pk}/sign/")
    assert client.post(f"/surveys/{survey.pk}/sign/").url == first.url == "/certificates/1/1/"
    assert Certificate.objects.count() == 1


def test_it_holds_map_readings_instrument_uncertainty_rule_and_hash(browse, signed):
    page = browse.get(signed.get_absolute_url())
    text = room.words(page)
    assert "Calibration certificate 0001, Heron, upper platen" in text
    assert "Set Heron to 201 °C." in text
    assert "guard-banded decision" in text
    assert "shared by all readings 0.25 K" in text
    assert signed.sha256 in text
    assert text.count(" mm ") >= 25
    assert room.soup(page).select("svg path.below")


def test_a_change_makes_a_new_version_and_the_old_one_stays(browse, lead, technician, signed):
    survey = signed.survey
    before = room.words(browse.get(signed.get_absolute_url()))
    actions.reopen(technician, survey)
    with pytest.raises(certificates.InputError, match="not finished"):
        certificates.sign(lead, survey)
    station = survey.stations.first()
    actions.enter_reading(technician, station, "150", uuid4())
    actions.finish(technician, survey)
    second = certificates.sign(lead, survey)
    assert (second.number, second.version) == (signed.number, 2)
    assert second.sha256 != signed.sha256
    after = room.words(browse.get(signed.get_absolute_url()))
    assert after == before.replace("The survey", "The survey Version 2")


def test_numbers_go_on(lead, technician, element, signed):
    another = certificates.sign(lead, room.survey(technician, element, days_ago=1))
    assert (another.number, another.version) == (2, 1)
    with pytest.raises(IntegrityError), transaction.atomic():
        Certificate.objects.filter(pk=another.pk).update(number=1)


def test_tampered_content_is_seen(browse, signed):
    assert certificates.is_whole(signed)
    signed.content["mean_c"] += 1
    Certificate.objects.filter(pk=signed.pk).update(content=signed.content)
    assert "Do not use this certificate" in room.words(browse.get(signed.get_absolute_url()))


def test_pdf_is_one_that_readers_open_and_the_same_each_time(browse, signed):
    path = signed.get_absolute_url() + "certificate.pdf"
    first = browse.get(path)
    assert first["Content-Type"] == "application/pdf"
    assert first.content.startswith(b"%PDF-")
    assert first.content.rstrip().endswith(b"%%EOF")
    assert browse.get(path).content == first.content


def test_a_spot_check_is_no_calibration(lead, technician, element):
    spot = room.survey(technician, element, grid="spot")
    with pytest.raises(certificates.InputError, match="needs a map"):
        certificates.sign(lead, spot)


def test_sha256sum_of_the_json_file_is_the_printed_hash(browse, signed):
    body = browse.get(signed.get_absolute_url() + "certificate.json").content
    assert hashlib.sha256(body).hexdigest() == signed.sha256
    assert json.loads(body)["survey"]["format"] == "tempermark.survey/1"


def test_the_pdf_keeps_letters_beyond_latin_1(signed):
    assert plain("−2 K, Łucja Šťastná ±") == "−2 K, Łucja Šťastná ±"
    assert plain("≥ 3σ; 熱") == ">= 3sigma; ?"
    assert b"AtkinsonHyperlegibleNext" in as_pdf(signed, METRIC)


def test_it_says_what_a_pressure_map_by_few_strips_rests_on(browse, lead, technician, element):
    """Which strips, which earlier maps, which assumption; the press as its platen’s last map."""
    for days in (40, 20):
        strips(technician, element, even, days)
    whole = certificates.sign(lead, room.survey(technician, element, days_ago=15))
    assert "Pressure" in facts(browse, whole)
    assert "Pressure strips" not in facts(browse, whole)
    short = begun(technician, element, 2)
    pulled(technician, short, even)
    map_actions.finish(technician, short)
    said = facts(browse, certificates.sign(lead, room.survey(technician, element, days_ago=1)))
    count = Pull.objects.filter(station__survey=short).count()
    assert said["Pressure strips"].count("holds") == count < 9
    earlier = PressureSurvey.objects.exclude(pk=short.pk).order_by("-taken_at")
    days = ", ".join(f"{one.taken_at:%Y-%m-%d}" for one in earlier)
    assert said["Pressure rests also on"].startswith(f"the pressure maps of {days}; as then, ")
    assert "less than a strip’s step" in said["Assumption on pressure"]


def facts(browse, signed):
    """The rows of a certificate's page."""
    page = room.soup(browse.get(signed.get_absolute_url()))
    return {r.select_one("th").text: r.select_one("td").text for r in page.select("tr:has(th)")}
