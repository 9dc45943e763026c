"""Django's record of this app."""

from django.apps import AppConfig


class HeatConfig(AppConfig):
    """The app `heat`."""

    name = "tempermark.web.heat"
    label = "heat"
    default_auto_field = "django.db.models.BigAutoField"
