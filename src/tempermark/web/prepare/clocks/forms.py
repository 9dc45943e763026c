"""A clock of one's own."""

from django import forms

from tempermark.web.kit.forms.fields import DwellField, UnitForm


class ClockForm(UnitForm):
    """A name and a wait: `12 min`, `1:30`, `90`."""

    name = forms.CharField(label="What for", max_length=60)
    seconds = DwellField(label="How long", low=1, high=14 * 24 * 3600)
