"""Planning an experiment: what is held, what is varied, how often, in which order."""

from collections.abc import Callable
from typing import Any

import numpy as np
from django import forms

from tempermark.core.constants import DWELL_LIMIT_S
from tempermark.core.errors import InputError
from tempermark.core.experiments.plans import (
    BOTH,
    DOWN,
    UP,
    ExperimentPlan,
    ladder,
)
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.experiments.ladders.actions import PressToPlan
from tempermark.web.kit.forms.fields import DwellField, TemperatureField, UnitForm
from tempermark.web.kit.wording import error_text
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.choice import ShopBlankField
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.pieces.forms import HIGH_DIAL_C, LONGEST_S, LOW_DIAL_C

MOST_RUNGS, MOST_REPEATS, MOST_ARMS = 20, 10, 12
# A ladder is drawn, and thought about, over a window about it: K to each side, and as factors.
AROUND_K, AROUND_LOW, AROUND_HIGH = 12.0, 0.4, 1.8
PRESSURES = [(name, name) for name in PRESSURE_CLASSES]
DIRECTIONS = [(UP, "upwards"), (DOWN, "downwards"), (BOTH, "from the middle to both sides")]


class ExperimentForm(UnitForm):
    """What every experiment says: blank, question."""

    blank = ShopBlankField(queryset=Blank.objects.all(), label="Blank", empty_label="choose")
    question = forms.CharField(label="What you want to know", required=False, max_length=200)

    def __init__(
        self, *args: Any, version: RecipeVersion, element: Element, seed: int, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.version, self.element, self.seed = version, element, seed
        blank = self.fields["blank"]
        if isinstance(blank, ShopBlankField):
            blank.offer(version, element)

    @property
    def rng(self) -> np.random.Generator:
        """The order of this form: the same however often it is sent."""
        return np.random.default_rng(self.seed)

    def checked(self, build: Callable[[], Any]) -> Any:
        """What a plan refuses is an error of its field; None then."""
        try:
            return build()
        except InputError as error:
            problem = error.problems[0]
            name = problem.path if problem.path in self.fields else None
            self.add_error(name, error_text(error, self.units))
            return None

    def presses(self) -> list[PressToPlan]:
        """The presses it plans, once valid."""
        raise NotImplementedError

    def fields_of_experiment(self) -> dict[str, Any]:
        """Values by field of an experiment, once valid: the window is about what is pressed."""
        rows = self.presses()
        dials, dwells = [p.set_c for p in rows], [p.dwell_s for p in rows]
        data = self.cleaned_data
        pressures = [p.pressure for p in rows]
        own = self.version.pressure
        return {
            "blank": data["blank"],
            "question": data["question"],
            "low_c": min(dials) - AROUND_K,
            "high_c": max(dials) + AROUND_K,
            "low_s": max(0.5, min(dwells) * AROUND_LOW),
            "high_s": min(DWELL_LIMIT_S, max(dwells) * AROUND_HIGH),
            "pressure": own if own in pressures else pressures[0],
        }


class LadderForm(ExperimentForm):
    """A ladder of one factor; subclasses say which."""

    factor = ""
    rungs = forms.IntegerField(label="Rungs", min_value=1, max_value=MOST_RUNGS, initial=5)
    direction = forms.ChoiceField(choices=DIRECTIONS)
    repeats = forms.IntegerField(label="Times over", min_value=1, max_value=MOST_REPEATS, initial=1)

    def clean(self) -> dict[str, Any]:
        """A plan that can be pressed."""
        data = super().clean()
        if not self.errors:
            self.plan = self.checked(self._plan)
        return data

    def _plan(self) -> ExperimentPlan:
        data = self.cleaned_data
        return ladder(
            self.factor,
            data["low"],
            data["high"],
            data["rungs"],
            data["direction"],
            data.get("one_scrap", False),
            data["repeats"],
        )


class TimeLadderForm(LadderForm):
    """Dwells at one dial."""

    factor = "dwell_s"
    set_c = TemperatureField(label="Setting on the dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    low = DwellField(label="Shortest dwell", low=0.5, high=LONGEST_S)
    high = DwellField(label="Longest dwell", low=0.5, high=LONGEST_S)
    pressure = forms.ChoiceField(choices=PRESSURES)
    one_scrap = forms.BooleanField(
        label="On one scrap, uncovered step by step: it counts as one blank", required=False
    )

    def presses(self) -> list[PressToPlan]:
        """One for each rung."""
        data = self.cleaned_data
        return [
            PressToPlan(
                self.element,
                data["set_c"],
                round(float(p.levels["dwell_s"]), 1),
                data["pressure"],
                block=p.block,
                scrap=p.scrap,
            )
            for p in self.plan.presses
        ]


class TemperatureLadderForm(LadderForm):
    """Dials at one dwell."""

    factor = "set_c"
    dwell_s = DwellField(label="Dwell", low=0.5, high=LONGEST_S)
    low = TemperatureField(label="Lowest dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    high = TemperatureField(label="Highest dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    pressure = forms.ChoiceField(choices=PRESSURES)

    def presses(self) -> list[PressToPlan]:
        """One for each rung."""
        data = self.cleaned_data
        return [
            PressToPlan(
                self.element,
                round(float(p.levels["set_c"]), 1),
                data["dwell_s"],
                data["pressure"],
                block=p.block,
                scrap=p.scrap,
            )
            for p in self.plan.presses
        ]


class SearchForm(ExperimentForm):
    """A window, in which each next press is proposed."""

    low = TemperatureField(label="Dial from", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    high = TemperatureField(label="Dial to", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    low_s = DwellField(label="Dwell from", low=0.5, high=LONGEST_S)
    high_s = DwellField(label="Dwell to", low=0.5, high=LONGEST_S)
    pressure = forms.ChoiceField(choices=PRESSURES)

    def clean(self) -> dict[str, Any]:
        """The window in its order."""
        data = super().clean()
        for low, high in (("low", "high"), ("low_s", "high_s")):
            if data.get(low) and data.get(high) and data[low] >= data[high]:
                self.add_error(high, "The end of the window must be above its beginning.")
        return data

    def presses(self) -> list[PressToPlan]:
        """None yet: each is proposed from what the ones before have shown."""
        return []

    def fields_of_experiment(self) -> dict[str, Any]:
        """The window as it was typed."""
        data = self.cleaned_data
        return {
            "blank": data["blank"],
            "question": data["question"],
            "low_c": data["low"],
            "high_c": data["high"],
            "low_s": data["low_s"],
            "high_s": data["high_s"],
            "pressure": data["pressure"],
        }
