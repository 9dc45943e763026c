"""A PIN, and the name of a shared tablet."""

from typing import Any

from django import forms

from tempermark.web.accounts.models import User
from tempermark.web.accounts.pins.actions import LONGEST, SHORTEST


def _digits(complete: str) -> forms.PasswordInput:
    attrs = {"inputmode": "numeric", "autocomplete": complete, "pattern": "[0-9]*"}
    return forms.PasswordInput(attrs=attrs)


class PinForm(forms.Form):
    """One's own PIN; the password shows that it is oneself."""

    pin = forms.CharField(
        label="PIN",
        max_length=20,
        widget=_digits("off"),
        help_text=f"{SHORTEST} to {LONGEST} digits",
    )
    pin_password = forms.CharField(
        label="Your password",
        max_length=200,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}),
    )

    def __init__(self, *args: Any, person: User, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        self.person = person

    def clean_pin_password(self) -> str:
        """It is theirs."""
        password = str(self.cleaned_data["pin_password"])
        if not self.person.check_password(password):
            raise forms.ValidationError("This is not your password.")
        return password


class TabletForm(forms.Form):
    """What a shared tablet is called."""

    name = forms.CharField(label="Name", max_length=40, help_text="where it lies, say: bench 2")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
