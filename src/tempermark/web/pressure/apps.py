"""The app's configuration."""

from django.apps import AppConfig


class PressureConfig(AppConfig):
    """Pressure and fit."""

    name = "tempermark.web.pressure"
    default_auto_field = "django.db.models.BigAutoField"
