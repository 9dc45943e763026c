"""Rows into the core's inputs: pads, knobs, scales, stacks and pressure maps."""

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from tempermark.core.metrology.map.usable import Grid
from tempermark.core.pressure.map.carbon import Print, ScannedPrint
from tempermark.core.pressure.map.field import PressureMap, ResolvedPulls, map_strips
from tempermark.core.pressure.map.level import Hollow, Level, fit_level
from tempermark.core.pressure.map.pulls import PULL_STEPS, PullResult, pull_survey
from tempermark.core.pressure.memory.recall import resolved
from tempermark.core.pressure.memory.steps import StandingStrips
from tempermark.core.pressure.pieces.stack import KIND_LIMIT_KPA, RIGID_KINDS, UNKNOWN_MM
from tempermark.core.pressure.press.contact import Range, around, class_of
from tempermark.core.pressure.press.hand import pulled_class
from tempermark.core.pressure.press.knob import Knob
from tempermark.core.pressure.press.scale import READING_SHARE, ScaleCurve, learn_scale
from tempermark.core.pressure.press.spring import SpringPad, learned_pad, usual_pad
from tempermark.core.vocabulary.things import TWO_LAYERED
from tempermark.web.presses.models import Press
from tempermark.web.pressure import queries
from tempermark.web.pressure.maps import remembered
from tempermark.web.pressure.maps.prints import pad_then, printed
from tempermark.web.pressure.models import PressureSurvey, Pull, PullStation
from tempermark.web.recipes.materials.library import limits_of
from tempermark.web.recipes.models import Blank

# Without a session the lift is the maker's word, and the knob stands by feel: standard.
KNOWN_LIFT_SHARE, BY_FEEL_MM = 0.05, 0.35
# A hollow is one from this depth, or twice its own uncertainty, mm.
HOLLOW_FROM_MM = 0.25


def pad_of(press: Press) -> SpringPad:
    """The pad of a press, its stiffness as contact readings with a known knob taught it."""
    pad = usual_pad(press.pad or "silicone", press.pad_mm)
    knob = knob_of(press)
    if knob is None or knob.zero_clockwise is None:
        return pad
    for reading in queries.contact_readings(press):
        if reading.position_turns is None or reading.stack_mm is None:
            continue
        pressed_mm = knob.lift_mm_per_turn * reading.position_turns + reading.stack_mm
        if pressed_mm > 0.1:
            share = READING_SHARE[reading.means]
            pad = learned_pad(pad, np.array([pressed_mm]), np.array([reading.contact_kpa]), share)
    return pad


def knob_of(press: Press, when: datetime | None = None) -> Knob | None:
    """The knob as a session before a moment (now) learned it, else as the register tells it; None
    for neither.
    """
    lesson = queries.lesson(press, when)
    if lesson is not None:
        return Knob(
            lesson.lift_mm_per_turn,
            lesson.tightens,
            lesson.lift_sd_mm,
            lesson.zero_clockwise,
            lesson.zero_sd_turns,
        )
    if not press.lift_mm_per_turn or not press.tightens:
        return None
    lift = press.lift_mm_per_turn
    return Knob(lift, press.tightens, KNOWN_LIFT_SHARE * lift, None, BY_FEEL_MM / lift)


def scale_of(press: Press) -> ScaleCurve:
    """The curve of a 1 to 9 readout from the press's readings."""
    rows = [r for r in queries.contact_readings(press) if r.figure is not None]
    return learn_scale(
        np.array([r.figure for r in rows]),
        np.array([r.contact_kpa for r in rows]),
        np.array([READING_SHARE[r.means] for r in rows]),
    )


def is_rigid(blank: Blank) -> bool:
    """Whether it carries the force alone."""
    return blank.kind in RIGID_KINDS


def size_of(blank: Blank) -> tuple[float, float] | None:
    """Width and height in mm where both are noted."""
    if blank.width_mm is None or blank.height_mm is None:
        return None
    return blank.width_mm, blank.height_mm


def usual_layers(blank: Blank) -> int:
    """How many of its layers lie in the press as it comes: a garment's front and back."""
    return 2 if blank.kind in TWO_LAYERED else 1


def thickness_mm(blank: Blank) -> float:
    """Of one layer."""
    return blank.thickness_mm or UNKNOWN_MM


def limit_kpa(blank: Blank) -> float | None:
    """The contact it stands at most: its own limit, else that of its kind."""
    return limits_of(blank).limit_kpa or KIND_LIMIT_KPA.get(blank.kind)


@dataclass(frozen=True)
class Mapped:
    """A pressure survey computed: its map, level in words' figures, and verdict; how deep strips
    found the middle, in mm, with its standard deviation.
    """

    survey: PressureSurvey
    map: PressureMap | None
    right_mm: float
    right_sd_mm: float
    back_mm: float
    back_sd_mm: float
    hollow: Hollow | None
    verdict: str
    weak_side: str | None
    contact: Range
    pull: PullResult | None = None
    strips: int = 0
    pressed: ScannedPrint | None = None
    standing: StandingStrips | None = None
    middle_mm: float | None = None
    middle_sd_mm: float | None = None

    @property
    def name(self) -> str:
        """The class of the mean contact pressure."""
        return class_of(self.contact.value)

    @property
    def is_too_early(self) -> bool:
        """Whether a known press needs more strips before anything is said of it."""
        if self.standing is None or self.standing.is_enough:
            return False
        return self.survey.finished_at is None or self.verdict == "undecided"


def compute(survey: PressureSurvey) -> Mapped | None:
    """A survey from its live strips or its print; None before there is anything."""
    if survey.kind == "print":
        return _of_print(survey)
    stations = queries.stations(survey)
    read = [(s, s.held) for s in stations if s.held is not None]
    if not read:
        return None
    return _of_strips(survey, read, remembered.standing(survey, stations))


def _of_strips(
    survey: PressureSurvey,
    read: list[tuple[PullStation, Pull]],
    standing: StandingStrips | None,
) -> Mapped:
    element = survey.element
    size = (element.width_mm, element.height_mm)
    place = np.array([[s.x_mm, s.y_mm] for s, _ in read], float)
    pulls = [held.pull for _, held in read]
    if standing is None:
        summary = pull_survey(*size, place, np.array([PULL_STEPS[p] for p in pulls]))
        found = map_strips(place, pulls, pad_then(survey), size)
        enough = len(read) >= 4 and summary.tilt is not None
    else:
        summary, found, enough = standing.pull, resolved(standing.recalled), True
    verdict = summary.verdict
    if standing is not None and not standing.is_enough and verdict == "pass":
        # So far it would rest on memory alone.
        verdict = "undecided"
    hollow = None
    if summary.hollow:
        depth = max(found.hollow_mm, HOLLOW_FROM_MM)
        hollow = Hollow(size[0] / 2, size[1] / 2, depth, size[0] / 4, size[1] / 4)
    side = summary.weak_side if summary.weak_side != "none" else None
    return Mapped(
        survey,
        found.map if enough else None,
        found.right_mm,
        found.right_sd_mm,
        found.back_mm,
        found.back_sd_mm,
        hollow,
        verdict,
        side,
        _mean_of(found) if enough else pulled_class(pulls).contact_kpa,
        pull=summary,
        strips=len(read),
        standing=standing,
        middle_mm=found.hollow_mm,
        middle_sd_mm=found.hollow_sd_mm,
    )


def _mean_of(found: ResolvedPulls) -> Range:
    """Mean contact over the map, with the level's own uncertainty."""
    moved = np.array([0.0, -2.0, 2.0]) * found.mean_sd_mm
    means = [
        float(found.map.pad.pressure_kpa(found.map.compression_mm + by).mean()) for by in moved
    ]
    return Range(*means)


def _of_print(survey: PressureSurvey) -> Mapped:
    element = survey.element
    size = (element.width_mm, element.height_mm)
    found, curve, summary = printed(survey)
    level = fit_level(found.places_mm, summary.low_mm, summary.high_mm, summary.sd_mm, size)
    return Mapped(
        survey,
        print_map(found, summary, pad_then(survey)),
        level.right_mm,
        level.right_sd_mm,
        level.back_mm,
        level.back_sd_mm,
        level.hollow,
        _print_verdict(level, summary),
        level.weak_side,
        around(summary.mean_kpa, curve.share),
        pressed=summary,
    )


def _print_verdict(level: Level, summary: ScannedPrint) -> str:
    """fail with a side or a hollow that is weak or a place without contact, else pass."""
    weak = level.weak_side is not None or summary.blank_share > 0.01
    deep = level.hollow is not None and level.hollow.depth_mm >= HOLLOW_FROM_MM
    return "fail" if weak or deep else "pass"


def print_map(found: Print, summary: ScannedPrint, pad: SpringPad) -> PressureMap:
    """The print's own cells as a map; where the film was full, its least."""
    rows, columns = found.darkness.shape
    grid = Grid(found.width_mm, found.height_mm, columns, rows)
    compression = np.where(np.isfinite(summary.low_mm), summary.low_mm, 0.0)
    return PressureMap(grid, pad, grid.shaped(compression), grid.shaped(summary.sd_mm))
