"""Who signs up, and in which units."""

from dataclasses import asdict
from typing import Any

from django import forms
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.validators import UnicodeUsernameValidator

from tempermark.web.accounts.models import User
from tempermark.web.kit.units import IMPERIAL, METRIC

SYSTEMS = {"metric": METRIC, "imperial": IMPERIAL}


class SignUpForm(forms.Form):
    """Name, password, units."""

    name = forms.CharField(
        label="Your name",
        max_length=40,
        validators=[UnicodeUsernameValidator()],
        widget=forms.TextInput(attrs={"autocomplete": "username", "autofocus": True}),
        help_text="you sign in with it",
    )
    password = forms.CharField(
        label="Password",
        max_length=200,
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        help_text="10 characters or more",
    )
    units = forms.ChoiceField(
        label="You read and type",
        choices=[("metric", "°C, mm, kPa"), ("imperial", "°F, inches, psi")],
        widget=forms.RadioSelect,
        initial="metric",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)

    def clean_name(self) -> str:
        """A name that nobody has."""
        name = str(self.cleaned_data["name"])
        if User.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError(f"There is a {name} already: choose another name.")
        return name

    def clean_password(self) -> str:
        """Long enough, and not one that everybody guesses."""
        password = str(self.cleaned_data["password"])
        validate_password(password)
        return password

    def chosen_units(self) -> dict[str, str]:
        """Quantity → unit, once the form is valid."""
        return asdict(SYSTEMS[self.cleaned_data["units"]])
