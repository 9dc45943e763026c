"""Django's record of this app."""

from django.apps import AppConfig


class ExperimentsConfig(AppConfig):
    """The app `experiments`."""

    name = "tempermark.web.experiments"
    label = "experiments"
    default_auto_field = "django.db.models.BigAutoField"
