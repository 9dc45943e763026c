"""Invitations, roles and passwords."""

from typing import Any

from django import forms
from django.contrib.auth.password_validation import validate_password

from tempermark.web.accounts.models import Role, User


def _password(label: str, complete: str, help_text: str = "") -> forms.CharField:
    widget = forms.PasswordInput(attrs={"autocomplete": complete})
    return forms.CharField(
        label=label, max_length=200, strip=False, widget=widget, help_text=help_text
    )


class InviteForm(forms.Form):
    """Who is to be invited."""

    role = forms.ChoiceField(label="As", choices=Role.choices, initial=Role.TECHNICIAN)


class NewPasswordForm(forms.Form):
    """Another password, by a link."""

    password = _password("New password", "new-password", "10 characters or more")

    def __init__(self, *args: Any, person: User, **kwargs: Any) -> None:
        super().__init__(*args, **{"label_suffix": ""} | kwargs)
        self.person = person

    def clean_password(self) -> str:
        """Long enough, and not one that everybody guesses."""
        password = str(self.cleaned_data["password"])
        validate_password(password, self.person)
        return password


class OwnPasswordForm(NewPasswordForm):
    """Another password of one's own."""

    old = _password("Password until now", "current-password")
    field_order = ("old", "password")

    def clean_old(self) -> str:
        """It is theirs."""
        old = str(self.cleaned_data["old"])
        if not self.person.check_password(old):
            raise forms.ValidationError("This is not your password.")
        return old
