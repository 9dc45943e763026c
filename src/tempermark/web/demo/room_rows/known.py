"""Presses of the demo that were surveyed again by a few readings: they are known."""

from datetime import datetime, timedelta
from uuid import NAMESPACE_URL, uuid5

import numpy as np

from tempermark.core.metrology.reading.radiometry import true_surface_temperature
from tempermark.web.accounts.models import User
from tempermark.web.demo.room_rows.room import PRESSES, DemoPress
from tempermark.web.measure.models import Reading, Survey
from tempermark.web.measure.surveys.actions import extend, refresh_summary
from tempermark.web.measure.surveys.grids import KNOWN
from tempermark.web.presses.models import Element

# Press → days ago.
SURVEYED_AGAIN = {"grebe": 1, "dipper": 2}
NOISE_C, SEED = 0.4, 4242
# As the other surveys of the room were read.
LIKE = (
    "set_c",
    "target_c",
    "tolerance_c",
    "ambient_c",
    "surface_emissivity",
    "emissivity_setting",
    "surface_emissivity_uncertainty",
    "instrument_uncertainty_c",
    "repeatability_c",
)


def survey_again(person: User, noon: datetime) -> None:
    """One short survey of each."""
    rng = np.random.default_rng(SEED)
    for demo in PRESSES:
        days = SURVEYED_AGAIN.get(demo.record["slug"])
        if days is not None:
            element = Element.objects.get(press__slug=demo.record["slug"])
            _survey(demo, element, person, noon - timedelta(days=days), days, rng)


def _survey(
    demo: DemoPress,
    element: Element,
    person: User,
    taken: datetime,
    age: int,
    rng: np.random.Generator,
) -> None:
    before = element.surveys.exclude(finished_at=None).filter(set_c=demo.record["target_c"])
    last = before.order_by("-taken_at")[0]
    survey = Survey.objects.create(
        element=element,
        taken_at=taken,
        taken_by=person,
        grid=KNOWN,
        **{name: getattr(last, name) for name in LIKE},
    )
    while left := extend(survey).left:
        station = left[0].station
        share = (
            np.array([station.x_mm / element.width_mm]),
            np.array([station.y_mm / element.height_mm]),
        )
        true = survey.target_c + demo.shape(*share, age) if demo.shape else share[0]
        seen = true + NOISE_C * rng.standard_normal(1)
        shown = true_surface_temperature(
            seen, survey.surface_emissivity, survey.emissivity_setting, survey.ambient_c
        )
        Reading.objects.create(
            station=station,
            entry_key=uuid5(NAMESPACE_URL, f"demo:{survey.pk}:{station.label}"),
            typed=f"{shown[0]:.1f}",
            shown_c=round(float(shown[0]), 1),
            read_at=taken,
            read_by=person,
        )
    survey.finished_at = taken
    survey.save()
    refresh_summary(survey)
