"""Gun against probe: learned once, taken along by surveys, given up when it no longer holds."""

from uuid import uuid4

import pytest
from django.utils import timezone

from tempermark.web.certificates import actions as certificates
from tempermark.web.measure.exchange import export
from tempermark.web.measure.models import Instrument, PadComparison, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions
from tempermark.web.presses.register import record_event
from tests.support import room
from tests.web.measure.test_exchange import send
from tests.web.measure.test_survey import start

PAIRS = ((178.2, 186.1), (179.0, 186.8), (178.4, 187.0), (177.9, 185.5))


def tools(**gun):
    today = timezone.localdate()
    plain = {"kind": "infrared", "expanded_uncertainty_c": 1.5, "emissivity_setting": 0.95}
    made = Instrument.objects.create(name="Gun 1", checked_on=today, **plain | gun)
    probe = Instrument.objects.create(
        name="Probe 2", kind="contact", expanded_uncertainty_c=0.8, checked_on=today
    )
    return made, probe


def compare(browse, gun, probe, pairs=PAIRS, **changes):
    form = {
        "gun": gun.pk,
        "probe": probe.pk,
        "set_c": "195",
        "ambient_c": "22",
        "emissivity_setting": "0.95",
        "surface_emissivity": "0.92",
        "surface_emissivity_uncertainty": "0.02",
        "repeatability_c": "0.8",
    }
    for number, (shown, touched) in enumerate(pairs, 1):
        form |= {f"gun_{number}": str(shown), f"probe_{number}": str(touched)}
    return browse.post("/presses/heron/comparison/", form | changes)


def test_learned_and_told_with_both_uncertainties(browse, element):
    answer = compare(browse, *tools())
    kept = PadComparison.objects.get()
    assert answer.url == kept.get_absolute_url()
    told = room.words(browse.get(answer.url))
    assert "Readings of Gun 1 on Heron’s pad are now corrected" in told
    assert "upwards" in told
    assert f"from ± {2 * kept.before_c:.1f} K to ± {2 * kept.after_c:.1f} K" in told
    assert kept.after_c < kept.before_c / 2


def test_a_new_survey_takes_it_along_and_its_mean_agrees_with_the_probe(
    browse, element, technician
):
    gun, probe = tools()
    compare(browse, gun, probe)
    page = room.words(browse.get("/presses/heron/surveys/new/"))
    assert "compare it once with a contact probe" in page
    start(browse, method="pad", instrument=gun.pk, grid="3x3")
    survey = Survey.objects.get()
    for station in survey.stations.all():
        actions.enter_reading(technician, station, "178.4", uuid4())
    computed = compute_survey(actions.finish(technician, survey))
    survey.refresh_from_db()
    assert survey.comparison == PadComparison.objects.get()
    assert computed.mean_true_c == pytest.approx(186.4, abs=0.4)
    assert computed.common_standard_uncertainty_c < 1.0
    assert survey.common_uncertainty_c == pytest.approx(computed.common_standard_uncertainty_c)
    told = room.words(browse.get(survey.get_absolute_url()))
    assert "comparison" in told
    assert "compared with Probe 2 on this pad" in room.words(
        browse.get("/presses/heron/surveys/new/")
    )


def test_it_shifts_and_shrinks_what_is_shared_but_not_the_shape(browse, element, technician):
    """The same figures with and without: other level, other common part, one shape."""
    gun, probe = tools()
    for with_it in (False, True):
        if with_it:
            compare(browse, gun, probe)
        start(browse, method="pad", instrument=gun.pk, grid="3x3")
        survey = Survey.objects.latest("pk")
        for i, station in enumerate(survey.stations.all()):
            actions.enter_reading(technician, station, f"{176 + i / 2}", uuid4())
    plain, learned = (compute_survey(s) for s in Survey.objects.order_by("pk"))
    assert learned.mean_true_c - plain.mean_true_c > 2
    assert learned.common_standard_uncertainty_c < plain.common_standard_uncertainty_c / 2
    shapes = [m.result.map.map_c - m.result.mean_c for m in (plain, learned)]
    assert shapes[1] == pytest.approx(shapes[0], abs=0.25)
    assert learned.result.map.deviation_sd_c == pytest.approx(
        plain.result.map.deviation_sd_c, abs=0.15
    )


def test_other_methods_and_other_guns_do_not_take_it(browse, element):
    gun, probe = tools()
    compare(browse, gun, probe)
    start(browse, method="patch", instrument=gun.pk, grid="3x3")
    assert Survey.objects.latest("pk").comparison is None
    other = Instrument.objects.create(name="Gun 9", kind="infrared")
    start(browse, method="pad", instrument=other.pk, grid="3x3")
    assert Survey.objects.latest("pk").comparison is None


@pytest.mark.parametrize("change", ["pad", "corrections", "withdrawn"])
def test_it_holds_until_something_it_rests_on_changes(browse, element, technician, change):
    gun, probe = tools()
    compare(browse, gun, probe)
    kept = PadComparison.objects.get()
    if change == "pad":
        record_event(technician, element.press, "pad", "new sponge")
    elif change == "corrections":
        Instrument.objects.filter(pk=gun.pk).update(corrections=[[100.0, 0.4]])
    else:
        browse.post(f"/comparisons/{kept.pk}/withdraw/")
    told = room.words(browse.get(kept.get_absolute_url()))
    assert "It no longer counts for new surveys" in told
    start(browse, method="pad", instrument=gun.pk, grid="3x3")
    assert Survey.objects.get().comparison is None


def test_an_overdue_gun_keeps_its_own_part_of_the_doubt(browse, element):
    gun, probe = tools()
    compare(browse, gun, probe)
    Instrument.objects.filter(pk=gun.pk).update(checked_on="2020-01-01")
    start(browse, method="pad", instrument=gun.pk, grid="3x3")
    variance = Survey.objects.get().common_covariance[0][0]
    assert variance == pytest.approx(PadComparison.objects.get().covariance[0][0] + 0.75**2)


def test_strange_pairs_are_refused_once_and_kept_when_meant(browse, element):
    gun, probe = tools()
    strange = [(g, p + 15) for g, p in PAIRS]
    answer = compare(browse, gun, probe, strange)
    assert answer.status_code == 422
    assert "further apart, or scatter more" in room.words(answer)
    assert room.soup(answer).select_one("[name=probe_1]")["value"] == "201.1"
    assert not PadComparison.objects.exists()
    assert compare(browse, gun, probe, strange, anyway="on").status_code == 302


def test_few_or_half_pairs_say_what_is_missing(browse, element):
    gun, probe = tools()
    answer = compare(browse, gun, probe, PAIRS[:2])
    assert "at least 3 are needed" in room.words(answer)
    answer = compare(browse, gun, probe, PAIRS, probe_2="")
    assert "The other reading of this pair is missing" in room.words(answer)


def test_the_covariance_travels_with_the_survey_and_into_its_certificate(
    browse, element, technician, lead
):
    gun, probe = tools()
    compare(browse, gun, probe)
    start(browse, method="pad", instrument=gun.pk, grid="3x3")
    survey = Survey.objects.get()
    for station in survey.stations.all():
        actions.enter_reading(technician, station, "178.4", uuid4())
    before = compute_survey(actions.finish(technician, survey))
    signed = certificates.sign(lead, survey)
    assert "compared: Gun 1 against Probe 2 on Heron" in room.words(
        browse.get(signed.get_absolute_url())
    )
    send(browse, export.to_json(before).encode())
    again = compute_survey(Survey.objects.latest("pk"))
    assert again.result.mean_c == before.result.mean_c
    assert again.common_standard_uncertainty_c == before.common_standard_uncertainty_c
    spoiled = export.to_json(before).replace('"common_covariance": [', '"common_covariance": [9,')
    answer = send(browse, spoiled.encode())
    assert answer.status_code == 422


def test_a_clerk_does_not_compare(client, element, clerk):
    client.force_login(clerk)
    assert client.get("/presses/heron/comparison/").status_code == 403
