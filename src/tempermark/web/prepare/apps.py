"""Django's record of this app."""

from django.apps import AppConfig


class PrepareConfig(AppConfig):
    """The app `prepare`."""

    name = "tempermark.web.prepare"
    label = "prepare"
    default_auto_field = "django.db.models.BigAutoField"
