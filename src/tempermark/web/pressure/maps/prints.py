"""A scanned print's row as the core reads it."""

import numpy as np

from tempermark.core.pressure.map.carbon import FilmCurve, Print, ScannedPrint, pressed
from tempermark.core.pressure.press.spring import SpringPad
from tempermark.web.pressure.models import PressureSurvey


def pad_then(survey: PressureSurvey) -> SpringPad:
    """The pad that a survey was taken on."""
    return SpringPad(survey.pad_mm, survey.quarter_kpa)


def printed(survey: PressureSurvey) -> tuple[Print, FilmCurve, ScannedPrint]:
    """The print, its film's curve, and what was pressed by both."""
    scan = survey.print
    found = Print(
        survey.element.width_mm,
        survey.element.height_mm,
        np.array(scan.darkness, float),
        scan.mm_per_pixel,
        scan.turned_deg,
        tuple(scan.unseen),
    )
    curve = FilmCurve(scan.film_most, scan.film_scale_kpa, scan.film_share)
    return found, curve, pressed(found, curve, pad_then(survey))
