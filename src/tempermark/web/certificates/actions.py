"""Calibration certificates: built from a survey, signed by a lead, never changed."""

import hashlib
import json
from dataclasses import asdict
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.metrology.map.outlook import keeps
from tempermark.core.metrology.map.verdict import DRAWS, FAIL_UP_TO, PASS_FROM
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.certificates.content import SHOWN_IN
from tempermark.web.certificates.models import Certificate
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.units import METRIC, Units
from tempermark.web.measure.exchange import export
from tempermark.web.measure.known.remembered import before_survey
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import queries
from tempermark.web.measure.surveys.cautions import cautions
from tempermark.web.measure.surveys.charts import PlatenChart, platen_chart
from tempermark.web.measure.surveys.grids import KNOWN
from tempermark.web.measure.surveys.mapping import Measured
from tempermark.web.measure.surveys.words import verdict
from tempermark.web.pressure import queries as pressure_queries
from tempermark.web.pressure.models import PressureSurvey

# What a few readings cannot see, said where somebody relies on them.
ASSUMPTION = (
    "The element keeps its shape between surveys but for a level that drifts, a dead band, a cold "
    "corner, a tilt or a new level, all of which were looked for. A new spot narrower than a band "
    "between the places read would not have been seen."
)
PRESSURE_ASSUMPTION = (
    "Pad and platen press as they did but for a side, a corner or a hollow, all of which were "
    "looked for. A place without a strip counts as the earlier maps expect it. A change of less "
    "than a strip’s step would not have been seen."
)
DECISION_RULE = (
    f"Pass when the probability that the whole element lies within tolerance as set is at least "
    f"{PASS_FROM:.2f}, fail up to {FAIL_UP_TO:.2f}, else undecided (guard-banded decision, "
    f"ILAC-G8). The probability is taken over {DRAWS} joint draws of the map, with the errors "
    "shared by all readings moving each draw as a whole."
)


@transaction.atomic
def sign(user: User, survey: Survey) -> Certificate:
    """Sign a finished survey. The same content again is the same certificate."""
    must_lead(user)
    survey = queries.with_names(Survey.objects.select_for_update(of=("self",))).get(pk=survey.pk)
    if not survey.finished_at:
        raise InputError.single(None, "This survey is not finished: finish it, then sign.")
    content = build(compute_survey(survey))
    digest = hash_of(content)
    known = Certificate.objects.filter(survey=survey).order_by("-version")
    same = known.filter(sha256=digest).first()
    if same is not None:
        return same
    last = known.first()
    row = Certificate.objects.create(
        survey=survey,
        number=last.number if last else _next_number(),
        version=last.version + 1 if last else 1,
        content=content,
        sha256=digest,
        signed_at=timezone.now(),
        signed_by=user,
    )
    record(user, "signed certificate", row, number=row.title, sha256=digest)
    return row


def _next_number() -> int:
    """One more than the highest; two signing at once meet at the unique constraint."""
    return (Certificate.objects.aggregate(Max("number"))["number__max"] or 0) + 1


def canonical(content: dict[str, Any]) -> bytes:
    """The content as canonical JSON: keys in order, no spaces, UTF-8."""
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return text.encode()


def hash_of(content: dict[str, Any]) -> str:
    """SHA-256 of the canonical content, as `sha256sum` of the JSON file gives it."""
    return hashlib.sha256(canonical(content)).hexdigest()


def is_whole(certificate: Certificate) -> bool:
    """Whether the kept content is still what was signed."""
    return hash_of(certificate.content) == certificate.sha256


def build(computed: Measured) -> dict[str, Any]:
    """Everything the certificate says, in °C and K, as JSON values."""
    survey, result = computed.survey, computed.result
    if result is None or result.map is None:
        raise InputError.single(None, "A certificate needs a map: four stations, not on one line.")
    line = queries.calibration(survey.element, survey)
    gain = line.gain if line else 1.0
    content = {
        "survey": json.loads(export.to_json(computed)),
        "element": str(survey.element),
        "verdict": result.verdict,
        "probability_within": result.map.probability_within,
        "decision_rule": DECISION_RULE,
        "mean_c": result.mean_c,
        "mean_uncertainty_c": computed.mean_uncertainty_c,
        "offset_c": result.offset_c,
        "spread_c": result.spread_c,
        "corrected_set_c": verdict(computed, gain, METRIC).set_c,
        "common_standard_uncertainty_c": computed.common_standard_uncertainty_c,
        "noise_c": result.map.field.noise_c,
        "shown": {key: _shown(computed, gain, units) for key, units in SHOWN_IN.items()},
        "pressure": _pressure(survey),
        "memory": _memory(computed),
        "keeps_c": keeps(result.map.extremes),
    }
    # As it will come back from the database, so that the hash holds.
    return json.loads(json.dumps(content))


def _shown(computed: Measured, gain: float, units: Units) -> dict[str, Any]:
    """Sentences and chart as somebody with these units reads them; signed with the rest."""
    said = verdict(computed, gain, units)
    return {
        "sentence": f"{said.headline} {said.rest}".strip(),
        "how_sure": said.how_sure,
        "cautions": cautions(computed, units),
        "caption": said.caption,
        "chart": _drawing(platen_chart(computed, said.rectangle, units, shift_c=said.shift_c)),
    }


def _memory(computed: Measured) -> dict[str, Any] | None:
    """What a survey of a known element rests on beside its readings; None where on nothing."""
    found = computed.recalled
    if found is None:
        return None
    return {
        "unchanged": round(found.unchanged, 4),
        "surveys": [
            {"number": one.pk, "taken_at": one.taken_at.isoformat()}
            for one in before_survey(computed.survey)
        ],
        "assumption": ASSUMPTION,
    }


def _pressure(survey: Survey) -> dict[str, Any] | None:
    """The pressure map that held for the element on the day of the survey, in mm and kPa; one made
    later says nothing of that day.
    """
    pressed = pressure_queries.latest(survey.element, _end_of_day(survey.taken_at))
    if pressed is None:
        return None
    return {
        "taken_at": pressed.taken_at.isoformat(),
        "taken_by": pressed.taken_by.username,
        "by": pressed.get_kind_display(),
        "stack_mm": pressed.stack_mm,
        "mean_kpa": pressed.mean_kpa,
        "right_mm": pressed.right_mm,
        "right_sd_mm": pressed.right_sd_mm,
        "back_mm": pressed.back_mm,
        "back_sd_mm": pressed.back_sd_mm,
        "hollow_mm": pressed.hollow_mm,
        "verdict": pressed.verdict,
        "words": pressed.weak_words or ("level" if pressed.verdict == "pass" else "undecided"),
        "memory": _pressure_memory(pressed),
    }


def _pressure_memory(pressed: PressureSurvey) -> dict[str, Any] | None:
    """What a map by a few strips rests on beside them; None for a map of the whole platen."""
    found = pressed.memory or {}
    if pressed.grid != KNOWN or not found.get("rests_on"):
        return None
    numbers = [one["survey"] for one in found["rests_on"]]
    earlier = PressureSurvey.objects.filter(pk__in=numbers).order_by("-taken_at")
    read = [s for s in pressure_queries.stations(pressed) if s.held is not None]
    return {
        "unchanged": found["unchanged"],
        "strips": [{"station": s.label, "pull": s.held.pull} for s in read],
        "maps": [{"number": one.pk, "taken_at": one.taken_at.isoformat()} for one in earlier],
        "assumption": PRESSURE_ASSUMPTION,
    }


def _end_of_day(moment: datetime) -> datetime:
    """The last moment of a day in the room."""
    return timezone.localtime(moment).replace(hour=23, minute=59, second=59, microsecond=999_999)


def _drawing(chart: PlatenChart) -> dict[str, Any]:
    return {
        "width": chart.width,
        "height": chart.height,
        "frame": chart.frame,
        "lines": [asdict(x) for x in chart.lines],
        "hatched": [asdict(x) for x in chart.hatched],
        "labels": [asdict(x) for x in chart.labels],
        "rulers": [asdict(x) for x in chart.rulers],
        "ticks": chart.ticks,
        "corners": chart.corners,
        "stations": [asdict(x) for x in chart.stations],
        "summary": chart.summary,
    }
