"""Changes to pressure maps: permission, transaction and record together."""

from typing import Any
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.pressure.map.carbon import FilmCurve, Print, read_print, scaled_to_mean
from tempermark.core.pressure.map.pulls import PULL_STEPS
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.surveys.grids import KNOWN, GridPlace
from tempermark.web.presses.models import Element
from tempermark.web.pressure import mapping
from tempermark.web.pressure.mapping import Mapped
from tempermark.web.pressure.maps import pictures, remembered
from tempermark.web.pressure.models import (
    CarbonPrint,
    PressureSurvey,
    Pull,
    PullStation,
)

# What may be typed for a strip, in any case.
PULL_KEYS = {
    **{str(step): name for name, step in PULL_STEPS.items()},
    **{name[0]: name for name in PULL_STEPS},
    **{name: name for name in PULL_STEPS},
}


@transaction.atomic
def start_pulls(
    user: User, element: Element, grid: str, places: list[GridPlace], fields: dict[str, Any]
) -> PressureSurvey:
    """A new survey by strips with its stations."""
    must_work(user)
    pad = mapping.pad_of(element.press)
    survey = PressureSurvey.objects.create(
        element=element,
        kind="strips",
        grid=grid,
        taken_by=user,
        pad_mm=pad.thickness_mm,
        quarter_kpa=pad.quarter_kpa,
        **fields,
    )
    PullStation.objects.bulk_create(
        PullStation(survey=survey, label=p.label, order=i, x_mm=p.x_mm, y_mm=p.y_mm)
        for i, p in enumerate(places)
    )
    if grid == KNOWN:
        survey.memory = remembered.begin(survey)
        survey.save(update_fields=["memory"])
    record(user, "started pull strips", survey, stations=len(places))
    return survey


@transaction.atomic
def enter_pull(user: User, station: PullStation, typed: str, key: UUID) -> Pull:
    """How a strip behaved at a station: 0–3, a first letter or the word."""
    must_work(user)
    survey = PressureSurvey.objects.select_for_update().get(pk=station.survey_id)
    if survey.finished_at:
        raise InputError.single(None, "This map is finished. Open it again to add strips.")
    pull = PULL_KEYS.get(typed.strip().lower())
    if pull is None:
        shown = typed.strip()[:20]
        wrong = f"“{shown}” describes no strip" if shown else "Nothing was typed"
        keys = "0 or f slides free, 1 or d drags, 2 or h holds, 3 or t tears"
        raise InputError.single(None, f"{wrong}: {keys}.")
    row, _ = Pull.objects.get_or_create(
        entry_key=uuid5(key, f"{station.pk}:{pull}"),
        defaults={"station": station, "pull": pull, "by": user},
    )
    return row


@transaction.atomic
def take_back_pull(user: User, survey: PressureSurvey, pk: int) -> Pull:
    """Take a strip back."""
    must_work(user)
    pull = Pull.objects.get(pk=pk, station__survey=survey, taken_back_at=None)
    pull.taken_back_at = timezone.now()
    pull.save(update_fields=["taken_back_at"])
    record(user, "took back pull", survey, pull=pk)
    return pull


@transaction.atomic
def finish(user: User, survey: PressureSurvey) -> PressureSurvey:
    """Close a survey for entry and keep what lists show."""
    must_work(user)
    computed = mapping.compute(survey)
    if computed is None:
        raise InputError.single(None, "No strip is entered yet: nothing to finish.")
    _summarise(survey, computed)
    survey.memory = remembered.note(survey)
    survey.finished_at = timezone.now()
    survey.save()
    record(user, "finished pressure map", survey, verdict=survey.verdict)
    _refresh_later(survey)
    return survey


def _refresh_later(survey: PressureSurvey) -> None:
    """What rests on a map that has changed is computed again, and says so."""
    for later in remembered.later_on(survey):
        before = remembered.earlier(later.element, later.taken_at)
        if later.memory["rests_on"] == remembered.rests_on(before):
            continue
        later.memory = remembered.note(later) | {"changed_on": timezone.localdate().isoformat()}
        computed = mapping.compute(later)
        if computed is not None:
            _summarise(later, computed)
        later.save()
        record(None, "computed pressure map again", later, because=f"map {survey.pk} changed")


@transaction.atomic
def reopen(user: User, survey: PressureSurvey) -> PressureSurvey:
    """Open a finished survey by strips again."""
    must_work(user)
    survey.finished_at = None
    survey.save(update_fields=["finished_at"])
    record(user, "reopened pressure map", survey)
    return survey


def _summarise(survey: PressureSurvey, computed: Mapped) -> None:
    survey.mean_kpa = computed.contact.value
    survey.right_mm, survey.right_sd_mm = computed.right_mm, computed.right_sd_mm
    survey.back_mm, survey.back_sd_mm = computed.back_mm, computed.back_sd_mm
    survey.hollow_mm = computed.hollow.depth_mm if computed.hollow else 0.0
    survey.middle_mm, survey.middle_sd_mm = computed.middle_mm, computed.middle_sd_mm
    survey.verdict = computed.verdict


@transaction.atomic
def keep_print(
    user: User,
    element: Element,
    raw: bytes,
    bar_mm: float,
    mean_kpa: float | None,
    fields: dict[str, Any],
) -> PressureSurvey:
    """A scanned print becomes a finished survey; InputError when it cannot be read."""
    must_work(user)
    picture = pictures.grey(raw)
    size = (element.width_mm, element.height_mm)
    found = read_print(picture.grey, size, bar_mm)
    curve = film_curve(found, mean_kpa)
    pad = mapping.pad_of(element.press)
    survey = PressureSurvey.objects.create(
        element=element,
        kind="print",
        grid="",
        taken_by=user,
        pad_mm=pad.thickness_mm,
        quarter_kpa=pad.quarter_kpa,
        **fields,
    )
    CarbonPrint.objects.create(
        survey=survey,
        image=picture.small,
        bar_mm=bar_mm,
        darkness=[[round(float(v), 4) for v in row] for row in found.darkness],
        mm_per_pixel=found.mm_per_pixel,
        turned_deg=found.turned_deg,
        unseen=list(found.unseen),
        film_most=curve.most,
        film_scale_kpa=curve.scale_kpa,
        film_share=curve.share,
        known_mean_kpa=mean_kpa,
    )
    return finish(user, survey)


def film_curve(found: Print, mean_kpa: float | None) -> FilmCurve:
    """The shipped film's curve, scaled where the mean pressure is known otherwise."""
    return FilmCurve() if mean_kpa is None else scaled_to_mean(found, FilmCurve(), mean_kpa)
