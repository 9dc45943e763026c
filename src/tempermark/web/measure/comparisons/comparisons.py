"""Comparisons of a gun with a contact probe on a press's pad: kept, found again, withdrawn."""

from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone

from tempermark.core.constants import COVERAGE_FACTOR
from tempermark.core.errors import InputError
from tempermark.core.metrology.reading.comparison import Comparison, LearnedGun, compare
from tempermark.core.metrology.reading.fixed_points import correction_table
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.measure.instruments.instruments import header_of
from tempermark.web.measure.models import Instrument, PadComparison
from tempermark.web.presses.models import EventKind, Press


@transaction.atomic
def keep(
    user: User, press: Press, gun: Instrument, probe: Instrument, given: dict[str, Any]
) -> PadComparison:
    """Learn from pairs and keep it; InputError when they are too few or too strange.

    `given`: set_c, ambient_c, surface_emissivity and its uncertainty, repeatability_c, `pairs` of
    figures as shown in °C, and `anyway` for pairs that disagree by more than is stated.
    """
    must_work(user)
    fields, learned = learn(gun, probe, given)
    if learned.is_strange and not given.get("anyway"):
        raise InputError.single(
            "pairs",
            "Gun and probe are further apart, or scatter more, than both can be off. Let the probe "
            "settle, press it on flat, check its plug; or keep it all the same.",
            "strange",
        )
    kept = PadComparison.objects.create(
        press=press, gun=gun, probe=probe, taken_by=user, taken_at=timezone.now(), **fields
    )
    record(user, "compared gun with probe", kept, press=press.pk)
    return kept


def learn(
    gun: Instrument, probe: Instrument, given: dict[str, Any]
) -> tuple[dict[str, Any], LearnedGun]:
    """Fields of the record, and what was learned."""
    today = timezone.localdate()
    gun_head, probe_head = header_of(gun, today), header_of(probe, today)
    shown = np.array(given["pairs"], float).reshape(-1, 2)
    before = {
        name: given[name]
        for name in (
            "surface_emissivity",
            "surface_emissivity_uncertainty",
            "ambient_c",
            "repeatability_c",
        )
    }
    before |= {
        "emissivity_setting": gun_head.get("emissivity_setting", given["emissivity_setting"]),
        "gun_uncertainty_c": gun_head["instrument_uncertainty_c"],
        "probe_uncertainty_c": probe_head["instrument_uncertainty_c"],
    }
    learned = compare(
        Comparison(
            gun_c=_corrected(gun, shown[:, 0]), probe_c=_corrected(probe, shown[:, 1]), **before
        )
    )
    return before | {
        "set_c": given["set_c"],
        "pairs": shown.tolist(),
        "gun_corrections": gun.corrections,
        "probe_corrections": probe.corrections,
        "correction_c": learned.correction_c,
        "learned_emissivity": learned.surface_emissivity,
        "covariance": learned.covariance.tolist(),
        "before_c": learned.before_c,
        "after_c": learned.after_c,
        "shift_c": learned.shift_c,
    }, learned


def _corrected(instrument: Instrument, shown_c: np.ndarray) -> np.ndarray:
    if not instrument.corrections or not len(shown_c):
        return shown_c
    return np.asarray(
        shown_c + correction_table([tuple(c) for c in instrument.corrections]).at(shown_c)
    )


@transaction.atomic
def withdraw(user: User, comparison: PadComparison) -> None:
    """It counts no more for new surveys; those taken with it keep it."""
    must_work(user)
    if comparison.withdrawn_at is None:
        comparison.withdrawn_at = timezone.now()
        comparison.save(update_fields=["withdrawn_at"])
        record(user, "withdrew comparison", comparison)


def holding(press: Press, gun: Instrument) -> PadComparison | None:
    """The comparison that counts for a gun on a press's pad now."""
    newest = (
        PadComparison.objects.filter(press=press, gun=gun, withdrawn_at=None)
        .select_related("gun", "probe", "press")
        .order_by("-taken_at", "-pk")
        .first()
    )
    return newest if newest and not why_not(newest) else None


def why_not(comparison: PadComparison) -> str:
    """Why a comparison counts no more, or nothing."""
    if comparison.withdrawn_at is not None:
        return "It was withdrawn."
    if comparison.gun.corrections != comparison.gun_corrections:
        return f"{comparison.gun.name} has had new corrections since: compare again."
    changed = comparison.press.events.filter(kind=EventKind.PAD, at__gt=comparison.taken_at)
    if changed.exists():
        return f"The pad of {comparison.press.name} was changed since: compare again."
    return ""


def header(comparison: PadComparison, instrument_header: dict[str, Any]) -> dict[str, Any]:
    """What a comparison brings into a survey's header, beside the instrument's own.

    A gun past its check may have moved since: its own uncertainty is added once more.
    """
    covariance = [list(row) for row in comparison.covariance]
    if instrument_header["instrument_overdue_days"]:
        covariance[0][0] += (comparison.gun.expanded_uncertainty_c / COVERAGE_FACTOR) ** 2
    return {
        "comparison": comparison,
        "correction_c": comparison.correction_c,
        "surface_emissivity": comparison.learned_emissivity,
        "common_covariance": covariance,
    }
