"""Strips that come in as a file: a JSON pull survey, or CSV with x_mm, y_mm and pull."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

import numpy as np
from django.db import transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.core.pressure.map.pulls import PULL_STEPS
from tempermark.files import survey as survey_format
from tempermark.files.document import Fields, parse_json, read_format
from tempermark.files.survey_csv import decode
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.forms.moments import read_moment
from tempermark.web.kit.forms.tables import read_rows
from tempermark.web.measure.surveys.grids import GridPlace
from tempermark.web.presses.models import Element
from tempermark.web.pressure.maps import actions
from tempermark.web.pressure.models import PressureSurvey

LARGEST_BYTES = 1024 * 1024
MOST_STATIONS = 400
COLUMNS = ("station", "x_mm", "y_mm", "pull")


@dataclass(frozen=True)
class ImportedPulls:
    """Places (n, 2) in mm, how each strip pulled, labels, and the file's own header."""

    place_mm: np.ndarray
    pulls: list[str]
    labels: list[str]
    stack_mm: float | None = None
    taken_at: datetime | None = None


def read_pulls(raw: bytes, element: Element) -> ImportedPulls:
    """The strips of a file for an element; InputError lists everything wrong with it."""
    if len(raw) > LARGEST_BYTES:
        raise InputError.single("file", f"{len(raw) / 1e6:.0f} MB: at most 1 MB.")
    if not raw.strip():
        raise InputError.single("file", "The file is empty: x_mm,y_mm,pull is needed.")
    text = decode(raw)
    is_json = text.lstrip()[:1] == "{"
    data = parse_json(text) if is_json else _document(raw, element)
    fields = read_format(data, survey_format.FORMAT)
    if fields.choice("quantity", ("temperature", "pull"), default="temperature") != "pull":
        raise InputError.single("quantity", "This file holds no strips: “pull” is needed.")
    width, height, place_mm, steps = survey_format.pull_from_fields(fields)
    if (width, height) != (element.width_mm, element.height_mm):
        raise InputError.single(
            "platen",
            f"The file's platen is {width:g} × {height:g} mm, this one "
            f"{element.width_mm:g} × {element.height_mm:g} mm.",
        )
    if len(steps) > MOST_STATIONS:
        raise InputError.single("readings", f"{len(steps)} strips: at most {MOST_STATIONS}.")
    if len(np.unique(place_mm, axis=0)) < len(place_mm):
        raise InputError.single("readings", "Two strips are at the same place: keep one of them.")
    names = list(PULL_STEPS)
    return ImportedPulls(
        place_mm, [names[step] for step in steps], _labels(fields), **_header(fields)
    )


def _document(raw: bytes, element: Element) -> dict[str, Any]:
    """CSV rows as the document they stand for."""
    rows = read_rows(raw, survey_format.FORMAT, "readings", COLUMNS)
    return {
        "format": survey_format.FORMAT,
        "quantity": "pull",
        "platen": {"width_mm": element.width_mm, "height_mm": element.height_mm},
        "readings": [
            {k: _figure(v) if k in ("x_mm", "y_mm") else v for k, v in row.cells.items() if v}
            for row in rows
        ],
    }


def _figure(text: str) -> float | str:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return text


def _labels(fields: Fields) -> list[str]:
    rows = fields.data["readings"]
    return [str(row.get("station") or f"P{i}")[:8] for i, row in enumerate(rows, 1)]


def _header(fields: Fields) -> dict[str, Any]:
    head = fields.object("survey", default=None)
    if head is None:
        return {}
    stack = head.number("stack_mm", 0, 200, default=None, unit=" mm")
    text = head.text("taken_at", default=None, limit=40)
    head.done()
    return {"stack_mm": stack, "taken_at": read_moment(text, "survey.taken_at")}


@transaction.atomic
def import_pulls(
    user: User, element: Element, given: ImportedPulls, key: UUID, stack_mm: float
) -> PressureSurvey:
    """A finished survey of the strips; the one it became before when it comes again."""
    must_work(user)
    taken = given.taken_at or timezone.now()
    known = PressureSurvey.objects.filter(element=element, kind="strips", taken_at=taken)
    if given.taken_at is not None and known.exists():
        return known.first()
    places = [
        GridPlace(label, float(x), float(y))
        for label, (x, y) in zip(given.labels, given.place_mm, strict=True)
    ]
    stack = given.stack_mm if given.stack_mm is not None else stack_mm
    fields = {"stack_mm": stack, "taken_at": taken, "note": "from a file"}
    survey = actions.start_pulls(user, element, "own", places, fields)
    for station, pull in zip(survey.stations.all(), given.pulls, strict=True):
        actions.enter_pull(user, station, pull, uuid5(NAMESPACE_URL, f"{key}:{station.pk}"))
    return actions.finish(user, survey)
