"""Django's record of this app."""

from django.apps import AppConfig


class MeasureConfig(AppConfig):
    """The app `measure`."""

    name = "tempermark.web.measure"
    label = "measure"
    default_auto_field = "django.db.models.BigAutoField"
