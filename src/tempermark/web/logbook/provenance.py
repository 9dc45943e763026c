"""From a piece back to the instrument, link by link."""

from collections.abc import Iterator
from dataclasses import dataclass

from django.urls import reverse

from tempermark.web.certificates.models import Certificate
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.units import Units
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.press_temperature import press_temperature
from tempermark.web.run.models import TestPress


@dataclass(frozen=True)
class ChainLink:
    """One link of the chain: what it is, what it says, and where its page is."""

    label: str
    text: str
    address: str = ""


def chain(press: TestPress, units: Units) -> list[ChainLink]:
    """Recipe version, calibration line, survey, readings, instrument, its check, certificate."""
    return list(_links(press, units))


def _links(press: TestPress, units: Units) -> Iterator[ChainLink]:
    recipe = press.recipe.recipe
    if press.run is not None:
        began = f"begun {press.run.started_at:%Y-%m-%d %H:%M}"
        yield ChainLink(
            "Run", f"{press.run.job}, {began}", reverse("bench:run", args=[press.run_id])
        )
    yield ChainLink(
        "Recipe", f"{recipe.name}, version {press.recipe.number}", recipe.get_absolute_url()
    )
    known = press_temperature(press.element, press.pressed_at)
    if known is None:
        yield ChainLink("Survey", f"{press.element.press.name} had no survey then.")
        return
    true_c = float(known.line.true_c(press.set_c))
    low, high = (
        temperature_text(
            true_c + sign * 2 * known.line.standard_uncertainty_c(press.set_c), units, 1
        )
        for sign in (-1, 1)
    )
    dial = temperature_text(press.set_c, units)
    line = f"dial {dial} gave {low} to {high} true, by {known.line.count} "
    line += "survey" if known.line.count == 1 else "surveys"
    slug = press.element.press.slug
    yield ChainLink("Calibration", line, reverse("measure:calibration", args=[slug]))
    yield from _survey_links("Survey", known.survey)
    if known.moved is not None:
        yield from _survey_links("Spot check since", known.moved.spot)


def _survey_links(label: str, survey: Survey) -> Iterator[ChainLink]:
    readings = survey.stations.filter(readings__taken_back_at=None).count()
    who = survey.taken_by.get_short_name() or survey.taken_by.username
    yield ChainLink(label, f"{survey.taken_at:%Y-%m-%d %H:%M} by {who}", survey.get_absolute_url())
    yield ChainLink(
        "Readings",
        f"{readings}, {survey.get_method_display()}",
        f"{survey.get_absolute_url()}#stations",
    )
    if survey.instrument is None:
        yield ChainLink("Instrument", "not recorded")
        return
    overdue = survey.instrument_overdue_days
    state = f", {overdue} days past its check then" if overdue else ""
    yield ChainLink(
        "Instrument", f"{survey.instrument.name}{state}", survey.instrument.get_absolute_url()
    )
    check = (
        survey.instrument.checks.filter(withdrawn_at=None, on__lte=survey.taken_at)
        .order_by("-on", "-pk")
        .first()
    )
    if check is not None:
        yield ChainLink("Its check", f"{check.on:%Y-%m-%d}", survey.instrument.get_absolute_url())
    certificate = Certificate.objects.filter(survey=survey).first()
    if certificate is not None:
        yield ChainLink("Certificate", certificate.title, certificate.get_absolute_url())
