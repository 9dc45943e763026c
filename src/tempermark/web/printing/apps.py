"""Django's record of this app."""

from django.apps import AppConfig


class PrintingConfig(AppConfig):
    """The app `printing`."""

    name = "tempermark.web.printing"
    label = "printing"
    default_auto_field = "django.db.models.BigAutoField"
