"""From an experiment to the search engine and back: true temperatures for it, dials for people."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from django.utils import timezone

from tempermark.core.experiments.search import ScoredPress
from tempermark.core.experiments.sheet import FittedCurve, LadderAnswer, answer, fitted_curve
from tempermark.core.experiments.surface import PressTables, press_tables
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.experiments.models import Experiment, ExperimentKind, PlannedPress
from tempermark.web.measure.press.press_temperature import PressTemperature, press_temperature
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.run.models import TestPress
from tempermark.web.run.pieces.queries import under_art

# A display that nobody surveyed is known to so much, standard, K (commands.md: 6 K at k = 2).
UNSURVEYED_SD_K = 3.0
# Beside the map itself: where on the platen the scrap lies, and the press's own scatter, K.
PLACING_SD_K = 0.8
# Scores of a piece → what the search reads: the first that was given.
DENSITY_SCORES = ("black", "colour")
BOND_SCORES = ("bond",)
OVERDONE_SCORES = ("marks",)
# Windows wider than the tables are looked at within them.
TABLE_EDGE_C = (121.0, 249.0)


@dataclass(frozen=True)
class SheetEngine:
    """An experiment with what is known of its press; None for `tables` where the recipe's stack is
    not known well enough for the physics to say anything.
    """

    experiment: Experiment
    tables: PressTables | None
    known: PressTemperature | None

    def true_c(self, set_c: float) -> float:
        """What a dial gives, as far as is known."""
        return float(self.known.line.true_c(set_c)) if self.known else set_c

    def dial_c(self, true_c: float) -> float:
        """The dial for a true temperature."""
        return self.known.dial_for(true_c).set_c if self.known else true_c

    @property
    def display_sd_k(self) -> float:
        """How well a dial's true temperature is known, standard."""
        if self.known is None:
            return UNSURVEYED_SD_K
        middle = (self.experiment.low_c + self.experiment.high_c) / 2
        own = float(self.known.line.standard_uncertainty_c(middle))
        return round(float(np.hypot(own, PLACING_SD_K)), 2)

    @property
    def window(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """True °C and dwells in s."""
        warm, dwell = self.experiment.window
        low, high = (float(np.clip(self.true_c(c), *TABLE_EDGE_C)) for c in warm)
        return (low, high), dwell

    @cached_property
    def planned(self) -> list[PlannedPress]:
        """Its presses in order, with what was pressed."""
        rows = self.experiment.planned_presses.select_related(
            "test_press__piece", "test_press__element__press", "element__press", "run"
        )
        return list(rows.prefetch_related("run__test_presses__piece", "test_press__marks"))

    @cached_property
    def tested(self) -> tuple[ScoredPress, ...]:
        """What was scored at the experiment's own pressure, in true °C."""
        rows = [
            self.scored(press)
            for plan in self.planned
            if plan.pressure == self.experiment.pressure and (press := plan.pressed)
        ]
        return tuple(row for row in rows if row is not None)

    @property
    def has_other_pressures(self) -> bool:
        """Whether presses at other pressures are planned, which the answer leaves out."""
        return any(plan.pressure != self.experiment.pressure for plan in self.planned)

    def scored(self, press: TestPress) -> ScoredPress | None:
        """A press as the search reads it; None while nothing of it was scored."""
        density, overdone = scores_of(press, self.is_bond)
        if density is None and overdone is None:
            return None
        heat = under_art(press)
        true_c = heat.mean_c if heat else self.true_c(press.set_c)
        return ScoredPress(true_c, press.dwell_s, density, overdone)

    @property
    def is_bond(self) -> bool:
        """Whether a bond is scored, not a density."""
        return self.tables is not None and not self.tables.pressed.is_dye

    @cached_property
    def answer(self) -> LadderAnswer | None:
        """What the scores say, dials as people set them; None without the physics."""
        if self.tables is None or not self.is_over_settings:
            return None
        found = answer(self.tables, self.window, self.tested, self.display_sd_k)
        return self._on_dials(found)

    @property
    def is_over_settings(self) -> bool:
        """Whether its presses differ in dial or dwell, so that a setting can be found."""
        kind = self.experiment.kind
        return kind not in (ExperimentKind.COMPARISON, ExperimentKind.PRESSURE)

    def _on_dials(self, found: LadderAnswer) -> LadderAnswer:
        result = found.result
        best = replace(result.best, set_c=self.dial_c(result.best.set_c))
        after = result.next_press and replace(
            result.next_press, set_c=self.dial_c(result.next_press.set_c)
        )
        region = tuple(replace(one, set_c=self._set_c(one.set_c)) for one in result.region)
        shown = replace(result, best=best, next_press=after, region=region)
        low, high = (self.dial_c(c) for c in found.dials_c)
        return replace(found, result=shown, dials_c=(low, high))

    def _set_c(self, true_c: float) -> float:
        """The dial to the line, without the steps of the display: for drawing."""
        if self.known is None:
            return true_c
        line = self.known.line
        return line.anchor_set_c + (true_c - line.anchor_true_c) / line.gain

    def curve(self, factor: str, fixed: float) -> FittedCurve | None:
        """The curve along the dial (`set_c`) or the dwell (`time_s`), the other one held."""
        if self.tables is None:
            return None
        held = self.true_c(fixed) if factor == "time_s" else fixed
        found = fitted_curve(self.tables, self.window, self.tested, self.display_sd_k, factor, held)
        if factor == "set_c":
            return replace(found, values=np.array([self._set_c(v) for v in found.values]))
        return found


def scores_of(press: TestPress, is_bond: bool) -> tuple[int | None, int | None]:
    """What the search reads of a press: density or bond, and overdone, 1 to 5."""
    names = BOND_SCORES if is_bond else DENSITY_SCORES
    density = next((press.scores[n] for n in names if n in press.scores), None)
    overdone = next((press.scores[n] for n in OVERDONE_SCORES if n in press.scores), None)
    return density, overdone


def engine_of(experiment: Experiment) -> SheetEngine:
    """An experiment's engine, as its press is known now."""
    version = experiment.recipe
    pressure = experiment.pressure if experiment.pressure in PRESSURE_CLASSES else "medium"
    blank = core_blank(experiment.blank, shop_materials())
    tables = press_tables(version.sheet, blank, pressure)
    return SheetEngine(experiment, tables, known_of(experiment.element))


def known_of(element: Element) -> PressTemperature | None:
    """What is known of an element now."""
    return press_temperature(element, timezone.now())


def same_dials(element: Element, set_c: float, others: Iterable[Element]) -> dict[int, float]:
    """Pk of an element → the dial that gives what a dial, °C, gives on the first; the same dial on
    one that nobody surveyed.
    """
    known = known_of(element)
    true_c = float(known.line.true_c(set_c)) if known else set_c
    dials = {element.pk: set_c}
    for other in others:
        theirs = known_of(other)
        dials[other.pk] = theirs.dial_for(true_c).set_c if theirs else true_c
    return dials
