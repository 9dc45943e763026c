"""What of the record is looked for."""

from datetime import datetime, time, timedelta
from typing import Any

from django import forms
from django.utils import timezone

from tempermark.web.accounts.models import User
from tempermark.web.kit.forms.moments import DayField


class AuditForm(forms.Form):
    """The filters; what is wrong in one narrows nothing."""

    q = forms.CharField(
        label="Words", required=False, max_length=80, help_text="act, name, or what was typed"
    )
    who = forms.ModelChoiceField(
        User.objects.order_by("username"), label="Person", required=False, empty_label="anybody"
    )
    first = DayField(label="From", required=False, widget=forms.DateInput(attrs={"type": "date"}))
    last = DayField(label="To", required=False, widget=forms.DateInput(attrs={"type": "date"}))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)

    def filters(self) -> dict[str, Any]:
        """Clean values, days as moments of the room's clock; to the end of the last day."""
        self.is_valid()
        data = dict(self.cleaned_data)
        for name, more in (("first", 0), ("last", 1)):
            day = data.get(name)
            if day is not None:
                data[name] = timezone.make_aware(
                    datetime.combine(day + timedelta(days=more), time())
                )
        return data
