"""Planning arms: pressures, comparisons and factorials, in blocks and in random order."""

from typing import Any

import numpy as np
from django import forms

from tempermark.core.experiments.plans import ExperimentPlan, comparison, factorial
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.web.experiments.ladders.actions import PressToPlan
from tempermark.web.experiments.ladders.engine import same_dials
from tempermark.web.experiments.ladders.forms import (
    MOST_ARMS,
    MOST_REPEATS,
    PRESSURES,
    ExperimentForm,
    SearchForm,
    TemperatureLadderForm,
    TimeLadderForm,
)
from tempermark.web.experiments.models import ExperimentKind
from tempermark.web.kit.forms.fields import DwellField, TemperatureField
from tempermark.web.presses.models import Element
from tempermark.web.run.pieces.forms import HIGH_DIAL_C, LONGEST_S, LOW_DIAL_C


class HeldForm(ExperimentForm):
    """Experiments at one dial and dwell."""

    set_c = TemperatureField(label="Setting on the dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    dwell_s = DwellField(label="Dwell", low=0.5, high=LONGEST_S)
    repeats = forms.IntegerField(
        label="Pieces of each", min_value=1, max_value=MOST_REPEATS, initial=2
    )

    def clean(self) -> dict[str, Any]:
        """A plan that can be pressed."""
        data = super().clean()
        if not self.errors:
            self.plan = self.checked(self._plan)
        return data

    def _plan(self) -> ExperimentPlan:
        raise NotImplementedError


class PressureLadderForm(HeldForm):
    """The classes of pressure against each other."""

    pressures = forms.MultipleChoiceField(
        label="Pressures",
        choices=PRESSURES,
        widget=forms.CheckboxSelectMultiple,
        initial=list(PRESSURE_CLASSES),
    )

    def _plan(self) -> ExperimentPlan:
        data = self.cleaned_data
        return comparison("pressures", data["pressures"], data["repeats"], self.rng)

    def presses(self) -> list[PressToPlan]:
        """Every class once in each block."""
        data = self.cleaned_data
        rows = [(str(p.levels["pressures"]), p) for p in self.plan.presses]
        return [
            PressToPlan(self.element, data["set_c"], data["dwell_s"], name, name, p.block, p.scrap)
            for name, p in rows
        ]


class ArmsForm(HeldForm):
    """Two papers, three presses, with and without a coat: arms in blocks, in random order."""

    factor = forms.CharField(label="What differs", max_length=60, initial="paper")
    arms = forms.CharField(
        label="Arms, one to a line",
        required=False,
        max_length=1200,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text="two papers, with and without a coat",
    )
    others = forms.ModelMultipleChoiceField(
        label="Or compare presses: this one and",
        queryset=Element.objects.none(),
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )
    pressure = forms.ChoiceField(choices=PRESSURES)

    def __init__(self, *args: Any, offered: list[Element], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        others: Any = self.fields["others"]
        keys = [e.pk for e in offered if e.pk != self.element.pk]
        others.queryset = Element.objects.filter(pk__in=keys).select_related("press")
        others.label_from_instance = lambda element: element.press.name

    def clean_arms(self) -> list[str]:
        """The names that were typed."""
        names = [n.strip()[:80] for n in self.cleaned_data["arms"].splitlines() if n.strip()]
        if len(names) > MOST_ARMS:
            raise forms.ValidationError(f"At most {MOST_ARMS} arms.")
        return names

    def _names(self) -> list[str]:
        others = list(self.cleaned_data["others"])
        if others:
            return [e.press.name for e in [self.element, *others]]
        return self.cleaned_data["arms"]

    def _plan(self) -> ExperimentPlan:
        return comparison("arms", self._names(), self.cleaned_data["repeats"], self.rng)

    def presses(self) -> list[PressToPlan]:
        """Every arm once in each block; on another press with the dial that gives the same."""
        data = self.cleaned_data
        by_name = {e.press.name: e for e in [self.element, *data["others"]]}
        dials = same_dials(self.element, data["set_c"], data["others"])
        rows = []
        for p in self.plan.presses:
            name = str(p.levels["arms"])
            element = by_name.get(name, self.element) if data["others"] else self.element
            rows.append(
                PressToPlan(
                    element,
                    dials[element.pk],
                    data["dwell_s"],
                    data["pressure"],
                    name,
                    p.block,
                    p.scrap,
                )
            )
        return rows

    def fields_of_experiment(self) -> dict[str, Any]:
        """With what the arms are of."""
        of = "press" if self.cleaned_data["others"] else self.cleaned_data["factor"]
        return super().fields_of_experiment() | {"factor": of}


class FactorialForm(ExperimentForm):
    """Every combination of dials, dwells and pressures."""

    low = TemperatureField(label="Lowest dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    high = TemperatureField(label="Highest dial", low=LOW_DIAL_C, high=HIGH_DIAL_C)
    dials = forms.IntegerField(label="Dials", min_value=1, max_value=6, initial=2)
    low_s = DwellField(label="Shortest dwell", low=0.5, high=LONGEST_S)
    high_s = DwellField(label="Longest dwell", low=0.5, high=LONGEST_S)
    dwells = forms.IntegerField(label="Dwells", min_value=1, max_value=6, initial=2)
    pressures = forms.MultipleChoiceField(
        label="Pressures", choices=PRESSURES, widget=forms.CheckboxSelectMultiple
    )
    repeats = forms.IntegerField(
        label="Pieces of each", min_value=1, max_value=MOST_REPEATS, initial=1
    )

    def clean(self) -> dict[str, Any]:
        """A plan that can be pressed."""
        data = super().clean()
        if not self.errors:
            self.plan = self.checked(self._plan)
        return data

    def _plan(self) -> ExperimentPlan:
        data = self.cleaned_data
        factors: dict[str, Any] = {
            "dials": [
                round(float(v), 1) for v in np.linspace(data["low"], data["high"], data["dials"])
            ],
            "dwells": [
                round(float(v), 1)
                for v in np.linspace(data["low_s"], data["high_s"], data["dwells"])
            ],
        }
        if len(data["pressures"]) > 1:
            factors["pressures"] = data["pressures"]
        return factorial(factors, data["repeats"], self.rng)

    def presses(self) -> list[PressToPlan]:
        """Every combination once in each block."""
        one = self.cleaned_data["pressures"][0]
        return [
            PressToPlan(
                self.element,
                float(p.levels["dials"]),
                float(p.levels["dwells"]),
                str(p.levels.get("pressures", one)),
                block=p.block,
                scrap=p.scrap,
            )
            for p in self.plan.presses
        ]


FORMS: dict[str, type[ExperimentForm]] = {
    ExperimentKind.SEARCH: SearchForm,
    ExperimentKind.TIME: TimeLadderForm,
    ExperimentKind.TEMPERATURE: TemperatureLadderForm,
    ExperimentKind.PRESSURE: PressureLadderForm,
    ExperimentKind.COMPARISON: ArmsForm,
    ExperimentKind.FACTORIAL: FactorialForm,
}
