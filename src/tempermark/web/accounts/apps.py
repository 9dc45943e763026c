"""Django's record of this app."""

import importlib

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """The app `accounts`."""

    name = "tempermark.web.accounts"
    label = "accounts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Sessions are noted from now on, and passwords that open a PIN again."""
        importlib.import_module("tempermark.web.accounts.people.sessions")
        importlib.import_module("tempermark.web.accounts.pins.tablets")
