"""Hours of a person, and how the shop plans."""

from typing import Any

from django import forms

from tempermark.web.accounts.models import Role, User
from tempermark.web.planning.models import WEEKDAYS, OverdueRule

WORKING_WEEK = ["0", "1", "2", "3", "4"]


def _clock(label: str, required: bool = True) -> forms.TimeField:
    widget = forms.TimeInput(attrs={"type": "time"}, format="%H:%M")
    return forms.TimeField(label=label, required=required, widget=widget)


class HoursForm(forms.Form):
    """When a person tends presses."""

    person = forms.ModelChoiceField(
        queryset=User.objects.filter(is_active=True, role__in=(Role.TECHNICIAN, Role.LEAD)),
        label="Who",
        empty_label="choose",
    )
    weekdays = forms.TypedMultipleChoiceField(
        label="On",
        choices=list(enumerate(WEEKDAYS)),
        coerce=int,
        initial=WORKING_WEEK,
        widget=forms.CheckboxSelectMultiple,
    )
    begins = _clock("From")
    ends = _clock("To")
    break_begins = _clock("Break from", required=False)
    break_ends = _clock("Break to", required=False)

    def clean(self) -> dict[str, Any]:
        """A break has both ends and lies within the hours."""
        super().clean()
        data = self.cleaned_data
        begins, ends = data.get("begins"), data.get("ends")
        if begins is not None and begins == ends:
            self.add_error("ends", "The hours end when they begin.")
        away, back = data.get("break_begins"), data.get("break_ends")
        if (away is None) != (back is None) and not self.errors:
            self.add_error("break_ends", "A break needs both times, or none.")
        if away and back and begins and ends:
            order = [_minutes_after(begins, clock) for clock in (away, back, ends)]
            if not 0 < order[0] < order[1] < order[2]:
                self.add_error("break_begins", "The break does not lie within the hours.")
        return data


def _minutes_after(begins: Any, clock: Any) -> int:
    minutes = (clock.hour - begins.hour) * 60 + clock.minute - begins.minute
    return minutes % (24 * 60)


class RulesForm(forms.Form):
    """How the shop plans."""

    overdue = forms.ChoiceField(
        label="Presses whose survey is overdue or missing", choices=OverdueRule.choices
    )
