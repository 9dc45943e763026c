"""Django's record of this app."""

from django.apps import AppConfig


class OverviewConfig(AppConfig):
    """The app `overview`."""

    name = "tempermark.web.overview"
    label = "overview"
    default_auto_field = "django.db.models.BigAutoField"
