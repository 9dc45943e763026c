"""Django's record of this app."""

from django.apps import AppConfig


class RunConfig(AppConfig):
    """The app `run`."""

    name = "tempermark.web.run"
    label = "run"
    default_auto_field = "django.db.models.BigAutoField"
