"""Starting a run."""

from typing import Any

from django import forms

from tempermark.web.kit.forms.fields import UnitForm
from tempermark.web.prepare.jobs.forms import JobForm
from tempermark.web.run.models.runs import MOST_PER_LOAD

MOST_PLACINGS = 8


class RunLoadForm(UnitForm):
    """How many pieces lie under the platen together, and where each is printed."""

    per_load = forms.IntegerField(
        label="Pieces per load", min_value=1, max_value=MOST_PER_LOAD, initial=1
    )
    placings = forms.CharField(
        label="Places printed on each piece",
        required=False,
        max_length=200,
        help_text="only where one piece is pressed at several: front, side, back",
    )

    def clean_placings(self) -> tuple[str, ...]:
        """Names, one for each time that a piece goes round."""
        names = [name.strip() for name in self.cleaned_data["placings"].split(",") if name.strip()]
        if len(names) > MOST_PLACINGS:
            raise forms.ValidationError(f"At most {MOST_PLACINGS} places.")
        if len({name.lower() for name in names}) < len(names):
            raise forms.ValidationError("Each place needs a name of its own.")
        long = next((name for name in names if len(name) > 40), None)
        if long:
            raise forms.ValidationError(f"“{long[:20]}…” is over 40 characters.")
        return tuple(names)


class RunForm(RunLoadForm, JobForm):
    """A job and its run at once, from a recipe."""

    def fields_of_job(self) -> dict[str, Any]:
        """Values by field of a job, once the form is valid."""
        data = super().fields_of_job()
        return {k: v for k, v in data.items() if k not in RunLoadForm.base_fields}
