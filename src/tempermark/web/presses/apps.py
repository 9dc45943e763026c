"""Django's record of this app."""

from django.apps import AppConfig


class PressesConfig(AppConfig):
    """The app `presses`."""

    name = "tempermark.web.presses"
    label = "presses"
    default_auto_field = "django.db.models.BigAutoField"
