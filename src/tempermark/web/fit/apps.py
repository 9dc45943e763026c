"""The app's configuration."""

from django.apps import AppConfig


class FitConfig(AppConfig):
    """Pressure and fit."""

    name = "tempermark.web.fit"
    default_auto_field = "django.db.models.BigAutoField"
